#include "flow/turbulence.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

#include "flow/transport.hpp"

namespace wavy {
namespace {

constexpr double least_k = 1e-14;       // [m2/s2]
constexpr double least_second = 1e-14;  // [m2/s3], [1/s]
constexpr double most_ratio = 1e6;      // of eddy viscosity over that of the fluid
constexpr double held_fast = 1e6;       // weight of what the law of the wall says

double re_y(const LocalTurbulence& at) { return std::sqrt(at.k) * at.distance / at.nu; }

}  // namespace

/// Gradients of the mean flow in a cell, as far as it sees open cells on its sides.
template <int D>
struct Turbulence<D>::Gradients {
  VelocityGradient mean{};  // [component][direction]
  double production = 0;    // over the face's eddy viscosities: what the mean flow loses on the cell's faces [m2/s3]

  Gradients(const Turbulence& of, const Grid<D>& grid, const MeanFlow<D>& flow, const double* nu_t, int block,
            std::ptrdiff_t at) {
    const Vec<D>& h = grid.geometry(block).spacing;
    const bool cut = !of.space_.is_uncut(block);
    double along = 0;  // nu_t of the derivatives along the axes, with all components
    for (std::size_t d = 0; d < D; ++d) {
      const std::ptrdiff_t s = grid.layout().step[d];
      std::array<double, D> sum{};
      double faces = 0;
      double lost = 0;
      for (const std::ptrdiff_t face : {at, at + s}) {
        if (cut && of.space_.area()[d].block(block)[face] == 0) continue;
        double square = 0;
        for (std::size_t c = 0; c < D; ++c) {
          const double* u = flow.u[c].block(block);
          const double slope = (u[face] - u[face - s]) / h[d];
          sum[c] += slope;
          square += (c == d ? 2 : 1) * slope * slope;
        }
        lost += of.between_[d].block(block)[face] * square;
        ++faces;
      }
      if (faces == 0) continue;
      along += lost / faces;
      for (std::size_t c = 0; c < D; ++c) mean[c][d] = sum[c] / faces;
    }
    double across = 0;
    for (std::size_t c = 0; c < D; ++c)
      for (std::size_t d = 0; d < c; ++d) across += 2 * mean[c][d] * mean[d][c];
    if (of.space_.axisymmetric()) {
      mean[2][2] = flow.u[0].block(block)[at] / (of.space_.radius_in_cells(block, grid.layout(), at) * h[0]);
      across += 2 * mean[2][2] * mean[2][2];
    }
    production = std::max(along + nu_t[at] * across, 0.0);
  }
};

template <int D>
Turbulence<D>::Turbulence(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary,
                          const WallVelocity<D>& walls, const WallElements<D>& elements, TurbulenceSettings<D> settings,
                          TurningSolids<D>* turning)
    : space_(space),
      boundary_(boundary),
      walls_(walls),
      elements_(elements),
      turning_(turning),
      settings_(std::move(settings)),
      beside_(2 * grid.smallest_spacing()),
      distance_(grid),
      strain_(grid),
      at_walls_(grid),
      strain_at_walls_(grid),
      implicit_(grid, nullptr),
      carried_k_(grid),
      carried_second_(grid),
      mass_(grid, 1.0),
      rhs_(grid),
      inverse_size_(grid) {
  assert(settings_.law != nullptr && settings_.start.length > 0);
  settings_.inflow.resize(boundary.openings().size());
  for (std::size_t i = 0; i < settings_.inflow.size(); ++i) {
    auto& length = settings_.inflow[i].length;
    const bool spread = boundary.openings()[i].zone.has_value();
    if (length <= 0)
      length = spread ? settings_.start.length : mixing_share * std::pow(boundary.area(i), 1.0 / (D - 1));
  }
  double diagonal = 0;
  for (int d = 0; d < D; ++d) diagonal += std::pow(grid.upper()[d] - grid.lower()[d], 2);
  farthest_ = 10 * std::sqrt(diagonal);
  for (auto* pair : {&gain_, &sink_})
    for (auto& field : *pair) field = Cells<D>(grid);
  if (two_equations()) {
    const TurbulentRates rates = settings_.law->rates({.k = 1, .second = 1, .nu = 1, .distance = 1}, 0, 1);
    share_ = {Cells<D>(grid, rates.k_share), Cells<D>(grid, rates.second_share)};
  }
  for (auto& field : diffusion_) field = Cells<D>(grid);
  for (auto& field : between_) field = Cells<D>(grid);
  const double least = 1e-3 * grid.smallest_spacing();
  const CellRange<D> range = with_layers(grid.layout(), 1);
  for (int b = 0; b < grid.blocks(); ++b)
    for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        distance_.block(b)[at] =
            settings_.wall_distance ? std::clamp(settings_.wall_distance(cell_middle<D>(grid, b, at)), least, farthest_)
                                    : farthest_;
    });
  // Beside a wall the distance is that by which it holds the fluid.
  for (int b = 0; b < std::ssize(elements_); ++b)
    for (const auto& element : elements_[static_cast<std::size_t>(b)])
      if (holds(element)) distance_.block(b)[element.at] = element.distance();
}

