#include "run/gauges.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"

using namespace wavy;

namespace {

/// A tank in 3-D or 2-D, half full, at rest.
template <int D>
Setup<D> tank(const Vec<D>& size, double level) {
  Setup<D> setup;
  setup.size = setup.upper = size;
  setup.cell_size = size[0] / 20;
  setup.phases = {Phase{"oil", {900, 0.05}}, Phase{"air", {1.2, 1.8e-5}}};
  for (auto& axis : setup.walls) axis = {Wall::slip, Wall::slip};
  setup.fills = {{BelowLevel<D>{level}, 0}};
  setup.gravity[D - 1] = Formula(-10);
  return setup;
}

template <int D>
std::vector<double> reading(const Setup<D>& setup, double slope = 0) {
  const Grid<D> grid = make_grid(setup);
  sharp::Model<D> model(grid, model_settings(setup));
  fill(setup, grid, model.space(), {&model.state().F});
  if (slope != 0) {  // level rises along x: exact heights of each column
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      const double x = (cell[0] + 0.5) * grid.spacing()[0];
      const double level = std::get<BelowLevel<D>>(setup.fills[0].shape).height + slope * (x - 0.5 * setup.size[0]);
      const double h = grid.spacing()[D - 1];
      model.state().F.block(b)[o] = std::clamp((level - cell[D - 1] * h) / h, 0.0, 1.0);
    });
  }
  model.start();
  Gauges<D> gauges(setup, model);
  const auto row = gauges.read(model);
  CHECK(row.size() == gauges.columns().size());
  return row;
}

}  // namespace

TEST_CASE("columns come in the order of the case, with the volumes and the speed behind them") {
  Setup<2> setup = tank<2>({1, 1}, 0.5);
  setup.gauges = {{"b", "volume", {}, 0}, {"a", "level", {0.5, 0}, 0}};
  const Grid<2> grid = make_grid(setup);
  sharp::Model<2> model(grid, model_settings(setup));
  Gauges<2> gauges(setup, model);
  std::vector<std::string> names;
  std::vector<std::string> units;
  for (const auto& column : gauges.columns()) {
    names.push_back(column.name);
    units.push_back(column.unit);
  }
  CHECK(names == std::vector<std::string>{"time", "b", "a", "oil_volume", "air_volume", "greatest_speed"});
  CHECK(units == std::vector<std::string>{"s", "m3", "m", "m3", "m3", "m/s"});
}

TEST_CASE("a level between two columns is read between them, in 2-D and 3-D, and at the walls too") {
  Setup<2> flat = tank<2>({1, 1}, 0.5);
  flat.gauges = {{"a", "level", {0.333, 0}, 0}, {"b", "level", {1.0, 0}, 0}};
  const auto two = reading(flat, 0.3);
  CHECK(two[1] == about(0.5 + 0.3 * (0.333 - 0.5)).epsilon(1e-9));
  CHECK(two[2] == about(0.5 + 0.3 * (0.975 - 0.5)).epsilon(1e-9));  // the outermost half cell takes its centre's
  Setup<3> solid = tank<3>({1, 0.6, 0.8}, 0.4);
  solid.gauges = {{"a", "level", {0.61, 0.2, 0}, 0}};
  CHECK(reading(solid, 0.2)[1] == about(0.4 + 0.2 * 0.11).epsilon(1e-9));
}

TEST_CASE("pressure gauges read the head above them in 3-D, and volumes count the thickness in 2-D") {
  Setup<3> solid = tank<3>({1, 0.6, 0.8}, 0.4);
  solid.gauges = {{"floor", "pressure", {0.5, 0.3, 0}, 0},
                  {"corner", "pressure", {1, 0.6, 0.1}, 0},
                  {"lid", "pressure", {0, 0, 0.8}, 0}};
  const auto row = reading(solid);
  const double gas_head = 1.2 * 10 * 0.2;  // from the middle of the gas, whose mean is 0, to its edges
  CHECK(row[1] == about(900 * 10 * 0.4 + gas_head).epsilon(1e-6));
  CHECK(row[2] == about(900 * 10 * 0.3 + gas_head).epsilon(1e-6));
  CHECK(row[3] == about(-gas_head).epsilon(1e-3));
  Setup<2> flat = tank<2>({1, 1}, 0.25);
  flat.thickness = 0.2;
  flat.gauges = {{"oil", "volume", {}, 0}, {"air", "volume", {}, 1}};
  const auto volumes = reading(flat);
  CHECK(volumes[1] == about(0.05));
  CHECK(volumes[2] == about(0.15));
}

