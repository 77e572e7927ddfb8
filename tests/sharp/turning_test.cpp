// Solids that turn and move through the fluid.
#include <doctest/doctest.h>

#include <array>
#include <cmath>
#include <numbers>
#include <optional>
#include <utility>

#include "about.hpp"
#include "geometry/solids.hpp"
#include "in_drum.hpp"
#include "sharp/model.hpp"

using namespace wavy;
using namespace wavy::sharp;
using in_drum::let_turn;
using in_drum::R;

namespace {

constexpr double pi = std::numbers::pi;

/// Water without gravity in a round vessel of radius R.
Settings<2> water(double mu) {
  Settings<2> settings;
  settings.liquid = {1000, mu};
  settings.gas = {1.2, 1.8e-5};
  settings.body_force = [](double) { return Vec<2>{}; };
  return settings;
}

/// Full of water.
struct InDrum : in_drum::Run<Model<2>, StepLimit> {
  InDrum(int cells, Settings<2> settings) : Run(cells, std::move(settings)) {
    for (double& F : model.state().F.data()) F = 1;
    model.start();
  }
};

}  // namespace

TEST_CASE("a rod that turns in a drum takes Couette's torque") {
  const double mu = 5;
  const double r = 0.5 * R;
  const double omega = 2;
  // 4 pi mu omega r^2 R^2 / (R^2 - r^2) (Bird, Stewart & Lightfoot, Transport Phenomena, example 3.6-3)
  const double torque = 4 * pi * mu * omega * r * r * R * R / (R * R - r * r);
  double before = 0;
  for (const int cells : {24, 48}) {
    Settings<2> settings = water(mu);
    let_turn(settings, ball_solid<2>({R, R}, r), omega);
    InDrum own(cells, std::move(settings));
    own.run_until(1.0);
    const double error = own.torque() / torque - 1;
    CHECK(std::abs(error) < (cells == 24 ? 0.05 : 0.02));
    if (cells == 48) CHECK(std::abs(error) < 0.5 * before);  // first order
    before = std::abs(error);
  }
}

TEST_CASE("a disc that gets going in a still ideal fluid feels the mass that it moves") {
  // Lamb, Hydrodynamics, art. 102: rho pi r^2 (R^2 + r^2) / (R^2 - r^2) for concentric circles.
  const double r = 0.4 * R;
  const double a = 0.5;
  Settings<2> settings = water(0);
  settings.turning.shafts = {[a](double t) {
    Pose<2> pose;
    pose.shift = {0.5 * a * t * t, 0};
    pose.motion = {{a * t, 0}, {}, {R, R}};
    return pose;
  }};
  settings.turning.parts = {{ball_solid<2>({R, R}, r), 0}};
  InDrum own(64, std::move(settings));
  const double load = 1000 * pi * r * r * (R * R + r * r) / (R * R - r * r) * a;
  own.model.step(1e-3);
  CHECK(own.model.turning_solids().loads()[0].force[0] == about(load).epsilon(0.01));
  for (int step = 1; step < 20; ++step) own.model.step(1e-3);
  // Then the fluid that slips along the disc is held back by its edge, a cell wide.
  CHECK(own.model.turning_solids().loads()[0].force[0] == about(load).epsilon(0.07));
}

TEST_CASE("a solid at rest in still water carries what it displaces") {
  const double r = 0.3 * R;
  Settings<2> settings = water(1e-3);
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  let_turn(settings, ball_solid<2>({R, R}, r), 0);
  InDrum own(40, std::move(settings));
  for (int step = 0; step < 5; ++step) own.model.step(1e-3);
  const auto& load = own.model.turning_solids().loads()[0];
  CHECK(load.force[1] == about(-1000 * 9.81 * pi * r * r).epsilon(0.01));
  CHECK(std::abs(load.force[0]) < 1e-6 * std::abs(load.force[1]));
  CHECK(own.model.greatest_speed() < 1e-10);
}

