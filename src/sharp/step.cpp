#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <optional>
#include <utility>

#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "flow/projection.hpp"
#include "flow/shear_rate.hpp"
#include "sharp/face_viscosity.hpp"
#include "sharp/inactive_gas.hpp"
#include "sharp/opening_fluxes.hpp"
#include "sharp/parts.hpp"

namespace wavy::sharp {
namespace {

constexpr double capillary_wave_number = 0.25;  ///< dt <= this x sqrt((rho1 + rho2) h^3 / sigma); stable up to 0.36
constexpr int beside_interface = 3;          ///< cells within which accelerations are not carried over to the next step
constexpr double gravity_wave_number = 0.3;  ///< dt <= this x sqrt(h / |G|): waves of two cells are stable up to 1.1

}  // namespace

std::string name_of(StepLimit limit) {
  switch (limit) {
    case StepLimit::advection:
      return "advection";
    case StepLimit::gravity_waves:
      return "gravity waves";
    case StepLimit::capillary_waves:
      return "capillary waves";
  }
  return "";
}

template <int D>
State<D>::State(const Grid<D>& grid) : F(grid), p(grid) {
  for (int d = 0; d < D; ++d) {
    u[d] = Cells<D>(grid);
    acceleration[d] = Cells<D>(grid);
    face_u[d] = Cells<D>(grid);
  }
}

template <int D>
struct Model<D>::Work {
  const OpenSpace<D>& space;
  Boundary<D> boundary;
  WallElements<D> wall_elements;
  WallVelocity<D> walls;
  TurningSolids<D> turning;
  TurningFrames<D> frames;
  Tracers<D> tracers;

  Advection<D> advect;
  Viscosity<D> diffuse;
  InterfaceForce<D> force;
  Projection<D> projection;
  Faces<D> acceleration;
  Faces<D> inverse_density;
  Cells<D> mass;
  Cells<D> section_mass;                       // round an axis; else empty
  std::optional<InactiveGas<D>> inactive_gas;  // where gas is left out
  std::optional<Turbulence<D>> turbulence;     // where the flow is not laminar
  Cells<D> nu, rho;                            // likewise; else empty

  Work(const Grid<D>& grid, const Settings<D>& settings, const OpenSpace<D>& open_space,
       const std::vector<Opening<D>>& openings)
      : space(open_space),
        boundary(grid, space, openings),
        wall_elements(find_wall_elements<D>(grid, space, {settings.walls, settings.solid_walls}, settings.moving_walls,
                                            boundary)),
        walls(grid, space, settings.moving_walls, wall_elements),
        turning(grid, space, settings.turning),
        frames(grid, space, settings.turning),
        tracers(grid, space, boundary, settings.tracers),
        advect(grid, space, &boundary, walls, &tracers),
        diffuse(grid, space, settings.walls, &boundary, walls, wall_elements, what_turns()),
        force(grid, space),
        projection(grid, space, boundary),
        mass(grid, 1.0) {
    for (int d = 0; d < D; ++d) {
      acceleration[d] = Cells<D>(grid);
      inverse_density[d] = Cells<D>(grid);
    }
    if (space.axisymmetric() && !space.is_uncut()) section_mass = Cells<D>(grid, 1.0);
    if (settings.turbulence.law != nullptr) {
      turbulence.emplace(grid, space, boundary, walls, wall_elements, settings.turbulence, what_turns());
      nu = rho = Cells<D>(grid);
    }
    if (!space.is_uncut()) advect.follow_walls(grid, *diffuse.gradients());
    if (!settings.free_surface_only) return;
    inactive_gas.emplace(grid, boundary);
    advect.leave_out(inactive_gas->inactive());
  }

  /// Null where nothing does.
  TurningSolids<D>* what_turns() { return turning.none() ? nullptr : &turning; }

