// What turbulence does at walls and to the stress of a flow.
#include <algorithm>
#include <cmath>

#include "flow/turbulence.hpp"

namespace wavy {
namespace {

constexpr double nearest_turning = 0.1;  // to a wall that turns, in cells: its edge is not sharper

/// Speed of a motion along a wall with this normal.
template <int D>
double along_wall(const Vec<D>& relative, const Vec<D>& normal) {
  const double across = dot<D>(relative, normal);
  return std::sqrt(std::max(dot<D>(relative, relative) - across * across, 0.0));
}

/// Stress of a wall over that of laminar flow.
double stress_factor(double friction, double distance, double speed, double nu) {
  return speed > 0 ? std::max(friction * friction * distance / (nu * speed), 1.0) : 1.0;
}

}  // namespace

/// Of the fluid beside a wall, relative to it.
template <int D>
double Turbulence<D>::speed_along(const WallElement<D>& element, const CellVectors<D>& u) const {
  Vec<D> relative = walls_.of(element);
  for (std::size_t d = 0; d < D; ++d) relative[d] = u[d].block(element.block)[element.at] - relative[d];
  return along_wall<D>(relative, element.normal);
}

template <int D>
double Turbulence<D>::wall_factor(const WallElement<D>& element, const CellVectors<D>& u, double nu) const {
  if (!holds(element)) return 1;
  const double speed = speed_along(element, u);
  return stress_factor(friction_at(element, speed, nu), element.distance(), speed, nu);
}

template <int D>
Cells<D> Turbulence<D>::wall_units(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& nu) const {
  Cells<D> result(grid);
  for_blocks(grid, [&](int b) {
    for (const auto& element : elements_[static_cast<std::size_t>(b)]) {
      if (!holds(element)) continue;
      const double own = nu.block(b)[element.at];
      double& most = result.block(b)[element.at];
      most = std::max(most, friction_at(element, speed_along(element, u), own) * element.distance() / own);
    }
  });
  return result;
}

/// Production of k beside walls by their law: a cell there says little of how the velocity grows within it.
template <int D>
void Turbulence<D>::make_at_walls(const Grid<D>& grid, const MeanFlow<D>& flow) {
  for_blocks(grid, [&](int b) {
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      std::fill_n(at_walls_.block(b) + o, n, -1.0);
      std::fill_n(strain_at_walls_.block(b) + o, n, 0.0);
    });
    for (const auto& element : elements_[static_cast<std::size_t>(b)]) {
      if (!holds(element)) continue;
      const double nu = flow.nu.block(b)[element.at];
      make_beside_wall(b, element.at, friction_at(element, speed_along(element, flow.u), nu), element.distance(), nu);
    }
    make_at_turning(b, flow);
  });
}

/// Of a cell at a distance from a wall with this friction velocity; of several walls the one that makes more counts.
template <int D>
void Turbulence<D>::make_beside_wall(int block, std::ptrdiff_t at, double friction, double distance, double nu) {
  double& made = at_walls_.block(block)[at];
  made = std::max(made, wall_production(friction, distance, nu, settings_.roughness));
  const double slope = wall_law_slope(friction * distance / nu, friction * settings_.roughness / nu);
  double& grows = strain_at_walls_.block(block)[at];
  grows = std::max(grows, friction * friction / nu * slope);
}

template <int D>
void Turbulence<D>::find_turning_distances(const Grid<D>& grid) {
  if (turning_ == nullptr) return;
  constexpr double within = 6;  // cells
  const double h = grid.smallest_spacing();
  still_.resize(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    double* distance = distance_.block(b);
    auto& still = still_[static_cast<std::size_t>(b)];
    for (const auto& [at, own] : still) distance[at] = own;
    still.clear();
    for (const auto& [at, own] : turning_->distances(grid, b, within * h)) {
      if (own >= distance[at]) continue;
      still.emplace_back(at, distance[at]);
      distance[at] = std::max(own, nearest_turning * h);
    }
  });
}

/// The same beside solids that turn; nothing is made within them. What molecules and eddies carry to their walls
/// follows from the law too.
template <int D>
void Turbulence<D>::make_at_turning(int block, const MeanFlow<D>& flow) {
  if (turning_ == nullptr) return;
  for (auto& cell : turning_->cells(block)) {
    at_walls_.block(block)[cell.at] = strain_at_walls_.block(block)[cell.at] = 0;
    if (cell.distance <= 0) continue;
    Vec<D> relative;
    for (std::size_t d = 0; d < D; ++d) relative[d] = flow.u[d].block(block)[cell.at] - cell.velocity[d];
    const double speed = along_wall<D>(relative, cell.normal);
    const double distance = distance_.block(block)[cell.at];
    const double nu = flow.nu.block(block)[cell.at];
    const double friction = friction_velocity(speed, distance, nu, settings_.roughness);
    make_beside_wall(block, cell.at, friction, distance, nu);
    cell.wall_viscosity = nu * stress_factor(friction, distance, speed, nu);
  }
}

