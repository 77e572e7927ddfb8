#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "geometry/shapes.hpp"
#include "sharp/model.hpp"
#include "sharp/parts.hpp"
#include "sharp/plane.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

constexpr double g = 9.81;

struct Wave {
  Grid<2> grid;
  Model<2> model;
  double start = 0;

  /// Two layers of depth 1 each in a box 1 m wide, with half a cosine of the given amplitude between them.
  Wave(int cells, const Settings<2>& settings, double amplitude)
      : grid({0, 0}, {1, 2}, partition<2>({1, 2}, 1.0 / cells)), model(grid, settings) {
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      const double h = grid.spacing()[0];
      const auto surface = [&](double x) { return 1 + amplitude * std::cos(M_PI * x); };
      const double left = surface(cell[0] * h);
      const double right = surface((cell[0] + 1) * h);
      Plane<2> plane{{-(right - left) / h, 1}, left / h - cell[1]};
      const double size = std::abs(plane.normal[0]) + 1;
      for (double& c : plane.normal) c /= size;
      plane.offset /= size;
      model.state().F.block(b)[o] = slab_share<2>(plane, 0, 0, 1);
    });
    model.start();
    start = amplitude_now();
  }
  [[nodiscard]] double amplitude_now() const {
    double sum = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      sum += model.state().F.block(b)[o] * std::cos(M_PI * (cell[0] + 0.5) / grid.cells()[0]);
    });
    return 2 * sum * grid.cell_volume();
  }
  /// Times of zero crossings and the sizes of the extremes between them.
  void follow(double until, double largest_step, std::vector<double>& crossings, std::vector<double>& extremes) {
    double last = start;
    double last_time = 0;
    double extreme = start;
    while (model.state().time < until) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), largest_step));
      const double now = amplitude_now();
      const double t = model.state().time;
      if (last * now < 0) {
        crossings.push_back(last_time + (t - last_time) * last / (last - now));
        extremes.push_back(extreme);
        extreme = 0;
      }
      extreme = std::max(extreme, std::abs(now));
      last = now;
      last_time = t;
    }
  }
};

Settings<2> two_layers(const Properties& below, const Properties& above, double gravity, double tension) {
  Settings<2> settings;
  settings.liquid = below;
  settings.gas = above;
  settings.surface_tension = tension;
  for (auto& axis : settings.walls) axis = {Wall::slip, Wall::slip};
  settings.body_force = [gravity](double) { return Vec<2>{0, -gravity}; };
  return settings;
}

double mean_period(const std::vector<double>& crossings) {
  REQUIRE(crossings.size() >= 3);
  return 2 * (crossings.back() - crossings.front()) / (static_cast<double>(crossings.size()) - 1);
}

}  // namespace

TEST_CASE("a capillary wave between two liquids without viscosity has its natural period") {
  // omega^2 = sigma k^3 / (rho1 coth k h1 + rho2 coth k h2), Lamb, Hydrodynamics, sec. 266-267.
  const double k = M_PI;
  const double omega = std::sqrt(2.0 * k * k * k / (1.5 / std::tanh(k)));
  Wave wave(32, two_layers({1, 0}, {0.5, 0}, 0, 2.0), 0.01);
  std::vector<double> crossings;
  std::vector<double> extremes;
  wave.follow(2.2 * 2 * M_PI / omega, 1, crossings, extremes);
  CHECK(mean_period(crossings) == doctest::Approx(2 * M_PI / omega).epsilon(0.01));
}

TEST_CASE("an internal wave between two liquids of nearly the same density has its natural period") {
  // omega^2 = g k (rho1 - rho2) / (rho1 coth k h1 + rho2 coth k h2), Lamb, sec. 231.
  const double k = M_PI;
  const double omega = std::sqrt(g * k * 0.1 / (1.9 / std::tanh(k)));
  Wave wave(64, two_layers({1, 0}, {0.9, 0}, g, 0), 0.02);
  std::vector<double> crossings;
  std::vector<double> extremes;
  wave.follow(2.2 * 2 * M_PI / omega, 0.02, crossings, extremes);
  CHECK(mean_period(crossings) == doctest::Approx(2 * M_PI / omega).epsilon(0.01));
}

TEST_CASE("viscosity damps a deep-water wave at the rate 2 nu k^2") {
  // Lamb, sec. 348; the gas is thin enough not to count.
  const double k = M_PI;
  const double nu = 2e-3;
  Wave wave(64, two_layers({1000, 1000 * nu}, {0.1, 1e-6}, g, 0), 0.005);
  std::vector<double> crossings;
  std::vector<double> extremes;
  wave.follow(4.2 * 2 * M_PI / std::sqrt(g * k), 1, crossings, extremes);
  REQUIRE(extremes.size() >= 6);
  const double time = crossings.back() - crossings[1];
  const double rate = std::log(extremes[1] / extremes.back()) / time;
  MESSAGE("damping / theory: ", rate / (2 * nu * k * k));
  CHECK(rate == doctest::Approx(2 * nu * k * k).epsilon(0.1));
}

TEST_CASE("a collapsing column never gains energy and keeps its volume") {
  const Grid<2> grid({0, 0}, {1.2, 0.6}, partition<2>({1.2, 0.6}, 1.2 / 96));
  Settings<2> settings = two_layers({1000, 1e-3}, {1.2, 1.8e-5}, g, 0);
  Model<2> model(grid, settings);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
    const double h = grid.spacing()[0];
    model.state().F.block(b)[o] =
        covered_share<2>(AlignedBox<2>{{0, 0}, {0.3, 0.3}}, {c[0] * h, c[1] * h}, {(c[0] + 1) * h, (c[1] + 1) * h});
  });
  model.start();
  const double volume = model.liquid_volume();
  const auto energy = [&] {
    double potential = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
      potential += density(settings, model.state().F.block(b)[o]) * g * (c[1] + 0.5) * grid.spacing()[1];
    });
    return potential * grid.cell_volume() + model.kinetic_energy();
  };
  const double start = energy();
  double greatest = start;
  double front = 0;
  while (model.state().time < 0.8) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), 0.005));
    greatest = std::max(greatest, energy());
    if (model.state().time < 0.25)
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
        if (c[1] == 0 && model.state().F.block(b)[o] > 0.5) front = std::max(front, (c[0] + 1) * grid.spacing()[0]);
      });
  }
  // The liquid of a cell is counted at the cell's centre: a thin layer on the floor is taken for higher than it lies.
  CHECK(greatest - start < 5e-3 * start);
  CHECK(energy() < start);
  CHECK(std::abs(model.liquid_volume() / volume - 1) < 1e-12);
  // At t sqrt(g / a) = 1.43 the front is about 1.9 a from the wall (Martin & Moyce 1952), where it certainly has
  // left 1.4 a.
  CHECK(front > 1.4 * 0.3);
  CHECK(front < 2.6 * 0.3);
}
