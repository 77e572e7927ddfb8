#include "flow/implicit_diffusion.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

#include "linear/conjugate_gradients.hpp"

namespace wavy {
namespace {

constexpr int most_iterations = 500;

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
ImplicitDiffusion<D>::ImplicitDiffusion(const Grid<D>& grid, const OpenSpace<D>* grouped) : grouped_(grouped) {
  make_room(grid, 0);
}

/// Cells of a group change by the same; their equation stands with the first of them. The preconditioner leaves out
/// the walls' share.
template <int D>
struct ImplicitDiffusion<D>::System {
  static constexpr double sign = 1;
  ImplicitDiffusion<D>& own;
  const Grid<D>& grid;
  const std::vector<Equation>& equations;
  double allowed = 0;
  const std::function<void(CellVectors<D>&)>& fill_changes;
  SumAndGreatest now{};  // of r.z, and |z|

  static std::array<const double*, D> faces(const Equation& equation, int b) {
    std::array<const double*, D> face;
    for (int d = 0; d < D; ++d) face[d] = equation.faces[d]->block(b);
    return face;
  }
  static double& at(Cells<D>& field, const CellPlace& place) { return field.block(place.block)[place.at]; }
  template <class Fn>
  void for_groups_here(Fn&& fn) const {
    if (own.grouped_ != nullptr)
      for_all_groups<D>(grid, *own.grouped_, {}, [&](std::size_t, const auto& group) { fn(group); });
  }
  void sum_in_groups(CellVectors<D>& fields) const {
    for_groups_here([&](const auto& group) {
      for (std::size_t e = 0; e < equations.size(); ++e)
        for (std::size_t k = 1; k < group.size(); ++k)
          at(fields[e], group[0]) += std::exchange(at(fields[e], group[k]), 0.0);
    });
  }

  /// out = operator on v (halo filled); returns v . out of the block.
  double product(const Equation& equation, const double* v, int b, double* out) const {
    const double* rho = equation.mass.block(b);
    const auto face = faces(equation, b);
    const int doubled = equation.doubled;
    double sum = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      double row = 0;
#pragma omp simd reduction(+ : row)
      for (int i = 0; i < n; ++i) {
        const std::ptrdiff_t a = o + i;
        double value = rho[a] * v[a];
        for (int d = 0; d < D; ++d) {
          const std::ptrdiff_t s = grid.layout().step[d];
          const double flux = face[d][a + s] * (v[a + s] - v[a]) - face[d][a] * (v[a] - v[a - s]);
          value -= d == doubled ? 2 * flux : flux;
        }
        out[a] = value;
        row += value * v[a];
      }
      sum += row;
    });
    return sum;
  }

