#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {
namespace {

constexpr int most_iterations = 500;
constexpr double tolerance = 1e-6;  // how far a velocity may be off, as a share of the greatest one

/// Viscosity on a face: the plain mean. (The harmonic mean takes an eighth off the damping of a free wave at 64 cells.)
inline double face_mu(double a, double b) { return 0.5 * (a + b); }

/// Shear rate sqrt(2 S:S) of the cell at `at`, S = (grad u + grad u^T)/2 by central differences [1/s].
template <int D>
double shear_rate(const std::array<const double*, D>& u, const Layout<D>& layout, const Vec<D>& h, std::ptrdiff_t at) {
  std::array<Vec<D>, D> gradient;  // [component][axis]
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d)
      gradient[c][d] = (u[c][at + layout.step[d]] - u[c][at - layout.step[d]]) / (2 * h[d]);
  double sum = 0;
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      const double s = 0.5 * (gradient[c][d] + gradient[d][c]);
      sum += 2 * s * s;
    }
  return std::sqrt(sum);
}

/// A sum and a greatest value over the blocks, in tree order.
struct SumAndGreatest {
  double sum = 0;
  double greatest = 0;
};

template <int D, class Fn>
SumAndGreatest reduce(const Grid<D>& grid, Fn&& fn) {
  std::vector<SumAndGreatest> parts(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) { parts[static_cast<std::size_t>(b)] = fn(b); });
  SumAndGreatest total;
  for (const auto& part : parts) {
    total.sum += part.sum;
    total.greatest = std::max(total.greatest, part.greatest);
  }
  return total;
}

}  // namespace

template <int D>
Viscosity<D>::Viscosity(const Grid<D>& grid)
    : mu_(grid), rho_(grid), residual_(grid), direction_(grid), product_(grid), inverse_(grid) {
  for (int d = 0; d < D; ++d) rhs_[d] = face_[d] = Cells<D>(grid);
}

template <int D>
int Viscosity<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt) {
  const auto inviscid = [](const Properties& fluid) { return fluid.rheology.constant() && fluid.viscosity <= 0; };
  if (inviscid(settings.liquid) && inviscid(settings.gas)) return 0;
  for (int c = 0; c < D; ++c) fill_halo(grid, state.u[c], 1, velocity_rules(settings, c));
  set_coefficients(grid, settings, state, dt);
  set_right_hand_sides(grid, state);
  double scale = 1e-30;
  for (int d = 0; d < D; ++d) {
    const Cells<D>& u = state.u[d];
    scale = std::max(scale, max_blocks(grid, [&](int b) {
                       const double* v = u.block(b);
                       double greatest = 0;
                       for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd reduction(max : greatest)
                         for (int i = 0; i < n; ++i) greatest = std::max(greatest, std::abs(v[o + i]));
                       });
                       return greatest;
                     }));
  }
  int iterations = 0;
  for (int c = 0; c < D; ++c) iterations += solve(grid, settings, c, state.u[c], tolerance * scale);
  return iterations;
}

/// rho in the cells and dt mu / h^2 on the faces. Velocity halos must be filled.
template <int D>
void Viscosity<D>::set_coefficients(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                                    double dt) {
  const Layout<D>& layout = grid.layout();
  const double mu_gas = settings.gas.viscosity;
  const double mu_jump = settings.liquid.viscosity - mu_gas;
  const bool by_rate = !settings.liquid.rheology.constant() || !settings.gas.rheology.constant();
  const auto own = [](const Properties& fluid, double rate) {
    return fluid.rheology.constant() ? fluid.viscosity : fluid.rheology(rate);
  };
  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    double* mu = mu_.block(b);
    double* rho = rho_.block(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        mu[o + i] = mu_gas + mu_jump * F[o + i];
        rho[o + i] = density(settings, F[o + i]);
      }
      if (!by_rate) return;
      std::array<const double*, D> u;
      for (int c = 0; c < D; ++c) u[c] = state.u[c].block(b);
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const double rate = shear_rate<D>(u, layout, grid.spacing(), at);
        mu[at] = (F[at] < 1 ? (1 - F[at]) * own(settings.gas, rate) : 0.0) +
                 (F[at] > 0 ? F[at] * own(settings.liquid, rate) : 0.0);
      }
    });
  });
  fill_halo(grid, mu_, 1, all_walls<D>(Mirror::even));
  for_blocks(grid, [&](int b) {
    const double* mu = mu_.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = dt / (grid.spacing()[d] * grid.spacing()[d]);
      double* face = face_[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) face[o + i] = factor * face_mu(mu[o + i], mu[o + i - s]);
      });
    }
  });
}

