// Openings on the walls of solids: what passes them comes into, or leaves, the cells that the walls cut.
#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "sharp/openings.hpp"
#include "sharp/parts.hpp"

namespace wavy::sharp {

/// Returns the area of the opening [m^(D-1)].
template <int D>
double Boundary<D>::find_on_wall(std::size_t opening, const Grid<D>& grid, const OpenSpace<D>& space) {
  double area = 0;
  for (int b = 0; b < grid.blocks() && !space.is_uncut(); ++b)
    for (const auto& wall : space.wall_cells(b)) {
      if (wall.area <= 0) continue;
      WallInlet cell;
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
      area += cell.area * grid.cell_volume();
      wall_cells_.push_back(std::move(cell));
    }
  if (area <= 0)
    throw input_error({},
                      fmt::format("the opening '{}' lies on no wall that the fluid touches", openings_[opening].name),
                      "move it to where the wall is, or make it larger than a cell");
  std::ranges::stable_sort(wall_cells_, [](const WallInlet& a, const WallInlet& b) {
    return a.block != b.block ? a.block < b.block : a.at < b.at;
  });
  return area;
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
      wall_cells_, [&](const WallInlet& cell) { return cell.block != block ? cell.block < block : cell.at < at; });
  return found != wall_cells_.end() && found->block == block && found->at == at && found->share > 0.5;
}

template <int D>
double Boundary<D>::pass_walls(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, double dt,
                               const Field<unsigned char, D>& full, const CellVectors<D>& start, State<D>& state) {
  double gained = 0;
  for (const auto& cell : wall_cells_) {
    double& F = state.F.block(cell.block)[cell.at];
    const double volume = space.volume().block(cell.block)[cell.at];
    const double came = dt * cell.speed * cell.area;         // as a share of a whole cell
    const double counted = full.block(cell.block)[cell.at];  // share of liquid that the sweeps have given it
    const double share = came > 0 ? openings_[cell.opening].share : std::clamp(F, 0.0, 1.0);
    // Of the group: mass and momentum without the false dilation and with what came.
    double mass = 0;
    Vec<D> momentum{};
    for (const auto& place : cell.group) {
      const double held = space.volume().block(place.block)[place.at] *
                          density(settings, std::clamp(state.F.block(place.block)[place.at], 0.0, 1.0));
      mass += held;
      for (std::size_t c = 0; c < D; ++c) momentum[c] += held * state.u[c].block(place.block)[place.at];
    }
    const double false_mass = came * density(settings, counted);
    const double true_mass = came * density(settings, share);

    const double left = mass - false_mass + true_mass;
    for (std::size_t c = 0; c < D; ++c) {
      const double own = start[c].block(cell.block)[cell.at];
      const double comes_with = came > 0 ? cell.speed * cell.inwards[c] : own;
      const double change =
          (momentum[c] - false_mass * own + true_mass * comes_with) / std::max(left, 1e-3 * mass) - momentum[c] / mass;
      for (const auto& place : cell.group) state.u[c].block(place.block)[place.at] += change;
    }
    F += (share - counted) * came / volume;
    const double liquid = share * came * grid.cell_volume();
    const double gas = (1 - share) * came * grid.cell_volume();
    Throughput& throughput = throughput_[cell.opening];
    (came > 0 ? throughput.in : throughput.out)[0] += std::abs(liquid);
    (came > 0 ? throughput.in : throughput.out)[1] += std::abs(gas);
    gained += liquid;
  }
  return gained;
}

template double Boundary<2>::find_on_wall(std::size_t, const Grid<2>&, const OpenSpace<2>&);
template double Boundary<3>::find_on_wall(std::size_t, const Grid<3>&, const OpenSpace<3>&);
template void Boundary<2>::set_sources(double, Cells<2>&);
template void Boundary<3>::set_sources(double, Cells<3>&);
template bool Boundary<2>::passes(int, std::ptrdiff_t) const;
template bool Boundary<3>::passes(int, std::ptrdiff_t) const;
template double Boundary<2>::pass_walls(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, double,
                                        const Field<unsigned char, 2>&, const CellVectors<2>&, State<2>&);
template double Boundary<3>::pass_walls(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, double,
                                        const Field<unsigned char, 3>&, const CellVectors<3>&, State<3>&);

}  // namespace wavy::sharp
