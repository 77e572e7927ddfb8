// Half of a vessel with bubbles whose other half is the same turned, against the whole.
#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "about.hpp"
#include "turned_part.hpp"
#include "validation/eulerian_flows.hpp"

using namespace wavy;
using namespace wavy::dispersed;
using namespace wavy::eulerian;

namespace {

/// Bubbles in water that turns, more of them in two clouds.
struct Vessel {
  Grid<3> grid;
  Model<3> model;

  Vessel(bool half, const Settings<3>& settings)
      : grid(turned_part::grid_of<3>(0.2, 0.2, 0.2 / 16, half)), model(grid, settings) {
    State<3>& state = model.state();
    for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>&) {
      const Vec<3> x = cell_middle<3>(grid, b, o);
      const double clouds = 100 * (x[0] * x[0] - x[1] * x[1] + x[0] * x[1]) * std::sin(M_PI * x[2] / 0.2);
      const double swirl = 5 * std::max(0.0, 1 - 100 * (x[0] * x[0] + x[1] * x[1]));
      state.a[1].block(b)[o] = 0.1 + 0.03 * clouds;
      state.a[0].block(b)[o] = 1 - state.a[1].block(b)[o];
      for (auto& u : state.u) {
        u[0].block(b)[o] = -swirl * (x[1] + 0.3 * x[0]);
        u[1].block(b)[o] = swirl * (1.4 * x[0] + 0.2 * x[1]);
      }
    });
    model.start();
  }
};

}  // namespace

TEST_CASE("bubbles in half a vessel of water that turns go as in the whole, with side forces, laminar and turbulent") {
  for (const bool turbulent : {false, true}) {
    auto settings = bodies_in_water<3>(air, 3e-3, 0.0728, drag_by("grace"));
    settings.pairs[0].virtual_mass = 0.5;
    settings.pairs[0].lift = find_law(lift_laws(), "tomiyama");
    settings.projection_tolerance = 1e-13;
    if (turbulent) {
      settings.turbulence.law = &k_epsilon;
      settings.turbulence.start = {0.05, 0.01};
      settings.turbulence.start_speed = 0.3;
      settings.turbulence.wall_distance = [](const Vec<3>& x) {
        return std::min({0.1 - std::abs(x[0]), 0.1 - std::abs(x[1]), x[2], 0.2 - x[2]});
      };
    }
    Vessel whole(false, settings);
    Vessel half(true, settings);
    for (int step = 0; step < 10; ++step) {
      StepLimit limit{};
      const double dt = whole.model.stable_step(limit);
      CHECK(half.model.stable_step(limit) == about(dt).epsilon(1e-9));
      whole.model.step(dt);
      half.model.step(dt);
    }
    const auto apart = [&](const Cells<3>& of_half, const Cells<3>& of_whole) {
      return difference(half.grid, of_half, whole.grid, of_whole);
    };
    // What friction is solved for bounds what is alike where eddies are thick.
    const double bar = turbulent ? 1e-6 : 1e-9;
    for (std::size_t i = 0; i < 2; ++i) {
      CHECK(apart(half.model.state().a[i], whole.model.state().a[i]) < bar);
      for (std::size_t c = 0; c < 3; ++c) CHECK(apart(half.model.state().u[i][c], whole.model.state().u[i][c]) < bar);
    }
    double moved = 0;  // the clouds
    for_cells_in_order<3>(half.grid, [&](int b, std::ptrdiff_t o, const Index<3>&) {
      const Vec<3> x = cell_middle<3>(half.grid, b, o);
      const double clouds = 100 * (x[0] * x[0] - x[1] * x[1] + x[0] * x[1]) * std::sin(M_PI * x[2] / 0.2);
      moved = std::max(moved, std::abs(half.model.state().a[1].block(b)[o] - 0.1 - 0.03 * clouds));
    });
    CHECK(moved > 1e-3);
  }
}