template <int D>
double Turbulence<D>::second_of(double k, double length) const {
  const double omega = std::sqrt(k) / (std::pow(c_mu, 0.25) * length);
  return settings_.law->second == TurbulenceLaw::Second::omega ? omega : c_mu * omega * k;
}

template <int D>
void Turbulence<D>::fill(const Grid<D>& grid, int width, Cells<D>& field) const {
  fill_halo(grid, field, width, all_walls<D>(Mirror::even));
  if (!space_.is_uncut()) carry_on(grid, space_, field, field);
}

template <int D>
TurbulentState<D> Turbulence<D>::empty_state(const Grid<D>& grid) const {
  TurbulentState<D> state;
  state.eddy_viscosity = Cells<D>(grid);
  if (two_equations()) state.k = state.second = Cells<D>(grid);
  return state;
}

template <int D>
void Turbulence<D>::start(const Grid<D>& grid, const MeanFlow<D>& flow, TurbulentState<D>& state) {
  state = empty_state(grid);
  if (!two_equations()) return;
  find_turning_distances(grid);
  double speed = std::max(settings_.start_speed, boundary_.greatest_speed(flow.time));
  if (turning_ != nullptr) speed = std::max(speed, turning_->greatest_speed(flow.time));
  speed = std::max(speed, walls_.greatest_speed(grid));
  const double square = max_blocks(grid, [&](int b) {
    double greatest = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double sum = 0;
        for (int d = 0; d < D; ++d) sum += flow.u[d].block(b)[at] * flow.u[d].block(b)[at];
        greatest = std::max(greatest, sum);
      }
    });
    return greatest;
  });
  speed = std::max(speed, std::sqrt(square));
  const double k = std::max(1.5 * std::pow(settings_.start.intensity * speed, 2), least_k);
  std::fill(state.k.data().begin(), state.k.data().end(), k);
  // Eddies are no larger than the distance from the wall lets them be.
  for (int b = 0; b < grid.blocks(); ++b)
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double length = std::min(settings_.start.length, karman * distance_.block(b)[at]);
        const double nu_t = std::pow(c_mu, 0.25) * std::sqrt(k) * length;
        state.second.block(b)[at] = second_of(k, length);
        state.eddy_viscosity.block(b)[at] = std::min(nu_t, most_ratio * flow.nu.block(b)[at]);
      }
    });
  auto& eddy = state.eddy_viscosity;
  fill(grid, 1, eddy);
}

