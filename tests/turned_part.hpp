// A vessel that a turn round its upright axis, or in 2-D round the origin, leaves as it is: as a whole, and the half of
// it beyond the axis along x, or the quarter beyond it along x and y.
#pragma once

#include "validation/part_and_whole.hpp"

namespace turned_part {

/// Round the axis x = y = 0, `across` wide along both.
template <int D>
wavy::Grid<D> grid_of(double across, double height, double cell, wavy::Turn turn) {
  wavy::Vec<D> lower{};
  wavy::Vec<D> upper{};
  upper[D - 1] = height;
  for (std::size_t d = 0; d < 2; ++d) {
    lower[d] = wavy::turns_below(turn, static_cast<int>(d)) ? 0.0 : -0.5 * across;
    upper[d] = 0.5 * across;
  }
  return wavy::grid_over<D>(lower, upper, cell, {}, turn);
}

/// A flow round the axis that half a turn leaves as it is, and with `four` a quarter too; of places by their distance.
template <int D>
wavy::Vec<2> stirring(const wavy::Vec<D>& x, bool four) {
  return {-(x[1] + (four ? 0.25 : 0.3) * x[0]), four ? x[0] - 0.25 * x[1] : 1.4 * x[0] + 0.2 * x[1]};
}

}  // namespace turned_part
