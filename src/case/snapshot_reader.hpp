// Snapshots as they are read again, by fills and by pictures.
#pragma once

#include <vtkSmartPointer.h>
#include <vtkUnstructuredGrid.h>

#include <filesystem>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "run/quantities.hpp"

namespace wavy {

/// The line that ends a snapshot: a comment with the checksum of all before it.
std::string snapshot_seal(std::string_view content);

/// Whether to unpack a field of the cells, by its name; all where this is empty.
using FieldChoice = std::function<bool(const std::string&)>;
/// Those of these names.
FieldChoice fields_named(std::vector<std::string> names);

/// Reads a snapshot: squares or cubes with fraction, velocity and what else is known of them. Throws an input error
/// that names the file where it cannot be read or is damaged: a checksum or a size that is wrong, points or values that
/// are not finite, corners that are not there, fractions outside 0 to 1. `wanted`: what is
/// unpacked of the cells' fields, beside the fraction.
vtkSmartPointer<vtkUnstructuredGrid> read_snapshot(const std::filesystem::path& file, const FieldChoice& wanted = {});

/// The quantities that a snapshot holds: those without a phase's name in their order, then the others in that of the
/// file.
std::vector<const VesselQuantity*> quantities_in(vtkUnstructuredGrid* data);

}  // namespace wavy
