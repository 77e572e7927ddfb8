#include "figures/layers.hpp"

#include <vtkArrowSource.h>
#include <vtkCellArray.h>
#include <vtkContourFilter.h>
#include <vtkDoubleArray.h>
#include <vtkGlyph3D.h>
#include <vtkGlyphSource2D.h>
#include <vtkIdList.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkPoints.h>
#include <vtkPolyData.h>
#include <vtkProbeFilter.h>
#include <vtkProperty.h>
#include <vtkStreamTracer.h>
#include <vtkTubeFilter.h>

#include <algorithm>
#include <cmath>
#include <deque>
#include <map>
#include <optional>
#include <tuple>
#include <utility>

#include "base/text.hpp"
#include "figures/actors.hpp"

namespace wavy {
namespace {

constexpr double resting = 0.01;  // share of the greatest speed below which nothing is drawn

/// Vectors at places: what a probe finds of an array there.
struct Sampled {
  vtkSmartPointer<vtkPolyData> data;  // points with the vectors "u", where there is something that moves
  double fastest = 0;
};

/// `wanted`: of a point array "fraction" the least value that counts, none for all.
Sampled sample(vtkAlgorithmOutput* points, const char* vectors, const std::vector<Point3>& places,
               std::optional<double> wanted) {
  vtkNew<vtkPoints> raster;
  for (const auto& p : places) raster->InsertNextPoint(p.data());
  vtkNew<vtkPolyData> at;
  at->SetPoints(raster);
  vtkNew<vtkProbeFilter> probe;
  probe->SetInputData(at);
  probe->SetSourceConnection(points);
  probe->Update();
  auto* found = probe->GetOutput()->GetPointData();
  auto* velocity = found->GetArray(vectors);
  auto* fraction = found->GetArray("fraction");
  auto* valid = found->GetArray(probe->GetValidPointMaskArrayName());
  Sampled result{vtkSmartPointer<vtkPolyData>::New(), 0};
  if (velocity == nullptr) return result;
  std::vector<std::pair<Point3, Point3>> moving;
  for (vtkIdType i = 0; i < raster->GetNumberOfPoints(); ++i) {
    if (valid->GetComponent(i, 0) == 0 || (wanted && fraction->GetComponent(i, 0) < *wanted)) continue;
    Point3 u{};
    velocity->GetTuple(i, u.data());
    result.fastest = std::max(result.fastest, std::sqrt(dot3(u, u)));
    moving.emplace_back(places[static_cast<std::size_t>(i)], u);
  }
  vtkNew<vtkPoints> kept;
  vtkNew<vtkDoubleArray> u;
  u->SetName("u");
  u->SetNumberOfComponents(3);
  for (const auto& [place, vector] : moving) {
    if (std::sqrt(dot3(vector, vector)) <= resting * result.fastest) continue;
    kept->InsertNextPoint(place.data());
    u->InsertNextTuple(vector.data());
  }
  result.data->SetPoints(kept);
  result.data->GetPointData()->SetVectors(u);
  return result;
}

/// Middles of so many equal parts of a stretch, each about as long as `step`.
std::vector<double> along(double lower, double upper, double step) {
  const int count = std::max(1, static_cast<int>(std::lround((upper - lower) / step)));
  std::vector<double> places;
  for (int i = 0; i < count; ++i) places.push_back(lower + (i + 0.5) * (upper - lower) / count);
  return places;
}

/// What arrows are said to be, by the speed of the longest [m/s].
std::string words_on(double longest) {
  return longest > 0 ? "   longest arrow: " + quantity(longest, "m/s", 3) : "   nothing moves";
}

/// Places apart from each other by about so many pixels.
std::vector<Point3> raster_on(const Page& page, double apart) {
  std::vector<Point3> places;
  const double step = apart / page.scale;
  for (const double y : along(page.bounds[2], page.bounds[3], step))
    for (const double x : along(page.bounds[0], page.bounds[1], step)) places.push_back({x, y, 0});
  return places;
}

/// Dark lines with a light rim, seen on all colours.
void add_rimmed(vtkRenderer* renderer, vtkAlgorithmOutput* lines, float width, double lift) {
  auto rim = lines_of(lines, paper, width + 1.6F, lift);
  rim->GetProperty()->SetOpacity(0.6);
  renderer->AddActor(rim);
  renderer->AddActor(lines_of(lines, ink, width, 1.5 * lift));
}

/// A lattice of places in a box, about so many along its longest side.
std::vector<Point3> lattice_in(const std::array<double, 6>& b, int count) {
  const double step = std::max({b[1] - b[0], b[3] - b[2], b[5] - b[4]}) / count;
  std::vector<Point3> places;
  for (const double z : along(b[4], b[5], step))
    for (const double y : along(b[2], b[3], step))
      for (const double x : along(b[0], b[1], step)) places.push_back({x, y, z});
  return places;
}

/// One streamline through a place, both ways; empty where there is none.
std::vector<Point3> streamline(vtkStreamTracer* tracer, const Point3& from) {
  tracer->SetStartPosition(from[0], from[1], from[2]);
  tracer->Update();
  vtkPolyData* lines = tracer->GetOutput();
  // Two branches, each from the place outwards.
  std::deque<Point3> joined;
  vtkNew<vtkIdList> ids;
  lines->BuildCells();
  for (vtkIdType line = 0; line < lines->GetNumberOfCells() && line < 2; ++line) {
    lines->GetCellPoints(line, ids);
    for (vtkIdType k = line == 0 ? 0 : 1; k < ids->GetNumberOfIds(); ++k) {
      Point3 p{};
      lines->GetPoint(ids->GetId(k), p.data());
      if (line == 0)
        joined.push_back(p);
      else
        joined.push_front(p);
    }
  }
  return {joined.begin(), joined.end()};
}

vtkNew<vtkStreamTracer> tracer_through(vtkAlgorithmOutput* points, const char* vectors, double longest, double step) {
  vtkNew<vtkStreamTracer> tracer;
  tracer->SetInputConnection(points);
  tracer->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, vectors);
  tracer->SetIntegratorTypeToRungeKutta4();
  tracer->SetIntegrationDirectionToBoth();
  tracer->SetMaximumPropagation(longest);
  tracer->SetIntegrationStepUnit(vtkStreamTracer::LENGTH_UNIT);
  tracer->SetInitialIntegrationStep(step);
  tracer->SetComputeVorticity(false);
  tracer->SetMaximumNumberOfSteps(4000);
  return tracer;
}

/// Lines that keep apart (Jobard & Lefer, Visualization in Scientific Computing (1997) 43, without their best order of
/// places): each goes on until it comes near another one, and begins where none is near. Cells of a raster as wide as
/// the distance hold the points that are there already.
class LinesApart {
 public:
  LinesApart(const Page& page, double apart) : page_(page), apart_(apart) {}