/// rhs = rho u + dt sum_d d_d(mu d_c u_d), d != c, with all components as they were.
template <int D>
void Viscosity<D>::set_right_hand_sides(const Grid<D>& grid, const State<D>& state) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  for_blocks(grid, [&](int b) {
    const double* rho = rho_.block(b);
    for (int c = 0; c < D; ++c) {
      double* out = rhs_[c].block(b);
      const double* own = state.u[c].block(b);
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) out[o + i] = rho[o + i] * own[o + i];
      });
      const std::ptrdiff_t sc = layout.step[c];
      for (int d = 0; d < D; ++d) {
        if (d == c) continue;
        const double* v = state.u[d].block(b);
        const double* face = face_[d].block(b);
        const std::ptrdiff_t s = layout.step[d];
        const double factor = h[d] / (4 * h[c]);
        const auto across = [v, sc, s](std::ptrdiff_t a) {  // 4 h_c times the derivative along c on the low d-face
          return v[a + sc] - v[a - sc] + v[a + sc - s] - v[a - sc - s];
        };
        for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) {
            const std::ptrdiff_t a = o + i;
            out[a] += factor * (face[a + s] * across(a + s) - face[a] * across(a));
          }
        });
      }
    }
  });
}

/// Jacobi-preconditioned conjugate gradients (Saad, Iterative Methods, alg. 9.1) for one component:
/// rho x - dt sum_d d_d(mu d_d x) = rhs, the normal direction counted twice. Returns the iterations.
template <int D>
int Viscosity<D>::solve(const Grid<D>& grid, const Settings<D>& settings, int c, Cells<D>& x, double allowed) {
  const Layout<D>& layout = grid.layout();
  const WallRules<D> rules = velocity_rules(settings, c);
  // out = operator on v (halo filled); returns v . out of the block.
  const auto apply = [&](const double* v, int b, double* out) {
    const double* rho = rho_.block(b);
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = face_[d].block(b);
    double sum = 0;
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      double row = 0;
#pragma omp simd reduction(+ : row)
      for (int i = 0; i < n; ++i) {
        const std::ptrdiff_t a = o + i;
        double value = rho[a] * v[a];
        for (int d = 0; d < D; ++d) {
          const std::ptrdiff_t s = layout.step[d];
          const double flux = face[d][a + s] * (v[a + s] - v[a]) - face[d][a] * (v[a] - v[a - s]);
          value -= d == c ? 2 * flux : flux;
        }
        out[a] = value;
        row += value * v[a];
      }
      sum += row;
    });
    return sum;
  };

  fill_halo(grid, x, 1, rules);
  SumAndGreatest now = reduce(grid, [&](int b) {
    double* r = residual_.block(b);
    double* z = direction_.block(b);
    double* inverse = inverse_.block(b);
    const double* f = rhs_[c].block(b);
    const double* rho = rho_.block(b);
    apply(x.block(b), b, r);
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = face_[d].block(b);
    SumAndGreatest part;
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      double sum = 0;
      double greatest = 0;
#pragma omp simd reduction(+ : sum) reduction(max : greatest)
      for (int i = 0; i < n; ++i) {
        const std::ptrdiff_t a = o + i;
        double diagonal = rho[a];  // without the walls' share: it only preconditions
        for (int d = 0; d < D; ++d) {
          const double both = face[d][a] + face[d][a + layout.step[d]];
          diagonal += d == c ? 2 * both : both;
        }
        inverse[a] = 1 / diagonal;
        r[a] = f[a] - r[a];
        z[a] = inverse[a] * r[a];
        sum += r[a] * z[a];
        greatest = std::max(greatest, std::abs(z[a]));
      }
      part.sum += sum;
      part.greatest = std::max(part.greatest, greatest);
    });
    return part;
  });

  int iterations = 0;
  while (iterations < most_iterations && now.greatest > allowed) {
    ++iterations;
    fill_halo(grid, direction_, 1, rules);
    const double dAd = sum_blocks(grid, [&](int b) { return apply(direction_.block(b), b, product_.block(b)); });
    if (!(dAd > 0)) break;
    const double alpha = now.sum / dAd;
    const SumAndGreatest next = reduce(grid, [&](int b) {
      double* v = x.block(b);
      double* r = residual_.block(b);
      const double* inverse = inverse_.block(b);
      const double* d = direction_.block(b);
      const double* q = product_.block(b);
      SumAndGreatest part;
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        double sum = 0;
        double greatest = 0;
#pragma omp simd reduction(+ : sum) reduction(max : greatest)
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          v[a] += alpha * d[a];
          r[a] -= alpha * q[a];
          const double z = inverse[a] * r[a];
          sum += r[a] * z;
          greatest = std::max(greatest, std::abs(z));
        }
        part.sum += sum;
        part.greatest = std::max(part.greatest, greatest);
      });
      return part;
    });
    const double keep = next.sum / now.sum;
    now = next;
    if (now.greatest <= allowed) break;
    for_blocks(grid, [&](int b) {
      double* d = direction_.block(b);
      const double* r = residual_.block(b);
      const double* inverse = inverse_.block(b);
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) d[o + i] = keep * d[o + i] + inverse[o + i] * r[o + i];
      });
    });
  }
  return iterations;
}

template class Viscosity<2>;
template class Viscosity<3>;

}  // namespace wavy::sharp
