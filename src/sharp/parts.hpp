// The parts of a time step, in the order in which step.cpp calls them. Halos of what is read are filled by the callee.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <optional>

#include "flow/viscous_stress.hpp"
#include "linear/pressure_solver.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "sharp/extended_interface.hpp"
#include "sharp/model.hpp"
#include "sharp/opening_fluxes.hpp"
#include "sharp/wall_slopes.hpp"

namespace wavy::sharp {

/// Cells with F within this of 0 or 1 carry no interface; their F is still moved and kept.
inline constexpr double pure = 1e-10;
inline bool is_mixed(double F) { return F > pure && F < 1 - pure; }

/// Mixed, or full with an empty cell next to it: the interface then runs along the face between them.
template <int D>
bool carries_interface(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  if (is_mixed(*F)) return true;
  if (*F < pure) return false;
  return std::ranges::any_of(step, [F](std::ptrdiff_t s) { return F[s] < pure || F[-s] < pure; });
}

template <int D>
double density(const Settings<D>& s, double F) {
  return s.gas.density + (s.liquid.density - s.gas.density) * F;
}

/// Sets what every cell holds, over the volume of a whole one [kg/m3]; 1 in the solid, where nothing moves, and where
/// loops over open rows do not come it is left. One layer of the halo too: that of F must be filled.
template <int D>
void find_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                 Cells<D>& mass);

/// The same of the sections of rings, where no area counts with the circumference [kg/m3].
template <int D>
void find_section_masses(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, const Cells<D>& F,
                         Cells<D>& mass);

/// Mass that gravity pulls at, per volume: gas that is left out has no weight.
template <int D>
double weighing_density(const Settings<D>& s, double F) {
  return s.free_surface_only ? s.liquid.density * F : density(s, F);
}

/// Viscosity [Pa s] at a shear rate [1/s] where the phases lie side by side and share it.
template <int D>
double viscosity(const Settings<D>& settings, double F, double rate);

/// Fills `width` layers of the halo of F, or all where a contact angle rules. Behind an outer wall that the interface
/// meets, its plane goes on at the contact angle, so that normals and heights beside the wall take that angle (Afkhami
/// & Bussmann, Int. J. Numer. Meth. Fluids 57 (2008) 453). Reads the velocity at the wall when the angle depends on the
/// speed of the line.
template <int D>
void fill_fraction_halo(const Grid<D>& grid, const Settings<D>& settings, Cells<D>& field,
                        const CellVectors<D>& velocity, int width);

/// A cell that acts together with others (see OpenSpace::groups), as a sweep needs it.
template <int D>
struct GroupCell {
  double volume = 0;   ///< open, as a share of a whole cell
  double inverse = 0;  ///< 1 / volume
  Vec<D> before{};     ///< velocity before the sweep
  double mass = 0;     ///< after it, over the volume of a whole cell
  double kept = 0;     ///< share of the difference of its velocity to the group's that it keeps
};

/// A cell of a block, or of the halo beside it, with little room.
template <int D>
struct SmallCell {
  std::ptrdiff_t at = 0;
  Index<D> index{};  ///< in the block
};

/// Where it is kept what passes the low faces of the cells of a block and the high ones of the last, over the volume of
/// a whole cell; null: nowhere.
struct KeptFluxes {
  double* liquid = nullptr;
  double* gas = nullptr;
};

/// Moves F and the momentum rho u by one step with the velocities on the faces. Returns the volume [m^D] that had to be
/// put back onto the interface to keep the liquid at `kept_volume`.
///
/// Directions are split, each with the dilation term of Weymouth & Yue (J. Comput. Phys. 229 (2010) 2853), which keeps
/// 0 <= F <= 1; the momentum moves with the same mass fluxes (Rudman, Int. J. Numer. Meth. Fluids 28 (1998) 357;
/// Arrufat et al., Comput. Fluids 215 (2021) 104785), its face values limited second order in space and, by what
/// pressure and forces add in half a step, in time. `turn` rotates the order.
/// In cut cells everything counts with its open volume and area; small ones share momentum and room with their group.
template <int D>
class Advection {
 public:
  /// `tracers`: what the phases carry along; null: nothing.
  explicit Advection(const Grid<D>& grid, const OpenSpace<D>& space = all_open<D>(), Boundary<D>* boundary = nullptr,
                     const WallVelocity<D>& walls = walls_at_rest<D>(), Tracers<D>* tracers = nullptr);

  double operator()(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt, int turn,
                    double kept_volume);
  [[nodiscard]] ExtendedInterface<D>& extended_interface() { return interface_; }
  /// Beside solids' walls the fluid keeps its profile. Only where there are solids.
  void follow_walls(const Grid<D>& grid, const WallGradients<D>& gradients);
  /// From now on cells with `inactive` = 1 stay empty and still, whatever the loops beside them leave there. It must
  /// outlive this.
  void leave_out(const Cells<D>& inactive) { inactive_ = &inactive; }
  /// Liquid that came in through openings in the last step, less what went out [m^D].
  [[nodiscard]] double gained() const { return gained_; }

 private:
  void find_closed(const Grid<D>& grid);
  void keep_start(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state, double half_step);
  void fill_with_groups(const Grid<D>& grid, const State<D>& state, double dt);
  void find_rests(const Grid<D>& grid, const Cells<D>& F, int axis);
  KeptFluxes kept_fluxes(const Grid<D>& grid, int axis, int block);
  void match_seams(State<D>& state) const;