  /// fn(what turbulence adds to the stress), null where the flow is laminar.
  template <class Fn>
  auto with_eddies(const State<D>& state, Fn&& fn) const {
    if (!turbulence) return fn(static_cast<const EddyStress<D>*>(nullptr));
    const MeanFlow<D> flow = mean_flow(state);
    const EddyStress<D> eddies{*turbulence, state.turbulent, flow, rho};
    return fn(&eddies);
  }

  [[nodiscard]] MeanFlow<D> mean_flow(const State<D>& state) const {
    return {state.u, state.face_u, nu, &state.F, state.time};
  }

  /// What turbulence looks at: velocities behind walls, and the mixture in the cells and one layer round them. Reads
  /// F(1), filled.
  void find_mean_flow(const Grid<D>& grid, const Settings<D>& settings, State<D>& state) {
    fill_velocity_behind<D>(grid, space, settings.walls, walls, boundary, state.face_u, state.u);
    const bool by_rate = depends_on_rate(settings);
    const auto counts = [&](int block, std::ptrdiff_t at) {
      return !settings.free_surface_only || state.F.block(block)[at] > 0;
    };
    const Cells<D> rates = by_rate ? shear_rates<D>(grid, space, state.u, counts) : Cells<D>();
    const CellRange<D> range = with_layers(grid.layout(), 1);
    for_blocks(grid, [&](int b) {
      for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const double F = std::clamp(state.F.block(b)[at], 0.0, 1.0);
          const double rate = by_rate ? rates.block(b)[at] : 0.0;
          rho.block(b)[at] = density(settings, F);
          // What is left out is taken for more of the liquid.
          nu.block(b)[at] = settings.free_surface_only ? viscosity(settings, 1, rate) / settings.liquid.density
                                                       : viscosity(settings, F, rate) / rho.block(b)[at];
        }
      });
    });
    // The shear rate beyond a block is its neighbour's.
    if (by_rate) fill_halo(grid, nu, 1, all_walls<D>(Mirror::even));
  }

  void find_masses(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& F) {
    sharp::find_masses(grid, space, settings, F, mass);
    if (!section_mass.data().empty()) find_section_masses(grid, space, settings, F, section_mass);
  }

  void predict(const Grid<D>& grid, State<D>& state, double dt) const {
    predict_faces<D>(grid, space, boundary, section_mass.data().empty() ? mass : section_mass, state.u, acceleration,
                     dt, state.face_u);
  }

  /// Once the forces are known. Faces within solids that turn are closed to the pressure.
  void set_coefficients(const Grid<D>& grid) {
    for (int b = 0; b < grid.blocks(); ++b) turning.narrow(b, inverse_density);
    projection.solver().set_coefficients(grid, inverse_density, boundary.holds_pressure(), left_out());
    for (int b = 0; b < grid.blocks(); ++b) turning.widen(b, inverse_density);
  }

  void set_time(const Grid<D>& grid, double time) {
    walls.set_time(time);
    turning.set_time(grid, time);
    frames.set_time(time);
  }

  /// Forces and 1/rho on the faces, with what openings make of them. `dt`: of the step; 0 at the start.
  void find_forces(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state, const Vec<D>& G,
                   const Vec<D>& drive, double dt) {
    auto& interface = advect.extended_interface();
    force(grid, settings, interface.sheets(), interface.extended_fraction(state), state, G, acceleration,
          inverse_density);
    add_uniform<D>(grid, space, drive, acceleration);
    frames.find_gain(grid, state.u, state.acceleration, dt);
    frames.add_gain(grid, left_out(), acceleration);
    if (boundary.closed()) return;
    boundary.set_coefficients(
        grid, [&](const OpeningFace<D>& face) { return density(settings, state.F.block(face.block)[face.inside]); },
        acceleration, inverse_density);
  }

  /// The field of cells that are left out; null where none are.
  [[nodiscard]] const Cells<D>* left_out() const { return inactive_gas ? &inactive_gas->inactive() : nullptr; }

  /// No gain of half a step beside the interface, where one cell says little of the next.
  void drop_beside_interface(const Grid<D>& grid, int block, const double* F, State<D>& state) const {
    const Layout<D>& layout = grid.layout();
    std::array<double*, D> own;
    for (int d = 0; d < D; ++d) own[d] = state.acceleration[d].block(block);
    for_open_rows<D>(space, block, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        double unlike = 0;
        for (std::size_t e = 0; e < D; ++e)
          for (int far = 1; far <= beside_interface; ++far)
            unlike += std::abs(F[o + i] - F[o + i + far * layout.step[e]]) +
                      std::abs(F[o + i] - F[o + i - far * layout.step[e]]);
        for (std::size_t e = 0; e < D; ++e) own[e][o + i] = unlike > pure ? 0.0 : own[e][o + i];
      }
    });
  }

  /// face_u and u take the total acceleration, with the pressure's, for dt; returns the greatest |div u| dt left.
  double correct(const Grid<D>& grid, const FluidAtOpenings<D>& fluid, const Vec<D>& G, double time, double dt,
                 State<D>& state) {
    fill_halo(grid, state.p, 1, all_walls<D>(Mirror::even), space.open_spans());
    if (boundary.holds_pressure()) boundary.set_pressure_behind(grid, fluid, time, state.face_u, state.p);
    projection.add_pressure(grid, state.p, inverse_density, acceleration);
    const Cells<D>& extended_fraction = advect.extended_interface().extended_fraction(state);
    const double divergence = max_blocks(grid, [&](int b) {
      turning.narrow(b, inverse_density);
      projection.correct_faces(grid, b, state.p, inverse_density, dt, state.face_u);
      turning.widen(b, inverse_density);
      projection.accelerate_cells(grid, b, acceleration, dt, state.acceleration, state.u);
      turning.take_over(grid, b, mass, acceleration, inverse_density, G, dt, state.acceleration, state.u);
      drop_beside_interface(grid, b, extended_fraction.block(b), state);
      return projection.greatest_divergence(grid, b, state.face_u, dt, left_out());
    });
    if (boundary.holds_pressure() && !inactive_gas) boundary.balance(grid, state.face_u);
    return divergence;
  }
};

