#include "dispersed/coupling.hpp"

#include <algorithm>
#include <cmath>

#include "dispersed/parts.hpp"
#include "dispersed/small_system.hpp"
#include "flow/projection.hpp"

namespace wavy::dispersed {
namespace {

constexpr double together = 1e18;       // drag between phases that move as one, in masses per volume [kg/m3]
constexpr double nothing = 1e-30;       // fraction
constexpr double least_carrier = 1e-3;  // fraction by which drag is told for less of a carrier
constexpr double most_share = 0.95;     // of bodies, in closures

/// How far a phase with this fraction would carry others, not yet over the sum of all.
double carrying_power(bool carrier, double a) {
  const double square = carrier ? std::max(a, 0.0) * std::max(a, 0.0) : 0.0;
  return square * square;
}

/// How far each phase is the one that carries others: of the carriers, by the fourth power of their fractions.
void carrying(const std::vector<Phase>& phases, const std::array<double, most_phases>& a,
              std::array<double, most_phases>& carries) {
  double sum = 0;
  for (std::size_t i = 0; i < phases.size(); ++i) {
    carries[i] = carrying_power(phases[i].carrier, a[i]);
    sum += carries[i];
  }
  for (std::size_t i = 0; i < phases.size(); ++i) carries[i] = sum > 0 ? carries[i] / sum : 0.0;
}

/// One phase in another that carries it, where the carrier holds `a`.
DispersedBodies bodies_in(const Phase& body, const Phase& carrier, double tension, double gravity, double slip,
                          double a) {
  return {.carrier_density = carrier.fluid.density,
          .carrier_viscosity = carrier.fluid.viscosity,
          .density = body.fluid.density,
          .viscosity = body.fluid.viscosity,
          .surface_tension = tension,
          .diameter = body.diameter,
          .gravity = gravity,
          .slip = slip,
          .share = std::clamp(1 - a, 0.0, most_share)};
}

/// (velocity) x (curl of u) at a cell, by central differences; what is hidden is taken for what is in the cell.
template <int D>
Vec<D> times_curl(const Vec<D>& velocity, const std::array<const double*, D>& u, const Sight<D>& sight,
                  const Grid<D>& grid, int block, std::ptrdiff_t at) {
  const auto slope = [&](int c, int d) {
    const double* v = u[static_cast<std::size_t>(c)];
    const std::ptrdiff_t s = grid.layout().step[d];
    const std::ptrdiff_t low = sight.parts(block, d, at) ? at : at - s;
    const std::ptrdiff_t high = sight.parts(block, d, at + s) ? at : at + s;
    return (v[high] - v[low]) / (2 * grid.geometry(block).spacing[d]);
  };
  const double z = slope(1, 0) - slope(0, 1);
  if constexpr (D == 2) return {velocity[1] * z, -velocity[0] * z};
  if constexpr (D == 3) {
    const double x = slope(2, 1) - slope(1, 2);
    const double y = slope(0, 2) - slope(2, 0);
    return {velocity[1] * z - velocity[2] * y, velocity[2] * x - velocity[0] * z, velocity[0] * y - velocity[1] * x};
  }
}

bool pushes_aside(const Pair& pair) { return pair.lift != nullptr || pair.wall_lubrication != nullptr; }

/// What a wall pushes a body off with, over both fractions and its direction [N/m3]. A body's middle is no nearer to
/// the wall than its radius.
template <int D>
double push_off_wall(const WallLubrication& law, DispersedBodies of, const Vec<D>& slip, const Vec<D>& off, double y) {
  const double across = dot<D>(slip, off);
  of.slip = std::sqrt(std::max(dot<D>(slip, slip) - across * across, 0.0));
  return law.value(of, std::max(y, 0.5 * of.diameter)) * of.carrier_density * of.slip * of.slip;
}

}  // namespace

/// Distance and direction by differences over half a cell to each side.
template <int D>
void Coupling<D>::find_walls(const Grid<D>& grid, const Settings<D>& settings) {
  wall_distance_ = Cells<D>(grid);
  for (auto& field : off_wall_) field = Cells<D>(grid);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
    const Vec<D> middle = cell_middle<D>(grid, b, at);
    const Vec<D>& h = grid.geometry(b).spacing;
    Vec<D> off;
    for (int d = 0; d < D; ++d) {
      Vec<D> low = middle;
      Vec<D> high = middle;
      low[d] -= 0.5 * h[d];
      high[d] += 0.5 * h[d];
      off[d] = (settings.wall_distance(high) - settings.wall_distance(low)) / h[d];
    }
    const double size = length<D>(off);
    for (int d = 0; d < D; ++d) off_wall_[d].block(b)[at] = size > 0 ? off[d] / size : 0.0;
    wall_distance_.block(b)[at] = settings.wall_distance(middle);
  });
}

