#include "sharp/heights.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "about.hpp"
#include "mesh/cover.hpp"
#include "sharp/parts.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

struct CurvatureError {
  double by_heights = 0;  ///< greatest relative error where columns are clear
  double fitted = 0;      ///< the same of the parabola, everywhere
  double off = 0;         ///< greatest distance of interface points from the true surface, in cells
  double clear = 0;       ///< share of the interface's cells with clear columns
};

/// A ball of the given radius in cells, a little off the grid's symmetry, in a box 3.2 radii wide.
template <int D>
CurvatureError of_ball(double radius, const Vec<D>& stretch) {
  const int n = 4 * static_cast<int>(0.8 * radius);
  Vec<D> extent;
  Vec<D> centre;
  for (int d = 0; d < D; ++d) {
    extent[d] = n;
    centre[d] = 0.5 * n + 0.13 + 0.21 * d;
  }
  Partition<D> parts;
  for (int d = 0; d < D; ++d) parts.cells[d] = parts.block_cells[d] = 4 * static_cast<int>(0.25 * n / stretch[d]);
  const Grid<D> grid(Vec<D>{}, extent, parts);
  Cells<D> F(grid);
  cover<D>(grid, F, Ball<D>{centre, radius});
  fill_halo(grid, F, pad, all_walls<D>(Mirror::even));
  CurvatureError error;
  const double exact = (D - 1) / radius;
  double clear = 0;
  double all = 0;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double* f = F.block(b) + o;
    if (!is_mixed(*f)) return;
    ++all;
    if (const auto kappa = height_curvature<D>(f, grid.layout().step, grid.spacing())) {
      error.by_heights = std::max(error.by_heights, std::abs(*kappa / exact - 1));
      ++clear;
    }
    error.fitted =
        std::max(error.fitted, std::abs(fitted_curvature<D>(f, grid.layout().step, grid.spacing()) / exact - 1));
    const Vec<D> point = interface_point<D>(f, grid.layout().step, grid.spacing());
    double square = 0;
    for (int d = 0; d < D; ++d) square += std::pow((cell[d] + point[d]) * grid.spacing()[d] - centre[d], 2);
    error.off = std::max(error.off, std::abs(std::sqrt(square) - radius));
  });
  error.clear = clear / all;
  return error;
}

}  // namespace

TEST_CASE("curvature by heights is exact on circles from 8 cells per radius on, also on cells that are not squares") {
  const auto coarse = of_ball<2>(10, {1, 1});
  CHECK(coarse.by_heights < 1e-6);
  CHECK(coarse.clear == 1);
  CHECK(coarse.off < 0.05);
  CHECK(of_ball<2>(40, {1, 1}).by_heights < 1e-8);
  CHECK(of_ball<2>(16, {1, 1.25}).by_heights < 1e-6);
}

TEST_CASE("curvature by heights converges with second order where the curvature changes") {
  // y = 1/2 + cos(pi x)/10 in a unit box; mean heights of the columns in closed form.
  const auto worst = [](int n) {
    const double h = 1.0 / n;
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, h));
    Cells<2> F(grid);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      // The liquid of a cell, by fine columns.
      double sum = 0;
      const int slices = 400;
      for (int i = 0; i < slices; ++i) {
        const double x = (cell[0] + (i + 0.5) / slices) * h;
        sum += std::clamp((0.5 + 0.1 * std::cos(M_PI * x)) / h - cell[1], 0.0, 1.0);
      }
      F.block(b)[o] = sum / slices;
    });
    fill_halo(grid, F, pad, all_walls<2>(Mirror::even));
    double error = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      const double* f = F.block(b) + o;
      if (!is_mixed(*f)) return;
      const double x = (cell[0] + 0.5) * h;
      const double slope = -0.1 * M_PI * std::sin(M_PI * x);
      const double exact = 0.1 * M_PI * M_PI * std::cos(M_PI * x) / std::pow(1 + slope * slope, 1.5);
      const auto kappa = height_curvature<2>(f, grid.layout().step, grid.spacing());
      REQUIRE(kappa);
      error = std::max(error, std::abs(*kappa - exact));
    });
    return error;
  };
  const double coarse = worst(16);
  const double fine = worst(64);
  MESSAGE("errors at 16 and 64 cells: ", coarse, " ", fine);
  CHECK(coarse < 0.02);
  CHECK(std::log2(coarse / fine) / 2 > 1.8);
}

TEST_CASE("curvature by heights is nearly exact on spheres, and converges fast") {
  const auto coarse = of_ball<3>(10, {1, 1, 1});
  const auto fine = of_ball<3>(20, {1, 1, 1});
  MESSAGE("errors at 10 and 20 cells per radius: ", coarse.by_heights, " ", fine.by_heights);
  CHECK(coarse.by_heights < 0.01);
  CHECK(fine.by_heights < 0.25 * coarse.by_heights);
  CHECK(coarse.clear > 0.85);
}

