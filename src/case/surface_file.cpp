#include "case/surface_file.hpp"

#include <fmt/format.h>
#include <vtkCleanPolyData.h>
#include <vtkFeatureEdges.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkOBJReader.h>
#include <vtkObject.h>
#include <vtkPolyData.h>
#include <vtkPolyDataNormals.h>
#include <vtkSTLReader.h>
#include <vtkSmartPointer.h>
#include <vtkTransform.h>
#include <vtkTransformPolyDataFilter.h>
#include <vtkTriangleFilter.h>

#include "geometry/triangles.hpp"

namespace wavy {
namespace {

using Mesh = vtkSmartPointer<vtkPolyData>;

template <class Reader>
Mesh read_with(const std::filesystem::path& file) {
  vtkNew<Reader> reader;
  reader->SetFileName(file.c_str());
  reader->Update();
  return reader->GetOutput();
}

/// Edges that one triangle alone has (`open`), or more than two share.
Mesh faulty_edges(const Mesh& mesh, bool open) {
  vtkNew<vtkFeatureEdges> edges;
  edges->SetInputData(mesh);
  edges->SetBoundaryEdges(open);
  edges->SetNonManifoldEdges(!open);
  edges->FeatureEdgesOff();
  edges->ManifoldEdgesOff();
  edges->ColoringOff();
  edges->Update();
  return edges->GetOutput();
}

/// "(0.3, 0.1, 0.25) m": the middle of the first edge.
std::string place_of(const Mesh& edges) {
  std::array<double, 6> bounds{};
  edges->GetCell(0)->GetBounds(bounds.data());
  return fmt::format("({:.4g}, {:.4g}, {:.4g}) m", 0.5 * (bounds[0] + bounds[1]), 0.5 * (bounds[2] + bounds[3]),
                     0.5 * (bounds[4] + bounds[5]));
}

/// The file's triangles in metres, cleaned.
Mesh cleaned(const Mesh& raw, double unit) {
  vtkNew<vtkTransform> scale;
  scale->Scale(unit, unit, unit);
  vtkNew<vtkTransformPolyDataFilter> scaled;
  scaled->SetInputData(raw);
  scaled->SetTransform(scale);
  vtkNew<vtkTriangleFilter> triangles;
  triangles->SetInputConnection(scaled->GetOutputPort());
  triangles->PassVertsOff();
  triangles->PassLinesOff();
  vtkNew<vtkCleanPolyData> joined;
  joined->SetInputConnection(triangles->GetOutputPort());
  constexpr double same = 1e-6;  // of its size
  joined->SetTolerance(same);
  joined->ConvertPolysToLinesOff();
  joined->ConvertLinesToPointsOff();
  vtkNew<vtkTriangleFilter> again;  // drops what has become a line
  again->SetInputConnection(joined->GetOutputPort());
  again->PassVertsOff();
  again->PassLinesOff();
  again->Update();
  return again->GetOutput();
}

}  // namespace

Solid<3> read_surface(Part& part) {
  const std::filesystem::path file = part.file("file");
  const std::string kind = lower(file.extension().string());
  if (kind != ".stl" && kind != ".obj")
    throw part.wrong("file", fmt::format("'{}' is no surface file: its name must end in .stl or .obj", file.string()));
  if (!std::filesystem::is_regular_file(file))
    throw part.wrong("file", fmt::format("there is no file '{}'", file.string()),
                     "give its path from the folder of the case file");
  if (!part.has("unit"))
    throw part.wrong("file", "a surface file does not say what its numbers mean: the key 'unit' is missing",
                     "write unit = \"1 mm\" if one unit of the file is a millimetre");
  const double unit = part.quantity("unit");
  if (!(unit > 0)) throw part.wrong("unit", "the unit must be positive");

  const int warnings = vtkObject::GetGlobalWarningDisplay();
  vtkObject::GlobalWarningDisplayOff();
  const Mesh raw = kind == ".stl" ? read_with<vtkSTLReader>(file) : read_with<vtkOBJReader>(file);
  vtkObject::SetGlobalWarningDisplay(warnings);
  constexpr vtkIdType fewest = 4;  // faces of a closed body
  if (raw->GetNumberOfPolys() + raw->GetNumberOfStrips() < fewest)
    throw part.wrong("file", fmt::format("'{}' holds {} faces; a body has at least {}", file.string(),
                                         raw->GetNumberOfPolys(), fewest));
  const Mesh mesh = cleaned(raw, unit);
  if (const Mesh shared = faulty_edges(mesh, false); shared->GetNumberOfLines() > 0)
    throw part.wrong("file",
                     fmt::format("the surface in '{}' is not that of one body: {} edges belong to more than two faces, "
                                 "one at {}",
                                 file.string(), shared->GetNumberOfLines(), place_of(shared)),
                     "remove inner or doubled faces in the program that made the file");
  if (const Mesh holes = faulty_edges(mesh, true); holes->GetNumberOfLines() > 0)
    throw part.wrong(
        "file",
        fmt::format("the surface in '{}' is not closed: {} open {} at {}", file.string(), holes->GetNumberOfLines(),
                    holes->GetNumberOfLines() == 1 ? "edge" : "edges, one of them", place_of(holes)),
        "close the hole in the program that made the file");
  vtkNew<vtkPolyDataNormals> outward;
  outward->SetInputData(mesh);
  outward->SplittingOff();
  outward->ConsistencyOn();
  outward->AutoOrientNormalsOn();
  outward->ComputeCellNormalsOn();
  outward->Update();

  vtkPolyData* closed = outward->GetOutput();
  std::vector<Vec<3>> points(static_cast<std::size_t>(closed->GetNumberOfPoints()));
  for (std::size_t i = 0; i < points.size(); ++i) closed->GetPoint(static_cast<vtkIdType>(i), points[i].data());
  std::vector<std::array<int, 3>> triangles;
  vtkNew<vtkIdList> corners;
  for (vtkIdType i = 0; i < closed->GetNumberOfCells(); ++i) {
    closed->GetCellPoints(i, corners);
    triangles.push_back({static_cast<int>(corners->GetId(0)), static_cast<int>(corners->GetId(1)),
                         static_cast<int>(corners->GetId(2))});
  }
  return triangle_solid(points, triangles);
}

}  // namespace wavy
