// Sections: what a plane shows of a 3-D snapshot.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include "figures/planes.hpp"

namespace wavy {

/// The cells of a snapshot's grid of hexahedra that the plane passes through, as a flat grid on its page, with their
/// values; boxes of thin walls and openings that a plane across an axis meets come along. Empty where the plane misses
/// the grid. [m]
vtkSmartPointer<vtkUnstructuredGrid> section_of(vtkUnstructuredGrid* body, const SectionPlane& plane);

}  // namespace wavy
