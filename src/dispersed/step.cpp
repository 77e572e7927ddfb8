#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <optional>
#include <utility>

#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "dispersed/coupling.hpp"
#include "dispersed/eddies.hpp"
#include "dispersed/fraction_transport.hpp"
#include "dispersed/friction.hpp"
#include "dispersed/momentum.hpp"
#include "dispersed/opening_flows.hpp"
#include "dispersed/parts.hpp"
#include "dispersed/turning.hpp"
#include "flow/divergence_tree.hpp"
#include "flow/projection.hpp"

namespace wavy::dispersed {
namespace {

/// Of what the pressure has left to do at the start of a step. What it leaves is handed on along the tree and moves the
/// fractions: with less, layers at rest would begin to stir on fine grids.
constexpr double reduction = 1e-4;
constexpr double longest_start = 1;          // step in which given flows begin, where nothing else limits it [s]
constexpr double gravity_wave_number = 0.6;  // dt <= this x sqrt(h / (Atwood number |G|)) where there are layers

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
struct Model<D>::Work {
  const OpenSpace<D>& space;
  Sight<D> sight;
  Boundary<D> boundary;
  TurningPhases<D> turning;
  FractionTransport<D> transport;
  Coupling<D> coupling;
  Projection<D> projection;
  DivergenceTree<D> tree;
  Friction<D> diffuse;
  Tracers<D> tracers;
  std::optional<Eddies<D>> eddies;  // where the flow is not laminar
  Faces<D> inverse_density;
  std::vector<CellVectors<D>> scratch;

  Work(const Grid<D>& grid, const Settings<D>& settings, const OpenSpace<D>& open_space,
       const std::vector<Opening<D>>& openings)
      : space(open_space),
        sight(grid, space),
        boundary(grid, space, openings, settings.phases.size()),
        turning(grid, space, settings),
        transport(grid, space, sight, boundary, settings.phases.size()),
        coupling(grid, space, sight, settings, turning),
        projection(grid, space, boundary),
        tree(grid, space, boundary),
        diffuse(grid, space, boundary, settings, turning),
        tracers(grid, space, boundary, settings.tracers) {
    for (int d = 0; d < D; ++d) inverse_density[d] = Cells<D>(grid);
    if (settings.turbulence.law != nullptr)
      eddies.emplace(grid, space, boundary, diffuse, settings, turning.what_turns());
    for (std::size_t i = 0; i < settings.phases.size(); ++i) {
      scratch.emplace_back();
      for (auto& field : scratch.back()) field = Cells<D>(grid);
    }
  }

  /// fn(what turbulence adds to friction), null where the flow is laminar.
  template <class Fn>
  auto with_eddies(const State<D>& state, Fn&& fn) const {
    if (!eddies) return fn(static_cast<const EddyStress<D>*>(nullptr));
    const MeanFlow<D> flow = eddies->flow(state);
    const EddyStress<D> adds{eddies->turbulence(), eddies->felt(), flow, diffuse.held()};
    return fn(&adds);
  }

  void fill_fractions(const Grid<D>& grid, State<D>& state) const {
    for (auto& a : state.a) {
      fill_halo(grid, a, pad, all_walls<D>(Mirror::even));
      if (!space.is_uncut()) carry_on(grid, space, a, a);
    }
  }

  static std::vector<PhaseShare<D>> shares(const State<D>& state) {
    std::vector<PhaseShare<D>> result;
    for (const auto& a : state.a) result.push_back({&a});
    return result;
  }

  /// Tracers move with their phases, before and after these have moved.
  void carry_tracers(const Grid<D>& grid, double dt, State<D>& state) {
    if (tracers.none()) return;
    tracers.pass_walls(grid, dt, true, state.tracers);
    std::vector<const Faces<D>*> passed;
    for (const auto& phase : transport.passed()) passed.push_back(&phase);
    tracers.move(grid, 0, D, passed, state.tracers);
    tracers.pass_walls(grid, dt, false, state.tracers);
    tracers.finish(grid, shares(state), state.tracers);
  }

  /// Velocities behind walls and openings.
  void fill_velocities(const Grid<D>& grid, const Settings<D>& settings, int width, State<D>& state) const {
    for (std::size_t i = 0; i < state.u.size(); ++i) diffuse.fill_velocity(grid, settings, i, width, state);
  }

  /// Beyond walls fluid gains nothing.
  void fill_accelerations(const Grid<D>& grid, State<D>& state) const {
    for (auto& acceleration : state.acceleration)
      fill_halo(grid, acceleration, 1, even_vector<D>(), space.open_spans());
  }