  [[nodiscard]] bool is_free(const Point3& p, double share) const {
    const auto [i, j] = cell(p);
    for (int x = i - 1; x <= i + 1; ++x)
      for (int y = j - 1; y <= j + 1; ++y) {
        const auto found = taken_.find({x, y});
        if (found == taken_.end()) continue;
        for (const auto& other : found->second)
          if (std::hypot(p[0] - other[0], p[1] - other[1]) < share * apart_) return false;
      }
    return true;
  }
  void take(const std::vector<Point3>& line) {
    for (const auto& p : line) taken_[cell(p)].push_back(p);
  }

 private:
  [[nodiscard]] std::pair<int, int> cell(const Point3& p) const {
    return {static_cast<int>(std::floor((p[0] - page_.bounds[0]) / apart_)),
            static_cast<int>(std::floor((p[1] - page_.bounds[2]) / apart_))};
  }
  const Page& page_;
  double apart_;
  std::map<std::pair<int, int>, std::vector<Point3>> taken_;
};

/// The part of a line round its place of beginning that keeps away from others, and from itself where it comes back.
std::vector<Point3> free_part(const std::vector<Point3>& line, const Point3& from, const LinesApart& others,
                              double apart) {
  constexpr double near = 0.5;  // of the distance at which lines begin
  const auto between = [](const Point3& p, const Point3& q) { return std::hypot(p[0] - q[0], p[1] - q[1]); };
  if (line.size() < 2) return {};
  std::vector<double> way{0};  // [m]
  std::size_t first = 0;
  for (std::size_t i = 1; i < line.size(); ++i) {
    way.push_back(way.back() + between(line[i], line[i - 1]));
    if (between(line[i], from) < between(line[first], from)) first = i;
  }
  std::size_t last = first;
  const auto is_free = [&](std::size_t next) {
    if (!others.is_free(line[next], near)) return false;
    for (std::size_t k = first; k <= last; ++k)
      if (std::abs(way[k] - way[next]) > 2 * apart && between(line[k], line[next]) < near * apart) return false;
    return true;
  };
  while (first > 0 && is_free(first - 1)) --first;
  while (last + 1 < line.size() && is_free(last + 1)) ++last;
  return {line.begin() + static_cast<std::ptrdiff_t>(first), line.begin() + static_cast<std::ptrdiff_t>(last) + 1};
}

/// The parts of lines that run through the denser phase and behind a plane, where there is one.
vtkSmartPointer<vtkPolyData> parts_of(vtkPolyData* lines, vtkPlane* cut) {
  auto parts = vtkSmartPointer<vtkPolyData>::New();
  vtkNew<vtkCellArray> kept;
  auto* fraction = lines->GetPointData()->GetArray("fraction");
  vtkNew<vtkIdList> ids;
  vtkNew<vtkIdList> part;
  const auto end_part = [&] {
    if (part->GetNumberOfIds() > 1) kept->InsertNextCell(part);
    part->Reset();
  };
  for (vtkIdType line = 0; line < lines->GetNumberOfCells(); ++line) {
    lines->GetCellPoints(line, ids);
    for (vtkIdType k = 0; k < ids->GetNumberOfIds(); ++k) {
      const vtkIdType id = ids->GetId(k);
      const bool seen =
          fraction->GetComponent(id, 0) > 0.5 && (cut == nullptr || cut->EvaluateFunction(lines->GetPoint(id)) > 0);
      if (seen)
        part->InsertNextId(id);
      else
        end_part();
    }
    end_part();
  }
  parts->SetPoints(lines->GetPoints());
  parts->SetLines(kept);
  return parts;
}

}  // namespace

