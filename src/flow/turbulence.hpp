// Turbulence of one flow, for any field model: energy and dissipation of its fluctuations (or what a grid does not
// resolve of them), the eddy viscosity that they make, and what walls do to a turbulent flow (docs/method.md, (T1) to
// (T7)).
#pragma once

#include <array>
#include <functional>
#include <utility>
#include <vector>

#include "flow/implicit_diffusion.hpp"
#include "flow/openings.hpp"
#include "flow/turning_solids.hpp"
#include "flow/wall_elements.hpp"
#include "flow/wall_velocity.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "physics/turbulence.hpp"

namespace wavy {

/// Mixing length of developed flow over the width of its pipe: what stands for a length that nobody gives.
inline constexpr double mixing_share = 0.07;

/// How strong turbulence is, and how large its eddies are.
struct TurbulenceLevel {
  double intensity = 0.05;  ///< rms of a component of the fluctuations over the speed
  double length = 0;        ///< of mixing, l = 0.09^(3/4) k^(3/2)/epsilon [m]
};

template <int D>
struct TurbulenceSettings {
  const TurbulenceLaw* law = nullptr;  ///< null: laminar
  TurbulenceLevel start;
  double start_speed = 0;               ///< of which `start.intensity` is a share, besides that of the flow [m/s]
  std::vector<TurbulenceLevel> inflow;  ///< by opening; a length of 0: mixing_share of its extent
  double roughness = 0;                 ///< of all walls, as that of sand [m]
  /// What a sharp interface damps it by: omega there goes to this times 6 nu/(0.075 h^2); 0: not at all.
  double interface_damping = 0;
  bool rotation_correction = false;                    ///< (T8)
  std::function<double(const Vec<D>&)> wall_distance;  ///< from walls that do not slip [m]; empty: there are none
};

/// Of a law of two equations all three fields, of a large-eddy law the last. All empty where the flow is laminar.
template <int D>
struct TurbulentState {
  Cells<D> k;               ///< [m2/s2]
  Cells<D> second;          ///< epsilon [m2/s3] or omega [1/s]
  Cells<D> eddy_viscosity;  ///< nu_t [m2/s], one layer of halo
};

/// A flow as its turbulence sees it.
template <int D>
struct MeanFlow {
  const CellVectors<D>& u;          ///< [m/s], one layer of halo, by the kinds of its walls
  const Faces<D>& face_u;           ///< volume flow over the whole area of the face [m/s]
  const Cells<D>& nu;               ///< kinematic viscosity [m2/s], one layer of halo
  const Cells<D>* share = nullptr;  ///< of one of two phases that do not mix, one layer of halo; null: there are none
  double time = 0;
};

/// The turbulence of one model.
template <int D>
class Turbulence {
 public:
  /// Space, boundary, walls, their elements and solids that turn, where there are any, must outlive it.
  Turbulence(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary, const WallVelocity<D>& walls,
             const WallElements<D>& elements, TurbulenceSettings<D> settings, TurningSolids<D>* turning = nullptr);

  /// Fields of the right sizes, all 0.
  [[nodiscard]] TurbulentState<D> empty_state(const Grid<D>& grid) const;
  /// Values of the start: by the intensity of the fastest of the flow, of what openings bring and of `start_speed`.
  void start(const Grid<D>& grid, const MeanFlow<D>& flow, TurbulentState<D>& state);
  /// Advances by dt with the flow as it is. Returns the iterations.
  int step(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, TurbulentState<D>& state);
  /// Distances from walls with solids that turn as they stand now. Called by `step` and `start`; for whoever reads a
  /// state without stepping.
  void find_turning_distances(const Grid<D>& grid);

  /// nu_t on the faces between cells is added to `faces`, as ViscousStress wants them: dt rho nu_t/h^2 times the
  /// conductance of the face. `density`: of the cells [kg/m3], one layer of halo. Sides that do not slip then carry the
  /// stress of the wall's law. Returns the greatest share of a cell's momentum that passes its faces by it.
  double add_to(const Grid<D>& grid, const Cells<D>& density, const MeanFlow<D>& flow, double dt,
                const TurbulentState<D>& state, std::array<CellVectors<D>, D>& faces) const;
  /// Stress of a wall over that of laminar flow, with the fluid's velocity in its cell now.
  [[nodiscard]] double wall_factor(const WallElement<D>& element, const CellVectors<D>& u, double nu) const;
  /// Distance of the first cells from their walls in wall units, u* y/nu; 0 elsewhere.
  [[nodiscard]] Cells<D> wall_units(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& nu) const;
  /// epsilon of a law of two equations in the cells [m2/s3].
  [[nodiscard]] Cells<D> dissipation(const TurbulentState<D>& state) const;
  /// What the eddy viscosity takes from a flow of these shear rates, nu_t S^2 [m2/s3].
  [[nodiscard]] static Cells<D> dissipation(const TurbulentState<D>& state, Cells<D> shear_rates);
  /// The second of a law of two equations from its dissipation, k being there.
  void recall(const Cells<D>& epsilon, TurbulentState<D>& state) const;
  [[nodiscard]] const TurbulenceSettings<D>& settings() const { return settings_; }