template <int D>
Model<D>::Model(const Grid<D>& grid, Settings<D> settings, OpenSpace<D> space, const std::vector<Opening<D>>& openings)
    : grid_(grid),
      settings_(std::move(settings)),
      space_(std::move(space)),
      state_(grid),
      work_(std::make_unique<Work>(grid, settings_, space_, openings)) {}
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
const WallElements<D>& Model<D>::wall_elements() const {
  return work_->wall_elements;
}

template <int D>
Vec<D> Model<D>::drag(const WallElement<D>& element) const {
  if (settings_.free_surface_only && state_.F.block(element.block)[element.at] <= 0) return {};  // there is nothing
  if (element.of == WallElement<D>::Of::side) return drag_of_side(element);
  return work_->with_eddies(
      state_, [&](const auto* eddies) { return work_->diffuse.drag(grid_, settings_, state_, element, eddies); });
}

template <int D>
Vec<D> Model<D>::drag_of_side(const WallElement<D>& side) const {
  if (side.kind != Wall::no_slip) return {};
  const Vec<D> wall = work_->walls.of(side);
  const double distance = 0.5 * grid_.geometry(side.block).spacing[side.axis];
  Vec<D> shear;
  for (std::size_t d = 0; d < D; ++d)
    shear[d] = rubs(side, d) ? (state_.u[d].block(side.block)[side.at] - wall[d]) / distance : 0.0;
  const double mu = viscosity(settings_, state_.F.block(side.block)[side.at], length<D>(shear));
  const double turbulent = work_->with_eddies(
      state_, [&](const auto* eddies) { return eddies == nullptr ? 1.0 : eddies->wall_factor(side); });
  for (double& component : shear) component *= mu * turbulent * side.area;
  return shear;
}

