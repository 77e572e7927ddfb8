// A model's fields as VTK has them; apart from snapshot.hpp so that few files need VTK.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include "run/vessel_model.hpp"

namespace wavy {

/// What a snapshot holds.
template <int D>
vtkSmartPointer<vtkUnstructuredGrid> snapshot_data(const VesselModel<D>& model);

}  // namespace wavy
