#include "figures/body.hpp"

#include <fmt/format.h>
#include <vtkActor.h>
#include <vtkCamera.h>
#include <vtkClipPolyData.h>
#include <vtkContourFilter.h>
#include <vtkGeometryFilter.h>
#include <vtkLightKit.h>
#include <vtkNew.h>
#include <vtkOutlineFilter.h>
#include <vtkPlane.h>
#include <vtkPolyDataMapper.h>
#include <vtkPolyDataNormals.h>
#include <vtkProperty.h>
#include <vtkTextActor.h>

#include <algorithm>
#include <cmath>

#include "figures/actors.hpp"
#include "figures/drawn_solids.hpp"
#include "figures/layers.hpp"

namespace wavy {
namespace {

/// From where bodies are looked at, seen from their middle.
constexpr Point3 view_from{-1.1, -2.0, 1.0};

/// The vessel and inserts, seen through.
void add_glass(vtkRenderer* renderer, const Shown& shown, PointData& points, const PictureOptions& options,
               const std::array<double, 6>& b) {
  if (options.solids) {
    for (const bool inserts : {false, true}) {
      if (inserts ? !options.solids->inserts : !options.solids->vessel) continue;
      const auto surface = solid_surface(*options.solids, inserts, b, shown.images).body;
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
  camera->SetPosition(centre[0] + view_from[0], centre[1] + view_from[1], centre[2] + view_from[2]);
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

/// Skin in one colour or in those of the quantity.
vtkSmartPointer<vtkActor> skin_of(vtkAlgorithmOutput* surface, vtkLookupTable* colours, bool coloured,
                                  const Colour& plain) {
  vtkNew<vtkPolyDataNormals> normals;
  normals->SetInputConnection(surface);
  normals->SetFeatureAngle(50);
  vtkNew<vtkPolyDataMapper> mapper;
  mapper->SetInputConnection(normals->GetOutputPort());
  auto actor = vtkSmartPointer<vtkActor>::New();
  if (coloured) {
    mapper->SetScalarModeToUsePointFieldData();
    mapper->SelectColorArray("shown");
    mapper->SetLookupTable(colours);
    mapper->UseLookupTableScalarRangeOn();
  } else {
    mapper->ScalarVisibilityOff();
    actor->GetProperty()->SetColor(plain[0], plain[1], plain[2]);
  }
  actor->SetMapper(mapper);
  actor->GetProperty()->SetInterpolationToPhong();
  actor->GetProperty()->SetAmbient(coloured ? 0.55 : 0.15);
  actor->GetProperty()->SetDiffuse(coloured ? 0.6 : 1.0);
  actor->GetProperty()->SetSpecular(coloured ? 0.0 : 0.2);
  actor->GetProperty()->SetSpecularPower(30);
  return actor;
}

/// What lies beyond the plane that cuts a body open, seen from where the picture looks from.
vtkSmartPointer<vtkPlane> opened_by(const SectionPlane& plane) {
  auto cut = vtkSmartPointer<vtkPlane>::New();
  const double side = dot3(plane.normal, view_from) > 0 ? -1 : 1;  // the side that is kept lies away from the reader
  cut->SetNormal(side * plane.normal[0], side * plane.normal[1], side * plane.normal[2]);
  const Point3 origin = page_of_section(plane).origin;
  cut->SetOrigin(origin.data());
  return cut;
}

/// The denser phase, cut open where that is asked for.
void add_liquid(vtkRenderer* renderer, PointData& points, vtkLookupTable* colours, const PictureOptions& options) {
  vtkNew<vtkTableBasedClipDataSet> clip;
  clip->SetInputConnection(points.inside());
  clip->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, "fraction");
  clip->SetValue(0.5);
  vtkNew<vtkTableBasedClipDataSet> open;
  if (options.cut_open) {
    open->SetInputConnection(clip->GetOutputPort());
    open->SetClipFunction(opened_by(*options.cut_open));
  }
  vtkNew<vtkGeometryFilter> boundary;
  boundary->SetInputConnection(options.cut_open ? open->GetOutputPort() : clip->GetOutputPort());
  auto skin = skin_of(boundary->GetOutputPort(), colours, !is_share(options), liquid_colour);
  if (options.streamlines || options.arrows) skin->GetProperty()->SetOpacity(0.35);  // they are within
  renderer->AddActor(skin);
}

/// Surfaces of equal value, cut open where that is asked for.
void add_value_surfaces(vtkRenderer* renderer, PointData& points, vtkLookupTable* colours,
                        const PictureOptions& options) {
  constexpr std::array<Colour, 3> plain{{liquid_colour, {0.86, 0.72, 0.45}, {0.45, 0.68, 0.66}}};
  for (std::size_t i = 0; i < options.surfaces.size(); ++i) {
    const auto& one = options.surfaces[i];
    vtkNew<vtkContourFilter> contour;
    contour->SetInputConnection(points.inside());
    contour->SetInputArrayToProcess(0, 0, 0, vtkDataObject::FIELD_ASSOCIATION_POINTS, one.quantity->name.c_str());
    contour->SetValue(0, one.value);
    vtkNew<vtkClipPolyData> open;
    if (options.cut_open) {
      open->SetInputConnection(contour->GetOutputPort());
      open->SetClipFunction(opened_by(*options.cut_open));
    }
    auto skin = skin_of(options.cut_open ? open->GetOutputPort() : contour->GetOutputPort(), colours,
                        !is_share(options), plain[i % plain.size()]);
    if (options.surfaces.size() > 1) skin->GetProperty()->SetOpacity(0.6);
    renderer->AddActor(skin);
  }
}

}  // namespace

std::string add_body(vtkRenderer* renderer, const Shown& shown, vtkLookupTable* colours,
                     const PictureOptions& options) {
  for (const auto& one : options.surfaces) add_quantity(*one.quantity, shown.data);
  PointData points(shown.data);
  std::array<double, 6> b{};
  shown.data->GetBounds(b.data());
  add_glass(renderer, shown, points, options, b);
  if (options.surfaces.empty())
    add_liquid(renderer, points, colours, options);
  else
    add_value_surfaces(renderer, points, colours, options);
  std::string words;
  if (options.streamlines) {
    const auto cut = options.cut_open ? opened_by(*options.cut_open) : nullptr;
    add_stream_tubes(renderer, points.inside(), shown.velocity, b, cut);
  }
  if (options.arrows) words = add_body_arrows(renderer, points.inside(), shown.velocity, b);
  vtkNew<vtkOutlineFilter> outline;
  outline->SetInputData(shown.data);
  renderer->AddActor(
      lines_of(outline->GetOutputPort(), points.cut ? Colour{0.75, 0.75, 0.78} : ink, points.cut ? 1.0F : 2.0F, 0));
  add_boxes(renderer, shown, "thin_walls", ink, 1.5F, 0);
  add_boxes(renderer, shown, "openings", opening_colour, 3.5F, 0);

  face_body(renderer, options, b);
  name_openings(renderer, shown, [&](const std::array<double, 3>& p) {
    renderer->SetWorldPoint(p[0], p[1], p[2], 1);
    renderer->WorldToDisplay();
    const double* at = renderer->GetDisplayPoint();
    return std::array{at[0], at[1]};
  });
  const auto extents = fmt::format("x, y, z: {:.4g} m x {:.4g} m x {:.4g} m; x to the right, y to the back",
                                   b[1] - b[0], b[3] - b[2], b[5] - b[4]);
  renderer->AddActor2D(text_at(extents, 30, 24, 17));
  return words;
}

}  // namespace wavy
