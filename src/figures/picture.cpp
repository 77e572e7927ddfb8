#include "figures/picture.hpp"

#include <fmt/format.h>
#include <vtkActor.h>
#include <vtkAppendPolyData.h>
#include <vtkCamera.h>
#include <vtkCellData.h>
#include <vtkCellDataToPointData.h>
#include <vtkCleanPolyData.h>
#include <vtkContourFilter.h>
#include <vtkFeatureEdges.h>
#include <vtkFieldData.h>
#include <vtkFloatArray.h>
#include <vtkGeometryFilter.h>
#include <vtkLightKit.h>
#include <vtkLookupTable.h>
#include <vtkNew.h>
#include <vtkOutlineFilter.h>
#include <vtkOutlineSource.h>
#include <vtkPNGWriter.h>
#include <vtkPointData.h>
#include <vtkPolyDataMapper.h>
#include <vtkPolyDataNormals.h>
#include <vtkProperty.h>
#include <vtkReflectionFilter.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>
#include <vtkStringArray.h>
#include <vtkTableBasedClipDataSet.h>
#include <vtkTextActor.h>
#include <vtkTextProperty.h>
#include <vtkUnsignedCharArray.h>
#include <vtkUnstructuredGrid.h>
#include <vtkWindowToImageFilter.h>

#include <algorithm>
#include <cmath>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "case/snapshot_reader.hpp"
#include "figures/drawn_solids.hpp"
#include "figures/offscreen.hpp"
#include "figures/page.hpp"
#include "figures/section.hpp"
#include "results/snapshot_data.hpp"

