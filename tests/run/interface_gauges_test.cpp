// Gauges of the interface, of energy, of flow through planes and of pieces one by one, against formulas.
#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <vector>

#include "about.hpp"
#include "geometry/plane.hpp"
#include "geometry/solids.hpp"
#include "run/pieces.hpp"
#include "run/reading.hpp"

using namespace wavy;

namespace {

constexpr double rho = 900;
constexpr double g = 10;
constexpr double pi = std::numbers::pi;

/// A tank of gas with balls of oil.
template <int D>
Setup<D> with_balls(const Vec<D>& size, const std::vector<Ball<D>>& balls, int cells) {
  auto setup = tank<D>(size, 0, cells);
  setup.fills.clear();
  for (const auto& ball : balls) setup.fills.push_back({ball, 0});
  return setup;
}

template <int D>
std::vector<FluidPiece<D>> pieces_of(const Setup<D>& setup, int phase = 0) {
  const Grid<D> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    for (std::size_t d = 0; d < D; ++d) model->state().u[d].block(b)[o] = cell_middle<D>(grid, b, o)[d];
  });
  const auto pieces = fluid_pieces<D>(*model, setup, phase);
  double sum = 0;
  for (const auto& piece : pieces) sum += piece.copies * piece.volume;
  const double all = (phase == 0 ? model->liquid_volume() : model->open_volume() - model->liquid_volume());
  CHECK(sum == about(all * setup.thickness).epsilon(1e-12));
  return pieces;
}

}  // namespace

TEST_CASE("a flat surface has the tank's area, on the faces of cells and within them, upright and inclined") {
  for (const double level : {0.25, 0.26, 0.2501}) {
    CAPTURE(level);
    CHECK(reading<2>(tank<2>({1, 0.5}, level), gauge_of<2>("interface_area")) == about(1).epsilon(1e-9));
    CHECK(reading<3>(tank<3>({1, 0.6, 0.5}, level), gauge_of<3>("interface_area")) == about(0.6).epsilon(1e-9));
  }
  auto setup = tank<2>({1, 1}, 0);
  setup.thickness = 3;
  // Below the line 0.6 x + 0.8 y = 0.7, which meets x = 0 at y = 7/8 and x = 1 at y = 1/8.
  setup.fills = {{Covering<2>{[](const Vec<2>& lower, const Vec<2>& upper) {
                    const double h = upper[0] - lower[0];
                    return share_below<2>({0.6 / 1.4, 0.8 / 1.4}, (0.7 - 0.6 * lower[0] - 0.8 * lower[1]) / h / 1.4);
                  }},
                  0}};
  // Without the cells at the walls, which the surface is taken to meet upright.
  auto between = gauge_of<2>("interface_area");
  between.zone = AlignedBox<2>{{0.1, 0}, {0.9, 1}};
  CHECK(reading<2>(setup, between) == about(3 * 1.25 * 0.8).epsilon(1e-9));
}

TEST_CASE("balls have the area of spheres, better on finer grids") {
  double before = 1;
  for (const int cells : {16, 32}) {
    const auto setup = with_balls<3>({1, 1, 1}, {{{0.52, 0.47, 0.5}, 0.31}}, cells);
    const double area = reading<3>(setup, gauge_of<3>("interface_area"));
    const double error = std::abs(area / (4 * pi * 0.31 * 0.31) - 1);
    CHECK(error < 0.5 * before);
    before = error;
  }
  CHECK(before < 0.004);
}

TEST_CASE("discs have the length of circles, also where cells and circle share their edges") {
  for (const double x : {0.5, 0.51, 0.483}) {
    CAPTURE(x);
    const auto setup = with_balls<2>({1, 1}, {{{x, 0.5}, 0.2}}, 50);
    CHECK(reading<2>(setup, gauge_of<2>("interface_area")) == about(0.4 * pi).epsilon(1e-3));
  }
}

