#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {
namespace {

constexpr int most_iterations = 500;
constexpr double tolerance = 1e-7;  // residual, as a share of the greatest velocity

/// Viscosity on a face: the harmonic mean, which keeps the shear stress continuous between layers along the face.
inline double face_mu(double a, double b) { return a + b > 0 ? 2 * a * b / (a + b) : 0.0; }

}  // namespace

template <int D>
Viscosity<D>::Viscosity(const Grid<D>& grid)
    : mu_(grid), residual_(grid), direction_(grid), product_(grid), inverse_(grid) {
  for (auto& component : rhs_) component = Cells<D>(grid);
}

template <int D>
int Viscosity<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  const double mu_gas = settings.gas.viscosity;
  const double mu_jump = settings.liquid.viscosity - mu_gas;
  if (mu_gas <= 0 && mu_gas + mu_jump <= 0) return 0;
  int iterations = 0;

  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    double* mu = mu_.block(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) mu[o + i] = mu_gas + mu_jump * F[o + i];
    });
  });
  fill_halo(grid, mu_, 1, all_walls<D>(Mirror::even));
  for (int c = 0; c < D; ++c) fill_halo(grid, state.u[c], 1, velocity_rules(settings, c));

  // The right-hand sides need all components as they were: rhs = rho u + dt sum_d d_d(mu d_c u_d), d != c.
  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    const double* mu = mu_.block(b);
    for (int c = 0; c < D; ++c) {
      double* out = rhs_[c].block(b);
      const double* own = state.u[c].block(b);
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) out[o + i] = density(settings, F[o + i]) * own[o + i];
      });
      const std::ptrdiff_t sc = layout.step[c];
      for (int d = 0; d < D; ++d) {
        if (d == c) continue;
        const double* v = state.u[d].block(b);
        const std::ptrdiff_t s = layout.step[d];
        const double factor = dt / (4 * h[c] * h[d]);
        const auto across = [v, sc, s](std::ptrdiff_t a) {  // 4 h_c times the derivative along c on the low d-face
          return v[a + sc] - v[a - sc] + v[a + sc - s] - v[a - sc - s];
        };
        for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) {
            const std::ptrdiff_t a = o + i;
            out[a] += factor * (face_mu(mu[a], mu[a + s]) * across(a + s) - face_mu(mu[a], mu[a - s]) * across(a));
          }
        });
      }
    }
  });

  for (int c = 0; c < D; ++c) {
    const WallRules<D> rules = velocity_rules(settings, c);
    Cells<D>& x = state.u[c];
    Vec<D> factor;
    for (int d = 0; d < D; ++d) factor[d] = dt * (d == c ? 2 : 1) / (h[d] * h[d]);

    // product = rho x - dt sum_d d_d(mu d_d x), x's halo filled; returns sum x . product of the block.
    const auto apply = [&](const Cells<D>& field, int b, double* out) {
      const double* v = field.block(b);
      const double* mu = mu_.block(b);
      const double* F = state.F.block(b);
      double sum = 0;
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        double row = 0;
#pragma omp simd reduction(+ : row)
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          double value = density(settings, F[a]) * v[a];
          for (int d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            value -= factor[d] *
                     (face_mu(mu[a], mu[a + s]) * (v[a + s] - v[a]) - face_mu(mu[a], mu[a - s]) * (v[a] - v[a - s]));
          }
          out[a] = value;
          row += value * v[a];
        }
        sum += row;
      });
      return sum;
    };

    // Jacobi-preconditioned conjugate gradients (Saad, Iterative Methods, alg. 9.1). The diagonal must know of the
    // walls only roughly: it is the preconditioner.
    fill_halo(grid, x, 1, rules);
    double scale = 1e-30;
    for (int d = 0; d < D; ++d) {
      const Cells<D>& u = state.u[d];
      scale = std::max(scale, max_blocks(grid, [&](int b) {
                         const double* v = u.block(b);
                         double greatest = 0;
                         for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
                           for (int i = 0; i < n; ++i) greatest = std::max(greatest, std::abs(v[o + i]));
                         });
                         return greatest;
                       }));
    }
    double worst = 0;
    double rz = sum_blocks(grid, [&](int b) {
      double* r = residual_.block(b);
      double* z = direction_.block(b);
      double* inverse = inverse_.block(b);
      const double* f = rhs_[c].block(b);
      const double* mu = mu_.block(b);
      const double* F = state.F.block(b);
      apply(x, b, r);
      double sum = 0;
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          double diagonal = density(settings, F[a]);
          for (int d = 0; d < D; ++d) {
            const std::ptrdiff_t s = layout.step[d];
            diagonal += factor[d] * (face_mu(mu[a], mu[a + s]) + face_mu(mu[a], mu[a - s]));
          }
          inverse[a] = 1 / diagonal;
          r[a] = f[a] - r[a];
          z[a] = inverse[a] * r[a];
          sum += r[a] * z[a];
        }
      });
      return sum;
    });
    const auto greatest_change = [&] {  // |residual / diagonal|: how far a velocity is still off
      return max_blocks(grid, [&](int b) {
        const double* r = residual_.block(b);
        const double* inverse = inverse_.block(b);
        double greatest = 0;
        for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
          for (int i = 0; i < n; ++i) greatest = std::max(greatest, std::abs(r[o + i] * inverse[o + i]));
        });
        return greatest;
      });
    };
    worst = greatest_change();
    for (int i = 0; i < most_iterations && worst > tolerance * scale; ++i) {
      ++iterations;
      fill_halo(grid, direction_, 1, rules);
      const double dAd = sum_blocks(grid, [&](int b) { return apply(direction_, b, product_.block(b)); });
      if (!(dAd > 0)) break;
      const double alpha = rz / dAd;
      const double rz_next = sum_blocks(grid, [&](int b) {
        double* v = x.block(b);
        double* r = residual_.block(b);
        const double* inverse = inverse_.block(b);
        const double* d = direction_.block(b);
        const double* q = product_.block(b);
        double sum = 0;
        for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
          double row = 0;
#pragma omp simd reduction(+ : row)
          for (int k = 0; k < n; ++k) {
            const std::ptrdiff_t a = o + k;
            v[a] += alpha * d[a];
            r[a] -= alpha * q[a];
            row += r[a] * r[a] * inverse[a];
          }
          sum += row;
        });
        return sum;
      });
      const double keep = rz_next / rz;
      rz = rz_next;
      for_blocks(grid, [&](int b) {
        double* d = direction_.block(b);
        const double* r = residual_.block(b);
        const double* inverse = inverse_.block(b);
        for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int k = 0; k < n; ++k) d[o + k] = keep * d[o + k] + inverse[o + k] * r[o + k];
        });
      });
      worst = greatest_change();
    }
  }
  return iterations;
}

template class Viscosity<2>;
template class Viscosity<3>;

}  // namespace wavy::sharp
