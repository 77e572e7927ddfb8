#include "dispersed/fraction_transport.hpp"

#include <algorithm>
#include <cmath>

#include "dispersed/opening_flows.hpp"
#include "dispersed/parts.hpp"
#include "flow/transport.hpp"

namespace wavy::dispersed {

namespace {

/// Courant number of the slip, by axis, of phases of which there is too little to limit the step.
template <int D>
constexpr double most_slip = 0.3 / D;

/// What stands on the two sides of a face beside the surfaces of layers.
template <int D>
struct Facing {
  bool beside = false;
  std::array<double, most_phases + 1> below{};
  std::array<double, most_phases + 1> above{};

  Facing(const Grid<D>& grid, const Layers<D>& layers, const State<D>& state, int block, int axis, std::ptrdiff_t at) {
    const std::ptrdiff_t s = grid.layout().step[axis];
    const double* near = layers.beside().block(block);
    beside = near[at - s] + near[at] > 0;
    if (!beside) return;
    Vec<D> middle = cell_middle(grid, block, at);
    middle[axis] -= 0.5 * grid.geometry(block).spacing[axis];
    layers.stand_on_face(grid, state, block, at - s, axis, middle, below);
    layers.stand_on_face(grid, state, block, at, axis, middle, above);
  }
  /// How much of the face has phase i below it and phase j above; 1 where there are no layers.
  [[nodiscard]] double share(std::size_t i, std::size_t j) const {
    if (!beside) return 1;
    return std::max(std::min(below[i + 1], above[j + 1]) - std::max(below[i], above[j]), 0.0);
  }
};

}  // namespace

template <int D>
FractionTransport<D>::FractionTransport(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight,
                                        Boundary<D>& boundary, std::size_t phases)
    : space_(space), sight_(sight), boundary_(boundary) {
  for (std::size_t i = 0; i < phases; ++i) {
    for (auto* faces : {&passed_, &correction_}) {
      faces->emplace_back();
      for (auto& field : faces->back()) field = Cells<D>(grid);
    }
    for (auto* cells : {&before_, &low_, &most_gain_, &most_loss_}) cells->emplace_back(grid);
  }
}

template <int D>
void FractionTransport<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, const Layers<D>& layers,
                                      double dt, State<D>& state) {
  const auto phases = state.a.size();
  for_blocks(grid, [&](int b) {
    for_phases(phases, [&](auto n) { find_fluxes<n>(grid, layers, b, dt, state); });
    pass_boundary(grid, b, settings, dt, state);
  });
  std::swap(before_, state.a);
  add_sources(grid, dt);
  for_blocks(grid, [&](int b) { take_up(grid, b, low_); });
  for (auto& low : low_) fill_halo(grid, low, 1, all_walls<D>(Mirror::even), space_.open_spans());
  for_blocks(grid, [&](int b) { find_limits(grid, b); });
  for (auto* limits : {&most_gain_, &most_loss_})
    for (auto& limit : *limits) fill_halo(grid, limit, 1, all_walls<D>(Mirror::even), space_.open_spans());
  for_blocks(grid, [&](int b) { correct(grid, b, state); });
  if (!space_.groups().empty()) repair_groups(grid, state);
  record(grid);
}

