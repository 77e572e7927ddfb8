// What solids leave open of a grid: the cut cells.
//
// Every cell has an open volume and every face an open area, from the solid itself; a cell wholly in the solid takes no
// part. Walls thinner than a cell close whole faces (thin_walls.cpp). Cells with little room are grouped with a
// neighbour that has more, so that they never limit the time step.
#pragma once

#include <algorithm>
#include <functional>
#include <initializer_list>
#include <optional>
#include <vector>

#include "geometry/plane.hpp"
#include "geometry/solids.hpp"
#include "mesh/grid.hpp"

namespace wavy {

/// A wall thinner than a cell, along a plane: it closes the faces between the cells on its two sides, within `extent`.
template <int D>
struct ThinWall {
  Vec<D> point{};   ///< on its middle
  Vec<D> normal{};  ///< of length 1
  Solid<D> extent;  ///< the wall widened to a body: faces whose crossing with the plane lies in it are closed
};

/// A cell that has a wall in it or on one of its faces.
template <int D>
struct WallCell {
  std::ptrdiff_t at = 0;  ///< offset in its block
  Plane<D> open;          ///< in the unit cell: the open part lies below it; the normal is 0 where all of it is open
  Vec<D> wall{};          ///< physical normal of the wall, into the solid; length 1, or 0 where walls cancel
  double area = 0;        ///< of the wall in it, over the volume of a whole cell [1/m]
  Vec<D> middle{};        ///< of what is open, in the unit cell; of its group, where it belongs to one
  /// Sum over its walls of area / distance of that middle to them, over the volume of a whole cell [1/m2].
  double friction = 0;
  bool mirror = false;  ///< no wall: the flow beyond is the mirror image
};

/// A place in a field.
struct CellPlace {
  int block = 0;
  std::ptrdiff_t at = 0;
};

template <int D>
class OpenSpace {
 public:
  static constexpr double small = 0.5;  ///< of a whole cell: cells with less room join a group
  /// All cells open.
  OpenSpace() = default;
  /// What `vessel` encloses (its inside is open), less `inserts` (their insides are solid) and thin walls. Throws no
  /// error; see `parts` for what may be wrong. `axisymmetric` (2-D, from 0 along the first axis on): that axis is the
  /// distance r from an axis of revolution. Volumes and areas are then weighted by r over its greatest value R, so that
  /// 2 pi R stands for the thickness.
  OpenSpace(const Grid<D>& grid, const Solid<D>* vessel, const std::vector<Solid<D>>& inserts,
            const std::vector<ThinWall<D>>& thin_walls, bool axisymmetric = false);

  /// No solid at all, and no axis of revolution: the arrays below are empty.
  [[nodiscard]] bool is_uncut() const { return blocks_.empty(); }
  /// The same of this block and what is next to it.
  [[nodiscard]] bool is_uncut(int block) const { return is_uncut() || !blocks_[static_cast<std::size_t>(block)].cut; }

  /// Open share of every cell (halo filled) and of every low face, weighted as volumes and areas are.
  [[nodiscard]] const Cells<D>& volume() const { return volume_; }
  [[nodiscard]] const Faces<D>& area() const { return area_; }
  /// The same without weights: how much of the cell or face one sees open.
  [[nodiscard]] const Cells<D>& share() const { return axisymmetric_ ? share_ : volume_; }
  [[nodiscard]] const Faces<D>& face_share() const { return axisymmetric_ ? face_share_ : area_; }
  [[nodiscard]] bool axisymmetric() const { return axisymmetric_; }
  /// Within a cell the weight grows like 1 + lean (x - 1/2), x from 0 to 1 along the first axis; 0 without an axis of
  /// revolution.
  [[nodiscard]] double slope(int block, const Layout<D>& layout, std::ptrdiff_t at) const {
    return axisymmetric_ ? 1 / radius_in_cells(block, layout, at) : 0.0;
  }
  /// Weight of a cell that is wholly open.
  [[nodiscard]] double weight(int block, const Layout<D>& layout, std::ptrdiff_t at) const {
    return axisymmetric_ ? radius_in_cells(block, layout, at) / columns_ : 1.0;
  }
  /// Distance of a cell's middle from the axis of revolution, in cells.
  [[nodiscard]] double radius_in_cells(int block, const Layout<D>& layout, std::ptrdiff_t at) const {
    return blocks_[static_cast<std::size_t>(block)].first_column + axis_index<D>(layout, at, 0) + 0.5;
  }

