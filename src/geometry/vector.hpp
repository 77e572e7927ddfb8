// Points and index triples in D dimensions.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>

namespace wavy {

template <int D>
using Vec = std::array<double, D>;
template <int D>
using Index = std::array<int, D>;

template <int D>
double dot(const Vec<D>& a, const Vec<D>& b) {
  double sum = 0;
  for (int d = 0; d < D; ++d) sum += a[d] * b[d];
  return sum;
}

template <int D>
double length(const Vec<D>& a) {
  return std::sqrt(dot<D>(a, a));
}

template <int D>
Vec<D> minus(const Vec<D>& a, const Vec<D>& b) {
  Vec<D> result;
  for (int d = 0; d < D; ++d) result[d] = a[d] - b[d];
  return result;
}

/// a + s u.
template <int D>
Vec<D> along(const Vec<D>& a, double s, const Vec<D>& u) {
  Vec<D> result;
  for (int d = 0; d < D; ++d) result[d] = a[d] + s * u[d];
  return result;
}

inline Vec<3> cross(const Vec<3>& a, const Vec<3>& b) {
  return {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]};
}

/// Square of the distance to a box; 0 in it.
template <int D>
double square_to_box(const Vec<D>& p, const Vec<D>& lower, const Vec<D>& upper) {
  double sum = 0;
  for (int d = 0; d < D; ++d) {
    const double below = lower[d] - p[d];
    const double above = p[d] - upper[d];
    const double out = below > 0 ? below : above > 0 ? above : 0.0;
    sum += out * out;
  }
  return sum;
}

/// Sum of the components' sizes.
template <int D>
double sum_of_absolutes(const Vec<D>& v) {
  double sum = 0;
  for (const double c : v) sum += c < 0 ? -c : c;
  return sum;
}

template <std::size_t D>
long product(const std::array<int, D>& n) {
  long result = 1;
  for (const int value : n) result *= value;
  return result;
}

}  // namespace wavy
