// What is laid over flat pictures: lines of equal value, arrows and streamlines of the velocity.
#pragma once

#include <vtkAlgorithmOutput.h>
#include <vtkPlane.h>
#include <vtkRenderer.h>

#include <array>
#include <string>
#include <vector>

#include "figures/page.hpp"

namespace wavy {

/// Lines where the array "shown" of points has these values.
void add_value_lines(vtkRenderer* renderer, vtkAlgorithmOutput* points, const std::vector<double>& values, double lift);

/// Arrows of the velocity on a raster of places inside. Returns what is to be said of them.
std::string add_arrows(vtkRenderer* renderer, vtkAlgorithmOutput* points, const Page& page, double lift);

/// Streamlines of the velocity at evenly spaced places, each with an arrow-head.
void add_streamlines(vtkRenderer* renderer, vtkAlgorithmOutput* points, const Page& page, double lift);

/// The same in a body, as thin tubes through the denser phase; `cut`: what lies before it is left out, null for none.
void add_stream_tubes(vtkRenderer* renderer, vtkAlgorithmOutput* points, const char* velocity,
                      const std::array<double, 6>& bounds, vtkPlane* cut);
/// Arrows of the velocity in the denser phase of a body. Returns what is to be said of them.
std::string add_body_arrows(vtkRenderer* renderer, vtkAlgorithmOutput* points, const char* velocity,
                            const std::array<double, 6>& bounds);

}  // namespace wavy
