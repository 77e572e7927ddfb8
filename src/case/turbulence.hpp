// The [turbulence] section of a case file.
#pragma once

#include "case/sections.hpp"
#include "run/setup.hpp"

namespace wavy {

/// Before phases and openings, which ask whether there is any.
template <int D>
void read_turbulence(Sections& sections, Setup<D>& setup);

}  // namespace wavy
