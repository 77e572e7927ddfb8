// What the files of the Eulerian model share.
#pragma once

#include <array>
#include <cassert>
#include <type_traits>

#include "dispersed/model.hpp"

namespace wavy::dispersed {

/// Fraction from which on a phase limits the step.
inline constexpr double counts_for_steps = 1e-4;

/// Added to fractions that weigh something: of less there is only rounding, whose say would be noise.
inline constexpr double trace = 1e-11;

/// fn(N), N the number of phases as a constant.
template <class Fn>
void for_phases(std::size_t phases, Fn&& fn) {
  switch (phases) {
    case 2:
      return fn(std::integral_constant<int, 2>{});
    case 3:
      return fn(std::integral_constant<int, 3>{});
    case 4:
      return fn(std::integral_constant<int, 4>{});
    case 5:
      return fn(std::integral_constant<int, 5>{});
    case 6:
      return fn(std::integral_constant<int, 6>{});
    default:
      assert(false);
  }
}

/// Density of the mixture in a cell [kg/m3].
template <int D>
double density(const Settings<D>& settings, const State<D>& state, int block, std::ptrdiff_t at) {
  double sum = 0;
  for (std::size_t i = 0; i < state.a.size(); ++i)
    sum += settings.phases[i].fluid.density * state.a[i].block(block)[at];
  return sum;
}

}  // namespace wavy::dispersed
