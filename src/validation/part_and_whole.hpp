// What is computed of a part of a vessel beside the whole of it.
#pragma once

#include <algorithm>
#include <cmath>

#include "mesh/open_space.hpp"

namespace wavy {

/// Greatest difference between what is in the cells of the half that lies beyond the middle along x, or of the quarter
/// that lies beyond it along x and y, and in those of the whole.
template <int D>
double difference(const Grid<D>& part, const Cells<D>& of_part, const Grid<D>& whole, const Cells<D>& of_whole) {
  const CellMap<D> map(whole);
  double greatest = 0;
  for_cells_in_order<D>(part, [&](int b, std::ptrdiff_t at, const Index<D>& cell) {
    Index<D> other = cell;
    for (int d = 0; d < 2; ++d) other[d] += whole.cells()[d] - part.cells()[d];
    const CellPlace place = map(other);
    greatest = std::max(greatest, std::abs(of_part.block(b)[at] - of_whole.block(place.block)[place.at]));
  });
  return greatest;
}

}  // namespace wavy
