#include "linear/pressure_solver.hpp"

#include <atomic>
#include <cassert>
#include <cmath>
#include <limits>

#include "linear/conjugate_gradients.hpp"
#include "linear/multigrid.hpp"

namespace wavy {

using namespace multigrid;

namespace {

/// What a pass over the cells adds up: three sums and a greatest value.
struct RowSums {
  double a = 0;
  double b = 0;
  double c = 0;
  double greatest = 0;
};

}  // namespace

template <int D>
struct PressureSolver<D>::Impl {
  std::vector<Level<D>> levels;
  FaceCoefficients<double, D> coefficients;   // of the finest level, integrated
  ColourArray<double> dirichlet_coefficient;  // towards cells left out; empty where there are none
  bool singular = true;
  ColourArray<double> p, r, direction, product;
  std::vector<RowSums> row_parts;
  double volume = 1;

  explicit Impl(const Grid<D>& grid) {
    volume = grid.cell_volume();
    Level<D> finest;
    finest.layout = ColourLayout<D>(grid.cells());
    finest.seams = {grid.periodic(), grid.turn()};
    for (int d = 0; d < D; ++d)
      finest.width[static_cast<std::size_t>(d)].assign(static_cast<std::size_t>(grid.cells()[d]), grid.spacing()[d]);
    levels.push_back(std::move(finest));
    while (true) {
      const Level<D>& fine = levels.back();
      Index<D> n = fine.layout.n;
      // Only axes along which the cells are not yet much longer than along the others are halved.
      // The cell of a ring of one, or of a quarter, would be its own neighbour; and rows that are turned go together in
      // pairs.
      const auto halves = [&](int d) {
        if (fine.seams.turn == Turn::half && d == 1) return n[d] > 2 && n[d] % 2 == 0;
        const bool ring = fine.seams.periodic[static_cast<std::size_t>(d)];
        return n[d] > (ring || (fine.seams.turn == Turn::quarter && d < 2) ? 2 : 1);
      };
      double shortest = 1e300;
      for (int d = 0; d < D; ++d)
        if (halves(d)) shortest = std::min(shortest, fine.width[static_cast<std::size_t>(d)].front());
      Level<D> coarse;
      for (int d = 0; d < D; ++d) {
        const auto& w = fine.width[static_cast<std::size_t>(d)];
        auto& wc = coarse.width[static_cast<std::size_t>(d)];
        if (halves(d) && w.front() < 1.9 * shortest) {
          for (std::size_t i = 0; i < w.size(); i += 2) wc.push_back(w[i] + (i + 1 < w.size() ? w[i + 1] : 0.0));
          n[d] = static_cast<int>(wc.size());
        } else {
          wc = w;
        }
      }
      if (n == fine.layout.n) break;
      coarse.layout = ColourLayout<D>(n);
      coarse.seams = fine.seams;
      coarse.sweeps = std::min(8, 2 * fine.sweeps);
      levels.push_back(std::move(coarse));
    }
    for (auto& level : levels) {
      level.coefficients.resize(level.layout.size);
      level.inverse_diagonal.resize(level.layout.size);
      level.x.resize(level.layout.size);
      level.rhs.resize(level.layout.size);
    }
    const std::size_t size = levels.front().layout.size;
    coefficients.resize(size);
    for (auto* array : {&p, &r, &direction, &product}) array->resize(size);
    row_parts.resize(static_cast<std::size_t>(levels.front().layout.row_count()));
  }

