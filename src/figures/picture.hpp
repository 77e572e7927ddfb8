// Pictures of snapshots: maps of 2-D fields, surfaces of 3-D ones, as PNG, on machines without a display.
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "figures/planes.hpp"
#include "results/run_folder.hpp"
#include "run/quantities.hpp"

namespace wavy {

/// The solids of a case as signed distances, negative inside [m]; the third coordinate does not count in 2-D.
struct SolidShapes {
  std::function<double(const std::array<double, 3>&)> vessel;   ///< null: the grid's box alone
  std::function<double(const std::array<double, 3>&)> inserts;  ///< null: there are none
  std::optional<Sector> sector{};                               ///< what was computed of it
  /// What turns, where it is at a time; null: nothing does.
  std::function<std::function<double(const std::array<double, 3>&)>(double time)> turning{};

  /// The same with what turns among the inserts.
  [[nodiscard]] SolidShapes at(double time) const;
};

template <int D>
SolidShapes solid_shapes(const Setup<D>& setup);

/// Where a quantity has a value.
struct ValueSurface {
  const Quantity* quantity = find_quantity("fraction");
  double value = 0.5;  ///< [SI]
};

struct PictureOptions {
  enum class Scale { even, logarithmic, symmetric };  ///< of colours; symmetric: about 0

  const Quantity* quantity = find_quantity("fraction");  ///< never null, of one value in each cell
  std::optional<SectionPlane> section;                   ///< of a 3-D snapshot; none: the body seen from outside
  std::optional<std::array<double, 2>> range;            ///< of colours [SI]; none: what the snapshot has
  Scale scale = Scale::even;
  bool cells = false;        ///< draw the edges of the cells
  bool unsmoothed = false;   ///< every cell in its own colour
  int lines = 0;             ///< of equal value, of a flat picture: about so many, at round values
  bool arrows = false;       ///< of the velocity
  bool streamlines = false;  ///< of the velocity at this moment
  /// Of a body: shown in place of the denser phase, coloured by the quantity.
  std::vector<ValueSurface> surfaces{};
  std::optional<SectionPlane> cut_open{};  ///< of a body: what lies before this plane is left out
  int width = 1280;                        ///< [pixels]
  int height = 800;
  std::string subtitle{};  ///< in place of the time
  /// What is solid; without it pictures show what the cut cells tell of it.
  std::optional<SolidShapes> solids{};
};

/// One of several pictures on a page.
struct PictureOf {
  SnapshotFile snapshot;
  PictureOptions options;
};

/// Draws pictures of one size beside and below each other, so many in a row. Throws as draw_snapshot does.
void draw_page(const std::vector<PictureOf>& pictures, std::size_t in_a_row, const std::string& title,
               const std::vector<std::string>& phases, const std::filesystem::path& png);

/// One of the snapshots whose interfaces are laid over each other.
struct OverlaidSnapshot {
  std::string name;  ///< beside its line
  SnapshotFile snapshot;
};

/// The interfaces of several snapshots as lines in one vessel, that of the first; a picture for each of several times.
/// Throws as draw_snapshot does.
void draw_interfaces(const std::vector<std::vector<OverlaidSnapshot>>& times, const std::string& title,
                     const PictureOptions& options, const std::filesystem::path& png);

/// One quantity in two snapshots of one vessel, the second taken to the grid of the first: from the middle of the cell
/// there straight on by its slopes, the fraction as it is.
struct FieldDifference {
  double mean_square = 0;         ///< root, over the cells of the first that both have [SI]
  double greatest = 0;            ///< first less second, with its sign [SI]
  std::array<double, 3> place{};  ///< where that is [m]
  double size = 0;                ///< root mean square of the first [SI]
};

/// Also draws it where `png` is not empty. Throws as draw_snapshot does, and where they share no place.
FieldDifference compare_fields(const SnapshotFile& first, const SnapshotFile& second, const std::string& title,
                               const PictureOptions& options, const std::filesystem::path& png);

/// The range of colours by which values from a least to a greatest one are shown [SI]: that of the options, or what
/// goes with their scale. Throws an input error where a logarithmic one has nothing above 0.
std::array<double, 2> colour_range(const PictureOptions& options, const std::array<double, 2>& own);

/// Draws one snapshot file. Throws an Error when it cannot be read, the section misses it or the picture cannot be
/// written.
void draw_snapshot(const SnapshotFile& snapshot, const std::string& title, const std::vector<std::string>& phases,
                   const PictureOptions& options, const std::filesystem::path& png);

/// Least and greatest value that a picture of it would show [SI]. Throws an Error when it cannot be read.
std::array<double, 2> range_of(const SnapshotFile& snapshot, const PictureOptions& options);

/// The same of a model as it is now.
template <int D>
void draw_model(const VesselModel<D>& model, const std::string& title, const std::vector<std::string>& phases,
                const PictureOptions& options, const std::filesystem::path& png);

}  // namespace wavy