  const OpenSpace<D>* space_;
  Boundary<D>* boundary_;  // null where it is closed
  std::optional<OpeningFluxes<D>> openings_;
  const WallVelocity<D>* walls_;
  Tracers<D>* tracers_;             // null where there are none
  std::array<Faces<D>, 2> passed_;  // what moves of each phase, as far as it is kept
  /// Cells that a quarter of a turn has beside each other, by the axis across whose low face they are.
  std::vector<std::array<CellPlace, 2>> seam_;
  const Cells<D>* inactive_ = nullptr;
  std::optional<WallSlopes<D>> wall_slopes_;
  double gained_ = 0;
  ExtendedInterface<D> interface_;
  Field<unsigned char, D> full_;  // 1 where F > 1/2 at the start of the step
  CellVectors<D> start_;          // u at the start of the step
  CellVectors<D> gain_;           // of u in half a step
  std::vector<GroupCell<D>> group_cells_;
  std::vector<std::size_t> first_;  // of each group in them
  // Only where there are solids: 1 in open cells that belong to no group, and where a velocity has a slope along an
  // axis; else 0.
  Field<unsigned char, D> alone_;
  std::array<Field<unsigned char, D>, D> smooth_;
  std::vector<std::vector<SmallCell<D>>> small_;  // by block
  Cells<D> rest_;                                 // share of liquid in the others of a cell's group
};

/// (S10), (S11): u += dt/rho div(mu (grad u + grad u^T)), with mu by the shear rate of the u that comes in. Explicit
/// where the step allows it; else implicit in the part of each component by itself (with the doubled normal stress) and
/// explicit in the coupling between components, which vanishes for uniform mu. Returns the iterations.
///
/// On faces near the interface the phases' viscosities are joined by how much of the face's surroundings each fills: in
/// series (harmonic mean) for the shear along the interface, side by side (plain mean) for the stresses within and upon
/// it, so that flow in layers is second-order accurate. (Compare Tryggvason et al., Direct Numerical Simulations of
/// Gas-Liquid Multiphase Flows (2011), sec. 3.4.)
///
/// Friction acts on what pressure and forces drive: u stands with their acceleration of the last step while it is
/// found; without it walls would slip by what they add in this one (the incremental form of van Kan, SIAM J. Sci. Stat.
/// Comput. 7 (1986) 870).
///
/// `extended_fraction`: at least two layers of its halo filled. `mass`: by find_masses, 1 where that leaves it.
/// Solids that do not slip take momentum with the true area of their wall and the mean distance to it.
template <int D>
class Viscosity {
 public:
  Viscosity(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds, const Boundary<D>* boundary,
            const WallVelocity<D>& walls, const WallElements<D>& elements, TurningSolids<D>* turning = nullptr);
  /// In a box with walls at rest.
  explicit Viscosity(const Grid<D>& grid, const WallKinds<D>& kinds = {})
      : Viscosity(grid, all_open<D>(), kinds, nullptr, walls_at_rest<D>(), no_wall_elements<D>()) {}

  /// Nothing where nothing cuts the grid.
  [[nodiscard]] const std::optional<WallGradients<D>>& gradients() const { return stress_.gradients(); }
  /// `eddies`: what turbulence adds; null: nothing.
  int operator()(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& extended_fraction,
                 const Cells<D>& mass, State<D>& state, double dt, const EddyStress<D>* eddies = nullptr);
  /// What the wall of a solid, or a thin one, takes from the fluid, over the volume of a whole cell [N/m3]: a solid's
  /// in the last step, where there was one. Reads F(1), filled.
  [[nodiscard]] Vec<D> drag(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                            const WallElement<D>& wall, const EddyStress<D>* eddies = nullptr) const;

 private:
  void fill_halos(const Grid<D>& grid, const Settings<D>& settings, State<D>& state) const;
  void finish_coefficients(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass,
                           const State<D>& state, double dt, bool explicitly, const EddyStress<D>* eddies);
  [[nodiscard]] double wall_friction_coefficient(const Settings<D>& settings, const Layout<D>& layout,
                                                 const State<D>& state, double dt, const WallElement<D>& wall,
                                                 const EddyStress<D>* eddies) const;
  void keep_drag(const Grid<D>& grid, State<D>& state, double dt);
  void hold(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& mass, const State<D>& state, double dt,
            bool explicitly, const EddyStress<D>* eddies);

  const OpenSpace<D>* space_;
  const Boundary<D>* boundary_;  // null where it is closed
  const WallVelocity<D>* walls_;
  TurningSolids<D>* turning_;  // null where nothing turns
  ViscousStress<D> stress_;
};

/// (S12), (S13): force of G and of surface tension on the faces [m/s2]: (sigma kappa - [rho] G.x) grad F / rho, with
/// place x and curvature kappa of the interface by height functions. The gradient has the stencil of the pressure's, so
/// that a jump that is the same everywhere is balanced exactly (Popinet, Annu. Rev. Fluid Mech. 50 (2018) 49). Also
/// sets inverse_density = 1/rho on the faces. Both count with the open area of the face. Beside walls the place goes
/// straight on from that in the cells near that no wall cuts. The halos of `extended_fraction` and of F must be
/// filled.
template <int D>
class InterfaceForce {
 public:
  explicit InterfaceForce(const Grid<D>& grid, const OpenSpace<D>& space = all_open<D>());
  void operator()(const Grid<D>& grid, const Settings<D>& settings, const Sheets<D>& sheets,
                  const Cells<D>& extended_fraction, const State<D>& state, const Vec<D>& G, Faces<D>& acceleration,
                  Faces<D>& inverse_density);

 private:
  void place_at_walls(const Grid<D>& grid, const Sheets<D>& sheets, const Cells<D>& extended_fraction, double steepest);
  const OpenSpace<D>* space_;
  Cells<D> jump_;       // of the pressure across the interface in the cell [Pa]; NaN where there is none
  Cells<D> curvature_;  // [1/m]
};

}  // namespace wavy::sharp