  /// Areas over the distance, across the face and in cells, between the middles of what is open on its two sides: what
  /// is linear in the distance to a wall along an axis has with it the right flux.
  [[nodiscard]] const Faces<D>& face_conductance() const { return face_conductance_; }
  /// 1 / volume, 0 in the solid.
  [[nodiscard]] const Cells<D>& inverse_volume() const { return inverse_; }
  /// Wall cells of a block, by offset.
  [[nodiscard]] const std::vector<WallCell<D>>& wall_cells(int block) const {
    return blocks_[static_cast<std::size_t>(block)].walls;
  }
  /// The wall in one cell of a block; null where there is none.
  [[nodiscard]] const WallCell<D>* wall_in(int block, std::ptrdiff_t at) const;
  /// 1 in wall cells (halo filled), 0 elsewhere.
  [[nodiscard]] const Cells<D>& at_wall() const { return at_wall_; }
  /// For every cell in the solid within `pad` cells of open space, and for those of the first layer of the halo that
  /// touch an open cell: that cell, and the open cell next to it.
  [[nodiscard]] const std::vector<std::array<std::ptrdiff_t, 2>>& solid_extension(int block) const {
    return blocks_[static_cast<std::size_t>(block)].solid_extension;
  }
  /// By block: what is open or within one cell of what is; empty for blocks that are whole. Without solids there are
  /// none.
  [[nodiscard]] const std::vector<RowSpans>& open_spans() const { return open_spans_; }
  /// The same of one block, within what `narrow` has left. Null where that is everything.
  [[nodiscard]] const RowSpans* spans(int block) const {
    const auto& spans = narrow_spans_.empty() ? open_spans_ : narrow_spans_;
    const auto* own = spans.empty() ? nullptr : &spans[static_cast<std::size_t>(block)];
    return own == nullptr || own->empty() ? nullptr : own;
  }
  /// Walls that are mirrors: those of wall cells whose middle answers `mirror` with true have no friction and do not
  /// count as walls.
  void set_mirrors(const Grid<D>& grid, const std::function<bool(const Vec<D>&)>& mirror);
  /// From now on loops over open rows leave out what is more than two cells away from any cell with `away` = 0 (three
  /// layers of whose halo must be filled), and from the cells in `kept`.
  void narrow(const Grid<D>& grid, const Cells<D>& inactive, const std::vector<CellPlace>& kept);
  /// How much of a face thin walls close.
  [[nodiscard]] const Faces<D>& thin() const { return thin_; }
  /// Whether thin walls close a low face of a cell wholly.
  [[nodiscard]] bool is_sheet(int block, int axis, std::ptrdiff_t at) const {
    return thin_[axis].block(block)[at] != 0 && area_[axis].block(block)[at] == 0;
  }
  /// How many faces are closed by solids that are thinner than a cell there.
  [[nodiscard]] long hidden_walls() const { return hidden_walls_; }
  /// Lower and upper corner of every face that a thin wall closes [m].
  [[nodiscard]] const std::vector<std::array<Vec<D>, 2>>& thin_faces() const { return thin_faces_; }
  /// Groups of cells that act as one: a cell with room first, then the small ones. First those within one block, block
  /// by block, then those across blocks.
  [[nodiscard]] const std::vector<std::vector<CellPlace>>& groups() const { return groups_; }
  /// Number of the first group within a block, and of the first after them; for the number of blocks, of those across
  /// blocks.
  [[nodiscard]] std::array<std::size_t, 2> groups_in(int block) const {
    if (is_uncut()) return {};
    return {group_starts_[static_cast<std::size_t>(block)], group_starts_[static_cast<std::size_t>(block) + 1]};
  }
  /// 1 in cells that belong to a group, 0 elsewhere.
  [[nodiscard]] const Cells<D>& grouped() const { return grouped_; }