  /// `flows`: what is given at openings comes in and goes out.
  double project(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, double dt, double ahead,
                 double tolerance, bool flows, State<D>& state, StepReport& report);
};

/// The pressure, and what it makes of the velocities on the faces.
template <int D>
double Model<D>::Work::project(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, double dt,
                               double ahead, double tolerance, bool flows, State<D>& state, StepReport& report) {
  const double time = state.time + dt;
  projection.set_sources(time, flows);
  set_openings<D>(grid, boundary, settings, time, flows, state, inverse_density);
  projection.find_divergence(grid, state.face_u, dt);
  const auto outside = fluid_at_openings<D>(boundary, settings, state, G);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid, outside, time, state.face_u, inverse_density, projection.rhs());
  turning.clear(grid, state, projection.rhs());
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

/// Drag, and the velocities on the faces without the pressure, by a body force.
template <int D>
void Model<D>::couple(const Vec<D>& body_force, double dt) {
  G_ = body_force;
  const double strength = length<D>(G_);
  const Vec<D> drive = take_periodic<D>(grid_, G_);
  work_->fill_velocities(grid_, settings_, 1, state_);
  work_->coupling.find_rates(grid_, settings_, strength, state_);
  work_->coupling.set_faces(grid_, settings_, G_, drive, dt, state_, work_->inverse_density);
}

template <int D>
void Model<D>::start() {
  auto& s = state_;
  work_->fill_fractions(grid_, s);
  s.wall_drag = {};
  work_->tracers.start(grid_, Work::shares(s), s.tracers);
  work_->diffuse.set_time(s.time);
  work_->turning.set_time(grid_, s.time);
  work_->turning.act(false);
  work_->turning.enter_frames(grid_, s);
  if (work_->eddies) {
    work_->fill_velocities(grid_, settings_, 1, s);
    work_->eddies->start(grid_, settings_, s);
  }
  constexpr double moment = 1e-3;  // [s]
  couple(settings_.body_force(s.time), moment);
  double strength = 1e-12;
  for (const double g : G_) strength = std::max(strength, std::abs(g));
  constexpr double at_rest = 1e-13;
  StepReport report;
  work_->project(grid_, settings_, G_, moment, 0, at_rest * strength / grid_.smallest_spacing(), false, s, report);
  for (auto& face : s.face_u) std::fill(face.data().begin(), face.data().end(), 0.0);
  work_->turning.act(true);
  for (auto& U : s.phase_u)
    for (auto& face : U) std::fill(face.data().begin(), face.data().end(), 0.0);
  work_->projection.last_pressure() = s.p;
  const auto moves = [](const Cells<D>& u) { return std::ranges::any_of(u.data(), [](double v) { return v != 0; }); };
  const bool moving = std::ranges::any_of(s.u, [&](const auto& u) { return std::ranges::any_of(u, moves); });
  if (moving || work_->boundary.brings_flow()) start_flows();
}

/// Velocities on the faces of what moves already, and of what given flows set in motion at once, all phases by as much:
/// else the first step would carry nothing.
template <int D>
void Model<D>::start_flows() {
  auto& s = state_;
  const Cells<D> pressure = s.p;
  const Vec<D> G = G_;
  const auto rates = s.rate;
  std::fill(s.p.data().begin(), s.p.data().end(), 0.0);
  StepLimit limit{};
  const double dt = std::min(stable_step(limit), longest_start);
  auto& boundary = work_->boundary;
  boundary.leave_out_pressures(true);
  couple(Vec<D>{}, dt);
  const Faces<D> own_flow = s.face_u;
  const std::vector<Faces<D>> own = s.phase_u;
  StepReport report;
  work_->project(grid_, settings_, G_, dt, 0, settings_.projection_tolerance / (dt * dt), true, s, report);
  boundary.leave_out_pressures(false);
  work_->tree.apply(grid_, s.face_u, work_->projection.source());
  const auto first = -static_cast<std::ptrdiff_t>(grid_.layout().first);  // halos too
  const auto all = static_cast<std::ptrdiff_t>(grid_.layout().size);
  for_blocks(grid_, [&](int b) {
    for (int d = 0; d < D; ++d) {
      const double* phi = s.face_u[d].block(b);
      const double* before = own_flow[d].block(b);
      const double* area = space_.is_uncut(b) ? nullptr : space_.area()[d].block(b);
      for (std::size_t i = 0; i < phases(); ++i) {
        double* U = s.phase_u[i][d].block(b);
        std::vector<double> given;  // on open faces of the boundary
        boundary.each(b, d, [&](const OpeningFace<D>& face) { given.push_back(U[face.face]); });
        for (std::ptrdiff_t at = first; at < first + all; ++at) {
          const double open = area == nullptr ? 1.0 : area[at];
          U[at] = open > 0 ? own[i][d].block(b)[at] + (phi[at] - before[at]) / open : 0.0;
        }
        auto kept = given.begin();
        boundary.each(b, d, [&](const OpeningFace<D>& face) { U[face.face] = *kept++; });
        boundary.close(grid_, b, d, U);
      }
    }
  });
  s.p = pressure;
  s.rate = rates;
  G_ = G;
  work_->coupling.find_layers(grid_, s, G_);
}

template <int D>
const WallElements<D>& Model<D>::wall_elements() const {
  return work_->diffuse.elements();
}

template <int D>
const WallVelocity<D>& Model<D>::wall_velocity() const {
  return work_->diffuse.walls();
}

template <int D>
Vec<D> Model<D>::drag(const WallElement<D>& element) const {
  return work_->with_eddies(
      state_, [&](const auto* eddies) { return work_->diffuse.drag(settings_, state_, element, eddies); });
}

template <int D>
const Tracers<D>& Model<D>::tracers() const {
  return work_->tracers;
}

template <int D>
TurningSolids<D>& Model<D>::turning_solids() {
  return work_->turning.solids();
}
template <int D>
const TurningSolids<D>& Model<D>::turning_solids() const {
  return work_->turning.solids();
}

template <int D>
Cells<D> Model<D>::transfer_rate(std::size_t transfer) const {
  const GasTransfer& given = settings_.transfers[transfer];
  const std::size_t liquid = settings_.tracers[given.tracer].phase;
  const Properties& fluid = settings_.phases[liquid].fluid;
  const auto& s = state_;
  Cells<D> result(grid_);
  const bool known = work_->eddies && work_->eddies->turbulence().two_equations();
  const Cells<D> epsilon = known ? work_->eddies->turbulence().dissipation(s.turbulent) : Cells<D>();
  for_blocks(grid_, [&](int b) {
    for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        for (const std::size_t body : given.bodies) {
          TransferAt here{.diffusivity = settings_.tracers[given.tracer].diffusivity,
                          .viscosity = fluid.viscosity / fluid.density,
                          .diameter = settings_.phases[body].diameter,
                          .dissipation = known ? epsilon.block(b)[at] : 0.0};
          for (std::size_t d = 0; d < D; ++d)
            here.slip += std::pow(s.u[body][d].block(b)[at] - s.u[liquid][d].block(b)[at], 2);
          here.slip = std::sqrt(here.slip);
          // Where the gas takes nearly all it is no bubbles.
          const double bodies = std::max(std::min(s.a[body].block(b)[at], s.a[liquid].block(b)[at]), 0.0);
          result.block(b)[at] += given.kL(here) * 6 * bodies / here.diameter;
        }
    });
  });
  return result;
}

