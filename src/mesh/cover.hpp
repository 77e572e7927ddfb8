// Shapes laid onto a grid.
#pragma once

#include "geometry/shapes.hpp"
#include "mesh/grid.hpp"

namespace wavy {

/// Share of a cell, by its index in the whole grid, that the shape covers.
template <int D>
double covered_share(const Grid<D>& grid, const Index<D>& cell, const Shape<D>& shape) {
  Vec<D> lower;
  Vec<D> upper;
  for (int d = 0; d < D; ++d) {
    lower[d] = grid.lower()[d] + cell[d] * grid.spacing()[d];
    upper[d] = grid.lower()[d] + (cell[d] + 1) * grid.spacing()[d];
  }
  return covered_share<D>(shape, lower, upper);
}

/// F = share of every cell that the shape covers.
template <int D>
void cover(const Grid<D>& grid, Cells<D>& F, const Shape<D>& shape) {
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    F.block(b)[o] = covered_share<D>(grid, cell, shape);
  });
}

}  // namespace wavy
