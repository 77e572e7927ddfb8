// The walls in cut cells: where they are, how far the fluid is from them, and what stands behind them.
#include <algorithm>
#include <cmath>
#include <optional>

#include "geometry/clip.hpp"
#include "geometry/share.hpp"
#include "mesh/open_space.hpp"

namespace wavy {
namespace {

/// Distance of the middle of what is open in a wall cell to its wall [m]; where the wall does not cut the cell half of
/// what is open over its area.
template <int D>
double distance_to_wall(const WallCell<D>& cell, double volume, const Vec<D>& h) {
  if (!cuts(cell.open)) return volume / (2 * cell.area);
  double square = 0;
  for (int d = 0; d < D; ++d) square += cell.open.normal[d] * cell.open.normal[d] / (h[d] * h[d]);
  return (cell.open.offset - dot<D>(cell.open.normal, cell.middle)) / std::sqrt(square);
}

template <int D>
Index<D> index_in_block(const Layout<D>& layout, std::ptrdiff_t at) {
  Index<D> index;
  for (int d = 0; d < D; ++d) index[d] = axis_index<D>(layout, at, d);
  return index;
}

/// The nearest open cell to one in a solid, of those as near the first; the cell itself where none is near. Cells of
/// the halo look one cell far.
template <int D>
std::ptrdiff_t nearest_open(const Layout<D>& layout, const double* volume, std::ptrdiff_t at) {
  const Index<D> own = index_in_block<D>(layout, at);
  int least = pad * pad + 1;
  std::ptrdiff_t source = at;
  bool inside = true;
  for (int d = 0; d < D; ++d) inside = inside && own[d] >= 0 && own[d] < layout.cells[d];
  for_shifts<D>(inside ? pad : 1, [&](const Index<D>& shift, int square) {
    if (square >= least) return;
    for (int d = 0; d < D; ++d)
      if (own[d] + shift[d] < -pad || own[d] + shift[d] >= layout.cells[d] + pad) return;
    const std::ptrdiff_t other = at + layout.offset(shift);
    if (volume[other] == 0) return;
    least = square;
    source = other;
  });
  return source;
}

}  // namespace

template <int D>
std::vector<Vec<D>> OpenSpace<D>::middles_in(const Grid<D>& grid, const std::vector<CellPlace>& group) const {
  std::vector<Vec<D>> corners;  // from that of the first cell, also over the seam of an axis that repeats
  Vec<D> sum{};
  double open_volume = 0;
  for (const auto& place : group) {
    Vec<D> corner;
    const double own = volume_.block(place.block)[place.at];
    const auto* wall = wall_in(place.block, place.at);
    for (int d = 0; d < D; ++d) {
      const auto index = [&](const CellPlace& cell) {
        return grid.geometry(cell.block).start[d] + axis_index<D>(grid.layout(), cell.at, d);
      };
      const int n = grid.cells()[d];
      int apart = index(place) - index(group[0]);
      if (grid.periodic()[d]) apart -= n * static_cast<int>(std::lround(static_cast<double>(apart) / n));
      corner[d] = apart;
      sum[d] += own * (corner[d] + (wall == nullptr ? 0.5 : wall->middle[d]));
    }
    open_volume += own;
    corners.push_back(corner);
  }
  std::vector<Vec<D>> middles;
  for (const auto& corner : corners) {
    middles.emplace_back();
    for (int d = 0; d < D; ++d) middles.back()[d] = sum[d] / open_volume - corner[d];
  }
  return middles;
}

/// The wall in one cell of a block; nothing where none touches it.
template <int D>
std::optional<WallCell<D>> OpenSpace<D>::wall_of(const Vec<D>& h, int b, std::ptrdiff_t at) const {
  const Layout<D>& layout = at_wall_.layout();
  const double* volume = volume_.block(b);
  if (volume[at] == 0) return std::nullopt;
  WallCell<D> cell;
  cell.at = at;
  Vec<D> area{};    // of the wall, as shares of the cell's faces
  double thin = 0;  // friction on thin walls
  bool touched = volume[at] < 1;
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t up = at + layout.step[d];
    const double thin_low = thin_[d].block(b)[at];
    const double thin_high = thin_[d].block(b)[up];
    const double low = area_[d].block(b)[at];
    const double high = area_[d].block(b)[up];
    touched = touched || low < 1 || high < 1;
    area[d] = low + thin_low - high - thin_high;
    thin += (thin_low + thin_high) * 2 / (h[d] * h[d]);
  }
  if (!touched) return std::nullopt;
  double square = 0;
  for (int d = 0; d < D; ++d) {
    cell.wall[d] = area[d] / h[d];
    square += cell.wall[d] * cell.wall[d];
  }
  const double per_volume = std::sqrt(square);  // wall area over the volume of a whole cell [1/m]
  if (per_volume > 0) {
    for (double& c : cell.wall) c /= per_volume;
    if (volume[at] < 1) cell.open = plane_through<D>(area, volume[at]);
  }
  cell.area = per_volume;
  cell.middle.fill(0.5);
  if (cuts(cell.open)) cell.middle = middle_below<D>(cell.open);
  cell.friction = thin + (per_volume > 0 ? per_volume / distance_to_wall<D>(cell, volume[at], h) : 0.0);
  return cell;
}

