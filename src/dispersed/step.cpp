#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>
#include <utility>

#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "base/text.hpp"
#include "dispersed/coupling.hpp"
#include "dispersed/fraction_transport.hpp"
#include "dispersed/momentum.hpp"
#include "dispersed/parts.hpp"
#include "flow/divergence_tree.hpp"
#include "flow/projection.hpp"
#include "flow/viscous_stress.hpp"

namespace wavy::dispersed {
namespace {

/// Of what the pressure has left to do at the start of a step. What it leaves is handed on along the tree and moves the
/// fractions: with less, layers at rest would begin to stir on fine grids.
constexpr double reduction = 1e-4;
constexpr double gravity_wave_number = 0.3;  // dt <= this x sqrt(h / |G|) where there are layers

template <int D>
WallKinds<D> slipping(WallKinds<D> kinds) {
  for (auto& axis : kinds)
    for (auto& kind : axis) kind = kind == Wall::no_slip ? Wall::slip : kind;
  return kinds;
}

}  // namespace

std::string name_of(StepLimit limit) { return limit == StepLimit::advection ? "advection" : "gravity waves"; }

template <int D>
State<D>::State(const Grid<D>& grid, std::size_t phases, std::size_t pairs) : p(grid) {
  for (int d = 0; d < D; ++d) face_u[d] = Cells<D>(grid);
  for (std::size_t i = 0; i < phases; ++i) {
    a.emplace_back(grid);
    u.emplace_back();
    acceleration.emplace_back();
    phase_u.emplace_back();
    for (int d = 0; d < D; ++d) u[i][d] = acceleration[i][d] = phase_u[i][d] = Cells<D>(grid);
  }
  for (std::size_t i = 0; i < pairs; ++i) rate.emplace_back(grid);
}

template <int D>
void shares_through(const Boundary<D>& boundary, const Settings<D>& settings, const State<D>& state, int axis,
                    const OpeningFace<D>& face, std::array<double, most_phases>& share) {
  const auto phases = settings.phases.size();
  const int sign = boundary.sign(face);
  if (sign * state.face_u[axis].block(face.block)[face.face] > 0) {
    for (std::size_t i = 0; i < phases; ++i)
      share[i] = boundary.incoming_share(face, i, state.a[i].block(face.block)[face.inside]);
    return;
  }
  const double phi = state.face_u[axis].block(face.block)[face.face];
  const bool comes_back = boundary.openings()[face.opening].outside == Opening<D>::Outside::inside;
  double own = 0;  // flow by the phases' velocities
  double out = 0;  // of those that go out
  for (std::size_t i = 0; i < phases; ++i) {
    const double a = std::max(state.a[i].block(face.block)[face.inside], 0.0);
    const double outwards = -sign * state.phase_u[i][axis].block(face.block)[face.face];
    share[i] = a * (comes_back ? outwards : std::max(outwards, 0.0));
    own += a * outwards;
    out += share[i];
  }
  for (std::size_t i = 0; i < phases; ++i) {
    const double a = state.a[i].block(face.block)[face.inside];
    // Where it goes on outside as inside, a phase may move inwards against the others.
    if (comes_back)
      share[i] = phi == 0 ? a : (a * std::abs(phi) + face.area * (share[i] - a * own)) / std::abs(phi);
    else
      share[i] = out > 0 ? share[i] / out : a;
  }
}

template <int D>
struct Model<D>::Work {
  const OpenSpace<D>& space;
  Boundary<D> boundary;
  WallElements<D> wall_elements;       // to carriers
  WallElements<D> body_wall_elements;  // to bubbles and drops
  WallVelocity<D> walls;
  FractionTransport<D> transport;
  Coupling<D> coupling;
  Projection<D> projection;
  DivergenceTree<D> tree;
  ViscousStress<D> stress, body_stress;
  Cells<D> mass;
  Faces<D> inverse_density;
  std::vector<CellVectors<D>> scratch;
  CellVectors<D> still;  // 0