TEST_CASE("in a round vessel the surface is a disc, in space and round its axis") {
  auto setup = tank<3>({1, 1, 0.5}, 0.26, 32);
  setup.vessel = cylinder_solid<3>({0.5, 0.5, 0}, {0.5, 0.5, 0.5}, 0.5);
  CHECK(reading<3>(setup, gauge_of<3>("interface_area")) == about(pi / 4).epsilon(1e-3));
  auto turned = tank<2>({0.5, 0.5}, 0.26, 16);
  turned.symmetry = Symmetry::round;
  turned.thickness = 2 * pi * 0.5;
  CHECK(reading<2>(turned, gauge_of<2>("interface_area")) == about(pi / 4).epsilon(1e-9));
}

TEST_CASE("oil that is lifted has the potential energy of its middle, a wave smaller than a cell that of its square") {
  const auto energy = gauge_of<2>("potential_energy");
  const double flat = reading<2>(tank<2>({1, 0.5}, 0.26), energy);
  CHECK(flat == about(rho * g * 0.26 * 0.26 / 2).epsilon(1e-6));
  auto wave = tank<2>({1, 0.5}, 0, 64);
  const double a = 0.003;  // of cells of 0.0156
  wave.fills = {{Covering<2>{[&](const Vec<2>& lower, const Vec<2>& upper) {
                   // Mean level over the column, exactly.
                   const double level = 0.26 + a * (std::sin(2 * pi * upper[0]) - std::sin(2 * pi * lower[0])) /
                                                   (2 * pi * (upper[0] - lower[0]));
                   return std::clamp((level - lower[1]) / (upper[1] - lower[1]), 0.0, 1.0);
                 }},
                 0}};
  const double more = reading<2>(wave, energy) - reading<2>(tank<2>({1, 0.5}, 0.26, 64), energy);
  CHECK(more == about(rho * g * a * a / 4).epsilon(0.02));
  auto round = tank<3>({1, 1, 0.5}, 0.26, 24);
  round.vessel = cylinder_solid<3>({0.5, 0.5, 0}, {0.5, 0.5, 0.5}, 0.5);
  CHECK(reading<3>(round, gauge_of<3>("potential_energy")) == about(rho * g * pi / 4 * 0.26 * 0.26 / 2).epsilon(1e-3));
}

TEST_CASE("what viscosity takes of shear and of flow through a channel is by the formulas") {
  auto setup = tank<2>({1, 0.5}, 0.5, 80);
  setup.thickness = 2;
  const auto dissipation = gauge_of<2>("dissipation");
  // Shear along walls that slip as they should: between no-slip walls u = 4 y (H - y) has mu int (4 (H - 2 y))^2.
  const auto channel = [](const Vec<2>& x) { return Vec<2>{4 * x[1] * (0.5 - x[1]), 0}; };
  for (auto& wall : setup.walls[0]) wall = Wall::slip;
  setup.periodic[0] = true;
  const double exact = 0.05 * 16 * std::pow(0.5, 3) / 3 * 2;
  CHECK(reading<2>(setup, dissipation, channel) == about(exact).epsilon(5e-3));
  CHECK(reading<2>(setup, gauge_of<2>("greatest", "shear_rate"), channel) == about(4 * (0.5 - 0.0125)).epsilon(0.03));
}

TEST_CASE("eddies take of the mean flow by their viscosity") {
  auto setup = tank<2>({1, 0.5}, 0.5, 40);
  setup.gravity[1] = Formula(0.0);
  for (std::size_t d = 0; d < 2; ++d) {
    setup.periodic[d] = true;
    for (auto& wall : setup.walls[d]) wall = Wall::slip;
  }
  const auto wave = [](const Vec<2>& x) { return Vec<2>{std::sin(4 * pi * x[1]), 0}; };
  const auto dissipation = gauge_of<2>("dissipation");
  const double laminar = reading<2>(setup, dissipation, wave);
  CHECK(laminar == about(0.05 * 0.5 * std::pow(4 * pi, 2) * 0.5).epsilon(0.05));
  setup.turbulence.law = &k_epsilon;
  setup.turbulence.start = {0.1, 0.05};
  setup.turbulence.start_speed = 1;
  const double eddies = 900 * reading<2>(setup, gauge_of<2>("mean", "eddy_viscosity"), wave);
  CHECK(eddies > 0.05);
  CHECK(reading<2>(setup, dissipation, wave) == about(laminar * (0.05 + eddies) / 0.05).epsilon(1e-9));
}