  void begin() {
    for (std::size_t e = 0; e < equations.size(); ++e) find_residual(equations[e], own.residual_[e], own.inverse_[e]);
    sum_in_groups(own.residual_);
    for_groups_here([&](const auto& group) {
      for (std::size_t e = 0; e < equations.size(); ++e)
        for (std::size_t k = 1; k < group.size(); ++k) at(own.inverse_[e], group[0]) += at(own.inverse_[e], group[k]);
    });
    for (std::size_t e = 0; e < equations.size(); ++e)
      for_blocks(grid, [&](int b) {
        double* inverse = own.inverse_[e].block(b);
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) inverse[o + i] = 1 / inverse[o + i];
        });
      });
    now = measured([](std::size_t, int, std::ptrdiff_t, int) {});
  }

  /// r = rhs - A x, and the diagonal.
  void find_residual(const Equation& equation, Cells<D>& residual, Cells<D>& diagonals) const {
    for_blocks(grid, [&](int b) {
      double* r = residual.block(b);
      double* diagonal = diagonals.block(b);
      const double* f = equation.rhs.block(b);
      const double* rho = equation.mass.block(b);
      product(equation, equation.x.block(b), b, r);
      const auto face = faces(equation, b);
      const int doubled = equation.doubled;
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t a = o + i;
          r[a] = f[a] - r[a];
          diagonal[a] = rho[a];
          for (int d = 0; d < D; ++d) {
            const double both = face[d][a] + face[d][a + grid.layout().step[d]];
            diagonal[a] += d == doubled ? 2 * both : both;
          }
        }
      });
    });
  }

  /// r.z and the greatest |z| = |r| / diagonal; update(equation, block, offset, count) brings a row of r up to date
  /// before it is read.
  template <class Update>
  SumAndGreatest measured(Update&& update) const {
    return reduce(grid, [&](int b) {
      SumAndGreatest part;
      for (std::size_t e = 0; e < equations.size(); ++e) {
        const double* inverse = own.inverse_[e].block(b);
        const double* residual = own.residual_[e].block(b);
        const double* weight = equations[e].weight == nullptr ? nullptr : equations[e].weight->block(b);
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
          update(e, b, o, n);
          const SumAndGreatest row = weight == nullptr ? of_row<false>(residual + o, inverse + o, nullptr, n)
                                                       : of_row<true>(residual + o, inverse + o, weight + o, n);
          part.sum += row.sum;
          part.greatest = std::max(part.greatest, row.greatest);
        });
      }
      return part;
    });
  }
  /// By eight partial sums. Plain pointers: compilers gather through those that a lambda holds.
  template <bool weighed>
  static SumAndGreatest of_row(const double* r, const double* inverse, const double* weight, int n) {
    double sum = 0;
    double greatest = 0;
#pragma omp simd simdlen(8) reduction(+ : sum) reduction(max : greatest)
    for (int i = 0; i < n; ++i) {
      const double z = inverse[i] * r[i];
      sum += r[i] * z;
      double size = std::abs(z);
      if constexpr (weighed) size *= weight[i];
      greatest = std::max(greatest, size);
    }
    return {sum, greatest};
  }

  [[nodiscard]] bool more(int) const { return now.greatest > allowed; }
  [[nodiscard]] double precondition() const { return now.sum; }

  void turn(double beta) const {
    for (std::size_t e = 0; e < equations.size(); ++e)
      for_blocks(grid, [&](int b) {
        double* d = own.direction_[e].block(b);
        const double* r = own.residual_[e].block(b);
        const double* inverse = own.inverse_[e].block(b);
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
          for (int i = 0; i < n; ++i) d[o + i] = beta * d[o + i] + inverse[o + i] * r[o + i];
        });
      });
  }

  [[nodiscard]] double apply() const {
    for_groups_here([&](const auto& group) {
      for (std::size_t e = 0; e < equations.size(); ++e)
        for (std::size_t k = 1; k < group.size(); ++k)
          at(own.direction_[e], group[k]) = at(own.direction_[e], group[0]);
    });
    fill_changes(own.direction_);
    double dAd = 0;
    for (std::size_t e = 0; e < equations.size(); ++e)
      dAd += sum_blocks(
          grid, [&](int b) { return product(equations[e], own.direction_[e].block(b), b, own.product_[e].block(b)); });
    sum_in_groups(own.product_);
    return dAd;
  }

  void advance(double alpha) {
    now = measured([&](std::size_t e, int b, std::ptrdiff_t o, int n) {
      double* v = equations[e].x.block(b) + o;
      double* r = own.residual_[e].block(b) + o;
      const double* d = own.direction_[e].block(b) + o;
      const double* q = own.product_[e].block(b) + o;
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        v[i] += alpha * d[i];
        r[i] -= alpha * q[i];
      }
    });
  }
};

template <int D>
void ImplicitDiffusion<D>::make_room(const Grid<D>& grid, std::size_t equation) {
  for (auto* fields : {&residual_, &direction_, &product_, &inverse_})
    if (auto& field = (*fields)[equation]; field.data().empty()) field = Cells<D>(grid);
}

template <int D>
int ImplicitDiffusion<D>::solve(const Grid<D>& grid, const std::vector<Equation>& equations, double allowed,
                                const std::function<void()>& fill,
                                const std::function<void(CellVectors<D>&)>& fill_changes) {
  assert(allowed > 0 && !equations.empty() && equations.size() <= D);
  for (std::size_t e = 0; e < equations.size(); ++e) make_room(grid, e);
  fill();
  System system{*this, grid, equations, allowed, fill_changes};
  system.begin();
  return conjugate_gradients(system, most_iterations);
}

template class ImplicitDiffusion<2>;
template class ImplicitDiffusion<3>;

}  // namespace wavy