/// A group feels its walls from the middle of all its room.
template <int D>
void OpenSpace<D>::move_to_middles(const Grid<D>& grid, CellVectors<D>& middle) {
  for (const auto& group : groups_) {
    const auto middles = middles_in(grid, group);
    const Vec<D>& h = grid.geometry(group[0].block).spacing;
    for (std::size_t k = 0; k < group.size(); ++k) {
      for (int d = 0; d < D; ++d) middle[d].block(group[k].block)[group[k].at] = middles[k][d];
      auto* cell = entry_at(blocks_[static_cast<std::size_t>(group[k].block)].walls, group[k].at);
      if (cell == nullptr) continue;
      if (cell->area > 0) {
        const double own = distance_to_wall<D>(*cell, volume_.block(group[k].block)[group[k].at], h);
        double farther = 0;
        for (int d = 0; d < D; ++d) farther += cell->wall[d] * h[d] * (cell->middle[d] - middles[k][d]);
        cell->friction += cell->area * (1 / std::max(0.5 * own, own + farther) - 1 / own);
      }
      cell->middle = middles[k];
    }
  }
}

/// Which blocks are cut, and for cells in solids the open ones that stand for them.
template <int D>
void OpenSpace<D>::find_solid_extension(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    auto& block = blocks_[static_cast<std::size_t>(b)];
    const double* volume = volume_.block(b);
    const double* at_wall = at_wall_.block(b);
    const CellRange<D> all = with_layers(layout, pad);
    for_rows<D>(layout, all.lo, all.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) block.cut = block.cut || volume[at] < 1 || at_wall[at] != 0;
    });
    const CellRange<D> near = with_layers(layout, 1);
    for_rows<D>(layout, near.lo, near.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (volume[at] > 0) continue;
        const std::ptrdiff_t source = nearest_open<D>(layout, volume, at);
        if (source != at) block.solid_extension.push_back({at, source});
      }
    });
  });
}

/// The wall in every cut cell, its friction, and the solid cells next to open ones. Returns the middle of what is open
/// in every cell, of its group where it belongs to one, seen from the cell's lower corner [cells].
template <int D>
CellVectors<D> OpenSpace<D>::find_walls(const Grid<D>& grid) {
  CellVectors<D> middle;
  for (auto& component : middle) component = Cells<D>(grid, 0.5);
  wall_area_ += sum_blocks(grid, [&](int b) {
    auto& block = blocks_[static_cast<std::size_t>(b)];
    const BlockGeometry<D>& geometry = grid.geometry(b);
    double* at_wall = at_wall_.block(b);
    double area = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const auto cell = wall_of(geometry.spacing, b, at);
        if (!cell) continue;
        area += cell->area * geometry.cell_volume;
        at_wall[at] = 1;
        for (int d = 0; d < D; ++d) middle[d].block(b)[at] = cell->middle[d];
        block.walls.push_back(*cell);
      }
    });
    return area;
  });
  move_to_middles(grid, middle);
  fill_halo(grid, at_wall_, pad, all_walls<D>(Mirror::even));
  find_solid_extension(grid);
  return middle;
}

template <int D>
void OpenSpace<D>::find_face_conductances(const Grid<D>& grid, CellVectors<D> middle) {
  const Layout<D>& layout = grid.layout();
  fill_halo(grid, middle, 1, even_vector<D>());
  for (int axis = 0; axis < D; ++axis) {
    for_turned_faces(grid, axis, [&](int b, std::ptrdiff_t o, int n) {  // seen from the other end of their cells
      const std::ptrdiff_t first = o - layout.step[axis];
      for (std::ptrdiff_t at = first; at < first + n; ++at) middle[axis].block(b)[at] += 1;
    });
    face_conductance_[axis] = area_[axis];
    const std::ptrdiff_t s = layout.step[axis];
    for_blocks(grid, [&](int b) {
      double* face_conductance = face_conductance_[axis].block(b);
      const double* place = middle[axis].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, axis), [&](std::ptrdiff_t o, int n) {
        constexpr double least = 0.5;  // within a group there is no way between the middles
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          face_conductance[at] /= std::max(least, 1 + place[at] - place[at - s]);
      });
    });
  }
}

template std::vector<Vec<2>> OpenSpace<2>::middles_in(const Grid<2>&, const std::vector<CellPlace>&) const;
template CellVectors<2> OpenSpace<2>::find_walls(const Grid<2>&);
template void OpenSpace<2>::find_face_conductances(const Grid<2>&, CellVectors<2>);
template std::vector<Vec<3>> OpenSpace<3>::middles_in(const Grid<3>&, const std::vector<CellPlace>&) const;
template CellVectors<3> OpenSpace<3>::find_walls(const Grid<3>&);
template void OpenSpace<3>::find_face_conductances(const Grid<3>&, CellVectors<3>);

}  // namespace wavy
