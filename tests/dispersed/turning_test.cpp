// Solids that turn through several phases, and frames that they are seen from.
#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <optional>

#include "about.hpp"
#include "geometry/solids.hpp"
#include "in_drum.hpp"
#include "validation/eulerian_flows.hpp"

using namespace wavy;
using namespace wavy::dispersed;
using namespace wavy::eulerian;
using in_drum::let_turn;
using in_drum::R;

namespace {

constexpr double pi = std::numbers::pi;
constexpr double omega = 2;

/// Oil in a round vessel of radius R, with as much air in it as is laid there.
Settings<2> oil_and_air(double viscosity) {
  auto settings = bodies_in_water<2>(air, 2e-3, 0.03, drag_by("schiller_naumann"));
  settings.phases[0].fluid = {1000, viscosity};
  settings.walls = all<2>(Wall::no_slip);
  settings.body_force = [](double) { return Vec<2>{}; };
  return settings;
}

constexpr double largest_step = 0.01;  // [s]

/// A share of air everywhere.
struct InDrum : in_drum::Run<Model<2>, StepLimit> {
  InDrum(int cells, Settings<2> settings, double share) : Run(cells, std::move(settings)) {
    auto& a = model.state().a;
    for (double& f : a[0].data()) f = 1 - share;
    for (double& f : a[1].data()) f = share;
    model.start();
  }
};

/// What may turn in time or stand still in a frozen frame.
std::optional<double> at_rest(bool frozen) { return frozen ? std::optional(0.0) : std::nullopt; }

}  // namespace

TEST_CASE("a rod that turns in a drum takes Couette's torque through a carrier and what it carries") {
  const double mu = 5;
  const double r = 0.5 * R;
  const double couette = 4 * pi * mu * omega * r * r * R * R / (R * R - r * r);
  Settings<2> alone = oil_and_air(mu);
  let_turn(alone, ball_solid<2>({R, R}, r), omega);
  InDrum oil_alone(48, std::move(alone), 0);
  oil_alone.run_until(1, largest_step);
  CHECK(oil_alone.torque() == about(couette).epsilon(0.02));
  // What bubbles take of the room carries no stress.
  Settings<2> with = oil_and_air(mu);
  let_turn(with, ball_solid<2>({R, R}, r), omega);
  InDrum bubbly(48, std::move(with), 0.1);
  bubbly.run_until(1, largest_step);
  CHECK(bubbly.torque() == about(0.9 * couette).epsilon(0.02));
}

TEST_CASE("a paddle in a frozen frame asks for the torque that it takes when it turns") {
  const auto torque = [&](std::optional<double> frozen_at) {
    Settings<2> settings = oil_and_air(5);
    let_turn(settings, box_solid<2>({0.5 * R, 0.9 * R}, {1.5 * R, 1.1 * R}), omega, frozen_at);
    InDrum own(48, std::move(settings), 0);
    own.run_until(1, largest_step);
    return own.torque();
  };
  const double turning = torque({});
  CHECK(turning > 0);
  for (const double position : {0.0, 0.4}) CHECK(torque(position) == about(turning).epsilon(0.03));
}

TEST_CASE("a thin paddle that stands as a sheet takes the torque of a thick one that turns in this model too") {
  const auto torque = [&](int cells, double thickness, std::optional<double> frozen_at) {
    Settings<2> settings = oil_and_air(0.2);
    const double cut = frozen_at ? 0.0 : 0.25 * 2 * R / cells;
    let_turn(settings, box_solid<2>({0.5 * R + cut, R - 0.5 * thickness}, {1.5 * R - cut, R + 0.5 * thickness}), omega,
             frozen_at);
    if (frozen_at) in_drum::let_stand_as_sheet(settings);
    InDrum own(cells, std::move(settings), 0);
    own.run_until(2, largest_step);
    return own.torque();
  };
  const double turning = torque(96, 1.5 * 2 * R / 96, {});
  CHECK(turning > 0);
  for (const double position : {0.0, 0.26, pi / 4}) {
    INFO("at " << position << " rad");
    CHECK(torque(48, 0.02 * 2 * R / 48, position) == about(turning).epsilon(0.12));
  }
}

TEST_CASE("a paddle stirs bubbles: volumes hold, fractions stay within bounds, bubbles go to the axis") {
  for (const bool frozen : {false, true}) {
    Settings<2> settings = oil_and_air(1e-3);
    let_turn(settings, box_solid<2>({0.5 * R, 0.9 * R}, {1.5 * R, 1.1 * R}), omega, at_rest(frozen));
    InDrum own(40, std::move(settings), 0.05);
    const double before = own.model.volume(1);
    own.run_until(4, largest_step);
    INFO(frozen);
    CHECK(own.model.volume(1) == about(before).epsilon(1e-11));
    const Mixture all = mixture(own.model);
    CHECK(all.least > -1e-11);
    CHECK(all.sum_error < 1e-11);
    double inner = 0;
    double room = 0;
    for_cells_in_order<2>(own.grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      const Vec<2> middle = cell_middle<2>(own.grid, b, at);
      const double open = open_share(own.model.space(), b, at);
      if (std::hypot(middle[0] - R, middle[1] - R) > 0.5 * R || open == 0) return;
      inner += open * own.model.state().a[1].block(b)[at];
      room += open;
    });
    CHECK(inner / room > 1.05 * 0.05);
    // Nothing is faster than what drives it, but for what is thrown off the tips.
    CHECK(own.model.greatest_speed() < 2 * omega * 0.51 * R);
  }
}

TEST_CASE("a model that is brought back goes on with what turns to the same bits") {
  for (const bool frozen : {false, true}) {
    const auto made = [&] {
      Settings<2> settings = oil_and_air(0.1);
      let_turn(settings, box_solid<2>({0.5 * R, 0.9 * R}, {1.5 * R, 1.1 * R}), omega, at_rest(frozen));
      return settings;
    };
    InDrum whole(24, made(), 0.05);
    for (int step = 0; step < 6; ++step) whole.model.step(5e-3);
    Archive kept;
    whole.model.archive(kept);
    for (int step = 0; step < 6; ++step) whole.model.step(5e-3);
    InDrum later(24, made(), 0.05);
    Archive back(kept.numbers(), kept.texts());
    later.model.archive(back);
    for (int step = 0; step < 6; ++step) later.model.step(5e-3);
    CHECK(later.torque() == whole.torque());
    CHECK(later.model.state().p.data() == whole.model.state().p.data());
  }
}
