// Walls that move along themselves, as they stand in a case file.
#pragma once

#include "case/part.hpp"

namespace wavy {

/// One [[moving_wall]]. Walls and inserts must be known. Throws an input error for what cannot be; whether the wall
/// does move along itself is seen once it lies on a grid.
template <int D>
MovingWall<D> read_moving_wall(const Setup<D>& setup, Part& part, const FormulaNames& names);

}  // namespace wavy
