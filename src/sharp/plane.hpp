// Planes in the unit cell: the piecewise-linear interface.
//
// A plane is  normal . x = offset  in the cell's own coordinates (0 to 1 along each axis); the liquid lies where
// normal . x < offset, so the normal points out of the liquid.
// Scardovelli & Zaleski, J. Comput. Phys. 164 (2000) 228; Aulisa et al., J. Comput. Phys. 225 (2007) 2301.
#pragma once

#include <optional>

#include "geometry/vector.hpp"

namespace wavy::sharp {

template <int D>
struct Plane {
  Vec<D> normal{};  ///< sum of the absolute components is 1
  double offset = 0;
};

/// Share of the unit cell with  normal . x < offset;  normal components >= 0 with sum 1.
template <int D>
double share_below(const Vec<D>& normal, double offset);

/// The plane with this normal (any sign, any length but zero) that leaves the share F (0 to 1) on the liquid's side.
template <int D>
Plane<D> plane_through(const Vec<D>& normal, double F);

/// Liquid (as a share of the whole cell) in the slab from..from+width along `axis`.
template <int D>
double slab_share(const Plane<D>& plane, int axis, double from, double width);

/// Point of the plane nearest to the centre of the cell.
template <int D>
Vec<D> foot_point(const Plane<D>& plane);

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
