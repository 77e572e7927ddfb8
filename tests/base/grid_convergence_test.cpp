#include "base/grid_convergence.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy;

using Kind = GridConvergence::Kind;

namespace {

/// Of values 5 + C h^p, or with a sign that changes from grid to grid.
GridConvergence of_order(double p, double c, const std::array<double, 2>& ratios, bool swings = false) {
  const double h2 = ratios[0];
  const double h3 = h2 * ratios[1];
  return grid_convergence({5 + c, 5 + (swings ? -1 : 1) * c * std::pow(h2, p), 5 + c * std::pow(h3, p)}, ratios);
}

}  // namespace

TEST_CASE("the order of values that have one is found, with the value at no size, for equal and unequal ratios") {
  for (const double p : {0.7, 1.0, 2.0, 3.3})
    for (const double c : {0.01, -0.2})
      for (const auto& ratios : {std::array{2.0, 2.0}, {1.5, 1.5}, {2.0, 1.2}, {1.3, 1.9}}) {
        const auto found = of_order(p, c, ratios);
        CHECK(found.kind == Kind::monotonic);
        CHECK(found.order == about(p).epsilon(1e-9));
        CHECK(found.extrapolated == about(5).epsilon(1e-12));
        CHECK(found.index == about(1.25 * std::abs(c)).epsilon(1e-9));  // 1.25 times the error
      }
}

TEST_CASE("values that swing about theirs are told to do so, and their order is found") {
  const auto found = of_order(2, 0.1, {2, 2}, true);
  CHECK(found.kind == Kind::oscillatory);
  CHECK(found.order == about(2).epsilon(1e-9));
  CHECK(found.index > 0.1);  // a bar that reaches the value itself
}

TEST_CASE("differences that do not fall tell of no order, and the bar is wide") {
  const auto found = grid_convergence({5.3, 5.1, 5.0}, {2, 2});
  CHECK(found.kind == Kind::none);
  CHECK(found.order == 0);
  CHECK(found.extrapolated == 5.3);
  CHECK(found.index == about(0.6).epsilon(1e-12));
  CHECK(grid_convergence({5.3, 5.1, 5.29}, {2, 2}).kind == Kind::none);
}

TEST_CASE("an order beyond reason is not built upon") {
  const auto found = grid_convergence({5, 5 + 1e-6, 6}, {2, 2});  // 20 by the formula
  CHECK(found.order > 10);
  CHECK(found.index == about(1.25e-6 / 15).epsilon(1e-3));  // as if it were 4
  const auto slow = grid_convergence({5, 5.1, 5.202}, {2, 2});
  CHECK(slow.order < 0.1);
  CHECK(slow.index == about(1.25 * 0.1 / (std::sqrt(2.0) - 1)).epsilon(1e-9));
}

TEST_CASE("grids that agree need no order") {
  CHECK(grid_convergence({2, 2, 2}, {2, 2}).kind == Kind::exact);
  CHECK(grid_convergence({2, 2, 2}, {2, 2}).index == 0);
  CHECK(grid_convergence({0, 0, 0}, {2, 2}).index == 0);
  const auto by_chance = grid_convergence({2, 2, 2.1}, {2, 2});
  CHECK(by_chance.kind == Kind::exact);
  CHECK(by_chance.index == about(0.1));
}