namespace wavy {
namespace {

/// Words of the table of quantities, with the names of the phases.
std::string with_phases(const std::string& words, const std::array<std::string, 2>& phases) {
  return fmt::format(fmt::runtime(words), fmt::arg("denser", phases[0]), fmt::arg("lighter", phases[1]));
}

/// Heading of the colour bar and the factor from SI to its unit.
struct Heading {
  std::string text;
  double factor = 1;
};

Heading heading(const Quantity& quantity, double greatest, const std::array<std::string, 2>& phases) {
  const std::string words = with_phases(quantity.heading, phases);
  if (quantity.unit == "1") return {words, 1};
  const bool kilo = quantity.unit == "Pa" && greatest >= 2000;
  return {fmt::format("{} [{}{}]", words, kilo ? "k" : "", quantity.unit), kilo ? 1e-3 : 1};
}

/// Whether phases are shown as such, and not a field that they have.
bool is_share(const PictureOptions& options) { return options.quantity->scale == Quantity::Scale::share; }

/// Cell data with the wanted quantity, in the unit shown, as an array named "shown".
struct Loaded {
  vtkSmartPointer<vtkUnstructuredGrid> data;
  std::vector<SectionPlane> mirrors;  ///< below which it is an image
  std::array<double, 2> own{};        ///< least and greatest value [SI]
  std::array<double, 2> range{};      ///< of colours, in the unit shown
  std::string heading;
};

/// What was computed and its mirror image at the lower end of an axis, with the boxes of thin walls and openings.
vtkSmartPointer<vtkUnstructuredGrid> with_image(vtkUnstructuredGrid* part, int axis) {
  vtkNew<vtkReflectionFilter> reflection;
  reflection->SetInputData(part);
  if (axis == 0) reflection->SetPlaneToXMin();
  if (axis == 1) reflection->SetPlaneToYMin();
  if (axis == 2) reflection->SetPlaneToZMin();
  reflection->CopyInputOn();
  reflection->Update();
  auto whole = vtkSmartPointer<vtkUnstructuredGrid>::New();
  whole->ShallowCopy(reflection->GetOutput());
  std::array<double, 6> bounds{};
  part->GetBounds(bounds.data());
  const auto at = static_cast<std::size_t>(axis);
  const double plane = bounds[2 * at];
  const double hair = 1e-9 * (bounds[2 * at + 1] - plane);
  vtkNew<vtkFieldData> facts;
  facts->DeepCopy(part->GetFieldData());
  for (const char* name : {"thin_walls", "openings"}) {
    auto* boxes = facts->GetArray(name);
    if (boxes == nullptr) continue;
    const vtkIdType count = boxes->GetNumberOfTuples();
    for (vtkIdType i = 0; i < count; ++i) {
      std::array<double, 6> box{};
      boxes->GetTuple(i, box.data());
      const double low = 2 * plane - box[3 + at];
      const bool crosses = box[at] <= plane + hair;
      box[3 + at] = crosses ? box[3 + at] : 2 * plane - box[at];
      box[at] = low;
      if (crosses)
        boxes->SetTuple(i, box.data());
      else
        boxes->InsertNextTuple(box.data());
    }
  }
  whole->SetFieldData(facts);
  return whole;
}

/// What a section shows of the data.
vtkSmartPointer<vtkUnstructuredGrid> cut_by(vtkUnstructuredGrid* data, const SectionPlane& plane) {
  std::array<double, 6> bounds{};
  data->GetBounds(bounds.data());
  if (bounds[5] <= bounds[4])
    throw input_error({"", 0, 0, "--section"}, "the run is a 2-D one: it is a section already", "leave it out");
  auto section = section_of(data, plane.axis, plane.place);
  const auto axis = static_cast<std::size_t>(plane.axis);
  if (section->GetNumberOfCells() == 0)
    throw input_error({"", 0, 0, "--section"}, "the plane misses the vessel",
                      fmt::format("it reaches from {} to {} along {}", quantity(bounds[2 * axis], "m"),
                                  quantity(bounds[2 * axis + 1], "m"), "xyz"[axis]));
  return section;
}

Loaded load(vtkUnstructuredGrid* data, const PictureOptions& options, const std::array<std::string, 2>& phases) {
  const Quantity& quantity = *options.quantity;
  Loaded loaded;
  loaded.data = data;
  if (auto* mirrors = loaded.data->GetFieldData()->GetArray("mirrors"))
    for (vtkIdType i = 0; i < mirrors->GetNumberOfTuples(); ++i) {
      const auto axis = static_cast<int>(mirrors->GetTuple1(i));
      std::array<double, 6> b{};
      loaded.data->GetBounds(b.data());
      loaded.mirrors.push_back({axis, b[2 * static_cast<std::size_t>(axis)]});
      loaded.data = with_image(loaded.data, axis);
    }
  if (options.section) loaded.data = cut_by(loaded.data, *options.section);

  auto* cells = loaded.data->GetCellData();
  const std::string& kept = quantity.length_of.empty() ? quantity.name : quantity.length_of;
  auto* source = cells->GetArray(kept.c_str());
  if (source == nullptr)
    throw input_error({"", 0, 0, "--what"}, fmt::format("this snapshot has no field '{}'", kept),
                      "an older program wrote it: run the case again");
  vtkNew<vtkFloatArray> shown;
  shown->SetName("shown");
  const vtkIdType count = loaded.data->GetNumberOfCells();
  shown->SetNumberOfValues(count);
  auto* fraction = cells->GetArray("fraction");
  std::array<double, 6> bounds{};
  loaded.data->GetBounds(bounds.data());
  const bool flat = bounds[5] <= bounds[4];
  double least = 1e300;
  double greatest = -1e300;
  for (vtkIdType i = 0; i < count; ++i) {
    double value = 0;
    if (!quantity.length_of.empty()) {
      for (int d = 0; d < 3; ++d) value += source->GetComponent(i, d) * source->GetComponent(i, d);
      value = std::sqrt(value);
    } else {
      value = source->GetComponent(i, 0);
    }
    // Of a 3-D run only the denser phase is seen: the scale is its own.
    if (flat || fraction->GetComponent(i, 0) > 0.5) {
      least = std::min(least, value);
      greatest = std::max(greatest, value);
    }
    shown->SetValue(i, static_cast<float>(value));
  }
  if (least > greatest) least = greatest = 0;
  loaded.own = {least, greatest};
  if (options.range) {
    least = options.range->front();
    greatest = options.range->back();
  }
  const Heading words = heading(quantity, std::max(std::abs(least), std::abs(greatest)), phases);
  for (vtkIdType i = 0; i < count; ++i) shown->SetValue(i, shown->GetValue(i) * static_cast<float>(words.factor));
  loaded.range = {least * words.factor, greatest * words.factor};
  if (!options.range && quantity.scale != Quantity::Scale::free) loaded.range[0] = 0;
  if (!options.range && quantity.scale == Quantity::Scale::share) loaded.range[1] = 1;
  loaded.heading = words.text;
  cells->AddArray(shown);
  return loaded;
}

/// Something in one colour, whatever the light.
vtkSmartPointer<vtkActor> plain_actor(vtkPolyDataMapper* mapper, const Colour& colour, double lift) {
  mapper->ScalarVisibilityOff();
  auto actor = vtkSmartPointer<vtkActor>::New();
  actor->SetMapper(mapper);
  actor->GetProperty()->SetColor(colour[0], colour[1], colour[2]);
  actor->GetProperty()->LightingOff();
  actor->SetPosition(0, 0, lift);
  return actor;
}

vtkSmartPointer<vtkActor> filled(vtkPolyData* area, const Colour& colour, double lift) {
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputData(area);
  return plain_actor(mapper, colour, lift);
}

vtkSmartPointer<vtkActor> lines_of(vtkAlgorithmOutput* lines, const Colour& colour, float width, double lift) {
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(lines);
  auto actor = plain_actor(mapper, colour, lift);
  actor->GetProperty()->SetLineWidth(width);
  return actor;
}

/// Values at the corners of cells, and of these what lies within the walls.
struct PointData {
  vtkNew<vtkCellDataToPointData> everywhere;
  vtkNew<vtkTableBasedClipDataSet> cut_off;
  bool cut = false;  ///< walls cut cells
  /// Share of a point's surroundings that is open on a wall; less than that of a flat wall on the grid's boundary.
  static constexpr double half = 0.499;

