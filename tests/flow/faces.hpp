// Fields for the tests of what field models share.
#pragma once

#include "mesh/grid.hpp"

namespace wavy {

/// The same value everywhere on the faces, or of all components in the cells.
template <int D>
Faces<D> faces_on(const Grid<D>& grid, double value = 0) {
  Faces<D> faces;
  for (auto& component : faces) component = Cells<D>(grid, value);
  return faces;
}

}  // namespace wavy
