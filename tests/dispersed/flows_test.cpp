// What comes in, rises and leaves: the faucet, sparged columns, and what all runs must hold.
#include <doctest/doctest.h>
#include <omp.h>

#include <cmath>
#include <vector>

#include "about.hpp"
#include "dispersed/small_system.hpp"
#include "flow/divergence_tree.hpp"
#include "validation/eulerian_flows.hpp"

using namespace wavy;
using namespace wavy::dispersed;
using namespace wavy::eulerian;

TEST_CASE("the faucet: water that falls draws together behind a front, without overshoot on any grid") {
  const Faucet coarse = faucet(48);
  const Faucet fine = faucet(96);
  CHECK(fine.error < 0.03);
  CHECK(fine.error < coarse.error);
  CHECK(std::log2(coarse.behind / fine.behind) > 1);
  CHECK(fine.most < behind_front_of_faucet());
  CHECK(coarse.most < behind_front_of_faucet());
}

TEST_CASE("a sparged column holds the gas that drift flux says, loses no water and lets out what comes in") {
  const Grid<2> grid({0, 0}, {0.2, 0.8}, partition<2>({0.2, 0.8}, 0.0125));
  for (const double superficial : {0.005, 0.02, 0.04}) {
    Model<2> model = column(grid, superficial, 1, bubbling<2>());
    lay<2>(model, BelowLevel<2>{0.5}, nullptr);
    const double water = model.volume(0);
    model.start();
    run_until(model, 4, 0.02);
    const auto before = model.boundary().throughput();
    run_until(model, 5, 0.02);
    const auto after = model.boundary().throughput();
    const double in = after[0].in[1] - before[0].in[1];
    CHECK((after[1].out[1] - before[1].out[1] - after[1].in[1] + before[1].in[1]) == about(in).epsilon(1e-3));
    CHECK(after[1].out[0] == 0);
    CHECK(std::abs(model.volume(0) / water - 1) < 1e-12);
    double held = 0;
    int cells = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      if (cell[1] < 8 || cell[1] >= 32) return;
      held += model.state().a[1].block(b)[at];
      ++cells;
    });
    INFO(superficial);
    CHECK(held / cells == about(drift_flux_holdup(superficial)).epsilon(5e-3));
  }
}

TEST_CASE("a plume sways and splashes: fractions stay within 0 and 1, volumes hold") {
  const Grid<2> grid({0, 0}, {0.2, 0.4}, Partition<2>{{32, 64}, {16, 16}});
  Model<2> model = column(grid, 0.02, 0.25, bubbling<2>());
  lay<2>(model, BelowLevel<2>{0.25}, nullptr);
  const double water = model.volume(0);
  const double air = model.volume(1);
  model.start();
  run_until(model, 1.5, 0.02);
  const auto passed = model.boundary().throughput();
  const double all_air = model.volume(1) - passed[0].in[1] - passed[1].in[1] + passed[1].out[1];
  CHECK(std::abs(all_air / air - 1) < 1e-12);
  CHECK(std::abs((model.volume(0) + passed[1].out[0]) / water - 1) < 1e-12);
  const Mixture mixed = mixture(model);
  CHECK(mixed.sum_error < 1e-12);
  CHECK(mixed.least > -1e-9);
  CHECK(mixed.most < 1 + 1e-9);
  CHECK(mixed.speed > 0.1);
}

TEST_CASE("threads change no bit, nor does a stop on the way") {
  const int threads = omp_get_max_threads();
  const Plume one = plume(1, false);
  const Plume two = plume(2, false);
  const Plume stopped = plume(1, true);
  omp_set_num_threads(threads);
  REQUIRE(one.cells >= 2 * cells_per_thread);
  CHECK(one.gas_speed > 0.05);
  CHECK(two.gas_speed > 0.05);
  CHECK(one.fields == two.fields);
  CHECK(one.fields == stopped.fields);
}

