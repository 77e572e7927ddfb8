// What diffuses and is held in cells, found implicitly: components of a velocity, or whatever else a fluid carries.
#pragma once

#include <array>
#include <functional>
#include <vector>

#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// mass x - sum_d d_d(face_d d_d x) = rhs, with spacings in `faces`: by conjugate gradients, preconditioned by the
/// diagonal.
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
    double allowed = 0;                             ///< how far x may be off in any cell, times `weight`
    std::function<void(Cells<D>&)> fill;            ///< one layer of the halo of x, as it is behind walls
    std::function<void(Cells<D>&)> fill_direction;  ///< the same of what x is changed by
    const Cells<D>* weight = nullptr;               ///< null: 1
  };
  /// From a first guess in x (cells of the blocks). Returns the iterations.
  int solve(const Grid<D>& grid, const Equation& equation, Cells<D>& x);

 private:
  struct System;
  const OpenSpace<D>* grouped_;
  Cells<D> residual_, direction_, product_, inverse_;
};

}  // namespace wavy
