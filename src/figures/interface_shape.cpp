#include "figures/interface_shape.hpp"

#include <vtkContourFilter.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPolyData.h>
#include <vtkStripper.h>

#include <array>
#include <cstdint>
#include <cstring>

#include "base/error.hpp"
#include "case/snapshot_reader.hpp"
#include "figures/shown.hpp"

namespace wavy {
namespace {

/// Where half of the surroundings of a point are filled, within the walls.
struct Surface {
  Shown shown;
  PointData points;
  vtkNew<vtkContourFilter> contour;

  explicit Surface(const std::filesystem::path& snapshot)
      : shown(shown_of(read_snapshot(snapshot, fields_named({"open"})), PictureOptions{}, {})), points(shown.data) {
    contour->SetInputConnection(points.inside());
    contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "fraction");
    contour->SetValue(0, 0.5);
  }
};

Error wrong_dimension(const char* what, const char* remedy) { return input_error({"", 0, 0, "--to"}, what, remedy); }

void append(std::string& bytes, const Point3& p) {
  for (const double c : p) {
    const auto number = static_cast<float>(c);
    std::array<char, sizeof number> raw{};
    std::memcpy(raw.data(), &number, sizeof number);
    bytes.append(raw.data(), raw.size());
  }
}

}  // namespace

std::string interface_stl(const std::filesystem::path& snapshot) {
  Surface surface(snapshot);
  if (surface.shown.flat)
    throw wrong_dimension("the interface of a 2-D run is a line, not a surface", "name a .csv for its points");
  surface.contour->Update();
  vtkPolyData* triangles = surface.contour->GetOutput();
  constexpr std::size_t head = 80;
  std::string bytes(head, ' ');
  const std::string title = "interface of a snapshot, in metres";
  bytes.replace(0, title.size(), title);
  std::string body;
  std::uint32_t count = 0;
  vtkNew<vtkIdList> ids;
  triangles->BuildCells();
  for (vtkIdType i = 0; i < triangles->GetNumberOfCells(); ++i) {
    triangles->GetCellPoints(i, ids);
    if (ids->GetNumberOfIds() != 3) continue;
    std::array<Point3, 3> p{};
    for (int k = 0; k < 3; ++k) triangles->GetPoint(ids->GetId(k), p[static_cast<std::size_t>(k)].data());
    Point3 a{};
    Point3 b{};
    for (std::size_t d = 0; d < 3; ++d) {
      a[d] = p[1][d] - p[0][d];
      b[d] = p[2][d] - p[0][d];
    }
    Point3 normal{a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
    const double length = std::sqrt(dot3(normal, normal));
    if (!(length > 0)) continue;
    for (double& c : normal) c /= length;
    append(body, normal);
    for (const auto& corner : p) append(body, corner);
    body.append(2, '\0');
    ++count;
  }
  std::array<char, sizeof count> number{};
  std::memcpy(number.data(), &count, sizeof count);
  return bytes + std::string(number.data(), number.size()) + body;
}

Table interface_lines(const std::filesystem::path& snapshot) {
  Surface surface(snapshot);
  if (!surface.shown.flat) throw wrong_dimension("the interface of a 3-D run is a surface", "name an .stl for it");
  vtkNew<vtkStripper> joined;
  joined->SetInputConnection(surface.contour->GetOutputPort());
  joined->JoinContiguousSegmentsOn();
  joined->SetMaximumLength(1 << 24);
  joined->Update();
  vtkPolyData* lines = joined->GetOutput();
  Table table{{"line", "x", "y"}, {"1", "m", "m"}, {{}, {}, {}}};
  vtkNew<vtkIdList> ids;
  lines->BuildCells();
  for (vtkIdType i = 0; i < lines->GetNumberOfCells(); ++i) {
    lines->GetCellPoints(i, ids);
    for (vtkIdType k = 0; k < ids->GetNumberOfIds(); ++k) {
      Point3 p{};
      lines->GetPoint(ids->GetId(k), p.data());
      table.columns[0].push_back(static_cast<double>(i + 1));
      table.columns[1].push_back(p[0]);
      table.columns[2].push_back(p[1]);
    }
  }
  return table;
}

}  // namespace wavy
