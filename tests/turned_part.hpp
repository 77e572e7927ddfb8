// A vessel that half a turn round its upright axis, or in 2-D round the origin, leaves as it is: as a whole, and the
// half of it beyond the axis along x.
#pragma once

#include <algorithm>
#include <cmath>

#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

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

/// Greatest difference between what is in the cells of the half and in those of the whole.
template <int D>
double difference(const wavy::Grid<D>& half, const wavy::Cells<D>& of_half, const wavy::Grid<D>& whole,
                  const wavy::Cells<D>& of_whole) {
  const wavy::CellMap<D> map(whole);
  double greatest = 0;
  wavy::for_cells_in_order<D>(half, [&](int b, std::ptrdiff_t at, const wavy::Index<D>& cell) {
    wavy::Index<D> other = cell;
    other[0] += whole.cells()[0] - half.cells()[0];
    const wavy::CellPlace place = map(other);
    greatest = std::max(greatest, std::abs(of_half.block(b)[at] - of_whole.block(place.block)[place.at]));
  });
  return greatest;
}

}  // namespace turned_part
