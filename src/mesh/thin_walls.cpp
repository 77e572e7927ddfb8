// Walls thinner than a cell: they close whole faces, whether the case names them as such or solids are thin there.
#include <algorithm>
#include <atomic>
#include <cmath>
#include <optional>

#include "geometry/share.hpp"
#include "mesh/open_space.hpp"

namespace wavy {
namespace {

/// Finds the walls that cut cells do not see: where a way between two places in the open is blocked by a solid that
/// ends within a cell's length.
template <int D>
class HiddenWalls {
 public:
  using Distance = std::function<double(const Vec<D>&)>;

  HiddenWalls(const Distance& distance, const Vec<D>& spacing)
      : distance_(distance),
        spacing_(spacing),
        size_(*std::ranges::min_element(spacing)),
        diagonal_(length<D>(spacing)) {}

  /// How much thin walls leave of the ways through a face between its two cells: 1 where none parts them. `below` and
  /// `above` are the face's lower corner as seen from either cell (they differ where an axis repeats).
  [[nodiscard]] double open_share(const Vec<D>& below, const Vec<D>& above, int axis) const {
    const auto a = static_cast<std::size_t>(axis);
    const auto end = open_place(above);
    if (!end || end->room > diagonal_) return 1;
    Vec<D> corner = below;
    corner[a] -= spacing_[a];
    const auto start = open_place(corner);
    if (!start) return 1;
    const auto across = [&](const Vec<D>& from, const Vec<D>& to) {  // through the face
      Vec<D> leaves;
      for (std::size_t d = 0; d < D; ++d) leaves[d] = 0.5 * (from[d] + to[d]);
      Vec<D> enters = leaves;
      leaves[a] = below[a];
      enters[a] = above[a];
      return std::max(met(from, leaves), met(enters, to));
    };
    const Met straight = across(start->place, end->place);
    if (straight == Met::nothing && !start->beside_thin && !end->beside_thin) return 1;
    // Ways through all places of the face, and on to where the two stand for their cells.
    constexpr int ways = D == 2 ? 16 : 8;  // along each axis
    constexpr int count = D == 2 ? ways : ways * ways;
    const auto way = [&](int n) {
      Vec<D> from = start->place;
      Vec<D> to = end->place;
      for (std::size_t d = 0; d < D; ++d) {
        if (d == a) continue;
        from[d] = to[d] = below[d] + (n % ways + 0.5) / ways * spacing_[d];
        n /= ways;
      }
      return std::max({met(start->place, from), met(end->place, to), across(from, to)});
    };
    if (straight != Met::solid && std::ranges::all_of(std::array{0, ways - 1, count - ways, count - 1},
                                                      [&](int n) { return way(n) == straight; }))
      return straight == Met::nothing ? 1 : 0;
    std::array<int, 3> found{};
    for (int n = 0; n < count; ++n) ++found[static_cast<std::size_t>(way(n))];
    const auto [open, solid, parted] = found;  // ways into solids that are thick are none
    return parted == 0 ? 1.0 : static_cast<double>(open) / (open + parted);
  }

 private:
  struct OpenPlace {
    Vec<D> place;
    double room = 0;           // distance from the wall [m]
    bool beside_thin = false;  // whether that wall may be a thin one
  };

