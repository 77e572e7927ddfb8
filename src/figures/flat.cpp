#include "figures/flat.hpp"

#include <fmt/format.h>
#include <vtkActor.h>
#include <vtkCleanPolyData.h>
#include <vtkContourFilter.h>
#include <vtkFeatureEdges.h>
#include <vtkGeometryFilter.h>
#include <vtkNew.h>
#include <vtkOutlineFilter.h>
#include <vtkPolyDataMapper.h>
#include <vtkProperty.h>

#include "figures/actors.hpp"
#include "figures/drawn_solids.hpp"
#include "figures/layers.hpp"

namespace wavy {
namespace {

vtkSmartPointer<vtkActor> rim_of(vtkPolyData* lines, const Colour& colour, float width, double lift) {
  auto actor = filled(lines, colour, lift);
  actor->GetProperty()->SetLineWidth(width);
  return actor;
}

/// What is beyond the vessel's wall stays blank, inserts are grey; both have a rim that is seen on dark fields too.
void add_areas(vtkRenderer* renderer, const Shown& shown, const PictureOptions& options,
               const std::array<double, 6>& bounds, double lift) {
  const SolidShapes& shapes = *options.solids;
  for (const bool inserts : {false, true}) {
    if (inserts ? !shapes.inserts : !shapes.vessel) continue;
    const DrawnSolid solid = solid_area(shapes, inserts, bounds, shown.page, shown.images);
    renderer->AddActor(filled(solid.body, inserts ? insert_colour : paper, (inserts ? 1.4 : 1.2) * lift));
    renderer->AddActor(rim_of(solid.rim, paper, 5.0F, 1.6 * lift));
    renderer->AddActor(rim_of(solid.rim, ink, 2.5F, 1.8 * lift));
  }
}

/// Titles of the axes of a flat picture.
std::array<const char*, 2> axis_titles(const PictureOptions& options) {
  if (!options.section) return {"x [m]", "y [m]"};
  const int across = options.section->axis();
  if (across < 0) return {"along the section [m]", options.section->normal[2] == 0 ? "z [m]" : "up the section [m]"};
  return {across == 0 ? "y [m]" : "x [m]", across == 2 ? "y [m]" : "z [m]"};
}

/// What is laid over a flat picture. Returns what is to be said of it.
std::string add_layers(vtkRenderer* renderer, const Shown& shown, PointData& points, const Page& page,
                       const PictureOptions& options) {
  std::string words;
  const double lift = 0.6e-3 * (page.bounds[1] - page.bounds[0]);
  if (options.lines > 0) {
    const auto values = options.scale == PictureOptions::Scale::logarithmic
                            ? decades_within(shown.range[0], shown.range[1])
                            : round_values(shown.range[0], shown.range[1], options.lines);
    add_value_lines(renderer, points.inside(), values, lift);
    if (values.size() > 1)
      words = options.scale == PictureOptions::Scale::logarithmic
                  ? "   a line every decade"
                  : fmt::format("   a line every {:.4g}", values[1] - values[0]);
  }
  if (options.streamlines) add_streamlines(renderer, points.inside(), page, 2 * lift);
  if (options.arrows) words += add_arrows(renderer, points.inside(), page, 3 * lift);
  return words;
}

}  // namespace

void add_frame(vtkRenderer* renderer, const Shown& shown, PointData& points, const PictureOptions& options,
               const Page& page) {
  const double wide = page.bounds[1] - page.bounds[0];
  if (options.solids.has_value()) add_areas(renderer, shown, options, page.bounds, 1e-3 * wide);
  if (!options.solids.has_value() && points.cut) {
    vtkNew<vtkGeometryFilter> surface;
    surface->SetInputConnection(points.inside());
    vtkNew<vtkCleanPolyData> joined;  // what was computed and its image, without an edge between them
    joined->SetInputConnection(surface->GetOutputPort());
    vtkNew<vtkFeatureEdges> rim;
    rim->SetInputConnection(joined->GetOutputPort());
    rim->BoundaryEdgesOn();
    rim->FeatureEdgesOff();
    rim->NonManifoldEdgesOff();
    rim->ColoringOff();
    renderer->AddActor(lines_of(rim->GetOutputPort(), ink, 2.5F, 1e-3 * wide));
  } else if (!options.solids.has_value() || !options.solids->vessel) {
    vtkNew<vtkOutlineFilter> outline;
    outline->SetInputData(shown.data);
    renderer->AddActor(lines_of(outline->GetOutputPort(), ink, 2.5F, 2e-3 * wide));
  }
  add_boxes(renderer, shown, "thin_walls", paper, 7.0F, 2.4e-3 * wide);  // seen on dark fields too
  add_boxes(renderer, shown, "thin_walls", ink, 4.0F, 2.6e-3 * wide);
  add_boxes(renderer, shown, "openings", opening_colour, 6.0F, 3e-3 * wide);
}

void add_axes(vtkRenderer* renderer, const PictureOptions& options, const Page& page) {
  const auto titles = axis_titles(options);
  add_axis(renderer, page, 0, titles[0]);
  add_axis(renderer, page, 1, titles[1]);
}

std::string add_map(vtkRenderer* renderer, const Shown& shown, vtkLookupTable* colours, const PictureOptions& options) {
  std::array<double, 6> bounds{};
  shown.data->GetBounds(bounds.data());
  const Page page = page_of(bounds, options.width, options.height);
  const double wide = page.bounds[1] - page.bounds[0];

  const bool own_solids = options.solids.has_value();
  PointData points(shown.data);
  vtkNew<vtkGeometryFilter> surface;
  surface->SetInputConnection(own_solids ? points.everywhere->GetOutputPort() : points.inside());
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(surface->GetOutputPort());
  // The fraction is shown cell by cell, as it is; smooth fields are interpolated.
  if (is_share(options) || options.cells || options.unsmoothed)
    mapper->SetScalarModeToUseCellFieldData();
  else
    mapper->SetScalarModeToUsePointFieldData();
  mapper->SelectColorArray("shown");
  mapper->SetLookupTable(colours);
  mapper->UseLookupTableScalarRangeOn();
  mapper->SetInterpolateScalarsBeforeMapping(options.unsmoothed ? 0 : 1);
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
  contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, shown.fraction);
  contour->SetValue(0, 0.5);
  renderer->AddActor(lines_of(contour->GetOutputPort(), interface_colour, 2.5F, 1e-3 * wide));

  std::string words = add_layers(renderer, shown, points, page, options);

  add_frame(renderer, shown, points, options, page);

  face_page(renderer, page, options.width, options.height);
  name_openings(renderer, shown, [&](const std::array<double, 3>& p) {
    return std::array{page.left + (p[0] - page.bounds[0]) * page.scale,
                      page.bottom + (p[1] - page.bounds[2]) * page.scale};
  });
  add_axes(renderer, options, page);
  return words;
}

}  // namespace wavy
