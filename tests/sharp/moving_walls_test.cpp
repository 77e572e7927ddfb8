// Walls that move along themselves.
#include <doctest/doctest.h>

#include <cmath>
#include <utility>

#include "about.hpp"
#include "geometry/solids.hpp"
#include "sharp/model.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

constexpr double R = 0.1;
constexpr double omega = 2;

/// A drum of thick oil, full; `drum` and `shaft` turn where asked.
Settings<2> oil(const std::function<int(const Vec<2>&)>& solid) {
  Settings<2> settings;
  settings.liquid = {1000, 5};
  settings.gas = {1.2, 1.8e-5};
  settings.body_force = [](double) { return Vec<2>{}; };
  settings.moving_walls.motions = {[](double) { return RigidMotion<2>{{}, {0, 0, omega}, {R, R}}; }};
  settings.moving_walls.solid = solid;
  return settings;
}

void run_until(Model<2>& model, double until) {
  for (double& F : model.state().F.data()) F = 1;
  model.start();
  while (model.state().time < until) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), until - model.state().time));
  }
}

/// Greatest error of the velocity round the axis, over omega R, between two radii.
template <class Exact>
double worst(const Model<2>& model, double from, double to, Exact&& exact) {
  const Grid<2>& grid = model.grid();
  double greatest = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double x = (cell[0] + 0.5) * grid.spacing()[0] - R;
    const double y = (cell[1] + 0.5) * grid.spacing()[1] - R;
    const double r = std::hypot(x, y);
    if (r < from || r > to) return;
    const double u = (x * model.state().u[1].block(b)[o] - y * model.state().u[0].block(b)[o]) / r;
    greatest = std::max(greatest, std::abs(u - exact(r)) / (omega * R));
  });
  return greatest;
}

}  // namespace

TEST_CASE("a rigid motion has its velocity in 2-D and 3-D") {
  const RigidMotion<2> flat{{1, 0}, {0, 0, 2}, {0, 1}};
  CHECK(flat.at({3, 1}) == Vec<2>{1, 6});
  CHECK(flat.at({0, 2}) == Vec<2>{-1, 0});
  const RigidMotion<3> turning{{0, 0, 0}, {1, 2, 3}, {1, 0, 0}};
  CHECK(turning.at({1, 1, 0}) == Vec<3>{-3, 0, 1});
  CHECK(turning.at({2, 0, 0}) == Vec<3>{0, 3, -2});
}

TEST_CASE("a drum takes its oil along as a solid body") {
  const auto drum = ball_solid<2>({R, R}, R);
  for (const auto& [cells, bar] : {std::pair{24, 0.005}, std::pair{48, 0.003}}) {
    const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells);
    Model<2> model(grid, oil([](const Vec<2>&) { return 0; }), OpenSpace<2>(grid, &drum, {}, {}));
    run_until(model, 1);  // 7 times the slowest mode's time
    CHECK(worst(model, 0, 0.8 * R, [](double r) { return omega * r; }) < bar);
  }
}

TEST_CASE("between a drum and a shaft, one of which turns, the flow has the profile of Couette") {
  const double inner = 0.4 * R;
  const auto drum = ball_solid<2>({R, R}, R);
  const auto shaft = ball_solid<2>({R, R}, inner);
  const double square = R * R - inner * inner;
  for (const bool outer : {true, false}) {
    CAPTURE(outer);
    const auto solid = [&](const Vec<2>& p) { return (std::hypot(p[0] - R, p[1] - R) > 0.7 * R) == outer ? 0 : -1; };
    const double A = omega * (outer ? R * R : -inner * inner) / square;
    const double B = omega * (outer ? -1 : 1) * R * R * inner * inner / square;
    std::vector<double> error;
    for (const int cells : {40, 80}) {
      const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells);
      Model<2> model(grid, oil(solid), OpenSpace<2>(grid, &drum, {shaft}, {}));
      run_until(model, 0.6);
      error.push_back(worst(model, 0.55 * R, 0.85 * R, [&](double r) { return A * r + B / r; }));
    }
    CHECK(error[1] < 0.0015);
    CHECK(error[0] < (outer ? 0.0050 : 0.0035));
    CHECK(error[1] < 0.4 * error[0]);
  }
}

