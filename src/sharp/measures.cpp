// What a model says of its state: volume, energy, speed, pressures.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
double Model<D>::liquid_volume() const {
  const Layout<D>& layout = grid_.layout();
  return grid_.cell_volume() * sum_volumes(grid_, [&](int b) {
           const double* F = state_.F.block(b);
           const OpenVolumes<D> open_volumes(space_, b);
           double sum = 0;
           for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
             double row = 0;
             for (int i = 0; i < n; ++i) row += open_volumes[o + i] * F[o + i];
             sum += row;
           });
           return sum;
         });
}

template <int D>
double Model<D>::kinetic_energy() const {
  const Layout<D>& layout = grid_.layout();
  return grid_.cell_volume() * sum_volumes(grid_, [&](int b) {
           const double* F = state_.F.block(b);
           const OpenVolumes<D> open_volumes(space_, b);
           double sum = 0;
           for (int d = 0; d < D; ++d) {
             const double* u = state_.u[d].block(b);
             for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
               double row = 0;
               for (int i = 0; i < n; ++i)
                 row += 0.5 * open_volumes[o + i] * weighing_density(settings_, F[o + i]) * u[o + i] * u[o + i];
               sum += row;
             });
           }
           return sum;
         });
}

template <int D>
double Model<D>::greatest_speed() const {
  const Layout<D>& layout = grid_.layout();
  return std::sqrt(max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const double* F = state_.F.block(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) {
        if (settings_.free_surface_only && F[o + i] < 0.5) continue;
        double square = 0;
        for (int d = 0; d < D; ++d) square += state_.u[d].block(b)[o + i] * state_.u[d].block(b)[o + i];
        greatest = std::max(greatest, square);
      }
    });
    return greatest;
  }));
}

template <int D>
std::string Model<D>::fastest_place() const {
  double greatest = -1;
  Vec<D> fastest{};
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    double square = 0;
    for (int d = 0; d < D; ++d) square += state_.u[d].block(b)[o] * state_.u[d].block(b)[o];
    if (!std::isfinite(square)) square = std::numeric_limits<double>::infinity();
    if (square <= greatest) return;
    greatest = square;
    fastest = cell_middle<D>(grid_, b, o);
  });
  return fmt::format("({:.4g}) m", fmt::join(fastest, ", "));
}

template <int D>
double Model<D>::hydrostatic_pressure(double F, const Vec<D>& place) const {
  return weighing_density(settings_, F) * dot<D>(G_, place);
}

template <int D>
double Model<D>::reference_pressure() const {
  if (boundary().holds_pressure() || settings_.free_surface_only) return 0;
  const Layout<D>& layout = grid_.layout();
  const double all_cells = open_volume() / grid_.cell_volume();
  const double gas_cells = all_cells - liquid_volume() / grid_.cell_volume();
  const bool gas_only = gas_cells > 1e-6 * all_cells;
  const double pressures = sum_volumes(grid_, [&](int b) {
    const double* F = state_.F.block(b);
    const double* p = state_.p.block(b);
    const Vec<D>& lower = grid_.geometry(b).lower;
    const Vec<D>& h = grid_.geometry(b).spacing;
    const OpenVolumes<D> open_volumes(space_, b);
    double sum = 0;
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      Vec<D> place;
      for (int d = 0; d < D; ++d) place[d] = lower[d] + (axis_index<D>(layout, o, d) + 0.5) * h[d];
      const double start = dot<D>(G_, place);
      double row = 0;
      for (int i = 0; i < n; ++i) {
        const double weight = open_volumes[o + i] * (gas_only ? 1 - F[o + i] : 1.0);
        row += weight * (p[o + i] + density(settings_, F[o + i]) * (start + i * G_[0] * h[0]));
      }
      sum += row;
    });
    return sum;
  });
  return pressures / (gas_only ? gas_cells : all_cells);
}

template <int D>
Cells<D> Model<D>::true_pressure() const {
  Cells<D> result(grid_);
  const double reference = reference_pressure();
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const Vec<D> place = cell_middle<D>(grid_, b, o);
    result.block(b)[o] = state_.p.block(b)[o] + hydrostatic_pressure(state_.F.block(b)[o], place) - reference;
  });
  return result;
}

template <int D>
Cells<D> Model<D>::dynamic_pressure() const {
  Cells<D> result(grid_);
  const Layout<D>& layout = grid_.layout();
  // Means of p over the liquid and over the gas: p differs between them by the jump of rho times a constant.
  const double liquid_cells = liquid_volume() / grid_.cell_volume();
  const double gas_cells = open_volume() / grid_.cell_volume() - liquid_cells;
  const auto sum = [&](bool liquid) {
    return sum_volumes(grid_, [&](int b) {
      const double* F = state_.F.block(b);
      const double* p = state_.p.block(b);
      const OpenVolumes<D> open_volumes(space_, b);
      double total = 0;
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) total += open_volumes[o + i] * p[o + i] * (liquid ? F[o + i] : 1 - F[o + i]);
      });
      return total;
    });
  };
  const double liquid_mean = liquid_cells > 0 ? sum(true) / liquid_cells : 0;
  const double gas_mean = gas_cells > 0 ? sum(false) / gas_cells : liquid_mean;
  for_blocks(grid_, [&](int b) {
    const double* F = state_.F.block(b);
    const double* p = state_.p.block(b);
    double* out = result.block(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i)
        out[o + i] = p[o + i] - (liquid_cells > 0 ? F[o + i] * liquid_mean : 0) - (1 - F[o + i]) * gas_mean;
    });
  });
  return result;
}

template double Model<2>::liquid_volume() const;
template double Model<2>::kinetic_energy() const;
template double Model<2>::greatest_speed() const;
template std::string Model<2>::fastest_place() const;
template double Model<2>::reference_pressure() const;
template double Model<2>::hydrostatic_pressure(double, const Vec<2>&) const;
template Cells<2> Model<2>::true_pressure() const;
template Cells<2> Model<2>::dynamic_pressure() const;
template double Model<3>::liquid_volume() const;
template double Model<3>::kinetic_energy() const;
template double Model<3>::greatest_speed() const;
template std::string Model<3>::fastest_place() const;
template double Model<3>::reference_pressure() const;
template double Model<3>::hydrostatic_pressure(double, const Vec<3>&) const;
template Cells<3> Model<3>::true_pressure() const;
template Cells<3> Model<3>::dynamic_pressure() const;

}  // namespace wavy::sharp
