// Reading a phase's viscosity, and how it depends on temperature and shear rate.
#pragma once

#include "case/part.hpp"
#include "run/setup.hpp"

namespace wavy {

/// Sets viscosity and rheology of a phase whose density, and built-in viscosity if it has a fluid, are there already.
void read_viscosity(Part& part, Phase& phase, const FormulaNames& names);

}  // namespace wavy
