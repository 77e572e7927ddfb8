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

constexpr const char* agitator_loads = "agitator_loads";  // in the field data: force and moment of each part

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

/// All means over time that a run of this model may keep.
template <int D>
std::vector<const VesselQuantity*> means_of(const VesselModel<D>& model) {
  std::vector<const VesselQuantity*> means;
  for (const auto name_of_mean : {mean_name, rms_name})
    for (const auto* quantity : quantities_of(model)) means.push_back(find_quantity(name_of_mean(*quantity)));
  return means;
}

template <int D>
void add_quantities(const VesselModel<D>& model, vtkIdType count, vtkUnstructuredGrid* data) {
  std::vector<const VesselQuantity*> kept;
  for (const auto* quantity : quantities_of(model))
    if (quantity->length_of.empty()) kept.push_back(quantity);
  for (const auto* quantity : means_of(model))
    if (model.beside().contains(quantity->name)) kept.push_back(quantity);
  for (const VesselQuantity* one : kept) {
    const VesselQuantity& quantity = *one;
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
void add_wall_drag(const VesselModel<D>& model, vtkIdType count, vtkUnstructuredGrid* data) {
  const auto& drag = model.wall_drag();
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
void add_places(const VesselModel<D>& model, vtkUnstructuredGrid* data) {
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
  // Axes at whose lower end the mirror image begins, and where the axis of a turn is.
  vtkNew<vtkDoubleArray> mirrors;
  mirrors->SetName("mirrors");
  for (int d = 0; d < D; ++d)
    if (model.walls()[static_cast<std::size_t>(d)][0] == Wall::mirror) mirrors->InsertNextValue(d);
  if (mirrors->GetNumberOfValues() > 0) data->GetFieldData()->AddArray(mirrors);
  if (model.grid().turn() == Turn::none) return;
  vtkNew<vtkDoubleArray> axis;
  axis->SetName(model.grid().turn() == Turn::half ? "half_turn" : "quarter_turn");
  for (const double place : model.grid().turning_axis()) axis->InsertNextValue(place);
  data->GetFieldData()->AddArray(axis);
}

}  // namespace

template <int D>
vtkSmartPointer<vtkUnstructuredGrid> snapshot_data(const VesselModel<D>& model) {
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
  time->InsertNextValue(model.time());
  data->GetFieldData()->AddArray(time);
  vtkNew<vtkDoubleArray> body_force;  // by which the pressure has its hydrostatic part
  body_force->SetName("body_force");
  for (const double g : model.body_force()) body_force->InsertNextValue(g);
  data->GetFieldData()->AddArray(body_force);
  if (auto& turning = model.turning_solids(); !turning.none()) {
    vtkNew<vtkDoubleArray> loads;
    loads->SetName(agitator_loads);
    for (const auto& load : turning.mean_loads()) {
      for (const double c : load.force) loads->InsertNextValue(c);
      for (const double c : load.moment) loads->InsertNextValue(c);
    }
    data->GetFieldData()->AddArray(loads);
  }
  return data;
}

template <int D>
void write_snapshot(const VesselModel<D>& model, const std::filesystem::path& file) {
  vtkObject::GlobalWarningDisplayOff();  // problems are reported below, once
  vtkNew<vtkXMLUnstructuredGridWriter> writer;
  writer->SetInputData(snapshot_data(model));
  writer->WriteToOutputStringOn();
  writer->SetDataModeToAppended();
  writer->EncodeAppendedDataOff();
  writer->SetCompressorTypeToLZ4();
  if (writer->Write() != 1 || writer->GetErrorCode() != vtkErrorCode::NoError)
    throw failure(fmt::format("the snapshot '{}' cannot be made", file.string()));
  const std::string content = writer->GetOutputString();
  write_file(file, content, snapshot_seal(content));
}

namespace {

/// Writes the values of a kept field to the open cells of component after component.
template <int D>
class Recalled {
 public:
  Recalled(const VesselModel<D>& model, vtkUnstructuredGrid* data) : model_(model), data_(data) {
    for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<D>&) {
      if (is_shown(model.grid(), model.space(), b, o)) shown_.push_back({b, o});
    });
  }
  /// The cells in the order of the data.
  [[nodiscard]] const std::vector<CellPlace>& shown() const { return shown_; }
  /// fn(cell, number in the data) for the open ones: what is shown of solids is carried on from beside.
  template <class Fn>
  void each_open(Fn&& fn) const {
    for (std::size_t i = 0; i < shown_.size(); ++i)
      if (open_share(model_.space(), shown_[i].block, shown_[i].at) > 0) fn(shown_[i], static_cast<vtkIdType>(i));
  }
  /// False where the data does not hold it.
  [[nodiscard]] bool read(const std::string& name, const std::vector<Cells<D>*>& components) const {
    auto* array = data_->GetCellData()->GetArray(name.c_str());
    if (array == nullptr || array->GetNumberOfTuples() != std::ssize(shown_) ||
        array->GetNumberOfComponents() < std::ssize(components))
      return false;
    each_open([&](const CellPlace& cell, vtkIdType id) {
      for (std::size_t c = 0; c < components.size(); ++c)
        components[c]->block(cell.block)[cell.at] = array->GetComponent(id, static_cast<int>(c));
    });
    return true;
  }

 private:
  const VesselModel<D>& model_;
  vtkUnstructuredGrid* data_;
  std::vector<CellPlace> shown_;
};

template <int D>
std::vector<Cells<D>*> pointers(CellVectors<D>& components) {
  std::vector<Cells<D>*> result;
  for (auto& component : components) result.push_back(&component);
  return result;
}

}  // namespace