template <int D>
Coupling<D>::Coupling(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight,
                      const Settings<D>& settings, TurningPhases<D>& turning)
    : space_(space), sight_(sight), turning_(turning), layers_(grid, space, sight, settings.phases.size()) {
  const std::size_t phases = settings.phases.size();
  for (const auto& pair : settings.pairs) {
    inertia_.push_back(pair.virtual_mass != 0 ? Cells<D>(grid) : Cells<D>());
    side_.emplace_back();
    for (auto& field : side_.back())
      if (pushes_aside(pair)) field = Cells<D>(grid);
  }
  if (settings.wall_distance && std::ranges::any_of(settings.pairs, &Pair::wall_lubrication))
    find_walls(grid, settings);
  for (std::size_t i = 0; i < phases; ++i)
    for (auto* faces : {&response_, &star_}) {
      faces->emplace_back();
      for (auto& field : faces->back()) field = Cells<D>(grid);
    }
  for (int d = 0; d < D; ++d) jump_[d] = Cells<D>(grid);
  if (!space.is_uncut()) mean_weight_ = mean_weights(grid, space);
}

template <int D>
void Coupling<D>::find_rates(const Grid<D>& grid, const Settings<D>& settings, double gravity, State<D>& state) {
  const Layout<D>& layout = grid.layout();
  const auto& phases = settings.phases;
  for_blocks(grid, [&](int b) {
    std::array<const double*, most_phases> a{};
    std::array<std::array<const double*, D>, most_phases> u{};
    for (std::size_t i = 0; i < phases.size(); ++i) {
      a[i] = state.a[i].block(b);
      for (int d = 0; d < D; ++d) u[i][d] = state.u[i][d].block(b);
    }
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        std::array<double, most_phases> fractions{};
        std::array<double, most_phases> carries{};
        for (std::size_t i = 0; i < phases.size(); ++i) fractions[i] = a[i][at];
        carrying(phases, fractions, carries);
        for (std::size_t p = 0; p < settings.pairs.size(); ++p) {
          const Pair& pair = settings.pairs[p];
          const auto i = static_cast<std::size_t>(pair.first);
          const auto j = static_cast<std::size_t>(pair.second);
          Vec<D> slip;
          for (int d = 0; d < D; ++d) slip[d] = u[i][d][at] - u[j][d][at];
          double& kept = state.rate[p].block(b)[at];
          // From rest a light body would be hurled away in a step in which it feels no drag.
          const bool begins = kept == 0;
          double rate = 0;
          double inertia = 0;
          Vec<D> side{};  // on the first, over both fractions
          for (const auto& [body, carrier] : {std::array{i, j}, std::array{j, i}}) {
            constexpr double counts = 1e-6;
            if (carries[carrier] <= counts) continue;
            const double share = carries[carrier] / std::max(fractions[carrier], least_carrier);
            const Drag& drag = body == i ? pair.first_in_second : pair.second_in_first;
            DispersedBodies of = bodies_in(phases[body], phases[carrier], pair.surface_tension, gravity,
                                           length<D>(slip), fractions[carrier]);
            inertia += share * phases[carrier].fluid.density;
            if (pair.lift != nullptr) {
              const Vec<D> across = times_curl<D>(slip, u[carrier], sight_, grid, b, at);
              for (int d = 0; d < D; ++d)
                side[d] -= share * pair.lift->value(of) * phases[carrier].fluid.density * across[d];
            }
            if (pair.wall_lubrication != nullptr && !wall_distance_.data().empty()) {
              Vec<D> off;
              for (int d = 0; d < D; ++d) off[d] = off_wall_[d].block(b)[at];
              const double push = (body == i ? share : -share) *
                                  push_off_wall<D>(*pair.wall_lubrication, of, slip, off, wall_distance_.block(b)[at]);
              for (int d = 0; d < D; ++d) side[d] += push * off[d];
            }
            if (begins) of.slip = std::max(of.slip, terminal_slip(drag, of));
            rate += share * drag_rate(drag, of);
          }
          kept = kept > 0 ? std::sqrt(kept * rate) : rate;
          if (pair.virtual_mass != 0) inertia_[p].block(b)[at] = pair.virtual_mass * inertia;
          if (pushes_aside(pair))
            for (int d = 0; d < D; ++d) side_[p][d].block(b)[at] = side[d];
        }
      }
    });
  });
  for (auto* fields : {&state.rate, &inertia_})
    for (auto& field : *fields)
      if (!field.data().empty()) fill_halo(grid, field, 1, all_walls<D>(Mirror::even), space_.open_spans());
  for (auto& side : side_) fill_halo(grid, side, 1, even_vector<D>(), space_.open_spans());
}

