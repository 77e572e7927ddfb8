// Speed of a whole step on one core, in ns per cell and step and in "doubles": the time in units of what the machine's
// memory needs to move one double, by a triad measured in the same program.
#include <fmt/format.h>
#include <omp.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <vector>

#include "run/setup.hpp"

using namespace wavy;

namespace {

using Clock = std::chrono::steady_clock;

double seconds_since(Clock::time_point start) { return std::chrono::duration<double>(Clock::now() - start).count(); }

/// Bytes per second of a[i] = b[i] + s c[i] on arrays far larger than the caches; best of several.
double triad_bandwidth() {
  const std::size_t n = 1U << 25U;
  std::vector<double> a(n, 0.0);
  std::vector<double> b(n, 1.0);
  std::vector<double> c(n, 2.0);
  double best = 1e30;
  for (int round = 0; round < 7; ++round) {
    const auto start = Clock::now();
    const double s = 0.1 * round;
    for (std::size_t i = 0; i < n; ++i) a[i] = b[i] + s * c[i];
    best = std::min(best, seconds_since(start));
    if (a[n / 2] < 0) fmt::print("never\n");  // the loop must be done
  }
  return 3.0 * 8.0 * static_cast<double>(n) / best;
}

Setup<2> sloshing(int n) {
  Setup<2> setup;
  setup.size = setup.upper = {1, 1};
  setup.cell_size = 1.0 / n;
  setup.phases = {Phase{"water", {998.2, 1.002e-3}}, Phase{"air", {1.204, 1.813e-5}}};
  setup.fills = {{BelowLevel<2>{0.5}, 0}};
  setup.gravity = {Formula(2), Formula(-9.81)};
  return setup;
}

Setup<3> collapse(int n) {
  Setup<3> setup;
  setup.size = setup.upper = {1, 1, 1};
  setup.cell_size = 1.0 / n;
  setup.phases = {Phase{"water", {998.2, 1.002e-3}}, Phase{"air", {1.204, 1.813e-5}}};
  setup.fills = {{AlignedBox<3>{{0, 0, 0}, {0.4, 0.4, 0.6}}, 0}};
  setup.gravity = {Formula(0), Formula(0), Formula(-9.81)};
  return setup;
}

/// A lying cylinder, half full and pushed sideways; and a box of as many open cells.
template <int D>
Setup<D> lying(int n, bool round) {
  Setup<D> setup;
  setup.size.fill(1);
  if (!round) setup.size[0] = M_PI / 4;
  setup.upper = setup.size;
  setup.cell_size = 1.0 / n;
  setup.phases = {Phase{"water", {998.2, 1.002e-3}}, Phase{"air", {1.204, 1.813e-5}}};
  setup.fills = {{BelowLevel<D>{0.5}, 0}};
  for (auto& formula : setup.gravity) formula = Formula(0);
  setup.gravity[0] = Formula(2);
  setup.gravity[D - 1] = Formula(-9.81);
  if (!round) return setup;
  if constexpr (D == 2)
    setup.vessel = ball_solid<2>({0.5, 0.5}, 0.5);
  else
    setup.vessel = cylinder_solid<3>({0.5, 0, 0.5}, {0.5, 1, 0.5}, 0.5);
  return setup;
}

/// Steps until the flow has developed, then measures; returns ns per cell and step.
template <int D>
double measure(const char* name, const Setup<D>& setup, double develop, int steps, double doubles_per_ns) {
  const Grid<D> grid = make_grid(setup);
  const auto made = make_model(setup, grid);
  sharp::Model<D>& model = *made;
  model.start();
  sharp::StepLimit limit{};
  double last = 1e30;
  const auto step = [&] {
    last = std::min(model.stable_step(limit), 1.25 * last);
    return model.step(last);
  };
  int before = 0;
  while (model.state().time < develop && before < 100) {
    step();
    ++before;
  }
  std::array<double, 4> parts{};
  int iterations = 0;
  int viscous = 0;
  const auto start = Clock::now();
  for (int i = 0; i < steps; ++i) {
    const auto report = step();
    for (std::size_t p = 0; p < parts.size(); ++p) parts[p] += report.seconds[p];
    iterations += report.pressure_iterations;
    viscous += report.viscous_iterations;
  }
  const double work = static_cast<double>(open_cells(grid, model.space())) * steps;
  const double whole = 1e9 * seconds_since(start) / work;
  fmt::print(
      "{:<28} {:>7.0f} ns {:>7.0f} doubles   advection {:.0f}, viscosity {:.0f}, forces {:.0f}, pressure {:.0f} ns; "
      "{:.1f} pressure and {:.1f} viscous iterations\n",
      name, whole, whole * doubles_per_ns, 1e9 * parts[0] / work, 1e9 * parts[1] / work, 1e9 * parts[2] / work,
      1e9 * parts[3] / work, static_cast<double>(iterations) / steps, static_cast<double>(viscous) / steps);
  return whole;
}

}  // namespace

int main() {
  omp_set_num_threads(1);
  const double bandwidth = triad_bandwidth();
  const double doubles_per_ns = bandwidth / 8e9;
  fmt::print("triad {:.1f} GB/s on one core; per cell and step:\n", bandwidth / 1e9);
  measure<2>("2-D 512 x 512, sloshing", sloshing(512), 0.15, 20, doubles_per_ns);
  measure<3>("3-D 64^3, collapse", collapse(64), 0.1, 10, doubles_per_ns);
  const double one = measure<3>("3-D 128^3, collapse", collapse(128), 0.05, 5, doubles_per_ns);
  const double flat_box = measure<2>("2-D box, 402 x 512", lying<2>(512, false), 0.15, 10, doubles_per_ns);
  const double flat_round = measure<2>("2-D lying cylinder, 512", lying<2>(512, true), 0.15, 10, doubles_per_ns);
  fmt::print("cut cells, 2-D: {:.2f} times a box of as many open cells\n", flat_round / flat_box);
  const double body_box = measure<3>("3-D box, 50 x 64 x 64", lying<3>(64, false), 0.1, 10, doubles_per_ns);
  const double body_round = measure<3>("3-D lying cylinder, 64", lying<3>(64, true), 0.1, 10, doubles_per_ns);
  fmt::print("cut cells, 3-D: {:.2f} times a box of as many open cells\n", body_round / body_box);
  omp_set_num_threads(2);
  const double two = measure<3>("3-D 128^3 on two threads", collapse(128), 0.05, 5, doubles_per_ns);
  fmt::print("two threads: {:.2f} times as fast as one\n", one / two);
  return 0;
}
