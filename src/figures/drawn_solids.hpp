// Solids as pictures show them: from the solid itself, not from the cells that it cuts.
#pragma once

#include <vtkPolyData.h>
#include <vtkSmartPointer.h>

#include <array>
#include <vector>

#include "figures/picture.hpp"

namespace wavy {

/// Areas (2-D) or surfaces (3-D), and what goes round areas as lines.
struct DrawnSolid {
  vtkSmartPointer<vtkPolyData> body;
  vtkSmartPointer<vtkPolyData> rim;
};

/// The inserts, or all beyond the vessel's wall, in a picture of these bounds on a page.
DrawnSolid solid_area(const SolidShapes& shapes, bool inserts, const std::array<double, 6>& bounds,
                      const PagePlane& page, const Images& images);

/// The same of a body in space: its surface.
DrawnSolid solid_surface(const SolidShapes& shapes, bool inserts, const std::array<double, 6>& bounds,
                         const Images& images);

}  // namespace wavy
