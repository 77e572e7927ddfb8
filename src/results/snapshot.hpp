// Snapshots: all fields at one time as a VTK file (XML, unstructured, compressed) that the usual viewers open.
#pragma once

#include <filesystem>
#include <string>

#include "run/vessel_model.hpp"

namespace wavy {

/// Writes the true cell values of all quantities that are kept, in SI units.
/// The file appears under its name only when it is complete.
template <int D>
void write_snapshot(const VesselModel<D>& model, const std::filesystem::path& file);

/// Brings a model of the same case to what a snapshot of a run holds, so that all that can be measured is as it was
/// (see VesselModel::recall). Throws an input error where the file cannot be read or is that of another grid.
template <int D>
void recall_snapshot(const std::filesystem::path& file, const VesselModel<D>& model);

}  // namespace wavy
