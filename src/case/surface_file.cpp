#include "case/surface_file.hpp"

#include <fmt/format.h>
#include <vtkCellArray.h>
#include <vtkCleanPolyData.h>
#include <vtkFeatureEdges.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkSmartPointer.h>
#include <vtkTriangleFilter.h>

#include <map>
#include <numeric>

#include "case/triangle_file.hpp"
#include "geometry/triangles.hpp"

namespace wavy {
namespace {

using Mesh = vtkSmartPointer<vtkPolyData>;

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

/// "(0.3, 0.1, 0.25) m": the middle of the first edge; `origin`: of the mesh's coordinates [m].
std::string place_of(const Mesh& edges, const Vec<3>& origin) {
  std::array<double, 6> b{};
  edges->GetCell(0)->GetBounds(b.data());
  return fmt::format("({:.4g}, {:.4g}, {:.4g}) m", origin[0] + 0.5 * (b[0] + b[1]), origin[1] + 0.5 * (b[2] + b[3]),
                     origin[2] + 0.5 * (b[4] + b[5]));
}

/// The triangles, with points that coincide joined and what has no area dropped.
Mesh joined(const Triangles& triangles) {
  vtkNew<vtkPoints> points;
  points->SetDataTypeToDouble();
  for (const auto& p : triangles.points) points->InsertNextPoint(p.data());
  vtkNew<vtkCellArray> cells;
  for (const auto& t : triangles.corners) {
    const std::array<vtkIdType, 3> corners{t[0], t[1], t[2]};
    cells->InsertNextCell(3, corners.data());
  }
  vtkNew<vtkPolyData> raw;
  raw->SetPoints(points);
  raw->SetPolys(cells);
  vtkNew<vtkCleanPolyData> clean;
  clean->SetInputData(raw);
  constexpr double same = 1e-6;  // of its size
  clean->SetTolerance(same);
  clean->ConvertPolysToLinesOff();
  clean->ConvertLinesToPointsOff();
  vtkNew<vtkTriangleFilter> again;  // drops what has become a line
  again->SetInputConnection(clean->GetOutputPort());
  again->PassVertsOff();
  again->PassLinesOff();
  again->Update();
  return again->GetOutput();
}

/// One closed surface.
struct Body {
  std::vector<std::array<int, 3>> triangles;  ///< counter-clockwise seen from outside
  double volume = 0;                          ///< as the file winds it: below 0 for a cavity
};

double volume_of(const std::vector<Vec<3>>& points, const std::array<int, 3>& t) {
  const auto at = [&](std::size_t k) { return points[static_cast<std::size_t>(t[k])]; };
  return dot<3>(at(0), cross(at(1), at(2))) / 6;
}

/// The closed surfaces that hang together by edges, each wound alike throughout. Every edge must have two triangles.
std::vector<Body> bodies_in(const std::vector<Vec<3>>& points, std::vector<std::array<int, 3>> triangles) {
  std::map<std::array<int, 2>, std::vector<std::size_t>> of_edge;
  const auto edge = [](int a, int b) { return std::array{std::min(a, b), std::max(a, b)}; };
  for (std::size_t i = 0; i < triangles.size(); ++i)
    for (std::size_t k = 0; k < 3; ++k) of_edge[edge(triangles[i][k], triangles[i][(k + 1) % 3])].push_back(i);
  const auto winds = [&](std::size_t i, int a, int b) {  // whether it goes from a to b
    for (std::size_t k = 0; k < 3; ++k)
      if (triangles[i][k] == a && triangles[i][(k + 1) % 3] == b) return true;
    return false;
  };
  std::vector<Body> bodies;
  std::vector<bool> seen(triangles.size());
  for (std::size_t start = 0; start < triangles.size(); ++start) {
    if (seen[start]) continue;
    Body body;
    double wound = 0;  // volume once all wind like the first
    std::vector<std::size_t> ahead{start};
    seen[start] = true;
    while (!ahead.empty()) {
      const std::size_t i = ahead.back();
      ahead.pop_back();
      wound += volume_of(points, triangles[i]);
      body.triangles.push_back(triangles[i]);
      for (std::size_t k = 0; k < 3; ++k) {
        const int a = triangles[i][k];
        const int b = triangles[i][(k + 1) % 3];
        for (const std::size_t next : of_edge[edge(a, b)]) {
          if (seen[next]) continue;
          seen[next] = true;
          body.volume += volume_of(points, triangles[next]);
          if (winds(next, a, b)) std::swap(triangles[next][0], triangles[next][1]);
          ahead.push_back(next);
        }
      }
    }
    body.volume += volume_of(points, body.triangles.front());
    // Where the file winds one surface in both ways it does not mean a cavity.
    if (std::abs(body.volume) < 0.5 * std::abs(wound)) body.volume = std::abs(wound);
    if (wound < 0)
      for (auto& t : body.triangles) std::swap(t[0], t[1]);
    bodies.push_back(std::move(body));
  }
  return bodies;
}

/// All bodies as one: overlapping ones are one body, those wound the other way round are cavities in larger ones.
Solid<3> united_bodies(const std::vector<Vec<3>>& points, std::vector<Body> bodies, double size) {
  std::ranges::sort(bodies, std::ranges::greater{}, [](const Body& body) { return std::abs(body.volume); });
  const double outer = bodies.front().volume < 0 ? -1 : 1;  // some files wind everything inwards
  Solid<3> result;
  for (std::size_t i = 0; i < bodies.size(); ++i) {
    Solid<3> body = triangle_solid(points, bodies[i].triangles);
    // Faces that two bodies share shall not be left as walls without thickness between them.
    const double hair = bodies.size() == 1 ? 0.0 : 1e-6 * size;
    const auto exact = body.distance;
    if (hair > 0) body.distance = [exact, hair](const Vec<3>& p) { return exact(p) - hair; };
    result = i == 0 ? body : bodies[i].volume * outer > 0 ? union_of<3>(result, body) : difference<3>(result, body);
  }
  return result;
}

}  // namespace

Solid<3> read_surface(Part& part) {
  const std::filesystem::path file = part.file("file");
  const std::string kind = lower(file.extension().string());
  if (kind != ".stl" && kind != ".obj")
    throw part.wrong("file", fmt::format("'{}' is no surface file: its name must end in .stl or .obj", file.string()));
  part.require_file("file", file);
  if (!part.has("unit"))
    throw part.wrong("file", "a surface file does not say what its numbers mean: the key 'unit' is missing",
                     "write unit = \"1 mm\" if one unit of the file is a millimetre");
  const double unit = part.quantity("unit");

  Triangles raw = read_triangles(file);
  constexpr std::size_t fewest = 4;  // faces of a closed body
  if (raw.corners.size() < fewest)
    throw part.wrong(
        "file", fmt::format("'{}' holds {} faces; a body has at least {}", file.string(), raw.corners.size(), fewest));
  // In metres, from the middle of the body: far from the origin digits would be lost.
  Vec<3> lower = raw.points.front();
  Vec<3> upper = lower;
  for (const auto& p : raw.points)
    for (std::size_t d = 0; d < 3; ++d) {
      lower[d] = std::min(lower[d], p[d]);
      upper[d] = std::max(upper[d], p[d]);
    }
  const Vec<3> middle = along<3>(lower, 0.5, minus<3>(upper, lower));
  const double size = length<3>(minus<3>(upper, lower));
  constexpr double digits_of_float = 6e-8;
  constexpr double coarsest = 1e-5;
  const double far = length<3>(middle);
  if (!(size > 0) || !std::isfinite(far * unit) || far * digits_of_float > coarsest * size)
    throw part.wrong(
        "file",
        fmt::format("the body in '{}' is {:.3g} wide and lies {:.3g} from the origin, in units of the file: "
                    "too far for its coordinates to tell its shape",
                    file.string(), size, far),
        "move it near the origin in the program that made the file");
  for (auto& p : raw.points)
    for (std::size_t d = 0; d < 3; ++d) p[d] = unit * (p[d] - middle[d]);
  const Vec<3> origin = along<3>(Vec<3>{}, unit, middle);

  const Mesh mesh = joined(raw);
  if (const Mesh shared = faulty_edges(mesh, false); shared->GetNumberOfLines() > 0)
    throw part.wrong("file",
                     fmt::format("the surface in '{}' is not that of one body: {} edges belong to more than two faces, "
                                 "one at {}",
                                 file.string(), shared->GetNumberOfLines(), place_of(shared, origin)),
                     "remove inner or doubled faces in the program that made the file");
  if (const Mesh holes = faulty_edges(mesh, true); holes->GetNumberOfLines() > 0)
    throw part.wrong(
        "file",
        fmt::format("the surface in '{}' is not closed: {} open {} at {}", file.string(), holes->GetNumberOfLines(),
                    holes->GetNumberOfLines() == 1 ? "edge" : "edges, one of them", place_of(holes, origin)),
        "close the hole in the program that made the file");
  std::vector<Vec<3>> points(static_cast<std::size_t>(mesh->GetNumberOfPoints()));
  for (std::size_t i = 0; i < points.size(); ++i) mesh->GetPoint(static_cast<vtkIdType>(i), points[i].data());
  std::vector<std::array<int, 3>> triangles;
  vtkNew<vtkIdList> corners;
  for (vtkIdType i = 0; i < mesh->GetNumberOfCells(); ++i) {
    mesh->GetCellPoints(i, corners);
    triangles.push_back({static_cast<int>(corners->GetId(0)), static_cast<int>(corners->GetId(1)),
                         static_cast<int>(corners->GetId(2))});
  }
  if (triangles.empty()) throw part.wrong("file", fmt::format("the body in '{}' has no volume", file.string()));
  return moved<3>(united_bodies(points, bodies_in(points, std::move(triangles)), unit * size), origin);
}

}  // namespace wavy