TEST_CASE("water that turns as one with a paddle asks no torque of it, and does not feel it") {
  const double omega = 3;
  std::array<CellVectors<2>, 2> found;
  for (const bool with : {false, true}) {
    Settings<2> settings = water(1e-3);
    settings.solid_walls = Wall::slip;
    if (with) let_turn(settings, box_solid<2>({0.5 * R, 0.9 * R}, {1.5 * R, 1.1 * R}), omega);
    InDrum own(40, std::move(settings));
    auto& state = own.model.state();
    for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      state.u[0].block(b)[o] = -omega * ((cell[1] + 0.5) * own.grid.spacing()[1] - R);
      state.u[1].block(b)[o] = omega * ((cell[0] + 0.5) * own.grid.spacing()[0] - R);
    });
    own.model.start();
    if (with) CHECK(own.torque() == 0);  // there was no step yet
    for (int step = 0; step < 100; ++step) own.model.step(4e-3);
    found[with ? 1 : 0] = state.u;
    // Against what it takes to get the water going in a turn: rho R^4 omega^2.
    if (with) CHECK(std::abs(own.torque()) < 3e-3 * 1000 * std::pow(R, 4) * omega * omega);
  }
  double worst = 0;
  for (std::size_t d = 0; d < 2; ++d)
    for (std::size_t i = 0; i < found[0][d].data().size(); ++i)
      worst = std::max(worst, std::abs(found[0][d].data()[i] - found[1][d].data()[i]));
  CHECK(worst < 0.005 * omega * R);
}

TEST_CASE("in a frozen frame water that turns as one with its drum stays at rest") {
  const double omega = 3;
  Settings<2> settings = water(1e-3);
  settings.turning.shafts = {[omega](double) {
    Pose<2> pose;
    pose.motion = {{}, {0, 0, omega}, {R, R}};
    return pose;
  }};
  // The drum is what turns: all beyond 0.4 R.
  const Solid<2> hole = ball_solid<2>({R, R}, 0.4 * R);
  settings.turning.parts = {
      {{[hole](const Vec<2>& place) { return -hole.distance(place); }, {0, 0}, {2 * R, 2 * R}}, 0}};
  settings.turning.frames = {{.radius = R}};
  settings.projection_tolerance = 1e-13;
  const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, R / 20);
  Model<2> model(grid, settings);
  auto& state = model.state();
  for (double& F : state.F.data()) F = 1;
  const auto turns = [&](const Index<2>& cell, std::size_t d) {
    return d == 0 ? -omega * ((cell[1] + 0.5) * grid.spacing()[1] - R)
                  : omega * ((cell[0] + 0.5) * grid.spacing()[0] - R);
  };
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    for (std::size_t d = 0; d < 2; ++d) state.u[d].block(b)[o] = turns(cell, d);
  });
  model.start();
  for (int step = 0; step < 100; ++step) model.step(4e-3);
  double worst = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double x = (cell[0] + 0.5) * grid.spacing()[0] - R;
    const double y = (cell[1] + 0.5) * grid.spacing()[1] - R;
    if (std::hypot(x, y) > 0.2 * R) return;
    for (std::size_t d = 0; d < 2; ++d) worst = std::max(worst, std::abs(state.u[d].block(b)[o] - turns(cell, d)));
  });
  // Also beyond the frame, where the drum moves through the grid, the pressure goes on through it as through one that
  // turns.
  CHECK(worst < 1e-7 * omega * R);
}

TEST_CASE("a paddle in thick oil asks for the same torque in a frozen frame, whatever its position, as when it turns") {
  const double omega = 2;
  const auto torque = [&](std::optional<double> frozen_at) {
    Settings<2> settings = water(5);
    let_turn(settings, box_solid<2>({0.5 * R, 0.9 * R}, {1.5 * R, 1.1 * R}), omega, frozen_at);
    InDrum own(48, std::move(settings));
    own.run_until(1.0);
    return own.torque();
  };
  const double turning = torque({});
  CHECK(turning > 0);
  for (const double position : {0.0, 0.4, pi / 4}) CHECK(torque(position) == about(turning).epsilon(0.03));
}

TEST_CASE("the torque of a paddle that turns does not depend on the step") {
  const auto torque = [&](double step) {
    Settings<2> settings = water(0.05);  // Re 400 by the paddle's length
    let_turn(settings, box_solid<2>({0.5 * R, 0.95 * R}, {1.5 * R, 1.05 * R}), 2.0);
    InDrum own(32, std::move(settings));
    own.run_until(0.5, step);
    double sum = 0;
    double last = own.model.state().time;
    while (own.model.state().time < 2.0) {
      own.model.step(step);
      sum += own.model.turning_solids().loads()[0].moment[2] * (own.model.state().time - last);
      last = own.model.state().time;
    }
    return sum / 1.5;
  };
  const double own = torque(0.02);  // Courant number 0.32 at the tips
  CHECK(own > 0.005);
  CHECK(torque(0.005) == about(own).epsilon(0.02));
}

