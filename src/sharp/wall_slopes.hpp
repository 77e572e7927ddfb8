// How velocities change beside walls that cut cells: what flows along such walls must not lose its profile there.
#pragma once

#include <vector>

#include "flow/transport.hpp"
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
  /// The space must outlive it.
  WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space);

  /// Of cells all of whose surroundings hold one phase. Reads u(1), F(1), filled.
  void find(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& F);
  /// Whether a cell's velocity is told by these in place of slopes along the axes.
  [[nodiscard]] bool tells(int block, std::ptrdiff_t at) const { return told_.block(block)[at] != 0; }

  /// Adds to what passes the faces o + lo .. o + hi of a row across an axis by mass what the upwind cell's gradient
  /// says. `C`: volume that passes over that of a whole cell, positive upwards.
  void add(int block, int axis, std::ptrdiff_t o, int lo, int hi, const double* C, const TransportRow<D>& row) const;

 private:
  /// A face of a cell that is told, as seen from it.
  struct Face {
    std::ptrdiff_t face = 0;
    std::ptrdiff_t cell = 0;
    bool above = false;  // the face is on its upper side
    Vec<D> off{};        // from the middle of the cell, or of its group, to that of the face's open part [m]
    double inverse = 0;  // 1 / room by which the cell gives
  };
  /// What goes together: a cell, or a group.
  struct Member {
    CellPlace place;
    Vec<D> middle{};  // of what goes together, from the cell's middle [cells]
  };
  struct Fit;
  void list_faces(const Grid<D>& grid);
  void find_members(const Grid<D>& grid);
  [[nodiscard]] double share_within(const Layout<D>& layout, const std::vector<Member>& members, const Fit& fit,
                                    std::size_t c) const;

  const OpenSpace<D>& space_;
  std::vector<std::vector<Member>> together_;
  CellVectors<D> middle_;  // of what each cell belongs to, from its own [cells]; halo filled
  Field<unsigned char, D> told_;
  std::array<std::vector<std::vector<Face>>, D> faces_;  // by axis and block, by face
  std::array<CellVectors<D>, D> slope_;                  // [component][direction] [1/s]
};

}  // namespace wavy::sharp