TEST_CASE("without a lighter phase pressures are over the mean of everything") {
  Setup<2> full = tank<2>({1, 1}, 1);
  full.gauges = {{"middle", "pressure", {0.5, 0.5}, 0}, {"floor", "pressure", {0.5, 0}, 0}};
  const auto row = reading(full);
  CHECK(std::abs(row[1]) < 1e-6);
  CHECK(row[2] == about(900 * 10 * 0.5).epsilon(1e-9));
}

TEST_CASE("a lid that slides is held back by the shear of the oil below it, and the floor carried along") {
  Setup<2> full = tank<2>({0.1, 0.2}, 0.2);
  full.periodic = {true, false};
  full.thickness = 0.5;
  full.gravity = {Formula(0), Formula(0)};
  full.walls[1] = {Wall::no_slip, Wall::no_slip};
  full.moving_walls.emplace_back();
  full.moving_walls[0].of = NamedWall::Of::side;
  full.moving_walls[0].side = {1, 1};
  full.moving_walls[0].velocity = {Formula(0.3), Formula(0)};
  full.gauges = {{"lid", "force", {}, 0, {"top", NamedWall::Of::side, {1, 1}}},
                 {"floor", "force", {}, 0, {"bottom", NamedWall::Of::side, {1, 0}}}};
  const Grid<2> grid = make_grid(full);
  const auto model = make_sharp_model(full, grid);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    model->state().u[0].block(b)[o] = 0.3 * (cell[1] + 0.5) * grid.spacing()[1] / 0.2;
  });
  Gauges<2> gauges(full, *model);
  const auto row = gauges.read(*model);
  const double shear = 0.05 * 0.3 / 0.2 * 0.1 * 0.5;  // mu U / H times the area
  CHECK(row[1] == about(-shear).epsilon(1e-9));
  CHECK(row[2] == about(shear).epsilon(1e-9));
}

TEST_CASE("what pulls oil through a channel is what its walls and all that stands in it take, pressure and friction") {
  Setup<2> full = tank<2>({0.4, 0.2}, 0.2);
  full.periodic = {true, false};
  full.phases[0].properties = {900, 9};
  full.gravity = {Formula(2), Formula(0)};
  full.walls[1] = {Wall::no_slip, Wall::slip};
  full.inserts = {ball_solid<2>({0.1, 0.11}, 0.045)};
  full.insert_names = {"rod"};
  full.thin_walls = {{{0.3, 0.1}, {0, 1}, box_solid<2>({0.26, 0.08}, {0.34, 0.12})},
                     {{0.2, 0}, {1, 0}, box_solid<2>({0.18, 0}, {0.22, 0.06})}};
  full.thin_wall_names = {"plate", "sill"};
  full.gauges = {{"floor", "force", {}, 0, {"bottom", NamedWall::Of::side, {1, 0}}},
                 {"lid", "force", {}, 0, {"top", NamedWall::Of::side, {1, 1}}},
                 {"rod", "force", {}, 0, {"rod", NamedWall::Of::insert, {}, 0}},
                 {"plate", "force", {}, 0, {"plate", NamedWall::Of::thin_wall, {}, 0}},
                 {"sill", "force", {}, 0, {"sill", NamedWall::Of::thin_wall, {}, 1}}};
  full.cell_size = 0.01;
  const Grid<2> grid = make_grid(full);
  const auto model = make_sharp_model(full, grid);
  model->start();
  while (model->state().time < 4 * 0.2 * 0.2 / (9.0 / 900)) {
    sharp::StepLimit limit{};
    model->step(model->stable_step(limit));
  }
  Gauges<2> gauges(full, *model);
  const auto row = gauges.read(*model);
  const double pull = 900 * 2 * model->open_volume();
  CHECK(row[1] > 0.05 * pull);
  CHECK(std::abs(row[2]) < 1e-9 * pull);
  CHECK(row[3] > 0.05 * pull);
  CHECK(row[4] > 0.05 * pull);
  CHECK(row[5] > 0.05 * pull);
  CHECK(row[1] + row[3] + row[4] + row[5] == about(pull).epsilon(0.03));
}

