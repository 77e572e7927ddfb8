#include "sharp/sheets.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "mesh/cover.hpp"
#include "sharp/parts.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

constexpr double g = 9.81;

template <int D>
ThinWall<D> sheet(int axis, double at, const Vec<D>& lower, const Vec<D>& upper) {
  ThinWall<D> wall;
  wall.normal[axis] = 1;
  wall.point[axis] = at;
  Vec<D> low = lower;
  Vec<D> high = upper;
  low[axis] = at - 0.03;
  high[axis] = at + 0.03;
  wall.extent = box_solid<D>(low, high);
  return wall;
}

struct Liquids {
  bool free_surface_only = false;
  double surface_tension = 0;
  double angle = 90;  // [deg]
};

template <int D>
Settings<D> settings_of(const Liquids& liquids, double viscosity = 1e-3) {
  Settings<D> s;
  s.liquid = {1000, viscosity};
  s.gas = {liquids.free_surface_only ? 1.0 : 1.2, liquids.free_surface_only ? 0.0 : 1.8e-5};
  s.free_surface_only = liquids.free_surface_only;
  s.surface_tension = liquids.surface_tension;
  s.contact_angle = liquids.angle * M_PI / 180;
  s.body_force = [](double) {
    Vec<D> G{};
    G[D - 1] = -g;
    return G;
  };
  return s;
}

/// Greatest speed in 200 steps over sqrt(g H) of two levels, left and right of x = 0.4 m, beside sheets.
template <int D>
double unrest(const std::vector<ThinWall<D>>& sheets, std::array<double, 2> levels, const Liquids& liquids,
              bool round = false) {
  Vec<D> size;
  size.fill(D == 3 ? 0.2 : 0.6);
  size[0] = 0.8;
  const Grid<D> grid({}, size, partition<D>(size, 0.02));
  OpenSpace<D> space(grid, nullptr, {}, sheets, round);
  Model<D> model(grid, settings_of<D>(liquids), space);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const bool left = (cell[0] + 0.5) * grid.spacing()[0] < 0.4;
    model.state().F.block(b)[o] = covered_share<D>(grid, cell, BelowLevel<D>{levels[left ? 0 : 1]});
  });
  model.start();
  double greatest = 0;
  for (int n = 0; n < 200; ++n) {
    StepLimit limit{};
    model.step(std::min(model.stable_step(limit), 0.01));
    greatest = std::max(greatest, model.greatest_speed());
  }
  return greatest / std::sqrt(g * size[D - 1]);
}

const std::vector<Liquids>& kinds() {
  static const std::vector<Liquids> list{{}, {true}, {false, 0.07}, {true, 0.07}};
  return list;
}

}  // namespace

TEST_CASE("liquid on both sides of a sealed sheet is at rest, whatever the difference of the levels") {
  const auto upright = sheet<2>(0, 0.4, {0, 0}, {0, 0.5});
  for (const auto& liquids : kinds())
    for (const double lower : {0.32, 0.317, 0.303, 0.29, 0.27, 0.23, 0.13}) {
      CAPTURE(lower);
      CAPTURE(liquids.free_surface_only);
      CAPTURE(liquids.surface_tension);
      CHECK(unrest<2>({upright}, {0.33, lower}, liquids) < 1e-9);
    }
}

TEST_CASE("so it is beside level and L-shaped sheets, round an axis and in space") {
  const auto level = sheet<2>(1, 0.32, {0.2, 0}, {0.8, 0});
  const std::vector<ThinWall<2>> bent{sheet<2>(0, 0.4, {0, 0.1}, {0, 0.5}), sheet<2>(1, 0.1, {0.2, 0}, {0.4, 0}),
                                      sheet<2>(0, 0.2, {0, 0}, {0, 0.1})};
  for (const auto& liquids : kinds()) {
    CAPTURE(liquids.free_surface_only);
    CAPTURE(liquids.surface_tension);
    for (const double height : {0.313, 0.327, 0.357}) CHECK(unrest<2>({level}, {height, height}, liquids) < 1e-9);
    CHECK(unrest<2>(bent, {0.33, 0.297}, liquids) < 1e-9);
    CHECK(unrest<2>({sheet<2>(0, 0.4, {0, 0}, {0, 0.5})}, {0.33, 0.305}, liquids, true) < 1e-9);
    CHECK(unrest<3>({sheet<3>(0, 0.4, {0, 0, 0}, {0, 0.2, 0.18})}, {0.15, 0.133}, liquids) < 1e-9);
  }
  CHECK(unrest<3>({sheet<3>(0, 0.4, {0, 0, 0}, {0, 0.1, 0.18}), sheet<3>(1, 0.1, {0.4, 0, 0}, {0.8, 0, 0.18})},
                  {0.15, 0.15}, {}) < 1e-9);
}