  explicit PointData(const Loaded& loaded) {
    everywhere->SetInputData(loaded.data);
    everywhere->PassCellDataOn();
    cut = loaded.data->GetCellData()->HasArray("open") != 0;
    if (!cut) return;
    // Beyond the grid's boundary all is solid: without that a wall that bulges up to the boundary would look flat
    // there.
    everywhere->Update();
    auto* data = everywhere->GetOutput();
    auto* open = data->GetPointData()->GetArray("open");
    std::array<double, 6> b{};
    data->GetBounds(b.data());
    for (vtkIdType i = 0; i < data->GetNumberOfPoints(); ++i) {
      const double* p = data->GetPoint(i);
      bool on_boundary = false;
      for (std::size_t d = 0; d < (b[5] > b[4] ? 3 : 2); ++d) {
        const double hair = 1e-9 * (b[2 * d + 1] - b[2 * d]);
        on_boundary = on_boundary || p[d] - b[2 * d] < hair || b[2 * d + 1] - p[d] < hair;
      }
      if (on_boundary) open->SetTuple1(i, 0.5 * open->GetTuple1(i));
    }
    cut_off->SetInputData(data);
    cut_off->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "open");
    cut_off->SetValue(half);
  }
  [[nodiscard]] vtkAlgorithmOutput* inside() const {
    return cut ? cut_off->GetOutputPort() : everywhere->GetOutputPort();
  }
};

/// Boxes that the file names by two corners each (flat ones are faces, or lines in 2-D), as lines.
void add_boxes(vtkRenderer* renderer, const Loaded& loaded, const char* name, const Colour& colour, float width,
               double lift) {
  auto* boxes = loaded.data->GetFieldData()->GetArray(name);
  if (boxes == nullptr) return;
  vtkNew<vtkAppendPolyData> all;
  for (vtkIdType i = 0; i < boxes->GetNumberOfTuples(); ++i) {
    const double* c = boxes->GetTuple(i);
    vtkNew<vtkOutlineSource> outline;
    outline->SetBounds(c[0], c[3], c[1], c[4], c[2], c[5]);
    all->AddInputConnection(outline->GetOutputPort());
  }
  if (boxes->GetNumberOfTuples() > 0) renderer->AddActor(lines_of(all->GetOutputPort(), colour, width, lift));
}

/// The openings' names beside them; `on_page` maps a point to pixels.
template <class Fn>
void name_openings(vtkRenderer* renderer, const Loaded& loaded, Fn&& on_page) {
  auto* boxes = loaded.data->GetFieldData()->GetArray("openings");
  auto* names = vtkStringArray::SafeDownCast(loaded.data->GetFieldData()->GetAbstractArray("opening_names"));
  if (boxes == nullptr || names == nullptr) return;
  std::array<double, 6> b{};
  loaded.data->GetBounds(b.data());
  for (vtkIdType i = 0; i < names->GetNumberOfValues(); ++i) {
    const double* c = boxes->GetTuple(i);
    const std::array<double, 3> middle{(c[0] + c[3]) / 2, (c[1] + c[4]) / 2, (c[2] + c[5]) / 2};
    const auto at = on_page(middle);
    auto label = text_at(names->GetValue(i), 0, 0, 17);
    label->GetTextProperty()->SetColor(opening_colour.data());
    label->GetTextProperty()->SetBackgroundColor(paper.data());
    label->GetTextProperty()->SetBackgroundOpacity(0.8);
    // Inside the picture, beside the opening.
    const bool left = middle[0] <= b[0] + 1e-9 * (b[1] - b[0]);
    const bool right = middle[0] >= b[1] - 1e-9 * (b[1] - b[0]);
    const bool low =
        middle[1] <= b[2] + 1e-9 * (b[3] - b[2]) || (b[5] > b[4] && middle[2] <= b[4] + 1e-9 * (b[5] - b[4]));
    if (left || right) {
      label->SetPosition(at[0] + (left ? 12 : -12), at[1]);
      if (right) label->GetTextProperty()->SetJustificationToRight();
      label->GetTextProperty()->SetVerticalJustificationToCentered();
    } else {
      const auto end = on_page({c[3], c[4], c[5]});
      label->SetPosition(end[0] + 10, at[1] + (low ? 6 : -6));
      if (!low) label->GetTextProperty()->SetVerticalJustificationToTop();
    }
    renderer->AddActor2D(label);
  }
}

vtkSmartPointer<vtkActor> rim_of(vtkPolyData* lines, const Colour& colour, float width, double lift) {
  auto actor = filled(lines, colour, lift);
  actor->GetProperty()->SetLineWidth(width);
  return actor;
}

/// What is beyond the vessel's wall stays blank, inserts are grey; both have a rim that is seen on dark fields too.
void add_areas(vtkRenderer* renderer, const Loaded& loaded, const PictureOptions& options,
               const std::array<double, 6>& bounds, double lift) {
  const SolidShapes& shapes = *options.solids;
  for (const bool inserts : {false, true}) {
    if (inserts ? !shapes.inserts : !shapes.vessel) continue;
    const DrawnSolid solid = solid_area(shapes, inserts, bounds, options.section, loaded.mirrors);
    renderer->AddActor(filled(solid.body, inserts ? insert_colour : paper, (inserts ? 1.4 : 1.2) * lift));
    renderer->AddActor(rim_of(solid.rim, paper, 5.0F, 1.6 * lift));
    renderer->AddActor(rim_of(solid.rim, ink, 2.5F, 1.8 * lift));
  }
}

/// A 2-D field as a map in true proportions with axes.
void add_map(vtkRenderer* renderer, const Loaded& loaded, vtkLookupTable* colours, const PictureOptions& options) {
  std::array<double, 6> bounds{};
  loaded.data->GetBounds(bounds.data());
  const Page page = page_of(bounds, options.width, options.height);
  const double wide = page.bounds[1] - page.bounds[0];

  const bool own_solids = options.solids.has_value();
  PointData points(loaded);
  vtkNew<vtkGeometryFilter> surface;
  surface->SetInputConnection(own_solids ? points.everywhere->GetOutputPort() : points.inside());
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(surface->GetOutputPort());
  // The fraction is shown cell by cell, as it is; smooth fields are interpolated.
  if (is_share(options) || options.cells)
    mapper->SetScalarModeToUseCellFieldData();
  else
    mapper->SetScalarModeToUsePointFieldData();
  mapper->SelectColorArray("shown");
  mapper->SetLookupTable(colours);
  mapper->UseLookupTableScalarRangeOn();
  mapper->InterpolateScalarsBeforeMappingOn();
  vtkNew<vtkActor> actor;
  actor->SetMapper(mapper);
  actor->GetProperty()->LightingOff();
  if (options.cells) {
    actor->GetProperty()->EdgeVisibilityOn();
    actor->GetProperty()->SetEdgeColor(0.55, 0.53, 0.58);
    actor->GetProperty()->SetLineWidth(1.0F);
  }
  renderer->AddActor(actor);

  vtkNew<vtkContourFilter> contour;
  contour->SetInputConnection(own_solids ? points.everywhere->GetOutputPort() : points.inside());
  contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "fraction");
  contour->SetValue(0, 0.5);
  renderer->AddActor(lines_of(contour->GetOutputPort(), interface_colour, 2.5F, 1e-3 * wide));

