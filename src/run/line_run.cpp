#include "run/line_run.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>

namespace wavy {
namespace {

std::size_t section_count(const LineSetup& setup, const LineLeg& leg) {
  return static_cast<std::size_t>(std::max(1L, std::lround(leg.length() / setup.cell)));
}

/// Height over the leg's beginning at a distance along it.
double height_at(const LineLeg& leg, double distance) {
  for (std::size_t k = 1; k < leg.points.size(); ++k) {
    const auto& [from, low] = leg.points[k - 1];
    const auto& [to, high] = leg.points[k];
    if (distance <= to || k + 1 == leg.points.size()) return low + (high - low) * (distance - from) / (to - from);
  }
  return 0;
}

/// Number of the section at a place of a leg.
std::size_t section_at(const LineSetup& setup, std::size_t leg, double at) {
  const auto [first, end] = sections_of(setup, leg);
  const double share = at / setup.legs[leg].length();
  const auto count = static_cast<double>(end - first);
  return first + static_cast<std::size_t>(std::clamp(std::floor(share * count), 0.0, count - 1));
}

}  // namespace

double LineLedger::drift(std::size_t phase) const {
  const double expected = mass_start[phase] + mass_in[phase] - mass_out[phase];
  const double size = std::max({mass_start[phase], mass_in[phase], 1e-300});
  return (mass_now[phase] - expected) / size;
}

std::vector<double> leg_starts(const LineSetup& setup) {
  std::vector<double> starts(setup.legs.size());
  for (std::size_t i = setup.legs.size(); i-- > 0;) {
    const int into = setup.legs[i].into;
    starts[i] = (into == line::Section::outlet ? 0.0 : starts[static_cast<std::size_t>(into)]) - setup.legs[i].length();
  }
  const double first = *std::min_element(starts.begin(), starts.end());
  for (double& start : starts) start -= first;
  return starts;
}

std::vector<std::string> slug_gauges(const LineSetup& setup) {
  std::vector<std::string> names;
  for (const auto& gauge : setup.gauges)
    if (gauge.measures == LineMeasure::slugs) names.push_back(gauge.name);
  return names;
}

std::array<std::size_t, 2> sections_of(const LineSetup& setup, std::size_t leg) {
  std::size_t first = 0;
  for (std::size_t i = 0; i < leg; ++i) first += section_count(setup, setup.legs[i]);
  return {first, first + section_count(setup, setup.legs[leg])};
}

line::Model make_line(const LineSetup& setup) {
  const auto starts = leg_starts(setup);
  std::vector<double> heights(setup.legs.size());
  for (std::size_t i = setup.legs.size(); i-- > 0;) {
    const int into = setup.legs[i].into;
    heights[i] = (into == line::Section::outlet ? 0.0 : heights[static_cast<std::size_t>(into)]) - setup.legs[i].rise();
  }
  std::vector<line::Section> sections;
  std::vector<double> holdup;
  for (std::size_t l = 0; l < setup.legs.size(); ++l) {
    const LineLeg& leg = setup.legs[l];
    const std::size_t count = section_count(setup, leg);
    const double length = leg.length() / static_cast<double>(count);
    for (std::size_t k = 0; k < count; ++k) {
      line::Section one;
      const double from = static_cast<double>(k) * length;
      one.length = length;
      one.place = starts[l] + from + 0.5 * length;
      one.rise = heights[l] - heights[0] + height_at(leg, from + 0.5 * length);
      one.temperature = leg.temperature;
      one.leg = static_cast<int>(l);
      one.bore = {leg.diameter, leg.roughness,
                  std::clamp((height_at(leg, from + length) - height_at(leg, from)) / length, -1.0, 1.0)};
      one.next = static_cast<int>(sections.size()) + 1;
      if (k + 1 == count)
        one.next = leg.into == line::Section::outlet
                       ? line::Section::outlet
                       : static_cast<int>(sections_of(setup, static_cast<std::size_t>(leg.into))[0]);
      sections.push_back(one);
      holdup.push_back(leg.holdup);
    }
  }
  line::Settings settings;
  settings.liquid_density = setup.phases[0].properties.density;
  settings.liquid_viscosity = setup.phases[0].properties.viscosity;
  settings.gas_density = setup.phases[1].properties.density;
  settings.gas_viscosity = setup.phases[1].properties.viscosity;
  settings.reference_temperature = setup.gas_temperature;
  settings.compressibility = setup.compressibility;
  settings.sound_speed = setup.sound_speed;
  settings.surface_tension = setup.surface_tension;
  settings.courant = setup.courant;
  settings.follow_slugs = setup.follow_slugs;
  settings.slugs_hold_gas = setup.slugs_hold_gas;
  for (const auto& gauge : setup.gauges)
    if (gauge.measures == LineMeasure::slugs)
      settings.watched.push_back(starts[static_cast<std::size_t>(gauge.leg)] + gauge.at);
  settings.largest_step = setup.schedule.largest_step;
  if (!setup.closed) settings.outlet_pressure = [p = setup.outlet_pressure](double t) { return p(t); };

  constexpr double standard_temperature = 288.15;
  const double standard_gas =
      settings.gas_density * settings.reference_temperature / (standard_temperature * setup.compressibility);
  std::vector<line::Source> sources;
  for (const auto& given : setup.sources) {
    using By = LineSource::By;
    line::Source source;
    source.name = given.name;
    source.section = section_at(setup, given.leg, given.at);
    if (given.liquid_by != By::nothing)
      source.liquid = [f = given.liquid, factor = given.liquid_by == By::mass ? 1.0 : settings.liquid_density](
                          double t) { return factor * f(t); };
    if (given.gas_by == By::volume)
      source.gas_volume = [f = given.gas](double t) { return f(t); };
    else if (given.gas_by != By::nothing)
      source.gas = [f = given.gas, factor = given.gas_by == By::mass ? 1.0 : standard_gas](double t) {
        return factor * f(t);
      };
    sources.push_back(std::move(source));
  }
  std::vector<line::Valve> valves;
  for (const auto& given : setup.valves) {
    // On the face nearest to its place.
    const auto [first, end] = sections_of(setup, given.leg);
    const double length = setup.legs[given.leg].length() / static_cast<double>(end - first);
    const auto face = std::clamp(std::lround(given.at / length) - 1, 0L, static_cast<long>(end - first) - 1);
    valves.push_back({given.name, first + static_cast<std::size_t>(face),
                      [f = given.opening](double t) { return f(t); }, given.coefficient});
  }
  line::Model model(std::move(sections), std::move(sources), std::move(valves), std::move(settings));
  if (setup.steady)
    model.start_steady();
  else
    model.start_at_rest(holdup, setup.closed ? 101325.0 : setup.outlet_pressure(0));
  return model;
}

const char* unit_of(LineMeasure measure) {
  static const std::array<const char*, 6> units{"Pa", "1", "kg/s", "kg/s", "m3", "1"};
  return units[static_cast<std::size_t>(measure)];
}

std::vector<Column> line_columns(const LineSetup& setup) {
  std::vector<Column> columns{{"time", "s"}};
  for (const auto& gauge : setup.gauges) columns.push_back({gauge.name, unit_of(gauge.measures)});
  for (const auto& phase : setup.phases) {
    columns.push_back({"outlet_" + phase.name, "m3/s"});
    columns.push_back({"outlet_" + phase.name + "_mass", "kg/s"});
  }
  columns.push_back({setup.phases[0].name + "_held", "m3"});
  columns.push_back({"beginning", "Pa"});
  for (const auto& valve : setup.valves)
    if (valve.gauge) columns.push_back({valve.name + "_opening", "1"});
  return columns;
}

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

/// The controllers of a line, each with the number of its valve.
class Controllers {
 public:
  explicit Controllers(const LineSetup& setup) {
    for (std::size_t v = 0; v < setup.valves.size(); ++v)
      if (const auto& valve = setup.valves[v]; valve.gauge)
        all_.push_back({v, *valve.gauge, line::Controller(valve.control)});
  }
  /// Longest step that they can follow [s].
  [[nodiscard]] double longest_step() const {
    constexpr double share = 0.05;
    double longest = std::numeric_limits<double>::infinity();
    for (const auto& one : all_)
      for (const double time : {one.controller.control().reset, one.controller.control().travel})
        if (time > 0) longest = std::min(longest, share * time);
    return longest;
  }
  /// `row`: of the history, the time and the gauges first.
  void move_valves(const std::vector<double>& row, double dt, line::Model& model) {
    for (auto& one : all_) {
      one.controller.advance(row[1 + one.gauge], dt);
      model.set_opening(one.valve, one.controller.opening());
    }
  }

