// The grid: blocks of cells on a forest, arrays of cell and face values on them, and the loops over both.
//
// Every array has one layout: each block's cells with `pad` layers round them, the first axis contiguous. All arrays
// of a block therefore share their offsets, and the low faces of cells n (one beyond the last) have their place too.
// Kernels see one block: pointers to its cell (0, 0, 0) and offsets; they know nothing of the forest.
#pragma once

#include <cassert>
#include <cstddef>
#include <memory>
#include <optional>
#include <type_traits>
#include <vector>

#include "base/archive.hpp"
#include "base/staggered.hpp"
#include "geometry/vector.hpp"
#include "mesh/forest.hpp"
#include "mesh/halo.hpp"

namespace wavy {

/// How many cells, and in which blocks.
template <int D>
struct Partition {
  Index<D> cells{};        ///< of the whole grid
  Index<D> block_cells{};  ///< of one block; divides `cells`
};

/// The cells nearest to a wanted size that a grid can have, to half a percent, at least 4 along each axis, in blocks of
/// about 64 cells a side in 2-D, and 64 x 32 x 32 in 3-D (32 along each axis where there would be few). Depends on the
/// sizes alone, so that results do not depend on threads. With half a turn: an even number along the second axis, up to
/// 4 % off, that can be halved often; with a quarter: as many along the second as along the first, and in the blocks.
template <int D>
Partition<D> partition(const Vec<D>& extent, double cell_size, Turn turn = Turn::none);

/// Where a block lies, and the size of its cells.
template <int D>
struct BlockGeometry {
  int level = 0;            ///< 0 for a root block; each level halves the cells
  Index<D> start{};         ///< index of its cell (0, 0, 0) in a whole grid of its level
  Vec<D> lower{};           ///< its lower corner [m]
  Vec<D> spacing{};         ///< [m]
  double cell_volume = 0;   ///< [m^D]; the thickness of a 2-D case is not the grid's business
  double volume_ratio = 1;  ///< of its cells' volume to that of a root block's: a power of two, which rounds nothing
};

template <int D>
class Grid {
 public:
  /// With a turn the lower side of the first axis, or of the first two, is no boundary; beyond it lies the same grid,
  /// turned.
  Grid(const Vec<D>& lower, const Vec<D>& upper, const Partition<D>& partition,
       const std::array<bool, D>& periodic = {}, Turn turn = Turn::none);

  [[nodiscard]] const Vec<D>& lower() const { return lower_; }
  [[nodiscard]] const Vec<D>& upper() const { return upper_; }
  /// Of the cells of root blocks [m].
  [[nodiscard]] const Vec<D>& spacing() const { return spacing_; }
  [[nodiscard]] double smallest_spacing() const;
  [[nodiscard]] double cell_volume() const;  ///< the same [m^D]
  [[nodiscard]] const std::array<bool, D>& periodic() const { return periodic_; }
  [[nodiscard]] Turn turn() const { return forest_->turn(); }
  /// Whether what lies below the low faces of cells of this index along an axis is turned.
  [[nodiscard]] bool turned_below(int axis, int index) const { return index == 0 && turns_below(turn(), axis); }
  /// Where the upright line of the turn is, along the first two axes [m].
  [[nodiscard]] Vec<2> turning_axis() const {
    return {lower_[0], turn() == Turn::half ? 0.5 * (lower_[1] + upper_[1]) : lower_[1]};
  }
  /// The cell beyond a side of a cell; none beyond the boundary.
  [[nodiscard]] std::optional<Index<D>> beyond(Index<D> cell, int axis, int side) const;
  [[nodiscard]] const Index<D>& cells() const { return cells_; }
  [[nodiscard]] long cell_count() const { return product(cells_); }
  [[nodiscard]] const Layout<D>& layout() const { return layout_; }
  [[nodiscard]] const Forest<D>& forest() const { return *forest_; }
  [[nodiscard]] int blocks() const { return static_cast<int>(forest_->leaves().size()); }
  [[nodiscard]] const BlockGeometry<D>& geometry(int block) const {
    assert(block >= 0 && block < blocks());
    return geometry_[static_cast<std::size_t>(block)];
  }
  [[nodiscard]] const HaloPlan<D>& halo() const { return *halo_; }

 private:
  void find_geometry();

