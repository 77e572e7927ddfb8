// Openings on the walls of solids, and in zones: what passes them comes into, or leaves, cells.
#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "flow/openings.hpp"
#include "mesh/cover.hpp"

namespace wavy {

/// Returns the area of the opening [m^(D-1)].
template <int D>
double Boundary<D>::find_on_wall(std::size_t opening, const Grid<D>& grid, const OpenSpace<D>& space) {
  double area = 0;
  for (int b = 0; b < grid.blocks() && !space.is_uncut(); ++b)
    for (const auto& wall : space.wall_cells(b)) {
      if (wall.area <= 0) continue;
      WallInlet<D> cell;
      cell.middle = cell_middle<D>(grid, b, wall.at);
      cell.share = openings_[opening].on_wall(cell.middle);
      if (cell.share <= 0) continue;
      for (const auto& other : wall_cells_)
        if (other.block == b && other.at == wall.at && other.share + cell.share > 1 + 1e-9)
          throw input_error(
              {},
              fmt::format("the openings '{}' and '{}' overlap", openings_[other.opening].name, openings_[opening].name),
              "move one of them, or make it smaller");
      cell.opening = opening;
      cell.block = b;
      cell.at = wall.at;
      cell.area = cell.share * wall.area;
      for (std::size_t d = 0; d < D; ++d) cell.inwards[d] = -wall.wall[d];
      cell.group = {{b, wall.at}};
      for (const auto& group : space.groups())
        if (std::ranges::any_of(group, [&](const auto& c) { return c.block == b && c.at == wall.at; }))
          cell.group = group;
      area += cell.area * grid.geometry(b).cell_volume;
      wall_cells_.push_back(std::move(cell));
    }
  if (area <= 0)
    throw input_error({},
                      fmt::format("the opening '{}' lies on no wall that the fluid touches", openings_[opening].name),
                      "move it to where the wall is, or make it larger than a cell");
  sort_wall_cells();
  return area;
}

template <int D>
void Boundary<D>::sort_wall_cells() {
  std::ranges::stable_sort(wall_cells_, [](const WallInlet<D>& a, const WallInlet<D>& b) {
    return a.block != b.block ? a.block < b.block : a.at < b.at;
  });
}

/// Returns the open volume of the zone [m^D].
template <int D>
double Boundary<D>::find_in_zone(std::size_t opening, const Grid<D>& grid, const OpenSpace<D>& space) {
  double volume = 0;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>& index) {
    WallInlet<D> cell;
    cell.area = OpenVolumes<D>(space, b)[at] * covered_share<D>(grid, space, b, at, index, *openings_[opening].zone);
    if (!(cell.area > 0)) return;
    cell.opening = opening;
    cell.block = b;
    cell.at = at;
    cell.middle = cell_middle<D>(grid, b, at);
    cell.group = {{b, at}};
    volume += cell.area * grid.geometry(b).cell_volume;
    wall_cells_.push_back(std::move(cell));
  });
  if (volume <= 0)
    throw input_error({}, fmt::format("in the zone of the opening '{}' there is no fluid", openings_[opening].name),
                      "move it into the vessel, or make it larger");
  sort_wall_cells();
  return volume;
}

template <int D>
void Boundary<D>::set_sources(double time, Cells<D>& source) {
  const std::vector<double> speed = speeds(time);
  for (auto& cell : wall_cells_) {
    cell.speed = speed[cell.opening];
    source.block(cell.block)[cell.at] = 0;
  }
  for (const auto& cell : wall_cells_) source.block(cell.block)[cell.at] += cell.speed * cell.area;
}

template <int D>
bool Boundary<D>::passes(int block, std::ptrdiff_t at) const {
  const auto found = std::ranges::partition_point(
      wall_cells_, [&](const WallInlet<D>& cell) { return cell.block != block ? cell.block < block : cell.at < at; });
  return found != wall_cells_.end() && found->block == block && found->at == at && found->share > 0.5;
}

template double Boundary<2>::find_on_wall(std::size_t, const Grid<2>&, const OpenSpace<2>&);
template double Boundary<3>::find_on_wall(std::size_t, const Grid<3>&, const OpenSpace<3>&);
template double Boundary<2>::find_in_zone(std::size_t, const Grid<2>&, const OpenSpace<2>&);
template double Boundary<3>::find_in_zone(std::size_t, const Grid<3>&, const OpenSpace<3>&);
template void Boundary<2>::sort_wall_cells();
template void Boundary<3>::sort_wall_cells();
template void Boundary<2>::set_sources(double, Cells<2>&);
template void Boundary<3>::set_sources(double, Cells<3>&);
template bool Boundary<2>::passes(int, std::ptrdiff_t) const;
template bool Boundary<3>::passes(int, std::ptrdiff_t) const;

}  // namespace wavy
