#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "run/still_tank.hpp"
#include "run/vessel_run.hpp"

using namespace wavy;

namespace {

Setup<2> tank() {
  Setup<2> setup = still_tank({1.0, 0.8}, 0.4, 0.025);
  setup.thickness = 0.5;
  setup.acceleration = {Formula("pulse(t, 0.1 s, 0.3 s, -1 m/s^2)", {}, dimension::acceleration, {}), Formula(0)};
  setup.schedule.until = 1;
  setup.schedule.snapshot_interval = 0.3;
  return setup;
}

struct Result {
  std::vector<double> snapshot_times;
  std::vector<std::vector<double>> rows;
  VesselLedger ledger;
};

Result run(const Setup<2>& setup, int stop_after = 1 << 30) {
  Result result;
  const Grid<2> grid = make_grid(setup);
  sharp::Model<2> model(grid, model_settings(setup));
  fill(setup, grid, model.space(), {&model.state().F});
  VesselRun<2> run(setup, model);
  Sinks<VesselRun<2>> sinks;
  sinks.history = [&](const std::vector<double>& row) { result.rows.push_back(row); };
  sinks.snapshot = [&](const VesselRun<2>& now, int number) {
    CHECK(number == static_cast<int>(result.snapshot_times.size()));
    result.snapshot_times.push_back(now.time());
  };
  sinks.stop = [&] { return static_cast<int>(result.rows.size()) > stop_after; };
  simulate(run, sinks);
  result.ledger = run.ledger();
  return result;
}

}  // namespace

TEST_CASE("a run lands exactly on its snapshots and its end, and its ledger adds up") {
  const Result result = run(tank());
  CHECK(result.snapshot_times == std::vector<double>{0, 0.3, 0.6, 3 * 0.3, 1});
  const VesselLedger& ledger = result.ledger;
  CHECK(ledger.ended_at == 1);
  CHECK(ledger.steps + 1 == static_cast<long>(result.rows.size()));
  long ruled = 0;
  for (const auto& [name, count] : ledger.limits) ruled += count;
  CHECK(ruled == ledger.steps);
  CHECK(ledger.volume_start[0] == about(0.2));
  CHECK(std::abs(ledger.drift(0)) < 1e-12);
  CHECK(std::abs(ledger.drift(1)) < 1e-12);
  CHECK(ledger.unconverged == 0);
  CHECK(ledger.greatest_divergence < 2 * tank().projection_tolerance);
  CHECK(ledger.greatest_smeared < 1e-3);
}

TEST_CASE("a run that goes on tells from when, so that the time left follows from the pace since then") {
  const Setup<2> setup = tank();
  const Grid<2> grid = make_grid(setup);
  const auto go = [&](double until, Archive* kept) {
    Setup<2> own = setup;
    own.schedule.until = until;
    const auto model = make_sharp_model(own, grid);
    VesselRun<2> run(own, *model);
    Sinks<VesselRun<2>> sinks;
    std::pair<Progress, Archive> result;
    sinks.history = [](const std::vector<double>&) {};
    sinks.snapshot = [](const VesselRun<2>&, int) {};
    sinks.progress = [&](const Progress& p) { result.first = p; };
    sinks.checkpoint = [&](Archive& a) { result.second = a; };
    simulate(run, sinks, kept);
    return result;
  };
  const auto [first, checkpoint] = go(0.3, nullptr);
  CHECK(first.from == 0);
  CHECK(first.time == 0.3);
  Archive kept(checkpoint.numbers(), checkpoint.texts());
  const auto second = go(0.4, &kept).first;
  CHECK(second.from == 0.3);
  CHECK(second.time == 0.4);
  CHECK(second.steps > first.steps);
}

TEST_CASE("a run that is asked to stop closes its books") {
  const Result result = run(tank(), 5);
  CHECK(result.ledger.interrupted);
  CHECK(result.ledger.steps == 5);
  CHECK(result.snapshot_times.back() == result.ledger.ended_at);
  CHECK(result.ledger.volume_now[0] == about(0.2));
}

