// The grid: blocks of cells on a forest, arrays of cell and face values on them, and the loops over both.
//
// Every array has one layout: each block's cells with `pad` layers round them, the first axis contiguous. All arrays
// of a block therefore share their offsets, and the low faces of cells n (one beyond the last) have their place too.
// Kernels see one block: pointers to its cell (0, 0, 0) and offsets; they know nothing of the forest.
#pragma once

#include <cstddef>
#include <memory>
#include <type_traits>
#include <vector>

#include "base/archive.hpp"
#include "base/staggered.hpp"
#include "geometry/vector.hpp"
#include "mesh/forest.hpp"

namespace wavy {

/// Layers of cells round a block: wide enough for the longest stencil (height functions, four cells each way).
inline constexpr int pad = 4;

/// Shape of the array of one block.
template <int D>
struct Layout {
  Index<D> cells{};                      ///< without the layers round them
  std::array<std::ptrdiff_t, D> step{};  ///< from a cell to the next along each axis; step[0] = 1
  std::size_t size = 0;                  ///< values of one block
  std::ptrdiff_t first = 0;              ///< offset of cell (0, 0, 0) in the block

  Layout() = default;
  explicit Layout(const Index<D>& block_cells) : cells(block_cells) {
    std::ptrdiff_t stride = 1;
    for (int d = 0; d < D; ++d) {
      step[d] = stride;
      first += pad * stride;
      stride *= cells[d] + 2 * pad;
    }
    size = static_cast<std::size_t>(stride);
  }
  [[nodiscard]] std::ptrdiff_t offset(const Index<D>& cell) const {
    std::ptrdiff_t sum = 0;
    for (int d = 0; d < D; ++d) sum += cell[d] * step[d];
    return sum;
  }
};

/// Index along `axis` (pad layers included, so from -pad) of the cell at an offset.
template <int D>
int axis_index(const Layout<D>& layout, std::ptrdiff_t offset, int axis) {
  std::ptrdiff_t rest = offset + layout.first;
  if (axis + 1 < D) rest %= layout.step[axis + 1];
  return static_cast<int>(rest / layout.step[axis]) - pad;
}

/// How many cells, and in which blocks.
template <int D>
struct Partition {
  Index<D> cells{};        ///< of the whole grid
  Index<D> block_cells{};  ///< of one block; divides `cells`
};

/// The cells nearest to a wanted size that a grid can have, to half a percent, at least 4 along each axis, in blocks of
/// about 64 cells a side in 2-D, and 64 x 32 x 32 in 3-D (32 along each axis where there would be few). Depends on the
/// sizes alone, so that results do not depend on threads.
template <int D>
Partition<D> partition(const Vec<D>& extent, double cell_size);

template <int D>
class Grid {
 public:
  Grid(const Vec<D>& lower, const Vec<D>& upper, const Partition<D>& partition,
       const std::array<bool, D>& periodic = {});

  [[nodiscard]] const Vec<D>& lower() const { return lower_; }
  [[nodiscard]] const Vec<D>& upper() const { return upper_; }
  [[nodiscard]] const Vec<D>& spacing() const { return spacing_; }  ///< [m]
  [[nodiscard]] double smallest_spacing() const;
  [[nodiscard]] double cell_volume() const;  ///< [m^D]; the thickness of a 2-D case is not the grid's business
  [[nodiscard]] const std::array<bool, D>& periodic() const { return periodic_; }
  [[nodiscard]] const Index<D>& cells() const { return cells_; }
  [[nodiscard]] long cell_count() const { return product(cells_); }
  [[nodiscard]] const Layout<D>& layout() const { return layout_; }
  [[nodiscard]] const Forest<D>& forest() const { return *forest_; }
  [[nodiscard]] int blocks() const { return static_cast<int>(forest_->leaves().size()); }
  /// Index in the whole grid of a block's cell (0, 0, 0).
  [[nodiscard]] Index<D> block_start(int block) const;
  /// Lower corner of a block [m].
  [[nodiscard]] Vec<D> block_lower(int block) const;

