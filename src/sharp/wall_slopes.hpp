// How velocities change beside walls that cut cells: what flows along such walls must not lose its profile there.
#pragma once

#include <vector>

#include "flow/transport.hpp"
#include "flow/walls.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "mesh/sight.hpp"

namespace wavy::sharp {

/// Velocities vary linearly in cells with a wall, and in groups of cells over all of the group, with the gradient that
/// fits the neighbours best (least squares), as far as no face gets a value that is not between theirs (compare
/// Barth & Jespersen, AIAA paper 89-0366 (1989)), or as far beyond: towards the wall nothing bounds it. What passes a
/// face has the value at the middle of its open part.
template <int D>
class WallSlopes {
 public:
  /// The space must outlive it. Behind sides of the grid that hold the fluid nothing is known.
  WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds);

  /// Of cells all of whose surroundings hold one phase; elsewhere the slopes are 0. Reads u(1), F(1), filled.
  void find(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& F);
  /// Whether a cell's velocity is told by these in place of slopes along the axes.
  [[nodiscard]] bool tells(int block, std::ptrdiff_t at) const { return told_.block(block)[at] != 0; }

  /// Adds to what passes the faces o + lo .. o + hi of a row across an axis by mass what the upwind cell's gradient
  /// says. `C`: volume that passes over that of a whole cell, positive upwards.
  void add(int block, int axis, std::ptrdiff_t o, int lo, int hi, const double* C, const TransportRow<D>& row) const;

 private:
  /// A face with a cell that is told on one side at least. By side, of the lower cell and of the upper one:
  struct Face {
    std::ptrdiff_t face = 0;
    std::array<bool, 2> told{};
    std::array<Vec<D>, 2> off{};      // from the cell's middle, or its group's, to that of the face's open part [m]
    std::array<double, 2> inverse{};  // 1 / room by which the cell gives
  };
  /// A cell in sight beside some that go together, or one of these.
  struct Neighbour {
    CellPlace place;
    Vec<D> way{};       // from their middle to its own [m]
    double square = 0;  // of the way [cells^2]
  };
  /// What goes together: a cell, or a group.
  struct Piece {
    std::vector<CellPlace> cells;
    std::vector<Neighbour> neighbours;
    std::vector<Vec<D>> to_faces;         // from its middle to those of what is open of its cells' faces [m]
    bool is_alone = false;                // nothing is known beside it
    std::array<Vec<D>, D> elimination{};  // of the matrix of least squares by Gauss: factors below the diagonal
  };
  void find_known(const Grid<D>& grid, const WallKinds<D>& kinds);
  void find_pieces(const Grid<D>& grid);
  void list_faces(const Grid<D>& grid);
  void prepare(const Grid<D>& grid, Piece& piece) const;
  [[nodiscard]] bool in_one_phase(const Piece& piece, const Cells<D>& F) const;
  [[nodiscard]] std::array<Vec<D>, D> slopes_of(const Piece& piece, const CellVectors<D>& u) const;

  const OpenSpace<D>& space_;
  Sight<D> sight_;
  Field<unsigned char, D> known_;  // 1 where there is fluid; halo filled
  std::vector<Piece> pieces_;
  CellVectors<D> middle_;  // of what each cell belongs to, from its own [cells]; halo filled
  Field<unsigned char, D> told_;
  std::array<std::vector<std::vector<Face>>, D> faces_;  // by axis and block, by face
  std::array<CellVectors<D>, D> slope_;                  // [component][direction] [1/s]
};

}  // namespace wavy::sharp