  /// The place that stands for what is open in the cell whose lower corner is given: its middle, or where that is
  /// solid the place farthest from any wall; none in a cell that is solid.
  [[nodiscard]] std::optional<OpenPlace> open_place(const Vec<D>& lower) const {
    OpenPlace best{lower};
    for (std::size_t d = 0; d < D; ++d) best.place[d] += 0.5 * spacing_[d];
    best.room = -distance_(best.place);
    if (best.room <= 0) {
      constexpr int places = corners_per_axis;  // where volumes are told from
      const double ahead = 1e-6 * size_;        // of two as far the first, in all cells alike
      best.room = 0;
      for (int n = 0; n < (D == 2 ? places * places : places * places * places); ++n) {
        Vec<D> place = lower;
        int rest = n;
        for (std::size_t d = 0; d < D; ++d, rest /= places) place[d] += (rest % places) * spacing_[d] / (places - 1);
        const double room = -distance_(place);
        if (room <= best.room + ahead) continue;
        best.room = room;
        best.place = place;
      }
      if (best.room == 0) return std::nullopt;
    }
    if (best.room > diagonal_) return best;
    const Vec<D> inwards = towards_wall(best.place);
    best.beside_thin = ends_within_a_cell(along<D>(best.place, best.room, inwards), inwards);
    return best;
  }

  enum class Met { nothing, solid, thin_wall };

  /// What stands between two places at most a cell apart.
  [[nodiscard]] Met met(const Vec<D>& from, const Vec<D>& to) const {
    const Vec<D> way = minus<D>(to, from);
    const double extent = length<D>(way);
    const double least = 1e-3 * size_;  // thinner walls may be stepped over
    Vec<D> outside = from;
    for (double gone = 0;;) {
      const Vec<D> place = along<D>(from, extent > 0 ? gone / extent : 0.0, way);
      const double room = -distance_(place);
      if (room <= 0) return gone > 0 && ends_within_a_cell(place, towards_wall(outside)) ? Met::thin_wall : Met::solid;
      if (gone >= extent) return Met::nothing;
      outside = place;
      gone = std::min(extent, gone + std::max(least, 0.9 * room));  // distances are true to first order
    }
  }

  /// Direction of the nearest wall, of length 1; 0 where there is none.
  [[nodiscard]] Vec<D> towards_wall(const Vec<D>& place) const {
    const double hair = 1e-5 * size_;
    Vec<D> result{};
    for (std::size_t d = 0; d < D; ++d) {
      Vec<D> above = place;
      Vec<D> below = place;
      above[d] += hair;
      below[d] -= hair;
      result[d] = distance_(above) - distance_(below);
    }
    const double steepness = length<D>(result);
    for (double& component : result) component = steepness > 0 ? component / steepness : 0.0;
    return result;
  }

  /// Whether a solid is left again on the way straight into it from a place on its wall, within a cell's diagonal.
  [[nodiscard]] bool ends_within_a_cell(const Vec<D>& place, const Vec<D>& inwards) const {
    constexpr int probes = 10;
    for (int k = 1; k <= probes; ++k)
      if (distance_(along<D>(place, diagonal_ * k / probes, inwards)) < 0) return true;
    return false;
  }

  const Distance& distance_;
  Vec<D> spacing_;
  double size_;      // of a cell along its shortest axis
  double diagonal_;  // of a cell
};

/// fn(axis, offset, at the seam?) for the low faces of a block's cells, and the high ones of its last, that are open in
/// part at least and have a cell on either side, across the seam of an axis that repeats too.
template <int D, class Fn>
void for_open_faces(const Grid<D>& grid, int block, const Faces<D>& area, Fn&& fn) {
  const Layout<D>& layout = grid.layout();
  const Index<D> start = grid.geometry(block).start;
  for (int axis = 0; axis < D; ++axis)
    for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, axis), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const int place = start[axis] + axis_index<D>(layout, at, axis);
        const bool at_end = place == 0 || place == grid.cells()[axis];
        const bool turned = grid.turned_below(axis, place);
        if (area[axis].block(block)[at] == 0 || (at_end && !grid.periodic()[axis] && !turned)) continue;
        fn(axis, at, at_end && !turned);  // what is turned goes on from here
      }
    });
}

}  // namespace