  if (own_solids) add_areas(renderer, loaded, options, page.bounds, 1e-3 * wide);
  if (!own_solids && points.cut) {
    vtkNew<vtkCleanPolyData> joined;  // what was computed and its image, without an edge between them
    joined->SetInputConnection(surface->GetOutputPort());
    vtkNew<vtkFeatureEdges> rim;
    rim->SetInputConnection(joined->GetOutputPort());
    rim->BoundaryEdgesOn();
    rim->FeatureEdgesOff();
    rim->NonManifoldEdgesOff();
    rim->ColoringOff();
    renderer->AddActor(lines_of(rim->GetOutputPort(), ink, 2.5F, 1e-3 * wide));
  } else if (!own_solids || !options.solids->vessel) {
    vtkNew<vtkOutlineFilter> outline;
    outline->SetInputData(loaded.data);
    renderer->AddActor(lines_of(outline->GetOutputPort(), ink, 2.5F, 2e-3 * wide));
  }
  add_boxes(renderer, loaded, "thin_walls", paper, 7.0F, 2.4e-3 * wide);  // seen on dark fields too
  add_boxes(renderer, loaded, "thin_walls", ink, 4.0F, 2.6e-3 * wide);
  add_boxes(renderer, loaded, "openings", opening_colour, 6.0F, 3e-3 * wide);