  [[nodiscard]] double open_volume() const { return open_volume_; }  ///< [m^D]
  [[nodiscard]] double wall_area() const { return wall_area_; }      ///< of cut cells [m^(D-1)]
  [[nodiscard]] long open_cells() const { return open_cells_; }
  /// Shares of the open volume of the unconnected parts that were found, greatest first. Those below a thousandth are
  /// closed.
  [[nodiscard]] const std::vector<double>& parts() const { return parts_; }
  /// A place in each of the parts [m].
  [[nodiscard]] const std::vector<Vec<D>>& part_places() const { return part_places_; }

 private:
  struct Block {
    bool cut = false;
    int first_column = 0;  // of the whole grid
    std::vector<WallCell<D>> walls;
    std::vector<std::array<std::ptrdiff_t, 2>> solid_extension;
  };
  using Distance = std::function<double(const Vec<D>&)>;  // to the nearest wall [m], negative in open space
  void measure(const Grid<D>& grid, const Distance& distance);
  void close_hidden_walls(const Grid<D>& grid, const Distance& distance);
  void close_thin_walls(const Grid<D>& grid, const std::vector<ThinWall<D>>& thin_walls);
  void list_thin_faces(const Grid<D>& grid);
  void join_parts(const Grid<D>& grid);
  CellVectors<D> find_walls(const Grid<D>& grid);
  [[nodiscard]] std::optional<WallCell<D>> wall_of(const Vec<D>& h, int block, std::ptrdiff_t at) const;
  void move_to_middles(const Grid<D>& grid, CellVectors<D>& middle);
  void find_solid_extension(const Grid<D>& grid);
  void find_groups(const Grid<D>& grid);
  [[nodiscard]] std::vector<Vec<D>> middles_in(const Grid<D>& grid, const std::vector<CellPlace>& group) const;
  void find_face_conductances(const Grid<D>& grid, CellVectors<D> middle);
  void find_spans(const Grid<D>& grid);
  void fill_area_halos(const Grid<D>& grid);
  void set_weights(const Grid<D>& grid);

  Cells<D> volume_, inverse_, at_wall_, grouped_;
  Faces<D> area_, face_conductance_;
  bool axisymmetric_ = false;
  int columns_ = 1;  // of cells from the axis of revolution to the end of the grid
  Cells<D> share_;   // these two only where an axis of revolution makes them differ from volume_ and area_
  Faces<D> face_share_;
  Faces<D> thin_;  // how much of a face thin walls close
  std::vector<Block> blocks_;
  std::vector<RowSpans> open_spans_;    // per block
  std::vector<RowSpans> narrow_spans_;  // likewise; empty where nothing was narrowed
  std::vector<std::vector<CellPlace>> groups_;
  std::vector<std::size_t> group_starts_;
  double open_volume_ = 0;
  double wall_area_ = 0;
  long open_cells_ = 0;
  std::vector<double> parts_;
  std::vector<Vec<D>> part_places_;
  std::vector<std::array<Vec<D>, 2>> thin_faces_;
  long hidden_walls_ = 0;
};

/// A space without solids.
template <int D>
const OpenSpace<D>& all_open() {
  static const OpenSpace<D> space;
  return space;
}

/// Open volumes of the cells of one block, as shares of a whole cell; 1 where no solid is near.
template <int D>
class OpenVolumes {
 public:
  OpenVolumes(const OpenSpace<D>& space, int block)
      : volume_(space.is_uncut(block) ? nullptr : space.volume().block(block)) {}
  double operator[](std::ptrdiff_t at) const { return volume_ == nullptr ? 1.0 : volume_[at]; }

