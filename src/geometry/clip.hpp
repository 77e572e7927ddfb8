// Volumes of boxes cut by planes.
#pragma once

#include <span>

#include "geometry/plane.hpp"

namespace wavy {

/// Volume (2-D: area) of the part of the box lower..upper that lies below all of the planes, normal . x < offset; the
/// planes' normals may have any length. Exact to round-off.
template <int D>
double clipped_volume(const Vec<D>& lower, const Vec<D>& upper, std::span<const Plane<D>> planes);

/// The plane with this normal (any length but zero) that has `volume` of the part of the unit cell below `open` below
/// it; to 1e-13 of the cell. A volume beyond what is there gives a plane beyond all of it.
template <int D>
Plane<D> plane_through_part(const Vec<D>& normal, double volume, const Plane<D>& open);

}  // namespace wavy
