// Pieces of cases that several tests build on.
#pragma once

#include <doctest/doctest.h>

#include <string>

/// A text with the first of a piece replaced, which must be there.
inline std::string replaced_once(std::string text, const std::string& old_text, const std::string& new_text) {
  const std::size_t at = text.find(old_text);
  REQUIRE(at != std::string::npos);
  return text.replace(at, old_text.size(), new_text);
}

/// Phases of the Eulerian model.
inline const std::string water_and_bubbles = R"([[phase]]
name = "water"
fluid = "water"
[[phase]]
name = "air"
fluid = "air"
form = "bubbles"
diameter = "4 mm"
)";