template <int D>
const Turbulence<D>* Model<D>::turbulence() const {
  return work_->eddies ? &work_->eddies->turbulence() : nullptr;
}

template <int D>
Cells<D> Model<D>::wall_units() const {
  if (!work_->eddies) return Cells<D>(grid_);
  return work_->eddies->turbulence().wall_units(grid_, work_->eddies->velocity(), work_->eddies->nu());
}

template <int D>
void Model<D>::recall(const Vec<D>& body_force) {
  G_ = body_force;
  work_->turning.set_time(grid_, state_.time);
  if (!work_->eddies) return;
  work_->fill_fractions(grid_, state_);
  work_->eddies->find_mixture(grid_, settings_, state_);
}

template <int D>
void Model<D>::archive(Archive& a) {
  a("time", state_.time);
  const auto keep = [&](const std::string& name, auto& components) {
    for (std::size_t d = 0; d < D; ++d) wavy::archive<D>(a, fmt::format("{}{}", name, d), components[d]);
  };
  for (std::size_t i = 0; i < phases(); ++i)
    a.within(fmt::format("phase{}", i), [&] {
      wavy::archive<D>(a, "a", state_.a[i]);
      keep("u", state_.u[i]);
      keep("acceleration", state_.acceleration[i]);
      keep("phase_u", state_.phase_u[i]);
    });
  for (std::size_t k = 0; k < state_.rate.size(); ++k) wavy::archive<D>(a, fmt::format("rate{}", k), state_.rate[k]);
  wavy::archive<D>(a, "p", state_.p);
  wavy::archive<D>(a, "last_pressure", work_->projection.last_pressure());
  keep("face_u", state_.face_u);
  a("G", G_);
  a("last_step", last_step_);
  a.within("boundary", [&] { work_->boundary.archive(a); });
  if (work_->eddies) {
    if (a.reading()) state_.turbulent = work_->eddies->turbulence().empty_state(grid_);
    a.within("turbulence", [&] { wavy::archive<D>(a, state_.turbulent); });
  }
  a.within("turning", [&] { work_->turning.solids().archive(a); });
  a.within("tracers", [&] { work_->tracers.archive(a, grid_, state_.tracers); });
  if (!a.reading()) return;
  work_->diffuse.set_time(state_.time);
  work_->turning.set_time(grid_, state_.time);
  work_->fill_fractions(grid_, state_);
  if (work_->eddies) work_->eddies->find_mixture(grid_, settings_, state_);
  work_->coupling.find_layers(grid_, state_, G_);
  work_->projection.set_sources(state_.time, true);
}

