#include "geometry/plane.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace wavy {
namespace {

constexpr double tiny = 1e-13;  // normal components below this count as zero

/// Smallest root between the turning points of  a^3 + a2 a^2 + a1 a + a0, three real roots.
/// Gueyffier et al., J. Comput. Phys. 152 (1999) 423, appendix.
double middle_root(double a2, double a1, double a0) {
  const double p0 = a1 / 3 - a2 * a2 / 9;
  const double q0 = (a1 * a2 - 3 * a0) / 6 - a2 * a2 * a2 / 27;
  const double root = std::sqrt(std::max(-p0, 0.0));
  const double cosine = root > 0 ? q0 / (root * root * root) : 0.0;
  const double theta = std::acos(std::clamp(cosine, -1.0, 1.0)) / 3;
  return root * (std::sqrt(3.0) * std::sin(theta) - std::cos(theta)) - a2 / 3;
}

template <int D>
Vec<D> sorted(Vec<D> m) {
  std::sort(m.begin(), m.end());
  return m;
}

/// share_below for offset <= 1/2 and sorted components.
double lower_half(const Vec<2>& m, double a) {
  if (a <= 0) return 0;
  if (a < m[0]) return a * a / (2 * m[0] * m[1]);
  return (2 * a - m[0]) / (2 * m[1]);
}

double lower_half(const Vec<3>& m, double a) {
  if (a <= 0) return 0;
  if (m[0] < tiny) {  // no change along the first axis: a 2-D cell
    const double s = m[1] + m[2];
    return lower_half(Vec<2>{m[1] / s, m[2] / s}, a / s);
  }
  const double m12 = m[0] + m[1];
  const double m6 = 6 * m[0] * m[1] * m[2];
  if (a < m[0]) return a * a * a / m6;
  if (a < m[1]) return a * (a - m[0]) / (2 * m[1] * m[2]) + m[0] * m[0] / (6 * m[1] * m[2]);
  if (a < std::min(m12, m[2]))
    return (a * a * (3 * m12 - a) + m[0] * m[0] * (m[0] - 3 * a) + m[1] * m[1] * (m[1] - 3 * a)) / m6;
  if (m12 <= m[2]) return (2 * a - m12) / (2 * m[2]);
  return (a * a * (3 - 2 * a) + m[0] * m[0] * (m[0] - 3 * a) + m[1] * m[1] * (m[1] - 3 * a) +
          m[2] * m[2] * (m[2] - 3 * a)) /
         m6;
}

/// Inverse of lower_half for F <= 1/2.
double offset_of(const Vec<2>& m, double F) {
  if (F <= 0) return 0;
  if (F * 2 * m[1] < m[0]) return std::sqrt(2 * m[0] * m[1] * F);
  return m[1] * F + m[0] / 2;
}

double offset_of(const Vec<3>& m, double F) {
  if (F <= 0) return 0;
  if (m[0] < tiny) {
    const double s = m[1] + m[2];
    return s * offset_of(Vec<2>{m[1] / s, m[2] / s}, F);
  }
  const double m12 = m[0] + m[1];
  const double m6 = 6 * m[0] * m[1] * m[2];
  const double v1 = m[0] * m[0] / (6 * m[1] * m[2]);
  const double v2 = v1 + (m[1] - m[0]) / (2 * m[2]);
  const double v3 = lower_half(m, std::min(m12, m[2]));
  if (F < v1) return std::cbrt(m6 * F);
  if (F < v2) return 0.5 * (m[0] + std::sqrt(m[0] * m[0] + 8 * m[1] * m[2] * (F - v1)));
  const double square = m[0] * m[0] + m[1] * m[1];
  const double cube = m[0] * m[0] * m[0] + m[1] * m[1] * m[1];
  if (F < v3) return middle_root(-3 * m12, 3 * square, -cube + m6 * F);
  if (m12 <= m[2]) return m[2] * F + m12 / 2;
  return middle_root(-1.5, 1.5 * (square + m[2] * m[2]), -0.5 * (cube + m[2] * m[2] * m[2]) + 0.5 * m6 * F);
}

}  // namespace

template <int D>
double share_below(const Vec<D>& normal, double offset) {
  if (offset <= 0) return 0;
  if (offset >= 1) return 1;
  const Vec<D> m = sorted<D>(normal);
  return offset <= 0.5 ? lower_half(m, offset) : 1 - lower_half(m, 1 - offset);
}

