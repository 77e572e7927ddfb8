// Snapshots: all fields at one time as a VTK file (XML, unstructured, compressed) that the usual viewers open.
#pragma once

#include <filesystem>
#include <string>

#include "sharp/model.hpp"

namespace wavy {

/// Writes the true cell values: fraction (of the denser phase), velocity [m/s], pressure and dynamic_pressure [Pa].
/// The file appears under its name only when it is complete.
template <int D>
void write_snapshot(const sharp::Model<D>& model, const std::filesystem::path& file);

}  // namespace wavy
