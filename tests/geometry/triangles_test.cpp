#include "geometry/triangles.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

/// A box as 12 triangles.
Solid<3> box_of_triangles(const Vec<3>& lower, const Vec<3>& upper) {
  std::vector<Vec<3>> points;
  for (int n = 0; n < 8; ++n)
    points.push_back({n & 1 ? upper[0] : lower[0], n & 2 ? upper[1] : lower[1], n & 4 ? upper[2] : lower[2]});
  return triangle_solid(points, {{0, 2, 1},
                                 {1, 2, 3},
                                 {4, 5, 6},
                                 {5, 7, 6},
                                 {0, 1, 4},
                                 {1, 5, 4},
                                 {2, 6, 3},
                                 {3, 6, 7},
                                 {0, 4, 2},
                                 {2, 4, 6},
                                 {1, 3, 5},
                                 {3, 7, 5}});
}

/// Distance to a box: outside to its faces, edges and corners, inside to the nearest face.
double distance_to_box(const Vec<3>& p, const Vec<3>& lower, const Vec<3>& upper) {
  double outside = 0;
  double inside = -1e300;
  for (std::size_t d = 0; d < 3; ++d) {
    const double out = std::max(lower[d] - p[d], p[d] - upper[d]);
    outside += std::max(out, 0.0) * std::max(out, 0.0);
    inside = std::max(inside, out);
  }
  return outside > 0 ? std::sqrt(outside) : inside;
}

}  // namespace

TEST_CASE("the distance to a surface of triangles is exact at faces, edges and corners, and has the right sign") {
  const Vec<3> lower{-0.3, 0.1, 0.2};
  const Vec<3> upper{0.5, 0.4, 1.1};
  const auto box = box_of_triangles(lower, upper);
  CHECK(box.lower == lower);
  CHECK(box.upper == upper);
  std::mt19937 dice(3);
  std::uniform_real_distribution<double> any(-1.5, 1.5);
  for (int n = 0; n < 3000; ++n) {
    const Vec<3> p{any(dice), any(dice), any(dice)};
    CHECK(box.distance(p) == about(distance_to_box(p, lower, upper)).scale(1).epsilon(1e-12));
  }
}

TEST_CASE("two surfaces are told apart by one thread that asks them in turn") {
  const auto small = box_of_triangles({0, 0, 0}, {1, 1, 1});
  const auto far = box_of_triangles({10, 0, 0}, {12, 1, 1});
  for (int n = 0; n < 10; ++n) {
    CHECK(small.distance({3, 0.5, 0.5}) == about(2));
    CHECK(far.distance({3, 0.5, 0.5}) == about(7));
  }
}
