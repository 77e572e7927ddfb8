// check and draw of a line.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "figures/chart.hpp"
#include "line/riser.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

/// What flows through each leg at the start.
struct LegFlow {
  double liquid_flux = 0, gas_flux = 0;  ///< superficial velocities in its middle [m/s]
  double gas_mass = 0;                   ///< [kg/s]
  line::Media media;
  line::Bore bore;
  line::Equilibrium flow;
};

std::vector<LegFlow> leg_flows(const LineSetup& setup, const line::Model& model) {
  std::vector<std::array<double, 2>> mass(setup.legs.size());
  for (std::size_t s = 0; s < setup.sources.size(); ++s) {
    const auto& source = model.sources()[s];
    const auto brought = model.brought(source, 0);
    mass[setup.sources[s].leg][0] += brought[0];
    mass[setup.sources[s].leg][1] += brought[1];
  }
  std::vector<LegFlow> flows(setup.legs.size());
  for (std::size_t l = 0; l < setup.legs.size(); ++l) {
    const int into = setup.legs[l].into;
    if (into != line::Section::outlet)
      for (std::size_t k = 0; k < 2; ++k) mass[static_cast<std::size_t>(into)][k] += mass[l][k];
    const auto [first, end] = sections_of(setup, l);
    const std::size_t middle = (first + end) / 2;
    LegFlow& flow = flows[l];
    flow.media = model.media(middle);
    flow.bore = model.sections()[middle].bore;
    flow.gas_mass = mass[l][1];
    flow.liquid_flux = mass[l][0] / (flow.media.liquid_density * flow.bore.area());
    flow.gas_flux = mass[l][1] / (flow.media.gas_density * flow.bore.area());
    if (flow.liquid_flux + flow.gas_flux > 0)
      flow.flow = line::equilibrium(flow.bore, flow.media, flow.liquid_flux, flow.gas_flux);
  }
  return flows;
}

/// What the criteria say of every riser: a steep leg behind one that does not rise.
std::vector<std::vector<std::string>> riser_rows(const LineSetup& setup, const line::Model& model,
                                                 const std::vector<LegFlow>& flows) {
  std::vector<std::vector<std::string>> rows;
  for (std::size_t l = 0; l < setup.legs.size(); ++l) {
    constexpr double steep = 0.26;
    const auto next = static_cast<std::size_t>(std::max(setup.legs[l].into, 0));
    if (setup.legs[l].into == line::Section::outlet || setup.legs[l].rise() > 0 ||
        setup.legs[next].rise() < steep * setup.legs[next].length() || flows[l].liquid_flux <= 0 ||
        flows[l].gas_flux <= 0)
      continue;
    line::Riser riser;
    riser.pipeline_holdup = flows[l].flow.holdup;
    // All that leads there without a rise shares its gas.
    riser.pipeline_length = setup.legs[l].length();
    for (std::size_t up = l; up-- > 0;)
      if (setup.legs[up].into == static_cast<int>(up) + 1 && setup.legs[up].rise() <= 0)
        riser.pipeline_length += setup.legs[up].length();
      else
        break;
    const auto [first, end] = sections_of(setup, next);
    riser.height = setup.legs[next].rise();
    riser.top_pressure = model.state().pressure[end - 1];
    riser.liquid_density = flows[l].media.liquid_density;
    riser.liquid_flux = flows[l].liquid_flux;
    riser.gas_pressure_flux = flows[l].gas_flux * model.state().pressure[(sections_of(setup, l)[0] + first) / 2];
    const double ratio = line::blocking_ratio(riser);
    const double steady = line::steady_pressure(riser);
    // The same with a choke at its top, or the one that is there.
    line::Riser choked = riser;
    const int beyond = model.sections()[end - 1].next;
    if (beyond != line::Section::outlet)
      choked.top_pressure = model.state().pressure[static_cast<std::size_t>(beyond)];
    else if (!setup.closed)
      choked.top_pressure = setup.outlet_pressure(0);
    const auto there = std::ranges::find(model.valves(), end - 1, &line::Valve::section);
    const double coefficient = there == model.valves().end() ? line::Valve{}.coefficient : there->coefficient;
    line::Bore bore = model.sections()[end - 1].bore;
    bore.sine = riser.height / setup.legs[next].length();
    const double opening = line::steady_opening(choked, bore, coefficient);
    rows.push_back({rows.empty() ? "riser" : "",
                    fmt::format("'{}': gas over liquid pressure rate {:.3g} (Boe): liquid {} its foot and fills it",
                                setup.legs[next].name, ratio, ratio < 1 ? "blocks" : "does not block")});
    rows.push_back({"", steady > riser.top_pressure
                            ? fmt::format("gas in it blows the column out below {} at its top, where {} holds (Taitel)",
                                          quantity(steady, "Pa"), quantity(riser.top_pressure, "Pa"))
                            : fmt::format("at {} at its top gas cannot blow the column out (Taitel; limit {})",
                                          quantity(riser.top_pressure, "Pa"), quantity(std::max(steady, 0.0), "Pa"))});
    rows.push_back({"", opening >= 1  ? std::string("small disturbances of steady flow die out (linear theory)")
                        : opening > 0 ? fmt::format("{} at its top keeps the flow steady when open to {:.2g} or less "
                                                    "(linear theory)",
                                                    there == model.valves().end() ? "a choke" : there->name, opening)
                                      : std::string("no choke at its top keeps the flow steady (linear theory)")});
  }
  return rows;
}

