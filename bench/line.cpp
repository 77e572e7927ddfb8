// How long a line takes: two hours of four kilometres with a riser of 100 m in sections of 20 m, slugs followed, on one
// core; and how that grows with length and time.
#include <fmt/format.h>

#include "base/stopwatch.hpp"
#include "line/model.hpp"

using namespace wavy::line;

namespace {

/// Seconds of computing.
double run(double length, double until, bool follow) {
  constexpr double diameter = 0.2;
  constexpr double section = 20;
  constexpr double height = 100;
  const double flat = length - height;
  const auto sections = straight_sections({{flat, -20 / flat}, {height, 1}}, diameter, 0, section);
  Settings settings;
  settings.outlet_pressure = [](double) { return 1e6; };
  settings.follow_slugs = follow;
  Source source;
  source.liquid = [](double) { return 12.0; };
  source.gas = [](double) { return 0.35; };
  Model model(sections, {source}, {}, settings);
  model.start_steady();
  const wavy::Stopwatch watch;
  while (model.state().time < until) model.step(model.stable_step());
  return watch.seconds();
}

}  // namespace

int main() {
  const double once = run(4000, 7200, true);
  fmt::print("4 km, two hours, slugs followed: {:.2f} s\n", once);
  fmt::print("4 km, two hours, averages: {:.2f} s\n", run(4000, 7200, false));
  fmt::print("twice the time: {:.2f} times; twice the length: {:.2f} times\n", run(4000, 14400, true) / once,
             run(8000, 7200, true) / once);
}