  face_page(renderer, page, options.width, options.height);
  name_openings(renderer, loaded, [&](const std::array<double, 3>& p) {
    return std::array{page.left + (p[0] - page.bounds[0]) * page.scale,
                      page.bottom + (p[1] - page.bounds[2]) * page.scale};
  });
  const int across = options.section ? options.section->axis : 2;
  add_axis(renderer, page, 0, across == 0 ? "y [m]" : "x [m]");
  add_axis(renderer, page, 1, across == 2 ? "y [m]" : "z [m]");
}

/// The vessel and inserts, seen through.
void add_glass(vtkRenderer* renderer, const Loaded& loaded, PointData& points, const PictureOptions& options,
               const std::array<double, 6>& b) {
  if (options.solids) {
    for (const bool inserts : {false, true}) {
      if (inserts ? !options.solids->inserts : !options.solids->vessel) continue;
      const auto surface = solid_surface(*options.solids, inserts, b, loaded.mirrors).body;
      auto glass = filled(surface, inserts ? Colour{0.45, 0.44, 0.42} : Colour{0.35, 0.38, 0.42}, 0);
      glass->GetProperty()->LightingOn();
      glass->GetProperty()->SetOpacity(inserts ? 0.45 : 0.14);
      renderer->AddActor(glass);
    }
  } else if (points.cut) {
    vtkNew<vtkContourFilter> wall;
    wall->SetInputData(points.everywhere->GetOutput());
    wall->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "open");
    wall->SetValue(0, PointData::half);
    vtkNew<vtkPolyDataMapper> shell;
    shell->SetInputConnection(wall->GetOutputPort());
    shell->ScalarVisibilityOff();
    vtkNew<vtkActor> glass;
    glass->SetMapper(shell);
    glass->GetProperty()->SetColor(0.35, 0.38, 0.42);
    glass->GetProperty()->SetOpacity(0.14);
    renderer->AddActor(glass);
  }
}

