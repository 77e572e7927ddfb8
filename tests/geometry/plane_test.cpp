#include "geometry/plane.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

template <int D>
Vec<D> random_normal(std::mt19937& dice, int special) {
  std::uniform_real_distribution<double> any(-1, 1);
  Vec<D> normal;
  for (double& c : normal) c = any(dice);
  if (special == 1) normal[0] = 0;
  if (special == 2) normal[0] = 1e-9 * normal[1];
  if (special == 3 && D == 3) normal[1] = normal[0];
  return normal;
}

template <int D>
void check_round_trips() {
  std::mt19937 dice(4711);
  std::uniform_real_distribution<double> any(0, 1);
  for (int n = 0; n < 20000; ++n) {
    const Vec<D> normal = random_normal<D>(dice, n % 5);
    const double F = n % 7 == 0 ? std::pow(10.0, -12 * any(dice)) : any(dice);
    const Plane<D> plane = plane_through<D>(normal, F);
    const double whole = slab_share<D>(plane, 0, 0, 1);
    REQUIRE(whole == about(F).epsilon(1e-9).scale(1e-3));
    for (int axis = 0; axis < D; ++axis) {
      const double cut = any(dice);
      const double below = slab_share<D>(plane, axis, 0, cut);
      const double above = slab_share<D>(plane, axis, cut, 1 - cut);
      REQUIRE(below >= 0);
      REQUIRE(below <= cut * (1 + 1e-14));
      REQUIRE(below + above == about(whole).epsilon(1e-11).scale(1));
    }
  }
}

}  // namespace

TEST_CASE("a plane cuts off the share it was made for, and slabs add up, in 2-D and 3-D") {
  check_round_trips<2>();
  check_round_trips<3>();
}

TEST_CASE("shares below planes agree with geometry worked out by hand") {
  CHECK(share_below<2>({0.5, 0.5}, 0.25) == about(0.125));                        // triangle with legs 1/2
  CHECK(share_below<3>({1 / 3.0, 1 / 3.0, 1 / 3.0}, 1 / 3.0) == about(1 / 6.0));  // corner tetrahedron
  CHECK(share_below<3>({1 / 3.0, 1 / 3.0, 1 / 3.0}, 0.5) == about(0.5));
  CHECK(share_below<3>({0.2, 0.3, 0.5}, 0.5) == about(0.5));
  CHECK(share_below<2>({0, 1}, 0.3) == about(0.3));
  const Vec<2> layer = middle_below<2>({{0, 1}, 0.3});
  CHECK(layer[0] == about(0.5).epsilon(1e-9));
  CHECK(layer[1] == about(0.15).epsilon(1e-9));
  for (const double c : middle_below<2>({{0.5, 0.5}, 0.5})) CHECK(c == about(1 / 3.0).epsilon(1e-9));
  for (const double c : middle_below<3>({{1 / 3.0, 1 / 3.0, 1 / 3.0}, 1 / 3.0}))
    CHECK(c == about(0.25).epsilon(1e-9));  // of the corner tetrahedron
  for (const double c : middle_below<3>({{1 / 3.0, -1 / 3.0, 1 / 3.0}, 2})) CHECK(c == about(0.5));
  const Vec<2> foot = foot_point<2>({{0.5, 0.5}, 0.25});
  CHECK(foot[0] == about(0.25));
  CHECK(foot[1] == about(0.25));
}
