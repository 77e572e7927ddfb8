#include <algorithm>
#include <cmath>
#include <utility>
#include <vector>

#include "sharp/face_viscosity.hpp"
#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

constexpr double tolerance = 1e-6;  // how far a velocity may be off, as a share of the greatest one

/// A cell at a wall in which the liquid is a film or a drop: it is less than half full, as all beside it are.
template <int D>
bool holds_film(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  constexpr double most = 0.5;
  return *F > pure && *F < most &&
         std::ranges::all_of(step, [F](std::ptrdiff_t s) { return F[s] < most && F[-s] < most; });
}

/// Stress of a wall over the mean speed of a film upon it [Pa s/m]: of laminar flow (Nusselt, Z. VDI 60 (1916) 541), or
/// of turbulent flow by Blasius' law with four times the depth as hydraulic diameter, whichever is more.
template <int D>
double film_friction(const Settings<D>& settings, double depth, double speed) {
  const double mu = viscosity(settings, 1, 3 * speed / depth);
  if (mu <= 0) return 0;
  const double rho = settings.liquid.density;
  const double reynolds = rho * speed * 4 * depth / mu;
  const double turbulent = speed > 0 ? 0.0395 * std::pow(reynolds, -0.25) * rho * speed : 0.0;
  return std::max(3 * mu / depth, turbulent);
}

}  // namespace

template <int D>
double viscosity(const Settings<D>& settings, double F, double rate) {
  return viscosities_at(settings, rate).side_by_side(F);
}

template <int D>
Viscosity<D>::Viscosity(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds,
                        const Boundary<D>* boundary, const WallVelocity<D>& walls, const WallElements<D>& elements,
                        TurningSolids<D>* turning)
    : space_(&space),
      boundary_(boundary == nullptr || boundary->closed() ? nullptr : boundary),
      walls_(&walls),
      turning_(turning),
      stress_(grid, space, kinds, walls, elements, turning) {}

template <int D>
int Viscosity<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& extended_fraction,
                             const Cells<D>& mass, State<D>& state, double dt, const EddyStress<D>* eddies) {
  const auto inviscid = [](const Properties& fluid) { return fluid.rheology.constant() && fluid.viscosity <= 0; };
  if (inviscid(settings.liquid) && inviscid(settings.gas) && turning_ == nullptr) return 0;
  if (turning_ != nullptr) turning_->keep_gain(grid, state.u, state.acceleration, dt);
  walls_->set_in_solids(grid, false, state.u);
  const bool by_rate = depends_on_rate(settings);
  if (by_rate) fill_halos(grid, settings, state);
  const auto set_faces = [&] {
    const double molecular =
        set_face_viscosities<D>(grid, *space_, settings, extended_fraction, state.u, dt, stress_.faces());
    return eddies == nullptr ? molecular : molecular + eddies->add_to(grid, dt, stress_.faces()) / explicit_in_bulk;
  };
  const bool explicitly = set_faces() <= 1;
  finish_coefficients(grid, settings, mass, state, dt, explicitly, eddies);
  if (explicitly) {
    accelerate<D>(grid, *space_, state.acceleration, dt, state.u);
    fill_halos(grid, settings, state);
    stress_.step_explicitly(grid, mass, eddies != nullptr, state.u);
    keep_drag(grid, state, dt);
    accelerate<D>(grid, *space_, state.acceleration, -dt, state.u);
    walls_->set_in_solids(grid, true, state.u);
    return 0;
  }
  // The velocity that comes in has the last forces in it and not yet their friction: where the viscosity depends on the
  // shear rate, that of the solution is put in its place (Picard's iteration).
  if (!by_rate) fill_halos(grid, settings, state);
  CellVectors<D> start;
  if (by_rate) start = state.u;
  stress_.set_right_hand_sides(grid, mass, state.u, state.acceleration, dt, eddies != nullptr);
  accelerate<D>(grid, *space_, state.acceleration, dt, state.u);

  const double scale = std::max(greatest_component(grid, state.u), 1e-30);
  int iterations = 0;
  constexpr int rounds = 3;
  for (int round = 0; round < (by_rate ? rounds : 1); ++round) {
    if (round > 0) {
      fill_halos(grid, settings, state);
      set_faces();
      finish_coefficients(grid, settings, mass, state, dt, explicitly, eddies);
      stress_.set_right_hand_sides(grid, mass, start, state.acceleration, dt, eddies != nullptr);
    }
    iterations += stress_.solve(grid, mass, tolerance * scale, state.u);
  }
  keep_drag(grid, state, dt);
  if (turning_ != nullptr) {
    fill_halos(grid, settings, state);
    stress_.keep_turning_momenta(grid, mass, state.u);
  }
  // The cells of a group go on with one velocity, beside what their wall does by itself: fluid so thick follows it.
  stress_.share_in_groups(grid, mass, state.u);
  accelerate<D>(grid, *space_, state.acceleration, -dt, state.u);
  walls_->set_in_solids(grid, true, state.u);
  return iterations;
}

