// Bubbles and drops that rise or settle in a still column, against the laws by which they do.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

#include "dispersed/model.hpp"

using namespace wavy;
using namespace wavy::dispersed;

namespace {

constexpr double gravity = 9.81;

/// Water, and bubbles or drops in it.
template <int D>
Settings<D> bodies_in_water(const Properties& bodies, double diameter, double tension, const Drag& drag) {
  Settings<D> settings;
  Phase water{"water", {998.2, 1.002e-3}, true, 0};
  Phase other{"bodies", bodies, false, diameter};
  settings.phases = {water, other};
  Pair pair;
  pair.surface_tension = tension;
  pair.second_in_first = drag;
  settings.pairs = {pair};
  settings.body_force = [](double) {
    Vec<D> G{};
    G[D - 1] = -gravity;
    return G;
  };
  return settings;
}

}  // namespace

TEST_CASE("bodies of any size reach the terminal speed of their drag law, where they are and where none are") {
  struct Case {
    const char* law;
    Properties fluid;
    double tension, diameter;
  };
  const Properties air{1.204, 1.813e-5};
  const Properties oil{885, 2.1e-3};
  std::vector<Case> cases;
  for (const auto& law : drag_laws()) {
    for (const double d : {1e-3, 3e-3, 8e-3}) cases.push_back({law.name.data(), air, 0.0728, d});
    for (const double d : {1e-4, 1e-3, 3e-3}) cases.push_back({law.name.data(), oil, 0.025, d});
  }
  const Grid<2> grid({0, 0}, {0.04, 0.6}, partition<2>({0.04, 0.6}, 0.01));
  for (const auto& [law, fluid, tension, diameter] : cases) {
    Drag drag{find_law(drag_laws(), law)};
    auto settings = bodies_in_water<2>(fluid, diameter, tension, drag);
    INFO(std::string(law) << ", d = " << diameter << " m, " << fluid.density << " kg/m3");
    for (const double share : {0.0, 0.05}) {
      settings.walls = {{{Wall::slip, Wall::slip}, {Wall::slip, Wall::slip}}};
      Model<2> model(grid, settings);
      for (auto& value : model.state().a[0].data()) value = 1 - share;
      for (auto& value : model.state().a[1].data()) value = share;
      model.start();
      StepLimit limit{};
      while (model.state().time < 0.6) model.step(std::min(0.02, model.stable_step(limit)));
      DispersedBodies of{998.2, 1.002e-3, fluid.density, fluid.viscosity, tension, diameter, gravity, 0, share};
      const double wanted = terminal_slip(drag, of);
      const auto& s = model.state();
      // In the middle, before the ends are felt.
      const CellPlace at = CellMap<2>(grid)({2, 30});
      const double slip = s.u[1][1].block(at.block)[at.at] - s.u[0][1].block(at.block)[at.at];
      CHECK(slip == doctest::Approx(wanted).epsilon(1e-3));
    }
  }
}