/// Low-order fluxes, and what limited linear profiles would add to them.
template <int D>
template <int N>
void FractionTransport<D>::find_fluxes(const Grid<D>& grid, const Layers<D>& layers, int block, double dt,
                                       const State<D>& state) {
  const Layout<D>& layout = grid.layout();
  std::array<const double*, N> a;
  for (std::size_t i = 0; i < N; ++i) a[i] = state.a[i].block(block);
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    const double per_width = dt / grid.geometry(block).spacing[d];
    const double* phi = state.face_u[d].block(block);
    const double* area = space_.is_uncut(block) ? nullptr : space_.area()[d].block(block);
    std::array<const double*, N> U;
    std::array<double*, N> low;
    std::array<double*, N> more;
    for (std::size_t i = 0; i < N; ++i) {
      U[i] = state.phase_u[i][d].block(block);
      low[i] = passed_[i][d].block(block);
      more[i] = correction_[i][d].block(block);
    }
    for_open_rows<D>(space_, block, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        std::array<double, N> low_edge;   // of the profile in the cell below the face
        std::array<double, N> high_edge;  // above it
        std::array<double, N> velocity;
        double below = 0;
        double above = 0;
        const double open = area == nullptr ? 1.0 : area[at];
        const bool low_ends = sight_.parts(block, d, at - s);
        const bool high_ends = sight_.parts(block, d, at + s);
        for (std::size_t i = 0; i < N; ++i) {
          velocity[i] = open * U[i][at];
          const double low_slope = low_ends ? 0.0 : limited_slope(a[i][at - 2 * s], a[i][at - s], a[i][at]);
          const double high_slope = high_ends ? 0.0 : limited_slope(a[i][at - s], a[i][at], a[i][at + s]);
          const double crosses = std::clamp(U[i][at] * per_width, -1.0, 1.0);
          low_edge[i] = a[i][at - s] + 0.5 * (1 - std::max(crosses, 0.0)) * low_slope;
          high_edge[i] = a[i][at] - 0.5 * (1 + std::min(crosses, 0.0)) * high_slope;
          below += low_edge[i];
          above += high_edge[i];
        }
        const bool upwards = phi[at] > 0;
        const double sum = upwards ? below : above;
        std::array<double, N> first;   // by the cells' fractions
        std::array<double, N> second;  // by the profiles
        for (std::size_t i = 0; i < N; ++i) {
          first[i] = phi[at] * (upwards ? a[i][at - s] : a[i][at]);
          second[i] = phi[at] * (upwards ? low_edge[i] : high_edge[i]) / sum;
        }
        const Facing<D> facing(grid, layers, state, block, d, at);
        for (std::size_t i = 0; i < N; ++i)
          for (std::size_t j = i + 1; j < N; ++j) {
            double slip = velocity[i] - velocity[j];
            const bool i_from_below = slip > 0;
            const double least =
                std::min(i_from_below ? a[i][at - s] : a[i][at], i_from_below ? a[j][at] : a[j][at - s]);
            if (least < counts_for_steps) slip = std::clamp(slip, -most_slip<D> / per_width, most_slip<D> / per_width);
            const double most = i_from_below ? facing.share(i, j) : facing.share(j, i);
            const double plain =
                slip * std::min(most, i_from_below ? a[i][at - s] * a[j][at] : a[i][at] * a[j][at - s]);
            const double sharp =
                slip * std::min(most, i_from_below ? low_edge[i] * high_edge[j] : high_edge[i] * low_edge[j]);
            first[i] += plain;
            first[j] -= plain;
            second[i] += sharp;
            second[j] -= sharp;
          }
        for (std::size_t i = 0; i < N; ++i) {
          low[i][at] = per_width * first[i];
          more[i][at] = per_width * (second[i] - first[i]);
        }
      }
    });
  }
}

/// What passes the grid's boundary: comes in as given, or leaves as the phases move.
template <int D>
void FractionTransport<D>::pass_boundary(const Grid<D>& grid, int block, const Settings<D>& settings, double dt,
                                         const State<D>& state) {
  const auto phases = state.a.size();
  for (int d = 0; d < D; ++d) {
    for (std::size_t i = 0; i < phases; ++i)
      for (int side = 0; side < 2; ++side)
        for_boundary_faces<D>(grid, block, d, side, [&](std::ptrdiff_t o, int n) {
          std::fill_n(passed_[i][d].block(block) + o, n, 0.0);
          std::fill_n(correction_[i][d].block(block) + o, n, 0.0);
        });
    if (boundary_.closed()) continue;
    const double per_width = dt / grid.geometry(block).spacing[d];
    boundary_.each(block, d, [&](const OpeningFace<D>& face) {
      const double phi = state.face_u[d].block(block)[face.face];
      std::array<double, most_phases> share{};
      shares_through(boundary_, settings, state, d, face, share);
      for (std::size_t i = 0; i < phases; ++i) passed_[i][d].block(block)[face.face] = per_width * phi * share[i];
    });
  }
}

/// What comes in through walls and in zones, or leaves there as it is in the cell; its volume is made room for by the
/// flow through the faces.
template <int D>
void FractionTransport<D>::add_sources(const Grid<D>& grid, double dt) {
  for (const auto& inlet : boundary_.wall_inlets()) {
    const double comes = dt * inlet.speed * inlet.area;  // over the volume of a whole cell
    const double open = OpenVolumes<D>(space_, inlet.block)[inlet.at];
    const auto& composition = boundary_.openings()[inlet.opening].composition;
    for (std::size_t i = 0; i < before_.size(); ++i) {
      double& a = before_[i].block(inlet.block)[inlet.at];
      const double change = comes * (comes > 0 ? composition[i] : std::max(a, 0.0));
      a += change / open;
      boundary_.record(inlet.opening, i, change > 0, std::abs(change) * grid.geometry(inlet.block).cell_volume);
    }
  }
}

