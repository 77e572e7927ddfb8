// A line as it stands in a case file.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// [[phase]], [[pair]], [line], [[leg]], [[source]], [[valve]], [outlet], [[gauge]] and [run] of a line, into the setup
/// of the case; [constants] and [tables] must have been read. Throws an input error for what cannot be.
void read_line_case(Sections& sections);

}  // namespace wavy