  Work(const Grid<D>& grid, const Settings<D>& settings, const OpenSpace<D>& open_space,
       const std::vector<Opening<D>>& openings)
      : space(open_space),
        boundary(grid, space, openings, settings.phases.size()),
        wall_elements(find_wall_elements<D>(grid, space, {settings.walls, settings.solid_walls}, {}, boundary)),
        body_wall_elements(find_wall_elements<D>(grid, space, {slipping<D>(settings.walls), Wall::slip}, {}, boundary)),
        transport(grid, space, boundary, settings.phases.size()),
        coupling(grid, space, settings),
        projection(grid, space, boundary),
        tree(grid, space, boundary),
        stress(grid, space, walls, wall_elements),
        body_stress(grid, space, walls, body_wall_elements),
        mass(grid, 1.0) {
    for (int d = 0; d < D; ++d) inverse_density[d] = still[d] = Cells<D>(grid);
    for (std::size_t i = 0; i < settings.phases.size(); ++i) {
      scratch.emplace_back();
      for (auto& field : scratch.back()) field = Cells<D>(grid);
    }
  }

  [[nodiscard]] static bool slips(const Settings<D>& settings, std::size_t i) {
    return settings.bodies_slip && !settings.phases[i].carrier;
  }

  void fill_fractions(const Grid<D>& grid, State<D>& state) const {
    for (auto& a : state.a) {
      fill_halo(grid, a, pad, all_walls<D>(Mirror::even));
      if (!space.is_uncut()) carry_on(grid, space, a, a);
    }
  }

  /// Velocities behind walls and openings.
  void fill_velocities(const Grid<D>& grid, const Settings<D>& settings, int width, State<D>& state) const {
    for (std::size_t i = 0; i < state.u.size(); ++i) {
      const auto kinds = slips(settings, i) ? slipping<D>(settings.walls) : settings.walls;
      fill_velocity_halo<D>(grid, space, kinds, walls, width, state.u[i]);
      set_behind_openings(grid, state.phase_u[i], state.u[i]);
    }
  }

  /// Beyond walls fluid gains nothing.
  void fill_accelerations(const Grid<D>& grid, State<D>& state) const {
    for (auto& acceleration : state.acceleration)
      for (auto& component : acceleration)
        fill_halo(grid, component, 1, all_walls<D>(Mirror::even), space.open_spans());
  }

  /// What comes in comes straight, with the velocity on the face; what goes out moves on as it does inside.
  void set_behind_openings(const Grid<D>& grid, const Faces<D>& phase_u, CellVectors<D>& u) const {
    for (int d = 0; d < D; ++d)
      for (const auto& face : boundary.faces(d)) {
        const double through = phase_u[d].block(face.block)[face.face];
        const int sign = boundary.sign(face);
        for (int c = 0; c < D; ++c) {
          double* v = u[c].block(face.block);
          const double behind = sign * through <= 0 ? v[face.inside] : c == d ? through : 0.0;
          v[face.behind] = v[face.behind - sign * grid.layout().step[d]] = behind;
        }
      }
  }

  /// Gives a phase the mixture's velocity where there is less of it than `least`.
  void replace_absent(const Grid<D>& grid, const Settings<D>& settings, int block, std::size_t phase, double least,
                      State<D>& state) const {
    const double* a = state.a[phase].block(block);
    for_open_rows<D>(space, block, grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (a[at] >= least) continue;
        for (int c = 0; c < D; ++c) {
          double momentum = 0;
          double held = 0;
          for (std::size_t i = 0; i < state.a.size(); ++i) {
            const double m = std::max(state.a[i].block(block)[at], 0.0) * settings.phases[i].fluid.density;
            momentum += i == phase ? 0.0 : m * state.u[i][c].block(block)[at];
            held += i == phase ? 0.0 : m;
          }
          state.u[phase][c].block(block)[at] = momentum / held;
        }
      }
    });
  }
  int diffuse(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt);
  void set_openings(const Grid<D>& grid, const Settings<D>& settings, double time, State<D>& state);
  void degas(const Grid<D>& grid, const Settings<D>& settings, const std::vector<Faces<D>>& free,
             State<D>& state) const;
  [[nodiscard]] FluidAtOpenings<D> fluid(const Settings<D>& settings, const State<D>& state, const Vec<D>& G) const;
  double project(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, double dt, double ahead,
                 double tolerance, State<D>& state, StepReport& report);
};

