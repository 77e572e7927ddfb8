// Volume flow through the faces, free of divergence to round-off.
#pragma once

#include <vector>

#include "flow/openings.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// Hands what the pressure's tolerance has left of divergence on from cell to cell, along a tree of open faces whose
/// roots are the cells beside given pressures, out of the vessel; or, where no pressure is given, to one cell, in which
/// round-off alone is left.
template <int D>
class DivergenceTree {
 public:
  DivergenceTree(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary);

  /// `source`: what the divergence is to be, over the volume of a whole cell [1/s]; null for 0. Faces between blocks
  /// are changed in both.
  void apply(const Grid<D>& grid, Faces<D>& face_u, const Cells<D>* source = nullptr) const;

 private:
  /// A cell, and the face through which it hands on.
  struct Link {
    int block = 0;
    std::ptrdiff_t at = 0;
    int axis = -1;            ///< -1: the root of a closed vessel
    bool upwards = false;     ///< the face is the cell's upper one
    int twin = -1;            ///< block that has the face too, or -1
    std::ptrdiff_t face = 0;  ///< in the cell's block
    int twin_axis = 0;
    std::ptrdiff_t twin_face = 0;
    bool turned = false;  ///< the twin sees the face turned
  };
  std::vector<Link> from_leaves_;
};

}  // namespace wavy