TEST_CASE("a column that collapses on one side of a sheet leaves the other side as it is") {
  const Vec<2> size{0.8, 0.4};
  const Grid<2> grid({}, size, partition<2>(size, 0.02));
  OpenSpace<2> space(grid, nullptr, {}, {sheet<2>(0, 0.4, {0, 0}, {0, 0.4 - 0.02})});
  Model<2> model(grid, settings_of<2>({}), space);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double x = (cell[0] + 0.5) * grid.spacing()[0];
    model.state().F.block(b)[o] = covered_share<2>(grid, cell, BelowLevel<2>{x > 0.4 ? 0.113 : x < 0.16 ? 0.2 : 0.0});
  });
  model.start();
  while (model.state().time < 0.35) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  double sum = 0;  // of level and its square, on the right
  double square = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    if (cell[0] < 20 || cell[1] != 5) return;
    const double* F = model.state().F.block(b) + o;
    sum += *F / 20;
    square += *F * *F / 20;
  });
  CHECK(sum == about(0.113 / 0.02 - 5).epsilon(1e-6));
  CHECK(std::sqrt(std::max(0.0, square - sum * sum)) < 2e-3);  // the gas that is pushed about ripples it hardly
}

TEST_CASE("a sheet hides what is behind it, and shows the image of what is before it") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 20));
  OpenSpace<2> space(grid, nullptr, {}, {sheet<2>(0, 0.5, {0, 0}, {0, 0.5})});
  const Sheets<2> sheets(grid, space);
  Cells<2> F(grid);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    F.block(b)[o] = cell[0] < 10 ? 1 - 0.05 * cell[1] + 0.001 * cell[0] : -1;
  });
  const Layout<2>& layout = grid.layout();
  const auto seen_from = [&](const Index<2>& cell) {
    return SeenShares<2>(sheets, layout, 0, layout.offset(cell), F.block(0));
  };
  const auto at = [](const SeenShares<2>& seen, int i, int j) {
    return seen.middle()[i * SeenShares<2>::step()[0] + j * SeenShares<2>::step()[1]];
  };
  CHECK(sheets.near(0, layout.offset({9, 5})));
  CHECK(sheets.alone_at(0, layout.offset({9, 5})));
  CHECK_FALSE(sheets.alone_at(0, layout.offset({8, 5})));
  CHECK_FALSE(sheets.near(0, layout.offset({5, 18})));
  const auto low = seen_from({8, 4});
  CHECK(at(low, 1, 0) == about(0.809));
  CHECK(at(low, 2, 0) == about(0.809));  // the image begins
  CHECK(at(low, 3, 1) == about(0.758));
  CHECK_FALSE(low.sees({2, 0}));
  // Over the edge of the sheet, at 0.5, one sees beyond it.
  const auto high = seen_from({9, 9});
  CHECK(high.sees({1, 1}));
  CHECK(at(high, 1, 1) == -1);
  CHECK_FALSE(high.sees({1, 0}));
  CHECK(at(high, 1, 0) == about(0.559));
}

TEST_CASE("liquid rises between thin plates, and sinks where it does not wet them, by what the angle says") {
  for (const double degrees : {60.0, 120.0}) {
    CAPTURE(degrees);
    const Vec<2> size{0.024, 0.02};
    const Grid<2> grid({}, size, partition<2>(size, 5e-4));
    const auto plate = [](double x) {
      ThinWall<2> wall;
      wall.normal = {1, 0};
      wall.point = {x, 0};
      wall.extent = box_solid<2>({x - 4e-4, 0.004}, {x + 4e-4, 0.018});
      return wall;
    };
    OpenSpace<2> space(grid, nullptr, {}, {plate(0.01), plate(0.014)});
    const double sigma = 0.03;
    Model<2> model(grid, settings_of<2>({false, sigma, degrees}, 0.05), space);
    cover<2>(grid, model.state().F, BelowLevel<2>{0.0101});
    model.start();
    while (model.state().time < 0.8) {
      StepLimit limit{};
      model.step(model.stable_step(limit));
    }
    double inside = 0;  // mean levels between the plates and on both sides of them
    double outside = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      const double height = model.state().F.block(b)[o] * grid.spacing()[1];
      (cell[0] >= 20 && cell[0] < 28 ? inside : outside) += height / (cell[0] >= 20 && cell[0] < 28 ? 8 : 40);
    });
    // The pull on both walls of a gap of width w lifts its mean by 2 sigma cos / (rho g w).
    const double pull = 2 * sigma * std::cos(degrees * M_PI / 180) / ((1000 - 1.2) * g);
    CHECK(inside - outside == about(pull * (1 / 0.004 - 1 / 0.01)).epsilon(0.01));
  }
}