 private:
  const double* volume_;
};
/// Open share of one cell, without a weight.
template <int D>
double open_share(const OpenSpace<D>& space, int block, std::ptrdiff_t at) {
  return space.is_uncut(block) ? 1.0 : space.share().block(block)[at];
}

/// Of the cells [lo, hi) of the row with the given index along the other axes, at most one layer outside the block:
/// those that do not lie in a solid with all their neighbours, corners included, nor in what the space has been
/// narrowed by.
template <int D>
std::array<int, 2> open_part(const RowSpans* spans, const Layout<D>& layout, const Index<D>& row, int lo, int hi) {
  if (spans == nullptr) return {lo, hi};
  int number = row[1] + 1;
  if constexpr (D == 3) number += (row[2] + 1) * (layout.cells[1] + 2);
  const auto [first, end] = (*spans)[static_cast<std::size_t>(number)];
  return {std::max(lo, first), std::min(hi, end)};
}

/// for_rows, less what open_part leaves out.
template <int D, class Fn>
void for_open_rows(const OpenSpace<D>& space, int block, const Layout<D>& layout, const Index<D>& lo,
                   const Index<D>& hi, Fn&& fn) {
  const auto* spans = space.spans(block);
  if (spans == nullptr) {
    for_rows<D>(layout, lo, hi, std::forward<Fn>(fn));
    return;
  }
  const auto visit = [&](Index<D> row) {
    const auto [first, end] = open_part<D>(spans, layout, row, lo[0], hi[0]);
    row[0] = first;
    if (first < end) fn(layout.offset(row), end - first);
  };
  if constexpr (D == 2) {
    for (int j = lo[1]; j < hi[1]; ++j) visit({0, j});
  } else {
    for (int k = lo[2]; k < hi[2]; ++k)
      for (int j = lo[1]; j < hi[1]; ++j) visit({0, j, k});
  }
}
template <int D, class Fn>
void for_open_rows(const OpenSpace<D>& space, int block, const Layout<D>& layout, Fn&& fn) {
  for_open_rows<D>(space, block, layout, Index<D>{}, layout.cells, std::forward<Fn>(fn));
}

/// fn(number, group) for the groups within a block, or for those across blocks where `block` is the number of blocks.
/// Their cells lie scattered: what stands there of `fields` is fetched ahead.
template <int D, class Fn>
void for_groups(const OpenSpace<D>& space, int block, std::initializer_list<const Cells<D>*> fields, Fn&& fn) {
  constexpr std::size_t ahead = 12;  // groups
  const auto& groups = space.groups();
  const auto [first, last] = space.groups_in(block);
  for (std::size_t g = first; g < last; ++g) {
    if (g + ahead < last)
      for (const auto& place : groups[g + ahead])
        for (const Cells<D>* field : fields) __builtin_prefetch(field->block(place.block) + place.at);
    fn(g, groups[g]);
  }
}

/// The same for all groups, in parallel.
template <int D, class Fn>
void for_all_groups(const Grid<D>& grid, const OpenSpace<D>& space, std::initializer_list<const Cells<D>*> fields,
                    Fn&& fn) {
  if (space.groups().empty()) return;
  for_blocks(grid, [&](int b) { for_groups<D>(space, b, fields, fn); });
  for_groups<D>(space, grid.blocks(), fields, fn);
}

/// What is open of a grid [m^D], and how many of its cells are.
template <int D>
double open_volume(const Grid<D>& grid, const OpenSpace<D>& space) {
  return space.is_uncut() ? grid.cell_volume() * static_cast<double>(grid.cell_count()) : space.open_volume();
}
template <int D>
long open_cells(const Grid<D>& grid, const OpenSpace<D>& space) {
  return space.is_uncut() ? grid.cell_count() : space.open_cells();
}

/// Gives solid cells of `to` near open ones the value that `from`, whose halo (`pad` layers) must be filled, has in the
/// nearest of these: `pad` cells far, and in the first layer of the halo in those that touch an open cell.
template <int D>
void carry_on(const Grid<D>& grid, const OpenSpace<D>& space, const Cells<D>& from, Cells<D>& to);

/// The entry at an offset in a list that is sorted by `at`; null where there is none.
template <class List>
auto* entry_at(List& list, std::ptrdiff_t at) {
  const auto found = std::ranges::lower_bound(list, at, {}, [](const auto& entry) { return entry.at; });
  return found != list.end() && found->at == at ? &*found : nullptr;
}

/// Where each cell of the whole grid lies.
template <int D>
class CellMap {
 public:
  explicit CellMap(const Grid<D>& grid);
  [[nodiscard]] CellPlace operator()(const Index<D>& cell) const;

 private:
  const Grid<D>& grid_;
  std::vector<int> block_at_;
};

}  // namespace wavy