template <int D>
void Coupling<D>::set_faces(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, const Vec<D>& drive,
                            double dt, State<D>& state, Faces<D>& inverse_density) {
  G_ = G;
  drive_ = drive;
  layers_.update(grid, state, G);
  turning_.find_frame_gains(grid, state, dt);
  for_blocks(grid, [&](int b) {
    for_phases(state.a.size(), [&](auto n) { set_faces_of<n>(grid, settings, b, dt, state, inverse_density); });
  });
}

/// The fields of one block that a small system is made of.
template <int D>
template <int N>
struct Coupling<D>::Fields {
  struct OfPair {
    std::size_t first = 0;
    std::size_t second = 0;
    const double* rate = nullptr;
    const double* inertia = nullptr;      // null: none
    std::array<const double*, D> side{};  // likewise
    const TurbulentDispersion* dispersion = nullptr;
  };
  const double* energy = nullptr;  // of the turbulence; null: none
  const double* eddy_viscosity = nullptr;
  std::array<const double*, N> a;
  std::array<std::array<const double*, D>, N> frame;  // what frames give the cells; null: nothing
  std::array<double, N> rho;
  std::array<bool, N> carrier;
  std::array<OfPair, N*(N - 1) / 2> pairs;
  std::size_t count = 0;
  std::array<double, N> packing;
  bool packed = false;  // there are limits

  Fields(const Coupling& of, const Settings<D>& settings, const State<D>& state, int block)
      : count(settings.pairs.size()) {
    if (!state.turbulent.eddy_viscosity.data().empty()) eddy_viscosity = state.turbulent.eddy_viscosity.block(block);
    if (!state.turbulent.k.data().empty()) energy = state.turbulent.k.block(block);
    for (std::size_t i = 0; i < N; ++i) {
      a[i] = state.a[i].block(block);
      for (int d = 0; d < D; ++d) frame[i][static_cast<std::size_t>(d)] = of.turning_.frame_gain(i, d, block);
      rho[i] = settings.phases[i].fluid.density;
      carrier[i] = settings.phases[i].carrier;
      packing[i] = settings.phases[i].packing;
      packed = packed || packing[i] < 1;
    }
    for (std::size_t p = 0; p < count; ++p) {
      pairs[p] = {static_cast<std::size_t>(settings.pairs[p].first), static_cast<std::size_t>(settings.pairs[p].second),
                  state.rate[p].block(block), of.inertia_[p].data().empty() ? nullptr : of.inertia_[p].block(block)};
      if (eddy_viscosity != nullptr) pairs[p].dispersion = settings.pairs[p].turbulent_dispersion;
      if (!pushes_aside(settings.pairs[p])) continue;
      for (std::size_t d = 0; d < D; ++d) pairs[p].side[d] = of.side_[p][d].block(block);
    }
  }

