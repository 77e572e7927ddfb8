#include "run/line_run.hpp"

#include "run/gauge_kinds.hpp"

namespace wavy {

LineRun::LineRun(const LineSetup& setup) : setup_(setup), model_(make_line(setup)) {
  ledger_.cells = static_cast<long>(model_.sections().size());
  for (const auto& gauge : setup.gauges)
    readers_.push_back(gauge_kind(gauge.measures, GaugeKind::Of::line).of_line(gauge, setup));
  for (std::size_t v = 0; v < setup.valves.size(); ++v)
    if (const auto& valve = setup.valves[v]; valve.gauge)
      loops_.push_back({v, *valve.gauge, line::Controller(valve.control)});
}

std::vector<double> LineRun::read() {
  const auto& sections = model_.sections();
  std::vector<double> row{time()};
  for (const auto& reader : readers_) row.push_back(reader(model_));
  const std::size_t last = sections.size() - 1;
  const double outside = setup_.closed ? model_.state().pressure[last] : setup_.outlet_pressure(time());
  row.push_back(model_.liquid_flow(last) / model_.liquid_density(outside));
  row.push_back(model_.liquid_flow(last));
  row.push_back(model_.gas_flow(last) / model_.gas_density(outside, sections[last].temperature));
  row.push_back(model_.gas_flow(last));
  row.push_back(liquid_held(model_, {0, sections.size()}));
  row.push_back(model_.state().pressure[0]);
  for (const auto& loop : loops_) row.push_back(model_.valves()[loop.valve].opening(time()));
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