  Vec<D> lower_;
  Vec<D> upper_;
  Vec<D> spacing_;
  Index<D> cells_;
  std::array<bool, D> periodic_{};
  Layout<D> layout_;
  std::shared_ptr<const Forest<D>> forest_;
  std::vector<BlockGeometry<D>> geometry_;
  std::shared_ptr<const HaloPlan<D>> halo_;
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
  const BlockGeometry<D>& geometry = grid.geometry(block);
  Vec<D> place = geometry.lower;
  for (int d = 0; d < D; ++d) place[d] += (axis_index<D>(grid.layout(), at, d) + 0.5) * geometry.spacing[d];
  return place;
}

/// A grid of cells of nearly this size from corner to corner.
template <int D>
Grid<D> grid_over(const Vec<D>& lower, const Vec<D>& upper, double cell_size, const std::array<bool, D>& periodic = {},
                  Turn turn = Turn::none) {
  Vec<D> extent;
  for (int d = 0; d < D; ++d) extent[d] = upper[d] - lower[d];
  return Grid<D>(lower, upper, partition<D>(extent, cell_size, turn), periodic, turn);
}

/// One value per cell (or per low face of each cell) on all blocks.
template <class T, int D>
class Field {
 public:
  Field() = default;
  explicit Field(const Grid<D>& grid, T value = T{})
      : layout_(grid.layout()), data_(layout_.size * static_cast<std::size_t>(grid.blocks()), value) {}

  /// Pointer to cell (0, 0, 0) of a block.
  [[nodiscard]] T* block(int b) { return data_.data() + start(b); }
  [[nodiscard]] const T* block(int b) const { return data_.data() + start(b); }
  [[nodiscard]] const Layout<D>& layout() const { return layout_; }
  [[nodiscard]] StaggeredArray<T>& data() { return data_; }
  [[nodiscard]] const StaggeredArray<T>& data() const { return data_; }

 private:
  [[nodiscard]] std::size_t start(int b) const {
    const std::size_t before = static_cast<std::size_t>(b) * layout_.size;
    assert(b >= 0 && before < data_.size());
    return before + static_cast<std::size_t>(layout_.first);
  }

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

/// Fills `width` <= pad layers round every block from its neighbours and by the rules at the walls, edges and corners
/// included. `spans`, by block: what does not count may be left as it is; all counts in blocks for which they are
/// empty.
template <int D>
void fill_halo(const Grid<D>& grid, Cells<D>& field, int width, const std::type_identity_t<HaloRules<D>>& rules,
               const std::vector<RowSpans>& spans = {});
/// The same of vectors, which turn with what lies beyond an end that is turned; without components that are empty.
template <int D>
void fill_halo(const Grid<D>& grid, std::type_identity_t<CellVectors<D>>& field, int width,
               const std::type_identity_t<VectorRules<D>>& rules, const std::vector<RowSpans>& spans = {});
/// The same of one component of vectors, on grids without a quarter of a turn.
template <int D>
void fill_component_halo(const Grid<D>& grid, int component, Cells<D>& field, int width,
                         const std::type_identity_t<HaloRules<D>>& rules);
/// The same of values without a sign on the low faces, those of a block's last high faces known; walls are mirrors of
/// cells, which writes on the upper boundary.
template <int D>
void fill_face_halo(const Grid<D>& grid, std::type_identity_t<Faces<D>>& field, int width);
/// The same across one axis alone: next to the faces of every block, without edges and corners.
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, Cells<D>& field, int width,
                      const std::type_identity_t<HaloRules<D>>& rules, const std::vector<RowSpans>& spans = {});
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, std::type_identity_t<CellVectors<D>>& field, int width,
                      const std::type_identity_t<VectorRules<D>>& rules, const std::vector<RowSpans>& spans = {});

/// Where other sides meet an end that is turned, one layer beyond both gets what stands there in the turned grid: for
/// vectors of which the halo beyond those sides was changed after it had been filled, as by openings.
template <int D>
void fill_turned_edges(const Grid<D>& grid, std::type_identity_t<CellVectors<D>>& field);

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

/// fn(block, offset, count) for the rows of faces at the lower end of an axis of a grid that is turned there; each of
/// these faces is another of such ends too.
template <int D, class Fn>
void for_turned_faces(const Grid<D>& grid, int axis, Fn&& fn) {
  Index<D> hi = grid.layout().cells;
  hi[axis] = 1;
  for (int b = 0; b < grid.blocks(); ++b)
    if (grid.forest().turned(b, axis, 0))
      for_rows<D>(grid.layout(), Index<D>{}, hi, [&](std::ptrdiff_t o, int n) { fn(b, o, n); });
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

/// The same of what fn(block) finds in cells of the block, counted in cells of root blocks.
template <int D, class Fn>
double sum_volumes(const Grid<D>& grid, Fn&& fn) {
  return sum_blocks(grid, [&](int b) { return grid.geometry(b).volume_ratio * fn(b); });
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
    const Index<D> start = grid.geometry(b).start;
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
