// Agitators of a setup: angles, expected powers.
#include "run/agitators.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>

#include "about.hpp"

using namespace wavy;

TEST_CASE("the angle is the integral of the speed, the same bits whatever was asked before") {
  const Formula ramp("ramp(t, 0 s, 1 s, 0 rev/min, 240 rev/min)", {}, dimension::rotation, {});
  TurnedAngle angle(ramp);
  const double full = 8 * std::numbers::pi;  // rad/s
  const double late = angle(2.5);
  CHECK(late == about(0.5 * full + 1.5 * full).epsilon(1e-9));
  CHECK(angle(0.5) == about(0.125 * full).epsilon(1e-9));
  CHECK(angle(0) == 0);
  TurnedAngle again(ramp);
  CHECK(again(0.3) == angle(0.3));
  CHECK(again(2.5) == late);
  TurnedAngle steady(Formula(3.0));
  CHECK(steady(7) == 21);
  const Formula swinging("2 rad/s * cos(2 * t / (1 s))", {}, dimension::rotation, {});
  TurnedAngle swing(swinging);
  for (const double t : {0.1, 0.7, 3.33}) CHECK(swing(t) == about(std::sin(2 * t)).epsilon(1e-9));
}

TEST_CASE("power numbers are told where they are known") {
  const Impeller disc = usual_impeller(ImpellerKind::disc_turbine, 0.1);
  CHECK(expected_power(disc, 5e4, 0.3, 0.3, true).number == about(5.0).epsilon(0.005));  // 4.6 to 5.5 by thickness
  CHECK(expected_power(disc, 5e4, 0.3, 0.3, false).number == 0);
  CHECK(expected_power(disc, 50, 0.3, 0.3, true).number == 0);
  CHECK(expected_power(usual_impeller(ImpellerKind::pitched_blade, 0.1), 5e4, 0.3, 0.3, true).number == 1.27);
  // Nagata's for paddles: A/Re where it is viscous; falls with Re.
  const Impeller paddle = usual_impeller(ImpellerKind::paddle, 0.15);
  const double b = 0.03 / 0.3;
  const double A = 14 + b * (670 * std::pow(0.5 - 0.6, 2) + 185);
  CHECK(expected_power(paddle, 1e-2, 0.3, 0.3, false).number == about(A / 1e-2).epsilon(0.01));
  double before = 1e9;
  for (const double reynolds : {1.0, 10.0, 1e2, 1e3, 1e4, 1e5}) {
    const double now = expected_power(paddle, reynolds, 0.3, 0.3, false).number;
    CHECK(now < before);
    before = now;
  }
}

TEST_CASE("the expected well is that of a core that turns as a solid in liquid that keeps its angular momentum") {
  const Impeller paddle = usual_impeller(ImpellerKind::paddle, 0.16);
  constexpr double vessel = 0.4;
  constexpr double speed = 25.13;
  const double core = expected_core(paddle, 6.46e4, vessel);
  CHECK(core == about(0.0478).epsilon(2e-3));  // by hand
  CHECK(expected_core(paddle, 1e9, vessel) == about(core * (1e3 / 6.46e4 + 1.43) / 1.43).epsilon(1e-6));
  // dz/dr = u^2/(g r), from the middle to the wall.
  double depth = 0;
  constexpr int rings = 20000;
  for (int i = 0; i < rings; ++i) {
    const double r = (i + 0.5) * vessel / 2 / rings;
    const double u = speed * (r < core ? r : core * core / r);
    depth += u * u / (9.80665 * r) * vessel / 2 / rings;
  }
  CHECK(vortex_depth(core, speed, vessel) == about(depth).epsilon(1e-4));
}