template <int D>
void Model<D>::start() {
  kept_volume_ = liquid_volume();
  state_.wall_drag = {};
  work_->set_time(grid_, state_.time);
  set_body_force(state_.time);
  work_->tracers.start(grid_, {{&state_.F}, {&state_.F, true}}, state_.tracers);

  auto& interface = work_->advect.extended_interface();
  interface.update(grid_, settings_, state_, pad);
  work_->find_masses(grid_, settings_, state_.F);
  work_->frames.keep(grid_, state_.u);
  work_->find_forces(grid_, settings_, state_, G_, drive_, 0);
  // The pressure that keeps the liquid's acceleration free of divergence, from rest.
  if (work_->turbulence) {
    work_->find_mean_flow(grid_, settings_, state_);
    work_->turbulence->start(grid_, work_->mean_flow(state_), state_.turbulent);
  }
  const auto& boundary = work_->boundary;
  auto& projection = work_->projection;
  work_->predict(grid_, state_, 1.0);
  leave_out_gas_cells();
  projection.solver().set_coefficients(grid_, work_->inverse_density, boundary.holds_pressure(), work_->left_out());
  projection.find_divergence(grid_, state_.face_u, 1.0);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid_, fluid_at_openings<D>(boundary, settings_, state_.F, G_), state_.time,
                               state_.face_u, work_->inverse_density, projection.rhs());
  double strength = 1e-12;
  for (const double g : G_) strength = std::max(strength, std::abs(g));
  constexpr double at_rest = 1e-13;  // what is left here sets a liquid at rest in motion
  projection.solver().solve(grid_, projection.rhs(), state_.p, at_rest * strength / grid_.smallest_spacing(),
                            settings_.most_iterations);
  for (auto& face : state_.face_u) std::fill(face.data().begin(), face.data().end(), 0.0);
  if (boundary.brings_flow() || greatest_speed() > 0) start_flows();
}

template <int D>
void Model<D>::archive(Archive& a) {
  a("time", state_.time);
  wavy::archive<D>(a, "F", state_.F);
  wavy::archive<D>(a, "p", state_.p);
  wavy::archive<D>(a, "last_pressure", work_->projection.last_pressure());
  for (std::size_t d = 0; d < D; ++d) {
    wavy::archive<D>(a, fmt::format("u{}", d), state_.u[d]);
    wavy::archive<D>(a, fmt::format("acceleration{}", d), state_.acceleration[d]);
    wavy::archive<D>(a, fmt::format("face_u{}", d), state_.face_u[d]);
  }
  a("G", G_);
  a("drive", drive_);
  a("kept_volume", kept_volume_);
  a("steps", steps_);
  a("last_step", last_step_);
  a.within("boundary", [&] { work_->boundary.archive(a); });
  if (work_->turbulence) {
    if (a.reading()) state_.turbulent = work_->turbulence->empty_state(grid_);
    a.within("turbulence", [&] { wavy::archive<D>(a, state_.turbulent); });
  }
  a.within("turning", [&] { work_->turning.archive(a); });
  a.within("tracers", [&] { work_->tracers.archive(a, grid_, state_.tracers); });
  if (!a.reading()) return;
  // What follows from it, as the last step has left it.
  work_->set_time(grid_, state_.time);
  work_->advect.extended_interface().update(grid_, settings_, state_, pad);
  if (work_->turbulence) work_->find_mean_flow(grid_, settings_, state_);
  leave_out_gas_cells();
}

template <int D>
const Turbulence<D>* Model<D>::turbulence() const {
  return work_->turbulence ? &*work_->turbulence : nullptr;
}

template <int D>
Cells<D> Model<D>::wall_units() const {
  return work_->turbulence ? work_->turbulence->wall_units(grid_, state_.u, work_->nu) : Cells<D>(grid_);
}

template <int D>
const ExtendedInterface<D>& Model<D>::extended_interface() const {
  return work_->advect.extended_interface();
}

template <int D>
const WallVelocity<D>& Model<D>::wall_velocity() const {
  return work_->walls;
}

