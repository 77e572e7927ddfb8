#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "sharp/model.hpp"
#include "sharp/parts.hpp"
#include "validation/flows.hpp"

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
      : grid(validation::box(1, 2, cells)), model(grid, settings) {
    validation::fill_below(grid, model.state().F, [&](double x) { return 1 + amplitude * std::cos(M_PI * x); });
    model.start();
    start = validation::mode_amplitude(model, 1);
  }
  validation::SwingThroughZero follow(double until, double largest_step) {
    validation::SwingThroughZero swing(start);
    while (model.state().time < until) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), largest_step));
      swing.add(model.state().time, validation::mode_amplitude(model, 1));
    }
    return swing;
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

}  // namespace

TEST_CASE("a capillary wave between two liquids without viscosity has its natural period") {
  // omega^2 = sigma k^3 / (rho1 coth k h1 + rho2 coth k h2), Lamb, Hydrodynamics, sec. 266-267.
  const double k = M_PI;
  const double omega = std::sqrt(2.0 * k * k * k / (1.5 / std::tanh(k)));
  Wave wave(32, two_layers({1, 0}, {0.5, 0}, 0, 2.0), 0.01);
  const auto swing = wave.follow(2.2 * 2 * M_PI / omega, 1);
  CHECK(swing.period() == about(2 * M_PI / omega).epsilon(0.01));
}

TEST_CASE("an internal wave between two liquids of nearly the same density has its natural period") {
  // omega^2 = g k (rho1 - rho2) / (rho1 coth k h1 + rho2 coth k h2), Lamb, sec. 231.
  const double k = M_PI;
  const double omega = std::sqrt(g * k * 0.1 / (1.9 / std::tanh(k)));
  Wave wave(64, two_layers({1, 0}, {0.9, 0}, g, 0), 0.02);
  const auto swing = wave.follow(2.2 * 2 * M_PI / omega, 0.02);
  CHECK(swing.period() == about(2 * M_PI / omega).epsilon(0.01));
}

TEST_CASE("viscosity damps a deep-water wave at the rate 2 nu k^2") {
  // Lamb, sec. 348; the gas is thin enough not to count.
  const double k = M_PI;
  const double nu = 2e-3;
  Wave wave(64, two_layers({1000, 1000 * nu}, {0.1, 1e-6}, g, 0), 0.005);
  const auto swing = wave.follow(4.2 * 2 * M_PI / std::sqrt(g * k), 1);
  REQUIRE(swing.extremes.size() >= 6);
  const double rate = swing.damping();
  MESSAGE("damping / theory: ", rate / (2 * nu * k * k));
  CHECK(rate == about(2 * nu * k * k).epsilon(0.1));
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

TEST_CASE("a liquid whose gas is left out sloshes and falls as if there were none") {
  // omega^2 = g k tanh(k h) (Lamb, sec. 228), to what the thin layer of stand-in gas above the surface weighs.
  Settings<2> settings = two_layers({1000, 0}, {1, 0}, g, 0);
  settings.free_surface_only = true;
  const double omega = std::sqrt(g * M_PI * std::tanh(M_PI));
  Wave wave(48, settings, 0.005);
  const auto swing = wave.follow(2.2 * 2 * M_PI / omega, 1);
  CHECK(swing.period() == about(2 * M_PI / omega).epsilon(0.003));
  CHECK(wave.model.computed_share() < 0.6);

  // A drop falls freely.
  const Grid<2> grid(validation::box(1, 2, 48));
  Model<2> drop(grid, settings);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const auto [low, high] = cell_corners<2>(grid, cell);
    drop.state().F.block(b)[o] = covered_share<2>(Shape<2>(Ball<2>{{0.5, 1.5}, 0.2}), low, high);
  });
  drop.start();
  while (drop.state().time < 0.2) {
    StepLimit limit{};
    drop.step(std::min(drop.stable_step(limit), 0.01));
  }
  const double fall = g * drop.state().time;
  CHECK(drop.greatest_speed() == about(fall).epsilon(0.01));
  CHECK(drop.kinetic_energy() == about(0.5 * 1000 * M_PI * 0.04 * fall * fall).epsilon(0.01));
  CHECK(std::abs(drop.true_pressure().block(0)[0]) < 1e-9);
}

