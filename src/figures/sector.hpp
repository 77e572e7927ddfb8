// A wedge between two mirrors, completed to the vessel all round its axis.
#pragma once

#include <vtkDataArray.h>
#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include "figures/planes.hpp"

namespace wavy {

/// Whether a quantity is a vector that turns with what it is of; sizes of swings along the axes, for one, are none.
bool has_direction(vtkDataArray* values);

/// The cells of a lattice of the same widths all round the axis. Each has the value at the place of the wedge that it
/// is an image of, linear between the open cells round that place; vectors are turned and mirrored with it. `open` is
/// the share that is open of the vessel, the second mirror being no wall. Boxes of openings and thin walls get their
/// images.
vtkSmartPointer<vtkUnstructuredGrid> completed(vtkUnstructuredGrid* wedge, const Sector& sector);

}  // namespace wavy