  /// fn(block, row offset, row length, flat row j, k, first i) for all rows of all blocks.
  template <class Fn>
  void for_block_rows(const Grid<D>& grid, Fn&& fn) const {
    for_blocks(grid, [&](int b) {
      const Index<D> begin = grid.geometry(b).start;
      int j = 0;
      int k = 0;
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        int K = 0;
        if constexpr (D == 3) K = begin[2] + k;
        fn(b, o, n, begin[1] + j, K, begin[0]);
        if (++j == grid.layout().cells[1]) {
          j = 0;
          ++k;
        }
      });
    });
  }

  template <class Field>
  void gather(const Grid<D>& grid, const Field& field, ColourArray<double>& flat, double factor) const {
    const auto& layout = levels.front().layout;
    for_block_rows(grid, [&](int b, std::ptrdiff_t o, int n, int j, int k, int i0) {
      const double* source = field.block(b) + o;
      const std::ptrdiff_t start = layout.start(j, k);
      for (int colour = 0; colour < 2; ++colour) {
        double* target = flat.colour[static_cast<std::size_t>(colour)].data() + start;
        for (int i = (layout.parity(colour, j, k) + i0) & 1; i < n; i += 2) target[(i0 + i) / 2] = factor * source[i];
      }
    });
  }

  void scatter(const Grid<D>& grid, const ColourArray<double>& flat, Cells<D>& field) const {
    const auto& layout = levels.front().layout;
    for_block_rows(grid, [&](int b, std::ptrdiff_t o, int n, int j, int k, int i0) {
      double* target = field.block(b) + o;
      const std::ptrdiff_t start = layout.start(j, k);
      for (int colour = 0; colour < 2; ++colour) {
        const double* source = flat.colour[static_cast<std::size_t>(colour)].data() + start;
        for (int i = (layout.parity(colour, j, k) + i0) & 1; i < n; i += 2) target[i] = source[(i0 + i) / 2];
      }
    });
  }

  /// The pull of cells left out on the cells beside them. Returns whether there is any.
  bool set_pull(const Grid<D>& grid, const Faces<D>& beta, const Cells<D>& left_out) {
    const auto& layout = levels.front().layout;
    if (dirichlet_coefficient.colour[0].empty()) {
      dirichlet_coefficient.resize(layout.size);
      levels.front().dirichlet_coefficient.resize(layout.size);
    }
    const auto& step = grid.layout().step;
    std::atomic<bool> pulls = false;
    for_block_rows(grid, [&](int b, std::ptrdiff_t o, int n, int j, int k, int i0) {
      const std::ptrdiff_t start = layout.start(j, k);
      const double* out = left_out.block(b) + o;
      bool here = false;
      for (int i = 0; i < n; ++i) {
        double sum = 0;
        for (int d = 0; d < D && out[i] == 0; ++d) {
          const double scale = volume / (grid.spacing()[d] * grid.spacing()[d]);
          const double* face = beta[static_cast<std::size_t>(d)].block(b) + o + i;
          sum += scale * (out[i - step[d]] * face[0] + out[i + step[d]] * face[step[d]]);
        }
        const auto colour = static_cast<std::size_t>((i0 + i + j + k) & 1);
        const auto at = static_cast<std::size_t>(start + (i0 + i) / 2);
        dirichlet_coefficient.colour[colour][at] = sum;
        levels.front().dirichlet_coefficient.colour[colour][at] = static_cast<float>(sum);
        here = here || sum > 0;
      }
      if (here) pulls.store(true, std::memory_order_relaxed);
    });
    return pulls;
  }

  /// Sums over rows in their order, whatever thread worked on which row.
  template <class Fn>
  RowSums reduce(Fn&& fn) {
    const auto& layout = levels.front().layout;
    for_live_rows<D>(levels.front(), [&](int row, int j, int k) {
      RowSums part{};
      for (int colour = 0; colour < 2; ++colour) {
        const int first = layout.parity(colour, j, k);
        const auto [begin, end] = levels.front().span(row, first);
        fn(colour, layout.start(j, k) + begin, first, end - begin, part);
      }
      row_parts[static_cast<std::size_t>(row)] = part;
    });
    RowSums total{};
    for (std::size_t row = 0; row < row_parts.size(); ++row) {
      if (const auto [lo, hi] = levels.front().live[row]; lo >= hi) continue;
      const RowSums& part = row_parts[row];
      total.a += part.a;
      total.b += part.b;
      total.c += part.c;
      total.greatest = std::max(total.greatest, part.greatest);
    }
    return total;
  }

  /// Values beyond seams.
  void close_seams(ColourArray<double>& x) const {
    const auto& level = levels.front();
    for (int colour = 0; colour < 2 && level.seams.any(); ++colour)
      wavy::close_seams<double, D>(level.layout, level.seams, colour, x);
  }

  /// out = sum c (x_neighbour - x) on one row of one colour.
  void apply_row(const ColourArray<double>& x, int colour, std::ptrdiff_t start, int first, int count,
                 double* out) const {
    const auto& layout = levels.front().layout;
    const RowCoefficients<double, D> c(coefficients, layout, colour, start, first);
    const auto at = neighbour_offsets<D>(layout, start, first);
    const double* own = x.colour[static_cast<std::size_t>(colour)].data() + start;
    const double* other = x.colour[static_cast<std::size_t>(1 - colour)].data();
#pragma omp simd
    for (int m = 0; m < count; ++m) {
      double sum = 0;
      for (int f = 0; f < 2 * D; ++f) sum += c.face[f][m] * (other[at[f] + m] - own[m]);
      out[m] = sum;
    }
    if (const double* to_zero = row_of(dirichlet_coefficient, colour, start))
      for (int m = 0; m < count; ++m) out[m] -= to_zero[m] * own[m];
  }

  void cycle() {
    const std::size_t last = levels.size() - 1;
    for (std::size_t l = 0; l < last; ++l) {
      for (int s = 0; s < levels[l].sweeps; ++s) {
        relax(levels[l], 0, s == 0);
        relax(levels[l], 1, false);
      }
      restrict_residual(levels[l], levels[l + 1]);
    }
    for (int s = 0; s < levels[last].sweeps; ++s) {
      relax(levels[last], 0, s == 0);
      relax(levels[last], 1, false);
    }
    for (int s = 0; s < levels[last].sweeps; ++s) {
      relax(levels[last], 1, false);
      relax(levels[last], 0, false);
    }
    for (std::size_t l = last; l-- > 0;) {
      prolong(levels[l + 1], levels[l]);
      for (int s = 0; s < levels[l].sweeps; ++s) {
        relax(levels[l], 1, false);
        relax(levels[l], 0, false);
      }
    }
  }
};

