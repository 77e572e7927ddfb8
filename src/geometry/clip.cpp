#include "geometry/clip.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
template <int D>
ConvexBody<D>::ConvexBody(const Vec<D>& lower, const Vec<D>& upper, double slope) : lean_(slope) {
  if constexpr (D == 2) {
    for (const Vec<2>& corner : {lower, Vec<2>{upper[0], lower[1]}, upper, Vec<2>{lower[0], upper[1]}})
      faces_[0].add(corner);
    count_ = 1;
  } else {
    for (std::size_t d = 0; d < 3; ++d)
      for (const bool high : {false, true}) {
        // Round the outward axis: the two other axes in order on the high side, swapped on the low one.
        const std::size_t e = (d + (high ? 1 : 2)) % 3;
        const std::size_t f = (d + (high ? 2 : 1)) % 3;
        for (const auto& [at_e, at_f] : {std::pair{false, false}, {true, false}, {true, true}, {false, true}}) {
          Vec<3> p;
          p[d] = high ? upper[d] : lower[d];
          p[e] = at_e ? upper[e] : lower[e];
          p[f] = at_f ? upper[f] : lower[f];
          faces_[count_].add(p);
        }
        ++count_;
      }
  }
}

/// The part below the plane (Sutherland & Hodgman 1974); where the rim crosses the plane, the points are also given to
/// `crossings`.
template <int D>
typename ConvexBody<D>::Polygon ConvexBody<D>::clip(const Polygon& polygon, const Plane<D>& plane, Polygon* crossings) {
  Polygon result;
  if (polygon.count == 0) return result;
  double above_a = dot<D>(plane.normal, polygon.point[0]) - plane.offset;
  const double above_first = above_a;
  for (std::size_t i = 0; i < polygon.count; ++i) {
    const bool last = i + 1 == polygon.count;
    const Vec<D>& a = polygon.point[i];
    const Vec<D>& b = polygon.point[last ? 0 : i + 1];
    const double above_b = last ? above_first : dot<D>(plane.normal, b) - plane.offset;
    if (above_a <= 0) result.add(a);
    if ((above_a <= 0) != (above_b <= 0)) {
      const Vec<D> p = along<D>(a, above_a / (above_a - above_b), minus<D>(b, a));
      result.add(p);
      if (crossings != nullptr) crossings->add(p);
    }
    above_a = above_b;
  }
  return result;
}

/// Points of a plane's cut through a convex body, put in order round their middle.
template <int D>
typename ConvexBody<D>::Polygon ConvexBody<D>::ordered(const Polygon& points, const Vec<D>& normal) {
  Polygon result = points;
  if constexpr (D == 3) {
    Vec<3> middle{};
    for (std::size_t i = 0; i < points.count; ++i)
      for (std::size_t d = 0; d < 3; ++d) middle[d] += points.point[i][d] / static_cast<double>(points.count);
    const Vec<3> other = std::abs(normal[0]) < std::abs(normal[1]) ? Vec<3>{1, 0, 0} : Vec<3>{0, 1, 0};
    const Vec<3> first = cross(normal, other);
    const Vec<3> second = cross(normal, first);
    std::array<std::pair<double, std::size_t>, Polygon::most> angle;
    for (std::size_t i = 0; i < points.count; ++i) {
      const Vec<3> away = minus<3>(points.point[i], middle);
      angle[i] = {std::atan2(dot<3>(away, second), dot<3>(away, first)), i};
    }
    std::sort(angle.begin(), angle.begin() + static_cast<std::ptrdiff_t>(points.count));
    for (std::size_t i = 0; i < points.count; ++i) result.point[i] = points.point[angle[i].second];
  }
  return result;
}

template <int D>
void ConvexBody<D>::cut(const Plane<D>& plane) {
  Polygon rim;
  std::size_t kept = 0;
  for (std::size_t i = 0; i < count_; ++i) {
    const Polygon left = clip(faces_[i], plane, &rim);
    if (left.count >= 3) faces_[kept++] = left;
  }
  count_ = kept;
  // The plane's own face. Each of its corners comes from two others; duplicates do not matter to areas.
  if (D == 3 && rim.count >= 3 && count_ < most_faces) faces_[count_++] = ordered(rim, plane.normal);
}