/// Looks at a box from above its front left edge, as large as its corners allow, with room for the title above and the
/// extents below.
void face_body(vtkRenderer* renderer, const PictureOptions& options, std::array<double, 6> b) {
  vtkNew<vtkLightKit> lights;
  lights->AddLightsToRenderer(renderer);
  auto* camera = renderer->GetActiveCamera();
  camera->ParallelProjectionOn();
  const std::array<double, 3> centre{(b[0] + b[1]) / 2, (b[2] + b[3]) / 2, (b[4] + b[5]) / 2};
  camera->SetFocalPoint(centre.data());
  camera->SetPosition(centre[0] - 1.1, centre[1] - 2.0, centre[2] + 1.0);
  camera->SetViewUp(0, 0, 1);
  renderer->ResetCamera(b.data());
  double tallest = 0;
  double widest = 0;
  for (int n = 0; n < 8; ++n) {
    renderer->SetWorldPoint(b[n & 1], b[2 + (n >> 1 & 1)], b[4 + (n >> 2 & 1)], 1);
    renderer->WorldToView();
    const double* seen = renderer->GetViewPoint();
    widest = std::max(widest, std::abs(seen[0]));
    tallest = std::max(tallest, std::abs(seen[1]));
  }
  camera->Zoom(std::min(0.9 / widest, 0.8 / tallest));
  camera->SetWindowCenter(is_share(options) ? 0.0 : 0.08, 0.02);
  renderer->ResetCameraClippingRange();
}

/// A 3-D run: the denser phase as a lit body in the vessel's edges.
void add_body(vtkRenderer* renderer, const Loaded& loaded, vtkLookupTable* colours, const PictureOptions& options) {
  PointData points(loaded);
  std::array<double, 6> b{};
  loaded.data->GetBounds(b.data());
  add_glass(renderer, loaded, points, options, b);
  vtkNew<vtkTableBasedClipDataSet> clip;
  clip->SetInputConnection(points.inside());
  clip->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "fraction");
  clip->SetValue(0.5);
  vtkNew<vtkGeometryFilter> boundary;
  boundary->SetInputConnection(clip->GetOutputPort());
  vtkNew<vtkPolyDataNormals> normals;
  normals->SetInputConnection(boundary->GetOutputPort());
  normals->SetFeatureAngle(50);
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(normals->GetOutputPort());
  vtkNew<vtkActor> actor;
  if (is_share(options)) {
    mapper->ScalarVisibilityOff();
    actor->GetProperty()->SetColor(liquid_colour[0], liquid_colour[1], liquid_colour[2]);
  } else {
    mapper->SetScalarModeToUsePointFieldData();
    mapper->SelectColorArray("shown");
    mapper->SetLookupTable(colours);
    mapper->UseLookupTableScalarRangeOn();
  }
  actor->SetMapper(mapper);
  actor->GetProperty()->SetInterpolationToPhong();
  const bool coloured = !is_share(options);
  actor->GetProperty()->SetAmbient(coloured ? 0.55 : 0.15);
  actor->GetProperty()->SetDiffuse(coloured ? 0.6 : 1.0);
  actor->GetProperty()->SetSpecular(coloured ? 0.0 : 0.2);
  actor->GetProperty()->SetSpecularPower(30);
  renderer->AddActor(actor);
  vtkNew<vtkOutlineFilter> outline;
  outline->SetInputData(loaded.data);
  renderer->AddActor(
      lines_of(outline->GetOutputPort(), points.cut ? Colour{0.75, 0.75, 0.78} : ink, points.cut ? 1.0F : 2.0F, 0));
  add_boxes(renderer, loaded, "thin_walls", ink, 1.5F, 0);
  add_boxes(renderer, loaded, "openings", opening_colour, 3.5F, 0);

  face_body(renderer, options, b);
  name_openings(renderer, loaded, [&](const std::array<double, 3>& p) {
    renderer->SetWorldPoint(p[0], p[1], p[2], 1);
    renderer->WorldToDisplay();
    const double* at = renderer->GetDisplayPoint();
    return std::array{at[0], at[1]};
  });
  const auto extents = fmt::format("x, y, z: {:.4g} m x {:.4g} m x {:.4g} m; x to the right, y to the back",
                                   b[1] - b[0], b[3] - b[2], b[5] - b[4]);
  renderer->AddActor2D(text_at(extents, 30, 24, 17));
}