TEST_CASE("a lid that slides drags oil along in a long slot, which flows back below") {
  // Far from the ends u = U (3 s^2 - 2 s), s from the floor to the lid.
  const double H = 0.02;
  const double U = 0.1;
  const Grid<2> grid = grid_over<2>({0, 0}, {8 * H, H}, H / 16);
  auto settings = oil({});
  settings.moving_walls.motions = {[=](double) { return RigidMotion<2>{{U, 0}, {}, {}}; }};
  settings.moving_walls.sides[1][1] = 0;
  Model<2> model(grid, settings);
  run_until(model, 0.3);
  double greatest = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    if (cell[0] != grid.cells()[0] / 2) return;
    const double s = (cell[1] + 0.5) / grid.cells()[1];
    greatest = std::max(greatest, std::abs(model.state().u[0].block(b)[o] / U - (3 * s - 2) * s));
  });
  CHECK(greatest < 0.005);
}

TEST_CASE("a thin plate at rest in a drum that turns holds its oil") {
  const auto drum = ball_solid<2>({R, R}, R);
  const double above = R + 0.3 * R;  // rigid rotation would have -0.3 omega R along it
  const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / 40);
  const ThinWall<2> plate{{0, above}, {0, 1}, box_solid<2>({-R, above - 0.3 * R}, {3 * R, above + 0.3 * R})};
  Model<2> model(grid, oil([](const Vec<2>&) { return 0; }), OpenSpace<2>(grid, &drum, {}, {plate}));
  run_until(model, 0.6);
  // By the parabola through three cells on either side.
  const CellMap<2> map(grid);
  double fastest = 0;
  for (int i = 12; i < 28; ++i)
    for (const auto& [first, away] : {std::pair{25, -1}, std::pair{26, 1}}) {
      const auto along = [&](int j) {
        const auto [block, at] = map({i, j});
        return model.state().u[0].block(block)[at] / (omega * R);
      };
      const double next = along(first + away);
      CHECK(std::abs((15 * along(first) - 10 * next + 3 * along(first + 2 * away)) / 8) < 0.02);
      fastest = std::max(fastest, std::abs(next));
    }
  CHECK(fastest > 0.05);
}

TEST_CASE("a thin floor holds a liquid that thins as the side of a grid does") {
  const double H = 0.02;
  const double U = 0.1;
  const auto profile = [&](bool thin) {
    const Grid<2> grid = grid_over<2>({0, 0}, {4 * H, thin ? 2 * H : H}, H / 8);
    auto settings = oil({});
    settings.liquid.rheology = Rheology::power_law(5, 5, 0.5, 0.1, 50);
    settings.moving_walls.motions = {[=](double) { return RigidMotion<2>{{U, 0}, {}, {}}; }};
    settings.moving_walls.sides[1][1] = 0;
    std::vector<ThinWall<2>> floor;
    if (thin) floor.push_back({{0, H}, {0, 1}, box_solid<2>({-H, 0.5 * H}, {5 * H, 1.5 * H})});
    Model<2> model(grid, settings, thin ? OpenSpace<2>(grid, nullptr, {}, floor) : OpenSpace<2>{});
    run_until(model, 0.1);
    const CellMap<2> map(grid);
    std::vector<double> u;
    for (int j = grid.cells()[1] - 8; j < grid.cells()[1]; ++j) {
      const auto [block, at] = map({grid.cells()[0] / 2, j});
      u.push_back(model.state().u[0].block(block)[at] / U);
    }
    return u;
  };
  const auto by_side = profile(false);
  const auto by_thin_wall = profile(true);
  CHECK(by_side[2] < -0.1);  // it flows back
  for (std::size_t j = 0; j < by_side.size(); ++j) CHECK(by_thin_wall[j] == about(by_side[j]).scale(1).epsilon(0.005));
}