template <int D>
void recall_snapshot(const std::filesystem::path& file, const VesselModel<D>& model) {
  std::vector<std::string> fields{"velocity", "pressure", wall_drag_name};
  for (const auto* quantity : quantities_of(model)) fields.push_back(quantity->name);
  for (const auto* quantity : means_of(model)) fields.push_back(quantity->name);
  const auto data = read_snapshot(file, fields_named(std::move(fields)));
  const Grid<D>& grid = model.grid();
  const auto other = [&](const std::string& what) {
    return input_error({file.string(), 0, 0, ""}, "the snapshot does not belong to this run: " + what,
                       "leave the files of a run folder as they are");
  };
  auto* pressure = data->GetCellData()->GetArray("pressure");
  auto* time = data->GetFieldData()->GetArray("TimeValue");
  if (pressure == nullptr || time == nullptr || time->GetNumberOfValues() < 1)
    throw other("it has no pressure or time");
  const Recalled<D> recalled(model, data);
  if (data->GetNumberOfCells() != std::ssize(recalled.shown())) throw other("it has another number of cells");
  std::array<double, 6> bounds{};
  data->GetBounds(bounds.data());
  for (std::size_t d = 0; d < D; ++d)
    for (const auto& [has, wants] : {std::pair{bounds[2 * d], grid.lower()[d]}, {bounds[2 * d + 1], grid.upper()[d]}})
      if (std::abs(has - wants) > 1e-9 * (grid.upper()[d] - grid.lower()[d])) throw other("it has another extent");

  model.beside().clear();
  for (const auto* quantity : means_of(model)) {
    auto* kept = data->GetCellData()->GetArray(quantity->name.c_str());
    if (kept == nullptr) continue;
    auto& parts = model.beside()[quantity->name];
    for (int c = 0; c < std::min(D, quantity->components); ++c) {
      auto& part = parts.emplace_back(grid);
      for (std::size_t i = 0; i < recalled.shown().size(); ++i)
        part.block(recalled.shown()[i].block)[recalled.shown()[i].at] =
            kept->GetComponent(static_cast<vtkIdType>(i), c);
    }
  }
  model.set_time(time->GetComponent(0, 0));
  auto& wall_drag = model.wall_drag();
  wall_drag = {};
  if (data->GetCellData()->HasArray(wall_drag_name) != 0) {  // those of earlier versions have none
    for (auto& component : wall_drag) component = Cells<D>(grid);
    if (!recalled.read(wall_drag_name, pointers<D>(wall_drag)))
      throw other("its friction on walls does not fit its cells");
  }
  if (model.is_sharp()) {
    auto& state = model.sharp().state();
    if (!recalled.read("fraction", {&state.F}) || !recalled.read("velocity", pointers<D>(state.u)))
      throw other("its fraction or velocity does not fit its cells");
  } else {
    auto& state = model.dispersed().state();
    for (std::size_t i = 0; i < model.phases(); ++i) {
      const std::string& name = model.dispersed().settings().phases[i].name;
      if (!recalled.read(name + "_fraction", {&state.a[i]}) ||
          !recalled.read(name + "_velocity", pointers<D>(state.u[i])))
        throw other(fmt::format("it has no fraction or velocity of '{}'", name));
    }
  }
  model.concentrations().assign(model.tracers().settings().size(), Cells<D>(grid));
  for (std::size_t i = 0; i < model.concentrations().size(); ++i) {
    const std::string& name = model.tracers().settings()[i].name;
    if (!recalled.read(name + "_concentration", {&model.concentrations()[i]}))
      throw other(fmt::format("it has no concentration of '{}'", name));
  }
  model.visit([&](auto& m) {
    if (m.turbulence() == nullptr) return;
    auto& state = m.state().turbulent;
    state = m.turbulence()->empty_state(grid);
    Cells<D> epsilon(grid);
    if (!recalled.read("eddy_viscosity", {&state.eddy_viscosity}) || !recalled.read("dissipation_rate", {&epsilon}) ||
        (!state.k.data().empty() && !recalled.read("turbulent_energy", {&state.k})))
      throw other("it has no turbulence");
    m.turbulence()->recall(epsilon, state);
  });
  // Snapshots of earlier versions do not say it: then that of their time, which is half a step later.
  Vec<D> body_force = model.visit([](auto& m) { return m.settings().body_force(m.state().time); });
  if (auto* kept = data->GetFieldData()->GetArray("body_force"); kept != nullptr && kept->GetNumberOfValues() == D)
    for (std::size_t d = 0; d < D; ++d) body_force[d] = kept->GetComponent(static_cast<vtkIdType>(d), 0);
  model.recall(body_force);
  if (auto& turning = model.turning_solids(); !turning.none()) {
    auto* kept = data->GetFieldData()->GetArray(agitator_loads);
    if (kept == nullptr || kept->GetNumberOfValues() != static_cast<vtkIdType>(turning.mean_loads().size() * (D + 3)))
      throw other("it has other agitators");
    vtkIdType next = 0;
    for (auto& load : turning.mean_loads()) {
      for (double& c : load.force) c = kept->GetComponent(next++, 0);
      for (double& c : load.moment) c = kept->GetComponent(next++, 0);
    }
  }
  for (std::size_t i = 0; i < recalled.shown().size(); ++i) {
    const auto& cell = recalled.shown()[i];
    const auto own = [&](const Cells<D>& field) { return field.block(cell.block)[cell.at]; };
    model.reduced_pressure().block(cell.block)[cell.at] =
        pressure->GetComponent(static_cast<vtkIdType>(i), 0) -
        model.hydrostatic_pressure(own, cell_middle<D>(grid, cell.block, cell.at));
  }
}

template vtkSmartPointer<vtkUnstructuredGrid> snapshot_data<2>(const VesselModel<2>&);
template vtkSmartPointer<vtkUnstructuredGrid> snapshot_data<3>(const VesselModel<3>&);
template void write_snapshot<2>(const VesselModel<2>&, const std::filesystem::path&);
template void write_snapshot<3>(const VesselModel<3>&, const std::filesystem::path&);
template void recall_snapshot<2>(const std::filesystem::path&, const VesselModel<2>&);
template void recall_snapshot<3>(const std::filesystem::path&, const VesselModel<3>&);

}  // namespace wavy