TEST_CASE("through a plane goes what the oil's velocity and its height say") {
  auto setup = tank<2>({1, 0.5}, 0.26);
  setup.thickness = 2;
  auto flow = gauge_of<2>("flow");
  flow.zone = AlignedBox<2>{{0.633, 0.1}, {0.633, 0.5}};
  const auto moving = [](const Vec<2>& x) { return Vec<2>{1 + x[0], 0.5}; };
  CHECK(reading<2>(setup, flow, moving) == about(2 * 0.16 * 1.633).epsilon(1e-9));
  flow.phase = 1;
  CHECK(reading<2>(setup, flow, moving) == about(2 * 0.24 * 1.633).epsilon(1e-9));
  flow.zone = AlignedBox<2>{{0, 0.475}, {0.5, 0.475}};
  CHECK(reading<2>(setup, flow, moving) == about(2 * 0.5 * 0.5).epsilon(1e-9));
}

TEST_CASE("on planes, lines and walls quantities are read between the middles of cells") {
  const auto setup = tank<3>({1, 0.6, 0.5}, 0.3);
  auto mean = gauge_of<3>("mean", "pressure");
  mean.wall = {"bottom", NamedWall::Of::side, {2, 0}, 0};
  CHECK(reading<3>(setup, mean) == about(rho * g * 0.3).epsilon(1e-6));
  mean.wall = {"left", NamedWall::Of::side, {0, 0}, 0};
  CHECK(reading<3>(setup, mean) == about(rho * g * 0.3 * 0.3 / 2 / 0.5).epsilon(1e-3));
  auto plane = gauge_of<3>("greatest", "velocity_x");
  plane.zone = AlignedBox<3>{{0.4, 0, 0}, {0.4, 0.6, 0.5}};
  const auto moving = [](const Vec<3>& x) { return Vec<3>{x[0] + x[2], 0, 0}; };
  CHECK(reading<3>(setup, plane, moving) == about(0.4 + 0.475).epsilon(1e-9));
  auto line = gauge_of<3>("mean", "velocity_x");
  line.zone = AlignedBox<3>{{0.4, 0.31, 0.1}, {0.4, 0.31, 0.4}};
  CHECK(reading<3>(setup, line, moving) == about(0.4 + 0.25).epsilon(1e-9));
  auto wetted = gauge_of<3>("share");
  wetted.zone = AlignedBox<3>{{0.4, 0, 0}, {0.4, 0.6, 0.5}};
  CHECK(reading<3>(setup, wetted) == about(0.6).epsilon(1e-9));
}

TEST_CASE("a phase reaches as far as its furthest cell that is half full, read between cells") {
  auto setup = tank<2>({1, 0.5}, 0);
  auto reach = gauge_of<2>("reach");
  for (const double end : {0.6, 0.61, 0.633, 1.0}) {
    CAPTURE(end);
    setup.fills = {{AlignedBox<2>{{0, 0}, {end, 0.2}}, 0}};
    CHECK(std::abs(reading<2>(setup, reach) - end) < 0.25 * 0.05);
  }
  reach.axis = 1;
  CHECK(reading<2>(setup, reach) == about(0.2).epsilon(1e-9));
  setup.fills.clear();
  CHECK(std::isnan(reading<2>(setup, reach)));
}

