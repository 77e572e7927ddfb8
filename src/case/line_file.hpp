// A line as it stands in a case file.
#pragma once

#include <functional>

#include "case/part.hpp"
#include "run/line_setup.hpp"

namespace wavy {

/// How the reader of a file hands out its sections.
struct Sections {
  std::function<Part(const std::string&)> section;
  std::function<void(const std::string&, const std::function<void(Part)>&)> each;
  Place top;  ///< of the file
};

/// [line], [[leg]], [[source]], [[valve]], [outlet], [[gauge]] and [run] of a line whose phases are known. Throws an
/// input error for what cannot be.
void read_line(const Sections& sections, const FormulaNames& names, LineSetup& setup);

}  // namespace wavy
