#include "dispersed/friction.hpp"

#include <algorithm>
#include <cmath>

namespace wavy::dispersed {
namespace {

template <int D>
WallKinds<D> slipping(WallKinds<D> kinds) {
  for (auto& axis : kinds)
    for (auto& kind : axis) kind = kind == Wall::no_slip ? Wall::slip : kind;
  return kinds;
}

template <int D>
bool slips(const Settings<D>& settings, std::size_t phase) {
  return settings.bodies_slip && !settings.phases[phase].carrier;
}

}  // namespace

template <int D>
WallKinds<D> wall_kinds(const Settings<D>& settings, std::size_t phase) {
  return slips(settings, phase) ? slipping<D>(settings.walls) : settings.walls;
}

template <int D>
Friction<D>::Friction(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary,
                      const Settings<D>& settings, TurningPhases<D>& turning)
    : space_(space),
      boundary_(boundary),
      turning_(turning),
      elements_(
          find_wall_elements<D>(grid, space, {settings.walls, settings.solid_walls}, settings.moving_walls, boundary)),
      body_elements_(find_wall_elements<D>(grid, space, {slipping<D>(settings.walls), Wall::slip}, {}, boundary)),
      walls_(grid, space, settings.moving_walls, elements_),
      stress_(grid, space, settings.walls, walls_, elements_, turning.what_turns()),
      body_stress_(grid, space, slipping<D>(settings.walls), walls_, body_elements_, turning.what_turns()),
      mass_(grid, 1.0) {
  for (int d = 0; d < D; ++d) own_[d] = still_[d] = Cells<D>(grid);
  if (settings.turbulence.law != nullptr) held_ = Cells<D>(grid);
}

template <int D>
void Friction<D>::fill_velocity(const Grid<D>& grid, const Settings<D>& settings, std::size_t phase, int width,
                                State<D>& state) const {
  fill_velocity_halo<D>(grid, space_, wall_kinds<D>(settings, phase), walls_, width, state.u[phase]);
  const auto through = [&](int axis, const OpeningFace<D>& face) {
    return state.phase_u[phase][axis].block(face.block)[face.face];
  };
  boundary_.set_behind(grid, through, state.u[phase]);
}

template <int D>
int Friction<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, double dt, const EddyStress<D>* eddies,
                            State<D>& state) {
  int iterations = 0;
  if (!space_.is_uncut())
    for (auto& component : state.wall_drag) component = Cells<D>(grid);
  for (std::size_t i = 0; i < state.a.size(); ++i) {
    const Properties& fluid = settings.phases[i].fluid;
    // Solids that turn hold what pressure and forces drive, as in the sharp model.
    const bool turns = turning_.what_turns() != nullptr;
    const CellVectors<D>& gains = turns ? state.acceleration[i] : still_;
    if (turns) turning_.solids().keep_gain(grid, state.u[i], gains, dt);
    if (fluid.viscosity <= 0 && !turns) continue;
    auto& stress = slips(settings, i) ? body_stress_ : stress_;
    set_masses(grid, state.a[i], fluid.density);
    double passes = 2 * D * set_faces(grid, state.a[i], fluid, dt, stress);
    if (eddies != nullptr) passes += add_eddies(grid, state.a[i], fluid.density, dt, *eddies, stress);
    const bool explicitly = passes <= 1;
    if (!space_.is_uncut() || turns) set_walls(grid, state.a[i], fluid, dt, explicitly, eddies, stress);
    replace_absent(grid, settings, i, state);
    walls_.set_in_solids(grid, false, state.u[i]);
    if (turns && explicitly) accelerate<D>(grid, space_, gains, dt, state.u[i]);
    fill_velocity(grid, settings, i, 1, state);
    if (explicitly) {
      stress.step_explicitly(grid, mass_, eddies != nullptr, state.u[i]);
      keep_drag(grid, stress, i, dt, state);
    } else {
      constexpr double tolerance = 1e-6;
      const double allowed = tolerance * std::max(greatest_component(grid, state.u[i]), 1e-30);
      stress.set_right_hand_sides(grid, mass_, state.u[i], gains, dt, eddies != nullptr);
      if (turns) accelerate<D>(grid, space_, gains, dt, state.u[i]);
      iterations += stress.solve(grid, mass_, allowed, state.u[i]);
      keep_drag(grid, stress, i, dt, state);
      if (turns) {
        fill_velocity(grid, settings, i, 1, state);
        stress.keep_turning_momenta(grid, mass_, state.u[i]);
      }
      stress.share_in_groups(grid, mass_, state.u[i]);
    }
    if (turns) accelerate<D>(grid, space_, gains, -dt, state.u[i]);
    turning_.keep_momenta(i, state.a[i], least);
    walls_.set_in_solids(grid, true, state.u[i]);
    restore_absent(grid, i, state);
  }
  return iterations;
}

