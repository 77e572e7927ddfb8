// Speed of a whole step on one core, in ns per cell and step and in "doubles": the time in units of what the machine's
// memory needs to move one double, by a triad measured in the same program.
#include <fmt/format.h>
#include <omp.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/stopwatch.hpp"
#include "run/setup.hpp"

using namespace wavy;

namespace {

/// Bytes per second of a[i] = b[i] + s c[i] on arrays far larger than the caches; best of several.
double triad_bandwidth() {
  const std::size_t n = 1U << 25U;
  std::vector<double> a(n, 0.0);
  std::vector<double> b(n, 1.0);
  std::vector<double> c(n, 2.0);
  double best = 1e30;
  for (int round = 0; round < 7; ++round) {
    const Stopwatch watch;
    const double s = 0.1 * round;
    for (std::size_t i = 0; i < n; ++i) a[i] = b[i] + s * c[i];
    best = std::min(best, watch.seconds());
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

/// One setup under way.
template <int D>
class Bench {
 public:
  /// Steps until the flow has developed.
  Bench(const Setup<D>& setup, double develop)
      : setup_(setup), grid_(make_grid(setup_)), model_(make_sharp_model(setup_, grid_)) {
    model_->start();
    for (int i = 0; i < 100 && model_->state().time < develop; ++i) step();
  }
  /// Takes a step and keeps the least times of all so far: what else the machine does takes none away. Returns the time
  /// of this one [ns per open cell].
  double measure() {
    const Stopwatch watch;
    const auto report = step();
    const double per_cell = 1e9 / static_cast<double>(open_cells(grid_, model_->space()));
    const double time = per_cell * watch.seconds();
    least_ = std::min(least_, time);
    for (std::size_t p = 0; p < parts_.size(); ++p) parts_[p] = std::min(parts_[p], per_cell * report.seconds[p]);
    ++steps_;
    pressure_ += report.pressure_iterations;
    viscous_ += report.viscous_iterations;
    return time;
  }
  [[nodiscard]] double least() const { return least_; }  ///< of a step [ns per open cell]
  void print(const char* name, double doubles_per_ns) const {
    fmt::print(
        "{:<28} {:>7.0f} ns {:>7.0f} doubles   advection {:.0f}, viscosity {:.0f}, forces {:.0f}, pressure {:.0f} ns; "
        "{:.1f} pressure and {:.1f} viscous iterations\n",
        name, least_, least_ * doubles_per_ns, parts_[0], parts_[1], parts_[2], parts_[3],
        static_cast<double>(pressure_) / steps_, static_cast<double>(viscous_) / steps_);
  }

 private:
  sharp::StepReport step() {
    sharp::StepLimit limit{};
    last_ = std::min(model_->stable_step(limit), 1.25 * last_);
    return model_->step(last_);
  }
  Setup<D> setup_;
  Grid<D> grid_;
  std::unique_ptr<sharp::Model<D>> model_;
  double last_ = 1e30;
  double least_ = 1e30;
  std::array<double, 4> parts_{1e30, 1e30, 1e30, 1e30};
  int steps_ = 0;
  int pressure_ = 0;
  int viscous_ = 0;
};

/// Returns ns per cell and step.
template <int D>
double measure(const char* name, const Setup<D>& setup, double develop, int steps, double doubles_per_ns) {
  Bench<D> bench(setup, develop);
  for (int i = 0; i < steps; ++i) bench.measure();
  bench.print(name, doubles_per_ns);
  return bench.least();
}

/// A lying cylinder and a box of as many open cells, step by step in turn: the median of their times' ratio feels
/// neither what else the machine does nor single steps with less for the pressure solver to do.
template <int D>
void compare_cut(int cells, double develop, int steps, double doubles_per_ns) {
  Bench<D> box(lying<D>(cells, false), develop);
  Bench<D> round(lying<D>(cells, true), develop);
  std::vector<double> ratio;
  for (int i = 0; i < steps; ++i) {
    const double plain = box.measure();
    ratio.push_back(round.measure() / plain);
  }
  box.print(fmt::format("{}-D box, {:.0f} x {}", D, cells * M_PI / 4, cells).c_str(), doubles_per_ns);
  round.print(fmt::format("{}-D lying cylinder, {}", D, cells).c_str(), doubles_per_ns);
  std::ranges::sort(ratio);
  fmt::print("cut cells, {}-D: {:.2f} times a box of as many open cells\n", D, ratio[ratio.size() / 2]);
}

}  // namespace

int main() {
  omp_set_num_threads(1);
  const double bandwidth = triad_bandwidth();
  const double doubles_per_ns = bandwidth / 8e9;
  fmt::print("triad {:.1f} GB/s on one core; least times per cell and step:\n", bandwidth / 1e9);
  measure<2>("2-D 512 x 512, sloshing", sloshing(512), 0.15, 20, doubles_per_ns);
  measure<3>("3-D 64^3, collapse", collapse(64), 0.1, 10, doubles_per_ns);
  const double one = measure<3>("3-D 128^3, collapse", collapse(128), 0.05, 5, doubles_per_ns);
  compare_cut<2>(512, 0.15, 20, doubles_per_ns);
  compare_cut<3>(64, 0.1, 40, doubles_per_ns);
  compare_cut<3>(96, 0.05, 10, doubles_per_ns);
  omp_set_num_threads(2);
  const double two = measure<3>("3-D 128^3 on two threads", collapse(128), 0.05, 5, doubles_per_ns);
  fmt::print("two threads: {:.2f} times as fast as one\n", one / two);
  return 0;
}
