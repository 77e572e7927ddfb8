// What rotation and curved flow do to the production of turbulence.
#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "physics/turbulence.hpp"

using namespace wavy;

namespace {

constexpr double slow = 0.1;  // omega so small that the strain alone is the time rate [1/s]

/// Of a vortex whose speed goes with r^power, 1 m/s at r = 1 m, seen at an angle; it turns about `axis` (2: upright).
double in_vortex(double power, double angle, double omega = slow, std::size_t axis = 2) {
  const double c = std::cos(angle), s = std::sin(angle);
  // Round z: u_r = 0, u_t = r^power: grad u in (r, t) is {{0, -1}, {power, 0}} at r = 1.
  const double R[2][2] = {{c, -s}, {s, c}};
  const double polar[2][2] = {{0, -1}, {power, 0}};
  const std::size_t x = (axis + 1) % 3, y = (axis + 2) % 3;
  const std::size_t at[2] = {x, y};
  VelocityGradient g{};
  for (std::size_t i = 0; i < 2; ++i)
    for (std::size_t j = 0; j < 2; ++j)
      for (std::size_t k = 0; k < 2; ++k)
        for (std::size_t l = 0; l < 2; ++l) g[at[i]][at[j]] += R[i][k] * polar[k][l] * R[j][l];
  std::array<double, 3> u{};
  u[x] = -s;
  u[y] = c;
  return rotation_factor(g, u, omega);
}

}  // namespace

TEST_CASE("a straight shear flow, and one that stands, are left as they are") {
  VelocityGradient g{};
  CHECK(rotation_factor(g, {}, 1) == 1);
  CHECK(rotation_factor(g, {1, 2, 3}, 1) == 1);
  g[0][1] = 4;
  CHECK(rotation_factor(g, {1, 0, 0}, 1) == about(1).epsilon(1e-14));
  CHECK(rotation_factor(g, {}, 1) == about(1).epsilon(1e-14));
}

TEST_CASE(
    "production stops in fluid that turns as a solid, is less where angular momentum grows, more where it falls") {
  CHECK(in_vortex(1, 0.3) == 0);
  CHECK(in_vortex(-0.5, 0.3) < 0.3);
  // The formula by hand for u = r^-0.5: S = 1.5, W = 0.5, r* = 3, rate = 1, r~ = 1 S^2/S^3.
  CHECK(in_vortex(-0.5, 0) == about(std::max(0.0, 2 * 1.5 * (1 - std::atan(2 / 1.5)) - 1)).epsilon(1e-12));
  // u = r^-2: S = 3, W = -1: what turns the axes is against the vorticity.
  CHECK(in_vortex(-2, 0) == about(1.25));
  // A weakly curved layer whose speed grows away from the middle of its bend by 10: nearly as a straight one.
  CHECK(in_vortex(10, 0) < 1);
  CHECK(in_vortex(10, 0) == about(2 * 0.9 * (1 - std::atan(2.0 / 9)) - 1).epsilon(1e-12));
  CHECK(in_vortex(-10, 0) > 1);
}

TEST_CASE("it does not matter how one looks at it, nor about which axis the flow turns") {
  for (const double power : {0.5, -0.5, -2.0, 10.0, -10.0})
    for (const double angle : {0.4, 2.0, 4.1})
      for (const std::size_t axis : {0, 1, 2})
        CHECK(in_vortex(power, angle, slow, axis) == about(in_vortex(power, 0)).epsilon(1e-9));
}

TEST_CASE("turbulence that is fast against the flow hardly feels it turn") {
  CHECK(in_vortex(10, 0, 1e4) == about(2 * 2 * 9 / (9 + 11.0) - 1).epsilon(1e-6));
}
