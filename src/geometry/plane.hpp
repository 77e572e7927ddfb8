// Planes in the unit cell.
//
// A plane is  normal . x = offset  in the cell's own coordinates (0 to 1 along each axis); what is spoken of as below
// it lies where normal . x < offset, so the normal points out of it. Scardovelli & Zaleski, J. Comput. Phys. 164 (2000)
// 228; Gueyffier et al., J. Comput. Phys. 152 (1999) 423.
#pragma once

#include "geometry/vector.hpp"

namespace wavy {

template <int D>
struct Plane {
  Vec<D> normal{};  ///< sum of the absolute components is 1
  double offset = 0;
};

/// Whether there is a plane at all: one without a normal has everything below it.
template <int D>
bool cuts(const Plane<D>& plane) {
  return dot<D>(plane.normal, plane.normal) > 0;
}

/// Share of the unit cell with  normal . x < offset;  normal components >= 0 with sum 1.
template <int D>
double share_below(const Vec<D>& normal, double offset);

/// The plane with this normal (any sign, any length but zero) that has the share F (0 to 1) of the cell below it.
template <int D>
Plane<D> plane_through(const Vec<D>& normal, double F);

/// What lies below the plane (as a share of the whole cell) in the slab from..from+width along `axis`.
template <int D>
double slab_share(const Plane<D>& plane, int axis, double from, double width);

/// Middle of what lies below the plane in the unit cell, by volume; exact to round-off. The cell's own where nothing
/// does.
template <int D>
Vec<D> middle_below(const Plane<D>& plane);

/// Share below a cell's plane of the cell that lies `shift` cells from it.
template <int D>
double share_in_cell(const Plane<D>& plane, const Index<D>& shift);

/// Point of the plane nearest to the centre of the cell.
template <int D>
Vec<D> foot_point(const Plane<D>& plane);

}  // namespace wavy
