// Openings as they stand in a case file.
#pragma once

#include "case/part.hpp"

namespace wavy {

/// The vessel's inside, to which nozzles are added.
template <int D>
struct Shell {
  Solid<D> open;
  bool plain = false;    ///< it is the box of the grid itself
  bool nozzles = false;  ///< some were added
};

/// One [[opening]]: where it is and what is given there. Nozzles are added to the shell, and the grid of the setup is
/// made to reach to their ends. Phases and gauges must be known. `notes`: what is worth saying. Throws an input error
/// for what cannot be.
template <int D>
OpeningSetup<D> read_opening(Setup<D>& setup, Part& part, const FormulaNames& names, Shell<D>& shell,
                             std::vector<std::string>& notes);

/// Once all openings are known: the pressures of those that balance a level. `place`: of the last opening.
template <int D>
void find_back_pressures(Setup<D>& setup, std::vector<std::string>& notes, const Place& place);

/// Once fills are known too, where the case does not say: what is at rest outside the only opening with a pressure, and
/// what flows back of two liquids.
template <int D>
void choose_outside(Setup<D>& setup, std::vector<std::string>& notes);

}  // namespace wavy
