#include <cmath>
#include <limits>

#include "sharp/parts.hpp"
#include "sharp/plane.hpp"

namespace wavy::sharp {
namespace {

/// Position of the interface along `axis` in the column of a mixed cell, in cells from the cell's lower face, by
/// summing fractions from the full end to the empty end, at most `pad` cells each way; NaN where the column has no
/// clear ends. `up` is +1 when the liquid lies on the lower side.
inline double column_height(const double* F, std::ptrdiff_t step, int up) {
  double sum = F[0];
  bool empty = false;
  for (int k = 1; k <= pad && !empty; ++k) {
    const double f = F[k * up * step];
    if (f < pure)
      empty = true;
    else if (f > 1 - pure)
      break;
    else
      sum += f;
  }
  if (!empty) return std::numeric_limits<double>::quiet_NaN();
  for (int k = 1; k <= pad; ++k) {
    const double f = F[-k * up * step];
    if (f > 1 - pure) {
      const double height = sum - (k - 1);  // from the lower face of the cell, along `up`
      return up > 0 ? height : 1 - height;
    }
    if (f < pure) break;
    sum += f;
  }
  return std::numeric_limits<double>::quiet_NaN();
}

/// A point on the interface of a mixed cell, in the cell's own coordinates.
template <int D>
Vec<D> interface_point(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing) {
  const Vec<D> normal = interface_normal<D>(F, step);
  int main = 0;
  double size = 0;
  for (int d = 0; d < D; ++d) {  // the steepest physical component: normals are in cell units
    const double c = std::abs(normal[d]) / spacing[d];
    if (c > size) {
      size = c;
      main = d;
    }
  }
  Vec<D> point;
  point.fill(0.5);
  if (size <= 0) return point;
  const double height = column_height(F, step[main], normal[main] > 0 ? 1 : -1);
  if (std::isnan(height)) return foot_point<D>(plane_through<D>(normal, *F));
  point[main] = height;
  return point;
}

}  // namespace

template <int D>
InterfaceForce<D>::InterfaceForce(const Grid<D>& grid) : potential_(grid) {}

template <int D>
void InterfaceForce<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                                   const Vec<D>& G, Faces<D>& acceleration, Faces<D>& inverse_density) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  const double rho_gas = settings.gas.density;
  const double rho_jump = settings.liquid.density - rho_gas;
  const double none = std::numeric_limits<double>::quiet_NaN();

  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    double* potential = potential_.block(b);
    const Vec<D> lower = grid.block_lower(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) {
        const std::ptrdiff_t at = o + i;
        potential[at] = none;
        if (!is_mixed(F[at])) continue;
        const Vec<D> point = interface_point<D>(F + at, layout.step, h);
        double sum = 0;
        for (int d = 0; d < D; ++d) sum += G[d] * (lower[d] + (axis_index<D>(layout, at, d) + point[d]) * h[d]);
        potential[at] = -sum;
      }
    });
  });
  fill_halo(grid, potential_, 1, all_walls<D>(Mirror::even));

  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    const double* potential = potential_.block(b);
    const Vec<D> lower = grid.block_lower(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      double* a = acceleration[d].block(b);
      double* inverse = inverse_density[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          inverse[o + i] = 1 / (rho_gas + 0.5 * rho_jump * (F[o + i] + F[o + i - s]));
          a[o + i] = 0;
        }
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t at = o + i;
          if (F[at] == F[at - s]) continue;
          const double here = potential[at];
          const double there = potential[at - s];
          double phi = 0;
          if (std::isnan(here) && std::isnan(there)) {  // the interface runs along the face
            for (int e = 0; e < D; ++e)
              phi -= G[e] * (lower[e] + (axis_index<D>(layout, at, e) + (e == d ? 0.0 : 0.5)) * h[e]);
          } else {
            phi = std::isnan(here) ? there : std::isnan(there) ? here : 0.5 * (here + there);
          }
          a[at] = inverse[at] * phi * rho_jump * (F[at] - F[at - s]) / h[d];
        }
      });
    }
  });
}

template class InterfaceForce<2>;
template class InterfaceForce<3>;

}  // namespace wavy::sharp