template <int D>
PressureSolver<D>::PressureSolver(const Grid<D>& grid) : impl_(std::make_unique<Impl>(grid)) {}
template <int D>
PressureSolver<D>::~PressureSolver() = default;
template <int D>
PressureSolver<D>::PressureSolver(PressureSolver&&) noexcept = default;
template <int D>
PressureSolver<D>& PressureSolver<D>::operator=(PressureSolver&&) noexcept = default;

template <int D>
void PressureSolver<D>::set_coefficients(const Grid<D>& grid, const Faces<D>& beta, bool open_boundary,
                                         const Cells<D>* left_out) {
  auto& impl = *impl_;
  const double behind_boundary = open_boundary ? 2.0 : 0.0;  // the given pressure is half a cell away
  Level<D>& finest = impl.levels.front();
  const auto& layout = finest.layout;
  const auto& step = grid.layout().step;
  impl.for_block_rows(grid, [&](int b, std::ptrdiff_t o, int n, int j, int k, int i0) {
    const std::ptrdiff_t start = layout.start(j, k);
    const int shift = (layout.parity(0, j, k) + i0) & 1;
    const double* out_of = left_out == nullptr ? nullptr : left_out->block(b) + o;
    for (int d = 0; d < D; ++d) {
      const double scale = impl.volume / (grid.spacing()[d] * grid.spacing()[d]);
      const double* source = beta[static_cast<std::size_t>(d)].block(b) + o;
      for (int side = 0; side < 2; ++side) {
        const bool seam = finest.seams.at(d, side);
        const double beyond_boundary = seam ? 1.0 : behind_boundary;
        auto& exact = impl.coefficients.red[static_cast<std::size_t>(2 * d + side)];
        auto& rounded = finest.coefficients.red[static_cast<std::size_t>(2 * d + side)];
        const bool boundary_row = d == 1 ? (side == 0 ? j == 0 : j == layout.n[1] - 1)
                                         : d == 2 && (side == 0 ? k == 0 : k == layout.n[D - 1] - 1);
        for (int i = shift; i < n; i += 2) {
          const bool boundary = d == 0 ? (side == 0 ? i0 + i == 0 : i0 + i == layout.n[0] - 1) : boundary_row;
          double value = (boundary ? beyond_boundary : 1.0) * scale * source[i + side * step[d]];
          if (out_of != nullptr &&
              (out_of[i] != 0 || ((!boundary || seam) && out_of[i + (2 * side - 1) * step[d]] != 0)))
            value = 0;
          const auto at = static_cast<std::size_t>(start + (i0 + i) / 2);
          exact[at] = value;
          rounded[at] = static_cast<float>(value);
        }
        if (!open_boundary && !seam) continue;
        // Black cells on the boundary look for their coefficient with the red place beyond it.
        auto& exact_beyond = impl.coefficients.red[static_cast<std::size_t>(2 * d + 1 - side)];
        auto& rounded_beyond = finest.coefficients.red[static_cast<std::size_t>(2 * d + 1 - side)];
        const int out = side == 0 ? -1 : 1;
        const std::ptrdiff_t row = d == 1 ? layout.start(j + out, k) : d == 2 ? layout.start(j, k + out) : start;
        for (int i = 1 - shift; i < n; i += 2) {
          const bool boundary = d == 0 ? (side == 0 ? i0 + i == 0 : i0 + i == layout.n[0] - 1) : boundary_row;
          if (!boundary) continue;
          const bool closed =
              out_of != nullptr && (out_of[i] != 0 || (seam && out_of[i + (2 * side - 1) * step[d]] != 0));
          const double value = closed ? 0.0 : beyond_boundary * scale * source[i + side * step[d]];
          const auto at = static_cast<std::size_t>(row + ((i0 + i + (d == 0 ? out : 0)) >> 1));
          exact_beyond[at] = value;
          rounded_beyond[at] = static_cast<float>(value);
        }
      }
    }
  });
  const bool pulls = left_out != nullptr && impl.set_pull(grid, beta, *left_out);
  impl.singular = !open_boundary && !pulls;  // nothing need be left out, or what is may be apart from all the rest
  set_inverse_diagonal(finest);
  for (std::size_t l = 0; l + 1 < impl.levels.size(); ++l) {
    if (left_out != nullptr) coarsen_pull(impl.levels[l], impl.levels[l + 1]);
    coarsen_coefficients(impl.levels[l], impl.levels[l + 1], open_boundary);
  }
}