 private:
  struct One {
    std::size_t valve, gauge;
    line::Controller controller;
  };
  std::vector<One> all_;
};

}  // namespace

void simulate_line(const LineSetup& setup, line::Model& model, const LineSinks& sinks, LineLedger& ledger) {
  const auto begin = std::chrono::steady_clock::now();
  const auto seconds = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count(); };
  const Schedule& schedule = setup.schedule;
  ledger = LineLedger{};
  ledger.sections = model.sections().size();
  ledger.mass_start = model.held();
  const auto close_books = [&] {
    ledger.mass_now = model.held();
    ledger.mass_in = model.inflow_total();
    ledger.mass_out = model.outflow_total();
    ledger.ended_at = model.state().time;
    ledger.wall_seconds = seconds();
  };
  Controllers controllers(setup);
  sinks.history(read_gauges(setup, model));
  int snapshots = 0;
  const auto write_snapshot = [&] {
    close_books();
    sinks.snapshot(model, snapshots++);
  };
  write_snapshot();
  double last = 0;
  double next_tracks = 0;
  try {
    while (model.state().time < schedule.until) {
      const double target = std::min(schedule.until, snapshots * schedule.snapshot_interval);
      const double left = target - model.state().time;
      double dt = std::min(model.stable_step(), controllers.longest_step());
      if (last > 0) dt = std::min(dt, 1.5 * last);
      const double pieces = std::ceil(left / dt * (1 - 1e-9));
      if (pieces < 3) dt = left / std::max(1.0, pieces);
      const auto report = model.step(dt);
      last = report.dt;
      ++ledger.steps;
      ledger.iterations += report.iterations;
      ledger.smallest_step = ledger.steps == 1 ? report.dt : std::min(ledger.smallest_step, report.dt);
      ledger.largest_step = std::max(ledger.largest_step, report.dt);
      ledger.greatest_volume_error = std::max(ledger.greatest_volume_error, report.volume_error);
      const auto row = read_gauges(setup, model);
      sinks.history(row);
      controllers.move_valves(row, report.dt, model);
      constexpr double tracks_in_a_run = 3000;
      if (sinks.tracks && model.state().time >= next_tracks) {
        sinks.tracks(model);
        next_tracks = model.state().time + schedule.until / tracks_in_a_run;
      }
      if (sinks.progress) sinks.progress({model.state().time, schedule.until, report.dt, ledger.steps, seconds()});
      const bool stop = sinks.stop && sinks.stop();
      if (model.state().time >= target * (1 - 1e-12) || stop) write_snapshot();
      if (stop && model.state().time < schedule.until) {
        ledger.interrupted = true;
        break;
      }
    }
  } catch (...) {
    close_books();
    throw;
  }
  close_books();
}

}  // namespace wavy
