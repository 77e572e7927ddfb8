// The sharp-interface model (docs/method.md, (S1), (S2), (S3)): two immiscible phases, one velocity, one pressure, an
// interface moved geometrically.
//
// F is the share of each cell that the denser phase ("liquid") fills; u the velocity at the cells' centres, `face_u`
// its normal component on their faces, free of divergence. The pressure p is the true one less rho G.x, G being gravity
// less the acceleration of the tank: what is left of G is a force on the interface alone, which balances a liquid at
// rest exactly. One time step (step.cpp) reads, in this order:
//
//   1. advect       F, momentum     by the face velocities, geometrically    (advection.cpp)
//   2. diffuse      u               implicit viscosity                       (viscosity.cpp)
//   3. force        faces           G and surface tension on the interface   (interface_force.cpp)
//   4. project      u, face_u, p    div u = 0                                (step.cpp, linear/pressure_solver.cpp)
//
// F and u leap over each other by half a step, which makes small waves second-order accurate in time.
#pragma once

#include <array>
#include <functional>
#include <numbers>
#include <string>

#include "flow/openings.hpp"
#include "flow/tracers.hpp"
#include "flow/turbulence.hpp"
#include "flow/turning_solids.hpp"
#include "flow/wall_elements.hpp"
#include "flow/wall_velocity.hpp"
#include "flow/walls.hpp"
#include "geometry/vector.hpp"
#include "linear/pressure_solver.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "physics/fluids.hpp"

namespace wavy::sharp {

template <int D>
struct Settings {
  Properties liquid;                            ///< the denser phase
  Properties gas;                               ///< the lighter one (which may be a liquid too)
  double surface_tension = 0;                   ///< [N/m]
  double contact_angle = std::numbers::pi / 2;  ///< in the liquid, between wall and interface at rest [rad]
  double slip_length = 0;                       ///< [m]; above 0 the angle follows the speed of the contact line
  WallKinds<D> walls{};                         ///< of the grid's boundary: [axis][lower, upper]
  Wall solid_walls = Wall::no_slip;             ///< of the solids that cut the grid
  MovingWalls<D> moving_walls;                  ///< must be of walls that do not slip
  TurningSettings<D> turning;                   ///< solids that turn in the fluid

  /// Only the liquid is computed; the pressure on its surface is 0. `gas` then has a density that is too small to
  /// matter, and no viscosity.
  bool free_surface_only = false;
  double outside_density = 1.204;            ///< of what is outside openings [kg/m3]
  std::function<Vec<D>(double)> body_force;  ///< G(t) [m/s2]: gravity less the tank's acceleration
  TurbulenceSettings<D> turbulence;          ///< without a law: laminar
  std::vector<TracerSettings<D>> tracers;    ///< of phases 0, the liquid, and 1
  std::vector<GasTransfer> transfers;        ///< through the interface
  double courant = 0.4;                      ///< greatest sum over axes of |u| dt / h; at most 0.5
  double projection_tolerance = 1e-6;        ///< greatest volume error of a cell in one step, as a share of the cell
  int most_iterations = 200;
};

/// What limits the time step.
enum class StepLimit { advection, gravity_waves, capillary_waves };
std::string name_of(StepLimit limit);

template <int D>
struct State {
  explicit State(const Grid<D>& grid);
  double time = 0;
  Cells<D> F;        ///< share of the open part of the cell that the denser phase fills
  CellVectors<D> u;  ///< [m/s]
  Cells<D> p;        ///< pressure less rho G.x [Pa]
  /// Of the last step, by pressure and forces; 0 beside the interface, where one cell says little of the next [m/s2].
  CellVectors<D> acceleration;
  Faces<D> face_u;  ///< volume flow over the whole area of the face, open or not [m/s]
  /// What the walls of solids took from the fluid by friction in the last step, over the volume of a whole cell; empty
  /// before the first step, and where nothing is cut [N/m3].
  CellVectors<D> wall_drag;
  TurbulentState<D> turbulent;
  std::vector<Cells<D>> tracers;  ///< concentrations in their phases [kg/m3]
  /// What others keep beside the flow, by name and component; no halos.
  std::map<std::string, std::vector<Cells<D>>> beside;
};

/// What one step did; summed up in the ledger.
struct StepReport {
  double dt = 0;
  int pressure_iterations = 0;
  bool pressure_converged = true;
  int viscous_iterations = 0;
  int turbulent_iterations = 0;
  double divergence = 0;            ///< greatest |div u| dt of a cell after the projection
  double volume_correction = 0;     ///< liquid put back onto the interface, because div u is not quite 0 [m^D]
  std::array<double, 4> seconds{};  ///< wall time: advection, viscosity, forces, projection
};

template <int D>
class ExtendedInterface;

/// A flat piece of the interface: in a cell that both phases share, or on a face of a cell where one phase reaches up
/// to it and the other fills the cell beyond.
template <int D>
struct InterfacePiece {
  int block = 0;
  std::ptrdiff_t at = 0;  ///< the cell
  double area = 0;        ///< weighted as areas of the grid are [m^(D-1)]
};

/// A model with its work arrays.
template <int D>
class Model {
 public:
  Model(const Grid<D>& grid, Settings<D> settings, OpenSpace<D> space = {},
        const std::vector<Opening<D>>& openings = {});
  ~Model();
  Model(const Model&) = delete;
  Model& operator=(const Model&) = delete;
  Model(Model&&) = delete;
  Model& operator=(Model&&) = delete;