/// The finest level's equations, one solve long.
template <int D>
struct PressureSolver<D>::System {
  static constexpr double sign = -1;  // of the operator
  Impl& impl;
  Level<D>& finest = impl.levels.front();
  double target = 0;    // residual at which to stop
  double cells = 1;     // that take part
  double z_mean = 0;    // of the preconditioned residual, where the system is singular
  double residual = 0;  // greatest
  double best = 0;
  int idle = 0;  // iterations without much gain

  /// r = rhs - A p, with its mean removed: a closed vessel has no solution otherwise. Returns the greatest |p| times
  /// the diagonal.
  double begin() {
    impl.close_seams(impl.p);
    const auto total = impl.reduce([&](int colour, std::ptrdiff_t start, int first, int count, RowSums& part) {
      const auto c = static_cast<std::size_t>(colour);
      double* product = impl.product.colour[c].data() + start;
      double* r = impl.r.colour[c].data() + start;
      const double* guess = impl.p.colour[c].data() + start;
      const float* inverse = finest.inverse_diagonal.colour[c].data() + start;
      impl.apply_row(impl.p, colour, start, first, count, product);
      for (int m = 0; m < count; ++m) {
        const bool closed = inverse[m] <= 0;  // on all sides: no part of the problem
        r[m] = closed ? 0.0 : r[m] - product[m];
        part.a += r[m];
        part.b += closed ? 0.0 : 1.0;
        const double size = closed ? 0.0 : std::abs(guess[m]) / static_cast<double>(inverse[m]);
        part.greatest = std::max(part.greatest, size);
      }
    });
    cells = std::max(1.0, total.b);
    const double mean = impl.singular ? total.a / cells : 0.0;
    // Each colour on a row: residual into the preconditioner's right-hand side, and its greatest value.
    const auto largest = impl.reduce([&](int colour, std::ptrdiff_t start, int, int count, RowSums& part) {
      const auto c = static_cast<std::size_t>(colour);
      double* r = impl.r.colour[c].data() + start;
      float* f = finest.rhs.colour[c].data() + start;
      const float* inverse = finest.inverse_diagonal.colour[c].data() + start;
      for (int m = 0; m < count; ++m) {
        r[m] -= inverse[m] > 0 ? mean : 0.0;
        part.greatest = std::max(part.greatest, std::abs(r[m]));
        f[m] = static_cast<float>(r[m]);
      }
    });
    best = residual = largest.greatest / impl.volume;
    return total.greatest;
  }

  [[nodiscard]] bool more(int iterations) const {
    constexpr int most_idle = 12;  // round-off is reached
    return (residual > target || iterations == 0) && idle < most_idle;
  }