template <int D>
Plane<D> plane_through(const Vec<D>& normal, double F) {
  Plane<D> plane;
  const double scale = 1 / sum_of_absolutes<D>(normal);
  Vec<D> m;
  double below = 0;  // sum of the negative components: mirrors the offset back
  for (int d = 0; d < D; ++d) {
    plane.normal[d] = normal[d] * scale;
    m[d] = std::abs(plane.normal[d]);
    below += std::min(plane.normal[d], 0.0);
  }
  m = sorted<D>(m);
  F = std::clamp(F, 0.0, 1.0);
  plane.offset = (F <= 0.5 ? offset_of(m, F) : 1 - offset_of(m, 1 - F)) + below;
  return plane;
}

template <int D>
double slab_share(const Plane<D>& plane, int axis, double from, double width) {
  // Mirror axes with a negative normal, then stretch the slab to a unit cell.
  Vec<D> m;
  double offset = plane.offset;
  for (int d = 0; d < D; ++d) {
    m[d] = std::abs(plane.normal[d]);
    offset -= std::min(plane.normal[d], 0.0);
  }
  if (plane.normal[axis] < 0) from = 1 - from - width;
  offset -= m[axis] * from;
  m[axis] *= width;
  const double sum = sum_of_absolutes<D>(m);
  if (sum <= 0) return offset > 0 ? width : 0.0;
  for (double& c : m) c /= sum;
  return width * share_below<D>(m, offset / sum);
}

template <int D>
Vec<D> middle_below(const Plane<D>& plane) {
  // By parts: the moment along an axis is the volume less the integral of what lies below x. Between the places where
  // the plane meets the cell's edges along that axis this is a cubic, for which Simpson's rule is exact.
  Vec<D> middle;
  for (int d = 0; d < D; ++d) {
    std::vector<double> places{0, 1};
    for (int corner = 0; corner < (1 << D); ++corner) {
      double along = plane.offset;
      for (int e = 0; e < D; ++e)
        if (((corner >> e) & 1) != 0 && e != d) along -= plane.normal[e];
      if (plane.normal[d] != 0) places.push_back(std::clamp(along / plane.normal[d], 0.0, 1.0));
    }
    std::ranges::sort(places);
    const auto below = [&](double x) { return slab_share<D>(plane, d, 0, x); };
    double sum = 0;
    for (std::size_t k = 1; k < places.size(); ++k) {
      const double from = places[k - 1];
      const double to = places[k];
      if (to > from) sum += (to - from) / 6 * (below(from) + 4 * below(0.5 * (from + to)) + below(to));
    }
    const double volume = below(1);
    middle[d] = volume > 0 ? 1 - sum / volume : 0.5;
  }
  return middle;
}

template <int D>
double share_in_cell(const Plane<D>& plane, const Index<D>& shift) {
  Vec<D> m;
  double offset = plane.offset;
  for (int d = 0; d < D; ++d) {
    m[d] = std::abs(plane.normal[d]);
    offset -= std::min(plane.normal[d], 0.0);
  }
  for (int d = 0; d < D; ++d) offset -= plane.normal[d] * shift[d];
  return share_below<D>(m, offset);
}

template <int D>
Vec<D> foot_point(const Plane<D>& plane) {
  Vec<D> centre;
  centre.fill(0.5);
  const double along = (plane.offset - dot<D>(plane.normal, centre)) / dot<D>(plane.normal, plane.normal);
  for (int d = 0; d < D; ++d) centre[d] += along * plane.normal[d];
  return centre;
}

template double share_below<2>(const Vec<2>&, double);
template double share_below<3>(const Vec<3>&, double);
template Plane<2> plane_through<2>(const Vec<2>&, double);
template Plane<3> plane_through<3>(const Vec<3>&, double);
template double slab_share<2>(const Plane<2>&, int, double, double);
template double slab_share<3>(const Plane<3>&, int, double, double);
template Vec<2> middle_below<2>(const Plane<2>&);
template Vec<3> middle_below<3>(const Plane<3>&);
template double share_in_cell<2>(const Plane<2>&, const Index<2>&);
template double share_in_cell<3>(const Plane<3>&, const Index<3>&);
template Vec<2> foot_point<2>(const Plane<2>&);
template Vec<3> foot_point<3>(const Plane<3>&);

}  // namespace wavy
