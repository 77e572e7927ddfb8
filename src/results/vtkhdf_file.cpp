#include "results/vtkhdf_file.hpp"

#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDataArray.h>
#include <vtkFieldData.h>
#include <vtkPoints.h>
#include <vtkUnsignedCharArray.h>
#include <vtkUnstructuredGrid.h>

#include <array>
#include <string>
#include <vector>

#include "base/files.hpp"
#include "case/snapshot_reader.hpp"
#include "results/hdf5_handle.hpp"

namespace wavy {
namespace {

/// Values of an array, tuple by tuple.
template <class Number>
std::vector<Number> values_of(vtkDataArray* array) {
  std::vector<Number> values;
  values.reserve(static_cast<std::size_t>(array->GetNumberOfValues()));
  for (vtkIdType i = 0; i < array->GetNumberOfTuples(); ++i)
    for (int c = 0; c < array->GetNumberOfComponents(); ++c)
      values.push_back(static_cast<Number>(array->GetComponent(i, c)));
  return values;
}

/// A group of such a file.
class Group {
 public:
  Group(hid_t parent, const char* name)
      : group_(H5Gcreate2(parent, name, H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT), H5Gclose) {}
  [[nodiscard]] hid_t id() const { return group_; }

  /// `columns` 0: of one dimension.
  void write(const char* name, hid_t type, const void* values, std::size_t rows, int columns) const {
    const std::array<hsize_t, 2> size{rows, static_cast<hsize_t>(columns)};
    const Hdf5Handle space(H5Screate_simple(columns > 0 ? 2 : 1, size.data(), nullptr), H5Sclose);
    const Hdf5Handle data(H5Dcreate2(group_, name, type, space, H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT), H5Dclose);
    check_hdf5(H5Dwrite(data, type, H5S_ALL, H5S_ALL, H5P_DEFAULT, values));
  }
  void write(const char* name, const std::vector<double>& values, int columns) const {
    write(name, H5T_NATIVE_DOUBLE, values.data(), values.size() / static_cast<std::size_t>(std::max(1, columns)),
          columns);
  }
  void write(const char* name, const std::vector<std::int64_t>& values) const {
    write(name, H5T_NATIVE_INT64, values.data(), values.size(), 0);
  }
  void write_array(vtkDataArray* array) const {
    const int components = array->GetNumberOfComponents();
    write(array->GetName(), values_of<double>(array), components > 1 ? components : 0);
  }

 private:
  Hdf5Handle group_;
};

void mark_as_grid(const Group& root) {
  const std::array<std::int64_t, 2> version{1, 0};
  const hsize_t two = 2;
  const Hdf5Handle pair(H5Screate_simple(1, &two, nullptr), H5Sclose);
  const Hdf5Handle number(H5Acreate2(root.id(), "Version", H5T_NATIVE_INT64, pair, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
  check_hdf5(H5Awrite(number, H5T_NATIVE_INT64, version.data()));
  const std::string kind = "UnstructuredGrid";
  const Hdf5Handle text(H5Tcopy(H5T_C_S1), H5Tclose);
  check_hdf5(H5Tset_size(text, kind.size()));
  check_hdf5(H5Tset_strpad(text, H5T_STR_NULLPAD));
  const Hdf5Handle one(H5Screate(H5S_SCALAR), H5Sclose);
  const Hdf5Handle type(H5Acreate2(root.id(), "Type", text, one, H5P_DEFAULT, H5P_DEFAULT), H5Aclose);
  check_hdf5(H5Awrite(type, text, kind.data()));
}

void write_grid(vtkUnstructuredGrid* data, const std::filesystem::path& path) {
  H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);  // we tell what is wrong
  const Hdf5Handle file(H5Fcreate(path.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT), H5Fclose);
  const Group root(file, "VTKHDF");
  mark_as_grid(root);
  const auto corners = values_of<std::int64_t>(data->GetCells()->GetConnectivityArray());
  root.write("NumberOfPoints", {data->GetNumberOfPoints()});
  root.write("NumberOfCells", {data->GetNumberOfCells()});
  root.write("NumberOfConnectivityIds", {std::ssize(corners)});
  root.write("Points", values_of<double>(data->GetPoints()->GetData()), 3);
  root.write("Connectivity", corners);
  root.write("Offsets", values_of<std::int64_t>(data->GetCells()->GetOffsetsArray()));
  const auto types = values_of<std::uint8_t>(data->GetCellTypesArray());
  root.write("Types", H5T_NATIVE_UINT8, types.data(), types.size(), 0);
  const Group cells(root.id(), "CellData");
  for (int i = 0; i < data->GetCellData()->GetNumberOfArrays(); ++i)
    if (auto* array = data->GetCellData()->GetArray(i)) cells.write_array(array);
  const Group facts(root.id(), "FieldData");
  if (auto* time = data->GetFieldData()->GetArray("TimeValue")) facts.write_array(time);
}

}  // namespace

void write_vtkhdf(const std::filesystem::path& snapshot, const std::filesystem::path& file) {
  const auto data = read_snapshot(snapshot);
  const std::filesystem::path part = file.string() + ".part";
  try {
    write_grid(data, part);
  } catch (const Error&) {
    std::error_code ignored;
    std::filesystem::remove(part, ignored);
    throw cannot_write(file, 0);
  }
  take_into_place(part, file);
}

}  // namespace wavy
