// What pictures are put together from: areas, lines, boxes, names.
#pragma once

#include <vtkActor.h>
#include <vtkAlgorithmOutput.h>
#include <vtkPolyData.h>
#include <vtkPolyDataMapper.h>
#include <vtkRenderer.h>
#include <vtkSmartPointer.h>

#include <array>
#include <functional>

#include "figures/page.hpp"
#include "figures/shown.hpp"

namespace wavy {

/// Whether phases are shown as such, and not a field that they have.
inline bool is_share(const PictureOptions& options) { return options.quantity->scale == Quantity::Scale::share; }

/// Something in one colour, whatever the light, lifted towards the reader.
vtkSmartPointer<vtkActor> plain_actor(vtkPolyDataMapper* mapper, const Colour& colour, double lift);
vtkSmartPointer<vtkActor> filled(vtkPolyData* area, const Colour& colour, double lift);
vtkSmartPointer<vtkActor> lines_of(vtkAlgorithmOutput* lines, const Colour& colour, float width, double lift);

/// Boxes that the file names by two corners each (flat ones are faces, or lines in 2-D), as lines.
void add_boxes(vtkRenderer* renderer, const Shown& shown, const char* name, const Colour& colour, float width,
               double lift);
/// The openings' names beside them; `on_page` maps a point to pixels.
void name_openings(vtkRenderer* renderer, const Shown& shown,
                   const std::function<std::array<double, 2>(const Point3&)>& on_page);

}  // namespace wavy
