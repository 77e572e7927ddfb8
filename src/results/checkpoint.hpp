// Checkpoints: all that a run must know of itself to go on, on the disk.
#pragma once

#include <filesystem>
#include <string>

#include "base/archive.hpp"

namespace wavy {

/// Names of the newest checkpoint in a run folder, and of the one before.
inline const char* const checkpoint_name = "checkpoint.h5";
inline const char* const checkpoint_before_name = "checkpoint.before.h5";

/// Writes a checkpoint into a run folder: beside the newest one, which, when all is on the disk, becomes the one
/// before. The file is HDF5, a dataset per entry, behind a block of 512 bytes that holds its length and checksum.
/// Throws a failure that names the file.
void write_checkpoint(const std::filesystem::path& folder, const Archive& archive);

/// Reads a checkpoint back. Throws an input error where the file is not there, is none, or is damaged.
Archive read_checkpoint(const std::filesystem::path& file);

/// Time of the state that a checkpoint holds [s].
double time_of(Archive& checkpoint);

}  // namespace wavy
