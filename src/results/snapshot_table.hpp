// A snapshot as a table of numbers.
#pragma once

#include <filesystem>

#include "base/table.hpp"

namespace wavy {

/// A row per cell that is kept: its middle, and every field that is known, components apart, in SI units. Of a line's
/// profile what it holds. Throws an input error where the file cannot be read.
Table snapshot_table(const std::filesystem::path& file);

}  // namespace wavy
