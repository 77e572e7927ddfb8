// Means over time of every quantity.
#include "run/running_means.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "base/error.hpp"
#include "run/quantities.hpp"
#include "run/vessel_run.hpp"
#include "still_tank.hpp"

using namespace wavy;

namespace {

/// A quantity's part in a cell.
double value_of(sharp::Model<2>& model, const std::string& name, const Index<2>& cell) {
  const CellMap<2> map(model.grid());
  const auto place = map(cell);
  return values_of<2>(find_quantity_part(name), model)(place.block, place.at);
}

}  // namespace

TEST_CASE("means weigh steps by their length, from their time on; rms is of what swings about the mean") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 8));
  sharp::Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  sharp::Model<2> model(grid, settings);
  model.start();
  RunningMeans<2> means(1.0);
  const auto step = [&](double dt, double u, double v) {
    model.state().time += dt;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      model.state().u[0].block(b)[o] = u + cell[0];
      model.state().u[1].block(b)[o] = v;
    });
    means.add(model, dt);
  };
  step(0.5, 100, 100);  // before
  CHECK(means.span() == 0);
  CHECK_THROWS_WITH_AS(value_of(model, "mean_speed", {0, 0}), doctest::Contains("keeps no mean_speed"), Error);
  step(1.0, 1, 0);  // half of it counts
  step(1.0, 3, 4);
  step(0.5, 3, 4);
  CHECK(means.span() == about(2.0));
  for (const int i : {0, 5}) {
    CAPTURE(i);
    const double low = 1 + i;
    const double high = 3 + i;
    const double mean = 0.25 * low + 0.75 * high;
    CHECK(value_of(model, "mean_velocity_x", {i, 3}) == about(mean));
    CHECK(value_of(model, "rms_velocity_x", {i, 3}) ==
          about(std::sqrt(0.25 * std::pow(low - mean, 2) + 0.75 * std::pow(high - mean, 2))));
    CHECK(value_of(model, "mean_velocity_y", {i, 3}) == about(3));
    // The mean of the speed, which is not the speed of the mean.
    CHECK(value_of(model, "mean_speed", {i, 3}) == about(0.25 * low + 0.75 * std::hypot(high, 4)));
  }
  CHECK(value_of(model, "rms_fraction", {2, 2}) == 0);
  CHECK(is_mean("rms_speed"));
  CHECK_FALSE(is_mean("speed"));
  CHECK(find_quantity("mean_pressure")->unit == "Pa");
  CHECK(find_quantity("mean_colour") == nullptr);
}
