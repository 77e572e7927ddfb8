// Viscosity of every phase, and the friction of walls.
#pragma once

#include <vector>

#include "dispersed/turning.hpp"
#include "flow/turbulence.hpp"
#include "flow/viscous_stress.hpp"
#include "flow/wall_elements.hpp"
#include "flow/wall_velocity.hpp"

namespace wavy::dispersed {

/// How walls meet a phase.
template <int D>
WallKinds<D> wall_kinds(const Settings<D>& settings, std::size_t phase);

/// (E11): u += dt/(a rho) div(a mu (grad u + grad u^T)) phase by phase, explicit or implicit as each needs it.
template <int D>
class Friction {
 public:
  /// Space and boundary must outlive it.
  Friction(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary, const Settings<D>& settings,
           TurningPhases<D>& turning);
  Friction(const Friction&) = delete;
  Friction& operator=(const Friction&) = delete;
  Friction(Friction&&) = delete;
  Friction& operator=(Friction&&) = delete;
  ~Friction() = default;

  /// `eddies`: what turbulence adds for all phases, with held() as the density; null: nothing. Reads a(1); writes u(0).
  /// Returns the iterations of implicit steps.
  int operator()(const Grid<D>& grid, const Settings<D>& settings, double dt, const EddyStress<D>* eddies,
                 State<D>& state);
  /// What the open part of a cell holds of the phase at hand, over its volume [kg/m3]; empty without turbulence.
  [[nodiscard]] const Cells<D>& held() const { return held_; }
  /// Walls move from now on as at this time [s].
  void set_time(double time) { walls_.set_time(time); }
  [[nodiscard]] const WallVelocity<D>& walls() const { return walls_; }
  [[nodiscard]] const WallElements<D>& elements() const { return elements_; }
  /// Force on a piece of wall, over the volume of a cell [N/m3].
  [[nodiscard]] Vec<D> drag(const Settings<D>& settings, const State<D>& state, const WallElement<D>& wall,
                            const EddyStress<D>* eddies) const;
  /// Fills `width` layers of the halo of a phase's velocity, behind walls and openings.
  void fill_velocity(const Grid<D>& grid, const Settings<D>& settings, std::size_t phase, int width,
                     State<D>& state) const;

 private:
  double set_faces(const Grid<D>& grid, const Cells<D>& fractions, const Properties& fluid, double dt,
                   ViscousStress<D>& stress) const;
  void set_masses(const Grid<D>& grid, const Cells<D>& fractions, double rho);
  double add_eddies(const Grid<D>& grid, const Cells<D>& fractions, double rho, double dt, const EddyStress<D>& eddies,
                    ViscousStress<D>& stress);
  void set_walls(const Grid<D>& grid, const Cells<D>& fractions, const Properties& fluid, double dt, bool explicitly,
                 const EddyStress<D>* eddies, ViscousStress<D>& stress) const;
  void keep_drag(const Grid<D>& grid, ViscousStress<D>& stress, std::size_t phase, double dt, State<D>& state) const;
  void replace_absent(const Grid<D>& grid, const Settings<D>& settings, std::size_t phase, State<D>& state);
  void restore_absent(const Grid<D>& grid, std::size_t phase, State<D>& state) const;

  static constexpr double least = 1e-6;  ///< fraction below which a phase is absent
  const OpenSpace<D>& space_;
  const Boundary<D>& boundary_;
  TurningPhases<D>& turning_;
  WallElements<D> elements_;       // to carriers
  WallElements<D> body_elements_;  // to bubbles and drops
  WallVelocity<D> walls_;
  ViscousStress<D> stress_, body_stress_;
  Cells<D> mass_;
  Cells<D> held_;
  CellVectors<D> own_;    // of the phase at hand, before
  CellVectors<D> still_;  // 0
};

}  // namespace wavy::dispersed
