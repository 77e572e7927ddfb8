// The pressure equation of a drop over a layer, solved by our multigrid and by general libraries on the same matrix:
// time per solve with set-up, iterations, and the true residual of each answer.
#include <HYPRE.h>
#include <HYPRE_krylov.h>
#include <HYPRE_parcsr_ls.h>
#include <HYPRE_struct_ls.h>
#include <fmt/format.h>
#include <omp.h>

#include <Eigen/IterativeLinearSolvers>
#include <Eigen/SparseCore>
#include <cmath>
#include <random>
#include <string>

#include "base/stopwatch.hpp"
#include "linear/pressure_solver.hpp"
#include "mesh/cover.hpp"

namespace {

using namespace wavy;
/// Unit box, n cells along each axis: a layer of liquid up to 1/4 and a drop over it; 1/rho on the faces.
template <int D>
struct Problem {
  Grid<D> grid;
  Faces<D> beta;
  Cells<D> rhs;
  double rms = 0;  // of rhs
  Index<D> n{};

  Problem(int cells, double ratio) : grid(Vec<D>{}, ones(), partition<D>(ones(), 1.0 / cells)), rhs(grid) {
    n = grid.cells();
    Cells<D> F(grid);
    Vec<D> middle;
    middle.fill(0.5);
    middle[D - 1] = 0.6;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      F.block(b)[o] = std::min(
          1.0, covered_share<D>(grid, cell, BelowLevel<D>{0.25}) + covered_share<D>(grid, cell, Ball<D>{middle, 0.2}));
    });
    fill_halo(grid, F, 1, all_walls<D>(Mirror::even));
    for (int d = 0; d < D; ++d) {
      beta[d] = Cells<D>(grid);
      for (int b = 0; b < grid.blocks(); ++b)
        for_rows<D>(grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d), [&](std::ptrdiff_t o, int count) {
          for (std::ptrdiff_t at = o; at < o + count; ++at)
            beta[d].block(b)[at] =
                1 / (1 + (ratio - 1) * 0.5 * (F.block(b)[at] + F.block(b)[at - grid.layout().step[d]]));
        });
    }
    std::mt19937 random(7);
    std::uniform_real_distribution<double> noise(-1, 1);
    double sum = 0;
    for_cells_in_order<D>(grid,
                          [&](int b, std::ptrdiff_t o, const Index<D>&) { sum += rhs.block(b)[o] = noise(random); });
    const double mean = sum / static_cast<double>(grid.cell_count());
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
      rhs.block(b)[o] -= mean;
      rms += rhs.block(b)[o] * rhs.block(b)[o];
    });
    rms = std::sqrt(rms / static_cast<double>(grid.cell_count()));
  }
  static Vec<D> ones() {
    Vec<D> v;
    v.fill(1);
    return v;
  }
  /// Coefficient of the face on a side of a cell over h^2; 0 at walls.
  [[nodiscard]] double coefficient(int b, std::ptrdiff_t o, const Index<D>& cell, int axis, int side) const {
    if (side == 0 ? cell[axis] == 0 : cell[axis] == n[axis] - 1) return 0;
    const double h = grid.spacing()[axis];
    return beta[axis].block(b)[o + side * grid.layout().step[axis]] / (h * h);
  }
  [[nodiscard]] int number(const Index<D>& cell) const {
    int result = cell[D - 1];
    for (int d = D - 1; d-- > 0;) result = result * n[d] + cell[d];
    return result;
  }
  /// Root mean square of rhs - div(beta grad p) over that of rhs.
  [[nodiscard]] double residual(Cells<D> p) const {
    fill_halo(grid, p, 1, all_walls<D>(Mirror::even));
    double sum = 0;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      double r = rhs.block(b)[o];
      for (int d = 0; d < D; ++d)
        for (int side = 0; side < 2; ++side)
          r -= coefficient(b, o, cell, d, side) *
               (p.block(b)[o + (side == 0 ? -1 : 1) * grid.layout().step[d]] - p.block(b)[o]);
      sum += r * r;
    });
    return std::sqrt(sum / static_cast<double>(grid.cell_count())) / rms;
  }
  template <class Fn>
  Cells<D> field(Fn&& fn) const {
    Cells<D> p(grid);
    for_cells_in_order<D>(grid,
                          [&](int b, std::ptrdiff_t o, const Index<D>& cell) { p.block(b)[o] = fn(number(cell)); });
    return p;
  }
};

struct Timing {
  double seconds = 0;
  int iterations = 0;
  double residual = 0;
};

constexpr double tolerance = 1e-6;