template <int D>
void Viscosity<D>::fill_halos(const Grid<D>& grid, const Settings<D>& settings, State<D>& state) const {
  if (boundary_ == nullptr)
    fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 1, state.u);
  else
    fill_velocity_behind<D>(grid, *space_, settings.walls, *walls_, *boundary_, state.face_u, state.u);
}

/// What solids and openings change: no stress acts through an opening.
template <int D>
void Viscosity<D>::finish_coefficients(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass,
                                       const State<D>& state, double dt, bool explicitly, const EddyStress<D>* eddies) {
  if (!space_->is_uncut() || turning_ != nullptr) hold(grid, settings, mass, state, dt, explicitly, eddies);
  if (boundary_ == nullptr) return;
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d)
      for (int c = 0; c < D; ++c)
        boundary_->clear(b, d, stress_.faces()[static_cast<std::size_t>(d)][static_cast<std::size_t>(c)]);
  });
}

/// Momentum that a wall takes per velocity in a step [kg/m3]. Liquid rests as a film on walls of solids.
template <int D>
double Viscosity<D>::wall_friction_coefficient(const Settings<D>& settings, const Layout<D>& layout,
                                               const State<D>& state, double dt, const WallElement<D>& wall,
                                               const EddyStress<D>* eddies) const {
  if (wall.kind == Wall::slip || wall.friction == 0) return 0;
  const double* F = state.F.block(wall.block) + wall.at;
  const bool film = wall.of == WallElement<D>::Of::solid && holds_film<D>(F, layout.step);
  double speed = 0;  // along the wall
  if (film || depends_on_rate(settings)) {
    const Vec<D> own = walls_->of(wall);
    for (std::size_t c = 0; c < D; ++c) speed += std::pow(state.u[c].block(wall.block)[wall.at] - own[c], 2);
    speed = std::sqrt(speed);
  }
  const double rate = speed > 0 ? speed * wall.friction / wall.area : 0.0;
  const double turbulent = eddies == nullptr ? 1.0 : eddies->wall_factor(wall);
  const double layer = dt * wall.friction * viscosity(settings, *F, rate) * turbulent;
  if (!film) return layer;
  const double depth = *F * space_->volume().block(wall.block)[wall.at] / wall.area;
  return std::max(layer, dt * wall.area * film_friction<D>(settings, depth, speed));
}

template <int D>
Vec<D> Viscosity<D>::drag(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                          const WallElement<D>& wall, const EddyStress<D>* eddies) const {
  const bool kept = wall.of == WallElement<D>::Of::solid && !state.wall_drag[0].data().empty();
  if (kept) {
    Vec<D> taken;
    for (std::size_t c = 0; c < D; ++c) taken[c] = state.wall_drag[c].block(wall.block)[wall.at];
    return taken;
  }
  constexpr double second = 1;
  const double friction = wall_friction_coefficient(settings, grid.layout(), state, second, wall, eddies);
  Vec<D> result = walls_->of(wall);
  for (std::size_t c = 0; c < D; ++c)
    result[c] = rubs(wall, c) ? friction * (state.u[c].block(wall.block)[wall.at] - result[c]) : 0.0;
  return result;
}

