// Pieces of cases that several tests build on.
#pragma once

#include <doctest/doctest.h>

#include <string>

#include "validation/case_texts.hpp"

/// A text with the first of a piece replaced, which must be there.
inline std::string replaced_once(std::string text, const std::string& old_text, const std::string& new_text) {
  const std::size_t at = text.find(old_text);
  REQUIRE(at != std::string::npos);
  return text.replace(at, old_text.size(), new_text);
}

/// A kettle open above, on cells of 12.5 mm, before what it holds.
inline const std::string open_kettle = R"(wavy = 1
[vessel]
shape = "cylinder"
diameter = "20 cm"
length = "24 cm"
[grid]
cell = "12.5 mm"
[[opening]]
name = "open_top"
side = "top"
pressure = "0 Pa"
)";

/// A paddle for it that gets going within a time.
inline std::string paddle(const std::string& within, const std::string& speed) {
  return "[[agitator]]\nname = \"stirrer\"\nspeed = \"ramp(t, 0 s, " + within + ", 0 rev/min, " + speed + ")\"\n" +
         R"([[impeller]]
name = "paddle"
diameter = "12 cm"
clearance = "8 cm"
blade_thickness = "2 cm"
)";
}

/// Phases of the Eulerian model.
inline const std::string water_and_bubbles = wavy::water_with_bubbles("4 mm");
