// draw: pictures and charts from a run folder.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>
#include <optional>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/case_file.hpp"
#include "figures/chart.hpp"
#include "figures/picture.hpp"
#include "results/run_folder.hpp"

namespace wavy {
void set_unit(const std::string& kind, Panel& panel) {
  static const std::map<std::string, std::string> titles{
      {"m", "level [m]"},      {"Pa", "pressure [Pa]"}, {"m3", "volume [m³]"}, {"m/s", "speed [m/s]"},
      {"N", "force [N]"},      {"N m", "moment [N m]"}, {"J", "energy [J]"},   {"1", "share or number"},
      {"m2", "area [m²]"},     {"W", "power [W]"},      {"1/s", "rate [1/s]"}, {"kg/s", "mass flow [kg/s]"},
      {"m3/s", "flow [m³/s]"}, {"opening", "opening"},  {"slugs", "slugs"}};
  struct Better {
    const char* kind;
    double from, below, factor;
    const char* title;
  };
  static constexpr std::array<Better, 5> better{{{"Pa", 1e5, 1e99, 1e-5, "pressure [bar]"},
                                                 {"N", 1e3, 1e99, 1e-3, "force [kN]"},
                                                 {"Pa", 1e3, 1e5, 1e-3, "pressure [kPa]"},
                                                 {"m3", 0, 0.1, 1e3, "volume [L]"},
                                                 {"m3/s", 0, 0.1, 1e3, "flow [L/s]"}}};
  double greatest = 0;
  for (const auto& curve : panel.curves)
    for (const double y : curve.y)
      if (!std::isnan(y)) greatest = std::max(greatest, std::abs(y));
  const auto found = titles.find(kind);
  panel.y_title = found == titles.end() ? fmt::format("[{}]", kind) : found->second;
  const auto* unit = std::ranges::find_if(
      better, [&](const Better& one) { return one.kind == kind && greatest >= one.from && greatest < one.below; });
  if (unit == better.end()) return;
  panel.y_title = unit->title;
  for (auto& curve : panel.curves)
    for (double& y : curve.y) y *= unit->factor;
}

void set_unit_alone(const std::string& kind, Panel& panel) {
  set_unit(kind, panel);
  const auto unit = panel.y_title.find('[');
  panel.y_title = unit == std::string::npos ? "" : panel.y_title.substr(unit);
}

namespace {

namespace fs = std::filesystem;

/// Whether a flow of one way alone, "_in" or "_out", says something that the net flow does not.
bool both_ways(const Table& history, std::size_t column) {
  const std::string& name = history.names[column];
  const auto [net, inwards, outwards] = flow_ways;
  for (const std::string way : {inwards, outwards}) {
    if (!name.ends_with(way) || history.units[column] != "m3/s") continue;
    const std::string stem = name.substr(0, name.size() - way.size());
    const int in = history.find(stem + inwards);
    const int out = history.find(stem + outwards);
    if (in < 0 || out < 0 || history.find(stem + net) < 0) continue;
    double least = 0;  // of what goes both ways at a time
    double greatest = 0;
    for (std::size_t i = 0; i < history.columns[0].size(); ++i) {
      const double a = history.columns[static_cast<std::size_t>(in)][i];
      const double b = history.columns[static_cast<std::size_t>(out)][i];
      least = std::max(least, std::min(a, b));
      greatest = std::max({greatest, a, b});
    }
    constexpr double notable = 0.02;
    return least > notable * greatest;
  }
  return true;
}

/// The solids of a run's case; nothing where the case as run cannot be read any more.
std::optional<SolidShapes> solids_of(const RunFolder& run) {
  try {
    const CaseFile the_case = read_geometry(run.folder / "case.toml");
    return with_vessel(the_case, [](const auto& setup) { return std::optional(solid_shapes(setup)); });
  } catch (const Error&) {
    return std::nullopt;
  }
}

/// All gauges over time, one panel per unit; the phases' volumes are constant in a closed vessel and stay out.
void draw_history(const RunFolder& run, const fs::path& file) {
  long left_out = 0;
  const Table history = read_csv(run.folder / "history.csv", &left_out);
  note_state(run, left_out);
  std::vector<Panel> panels;
  std::map<std::string, std::size_t> panel_of;
  for (std::size_t c = 1; c < history.names.size(); ++c) {
    if (run.line && history.names[c].ends_with("_mass")) continue;
    if (history.names[c] == run.phases[0] + "_volume" || history.names[c] == run.phases[1] + "_volume") continue;
    if (!both_ways(history, c)) continue;
    // Among pure numbers there are shares that liquid fills, openings of valves and counts of slugs.
    std::string kind = history.units[c];
    if (kind == "1" && history.names[c].ends_with("_opening")) kind = "opening";
    if (kind == "1" && std::ranges::any_of(history.columns[c], [](double value) { return value > 1.5; }))
      kind = "slugs";
    const auto [at, fresh] = panel_of.try_emplace(kind, panels.size());
    if (fresh) panels.emplace_back();
    panels[at->second].curves.push_back({history.names[c], history.columns[0], history.columns[c]});
  }
  // What was estimated before the run, as long as the run goes.
  std::vector<fs::path> estimates;
  std::error_code none;
  for (const auto& entry : fs::directory_iterator(run.folder / "estimates", none)) estimates.push_back(entry.path());
  std::sort(estimates.begin(), estimates.end());
  for (const auto& path : estimates) {
    const Table estimate = read_csv(path);
    const auto found = panel_of.find(estimate.units[1]);
    if (found == panel_of.end() || estimate.columns[0].empty()) continue;
    Curve2D curve{estimate.names[1], {}, {}, false, true};
    for (std::size_t i = 0; i < estimate.columns[0].size() && estimate.columns[0][i] <= history.columns[0].back();
         ++i) {
      curve.x.push_back(estimate.columns[0][i]);
      curve.y.push_back(estimate.columns[1][i]);
    }
    panels[found->second].curves.push_back(std::move(curve));
  }
  for (const auto& [kind, number] : panel_of) set_unit(kind, panels[number]);
  draw_chart(run.title, "time [s]", panels, file);
}

std::string without_blanks(std::string text) {
  std::erase(text, ' ');
  return text;
}

/// "y = 0.4 m" as a plane.
SectionPlane section_plane(const std::string& text) {
  const auto wrong = [&](const std::string& what) {
    return input_error({"", 0, 0, "--section"}, what, "write, for example, --section 'y = 0.4 m'");
  };
  const auto equals = text.find('=');
  const std::string axis = without_blanks(text.substr(0, equals));
  if (equals == std::string::npos || axis.size() != 1 || axis.find_first_of("xyz") == std::string::npos)
    throw wrong(fmt::format("'{}' does not name a plane across an axis", text.substr(0, 60)));
  UnitProblem problem;
  const auto place = read_quantity(text.substr(equals + 1), dimension::length, problem);
  if (!place) throw wrong(problem.what);
  return {axis[0] - 'x', *place};
}

/// "0 m/s to 2 m/s", in a unit of the quantity.
std::array<double, 2> colour_range(const std::string& text, const Quantity& quantity) {
  const auto wrong = [&](const std::string& what) {
    const std::string unit = quantity.unit == "1" ? "" : " " + quantity.unit;
    return input_error({"", 0, 0, "--range"}, what, fmt::format("write, for example, --range '0{0} to 2{0}'", unit));
  };
  const auto middle = text.find(" to ");
  if (middle == std::string::npos) throw wrong(fmt::format("'{}' is no range", text.substr(0, 60)));
  const Dimension wanted{quantity.name, quantity.unit, "0"};
  std::array<double, 2> range{};
  for (const auto& [part, end] :
       {std::pair{text.substr(0, middle), range.data()}, {text.substr(middle + 4), range.data() + 1}}) {
    UnitProblem problem;
    const auto value = read_quantity(trimmed(part), wanted, problem);
    if (!value) throw wrong(problem.what);
    *end = *value;
  }
  if (!(range[1] > range[0])) throw wrong("its end is not above its beginning");
  return range;
}

}  // namespace

const SnapshotFile& snapshot_at(const RunFolder& run, const std::string& at) {
  if (at.empty()) return run.snapshots.back();
  UnitProblem problem;
  const auto time = read_quantity(at, dimension::time, problem);
  if (!time) throw input_error({"", 0, 0, "--at"}, problem.what, problem.remedy);
  if (*time < 0 || *time > run.snapshots.back().time * (1 + 1e-9))
    throw input_error({"", 0, 0, "--at"},
                      fmt::format("the run reaches from 0 s to {}", quantity(run.snapshots.back().time, "s")),
                      "choose a time within");
  return *std::min_element(run.snapshots.begin(), run.snapshots.end(),
                           [&](const SnapshotFile& a, const SnapshotFile& b) {
                             return std::abs(a.time - *time) < std::abs(b.time - *time);
                           });
}

PictureOptions picture_options(const RunFolder& run, const std::string& what, const std::string& section,
                               const std::string& range) {
  PictureOptions options;
  options.quantity = find_quantity(what);
  if (!section.empty()) options.section = section_plane(section);
  if (!range.empty()) options.range = colour_range(range, *options.quantity);
  options.solids = solids_of(run);
  return options;
}

void note_state(const RunFolder& run, long left_out) {
  if (run.status == "killed" || run.status == "failed" || run.status == "still going on")
    fmt::print(stderr, "note: this run {}{}; what it wrote until t = {} is here{}\n",
               run.status == "killed"   ? "was "
               : run.status == "failed" ? ""
                                        : "is ",
               run.status, quantity(run.ended_at, "s"),
               run.status == "killed" ? "; to go on: wavy resume " + run.folder.string() : "");
  if (left_out > 0)
    fmt::print(stderr, "note: {} {} of the history {} left out: cut off, or not finite\n", left_out,
               left_out == 1 ? "row" : "rows", left_out == 1 ? "is" : "are");
}

int draw_run(const DrawRequest& request) {
  const RunFolder run = open_run_folder(request.folder);
  fs::path file = request.to;
  const SnapshotFile& snapshot = snapshot_at(run, request.at);
  if (file.empty()) {
    std::error_code status;
    fs::create_directories(run.folder / "figures", status);
    if (status)
      throw failure(fmt::format("'{}' cannot be made: {}", (run.folder / "figures").string(), status.message()),
                    "name a file elsewhere with --to");
    const std::string cut = request.section.empty() ? "" : "-section";
    file = run.folder / "figures" /
           (request.what == "history"
                ? "history.png"
                : fmt::format("{}{}-{:.3f}s.png", run.line && request.what != "slugs" ? "profile" : request.what, cut,
                              snapshot.time));
  }
  const std::string ending = file.extension().string();
  const bool chart = request.what == "history";
  if (run.line && !chart && request.what != "profile" && request.what != "fraction" && request.what != "slugs")
    throw input_error({"", 0, 0, "--what"}, fmt::format("a line has no picture of its {}", request.what),
                      "choose profile, slugs or history");
  if (!run.line && (request.what == "profile" || request.what == "slugs"))
    throw input_error({"", 0, 0, "--what"}, "a vessel is no line", "choose fraction, speed or history");
  if (run.line && (request.cells || !request.section.empty()))
    throw input_error({"", 0, 0, request.cells ? "--cells" : "--section"}, "a line has none", "leave it out");
  if ((chart || run.line) && !request.range.empty())
    throw input_error({"", 0, 0, "--range"}, "a chart has no colours", "leave it out");
  if (ending != ".png" && !((chart || run.line) && (ending == ".svg" || ending == ".pdf")))
    throw input_error(
        {"", 0, 0, "--to"},
        fmt::format("'{}' does not end in {}", file.string(), chart || run.line ? ".png, .svg or .pdf" : ".png"),
        "choose such a name");
  if (request.what == "slugs") {
    draw_slugs(run, file);
  } else if (run.line && !chart) {
    draw_profile(run.title, snapshot, file);
  } else if (chart) {
    if (!request.section.empty())
      throw input_error({"", 0, 0, "--section"}, "a chart of the history has no section", "leave it out");
    draw_history(run, file);
  } else {
    PictureOptions options = picture_options(run, request.what, request.section, request.range);
    options.cells = request.cells;
    draw_snapshot(snapshot, run.title, run.phases, options, file);
  }
  if (!chart) note_state(run);
  fmt::print("wrote {}\n", file.string());
  return 0;
}

}  // namespace wavy
