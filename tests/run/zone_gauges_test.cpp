// Gauges of zones, surfaces and moments against formulas.
#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <utility>

#include "about.hpp"
#include "base/error.hpp"
#include "geometry/solids.hpp"
#include "run/reading.hpp"

using namespace wavy;

namespace {

constexpr double rho = 900;
constexpr double g = 10;

}  // namespace

TEST_CASE("figures of a speed that rises along x are those of a uniform distribution") {
  const auto setup = tank<2>({1, 0.5}, 0.25);
  const auto ramp = [](const Vec<2>& x) { return Vec<2>{0, 2 * x[0]}; };
  const double h = 0.05;
  CHECK(reading<2>(setup, gauge_of<2>("mean", "speed"), ramp) == about(1).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("mean", "velocity_y"), ramp) == about(1).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("greatest", "speed"), ramp) == about(2 - h).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("least", "velocity_y"), ramp) == about(h).epsilon(1e-12));
  // mean |q - mean| = 1/2: 1 - 1/4.
  CHECK(reading<2>(setup, gauge_of<2>("uniformity", "speed"), ramp) == about(0.75).epsilon(1e-12));
  auto percentile = gauge_of<2>("percentile", "speed");
  for (const double percent : {10.0, 50.0, 95.0}) {
    percentile.percent = percent;
    CHECK(std::abs(reading<2>(setup, percentile, ramp) - 2 * percent / 100) <= h + 1e-12);
  }
  const auto same = [](const Vec<2>&) { return Vec<2>{0.3, 0}; };
  CHECK(reading<2>(setup, gauge_of<2>("uniformity", "speed"), same) == about(1).epsilon(1e-12));
  auto value = gauge_of<2>("value", "speed");
  value.at = {0.333, 0.2};
  CHECK(reading<2>(setup, value, ramp) == about(0.666).epsilon(1e-12));
}

TEST_CASE("a ball in the oil holds its volume of it, half of one on the surface half of it") {
  const double radius = 0.11;
  const auto setup = tank<3>({0.6, 0.6, 0.6}, 0.3, 24);
  const double ball = 4.0 / 3 * std::numbers::pi * std::pow(radius, 3);
  for (const auto& [height, share] : {std::pair{0.16, 1.0}, {0.3, 0.5}, {0.45, 0.0}}) {
    auto volume = gauge_of<3>("volume");
    volume.zone = Ball<3>{{0.3, 0.28, height}, radius};
    CHECK(reading<3>(setup, volume) == about(share * ball).epsilon(5e-3).scale(share == 0 ? ball : 0));
    auto part = volume;
    part.measures = "share";
    CHECK(reading<3>(setup, part) == about(share).epsilon(1e-3).scale(1));
    part.phase = 1;
    CHECK(reading<3>(setup, part) == about(1 - share).epsilon(1e-3).scale(1));
  }
  CHECK(reading<3>(setup, gauge_of<3>("volume")) == about(0.108).epsilon(1e-12));
}

TEST_CASE("over an inclined surface highest, lowest, mean and span are those of the line") {
  auto setup = tank<2>({1, 0.5}, 0, 40);
  setup.fills = {{Covering<2>{[](const Vec<2>& lower, const Vec<2>& upper) {
                    // Below y = 0.2 + 0.1 x, by columns.
                    const double level = 0.2 + 0.1 * 0.5 * (lower[0] + upper[0]);
                    return std::clamp((level - lower[1]) / (upper[1] - lower[1]), 0.0, 1.0);
                  }},
                  0}};
  const double half = 0.5 / 40 * 0.1;  // of a cell, by the slope
  CHECK(reading<2>(setup, gauge_of<2>("highest_level")) == about(0.3 - half).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("lowest_level")) == about(0.2 + half).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("mean_level")) == about(0.25).epsilon(1e-12));
  CHECK(reading<2>(setup, gauge_of<2>("level_span")) == about(0.1 - 2 * half).epsilon(1e-12));
  auto part = gauge_of<2>("highest_level");
  part.zone = Covering<2>{[](const Vec<2>&, const Vec<2>& upper) { return upper[0] < 0.5001 ? 1.0 : 0.0; }};
  CHECK(reading<2>(setup, part) == about(0.25 - half).epsilon(1e-12));
  part.zone = Covering<2>{[](const Vec<2>&, const Vec<2>&) { return 0.0; }};
  CHECK_THROWS_AS(reading<2>(setup, part), Error);
}

TEST_CASE("oil at rest turns a wall about its foot by rho g h^3 / 6, and the parts of a force add up") {
  const double level = 0.3;
  auto setup = tank<2>({1, 0.5}, level, 80);
  setup.thickness = 0.7;
  auto moment = gauge_of<2>("moment");
  moment.wall.of = NamedWall::Of::side;
  moment.wall.side = {0, 1};
  moment.axis = 2;
  moment.at = {1, 0};
  // Pushed to the right above its foot: clockwise.
  const double foot = -rho * g * std::pow(level, 3) / 6 * 0.7;
  CHECK(reading<2>(setup, moment) == about(foot).epsilon(2e-3));
  moment.at = {1, level / 3};  // the resultant passes through it
  CHECK(std::abs(reading<2>(setup, moment)) < 2e-3 * std::abs(foot));

  const auto shear = [](const Vec<2>& x) { return Vec<2>{0.4 * x[1], 0}; };
  auto force = gauge_of<2>("force");
  force.wall.of = NamedWall::Of::side;
  force.wall.side = {1, 0};
  std::array<double, 3> parts{};
  for (std::size_t i = 0; i < 3; ++i) {
    force.measures = std::array{"pressure_force", "friction_force", "force"}[i];
    parts[i] = reading<2>(setup, force, shear);
  }
  CHECK(parts[0] == 0);
  CHECK(parts[1] == about(0.05 * 0.4 * 0.7).epsilon(1e-9));  // mu du/dy over 1 m by 0.7 m
  CHECK(parts[2] == parts[1]);
  force.axis = 1;
  force.measures = "pressure_force";
  CHECK(reading<2>(setup, force) == about(-rho * g * level * 0.7).epsilon(1e-3));
}

TEST_CASE("a plate off the centre is turned by the pressure on it times its arm") {
  // A 3-D box under a steady pull along x: the pressure rises against it, and presses on a ball beside the middle by
  // what it displaces, at its middle.
  auto setup = tank<3>({0.4, 0.4, 0.4}, 0.4, 40);
  setup.gravity = {Formula(-3), Formula(0), Formula(-g)};
  setup.inserts = {ball_solid<3>({0.2, 0.29, 0.2}, 0.07)};
  setup.insert_names = {"ball"};
  setup.fills = {{BelowLevel<3>{0.4}, 0}};
  auto moment = gauge_of<3>("moment");
  moment.wall.of = NamedWall::Of::insert;
  moment.wall.number = 0;
  moment.axis = 2;
  moment.at = {0.2, 0.2, 0.2};
  const double displaced = rho * 4.0 / 3 * std::numbers::pi * std::pow(0.07, 3);
  // Buoyancy along x is + 3 m/s2 times that; about z, at an arm of 0.09 m along y: -arm F.
  CHECK(reading<3>(setup, moment) == about(-0.09 * 3 * displaced).epsilon(1e-2));
  moment.axis = 0;  // buoyancy against gravity: + arm F
  CHECK(reading<3>(setup, moment) == about(0.09 * g * displaced).epsilon(1e-2));
}
