// What goes round in a round vessel: momentum beside walls that cut cells, and what a beam that turns gives.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "about.hpp"
#include "geometry/solids.hpp"
#include "sharp/model.hpp"

namespace wavy::sharp {
namespace {

constexpr double R = 0.2;
constexpr double omega = 2 * std::numbers::pi;

Settings<2> water_that_slips() {
  Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1.2, 0};
  settings.solid_walls = Wall::slip;
  settings.body_force = [](double) { return Vec<2>{}; };
  return settings;
}

template <class Each>
void run_until(Model<2>& model, double until, Each&& each) {
  while (model.state().time < until * (1 - 1e-12)) {
    StepLimit limit{};
    const double dt = std::min(model.stable_step(limit), until - model.state().time);
    model.step(dt);
    each(dt);
  }
}

}  // namespace

TEST_CASE("water that turns in a drum without friction goes on turning, wherever the wall cuts its cells") {
  for (const int cells : {24, 40, 64}) {
    CAPTURE(cells);
    const auto drum = ball_solid<2>({R, R}, R);
    const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells);
    Model<2> model(grid, water_that_slips(), OpenSpace<2>(grid, &drum, {}, {}));
    std::fill(model.state().F.data().begin(), model.state().F.data().end(), 1.0);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      if (model.space().volume().block(b)[at] == 0) return;
      Vec<2> place = cell_middle<2>(grid, b, at);
      if (const auto* wall = model.space().wall_in(b, at))
        for (std::size_t d = 0; d < 2; ++d) place[d] += (wall->middle[d] - 0.5) * grid.spacing()[d];
      model.state().u[0].block(b)[at] = -omega * (place[1] - R);
      model.state().u[1].block(b)[at] = omega * (place[0] - R);
    });
    model.start();
    const double energy = model.kinetic_energy();
    run_until(model, 1, [](double) {});
    CHECK(model.kinetic_energy() / energy == about(1).epsilon(0.005));
  }
}

TEST_CASE("a beam gives the water round it the angular momentum that its shaft gives the beam") {
  constexpr int cells = 32;
  constexpr double half_length = 0.08;
  constexpr double half_thickness = 0.025;
  const auto drum = ball_solid<2>({R, R}, R);
  const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells);
  Settings<2> settings = water_that_slips();
  settings.turning.shafts = {[](double t) {
    Pose<2> pose;
    pose.angle = omega * t;
    pose.motion = {{}, {0, 0, omega}, {R, R}};
    return pose;
  }};
  settings.turning.parts = {
      {box_solid<2>({R - half_length, R - half_thickness}, {R + half_length, R + half_thickness}), 0}};
  Model<2> model(grid, settings, OpenSpace<2>(grid, &drum, {}, {}));
  std::fill(model.state().F.data().begin(), model.state().F.data().end(), 1.0);
  model.start();
  const auto angular_momentum = [&] {
    double sum = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      const Vec<2> place = cell_middle<2>(grid, b, at);
      const double mass = 1000 * model.space().volume().block(b)[at] * grid.cell_volume();
      if (mass > 0)
        sum += mass *
               ((place[0] - R) * model.state().u[1].block(b)[at] - (place[1] - R) * model.state().u[0].block(b)[at]);
    });
    return sum;
  };
  double given = 0;
  double before = 0;
  run_until(model, 3, [&](double dt) {
    if (model.state().time < 0.5) {
      before = angular_momentum();  // with the beam's own, which it has from the first step on
      return;
    }
    given += dt * model.turning_solids().loads()[0].moment[2];
  });
  MESSAGE("what the water lacks over what the shaft gave: ", 1 - (angular_momentum() - before) / given);
  CHECK((angular_momentum() - before) / given == about(1).epsilon(0.09));
}

}  // namespace wavy::sharp