template <int D>
double Model<D>::stable_step(StepLimit& limit) const {
  const Layout<D>& layout = grid_.layout();
  const auto phases = settings_.phases.size();
  const auto& turning = work_->turning;
  const Faces<D> in_frames = turning.has_frames() ? turning.seen(grid_, state_.face_u) : Faces<D>();
  const Faces<D>& flow = turning.has_frames() ? in_frames : state_.face_u;
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
            const double phi = std::abs(flow[d].block(b)[face]);
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
  const double given = std::max({work_->boundary.greatest_speed(state_.time), wall_velocity().greatest_speed(grid_),
                                 turning.solids().greatest_speed(state_.time),
                                 turning.solids().greatest_speed(state_.time + last_step_)});
  double fastest = std::max(rate, given / grid_.smallest_spacing());
  for (const auto& inlet : work_->boundary.wall_inlets())
    fastest = std::max(fastest, std::abs(inlet.speed) * inlet.area / OpenVolumes<D>(space_, inlet.block)[inlet.at]);
  const double advection = fastest > 0 ? settings_.courant / fastest : 1e30;
  const Vec<D> G = settings_.body_force(state_.time);
  const double strength = length<D>(G);
  // From rest, too, bubbles soon move that are not seen to move yet.
  const bool waves_count = strength > 0 && (work_->coupling.layers().any() || last_step_ == 0);
  // Between layers whose densities differ little they are slow (Atwood number).
  const double heaviest = settings_.phases.front().fluid.density;
  const double lightest = settings_.phases.back().fluid.density;
  const double pull = strength * (heaviest - lightest) / (heaviest + lightest);
  const double waves =
      waves_count && pull > 0 ? gravity_wave_number * std::sqrt(grid_.smallest_spacing() / pull) : 1e30;
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
  work_->diffuse.set_time(s.time + dt);
  work_->turning.set_time(grid_, s.time + dt);
  work_->turning.enter_frames(grid_, s);
  work_->fill_fractions(grid_, s);
  work_->fill_velocities(grid_, settings_, 2, s);
  work_->fill_accelerations(grid_, s);
  work_->tracers.begin(grid_, Work::shares(s), s.tracers);
  work_->transport(grid_, settings_, work_->coupling.layers(), dt, s);
  work_->carry_tracers(grid_, dt, s);
  work_->fill_fractions(grid_, s);
  transport_momentum<D>(grid_, space_, work_->transport, dt, s, work_->scratch);
  report.seconds[0] = watch.lap();

  if (work_->eddies) {
    work_->fill_velocities(grid_, settings_, 1, s);
    report.turbulent_iterations = work_->eddies->step(grid_, settings_, dt, s);
  }
  work_->tracers.spread(grid_, s.time, dt, work_->eddies ? &s.turbulent.eddy_viscosity : nullptr, s.tracers);
  dissolve_gases(*this, work_->tracers, dt);
  report.viscous_iterations =
      work_->with_eddies(s, [&](const auto* eddies) { return work_->diffuse(grid_, settings_, dt, eddies, s); });
  report.seconds[1] = watch.lap();

  couple(settings_.body_force(s.time + 0.5 * dt), dt);
  report.seconds[2] = watch.lap();

  report.divergence = work_->project(grid_, settings_, G_, dt, last_step_ > 0 ? dt / last_step_ : 0,
                                     settings_.projection_tolerance / (dt * dt), true, s, report);
  last_step_ = dt;
  work_->coupling.return_to_cells(grid_, settings_, dt, s);
  work_->turning.finish(grid_, dt);
  work_->coupling.unlock_faces(grid_, settings_, dt, s);
  work_->tree.apply(grid_, s.face_u, work_->projection.source());
  report.seconds[3] = watch.lap();

  s.time += dt;
  bool finite = std::isfinite(report.divergence);
  for (std::size_t i = 0; i < phases(); ++i) finite = finite && std::isfinite(greatest_speed(i));
  if (!finite)
    throw failure(fmt::format("the run diverged at t = {:.6g} s", s.time),
                  "try a smaller run.courant or run.largest_step, or a finer grid.cell");
  return report;
}

template struct State<2>;
template struct State<3>;
template class Model<2>;
template class Model<3>;

}  // namespace wavy::dispersed
