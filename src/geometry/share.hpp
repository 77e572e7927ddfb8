// How much of a box a function makes its own: the share where it is negative.
#pragma once

#include <array>
#include <cmath>

#include "geometry/plane.hpp"

namespace wavy {

inline constexpr int pieces_per_axis = 4;  ///< of a box along each axis; in each the function is taken as linear

/// Share of a unit piece where c + g . (x - 1/2) < 0.
template <int D>
double flat_share(double c, Vec<D> g) {
  double size = 0;
  for (double& component : g) {
    component = std::abs(component);
    size += component;
  }
  if (size <= 0) return c < 0 ? 1.0 : 0.0;
  const double offset = 0.5 - c / size;
  if (offset <= 0) return 0;
  if (offset >= 1) return 1;
  for (double& component : g) component /= size;
  if constexpr (D == 1)
    return offset;
  else
    return share_below<D>(g, offset);
}

inline constexpr int corners_per_axis = pieces_per_axis + 1;  ///< of the pieces along each axis

/// Values of a function at the corners of the pieces of a box of K dimensions, the first axis fastest.
template <int K>
using CornerValues = std::array<double, K == 1   ? corners_per_axis
                                        : K == 2 ? corners_per_axis * corners_per_axis
                                                 : corners_per_axis * corners_per_axis * corners_per_axis>;

/// `at` maps K places from 0 to 1 to the function.
template <int K, class Fn>
CornerValues<K> corner_values(Fn&& at) {
  CornerValues<K> value{};
  for (std::size_t n = 0; n < value.size(); ++n) {
    std::array<double, 3> place{};
    auto rest = static_cast<int>(n);
    for (std::size_t k = 0; k < K; ++k, rest /= corners_per_axis)
      place[k] = static_cast<double>(rest % corners_per_axis) / pieces_per_axis;
    value[n] = at(place);
  }
  return value;
}

/// Share of the box where the function is negative.
template <int K>
double negative_share(const CornerValues<K>& value) {
  double sum = 0;
  int count = 0;
  const int layers = K == 3 ? pieces_per_axis : 1;
  const int rows = K >= 2 ? pieces_per_axis : 1;
  for (int k = 0; k < layers; ++k)
    for (int j = 0; j < rows; ++j)
      for (int i = 0; i < pieces_per_axis; ++i, ++count) {
        double centre = 0;
        Vec<K> slope{};
        for (int corner = 0; corner < (1 << K); ++corner) {
          const int at_i = i + (corner & 1);
          const int at_j = j + ((corner >> 1) & 1);
          const int at_k = k + ((corner >> 2) & 1);
          const double v = value[static_cast<std::size_t>(at_i + corners_per_axis * (at_j + corners_per_axis * at_k))];
          centre += v;
          for (std::size_t d = 0; d < K; ++d) slope[d] += ((corner >> d) & 1) != 0 ? v : -v;
        }
        for (double& s : slope) s /= 1 << (K - 1);
        sum += flat_share<K>(centre / (1 << K), slope);
      }
  return sum / count;
}

}  // namespace wavy
