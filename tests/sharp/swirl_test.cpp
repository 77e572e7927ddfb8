// What goes round in a round vessel: momentum beside walls that cut cells, and what a beam that turns gives.
#include <doctest/doctest.h>

#include <algorithm>
#include <numbers>
#include <utility>

#include "about.hpp"
#include "geometry/solids.hpp"
#include "in_drum.hpp"
#include "sharp/model.hpp"

namespace wavy::sharp {
namespace {

using in_drum::R;

constexpr double omega = 2 * std::numbers::pi;

Settings<2> water_that_slips() {
  Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1.2, 0};
  settings.solid_walls = Wall::slip;
  settings.body_force = [](double) { return Vec<2>{}; };
  return settings;
}

/// Full of water; not started yet.
struct InDrum : in_drum::Run<Model<2>, StepLimit> {
  InDrum(int cells, Settings<2> settings) : Run(cells, std::move(settings)) {
    std::ranges::fill(model.state().F.data(), 1.0);
  }
};

}  // namespace

TEST_CASE("water that turns in a drum without friction goes on turning, wherever the wall cuts its cells") {
  for (const int cells : {24, 40, 64}) {
    CAPTURE(cells);
    InDrum own(cells, water_that_slips());
    Model<2>& model = own.model;
    for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      if (model.space().volume().block(b)[at] == 0) return;
      Vec<2> place = cell_middle<2>(own.grid, b, at);
      if (const auto* wall = model.space().wall_in(b, at)) place = middle_of_fluid(own.grid, b, *wall);
      model.state().u[0].block(b)[at] = -omega * (place[1] - R);
      model.state().u[1].block(b)[at] = omega * (place[0] - R);
    });
    model.start();
    const double energy = model.kinetic_energy();
    own.run_until(1);
    CHECK(model.kinetic_energy() / energy == about(1).epsilon(0.005));
  }
}

TEST_CASE("a beam gives the water round it the angular momentum that its shaft gives the beam") {
  Settings<2> settings = water_that_slips();
  in_drum::let_turn(settings, box_solid<2>({0.6 * R, 0.875 * R}, {1.4 * R, 1.125 * R}), omega);
  InDrum own(32, std::move(settings));
  Model<2>& model = own.model;
  model.start();
  const auto angular_momentum = [&] {
    double sum = 0;
    for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      const Vec<2> place = cell_middle<2>(own.grid, b, at);
      const double mass = 1000 * model.space().volume().block(b)[at] * own.grid.cell_volume();
      if (mass > 0)
        sum += mass *
               ((place[0] - R) * model.state().u[1].block(b)[at] - (place[1] - R) * model.state().u[0].block(b)[at]);
    });
    return sum;
  };
  own.run_until(0.5);
  const double before = angular_momentum();  // with the beam's own, which it has from the first step on
  double given = 0;
  while (model.state().time < 3) {
    StepLimit limit{};
    const double dt = model.stable_step(limit);
    model.step(dt);
    given += dt * model.turning_solids().loads()[0].moment[2];
  }
  CHECK((angular_momentum() - before) / given == about(1).epsilon(0.09));
}

}  // namespace wavy::sharp
