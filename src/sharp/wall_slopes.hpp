// How velocities change beside walls that cut cells: what flows along such walls must not lose its profile there.
#pragma once

#include <vector>

#include "flow/transport.hpp"
#include "flow/wall_gradients.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy::sharp {

/// Velocities vary linearly in cells with a wall, and in groups of cells over all of the group, with the gradient that
/// fits the neighbours best (least squares), as far as no face gets a value that is not between theirs (compare
/// Barth & Jespersen, AIAA paper 89-0366 (1989)), or as far beyond: towards the wall nothing bounds it. What passes a
/// face has the value at the middle of its open part.
template <int D>
class WallSlopes {
 public:
  /// All must outlive it.
  WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space, const WallGradients<D>& gradients);

  /// Of cells all of whose surroundings hold one phase; elsewhere the slopes are 0. Reads u(1), F(1), filled.
  void find(const CellVectors<D>& u, const Cells<D>& F);
  /// Whether a cell's velocity is told by these in place of slopes along the axes.
  [[nodiscard]] bool tells(int block, std::ptrdiff_t at) const { return gradients_.tells(block, at); }

  /// Adds to what passes the faces o + lo .. o + hi of a row across an axis by mass what the upwind cell's gradient
  /// says. `C`: volume that passes over that of a whole cell, positive upwards.
  void add(int block, int axis, std::ptrdiff_t o, int lo, int hi, const double* C, const TransportRow<D>& row) const;

 private:
  /// A face with a cell that is told on one side at least. By side, of the lower cell and of the upper one:
  struct Face {
    std::ptrdiff_t face = 0;
    std::array<bool, 2> told{};
    std::array<std::size_t, 2> kept{};
    std::array<Vec<D>, 2> off{};      // from the cell's middle, or its group's, to that of the face's open part [m]
    std::array<double, 2> inverse{};  // 1 / room by which the cell gives
  };
  using Piece = typename WallGradients<D>::Piece;
  void list_faces(const Grid<D>& grid);
  void list_ways(const Layout<D>& layout);
  [[nodiscard]] bool in_one_phase(const Piece& piece, const Cells<D>& F) const;
  [[nodiscard]] typename KeptGradients<D>::Matrix bounded_slopes(std::size_t piece, const CellVectors<D>& u) const;

  const OpenSpace<D>& space_;
  const WallGradients<D>& gradients_;
  KeptGradients<D> slopes_;
  std::vector<std::vector<Vec<D>>> to_faces_;  // by piece: from its middle to those of what is open of its faces [m]
  std::array<std::vector<std::vector<Face>>, D> faces_;  // by axis and block, by face
};

}  // namespace wavy::sharp