template <int D>
const Tracers<D>& Model<D>::tracers() const {
  return work_->tracers;
}

template <int D>
Cells<D> Model<D>::transfer_rate(std::size_t transfer) const {
  const GasTransfer& given = settings_.transfers[transfer];
  const bool known = work_->turbulence && work_->turbulence->two_equations();
  const Cells<D> epsilon = known ? work_->turbulence->dissipation(state_.turbulent) : Cells<D>();
  Cells<D> result(grid_);
  for_interface([&](const InterfacePiece<D>& piece) {
    const double room = OpenVolumes<D>(space_, piece.block)[piece.at] * grid_.geometry(piece.block).cell_volume;
    if (room <= 0) return;
    const TransferAt here{.diffusivity = settings_.tracers[given.tracer].diffusivity,
                          .viscosity = settings_.liquid.viscosity / settings_.liquid.density,
                          .dissipation = known ? epsilon.block(piece.block)[piece.at] : 0.0};
    result.block(piece.block)[piece.at] += given.kL(here) * piece.area / room;
  });
  return result;
}

template <int D>
TurningSolids<D>& Model<D>::turning_solids() {
  return work_->turning;
}
template <int D>
const TurningSolids<D>& Model<D>::turning_solids() const {
  return work_->turning;
}

template <int D>
void Model<D>::recall(const Vec<D>& body_force) {
  G_ = body_force;
  work_->set_time(grid_, state_.time);
  work_->advect.extended_interface().update(grid_, settings_, state_, pad);
  if (work_->turbulence) work_->find_mean_flow(grid_, settings_, state_);
}

template <int D>
void Model<D>::set_body_force(double time) {
  G_ = settings_.body_force(time);
  drive_ = take_periodic<D>(grid_, G_);
}

/// Where gas is left out: finds out where, and stills what is there.
template <int D>
void Model<D>::leave_out_gas_cells() {
  if (!settings_.free_surface_only) return;
  auto& gas = *work_->inactive_gas;
  gas.mark(grid_, work_->advect.extended_interface().extended_fraction(state_));
  gas.still(grid_, work_->acceleration, work_->inverse_density, state_);
  space_.narrow(grid_, gas.inactive(), gas.at_pressures());
}

template <int D>
double Model<D>::computed_share() const {
  if (!settings_.free_surface_only) return 1;
  const double inactive = sum_volumes(grid_, [&](int b) {
    double sum = 0;
    const OpenVolumes<D> open_volumes(space_, b);
    for_rows<D>(grid_.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) sum += open_volumes[o + i] * work_->inactive_gas->inactive().block(b)[o + i];
    });
    return sum;
  });
  return 1 - inactive * grid_.cell_volume() / open_volume();
}

/// Velocities on the faces from those in the cells, and what given flows set in motion at once: else the first step
/// would bring nothing.
template <int D>
void Model<D>::start_flows() {
  auto& s = state_;
  auto& boundary = work_->boundary;
  const Cells<D> pressure = s.p;
  std::fill(s.p.data().begin(), s.p.data().end(), 0.0);
  for (auto& a : work_->acceleration) std::fill(a.data().begin(), a.data().end(), 0.0);
  StepLimit limit{};
  const double dt = stable_step(limit);
  fill_velocity_halo<D>(grid_, space_, settings_.walls, work_->walls, 1, s.u);

  work_->predict(grid_, s, dt);
  work_->turning.blend_faces(grid_, s.face_u);
  if (work_->inactive_gas) work_->inactive_gas->still(grid_, work_->acceleration, work_->inverse_density, s);
  if (!work_->turning.none()) work_->set_coefficients(grid_);  // at rest the pressure goes through solids
  boundary.leave_out_pressures(true);
  auto& projection = work_->projection;
  projection.set_given(grid_, s.time, s.u, s.face_u);

  projection.find_divergence(grid_, s.face_u, dt);
  work_->turning.clear(grid_, projection.rhs());
  projection.solver().solve(grid_, projection.rhs(), s.p, settings_.projection_tolerance / (dt * dt),
                            settings_.most_iterations);
  work_->correct(grid_, fluid_at_openings<D>(boundary, settings_, s.F, G_), G_, s.time, dt, s);
  boundary.leave_out_pressures(false);
  for (auto& a : s.acceleration) std::fill(a.data().begin(), a.data().end(), 0.0);
  s.p = pressure;
}