 private:
  Vec<D> lower_;
  Vec<D> upper_;
  Vec<D> spacing_;
  Index<D> cells_;
  std::array<bool, D> periodic_{};
  Layout<D> layout_;
  std::shared_ptr<const Forest<D>> forest_;
};

/// Lower and upper corner of a cell, by its index in the whole grid [m].
template <int D>
std::array<Vec<D>, 2> cell_corners(const Grid<D>& grid, const Index<D>& cell) {
  std::array<Vec<D>, 2> corner;
  for (int d = 0; d < D; ++d) {
    corner[0][d] = grid.lower()[d] + cell[d] * grid.spacing()[d];
    corner[1][d] = grid.lower()[d] + (cell[d] + 1) * grid.spacing()[d];
  }
  return corner;
}

/// Middle of the cell at an offset in a block, halo included [m].
template <int D>
Vec<D> cell_middle(const Grid<D>& grid, int block, std::ptrdiff_t at) {
  Vec<D> place = grid.block_lower(block);
  for (int d = 0; d < D; ++d) place[d] += (axis_index<D>(grid.layout(), at, d) + 0.5) * grid.spacing()[d];
  return place;
}

/// A grid of cells of nearly this size from corner to corner.
template <int D>
Grid<D> grid_over(const Vec<D>& lower, const Vec<D>& upper, double cell_size,
                  const std::array<bool, D>& periodic = {}) {
  Vec<D> extent;
  for (int d = 0; d < D; ++d) extent[d] = upper[d] - lower[d];
  return Grid<D>(lower, upper, partition<D>(extent, cell_size), periodic);
}

/// One value per cell (or per low face of each cell) on all blocks.
template <class T, int D>
class Field {
 public:
  Field() = default;
  explicit Field(const Grid<D>& grid, T value = T{})
      : layout_(grid.layout()), data_(layout_.size * static_cast<std::size_t>(grid.blocks()), value) {}

  /// Pointer to cell (0, 0, 0) of a block.
  [[nodiscard]] T* block(int b) { return data_.data() + static_cast<std::size_t>(b) * layout_.size + layout_.first; }
  [[nodiscard]] const T* block(int b) const {
    return data_.data() + static_cast<std::size_t>(b) * layout_.size + layout_.first;
  }
  [[nodiscard]] StaggeredArray<T>& data() { return data_; }
  [[nodiscard]] const StaggeredArray<T>& data() const { return data_; }

 private:
  Layout<D> layout_;
  StaggeredArray<T> data_;
};

template <int D>
using Cells = Field<double, D>;

/// A whole field, halos included.
template <int D>
void archive(Archive& a, const std::string& name, Cells<D>& field) {
  a(name, std::span<double>(field.data()));
}
/// D cell fields: a vector per cell, or (`Faces`) the normal component on the low face of each cell across each axis.
template <int D>
using CellVectors = std::array<Cells<D>, D>;
template <int D>
using Faces = std::array<Cells<D>, D>;

/// What stands behind a wall, seen from inside.
enum class Mirror {
  even,  ///< the same value: no gradient through the wall
  odd,   ///< the negative value: zero on the wall
};
template <int D>
using WallRules = std::array<std::array<Mirror, 2>, D>;  ///< [axis][lower, upper]

template <int D>
WallRules<D> all_walls(Mirror rule) {
  WallRules<D> rules;
  for (auto& axis : rules) axis = {rule, rule};
  return rules;
}

/// For every row of cells of a block, with one row more on each side (the second index fastest, both from -1 on): the
/// first cell that counts in it, from -1 on, and the end of those.
using RowSpans = std::vector<std::array<int, 2>>;

/// Fills `width` <= pad layers round every block from its neighbours and by the rules at the walls, edges and corners
/// included. `spans`, by block: what does not count is left as it is; all counts in blocks for which they are empty.
template <int D>
void fill_halo(const Grid<D>& grid, Cells<D>& field, int width, const std::type_identity_t<WallRules<D>>& rules,
               const std::vector<RowSpans>& spans = {});
/// The same across one axis alone: next to the faces of every block, without edges and corners.
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, Cells<D>& field, int width,
                      const std::type_identity_t<WallRules<D>>& rules, const std::vector<RowSpans>& spans = {});

