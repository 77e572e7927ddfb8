#include "results/snapshot.hpp"

#include <fmt/format.h>
#include <vtkCellArray.h>
#include <vtkCellData.h>
#include <vtkDoubleArray.h>
#include <vtkErrorCode.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkIdTypeArray.h>
#include <vtkNew.h>
#include <vtkPoints.h>
#include <vtkStringArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkXMLUnstructuredGridWriter.h>

#include <array>
#include <cmath>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "base/files.hpp"
#include "case/snapshot_reader.hpp"
#include "results/snapshot_data.hpp"
#include "run/quantities.hpp"

namespace wavy {
namespace {

/// Corners of a cell in VTK's order for quadrilaterals and hexahedra.
template <int D>
constexpr std::array<std::array<int, 3>, 1U << D> corners() {
  if constexpr (D == 2)
    return {{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}}};
  else
    return {{{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}, {0, 0, 1}, {1, 0, 1}, {1, 1, 1}, {0, 1, 1}}};
}

template <int D>
vtkNew<vtkPoints> lattice(const Grid<D>& grid) {
  vtkNew<vtkPoints> points;
  points->SetDataTypeToDouble();
  const Index<D>& n = grid.cells();
  const int planes = D == 3 ? n[D - 1] + 1 : 1;
  points->SetNumberOfPoints(static_cast<vtkIdType>(n[0] + 1) * (n[1] + 1) * planes);
  vtkIdType id = 0;
  for (int k = 0; k < planes; ++k)
    for (int j = 0; j <= n[1]; ++j)
      for (int i = 0; i <= n[0]; ++i)
        points->SetPoint(id++, grid.lower()[0] + i * grid.spacing()[0], grid.lower()[1] + j * grid.spacing()[1],
                         D == 3 ? grid.lower()[D - 1] + k * grid.spacing()[D - 1] : 0.0);
  return points;
}

/// Beside solids: the open cells and the solid ones next to them, so that viewers can cut along the wall.
template <int D>
bool is_shown(const Grid<D>& grid, const OpenSpace<D>& space, int b, std::ptrdiff_t o) {
  if (space.is_uncut(b)) return true;
  const double* volume = space.volume().block(b) + o;
  bool open = false;
  for_shifts<D>(1, [&](const Index<D>& shift, int) { open = open || volume[grid.layout().offset(shift)] > 0; });
  return open;
}

template <int D>
void add_quantities(const sharp::Model<D>& model, vtkIdType count, vtkUnstructuredGrid* data) {
  std::vector<const SharpQuantity*> kept;
  for (const auto& quantity : sharp_quantities())
    if (quantity.length_of.empty()) kept.push_back(&quantity);
  for (const auto& quantity : mean_quantities())
    if (model.state().beside.contains(quantity.name)) kept.push_back(&quantity);
  for (const SharpQuantity* one : kept) {
    const SharpQuantity& quantity = *one;
    const CellValue value = quantity.of(model);
    auto array = quantity.exact ? vtkSmartPointer<vtkDataArray>(vtkSmartPointer<vtkDoubleArray>::New())
                                : vtkSmartPointer<vtkDataArray>(vtkSmartPointer<vtkFloatArray>::New());
    array->SetName(quantity.name.c_str());
    array->SetNumberOfComponents(quantity.components);
    array->SetNumberOfTuples(count);
    vtkIdType at_cell = 0;
    for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<D>&) {
      if (!is_shown(model.grid(), model.space(), b, o)) return;
      for (int d = 0; d < quantity.components; ++d) array->SetComponent(at_cell, d, value(b, o, d));
      ++at_cell;
    });
    data->GetCellData()->AddArray(array);
  }
}

/// What a model needs beside the quantities to read forces on walls again.
constexpr const char* wall_drag_name = "wall_drag";

template <int D>
void add_wall_drag(const sharp::Model<D>& model, vtkIdType count, vtkUnstructuredGrid* data) {
  const auto& drag = model.state().wall_drag;
  if (drag[0].data().empty()) return;
  vtkNew<vtkDoubleArray> array;
  array->SetName(wall_drag_name);
  array->SetNumberOfComponents(D);
  array->SetNumberOfTuples(count);
  vtkIdType at_cell = 0;
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<D>&) {
    if (!is_shown(model.grid(), model.space(), b, o)) return;
    for (int d = 0; d < D; ++d) array->SetComponent(at_cell, d, drag[static_cast<std::size_t>(d)].block(b)[o]);
    ++at_cell;
  });
  data->GetCellData()->AddArray(array);
}