/// Closes the faces between cells that a solid parts although it is too thin to fill any of them: without it the cells
/// on its two sides, or the two parts of a cell, would be one. At the end of such a wall a face is open in part.
template <int D>
void OpenSpace<D>::close_hidden_walls(const Grid<D>& grid, const Distance& distance) {
  const Layout<D>& layout = grid.layout();
  const HiddenWalls<D> walls(distance, grid.spacing());
  std::atomic<long> closed = 0;
  for_blocks(grid, [&](int b) {
    for_open_faces<D>(grid, b, area_, [&](int axis, std::ptrdiff_t at, bool seam) {
      Vec<D> lower = grid.geometry(b).lower;
      for (int d = 0; d < D; ++d) lower[d] += axis_index<D>(layout, at, d) * grid.spacing()[d];
      // Over the seam of an axis that repeats the cells of a face lie at the two ends of the grid.
      Vec<D> lower_of_above = lower;
      Vec<D> lower_of_below = lower;
      if (seam) {
        lower_of_above[axis] = grid.lower()[axis];
        lower_of_below[axis] = grid.lower()[axis] + grid.cells()[axis] * grid.spacing()[axis];
      }
      double& area = area_[axis].block(b)[at];
      const double share = walls.open_share(lower_of_below, lower_of_above, axis);
      // Where a face's own share is told too, it is finer than one from a few ways.
      const double told_apart = share > 0 && area < 1 ? 0.125 : 0.0;
      if (share >= area - told_apart) return;
      thin_[axis].block(b)[at] = area - share;
      area = share;
      // Those at a block's upper end are the next block's.
      if (share == 0 && axis_index<D>(layout, at, axis) < layout.cells[axis]) ++closed;
    });
  });
  hidden_walls_ = closed;
}

/// Closes the faces whose two cells lie on different sides of a thin wall.
template <int D>
void OpenSpace<D>::close_thin_walls(const Grid<D>& grid, const std::vector<ThinWall<D>>& thin_walls) {
  const Vec<D>& h = grid.spacing();
  for (const auto& wall : thin_walls)
    for_blocks(grid, [&](int b) {
      for_open_faces<D>(grid, b, area_, [&](int axis, std::ptrdiff_t at, bool seam) {
        if (seam) return;
        const Vec<D> upper = cell_middle<D>(grid, b, at);  // above the face
        const double above = dot<D>(minus<D>(upper, wall.point), wall.normal);
        const double below = above - wall.normal[axis] * h[axis];
        if ((above >= 0) == (below >= 0)) return;
        Vec<D> crossing = upper;
        crossing[axis] -= h[axis] * above / (above - below);
        if (wall.extent.distance(crossing) > 0) return;
        thin_[axis].block(b)[at] += area_[axis].block(b)[at];
        area_[axis].block(b)[at] = 0;
      });
    });
}

/// Lists the faces that thin walls close, for all to see.
template <int D>
void OpenSpace<D>::list_thin_faces(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  for (int b = 0; b < grid.blocks(); ++b) {
    const Vec<D> corner = grid.geometry(b).lower;
    for (int axis = 0; axis < D; ++axis)
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {  // a block's uppermost faces are its neighbour's
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          if (!is_sheet(b, axis, at)) continue;
          std::array<Vec<D>, 2> face;
          for (int d = 0; d < D; ++d) {
            face[0][d] = corner[d] + axis_index<D>(layout, at, d) * h[d];
            face[1][d] = face[0][d] + (d == axis ? 0.0 : h[d]);
          }
          thin_faces_.push_back(face);
        }
      });
  }
}

template void OpenSpace<2>::close_hidden_walls(const Grid<2>&, const Distance&);
template void OpenSpace<2>::close_thin_walls(const Grid<2>&, const std::vector<ThinWall<2>>&);
template void OpenSpace<2>::list_thin_faces(const Grid<2>&);
template void OpenSpace<3>::close_hidden_walls(const Grid<3>&, const Distance&);
template void OpenSpace<3>::close_thin_walls(const Grid<3>&, const std::vector<ThinWall<3>>&);
template void OpenSpace<3>::list_thin_faces(const Grid<3>&);

}  // namespace wavy
