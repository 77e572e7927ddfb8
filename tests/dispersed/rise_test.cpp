// Bubbles and drops that rise or settle in a still column, against the laws by which they do.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include "about.hpp"
#include "validation/eulerian_flows.hpp"

using namespace wavy;
using namespace wavy::dispersed;
using namespace wavy::eulerian;

TEST_CASE("bodies of any size reach the terminal speed of their drag law, where they are and where none are") {
  struct Case {
    const char* law;
    Properties fluid;
    double tension, diameter;
  };
  std::vector<Case> cases;
  for (const auto& law : drag_laws()) {
    for (const double d : {1e-3, 3e-3, 8e-3}) cases.push_back({law.name.data(), air, 0.0728, d});
    for (const double d : {1e-4, 1e-3, 3e-3}) cases.push_back({law.name.data(), oil, 0.025, d});
  }
  for (const auto& [law, fluid, tension, diameter] : cases) {
    const Drag drag = drag_by(law);
    INFO(std::string(law) << ", d = " << diameter << " m, " << fluid.density << " kg/m3");
    for (const double share : {0.0, 0.05})
      CHECK(slip_in_column(fluid, diameter, tension, drag, share) ==
            about(terminal(fluid, diameter, tension, drag, share)).epsilon(1e-3));
  }
}

TEST_CASE("a light bubble starts from rest with twice the gravity, as its virtual mass lets it") {
  // (rho_l - rho_g) g / (rho_g + rho_l / 2), before drag is felt.
  const double wanted = (998.2 - 1.204) * gravity / (1.204 + 0.5 * 998.2);
  auto settings = bodies_in_water<2>(air, 4e-3, 0.0728, drag_by("grace"));
  settings.pairs[0].virtual_mass = 0.5;
  const Grid<2> grid({0, 0}, {0.04, 0.4}, partition<2>({0.04, 0.4}, 0.01));
  Model<2> model(grid, settings);
  fill(model, {1, 0});
  model.start();
  model.step(1e-5);
  const CellPlace at = CellMap<2>(grid)({2, 20});
  CHECK(model.state().u[1][1].block(at.block)[at.at] == about(wanted * 1e-5).epsilon(1e-3));
}

TEST_CASE("drops cream by kinematic-wave theory: the clear front rises as drops fall behind, dilute to 40 %") {
  for (const double share : {0.01, 0.1, 0.4}) {
    INFO(share);
    const Creaming creamed = creaming(share, 30, 50);
    CHECK(creamed.clear == about(creamed.clear_wanted).epsilon(0.02));
    CHECK(std::abs(creamed.volume_error) < 1e-12);
    CHECK(creamed.mixed.sum_error < 1e-12);
    CHECK(creamed.mixed.least > -1e-14);
  }
}

TEST_CASE("two sizes of drops cream each at its own pace, and small ones are carried down by large ones' return flow") {
  const Drag drag = drag_by("schiller_naumann");
  Settings<2> settings;
  settings.phases = {{"water", water, true, 0}, {"fine", oil, false, 1e-4}, {"coarse", oil, false, 4e-4}};
  settings.pairs = {{0, 1, 0.025, {}, drag, 0}, {0, 2, 0.025, {}, drag, 0}};
  settings.body_force = downwards<2>();
  settings.walls = all<2>(Wall::slip);
  const Grid<2> grid({0, 0}, {0.04, 0.5}, partition<2>({0.04, 0.5}, 0.01));
  Model<2> model(grid, settings);
  fill(model, {0.88, 0.02, 0.1});
  model.start();
  run_until(model, 4, 0.05);
  // Each slips through the water as its law says, and what all do together comes to nothing: u_w = - sum a s.
  // The mixture lifts both: its density, not that of the water, stands against theirs.
  const double fine = terminal(oil, 1e-4, 0.025, drag, 0.12);
  const double coarse = terminal(oil, 4e-4, 0.025, drag, 0.12);
  const double carrier = -(0.02 * fine + 0.1 * coarse);
  const CellPlace at = CellMap<2>(grid)({1, 25});
  const auto rise = [&](std::size_t i) { return model.state().u[i][1].block(at.block)[at.at]; };
  CHECK(rise(0) == about(carrier).epsilon(2e-3));
  CHECK(rise(1) == about(carrier + fine).epsilon(5e-3));
  CHECK(rise(2) == about(carrier + coarse).epsilon(2e-3));
  CHECK(rise(1) < fine);
}

