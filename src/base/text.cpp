#include "base/text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>
#include <utility>

namespace wavy {
namespace {

/// Levenshtein distance, with a swap of neighbours counted once.
std::size_t edit_distance(std::string_view a, std::string_view b) {
  std::vector<std::size_t> before(b.size() + 1), last(b.size() + 1), row(b.size() + 1);
  std::iota(last.begin(), last.end(), std::size_t{0});
  for (std::size_t i = 1; i <= a.size(); ++i) {
    row[0] = i;
    for (std::size_t j = 1; j <= b.size(); ++j) {
      row[j] = std::min({last[j] + 1, row[j - 1] + 1, last[j - 1] + (a[i - 1] == b[j - 1] ? 0 : 1)});
      if (i > 1 && j > 1 && a[i - 1] == b[j - 2] && a[i - 2] == b[j - 1]) row[j] = std::min(row[j], before[j - 2] + 1);
    }
    before = std::exchange(last, row);
  }
  return last[b.size()];
}

std::string trimmed_number(double value, int digits) {
  return fmt::format("{:.{}g}", value == 0 ? 0.0 : value, digits);  // never "-0"
}

}  // namespace

std::size_t printed_width(std::string_view text) {
  return static_cast<std::size_t>(
      std::count_if(text.begin(), text.end(), [](char c) { return (static_cast<unsigned char>(c) & 0xC0U) != 0x80U; }));
}

bool is_word_character(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_';
}

bool mentions_word(std::string_view text, std::string_view word) {
  for (std::size_t at = text.find(word); at != std::string_view::npos; at = text.find(word, at + 1)) {
    const std::size_t end = at + word.size();
    if ((at == 0 || !is_word_character(text[at - 1])) && (end >= text.size() || !is_word_character(text[end])))
      return true;
  }
  return false;
}

std::string lower(std::string_view text) {
  std::string result(text);
  for (char& c : result)
    if (c >= 'A' && c <= 'Z') c = static_cast<char>(c - 'A' + 'a');
  return result;
}

std::string nearest(std::string_view word, const std::vector<std::string>& words) {
  std::string best;
  const std::string wanted = lower(word.substr(0, 64));
  std::size_t least = std::max<std::size_t>(2, wanted.size() / 3) + 1;
  for (const auto& candidate : words) {
    const std::size_t distance = edit_distance(wanted, lower(candidate));
    if (distance < least) {
      least = distance;
      best = candidate;
    }
  }
  return best;
}

std::string listing(const std::vector<std::string>& words, std::string_view last_joint) {
  std::string text;
  for (std::size_t i = 0; i < words.size(); ++i) {
    if (i > 0) text += i + 1 == words.size() ? fmt::format(" {} ", last_joint) : ", ";
    text += words[i];
  }
  return text;
}

std::string aligned(const std::vector<std::vector<std::string>>& rows, std::string_view indent) {
  std::vector<std::size_t> widths;
  for (const auto& row : rows) {
    widths.resize(std::max(widths.size(), row.size()));
    for (std::size_t i = 0; i + 1 < row.size(); ++i) widths[i] = std::max(widths[i], printed_width(row[i]));
  }
  std::string text;
  for (const auto& row : rows) {
    text += indent;
    for (std::size_t i = 0; i < row.size(); ++i) {
      text += row[i];
      if (i + 1 < row.size()) text += std::string(widths[i] - printed_width(row[i]) + 2, ' ');
    }
    while (!text.empty() && text.back() == ' ') text.pop_back();
    text += '\n';
  }
  return text;
}

std::string_view trimmed(std::string_view text) {
  const auto is_blank = [](char c) { return c == ' ' || c == '\t'; };
  while (!text.empty() && is_blank(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_blank(text.back())) text.remove_suffix(1);
  return text;
}

std::string quantity(double value, std::string_view si_unit, int digits) {
  struct Scale {
    std::string_view si, shown;
    double factor, from;  // shown when |value| >= from (SI)
  };
  static constexpr std::array scales{
      Scale{"m", "km", 1e3, 1e4},         Scale{"m", "m", 1, 0.995},
      Scale{"m", "mm", 1e-3, 0.995e-3},   Scale{"m", "µm", 1e-6, 0},
      Scale{"s", "s", 1, 0.995},          Scale{"s", "ms", 1e-3, 0.995e-3},
      Scale{"s", "µs", 1e-6, 0},          Scale{"Pa", "bar", 1e5, 1e6},
      Scale{"Pa", "kPa", 1e3, 1e4},       Scale{"Pa.s", "Pa·s", 1, 0.5},
      Scale{"Pa.s", "mPa·s", 1e-3, 0},    Scale{"m3", "m³", 1, 0.995},
      Scale{"m3", "L", 1e-3, 0.995e-3},   Scale{"m3", "mL", 1e-6, 0},
      Scale{"m2/s", "mm²/s", 1e-6, 0},    Scale{"kg/m3", "kg/m³", 1, 0.0495},
      Scale{"m/s2", "m/s²", 1, 0},        Scale{"N/m", "mN/m", 1e-3, 0},
      Scale{"m2", "m²", 1, 0.0995},       Scale{"m2", "cm²", 1e-4, 0},
      Scale{"m3/s", "m³/s", 1, 0.0995},   Scale{"m3/s", "L/s", 1e-3, 0.0995e-3},
      Scale{"m3/s", "mL/s", 1e-6, 0},     Scale{"m/s", "m/s", 1, 0.0995},
      Scale{"m/s", "mm/s", 1e-3, 0.1e-3}, Scale{"kg/m3", "mg/L", 1e-3, 0},
      Scale{"kg", "kg", 1, 0.0995},       Scale{"kg", "g", 1e-3, 0.0995e-3},
      Scale{"kg", "mg", 1e-6, 0},
  };
  if (!std::isfinite(value)) return fmt::format("{} {}", value, si_unit);
  for (const auto& scale : scales) {
    if (scale.si == si_unit && value != 0 && std::abs(value) >= scale.from)
      return fmt::format("{} {}", trimmed_number(value / scale.factor, digits), scale.shown);
  }
  std::string_view shown = si_unit;
  for (const auto& scale : scales)
    if (scale.si == si_unit && scale.factor == 1) shown = scale.shown;
  return shown == "1" ? trimmed_number(value, digits) : fmt::format("{} {}", trimmed_number(value, digits), shown);
}

std::string duration(double seconds) {
  if (seconds < 59.95) return fmt::format("{:.{}f} s", seconds, seconds < 9.95 ? 1 : 0);
  const auto whole = static_cast<long long>(std::lround(std::min(seconds, 1e15)));
  if (whole < 3600) return fmt::format("{} min {} s", whole / 60, whole % 60);
  if (whole < 48 * 3600) return fmt::format("{} h {} min", whole / 3600, whole / 60 % 60);
  return fmt::format("{} days", whole / 86400);
}

std::string wrapped(std::string_view text, std::size_t width, std::string_view indent) {
  std::string result;
  std::string line(indent);
  bool empty = true;
  std::size_t at = 0;
  while (at < text.size()) {
    std::size_t end = text.find(' ', at);
    if (end == std::string_view::npos) end = text.size();
    const std::string_view word = text.substr(at, end - at);
    at = end + 1;
    if (word.empty()) continue;
    if (!empty && printed_width(line) + 1 + printed_width(word) > width) {
      result += line + "\n";
      line = indent;
      empty = true;
    }
    if (!empty) line += ' ';
    line += word;
    empty = false;
  }
  return result + line + "\n";
}

}  // namespace wavy