TEST_CASE("gauges read level, pressure, volume and speed of a tank at rest") {
  Setup<2> setup = tank();
  setup.acceleration = {Formula(0), Formula(0)};
  setup.schedule.until = 0.05;
  setup.gauges = {{"level", "level", {0.333, 0}, 0},
                  {"floor", "pressure", {0.5, 0}, 0},
                  {"middle", "pressure", {0.987, 0.2}, 0},
                  {"gas", "volume", {}, 1},
                  {"speed", "greatest_speed", {}, 0}};
  const Result result = run(setup);
  const auto& row = result.rows.back();
  CHECK(row[0] == 0.05);
  CHECK(row[1] == about(0.4).epsilon(1e-9));
  // Heads of water above the gauge and of half the gas space, whose mean is the zero of pressures.
  const double gas = 1.2 * 9.81 * 0.2;
  CHECK(row[2] == about(1000 * 9.81 * 0.4 + gas).epsilon(1e-6));
  CHECK(row[3] == about(1000 * 9.81 * 0.2 + gas).epsilon(1e-6));
  CHECK(row[4] == about(0.2));
  CHECK(row[5] < 1e-6);
}

TEST_CASE("a step below the smallest allowed one fails with time and remedy") {
  Setup<2> setup = tank();
  setup.schedule.smallest_step = 0.9;
  CHECK_THROWS_WITH_AS(run(setup), doctest::Contains("smallest_step"), Error);
}

TEST_CASE("a run whose speed leaps far beyond what drives it stops with place and time") {
  // One cell's fluid is kicked from outside the model, once: what drives the tank makes gas some 100 m/s fast at most.
  const auto kicked = [](double speed) {
    const Setup<2> setup = tank();
    const Grid<2> grid = make_grid(setup);
    sharp::Model<2> model(grid, model_settings(setup));
    fill(setup, grid, model.space(), {&model.state().F});
    VesselRun<2> run(setup, model);
    Sinks<VesselRun<2>> sinks;
    int steps = 0;
    sinks.history = [&](const std::vector<double>&) {
      if (++steps != 30) return;
      const auto [block, at] = CellMap<2>(grid)({12, 28});
      model.state().face_u[0].block(block)[at] = speed;
      model.state().u[0].block(block)[at] = speed;
    };
    sinks.snapshot = [](const VesselRun<2>&, int) {};
    simulate(run, sinks);
    return run.ledger().ended_at;
  };
  CHECK(kicked(100) == 1);
  try {
    kicked(2000);
    FAIL("nothing was said");
  } catch (const Error& error) {
    const std::string what = error.what();
    INFO(what);
    CHECK(what.find("diverged at t = 0.") != std::string::npos);
    CHECK(what.find("near (0.3125, 0.7125) m") != std::string::npos);
    CHECK(what.find("2e+03 m/s") != std::string::npos);
  }
}

TEST_CASE("later fills lie over earlier ones, with exact volumes") {
  Setup<2> setup = tank();
  setup.fills = {
      {BelowLevel<2>{0.4}, 0}, {Ball<2>{{0.5, 0.2}, 0.11}, 1}, {AlignedBox<2>{{0.1, 0.61}, {0.33, 0.77}}, 0}};
  const Grid<2> grid = make_grid(setup);
  Cells<2> F(grid);
  fill(setup, grid, OpenSpace<2>{}, {&F});
  double sum = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) { sum += F.block(b)[o]; });
  CHECK(sum * grid.cell_volume() == about(0.4 - M_PI * 0.11 * 0.11 + 0.23 * 0.16).epsilon(1e-12));
}

TEST_CASE("liquid far from any interface in mixed cells counts as smeared, a sharp interface does not") {
  const Setup<2> setup = tank();
  const Grid<2> grid = make_grid(setup);
  Cells<2> F(grid);
  fill(setup, grid, OpenSpace<2>{}, {&F});
  CHECK(smeared_share<2>(grid, OpenSpace<2>{}, F) == 0);
  F.block(0)[grid.layout().offset({3, 3})] = 0.9;  // deep in the liquid
  CHECK(smeared_share<2>(grid, OpenSpace<2>{}, F) == about(0.9 / (40 * 16 - 0.1)));
}

TEST_CASE("drift is over what was there or came in, also in a vessel that has run empty") {
  VesselLedger ledger;
  ledger.volume_start = {0.2, 0.5};
  ledger.volume_out = {0.2 - 1e-5, 0};
  ledger.volume_in = {0, 0.2 - 1e-5};
  ledger.volume_now = {1e-5 + 2e-13, 0.7 - 1e-5 - 7e-13};
  CHECK(ledger.drift(0) == about(1e-12).epsilon(1e-3));
  CHECK(ledger.drift(1) == about(-1.4e-12).epsilon(1e-3));
  VesselLedger filled;  // from nothing
  filled.volume_in = {0.3, 0};
  filled.volume_now = {0.3 + 3e-11, 0};
  CHECK(filled.drift(0) == about(1e-10).epsilon(1e-3));
  CHECK(filled.drift(1) == 0);
}