template <int D>
Timing ours(const Problem<D>& problem) {
  PressureSolver<D> solver(problem.grid);
  Timing best{1e300, 0, 0};
  for (int round = 0; round < 3; ++round) {
    Cells<D> p(problem.grid);
    const Stopwatch watch;
    solver.set_coefficients(problem.grid, problem.beta);
    // Our solver looks at the worst cell, the others at the root mean square; the residuals printed are of the latter.
    constexpr double worst_over_mean = 20;
    const auto report = solver.solve(problem.grid, problem.rhs, p, worst_over_mean * tolerance * problem.rms, 200);
    const double seconds = watch.seconds();
    if (seconds < best.seconds) best = {seconds, report.iterations, problem.residual(p)};
  }
  return best;
}

/// hypre's conjugate gradients with its structured multigrid.
template <int D>
Timing structured(const Problem<D>& problem) {
  std::array<int, D> first{};
  std::array<int, D> last;
  for (int d = 0; d < D; ++d) last[d] = problem.n[d] - 1;
  HYPRE_StructGrid grid = nullptr;
  HYPRE_StructGridCreate(MPI_COMM_WORLD, D, &grid);
  HYPRE_StructGridSetExtents(grid, first.data(), last.data());
  HYPRE_StructGridAssemble(grid);
  HYPRE_StructStencil stencil = nullptr;
  HYPRE_StructStencilCreate(D, D + 1, &stencil);
  for (int e = 0; e <= D; ++e) {
    std::array<int, D> shift{};
    if (e > 0) shift[e - 1] = 1;
    HYPRE_StructStencilSetElement(stencil, e, shift.data());
  }
  std::vector<double> values(static_cast<std::size_t>(problem.grid.cell_count()) * (D + 1));
  std::vector<double> right(static_cast<std::size_t>(problem.grid.cell_count()));
  std::vector<double> found(right.size(), 0.0);
  for_cells_in_order<D>(problem.grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const auto row = static_cast<std::size_t>(problem.number(cell));
    double sum = 0;
    for (int d = 0; d < D; ++d) {
      const double upper = problem.coefficient(b, o, cell, d, 1);
      sum += upper + problem.coefficient(b, o, cell, d, 0);
      values[row * (D + 1) + static_cast<std::size_t>(d) + 1] = -upper;
    }
    values[row * (D + 1)] = sum;
    right[row] = -problem.rhs.block(b)[o];
  });
  std::array<int, D + 1> entries{};
  for (int e = 0; e <= D; ++e) entries[static_cast<std::size_t>(e)] = e;
  Timing best{1e300, 0, 0};
  for (int round = 0; round < 2; ++round) {
    HYPRE_StructMatrix A = nullptr;
    HYPRE_StructVector b = nullptr;
    HYPRE_StructVector x = nullptr;
    HYPRE_StructMatrixCreate(MPI_COMM_WORLD, grid, stencil, &A);
    HYPRE_StructMatrixSetSymmetric(A, 1);
    HYPRE_StructMatrixInitialize(A);
    HYPRE_StructMatrixSetBoxValues(A, first.data(), last.data(), D + 1, entries.data(), values.data());
    HYPRE_StructMatrixAssemble(A);
    std::fill(found.begin(), found.end(), 0.0);
    for (auto* vector : {&b, &x}) {
      HYPRE_StructVectorCreate(MPI_COMM_WORLD, grid, vector);
      HYPRE_StructVectorInitialize(*vector);
      HYPRE_StructVectorSetBoxValues(*vector, first.data(), last.data(), vector == &b ? right.data() : found.data());
      HYPRE_StructVectorAssemble(*vector);
    }
    // Filling the library's own matrix is left out of its time.
    const Stopwatch watch;
    HYPRE_StructSolver solver = nullptr;
    HYPRE_StructSolver multigrid = nullptr;
    HYPRE_StructPCGCreate(MPI_COMM_WORLD, &solver);
    HYPRE_StructPCGSetTol(solver, tolerance);
    HYPRE_StructPCGSetMaxIter(solver, 500);
    HYPRE_StructPCGSetTwoNorm(solver, 1);
    HYPRE_StructPFMGCreate(MPI_COMM_WORLD, &multigrid);
    HYPRE_StructPFMGSetMaxIter(multigrid, 1);
    HYPRE_StructPFMGSetTol(multigrid, 0);
    HYPRE_StructPFMGSetZeroGuess(multigrid);
    HYPRE_StructPFMGSetRelaxType(multigrid, 2);  // red-black Gauss-Seidel, symmetric: its best here
    HYPRE_StructPFMGSetNumPreRelax(multigrid, 1);
    HYPRE_StructPFMGSetNumPostRelax(multigrid, 1);
    HYPRE_StructPCGSetPrecond(solver, HYPRE_StructPFMGSolve, HYPRE_StructPFMGSetup, multigrid);
    HYPRE_StructPCGSetup(solver, A, b, x);
    HYPRE_StructPCGSolve(solver, A, b, x);
    const double seconds = watch.seconds();
    int iterations = 0;
    HYPRE_StructPCGGetNumIterations(solver, &iterations);
    HYPRE_StructVectorGetBoxValues(x, first.data(), last.data(), found.data());
    if (seconds < best.seconds)
      best = {seconds, iterations,
              problem.residual(problem.field([&](int i) { return found[static_cast<std::size_t>(i)]; }))};
    HYPRE_StructPCGDestroy(solver);
    HYPRE_StructPFMGDestroy(multigrid);
    HYPRE_StructMatrixDestroy(A);
    HYPRE_StructVectorDestroy(b);
    HYPRE_StructVectorDestroy(x);
  }
  HYPRE_StructStencilDestroy(stencil);
  HYPRE_StructGridDestroy(grid);
  HYPRE_ClearAllErrors();
  return best;
}

