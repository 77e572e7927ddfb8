// Flat pictures: a 2-D run or a section as a map.
#pragma once

#include <vtkLookupTable.h>
#include <vtkRenderer.h>

#include <array>
#include <string>

#include "figures/page.hpp"
#include "figures/shown.hpp"

namespace wavy {

/// Walls, inserts, thin walls and openings round a flat picture, and what is beyond the vessel left blank.
void add_frame(vtkRenderer* renderer, const Shown& shown, PointData& points, const PictureOptions& options,
               const Page& page);
/// Axes with numbers along the left and lower side.
void add_axes(vtkRenderer* renderer, const PictureOptions& options, const Page& page);
/// A field as a map in true proportions with axes. Returns what is to be said of what lies on it.
std::string add_map(vtkRenderer* renderer, const Shown& shown, vtkLookupTable* colours, const PictureOptions& options);

}  // namespace wavy
