// Pictures of snapshots: maps of 2-D fields, surfaces of 3-D ones, as PNG, on machines without a display.
#pragma once

#include <filesystem>
#include <string>

#include "results/run_folder.hpp"

namespace wavy {

enum class Quantity { fraction, speed, pressure, dynamic_pressure };

struct PictureOptions {
  Quantity quantity = Quantity::fraction;
  bool cells = false;  ///< draw the edges of the cells
  int width = 1280;    ///< [pixels]
  int height = 800;
  std::string subtitle;  ///< in place of the time
};

/// Draws one snapshot file. Throws an Error when it cannot be read or the picture not written.
void draw_snapshot(const SnapshotFile& snapshot, const std::string& title, const std::array<std::string, 2>& phases,
                   const PictureOptions& options, const std::filesystem::path& png);

}  // namespace wavy
