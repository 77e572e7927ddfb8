// Snapshots as they are read again, by fills and by pictures.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "run/quantities.hpp"

namespace wavy {

/// The line that ends a snapshot: a comment with the checksum of all before it.
std::string snapshot_seal(std::string_view content);

/// Reads a snapshot: squares or cubes with fraction, velocity and what else is known of them. Throws an input error
/// that names the file where it cannot be read or is damaged: a checksum or a size that is wrong, points or values that
/// are not finite, corners that are not there, fractions outside 0 to 1. `fields`: of those of the cells only these are
/// unpacked, beside the fraction; all where it is empty.
vtkSmartPointer<vtkUnstructuredGrid> read_snapshot(const std::filesystem::path& file,
                                                   const std::vector<std::string>& fields = {});

/// The quantities that a snapshot holds: those without a phase's name in their order, then the others in that of the
/// file.
std::vector<const VesselQuantity*> quantities_in(vtkUnstructuredGrid* data);

}  // namespace wavy