/// (T4) What the flow carries, by the mean of the upwind cell's limited profile over what leaves it. Reads carried(2).
template <int D>
void Turbulence<D>::carry(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, bool is_second,
                          const Cells<D>& carried, Cells<D>& next) const {
  const Layout<D>& layout = grid.layout();
  const auto comes = [&](std::size_t opening, double speed) {
    const TurbulenceLevel& level = settings_.inflow[opening];
    const double k = std::max(1.5 * std::pow(level.intensity * speed, 2), least_k);
    return is_second ? second_of(k, level.length) : k;
  };
  for_blocks(grid, [&](int b) {
    const double* q = carried.block(b);
    double* out = next.block(b);
    const bool cut = !space_.is_uncut(b);
    const OpenVolumes<D> volume(space_, b);
    std::array<const double*, D> fluxes;
    Vec<D> widths;
    for (std::size_t d = 0; d < D; ++d) {
      fluxes[d] = flow.face_u[d].block(b);
      widths[d] = dt / grid.geometry(b).spacing[d];
    }
    if (!cut)
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          double change = 0;
          for (std::size_t d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            const double low = widths[d] * fluxes[d][a];
            const double high = widths[d] * fluxes[d][a + s];
            const double below = limited_slope(q[a - 2 * s], q[a - s], q[a]);
            const double own = limited_slope(q[a - s], q[a], q[a + s]);
            const double above = limited_slope(q[a], q[a + s], q[a + 2 * s]);
            const double from_low = low > 0 ? q[a - s] + 0.5 * (1 - low) * below : q[a] - 0.5 * (1 + low) * own;
            const double to_high = high > 0 ? q[a] + 0.5 * (1 - high) * own : q[a + s] - 0.5 * (1 + high) * above;
            change += low * (from_low - q[a]) - high * (to_high - q[a]);
          }
          out[a] = q[a] + change;
        }
      });
    if (cut)
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          out[at] = q[at];
          if (volume[at] == 0) continue;
          const double weight = space_.weight(b, layout, at);
          const double room = std::max(volume[at], OpenSpace<D>::small * weight);
          double change = 0;
          for (int d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            const auto e = static_cast<std::size_t>(d);
            const double per_width = widths[e];
            const double* flux = fluxes[e];
            const auto through = [&](std::ptrdiff_t face) {
              const bool upwards = flux[face] > 0;
              const std::ptrdiff_t from = upwards ? face - s : face;
              if (space_.at_wall().block(b)[from] != 0) return q[from];
              const double stays = 1 - std::min(std::abs(flux[face]) * per_width, 1.0);
              return q[from] + (upwards ? 0.5 : -0.5) * stays * limited_slope(q[from - s], q[from], q[from + s]);
            };
            change += per_width * (flux[at] * (through(at) - q[at]) - flux[at + s] * (through(at + s) - q[at]));
          }
          out[at] += change / room;
        }
      });
    for (int d = 0; d < D; ++d)
      boundary_.each(b, d, [&](const OpeningFace<D>& face) {
        const double flux = boundary_.sign(face) * flow.face_u[d].block(b)[face.face];
        if (flux <= 0 || face.area <= 0) return;
        const double weight = cut ? space_.weight(b, layout, face.inside) : 1.0;
        const double room = cut ? std::max(volume[face.inside], OpenSpace<D>::small * weight) : 1.0;
        const double share = std::min(dt * flux / (grid.geometry(b).spacing[d] * room), 1.0);
        out[face.inside] += share * (comes(face.opening, flux / face.area) - q[face.inside]);
      });
  });
  for (const auto& inlet : boundary_.wall_inlets()) {
    const double flux = inlet.speed * inlet.area;
    if (flux <= 0) continue;
    const double room = OpenVolumes<D>(space_, inlet.block)[inlet.at];
    const double speed = inlet.share > 0 ? inlet.speed / inlet.share : 0.0;
    double& own = next.block(inlet.block)[inlet.at];
    own += std::min(dt * flux / std::max(room, OpenSpace<D>::small), 1.0) * (comes(inlet.opening, speed) - own);
  }
  // Cells with little room go along with their group.
  if (space_.is_uncut()) return;
  for_all_groups<D>(grid, space_, {&space_.volume()}, [&](std::size_t, const std::vector<CellPlace>& group) {
    double sum = 0;
    double room = 0;
    for (const auto& place : group) {
      const double own = space_.volume().block(place.block)[place.at];
      sum += own * next.block(place.block)[place.at];
      room += own;
    }
    for (const auto& place : group) next.block(place.block)[place.at] = sum / room;
  });
}

