// A half and a quarter of a vessel with bubbles whose rest is the same turned, against the whole.
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

/// Bubbles in water that turns, more of them in clouds: two that half a turn exchanges, or four.
struct Vessel {
  Grid<3> grid;
  Model<3> model;
  bool four = false;

  Vessel(Turn turn, bool four_clouds, const Settings<3>& settings)
      : grid(turned_part::grid_of<3>(0.2, 0.2, 0.2 / 16, turn)), model(grid, settings), four(four_clouds) {
    State<3>& state = model.state();
    for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t o, const Index<3>&) {
      const Vec<3> x = cell_middle<3>(grid, b, o);
      const double swirl = 5 * std::max(0.0, 1 - 100 * (x[0] * x[0] + x[1] * x[1]));
      state.a[1].block(b)[o] = share(x);
      state.a[0].block(b)[o] = 1 - state.a[1].block(b)[o];
      const Vec<2> stirring = turned_part::stirring<3>(x, four);
      for (auto& u : state.u)
        for (std::size_t c = 0; c < 2; ++c) u[c].block(b)[o] = swirl * stirring[c];
    });
    model.start();
  }
  [[nodiscard]] double share(const Vec<3>& x) const {
    const double xy = x[0] * x[1];
    const double squares = x[0] * x[0] - x[1] * x[1];
    return 0.1 + (four ? 3e2 * xy * squares : 3 * (squares + xy)) * std::sin(M_PI * x[2] / 0.2);
  }
};

}  // namespace

TEST_CASE(
    "bubbles in a part of a vessel of water that turns go as in the whole, with side forces, laminar and turbulent") {
  for (const Turn turn : {Turn::half, Turn::quarter})
    for (const bool turbulent : {false, true}) {
      CAPTURE(turbulent);
      const bool four = turn == Turn::quarter;
      CAPTURE(four);
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
      Vessel whole(Turn::none, four, settings);
      Vessel part(turn, four, settings);
      REQUIRE((four ? 4 : 2) * part.grid.cell_count() == whole.grid.cell_count());
      for (int step = 0; step < 10; ++step) {
        StepLimit limit{};
        const double dt = whole.model.stable_step(limit);
        CHECK(part.model.stable_step(limit) == about(dt).epsilon(1e-9));
        whole.model.step(dt);
        part.model.step(dt);
      }
      const auto apart = [&](const Cells<3>& of_part, const Cells<3>& of_whole) {
        return difference(part.grid, of_part, whole.grid, of_whole);
      };
      // What friction is solved for bounds what is alike where eddies are thick.
      const double bar = turbulent ? 1e-6 : 1e-9;
      for (std::size_t i = 0; i < 2; ++i) {
        CHECK(apart(part.model.state().a[i], whole.model.state().a[i]) < bar);
        for (std::size_t c = 0; c < 3; ++c) CHECK(apart(part.model.state().u[i][c], whole.model.state().u[i][c]) < bar);
      }
      double moved = 0;  // the clouds
      for_cells_in_order<3>(part.grid, [&](int b, std::ptrdiff_t o, const Index<3>&) {
        const double start = part.share(cell_middle<3>(part.grid, b, o));
        moved = std::max(moved, std::abs(part.model.state().a[1].block(b)[o] - start));
      });
      CHECK(moved > 1e-3);
    }
}
