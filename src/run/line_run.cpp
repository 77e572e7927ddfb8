#include "run/line_run.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace wavy {

namespace {

std::vector<double> read_gauges(const LineSetup& setup, const line::Model& model) {
  const auto& state = model.state();
  const auto& sections = model.sections();
  const auto held = [&](std::size_t first, std::size_t end) {
    double volume = 0;
    for (std::size_t i = first; i < end; ++i) volume += sections[i].volume() * model.holdup(i);
    return volume;
  };
  std::vector<double> row{state.time};
  std::size_t watched = 0;
  for (const auto& gauge : setup.gauges) {
    const bool whole = gauge.leg < 0;
    const std::size_t at = whole ? 0 : section_at(setup, static_cast<std::size_t>(gauge.leg), gauge.at);
    switch (gauge.measures) {
      case LineMeasure::pressure:
        row.push_back(state.pressure[at]);
        break;
      case LineMeasure::holdup:
        row.push_back(model.holdup(at));
        break;
      case LineMeasure::liquid_flow:
        row.push_back(model.liquid_flow(at));
        break;
      case LineMeasure::gas_flow:
        row.push_back(model.gas_flow(at));
        break;
      case LineMeasure::slugs:
        row.push_back(static_cast<double>(std::ranges::count(model.passages(), watched++, &line::Passage::place)));
        break;
      case LineMeasure::liquid_held: {
        const auto [first, end] = whole ? std::array<std::size_t, 2>{0, sections.size()}
                                        : sections_of(setup, static_cast<std::size_t>(gauge.leg));
        row.push_back(held(first, end));
        break;
      }
    }
  }
  const std::size_t last = sections.size() - 1;
  const double outside = setup.closed ? state.pressure[last] : setup.outlet_pressure(state.time);
  row.push_back(model.liquid_flow(last) / model.liquid_density(outside));
  row.push_back(model.liquid_flow(last));
  row.push_back(model.gas_flow(last) / model.gas_density(outside, sections[last].temperature));
  row.push_back(model.gas_flow(last));
  row.push_back(held(0, sections.size()));
  row.push_back(state.pressure[0]);
  for (std::size_t v = 0; v < setup.valves.size(); ++v)
    if (setup.valves[v].gauge) row.push_back(model.valves()[v].opening(state.time));
  return row;
}

}  // namespace

LineRun::LineRun(const LineSetup& setup) : setup_(setup), model_(make_line(setup)) {
  ledger_.cells = static_cast<long>(model_.sections().size());
  for (std::size_t v = 0; v < setup.valves.size(); ++v)
    if (const auto& valve = setup.valves[v]; valve.gauge)
      loops_.push_back({v, *valve.gauge, line::Controller(valve.control)});
}

std::vector<double> LineRun::read() {
  std::vector<double> row = read_gauges(setup_, model_);
  if (ledger_.steps == 0) return row;
  for (auto& loop : loops_) {
    loop.controller.advance(row[1 + loop.gauge], last_step_);  // the first column is the time
    model_.set_opening(loop.valve, loop.controller.opening());
  }
  return row;
}

/// Of the model and, in step with them, of the controllers; growing by at most half.
WantedStep LineRun::wanted_step() const {
  WantedStep wanted{model_.stable_step(), "advection"};
  if (wanted.dt >= setup_.schedule.largest_step) wanted.limit = by_largest_step;
  constexpr double share = 0.05;
  for (const auto& loop : loops_)
    for (const double of_loop : {loop.controller.control().reset, loop.controller.control().travel})
      if (of_loop > 0) wanted.at_most(share * of_loop, "controllers");
  constexpr double growth = 1.5;
  if (last_step_ > 0) wanted.at_most(growth * last_step_, by_growth);
  return wanted;
}

double LineRun::step(double dt) {
  const auto report = model_.step(dt);
  last_step_ = report.dt;
  ledger_.iterations += report.iterations;
  ledger_.greatest_volume_error = std::max(ledger_.greatest_volume_error, report.volume_error);
  return report.dt;
}

void LineRun::close_books() {
  ledger_.mass_now = model_.held();
  ledger_.mass_in = model_.inflow_total();
  ledger_.mass_out = model_.outflow_total();
}

void LineRun::archive(Archive& a) {
  a.within("model", [&] { model_.archive(a); });
  for (std::size_t i = 0; i < loops_.size(); ++i) {
    auto& [valve, gauge, controller] = loops_[i];
    a.within("controllers/" + std::to_string(i), [&, &one = controller] { one.archive(a); });
    if (a.reading()) model_.set_opening(valve, controller.opening());
  }
  a.within("ledger", [&] { ledger_.archive(a); });
  a("last_step", last_step_);
  a("next_tracks", next_tracks_);
  if (a.reading()) close_books();
}

bool LineRun::tracks_due() {
  constexpr double between_profiles = 15;
  if (time() < next_tracks_) return false;
  next_tracks_ = time() + setup_.schedule.snapshot_interval / between_profiles;
  return true;
}

static_assert(Simulation<LineRun>);

}  // namespace wavy