template <int D>
LocalTurbulence Turbulence<D>::local(const MeanFlow<D>& flow, const TurbulentState<D>& state, int block,
                                     std::ptrdiff_t at, double strain) const {
  LocalTurbulence result;
  result.k = std::max(state.k.block(block)[at], least_k);
  result.second = std::max(state.second.block(block)[at], least_second);
  result.nu = flow.nu.block(block)[at];
  result.strain = strain;
  result.distance = distance_.block(block)[at] + rough_shift(result.k, result.nu, settings_.roughness);
  return result;
}

/// (T3) On the faces between cells.
template <int D>
void Turbulence<D>::find_between(const Grid<D>& grid, const MeanFlow<D>& flow, const TurbulentState<D>& state) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* nu = flow.nu.block(b);
    const double* nu_t = state.eddy_viscosity.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      double* between = between_[d].block(b);
      for_open_rows<D>(space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t at = o + i;
          between[at] = eddy_viscosity_between(nu_t[at - s], nu_t[at], 0.5 * (nu[at] + nu[at - s]));
        }
      });
    }
  });
}

/// (T5), (T6) What is made and lost of both. Reads k(1), second(1), eddy_viscosity(1).
template <int D>
void Turbulence<D>::set_rates(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, const TurbulentState<D>& state) {
  const Layout<D>& layout = grid.layout();
  const bool omega = settings_.law->second == TurbulenceLaw::Second::omega;
  for_blocks(grid, [&](int b) {
    const double* nu_t = state.eddy_viscosity.block(b);
    const double* made = at_walls_.block(b);
    const Vec<D>& h = grid.geometry(b).spacing;
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const Gradients gradients(*this, grid, flow, nu_t, b, at);
        strain_.block(b)[at] = made[at] >= 0 ? strain_at_walls_.block(b)[at] : strain_rate(gradients.mean);
        LocalTurbulence own = local(flow, state, b, at, strain_.block(b)[at]);
        if (omega)
          for (int d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            own.cross += (state.k.block(b)[at + s] - state.k.block(b)[at - s]) *
                         (state.second.block(b)[at + s] - state.second.block(b)[at - s]) / (4 * h[d] * h[d]);
          }
        double production = made[at] >= 0 ? made[at] : gradients.production;
        if (settings_.rotation_correction && made[at] < 0) {
          std::array<double, 3> u{};
          for (std::size_t c = 0; c < D; ++c) u[c] = flow.u[c].block(b)[at];
          production *= rotation_factor(gradients.mean, u, own.second);
        }
        TurbulentRates rates = settings_.law->rates(own, production, nu_t[at]);
        const double y_re = re_y(own);
        if (made[at] >= 0 || own.distance < beside_ || y_re < near_wall) {
          // Whatever the second is: k goes by the dissipation of its own length.
          rates.k_sink = std::sqrt(own.k) / dissipation_length(own.distance, y_re);
          rates.k_gain = production;
        } else if (settings_.interface_damping > 0 && flow.share != nullptr) {
          double steep = 0;  // how much of the cell's surroundings the interface takes
          for (int d = 0; d < D; ++d) {
            const double* F = flow.share->block(b);
            steep = std::max(steep, 0.5 * std::abs(F[at + layout.step[d]] - F[at - layout.step[d]]));
          }
          const double damped = settings_.interface_damping * 6 * own.nu / (0.075 * h[0] * h[0]);  // omega
          const double more = steep * 0.075 * damped * damped;
          rates.second_gain += omega ? more : more * c_mu * own.k;
        }
        const std::array<std::array<double, 3>, 2> both{
            {{rates.k_gain, rates.k_sink, rates.k_share}, {rates.second_gain, rates.second_sink, rates.second_share}}};
        for (std::size_t i = 0; i < 2; ++i) {
          gain_[i].block(b)[at] = both[i][0];
          sink_[i].block(b)[at] = both[i][1];
          share_[i].block(b)[at] = both[i][2];
        }
      }
    });
    // At walls there are no fluctuations: what molecules carry there.
    for (const auto& element : elements_[static_cast<std::size_t>(b)])
      if (holds(element)) {
        const OpenVolumes<D> volume(space_, b);
        const double room = std::max(volume[element.at], 1e-6);
        sink_[0].block(b)[element.at] += flow.nu.block(b)[element.at] * element.friction / room;
      }
    damp_in_turning(grid, b, flow, dt);
  });
  if (omega)  // else they are the same everywhere
    for (auto& share : share_) fill(grid, 1, share);
}