  /// Fractions, densities, drag and virtual mass half-way between two cells, or in one. Returns the mixture's density.
  double set(std::ptrdiff_t low, std::ptrdiff_t high, double dt, bool as_one, SmallSystem<N>& system) const {
    double sum = 0;
    for (std::size_t i = 0; i < N; ++i) {
      system.a[i] = std::max(0.5 * (a[i][low] + a[i][high]), 0.0);
      system.rho[i] = rho[i];
      sum += system.a[i];
    }
    const double scale = sum > 0 ? 1 / sum : 0.0;
    double mixture = 0;
    for (std::size_t i = 0; i < N; ++i) {
      system.a[i] *= scale;
      mixture += system.a[i] * rho[i];
    }
    for (auto& row : system.drag) row.fill(as_one ? together : 0.0);
    for (auto& row : system.inertia) row.fill(0);
    for (std::size_t p = 0; p < count; ++p) {
      const OfPair& pair = pairs[p];
      system.drag[pair.first][pair.second] += 0.5 * dt * (pair.rate[low] + pair.rate[high]);
      system.drag[pair.second][pair.first] = system.drag[pair.first][pair.second];
      if (pair.inertia == nullptr) continue;
      system.inertia[pair.first][pair.second] = system.inertia[pair.second][pair.first] =
          0.5 * (pair.inertia[low] + pair.inertia[high]);
    }
    return mixture;
  }

  /// Bodies slip the slower into a cell the less room their packing leaves in it, and not at all into a full one: the
  /// cell to which G along this axis drives them, or else the one that they have slipped to.
  void crowd(const std::array<double*, N>& U, double G, std::ptrdiff_t at, std::ptrdiff_t s,
             SmallSystem<N>& system) const {
    if (!packed) return;
    const auto held = [&](std::ptrdiff_t cell) {
      double sum = 0;
      for (std::size_t k = 0; k < N; ++k) sum += packing[k] < 1 ? a[k][cell] : 0.0;
      return sum;
    };
    for (std::size_t p = 0; p < count; ++p)
      for (const auto& [body, other] :
           {std::array{pairs[p].first, pairs[p].second}, std::array{pairs[p].second, pairs[p].first}}) {
        if (packing[body] == 1) continue;
        const double driven = (rho[body] - rho[other]) * G;
        const double towards = driven != 0 ? driven : U[body][at] - U[other][at];
        const double there = held(towards > 0 ? at : at - s);
        constexpr double nearly_full = 0.05;  // of the packing
        constexpr double least = 1e-9;
        const double room = (packing[body] - there) / (nearly_full * packing[body]);
        const double slower = 1 / std::clamp(room, least, 1.0);
        system.drag[body][other] *= slower;
        system.drag[other][body] = system.drag[body][other];
      }
  }

  /// (E8): the same force upon all, body forces without a potential (`drive`) and buoyancy [N/m3].
  static std::array<double, N> forces(const SmallSystem<N>& system, double mixture, double drive, double G,
                                      double common) {
    std::array<double, N> f;
    for (std::size_t i = 0; i < N; ++i) f[i] = system.rho[i] * drive + (system.rho[i] - mixture) * G + common;
    return f;
  }

  /// (S25) on a face.
  void add_frames(std::size_t axis, std::ptrdiff_t at, std::ptrdiff_t s, std::array<double, N>& f) const {
    for (std::size_t i = 0; i < N; ++i)
      if (const double* gain = frame[i][axis]; gain != nullptr) f[i] += rho[i] * (0.5 * (gain[at] + gain[at - s]));
  }

