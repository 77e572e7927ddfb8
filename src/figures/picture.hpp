// Pictures of snapshots: maps of 2-D fields, surfaces of 3-D ones, as PNG, on machines without a display.
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>

#include "results/run_folder.hpp"
#include "run/quantities.hpp"

namespace wavy {

/// A plane across an axis.
struct SectionPlane {
  int axis = 1;
  double place = 0;  ///< [m]
};

/// The solids of a case as signed distances, negative inside [m]; the third coordinate does not count in 2-D.
struct SolidShapes {
  std::function<double(const std::array<double, 3>&)> vessel;   ///< null: the grid's box alone
  std::function<double(const std::array<double, 3>&)> inserts;  ///< null: there are none
};

template <int D>
SolidShapes solid_shapes(const Setup<D>& setup);

struct PictureOptions {
  const Quantity* quantity = find_quantity("fraction");  ///< never null, of one value in each cell
  std::optional<SectionPlane> section;                   ///< of a 3-D snapshot; none: the body seen from outside
  std::optional<std::array<double, 2>> range;            ///< of colours [SI]; none: what the snapshot has
  bool cells = false;                                    ///< draw the edges of the cells
  int width = 1280;                                      ///< [pixels]
  int height = 800;
  std::string subtitle;  ///< in place of the time
  /// What is solid; without it pictures show what the cut cells tell of it.
  std::optional<SolidShapes> solids;
};

/// Draws one snapshot file. Throws an Error when it cannot be read, the section misses it or the picture cannot be
/// written.
void draw_snapshot(const SnapshotFile& snapshot, const std::string& title, const std::array<std::string, 2>& phases,
                   const PictureOptions& options, const std::filesystem::path& png);

/// Least and greatest value that a picture of it would show [SI]. Throws an Error when it cannot be read.
std::array<double, 2> range_of(const SnapshotFile& snapshot, const PictureOptions& options);

/// The same of a model as it is now.
template <int D>
void draw_model(const sharp::Model<D>& model, const std::string& title, const std::array<std::string, 2>& phases,
                const PictureOptions& options, const std::filesystem::path& png);

}  // namespace wavy