/// There are no fluctuations within solids, and none at their walls.
template <int D>
void Turbulence<D>::damp_in_turning(const Grid<D>& grid, int block, const MeanFlow<D>& flow, double dt) {
  if (turning_ == nullptr) return;
  const double h = grid.smallest_spacing();
  for (const auto& cell : turning_->cells(block))
    sink_[0].block(block)[cell.at] +=
        cell.inner_penalty(dt) / dt + flow.nu.block(block)[cell.at] / (h * distance_.block(block)[cell.at]);
}

template <int D>
double Turbulence<D>::add_to(const Grid<D>& grid, const Cells<D>& density, const MeanFlow<D>& flow, double dt,
                             const TurbulentState<D>& state, std::array<CellVectors<D>, D>& faces) const {
  const Layout<D>& layout = grid.layout();
  return max_blocks(grid, [&](int b) {
    const double* nu = flow.nu.block(b);
    const double* nu_t = state.eddy_viscosity.block(b);
    const double* rho = density.block(b);
    double greatest = 0;
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = dt / std::pow(grid.geometry(b).spacing[d], 2);
      const double* conductance = space_.is_uncut(b) ? nullptr : space_.face_conductance()[d].block(b);
      std::array<double*, D> face;
      for (int c = 0; c < D; ++c) face[c] = faces[d][c].block(b);
      for_open_rows<D>(space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const double eddy = eddy_viscosity_between(nu_t[at - s], nu_t[at], 0.5 * (nu[at] + nu[at - s]));
          const double mass = 2 * rho[at] * rho[at - s] / (rho[at] + rho[at - s]);  // the lighter moves the less
          const double value = factor * mass * eddy * (conductance == nullptr ? 1.0 : conductance[at]);
          for (int c = 0; c < D; ++c) face[c][at] += value;
          greatest = std::max(greatest, factor * eddy);
        }
      });
    }
    for (const auto& element : elements_[static_cast<std::size_t>(b)]) {
      if (element.of != WallElement<D>::Of::side) continue;
      const auto d = static_cast<std::size_t>(element.axis);
      const double h = grid.geometry(b).spacing[d];
      const double eddy = holds(element) ? (wall_factor(element, flow.u, nu[element.at]) - 1) * nu[element.at] : 0.0;
      const double share = element.area * h;  // of the face
      // In place of the eddies' part, which ends there.
      const double between = eddy_viscosity_between(nu_t[element.face], nu_t[element.face - layout.step[d]],
                                                    0.5 * (nu[element.face] + nu[element.face - layout.step[d]]));
      const double value = dt / (h * h) * rho[element.at] * share * (eddy - between);
      for (std::size_t c = 0; c < D; ++c) faces[d][c].block(b)[element.face] += value;
      greatest = std::max(greatest, dt / (h * h) * eddy);
    }
    constexpr int faces_of_cell = 2 * (D - 1) + 4;  // those across a component's own axis counted twice
    return faces_of_cell * greatest;
  });
}

template double Turbulence<2>::wall_factor(const WallElement<2>&, const CellVectors<2>&, double) const;
template Cells<2> Turbulence<2>::wall_units(const Grid<2>&, const CellVectors<2>&, const Cells<2>&) const;
template void Turbulence<2>::make_at_walls(const Grid<2>&, const MeanFlow<2>&);
template void Turbulence<2>::find_turning_distances(const Grid<2>&);
template void Turbulence<2>::damp_in_turning(const Grid<2>&, int, const MeanFlow<2>&, double);
template double Turbulence<2>::add_to(const Grid<2>&, const Cells<2>&, const MeanFlow<2>&, double,
                                      const TurbulentState<2>&, std::array<CellVectors<2>, 2>&) const;
template double Turbulence<3>::wall_factor(const WallElement<3>&, const CellVectors<3>&, double) const;
template Cells<3> Turbulence<3>::wall_units(const Grid<3>&, const CellVectors<3>&, const Cells<3>&) const;
template void Turbulence<3>::make_at_walls(const Grid<3>&, const MeanFlow<3>&);
template void Turbulence<3>::find_turning_distances(const Grid<3>&);
template void Turbulence<3>::damp_in_turning(const Grid<3>&, int, const MeanFlow<3>&, double);
template double Turbulence<3>::add_to(const Grid<3>&, const Cells<3>&, const MeanFlow<3>&, double,
                                      const TurbulentState<3>&, std::array<CellVectors<3>, 3>&) const;

}  // namespace wavy