/// (T2) Beside walls the second follows from k as it is now.
template <int D>
void Turbulence<D>::hold_second(const Grid<D>& grid, const MeanFlow<D>& flow, double dt,
                                const TurbulentState<D>& state) {
  for_blocks(grid, [&](int b) {
    for_open_rows<D>(space_, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const LocalTurbulence own = local(flow, state, b, at, 0);
        const double y_re = re_y(own);
        if (at_walls_.block(b)[at] < 0 && own.distance >= beside_ && y_re >= near_wall) continue;
        const double omega = std::sqrt(own.k) / (c_mu * dissipation_length(own.distance, y_re));
        sink_[1].block(b)[at] = held_fast / dt;
        gain_[1].block(b)[at] =
            held_fast / dt * (settings_.law->second == TurbulenceLaw::Second::omega ? omega : c_mu * own.k * omega);
      }
    });
  });
}

/// (T5) One of the two: diffusion and sinks implicit, gains explicit, so that it stays positive.
template <int D>
int Turbulence<D>::diffuse(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, bool is_second,
                           TurbulentState<D>& state, Cells<D>& field) {
  const Layout<D>& layout = grid.layout();
  const std::size_t i = is_second ? 1 : 0;
  const Cells<D>& start = is_second ? carried_second_ : carried_k_;
  for_blocks(grid, [&](int b) {
    const double* nu = flow.nu.block(b);
    const double* share = share_[i].block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = dt / std::pow(grid.geometry(b).spacing[d], 2);
      const double* conductance = space_.is_uncut(b) ? nullptr : space_.face_conductance()[d].block(b);
      double* face = diffusion_[d].block(b);
      const double* eddy = between_[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          face[at] = factor * (0.5 * (nu[at] + nu[at - s]) + 0.5 * (share[at] + share[at - s]) * eddy[at]) *
                     (conductance == nullptr ? 1.0 : conductance[at]);
      });
      for (int side = 0; side < 2; ++side)  // nothing passes the ends of the grid
        for_boundary_faces(grid, b, d, side, [&](std::ptrdiff_t o, int n) { std::fill_n(face + o, n, 0.0); });
    }
    const OpenVolumes<D> volume(space_, b);
    const double* from = start.block(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double room = volume[at] > 0 ? volume[at] : 1.0;
        const bool open = volume[at] > 0;
        mass_.block(b)[at] = open ? room * (1 + dt * sink_[i].block(b)[at]) : 1.0;
        rhs_.block(b)[at] = open ? room * (from[at] + dt * gain_[i].block(b)[at]) : from[at];
        // Most of it stays where it is in a step.
        inverse_size_.block(b)[at] = 1 / std::max(rhs_.block(b)[at] / mass_.block(b)[at], 1e-30);
      }
    });
  });
  std::array<const Cells<D>*, D> faces;
  for (int d = 0; d < D; ++d) faces[d] = &diffusion_[d];
  const auto even = [&](Cells<D>& v) { fill_halo(grid, v, 1, all_walls<D>(Mirror::even)); };
  constexpr double accuracy = 1e-6;  // of each cell's own
  field = start;
  const int iterations = implicit_.solve(
      grid, {{mass_, faces, -1, rhs_, field, &inverse_size_}}, accuracy, [&] { even(field); },
      [&](CellVectors<D>& changes) { even(changes[0]); });
  for_blocks(grid, [&](int b) {
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        // No eddies are larger than the distance from the wall lets them be.
        const double least =
            is_second ? std::max(second_of(state.k.block(b)[at], karman * distance_.block(b)[at]), least_second)
                      : least_k;
        field.block(b)[at] = std::max(field.block(b)[at], least);
      }
    });
  });
  return iterations;
}

