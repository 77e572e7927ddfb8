// Sections: what a plane across an axis shows of a 3-D snapshot.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

namespace wavy {

/// The cells of a snapshot's grid of hexahedra that the plane at `place` across `axis` passes through, as a flat grid
/// of the axes that are left, with their values; boxes of thin walls and openings that it meets come along. Empty where
/// the plane misses the grid. [m]
vtkSmartPointer<vtkUnstructuredGrid> section_of(vtkUnstructuredGrid* body, int axis, double place);

}  // namespace wavy
