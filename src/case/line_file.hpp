// A line as it stands in a case file.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// [[phase]], [[pair]], [line], [[leg]], [[source]], [[valve]], [outlet], [[gauge]] and [run] of a line, into the setup
/// of the case; [constants] and [tables] must have been read. Throws an input error for what cannot be.
void read_line_case(Sections& sections);

/// The [[gauge]] of a file that has nothing else, behind those of the setup of a line. Throws an input error for what
/// cannot be, or is known during the run alone.
void read_more_line_gauges(Sections& sections, CaseFile& the_case);

}  // namespace wavy
