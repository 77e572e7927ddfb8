#include "geometry/shapes.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"

using namespace wavy;

TEST_CASE("disc over rectangles: quarter, half and pieces add up") {
  CHECK(disc_in_rectangle(2, 0, 5, 0, 5) == about(M_PI).epsilon(1e-14));
  CHECK(disc_in_rectangle(2, -5, 5, 0, 5) == about(2 * M_PI).epsilon(1e-14));
  // Circular segment beyond x = r/2: r^2 (acos(1/2) - 1/2 sqrt(3)/2).
  CHECK(disc_in_rectangle(1, 0.5, 2, -2, 2) == about(std::acos(0.5) - 0.25 * std::sqrt(3.0)).epsilon(1e-14));
  CHECK(disc_in_rectangle(1, 0.8, 2, 0.8, 2) == 0);
  double sum = 0;
  for (int i = -7; i < 7; ++i)
    for (int j = -7; j < 7; ++j) sum += disc_in_rectangle(1.3, 0.2 * i, 0.2 * (i + 1), 0.2 * j, 0.2 * (j + 1));
  CHECK(sum == about(M_PI * 1.3 * 1.3).epsilon(1e-13));
}

TEST_CASE("shares of cells: level and box are exact") {
  CHECK(covered_share<2>(BelowLevel<2>{0.425}, {0, 0.4}, {0.1, 0.5}) == about(0.25).epsilon(1e-14));
  CHECK(covered_share<3>(BelowLevel<3>{0.425}, {0, 0, 0.5}, {0.1, 0.1, 0.6}) == 0);
  CHECK(covered_share<2>(AlignedBox<2>{{0.05, 0}, {1, 0.025}}, {0, 0}, {0.1, 0.1}) == about(0.125).epsilon(1e-14));
}

TEST_CASE("the cells of a sphere add up to its volume") {
  const Ball<3> ball{{0.51, 0.47, 0.52}, 0.3};
  const int n = 16;
  double sum = 0;
  for (int k = 0; k < n; ++k)
    for (int j = 0; j < n; ++j)
      for (int i = 0; i < n; ++i)
        sum += covered_share<3>(ball, {i / 16.0, j / 16.0, k / 16.0}, {(i + 1) / 16.0, (j + 1) / 16.0, (k + 1) / 16.0});
  CHECK(sum / (n * n * n) == about(4.0 / 3 * M_PI * 0.027).epsilon(1e-8));
  // A cap cut off by one face of a large cell: pi h^2 (3 r - h) / 3.
  const double h = 0.1;
  CHECK(covered_share<3>(Ball<3>{{0, 0, 0}, 1}, {-2, -2, 0.9}, {2, 2, 1.9}) * 16 ==
        about(M_PI * h * h * (3 - h) / 3).epsilon(1e-6));
}

TEST_CASE("drops at random lie inside, apart, in the sizes asked for, and the same for the same seed") {
  const AlignedBox<3> room{{0, 0, 0}, {1, 2, 1}};
  const auto drops = scatter<3>(room, 60, {0.1, 0.2}, 5);
  REQUIRE(drops.balls.size() == 60);
  int large = 0;
  for (std::size_t i = 0; i < drops.balls.size(); ++i) {
    const auto& a = drops.balls[i];
    large += a.radius == 0.1 ? 1 : 0;
    for (std::size_t d = 0; d < 3; ++d) {
      CHECK(a.centre[d] - a.radius >= room.lower[d]);
      CHECK(a.centre[d] + a.radius <= room.upper[d]);
    }
    for (std::size_t j = 0; j < i; ++j) {
      const auto& b = drops.balls[j];
      const double apart = std::hypot(a.centre[0] - b.centre[0], a.centre[1] - b.centre[1], a.centre[2] - b.centre[2]);
      CHECK(apart >= a.radius + b.radius + 0.5 * std::min(a.radius, b.radius));
    }
  }
  CHECK(large == 30);
  CHECK(scatter<3>(room, 60, {0.1, 0.2}, 5).balls[7].centre == drops.balls[7].centre);
  CHECK(scatter<3>(room, 60, {0.1, 0.2}, 6).balls[7].centre != drops.balls[7].centre);
  // No more than there is room for.
  CHECK(scatter<2>({{0, 0}, {1, 1}}, 100, {0.4}, 1).balls.size() < 6);
}

TEST_CASE("drops cover what their circles cover") {
  const Drops<2> drops = scatter<2>({{0, 0}, {1, 1}}, 10, {0.1, 0.15}, 2);
  double wanted = 0;
  for (const auto& ball : drops.balls) wanted += M_PI * ball.radius * ball.radius;
  double found = 0;
  const int n = 40;
  for (int i = 0; i < n; ++i)
    for (int j = 0; j < n; ++j)
      found += covered_share<2>(drops, {1.0 * i / n, 1.0 * j / n}, {(i + 1.0) / n, (j + 1.0) / n}) / (n * n);
  CHECK(found == about(wanted).epsilon(1e-12));
}
