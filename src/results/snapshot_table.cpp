#include "results/snapshot_table.hpp"

#include <fmt/format.h>
#include <vtkCell.h>
#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkUnstructuredGrid.h>

#include <array>
#include <string>
#include <vector>

#include "case/snapshot_reader.hpp"
#include "run/quantities.hpp"

namespace wavy {

Table snapshot_table(const std::filesystem::path& file) {
  if (file.extension() == ".csv") return read_csv(file);
  const auto data = read_snapshot(file);
  const vtkIdType count = data->GetNumberOfCells();
  std::array<double, 6> bounds{};
  data->GetBounds(bounds.data());
  const int dimensions = bounds[5] > bounds[4] ? 3 : 2;
  Table table;
  for (int d = 0; d < dimensions; ++d) {
    table.names.emplace_back(1, "xyz"[d]);
    table.units.emplace_back("m");
    table.columns.emplace_back();
  }
  std::array<double, 6> box{};
  for (vtkIdType i = 0; i < count; ++i) {
    data->GetCellBounds(i, box.data());
    for (std::size_t d = 0; d < static_cast<std::size_t>(dimensions); ++d)
      table.columns[d].push_back(0.5 * (box[2 * d] + box[2 * d + 1]));
  }
  for (const VesselQuantity* one : quantities_in(data)) {
    const VesselQuantity& quantity = *one;
    auto* array = data->GetCellData()->GetArray(quantity.name.c_str());
    const int components = quantity.components == 1 ? 1 : dimensions;
    for (int c = 0; c < components; ++c) {
      table.names.push_back(components == 1 ? quantity.name : fmt::format("{}_{}", quantity.name, "xyz"[c]));
      table.units.push_back(quantity.unit);
      auto& column = table.columns.emplace_back();
      column.reserve(static_cast<std::size_t>(count));
      for (vtkIdType i = 0; i < count; ++i) column.push_back(array->GetComponent(i, c));
    }
  }
  return table;
}

}  // namespace wavy
