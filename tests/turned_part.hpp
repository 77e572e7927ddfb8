// A vessel that half a turn round its upright axis, or in 2-D round the origin, leaves as it is: as a whole, and the
// half of it beyond the axis along x.
#pragma once

#include "validation/half_and_whole.hpp"

namespace turned_part {

/// Round the axis x = y = 0, `across` wide along both.
template <int D>
wavy::Grid<D> grid_of(double across, double height, double cell, bool half) {
  wavy::Vec<D> lower{};
  wavy::Vec<D> upper{};
  upper[D - 1] = height;
  for (std::size_t d = 0; d < 2; ++d) {
    lower[d] = d == 0 && half ? 0.0 : -0.5 * across;
    upper[d] = 0.5 * across;
  }
  return wavy::grid_over<D>(lower, upper, cell, {}, half);
}

}  // namespace turned_part