template <int D>
double Model<D>::stable_step(StepLimit& limit) const {
  const Layout<D>& layout = grid_.layout();
  const Faces<D> in_frames = work_->frames.none() ? Faces<D>() : work_->frames.seen(grid_, state_.face_u);
  const Faces<D>& flow = work_->frames.none() ? state_.face_u : in_frames;
  const double rate = max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const OpenVolumes<D> open_volumes(space_, b);
    const double* F = state_.F.block(b);
    const Vec<D>& h = grid_.geometry(b).spacing;
    const double least_content = settings_.free_surface_only ? pure : 0.0;
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = flow[d].block(b);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      const double weight = space_.is_uncut(b) ? 1.0 : space_.weight(b, layout, o);
      const double grows = space_.is_uncut(b) ? 0.0 : space_.weight(b, layout, o + 1) - weight;  // from cell to cell
#pragma omp simd reduction(max : greatest)
      for (int i = 0; i < n; ++i) {
        double sum = 0;
        for (std::size_t d = 0; d < D; ++d) {
          const double low = std::abs(face[d][o + i]);
          const double high = std::abs(face[d][o + i + layout.step[d]]);
          sum += (low > high ? low : high) / h[d];
        }
        // What crosses a cut cell, as a share of its room; small cells share that of their group.
        const double least = OpenSpace<D>::small * (weight + i * grows);
        const double own =
            F[o + i] < least_content ? 0.0 : sum / (open_volumes[o + i] > least ? open_volumes[o + i] : least);
        greatest = own > greatest ? own : greatest;
      }
    });
    return greatest;
  });
  const double driven =
      std::max({work_->boundary.greatest_speed(state_.time), work_->walls.greatest_speed(grid_),
                work_->turning.greatest_speed(state_.time), work_->turning.greatest_speed(state_.time + last_step_)});
  const double incoming = driven / grid_.smallest_spacing();

  const Vec<D> G = settings_.body_force(state_.time);
  const double strength = std::sqrt(dot<D>(G, G));
  const double fastest = std::max(rate, incoming);
  const double advection = fastest > 0 ? settings_.courant / fastest : 1e30;
  const double waves = strength > 0 ? gravity_wave_number * std::sqrt(grid_.smallest_spacing() / strength) : 1e30;
  const double h = grid_.smallest_spacing();
  const double inertia = settings_.liquid.density + settings_.gas.density;
  const double sigma = settings_.surface_tension;
  const double capillary = sigma > 0 ? capillary_wave_number * std::sqrt(inertia * h * h * h / sigma) : 1e30;
  const double least = std::min({advection, waves, capillary});
  limit = least == advection ? StepLimit::advection
          : least == waves   ? StepLimit::gravity_waves
                             : StepLimit::capillary_waves;
  return least;
}

template <int D>
double Model<D>::speed_by_drive() const {
  const double lightest = settings_.free_surface_only ? settings_.liquid.density : settings_.gas.density;
  return work_->boundary.speed_by_drive(grid_, state_.time, settings_.body_force(state_.time), settings_.liquid.density,
                                        lightest, settings_.surface_tension / grid_.smallest_spacing()) +
         work_->walls.greatest_speed(grid_) + work_->turning.greatest_speed(state_.time);
}

