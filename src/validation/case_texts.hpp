// Pieces of the text of cases that are run to see what comes out.
#pragma once

#include <stdexcept>
#include <string>

namespace wavy {

/// Phases of a case: water that carries bubbles of air.
inline std::string water_with_bubbles(const std::string& diameter) {
  return R"([[phase]]
name = "water"
fluid = "water"
[[phase]]
name = "air"
fluid = "air"
form = "bubbles"
diameter = ")" +
         diameter + "\"\n";
}

/// A gauge of a case; `keys`: what it needs beside, a line each.
inline std::string gauge_text(const std::string& name, const std::string& measures, const std::string& keys = "") {
  return "[[gauge]]\nname = \"" + name + "\"\nmeasures = \"" + measures + "\"\n" + keys;
}

/// Text with a piece that it must have put differently.
inline std::string changed(std::string text, const std::string& piece, const std::string& to) {
  const std::size_t at = text.find(piece);
  if (at == std::string::npos) throw std::logic_error("the case has no '" + piece + "'");
  return text.replace(at, piece.size(), to);
}

}  // namespace wavy
