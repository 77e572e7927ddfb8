// Walls by their names, and how they move along themselves, as they stand in a case file.
#pragma once

#include "case/part.hpp"

namespace wavy {

/// The wall that the key 'wall' names. Walls and inserts must be known.
template <int D>
void read_wall_name(const Setup<D>& setup, Part& part, NamedWall& made);

/// One [[moving_wall]]. Walls and inserts must be known. Throws an input error for what cannot be; whether the wall
/// does move along itself is seen once it lies on a grid.
template <int D>
MovingWall<D> read_moving_wall(const Setup<D>& setup, Part& part, const FormulaNames& names);

}  // namespace wavy