  /// Lift; and (E9), what the slip takes of the pressure on the bodies, without which short waves of the fractions
  /// would grow without bound. `U`: velocities on the faces before.
  void add_pair_forces(const SmallSystem<N>& system, const std::array<double*, N>& U, std::size_t axis,
                       std::ptrdiff_t at, std::ptrdiff_t s, double h, std::array<double, N>& f) const {
    std::array<double, N> carries;
    double all = 0;
    for (std::size_t k = 0; k < N; ++k) all += carries[k] = carrying_power(carrier[k], system.a[k]);
    for (std::size_t p = 0; p < count; ++p) {
      const std::size_t i = pairs[p].first;
      const std::size_t j = pairs[p].second;
      if (const double* side = pairs[p].side[axis]; side != nullptr) {
        const double mean = 0.5 * (side[at - s] + side[at]);
        f[i] += system.a[j] * mean;
        f[j] -= system.a[i] * mean;
      }
      if (pairs[p].dispersion != nullptr && all > 0)
        for (const auto& [body, other] : {std::array{i, j}, std::array{j, i}}) {
          if (carries[other] <= 0 || system.a[body] < nothing) continue;
          DispersedBodies of;
          of.carrier_density = system.rho[other];
          of.share = std::min(system.a[body], most_share);
          const double drag = 0.5 * (pairs[p].rate[at - s] + pairs[p].rate[at]) * system.a[other];
          const double fluctuates = energy == nullptr ? 0.0 : 0.5 * (energy[at - s] + energy[at]);
          const double eddies = 0.5 * (eddy_viscosity[at - s] + eddy_viscosity[at]);
          const double push = carries[other] / all * pairs[p].dispersion->value(of, fluctuates, eddies, drag) *
                              (a[body][at] - a[body][at - s]) / h;
          f[body] -= push / system.a[body];
          f[other] += push / std::max(system.a[other], least_carrier);
        }
      const double inertia = system.a[i] * system.rho[j] + system.a[j] * system.rho[i];
      if (inertia < nothing) continue;
      const double slip = U[i][at] - U[j][at];
      const double slope = 0.5 * ((a[i][at] - a[i][at - s]) - (a[j][at] - a[j][at - s])) / h;
      // As far as one of the two carries the other here: not where both are little in a third.
      const double own = carries[i] + carries[j];
      if (!(own > 0)) continue;
      const double strength = own / all * system.rho[i] * system.rho[j] * slip * slip / inertia * slope;
      f[i] -= system.a[j] * strength;
      f[j] += system.a[i] * strength;
    }
  }
};

