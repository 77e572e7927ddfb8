// [[phase]] and [[pair]]: the fluids of a case and what acts between two of them.
#pragma once

#include "case/dispersion.hpp"
#include "case/sections.hpp"

namespace wavy {

/// Two phases of a vessel, the denser one first; of one liquid alone, and a second that stands for the gas left out.
template <int D>
void read_phases(Sections& sections, Setup<D>& setup);

/// A liquid and a gas, with the gas's temperature.
void read_line_phases(Sections& sections, LineSetup& setup);

/// The fluids of the Eulerian model and their phases, the densest first.
template <int D>
std::vector<FormedFluid> read_fluids(Sections& sections, Setup<D>& setup);
/// What acts between them.
template <int D>
void read_fluid_pairs(Sections& sections, const std::vector<FormedFluid>& fluids, Setup<D>& setup);

/// What acts between the phases of a vessel, which are known, on cells of a known size.
template <int D>
void read_pairs(Sections& sections, Setup<D>& setup);

/// The same of a line.
void read_line_pairs(Sections& sections, LineSetup& setup);

}  // namespace wavy
