#include "dispersed/momentum.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include "dispersed/parts.hpp"
#include "flow/transport.hpp"

namespace wavy::dispersed {
namespace {

constexpr double least_held = 1e-14;  // fraction of a phase below which it keeps its velocity

template <int D>
void transport_component(const Grid<D>& grid, const OpenSpace<D>& space, int block, double dt, const Cells<D>& after,
                         const Faces<D>& passed, const Faces<D>& phase_u, const Cells<D>& acceleration,
                         const Cells<D>& u, Cells<D>& next) {
  const Layout<D>& layout = grid.layout();
  const double* v = u.block(block);
  const double* a = after.block(block);
  const double* gain = acceleration.block(block);
  double* out = next.block(block);
  const OpenVolumes<D> volume(space, block);
  const double* at_wall = space.is_uncut(block) ? nullptr : space.at_wall().block(block);
  const double* grouped = space.is_uncut(block) ? nullptr : space.grouped().block(block);
  const auto slope = [&](std::ptrdiff_t at, std::ptrdiff_t s) {
    return at_wall != nullptr && at_wall[at] != 0 ? 0.0 : limited_slope(v[at - s], v[at], v[at + s]);
  };
  for_open_rows<D>(space, block, layout, [&](std::ptrdiff_t o, int n) {
    for (std::ptrdiff_t at = o; at < o + n; ++at) {
      const double held = a[at] * volume[at];
      if (!(held > least_held)) {
        out[at] = v[at];
        continue;
      }
      double change = 0;  // of momentum beside what moves with u
      double most = v[at];
      double least = v[at];
      for (int d = 0; d < D; ++d) {
        const std::ptrdiff_t s = layout.step[d];
        const double per_width = dt / grid.geometry(block).spacing[d];
        const double* F = passed[d].block(block);
        const double* U = phase_u[d].block(block);
        const auto through = [&](std::ptrdiff_t face) {
          const bool upwards = F[face] > 0;
          const std::ptrdiff_t from = upwards ? face - s : face;
          const double stays = 1 - std::min(std::abs(U[face]) * per_width, 1.0);
          return v[from] + 0.5 * dt * gain[from] + (upwards ? 0.5 : -0.5) * stays * slope(from, s);
        };
        const double own = v[at] + 0.5 * dt * gain[at];
        if (F[at] != 0) change += F[at] * (through(at) - own);
        if (F[at + s] != 0) change -= F[at + s] * (through(at + s) - own);
        most = std::max({most, v[at - s], v[at + s]});
        least = std::min({least, v[at - s], v[at + s]});
      }
      out[at] = v[at] + change / (held + trace);
      if (grouped == nullptr || grouped[at] == 0) out[at] = std::clamp(out[at], least, most);
    }
  });
}

}  // namespace

template <int D>
void transport_momentum(const Grid<D>& grid, const OpenSpace<D>& space, const FractionTransport<D>& transport,
                        double dt, State<D>& state, std::vector<CellVectors<D>>& scratch) {
  for (std::size_t i = 0; i < state.a.size(); ++i) {
    for_blocks(grid, [&](int b) {
      for (int c = 0; c < D; ++c)
        transport_component<D>(grid, space, b, dt, state.a[i], transport.passed()[i], state.phase_u[i],
                               state.acceleration[i][c], state.u[i][c], scratch[i][c]);
    });
    for_all_groups<D>(grid, space, {&space.volume()}, [&](std::size_t, const std::vector<CellPlace>& group) {
      double held = 0;
      for (const auto& place : group)
        held += std::max(state.a[i].block(place.block)[place.at], 0.0) * space.volume().block(place.block)[place.at];
      for (int c = 0; c < D; ++c) {
        double momentum = 0;
        double plain = 0;
        for (const auto& place : group) {
          const double own = scratch[i][c].block(place.block)[place.at];
          momentum += std::max(state.a[i].block(place.block)[place.at], 0.0) *
                      space.volume().block(place.block)[place.at] * own;
          plain += state.u[i][c].block(place.block)[place.at] / static_cast<double>(group.size());
        }
        for (const auto& place : group)
          scratch[i][c].block(place.block)[place.at] = held > least_held ? momentum / held : plain;
      }
    });
    std::swap(state.u[i], scratch[i]);
  }
}

template void transport_momentum<2>(const Grid<2>&, const OpenSpace<2>&, const FractionTransport<2>&, double, State<2>&,
                                    std::vector<CellVectors<2>>&);
template void transport_momentum<3>(const Grid<3>&, const OpenSpace<3>&, const FractionTransport<3>&, double, State<3>&,
                                    std::vector<CellVectors<3>>&);

}  // namespace wavy::dispersed