/// Volume between an apex and a polygon (2-D: an open line of edges; 3-D: a face), positive where the polygon is seen
/// from within. Adds to `rest` the polygon's area vector: of a closed body these add up to 0.
template <int D>
double ConvexBody<D>::add_cone(const Polygon& polygon, const Vec<D>& apex, Vec<D>& rest) const {
  if constexpr (D == 2) {
    double twice = 0;
    for (std::size_t i = 0; i < polygon.count; ++i) {
      const Vec<2> a = minus<2>(polygon.point[i], apex);
      const Vec<2> b = minus<2>(polygon.point[i + 1 == polygon.count ? 0 : i + 1], apex);
      const double part = a[0] * b[1] - b[0] * a[1];
      twice += part * (1 + lean_ * (apex[0] + (a[0] + b[0]) / 3 - 0.5));  // the weight in the triangle's middle
    }
    return twice / 2;
  } else {
    Vec<3> area{};  // twice its area vector
    const Vec<3>& a = polygon.point[0];
    Vec<3> u = minus<3>(polygon.point[1], a);
    for (std::size_t j = 2; j < polygon.count; ++j) {
      const Vec<3> v = minus<3>(polygon.point[j], a);
      const Vec<3> part = cross(u, v);
      for (std::size_t d = 0; d < 3; ++d) area[d] += part[d];
      u = v;
    }
    for (std::size_t d = 0; d < 3; ++d) rest[d] += area[d] / 2;
    return dot<3>(area, minus<3>(a, apex)) / 6;
  }
}

template <int D>
double ConvexBody<D>::volume() const {
  if (count_ == 0 || faces_[0].count == 0) return 0;
  double sum = 0;
  Vec<D> ignored{};
  for (std::size_t i = 0; i < count_; ++i) sum += add_cone(faces_[i], faces_[0].point[0], ignored);
  return sum;
}

template <int D>
double ConvexBody<D>::volume_below(const Plane<D>& plane, double* section) const {
  // Seen from a point on the plane, the plane's own face adds nothing, and need not be found.
  Vec<D> apex;
  const double square = dot<D>(plane.normal, plane.normal);
  for (int d = 0; d < D; ++d) apex[d] = plane.normal[d] * plane.offset / square;
  double sum = 0;
  Vec<D> rest{};
  Polygon crossings;
  for (std::size_t i = 0; i < count_; ++i) {
    const Polygon left = clip(faces_[i], plane, D == 2 ? &crossings : nullptr);
    if (left.count >= 3) sum += add_cone(left, apex, rest);
  }
  double weight = 1;
  if constexpr (D == 2)
    if (crossings.count == 2) {
      rest = minus<2>(crossings.point[1], crossings.point[0]);
      weight += lean_ * (0.5 * (crossings.point[0][0] + crossings.point[1][0]) - 0.5);
    }
  if (section != nullptr) *section = weight * length<D>(rest);
  return sum;
}

template <int D>
double clipped_volume(const Vec<D>& lower, const Vec<D>& upper, std::span<const Plane<D>> planes, double slope) {
  ConvexBody<D> body(lower, upper, slope);
  for (const auto& plane : planes) body.cut(plane);
  return body.volume();
}

template <int D>
Plane<D> plane_through_part(const Vec<D>& normal, double volume, const Plane<D>& open, double slope) {
  Plane<D> plane = plane_through<D>(normal, 0.5);  // for its normal
  // The whole cell lies between these.
  double low = 0;
  double high = 0;
  for (const double c : plane.normal) {
    low += std::min(c, 0.0);
    high += std::max(c, 0.0);
  }
  const double size = length<D>(plane.normal);
  Vec<D> upper;
  upper.fill(1);
  ConvexBody<D> body(Vec<D>{}, upper, slope);
  if (cuts(open)) body.cut(open);
  const double room = body.volume();
  plane.offset = high;
  if (volume >= room) return plane;
  // Newton's method, kept within the bracket: the volume grows with the offset by the section's area.
  constexpr double close = 1e-14;
  constexpr int rounds = 100;
  plane.offset = low + (high - low) * volume / room;
  for (int i = 0; i < rounds && high - low > close; ++i) {
    double section = 0;
    const double excess = body.volume_below(plane, &section) - volume;
    if (std::abs(excess) < close) break;
    (excess < 0 ? low : high) = plane.offset;
    const double next = section > 0 ? plane.offset - excess * size / section : low;
    plane.offset = next > low && next < high ? next : 0.5 * (low + high);
  }
  return plane;
}

template class ConvexBody<2>;
template class ConvexBody<3>;
template double clipped_volume<2>(const Vec<2>&, const Vec<2>&, std::span<const Plane<2>>, double);
template double clipped_volume<3>(const Vec<3>&, const Vec<3>&, std::span<const Plane<3>>, double);
template Plane<2> plane_through_part<2>(const Vec<2>&, double, const Plane<2>&, double);
template Plane<3> plane_through_part<3>(const Vec<3>&, double, const Plane<3>&, double);

}  // namespace wavy
