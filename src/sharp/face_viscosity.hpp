// Viscosities on the faces: how the phases' act together beside the interface.
#pragma once

#include <array>
#include <cmath>

#include "sharp/model.hpp"

namespace wavy::sharp {

template <int D>
bool depends_on_rate(const Settings<D>& settings) {
  return !settings.liquid.rheology.constant() || !settings.gas.rheology.constant();
}

/// Shear rate sqrt(2 S:S) on the low face of a cell across `axis`, S = (grad u + grad u^T)/2 [1/s]. `radius`: of the
/// cell's middle, where there is an axis of revolution.
template <int D>
double shear_rate(const std::array<const double*, D>& u, const Layout<D>& layout, const Vec<D>& h, int axis,
                  std::ptrdiff_t at, const double* radius = nullptr) {
  const std::ptrdiff_t s = layout.step[static_cast<std::size_t>(axis)];
  std::array<Vec<D>, D> gradient;  // [component][direction]
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      const double* v = u[c] + at;
      const std::ptrdiff_t e = layout.step[d];
      gradient[c][d] =
          static_cast<int>(d) == axis ? (v[0] - v[-s]) / h[d] : (v[e] - v[-e] + v[e - s] - v[-e - s]) / (4 * h[d]);
    }
  double sum = 0;
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      const double s_cd = 0.5 * (gradient[c][d] + gradient[d][c]);
      sum += 2 * s_cd * s_cd;
    }
  if (radius != nullptr) sum += 2 * std::pow(u[0][at] / *radius, 2);
  return std::sqrt(sum);
}

/// Both phases' viscosities at a face.
struct BothViscosities {
  double liquid = 0;
  double gas = 0;
  /// Stress across the layers (they share the stress) and along them (they share the rate of strain).
  [[nodiscard]] double in_series(double share) const {
    if (share <= 0) return gas;
    if (share >= 1) return liquid;
    return liquid > 0 && gas > 0 ? 1 / (share / liquid + (1 - share) / gas) : 0.0;
  }
  [[nodiscard]] double side_by_side(double share) const { return gas + (liquid - gas) * share; }
};

/// The phases' viscosities at a shear rate [1/s].
template <int D>
BothViscosities viscosities_at(const Settings<D>& settings, double rate) {
  const auto own = [rate](const Properties& fluid) {
    return fluid.rheology.constant() ? fluid.viscosity : fluid.rheology(rate);
  };
  return {own(settings.liquid), own(settings.gas)};
}

/// Greatest sum over a cell's faces of dt mu/(rho h^2) in the bulk of a phase for which a step is explicit: then it is
/// no less accurate in time than in space.
inline constexpr double explicit_in_bulk = 0.25;

/// (S11): sets dt mu / h^2 on the faces, times the space's conductances (where walls slip, areas), for every component.
/// Returns how much of what an explicit step allows they take: up to 1 one is stable. Halos of F (2) and, where
/// viscosities depend on the shear rate, u (1) must be filled.
template <int D>
double set_face_viscosities(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings,
                            const Cells<D>& extended_fraction, const CellVectors<D>& velocity, double dt,
                            std::array<CellVectors<D>, D>& faces);

}  // namespace wavy::sharp