void draw(vtkUnstructuredGrid* data, double time, const std::string& title, const std::array<std::string, 2>& phases,
          const PictureOptions& options, const std::filesystem::path& png) {
  vtkObject::GlobalWarningDisplayOff();
  auto* window = offscreen_window();
  const Loaded loaded = load(data, options, phases);
  std::array<double, 6> bounds{};
  loaded.data->GetBounds(bounds.data());
  const bool flat = bounds[5] - bounds[4] <= 0;
  const RoundRange range = round_range(loaded.range[0], loaded.range[1]);
  const auto colours = colour_map(*options.quantity, range.least, range.greatest);

  vtkNew<vtkRenderer> renderer;
  renderer->SetBackground(paper[0], paper[1], paper[2]);
  window->SetSize(options.width, options.height);
  window->SetMultiSamples(8);
  window->AddRenderer(renderer);
  if (flat)
    add_map(renderer, loaded, colours, options);
  else
    add_body(renderer, loaded, colours, options);
  if (flat || !is_share(options))
    add_colour_bar(renderer, colours, loaded.heading, range, options.width, options.height);
  renderer->AddActor2D(text_at(title, 30, options.height - 46, 24));
  const bool alone = phases[1].empty();
  const Quantity& quantity_shown = *options.quantity;
  const bool own_title = alone && !quantity_shown.title_alone.empty();
  const std::string what = with_phases(own_title ? quantity_shown.title_alone : quantity_shown.title, phases);
  std::string subtitle = options.subtitle.empty() ? fmt::format("t = {:.3f} s   {}", time, what) : options.subtitle;
  if (options.section)
    subtitle +=
        fmt::format("   section at {} = {}", "xyz"[options.section->axis], quantity(options.section->place, "m"));
  renderer->AddActor2D(text_at(subtitle, 30, options.height - 78, 18));
  window->Render();

  vtkNew<vtkWindowToImageFilter> image;
  image->SetInput(window);
  image->ReadFrontBufferOff();
  image->SetShouldRerender(0);
  vtkNew<vtkPNGWriter> writer;
  writer->WriteToMemoryOn();
  writer->SetInputConnection(image->GetOutputPort());
  writer->Write();
  window->RemoveRenderer(renderer);
  vtkUnsignedCharArray* bytes = writer->GetResult();
  if (writer->GetErrorCode() != 0 || bytes == nullptr)
    throw failure(fmt::format("the picture '{}' cannot be made", png.string()));
  write_file(png, {reinterpret_cast<const char*>(bytes->GetPointer(0)),  // NOLINT(*-reinterpret-cast): bytes are bytes
                   static_cast<std::size_t>(bytes->GetNumberOfValues())});
}

}  // namespace

template <int D>
SolidShapes solid_shapes(const Setup<D>& setup) {
  SolidShapes shapes;
  const auto point = [](const std::array<double, 3>& p) {
    Vec<D> result;
    std::copy_n(p.begin(), D, result.begin());
    return result;
  };
  if (setup.vessel)
    shapes.vessel = [point, vessel = *setup.vessel](const std::array<double, 3>& p) {
      return vessel.distance(point(p));
    };
  if (!setup.inserts.empty())
    shapes.inserts = [point, inserts = setup.inserts](const std::array<double, 3>& p) {
      double least = 1e300;
      for (const auto& insert : inserts) least = std::min(least, insert.distance(point(p)));
      return least;
    };
  return shapes;
}

void draw_snapshot(const SnapshotFile& snapshot, const std::string& title, const std::array<std::string, 2>& phases,
                   const PictureOptions& options, const std::filesystem::path& png) {
  draw(read_snapshot(snapshot.file), snapshot.time, title, phases, options, png);
}

std::array<double, 2> range_of(const SnapshotFile& snapshot, const PictureOptions& options) {
  vtkObject::GlobalWarningDisplayOff();
  return load(read_snapshot(snapshot.file), options, {}).own;
}

template <int D>
void draw_model(const sharp::Model<D>& model, const std::string& title, const std::array<std::string, 2>& phases,
                const PictureOptions& options, const std::filesystem::path& png) {
  draw(snapshot_data(model), model.state().time, title, phases, options, png);
}

template SolidShapes solid_shapes<2>(const Setup<2>&);
template SolidShapes solid_shapes<3>(const Setup<3>&);
template void draw_model<2>(const sharp::Model<2>&, const std::string&, const std::array<std::string, 2>&,
                            const PictureOptions&, const std::filesystem::path&);
template void draw_model<3>(const sharp::Model<3>&, const std::string&, const std::array<std::string, 2>&,
                            const PictureOptions&, const std::filesystem::path&);

}  // namespace wavy
