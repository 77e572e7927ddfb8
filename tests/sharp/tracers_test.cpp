// What phases carry in themselves.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "about.hpp"
#include "base/error.hpp"
#include "geometry/solids.hpp"
#include "sharp/model.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

Settings<2> water_and_air() {
  Settings<2> settings;
  settings.liquid = {1000, 1e-3};
  settings.gas = {1.2, 1.8e-5};
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  return settings;
}

/// What a field adds up to in a phase: [kg/m].
double amount(const Model<2>& model, std::size_t tracer) {
  const auto& grid = model.grid();
  const bool liquid = model.settings().tracers[tracer].phase == 0;
  return grid.cell_volume() * sum_volumes(grid, [&](int b) {
           const OpenVolumes<2> volume(model.space(), b);
           double sum = 0;
           for_rows<2>(grid.layout(), [&](std::ptrdiff_t o, int n) {
             for (std::ptrdiff_t at = o; at < o + n; ++at) {
               const double F = model.state().F.block(b)[at];
               sum += volume[at] * (liquid ? F : 1 - F) * model.state().tracers[tracer].block(b)[at];
             }
           });
           return sum;
         });
}

struct Range {
  double least = 1e300;
  double greatest = -1e300;
  double without = 0;  ///< greatest where there is nothing of the phase
};

Range range(const Model<2>& model, std::size_t tracer) {
  Range result;
  const bool liquid = model.settings().tracers[tracer].phase == 0;
  for_cells_in_order<2>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<2>&) {
    if (open_share(model.space(), b, o) == 0) return;
    const double F = model.state().F.block(b)[o];
    const double c = model.state().tracers[tracer].block(b)[o];
    const double share = liquid ? F : 1 - F;
    if (share > 1e-9) {
      result.least = std::min(result.least, c);
      result.greatest = std::max(result.greatest, c);
    }
    if (share < 1e-13) result.without = std::max(result.without, std::abs(c));
  });
  return result;
}

void fill(Model<2>& model, const std::function<double(const Vec<2>&)>& level) {
  for_cells_in_order<2>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<2>&) {
    model.state().F.block(b)[o] = level(cell_middle<2>(model.grid(), b, o));
  });
}

void run(Model<2>& model, int steps) {
  for (int k = 0; k < steps; ++k) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
}

}  // namespace

TEST_CASE("a drop that carries dye falls into water that carries none and keeps every bit of it") {
  Settings<2> settings = water_and_air();
  settings.surface_tension = 0.072;
  TracerSettings<2> dye;
  dye.start = [](const Vec<2>& x) { return x[1] > 0.04 ? 2.0 : 0.0; };
  TracerSettings<2> everywhere;  // the same in all water
  everywhere.start = [](const Vec<2>&) { return 3.0; };
  everywhere.diffusivity = 1e-6;
  TracerSettings<2> scent;
  scent.phase = 1;
  scent.start = [](const Vec<2>& x) { return x[0] < 0.05 ? 1.0 : 0.0; };
  scent.diffusivity = 2e-5;
  settings.tracers = {dye, everywhere, scent};
  const Grid<2> grid = grid_over<2>({0, 0}, {0.1, 0.1}, 0.1 / 64);
  Model<2> model(grid, settings);
  fill(model, [](const Vec<2>& x) {
    const double from_drop = std::hypot(x[0] - 0.05, x[1] - 0.055);
    return x[1] < 0.035 || from_drop < 0.012 ? 1.0 : 0.0;
  });
  model.start();
  const std::array<double, 3> before{amount(model, 0), amount(model, 1), amount(model, 2)};
  REQUIRE(before[0] > 0);
  double most = 0;
  for (int k = 0; k < 300; ++k) {
    run(model, 1);
    for (std::size_t i = 0; i < 3; ++i) {
      CAPTURE(model.state().time);
      CAPTURE(i);
      REQUIRE(amount(model, i) == about(before[i]).epsilon(1e-12));
      const Range now = range(model, i);
      REQUIRE(now.without == 0);
      REQUIRE(now.least >= (i == 1 ? 3 - 1e-9 : -1e-12));
      // To what the steps had to put back, where there is nothing between the bounds that could take it.
      REQUIRE(now.greatest <= (i == 0 ? 2 + 1e-8 : i == 1 ? 3 + 1e-9 : 1 + 1e-8));
    }
    most = range(model, 0).greatest;
  }
  // It has merged: dye is where there was none, and thinner.
  double in_pool = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    if (cell_middle<2>(grid, b, o)[1] < 0.03) in_pool = std::max(in_pool, model.state().tracers[0].block(b)[o]);
  });
  CHECK(in_pool > 0.1);
  CHECK(most < 2);
  CHECK(model.tracers().greatest_correction() < 1e-6);
}

