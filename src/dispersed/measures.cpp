// What is measured of an Eulerian model beside its fields.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "dispersed/friction.hpp"
#include "dispersed/parts.hpp"
#include "flow/shear_rate.hpp"
#include "mesh/cover.hpp"

namespace wavy::dispersed {

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

template <int D>
double Model<D>::greatest_speed() const {
  return std::sqrt(max_blocks(grid_, [&](int b) {
    double greatest = 0;
    const OpenVolumes<D> open(space_, b);
    for (std::size_t i = 0; i < phases(); ++i) {
      const double* a = state_.a[i].block(b);
      for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          if (open[at] == 0 || a[at] < counts_for_steps) continue;
          double square = 0;
          for (int d = 0; d < D; ++d) square += std::pow(state_.u[i][d].block(b)[at], 2);
          greatest = std::max(greatest, square);
        }
      });
    }
    return greatest;
  }));
}

template <int D>
double Model<D>::speed_by_drive() const {
  return boundary().speed_by_drive(grid_, state_.time, settings_.body_force(state_.time),
                                   settings_.phases.front().fluid.density, settings_.phases.back().fluid.density) +
         wall_velocity().greatest_speed(grid_) + turning_solids().greatest_speed(state_.time);
}

template <int D>
std::string Model<D>::fastest_place() const {
  double greatest = -1;
  Vec<D> fastest{};
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    if (OpenVolumes<D>(space_, b)[o] == 0) return;
    for (std::size_t i = 0; i < phases(); ++i) {
      double square = 0;
      for (int d = 0; d < D; ++d) square += std::pow(state_.u[i][d].block(b)[o], 2);
      if (!std::isfinite(square)) square = std::numeric_limits<double>::infinity();
      if (square <= greatest || (state_.a[i].block(b)[o] < counts_for_steps && std::isfinite(square))) continue;
      greatest = square;
      fastest = cell_middle<D>(grid_, b, o);
    }
  });
  return fmt::format("({:.4g}) m", fmt::join(fastest, ", "));
}

template <int D>
double Model<D>::kinetic_energy() const {
  return grid_.cell_volume() * sum_volumes(grid_, [&](int b) {
           double sum = 0;
           const OpenVolumes<D> open(space_, b);
           for (std::size_t i = 0; i < phases(); ++i) {
             const double half_density = 0.5 * settings_.phases[i].fluid.density;
             const double* a = state_.a[i].block(b);
             for (int d = 0; d < D; ++d) {
               const double* u = state_.u[i][d].block(b);
               for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
                 for (std::ptrdiff_t at = o; at < o + n; ++at) sum += half_density * open[at] * a[at] * u[at] * u[at];
               });
             }
           }
           return sum;
         });
}

template <int D>
double Model<D>::potential_energy(const Vec<D>& gravity) const {
  double energy = 0;
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const double volume = OpenVolumes<D>(space_, b)[o] * grid_.cell_volume();
    if (volume == 0) return;
    energy -= density(settings_, state_, b, o) * volume * dot<D>(gravity, open_middle(grid_, space_, b, o));
  });
  return energy;
}

template <int D>
double Model<D>::reference_pressure() const {
  if (boundary().holds_pressure()) return 0;
  double sum = 0;
  double size = 0;
  if (!settings_.degassing.empty()) {
    for (int d = 0; d < D; ++d)
      for (const auto& face : boundary().faces(d)) {
        if (!settings_.degasses(face.opening)) continue;
        const double area = face.area * face.whole_area;
        sum += area * (state_.p.block(face.block)[face.inside] +
                       density(settings_, state_, face.block, face.inside) * dot<D>(G_, face.middle));
        size += area;
      }
    return sum / size;
  }
  const std::size_t lightest = lightest_carrier(settings_.phases);
  const bool some = volume(lightest) > 1e-6 * open_volume();
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const double share = OpenVolumes<D>(space_, b)[o] * (some ? state_.a[lightest].block(b)[o] : 1.0);
    if (share == 0) return;
    sum += share * (state_.p.block(b)[o] + density(settings_, state_, b, o) * dot<D>(G_, cell_middle<D>(grid_, b, o)));
    size += share;
  });
  return sum / size;
}

