// A quarter of a turn round the third axis, counter-clockwise.
#pragma once

#include <array>
#include <cstddef>

namespace wavy {

/// A vector of which the first two components are turned.
template <std::size_t N>
std::array<double, N> quarter_turned(std::array<double, N> v) {
  const double x = v[0];
  v[0] = -v[1];
  v[1] = x;
  return v;
}

}  // namespace wavy