TEST_CASE("in space, and round an axis, bodies rise as in the plane") {
  const Drag drag = drag_by("grace");
  const auto settings = bodies_in_water<3>(air, 4e-3, 0.0728, drag);
  const Grid<3> grid({0, 0, 0}, {0.06, 0.06, 0.4}, partition<3>({0.06, 0.06, 0.4}, 0.01));
  Model<3> model(grid, settings);
  fill(model, {0.97, 0.03});
  model.start();
  run_until(model, 0.4, 0.02);
  const double wanted = terminal(air, 4e-3, 0.0728, drag, 0.03);
  const CellPlace at = CellMap<3>(grid)({3, 2, 20});
  CHECK(model.state().u[1][2].block(at.block)[at.at] - model.state().u[0][2].block(at.block)[at.at] ==
        about(wanted).epsilon(1e-3));

  const Grid<2> section({0, 0}, {0.06, 0.4}, partition<2>({0.06, 0.4}, 0.01));
  Model<2> round(section, bodies_in_water<2>(air, 4e-3, 0.0728, drag), OpenSpace<2>(section, nullptr, {}, {}, true));
  fill(round, {0.97, 0.03});
  const double volume = round.volume(1);
  round.start();
  run_until(round, 0.4, 0.02);
  const CellPlace there = CellMap<2>(section)({3, 20});
  CHECK(round.state().u[1][1].block(there.block)[there.at] - round.state().u[0][1].block(there.block)[there.at] ==
        about(wanted).epsilon(1e-3));
  CHECK(std::abs(round.volume(1) / volume - 1) < 1e-12);
  CHECK(mixture(round).sum_error < 1e-12);
}

TEST_CASE("lift pushes small bubbles across a shear flow to where the liquid is slower, and large ones the other way") {
  // Water moves along y faster with x, bubbles faster than it: over one step from rest across, without drag, the force
  // -C rho_c (u_d - u_c) x curl u_c on the bubble's mass and virtual mass.
  constexpr double shear = 2;   // [1/s]
  constexpr double slip = 0.2;  // [m/s]
  constexpr double dt = 1e-5;
  const Grid<2> grid({0, 0}, {0.2, 0.2}, partition<2>({0.2, 0.2}, 0.0125), {false, true});
  for (const double diameter : {3e-3, 8e-3}) {
    Drag none;
    none.constant = 0;
    auto settings = bodies_in_water<2>(air, diameter, 0.0728, none);
    settings.pairs[0].virtual_mass = 0.5;
    settings.pairs[0].lift = find_law(lift_laws(), "tomiyama");
    Model<2> model(grid, settings);
    const double share = 1e-6;
    fill(model, {1 - share, share});
    model.start();
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      model.state().u[0][1].block(b)[at] = shear * 0.0125 * (cell[0] + 0.5);
      model.state().u[1][1].block(b)[at] = shear * 0.0125 * (cell[0] + 0.5) + slip;
    });
    model.step(dt);
    const DispersedBodies of{998.2, 1.002e-3, 1.204, 1.813e-5, 0.0728, diameter, gravity, slip, share};
    const double C = find_law(lift_laws(), "tomiyama")->value(of);
    CHECK((C > 0) == (diameter < 5e-3));
    // (0, slip) x (0, 0, shear) = (slip shear, 0).
    const double wanted = -C * 998.2 * slip * shear / (1.204 + 0.5 * 998.2) * dt;
    const CellPlace at = CellMap<2>(grid)({8, 8});
    const double across = model.state().u[1][0].block(at.block)[at.at] - model.state().u[0][0].block(at.block)[at.at];
    CHECK(across == about(wanted).epsilon(0.02));
  }
}

