// [constants] and [tables]: names of the user's own for formulas.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// Reads both into the names of the case, which all other sections may use.
void read_names(Sections& sections);

}  // namespace wavy
