// Layers of gas, oil and water: at rest, and sloshing.
#include <doctest/doctest.h>

#include <cmath>
#include <vector>

#include "about.hpp"
#include "dispersed/parts.hpp"

using namespace wavy;
using namespace wavy::dispersed;

namespace {

constexpr double allowed = 1e-9;  // of sqrt(g H)

/// What lies below a plane across G tilted by so much, as a shape.
Shape<2> below(double level, double tilt) {
  return Covering<2>{[=](const Vec<2>& lower, const Vec<2>& upper) {
    Vec<2> n{-std::sin(tilt) * (upper[0] - lower[0]), std::cos(tilt) * (upper[1] - lower[1])};
    double offset = level + std::sin(tilt) * lower[0] - std::cos(tilt) * lower[1];
    double scale = 0;
    for (double& c : n) {
      if (c < 0) {
        offset -= c;
        c = -c;
      }
      scale += c;
    }
    if (offset <= 0) return 0.0;
    return offset >= scale ? 1.0 : share_below<2>({n[0] / scale, n[1] / scale}, offset / scale);
  }};
}

double change(const Model<2>& model, const std::vector<Cells<2>>& start) {
  double greatest = 0;
  for_cells_in_order<2>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<2>&) {
    if (open_share(model.space(), b, at) == 0) return;
    for (std::size_t i = 0; i < model.phases(); ++i)
      greatest = std::max(greatest, std::abs(model.state().a[i].block(b)[at] - start[i].block(b)[at]));
  });
  return greatest;
}

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
  const int cells = 32;
  const double depth = 0.5;
  const double amplitude = 0.03;
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / cells));
  for (const double bubbles : {0.0, 0.03}) {
    auto settings = layers<2>(false);
    settings.walls = all<2>(Wall::slip);
    Model<2> model(grid, settings);
    lay<2>(model, Covering<2>{[=](const Vec<2>& lower, const Vec<2>& upper) {
             constexpr int parts = 16;
             double sum = 0;
             for (int i = 0; i < parts; ++i) {
               const double x = lower[0] + (i + 0.5) / parts * (upper[0] - lower[0]);
               const double surface = depth + amplitude * std::cos(M_PI * x);
               sum += std::clamp((surface - lower[1]) / (upper[1] - lower[1]), 0.0, 1.0) / parts;
             }
             return sum;
           }},
           nullptr);
    for (auto& value : model.state().a[0].data()) value *= 1 - bubbles;
    for (auto& value : model.state().a[1].data()) value = 1 - (1 - value) * (1 - bubbles);
    const double water = model.volume(0);
    model.start();
    const double period = 2 * M_PI / std::sqrt(gravity * M_PI * std::tanh(M_PI * depth));
    const auto mode = [&] {
      double sum = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
        sum += model.state().a[0].block(b)[at] * std::cos(M_PI * (cell[0] + 0.5) / cells);
      });
      return 2 * sum / (cells * cells);
    };
    std::vector<double> rises;  // times at which the mode passes 0 upwards
    double last = mode();
    double greatest = 0;
    StepLimit limit{};
    while (model.state().time < 5 * period) {
      const double before = model.state().time;
      model.step(std::min(period / 40, model.stable_step(limit)));
      const double now = mode();
      if (last < 0 && now >= 0) rises.push_back(before - last / (now - last) * (model.state().time - before));
      if (model.state().time > 4 * period) greatest = std::max(greatest, std::abs(now));
      last = now;
    }
    INFO(bubbles);
    REQUIRE(rises.size() >= 4);
    CHECK((rises.back() - rises.front()) / static_cast<double>(rises.size() - 1) == about(period).epsilon(0.02));
    CHECK(greatest > 0.9 * amplitude);
    CHECK(greatest < amplitude * 1.001);
    // How wide the surface is, and what gas is left below it.
    double width = 0;
    double trapped = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      const double a = model.state().a[0].block(b)[at];
      width += 4 * a * (1 - a) / cells;
      if ((cell[1] + 0.5) / cells < depth - 0.15) trapped += (1 - a) / (cells * cells);
    });
    CHECK(width < 1.5);
    CHECK(trapped < 1e-6);
    CHECK(std::abs(model.volume(0) / water - 1) < 1e-12);
  }
}