/// What walls of solids have taken of a phase in the step.
template <int D>
void Friction<D>::keep_drag(const Grid<D>& grid, ViscousStress<D>& stress, std::size_t phase, double dt,
                            State<D>& state) const {
  if (space_.is_uncut()) return;
  for_blocks(grid, [&](int b) {
    const auto walls = stress.walls(b);
    const auto& friction = stress.wall_friction(b);
    for (std::size_t k = 0; k < friction.size(); ++k) {
      if (walls[k].of != WallElement<D>::Of::solid) continue;
      const Vec<D> own = walls_.of(walls[k]);
      const std::ptrdiff_t at = walls[k].at;
      for (std::size_t c = 0; c < D; ++c)
        state.wall_drag[c].block(b)[at] += friction[k] / dt * (state.u[phase][c].block(b)[at] - own[c]);
    }
  });
}

template <int D>
Vec<D> Friction<D>::drag(const Settings<D>& settings, const State<D>& state, const WallElement<D>& wall,
                         const EddyStress<D>* eddies) const {
  Vec<D> force{};
  if (wall.of == WallElement<D>::Of::solid && !state.wall_drag[0].data().empty()) {
    for (std::size_t c = 0; c < D; ++c) force[c] = state.wall_drag[c].block(wall.block)[wall.at];
    return force;
  }
  if (wall.kind == Wall::slip || wall.kind == Wall::mirror) return force;
  const Vec<D> own = walls_.of(wall);
  const double turbulent = eddies == nullptr ? 1.0 : eddies->wall_factor(wall);
  for (std::size_t i = 0; i < state.a.size(); ++i) {
    if (slips(settings, i)) continue;
    const double friction = turbulent * wall.friction * settings.phases[i].fluid.viscosity *
                            std::max(state.a[i].block(wall.block)[wall.at], 0.0);
    for (std::size_t c = 0; c < D; ++c)
      if (rubs(wall, c)) force[c] += friction * (state.u[i][c].block(wall.block)[wall.at] - own[c]);
  }
  return force;
}

template <int D>
void Friction<D>::set_masses(const Grid<D>& grid, const Cells<D>& fractions, double rho) {
  const CellRange<D> range = with_layers(grid.layout(), 1);
  for_blocks(grid, [&](int b) {
    const OpenVolumes<D> volume(space_, b);
    const double* a = fractions.block(b);
    double* m = mass_.block(b);
    for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        m[at] = volume[at] > 0 ? volume[at] * rho * std::max(a[at], least) : 1.0;
    });
  });
}

/// The stress on the faces, with the harmonic mean of the fractions: there is none where one side has nothing of the
/// phase, as what is absent has a velocity too. Returns the greatest share of a cell's momentum that passes a face.
template <int D>
double Friction<D>::set_faces(const Grid<D>& grid, const Cells<D>& fractions, const Properties& fluid, double dt,
                              ViscousStress<D>& stress) const {
  const Layout<D>& layout = grid.layout();
  return max_blocks(grid, [&](int b) {
    const double* a = fractions.block(b);
    double greatest = 0;
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double h = grid.geometry(b).spacing[d];
      const double* conductance = space_.is_uncut(b) ? nullptr : space_.face_conductance()[d].block(b);
      std::array<double*, D> face;
      for (int c = 0; c < D; ++c) face[c] = stress.faces()[d][c].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const double low = std::max(a[at - s], 0.0);
          const double high = std::max(a[at], 0.0);
          const double both = low + high > least ? 2 * low * high / (low + high) : 0.0;
          const double value = dt * fluid.viscosity / (h * h) * both * (conductance == nullptr ? 1.0 : conductance[at]);
          for (int c = 0; c < D; ++c) face[c][at] = value;
          greatest = std::max(greatest, value / (fluid.density * std::max(std::min(low, high), least)));
        }
      });
      for (int c = 0; c < D; ++c) boundary_.clear(b, d, stress.faces()[d][c]);
    }
    return greatest;
  });
}