TEST_CASE("three drops are told apart with their volumes, places and speeds, and the pool is a fourth") {
  auto setup = with_balls<2>({1, 1}, {{{0.2, 0.7}, 0.1}, {{0.5, 0.6}, 0.12}, {{0.8, 0.8}, 0.05}}, 40);
  setup.fills.push_back({BelowLevel<2>{0.2}, 0});
  const auto pieces = pieces_of<2>(setup);
  REQUIRE(pieces.size() == 4);
  CHECK(pieces[0].volume == about(0.2));
  const std::vector<Ball<2>> sorted{{{0.5, 0.6}, 0.12}, {{0.2, 0.7}, 0.1}, {{0.8, 0.8}, 0.05}};
  for (std::size_t i = 0; i < 3; ++i) {
    const auto& piece = pieces[i + 1];
    CHECK(piece.copies == 1);
    CHECK(piece.volume == about(pi * sorted[i].radius * sorted[i].radius).epsilon(5e-3));
    for (std::size_t d = 0; d < 2; ++d) {
      CHECK(piece.middle[d] == about(sorted[i].centre[d]).epsilon(1e-3));
      CHECK(piece.velocity[d] == about(sorted[i].centre[d]).epsilon(1e-3));  // as pieces_of sets it
    }
  }
  CHECK(pieces_of<2>(setup, 1).size() == 1);
  CHECK(reading<2>(setup, gauge_of<2>("pieces")) == 4);
  CHECK(reading<2>(setup, gauge_of<2>("largest_piece")) == about(0.2));
}

TEST_CASE("drops with a gap of a cell between them are two, those that touch are one") {
  const double h = 1.0 / 40;
  for (const auto& [gap, count] : {std::pair{1.5 * h, 2}, {-1.5 * h, 1}}) {
    CAPTURE(gap);
    const auto setup = with_balls<2>({1, 1}, {{{0.4, 0.5}, 0.1}, {{0.6 + gap, 0.5}, 0.1}}, 40);
    CHECK(pieces_of<2>(setup).size() == static_cast<std::size_t>(count));
  }
}

TEST_CASE("a drop across the seam of a periodic axis is one, in its place") {
  auto setup = with_balls<2>({1, 1}, {{{0.02, 0.5}, 0.1}, {{1.02, 0.5}, 0.1}}, 40);
  setup.periodic[0] = true;
  const auto pieces = pieces_of<2>(setup);
  REQUIRE(pieces.size() == 1);
  CHECK(pieces[0].volume == about(pi * 0.01).epsilon(5e-3));
  CHECK(pieces[0].middle[0] == about(0.02).epsilon(0.02));
}

TEST_CASE("of a vessel of which a quarter is computed, drops on the mirrors are whole and others have their images") {
  // Computed from 0.5 on along x and y.
  auto setup = with_balls<3>({1, 1, 1}, {{{0.5, 0.5, 0.2}, 0.1}, {{0.5, 0.8, 0.5}, 0.1}, {{0.8, 0.8, 0.8}, 0.1}}, 40);
  setup.symmetry = Symmetry::quarter;
  setup.lower = {0.5, 0.5, 0};
  setup.thickness = 4;
  const auto pieces = pieces_of<3>(setup);
  REQUIRE(pieces.size() == 3);
  const double ball = 4.0 / 3 * pi * 1e-3;
  for (const auto& piece : pieces) {
    CHECK(piece.volume == about(ball).epsilon(0.01));
    CHECK(piece.copies == (piece.middle[2] < 0.3 ? 1 : piece.middle[2] < 0.6 ? 2 : 4));
    if (piece.middle[2] < 0.6) CHECK(piece.middle[0] == 0.5);
  }
  CHECK(reading<3>(setup, gauge_of<3>("pieces")) == 7);
}

namespace {

/// Balls of oil in a unit cube of which half is computed, the rest being the same turned.
Setup<3> half_with(const std::vector<Ball<3>>& balls) {
  auto setup = with_balls<3>({1, 1, 1}, balls, 40);
  setup.symmetry = Symmetry::half_turn;
  setup.lower = {0.5, 0, 0};
  setup.thickness = 2;
  return setup;
}

}  // namespace

