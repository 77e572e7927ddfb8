// The Eulerian model (docs/method.md, (E1), (E2), (E3)): two to six phases that share one pressure, each with its own
// fraction and its own velocity; bubbles and drops too many and too small to be followed one by one.
//
// A phase is a carrier, continuous where it is plentiful, or dispersed in bubbles or drops of one size. a is the
// fraction of a phase, u its velocity in the cells, phase_u its velocity on the faces, face_u the volume of all phases
// that passes them. The pressure p is the true one less rho G.x, rho being the density of the mixture. One time step
// (step.cpp) reads, in this order:
//
//   1. transport    a, u            by the velocities on the faces           (fraction_transport.cpp, momentum.cpp)
//   2. diffuse      u               viscosity of each phase                  (friction.cpp)
//   3. couple       faces           forces and drag of all phases at once    (coupling.cpp, layers.cpp)
//   4. project      face_u, p       div of the sum = 0                       (flow/projection.cpp, divergence_tree.cpp)
//   5. return       u               from the faces to the cells              (coupling.cpp)
#pragma once

#include <algorithm>
#include <array>
#include <functional>
#include <map>
#include <memory>
#include <string>
#include <vector>

#include "flow/openings.hpp"
#include "flow/tracers.hpp"
#include "flow/turbulence.hpp"
#include "flow/turning_solids.hpp"
#include "flow/wall_elements.hpp"
#include "flow/wall_velocity.hpp"
#include "flow/walls.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "physics/bubbles_and_drops.hpp"
#include "physics/fluids.hpp"

namespace wavy::dispersed {

inline constexpr int most_phases = 6;

struct Phase {
  std::string name;
  Properties fluid;
  bool carrier = false;
  double diameter = 0;   ///< of its bubbles or drops, where another phase carries it [m]
  bool gas = false;      ///< it leaves through degassing surfaces
  std::string family{};  ///< name that it shares with other size classes of the same fluid; empty: none
  /// Greatest fraction that its bodies reach, with those of all others that have one; 1: they may fill all.
  double packing = 1;
};

/// Number of the lightest phase that is a carrier; they stand the densest first.
inline std::size_t lightest_carrier(const std::vector<Phase>& phases) {
  std::size_t found = phases.size() - 1;
  while (found > 0 && !phases[found].carrier) --found;
  return found;
}

/// What acts between two phases. Of two carriers each is dispersed where the other is plentiful.
struct Pair {
  int first = 0;
  int second = 1;
  double surface_tension = 0;  ///< [N/m]
  Drag first_in_second;        ///< where the second carries the first
  Drag second_in_first;
  double virtual_mass = 0;                                    ///< coefficient; a sphere has 0.5
  const Closure* lift = nullptr;                              ///< null: none
  const WallLubrication* wall_lubrication = nullptr;          ///< null: none
  const TurbulentDispersion* turbulent_dispersion = nullptr;  ///< null: none
};

template <int D>
struct Settings {
  std::vector<Phase> phases;  ///< the densest first
  std::vector<Pair> pairs;
  WallKinds<D> walls{};  ///< of the grid's boundary, to carriers: [axis][lower, upper]
  Wall solid_walls = Wall::no_slip;
  MovingWalls<D> moving_walls;               ///< carry carriers along
  TurningSettings<D> turning;                ///< solids that turn in all phases
  bool bodies_slip = true;                   ///< bubbles and drops slip along walls
  double outside_density = 1.204;            ///< of what is outside openings [kg/m3]
  std::function<Vec<D>(double)> body_force;  ///< G(t) [m/s2]: gravity less the tank's acceleration
  /// How far a place is from the nearest wall that bubbles are pushed off [m]; empty: there is none.
  std::function<double(const Vec<D>&)> wall_distance{};
  /// By opening: fractions of the phases in what comes in; empty: as `composition`, all with the same velocity.
  std::vector<std::vector<double>> inlet_fractions;
  /// Numbers of openings that are degassing surfaces (their flow counts as given): gas leaves as it arrives, and all
  /// else slips along as at a wall. Where no pressure is given anywhere, what comes in beyond that spills over them
  /// evenly: a growing holdup pushes liquid out of a full vessel; as it falls again, that comes back.
  std::vector<std::size_t> degassing;
  [[nodiscard]] bool degasses(std::size_t opening) const {
    return std::ranges::find(degassing, opening) != degassing.end();
  }
  TurbulenceSettings<D> turbulence;        ///< of the mixture; without a law: laminar
  std::vector<TracerSettings<D>> tracers;  ///< of any phases
  std::vector<GasTransfer> transfers;      ///< between them and gases
  bool bodies_stir = true;                 ///< bubbles and drops add to its eddy viscosity
  double courant = 0.4;                    ///< greatest sum over axes of |u| dt / h of any phase; at most 0.5
  double projection_tolerance = 1e-6;
  int most_iterations = 200;
};

/// What limits the time step.
enum class StepLimit { advection, gravity_waves };
std::string name_of(StepLimit limit);

template <int D>
struct State {
  State(const Grid<D>& grid, std::size_t phases, std::size_t pairs);
  double time = 0;
  std::vector<Cells<D>> a;        ///< fraction of the open part of the cell
  std::vector<CellVectors<D>> u;  ///< [m/s]
  /// Of the last step, by forces, drag and pressure; 0 beside the surfaces of layers [m/s2].
  std::vector<CellVectors<D>> acceleration;
  Cells<D> p;                     ///< pressure less rho G.x [Pa]
  Faces<D> face_u;                ///< volume flow over the whole area of the face, open or not [m/s]
  std::vector<Faces<D>> phase_u;  ///< of each phase, over what it takes of the open part [m/s]
  /// Of walls of solids, on all phases, by the last step, over a cell's volume [N/m3]; empty before, and without them.
  CellVectors<D> wall_drag;
  TurbulentState<D> turbulent;
  std::vector<Cells<D>> tracers;  ///< concentrations in their phases [kg/m3]
  std::vector<Cells<D>> rate;     ///< by pair: drag per volume, slip and both fractions; 0 at the start [kg/(m3 s)]
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
  double divergence = 0;            ///< greatest |div| dt of a cell that the pressure has left
  std::array<double, 4> seconds{};  ///< wall time: transport, viscosity, coupling, projection
};

template <int D>
class Model {
 public:
  /// Asserts that there are two to six phases.
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
  [[nodiscard]] std::size_t phases() const { return settings_.phases.size(); }

