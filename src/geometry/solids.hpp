// Solids as signed distance: vessels, inserts, and what is cut out of or added to them.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "geometry/vector.hpp"

namespace wavy {

/// A body: where it ends, and the box that it lies in.
///
/// `distance` is negative inside and positive outside [m]. Near the surface it is the distance to it to first order,
/// and its zero is the exact surface; far away it may be too small or too large by a factor of two, never of another
/// sign.
template <int D>
struct Solid {
  std::function<double(const Vec<D>&)> distance;
  Vec<D> lower{};
  Vec<D> upper{};
};

/// Distance from what lies on the inner side of all of some faces that stand upright on each other (a box, the end of a
/// cylinder), from the distances to each, negative inside.
template <std::size_t N>
double beyond(const std::array<double, N>& faces) {
  double square = 0;
  double greatest = faces[0];
  for (const double face : faces) {
    greatest = std::max(greatest, face);
    if (face > 0) square += face * face;
  }
  return greatest > 0 ? std::sqrt(square) : greatest;
}

/// A box along the axes.
template <int D>
Solid<D> box_solid(const Vec<D>& lower, const Vec<D>& upper);

/// A sphere; in 2-D a disc.
template <int D>
Solid<D> ball_solid(const Vec<D>& centre, double radius);

/// How a cylinder ends. Depths beyond the tangent line, for a cylinder of diameter d: elliptical d/4 (2:1);
/// hemispherical d/2; torispherical with a crown of radius d and a knuckle of d/10 (the usual proportions of dished
/// ends), 0.194 d.
enum class Head { flat, elliptical, hemispherical, torispherical };

/// Depth of a head beyond the tangent line [m].
double head_depth(Head head, double radius);

/// A cylinder round the axis from-to, which are the ends of its straight part; a head on each. In 2-D its section: a
/// strip of width 2 radius with the heads' section on its ends.
template <int D>
Solid<D> cylinder_solid(const Vec<D>& from, const Vec<D>& to, double radius, Head at_from = Head::flat,
                        Head at_to = Head::flat);

/// A frustum of a cone with the given radii (one of them may be 0) at from and to.
template <int D>
Solid<D> cone_solid(const Vec<D>& from, const Vec<D>& to, double radius_from, double radius_to);

/// A ring: a tube of radius `tube` along a circle of radius `ring` round the axis through the centre. The axis need not
/// have length 1.
Solid<3> torus_solid(const Vec<3>& centre, const Vec<3>& axis, double ring, double tube);

/// A round pipe along points, with arcs of radius `bend` in place of corners (0: mitred, rounded outside). Open ends
/// are flat. Every leg must be long enough for the bends at its ends.
template <int D>
Solid<D> pipe_solid(const std::vector<Vec<D>>& points, double radius, double bend);

/// The inside of a polygon; the points in either sense, the last joined to the first.
Solid<2> polygon_solid(std::vector<Vec<2>> points);

/// A polygon in the plane of the two axes other than `axis`, in their order, carried along that axis.
Solid<3> extruded_solid(const std::vector<Vec<2>>& points, int axis, double from, double to);

/// A profile of points (distance from the axis, height along it) turned round the axis that starts at `base`.
Solid<3> revolved_solid(const std::vector<Vec<2>>& profile, const Vec<3>& base, const Vec<3>& axis);

/// In either; in one and not in the other; in both.
template <int D>
Solid<D> union_of(const Solid<D>& a, const Solid<D>& b);
template <int D>
Solid<D> difference(const Solid<D>& a, const Solid<D>& b);
template <int D>
Solid<D> intersection(const Solid<D>& a, const Solid<D>& b);

template <int D>
Solid<D> moved(const Solid<D>& solid, const Vec<D>& by);
/// Turned by an angle [rad] round an axis through a point, by the right hand; in 2-D counter-clockwise and without
/// axis.
Solid<2> turned(const Solid<2>& solid, const Vec<2>& centre, double angle);
Solid<3> turned(const Solid<3>& solid, const Vec<3>& centre, const Vec<3>& axis, double angle);
/// Mirrored at the plane where the coordinate along `axis` is `at`.
template <int D>
Solid<D> mirrored(const Solid<D>& solid, int axis, double at);

}  // namespace wavy