TEST_CASE("a wave goes through the end of a vessel that repeats") {
  // A standing wave of one wavelength, its crest on the seam or beside it; omega^2 = g k tanh(k h), Lamb, sec. 228,
  // with the gas of a thousandth above it.
  const double k = 2 * M_PI;
  const double omega = std::sqrt(g * k * std::tanh(k) * (1000.0 - 1) / (1000.0 + 1));
  const std::array<bool, 2> ring{true, false};
  for (const double shift : {0.0, 0.3}) {
    const Grid<2> grid({0, 0}, {1, 2}, partition<2>({1, 2}, 1.0 / 64), ring);
    Model<2> model(grid, two_layers({1000, 0}, {1, 0}, g, 0));
    const auto place = [&](double x) { return 1 + 0.005 * std::cos(k * (x - shift)); };
    validation::fill_below(grid, model.state().F, place);
    model.start();
    // What the surface has of this wave.
    const auto amplitude = [&] {
      double sum = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
        const double x = (cell[0] + 0.5) * grid.spacing()[0];
        sum += 2 * model.state().F.block(b)[o] * std::cos(k * (x - shift)) * grid.cell_volume();
      });
      return sum;
    };
    validation::SwingThroughZero swing(amplitude());
    while (model.state().time < 2.2 * 2 * M_PI / omega) {
      StepLimit limit{};
      model.step(model.stable_step(limit));
      swing.add(model.state().time, amplitude());
    }
    CHECK(swing.period() == about(2 * M_PI / omega).epsilon(0.005));
    CHECK(model.liquid_volume() == about(1).epsilon(1e-12));
  }
}

TEST_CASE("a film runs down a plane that repeats with the parabola of its weight") {
  // u = g sin(theta) / nu (h y - y^2 / 2); sheds no gas drag as the gas is left out (Nusselt 1916).
  const std::array<bool, 2> ring{true, false};
  const Grid<2> grid({0, 0}, {0.25, 1}, partition<2>({0.25, 1}, 1.0 / 32), ring);
  Settings<2> settings = two_layers({1000, 500}, {1, 0}, g, 0);
  settings.free_surface_only = true;
  for (auto& axis : settings.walls) axis = {Wall::no_slip, Wall::no_slip};
  const double along = 0.2 * g;
  settings.body_force = [along](double) { return Vec<2>{along, -g}; };
  Model<2> model(grid, settings);
  constexpr double depth = 0.6;
  validation::fill_below(grid, model.state().F, [](double) { return depth; });
  model.start();
  while (model.state().time < 6) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), 0.01));
  }
  double off = 0;
  const double fastest = along / 0.5 * depth * depth / 2;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double y = (cell[1] + 0.5) * grid.spacing()[1];
    if (y > depth - 0.05) return;
    const double exact = along / 0.5 * (depth * y - y * y / 2);
    off = std::max(off, std::abs(model.state().u[0].block(b)[o] - exact) / fastest);
  });
  MESSAGE("film, greatest error " << off);
  CHECK(off < 0.02);
}

TEST_CASE("a film thinner than a cell runs down a wall that cuts the cells at the speed of films") {
  // Laminar: g depth^2 / (3 nu) (Nusselt 1916). Turbulent: depth = 0.302 (3 nu^2 / g)^(1/3) Re^(8/15) with Re the flow
  // per width over nu (Brauer 1956, quoted from memory), a fit to measurements that the friction taken is not made
  // from.
  constexpr double cell = 1.0 / 32;
  constexpr double step = 1e-3;
  const auto mean_speed = [&](double nu, double depth) {
    const std::array<bool, 2> ring{true, false};
    const Grid<2> grid({0, 0}, {0.25, 1}, partition<2>({0.25, 1}, cell), ring);
    Settings<2> settings = two_layers({1000, 1000 * nu}, {1, 0}, g, 0);
    settings.free_surface_only = true;
    settings.body_force = [](double) { return Vec<2>{g, -1e-3}; };
    const auto vessel = box_solid<2>({-1, 0.4 * cell}, {2, 2});
    Model<2> model(grid, settings, OpenSpace<2>(grid, &vessel, {}, {}));
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& at) {
      if (at[1] == 0) model.state().F.block(b)[o] = depth / (0.6 * cell);
    });
    model.start();
    while (model.state().time < 0.8) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), step));
    }
    // Beside the interface the force of the last step comes on top (see Viscosity).
    return model.state().u[0].block(0)[0] - g * step;
  };
  const double thin = 0.1 * cell;
  // What stands for the gas that is left out weighs a thousandth, and runs down with the film of its cell.
  const double F = thin / (0.6 * cell);
  const double with_gas = 1 + 1e-3 * (1 - F) / F;
  CHECK(mean_speed(1e-2, thin) == about(with_gas * g * thin * thin / 3e-2).epsilon(1e-3));
  const double fast = mean_speed(1e-5, thin);
  const double reynolds = fast * thin / 1e-5;
  CHECK(reynolds > 400);
  CHECK(0.302 * std::cbrt(3e-10 / g) * std::pow(reynolds, 8.0 / 15) == about(thin).epsilon(0.06));
}