void add_value_lines(vtkRenderer* renderer, vtkAlgorithmOutput* points, const std::vector<double>& values,
                     double lift) {
  vtkNew<vtkContourFilter> contour;
  contour->SetInputConnection(points);
  contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "shown");
  for (std::size_t i = 0; i < values.size(); ++i) contour->SetValue(static_cast<int>(i), values[i]);
  add_rimmed(renderer, contour->GetOutputPort(), 1.2F, lift);
}

std::string add_arrows(vtkRenderer* renderer, vtkAlgorithmOutput* points, const Page& page, double lift) {
  constexpr double apart = 34;  // [pixels]
  const Sampled found = sample(points, "on_page", raster_on(page, apart), std::nullopt);
  if (found.data->GetNumberOfPoints() == 0) return words_on(0);
  vtkNew<vtkGlyphSource2D> arrow;
  arrow->SetGlyphTypeToArrow();
  arrow->FilledOff();
  arrow->SetCenter(0.5, 0, 0);
  vtkNew<vtkGlyph3D> arrows;
  arrows->SetInputData(found.data);
  arrows->SetSourceConnection(arrow->GetOutputPort());
  arrows->SetVectorModeToUseVector();
  arrows->SetScaleModeToScaleByVector();
  arrows->SetScaleFactor(1.4 * apart / page.scale / found.fastest);
  add_rimmed(renderer, arrows->GetOutputPort(), 1.6F, lift);
  return words_on(found.fastest);
}

