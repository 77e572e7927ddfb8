// The interface of a snapshot as a shape for other programs.
#pragma once

#include <filesystem>
#include <string>

#include "base/table.hpp"

namespace wavy {

/// The surface between the phases of a 3-D snapshot, with its images at mirrors, as triangles [m] in binary STL; the
/// denser phase lies behind them. Throws an input error where the snapshot cannot be read or is flat.
std::string interface_stl(const std::filesystem::path& snapshot);

/// The line between the phases of a 2-D snapshot: number of the line, from 1, and its points [m] one after the other.
/// Throws an input error where the snapshot cannot be read or is not flat.
Table interface_lines(const std::filesystem::path& snapshot);

}  // namespace wavy
