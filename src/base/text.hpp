// Small helpers for words and tables in messages to users.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace wavy {

/// The entry of `words` with the least edit distance to `word`; empty when none is near enough to be meant.
std::string nearest(std::string_view word, const std::vector<std::string>& words);

/// "a, b or c"
std::string listing(const std::vector<std::string>& words, std::string_view last_joint = "or");

/// Printed columns of UTF-8 text.
std::size_t printed_width(std::string_view text);

/// Rows of cells in aligned columns, two blanks between them; numbers (cells starting with a digit, sign or dot)
/// are not treated apart: the caller pads units into the cell.
std::string aligned(const std::vector<std::vector<std::string>>& rows, std::string_view indent = "  ");

/// Without blanks at both ends.
std::string_view trimmed(std::string_view text);

/// A value in an SI unit as an engineer would write it: quantity(0.0125, "m") = "12.5 mm".
std::string quantity(double value, std::string_view si_unit, int digits = 4);

/// Seconds as "0.8 s", "3 min 20 s", "2 h 5 min".
std::string duration(double seconds);

/// Text broken at blanks so that no line is longer than `width`; every line starts with `indent`.
std::string wrapped(std::string_view text, std::size_t width, std::string_view indent);

/// Whether names may have it: an ASCII letter, a digit or "_".
bool is_word_character(char c);

/// Whether a name stands in the text as a word of its own.
bool mentions_word(std::string_view text, std::string_view word);

/// Lower-case ASCII.
std::string lower(std::string_view text);

}  // namespace wavy
