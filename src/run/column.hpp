// Columns of the history.
#pragma once

#include <algorithm>
#include <array>
#include <string>

namespace wavy {

struct Column {
  std::string name;
  std::string unit;

  /// What it is called in a checkpoint; other than that of another quantity under the same name.
  [[nodiscard]] std::string archive_name() const {
    std::string text = name + " " + unit;
    std::replace(text.begin(), text.end(), '/', '_');
    return text;
  }
};

/// How the columns of the net flow, of what comes in and of what goes out end.
inline constexpr std::array<const char*, 3> flow_ways{"", "_in", "_out"};

/// Name of the column with the flow of a phase through an opening.
inline std::string flow_column(const std::string& opening, const std::string& phase, const std::string& way = "") {
  return opening + "_" + phase + way;
}

}  // namespace wavy