/// Corners of boxes, each a row.
template <int D>
void add_boxes(const char* name, const std::vector<std::array<Vec<D>, 2>>& boxes, vtkUnstructuredGrid* data) {
  if (boxes.empty()) return;
  vtkNew<vtkDoubleArray> array;
  array->SetName(name);
  array->SetNumberOfComponents(6);
  for (const auto& box : boxes) {
    std::array<double, 6> corner_pair{};
    for (std::size_t d = 0; d < D; ++d) {
      corner_pair[d] = box[0][d];
      corner_pair[3 + d] = box[1][d];
    }
    array->InsertNextTuple(corner_pair.data());
  }
  data->GetFieldData()->AddArray(array);
}

/// Where thin walls, openings and mirrors are, for pictures.
template <int D>
void add_places(const sharp::Model<D>& model, vtkUnstructuredGrid* data) {
  add_boxes<D>("thin_walls", model.space().thin_faces(), data);
  const auto& boundary = model.boundary();
  std::vector<std::array<Vec<D>, 2>> corners_of;
  vtkNew<vtkStringArray> names;
  names->SetName("opening_names");
  for (std::size_t i = 0; i < boundary.openings().size(); ++i) {
    corners_of.push_back(boundary.corners(i, model.grid()));
    names->InsertNextValue(boundary.openings()[i].name);
  }
  add_boxes<D>("openings", corners_of, data);
  if (!corners_of.empty()) data->GetFieldData()->AddArray(names);
  // Axes at whose lower end the mirror image begins, for pictures.
  vtkNew<vtkDoubleArray> mirrors;
  mirrors->SetName("mirrors");
  for (int d = 0; d < D; ++d)
    if (model.settings().walls[static_cast<std::size_t>(d)][0] == Wall::mirror) mirrors->InsertNextValue(d);
  if (mirrors->GetNumberOfValues() > 0) data->GetFieldData()->AddArray(mirrors);
}

}  // namespace

template <int D>
vtkSmartPointer<vtkUnstructuredGrid> snapshot_data(const sharp::Model<D>& model) {
  const Grid<D>& grid = model.grid();
  const OpenSpace<D>& space = model.space();
  vtkIdType count = 0;
  for_cells_in_order<D>(
      grid, [&](int b, std::ptrdiff_t o, const Index<D>&) { count += is_shown(grid, space, b, o) ? 1 : 0; });

  constexpr auto corner = corners<D>();
  vtkNew<vtkIdTypeArray> ids;
  vtkNew<vtkIdTypeArray> offsets;
  ids->SetNumberOfValues(count * static_cast<vtkIdType>(corner.size()));
  offsets->SetNumberOfValues(count + 1);

  vtkIdType cell_id = 0;
  vtkIdType at = 0;
  const Index<D>& n = grid.cells();
  vtkNew<vtkFloatArray> open;
  open->SetName("open");
  open->SetNumberOfValues(space.is_uncut() ? 0 : count);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    if (!is_shown(grid, space, b, o)) return;
    if (!space.is_uncut()) open->SetValue(cell_id, static_cast<float>(space.share().block(b)[o]));
    offsets->SetValue(cell_id, at);
    for (const auto& c : corner) {
      vtkIdType point = cell[0] + c[0] + static_cast<vtkIdType>(n[0] + 1) * (cell[1] + c[1]);
      if constexpr (D == 3) point += static_cast<vtkIdType>(n[0] + 1) * (n[1] + 1) * (cell[2] + c[2]);
      ids->SetValue(at++, point);
    }
    ++cell_id;
  });
  offsets->SetValue(cell_id, at);

  vtkNew<vtkCellArray> cells;
  cells->SetData(offsets, ids);
  auto data = vtkSmartPointer<vtkUnstructuredGrid>::New();
  data->SetPoints(lattice(grid));
  data->SetCells(D == 2 ? VTK_QUAD : VTK_HEXAHEDRON, cells);
  add_quantities(model, count, data.Get());
  add_wall_drag(model, count, data.Get());
  if (!space.is_uncut()) data->GetCellData()->AddArray(open);
  add_places(model, data);
  vtkNew<vtkDoubleArray> time;
  time->SetName("TimeValue");
  time->InsertNextValue(model.state().time);
  data->GetFieldData()->AddArray(time);
  vtkNew<vtkDoubleArray> body_force;  // by which the pressure has its hydrostatic part
  body_force->SetName("body_force");
  for (const double g : model.body_force()) body_force->InsertNextValue(g);
  data->GetFieldData()->AddArray(body_force);
  return data;
}

template <int D>
void write_snapshot(const sharp::Model<D>& model, const std::filesystem::path& file) {
  vtkObject::GlobalWarningDisplayOff();  // problems are reported below, once
  vtkNew<vtkXMLUnstructuredGridWriter> writer;
  writer->SetInputData(snapshot_data(model));
  writer->WriteToOutputStringOn();
  writer->SetDataModeToAppended();
  writer->EncodeAppendedDataOff();
  writer->SetCompressorTypeToLZ4();
  if (writer->Write() != 1 || writer->GetErrorCode() != vtkErrorCode::NoError)
    throw failure(fmt::format("the snapshot '{}' cannot be made", file.string()));
  std::string content = writer->GetOutputString();
  content += snapshot_seal(content);
  write_file(file, content);
}

