#include "base/grid_convergence.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace wavy {
namespace {

constexpr double safety = 1.25;     // of the index, where there is an order
constexpr double safety_alone = 3;  // without an order
constexpr double highest_order = 4;
constexpr double lowest_order = 0.5;

/// Order p at which r21^p (r32^p - s) / (r21^p - s), which grows with p, is what it is of the differences; 0 where no
/// order above 0 gives so little.
double order_of(double differences, double sign, const std::array<double, 2>& ratios) {
  const auto at = [&](double p) {
    const double r21 = std::pow(ratios[0], p);
    return r21 * (std::pow(ratios[1], p) - sign) / (r21 - sign);
  };
  double low = 1e-3;
  double high = 50;
  if (at(low) >= differences) return 0;
  if (at(high) <= differences) return high;
  for (int i = 0; i < 80; ++i) {
    const double middle = 0.5 * (low + high);
    (at(middle) < differences ? low : high) = middle;
  }
  return low;
}

}  // namespace

GridConvergence grid_convergence(const std::array<double, 3>& values, const std::array<double, 2>& ratios) {
  assert(ratios[0] > 1 && ratios[1] > 1);
  const double fine = values[1] - values[0];
  const double coarse = values[2] - values[1];
  const double scale = std::max({std::abs(values[0]), std::abs(values[1]), std::abs(values[2])});
  constexpr double rounding = 1e-12;
  GridConvergence result;
  result.extrapolated = values[0];
  if (std::abs(fine) <= rounding * scale) {
    // Nothing is told of an order; where the coarsest grid differs it may be by chance.
    result.kind = GridConvergence::Kind::exact;
    result.index = std::abs(coarse) <= rounding * scale ? 0.0 : std::abs(coarse);
    return result;
  }
  const double sign = coarse * fine < 0 ? -1 : 1;
  result.order = order_of(std::abs(coarse / fine), sign, ratios);
  if (result.order == 0) {
    result.index = safety_alone * std::max(std::abs(fine), std::abs(coarse));
    return result;
  }
  result.kind = sign < 0 ? GridConvergence::Kind::oscillatory : GridConvergence::Kind::monotonic;
  const double trusted = std::clamp(result.order, lowest_order, highest_order);
  result.extrapolated = values[0] - fine / (std::pow(ratios[0], std::min(result.order, highest_order)) - 1);
  result.index = safety * std::abs(fine) / (std::pow(ratios[0], trusted) - 1);
  return result;
}

}  // namespace wavy