template <int D>
StepReport Model<D>::step(double dt) {
  assert(dt > 0 && std::isfinite(dt));
  StepReport report;
  report.dt = dt;
  Stopwatch watch;
  auto& s = state_;

  const auto& boundary = work_->boundary;
  work_->set_time(grid_, s.time + dt);
  work_->frames.keep(grid_, s.u);
  s.face_u = work_->frames.seen(grid_, std::move(s.face_u));  // until `predict`
  report.volume_correction = work_->advect(grid_, settings_, s, dt, steps_++, kept_volume_);
  kept_volume_ += work_->advect.gained();
  report.seconds[0] = watch.lap();

  auto& interface = work_->advect.extended_interface();
  if (!space_.is_uncut())
    interface.update(grid_, settings_, s, pad);
  else
    fill_halo(grid_, s.F, 2, all_walls<D>(Mirror::even));
  work_->find_masses(grid_, settings_, s.F);
  if (work_->turbulence) {
    work_->find_mean_flow(grid_, settings_, s);
    report.turbulent_iterations = work_->turbulence->step(grid_, work_->mean_flow(s), dt, s.turbulent);
  }
  work_->tracers.spread(grid_, s.time, dt, work_->turbulence ? &s.turbulent.eddy_viscosity : nullptr, s.tracers);
  report.viscous_iterations = work_->with_eddies(s, [&](const auto* eddies) {
    return work_->diffuse(grid_, settings_, interface.extended_fraction(s), work_->mass, s, dt, eddies);
  });
  report.seconds[1] = watch.lap();

  set_body_force(s.time + 0.5 * dt);
  if (space_.is_uncut()) interface.update(grid_, settings_, s, pad);
  fill_velocity_halo<D>(grid_, space_, settings_.walls, work_->walls, 1, s.u);

  work_->find_forces(grid_, settings_, s, G_, drive_, dt);
  work_->predict(grid_, s, dt);
  work_->turning.blend_faces(grid_, s.face_u);
  const FaceGain by_frames = work_->frames.on_faces();
  work_->turning.press(grid_, by_frames, dt, s.face_u);
  leave_out_gas_cells();
  auto& projection = work_->projection;
  projection.set_given(grid_, s.time + dt, s.u, s.face_u);

  projection.find_divergence(grid_, s.face_u, dt);
  work_->turning.clear(grid_, projection.rhs(), by_frames);
  const auto fluid = fluid_at_openings<D>(boundary, settings_, s.F, G_);
  if (boundary.holds_pressure())
    boundary.subtract_pressure(grid_, fluid, s.time + dt, s.face_u, work_->inverse_density, projection.rhs());
  report.seconds[2] = watch.lap();

  work_->set_coefficients(grid_);
  projection.guess(grid_, s.p, last_step_ > 0 ? dt / last_step_ : 0);
  if (work_->inactive_gas) work_->inactive_gas->clear(grid_, s.p);
  last_step_ = dt;
  const SolveReport solved = projection.solver().solve(
      grid_, projection.rhs(), s.p, settings_.projection_tolerance / (dt * dt), settings_.most_iterations);
  report.pressure_iterations = solved.iterations;
  report.pressure_converged = solved.converged;
  report.divergence = work_->correct(grid_, fluid, G_, s.time + dt, dt, s);
  work_->turning.finish_loads(grid_, dt);
  if (work_->inactive_gas)
    for (int d = 0; d < D; ++d)
      for (auto* field : {&s.u[d], &s.acceleration[d]}) work_->inactive_gas->clear(grid_, *field);
  report.seconds[3] = watch.lap();

  s.time += dt;
  dissolve_gases(*this, work_->tracers, dt);
  if (!std::isfinite(report.divergence) || !std::isfinite(solved.residual))
    throw failure(fmt::format("the run diverged at t = {:.6g} s near {}", s.time, fastest_place()),
                  "try a smaller run.courant or run.largest_step, or a finer grid.cell; if a formula drives the "
                  "motion, look for a jump in it");
  return report;
}

template struct State<2>;
template struct State<3>;
template class Model<2>;
template class Model<3>;

}  // namespace wavy::sharp