/// Viscosity of every phase, with its fraction.
template <int D>
int Model<D>::Work::diffuse(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt) {
  const Layout<D>& layout = grid.layout();
  constexpr double least = 1e-6;
  int iterations = 0;
  for (std::size_t i = 0; i < state.a.size(); ++i) {
    const double mu = settings.phases[i].fluid.viscosity;
    if (mu <= 0) continue;
    const double rho = settings.phases[i].fluid.density;
    auto& friction = slips(settings, i) ? body_stress : stress;
    const CellRange<D> range = with_layers(layout, 1);
    for_blocks(grid, [&](int b) {
      const OpenVolumes<D> volume(space, b);
      const double* a = state.a[i].block(b);
      double* m = mass.block(b);
      for_rows<D>(layout, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          m[at] = volume[at] > 0 ? volume[at] * rho * std::max(a[at], least) : 1.0;
      });
    });
    const double rate = max_blocks(grid, [&](int b) {
      const double* a = state.a[i].block(b);
      double greatest = 0;
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        const double h = grid.geometry(b).spacing[d];
        const double* conductance = space.is_uncut(b) ? nullptr : space.face_conductance()[d].block(b);
        std::array<double*, D> face;
        for (int c = 0; c < D; ++c) face[c] = friction.faces()[d][c].block(b);
        for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            // Where one side has nothing of the phase there is no stress: what is absent has a velocity too.
            const double low = std::max(a[at - s], 0.0);
            const double high = std::max(a[at], 0.0);
            const double both = low + high > least ? 2 * low * high / (low + high) : 0.0;
            const double value = dt * mu / (h * h) * both * (conductance == nullptr ? 1.0 : conductance[at]);
            for (int c = 0; c < D; ++c) face[c][at] = value;
            greatest = std::max(greatest, value / (rho * std::max(std::min(low, high), least)));
          }
        });
        for (int c = 0; c < D; ++c) boundary.clear(b, d, friction.faces()[d][c]);
      }
      return greatest;
    });
    const bool explicitly = 2 * D * rate <= 1;
    if (!space.is_uncut()) {
      for_blocks(grid, [&](int b) {
        const auto elements = friction.walls(b);
        auto& held = friction.wall_friction(b);
        for (std::size_t k = 0; k < held.size(); ++k)
          held[k] = elements[k].kind == Wall::slip
                        ? 0.0
                        : dt * elements[k].friction * mu * std::max(state.a[i].block(b)[elements[k].at], 0.0);
      });
      friction.set_held(grid, mass, !explicitly || space.axisymmetric());
      if (space.axisymmetric())
        for_blocks(grid, [&](int b) {
          if (space.is_uncut(b)) return;
          const double* a = state.a[i].block(b);
          const double* own = friction.held().block(b);
          double* radial = friction.held_radial().block(b);
          const double* volume = space.volume().block(b);
          const double h = grid.geometry(b).spacing[0];
          for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
            for (std::ptrdiff_t at = o; at < o + n; ++at) {
              const double r = space.radius_in_cells(b, layout, at) * h;
              radial[at] = own[at] + dt * volume[at] * 2 * mu * std::max(a[at], 0.0) / (r * r);
            }
          });
        });
    }
    // What a phase would do where it is not must not drag what it does where it is.
    auto& own = scratch[i];
    own = state.u[i];
    for_blocks(grid, [&](int b) { replace_absent(grid, settings, b, i, least, state); });
    const auto restore = [&] {
      for_blocks(grid, [&](int b) {
        const double* a = state.a[i].block(b);
        for (int c = 0; c < D; ++c) {
          const double* before = own[c].block(b);
          double* u = state.u[i][c].block(b);
          for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
            for (std::ptrdiff_t at = o; at < o + n; ++at) u[at] = a[at] < least ? before[at] : u[at];
          });
        }
      });
    };
    const auto kinds = slips(settings, i) ? slipping<D>(settings.walls) : settings.walls;
    fill_velocity_halo<D>(grid, space, kinds, walls, 1, state.u[i]);
    set_behind_openings(grid, state.phase_u[i], state.u[i]);
    if (explicitly) {
      friction.step_explicitly(grid, mass, state.u[i]);
      restore();
      continue;
    }
    double scale = 1e-30;
    for (int c = 0; c < D; ++c)
      scale = std::max(scale, max_blocks(grid, [&](int b) {
                         const double* v = state.u[i][c].block(b);
                         double greatest = 0;
                         for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
                           for (int x = 0; x < n; ++x) greatest = std::max(greatest, std::abs(v[o + x]));
                         });
                         return greatest;
                       }));
    friction.set_right_hand_sides(grid, mass, state.u[i], still, dt);
    constexpr double tolerance = 1e-6;
    for (int c = 0; c < D; ++c) iterations += friction.solve(grid, kinds, c, mass, tolerance * scale, state.u[i][c]);
    friction.share_in_groups(grid, mass, state.u[i]);
    restore();
  }
  return iterations;
}

