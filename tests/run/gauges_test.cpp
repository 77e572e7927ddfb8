#include "run/gauges.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

using namespace wavy;

namespace {

/// A tank in 3-D or 2-D, half full, at rest.
template <int D>
Setup<D> tank(const Vec<D>& size, double level) {
  Setup<D> setup;
  setup.size = setup.upper = size;
  setup.cell_size = size[0] / 20;
  setup.phases = {Phase{"oil", {900, 0.05}}, Phase{"air", {1.2, 1.8e-5}}};
  for (auto& axis : setup.walls) axis = {sharp::Wall::slip, sharp::Wall::slip};
  setup.fills = {{BelowLevel<D>{level}, 0}};
  setup.gravity[D - 1] = Formula(-10);
  return setup;
}

template <int D>
std::vector<double> reading(const Setup<D>& setup, double slope = 0) {
  const Grid<D> grid = make_grid(setup);
  sharp::Model<D> model(grid, model_settings(setup));
  fill(setup, grid, model.space(), model.state().F);
  if (slope != 0) {  // level rises along x: exact heights of each column
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      const double x = (cell[0] + 0.5) * grid.spacing()[0];
      const double level = std::get<BelowLevel<D>>(setup.fills[0].shape).height + slope * (x - 0.5 * setup.size[0]);
      const double h = grid.spacing()[D - 1];
      model.state().F.block(b)[o] = std::clamp((level - cell[D - 1] * h) / h, 0.0, 1.0);
    });
  }
  model.start();
  Gauges<D> gauges(setup, grid, OpenSpace<D>{});
  const auto row = gauges.read(model);
  CHECK(row.size() == gauges.columns().size());
  return row;
}

}  // namespace

TEST_CASE("columns come in the order of the case, with the volumes and the speed behind them") {
  Setup<2> setup = tank<2>({1, 1}, 0.5);
  setup.gauges = {{"b", Measure::volume, {}, 0}, {"a", Measure::level, {0.5, 0}, 0}};
  const Grid<2> grid = make_grid(setup);
  Gauges<2> gauges(setup, grid, OpenSpace<2>{});
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
  flat.gauges = {{"a", Measure::level, {0.333, 0}, 0}, {"b", Measure::level, {1.0, 0}, 0}};
  const auto two = reading(flat, 0.3);
  CHECK(two[1] == doctest::Approx(0.5 + 0.3 * (0.333 - 0.5)).epsilon(1e-9));
  CHECK(two[2] ==
        doctest::Approx(0.5 + 0.3 * (0.975 - 0.5)).epsilon(1e-9));  // the outermost half cell takes its centre's
  Setup<3> solid = tank<3>({1, 0.6, 0.8}, 0.4);
  solid.gauges = {{"a", Measure::level, {0.61, 0.2, 0}, 0}};
  CHECK(reading(solid, 0.2)[1] == doctest::Approx(0.4 + 0.2 * 0.11).epsilon(1e-9));
}

TEST_CASE("pressure gauges read the head above them in 3-D, and volumes count the thickness in 2-D") {
  Setup<3> solid = tank<3>({1, 0.6, 0.8}, 0.4);
  solid.gauges = {{"floor", Measure::pressure, {0.5, 0.3, 0}, 0},
                  {"corner", Measure::pressure, {1, 0.6, 0.1}, 0},
                  {"lid", Measure::pressure, {0, 0, 0.8}, 0}};
  const auto row = reading(solid);
  const double gas_head = 1.2 * 10 * 0.2;  // from the middle of the gas, whose mean is 0, to its edges
  CHECK(row[1] == doctest::Approx(900 * 10 * 0.4 + gas_head).epsilon(1e-6));
  CHECK(row[2] == doctest::Approx(900 * 10 * 0.3 + gas_head).epsilon(1e-6));
  CHECK(row[3] == doctest::Approx(-gas_head).epsilon(1e-3));
  Setup<2> flat = tank<2>({1, 1}, 0.25);
  flat.thickness = 0.2;
  flat.gauges = {{"oil", Measure::volume, {}, 0}, {"air", Measure::volume, {}, 1}};
  const auto volumes = reading(flat);
  CHECK(volumes[1] == doctest::Approx(0.05));
  CHECK(volumes[2] == doctest::Approx(0.15));
}

TEST_CASE("without a lighter phase pressures are over the mean of everything") {
  Setup<2> full = tank<2>({1, 1}, 1);
  full.gauges = {{"middle", Measure::pressure, {0.5, 0.5}, 0}, {"floor", Measure::pressure, {0.5, 0}, 0}};
  const auto row = reading(full);
  CHECK(std::abs(row[1]) < 1e-6);
  CHECK(row[2] == doctest::Approx(900 * 10 * 0.5).epsilon(1e-9));
}