TEST_CASE("the small system of a face keeps momentum, drives slips by drag of any size, and knows absent phases") {
  SmallSystem<3> system;
  system.a = {0.7, 0.3, 0};
  system.rho = {1000, 900, 1};
  system.star = {0.1, 0.3, -0.2};
  const double dt = 0.01;
  const std::array<double, 3> f{-100, 50, 9000};
  const auto with_rate = [&](double rate) {
    for (std::size_t i = 0; i < 3; ++i)
      for (std::size_t j = 0; j < 3; ++j) system.drag[i][j] = i == j ? 0 : dt * rate;
  };
  std::array<double, 3> U{};
  std::array<double, 3> response{};
  for (const double rate : {0.0, 1e3, 1e18}) {
    INFO(rate);
    with_rate(rate);
    system.solve(f, dt, U, response);
    double momentum = 0;
    double gain = 0;
    for (std::size_t i = 0; i < 3; ++i) {
      momentum += system.a[i] * (system.rho[i] * (U[i] - system.star[i]) - dt * f[i]);
      gain += system.a[i] * system.rho[i] * response[i];
    }
    CHECK(std::abs(momentum) < 1e-12);
    CHECK(gain == about(dt));
    // Each row over its fraction, of the absent phase too.
    for (std::size_t i = 0; i < 3 && rate < 1e6; ++i) {
      double row = system.rho[i] * (U[i] - system.star[i]) - dt * f[i];
      for (std::size_t j = 0; j < 3; ++j) row += system.a[j] * system.drag[i][j] * (U[i] - U[j]);
      CHECK(std::abs(row) < 1e-9);
    }
    if (rate == 1e18) {
      CHECK(U[0] == about(U[1]).epsilon(1e-12));
      // What is left of the slip is right to every digit: f against drag.
      CHECK(U[2] == about(U[0]).epsilon(1e-12));
    }
  }
}

TEST_CASE("the tree hands all that is left of divergence out of the vessel, through cut cells and between blocks") {
  const Grid<2> grid({0, 0}, {1, 1}, Partition<2>{{32, 32}, {16, 16}});
  const Solid<2> ball{[](const Vec<2>& p) { return 0.2 - std::hypot(p[0] - 0.5, p[1] - 0.45); }, {0, 0}, {1, 1}};
  const OpenSpace<2> space(grid, &ball, {}, {});
  auto out = opening<2>("out", 1, 1);
  out.pressure = [](double) { return 0.0; };
  const Boundary<2> boundary(grid, space, {out});
  Faces<2> face_u{Cells<2>(grid), Cells<2>(grid)};
  // Some flow, the same on both sides of faces between blocks.
  const CellMap<2> map(grid);
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < 2; ++d) {
      for_rows<2>(grid.layout(), Index<2>{}, faces_end<2>(grid.layout(), d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const Vec<2> place = cell_middle(grid, b, at);
          face_u[d].block(b)[at] = space.area()[d].block(b)[at] * std::sin(7 * place[0] + 3 * place[1] + d);
        }
      });
      boundary.close(grid, b, d, face_u[d].block(b));
    }
  });
  DivergenceTree<2>(grid, space, boundary).apply(grid, face_u);
  double greatest = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
    if (open_share(space, b, at) == 0) return;
    double sum = 0;
    for (int d = 0; d < 2; ++d) sum += face_u[d].block(b)[at + grid.layout().step[d]] - face_u[d].block(b)[at];
    greatest = std::max(greatest, std::abs(sum));
  });
  CHECK(greatest < 1e-12);
}

TEST_CASE("a degassing surface lets out the gas that arrives; the liquid that a full vessel loses is what it holds") {
  for (const double share : {1.0, 0.25}) {
    INFO(share);
    const Degassing degassed = degassing(share, share == 1 ? 10 : 26);
    CHECK(degassed.lost == about(degassed.held).epsilon(1e-12));
    CHECK(std::abs(degassed.volume_error) < 1e-12);
    CHECK(degassed.came_back == 0);
    CHECK(degassed.mixed.sum_error < 1e-12);
    // A plume that sways holds more and less gas.
    CHECK(degassed.left == about(degassed.came).epsilon(share == 1 ? 1e-3 : 0.05));
  }
}

TEST_CASE("plug flow through a settling tank loses the share of drops that Hazen says: v L / (U H)") {
  for (const double diameter : {5e-5, 1e-4}) {
    INFO(diameter);
    const PlugFlow tank = plug_flow(diameter);
    CHECK(tank.removed == about(tank.wanted).epsilon(3e-3));
  }
}
