#include "run/line_setup.hpp"

#include <algorithm>
#include <cmath>

#include "run/gauge_kinds.hpp"

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

}  // namespace

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
    if (gauge.measures == "slugs") names.push_back(gauge.name);
  return names;
}

std::array<std::size_t, 2> sections_of(const LineSetup& setup, std::size_t leg) {
  std::size_t first = 0;
  for (std::size_t i = 0; i < leg; ++i) first += section_count(setup, setup.legs[i]);
  return {first, first + section_count(setup, setup.legs[leg])};
}

std::size_t section_at(const LineSetup& setup, std::size_t leg, double at) {
  const auto [first, end] = sections_of(setup, leg);
  const double share = at / setup.legs[leg].length();
  const auto count = static_cast<double>(end - first);
  return first + static_cast<std::size_t>(std::clamp(std::floor(share * count), 0.0, count - 1));
}

namespace {

/// The pipe in sections, and the liquid's share of each at rest.
std::vector<line::Section> make_sections(const LineSetup& setup, std::vector<double>& holdup) {
  const auto starts = leg_starts(setup);
  std::vector<double> heights(setup.legs.size());
  for (std::size_t i = setup.legs.size(); i-- > 0;) {
    const int into = setup.legs[i].into;
    heights[i] = (into == line::Section::outlet ? 0.0 : heights[static_cast<std::size_t>(into)]) - setup.legs[i].rise();
  }
  std::vector<line::Section> sections;
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
  return sections;
}

line::Settings line_settings(const LineSetup& setup) {
  line::Settings settings;
  settings.liquid_density = setup.phases[0].properties.density;
  settings.liquid_viscosity = setup.phases[0].properties.viscosity;
  settings.gas_density = setup.phases[1].properties.density;
  settings.gas_viscosity = setup.phases[1].properties.viscosity;
  settings.reference_temperature = setup.gas_temperature;
  settings.compressibility = setup.compressibility;
  settings.sound_speed = setup.sound_speed;
  settings.surface_tension = setup.pairs[0].surface_tension;
  settings.courant = setup.courant;
  settings.follow_slugs = setup.follow_slugs;
  settings.slugs_hold_gas = setup.slugs_hold_gas;
  for (const auto& gauge : setup.gauges)
    if (gauge.measures == "slugs")
      settings.watched.push_back(leg_starts(setup)[static_cast<std::size_t>(gauge.leg)] + gauge.at);
  settings.largest_step = setup.schedule.largest_step;
  if (!setup.closed) settings.outlet_pressure = [p = setup.outlet_pressure](double t) { return p(t); };
  return settings;
}

std::vector<line::Source> make_sources(const LineSetup& setup, const line::Settings& settings) {
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
  return sources;
}

std::vector<line::Valve> make_valves(const LineSetup& setup) {
  std::vector<line::Valve> valves;
  for (const auto& given : setup.valves) {
    // On the face nearest to its place.
    const auto [first, end] = sections_of(setup, given.leg);
    const double length = setup.legs[given.leg].length() / static_cast<double>(end - first);
    const auto face = std::clamp(std::lround(given.at / length) - 1, 0L, static_cast<long>(end - first) - 1);
    valves.push_back({given.name, first + static_cast<std::size_t>(face),
                      [f = given.opening](double t) { return f(t); }, given.coefficient});
  }
  return valves;
}

}  // namespace

line::Model make_line(const LineSetup& setup) {
  std::vector<double> holdup;
  auto sections = make_sections(setup, holdup);
  line::Settings settings = line_settings(setup);
  auto sources = make_sources(setup, settings);
  line::Model model(std::move(sections), std::move(sources), make_valves(setup), std::move(settings));
  if (setup.steady)
    model.start_steady();
  else
    model.start_at_rest(holdup, setup.closed ? 101325.0 : setup.outlet_pressure(0));
  return model;
}

std::vector<Column> line_columns(const LineSetup& setup) {
  std::vector<Column> columns{{"time", "s"}};
  for (const auto& gauge : setup.gauges)
    columns.push_back({gauge.name, gauge_kind(gauge.measures, GaugeKind::Of::line).unit});
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

}  // namespace wavy