/// (T7)
template <int D>
void Turbulence<D>::find_eddy_viscosity(const Grid<D>& grid, const MeanFlow<D>& flow, TurbulentState<D>& state) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    double* nu_t = state.eddy_viscosity.block(b);
    const double width = std::pow(grid.geometry(b).cell_volume, 1.0 / D);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double nu = flow.nu.block(b)[at];
        double value = 0;
        if (two_equations()) {
          const LocalTurbulence own = local(flow, state, b, at, strain_.block(b)[at]);
          const double y_re = re_y(own);
          const double law = share_of_law(y_re);
          const double beside = c_mu * std::sqrt(own.k) * viscosity_length(own.distance, y_re);
          value = law > 0 ? law * settings_.law->eddy_viscosity(own) : 0.0;
          value += law < 1 ? (1 - law) * beside : 0.0;
        } else {
          const Gradients gradients(*this, grid, flow, nu_t, b, at);
          value = settings_.law->subgrid(gradients.mean, width, distance_.block(b)[at]);
        }
        nu_t[at] = std::min(value, most_ratio * nu);
      }
    });
  });
  fill(grid, 1, state.eddy_viscosity);
}

template <int D>
int Turbulence<D>::step(const Grid<D>& grid, const MeanFlow<D>& flow, double dt, TurbulentState<D>& state) {
  int iterations = 0;
  find_turning_distances(grid);
  if (two_equations()) {
    make_at_walls(grid, flow);
    find_between(grid, flow, state);
    fill(grid, 2, state.k);
    fill(grid, 2, state.second);
    set_rates(grid, flow, dt, state);
    carry(grid, flow, dt, false, state.k, carried_k_);
    carry(grid, flow, dt, true, state.second, carried_second_);
    iterations += diffuse(grid, flow, dt, false, state, state.k);
    hold_second(grid, flow, dt, state);
    iterations += diffuse(grid, flow, dt, true, state, state.second);
  }
  find_eddy_viscosity(grid, flow, state);
  return iterations;
}

template <int D>
Cells<D> Turbulence<D>::dissipation(const TurbulentState<D>& state) const {
  assert(two_equations());
  Cells<D> result = state.second;
  if (settings_.law->second == TurbulenceLaw::Second::omega)
    for (std::size_t i = 0; i < result.data().size(); ++i)
      result.data()[i] = c_mu * state.second.data()[i] * state.k.data()[i];
  return result;
}

template <int D>
Cells<D> Turbulence<D>::dissipation(const TurbulentState<D>& state, Cells<D> shear_rates) {
  for (std::size_t i = 0; i < shear_rates.data().size(); ++i)
    shear_rates.data()[i] = state.eddy_viscosity.data()[i] * std::pow(shear_rates.data()[i], 2);
  return shear_rates;
}

template <int D>
void Turbulence<D>::recall(const Cells<D>& epsilon, TurbulentState<D>& state) const {
  if (!two_equations()) return;
  state.second = epsilon;
  if (settings_.law->second != TurbulenceLaw::Second::omega) return;
  for (std::size_t i = 0; i < state.second.data().size(); ++i)
    state.second.data()[i] /= c_mu * std::max(state.k.data()[i], least_k);
}

template class Turbulence<2>;
template class Turbulence<3>;

}  // namespace wavy