template <int D>
template <int N>
void Coupling<D>::set_faces_of(const Grid<D>& grid, const Settings<D>& settings, int block, double dt, State<D>& state,
                               Faces<D>& inverse_density) {
  const Layout<D>& layout = grid.layout();
  const double* beside = layers_.beside().block(block);
  const Fields<N> fields(*this, settings, state, block);
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    const double h = grid.geometry(block).spacing[d];
    const double* area = space_.is_uncut(block) ? nullptr : space_.area()[d].block(block);
    double* phi = state.face_u[d].block(block);
    double* inverse = inverse_density[d].block(block);
    double* jump = jump_[d].block(block);
    std::array<const double*, N> u;
    std::array<double*, N> U;
    std::array<double*, N> response;
    std::array<double*, N> star;
    for (std::size_t i = 0; i < N; ++i) {
      u[i] = state.u[i][d].block(block);
      U[i] = state.phase_u[i][d].block(block);
      response[i] = response_[i][d].block(block);
      star[i] = star_[i][d].block(block);
    }
    const auto& a = fields.a;
    for_open_rows<D>(space_, block, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
      double face_place = -0.5 * h * G_[d];  // G.x in the middle of the row's first face
      const Vec<D> middle = cell_middle(grid, block, o);
      for (int e = 0; e < D; ++e) face_place += G_[e] * middle[e];
      const double along_row = G_[0] * grid.geometry(block).spacing[0];
      for (std::ptrdiff_t at = o; at < o + n; ++at, face_place += along_row) {
        const double open = area == nullptr ? 1.0 : area[at];
        if (open == 0) {
          for (std::size_t i = 0; i < N; ++i) U[i][at] = response[i][at] = star[i][at] = 0;
          phi[at] = inverse[at] = jump[at] = 0;
          continue;
        }
        SmallSystem<N> system;
        const bool as_one = beside[at - s] + beside[at] > 0;
        const double mixture = fields.set(at - s, at, dt, as_one, system);
        fields.crowd(U, G_[d], at, s, system);
        for (std::size_t i = 0; i < N; ++i) {
          // By what the cells hold: what a phase would do where it is not must not reach the mixture.
          const double low = std::max(a[i][at - s], 0.0) + trace;
          const double high = std::max(a[i][at], 0.0) + trace;
          system.star[i] = (low * u[i][at - s] + high * u[i][at]) / (low + high);
          star[i][at] = system.star[i];
        }
        double force = 0;  // of gravity on what changes from cell to cell
        double change = 0;
        for (std::size_t k = 0; k + 1 < N; ++k) {
          change += a[k][at] - a[k][at - s];
          const double place = as_one ? layers_.place(k, block, at - s, at, face_place) : face_place;
          force -= (system.rho[k] - system.rho[k + 1]) * change / h * place;
        }
        jump[at] = force;
        auto f = Fields<N>::forces(system, mixture, drive_[d], G_[d], force);
        if (!as_one) fields.add_pair_forces(system, U, static_cast<std::size_t>(d), at, s, h, f);
        fields.add_frames(static_cast<std::size_t>(d), at, s, f);
        std::array<double, N> velocity;
        std::array<double, N> gains;
        system.solve(f, dt, velocity, gains);
        double flow = 0;
        double gain = 0;
        for (std::size_t i = 0; i < N; ++i) {
          U[i][at] = velocity[i];
          response[i][at] = gains[i];
          flow += system.a[i] * velocity[i];
          gain += system.a[i] * gains[i];
        }
        phi[at] = open * flow;
        inverse[at] = open * gain / dt;
      }
    });
    turning_.blend_faces(state, d, block, dt, {phi, inverse, U, response, star});
  }
}

template <int D>
void Coupling<D>::add_pressure(const Grid<D>& grid, State<D>& state) const {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* p = state.p.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = 1 / grid.geometry(b).spacing[d];
      for (std::size_t i = 0; i < state.a.size(); ++i) {
        double* U = state.phase_u[i][d].block(b);
        const double* response = response_[i][d].block(b);
        for_open_rows<D>(space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int x = 0; x < n; ++x) U[o + x] -= response[o + x] * factor * (p[o + x] - p[o + x - s]);
        });
      }
    }
  });
}

template <int D>
void Coupling<D>::continue_to_openings(const Boundary<D>& boundary, const Grid<D>& grid, const Settings<D>& settings,
                                       const State<D>& state) {
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      if (!boundary.openings()[face.opening].flow) continue;
      const bool degasses = settings.degasses(face.opening);
      const std::ptrdiff_t opposite = face.face + boundary.sign(face) * grid.layout().step[d];
      for (std::size_t i = 0; i < star_.size(); ++i) {
        const double* U = state.phase_u[i][d].block(face.block);
        double* star = star_[i][d].block(face.block);
        if (degasses && settings.phases[i].gas) continue;
        star[face.face] = degasses ? 0.0 : U[face.face] - (U[opposite] - star[opposite]);
      }
    }
}

template <int D>
void Coupling<D>::return_to_cells(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state) const {
  turning_.keep_velocities(state);
  for_blocks(grid, [&](int b) {
    for_phases(state.a.size(), [&](auto n) { return_to<n>(grid, settings, b, dt, state); });
    turning_.take_over(grid, settings, b, G_, dt, state,
                       [&](std::ptrdiff_t at) { return turning_.push(grid, settings, state, jump_, b, at); });
  });
}

