// Points and index triples in D dimensions.
#pragma once

#include <array>
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