/// Which flow there is in each kind of leg at all rates, and where it is at the start.
void draw_flow_map(const LineSetup& setup, const std::string& title, const std::vector<LegFlow>& flows,
                   const fs::path& file) {
  std::vector<Panel> panels;
  constexpr std::size_t most_panels = 3;
  std::vector<double> slopes;
  for (std::size_t l = 0; l < setup.legs.size() && panels.size() < most_panels; ++l) {
    if (std::ranges::any_of(slopes, [&](double s) { return std::abs(s - flows[l].bore.sine) < 0.02; })) continue;
    slopes.push_back(flows[l].bore.sine);
    Panel panel;
    panel.y_title = fmt::format("{}: liquid [m/s]", setup.legs[l].name);
    panel.log_axes = true;
    for (const auto regime : {line::Regime::stratified, line::Regime::wavy, line::Regime::annular, line::Regime::slug,
                              line::Regime::bubble}) {
      Curve2D curve{line::name_of(regime), {}, {}, true};
      curve.size = 0.8;
      constexpr int steps = 36;
      for (int i = 0; i <= steps; ++i)
        for (int j = 0; j <= steps / 2; ++j) {
          const double gas = std::pow(10.0, -1 + 2.7 * i / steps);
          const double liquid = std::pow(10.0, -3 + 3.7 * 2 * j / steps);
          if (line::equilibrium(flows[l].bore, flows[l].media, liquid, gas).regime != regime) continue;
          curve.x.push_back(gas);
          curve.y.push_back(liquid);
        }
      panel.curves.push_back(std::move(curve));
    }
    Curve2D here{"at the start", {flows[l].gas_flux}, {flows[l].liquid_flux}, true};
    here.size = 3;
    panel.curves.push_back(here);
    panels.push_back(std::move(panel));
  }
  draw_chart(title + ": regimes of steady flow", "superficial velocity of the gas [m/s]", panels, file);
}

}  // namespace

void draw_profile(const std::string& title, const SnapshotFile& profile, const fs::path& file) {
  const Table table = read_csv(profile.file);
  const auto column = [&](const char* name) -> const std::vector<double>& {
    const int at = table.find(name);
    if (at < 0)
      throw input_error({profile.file.string(), 0, 0, ""}, fmt::format("the profile has no column '{}'", name),
                        "run the case again");
    return table.columns[static_cast<std::size_t>(at)];
  };
  const auto& x = column("x");
  const auto& regime = column("regime");
  Panel height{"height [m]", {}};
  for (int r = 0; r <= static_cast<int>(line::Regime::single); ++r) {
    Curve2D curve{line::name_of(static_cast<line::Regime>(r)), {}, {}, true};
    curve.size = 0.9;
    for (std::size_t i = 0; i < x.size(); ++i)
      if (static_cast<int>(regime[i]) == r) {
        curve.x.push_back(x[i]);
        curve.y.push_back(column("height")[i]);
      }
    height.curves.push_back(std::move(curve));
  }
  std::vector<double> bar;
  for (const double p : column("pressure")) bar.push_back(p / 1e5);
  draw_chart(
      fmt::format("{}   t = {}", title, quantity(profile.time, "s")), "distance along the line [m]",
      {height,
       {"holdup", {{"holdup", x, column("holdup")}}},
       {"pressure [bar]", {{"pressure", x, bar}}},
       {"speed [m/s]", {{"liquid", x, column("liquid_velocity")}, {"gas", x, column("gas_velocity"), false, true}}}},
      file);
}

