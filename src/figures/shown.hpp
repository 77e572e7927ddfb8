// What a picture shows of a snapshot: its cells with the wanted quantity, mirrored and cut as asked.
#pragma once

#include <vtkCellDataToPointData.h>
#include <vtkNew.h>
#include <vtkSmartPointer.h>
#include <vtkTableBasedClipDataSet.h>
#include <vtkUnstructuredGrid.h>

#include <array>
#include <string>
#include <vector>

#include "figures/picture.hpp"

namespace wavy {

/// Words of the table of quantities, with the names of the phases.
std::string with_phases(const std::string& words, const std::vector<std::string>& phases);

/// Cell data with the wanted quantity, in the unit shown, as an array named "shown"; of a flat one the velocity on the
/// page as "on_page" [m/s]. With means over time go the mean velocity and the mean fraction, where they are kept.
struct Shown {
  vtkSmartPointer<vtkUnstructuredGrid> data;
  const char* fraction = "fraction";  ///< by which the interface is drawn
  const char* velocity = "velocity";  ///< of arrows and streamlines
  bool flat = false;
  Images images;                  ///< what of it is an image
  PagePlane page;                 ///< of a flat one
  std::array<double, 2> own{};    ///< least and greatest value [SI]
  std::array<double, 2> range{};  ///< of colours, in the unit shown
  double factor = 1;              ///< from SI to that unit
  std::string heading;
};

/// Throws an input error where a section misses the data, or they have no such field.
Shown shown_of(vtkUnstructuredGrid* data, const PictureOptions& options, const std::vector<std::string>& phases);

/// Another quantity of the same cells as cell data under its own name, in SI units. Throws as shown_of does.
void add_quantity(const Quantity& quantity, vtkUnstructuredGrid* data);

/// Values at the corners of cells, and of these what lies within the walls.
struct PointData {
  vtkNew<vtkCellDataToPointData> everywhere;
  vtkNew<vtkTableBasedClipDataSet> cut_off;
  bool cut = false;  ///< walls cut cells
  /// Share of a point's surroundings that is open on a wall; less than that of a flat wall on the grid's boundary.
  static constexpr double half = 0.499;

  explicit PointData(vtkUnstructuredGrid* cells);
  [[nodiscard]] vtkAlgorithmOutput* inside() const {
    return cut ? cut_off->GetOutputPort() : everywhere->GetOutputPort();
  }
};

}  // namespace wavy