/// hypre's conjugate gradients with algebraic multigrid.
template <int D>
Timing algebraic(const Problem<D>& problem) {
  const auto cells = static_cast<int>(problem.grid.cell_count());
  HYPRE_IJMatrix matrix = nullptr;
  HYPRE_IJMatrixCreate(MPI_COMM_WORLD, 0, cells - 1, 0, cells - 1, &matrix);
  HYPRE_IJMatrixSetObjectType(matrix, HYPRE_PARCSR);
  HYPRE_IJMatrixInitialize(matrix);
  std::vector<double> right(static_cast<std::size_t>(cells));
  std::vector<double> found(right.size(), 0.0);
  std::vector<int> numbers(right.size());
  for_cells_in_order<D>(problem.grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    int row = problem.number(cell);
    std::array<int, 2 * D + 1> columns{};
    std::array<double, 2 * D + 1> entries{};
    int count = 1;
    columns[0] = row;
    for (int d = 0; d < D; ++d)
      for (int side = 0; side < 2; ++side) {
        const double c = problem.coefficient(b, o, cell, d, side);
        if (c == 0) continue;
        Index<D> next = cell;
        next[d] += side == 0 ? -1 : 1;
        columns[static_cast<std::size_t>(count)] = problem.number(next);
        entries[static_cast<std::size_t>(count++)] = -c;
        entries[0] += c;
      }
    HYPRE_IJMatrixSetValues(matrix, 1, &count, &row, columns.data(), entries.data());
    right[static_cast<std::size_t>(row)] = -problem.rhs.block(b)[o];
    numbers[static_cast<std::size_t>(row)] = row;
  });
  HYPRE_IJMatrixAssemble(matrix);
  HYPRE_ParCSRMatrix A = nullptr;
  HYPRE_IJMatrixGetObject(matrix, reinterpret_cast<void**>(&A));
  std::array<HYPRE_IJVector, 2> vectors{};
  std::array<HYPRE_ParVector, 2> parts{};
  for (std::size_t v = 0; v < 2; ++v) {
    HYPRE_IJVectorCreate(MPI_COMM_WORLD, 0, cells - 1, &vectors[v]);
    HYPRE_IJVectorSetObjectType(vectors[v], HYPRE_PARCSR);
    HYPRE_IJVectorInitialize(vectors[v]);
    HYPRE_IJVectorSetValues(vectors[v], cells, numbers.data(), v == 0 ? right.data() : found.data());
    HYPRE_IJVectorAssemble(vectors[v]);
    HYPRE_IJVectorGetObject(vectors[v], reinterpret_cast<void**>(&parts[v]));
  }
  const Stopwatch watch;
  HYPRE_Solver solver = nullptr;
  HYPRE_Solver multigrid = nullptr;
  HYPRE_ParCSRPCGCreate(MPI_COMM_WORLD, &solver);
  HYPRE_PCGSetTol(solver, tolerance);
  HYPRE_PCGSetMaxIter(solver, 500);
  HYPRE_PCGSetTwoNorm(solver, 1);
  HYPRE_BoomerAMGCreate(&multigrid);
  HYPRE_BoomerAMGSetMaxIter(multigrid, 1);
  HYPRE_BoomerAMGSetTol(multigrid, 0);
  HYPRE_BoomerAMGSetCoarsenType(multigrid, 8);
  HYPRE_BoomerAMGSetInterpType(multigrid, 6);
  HYPRE_BoomerAMGSetRelaxType(multigrid, 6);
  HYPRE_BoomerAMGSetStrongThreshold(multigrid, D == 3 ? 0.5 : 0.25);
  HYPRE_PCGSetPrecond(solver, reinterpret_cast<HYPRE_PtrToSolverFcn>(HYPRE_BoomerAMGSolve),
                      reinterpret_cast<HYPRE_PtrToSolverFcn>(HYPRE_BoomerAMGSetup), multigrid);
  HYPRE_ParCSRPCGSetup(solver, A, parts[0], parts[1]);
  HYPRE_ParCSRPCGSolve(solver, A, parts[0], parts[1]);
  Timing timing;
  timing.seconds = watch.seconds();
  HYPRE_PCGGetNumIterations(solver, &timing.iterations);
  HYPRE_IJVectorGetValues(vectors[1], cells, numbers.data(), found.data());
  timing.residual = problem.residual(problem.field([&](int i) { return found[static_cast<std::size_t>(i)]; }));
  HYPRE_BoomerAMGDestroy(multigrid);
  HYPRE_ParCSRPCGDestroy(solver);
  for (auto* vector : vectors) HYPRE_IJVectorDestroy(vector);
  HYPRE_IJMatrixDestroy(matrix);
  HYPRE_ClearAllErrors();
  return timing;
}

