// Pictures of 3-D runs: bodies of fluid in their vessel, seen from outside.
#pragma once

#include <vtkLookupTable.h>
#include <vtkRenderer.h>

#include <string>

#include "figures/shown.hpp"

namespace wavy {

/// The denser phase, or surfaces of equal value, lit, in the vessel's edges. Returns what is to be said of what else is
/// there. The renderer must be in a window of the picture's size.
std::string add_body(vtkRenderer* renderer, const Shown& shown, vtkLookupTable* colours, const PictureOptions& options);

}  // namespace wavy