TEST_CASE("walls push bubbles off as their law says, from both sides, and the liquid the other way") {
  // As with lift: over one step from rest across, without drag.
  constexpr double slip = 0.2;  // [m/s]
  constexpr double dt = 1e-5;
  constexpr double width = 0.03;
  constexpr double h = width / 24;
  constexpr double diameter = 3e-3;
  constexpr double share = 1e-6;
  const Grid<2> grid({0, 0}, {width, width}, partition<2>({width, width}, h), {false, true});
  for (const auto& law : wall_lubrication_laws()) {
    INFO(law.name);
    auto settings = bodies_in_water<2>(air, diameter, 0.0728, drag_by(nullptr));
    settings.pairs[0].virtual_mass = 0.5;
    settings.pairs[0].wall_lubrication = &law;
    settings.wall_distance = [](const Vec<2>& place) { return std::min(place[0], width - place[0]); };
    Model<2> model(grid, settings);
    fill(model, {1 - share, share});
    model.start();
    for (auto& value : model.state().u[1][1].data()) value = slip;
    model.step(dt);
    const DispersedBodies of{water.density, water.viscosity, air.density, air.viscosity, 0.0728,
                             diameter,      gravity,         slip,        share};
    for (const int face : {2, 4, 9}) {
      // Half-way between the middles of two cells; none of them nearer than a bubble's radius.
      const double C =
          0.5 * (law.value(of, std::max((face - 0.5) * h, diameter / 2)) + law.value(of, (face + 0.5) * h));
      const double wanted = C * water.density * slip * slip / (air.density + 0.5 * water.density) * dt;
      const auto across = [&](int at_face) {
        const CellPlace at = CellMap<2>(grid)({at_face, 8});
        return model.state().phase_u[1][0].block(at.block)[at.at] - model.state().phase_u[0][0].block(at.block)[at.at];
      };
      CHECK(across(face) == about(wanted).epsilon(1e-3));
      CHECK(across(24 - face) == about(-wanted).epsilon(1e-3));
    }
    CHECK((law.value(of, 2 * h) > 0) == (law.name != "none"));
  }
}

TEST_CASE("drops with a closest packing gather in a layer that keeps water between them, of the thickness they make") {
  constexpr double height = 0.3;
  constexpr double share = 0.2;
  constexpr double packing = 0.6;
  constexpr int cells = 60;
  const Vec<2> size{4 * height / cells, height};
  const Grid<2> grid({0, 0}, size, partition<2>(size, height / cells));
  const Drag drag = drag_by("schiller_naumann", "richardson_zaki");
  const auto layer_after = [&](double time, double limit, double diameter) {
    auto settings = bodies_in_water<2>(oil, diameter, 0.025, drag);
    settings.phases[1].packing = limit;
    Model<2> model(grid, settings);
    fill(model, {1 - share, share});
    const double volume = model.volume(1);
    model.start();
    run_until(model, time, 0.02);
    CHECK(std::abs(model.volume(1) / volume - 1) < 1e-12);
    CHECK(mixture(model).sum_error < 1e-12);
    return profile(model, 1);
  };
  const auto settled = layer_after(60, packing, 1e-3);
  double thickness = 0;
  for (const double a : settled) thickness += (a > packing / 2 ? 1 : 0) * height / cells;
  CHECK(thickness == about(share * height / packing).epsilon(0.03));
  CHECK(*std::ranges::max_element(settled) < packing * 1.001);
  CHECK(settled.back() > packing * 0.97);
  CHECK(settled.front() < 1e-6);
  // Far from the packing nothing has changed.
  const auto early = layer_after(2, packing, 1e-3);
  const auto without = layer_after(2, 1, 1e-3);
  for (std::size_t j = 0; j < 40; ++j) CHECK(early[j] == about(without[j]).epsilon(1e-6));
  CHECK(*std::ranges::max_element(without) > packing);
}