TEST_CASE("of a vessel of which half is computed and the rest is that turned, drops on the seam are whole") {
  // On the axis one that is its own image; off it one across the seam, whose parts are computed apart; one within.
  auto setup =
      half_with({{{0.5, 0.5, 0.2}, 0.1}, {{0.52, 0.8, 0.5}, 0.1}, {{0.48, 0.2, 0.5}, 0.1}, {{0.8, 0.6, 0.8}, 0.1}});
  const auto pieces = pieces_of<3>(setup);
  REQUIRE(pieces.size() == 3);
  for (const auto& piece : pieces) {
    CHECK(piece.volume == about(4.0 / 3 * pi * 1e-3).epsilon(0.01));
    CHECK(piece.copies == (piece.middle[2] < 0.3 ? 1 : 2));
    if (piece.middle[2] < 0.3) CHECK(piece.middle[0] == 0.5);
    if (piece.middle[2] < 0.3) CHECK(piece.middle[1] == about(0.5));
    // This one, or its image.
    const double side = piece.middle[1] > 0.5 ? 1 : -1;
    if (piece.middle[2] > 0.3 && piece.middle[2] < 0.6) {
      CHECK(piece.middle[0] == about(0.5 + side * 0.02).epsilon(0.01));
      CHECK(piece.middle[1] == about(0.5 + side * 0.3).epsilon(0.01));
    }
    if (piece.middle[2] > 0.6) CHECK(piece.middle[0] == about(0.8).epsilon(0.01));
  }
  CHECK(reading<3>(setup, gauge_of<3>("pieces")) == 5);
  // Two drops that touch each other's images only: a ring round the axis of two, each its own piece.
  setup = half_with({{{0.5, 0.75, 0.5}, 0.1}, {{0.5, 0.25, 0.5}, 0.1}});
  CHECK(reading<3>(setup, gauge_of<3>("pieces")) == 2);
  CHECK(reading<3>(setup, gauge_of<3>("largest_piece")) == about(4.0 / 3 * pi * 1e-3).epsilon(0.01));
  CHECK(reading<3>(setup, gauge_of<3>("interface_area")) == about(2 * 4 * pi * 0.01).epsilon(0.01));
}

TEST_CASE("of a vessel of which a quarter is computed, drops are whole on the axis, across a seam and within") {
  auto setup = with_balls<3>({1, 1, 1},
                             {{{0.5, 0.5, 0.2}, 0.1},   // its own image by every turn
                              {{0.52, 0.8, 0.5}, 0.1},  // across one seam,
                              {{0.2, 0.52, 0.5}, 0.1},  // and its image across the other
                              {{0.8, 0.48, 0.5}, 0.1},
                              {{0.75, 0.7, 0.8}, 0.1}},  // within
                             40);
  setup.symmetry = Symmetry::quarter_turn;
  setup.lower = {0.5, 0.5, 0};
  setup.thickness = 4;
  const auto pieces = pieces_of<3>(setup);
  REQUIRE(pieces.size() == 3);
  for (const auto& piece : pieces) {
    CAPTURE(piece.middle[2]);
    CHECK(piece.volume == about(4.0 / 3 * pi * 1e-3).epsilon(0.01));
    const bool on_axis = piece.middle[2] < 0.3;
    CHECK(piece.copies == (on_axis ? 1 : 4));
    const double x = piece.middle[0] - 0.5;
    const double y = piece.middle[1] - 0.5;
    if (on_axis) CHECK(std::hypot(x, y) < 1e-12);
    if (!on_axis && piece.middle[2] < 0.6) {  // this one, or an image
      CHECK(std::hypot(x, y) == about(std::hypot(0.02, 0.3)).epsilon(0.01));
      CHECK(std::abs(std::remainder(std::atan2(y, x) - std::atan2(0.3, 0.02), pi / 2)) < 0.01);
    }
    if (piece.middle[2] > 0.6) CHECK(x == about(0.25).epsilon(0.01));
  }
  CHECK(reading<3>(setup, gauge_of<3>("pieces")) == 9);
  CHECK(reading<3>(setup, gauge_of<3>("interface_area")) == about(9 * 4 * pi * 0.01).epsilon(0.01));
}
