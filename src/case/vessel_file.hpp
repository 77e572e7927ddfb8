// A vessel as it stands in a case file.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// [vessel] and all that belongs to it, into the setup of the case; [constants] and [tables] must have been read.
/// `geometry_only`: vessel, inserts and openings, without what fills them. Throws an input error for what cannot be.
void read_vessel_case(Sections& sections, bool geometry_only);

}  // namespace wavy