template <int D>
Cells<D> Model<D>::true_pressure() const {
  Cells<D> result(grid_);
  const double reference = reference_pressure();
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    result.block(b)[o] =
        state_.p.block(b)[o] + density(settings_, state_, b, o) * dot<D>(G_, cell_middle<D>(grid_, b, o)) - reference;
  });
  return result;
}

template <int D>
CellVectors<D> Model<D>::volume_velocity() const {
  CellVectors<D> result;
  for (int d = 0; d < D; ++d) {
    result[d] = Cells<D>(grid_);
    for_blocks(grid_, [&](int b) {
      double* sum = result[d].block(b);
      for (std::size_t i = 0; i < phases(); ++i) {
        const double* a = state_.a[i].block(b);
        const double* u = state_.u[i][d].block(b);
        for_open_rows<D>(space_, b, grid_.layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) sum[at] += a[at] * u[at];
        });
      }
    });
  }
  return result;
}

template <int D>
Cells<D> Model<D>::shear_rate() const {
  CellVectors<D> u = volume_velocity();
  fill_velocity_halo<D>(grid_, space_, settings_.walls, wall_velocity(), 1, u);
  return shear_rates<D>(grid_, space_, u, [](int, std::ptrdiff_t) { return true; });
}

template <int D>
double Model<D>::dissipation() const {
  double heat = 0;
  for (std::size_t i = 0; i < phases(); ++i) {
    CellVectors<D> u = state_.u[i];
    fill_velocity_halo<D>(grid_, space_, wall_kinds<D>(settings_, i), wall_velocity(), 1, u);
    constexpr double least = 1e-6;  // fraction: less of it is not there
    Cells<D> a = state_.a[i];
    fill_halo(grid_, a, 1, all_walls<D>(Mirror::even), space_.open_spans());
    const auto counts = [&](int block, std::ptrdiff_t at) { return a.block(block)[at] > least; };
    const Cells<D> rates = shear_rates<D>(grid_, space_, u, counts);
    const Properties& fluid = settings_.phases[i].fluid;
    const Cells<D>& eddy_viscosity = state_.turbulent.eddy_viscosity;
    heat += sum_volumes(grid_, [&](int b) {
      const OpenVolumes<D> open(space_, b);
      const double* eddies = eddy_viscosity.data().empty() ? nullptr : eddy_viscosity.block(b);
      double sum = 0;
      for_rows<D>(grid_.layout(), [&](std::ptrdiff_t row, int n) {
        for (std::ptrdiff_t o = row; o < row + n; ++o) {
          const double mu = fluid.viscosity + (eddies == nullptr ? 0.0 : fluid.density * eddies[o]);
          sum += open[o] * mu * state_.a[i].block(b)[o] * rates.block(b)[o] * rates.block(b)[o];
        }
      });
      return sum;
    });
  }
  return grid_.cell_volume() * heat;
}

template double Model<2>::volume(std::size_t) const;
template double Model<2>::greatest_speed(std::size_t) const;
template double Model<2>::greatest_speed() const;
template double Model<2>::speed_by_drive() const;
template std::string Model<2>::fastest_place() const;
template double Model<2>::kinetic_energy() const;
template double Model<2>::potential_energy(const Vec<2>&) const;
template double Model<2>::reference_pressure() const;
template Cells<2> Model<2>::true_pressure() const;
template CellVectors<2> Model<2>::volume_velocity() const;
template Cells<2> Model<2>::shear_rate() const;
template double Model<2>::dissipation() const;
template double Model<3>::volume(std::size_t) const;
template double Model<3>::greatest_speed(std::size_t) const;
template double Model<3>::greatest_speed() const;
template double Model<3>::speed_by_drive() const;
template std::string Model<3>::fastest_place() const;
template double Model<3>::kinetic_energy() const;
template double Model<3>::potential_energy(const Vec<3>&) const;
template double Model<3>::reference_pressure() const;
template Cells<3> Model<3>::true_pressure() const;
template CellVectors<3> Model<3>::volume_velocity() const;
template Cells<3> Model<3>::shear_rate() const;
template double Model<3>::dissipation() const;

}  // namespace wavy::dispersed
