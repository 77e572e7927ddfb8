#include "sharp/reconstruction.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"

using namespace wavy;
using namespace wavy::sharp;

TEST_CASE("the normal of a straight interface that crosses the columns is exact") {
  // F on 3 x 3 cells below the line y = a + s x (cell units, origin at the middle cell's lower left corner).
  for (const double slope : {0.0, 0.3, -0.45}) {
    std::array<double, 9> F{};
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        const int steps = 2000;
        double sum = 0;
        for (int m = 0; m < steps; ++m) {
          const double x = i + (m + 0.5) / steps;
          sum += std::clamp(0.5 + slope * (x - 0.5) - j, 0.0, 1.0);
        }
        F[static_cast<std::size_t>((j + 1) * 3 + i + 1)] = sum / steps;
      }
    const Vec<2> normal = interface_normal<2>(&F[4], {1, 3});
    CHECK(normal[0] / normal[1] == about(-slope).epsilon(1e-6).scale(1));
    CHECK(normal[1] > 0);  // out of the liquid
  }
}

TEST_CASE("an arc holds what it should in every slab, and no more than its chord in all") {
  // A circle of radius 6 cells round (0, -5.5): in the cell 0..1 x 0..1 it stands at sqrt(36 - x^2) - 5.5.
  const double R = 6;
  const auto below = [R](double from, double to) {
    double sum = 0;
    const int steps = 20000;
    for (int i = 0; i < steps; ++i) {
      const double x = from + (to - from) * (i + 0.5) / steps;
      sum += std::sqrt(R * R - x * x) - 5.5;
    }
    return sum * (to - from) / steps;
  };
  const double whole = below(0, 1);
  // Slope of the chord of the same ends.
  const double slope = std::sqrt(R * R - 1) - R;
  const Plane<2> chord = plane_through<2>({-slope, 1}, whole);
  CHECK(arc_share(chord, 1 / R, 0, 0, 1) == about(0).epsilon(1e-12).scale(1));
  for (const double width : {0.1, 0.3, 0.7}) {
    const double plain = slab_share<2>(chord, 0, 0, width);
    const double better = plain + arc_share(chord, 1 / R, 0, 0, width);
    CHECK(std::abs(better - below(0, width)) < 0.1 * std::abs(plain - below(0, width)));
  }
}

TEST_CASE("a line leaves its cell where it meets the sides") {
  const auto ends = chord_ends(plane_through<2>({1, 1}, 0.125));  // x + y = 1/2
  REQUIRE(ends);
  double length = std::hypot((*ends)[1][0] - (*ends)[0][0], (*ends)[1][1] - (*ends)[0][1]);
  CHECK(length == about(std::sqrt(0.5)));
  CHECK_FALSE(chord_ends(Plane<2>{{0.5, 0.5}, -0.1}));
}