TEST_CASE("a thin paddle that stands as a sheet in a frozen frame takes the torque of a thick one that turns") {
  const double omega = 2;
  const auto torque = [&](int cells, double thickness, std::optional<double> frozen_at) {
    Settings<2> settings = water(0.2);  // Re 100 by the paddle's length
    // Edges of what is computed 1.5 cells thick are cut back.
    const double cut = frozen_at ? 0.0 : 0.25 * 2 * R / cells;
    let_turn(settings, box_solid<2>({0.5 * R + cut, R - 0.5 * thickness}, {1.5 * R - cut, R + 0.5 * thickness}), omega,
             frozen_at);
    if (frozen_at) in_drum::let_stand_as_sheet(settings);
    InDrum own(cells, std::move(settings));
    own.run_until(2.0);
    return own.torque();
  };
  const double turning = torque(96, 1.5 * 2 * R / 96, {});  // 0.01172; 0.01193 of 256 cells
  for (const double position : {0.0, 0.26, pi / 4}) {
    INFO("at " << position << " rad");
    CHECK(torque(48, 0.02 * 2 * R / 48, position) == about(turning).epsilon(0.1));
  }
}

TEST_CASE("a sheet closes the faces that it shadows, by its length at every angle, and no more") {
  const double length = 1.1 * R;
  for (const double angle : {0.0, 0.3, pi / 4, 1.2}) {
    CAPTURE(angle);
    const int cells = 64;
    const double h = 2 * R / cells;
    const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, h);
    const OpenSpace<2> space;
    Settings<2> settings;
    // Off the faces and the middles of cells.
    let_turn(settings, box_solid<2>({R - 0.5 * length, R + 0.23 * h}, {R + 0.5 * length, R + 0.25 * h}), 2.0, angle);
    in_drum::let_stand_as_sheet(settings);
    const TurningSolids<2> solids(grid, space, settings.turning);
    std::array<double, 2> closed{};
    for (std::size_t d = 0; d < 2; ++d)
      for (int b = 0; b < grid.blocks(); ++b)
        for (const auto& face : solids.faces(b, static_cast<int>(d))) {
          if (axis_index<2>(grid.layout(), face.at, static_cast<int>(d)) == grid.layout().cells[d]) continue;
          CHECK(face.seen == face.open);
          closed[d] += (1 - face.open) * h;
        }
    // Of steps there is a whole number.
    CHECK(std::abs(closed[0] - length * std::sin(angle)) < h);
    CHECK(std::abs(closed[1] - length * std::cos(angle)) < h);
    // Cells beside it are held by friction alone: no cell is solid.
    for (int b = 0; b < grid.blocks(); ++b)
      for (const auto& cell : solids.cells(b)) {
        CHECK(cell.solid == 0);
        CHECK_FALSE(cell.closed);
      }
  }
}

TEST_CASE("a paddle that turns through the surface loses nothing of water or air, and does not let them spray") {
  Settings<2> settings = water(1e-3);
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  let_turn(settings, box_solid<2>({0.3 * R, 0.93 * R}, {1.7 * R, 1.07 * R}), 2);
  InDrum own(40, std::move(settings));
  for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    own.model.state().F.block(b)[o] = cell[1] < 20 ? 1.0 : 0.0;
  });
  own.model.start();
  const double water_before = own.model.liquid_volume();
  own.run_until(1.5);
  CHECK(own.model.liquid_volume() == about(water_before).epsilon(1e-12));
  double out_of_bounds = 0;
  for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    const double F = own.model.state().F.block(b)[o];
    out_of_bounds = std::max({out_of_bounds, -F, F - 1});
  });
  CHECK(out_of_bounds < 1e-12);
  CHECK(own.model.greatest_speed() < 10 * 2 * 0.7 * R);
}

TEST_CASE("what a solid fills of the cells is its area wherever it stands") {
  const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, R / 20);
  const OpenSpace<2> space;
  TurningSettings<2> settings;
  settings.shafts = {[](double t) {
    Pose<2> pose;
    pose.angle = t;
    pose.motion.about = {R, R};
    return pose;
  }};
  settings.parts = {{box_solid<2>({0.4 * R, 0.8 * R}, {1.6 * R, 1.2 * R}), 0}};
  TurningSolids<2> solids(grid, space, settings);
  for (const double angle : {0.0, 0.3, 0.8, 2.0, 5.0}) {
    solids.set_time(grid, angle);
    double sum = 0;
    for (int b = 0; b < grid.blocks(); ++b)
      for (const auto& cell : solids.cells(b)) sum += cell.solid;
    CHECK(sum * grid.cell_volume() == about(1.2 * R * 0.4 * R).epsilon(0.02));
  }
  CHECK(solids.greatest_speed(0) == 0);
}

TEST_CASE("without parts there is nothing to do") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  TurningSolids<2> solids(grid, space, {});
  CHECK(solids.none());
  solids.set_time(grid, 3);
  CHECK(solids.loads().empty());
  CHECK(solids.greatest_speed(3) == 0);
}
