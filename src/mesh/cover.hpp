// Shapes laid onto a grid.
#pragma once

#include "geometry/clip.hpp"
#include "geometry/shapes.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// Share of a cell, by its index in the whole grid, that the shape covers.
template <int D>
double covered_share(const Grid<D>& grid, const Index<D>& cell, const Shape<D>& shape) {
  const auto [lower, upper] = cell_corners<D>(grid, cell);
  return covered_share<D>(shape, lower, upper);
}

/// Middle of what is open in a cell [m].
template <int D>
Vec<D> open_middle(const Grid<D>& grid, const OpenSpace<D>& space, int block, std::ptrdiff_t at) {
  Vec<D> middle = cell_middle<D>(grid, block, at);
  const WallCell<D>* wall = space.wall_in(block, at);
  if (wall == nullptr || !cuts(wall->open)) return middle;
  const Vec<D> open = middle_below<D>(wall->open);
  for (int d = 0; d < D; ++d) middle[d] += (open[d] - 0.5) * grid.geometry(block).spacing[d];
  return middle;
}

/// fn(lower, upper, volume) for pieces of a cell and how much of each is open, as a share of a whole cell and weighted
/// as volumes are: the cell itself, but small pieces where walls cut it or round an axis of revolution.
template <int D, class Fn>
void for_pieces(const Grid<D>& grid, const OpenSpace<D>& space, int block, std::ptrdiff_t at, const Index<D>& cell,
                Fn&& fn) {
  const WallCell<D>* wall = space.wall_in(block, at);
  const double slope = space.slope(block, grid.layout(), at);
  const bool cut = wall != nullptr && cuts(wall->open);
  if (!cut && slope == 0) {
    const auto [lower, upper] = cell_corners<D>(grid, cell);
    fn(lower, upper, 1.0);
    return;
  }
  constexpr int pieces = 8;
  std::vector<Plane<D>> open;
  if (cut) open.push_back(wall->open);
  const int count = D == 2 ? pieces * pieces : pieces * pieces * pieces;
  for (int n = 0; n < count; ++n) {
    Vec<D> lower;
    Vec<D> upper;
    Vec<D> place;
    Vec<D> end;
    int rest = n;
    for (int d = 0; d < D; ++d, rest /= pieces) {
      lower[d] = static_cast<double>(rest % pieces) / pieces;
      upper[d] = lower[d] + 1.0 / pieces;
      place[d] = grid.lower()[d] + (cell[d] + lower[d]) * grid.spacing()[d];
      end[d] = grid.lower()[d] + (cell[d] + upper[d]) * grid.spacing()[d];
    }
    if (const double part = clipped_volume<D>(lower, upper, open, slope); part > 0) fn(place, end, part);
  }
}

/// Share of the open volume of a cell that the shape covers: in cut cells, and round an axis of revolution, that of
/// small pieces, weighted by how much of each is open. 0 in the solid.
template <int D>
double covered_share(const Grid<D>& grid, const OpenSpace<D>& space, int block, std::ptrdiff_t at, const Index<D>& cell,
                     const Shape<D>& shape) {
  const double volume = OpenVolumes<D>(space, block)[at];
  if (volume == 0) return 0;
  const double whole = covered_share<D>(grid, cell, shape);
  if (volume == 1 || whole == 0 || whole == 1) return whole;
  double covered = 0;
  double open_volume = 0;
  for_pieces<D>(grid, space, block, at, cell, [&](const Vec<D>& lower, const Vec<D>& upper, double part) {
    open_volume += part;
    covered += part * covered_share<D>(shape, lower, upper);
  });
  return open_volume > 0 ? covered / open_volume : whole;
}

/// F = share of every cell that the shape covers.
template <int D>
void cover(const Grid<D>& grid, Cells<D>& F, const Shape<D>& shape, const OpenSpace<D>& space = all_open<D>()) {
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    F.block(b)[o] = covered_share<D>(grid, space, b, o, cell, shape);
  });
}

}  // namespace wavy