TEST_CASE("a blob of dye that turns with the water comes round as it was, nearly of second order") {
  double before = 0;
  for (const int cells : {32, 64}) {
    Settings<2> settings = water_and_air();
    settings.body_force = [](double) { return Vec<2>{}; };
    settings.liquid.viscosity = 0;
    TracerSettings<2> dye;
    const auto blob = [](const Vec<2>& x) {
      return std::exp(-(std::pow(x[0] - 0.05, 2) + std::pow(x[1] - 0.03, 2)) / (2 * 0.01 * 0.01));
    };
    dye.start = blob;
    settings.tracers = {dye};
    const Grid<2> grid = grid_over<2>({0, 0}, {0.1, 0.1}, 0.1 / cells);
    const Solid<2> drum = ball_solid<2>({0.05, 0.05}, 0.049);
    settings.solid_walls = Wall::slip;
    Model<2> model(grid, settings, OpenSpace<2>(grid, &drum, {}, {}, false));
    fill(model, [](const Vec<2>&) { return 1.0; });
    const double omega = 2 * std::numbers::pi;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      const Vec<2> x = cell_middle<2>(grid, b, o);
      model.state().u[0].block(b)[o] = -omega * (x[1] - 0.05);
      model.state().u[1].block(b)[o] = omega * (x[0] - 0.05);
    });
    model.start();
    const double all = amount(model, 0);
    while (model.state().time < 1 - 1e-9) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), 1 - model.state().time));
    }
    CHECK(amount(model, 0) == about(all).epsilon(1e-12));
    double error = 0;
    double size = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      const double volume = OpenVolumes<2>(model.space(), b)[o];
      const double exact = blob(cell_middle<2>(grid, b, o));
      error += volume * std::abs(model.state().tracers[0].block(b)[o] - exact);
      size += volume * exact;
    });
    error /= size;
    CHECK(model.tracers().greatest_correction() < 1e-8);
    CHECK(error < (cells == 32 ? 0.15 : 0.05));
    if (cells == 64) CHECK(error < 0.4 * before);
    before = error;
  }
}

TEST_CASE("dye in water at rest spreads as the error function says, not into the air, through cut walls' cells too") {
  for (const bool cut : {false, true}) {
    CAPTURE(cut);
    Settings<2> settings = water_and_air();
    TracerSettings<2> dye;
    dye.diffusivity = 1e-5;
    // Along the axis of a channel that leans by 30 degrees in the cut case.
    const double angle = cut ? std::numbers::pi / 6 : 0;
    const Vec<2> along{std::cos(angle), std::sin(angle)};
    const auto place = [&](const Vec<2>& x) { return (x[0] - 0.05) * along[0] + (x[1] - 0.05) * along[1]; };
    dye.start = [&](const Vec<2>& x) { return place(x) < 0 ? 1.0 : 0.0; };
    settings.tracers = {dye};
    settings.body_force = [](double) { return Vec<2>{}; };
    const Grid<2> grid = grid_over<2>({0, 0}, {0.1, 0.1}, 0.1 / 64);
    const Solid<2> channel = turned(box_solid<2>({-0.2, 0.035}, {0.3, 0.065}), {0.05, 0.05}, angle);
    Model<2> model(grid, settings, cut ? OpenSpace<2>(grid, &channel, {}, {}, false) : OpenSpace<2>());
    fill(model, [&](const Vec<2>& x) { return cut || x[1] < 0.05 ? 1.0 : 0.0; });
    model.start();
    for (int k = 0; k < 40; ++k) model.step(0.1);
    double error = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      if (OpenVolumes<2>(model.space(), b)[o] < 0.3 || model.state().F.block(b)[o] < 0.5) return;
      const double s = place(cell_middle<2>(grid, b, o));
      if (std::abs(s) > 0.035) return;
      const double exact = 0.5 * std::erfc(s / (2 * std::sqrt(dye.diffusivity * 4)));
      error = std::max(error, std::abs(model.state().tracers[0].block(b)[o] - exact));
    });
    CHECK(error < (cut ? 0.06 : 0.02));
    CHECK(range(model, 0).without == 0);
  }
}

