// Turbulence of the mixture of all phases, what bubbles and drops add to it, and how it spreads them.
#pragma once

#include "dispersed/friction.hpp"
#include "dispersed/model.hpp"
#include "flow/turbulence.hpp"

namespace wavy::dispersed {

/// One turbulence for all phases, that of the mixture by mass: in a bubbly liquid that of the liquid. All phases feel
/// its eddy viscosity.
template <int D>
class Eddies {
 public:
  /// Space, boundary, friction and what turns must outlive it.
  Eddies(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary, const Friction<D>& friction,
         const Settings<D>& settings, TurningSolids<D>* turning = nullptr);

  void start(const Grid<D>& grid, const Settings<D>& settings, State<D>& state);
  /// Reads a(1), u(1). Returns the iterations.
  int step(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state);
  /// The mixture as it is now, for what is asked between steps. Reads a(1), u(0).
  void find_mixture(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state);

  [[nodiscard]] MeanFlow<D> flow(const State<D>& state) const { return {u_, state.face_u, nu_, nullptr, state.time}; }
  /// What phases feel: its own eddy viscosity, and what bodies stir (Sato).
  [[nodiscard]] const TurbulentState<D>& felt() const { return felt_; }
  [[nodiscard]] const Turbulence<D>& turbulence() const { return turbulence_; }
  [[nodiscard]] const Cells<D>& nu() const { return nu_; }
  [[nodiscard]] const CellVectors<D>& velocity() const { return u_; }

 private:
  void stir(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state);

  const OpenSpace<D>& space_;
  const Boundary<D>& boundary_;
  const Friction<D>& friction_;
  Turbulence<D> turbulence_;
  CellVectors<D> u_;  // of the mixture by mass [m/s]
  Cells<D> nu_;
  TurbulentState<D> felt_;
};

}  // namespace wavy::dispersed