/// What openings make of the velocities on their faces.
template <int D>
void Model<D>::Work::set_openings(const Grid<D>& grid, const Settings<D>& settings, double time, State<D>& state) {
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d) {
      boundary.close(grid, b, d, state.face_u[d].block(b));
      boundary.close(grid, b, d, inverse_density[d].block(b));
      for (auto& U : state.phase_u) boundary.close(grid, b, d, U[d].block(b));
    }
  });
  if (boundary.closed()) return;
  const Faces<D> free = state.face_u;  // by forces and drag alone
  const std::vector<Faces<D>> free_phases = settings.degassing.empty() ? std::vector<Faces<D>>{} : state.phase_u;
  boundary.set_faces(grid, time, state.u[0], state.face_u);
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      const auto& opening = boundary.openings()[face.opening];
      double& phi = state.face_u[d].block(face.block)[face.face];
      if (!opening.flow) {
        phi = free[d].block(face.block)[face.face];
        continue;
      }
      inverse_density[d].block(face.block)[face.face] = 0;
      const double through = phi / face.area;
      if (boundary.sign(face) * through > 0) {
        const auto* fractions =
            face.opening < settings.inlet_fractions.size() && !settings.inlet_fractions[face.opening].empty()
                ? &settings.inlet_fractions[face.opening]
                : nullptr;
        for (std::size_t i = 0; i < state.a.size(); ++i) {
          const double share = opening.composition[i];
          const double fraction = fractions == nullptr ? share : (*fractions)[i];
          state.phase_u[i][d].block(face.block)[face.face] = fraction > 0 ? through * share / fraction : through;
        }
        continue;
      }
      double own = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i)
        own += state.a[i].block(face.block)[face.inside] * state.phase_u[i][d].block(face.block)[face.face];
      for (auto& U : state.phase_u) U[d].block(face.block)[face.face] += through - own;
    }
  if (!settings.degassing.empty()) degas(grid, settings, free_phases, state);
}

