// Flow round an axis of revolution.
#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "mesh/cover.hpp"
#include "sharp/heights.hpp"
#include "sharp/model.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

constexpr double g = 9.81;

Settings<2> water_and_air(Wall wall, const Vec<2>& G) {
  Settings<2> settings;
  settings.liquid = {1000, 1e-3};
  settings.gas = {1.2, 1.8e-5};
  settings.solid_walls = wall;
  for (auto& axis : settings.walls) axis = {wall, wall};
  settings.walls[0][0] = Wall::mirror;
  settings.body_force = [G](double) { return G; };
  return settings;
}

OpenSpace<2> round_space(const Grid<2>& grid, const Solid<2>* vessel = nullptr) {
  return OpenSpace<2>(grid, vessel, {}, {}, true);
}

/// Of the body that the section makes, of a volume in m^2 weighted by r / R.
double turned(const Grid<2>& grid, double volume) { return 2 * M_PI * grid.upper()[0] * volume; }

void run(Model<2>& model, int steps) {
  for (int i = 0; i < steps; ++i) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
}

}  // namespace

TEST_CASE("vessels and drops turned round an axis have the volume of the body") {
  const auto ball = ball_solid<2>({0, 0.5}, 0.4);
  const Grid<2> grid = grid_over<2>({0, 0}, {0.5, 1}, 1.0 / 64);
  const auto space = round_space(grid, &ball);
  const double exact = 4 * M_PI / 3 * std::pow(0.4, 3);
  CHECK(turned(grid, space.open_volume()) == about(exact).epsilon(5e-4));
  // Wall area of a sphere: cut cells have flat walls.
  CHECK(turned(grid, space.wall_area()) == about(4 * M_PI * 0.16).epsilon(5e-3));

  Model<2> model(grid, water_and_air(Wall::slip, {0, 0}), round_space(grid));
  cover<2>(grid, model.state().F, Ball<2>{{0, 0.37}, 0.3}, model.space());
  CHECK(turned(grid, model.liquid_volume()) == about(4 * M_PI / 3 * 0.027).epsilon(2e-4));
  CHECK(turned(grid, model.open_volume()) == about(M_PI * 0.25).epsilon(1e-12));
}

TEST_CASE("a sphere has both its curvatures") {
  // Shares of the sections by fine sampling; mean curvature 2 / R everywhere.
  constexpr double R = 10.3;  // cells
  const Grid<2> grid({0, 0}, {24, 24}, partition<2>({24, 24}, 1));
  Cells<2> F(grid);
  cover<2>(grid, F, Ball<2>{{0, 10.6}, R});
  fill_halo(grid, F, pad, all_walls<2>(Mirror::even));
  const Vec<2> h = grid.spacing();
  int seen = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double f = F.block(b)[o];
    if (f < 1e-6 || f > 1 - 1e-6) return;
    const auto flat = height_curvature<2>(F.block(b) + o, grid.layout().step, h);
    if (!flat) return;
    const double round = curvature_round_axis<2>(F.block(b) + o, grid.layout().step, h, cell[0] + 0.5);
    CHECK(*flat * R == about(1).epsilon(1e-3));
    // The normal's component is that of the column, not of the point: off by a part of a cell over R.
    CHECK(round * R == about(1).epsilon(0.03));
    ++seen;
  });
  CHECK(seen > 25);
}

TEST_CASE("a liquid at rest in a turned vessel with a dished bottom stays at rest") {
  const auto kettle = cylinder_solid<2>({0, 0.25}, {0, 0.9}, 0.45, Head::torispherical, Head::flat);
  const Grid<2> grid = grid_over<2>({0, kettle.lower[1]}, kettle.upper, 1.0 / 40);
  Model<2> model(grid, water_and_air(Wall::no_slip, {0, -g}), round_space(grid, &kettle));
  cover<2>(grid, model.state().F, BelowLevel<2>{0.533}, model.space());
  const double volume = model.liquid_volume();
  model.start();
  run(model, 200);
  CHECK(model.greatest_speed() / std::sqrt(g) < 1e-10);
  CHECK(model.liquid_volume() == about(volume).epsilon(1e-13));
}

TEST_CASE("flow through a tube develops the parabola of Hagen and Poiseuille") {
  // Mean speed 1, radius 1: u = 2 (1 - r^2), dp/dz = -8 mu.
  constexpr double mu = 0.5;
  constexpr int cells = 16;
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 4}, 1.0 / cells);
  auto settings = water_and_air(Wall::no_slip, {0, 0});
  settings.liquid = settings.gas = {1, mu};
  settings.outside_density = 1;
  Opening<2> in;
  in.name = "in";
  in.axis = 1;
  in.flow = [](double) { return 0.5; };  // over 2 pi R
  Opening<2> out = in;
  out.name = "out";
  out.side = 1;
  out.flow = nullptr;
  out.pressure = [](double) { return 0.0; };
  Model<2> model(grid, settings, round_space(grid), {in, out});
  CHECK(turned(grid, model.boundary().area(0)) / grid.upper()[0] == about(M_PI).epsilon(1e-12));
  model.start();
  while (model.state().time < 4) run(model, 1);
  const CellMap<2> map(grid);
  double worst = 0;
  for (int i = 0; i < cells; ++i) {
    const CellPlace place = map({i, 3 * cells});
    const double r = (i + 0.5) / cells;
    worst = std::max(worst, std::abs(model.state().u[1].block(place.block)[place.at] - 2 * (1 - r * r)));
  }
  CHECK(worst < 0.01);
  const auto p = [&](int row) {
    const CellPlace place = map({0, row});
    return model.state().p.block(place.block)[place.at];
  };
  CHECK(p(2 * cells) - p(3 * cells) == about(8 * mu).epsilon(0.01));
}

TEST_CASE("a drop that falls into a pool keeps its volume and gains no energy") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.1, 0.12}, 0.1 / 32);
  auto settings = water_and_air(Wall::slip, {0, -g});
  settings.surface_tension = 0.072;
  Model<2> model(grid, settings, round_space(grid));
  auto& F = model.state().F;
  cover<2>(grid, F, BelowLevel<2>{0.04}, model.space());
  Cells<2> drop(grid);
  cover<2>(grid, drop, Ball<2>{{0, 0.075}, 0.015}, model.space());
  for (std::size_t i = 0; i < F.data().size(); ++i) F.data()[i] += drop.data()[i];
  const double volume = model.liquid_volume();
  const auto energy = [&] {
    double potential = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      potential += 998.8 * g * F.block(b)[o] * model.space().volume().block(b)[o] * grid.cell_volume() *
                   (cell[1] + 0.5) * grid.spacing()[1];
    });
    return potential + model.kinetic_energy();
  };
  model.start();
  const double before = energy();
  double least = 0;
  double greatest = 0;
  while (model.state().time < 0.12) {
    run(model, 1);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      least = std::min(least, F.block(b)[o]);
      greatest = std::max(greatest, F.block(b)[o] - 1);
    });
  }
  CHECK(least >= -1e-12);
  CHECK(greatest <= 1e-12);
  CHECK(model.liquid_volume() == about(volume).epsilon(1e-12));
  CHECK(energy() < before);
}