/// What walls of solids have taken in the step, by the velocities that it ended with: forces and the pressure change
/// those of thin cells again before anybody asks.
template <int D>
void Viscosity<D>::keep_drag(const Grid<D>& grid, State<D>& state, double dt) {
  if (space_->is_uncut()) return;
  if (state.wall_drag[0].data().empty())
    for (auto& component : state.wall_drag) component = Cells<D>(grid);
  for_blocks(grid, [&](int b) {
    const auto walls = stress_.walls(b);
    const auto& friction = stress_.wall_friction(b);
    for (std::size_t k = 0; k < friction.size(); ++k) {
      if (walls[k].of != WallElement<D>::Of::solid) continue;
      const Vec<D> own = walls_->of(walls[k]);
      const std::ptrdiff_t at = walls[k].at;
      for (std::size_t c = 0; c < D; ++c)
        state.wall_drag[c].block(b)[at] = friction[k] / dt * (state.u[c].block(b)[at] - own[c]);
    }
  });
}

/// Friction of all walls, and what it adds to the masses.
template <int D>
void Viscosity<D>::hold(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass, const State<D>& state,
                        double dt, bool explicitly, const EddyStress<D>* eddies) {
  const Layout<D>& layout = grid.layout();
  if (!space_->is_uncut())
    for_blocks(grid, [&](int b) {
      const auto walls = stress_.walls(b);
      auto& friction = stress_.wall_friction(b);
      for (std::size_t k = 0; k < friction.size(); ++k)
        friction[k] = wall_friction_coefficient(settings, layout, state, dt, walls[k], eddies);
    });
  stress_.set_held(grid, mass, !explicitly);
  if (!space_->axisymmetric()) return;
  // The stress round the axis, 2 mu u_r / r, pulls along r alone.
  for_blocks(grid, [&](int b) {
    if (space_->is_uncut(b)) return;
    const double* F = state.F.block(b);
    double* radial = stress_.held_radial().block(b);
    const double* volume = space_->volume().block(b);
    const Vec<D>& h = grid.geometry(b).spacing;
    std::array<const double*, D> u;
    for (std::size_t c = 0; c < D; ++c) u[c] = state.u[c].block(b);
    for_open_rows<D>(*space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double r = space_->radius_in_cells(b, layout, at) * h[0];
        const double rate = depends_on_rate(settings) ? shear_rate<D>(u, layout, h, 0, at, &r) : 0.0;
        const double mu = viscosity(settings, F[at], rate);
        const double eddy =
            eddies == nullptr ? 0.0 : eddies->density.block(b)[at] * eddies->state.eddy_viscosity.block(b)[at];
        radial[at] += dt * volume[at] * 2 * (mu + eddy) / (r * r);
      }
    });
  });
}

/// Sets `mass` in the open rows of all blocks and one layer round them, by the volume of what is open in each cell.
template <int D>
void set_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                const Cells<D>& volumes, Cells<D>& mass) {
  const CellRange<D> range = with_layers(grid.layout(), 1);
  for_blocks(grid, [&](int b) {
    const double* f = F.block(b);
    double* m = mass.block(b);
    const double* volume = space.is_uncut(b) ? nullptr : volumes.block(b);
    for_open_rows<D>(space, b, grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        const double rho = density(settings, f[o + i]);
        m[o + i] = volume == nullptr ? rho : volume[o + i] > 0 ? volume[o + i] * rho : 1.0;
      }
    });
  });
}

template <int D>
void find_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                 Cells<D>& mass) {
  set_masses(grid, space, settings, F, space.volume(), mass);
}

template <int D>
void find_section_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                         Cells<D>& mass) {
  set_masses(grid, space, settings, F, space.share(), mass);
}

template void find_masses<2>(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, const Cells<2>&, Cells<2>&);
template void find_masses<3>(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, const Cells<3>&, Cells<3>&);
template void find_section_masses<2>(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, const Cells<2>&,
                                     Cells<2>&);
template void find_section_masses<3>(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, const Cells<3>&,
                                     Cells<3>&);
template double viscosity<2>(const Settings<2>&, double, double);
template double viscosity<3>(const Settings<3>&, double, double);
template class Viscosity<2>;
template class Viscosity<3>;

}  // namespace wavy::sharp
