// What three grids tell of a value on none.
#pragma once

#include <array>
#include <string>

namespace wavy {

/// A value on three grids, the finest first, by the procedure of Celik et al., J. Fluids Eng. 130 (2008) 078001, after
/// Roache, J. Fluids Eng. 116 (1994) 405.
struct GridConvergence {
  enum class Kind {
    monotonic,    ///< the differences fall and have one sign
    oscillatory,  ///< the differences fall and change their sign
    none,         ///< the differences do not fall: nothing follows from them
    exact,        ///< the two finest grids, or all, agree
  };
  Kind kind = Kind::none;
  double order = 0;         ///< observed; 0 where there is none
  double extrapolated = 0;  ///< to cells of no size; the finest value where there is no order
  double index = 0;         ///< grid convergence index of the finest grid: its error bar, in the unit of the value
};

/// `ratios`: size of cells of the middle grid over the finest, and of the coarsest over the middle one, both above 1.
/// The index takes 1.25 times the difference from the extrapolated value. An order above 4 is no asymptotic one and
/// counts as 4, one below 0.5 counts as 0.5 in the index: both only make it greater. Without an order it is the
/// greatest of the differences, three times.
GridConvergence grid_convergence(const std::array<double, 3>& values, const std::array<double, 2>& ratios);

}  // namespace wavy
