#include "figures/drawn_solids.hpp"

#include <vtkContourFilter.h>
#include <vtkDoubleArray.h>
#include <vtkGeometryFilter.h>
#include <vtkImageData.h>
#include <vtkNew.h>
#include <vtkPointData.h>
#include <vtkTableBasedClipDataSet.h>

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

using Point = Point3;

/// Distance from what is solid, negative inside: of the inserts, or of all beyond the vessel.
double distance(const SolidShapes& shapes, bool inserts, Point p, const Images& images) {
  p = images.computed(p);
  const double beyond = shapes.vessel ? shapes.vessel(p) : -1e300;  // positive beyond it
  if (!inserts) return -beyond;
  return shapes.inserts ? std::max(shapes.inserts(p), beyond) : 1e300;
}

/// Samples on a lattice over the bounds with about so many points.
vtkSmartPointer<vtkImageData> samples(const std::array<double, 6>& bounds, double points, int dimensions,
                                      const std::function<double(const Point&)>& value) {
  double volume = 1;
  double longest = 0;
  for (std::size_t d = 0; d < static_cast<std::size_t>(dimensions); ++d) {
    volume *= bounds[2 * d + 1] - bounds[2 * d];
    longest = std::max(longest, bounds[2 * d + 1] - bounds[2 * d]);
  }
  const double wanted = std::max(std::pow(volume / points, 1.0 / dimensions), longest / 2000);
  std::array<int, 3> count{1, 1, 1};
  Point spacing{1, 1, 1};
  for (std::size_t d = 0; d < static_cast<std::size_t>(dimensions); ++d) {
    const double extent = bounds[2 * d + 1] - bounds[2 * d];
    count[d] = std::max(2, static_cast<int>(std::ceil(extent / wanted)) + 1);
    spacing[d] = extent / (count[d] - 1);
  }
  auto image = vtkSmartPointer<vtkImageData>::New();
  image->SetDimensions(count.data());
  image->SetSpacing(spacing.data());
  image->SetOrigin(bounds[0], bounds[2], dimensions == 3 ? bounds[4] : 0.0);
  vtkNew<vtkDoubleArray> values;
  values->SetName("distance");
  values->SetNumberOfValues(image->GetNumberOfPoints());
  vtkIdType at = 0;
  for (int k = 0; k < count[2]; ++k)
    for (int j = 0; j < count[1]; ++j)
      for (int i = 0; i < count[0]; ++i)
        values->SetValue(at++, value({bounds[0] + i * spacing[0], bounds[2] + j * spacing[1],
                                      dimensions == 3 ? bounds[4] + k * spacing[2] : 0.0}));
  image->GetPointData()->SetScalars(values);
  return image;
}

/// The distance at which a solid ends: a hair outside, so that sides that it shares with the vessel's box are no edges.
double edge_of(vtkImageData* image) {
  constexpr double hair = 1e-6;
  return hair * image->GetLength();
}

vtkSmartPointer<vtkPolyData> contour_of(vtkImageData* image) {
  vtkNew<vtkContourFilter> contour;
  contour->SetInputData(image);
  contour->SetValue(0, edge_of(image));
  contour->Update();
  return contour->GetOutput();
}

}  // namespace

DrawnSolid solid_area(const SolidShapes& shapes, bool inserts, const std::array<double, 6>& bounds,
                      const PagePlane& page, const Images& images) {
  constexpr double points = 6e5;
  const auto image = samples(bounds, points, 2, [&](const Point& seen) {
    return distance(shapes, inserts, page.at(seen[0], seen[1]), images);
  });
  vtkNew<vtkTableBasedClipDataSet> clip;
  clip->SetInputData(image);
  clip->SetValue(edge_of(image));
  clip->InsideOutOn();
  vtkNew<vtkGeometryFilter> area;
  area->SetInputConnection(clip->GetOutputPort());
  area->Update();
  return {area->GetOutput(), contour_of(image)};
}

DrawnSolid solid_surface(const SolidShapes& shapes, bool inserts, const std::array<double, 6>& bounds,
                         const Images& images) {
  constexpr double points = 1e6;
  const auto image = samples(bounds, points, 3, [&](const Point& p) { return distance(shapes, inserts, p, images); });
  return {contour_of(image), nullptr};
}

}  // namespace wavy
