#include "line/closures.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy::line;

TEST_CASE("the friction factor solves Colebrook's equation, and is 64/Re where the flow is laminar") {
  for (const double re : {4e3, 1e5, 3e7})
    for (const double rough : {0.0, 1e-4, 0.03}) {
      const double x = 1 / std::sqrt(darcy_factor(re, rough));
      CHECK(x == about(-2 * std::log10(rough / 3.7 + 2.51 * x / re)).epsilon(1e-12));
    }
  CHECK(darcy_factor(640, 0.01) == about(0.1).epsilon(1e-14));
  CHECK(darcy_factor(2500, 0) > darcy_factor(2000, 0));  // rises from 0.032 to 0.0435 between
}

TEST_CASE("a layer's depth, sides and surface are those of the circle") {
  for (const double holdup : {1e-6, 0.01, 0.3, 0.5, 0.77, 0.999}) {
    const Layer layer = layer_of(holdup);
    CHECK(holdup_of_depth(layer.depth) == about(holdup).epsilon(1e-9));
    CHECK(layer.wet + layer.dry == about(M_PI).epsilon(1e-14));
    CHECK(layer.interface == about(2 * std::sqrt(layer.depth * (1 - layer.depth))).epsilon(1e-6));
    CHECK(layer.wet == about(std::acos(1 - 2 * layer.depth)).epsilon(1e-6));
  }
  CHECK(layer_of(0.5).depth == about(0.5).epsilon(1e-12));
  CHECK(layer_of(0).wet == 0);
}

TEST_CASE("long bubbles drift as Bendiksen measured, small ones as Harmathy did") {
  const Media media{1000, 1.2, 1e-3, 1.8e-5, 0.072};
  const double c = std::sqrt(gravity * 0.1 * (1000 - 1.2) / 1000);
  const Drift level = long_bubble_drift({0.1, 0, 0}, media, 1.0);
  CHECK(level.distribution == about(1.05).epsilon(1e-12));
  CHECK(level.velocity == about(0.54 * c).epsilon(1e-12));
  const Drift upright = long_bubble_drift({0.1, 0, 1}, media, 0.5);
  CHECK(upright.distribution == about(1.2).epsilon(1e-12));
  CHECK(upright.velocity == about(0.35 * c).epsilon(1e-12));
  const Drift fast = long_bubble_drift({0.1, 0, 0.5}, media, 6.0);
  CHECK(fast.distribution == about(1.2).epsilon(1e-12));
  CHECK(fast.velocity == about(0.35 * 0.5 * c).epsilon(1e-12));
  const double rise = 1.53 * std::pow(0.072 * gravity * (1000 - 1.2) / 1e6, 0.25);
  CHECK(bubble_drift({0.1, 0, 1}, media).velocity == about(rise).epsilon(1e-12));
}

TEST_CASE("layers give way where Taitel and Dukler's waves reach the top") {
  // (1 - h/D) sqrt([rho] g cos A_g / (rho_g S_i)) for a half-full pipe: A_g = pi D^2 / 8, S_i = D.
  const Media media{1000, 1.2, 1e-3, 1.8e-5, 0.072};
  CHECK(bridging_speed({0.1, 0, 0}, media, 0.5) ==
        about(0.5 * std::sqrt(998.8 * gravity * M_PI * 0.1 / 8 / 1.2)).epsilon(1e-9));
}

TEST_CASE("the flow map has its regimes where they belong") {
  const Media media{1000, 1.2, 1e-3, 1.8e-5, 0.072};
  const Bore level{0.05, 0, 0};
  const Bore upright{0.05, 0, 1};
  CHECK(equilibrium(level, media, 0.01, 1).regime == Regime::stratified);
  CHECK(equilibrium(level, media, 0.01, 8).regime == Regime::wavy);
  CHECK(equilibrium(level, media, 0.5, 2).regime == Regime::slug);
  CHECK(equilibrium(level, media, 0.03, 40).regime == Regime::annular);
  CHECK(equilibrium(level, media, 8, 0.5).regime == Regime::bubble);
  CHECK(equilibrium(upright, media, 1, 0.1).regime == Regime::bubble);
  CHECK(equilibrium(upright, media, 0.3, 2).regime == Regime::slug);
  CHECK(equilibrium(upright, media, 0.05, 30).regime == Regime::annular);
  CHECK(equilibrium(level, media, 1, 0).holdup == 1);
  // In slugs the gas moves at 1.2 j + 0.35 sqrt(g D) upright.
  const auto slug = equilibrium(upright, media, 0.3, 2);
  const double c = std::sqrt(gravity * 0.05 * 998.8 / 1000);
  CHECK(1 - slug.holdup == about(2 / (1.2 * 2.3 + 0.35 * c)).epsilon(1e-9));
}

TEST_CASE("a film's surface is as rough as Wallis found, and holds against the wall") {
  const Media media{1000, 1.2, 1e-3, 1.8e-5, 0.072};
  const double holdup = 0.04;
  const Friction f = annular_friction({0.05, 0, 1}, media, holdup, 0.5, 20);
  const double core = std::sqrt(1 - holdup);
  const double fanning = 0.005 * (1 + 300 * 0.5 * (1 - core));
  CHECK(f.between == about(fanning * 1.2 * 19.5 / 2 * 4 * core / 0.05).epsilon(1e-12));
  CHECK(f.wall_gas == 0);
  CHECK(f.wall_liquid > 0);
}

TEST_CASE("steady flow is found beside what was found for nearly the same flow, and is the same to the last digit") {
  const Media media{1000, 1.2, 1e-3, 1.8e-5, 0.072};
  for (const double sine : {-0.5, -0.01, 0.0, 0.02, 1.0})
    for (const double liquid : {0.01, 0.3, 2.0})
      for (const double gas : {0.02, 1.0, 20.0}) {
        CAPTURE(sine);
        CAPTURE(liquid);
        CAPTURE(gas);
        const Bore bore{0.1, 1e-5, sine};
        const double near = equilibrium(bore, media, liquid, 1.0001 * gas).layer_holdup;
        const Equilibrium anew = equilibrium(bore, media, liquid, gas);
        for (const double from : {near, 0.5, 0.999999}) {  // whatever it is looked for beside
          const Equilibrium found = equilibrium(bore, media, liquid, gas, from);
          CHECK(found.layer_holdup == anew.layer_holdup);
          CHECK(found.pressure_gradient == anew.pressure_gradient);
        }
      }
}
