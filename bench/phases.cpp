// Speed of a step of the Eulerian model, as a ratio to one of the sharp model: a column of liquid that collapses in a
// box, on the same grid, on one core; and on two.
#include <fmt/format.h>
#include <omp.h>

#include <algorithm>
#include <memory>
#include <vector>

#include "base/stopwatch.hpp"
#include "dispersed/model.hpp"
#include "mesh/cover.hpp"
#include "sharp/model.hpp"

using namespace wavy;

namespace {

constexpr double gravity = 9.81;
constexpr int develop = 20;  // steps before any is measured
constexpr int measured = 30;

struct Cost {
  double nanoseconds = 1e30;  ///< of the fastest step, per cell
  double iterations = 0;      ///< of the pressure, per step
};

template <class Model, class Limit>
Cost cost_of(Model& model, Limit limit) {
  Cost cost;
  model.start();
  for (int step = 0; step < develop + measured; ++step) {
    const double dt = model.stable_step(limit);
    const Stopwatch watch;
    const auto report = model.step(dt);
    const double time = 1e9 * watch.seconds() / static_cast<double>(model.grid().cell_count());
    if (step < develop) continue;
    cost.nanoseconds = std::min(cost.nanoseconds, time);
    cost.iterations += static_cast<double>(report.pressure_iterations) / measured;
  }
  return cost;
}

template <int D>
Vec<D> downwards(double) {
  Vec<D> G{};
  G[D - 1] = -gravity;
  return G;
}

template <int D>
Cells<D> column(const Grid<D>& grid) {
  Cells<D> F(grid);
  Vec<D> upper;
  upper.fill(0.4);
  upper[D - 1] = 0.6;
  cover<D>(grid, F, AlignedBox<D>{{}, upper});
  return F;
}

template <int D>
Cost sharp_step(const Grid<D>& grid) {
  sharp::Settings<D> settings;
  settings.liquid = {998.2, 1.002e-3};
  settings.gas = {1.204, 1.813e-5};
  settings.body_force = downwards<D>;
  sharp::Model<D> model(grid, settings);
  model.state().F = column(grid);
  return cost_of(model, sharp::StepLimit{});
}

template <int D>
Cost eulerian_step(const Grid<D>& grid, int phases) {
  using namespace dispersed;
  const Drag drops{find_law(drag_laws(), "schiller_naumann")};
  const Drag bubbles{find_law(drag_laws(), "grace")};
  dispersed::Settings<D> settings;
  const dispersed::Phase water{"water", {998.2, 1.002e-3}, true, 1e-3};
  const dispersed::Phase oil{"oil", {885, 2.1e-3}, true, 1e-3};
  const dispersed::Phase air{"air", {1.204, 1.813e-5}, true, 4e-3};
  settings.phases = phases == 2 ? std::vector{water, air} : std::vector{water, oil, air};
  settings.pairs = {{0, phases - 1, 0.0728, drops, bubbles, 0.5}};
  if (phases == 3) {
    settings.pairs.push_back({0, 1, 0.025, drops, drops, 0.5});
    settings.pairs.push_back({1, 2, 0.03, drops, bubbles, 0.5});
  }
  settings.body_force = downwards<D>;
  dispersed::Model<D> model(grid, settings);
  const Cells<D> F = column(grid);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>& cell) {
    const bool upper = phases == 3 && cell[D - 1] > grid.cells()[D - 1] / 3;
    model.state().a[upper ? 1 : 0].block(b)[at] = F.block(b)[at];
    model.state().a.back().block(b)[at] = 1 - F.block(b)[at];
  });
  return cost_of(model, dispersed::StepLimit{});
}

template <int D>
void compare(const Grid<D>& grid) {
  omp_set_num_threads(1);
  const Cost sharp = sharp_step(grid);
  fmt::print("{} dimensions, {} cells\n  sharp    {:6.0f} ns a cell, {:.1f} iterations of the pressure\n", D,
             grid.cell_count(), sharp.nanoseconds, sharp.iterations);
  for (const int phases : {2, 3}) {
    const Cost one = eulerian_step(grid, phases);
    omp_set_num_threads(2);
    const Cost two = eulerian_step(grid, phases);
    omp_set_num_threads(1);
    fmt::print(
        "  {} phases {:6.0f} ns a cell, {:.1f} iterations: {:.2f} times a sharp step; two threads {:.2f} times as "
        "fast\n",
        phases, one.nanoseconds, one.iterations, one.nanoseconds / sharp.nanoseconds,
        one.nanoseconds / two.nanoseconds);
  }
}

}  // namespace

int main() {
  compare(Grid<2>({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 256)));
  compare(Grid<3>({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 48)));
}