  /// Call once after the fractions have been set: finds the pressure of the start.
  void start();
  [[nodiscard]] double stable_step(StepLimit& limit) const;
  /// Advances by dt. Throws a failure that names place and time when a velocity is no longer finite.
  StepReport step(double dt);

  /// All that the next step depends on. A model that was made of the same case, not started, goes on with it to the
  /// same bits.
  void archive(Archive& a);
  /// To be called once state() has been given the time, a, u and p of another run of the same case: all that can be
  /// measured is then as it was there, with the body force of its last step. Such a model cannot go on.
  void recall(const Vec<D>& body_force);
  /// Body force of the last step, along axes that do not repeat [m/s2].
  [[nodiscard]] const Vec<D>& body_force() const { return G_; }

  /// What the fluids can fill [m^D].
  [[nodiscard]] double open_volume() const { return wavy::open_volume(grid_, space_); }
  /// Volume of a phase [m^D], summed in tree order.
  [[nodiscard]] double volume(std::size_t phase) const;
  [[nodiscard]] double greatest_speed(std::size_t phase) const;
  /// Of all phases, each where there is enough of it to limit the step.
  [[nodiscard]] double greatest_speed() const;
  /// What drives the flow could bring about now, at most [m/s]: all given flow through one face, and what the lightest
  /// phase would gain by all work of gravity, of the tank's acceleration and of given pressures.
  [[nodiscard]] double speed_by_drive() const;
  /// Where a phase that counts is fastest, or no longer finite, in words: "(x, y) m".
  [[nodiscard]] std::string fastest_place() const;
  /// Kinetic energy of all phases per thickness [J/m^(3-D)].
  [[nodiscard]] double kinetic_energy() const;
  /// Potential energy in a uniform field of gravity [m/s2], 0 for all fluid at the origin, all fluid of a cell being at
  /// the middle of what is open in it, per thickness [J/m^(3-D)].
  [[nodiscard]] double potential_energy(const Vec<D>& gravity) const;
  /// Of all walls, as they meet the carriers.
  [[nodiscard]] const WallElements<D>& wall_elements() const;
  /// Force of friction of all phases on a piece of wall, over the volume of a cell [N/m3].
  [[nodiscard]] Vec<D> drag(const WallElement<D>& element) const;
  /// The zero of pressures: 0 where a pressure is given at an opening; else the mean on the degassing surfaces, or
  /// without those the mean over the lightest carrier [Pa].
  [[nodiscard]] double reference_pressure() const;
  /// p + rho G.x in every cell, less the reference [Pa].
  [[nodiscard]] Cells<D> true_pressure() const;
  /// sqrt(2 S:S) of the flow of all phases' volume [1/s]; no halos.
  [[nodiscard]] Cells<D> shear_rate() const;
  /// What the viscosity of all phases turns into heat, each by its own velocity, per thickness [W/m^(3-D)]. What drag
  /// takes is not in it.
  [[nodiscard]] double dissipation() const;
  /// Null where the flow is laminar.
  [[nodiscard]] const Turbulence<D>* turbulence() const;
  /// Distance of first cells from their walls in wall units; 0 elsewhere, and where the flow is laminar.
  [[nodiscard]] Cells<D> wall_units() const;
  [[nodiscard]] const Tracers<D>& tracers() const;
  TurningSolids<D>& turning_solids();
  [[nodiscard]] const TurningSolids<D>& turning_solids() const;
  /// kLa of a transfer in every cell, per volume of the vessel [1/s]; no halos.
  [[nodiscard]] Cells<D> transfer_rate(std::size_t transfer) const;
  /// Of the volume of all phases: the sum of their fractions times their velocities [m/s].
  [[nodiscard]] CellVectors<D> volume_velocity() const;

 private:
  struct Work;
  void couple(const Vec<D>& body_force, double dt);
  void start_flows();
  [[nodiscard]] const WallVelocity<D>& wall_velocity() const;
  const Grid<D>& grid_;
  Settings<D> settings_;
  OpenSpace<D> space_;
  State<D> state_;
  Vec<D> G_{};            // of the last step: what has a potential [m/s2]
  double last_step_ = 0;  // [s]
  std::unique_ptr<Work> work_;
};

}  // namespace wavy::dispersed