/// Degassing surfaces: gas passes them as fast as it moves against what else is there.
template <int D>
void Model<D>::Work::degas(const Grid<D>& grid, const Settings<D>& settings, const std::vector<Faces<D>>& free,
                           State<D>& state) const {
  const auto degasses = [&](std::size_t opening) {
    return std::ranges::find(settings.degassing, opening) != settings.degassing.end();
  };
  double surplus = 0;  // what comes in elsewhere [m^D/s]
  double gas = 0;      // what would leave [m^D/s]
  double area = 0;
  for (const auto& inlet : boundary.wall_inlets())
    surplus += inlet.speed * inlet.area * grid.geometry(inlet.block).cell_volume;
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      double& phi = state.face_u[d].block(face.block)[face.face];
      if (!degasses(face.opening)) {
        surplus += boundary.sign(face) * phi * face.whole_area;
        continue;
      }
      double rest = 0;  // velocity and fraction of all but gas
      double held = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i) {
        if (settings.phases[i].gas) continue;
        const double a = std::max(state.a[i].block(face.block)[face.inside], 0.0);
        rest += a * free[i][d].block(face.block)[face.face];
        held += a;
      }
      rest = held > 0 ? rest / held : 0.0;
      phi = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i) {
        double& U = state.phase_u[i][d].block(face.block)[face.face];
        U = 0;
        if (!settings.phases[i].gas) continue;
        const double outwards = -boundary.sign(face) * (free[i][d].block(face.block)[face.face] - rest);
        U = -boundary.sign(face) * std::max(outwards, 0.0);
        phi += face.area * std::max(state.a[i].block(face.block)[face.inside], 0.0) * U;
      }
      gas += std::abs(phi) * face.whole_area;
      area += face.area * face.whole_area;
    }
  if (boundary.holds_pressure()) return;
  // A full vessel: no more gas leaves than what comes in makes room for, and what is left of that spills over.
  const double share = gas > surplus ? std::max(surplus, 0.0) / gas : 1.0;
  const double spills = (surplus - share * gas) / area;  // [m/s]
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      if (!degasses(face.opening)) continue;
      double& phi = state.face_u[d].block(face.block)[face.face];
      phi = share * phi - boundary.sign(face) * face.area * spills;
      for (auto& U : state.phase_u) {
        double& own = U[d].block(face.block)[face.face];
        own = share * own - boundary.sign(face) * spills;
      }
    }
}

template <int D>
FluidAtOpenings<D> Model<D>::Work::fluid(const Settings<D>& settings, const State<D>& state, const Vec<D>& G) const {
  const auto densities = [this, &settings, &state](const OpeningFace<D>& face) {
    using Outside = typename Opening<D>::Outside;
    const auto& opening = boundary.openings()[face.opening];
    DensitiesAtOpening at{.inside = density(settings, state, face.block, face.inside), .column = 0, .incoming = 0};
    for (std::size_t i = 0; i < state.a.size(); ++i)
      at.incoming += settings.phases[i].fluid.density *
                     boundary.incoming_share(face, i, state.a[i].block(face.block)[face.inside]);
    const double heaviest = settings.phases.front().fluid.density;
    if (opening.outside == Outside::inside)
      at.column = at.inside;
    else if (opening.outside == Outside::level)
      at.column = face.middle[D - 1] < opening.outside_level ? heaviest : settings.phases.back().fluid.density;
    else
      at.column = heaviest;
    return at;
  };
  return {.G = G, .air_density = settings.outside_density, .densities = densities};
}

/// The pressure, and what it makes of the velocities on the faces.
template <int D>
double Model<D>::Work::project(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, double dt,
                               double ahead, double tolerance, State<D>& state, StepReport& report) {
  const double time = state.time + dt;
  if (boundary.through_walls()) projection.set_given(grid, time, state.u[0], state.face_u);
  set_openings(grid, settings, time, state);
  projection.find_divergence(grid, state.face_u, dt);
  const auto outside = fluid(settings, state, G);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid, outside, time, state.face_u, inverse_density, projection.rhs());
  projection.solver().set_coefficients(grid, inverse_density, boundary.holds_pressure());
  projection.guess(grid, state.p, ahead);
  const SolveReport solved =
      projection.solver().solve(grid, projection.rhs(), state.p, tolerance, settings.most_iterations, reduction);
  report.pressure_iterations = solved.iterations;
  report.pressure_converged = solved.converged;
  fill_halo(grid, state.p, 1, all_walls<D>(Mirror::even), space.open_spans());
  if (boundary.holds_pressure()) boundary.set_pressure_behind(grid, outside, time, state.face_u, state.p);
  const double divergence = max_blocks(grid, [&](int b) {
    projection.correct_faces(grid, b, state.p, inverse_density, dt, state.face_u);
    return projection.greatest_divergence(grid, b, state.face_u, dt, nullptr);
  });
  coupling.add_pressure(grid, state);
  coupling.continue_to_openings(boundary, grid, settings, state);
  return divergence;
}

