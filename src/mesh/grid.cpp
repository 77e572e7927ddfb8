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

/// The partition with blocks of at most `longest` cells along the first axis.
template <int D>
Partition<D> in_blocks(const Vec<D>& extent, double cell_size, int longest) {
  Partition<D> result;
  for (int d = 0; d < D; ++d) {
    const int limit = d == 0 ? longest : cube<D>;
    const double wanted = std::min(extent[d] / cell_size, 1e8);
    const Count count = count_near(wanted, limit);
    result.cells[d] = count.cells;
    result.block_cells[d] = count.block;
  }
  return result;
}

/// What counts of the cells [lo, hi) of a block's row (j, k).
template <int D>
std::array<int, 2> part_that_counts(const Layout<D>& layout, const RowSpans& spans, int j, int k, int lo, int hi) {
  if (spans.empty() || j < -1 || j > layout.cells[1]) return {lo, hi};
  if (D == 3 && (k < -1 || k > layout.cells[D - 1])) return {lo, hi};
  const int number = (D == 3 ? (k + 1) * (layout.cells[1] + 2) : 0) + j + 1;
  const auto [first, end] = spans[static_cast<std::size_t>(number)];
  return {first < 0 ? lo : std::max(lo, first), end > layout.cells[0] ? hi : std::min(hi, end)};
}

/// Copies or mirrors `width` layers across one axis, with as many as said of what has been filled across the axes
/// before it.
template <int D>
void fill_axis(const Grid<D>& grid, Cells<D>& field, int width, const WallRules<D>& rules, int axis, int before,
               const std::vector<RowSpans>& spans) {
  const Layout<D>& layout = grid.layout();
  const int n = layout.cells[axis];
  const std::ptrdiff_t step = layout.step[axis];
  static const RowSpans all;
  for_blocks(grid, [&](int b) {
    double* own = field.block(b);
    for (int side = 0; side < 2; ++side) {
      const int next = grid.forest().neighbour(b, axis, side);
      const int from = next >= 0 ? next : b;
      const double* source = field.block(from);
      const RowSpans& rows = spans.empty() ? all : spans[static_cast<std::size_t>(from)];
      const double factor = next < 0 && rules[axis][side] == Mirror::odd ? -1.0 : 1.0;
      // The block's outermost layer on this side; what lies outside it comes from the neighbour's layers on its other
      // side, going the same way, or at a wall from the own layers, going inwards.
      const int edge = side == 0 ? 0 : n - 1;
      const std::ptrdiff_t out = side == 0 ? -step : step;
      const int nearest = next >= 0 ? n - 1 - edge : edge;  // of the source's layers
      const int onwards = (side == 0) == (next >= 0) ? -1 : 1;
      const int farthest = nearest + onwards * (width - 1);

      Index<3> lo{};
      Index<3> hi{1, 1, 1};
      for (int d = 0; d < D; ++d) {
        lo[d] = d < axis ? -before : 0;
        hi[d] = layout.cells[d] + (d < axis ? before : 0);
      }
      lo[axis] = edge;
      hi[axis] = edge + 1;
      const std::ptrdiff_t plane = D == 3 ? layout.step[D - 1] : 0;
      const std::ptrdiff_t to_source = (nearest - edge) * step;
      for (int k = lo[2]; k < hi[2]; ++k)
        for (int j = lo[1]; j < hi[1]; ++j) {
          double* row = own + j * layout.step[1] + k * plane;
          const double* values = source + j * layout.step[1] + k * plane + to_source;
          if (axis == 0) {  // the layers of a row share its cache lines
            const auto [begin, end] =
                part_that_counts<D>(layout, rows, j, k, std::min(nearest, farthest), std::max(nearest, farthest) + 1);
            if (begin >= end) continue;
            for (int layer = 0; layer < width; ++layer)
              row[edge + (1 + layer) * out] = factor * values[edge + layer * onwards];
            continue;
          }
          for (int layer = 0; layer < width; ++layer) {
            const int place = nearest + layer * onwards;
            const auto [begin, end] =
                part_that_counts<D>(layout, rows, axis == 1 ? place : j, axis == 2 ? place : k, lo[0], hi[0]);
            double* to = row + (1 + layer) * out;
            const double* layer_values = values + layer * onwards * step;
            for (int i = begin; i < end; ++i) to[i] = factor * layer_values[i];
          }
        }
    }
  });
}

}  // namespace

template <int D>
Partition<D> partition(const Vec<D>& extent, double cell_size) {
  // Long rows take the least time and memory; but few blocks leave threads idle.
  constexpr int longest = 64;
  constexpr int few = 4;
  const auto result = in_blocks<D>(extent, cell_size, longest);
  const bool enough = product(result.cells) >= few * product(result.block_cells);
  return D == 2 || enough ? result : in_blocks<D>(extent, cell_size, cube<D>);
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
void fill_halo(const Grid<D>& grid, Cells<D>& field, int width, const std::type_identity_t<WallRules<D>>& rules,
               const std::vector<RowSpans>& spans) {
  for (int axis = 0; axis < D; ++axis) fill_axis<D>(grid, field, width, rules, axis, width, spans);
}
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, Cells<D>& field, int width,
                      const std::type_identity_t<WallRules<D>>& rules, const std::vector<RowSpans>& spans) {
  fill_axis<D>(grid, field, width, rules, axis, 0, spans);
}

template Partition<2> partition<2>(const Vec<2>&, double);
template Partition<3> partition<3>(const Vec<3>&, double);
template class Grid<2>;
template class Grid<3>;
template void fill_halo_across<2>(const Grid<2>&, int, Cells<2>&, int, const WallRules<2>&,
                                  const std::vector<RowSpans>&);
template void fill_halo<2>(const Grid<2>&, Cells<2>&, int, const WallRules<2>&, const std::vector<RowSpans>&);
template void fill_halo_across<3>(const Grid<3>&, int, Cells<3>&, int, const WallRules<3>&,
                                  const std::vector<RowSpans>&);
template void fill_halo<3>(const Grid<3>&, Cells<3>&, int, const WallRules<3>&, const std::vector<RowSpans>&);

}  // namespace wavy