void draw_slugs(const RunFolder& run, const fs::path& file) {
  const fs::path source = run.folder / "tracks.csv";
  std::error_code status;
  if (!fs::exists(source, status))
    throw input_error({"", 0, 0, "--what"}, "no slugs were followed in this run",
                      "set line.slugs = \"follow\" and run it again");
  const Table tracks = read_csv(source);
  // The last fifth of the run: of all of it one would see nothing but dots.
  constexpr double shown = 0.2;
  Curve2D tails{"tail", {}, {}, true};
  Curve2D fronts{"front", {}, {}, true};
  for (std::size_t i = 0; i < tracks.columns[0].size(); ++i) {
    if (tracks.columns[0][i] < (1 - shown) * tracks.columns[0].back()) continue;
    for (auto* curve : {&tails, &fronts}) {
      curve->x.push_back(tracks.columns[curve == &tails ? 2 : 3][i]);
      curve->y.push_back(tracks.columns[0][i]);
    }
  }
  tails.size = fronts.size = 0.3;
  draw_chart(run.title + ": slugs", "distance along the line [m]", {{"time [s]", {tails, fronts}}}, file);
}

namespace {

/// What `check` finds of a line.
struct UnderstoodLine {
  std::vector<LegFlow> flows;
  std::vector<std::vector<std::string>> risers;
  double whole = 0;           ///< length [m]
  double volume = 0;          ///< [m3]
  double held = 0;            ///< of liquid [m3]
  double start_pressure = 0;  ///< at the beginning [Pa]
  double cost = 0;            ///< of the run [s]
  std::vector<std::string> pictures, notes;
};

void draw_line(const CaseFile& the_case, const LineSetup& setup, const line::Model& model, const std::string& picture,
               UnderstoodLine& u) {
  const fs::path profile = fs::path(picture).replace_extension(".profile.csv");
  std::ofstream out(profile);
  out << profile_text(model);
  out.close();
  draw_profile(the_case.title, {0, profile}, picture);
  fs::remove(profile);
  u.pictures.push_back(picture);
  const fs::path map = fs::path(picture).replace_extension("map.png");
  draw_flow_map(setup, the_case.title, u.flows, map);
  u.pictures.push_back(map.string());
}

/// From steps really taken [s].
double line_cost(const LineSetup& setup, line::Model& model) {
  const Stopwatch watch;
  double simulated = 0;
  int steps = 0;
  while (steps < 2000 && watch.seconds() < 0.3 && simulated < setup.schedule.until) {
    simulated += model.step(std::min(model.stable_step(), setup.schedule.until)).dt;
    ++steps;
  }
  return simulated > 0 ? watch.seconds() / simulated * setup.schedule.until : 0;
}

void print_json(const CaseFile& the_case, const LineSetup& setup, const line::Model& model, const UnderstoodLine& u) {
  nlohmann::ordered_json out;
  out["title"] = the_case.title;
  out["sections"] = model.sections().size();
  out["length_m"] = u.whole;
  out["volume_m3"] = u.volume;
  out["liquid_held_m3"] = u.held;
  out["pressure_at_beginning_Pa"] = u.start_pressure;
  for (std::size_t l = 0; l < setup.legs.size(); ++l)
    out["legs"].push_back({{"name", setup.legs[l].name},
                           {"length_m", setup.legs[l].length()},
                           {"rise_m", setup.legs[l].rise()},
                           {"liquid_flux_m_s", u.flows[l].liquid_flux},
                           {"gas_flux_m_s", u.flows[l].gas_flux},
                           {"holdup", u.flows[l].flow.holdup},
                           {"regime", line::name_of(u.flows[l].flow.regime)}});
  for (const auto& row : u.risers) out["risers"].push_back(row[1]);
  out["run_time_s"] = u.cost;
  out["notes"] = u.notes;
  if (!u.pictures.empty()) out["pictures"] = u.pictures;
  fmt::print("{}\n", out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
}

/// The line, what is in it and what comes into it.
std::vector<std::vector<std::string>> rows_of(const CaseFile& the_case, const LineSetup& setup,
                                              const line::Model& model, const UnderstoodLine& u) {
  std::vector<std::vector<std::string>> rows{
      {"line", fmt::format("{} in {} {}, {} cells of about {}; {} of room", quantity(u.whole, "m"), setup.legs.size(),
                           setup.legs.size() == 1 ? "leg" : "legs", model.sections().size(), quantity(setup.cell, "m"),
                           quantity(u.volume, "m3"))},
      {"outlet", setup.closed ? "closed"
                              : fmt::format("{} behind it", setup.outlet_pressure.is_constant()
                                                                ? quantity(setup.outlet_pressure(0), "Pa")
                                                                : setup.outlet_pressure.text())}};
  for (std::size_t p = 0; p < 2; ++p) {
    const auto& q = setup.phases[p].properties;
    rows.push_back(
        {p == 0 ? "phases" : "", fmt::format("{} ({}): {}, {}", setup.phases[p].name, the_case.phase_origins[p],
                                             quantity(q.density, "kg/m3"), quantity(q.viscosity, "Pa.s"))});
  }
  for (std::size_t s = 0; s < setup.sources.size(); ++s) {
    const auto& source = model.sources()[s];
    std::string brings;
    const auto [liquid, gas] = model.brought(source, 0);
    if (source.liquid)
      brings += fmt::format("{:.4g} kg/s of {} = {:.4g} m³/h", liquid, setup.phases[0].name,
                            3600 * liquid / model.media(source.section).liquid_density);
    if (source.gas || source.gas_volume)
      brings += fmt::format("{}{:.4g} kg/s of {} = {:.4g} m³/h there", brings.empty() ? "" : ", ", gas,
                            setup.phases[1].name, 3600 * gas / model.media(source.section).gas_density);
    rows.push_back({s == 0 ? "sources" : "",
                    fmt::format("{} (in {}): {}", source.name, setup.legs[setup.sources[s].leg].name, brings)});
  }
  return rows;
}

std::vector<std::vector<std::string>> leg_rows(const LineSetup& setup, const std::vector<LegFlow>& flows) {
  std::vector<std::vector<std::string>> rows{
      {"leg", "length", "rise", "bore", "liquid", "gas", "holdup", "regime of steady flow"}};
  for (std::size_t l = 0; l < setup.legs.size(); ++l) {
    const auto& leg = setup.legs[l];
    const bool flowing = flows[l].liquid_flux + flows[l].gas_flux > 0;
    rows.push_back({leg.name, quantity(leg.length(), "m"), quantity(leg.rise(), "m"), quantity(leg.diameter, "m"),
                    quantity(flows[l].liquid_flux, "m/s"), quantity(flows[l].gas_flux, "m/s"),
                    flowing ? fmt::format("{:.3f}", flows[l].flow.holdup) : "-",
                    flowing ? line::name_of(flows[l].flow.regime) : "nothing flows"});
  }
  return rows;
}

}  // namespace

int check_line(const CaseFile& the_case, const std::string& picture, bool json) {
  const LineSetup& setup = *line_of(the_case);
  line::Model model = make_line(setup);
  UnderstoodLine u;
  u.flows = leg_flows(setup, model);
  const auto starts = leg_starts(setup);
  for (std::size_t l = 0; l < setup.legs.size(); ++l) u.whole = std::max(u.whole, starts[l] + setup.legs[l].length());
  for (std::size_t i = 0; i < model.sections().size(); ++i) {
    u.volume += model.sections()[i].volume();
    u.held += model.sections()[i].volume() * model.holdup(i);
  }
  u.start_pressure = model.state().pressure[0];
  u.risers = riser_rows(setup, model, u.flows);
  if (!picture.empty()) draw_line(the_case, setup, model, picture, u);
  u.cost = line_cost(setup, model);

  u.notes = the_case.notes;
  constexpr double short_enough = 20;  // diameters
  double longest = 0;
  for (const auto& section : model.sections()) longest = std::max(longest, section.length / section.bore.diameter);
  if (setup.follow_slugs && longest > 1.001 * short_enough)
    u.notes.push_back(fmt::format(
        "slugs are followed in cells of up to {:.0f} diameters: they come out longer and rarer than with {:g} or "
        "less; set line.cell for their sizes, not for pressures and surges",
        longest, short_enough));
  if (json) {
    print_json(the_case, setup, model, u);
    return 0;
  }
  fmt::print("{}\n{}{}", the_case.title, aligned(rows_of(the_case, setup, model, u)),
             aligned(leg_rows(setup, u.flows)));
  auto rows = u.risers;
  rows.push_back(
      {"start", fmt::format("{}: {} of {} in the line, {} at its beginning", setup.steady ? "steady flow" : "at rest",
                            quantity(u.held, "m3"), setup.phases[0].name, quantity(u.start_pressure, "Pa"))});
  rows.push_back({"run", fmt::format("until {}, a profile every {}", quantity(setup.schedule.until, "s"),
                                     quantity(setup.schedule.snapshot_interval, "s"))});
  rows.push_back({"cost", fmt::format("about {}", duration(u.cost))});
  if (!u.pictures.empty()) rows.push_back({"pictures", listing(u.pictures, "and")});
  fmt::print("{}", aligned(rows));
  for (const auto& note : u.notes) fmt::print("{}", wrapped("note: " + note, 100, ""));
  fmt::print("next: wavy run {}\n", the_case.file.string());
  return 0;
}

}  // namespace wavy
