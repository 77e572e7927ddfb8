#include "figures/section.hpp"

#include <vtkCellData.h>
#include <vtkCutter.h>
#include <vtkDoubleArray.h>
#include <vtkFieldData.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPlane.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkStringArray.h>

#include <array>
#include <cmath>
#include <map>

namespace wavy {
namespace {

/// Boxes (two corners each) that the plane meets, as flat ones; of the first ones the names.
void flatten_boxes(vtkUnstructuredGrid* body, vtkUnstructuredGrid* flat, const char* name, const char* names_of,
                   int axis, double place) {
  auto* boxes = body->GetFieldData()->GetArray(name);
  if (boxes == nullptr) return;
  auto* names = vtkStringArray::SafeDownCast(body->GetFieldData()->GetAbstractArray(names_of));
  const std::array<int, 2> left{axis == 0 ? 1 : 0, axis == 2 ? 1 : 2};
  std::array<double, 6> b{};
  body->GetBounds(b.data());
  const double hair = 1e-9 * (b[2 * static_cast<std::size_t>(axis) + 1] - b[2 * static_cast<std::size_t>(axis)]);
  vtkNew<vtkDoubleArray> met;
  met->SetName(name);
  met->SetNumberOfComponents(6);
  vtkNew<vtkStringArray> met_names;
  met_names->SetName(names_of);
  for (vtkIdType i = 0; i < boxes->GetNumberOfTuples(); ++i) {
    const double* box = boxes->GetTuple(i);
    if (box[axis] > place + hair || box[3 + axis] < place - hair) continue;
    const std::array<double, 6> seen{box[left[0]], box[left[1]], 0, box[3 + left[0]], box[3 + left[1]], 0};
    met->InsertNextTuple(seen.data());
    if (names != nullptr && i < names->GetNumberOfValues()) met_names->InsertNextValue(names->GetValue(i));
  }
  if (met->GetNumberOfTuples() == 0) return;
  flat->GetFieldData()->AddArray(met);
  if (names != nullptr) flat->GetFieldData()->AddArray(met_names);
}

/// Across an axis: whole faces of cells.
vtkSmartPointer<vtkUnstructuredGrid> section_across(vtkUnstructuredGrid* body, int axis, double place) {
  auto flat = vtkSmartPointer<vtkUnstructuredGrid>::New();
  std::array<double, 6> bounds{};
  body->GetBounds(bounds.data());
  const auto a = static_cast<std::size_t>(axis);
  const double end = bounds[2 * a + 1];
  const double hair = 1e-9 * (end - bounds[2 * a]);
  const std::array<int, 2> left{axis == 0 ? 1 : 0, axis == 2 ? 1 : 2};

  vtkNew<vtkPoints> points;
  points->SetDataTypeToDouble();
  std::map<vtkIdType, vtkIdType> known;  // points of the body that the section has already
  flat->SetPoints(points);
  flat->Allocate(body->GetNumberOfCells() / 16 + 1);
  auto* from = body->GetCellData();
  auto* to = flat->GetCellData();
  to->CopyAllocate(from);
  vtkNew<vtkIdList> corners;
  for (vtkIdType cell = 0; cell < body->GetNumberOfCells(); ++cell) {
    std::array<double, 6> reach{};
    body->GetCellBounds(cell, reach.data());
    const double low = reach[2 * a];
    const double high = reach[2 * a + 1];
    // On a face between cells the upper one is taken; at the end of the grid the last one.
    const bool last = high >= end - hair && place >= end - hair && place <= end + hair;
    if (!(low <= place + hair && place + hair < high) && !last) continue;
    body->GetCellPoints(cell, corners);
    // The corners on the lower side, round the cell.
    std::array<vtkIdType, 4> quad{};
    for (vtkIdType k = 0; k < corners->GetNumberOfIds(); ++k) {
      const vtkIdType id = corners->GetId(k);
      std::array<double, 3> p{};
      body->GetPoint(id, p.data());
      if (p[a] > 0.5 * (low + high)) continue;
      const auto e0 = static_cast<std::size_t>(left[0]);
      const auto e1 = static_cast<std::size_t>(left[1]);
      const bool right = p[e0] > 0.5 * (reach[2 * e0] + reach[2 * e0 + 1]);
      const bool upper = p[e1] > 0.5 * (reach[2 * e1] + reach[2 * e1 + 1]);
      const auto [place_of, fresh] = known.try_emplace(id, points->GetNumberOfPoints());
      if (fresh) points->InsertNextPoint(p[e0], p[e1], 0);
      quad[upper ? (right ? 2 : 3) : (right ? 1 : 0)] = place_of->second;
    }
    const vtkIdType made = flat->InsertNextCell(VTK_QUAD, 4, quad.data());
    to->CopyData(from, cell, made);
  }
  flatten_boxes(body, flat, "thin_walls", "", axis, place);
  flatten_boxes(body, flat, "openings", "opening_names", axis, place);
  return flat;
}

/// At an angle: triangles, where the plane cuts through cells.
vtkSmartPointer<vtkUnstructuredGrid> oblique_section(vtkUnstructuredGrid* body, const SectionPlane& plane) {
  const PagePlane page = page_of_section(plane);
  vtkNew<vtkPlane> cut;
  cut->SetNormal(plane.normal.data());
  cut->SetOrigin(page.origin.data());
  vtkNew<vtkCutter> cutter;
  cutter->SetInputData(body);
  cutter->SetCutFunction(cut);
  cutter->GenerateTrianglesOn();  // polygons of more corners break lines drawn on them
  cutter->Update();
  vtkPolyData* met = cutter->GetOutput();
  auto flat = vtkSmartPointer<vtkUnstructuredGrid>::New();
  vtkNew<vtkPoints> points;
  points->SetDataTypeToDouble();
  flat->SetPoints(points);
  flat->Allocate(met->GetNumberOfCells() + 1);
  auto* from = met->GetCellData();
  auto* to = flat->GetCellData();
  to->CopyAllocate(from);
  // Triangles of neighbours share their corners: those that differ by round-off are one.
  const double hair = 1e-7 * body->GetLength();
  std::map<std::array<long, 2>, vtkIdType> known;
  vtkNew<vtkIdList> corners;
  for (vtkIdType cell = 0; cell < met->GetNumberOfCells(); ++cell) {
    met->GetCellPoints(cell, corners);
    std::array<vtkIdType, 3> triangle{};
    for (vtkIdType k = 0; k < 3; ++k) {
      Point3 p{};
      met->GetPoint(corners->GetId(k), p.data());
      for (std::size_t d = 0; d < 3; ++d) p[d] -= page.origin[d];
      const std::array<double, 2> at{dot3(p, page.along), dot3(p, page.up)};
      const auto [found, fresh] =
          known.try_emplace({std::lround(at[0] / hair), std::lround(at[1] / hair)}, points->GetNumberOfPoints());
      if (fresh) points->InsertNextPoint(at[0], at[1], 0);
      triangle[static_cast<std::size_t>(k)] = found->second;
    }
    if (triangle[0] == triangle[1] || triangle[1] == triangle[2] || triangle[2] == triangle[0]) continue;
    const vtkIdType made = flat->InsertNextCell(VTK_TRIANGLE, 3, triangle.data());
    to->CopyData(from, cell, made);
  }
  return flat;
}

}  // namespace

vtkSmartPointer<vtkUnstructuredGrid> section_of(vtkUnstructuredGrid* body, const SectionPlane& plane) {
  return plane.axis() >= 0
             ? section_across(body, plane.axis(), plane.place / plane.normal[static_cast<std::size_t>(plane.axis())])
             : oblique_section(body, plane);
}

}  // namespace wavy
