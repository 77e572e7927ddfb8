#include "geometry/clip.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace wavy {
namespace {

/// Points of a convex polygon; a box cut by a few planes never has more corners than this.
template <int D>
struct Polygon {
  static constexpr std::size_t most = 16;
  std::array<Vec<D>, most> point{};
  std::size_t count = 0;

  void add(const Vec<D>& p) {
    if (count < most) point[count++] = p;
  }
};

template <int D>
Vec<D> between(const Vec<D>& a, const Vec<D>& b, double share) {
  Vec<D> result;
  for (int d = 0; d < D; ++d) result[d] = a[d] + share * (b[d] - a[d]);
  return result;
}

/// The part below the plane (Sutherland & Hodgman 1974); where the polygon's rim crosses the plane, the points are also
/// given to `crossings`.
template <int D>
Polygon<D> clip(const Polygon<D>& polygon, const Plane<D>& plane, Polygon<D>& crossings) {
  Polygon<D> result;
  for (std::size_t i = 0; i < polygon.count; ++i) {
    const Vec<D>& a = polygon.point[i];
    const Vec<D>& b = polygon.point[(i + 1) % polygon.count];
    const double above_a = dot<D>(plane.normal, a) - plane.offset;
    const double above_b = dot<D>(plane.normal, b) - plane.offset;
    if (above_a <= 0) result.add(a);
    if ((above_a <= 0) != (above_b <= 0)) {
      const Vec<D> p = between<D>(a, b, above_a / (above_a - above_b));
      result.add(p);
      crossings.add(p);
    }
  }
  return result;
}

Vec<3> cross(const Vec<3>& a, const Vec<3>& b) {
  return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

/// Points of a plane's cut through a convex body, put in order round their middle.
Polygon<3> ordered(const Polygon<3>& points, const Vec<3>& normal) {
  Polygon<3> result = points;
  if (points.count < 3) return result;
  Vec<3> middle{};
  for (std::size_t i = 0; i < points.count; ++i)
    for (std::size_t d = 0; d < 3; ++d) middle[d] += points.point[i][d] / static_cast<double>(points.count);
  const Vec<3> other = std::abs(normal[0]) < std::abs(normal[1]) ? Vec<3>{1, 0, 0} : Vec<3>{0, 1, 0};
  const Vec<3> first = cross(normal, other);
  const Vec<3> second = cross(normal, first);
  std::array<std::pair<double, std::size_t>, Polygon<3>::most> angle;
  for (std::size_t i = 0; i < points.count; ++i) {
    Vec<3> away;
    for (std::size_t d = 0; d < 3; ++d) away[d] = points.point[i][d] - middle[d];
    angle[i] = {std::atan2(dot<3>(away, second), dot<3>(away, first)), i};
  }
  std::sort(angle.begin(), angle.begin() + static_cast<std::ptrdiff_t>(points.count));
  for (std::size_t i = 0; i < points.count; ++i) result.point[i] = points.point[angle[i].second];
  return result;
}

double volume_of_box(const Vec<2>& lower, const Vec<2>& upper, std::span<const Plane<2>> planes) {
  Polygon<2> polygon;
  for (const Vec<2>& corner : {lower, Vec<2>{upper[0], lower[1]}, upper, Vec<2>{lower[0], upper[1]}})
    polygon.add(corner);
  Polygon<2> ignored;
  for (const auto& plane : planes) polygon = clip<2>(polygon, plane, ignored);
  double twice = 0;
  for (std::size_t i = 0; i < polygon.count; ++i) {
    const Vec<2>& a = polygon.point[i];
    const Vec<2>& b = polygon.point[(i + 1) % polygon.count];
    twice += (a[0] - lower[0]) * (b[1] - lower[1]) - (b[0] - lower[0]) * (a[1] - lower[1]);
  }
  return std::abs(twice) / 2;
}

double volume_of_box(const Vec<3>& lower, const Vec<3>& upper, std::span<const Plane<3>> planes) {
  constexpr std::size_t most_faces = 12;
  std::array<Polygon<3>, most_faces> faces;
  std::size_t count = 0;
  for (std::size_t d = 0; d < 3; ++d)
    for (const bool high : {false, true}) {
      const std::size_t e = (d + 1) % 3;
      const std::size_t f = (d + 2) % 3;
      for (const auto& [at_e, at_f] : {std::pair{false, false}, {true, false}, {true, true}, {false, true}}) {
        Vec<3> p;
        p[d] = high ? upper[d] : lower[d];
        p[e] = at_e ? upper[e] : lower[e];
        p[f] = at_f ? upper[f] : lower[f];
        faces[count].add(p);
      }
      ++count;
    }
  for (const auto& plane : planes) {
    Polygon<3> rim;
    std::size_t kept = 0;
    for (std::size_t i = 0; i < count; ++i) {
      const Polygon<3> left = clip<3>(faces[i], plane, rim);
      if (left.count >= 3) faces[kept++] = left;
    }
    count = kept;
    // Each corner of the cut comes from two faces; duplicates do not matter to areas.
    if (rim.count >= 3 && count < most_faces) faces[count++] = ordered(rim, plane.normal);
  }
  // Pyramids over the faces, from a point inside the box: the body is convex, so all count positive from within.
  if (count == 0) return 0;
  Vec<3> inside{};
  double points = 0;
  for (std::size_t i = 0; i < count; ++i)
    for (std::size_t j = 0; j < faces[i].count; ++j, ++points)
      for (std::size_t d = 0; d < 3; ++d) inside[d] += faces[i].point[j][d];
  for (double& c : inside) c /= points;
  double volume = 0;
  for (std::size_t i = 0; i < count; ++i) {
    Vec<3> area{};  // twice its area vector
    const Vec<3>& a = faces[i].point[0];
    for (std::size_t j = 1; j + 1 < faces[i].count; ++j) {
      Vec<3> u;
      Vec<3> v;
      for (std::size_t d = 0; d < 3; ++d) {
        u[d] = faces[i].point[j][d] - a[d];
        v[d] = faces[i].point[j + 1][d] - a[d];
      }
      const Vec<3> part = cross(u, v);
      for (std::size_t d = 0; d < 3; ++d) area[d] += part[d];
    }
    double height = 0;
    for (std::size_t d = 0; d < 3; ++d) height += area[d] * (a[d] - inside[d]);
    volume += std::abs(height) / 6;
  }
  return volume;
}

}  // namespace

template <int D>
double clipped_volume(const Vec<D>& lower, const Vec<D>& upper, std::span<const Plane<D>> planes) {
  return volume_of_box(lower, upper, planes);
}

template <int D>
Plane<D> plane_through_part(const Vec<D>& normal, double volume, const Plane<D>& open) {
  Plane<D> plane = plane_through<D>(normal, 0.5);  // for its normal
  // The whole cell lies between these.
  double low = 0;
  double high = 0;
  for (const double c : plane.normal) {
    low += std::min(c, 0.0);
    high += std::max(c, 0.0);
  }
  Vec<D> upper;
  upper.fill(1);
  const auto excess = [&](double offset) {
    const std::array<Plane<D>, 2> planes{open, Plane<D>{plane.normal, offset}};
    return clipped_volume<D>(Vec<D>{}, upper, planes) - volume;
  };
  // Regula falsi with the Illinois correction (Dowell & Jarratt 1971).
  double f_low = -volume;
  double f_high = excess(high);
  if (f_high <= 0) {
    plane.offset = high;
    return plane;
  }
  constexpr double close = 1e-13;
  constexpr int rounds = 60;
  int side = 0;
  plane.offset = high;
  for (int i = 0; i < rounds && high - low > close; ++i) {
    plane.offset = f_high - f_low > 0 ? (low * f_high - high * f_low) / (f_high - f_low) : 0.5 * (low + high);
    const double f = excess(plane.offset);
    if (std::abs(f) < close) break;
    if (f < 0) {
      low = plane.offset;
      f_low = f;
      if (side < 0) f_high *= 0.5;
      side = -1;
    } else {
      high = plane.offset;
      f_high = f;
      if (side > 0) f_low *= 0.5;
      side = 1;
    }
  }
  return plane;
}

template double clipped_volume<2>(const Vec<2>&, const Vec<2>&, std::span<const Plane<2>>);
template double clipped_volume<3>(const Vec<3>&, const Vec<3>&, std::span<const Plane<3>>);
template Plane<2> plane_through_part<2>(const Vec<2>&, double, const Plane<2>&);
template Plane<3> plane_through_part<3>(const Vec<3>&, double, const Plane<3>&);

}  // namespace wavy
