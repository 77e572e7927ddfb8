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

constexpr double allowed = 1e-9;  // of sqrt(g H)

void rests(Model<2>& model, int steps) {
  const auto start = model.state().a;
  model.start();
  StepLimit limit{};
  for (int step = 0; step < steps; ++step) model.step(std::min(5e-3, model.stable_step(limit)));
  const Mixture mixed = mixture(model);
  CHECK(mixed.speed < allowed * std::sqrt(gravity));
  CHECK(mixed.sum_error < 1e-12);
  CHECK(change(model, start) < 1e-7);
}

}  // namespace

TEST_CASE("gas over oil over water stay at rest in a box, however it is tilted") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 24));
  for (const double degrees : {0.0, 5.0, 27.0, 45.0, 60.0}) {
    INFO(degrees);
    const double tilt = degrees * M_PI / 180;
    auto settings = layers<2>(true);
    settings.body_force = downwards<2>(tilt);
    Model<2> model(grid, settings);
    const Shape<2> oil = below(0.4651, tilt);
    lay<2>(model, below(0.2137, tilt), &oil);
    rests(model, 300);
  }
}

TEST_CASE("they stay at rest in a lying cylinder, with and without a weir") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
  const Solid<2> drum{[](const Vec<2>& p) { return std::hypot(p[0] - 0.5, p[1] - 0.5) - 0.48; }, {0, 0}, {1, 1}};
  for (const bool weir : {false, true}) {
    std::vector<Solid<2>> inserts;
    if (weir) inserts.push_back(box_solid<2>({0.55, 0}, {0.65, 0.35}));
    Model<2> model(grid, layers<2>(true), OpenSpace<2>(grid, &drum, inserts, {}));
    const Shape<2> oil = BelowLevel<2>{0.4651};
    lay<2>(model, BelowLevel<2>{0.2137}, &oil);
    rests(model, 300);
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
