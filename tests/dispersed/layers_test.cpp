// Layers of gas, oil and water: at rest, and sloshing.
#include <doctest/doctest.h>

#include <cmath>
#include <vector>

#include "about.hpp"
#include "validation/eulerian_flows.hpp"

using namespace wavy;
using namespace wavy::dispersed;
using namespace wavy::eulerian;

namespace {

void rests(const Rest& rest) {
  constexpr double allowed = 1e-9;  // of sqrt(g H)
  CHECK(rest.mixed.speed < allowed * std::sqrt(gravity));
  CHECK(rest.mixed.sum_error < 1e-12);
  CHECK(rest.change < 1e-7);
}

}  // namespace

TEST_CASE("gas over oil over water stay at rest in a box, however it is tilted") {
  for (const double degrees : {0.0, 5.0, 27.0, 45.0, 60.0}) {
    INFO(degrees);
    rests(rest_in_box(degrees * M_PI / 180, 300));
  }
}

TEST_CASE("they stay at rest in a lying cylinder, with and without a weir") {
  for (const bool weir : {false, true}) {
    INFO(weir);
    rests(rest_in_drum(weir, 300));
  }
}

TEST_CASE("they stay at rest at different levels on the two sides of a plate, thinner than a cell too") {
  // On faces; within cells; in one of them, or in two cut ones; leaning.
  for (const double cells : {0.1, 0.9, 1.0, 1.5, 2.0})
    for (const double degrees : {0.0, 20.0}) {
      INFO(cells, ' ', degrees);
      rests(rest_beside_plate(cells / 32, degrees * M_PI / 180, 100));
    }
}

TEST_CASE("a gas cap sloshes over a liquid with bubbles in it at the liquid's period, and stays above it") {
  for (const double bubbles : {0.0, 0.03}) {
    INFO(bubbles);
    const Sloshing sloshed = sloshing(32, bubbles);
    CHECK(std::abs(sloshed.period_error) < 0.02);
    CHECK(sloshed.amplitude > 0.9);
    CHECK(sloshed.amplitude < 1.001);
    CHECK(sloshed.width < 1.5);
    CHECK(sloshed.trapped < 1e-6);
    CHECK(std::abs(sloshed.volume_error) < 1e-12);
  }
}
