#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "mesh/cover.hpp"
#include "sharp/parts.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

template <int D>
Settings<D> two_liquids() {
  Settings<D> s;
  s.liquid = {1000, 1e-3};
  s.gas = {850, 5e-3};
  s.body_force = [](double) {
    Vec<D> G{};
    G[D - 1] = -9.81;
    return G;
  };
  return s;
}

/// Share of the denser liquid in what has come in through an opening in a side, below or above a level.
template <int D>
double share_that_came(double share, int axis, int side, double level) {
  Vec<D> size;
  size.fill(0.4);
  const Grid<D> grid({}, size, partition<D>(size, 0.02));
  Opening<D> feed;
  feed.name = "feed";
  feed.axis = axis;
  feed.side = side;
  AlignedBox<D> hole;
  hole.lower.fill(0.07);
  hole.upper.fill(0.15);
  feed.within = hole;
  feed.composition = {share, 1 - share};
  feed.flow = [](double) { return D == 2 ? 0.02 : 0.002; };
  Opening<D> vent;
  vent.name = "vent";
  vent.axis = 0;
  vent.side = 1;
  vent.pressure = [](double) { return 0.0; };
  vent.outside = Opening<D>::Outside::inside;
  Model<D> model(grid, two_liquids<D>(), {}, {feed, vent});
  cover<D>(grid, model.state().F, BelowLevel<D>{level});
  model.start();
  for (int n = 0; n < 30; ++n) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  const Throughput& throughput = model.boundary().throughput()[0];
  CHECK(throughput.in[0] + throughput.in[1] > 0);
  CHECK(throughput.out[0] + throughput.out[1] == 0);
  return throughput.in[0] / (throughput.in[0] + throughput.in[1]);
}

}  // namespace

TEST_CASE("what comes in has exactly the share that is given, whatever stands beside the opening") {
  for (const double share : {0.0, 0.2, 0.5, 0.8, 1.0})
    for (const double level : {0.03, 0.11, 0.3}) {
      CAPTURE(share);
      CAPTURE(level);
      CHECK(std::abs(share_that_came<2>(share, 0, 0, level) - share) < 1e-12);
      CHECK(std::abs(share_that_came<2>(share, 1, 1, level) - share) < 1e-12);
      CHECK(std::abs(share_that_came<2>(share, 1, 0, level) - share) < 1e-12);
    }
  for (const double share : {0.2, 0.8}) {
    CHECK(std::abs(share_that_came<3>(share, 0, 0, 0.11) - share) < 1e-12);
    CHECK(std::abs(share_that_came<3>(share, 2, 1, 0.11) - share) < 1e-12);
  }
}

TEST_CASE("a submerged outlet in a side lets out what is fed, and nothing comes back through it") {
  using Outside = Opening<2>::Outside;
  const auto exchanged = [](Outside outside) {  // over what is fed
    const Vec<2> size{0.6, 0.4};
    const Grid<2> grid({}, size, partition<2>(size, 0.02));
    Opening<2> feed;
    feed.name = "feed";
    feed.within = AlignedBox<2>{{0, 0.06}, {0, 0.14}};
    feed.composition = {1, 0};
    feed.flow = [](double) { return 0.004; };
    Opening<2> outlet;
    outlet.name = "outlet";
    outlet.side = 1;
    outlet.within = AlignedBox<2>{{0, 0.06}, {0, 0.26}};
    outlet.pressure = [](double) { return 0.0; };
    outlet.outside = outside;
    outlet.share_outside = true;
    outlet.outside_level = 0.4;
    Settings<2> settings = two_liquids<2>();
    settings.gas = {1.2, 1.8e-5};
    Model<2> model(grid, settings, {}, {feed, outlet});
    cover<2>(grid, model.state().F, BelowLevel<2>{1});
    model.start();
    while (model.state().time < 1) {
      StepLimit limit{};
      model.step(model.stable_step(limit));
    }
    const Throughput& out = model.boundary().throughput()[1];
    CHECK(out.out[0] + out.out[1] - out.in[0] - out.in[1] == about(0.004 * model.state().time).epsilon(1e-6));
    return (out.in[0] + out.in[1]) / 0.004;
  };
  CHECK(exchanged(Outside::inside) < 1e-3);
  CHECK(exchanged(Outside::liquid) < 1e-3);
  CHECK(exchanged(Outside::level) < 1e-3);
  CHECK(exchanged(Outside::air) > 1);  // air at rest weighs the same at every height: in above, out below
}
