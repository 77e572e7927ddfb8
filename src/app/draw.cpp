// draw: pictures and charts from a run folder.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
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

}  // namespace

void draw_history(const RunFolder& run, const fs::path& file) {
  long left_out = 0;
  const Table history = read_csv(run.folder / "history.csv", &left_out);
  note_state(run, left_out);
  std::vector<Panel> panels;
  std::map<std::string, std::size_t> panel_of;
  for (std::size_t c = 1; c < history.names.size(); ++c) {
    if (run.line && history.names[c].ends_with("_mass")) continue;
    const auto is_volume = [&](const std::string& phase) { return history.names[c] == phase + "_volume"; };
    if (std::ranges::any_of(run.phases, is_volume)) continue;
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

void note_state(const RunFolder& run, long left_out) {
  if (quiet()) return;
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

namespace {

/// What is asked for, complete.
struct Wanted {
  PictureSubjects subjects;
  PictureWords words;
  std::vector<const SnapshotFile*> snapshots;
  bool chart = false;  ///< by gnuplot
};

/// Throws an input error for what does not go together.
void check_wanted(const RunFolder& run, const Wanted& wanted, const fs::path& file) {
  const auto refuse = [](const char* option, const std::string& what, const std::string& remedy) {
    throw input_error({"", 0, 0, option}, what, remedy);
  };
  const auto& what = wanted.subjects.what;
  const auto is = [&](const char* name) { return std::ranges::find(what, name) != what.end(); };
  if (!run.line && (is("profile") || is("slugs")))
    refuse("--what", "a vessel is no line", "choose fraction, speed or history");
  for (const auto& name : what)
    if (run.line && name != "history" && name != "profile" && name != "slugs")
      refuse("--what", fmt::format("a line has no picture of its {}", name), "choose profile, slugs or history");
  const std::size_t count =
      what.size() * wanted.snapshots.size() * std::max<std::size_t>(1, wanted.subjects.sections.size());
  if (wanted.chart && count > 1)
    refuse(what.size() > 1               ? "--what"
           : wanted.snapshots.size() > 1 ? "--at"
                                         : "--section",
           "a chart stands alone on its page", "ask for one at a time");
  constexpr std::size_t most = 9;
  if (count > most)
    refuse("--what", fmt::format("{} pictures do not fit onto one page", count), "ask for nine at most");
  const PictureWords& words = wanted.words;
  const auto refuse_on_chart = [&](const char* option, bool given, const char* has) {
    if (wanted.chart && given)
      refuse(option, std::string(what.front() == "history" ? "a chart of the history" : "a line") + has,
             "leave it out");
  };
  refuse_on_chart("--section", !wanted.subjects.sections.empty(), " has no section");
  refuse_on_chart("--cells", words.cells, " shows no cells");
  refuse_on_chart("--range", !words.range.empty() || !words.scale.empty(), " has no colours");
  refuse_on_chart("--lines", words.lines > 0, " has no lines of equal value");
  refuse_on_chart("--surface", !words.surfaces.empty() || !words.cut_open.empty(), " has no surfaces");
  refuse_on_chart("--arrows", words.arrows || words.streamlines || words.unsmoothed, " shows no field");
  const std::string ending = file.extension().string();
  if (ending != ".png" && !(wanted.chart && (ending == ".svg" || ending == ".pdf")))
    refuse("--to", fmt::format("'{}' does not end in {}", file.string(), wanted.chart ? ".png, .svg or .pdf" : ".png"),
           "choose such a name");
}

/// The standard place of a picture, whose folder is made.
fs::path standard_file(const RunFolder& run, const Wanted& wanted) {
  std::error_code status;
  fs::create_directories(run.folder / "figures", status);
  if (status)
    throw failure(fmt::format("'{}' cannot be made: {}", (run.folder / "figures").string(), status.message()),
                  "name a file elsewhere with --to");
  const std::string& what = wanted.subjects.what.front();
  if (what == "history") return run.folder / "figures" / "history.png";
  const bool many = wanted.subjects.what.size() * wanted.snapshots.size() > 1 || wanted.subjects.sections.size() > 1;
  return run.folder / "figures" /
         fmt::format("{}{}-{:.3f}s.png", run.line && what != "slugs" ? "profile" : what,
                     many                               ? "-page"
                     : wanted.subjects.sections.empty() ? ""
                                                        : "-section",
                     wanted.snapshots.front()->time);
}

/// All pictures of a page: times go down it, what is shown goes across, or the sections.
void draw_fields(const RunFolder& run, const Wanted& wanted, const fs::path& file) {
  std::vector<std::string> sections = wanted.subjects.sections;
  if (sections.empty()) sections.emplace_back();
  std::vector<PictureOptions> kinds;
  for (const auto& what : wanted.subjects.what)
    for (const auto& section : sections) kinds.push_back(picture_options(run, what, section, wanted.words));
  std::vector<PictureOf> pictures;
  for (const auto* snapshot : wanted.snapshots)
    for (const auto& kind : kinds) pictures.push_back({*snapshot, kind});
  if (pictures.size() == 1) {
    draw_snapshot(pictures[0].snapshot, run.title, run.phases, pictures[0].options, file);
    return;
  }
  const std::size_t across = kinds.size() > 1 && kinds.size() <= 3 ? kinds.size() : pictures.size() > 4 ? 3 : 2;
  constexpr int width = 860;
  constexpr int height = 600;
  for (auto& one : pictures) {
    one.options.width = width;
    one.options.height = height;
  }
  draw_page(pictures, across, run.title, run.phases, file);
}

}  // namespace

int draw_run(const DrawRequest& request) {
  const RunFolder run = open_run_folder(request.folder);
  Wanted wanted{request.subjects, request.words, {}, false};
  read_look(wanted.words, wanted.subjects);
  auto& what = wanted.subjects.what;
  if (what.empty()) what.emplace_back(run.line ? "profile" : run.pictured);
  if (run.line) std::ranges::replace(what, std::string("fraction"), std::string("profile"));
  for (const auto& at : request.at) wanted.snapshots.push_back(&snapshot_at(run, at));
  if (wanted.snapshots.empty()) wanted.snapshots.push_back(&snapshot_at(run, ""));
  wanted.chart = run.line || std::ranges::find(what, "history") != what.end();
  // What is wrong is said before a folder is made.
  check_wanted(run, wanted, request.to.empty() ? fs::path("x.png") : fs::path(request.to));
  const fs::path file = request.to.empty() ? standard_file(run, wanted) : fs::path(request.to);
  if (what.front() == "history")
    draw_history(run, file);
  else if (what.front() == "slugs")
    draw_slugs(run, file);
  else if (run.line)
    draw_profile(run.title, *wanted.snapshots.front(), file);
  else
    draw_fields(run, wanted, file);
  if (what.front() != "history") note_state(run);
  fmt::print("wrote {}\n", file.string());
  return 0;
}

}  // namespace wavy
