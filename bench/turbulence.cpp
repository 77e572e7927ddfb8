// Speed of a step of the sharp model with turbulence, as a ratio to one without: a column of liquid that collapses in a
// box, on one core.
#include <fmt/format.h>
#include <omp.h>

#include <algorithm>

#include "base/stopwatch.hpp"
#include "mesh/cover.hpp"
#include "sharp/model.hpp"

using namespace wavy;

namespace {

constexpr int develop = 20;  // steps before any is measured
constexpr int measured = 20;

/// Of the fastest step, per cell [ns]; `law`: null for laminar flow.
template <int D>
double step_time(const Grid<D>& grid, const TurbulenceLaw* law) {
  sharp::Settings<D> settings;
  settings.liquid = {998.2, 1.002e-3};
  settings.gas = {1.204, 1.813e-5};
  for (auto& axis : settings.walls) axis = {Wall::no_slip, Wall::no_slip};
  settings.body_force = [](double) {
    Vec<D> G{};
    G[D - 1] = -9.81;
    return G;
  };
  settings.turbulence.law = law;
  settings.turbulence.start.length = 0.05;
  settings.turbulence.interface_damping = 10;
  settings.turbulence.wall_distance = [](const Vec<D>& p) {
    double y = 1;
    for (const double x : p) y = std::min({y, x, 1 - x});
    return y;
  };
  sharp::Model<D> model(grid, settings);
  Vec<D> upper;
  upper.fill(0.4);
  upper[D - 1] = 0.6;
  cover<D>(grid, model.state().F, AlignedBox<D>{{}, upper});
  model.start();
  double fastest = 1e30;
  for (int step = 0; step < develop + measured; ++step) {
    sharp::StepLimit limit{};
    const double dt = model.stable_step(limit);
    const Stopwatch watch;
    model.step(dt);
    if (step >= develop) fastest = std::min(fastest, 1e9 * watch.seconds() / static_cast<double>(grid.cell_count()));
  }
  return fastest;
}

template <int D>
void compare(const Grid<D>& grid) {
  const double laminar = step_time<D>(grid, nullptr);
  fmt::print("{} dimensions, {} cells\n  {:20} {:6.0f} ns a cell\n", D, grid.cell_count(), "laminar", laminar);
  for (const auto& law : turbulence_laws()) {
    const double turbulent = step_time<D>(grid, &law);
    fmt::print("  {:20} {:6.0f} ns a cell, {:.2f} times\n", law.name, turbulent, turbulent / laminar);
  }
}

}  // namespace

int main() {
  omp_set_num_threads(1);
  compare(Grid<2>({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 192)));
  compare(Grid<3>({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 64)));
}
