#include "mesh/grid.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

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

/// A number of cells and how many of them a block has, along one axis.
struct Count {
  int cells = 0;
  int block = 0;
};

/// The number nearest to what is wanted, or one up to a percent off if it falls into better blocks. Blocks have at most
/// `limit` cells, or twice as many where no number nearby has a good divisor, such as a lone prime.
Count count_near(double wanted, int limit) {
  const int nearest = std::max(4, static_cast<int>(std::lround(wanted)));
  const int good = std::min(limit / 4, nearest);
  struct Try {
    int longest;
    double margin;
  };
  for (const Try& one : {Try{limit, 0.005}, Try{2 * limit, 0.005}, Try{limit, 0.01}})
    for (int off = 0; off <= static_cast<int>(one.margin * wanted); ++off)
      for (const int cells : {nearest - off, nearest + off})
        if (const int block = block_length(cells, one.longest); block >= good) return {cells, block};
  return {nearest, block_length(nearest, 4 * limit)};
}

/// The even number near to what is wanted that is least after it has been halved as often as it can be.
Count even_count_near(double wanted, int limit) {
  constexpr double margin = 0.04;
  const int nearest = std::max(4, 2 * static_cast<int>(std::lround(0.5 * wanted)));
  const auto halved = [](int n) {
    while (n % 2 == 0) n /= 2;
    return n;
  };
  int best = nearest;
  for (int off = 2; off <= margin * wanted + 1; off += 2)
    for (const int cells : {nearest - off, nearest + off})
      if (cells >= 4 && std::abs(cells - wanted) <= margin * wanted && halved(cells) < halved(best)) best = cells;
  return {best, block_length(best, limit)};
}

/// The partition with blocks of at most `longest` cells along the first axis.
template <int D>
Partition<D> in_blocks(const Vec<D>& extent, double cell_size, int longest, Turn turn) {
  Partition<D> result;
  for (int d = 0; d < D; ++d) {
    if (turn == Turn::quarter && d == 1) {
      result.cells[1] = result.cells[0];
      result.block_cells[1] = result.block_cells[0];
      continue;
    }
    const int limit = d == 0 && turn != Turn::quarter ? longest : cube<D>;
    const double wanted = std::min(extent[d] / cell_size, 1e8);
    const Count count = turn == Turn::half && d == 1 ? even_count_near(wanted, limit) : count_near(wanted, limit);
    result.cells[d] = count.cells;
    result.block_cells[d] = count.block;
  }
  return result;
}

}  // namespace

template <int D>
Partition<D> partition(const Vec<D>& extent, double cell_size, Turn turn) {
  // Long rows take the least time and memory; but few blocks leave threads idle.
  constexpr int longest = 64;
  constexpr int few = 4;
  const auto result = in_blocks<D>(extent, cell_size, longest, turn);
  const bool enough = product(result.cells) >= few * product(result.block_cells);
  return D == 2 || enough ? result : in_blocks<D>(extent, cell_size, cube<D>, turn);
}

template <int D>
Grid<D>::Grid(const Vec<D>& lower, const Vec<D>& upper, const Partition<D>& partition,
              const std::array<bool, D>& periodic, Turn turn)
    : lower_(lower), upper_(upper), cells_(partition.cells), periodic_(periodic), layout_(partition.block_cells) {
  Index<D> roots;
  for (int d = 0; d < D; ++d) {
    spacing_[d] = (upper[d] - lower[d]) / cells_[d];
    roots[d] = cells_[d] / partition.block_cells[d];
  }
  assert(turn == Turn::none || (!periodic[0] && !periodic[1]));
  assert(turn != Turn::half || cells_[1] % 2 == 0);
  assert(turn != Turn::quarter || (cells_[0] == cells_[1] && roots[0] == roots[1]));
  forest_ = std::make_shared<const Forest<D>>(roots, periodic, turn);
  find_geometry();
  halo_ = std::make_shared<const HaloPlan<D>>(layout_, *forest_);
}

template <int D>
void Grid<D>::find_geometry() {
  const auto& leaves = forest_->leaves();
  for (const auto& leaf : leaves) {
    BlockGeometry<D> block;
    block.level = leaf.level;
    const double finer = std::ldexp(1.0, -leaf.level);
    for (int d = 0; d < D; ++d) {
      block.start[d] = leaf.position[d] * layout_.cells[d];
      block.spacing[d] = finer * spacing_[d];
      block.lower[d] = lower_[d] + block.start[d] * block.spacing[d];
      block.volume_ratio *= finer;
    }
    block.cell_volume = block.volume_ratio * cell_volume();
    geometry_.push_back(block);
  }
}

template <int D>
std::optional<Index<D>> Grid<D>::beyond(Index<D> cell, int axis, int side) const {
  const int n = cells_[axis];
  if (side == 0 && turned_below(axis, cell[axis])) {
    if (turn() == Turn::half)
      cell[1] = cells_[1] - 1 - cell[1];
    else
      std::swap(cell[0], cell[1]);
    return cell;
  }
  cell[axis] += side == 0 ? -1 : 1;
  if (periodic_[static_cast<std::size_t>(axis)]) cell[axis] = (cell[axis] + n) % n;
  if (cell[axis] < 0 || cell[axis] >= n) return std::nullopt;
  return cell;
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

template Partition<2> partition<2>(const Vec<2>&, double, Turn);
template Partition<3> partition<3>(const Vec<3>&, double, Turn);
template class Grid<2>;
template class Grid<3>;
}  // namespace wavy