/// The eddies' part of the stress on the faces. Returns how much of what an explicit step allows it takes.
template <int D>
double Friction<D>::add_eddies(const Grid<D>& grid, const Cells<D>& fractions, double rho, double dt,
                               const EddyStress<D>& eddies, ViscousStress<D>& stress) {
  const CellRange<D> range = with_layers(grid.layout(), 1);
  for_blocks(grid, [&](int b) {
    const double* a = fractions.block(b);
    double* held = held_.block(b);
    for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) held[at] = rho * std::max(a[at], least);
    });
  });
  constexpr double of_harmonic_mean = 2;  // by that fractions may make more of a face than of a cell
  return of_harmonic_mean * eddies.add_to(grid, dt, stress.faces());
}

template <int D>
void Friction<D>::set_walls(const Grid<D>& grid, const Cells<D>& fractions, const Properties& fluid, double dt,
                            bool explicitly, const EddyStress<D>* eddies, ViscousStress<D>& stress) const {
  const double mu = fluid.viscosity;
  if (!space_.is_uncut())
    for_blocks(grid, [&](int b) {
      const double* a = fractions.block(b);
      const auto elements = stress.walls(b);
      auto& friction = stress.wall_friction(b);
      for (std::size_t k = 0; k < friction.size(); ++k) {
        const auto& wall = elements[k];
        const double turbulent = eddies == nullptr ? 1.0 : eddies->wall_factor(wall);
        friction[k] = wall.kind == Wall::slip ? 0.0 : turbulent * dt * wall.friction * mu * std::max(a[wall.at], 0.0);
      }
    });
  stress.set_held(grid, mass_, !explicitly);
  if (!space_.axisymmetric()) return;
  // The stress round the axis, 2 mu u_r / r, pulls along r alone.
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    if (space_.is_uncut(b)) return;
    const double* a = fractions.block(b);
    double* radial = stress.held_radial().block(b);
    const double* volume = space_.volume().block(b);
    const double h = grid.geometry(b).spacing[0];
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double r = space_.radius_in_cells(b, layout, at) * h;
        const double eddy = eddies == nullptr ? 0.0 : fluid.density * eddies->state.eddy_viscosity.block(b)[at];
        radial[at] += dt * volume[at] * 2 * (mu + eddy) * std::max(a[at], 0.0) / (r * r);
      }
    });
  });
}

/// Gives a phase the others' velocity where it is absent: what it would do there must not drag what it does where it
/// is.
template <int D>
void Friction<D>::replace_absent(const Grid<D>& grid, const Settings<D>& settings, std::size_t phase, State<D>& state) {
  own_ = state.u[phase];
  for_blocks(grid, [&](int b) {
    const double* a = state.a[phase].block(b);
    for_open_rows<D>(space_, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (a[at] >= least) continue;
        for (int c = 0; c < D; ++c) {
          double momentum = 0;
          double held = 0;
          for (std::size_t i = 0; i < state.a.size(); ++i) {
            const double m = std::max(state.a[i].block(b)[at], 0.0) * settings.phases[i].fluid.density;
            momentum += i == phase ? 0.0 : m * state.u[i][c].block(b)[at];
            held += i == phase ? 0.0 : m;
          }
          state.u[phase][c].block(b)[at] = momentum / held;
        }
      }
    });
  });
}

template <int D>
void Friction<D>::restore_absent(const Grid<D>& grid, std::size_t phase, State<D>& state) const {
  for_blocks(grid, [&](int b) {
    const double* a = state.a[phase].block(b);
    for (int c = 0; c < D; ++c) {
      const double* before = own_[c].block(b);
      double* u = state.u[phase][c].block(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) u[at] = a[at] < least ? before[at] : u[at];
      });
    }
  });
}

template WallKinds<2> wall_kinds<2>(const Settings<2>&, std::size_t);
template WallKinds<3> wall_kinds<3>(const Settings<3>&, std::size_t);
template class Friction<2>;
template class Friction<3>;

}  // namespace wavy::dispersed
