// What is computed of half a vessel beside the whole of it.
#pragma once

#include <algorithm>
#include <cmath>

#include "mesh/open_space.hpp"

namespace wavy {

/// Greatest difference between what is in the cells of the half that lies beyond the middle along x and in those of the
/// whole.
template <int D>
double difference(const Grid<D>& half, const Cells<D>& of_half, const Grid<D>& whole, const Cells<D>& of_whole) {
  const CellMap<D> map(whole);
  double greatest = 0;
  for_cells_in_order<D>(half, [&](int b, std::ptrdiff_t at, const Index<D>& cell) {
    Index<D> other = cell;
    other[0] += whole.cells()[0] - half.cells()[0];
    const CellPlace place = map(other);
    greatest = std::max(greatest, std::abs(of_half.block(b)[at] - of_whole.block(place.block)[place.at]));
  });
  return greatest;
}

}  // namespace wavy
