#include "mesh/grid.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

/// Largest divisor of n that is at most `limit`.
int block_length(int n, int limit) {
  int length = std::min(n, limit);
  while (n % length != 0) --length;
  return length;
}

/// Greatest length of a block along all axes but the first.
template <int D>
constexpr int cube = D == 2 ? 64 : 32;

/// The partition with blocks of at most `longest` cells along the first axis.
template <int D>
Partition<D> in_blocks(const Vec<D>& extent, double cell_size, const std::array<bool, D>& periodic, int longest) {
  Partition<D> result;
  for (int d = 0; d < D; ++d) {
    const int limit = d == 0 ? longest : cube<D>;
    const double wanted = extent[d] / cell_size;
    int halves = 4;  // what the number of cells is a multiple of
    while (periodic[static_cast<std::size_t>(d)] && 8 * halves <= wanted) halves *= 2;
    result.cells[d] = std::max(4, halves * static_cast<int>(std::lround(std::min(wanted, 1e8) / halves)));
    result.block_cells[d] = block_length(result.cells[d], limit);
    // A prime number of fours has no good divisor: the next multiple of 8, 16 or 32 cells does.
    for (int round = 8; result.block_cells[d] < std::min(cube<D> / 4, result.cells[d]); round *= 2) {
      result.cells[d] = round * static_cast<int>(std::lround(wanted / round));
      result.block_cells[d] = block_length(result.cells[d], limit);
    }
  }
  return result;
}

/// Copies or mirrors `width` layers across one axis, over everything already filled along the axes before it.
template <int D>
void fill_axis(const Grid<D>& grid, Cells<D>& field, int width, const WallRules<D>& rules, int axis) {
  const Layout<D>& layout = grid.layout();
  const int n = layout.cells[axis];
  const std::ptrdiff_t step = layout.step[axis];
  for_blocks(grid, [&](int b) {
    double* own = field.block(b);
    for (int side = 0; side < 2; ++side) {
      const int next = grid.forest().neighbour(b, axis, side);
      Index<D> lo{};
      Index<D> hi = layout.cells;
      for (int d = 0; d < axis; ++d) {
        lo[d] = -width;
        hi[d] += width;
      }
      const double* source = next >= 0 ? field.block(next) : own;
      const double factor = next < 0 && rules[axis][side] == Mirror::odd ? -1.0 : 1.0;
      // The block's outermost layer on this side; what lies outside it comes from the neighbour's layers on its other
      // side, going the same way, or at a wall from the own layers, going inwards.
      const int edge = side == 0 ? 0 : n - 1;
      const std::ptrdiff_t out = side == 0 ? -step : step;
      const std::ptrdiff_t shift = next >= 0 ? (n - 1 - 2 * edge) * step : 0;
      const std::ptrdiff_t onwards = next >= 0 ? out : -out;
      lo[axis] = edge;
      hi[axis] = edge + 1;
      // All layers of a row at once: along the first axis they share its cache lines.
      for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int count) {
        for (int layer = 0; layer < width; ++layer)
          for (int i = 0; i < count; ++i)
            own[o + i + (1 + layer) * out] = factor * source[o + i + shift + layer * onwards];
      });
    }
  });
}

}  // namespace

template <int D>
Partition<D> partition(const Vec<D>& extent, double cell_size, const std::array<bool, D>& periodic) {
  // Long rows take the least time and memory; but few blocks leave threads idle.
  constexpr int longest = 64;
  constexpr int few = 4;
  const auto result = in_blocks<D>(extent, cell_size, periodic, longest);
  const bool enough = product(result.cells) >= few * product(result.block_cells);
  return D == 2 || enough ? result : in_blocks<D>(extent, cell_size, periodic, cube<D>);
}

template <int D>
Grid<D>::Grid(const Vec<D>& lower, const Vec<D>& upper, const Partition<D>& partition,
              const std::array<bool, D>& periodic)
    : lower_(lower), upper_(upper), cells_(partition.cells), periodic_(periodic), layout_(partition.block_cells) {
  Index<D> roots;
  for (int d = 0; d < D; ++d) {
    spacing_[d] = (upper[d] - lower[d]) / cells_[d];
    roots[d] = cells_[d] / partition.block_cells[d];
  }
  forest_ = std::make_shared<const Forest<D>>(roots, periodic);
}

template <int D>
double Grid<D>::smallest_spacing() const {
  return *std::min_element(spacing_.begin(), spacing_.end());
}

template <int D>
double Grid<D>::cell_volume() const {
  double volume = 1;
  for (const double h : spacing_) volume *= h;
  return volume;
}

template <int D>
Index<D> Grid<D>::block_start(int block) const {
  Index<D> start;
  for (int d = 0; d < D; ++d)
    start[d] = forest_->leaves()[static_cast<std::size_t>(block)].position[d] * layout_.cells[d];
  return start;
}

template <int D>
Vec<D> Grid<D>::block_lower(int block) const {
  const Index<D> start = block_start(block);
  Vec<D> corner;
  for (int d = 0; d < D; ++d) corner[d] = lower_[d] + start[d] * spacing_[d];
  return corner;
}

template <int D>
void fill_halo(const Grid<D>& grid, Cells<D>& field, int width, const std::type_identity_t<WallRules<D>>& rules) {
  for (int axis = 0; axis < D; ++axis) fill_axis<D>(grid, field, width, rules, axis);
}

template Partition<2> partition<2>(const Vec<2>&, double, const std::array<bool, 2>&);
template Partition<3> partition<3>(const Vec<3>&, double, const std::array<bool, 3>&);
template class Grid<2>;
template class Grid<3>;
template void fill_halo<2>(const Grid<2>&, Cells<2>&, int, const WallRules<2>&);
template void fill_halo<3>(const Grid<3>&, Cells<3>&, int, const WallRules<3>&);

}  // namespace wavy