template <int D>
void recall_snapshot(const std::filesystem::path& file, sharp::Model<D>& model) {
  std::vector<std::string> fields{"velocity", "pressure", wall_drag_name};
  for (const auto& quantity : mean_quantities()) fields.push_back(quantity.name);
  const auto data = read_snapshot(file, fields);
  const Grid<D>& grid = model.grid();
  const auto other = [&](const std::string& what) {
    return input_error({file.string(), 0, 0, ""}, "the snapshot does not belong to this run: " + what,
                       "leave the files of a run folder as they are");
  };
  auto* fraction = data->GetCellData()->GetArray("fraction");
  auto* velocity = data->GetCellData()->GetArray("velocity");
  auto* pressure = data->GetCellData()->GetArray("pressure");
  auto* time = data->GetFieldData()->GetArray("TimeValue");
  if (pressure == nullptr || time == nullptr || time->GetNumberOfValues() < 1)
    throw other("it has no pressure or time");
  std::vector<CellPlace> shown;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    if (is_shown(grid, model.space(), b, o)) shown.push_back({b, o});
  });
  if (data->GetNumberOfCells() != std::ssize(shown)) throw other("it has another number of cells");
  std::array<double, 6> bounds{};
  data->GetBounds(bounds.data());
  for (std::size_t d = 0; d < D; ++d)
    for (const auto& [has, wants] : {std::pair{bounds[2 * d], grid.lower()[d]}, {bounds[2 * d + 1], grid.upper()[d]}})
      if (std::abs(has - wants) > 1e-9 * (grid.upper()[d] - grid.lower()[d])) throw other("it has another extent");

  auto& state = model.state();
  auto* drag = data->GetCellData()->GetArray(wall_drag_name);  // those of earlier versions have none
  if (drag != nullptr && (drag->GetNumberOfTuples() != std::ssize(shown) || drag->GetNumberOfComponents() != D))
    throw other("its friction on walls does not fit its cells");
  state.wall_drag = {};
  if (drag != nullptr)
    for (auto& component : state.wall_drag) component = Cells<D>(grid);
  state.beside.clear();
  for (const auto& quantity : mean_quantities()) {
    auto* kept = data->GetCellData()->GetArray(quantity.name.c_str());
    if (kept == nullptr) continue;
    auto& parts = state.beside[quantity.name];
    for (int c = 0; c < std::min(D, quantity.components); ++c) {
      auto& part = parts.emplace_back(grid);
      for (std::size_t i = 0; i < shown.size(); ++i)
        part.block(shown[i].block)[shown[i].at] = kept->GetComponent(static_cast<vtkIdType>(i), c);
    }
  }
  state.time = time->GetComponent(0, 0);
  for (std::size_t i = 0; i < shown.size(); ++i) {
    const auto& [b, o] = shown[i];
    if (open_share(model.space(), b, o) == 0) continue;  // what is shown there is carried on from beside
    const auto id = static_cast<vtkIdType>(i);
    state.F.block(b)[o] = fraction->GetComponent(id, 0);
    for (int d = 0; d < D; ++d) state.u[static_cast<std::size_t>(d)].block(b)[o] = velocity->GetComponent(id, d);
    for (int d = 0; d < D && drag != nullptr; ++d)
      state.wall_drag[static_cast<std::size_t>(d)].block(b)[o] = drag->GetComponent(id, d);
  }
  // Snapshots of earlier versions do not say it: then that of their time, which is half a step later.
  Vec<D> body_force = model.settings().body_force(state.time);
  if (auto* kept = data->GetFieldData()->GetArray("body_force"); kept != nullptr && kept->GetNumberOfValues() == D)
    for (std::size_t d = 0; d < D; ++d) body_force[d] = kept->GetComponent(static_cast<vtkIdType>(d), 0);
  model.recall(body_force);
  for (std::size_t i = 0; i < shown.size(); ++i) {
    const auto& [b, o] = shown[i];
    state.p.block(b)[o] = pressure->GetComponent(static_cast<vtkIdType>(i), 0) -
                          model.hydrostatic_pressure(state.F.block(b)[o], cell_middle<D>(grid, b, o));
  }
}

template vtkSmartPointer<vtkUnstructuredGrid> snapshot_data<2>(const sharp::Model<2>&);
template vtkSmartPointer<vtkUnstructuredGrid> snapshot_data<3>(const sharp::Model<3>&);
template void write_snapshot<2>(const sharp::Model<2>&, const std::filesystem::path&);
template void write_snapshot<3>(const sharp::Model<3>&, const std::filesystem::path&);
template void recall_snapshot<2>(const std::filesystem::path&, sharp::Model<2>&);
template void recall_snapshot<3>(const std::filesystem::path&, sharp::Model<3>&);

}  // namespace wavy
