// The stress of a viscosity on the faces, and the friction of walls, upon one velocity: for any model, laminar or not.
#pragma once

#include <array>
#include <optional>
#include <span>
#include <type_traits>
#include <vector>

#include "flow/implicit_diffusion.hpp"
#include "flow/turning_solids.hpp"
#include "flow/wall_elements.hpp"
#include "flow/wall_gradients.hpp"
#include "flow/wall_velocity.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// Greatest size of any component in any cell [m/s].
template <int D>
double greatest_component(const Grid<D>& grid, const std::type_identity_t<CellVectors<D>>& u);

/// u += dt times an acceleration, in the open rows of all blocks.
template <int D>
void accelerate(const Grid<D>& grid, const OpenSpace<D>& space,
                const std::type_identity_t<CellVectors<D>>& acceleration, double dt,
                std::type_identity_t<CellVectors<D>>& u);

/// (S10): u += dt/rho div(mu (grad u + grad u^T)), explicit or, in the part of each component by itself (with the
/// doubled normal stress), implicit; the coupling between components is then explicit, and vanishes for uniform mu.
///
/// Who uses it sets, before each step, mu on the faces and what walls take; masses are per volume of a whole cell, 1
/// where nothing is open. Cells of a group act as one (cell merging).
template <int D>
class ViscousStress {
 public:
  /// Space, walls, their elements and solids that turn, where there are any, must outlive it. `kinds`: of the sides.
  ViscousStress(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds, const WallVelocity<D>& walls,
                const WallElements<D>& elements, TurningSolids<D>* turning = nullptr);

  /// Nothing where nothing cuts the grid.
  [[nodiscard]] const std::optional<WallGradients<D>>& gradients() const { return gradients_; }

  /// To be set on the open faces of all blocks: dt mu / h^2 times the space's conductance, by axis of the face and
  /// component of the velocity [kg/m3].
  [[nodiscard]] std::array<CellVectors<D>, D>& faces() { return face_; }
  [[nodiscard]] const std::array<CellVectors<D>, D>& faces() const { return face_; }
  /// The walls of a block that take momentum by friction: solids and thin walls.
  [[nodiscard]] std::span<const WallElement<D>> walls(int block) const {
    return beside_solids<D>(elements_[static_cast<std::size_t>(block)]);
  }
  /// To be set for each of these: momentum that it takes per velocity in the step [kg/m3].
  [[nodiscard]] std::vector<double>& wall_friction(int block) {
    return wall_friction_[static_cast<std::size_t>(block)];
  }
  /// Once both are set, for an implicit step or an explicit one; held_radial() comes after it.
  void set_held(const Grid<D>& grid, const Cells<D>& mass, bool implicitly);
  /// What a component of the velocity in a cell is held by: mass and friction of walls; of component 0 round an axis
  /// the caller adds the stress round it, 2 dt mu / r^2 times the open volume.
  [[nodiscard]] Cells<D>& held_radial() { return held_[0]; }

  /// `law_of_wall`: solids are met by it. Reads u(1), filled; writes u(0).
  void step_explicitly(const Grid<D>& grid, const Cells<D>& mass, bool law_of_wall, CellVectors<D>& velocity);
  /// rhs = rho (u + dt a) + dt sum_d d_d(mu d_c u_d), d != c. Reads u(1), filled.
  void set_right_hand_sides(const Grid<D>& grid, const Cells<D>& mass, const CellVectors<D>& u,
                            const CellVectors<D>& acceleration, double dt, bool law_of_wall);
  /// The velocity, from a first guess in u, until no cell is off by more than `allowed` [m/s]. Returns the iterations
  /// of all its components.
  int solve(const Grid<D>& grid, const Cells<D>& mass, double allowed, CellVectors<D>& u);
  /// What the momenta of cells in turning solids are by a solution u of all components. Reads u(1), filled.
  void keep_turning_momenta(const Grid<D>& grid, const Cells<D>& mass, const CellVectors<D>& u);
  /// One velocity for all cells of a group, beside that of their walls.
  void share_in_groups(const Grid<D>& grid, const Cells<D>& mass, CellVectors<D>& u) const;

 private:
  [[nodiscard]] bool is_radial(int c) const { return c == 0 && space_.axisymmetric(); }
  [[nodiscard]] const Cells<D>& held(int c, const Cells<D>& mass) const {
    return held_[0].data().empty() ? mass : held_[static_cast<std::size_t>(c)];
  }
  template <class Fn>
  void for_moving_wall_momentum(int block, Fn&& fn) const;
  void find_gradients(const CellVectors<D>& u, bool law_of_wall);
  void put_gradients(const Grid<D>& grid, int block, std::size_t c, const CellVectors<D>& u, const double* mass,
                     double* out) const;
  void penalise(const Grid<D>& grid, std::size_t c, const Cells<D>& mass, Cells<D>& u);

  const OpenSpace<D>& space_;
  WallKinds<D> kinds_;
  const WallVelocity<D>& wall_velocity_;
  const WallElements<D>& elements_;
  TurningSolids<D>* turning_;                       // null where nothing turns
  std::vector<std::vector<double>> wall_friction_;  // by block, as walls()
  CellVectors<D> held_;                             // empty where there are no solids
  /// A cell that gradients tell of, of a block or of the layer round it.
  struct Told {
    std::ptrdiff_t at = 0;
    Index<D> index{};
    std::size_t kept = 0;
  };
  std::optional<WallGradients<D>> gradients_;
  std::optional<KeptGradients<D>> kept_;
  std::vector<std::vector<Told>> told_;  // by block
  ImplicitDiffusion<D> implicit_;
  CellVectors<D> rhs_;
  std::array<CellVectors<D>, D> face_;
};

}  // namespace wavy