/// fn(offset, count) for every row of cells with lo <= index < hi; offset belongs to the row's first cell.
template <int D, class Fn>
void for_rows(const Layout<D>& layout, const Index<D>& lo, const Index<D>& hi, Fn&& fn) {
  const int count = hi[0] - lo[0];
  if constexpr (D == 2) {
    for (int j = lo[1]; j < hi[1]; ++j) fn(layout.offset({lo[0], j}), count);
  } else {
    for (int k = lo[2]; k < hi[2]; ++k)
      for (int j = lo[1]; j < hi[1]; ++j) fn(layout.offset({lo[0], j, k}), count);
  }
}

/// The same for all cells of a block.
template <int D, class Fn>
void for_rows(const Layout<D>& layout, Fn&& fn) {
  for_rows<D>(layout, Index<D>{}, layout.cells, std::forward<Fn>(fn));
}

/// fn(offset, count) for the rows of faces of a block on the grid's boundary, on one side of an axis; none where the
/// block has a neighbour there.
template <int D, class Fn>
void for_boundary_faces(const Grid<D>& grid, int block, int axis, int side, Fn&& fn) {
  if (grid.forest().neighbour(block, axis, side) >= 0) return;
  Index<D> lo{};
  Index<D> hi = grid.layout().cells;
  lo[axis] = side == 0 ? 0 : hi[axis];
  hi[axis] = lo[axis] + 1;
  for_rows<D>(grid.layout(), lo, hi, std::forward<Fn>(fn));
}

/// fn(shift, square of its length) for all shifts of at most `reach` cells along each axis, the first axis fastest.
template <int D, class Fn>
void for_shifts(int reach, Fn&& fn) {
  const int layers = D == 3 ? reach : 0;
  Index<D> shift{};
  for (int k = -layers; k <= layers; ++k)
    for (int j = -reach; j <= reach; ++j)
      for (int i = -reach; i <= reach; ++i) {
        shift[0] = i;
        shift[1] = j;
        if constexpr (D == 3) shift[2] = k;
        fn(shift, i * i + j * j + k * k);
      }
}

/// The range of cells whose low faces across `axis` are all faces of the block's cells.
template <int D>
Index<D> faces_end(const Layout<D>& layout, int axis) {
  Index<D> hi = layout.cells;
  ++hi[axis];
  return hi;
}

/// Threads that wait for each other over fewer cells each cost more than they bring.
inline constexpr long cells_per_thread = 10000;

/// fn(block) for all blocks, shared between threads. fn must write only to its own block.
template <int D, class Fn>
void for_blocks(const Grid<D>& grid, Fn&& fn) {
  const int count = grid.blocks();
  const bool shared = grid.cell_count() >= 2 * cells_per_thread;
#pragma omp parallel for schedule(static) if (shared)
  for (int b = 0; b < count; ++b) fn(b);
}

/// Sum of fn(block) in tree order: the same bits whatever the number of threads.
template <int D, class Fn>
double sum_blocks(const Grid<D>& grid, Fn&& fn) {
  std::vector<double> parts(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) { parts[static_cast<std::size_t>(b)] = fn(b); });
  double sum = 0;
  for (const double part : parts) sum += part;
  return sum;
}

/// Greatest fn(block); -infinity never comes back as there is at least one block.
template <int D, class Fn>
double max_blocks(const Grid<D>& grid, Fn&& fn) {
  std::vector<double> parts(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) { parts[static_cast<std::size_t>(b)] = fn(b); });
  double greatest = parts.front();
  for (const double part : parts) greatest = part > greatest ? part : greatest;
  return greatest;
}

/// fn(block, offset, index in the whole grid) for every cell, in tree order, on one thread: for output and set-up.
template <int D, class Fn>
void for_cells_in_order(const Grid<D>& grid, Fn&& fn) {
  for (int b = 0; b < grid.blocks(); ++b) {
    const Index<D> start = grid.block_start(b);
    Index<D> cell{};
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) {
        Index<D> global = start;
        for (int d = 0; d < D; ++d) global[d] += cell[d];
        fn(b, o + i, global);
        for (int d = 0; d < D; ++d) {
          if (++cell[d] < grid.layout().cells[d]) break;
          cell[d] = 0;
        }
      }
    });
  }
}

}  // namespace wavy
