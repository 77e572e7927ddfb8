#include "case/toml_text.hpp"

#include <algorithm>
#include <system_error>
#include <utility>

#include "base/error.hpp"
#include "base/files.hpp"

namespace wavy {
namespace {

constexpr std::size_t longest_case_file = 1 << 20;

/// The first line with a key of more parts, or brackets, than any case has; 0 where there is none. Reading it would
/// take more of the stack than there is.
int line_of_deep_key(std::string_view text) {
  constexpr long most = 100;
  int line = 1;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find('\n'), text.size());
    const std::string_view key = text.substr(0, std::min(text.find('='), end));
    const auto marks = std::ranges::count_if(key, [](char c) { return c == '.' || c == '['; });
    if (marks > most) return line;
    text.remove_prefix(std::min(end + 1, text.size()));
    ++line;
  }
  return 0;
}

Error too_long(const std::filesystem::path& file) {
  return input_error({file.string(), 0, 0, ""}, "the file is larger than 1 MB: this is not a case file",
                     "give the name of a case file in TOML");
}

}  // namespace

toml::table parsed_toml(std::string_view text, const std::filesystem::path& file) {
  if (text.size() > longest_case_file) throw too_long(file);
  if (const int line = line_of_deep_key(text); line > 0)
    throw input_error({file.string(), line, 1, ""}, "a key of so many parts is none that a case has",
                      "write section and key, as in grid.cell");
  try {
    return toml::parse(text, file.string());
  } catch (const toml::parse_error& error) {
    const auto& at = error.source().begin;
    throw input_error({file.string(), static_cast<int>(at.line), static_cast<int>(at.column), ""},
                      std::string(error.description()),
                      "this is not valid TOML; text and quantities stand in quotation marks, as in cell = \"10 mm\"");
  }
}

std::string text_of(const std::filesystem::path& file) {
  std::error_code status;
  if (std::filesystem::is_directory(file, status))
    throw input_error({file.string(), 0, 0, ""}, "this is a folder, not a case file",
                      "give the name of a case file, such as tote.toml");
  auto text = read_file(file, longest_case_file);
  if (!text)
    throw is_longer_than(file, longest_case_file)
        ? too_long(file)
        : input_error({file.string(), 0, 0, ""}, "the case file cannot be read",
                      "check its name; 'wavy new' writes a first one");
  return std::move(*text);
}

}  // namespace wavy