/// Eigen's conjugate gradients with incomplete Cholesky.
template <int D>
Timing incomplete_cholesky(const Problem<D>& problem) {
  const auto cells = static_cast<Eigen::Index>(problem.grid.cell_count());
  std::vector<Eigen::Triplet<double>> entries;
  Eigen::VectorXd right(cells);
  for_cells_in_order<D>(problem.grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const int row = problem.number(cell);
    double sum = 0;
    for (int d = 0; d < D; ++d)
      for (int side = 0; side < 2; ++side) {
        const double c = problem.coefficient(b, o, cell, d, side);
        if (c == 0) continue;
        Index<D> next = cell;
        next[d] += side == 0 ? -1 : 1;
        entries.emplace_back(row, problem.number(next), -c);
        sum += c;
      }
    entries.emplace_back(row, row, sum);
    right[row] = -problem.rhs.block(b)[o];
  });
  Eigen::SparseMatrix<double> A(cells, cells);
  A.setFromTriplets(entries.begin(), entries.end());
  const Stopwatch watch;
  Eigen::ConjugateGradient<Eigen::SparseMatrix<double>, Eigen::Lower | Eigen::Upper, Eigen::IncompleteCholesky<double>>
      solver;
  solver.setTolerance(tolerance);
  solver.setMaxIterations(20000);
  solver.compute(A);
  const Eigen::VectorXd found = solver.solve(right);
  Timing timing;
  timing.seconds = watch.seconds();
  timing.iterations = static_cast<int>(solver.iterations());
  timing.residual = problem.residual(problem.field([&](int i) { return found[i]; }));
  return timing;
}

template <int D>
void compare(int cells, bool with_cholesky) {
  const Problem<D> problem(cells, 1000);
  const auto count = static_cast<double>(problem.grid.cell_count());
  const Timing mine = ours(problem);
  const auto line = [&](const std::string& name, const Timing& t) {
    fmt::print("  {:<34} {:>8.0f} ns {:>6} {:>12.1e} {:>8.1f}\n", name, 1e9 * t.seconds / count, t.iterations,
               t.residual, t.seconds / mine.seconds);
    std::fflush(stdout);
  };
  fmt::print("{} cells along each of {} axes {:>14} {:>9} {:>12} {:>8}\n", cells, D, "per cell", "its", "residual",
             "times ours");
  line("multigrid of the program", mine);
  line("hypre, structured multigrid", structured(problem));
  line("hypre, algebraic multigrid", algebraic(problem));
  if (with_cholesky) line("Eigen, incomplete Cholesky", incomplete_cholesky(problem));
}

}  // namespace

int main(int count, char** words) {
  const bool quick = count > 1 && std::string(words[1]) == "--quick";
  omp_set_num_threads(1);
  fmt::print("one core, to 1e-6, density ratio 1000, set-up included\n");
  compare<2>(512, true);
  if (!quick) {
    compare<2>(1024, true);
    compare<3>(128, true);
  }
  fmt::print(
      "iterations of the program's multigrid by size and density ratio\n  cells   ratio 1   ratio 1000   ratio "
      "10000\n");
  for (const int cells : {256, 512, 1024, 2048}) {
    if (quick && cells > 512) break;
    fmt::print("  {:<6}  {:>7}   {:>10}   {:>11}\n", cells, ours(Problem<2>(cells, 1)).iterations,
               ours(Problem<2>(cells, 1000)).iterations, ours(Problem<2>(cells, 10000)).iterations);
  }
  return 0;
}