TEST_CASE("a dose comes in its time, evenly over the water of its zone") {
  Settings<2> settings = water_and_air();
  TracerSettings<2> dye;
  dye.doses = {{AlignedBox<2>{{0, 0}, {0.05, 0.1}}, 3.0, 0.02, 0.03, "the dose"},
               {AlignedBox<2>{{0.05, 0}, {0.1, 0.1}}, 0.5, 0.0405, 0.0, "another"}};
  settings.tracers = {dye};
  const Grid<2> grid = grid_over<2>({0, 0}, {0.1, 0.1}, 0.1 / 20);
  Model<2> model(grid, settings);
  fill(model, [](const Vec<2>& x) { return x[1] < 0.05 ? 1.0 : 0.0; });
  model.start();
  for (int k = 0; k < 100; ++k) {
    model.step(1e-3);
    const double t = model.state().time;
    const double given = std::clamp((t - 0.02) / 0.03, 0.0, 1.0) * 3 + (t > 0.0405 ? 0.5 : 0.0);
    CHECK(amount(model, 0) == about(given).epsilon(1e-9));
  }
  // 3 kg/m in 0.05 m by 0.05 m.
  CHECK(range(model, 0).greatest == about(1200).epsilon(1e-6));
  CHECK(range(model, 0).least == about(200).epsilon(1e-6));

  settings.tracers[0].doses = {{AlignedBox<2>{{0, 0.08}, {0.05, 0.1}}, 3.0, 0.002, 0.0, "the dose"}};
  Model<2> above(grid, settings);
  fill(above, [](const Vec<2>& x) { return x[1] < 0.05 ? 1.0 : 0.0; });
  above.start();
  above.step(1e-3);
  above.step(1e-3);
  CHECK_THROWS_AS(above.step(1e-3), Error);
}

TEST_CASE("what comes in brings its tracer, and what goes out takes it along") {
  Settings<2> settings = water_and_air();
  settings.body_force = [](double) { return Vec<2>{}; };
  TracerSettings<2> dye;
  dye.inflow = {2.0, std::nullopt};
  settings.tracers = {dye};
  Opening<2> in;
  in.name = "in";
  in.flow = [](double) { return 0.01; };  // 0.1 m/s over 0.1 m
  in.composition = {1, 0};
  Opening<2> out = in;
  out.name = "out";
  out.side = 1;
  out.flow = nullptr;
  out.pressure = [](double) { return 0.0; };
  for (auto* opening : {&in, &out}) opening->axis = 0;
  settings.walls[1] = {Wall::slip, Wall::slip};
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.1}, 0.01);
  Model<2> model(grid, settings, {}, {in, out});
  fill(model, [](const Vec<2>&) { return 1.0; });
  model.start();
  while (model.state().time < 2 - 1e-9) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), 2 - model.state().time));
  }
  // 0.2 of the 0.4 m are full of it.
  CHECK(amount(model, 0) == about(0.2 * 0.1 * 2).epsilon(1e-9));
  CHECK(model.tracers().passed(0, 0).in == about(0.2 * 0.1 * 2).epsilon(1e-9));
  while (model.state().time < 8 - 1e-9) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), 8 - model.state().time));
  }
  CHECK(amount(model, 0) == about(0.4 * 0.1 * 2).epsilon(1e-6));
  CHECK(range(model, 0).greatest <= 2 + 1e-12);
  const auto& at_outlet = model.tracers().passed(0, 1);
  CHECK(model.tracers().passed(0, 0).in - at_outlet.out == about(amount(model, 0)).epsilon(1e-11));
}
