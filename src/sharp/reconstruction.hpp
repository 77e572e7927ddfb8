// The piecewise-linear interface: a plane in every mixed cell, with the liquid below it.
#pragma once

#include <optional>

#include "geometry/plane.hpp"

namespace wavy::sharp {

/// Where the line leaves the cell; nothing where it does not cross it.
std::optional<std::array<Vec<2>, 2>> chord_ends(const Plane<2>& line);

/// What an arc of this curvature [1/cell, positive round the liquid] holds more than the chord of the same area in the
/// slab from..from+width: the line's error in a flux, of third order in the cell's size. Zero over the whole cell.
double arc_share(const Plane<2>& chord, double curvature, int axis, double from, double width);

/// Outward normal from the 3^D fractions round F[0] (step: offsets to the neighbours); components sum to 1 in absolute
/// value, or are zero when the fractions have no gradient. 2-D: the line that fits the nine cells best, exact for
/// straight lines (Pilliod & Puckett, J. Comput. Phys. 199 (2004) 465): the best of their six slopes, then Gauss-Newton
/// steps. 3-D: mixed Youngs-centred.
template <int D>
Vec<D> interface_normal(const double* F, const std::array<std::ptrdiff_t, D>& step);

}  // namespace wavy::sharp
