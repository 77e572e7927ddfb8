// A vessel as it stands in a case file.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// [vessel] and all that belongs to it, into the setup of the case; [constants] and [tables] must have been read.
/// `geometry_only`: vessel, inserts and openings, without what fills them. Throws an input error for what cannot be.
void read_vessel_case(Sections& sections, bool geometry_only);

/// The [[gauge]] of a file that has nothing else, behind those of the setup of a vessel. Throws an input error for what
/// cannot be.
void read_more_gauges(Sections& sections, CaseFile& the_case);

}  // namespace wavy
