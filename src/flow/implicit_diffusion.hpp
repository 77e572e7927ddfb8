// What diffuses and is held in cells, found implicitly: components of a velocity, or whatever else a fluid carries.
#pragma once

#include <array>
#include <functional>
#include <vector>

#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// mass x - sum_d d_d(face_d d_d x) = rhs, with spacings in `faces`: by conjugate gradients, preconditioned by the
/// diagonal; of one unknown, or of several that each other's halos tie together.
template <int D>
class ImplicitDiffusion {
 public:
  /// Cells of the space's groups act as one: their equations count as one. Null: each by itself. It must outlive this.
  ImplicitDiffusion(const Grid<D>& grid, const OpenSpace<D>* grouped);

  struct Equation {
    const Cells<D>& mass;                  ///< above 0 in all cells
    std::array<const Cells<D>*, D> faces;  ///< what passes a face per difference of its cells
    int doubled = -1;                      ///< axis along which twice as much does; -1: none
    const Cells<D>& rhs;
    Cells<D>& x;                       ///< cells of the blocks: a first guess, then the solution
    const Cells<D>* weight = nullptr;  ///< of errors; null: 1
  };
  /// Until no x is off by more than `allowed` in any cell, times its weight. `fill` fills one layer of the halo of all
  /// x, as it is behind walls, `fill_changes` the same of what they are changed by, which stands there in the order of
  /// the equations. Returns the iterations.
  int solve(const Grid<D>& grid, const std::vector<Equation>& equations, double allowed,
            const std::function<void()>& fill, const std::function<void(CellVectors<D>&)>& fill_changes);

 private:
  struct System;
  void make_room(const Grid<D>& grid, std::size_t equation);
  const OpenSpace<D>* grouped_;
  CellVectors<D> residual_, direction_, product_, inverse_;  // by equation; empty where there were none
};

}  // namespace wavy