template <int D>
Model<D>::Model(const Grid<D>& grid, Settings<D> settings, OpenSpace<D> space, const std::vector<Opening<D>>& openings)
    : grid_(grid),
      settings_(std::move(settings)),
      space_(std::move(space)),
      state_(grid, settings_.phases.size(), settings_.pairs.size()),
      work_(std::make_unique<Work>(grid, settings_, space_, openings)) {
  assert(phases() >= 2 && phases() <= most_phases);
}
template <int D>
Model<D>::~Model() = default;
template <int D>
Boundary<D>& Model<D>::boundary() {
  return work_->boundary;
}
template <int D>
const Boundary<D>& Model<D>::boundary() const {
  return work_->boundary;
}

template <int D>
void Model<D>::start() {
  auto& s = state_;
  G_ = settings_.body_force(s.time);
  Vec<D> drive{};
  for (std::size_t d = 0; d < D; ++d)
    if (grid_.periodic()[d]) drive[d] = std::exchange(G_[d], 0.0);
  work_->fill_fractions(grid_, s);
  work_->fill_velocities(grid_, settings_, 2, s);
  work_->coupling.find_rates(grid_, settings_, length<D>(settings_.body_force(s.time)), s);
  constexpr double moment = 1e-3;  // [s]
  work_->coupling.set_faces(grid_, settings_, G_, drive, moment, s, work_->inverse_density);
  double strength = 1e-12;
  for (const double g : G_) strength = std::max(strength, std::abs(g));
  constexpr double at_rest = 1e-13;
  StepReport report;
  const auto before = s;
  work_->project(grid_, settings_, G_, moment, 0, at_rest * strength / grid_.smallest_spacing(), s, report);
  s.face_u = before.face_u;
  s.phase_u = before.phase_u;
  for (auto& face : s.face_u) std::fill(face.data().begin(), face.data().end(), 0.0);
  for (auto& U : s.phase_u)
    for (auto& face : U) std::fill(face.data().begin(), face.data().end(), 0.0);
  work_->projection.last_pressure() = s.p;
}

template <int D>
double Model<D>::stable_step(StepLimit& limit) const {
  const Layout<D>& layout = grid_.layout();
  const auto phases = settings_.phases.size();
  const double rate = max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const OpenVolumes<D> volume(space_, b);
    const Vec<D>& h = grid_.geometry(b).spacing;
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double sum = 0;
        for (int d = 0; d < D; ++d) {
          double fastest = 0;
          for (const std::ptrdiff_t face : {at, at + layout.step[d]}) {
            const double open = space_.is_uncut(b) ? 1.0 : space_.area()[d].block(b)[face];
            const double phi = std::abs(state_.face_u[d].block(b)[face]);
            double slip = 0;
            for (std::size_t i = 0; i < phases; ++i) {
              if (state_.a[i].block(b)[at] < counts_for_steps) continue;
              double all = 0;
              for (std::size_t j = 0; j < phases; ++j)
                all += std::max(state_.a[j].block(b)[at], 0.0) *
                       std::abs(state_.phase_u[i][d].block(b)[face] - state_.phase_u[j][d].block(b)[face]);
              slip = std::max(slip, all);
            }
            fastest = std::max(fastest, phi + open * slip);
          }
          sum += fastest / h[d];
        }
        const double weight = space_.is_uncut(b) ? 1.0 : space_.weight(b, layout, at);
        greatest = std::max(greatest, sum / std::max(volume[at], OpenSpace<D>::small * weight));
      }
    });
    return greatest;
  });
  const double fastest = std::max(rate, work_->boundary.greatest_speed(state_.time) / grid_.smallest_spacing());
  const double advection = fastest > 0 ? settings_.courant / fastest : 1e30;
  const Vec<D> G = settings_.body_force(state_.time);
  const double strength = length<D>(G);
  const bool waves_count = strength > 0 && work_->coupling.layers().any();
  const double waves = waves_count ? gravity_wave_number * std::sqrt(grid_.smallest_spacing() / strength) : 1e30;
  limit = advection <= waves ? StepLimit::advection : StepLimit::gravity_waves;
  return std::min(advection, waves);
}