  [[nodiscard]] bool two_equations() const { return settings_.law->second != TurbulenceLaw::Second::none; }

 private:
  struct Gradients;
  [[nodiscard]] double friction_at(const WallElement<D>& element, double speed, double nu) const {
    return friction_velocity(speed, element.distance(), nu, settings_.roughness);
  }
  [[nodiscard]] double speed_along(const WallElement<D>& element, const CellVectors<D>& u) const;
  [[nodiscard]] double second_of(double k, double length) const;
  void fill(const Grid<D>& grid, int width, Cells<D>& field) const;
  void carry(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, bool is_second, const Cells<D>& carried,
             Cells<D>& next) const;
  void find_between(const Grid<D>& grid, const MeanFlow<D>& flow, const TurbulentState<D>& state);
  void make_at_walls(const Grid<D>& grid, const MeanFlow<D>& flow);
  void make_beside_wall(int block, std::ptrdiff_t at, double friction, double distance, double nu);
  void make_at_turning(int block, const MeanFlow<D>& flow);
  void damp_in_turning(const Grid<D>& grid, int block, const MeanFlow<D>& flow, double dt);
  void set_rates(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, const TurbulentState<D>& state);
  void hold_second(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, const TurbulentState<D>& state);
  int diffuse(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, bool is_second, TurbulentState<D>& state,
              Cells<D>& field);
  void find_eddy_viscosity(const Grid<D>& grid, const MeanFlow<D>& flow, TurbulentState<D>& state);
  [[nodiscard]] LocalTurbulence local(const MeanFlow<D>& flow, const TurbulentState<D>& state, int block,
                                      std::ptrdiff_t at, double strain) const;

  const OpenSpace<D>& space_;
  const Boundary<D>& boundary_;
  const WallVelocity<D>& walls_;
  const WallElements<D>& elements_;
  TurningSolids<D>* turning_;  // null where nothing turns
  TurbulenceSettings<D> settings_;
  double farthest_;    // distance that stands for none
  double beside_;      // distance from a wall up to which its law tells the dissipation [m]
  Cells<D> distance_;  // [m], in cells and one layer round them
  std::vector<std::vector<std::pair<std::ptrdiff_t, double>>> still_;  // by block: what solids that turn took it from
  Cells<D> strain_;                                                    // S in the step [1/s]
  Cells<D> at_walls_;         // production of k by the law of the wall beside it, -1 away from walls [m2/s3]
  Cells<D> strain_at_walls_;  // S by the same [1/s]
  ImplicitDiffusion<D> implicit_;
  Cells<D> carried_k_, carried_second_;
  std::array<Cells<D>, 2> gain_, sink_, share_;  // of k and the second
  Faces<D> diffusion_;
  Cells<D> mass_, rhs_, inverse_size_;
  Faces<D> between_;  // (T3) [m2/s]
};

/// What turbulence adds to the stress of one velocity field. What it refers to must outlive it.
template <int D>
struct EddyStress {
  const Turbulence<D>& turbulence;
  const TurbulentState<D>& state;
  const MeanFlow<D>& flow;
  const Cells<D>& density;  ///< [kg/m3], one layer of halo

  double add_to(const Grid<D>& grid, double dt, std::array<CellVectors<D>, D>& faces) const {
    return turbulence.add_to(grid, density, flow, dt, state, faces);
  }
  [[nodiscard]] double wall_factor(const WallElement<D>& element) const {
    return turbulence.wall_factor(element, flow.u, flow.nu.block(element.block)[element.at]);
  }
};

/// Keeps the state of a turbulent flow; nothing of a laminar one.
template <int D>
void archive(Archive& a, TurbulentState<D>& state) {
  for (auto& [name, field] : {std::pair{"k", &state.k}, std::pair{"second", &state.second},
                              std::pair{"eddy_viscosity", &state.eddy_viscosity}})
    if (!field->data().empty()) wavy::archive<D>(a, name, *field);
}

}  // namespace wavy