  double precondition() {
    impl.cycle();
    const auto sums = impl.reduce([&](int colour, std::ptrdiff_t start, int, int count, RowSums& part) {
      const auto c = static_cast<std::size_t>(colour);
      const double* r = impl.r.colour[c].data() + start;
      const float* z = finest.x.colour[c].data() + start;
      double product = 0;
      double sum_z = 0;
      double sum_r = 0;
#pragma omp simd reduction(+ : product, sum_z, sum_r)
      for (int m = 0; m < count; ++m) {
        product += r[m] * static_cast<double>(z[m]);
        sum_z += static_cast<double>(z[m]);
        sum_r += r[m];
      }
      part.a += product;
      part.b += sum_z;
      part.c += sum_r;
    });
    // z less its mean: a constant changes nothing but would grow in p, fed by the round-off in the sum of r.
    z_mean = impl.singular ? sums.b / cells : 0.0;
    return sums.a - z_mean * sums.c;
  }

  void turn(double beta) {
    for_live_rows<D>(finest, [&](int row, int j, int k) {
      for (std::size_t c = 0; c < 2; ++c) {
        const auto [begin, end] = finest.span(row, finest.layout.parity(static_cast<int>(c), j, k));
        const std::ptrdiff_t start = finest.layout.start(j, k) + begin;
        double* d = impl.direction.colour[c].data() + start;
        const float* z = finest.x.colour[c].data() + start;
        const float* inverse = finest.inverse_diagonal.colour[c].data() + start;
        for (int m = 0; m < end - begin; ++m)
          d[m] = beta * d[m] + (inverse[m] > 0 ? static_cast<double>(z[m]) - z_mean : 0.0);
      }
    });
    impl.close_seams(impl.direction);
  }

  double apply() {
    return impl
        .reduce([&](int colour, std::ptrdiff_t start, int first, int count, RowSums& part) {
          const auto c = static_cast<std::size_t>(colour);
          double* product = impl.product.colour[c].data() + start;
          const double* d = impl.direction.colour[c].data() + start;
          impl.apply_row(impl.direction, colour, start, first, count, product);
          double sum = 0;
#pragma omp simd reduction(+ : sum)
          for (int m = 0; m < count; ++m) sum += d[m] * product[m];
          part.a += sum;
        })
        .a;
  }

  void advance(double alpha) {
    const auto largest = impl.reduce([&](int colour, std::ptrdiff_t start, int, int count, RowSums& part) {
      const auto c = static_cast<std::size_t>(colour);
      double* x = impl.p.colour[c].data() + start;
      double* r = impl.r.colour[c].data() + start;
      float* f = finest.rhs.colour[c].data() + start;
      const double* d = impl.direction.colour[c].data() + start;
      const double* product = impl.product.colour[c].data() + start;
      double greatest = 0;
#pragma omp simd reduction(max : greatest)
      for (int m = 0; m < count; ++m) {
        x[m] += alpha * d[m];
        r[m] -= alpha * product[m];
        greatest = std::max(greatest, std::abs(r[m]));
        f[m] = static_cast<float>(r[m]);
      }
      part.greatest = std::max(part.greatest, greatest);
    });
    residual = largest.greatest / impl.volume;
    if (residual < 0.5 * best) {
      best = residual;
      idle = 0;
    } else {
      ++idle;
    }
  }
};

template <int D>
SolveReport PressureSolver<D>::solve(const Grid<D>& grid, const Cells<D>& rhs, Cells<D>& p, double tolerance,
                                     int most_iterations, double reduction) {
  assert(tolerance > 0 && most_iterations > 0);
  auto& impl = *impl_;
  impl.gather(grid, p, impl.p, 1.0);
  impl.gather(grid, rhs, impl.r, impl.volume);
  System system{impl};
  const double size = system.begin();
  // What is left falls within the tolerance too: a liquid at rest would otherwise drift away in it. Below the round-off
  // of the products in A p there is nothing to find.
  constexpr double epsilon = std::numeric_limits<double>::epsilon();
  const double floor = epsilon * size / impl.volume;
  constexpr double safely = 100;  // above round-off
  system.target = std::max(safely * floor, std::min(tolerance, reduction * system.residual));
  SolveReport report;
  report.iterations = conjugate_gradients(system, most_iterations);
  report.residual = system.residual;
  report.converged = system.residual <= std::max(tolerance, floor);
  impl.scatter(grid, impl.p, p);
  return report;
}

template class PressureSolver<2>;
template class PressureSolver<3>;

}  // namespace wavy
