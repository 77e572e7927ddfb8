// Snapshots in the open VTKHDF format.
#pragma once

#include <filesystem>

namespace wavy {

/// Writes a snapshot with all its fields as VTKHDF 1.0 (unstructured grid, one piece). Throws an input error where the
/// snapshot cannot be read and a failure where the file cannot be written; nothing is left of it then.
void write_vtkhdf(const std::filesystem::path& snapshot, const std::filesystem::path& file);

}  // namespace wavy