template <int D>
void FractionTransport<D>::find_limits(const Grid<D>& grid, int block) {
  const Layout<D>& layout = grid.layout();
  const OpenVolumes<D> volume(space_, block);
  constexpr double tiny = 1e-300;
  for (std::size_t i = 0; i < low_.size(); ++i) {
    const double* old = before_[i].block(block);
    const double* low = low_[i].block(block);
    double* gain = most_gain_[i].block(block);
    double* loss = most_loss_[i].block(block);
    std::array<const double*, D> more;
    for (int d = 0; d < D; ++d) more[d] = correction_[i][d].block(block);
    for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double most = std::max(old[at], low[at]);
        double least = std::min(old[at], low[at]);
        double in = 0;
        double out = 0;
        for (int d = 0; d < D; ++d) {
          const std::ptrdiff_t s = layout.step[d];
          for (const std::ptrdiff_t beside : {at - s, at + s}) {
            if (volume[beside] == 0 || sight_.parts(block, d, std::max(beside, at))) continue;
            most = std::max({most, old[beside], low[beside]});
            least = std::min({least, old[beside], low[beside]});
          }
          in += std::max(more[d][at], 0.0) - std::min(more[d][at + s], 0.0);
          out += std::max(more[d][at + s], 0.0) - std::min(more[d][at], 0.0);
        }
        most = std::min(most, 1.0);
        least = std::max(least, 0.0);
        gain[at] = std::clamp((most - low[at]) * volume[at] / (in + tiny), 0.0, 1.0);
        loss[at] = std::clamp((low[at] - least) * volume[at] / (out + tiny), 0.0, 1.0);
      }
    });
  }
}

template <int D>
void FractionTransport<D>::correct(const Grid<D>& grid, int block, State<D>& state) {
  const Layout<D>& layout = grid.layout();
  const auto phases = low_.size();
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    for_open_rows<D>(space_, block, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double taken = 1;  // the same of all phases: their sum is kept
        for (std::size_t i = 0; i < phases; ++i) {
          const double more = correction_[i][d].block(block)[at];
          const double* gain = most_gain_[i].block(block);
          const double* loss = most_loss_[i].block(block);
          if (more > 0) taken = std::min({taken, gain[at], loss[at - s]});
          if (more < 0) taken = std::min({taken, gain[at - s], loss[at]});
        }
        for (std::size_t i = 0; i < phases; ++i) {
          double& more = correction_[i][d].block(block)[at];
          more *= taken;
          passed_[i][d].block(block)[at] += more;
        }
      }
    });
  }
  take_up(grid, block, state.a);
}

/// (E5): the fractions of a block after what has passed.
template <int D>
void FractionTransport<D>::take_up(const Grid<D>& grid, int block, std::vector<Cells<D>>& after) const {
  const Layout<D>& layout = grid.layout();
  const double* inverse = space_.is_uncut(block) ? nullptr : space_.inverse_volume().block(block);
  for (std::size_t i = 0; i < passed_.size(); ++i) {
    const double* before = before_[i].block(block);
    double* a = after[i].block(block);
    std::array<const double*, D> flux;
    for (int d = 0; d < D; ++d) flux[d] = passed_[i][d].block(block);
    for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double out = 0;
        for (int d = 0; d < D; ++d) out += flux[d][at + layout.step[d]] - flux[d][at];
        a[at] = before[at] - out * (inverse == nullptr ? 1.0 : inverse[at]);
      }
    });
  }
}

/// Small cells that have got more or less of a phase than they have room for share with their group, as far as it
/// takes.
template <int D>
void FractionTransport<D>::repair_groups(const Grid<D>& grid, State<D>& state) const {
  const auto phases = state.a.size();
  for_all_groups<D>(grid, space_, {&space_.volume()}, [&](std::size_t, const std::vector<CellPlace>& group) {
    std::array<double, most_phases> mean{};
    double room = 0;
    for (const auto& place : group) {
      const double volume = space_.volume().block(place.block)[place.at];
      room += volume;
      for (std::size_t i = 0; i < phases; ++i) mean[i] += volume * state.a[i].block(place.block)[place.at];
    }
    double shared = 0;
    for (std::size_t i = 0; i < phases; ++i) {
      mean[i] = mean[i] / room;
      for (const auto& place : group) {
        const double own = state.a[i].block(place.block)[place.at];
        constexpr double rounding = 1e-13;
        if (own < -rounding && mean[i] > own) shared = std::max(shared, own / (own - mean[i]));
        if (own > 1 + rounding && mean[i] < own) shared = std::max(shared, (own - 1) / (own - mean[i]));
      }
    }
    if (shared == 0) return;
    shared = std::min(shared, 1.0);
    for (const auto& place : group)
      for (std::size_t i = 0; i < phases; ++i) {
        double& own = state.a[i].block(place.block)[place.at];
        own += shared * (mean[i] - own);
      }
  });
}

/// Counts what has passed the openings.
template <int D>
void FractionTransport<D>::record(const Grid<D>& grid) {
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary_.faces(d)) {
      const double volume = grid.geometry(face.block).cell_volume * boundary_.sign(face);
      for (std::size_t i = 0; i < passed_.size(); ++i) {
        const double came = volume * passed_[i][d].block(face.block)[face.face];
        boundary_.record(face.opening, i, came > 0, std::abs(came));
      }
    }
}

template class FractionTransport<2>;
template class FractionTransport<3>;

}  // namespace wavy::dispersed
