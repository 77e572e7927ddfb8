#include "case/line_file.hpp"

#include <algorithm>
#include <cmath>
#include <set>

#include "case/gauges.hpp"
#include "case/phases.hpp"

namespace wavy {
namespace {

constexpr double most_line_cells = 1e5;

template <class List>
std::vector<std::string> names_of(const List& list) {
  std::vector<std::string> names;
  for (const auto& one : list) names.push_back(one.name);
  return names;
}

std::string read_name(Part& part, const std::vector<std::string>& taken) {
  std::string name = part.text("name");
  if (!is_name(name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  if (std::ranges::find(taken, name) != taken.end())
    throw part.wrong("name", fmt::format("'{}' is taken already", name), "choose another name");
  return name;
}

/// Number of the leg that a key names.
std::size_t leg_number(const LineSetup& setup, Part& part, const char* key, std::size_t standard) {
  const std::string name = part.text(key, setup.legs[standard].name);
  const auto names = names_of(setup.legs);
  const auto found = std::ranges::find(names, name);
  if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
  const std::string near = nearest(name, names);
  throw part.wrong(
      key, fmt::format("no leg is called '{}'", name.substr(0, 60)),
      near.empty() ? fmt::format("legs are {}", listing(names, "and")) : fmt::format("did you mean '{}'?", near));
}

double place_on(const LineSetup& setup, Part& part, std::size_t leg, const std::string& standard) {
  const double at = part.quantity("at", standard);
  const double length = setup.legs[leg].length();
  if (!(at >= 0 && at <= length * (1 + 1e-9)))
    throw part.wrong("at", fmt::format("{} lies outside the leg '{}', which is {} long", quantity(at, "m"),
                                       setup.legs[leg].name, quantity(length, "m")));
  return at;
}

/// Points (distance along, height) from a file with columns of horizontal distance and height.
std::vector<std::array<double, 2>> read_profile(Part& part) {
  const Table table = part.table("profile");
  const auto file = part.text_of("profile");
  if (table.columns.size() < 2 || table.columns[0].size() < 2)
    throw part.wrong("profile", fmt::format("'{}' needs two columns and at least two rows", file),
                     "its columns are horizontal distance and height, in m unless the header gives units");
  std::array<std::vector<double>, 2> columns;
  for (std::size_t c = 0; c < 2; ++c) {
    columns[c] = table.columns[c];
    if (table.units[c].empty()) continue;
    const auto scale = scale_to_si(table.units[c]);
    if (!scale || scale->powers != powers_of(dimension::length))
      throw part.wrong(
          "profile",
          scale ? fmt::format("a column of '{}' is {}; a length is needed there", file, kind_of(scale->powers))
                : fmt::format("the unit '{}' in the header of '{}' is not known", table.units[c], file),
          "write, for example, x [m],z [m]");
    for (double& value : columns[c]) value *= scale->factor;
  }
  std::vector<std::array<double, 2>> points{{0, 0}};
  for (std::size_t i = 1; i < columns[0].size(); ++i) {
    const double across = columns[0][i] - columns[0][i - 1];
    const double up = columns[1][i] - columns[1][i - 1];
    if (!(across >= 0) || (across == 0 && up == 0))
      throw part.wrong("profile",
                       fmt::format("the distances in '{}' must rise from row to row; row {} does not", file, i + 1),
                       "sort the points along the line");
    points.push_back({points.back()[0] + std::hypot(across, up), columns[1][i] - columns[1][0]});
  }
  return points;
}

LineLeg read_leg(const LineSetup& setup, Part& part) {
  part.refuse_unknown();
  LineLeg leg;
  leg.name = read_name(part, names_of(setup.legs));
  for (const auto& [one, other] :
       {std::pair{"profile", "length"}, {"profile", "rise"}, {"profile", "angle"}, {"rise", "angle"}})
    if (part.has(one) && part.has(other))
      throw part.wrong(other, fmt::format("both {} and {} are given", one, other), "give one of them");
  if (part.has("profile")) {
    leg.points = read_profile(part);
  } else {
    part.need("length", "write, for example, length = \"120 m\", or profile = \"points.csv\"");
    const double length = part.quantity("length");
    double rise = part.has("angle") ? length * std::sin(part.quantity("angle")) : part.quantity("rise");
    if (std::abs(rise) > length * (1 + 1e-9))
      throw part.wrong("rise", fmt::format("a leg of {} cannot rise by {}", quantity(length, "m"), quantity(rise, "m")),
                       "length counts along the pipe");
    leg.points = {{0, 0}, {length, rise}};
  }
  part.need("diameter", "write, for example, diameter = \"80 mm\"");
  leg.diameter = part.quantity("diameter");
  if (leg.diameter >= 100)
    throw part.wrong("diameter", fmt::format("a diameter of {} is that of no pipe", quantity(leg.diameter, "m")),
                     "it is the inner diameter of the pipe");
  if (leg.diameter > leg.length())
    throw part.wrong("diameter", "the leg is wider than long", "check the units of diameter and length");
  leg.roughness = part.quantity("roughness");
  if (!(leg.roughness >= 0 && leg.roughness < 0.05 * leg.diameter))
    throw part.wrong("roughness", "the roughness must lie between 0 and a twentieth of the diameter");
  leg.temperature = part.quantity("temperature");
  if (!(leg.temperature > 1)) throw part.wrong("temperature", "the temperature must be above absolute zero");
  leg.holdup = part.quantity("holdup");
  return leg;
}

LineSource read_source(const LineSetup& setup, Part& part, const FormulaNames& names) {
  using By = LineSource::By;
  part.refuse_unknown();
  LineSource source;
  source.name = read_name(part, names_of(setup.sources));
  source.leg = leg_number(setup, part, "leg", 0);
  source.at = place_on(setup, part, source.leg, "0 m");
  const auto read = [&](std::initializer_list<std::pair<const char*, By>> kinds, By& by, Formula& value) {
    std::string chosen;
    for (const auto& [key, kind] : kinds) {
      if (!part.has(key)) continue;
      if (!chosen.empty())
        throw part.wrong(key, fmt::format("both {} and {} are given", chosen, key), "give one of them");
      chosen = key;
      by = kind;
      value = part.formula(key, names);
      if (value(0) < 0) throw part.wrong(key, "a source cannot take out: the flow must not be negative");
    }
  };
  read({{"liquid_mass_flow", By::mass}, {"liquid_volume_flow", By::volume}}, source.liquid_by, source.liquid);
  read({{"gas_mass_flow", By::mass}, {"gas_volume_flow", By::volume}, {"gas_standard_flow", By::standard_volume}},
       source.gas_by, source.gas);
  if (source.liquid_by == By::nothing && source.gas_by == By::nothing)
    throw part.wrong("", fmt::format("'{}' brings nothing", source.name),
                     "give liquid_mass_flow, gas_mass_flow or the like");
  return source;
}

/// Of what a gauge measures.
const Dimension& dimension_of(const LineGauge& gauge) {
  for (const Dimension* one : {&dimension::pressure, &dimension::mass_flow, &dimension::volume})
    if (gauge_kind(gauge.measures, GaugeKind::Of::line).unit == one->unit) return *one;
  return dimension::number;
}

/// What moves a valve that holds a gauge's value.
void read_control(const LineSetup& setup, Part& part, LineValve& valve) {
  if (!part.has("holds")) {
    for (const char* key : {"target", "band", "opens_on", "reset", "travel", "least", "most"})
      if (part.has(key))
        throw part.wrong(key, fmt::format("'{}' belongs to a valve that holds something", key),
                         "add holds = \"NAME\" of a gauge, or leave it out");
    return;
  }
  const std::string name = part.text("holds");
  std::vector<std::string> names;
  for (const auto& gauge : setup.gauges)
    if (gauge.measures != "slugs") names.push_back(gauge.name);
  const auto found = std::ranges::find(setup.gauges, name, &LineGauge::name);
  if (found == setup.gauges.end() || found->measures == "slugs") {
    const std::string near = nearest(name, names);
    throw part.wrong("holds", fmt::format("no gauge that a valve can hold is called '{}'", name.substr(0, 60)),
                     !near.empty()   ? fmt::format("did you mean '{}'?", near)
                     : names.empty() ? "add a [[gauge]] of pressure, holdup, flow or liquid_held"
                                     : fmt::format("such gauges are {}", listing(names, "and")));
  }
  if (std::ranges::find(setup.gauges, valve.name + "_opening", &LineGauge::name) != setup.gauges.end())
    throw part.wrong("name", fmt::format("a gauge has the name '{}_opening' already", valve.name),
                     "choose another name for the valve or the gauge");
  valve.gauge = static_cast<std::size_t>(found - setup.gauges.begin());
  auto& control = valve.control;
  const Dimension& dimension = dimension_of(*found);
  control.target = part.quantity_of("target", dimension);
  control.band = part.quantity_of("band", dimension);
  if (part.choice("opens_on") == "fall") control.band = -control.band;
  if (part.has("reset")) control.reset = part.quantity("reset");
  control.travel = part.quantity("travel");
  control.least = part.quantity("least");
  control.most = part.quantity("most");
  if (!(control.least < control.most))
    throw part.wrong(part.has("most") ? "most" : "least", "openings go from 0 to 1, the least below the most");
  if (!valve.opening.is_constant())
    throw part.wrong("opening", "a controller moves this valve: its opening is no formula of time",
                     "write the opening at the start, for example opening = \"0.3\"");
  control.neutral = std::clamp(valve.opening(0), control.least, control.most);
}

LineValve read_valve(const LineSetup& setup, Part& part, const FormulaNames& names) {
  part.refuse_unknown();
  LineValve valve;
  valve.name = read_name(part, names_of(setup.valves));
  valve.leg = leg_number(setup, part, "leg", setup.legs.size() - 1);
  valve.at = place_on(setup, part, valve.leg, fmt::format("{} m", setup.legs[valve.leg].length()));
  part.need("opening", "write, for example, opening = \"0.3\"");
  valve.opening = part.formula("opening", names);
  if (const double now = valve.opening(0); !(now >= 0 && now <= 1))
    throw part.wrong("opening", fmt::format("an opening of {:g} is outside 0 to 1", now));
  valve.coefficient = part.quantity("coefficient");
  if (!(valve.coefficient > 0 && valve.coefficient <= 1))
    throw part.wrong("coefficient", "a coefficient of discharge lies between 0 and 1");
  read_control(setup, part, valve);
  return valve;
}

LineGauge read_line_gauge(const LineSetup& setup, Part& part) {
  part.refuse_unknown();
  LineGauge gauge;
  std::vector<std::string> taken = names_of(setup.gauges);
  for (const auto& column : line_columns(setup)) taken.push_back(column.name);
  gauge.name = read_name(part, taken);
  const GaugeKind& kind = read_gauge_kind(part, GaugeKind::Of::line);
  gauge.measures = kind.name;
  for (const char* key : {"wall", "along", "phase", "response_time"})
    if (part.has(key)) throw part.wrong(key, fmt::format("a gauge of a line has no '{}'", key), "leave it out");
  if (kind.name == "slugs" && !setup.follow_slugs)
    throw part.wrong("measures", "slugs are seen only where they are followed", "set line.slugs = \"follow\"");
  if (kind.needs == GaugeKind::Needs::leg) {
    if (part.has("at"))
      throw part.wrong("at", "what is held is measured over a leg, or the whole line", "leave it out");
    if (part.has("leg")) gauge.leg = static_cast<int>(leg_number(setup, part, "leg", 0));
    return gauge;
  }
  const std::size_t leg = leg_number(setup, part, "leg", 0);
  gauge.leg = static_cast<int>(leg);
  if (part.has("at")) {
    const auto at = part.quantities("at");
    if (at.size() != 1)
      throw part.wrong("at", "one distance along the leg is needed here", "write, for example, at = [\"40 m\"]");
    gauge.at = at[0];
    if (!(gauge.at >= 0 && gauge.at <= setup.legs[leg].length()))
      throw part.wrong("at", fmt::format("{} lies outside the leg '{}', which is {} long", quantity(gauge.at, "m"),
                                         setup.legs[leg].name, quantity(setup.legs[leg].length(), "m")));
  }
  return gauge;
}

/// The legs, and where each leads into.
void read_legs(Sections& sections, LineSetup& setup) {
  std::vector<std::pair<std::string, Place>> leads;  // as written; "" where left out
  sections.each("leg", [&](Part part) {
    setup.legs.push_back(read_leg(setup, part));
    leads.emplace_back(part.has("into") ? part.text("into") : "", part.place("into"));
  });
  if (setup.legs.empty())
    throw input_error(sections.top(), "a line needs at least one leg",
                      "add [[leg]] with name, length, rise and diameter");
  const auto leg_names = names_of(setup.legs);
  for (std::size_t i = 0; i < leads.size(); ++i) {
    const auto& [into, place] = leads[i];
    auto& target = setup.legs[i].into;
    if (into.empty()) {
      target = i + 1 < leads.size() ? static_cast<int>(i) + 1 : line::Section::outlet;
      continue;
    }
    const auto found = std::ranges::find(leg_names, into);
    if (found == leg_names.end()) {
      const std::string near = nearest(into, leg_names);
      throw input_error(place, fmt::format("no leg is called '{}'", into.substr(0, 60)),
                        near.empty() ? fmt::format("legs are {}", listing(leg_names, "and"))
                                     : fmt::format("did you mean '{}'?", near));
    }
    target = static_cast<int>(found - leg_names.begin());
    if (target <= static_cast<int>(i))
      throw input_error(place, fmt::format("'{}' stands before '{}', which leads into it", into, leg_names[i]),
                        "legs stand in the order of the flow; the last one leads to the outlet");
  }
}

/// [line], once the legs are known.
void read_line_section(Sections& sections, LineSetup& setup) {
  const auto starts = leg_starts(setup);
  double whole = 0;
  double shortest = 1e300;
  for (std::size_t i = 0; i < setup.legs.size(); ++i) {
    whole = std::max(whole, starts[i] + setup.legs[i].length());
    shortest = std::min(shortest, setup.legs[i].length());
  }
  constexpr int pieces = 200;
  Part line = sections.section("line");
  line.refuse_unknown();
  setup.steady = line.choice("start") == "steady";
  setup.follow_slugs = line.choice("slugs") == "follow";
  setup.slugs_hold_gas = line.choice("slug_gas") == "gregory";
  if (setup.slugs_hold_gas && !setup.follow_slugs)
    throw line.wrong("slug_gas", "only slugs that are followed hold gas", "set slugs = \"follow\", or leave it out");
  setup.compressibility = line.quantity("gas_compressibility");
  setup.sound_speed = line.quantity("liquid_sound_speed");

  setup.cell = line.quantity("cell", fmt::format("{:.4g} m", std::min(whole / pieces, shortest / 4)));
  if (setup.cell > whole)
    throw line.wrong(
        "cell", fmt::format("cells of {} do not suit a line of {}", quantity(setup.cell, "m"), quantity(whole, "m")));
  if (whole / setup.cell > most_line_cells)
    throw line.wrong("cell", fmt::format("this makes more than {:.0f} cells", most_line_cells), "choose longer ones");
}

void read_outlet(Sections& sections, LineSetup& setup) {
  Part outlet = sections.section("outlet");
  outlet.refuse_unknown();
  setup.closed = outlet.choice("end") == "closed";
  if (setup.closed && outlet.has("pressure"))
    throw outlet.wrong("pressure", "a closed end has no pressure behind it", "leave it out, or set end = \"open\"");
  if (!setup.closed) {
    if (!outlet.has("pressure"))
      throw input_error(outlet.has("end") ? outlet.place("end") : sections.top(),
                        "the line has no outlet: no pressure is given behind its end",
                        "add [outlet] with pressure = \"1 bar\", or end = \"closed\"");
    setup.outlet_pressure = outlet.formula("pressure", sections.names());
    if (!(setup.outlet_pressure(0) > 0))
      throw outlet.wrong("pressure", "the pressure is absolute and must be positive", "1 bar is about the air's");
  }
}

void read_run(Sections& sections, LineSetup& setup) {
  Part run = sections.section("run");
  run.refuse_unknown();
  for (const char* key : {"projection_tolerance", "smallest_step", "means_from"})
    if (run.has(key)) throw run.wrong(key, "a line has no such setting", "leave it out");
  Schedule& schedule = setup.schedule;
  read_times(run, schedule, 200, 1e4);
  schedule.largest_step = run.quantity("largest_step", "10 s");
  read_checkpoint_interval(run, schedule);
  read_settled_end(run, schedule, line_columns(setup));
  setup.courant = run.quantity("courant", "0.7");
}

}  // namespace

void read_line_case(Sections& sections) {
  LineSetup setup;
  const FormulaNames& names = sections.names();
  read_line_phases(sections, setup);
  read_line_pairs(sections, setup);
  read_legs(sections, setup);
  read_line_section(sections, setup);
  sections.each("source", [&](Part part) { setup.sources.push_back(read_source(setup, part, names)); });
  read_outlet(sections, setup);
  sections.each("gauge", [&](Part part) { setup.gauges.push_back(read_line_gauge(setup, part)); });
  sections.each("valve", [&](Part part) { setup.valves.push_back(read_valve(setup, part, names)); });
  read_run(sections, setup);
  sections.out().setup = std::move(setup);
}

void read_more_line_gauges(Sections& sections, CaseFile& the_case) {
  auto& setup = std::get<LineSetup>(the_case.setup);
  sections.each("gauge", [&](Part part) {
    LineGauge gauge = read_line_gauge(setup, part);
    if (gauge.measures == "slugs")
      throw part.wrong("measures", "slugs are counted during the run alone",
                       "set the gauge in the case and run it again");
    setup.gauges.push_back(std::move(gauge));
  });
}

}  // namespace wavy