TEST_CASE("an instrument with a response time lags behind, and has caught up to 1/e after it") {
  Setup<2> setup = tank<2>({1, 1}, 0.4);
  setup.gauges = {{"quick", "level", {0.5, 0}, 0}, {"slow", "level", {0.5, 0}, 0}};
  setup.gauges[1].response_time = 0.02;
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  model->start();
  Gauges<2> gauges(setup, *model);
  CHECK(gauges.read(*model)[2] == about(0.4));  // what it is switched on with
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    model->state().F.block(b)[o] = cell[1] < 14 ? 1 : 0;
  });
  for (const double time : {0.005, 0.02, 0.06}) {
    model->state().time = time;
    const auto row = gauges.read(*model);
    CHECK(row[1] == about(0.7));
    CHECK(row[2] == about(0.7 - 0.3 * std::exp(-time / 0.02)));
  }
}

namespace {

/// Level over the middle of a tank with a shelf across it, from 0.405 to 0.525 m, and these fills.
double level_over_shelf(const std::vector<Fill<2>>& fills) {
  Setup<2> setup = tank<2>({1, 1}, 0.5);
  setup.cell_size = 0.02;
  setup.inserts = {box_solid<2>({0.3, 0.405}, {0.7, 0.525})};
  setup.insert_names = {"shelf"};
  setup.fills = fills;
  setup.gauges = {{"level", "level", {0.5, 0}, 0}};
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  return Gauges<2>(setup, *model).read(*model)[1];
}

}  // namespace

TEST_CASE("a level is where the surface is: below a shelf, on it, and through it") {
  const auto lake = [](double height) { return Fill<2>{BelowLevel<2>{height}, 0}; };
  CHECK(level_over_shelf({lake(0.31)}) == about(0.31));
  CHECK(level_over_shelf({lake(0.71)}) == about(0.71));
  CHECK(level_over_shelf({lake(0.31), {AlignedBox<2>{{0.3, 0.525}, {0.7, 0.613}}, 0}}) == about(0.613));
  // Gas under the shelf is no matter for what stands on it.
  CHECK(level_over_shelf({lake(0.71), {AlignedBox<2>{{0.3, 0.3}, {0.7, 0.405}}, 1}}) == about(0.71));
  // A sheet divides as a shelf does.
  Setup<2> setup = tank<2>({1, 1}, 0.5);
  setup.cell_size = 0.02;
  setup.thin_walls = {{{0.5, 0.5}, {0, 1}, box_solid<2>({0.3, 0.48}, {0.7, 0.52})}};
  setup.thin_wall_names = {"sheet"};
  setup.fills = {lake(0.31), {AlignedBox<2>{{0.3, 0.5}, {0.7, 0.57}}, 0}};
  setup.gauges = {{"level", "level", {0.5, 0}, 0}};
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  CHECK(Gauges<2>(setup, *model).read(*model)[1] == about(0.57));
}

TEST_CASE("a level gauge in a solid from floor to lid is refused") {
  Setup<2> setup = tank<2>({1, 1}, 0.5);
  setup.cell_size = 0.02;
  setup.inserts = {box_solid<2>({0.4, 0}, {0.6, 0.9})};
  setup.insert_names = {"pillar"};
  setup.gauges = {{"inside", "level", {0.5, 0}, 0}};
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  CHECK(Gauges<2>(setup, *model).read(*model)[1] == about(0.9));  // it stands in gas above
  setup.inserts = {box_solid<2>({0.4, -1}, {0.6, 2}), box_solid<2>({-1, -1}, {0.4, 2})};
  setup.insert_names = {"pillar", "rest"};
  const auto full = make_sharp_model(setup, grid);
  CHECK_THROWS_WITH_AS(Gauges<2>(setup, *full), doctest::Contains("'inside' lies in a solid"), Error);
}
