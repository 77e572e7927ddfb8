// Conjugate gradients with one geometric multigrid cycle as preconditioner for  div(beta grad p) = rhs.
//
// The uniform part of a forest is solved as one flat array, whose rows the threads share. Cells are stored by colour
// (as on a chess-board): all neighbours of a red cell are black, so that a relaxation sweep runs over unit strides and
// vectorises. Every face lies between one red and one black cell, so coefficients are stored with the red cell alone.
#pragma once

#include <memory>
#include <vector>

#include "mesh/grid.hpp"

namespace wavy {

struct SolveReport {
  int iterations = 0;
  double residual = 0;  ///< greatest |rhs - div(beta grad p)| of any cell, [unit of rhs]
  bool converged = false;
};

/// Solves  div(beta grad p) = rhs  with no flow through the outer sides, other than what rhs contains; along periodic
/// axes of the grid it goes on at the other end. The solution is known up to a constant (one connected vessel without a
/// pressure opening): the mean of rhs is removed, and p keeps the mean of its first guess. Cells that are closed on all
/// sides take no part.
///
/// Briggs, Henson & McCormick, A Multigrid Tutorial, ch. 4, 8; Tatebe, Proc. 6th Copper Mountain Conf. (1993), on
/// multigrid as preconditioner. Coarse coefficients are the rediscretised means of the fine ones, and the transfers
/// piecewise constant, which holds the iterations at high ratios of beta.
template <int D>
class PressureSolver {
 public:
  explicit PressureSolver(const Grid<D>& grid);
  ~PressureSolver();
  PressureSolver(const PressureSolver&) = delete;
  PressureSolver& operator=(const PressureSolver&) = delete;
  PressureSolver(PressureSolver&&) noexcept;
  PressureSolver& operator=(PressureSolver&&) noexcept;

  /// beta: on the low face of every cell; faces on the outer walls, not those of periodic axes, are taken as closed.
  /// With `open_boundary` they count, with p = 0 on the faces themselves: the solution is then known without a constant
  /// (at least one of them must not be 0). `left_out`: 1 in cells that take no part and where p = 0, else 0; the halo
  /// must be filled. With some of those the solution is known without a constant too.
  void set_coefficients(const Grid<D>& grid, const Faces<D>& beta, bool open_boundary = false,
                        const Cells<D>* left_out = nullptr);

  /// p: first guess in, solution out (cells of the blocks, no halo). Stops at greatest residual <= tolerance
  /// and this `reduction` of that of the first guess, but not before one iteration.
  SolveReport solve(const Grid<D>& grid, const Cells<D>& rhs, Cells<D>& p, double tolerance, int most_iterations,
                    double reduction = 0.1);

 private:
  struct Impl;
  struct System;
  std::unique_ptr<Impl> impl_;
};

}  // namespace wavy
