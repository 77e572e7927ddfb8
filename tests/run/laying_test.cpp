#include "run/laying.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy;

namespace {

constexpr int liquid = 0;
constexpr int gas = 1;

/// Liquid of fills in a box [m^D], and what the last of them replaced.
template <int D>
std::array<double, 2> laid(const Vec<D>& size, double cell, const std::vector<Fill<D>>& fills,
                           const OpenSpace<D>& space = all_open<D>()) {
  const Grid<D> grid({}, size, partition<D>(size, cell));
  const Laying<D> laying(grid, space, fills, 2, gas);
  std::array<double, 2> sum{};
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& at) {
    const auto held = laying.in(b, o, at);
    CHECK(held.shares[liquid] >= 0);
    CHECK(held.shares[liquid] <= 1 + 1e-15);
    sum[0] += held.shares[liquid] * grid.cell_volume();
    sum[1] += held.replaced.back() * grid.cell_volume();
  });
  return sum;
}

}  // namespace

TEST_CASE("fills of one phase that overlap are their union") {
  const Fill<2> level{BelowLevel<2>{0.41}, liquid};
  CHECK(laid<2>({1, 1}, 0.04, {level, level})[0] == about(0.41).epsilon(1e-12));
  CHECK(laid<2>({1, 1}, 0.04, {level, {BelowLevel<2>{0.402}, liquid}, level})[0] == about(0.41).epsilon(1e-12));
  // A box across the level, with edges in the middle of cells.
  const Fill<2> box{AlignedBox<2>{{0.31, 0.33}, {0.57, 0.61}}, liquid};
  const double above = 0.26 * (0.61 - 0.41);
  CHECK(laid<2>({1, 1}, 0.04, {level, box})[0] == about(0.41 + above).epsilon(1e-12));
  CHECK(laid<2>({1, 1}, 0.04, {box, level})[0] == about(0.41 + above).epsilon(1e-12));
  // A drop half in the lake; twice the same drop.
  const Fill<2> drop{Ball<2>{{0.5, 0.41}, 0.2}, liquid};
  const double half = 0.5 * M_PI * 0.04;
  CHECK(laid<2>({1, 1}, 0.04, {level, drop})[0] == about(0.41 + half).epsilon(1e-9));
  CHECK(laid<2>({1, 1}, 0.04, {drop, level, drop})[0] == about(0.41 + half).epsilon(1e-9));
  const Fill<3> ball{Ball<3>{{0.5, 0.5, 0.5}, 0.3}, liquid};
  CHECK(laid<3>({1, 1, 1}, 0.07, {ball, ball})[0] == about(4.0 / 3 * M_PI * 0.027).epsilon(1e-6));
}

TEST_CASE("later fills take the place of earlier ones, to the edge") {
  const Fill<2> lake{BelowLevel<2>{0.41}, liquid};
  const Fill<2> hole{AlignedBox<2>{{0.31, 0.2}, {0.57, 0.8}}, gas};
  const auto [left, taken] = laid<2>({1, 1}, 0.04, {lake, hole});
  CHECK(taken == about(0.26 * 0.21).epsilon(1e-12));
  CHECK(left == about(0.41 - taken).epsilon(1e-12));
  CHECK(laid<2>({1, 1}, 0.04, {hole, lake})[0] == about(0.41).epsilon(1e-12));
  // Taken out and put back.
  CHECK(laid<2>({1, 1}, 0.04, {lake, hole, lake})[0] == about(0.41).epsilon(1e-12));
}

TEST_CASE("fills bring tracers in their phase, and what lies over them takes its part away") {
  const Grid<2> grid({}, {1, 1}, partition<2>({1, 1}, 0.04));
  // A dye in the liquid that starts at 1, a scent in the gas that starts at 3.
  Fill<2> lake{BelowLevel<2>{0.41}, liquid};
  Fill<2> drop{Ball<2>{{0.5, 0.3}, 0.2}, liquid};
  Fill<2> bubble{Ball<2>{{0.5, 0.3}, 0.1}, gas};
  drop.concentrations = {5.0, std::nullopt};
  bubble.concentrations = {std::nullopt, 7.0};
  const Fill<2> half{.shape = AlignedBox<2>{{0.0, 0.0}, {0.25, 0.2}}, .phase = gas, .share = 0.5};
  const OpenSpace<2> space = all_open<2>();
  const Laying<2> laying(grid, space, {lake, drop, bubble, half}, 2, gas, {{liquid, 1}, {gas, 3}});
  std::array<double, 2> amounts{};
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& at) {
    const auto held = laying.in(b, o, at);
    for (std::size_t i = 0; i < 2; ++i) amounts[i] += held.amounts[i] * grid.cell_volume();
    if (held.shares[liquid] > 1e-9) CHECK(held.amounts[0] <= 5 * held.shares[liquid] * (1 + 1e-12));
  });
  // Of the drop the part under the level and that over it; the box with half of it gas lies off it.
  const double r = 0.2;
  const double round = M_PI * r * r;
  const double below = round - (r * r * std::acos(0.11 / r) - 0.11 * std::sqrt(r * r - 0.11 * 0.11));
  const double hole = M_PI * 0.01;
  CHECK(amounts[0] == about(0.41 - below - 0.5 * 0.05 + 5 * (round - hole)).epsilon(1e-5));
  CHECK(amounts[1] == about(3 * (0.59 - (round - below)) + 7 * hole + 3 * 0.5 * 0.05).epsilon(1e-5));
}

TEST_CASE("where two round edges cross the union is right to a ten-thousandth") {
  const double r = 0.2;
  const double d = 0.25;  // between the middles
  const double lens = 2 * r * r * std::acos(d / (2 * r)) - 0.5 * d * std::sqrt(4 * r * r - d * d);
  const auto both = laid<2>({1, 1}, 0.02, {{Ball<2>{{0.375, 0.5}, r}, liquid}, {Ball<2>{{0.625, 0.5}, r}, liquid}});
  CHECK(both[0] == about(2 * M_PI * r * r - lens).epsilon(1e-4));
}