namespace {

/// Greatest relative error of ring_curvature where the interface of a ball about (x, 0.4 n) in the section makes
/// `exact` of the cell's place, and how many cells had clear columns. `steep`: only where upright columns alone count.
std::array<double, 2> of_rings(double x, double radius, bool within, bool steep) {
  constexpr int n = 48;
  const Grid<2> grid({0, 0}, {n, n}, partition<2>({n, n}, 1));
  const double height = 0.4 * n + 0.3;
  Cells<2> F(grid);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    // Of a cell's ring, by thin layers; on tops by thin rings.
    constexpr int layers = 2000;
    const double inner = cell[0];
    const double outer = inner + 1;
    double sum = 0;
    for (int i = 0; i < layers; ++i) {
      const double part = (i + 0.5) / layers;
      const double off = steep ? inner + part - x : cell[1] + part - height;
      const double half = std::sqrt(std::max(radius * radius - off * off, 0.0));
      if (steep) {
        const double lower = cell[1];
        const double filled = std::clamp(height + half, lower, lower + 1) - std::clamp(height - half, lower, lower + 1);
        sum += filled * (inner + part) / (inner + 0.5);
      } else {
        const double from = std::clamp(x - half, inner, outer);
        const double to = std::clamp(x + half, inner, outer);
        sum += (to * to - from * from) / (outer * outer - inner * inner);
      }
    }
    F.block(b)[o] = within ? sum / layers : 1 - sum / layers;
  });
  fill_halo(grid, F, pad, all_walls<2>(Mirror::even));
  double worst = 0;
  double found = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double* f = F.block(b) + o;
    if (!is_mixed(*f)) return;
    const Vec<2> out = direction_out<2>(f, grid.layout().step);
    if (steep && std::abs(out[0]) > 0.3 * std::abs(out[1])) return;
    const double r = cell[0] + 0.5;
    const auto kappa = ring_curvature(f, grid.layout().step, grid.spacing(), r);
    REQUIRE(kappa);
    const double exact = x == 0 ? 2 / radius : (1 + (r - x) / r) / radius;
    worst = std::max(worst, std::abs(*kappa / exact - (within ? 1 : -1)));
    ++found;
  });
  return {worst, found};
}

}  // namespace

TEST_CASE("curvature by rings is exact on spheres about the axis, and upright columns' on tori") {
  for (const bool within : {true, false}) {
    CAPTURE(within);
    const auto [ball, of_ball] = of_rings(0, 11, within, false);
    CHECK(ball < 1e-5);
    CHECK(of_ball > 30);
    const auto [torus, of_torus] = of_rings(17.3, 8, within, true);
    CHECK(torus < 1e-6);
    CHECK(of_torus > 6);
  }
}

TEST_CASE("where axes change places curvature does not jump") {
  // A parabola whose curvature changes along it, moved in small steps through the grid: at 45 degrees.
  const auto at = [](double shift) {
    const Grid<2> grid({0, 0}, {24, 24}, partition<2>({24, 24}, 1));
    Cells<2> F(grid);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      constexpr int slices = 2000;
      double sum = 0;
      for (int i = 0; i < slices; ++i) {
        const double x = cell[0] + (i + 0.5) / slices;
        sum += std::clamp(1 + 0.033 * (x - shift) * (x - shift) - cell[1], 0.0, 1.0);
      }
      F.block(b)[o] = sum / slices;
    });
    fill_halo(grid, F, pad, all_walls<2>(Mirror::even));
    // Along the line where its slope goes through 1.
    const Index<2> cell{16, static_cast<int>(1 + 0.033 * (16.5 - shift) * (16.5 - shift))};
    return height_curvature<2>(F.block(0) + grid.layout().offset(cell), grid.layout().step, grid.spacing()).value();
  };
  double greatest = 0;
  double before = at(1.0);
  for (double shift = 1.01; shift < 1.6; shift += 0.01) {
    const double now = at(shift);
    greatest = std::max(greatest, std::abs(now - before));
    before = now;
  }
  CHECK(greatest < 0.02 * std::abs(before));
}

TEST_CASE("the fitted parabola gives the curvature of a coarse ball roughly, and nothing for a speck") {
  CHECK(of_ball<2>(5, {1, 1}).fitted < 0.4);
  CHECK(of_ball<3>(5, {1, 1, 1}).fitted < 0.5);
  const Grid<2> grid({0, 0}, {8, 8}, partition<2>({8, 8}, 1));
  Cells<2> F(grid);
  F.block(0)[grid.layout().offset({4, 4})] = 0.3;
  CHECK(fitted_curvature<2>(F.block(0) + grid.layout().offset({4, 4}), grid.layout().step, grid.spacing()) == 0);
}

TEST_CASE("surface tension on a straight interface is no force at all") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
  Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  settings.surface_tension = 0.07;
  State<2> state(grid);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    state.F.block(b)[o] = covered_share<2>(BelowLevel<2>{0.41}, {cell[0] / 32.0, cell[1] / 32.0},
                                           {(cell[0] + 1) / 32.0, (cell[1] + 1) / 32.0});
  });
  fill_halo(grid, state.F, pad, all_walls<2>(Mirror::even));
  Faces<2> force{Cells<2>(grid), Cells<2>(grid)};
  Faces<2> inverse{Cells<2>(grid), Cells<2>(grid)};
  InterfaceForce<2> act(grid);
  act(grid, settings, Sheets<2>{}, state.F, state, {0, 0}, force, inverse);
  double greatest = 0;
  for (const auto& axis : force)
    for (const double a : axis.data()) greatest = std::max(greatest, std::abs(a));
  CHECK(greatest < 1e-9);
  // The density on a face is the mean of the cells beside it: full liquid and full gas away from the interface.
  CHECK(1 / inverse[1].block(0)[grid.layout().offset({3, 4})] == about(1000));
  CHECK(1 / inverse[1].block(0)[grid.layout().offset({3, 30})] == about(1));
}