void add_streamlines(vtkRenderer* renderer, vtkAlgorithmOutput* points, const Page& page, double lift) {
  constexpr double apart = 20;  // [pixels]
  const double distance = apart / page.scale;
  const double longest = 2 * (page.bounds[1] - page.bounds[0] + page.bounds[3] - page.bounds[2]);
  const auto tracer = tracer_through(points, "on_page", longest, 0.25 * distance);
  const Sampled seeds = sample(points, "on_page", raster_on(page, apart), std::nullopt);
  tracer->SetTerminalSpeed(resting * seeds.fastest);
  LinesApart others(page, distance);
  vtkNew<vtkPoints> line_points;
  vtkNew<vtkCellArray> lines;
  vtkNew<vtkPoints> head_points;
  vtkNew<vtkDoubleArray> directions;
  directions->SetName("u");
  directions->SetNumberOfComponents(3);
  for (vtkIdType i = 0; i < seeds.data->GetNumberOfPoints(); ++i) {
    Point3 from{};
    seeds.data->GetPoint(i, from.data());
    if (!others.is_free(from, 1)) continue;
    const auto line = free_part(streamline(tracer, from), from, others, distance);
    double length = 0;
    for (std::size_t k = 1; k < line.size(); ++k)
      length += std::hypot(line[k][0] - line[k - 1][0], line[k][1] - line[k - 1][1]);
    if (length < 2 * distance) continue;
    others.take(line);
    lines->InsertNextCell(static_cast<int>(line.size()));
    for (const auto& p : line) lines->InsertCellPoint(line_points->InsertNextPoint(p.data()));
    const std::size_t middle = line.size() / 2;
    head_points->InsertNextPoint(line[middle].data());
    Point3 ahead{};
    for (std::size_t d = 0; d < 3; ++d) ahead[d] = line[middle][d] - line[middle - 1][d];
    directions->InsertNextTuple(ahead.data());
  }
  vtkNew<vtkPolyData> drawn;
  drawn->SetPoints(line_points);
  drawn->SetLines(lines);
  vtkNew<vtkPolyData> heads;
  heads->SetPoints(head_points);
  heads->GetPointData()->SetVectors(directions);
  for (const auto& [colour, width, raised] : {std::tuple{paper, 3.6F, lift}, {ink, 1.3F, 1.5 * lift}}) {
    vtkNew<vtkPolyDataMapper> own;
    own->SetInputData(drawn);
    auto actor = plain_actor(own, colour, raised);
    actor->GetProperty()->SetLineWidth(width);
    actor->GetProperty()->SetOpacity(width > 2 ? 0.6 : 1.0);
    renderer->AddActor(actor);
  }
  vtkNew<vtkGlyphSource2D> head;
  head->SetGlyphTypeToTriangle();
  head->SetRotationAngle(-90);
  vtkNew<vtkGlyph3D> arrow_heads;
  arrow_heads->SetInputData(heads);
  arrow_heads->SetSourceConnection(head->GetOutputPort());
  arrow_heads->SetVectorModeToUseVector();
  arrow_heads->SetScaleModeToDataScalingOff();
  arrow_heads->SetScaleFactor(13 / page.scale);
  renderer->AddActor(lines_of(arrow_heads->GetOutputPort(), ink, 1.0F, 1.8 * lift));
}

void add_stream_tubes(vtkRenderer* renderer, vtkAlgorithmOutput* points, const char* velocity,
                      const std::array<double, 6>& bounds, vtkPlane* cut) {
  constexpr int seeds_along = 7;
  const double size = std::max({bounds[1] - bounds[0], bounds[3] - bounds[2], bounds[5] - bounds[4]});
  const Sampled seeds = sample(points, velocity, lattice_in(bounds, seeds_along), 0.5);
  if (seeds.data->GetNumberOfPoints() == 0) return;
  const auto tracer = tracer_through(points, velocity, size, 0.01 * size);
  tracer->SetTerminalSpeed(resting * seeds.fastest);
  tracer->SetSourceData(seeds.data);
  tracer->Update();
  vtkNew<vtkTubeFilter> tubes;
  tubes->SetInputData(parts_of(tracer->GetOutput(), cut));
  tubes->SetRadius(0.002 * size);
  tubes->SetNumberOfSides(6);
  auto actor = lines_of(tubes->GetOutputPort(), {0.16, 0.15, 0.35}, 1.0F, 0);
  actor->GetProperty()->LightingOn();
  renderer->AddActor(actor);
}

std::string add_body_arrows(vtkRenderer* renderer, vtkAlgorithmOutput* points, const char* velocity,
                            const std::array<double, 6>& bounds) {
  constexpr int arrows_along = 16;
  const double size = std::max({bounds[1] - bounds[0], bounds[3] - bounds[2], bounds[5] - bounds[4]});
  const Sampled found = sample(points, velocity, lattice_in(bounds, arrows_along), 0.5);
  if (found.data->GetNumberOfPoints() == 0) return words_on(0);
  vtkNew<vtkArrowSource> arrow;
  vtkNew<vtkGlyph3D> arrows;
  arrows->SetInputData(found.data);
  arrows->SetSourceConnection(arrow->GetOutputPort());
  arrows->SetVectorModeToUseVector();
  arrows->SetScaleModeToScaleByVector();
  arrows->SetScaleFactor(1.4 * size / arrows_along / found.fastest);
  auto actor = lines_of(arrows->GetOutputPort(), {0.16, 0.15, 0.35}, 1.0F, 0);
  actor->GetProperty()->LightingOn();
  renderer->AddActor(actor);
  return words_on(found.fastest);
}

}  // namespace wavy
