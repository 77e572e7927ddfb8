// A model's fields as VTK has them; apart from snapshot.hpp so that few files need VTK.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include "sharp/model.hpp"

namespace wavy {

/// What a snapshot holds.
template <int D>
vtkSmartPointer<vtkUnstructuredGrid> snapshot_data(const sharp::Model<D>& model);

}  // namespace wavy