  State<D>& state() { return state_; }
  [[nodiscard]] const State<D>& state() const { return state_; }
  [[nodiscard]] const Grid<D>& grid() const { return grid_; }
  [[nodiscard]] const Settings<D>& settings() const { return settings_; }
  [[nodiscard]] const OpenSpace<D>& space() const { return space_; }
  [[nodiscard]] Boundary<D>& boundary();
  [[nodiscard]] const Boundary<D>& boundary() const;

  /// What the fluids can fill [m^D].
  [[nodiscard]] double open_volume() const { return wavy::open_volume(grid_, space_); }

  /// Call once after F has been set: takes the liquid's volume as the one to keep, and finds the pressure of the start.
  void start();
  /// (S19), (S20): greatest stable step of the physics, and what limits it.
  [[nodiscard]] double stable_step(StepLimit& limit) const;
  /// Null where the flow is laminar.
  [[nodiscard]] const Turbulence<D>* turbulence() const;
  /// Distance of first cells from their walls in wall units; 0 elsewhere, and where the flow is laminar.
  [[nodiscard]] Cells<D> wall_units() const;
  /// What drives the flow could bring about now, at most [m/s]: all given flow through one face, the speed of walls,
  /// and what the lighter phase (the liquid where gas is left out) would gain by all work of gravity, of the tank's
  /// acceleration, of given pressures and of surface tension.
  [[nodiscard]] double speed_by_drive() const;
  /// Where the fluid is fastest, or no longer finite, in words: "(x, y) m".
  [[nodiscard]] std::string fastest_place() const;
  /// Advances by dt. Throws a failure that names place and time when the velocity is no longer finite.
  StepReport step(double dt);

  /// All that the next step depends on. A model that was made of the same case, not started, goes on with it to the
  /// same bits.
  void archive(Archive& a);

  /// To be called once state() has been given the time, F, u and p of another run of the same case: all that can be
  /// measured is then as it was there, with the body force of its last step. Such a model cannot go on.
  void recall(const Vec<D>& body_force);
  /// Solids that turn in the fluid, where they are at the time of the state, and the loads of the last step.
  [[nodiscard]] TurningSolids<D>& turning_solids();
  [[nodiscard]] const TurningSolids<D>& turning_solids() const;
  [[nodiscard]] const Tracers<D>& tracers() const;
  /// kLa of a transfer in every cell, per volume of the vessel [1/s]; no halos.
  [[nodiscard]] Cells<D> transfer_rate(std::size_t transfer) const;
  /// Body force of the last step, along axes that do not repeat [m/s2].
  [[nodiscard]] const Vec<D>& body_force() const { return G_; }

  /// Volume of the denser phase [m^D], summed in tree order.
  [[nodiscard]] double liquid_volume() const;
  /// Kinetic energy per thickness [J/m^(3-D)].
  [[nodiscard]] double kinetic_energy() const;
  /// Potential energy in a uniform field of gravity [m/s2], 0 for all fluid at the origin, each phase by the middle of
  /// what it fills of a cell, per thickness [J/m^(3-D)].
  [[nodiscard]] double potential_energy(const Vec<D>& gravity) const;
  /// What viscosity turns into heat, by (S21), per thickness [W/m^(3-D)].
  [[nodiscard]] double dissipation() const;
  /// Shear rate sqrt(2 S:S) in every cell, S = (grad u + grad u^T)/2 by central differences; one-sided beside gas that
  /// is left out, 0 in it [1/s].
  [[nodiscard]] Cells<D> shear_rate() const;
  /// All pieces of the interface in the open cells, in the grid's order.
  void for_interface(const std::function<void(const InterfacePiece<D>&)>& take) const;
  [[nodiscard]] double greatest_speed() const;
  /// Share of the cells that the liquid's neighbourhood takes, where the gas is left out; else 1.
  [[nodiscard]] double computed_share() const;
  /// rho G.x at a place where F is as given [Pa].
  [[nodiscard]] double hydrostatic_pressure(double F, const Vec<D>& place) const;
  [[nodiscard]] const WallElements<D>& wall_elements() const;
  /// What a wall takes from the fluid by friction, over the volume of a whole cell [N/m3]; nothing across sides and
  /// thin walls.
  [[nodiscard]] Vec<D> drag(const WallElement<D>& element) const;
  /// Mean of p + rho G.x over the lighter phase (over everything where there is none): the zero of pressures. 0 where a
  /// pressure is given, at an opening or on the surface [Pa].
  [[nodiscard]] double reference_pressure() const;
  /// p + rho G.x in every cell, less the reference [Pa].
  [[nodiscard]] Cells<D> true_pressure() const;
  /// What is left of the pressure when each phase's hydrostatic head is taken off, counted from the height (along G) at
  /// which both phases then have the mean 0: it vanishes in a liquid at rest [Pa].
  [[nodiscard]] Cells<D> dynamic_pressure() const;

 private:
  [[nodiscard]] const ExtendedInterface<D>& extended_interface() const;
  [[nodiscard]] const WallVelocity<D>& wall_velocity() const;
  [[nodiscard]] Vec<D> drag_of_side(const WallElement<D>& side) const;
  void start_flows();
  void leave_out_gas_cells();

  struct Work;
  const Grid<D>& grid_;
  Settings<D> settings_;
  OpenSpace<D> space_;
  State<D> state_;

  void set_body_force(double time);

  // Of the last step [m/s2]: what has a potential, and what drives the flow along periodic axes, which has none.
  Vec<D> G_{};
  Vec<D> drive_{};
  double kept_volume_ = 0;
  int steps_ = 0;
  double last_step_ = 0;  // [s]
  std::unique_ptr<Work> work_;
};

}  // namespace wavy::sharp