template <int D>
StepReport Model<D>::step(double dt) {
  assert(dt > 0 && std::isfinite(dt));
  StepReport report;
  report.dt = dt;
  Stopwatch watch;
  auto& s = state_;
  work_->fill_fractions(grid_, s);
  work_->fill_velocities(grid_, settings_, 2, s);
  work_->fill_accelerations(grid_, s);
  work_->transport(grid_, settings_, work_->coupling.layers(), dt, s);
  work_->fill_fractions(grid_, s);
  transport_momentum<D>(grid_, space_, work_->transport, dt, s, work_->scratch);
  report.seconds[0] = watch.lap();

  report.viscous_iterations = work_->diffuse(grid_, settings_, s, dt);
  report.seconds[1] = watch.lap();

  const Vec<D> force = settings_.body_force(s.time + 0.5 * dt);
  G_ = force;
  Vec<D> drive{};
  for (std::size_t d = 0; d < D; ++d)
    if (grid_.periodic()[d]) drive[d] = std::exchange(G_[d], 0.0);
  work_->fill_velocities(grid_, settings_, 1, s);
  work_->coupling.find_rates(grid_, settings_, length<D>(force), s);
  work_->coupling.set_faces(grid_, settings_, G_, drive, dt, s, work_->inverse_density);
  report.seconds[2] = watch.lap();

  report.divergence = work_->project(grid_, settings_, G_, dt, last_step_ > 0 ? dt / last_step_ : 0,
                                     settings_.projection_tolerance / (dt * dt), s, report);
  last_step_ = dt;
  work_->coupling.return_to_cells(grid_, settings_, dt, s);
  work_->coupling.unlock_faces(grid_, settings_, dt, s);
  work_->tree.apply(grid_, nullptr, s.face_u);
  report.seconds[3] = watch.lap();

  s.time += dt;
  bool finite = std::isfinite(report.divergence);
  for (std::size_t i = 0; i < phases(); ++i) finite = finite && std::isfinite(greatest_speed(i));
  if (!finite)
    throw failure(fmt::format("the run diverged at t = {:.6g} s", s.time),
                  "try a smaller run.courant or run.largest_step, or a finer grid.cell");
  return report;
}

template <int D>
double Model<D>::volume(std::size_t phase) const {
  return grid_.cell_volume() * sum_volumes(grid_, [&](int b) {
           double sum = 0;
           const OpenVolumes<D> open(space_, b);
           const double* a = state_.a[phase].block(b);
           for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
             for (std::ptrdiff_t at = o; at < o + n; ++at) sum += open[at] * a[at];
           });
           return sum;
         });
}

template <int D>
double Model<D>::greatest_speed(std::size_t phase) const {
  return max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const OpenVolumes<D> open(space_, b);
    for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (open[at] == 0) continue;
        double square = 0;
        for (int d = 0; d < D; ++d) square += std::pow(state_.u[phase][d].block(b)[at], 2);
        // What is not a number is kept as infinite: it compares with nothing.
        greatest = std::isfinite(square) ? std::max(square, greatest) : std::numeric_limits<double>::infinity();
      }
    });
    return std::sqrt(greatest);
  });
}

template void shares_through<2>(const Boundary<2>&, const Settings<2>&, const State<2>&, int, const OpeningFace<2>&,
                                std::array<double, most_phases>&);
template void shares_through<3>(const Boundary<3>&, const Settings<3>&, const State<3>&, int, const OpeningFace<3>&,
                                std::array<double, most_phases>&);
template struct State<2>;
template struct State<3>;
template class Model<2>;
template class Model<3>;

}  // namespace wavy::dispersed
