#include "run/gauges.hpp"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "run/gauge_kinds.hpp"

namespace wavy {
namespace {

/// How many of flow_ways an opening has columns for: only under a given pressure fluid goes both ways.
template <int D>
std::size_t ways(const OpeningSetup<D>& opening) {
  return opening.given == OpeningSetup<D>::Given::pressure ? flow_ways.size() : 1;
}

/// What the Eulerian model measures without asking, as gauges.
template <int D>
std::vector<Gauge<D>> gauges_of_phases(const Setup<D>& setup) {
  std::vector<Gauge<D>> list;
  if (!setup.eulerian) return list;
  const auto& phases = setup.eulerian->phases;
  const auto add = [&](const std::string& fluid, const char* what, const char* measures, int first, int classes) {
    Gauge<D> gauge;
    gauge.name = fluid + what;
    gauge.measures = measures;
    gauge.phase = first;
    gauge.classes = classes;
    list.push_back(std::move(gauge));
  };
  for (const auto& family : setup.eulerian->families) {
    const int classes = static_cast<int>(family.shares.size());
    add(family.name, "_volume", "volume", family.first, classes);
    add(family.name, "_holdup", "share", family.first, classes);
    add(family.name, "_sauter", "sauter_diameter", family.first, classes);
  }
  const auto carriers = std::ranges::count_if(phases, &dispersed::Phase::carrier);
  for (std::size_t p = 0; p < phases.size(); ++p) {
    if (!phases[p].carrier && phases[p].family.empty()) add(phases[p].name, "_holdup", "share", static_cast<int>(p), 1);
    if (phases[p].carrier && carriers > 1 && p != lightest_carrier(setup))
      add(phases[p].name, "_level", "mean_level", static_cast<int>(p), 1);
  }
  return list;
}

}  // namespace

template <int D>
std::vector<Column> vessel_columns(const Setup<D>& setup) {
  std::vector<Column> columns{{"time", "s"}};
  for (const auto& gauge : setup.gauges) columns.push_back({gauge.name, unit_of(gauge)});
  for (const auto& opening : setup.openings)
    for (std::size_t p = 0; p < phase_count(setup); ++p)
      for (std::size_t way = 0; way < ways(opening); ++way)
        columns.push_back({flow_column(opening.opening.name, setup.phases[p].name, flow_ways[way]), "m3/s"});
  for (std::size_t p = 0; p < phase_count(setup); ++p) columns.push_back({setup.phases[p].name + "_volume", "m3"});
  columns.push_back({"greatest_speed", "m/s"});
  for (const auto& gauge : gauges_of_phases(setup)) columns.push_back({gauge.name, unit_of(gauge)});
  return columns;
}

template <int D>
Gauges<D>::Gauges(const Setup<D>& setup, const VesselModel<D>& model)
    : setup_(setup),
      columns_(vessel_columns(setup)),
      throughput_(model.boundary().throughput()),
      shown_(setup.gauges.size(), std::numeric_limits<double>::quiet_NaN()) {
  for (const auto& gauge : setup.gauges)
    readers_.push_back(gauge_kind(gauge.measures, GaugeKind::Of::vessel).reader(gauge, setup, model));
  for (const auto& gauge : gauges_of_phases(setup))
    always_.push_back(gauge_kind(gauge.measures, GaugeKind::Of::vessel).reader(gauge, setup, model));
}

template <int D>
std::vector<double> Gauges<D>::read(const VesselModel<D>& model) {
  VesselReading<D> now(setup_, model);
  std::vector<double> row{model.time()};
  for (std::size_t g = 0; g < readers_.size(); ++g) {
    row.push_back(readers_[g](now));
    now.keep_reading(setup_.gauges[g].name, row.back());
  }
  const double since = row[0] - time_;
  // What instruments show, whose readings lag.
  for (std::size_t g = 0; g < shown_.size(); ++g) {
    double& value = row[1 + g];
    const double lag = setup_.gauges[g].response_time;
    shown_[g] = std::isnan(shown_[g]) || lag <= 0 ? value : value + (shown_[g] - value) * std::exp(-since / lag);
    value = shown_[g];
  }
  for (std::size_t i = 0; i < throughput_.size(); ++i) {
    const Throughput& total = model.boundary().throughput()[i];
    for (std::size_t p = 0; p < phase_count(setup_); ++p) {
      const double in = total.in[p] - throughput_[i].in[p];
      const double out = total.out[p] - throughput_[i].out[p];
      const std::array<double, flow_ways.size()> volumes{in - out, in, out};
      for (std::size_t way = 0; way < ways(setup_.openings[i]); ++way)
        row.push_back(since > 0 ? volumes[way] * setup_.thickness / since : 0.0);
    }
    throughput_[i] = total;
  }
  time_ = row[0];
  for (std::size_t p = 0; p < phase_count(setup_); ++p) row.push_back(now.volume(static_cast<int>(p)));
  row.push_back(now.greatest_speed());
  for (const auto& reader : always_) row.push_back(reader(now));
  return row;
}

template <int D>
void Gauges<D>::archive(Archive& a) {
  a("time", time_);
  for (std::size_t g = 0; g < shown_.size(); ++g) {
    const std::string name = "shown/" + columns_[1 + g].archive_name();
    if (!a.reading() || a.holds(name)) a(name, shown_[g]);  // a gauge may be a new one
  }
  for (std::size_t i = 0; i < throughput_.size(); ++i) {
    a(fmt::format("in{}", i), std::span(throughput_[i].in));
    a(fmt::format("out{}", i), std::span(throughput_[i].out));
  }
}

template std::vector<Column> vessel_columns<2>(const Setup<2>&);
template std::vector<Column> vessel_columns<3>(const Setup<3>&);
template class Gauges<2>;
template class Gauges<3>;

}  // namespace wavy