template <int D>
template <int N>
void Coupling<D>::return_to(const Grid<D>& grid, const Settings<D>& settings, int block, double dt,
                            State<D>& state) const {
  const Layout<D>& layout = grid.layout();
  const double* beside = layers_.beside().block(block);
  const std::array<double, N> no_force{};
  constexpr double smoothing = 0.02;  // share of the mixture's part that is dropped: else a chequerboard would stay
  const bool cut = !space_.is_uncut(block);
  const Fields<N> fields(*this, settings, state, block);
  struct Along {  // an axis
    std::ptrdiff_t s;
    const double* open;
    const double* weight;
    std::array<double*, N> u, gain;
    std::array<const double*, N> U, star;
  };
  std::array<Along, D> along;
  for (int d = 0; d < D; ++d) {
    Along& own = along[static_cast<std::size_t>(d)];
    own.s = layout.step[d];
    own.open = cut ? space_.face_share()[d].block(block) : nullptr;
    own.weight = cut ? mean_weight_[d].block(block) : nullptr;
    for (std::size_t i = 0; i < N; ++i) {
      own.u[i] = state.u[i][d].block(block);
      own.gain[i] = state.acceleration[i][d].block(block);
      own.U[i] = state.phase_u[i][d].block(block);
      own.star[i] = star_[i][d].block(block);
    }
  }
  for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
    for (std::ptrdiff_t at = o; at < o + n; ++at) {
      SmallSystem<N> system;
      const double mass = fields.set(at, at, dt, beside[at] > 0, system);
      for (const Along& axis : along) {
        const auto mean = [&](const double* face) {
          return cut ? axis.weight[at] * (axis.open[at] * face[at] + axis.open[at + axis.s] * face[at + axis.s])
                     : 0.5 * (face[at] + face[at + axis.s]);
        };
        for (std::size_t i = 0; i < N; ++i) system.star[i] = axis.u[i][at] - mean(axis.star[i]);
        std::array<double, N> own;
        std::array<double, N> response;
        system.solve(no_force, dt, own, response);
        double common = 0;
        for (std::size_t i = 0; i < N; ++i) common += system.a[i] * system.rho[i] * own[i];
        common *= smoothing / mass;
        for (std::size_t i = 0; i < N; ++i) {
          const double now = mean(axis.U[i]) + own[i] - common;
          axis.gain[i][at] = beside[at] > 0 ? 0.0 : (now - axis.u[i][at]) / dt;
          axis.u[i][at] = now;
        }
      }
    }
  });
}

template <int D>
void Coupling<D>::unlock_faces(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state) const {
  if (!layers_.any()) return;
  for_blocks(grid,
             [&](int b) { for_phases(state.a.size(), [&](auto n) { unlock<n>(grid, settings, b, dt, state); }); });
}

template <int D>
template <int N>
void Coupling<D>::unlock(const Grid<D>& grid, const Settings<D>& settings, int block, double dt,
                         State<D>& state) const {
  const Layout<D>& layout = grid.layout();
  const double* beside = layers_.beside().block(block);
  const double* p = state.p.block(block);
  const Fields<N> fields(*this, settings, state, block);
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    const double h = grid.geometry(block).spacing[d];
    std::array<double*, N> U;
    for (std::size_t i = 0; i < N; ++i) U[i] = state.phase_u[i][d].block(block);
    for_open_rows<D>(space_, block, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (beside[at - s] + beside[at] == 0 || response_[0][d].block(block)[at] == 0) continue;
        SmallSystem<N> system;
        const double mixture = fields.set(at - s, at, dt, false, system);
        fields.crowd(U, G_[d], at, s, system);
        for (std::size_t i = 0; i < N; ++i) system.star[i] = star_[i][d].block(block)[at];
        const double left = jump_[d].block(block)[at] - (p[at] - p[at - s]) / h;
        auto f = Fields<N>::forces(system, mixture, drive_[d], G_[d], left);
        fields.add_frames(static_cast<std::size_t>(d), at, s, f);
        std::array<double, N> velocity;
        std::array<double, N> response;
        system.solve(f, dt, velocity, response);
        for (std::size_t i = 0; i < N; ++i) U[i][at] = velocity[i];
      }
    });
    turning_.blend_slips(d, block, s, beside, U);
  }
}

template class Coupling<2>;
template class Coupling<3>;

}  // namespace wavy::dispersed
