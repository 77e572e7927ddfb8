#include "dispersed/eddies.hpp"

#include <algorithm>
#include <cmath>

#include "dispersed/parts.hpp"

namespace wavy::dispersed {

template <int D>
Eddies<D>::Eddies(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary,
                  const Friction<D>& friction, const Settings<D>& settings, TurningSolids<D>* turning)
    : space_(space),
      boundary_(boundary),
      friction_(friction),
      turbulence_(grid, space, boundary, friction.walls(), friction.elements(), settings.turbulence, turning),
      nu_(grid, 1e-6) {
  for (auto& component : u_) component = Cells<D>(grid);
}

template <int D>
void Eddies<D>::find_mixture(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state) {
  const CellRange<D> range = with_layers(grid.layout(), 1);
  const std::size_t phases = settings.phases.size();
  for_blocks(grid, [&](int b) {
    for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double mass = 0;
        double viscosity = 0;
        Vec<D> momentum{};
        for (std::size_t i = 0; i < phases; ++i) {
          const double a = std::max(state.a[i].block(b)[at], 0.0) + trace;
          const double rho = settings.phases[i].fluid.density;
          mass += a * rho;
          viscosity += a * settings.phases[i].fluid.viscosity;
          for (std::size_t c = 0; c < D; ++c) momentum[c] += a * rho * state.u[i][c].block(b)[at];
        }
        nu_.block(b)[at] = viscosity / mass;
        for (std::size_t c = 0; c < D; ++c) u_[c].block(b)[at] = momentum[c] / mass;
      }
    });
  });
  fill_velocity_behind<D>(grid, space_, settings.walls, friction_.walls(), boundary_, state.face_u, u_);
}

template <int D>
void Eddies<D>::start(const Grid<D>& grid, const Settings<D>& settings, State<D>& state) {
  find_mixture(grid, settings, state);
  turbulence_.start(grid, flow(state), state.turbulent);
  stir(grid, settings, state);
}

template <int D>
int Eddies<D>::step(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state) {
  find_mixture(grid, settings, state);
  const int iterations = turbulence_.step(grid, flow(state), dt, state.turbulent);
  stir(grid, settings, state);
  return iterations;
}

/// (E12) nu_b = 0.6 d a_d |u_d - u_c| of all bodies in what carries them: Sato & Sekoguchi, Int. J. Multiphase Flow 2
/// (1975) 79.
template <int D>
void Eddies<D>::stir(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state) {
  felt_.eddy_viscosity = state.turbulent.eddy_viscosity;
  if (!settings.bodies_stir) return;
  constexpr double constant = 0.6;
  constexpr double carries = 0.5;  // fraction from which on a carrier is one
  const CellRange<D> range = with_layers(grid.layout(), 1);
  for_blocks(grid, [&](int b) {
    double* felt = felt_.eddy_viscosity.block(b);
    for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        for (std::size_t c = 0; c < settings.phases.size(); ++c) {
          if (!settings.phases[c].carrier || state.a[c].block(b)[at] < carries) continue;
          for (std::size_t i = 0; i < settings.phases.size(); ++i) {
            if (i == c || settings.phases[i].diameter <= 0) continue;
            double square = 0;
            for (int d = 0; d < D; ++d) square += std::pow(state.u[i][d].block(b)[at] - state.u[c][d].block(b)[at], 2);
            felt[at] +=
                constant * settings.phases[i].diameter * std::max(state.a[i].block(b)[at], 0.0) * std::sqrt(square);
          }
        }
    });
  });
}

template class Eddies<2>;
template class Eddies<3>;

}  // namespace wavy::dispersed
