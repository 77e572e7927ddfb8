// compare: several runs beside each other, and what grids tell of the figures without one.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <nlohmann/json.hpp>
#include <numeric>
#include <optional>
#include <utility>
#include <variant>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/grid_convergence.hpp"
#include "base/history_figures.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

struct ComparedRun {
  RunFolder run;
  std::string label;
  Table history;

  /// That the whole vessel would have.
  [[nodiscard]] double cells() const { return static_cast<double>(run.cells) / run.computed_share; }
};

/// A gauge's readings at rising times; empty where the run has no such gauge in that unit.
std::optional<Curve> curve_of(const ComparedRun& one, const std::string& name, const std::string& unit) {
  const int column = one.history.find(name);
  if (column < 0 || one.history.units[static_cast<std::size_t>(column)] != unit) return std::nullopt;
  const auto& readings = one.history.columns[static_cast<std::size_t>(column)];
  std::vector<double> times;
  std::vector<double> values;
  for (std::size_t i = 0; i < readings.size(); ++i) {
    if (std::isnan(readings[i]) || (!times.empty() && one.history.columns[0][i] <= times.back())) continue;
    times.push_back(one.history.columns[0][i]);
    values.push_back(readings[i]);
  }
  if (times.empty()) return std::nullopt;
  return Curve(std::move(times), std::move(values));
}

/// What is made of a history over a window of time.
struct Figures {
  double mean = 0, greatest = 0, least = 0, last = 0;
  double rms = 0;  // size of what is read
};

/// A gauge in all runs, over times that all have.
struct Compared {
  std::string name;
  std::string unit;
  std::vector<Curve> curves;     // by run
  std::vector<Figures> figures;  // of these
};

double greatest_size(const Compared& gauge) {
  double size = 0;
  for (const Figures& one : gauge.figures) size = std::max({size, std::abs(one.least), std::abs(one.greatest)});
  return size;
}

constexpr int instants = 2000;  // at which histories are compared

double instant(const std::array<double, 2>& window, int i) {
  return window[0] + (window[1] - window[0]) * i / instants;
}

/// Share of the window that an instant stands for.
double weight(int i) { return (i == 0 || i == instants ? 0.5 : 1.0) / instants; }

Figures figures_of(const Table& history, const std::string& name, const Curve& curve,
                   const std::array<double, 2>& window) {
  Figures result{0, curve(window[0]), curve(window[0]), curve(window[1]), 0};
  // Extremes are of all readings, also of those between the instants.
  if (const auto own = history_figures(
          history.columns[0], history.columns[static_cast<std::size_t>(history.find(name))], window[0], window[1])) {
    result.greatest = std::max(result.greatest, own->greatest);
    result.least = std::min(result.least, own->least);
  }
  for (int i = 0; i <= instants; ++i) {
    const double value = curve(instant(window, i));
    result.mean += weight(i) * value;
    result.rms += weight(i) * value * value;
  }
  result.rms = std::sqrt(result.rms);
  return result;
}

/// How far one history lies from another.
struct Distance {
  double greatest = 0;  // with its sign
  double at = 0;        // [s]
  double rms = 0;
  double at_end = 0;
};

Distance distance(const Curve& a, const Curve& b, const std::array<double, 2>& window) {
  Distance result;
  for (int i = 0; i <= instants; ++i) {
    const double t = instant(window, i);
    const double off = a(t) - b(t);
    result.rms += weight(i) * off * off;
    if (std::abs(off) > std::abs(result.greatest)) {
      result.greatest = off;
      result.at = t;
    }
    result.at_end = off;
  }
  result.rms = std::sqrt(result.rms);
  return result;
}

/// In how many dimensions cells shrink when their number grows.
int dimensions_of(const ComparedRun& one) {
  if (one.run.line) return 1;
  return std::holds_alternative<Setup<2>>(read_geometry(one.run.folder / "case.toml").setup) ? 2 : 3;
}

/// Size of a run's cells over that of another's with as many dimensions.
double ratio(const ComparedRun& coarse, const ComparedRun& fine, int dimensions) {
  return std::pow(fine.cells() / coarse.cells(), 1.0 / dimensions);
}

/// What three grids say of a figure, in words that tell what may be trusted.
std::string trust_in(const GridConvergence& found, const std::string& unit, double size) {
  using Kind = GridConvergence::Kind;
  const double share = found.index / size;
  const std::string within = fmt::format("to ± {}", quantity(found.index, unit, 3));
  if (found.kind == Kind::exact && found.index == 0) return "the same on all grids";
  if (found.kind == Kind::none)
    return fmt::format("not yet: differences do not fall; it may be off by {}", quantity(found.index, unit, 3));
  const std::string swings = found.kind == Kind::oscillatory ? ", swinging from grid to grid" : "";
  if (share < 0.02) return "yes, " + within + swings;
  if (share < 0.1) return "roughly, " + within + swings;
  return "no, " + within + swings;
}

Rows convergence_rows(const std::vector<Compared>& gauges, const std::vector<ComparedRun>& runs,
                      nlohmann::ordered_json& out) {
  // The three finest, the finest first.
  std::vector<std::size_t> order(runs.size());
  std::iota(order.begin(), order.end(), 0U);
  std::ranges::stable_sort(order, std::greater{}, [&](std::size_t i) { return runs[i].cells(); });
  order.resize(3);
  const int dimensions = dimensions_of(runs[order[0]]);
  const std::array<double, 2> ratios{ratio(runs[order[1]], runs[order[0]], dimensions),
                                     ratio(runs[order[2]], runs[order[1]], dimensions)};
  constexpr double least_ratio = 1.1;
  if (std::ranges::any_of(ratios, [](double r) { return r < least_ratio; })) return {};
  Rows rows{grid_headings()};
  for (const auto& gauge : gauges) {
    for (const auto& [what, member] : {std::pair{"mean", &Figures::mean}, {"greatest", &Figures::greatest}}) {
      std::array<double, 3> values{};
      for (std::size_t k = 0; k < 3; ++k) values[k] = gauge.figures[order[k]].*member;
      const GridConvergence found = grid_convergence(values, ratios);
      rows.push_back(grid_row(gauge.name + ", " + what, gauge.unit, values[0], found,
                              std::max(std::abs(values[0]), gauge.figures[order[0]].rms)));
      out.push_back(
          {{"gauge", gauge.name},
           {"figure", what},
           {"unit", gauge.unit},
           {"values", values},
           {"kind", std::array{"monotonic", "oscillatory", "none", "exact"}[static_cast<std::size_t>(found.kind)]},
           {"order", found.order},
           {"extrapolated", found.extrapolated},
           {"grid_convergence_index", found.index}});
    }
  }
  return rows;
}

Rows difference_rows(const std::vector<Compared>& gauges, const std::vector<ComparedRun>& runs, std::size_t reference,
                     const std::array<double, 2>& window, nlohmann::ordered_json& out) {
  Rows rows{{"gauge", "run", "mean", "greatest", "last", "greatest difference", "rms", "at the end"}};
  for (const auto& gauge : gauges) {
    const std::string& unit = gauge.unit;
    for (std::size_t i = 0; i < runs.size(); ++i) {
      const Figures& own = gauge.figures[i];
      std::vector<std::string> row{i == 0 ? gauge.name : "", runs[i].label, quantity(own.mean, unit),
                                   quantity(own.greatest, unit), quantity(own.last, unit)};
      nlohmann::ordered_json entry{{"gauge", gauge.name}, {"unit", gauge.unit},       {"run", runs[i].label},
                                   {"mean", own.mean},    {"greatest", own.greatest}, {"least", own.least},
                                   {"last", own.last}};
      if (i != reference) {
        const Distance off = distance(gauge.curves[i], gauge.curves[reference], window);
        row.push_back(fmt::format("{} at {}", quantity(off.greatest, unit), quantity(off.at, "s", 3)));
        row.push_back(quantity(off.rms, unit));
        row.push_back(quantity(off.at_end, unit));
        entry["greatest_difference"] = off.greatest;
        entry["greatest_difference_at_s"] = off.at;
        entry["rms_difference"] = off.rms;
        entry["difference_at_end"] = off.at_end;
      }
      rows.push_back(std::move(row));
      out.push_back(std::move(entry));
    }
  }
  return rows;
}

/// Measured readings of a gauge, in SI units.
struct Measured {
  std::string name;
  std::vector<double> time, value;
};

/// Reads them. Throws an input error where the file cannot be read, has no time, or nothing that the runs have too.
std::vector<Measured> read_measured(const std::string& file, const std::vector<Compared>& gauges,
                                    const std::array<double, 2>& window) {
  std::vector<Measured> result;
  if (file.empty()) return result;
  const Table table = measured_table(file);
  std::vector<std::string> known;
  for (const auto& gauge : gauges) known.push_back(gauge.name);
  const std::vector<double> times = measured_column(table, "time", "s", file);
  for (const auto& gauge : gauges) {
    if (table.find(gauge.name) < 0) continue;
    const auto values = measured_column(table, gauge.name, gauge.unit, file);
    Measured one{gauge.name, {}, {}};
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (std::isnan(values[i]) || !(times[i] >= window[0] && times[i] <= window[1])) continue;
      one.time.push_back(times[i]);
      one.value.push_back(values[i]);
    }
    if (!one.time.empty()) result.push_back(std::move(one));
  }
  if (result.empty())
    throw input_error(
        {file, 1, 0, ""},
        fmt::format("none of its columns is a gauge of these runs with readings from {} to {}",
                    quantity(window[0], "s"), quantity(window[1], "s")),
        known.empty() ? "the runs have no gauge in common" : "name its columns as " + listing(known, "or"));
  return result;
}

/// Each run less what was measured, at the times of the measurements.
Rows measured_rows(const std::vector<Measured>& measured, const std::vector<Compared>& gauges,
                   const std::vector<ComparedRun>& runs, nlohmann::ordered_json& out) {
  Rows rows{{"gauge", "run", "readings", "greatest difference", "mean", "rms", "rms over the range"}};
  for (const auto& one : measured) {
    const auto& gauge = *std::ranges::find(gauges, one.name, &Compared::name);
    const auto [least, greatest] = std::ranges::minmax(one.value);
    for (std::size_t r = 0; r < runs.size(); ++r) {
      Distance off;
      double mean = 0;
      for (std::size_t i = 0; i < one.time.size(); ++i) {
        const double difference = gauge.curves[r](one.time[i]) - one.value[i];
        mean += difference / static_cast<double>(one.time.size());
        off.rms += difference * difference / static_cast<double>(one.time.size());
        if (std::abs(difference) < std::abs(off.greatest)) continue;
        off.greatest = difference;
        off.at = one.time[i];
      }
      off.rms = std::sqrt(off.rms);
      rows.push_back({r == 0 ? one.name : "", runs[r].label, fmt::format("{}", one.time.size()),
                      fmt::format("{} at {}", quantity(off.greatest, gauge.unit), quantity(off.at, "s", 3)),
                      quantity(mean, gauge.unit), quantity(off.rms, gauge.unit),
                      greatest > least ? fmt::format("{:.1f} %", 100 * off.rms / (greatest - least)) : "-"});
      out.push_back({{"gauge", one.name},
                     {"unit", gauge.unit},
                     {"run", runs[r].label},
                     {"readings", one.time.size()},
                     {"greatest_difference", off.greatest},
                     {"greatest_difference_at_s", off.at},
                     {"mean_difference", mean},
                     {"rms_difference", off.rms}});
    }
  }
  return rows;
}

/// Pictures of the runs must be of vessels with snapshots. Throws an input error that names the option.
void require_vessels(const std::vector<ComparedRun>& runs, const char* option) {
  for (const auto& one : runs) {
    if (one.run.line) throw input_error({"", 0, 0, option}, "lines have no fields", "leave it out");
    if (one.run.snapshots.empty())
      throw input_error({one.run.folder.string(), 0, 0, ""}, "the run has no snapshots", "leave it out");
  }
}

/// The times of pictures, with units.
std::vector<std::string> picture_times(const CompareRequest& request, const std::vector<ComparedRun>& runs) {
  if (!request.at.empty()) return request.at;
  double last = 1e300;
  for (const auto& one : runs) last = std::min(last, one.run.snapshots.back().time);
  return {fmt::format("{:.17g} s", last)};
}

void draw_overlaid(const CompareRequest& request, const std::vector<ComparedRun>& runs) {
  require_vessels(runs, "--interfaces");
  const auto times = picture_times(request, runs);
  constexpr std::size_t most = 9;
  if (times.size() > most)
    throw input_error({"", 0, 0, "--at"}, "more than nine times do not fit onto a page", "leave some out");
  PictureOptions options = picture_options(runs.front().run, "fraction", request.section, {});
  if (times.size() > 1) {
    options.width = 860;
    options.height = 600;
  }
  std::vector<std::vector<OverlaidSnapshot>> pages;
  for (const auto& time : times) {
    pages.emplace_back();
    for (const auto& one : runs) {
      const auto& snapshot = snapshot_at(one.run, time);
      // Each run has snapshots at its own times.
      const bool apart = std::abs(snapshot.time - snapshot_at(runs.front().run, time).time) > 1e-6;
      pages.back().push_back(
          {apart ? fmt::format("{} at {}", one.label, quantity(snapshot.time, "s", 3)) : one.label, snapshot});
    }
  }
  draw_interfaces(pages, runs.front().run.title, options, request.interfaces);
}

/// One field of every run against that of the reference.
Rows field_rows(const CompareRequest& request, const std::vector<ComparedRun>& runs, std::size_t reference,
                nlohmann::ordered_json& out) {
  require_vessels(runs, "--field");
  const auto times = picture_times(request, runs);
  if (times.size() > 1) throw input_error({"", 0, 0, "--at"}, "a field is compared at one time", "name one");
  PictureWords words;
  words.range = request.range;
  const PictureOptions options = picture_options(runs[reference].run, request.field, request.section, words);
  const std::string& unit = options.quantity->unit;
  Rows rows{{request.field, "time", "rms difference", "of the rms itself", "greatest", "at"}};
  const auto& own = snapshot_at(runs[reference].run, times[0]);
  for (std::size_t i = 0; i < runs.size(); ++i) {
    if (i == reference) continue;
    const auto& other = snapshot_at(runs[i].run, times[0]);
    const FieldDifference found = compare_fields(
        own, other, fmt::format("{} less {}", runs[reference].label, runs[i].label), options, request.difference);
    const auto& p = found.place;
    rows.push_back(
        {fmt::format("{} less {}", runs[reference].label, runs[i].label), quantity(other.time, "s"),
         quantity(found.mean_square, unit, 3),
         found.size > 0 ? fmt::format("{:.2g} %", 100 * found.mean_square / found.size) : "-",
         quantity(found.greatest, unit, 3),
         fmt::format("({}, {}, {})", quantity(p[0], "m", 3), quantity(p[1], "m", 3), quantity(p[2], "m", 3))});
    out.push_back({{"field", request.field},
                   {"unit", unit},
                   {"run", runs[i].label},
                   {"less_than", runs[reference].label},
                   {"time_s", other.time},
                   {"rms_difference", found.mean_square},
                   {"rms", found.size},
                   {"greatest_difference", found.greatest},
                   {"greatest_at_m", found.place}});
  }
  return rows;
}

/// What pictures and fields cannot be asked for together. Throws an input error.
void check_request(const CompareRequest& request) {
  const auto refuse = [](const char* option, const char* what, const char* remedy) {
    throw input_error({"", 0, 0, option}, what, remedy);
  };
  for (const auto& [option, file] :
       {std::pair{"--interfaces", request.interfaces}, {"--difference", request.difference}})
    if (!file.empty() && fs::path(file).extension() != ".png")
      refuse(option, "it is drawn as .png", "choose such a name");
  if (!request.difference.empty() && request.field.empty())
    refuse("--difference", "of what is not said", "name a field with --field");
  if (!request.difference.empty() && request.folders.size() != 2)
    refuse("--difference", "it is that of two runs", "name two");
  if (request.interfaces.empty() && request.field.empty() && (!request.at.empty() || !request.section.empty()))
    refuse(request.at.empty() ? "--section" : "--at", "it goes with --interfaces or --field", "add one of them");
  if (request.difference.empty() && !request.range.empty()) refuse("--range", "it goes with --difference", "add it");
}

void draw_compared(const std::vector<Compared>& gauges, const std::vector<ComparedRun>& runs,
                   const std::vector<Measured>& measured, const std::array<double, 2>& window, const fs::path& file) {
  constexpr std::size_t most = 6;
  std::vector<Panel> panels;
  std::vector<const Compared*> shown;  // what was measured too comes first
  for (const bool first : {true, false})
    for (const auto& gauge : gauges)
      if ((std::ranges::find(measured, gauge.name, &Measured::name) != measured.end()) == first)
        shown.push_back(&gauge);
  for (const auto* one : shown) {
    const Compared& gauge = *one;
    if (panels.size() == most) break;
    Panel panel;
    for (std::size_t i = 0; i < runs.size(); ++i) {
      Curve2D curve{panels.empty() ? runs[i].label : "", {}, {}};  // once
      // At its own times, so that no peak falls between.
      curve.x.push_back(window[0]);
      for (const double time : runs[i].history.columns[0])
        if (time > window[0] && time < window[1]) curve.x.push_back(time);
      curve.x.push_back(window[1]);
      for (const double time : curve.x) curve.y.push_back(gauge.curves[i](time));
      panel.curves.push_back(std::move(curve));
    }
    if (const auto found = std::ranges::find(measured, gauge.name, &Measured::name); found != measured.end()) {
      Curve2D points{panels.empty() ? "measured" : "", found->time, found->value, true};
      points.size = 0.9;
      panel.curves.push_back(std::move(points));
    }
    set_unit_alone(gauge.unit, panel);
    panel.heading = gauge.name;
    panels.push_back(std::move(panel));
  }
  draw_chart(runs.front().run.title, "time [s]", panels, file);
}

std::vector<ComparedRun> open_runs(const std::vector<std::string>& folders) {
  if (folders.size() < 2)
    throw input_error({"", 0, 0, "runs"}, "there is one run only", "name two or more, as in coarse.run fine.run");
  std::vector<ComparedRun> runs;
  for (const auto& folder : folders) {
    ComparedRun one{open_run_folder(folder), fs::path(folder).lexically_normal().filename().string(), {}};
    if (one.label.empty()) one.label = fs::path(folder).lexically_normal().parent_path().filename().string();
    for (const auto& other : runs) {
      if (fs::equivalent(other.run.folder, one.run.folder))
        throw input_error({"", 0, 0, "runs"}, fmt::format("'{}' is named twice", folder), "name different runs");
      if (other.label == one.label) one.label = folder;  // in another folder
    }
    if (!runs.empty() && runs.front().run.line != one.run.line)
      throw input_error({"", 0, 0, "runs"}, "a vessel and a line have nothing to compare", "name runs of one kind");
    long left_out = 0;
    one.history = read_csv(one.run.folder / "history.csv", &left_out);
    note_state(one.run, left_out);
    if (one.history.columns[0].empty())
      throw input_error({one.run.folder.string(), 0, 0, ""}, "the run has an empty history", "leave it out");
    runs.push_back(std::move(one));
  }
  return runs;
}

}  // namespace

Table measured_table(const std::string& file) {
  long left_out = 0;
  Table table = read_csv(file, &left_out);
  if (left_out > 0 && !quiet())
    fmt::print(stderr, "note: {} {} of '{}' {} left out: without a number\n", left_out, left_out == 1 ? "row" : "rows",
               file, left_out == 1 ? "is" : "are");
  return table;
}

std::vector<double> measured_column(const Table& table, const std::string& name, const std::string& unit,
                                    const std::string& file) {
  const auto wrong = [&](const std::string& what, const std::string& remedy) {
    return input_error({file, 1, 0, ""}, what, remedy);
  };
  const std::string example = unit == "1" ? name : fmt::format("{} [{}]", name, unit);
  const int found = table.find(name);
  if (found < 0) throw wrong(fmt::format("there is no column '{}'", name), fmt::format("name it '{}'", example));
  const auto c = static_cast<std::size_t>(found);
  std::vector<double> values = table.columns[c];
  const std::string& written = table.units[c];
  if (written.empty() && unit != "1")
    throw wrong(fmt::format("the column '{}' has no unit", name), fmt::format("write, for example, '{}'", example));
  if (written.empty()) return values;
  const auto own = scale_to_si(written);
  if (!own || own->powers != powers_of({"", unit, ""}))
    throw wrong(fmt::format("the column '{}' is in '{}'", name, written),
                fmt::format("write, for example, '{}'", example));
  for (double& value : values) value = own->factor * value + own->offset;
  return values;
}

std::vector<std::string> grid_headings() {
  return {"figure", "finest grid", "order", "without a grid", "to be trusted"};
}

std::vector<std::string> grid_row(const std::string& name, const std::string& unit, double finest,
                                  const GridConvergence& found, double size) {
  return {name, quantity(finest, unit), found.order > 0 ? fmt::format("{:.2g}", found.order) : "-",
          quantity(found.extrapolated, unit), trust_in(found, unit, size)};
}

Comparison comparison(const CompareRequest& request) {
  check_request(request);
  const auto runs = open_runs(request.folders);
  double end = runs.front().history.columns[0].back();
  for (const auto& one : runs) end = std::min(end, one.history.columns[0].back());
  const auto window = read_window(request.from, request.to, end);
  std::vector<Compared> gauges;
  const Table& first = runs.front().history;
  for (std::size_t c = 1; c < first.names.size(); ++c) {
    Compared gauge{first.names[c], first.units[c], {}, {}};
    for (const auto& one : runs)
      if (auto curve = curve_of(one, gauge.name, gauge.unit)) {
        gauge.figures.push_back(figures_of(one.history, gauge.name, *curve, window));
        gauge.curves.push_back(std::move(*curve));
      }
    if (gauge.curves.size() == runs.size()) gauges.push_back(std::move(gauge));
  }
  const auto measured = read_measured(request.measured, gauges, window);
  // Differences are told from the run with the most cells.
  const auto finest = static_cast<std::size_t>(
      std::ranges::max_element(runs, {}, [](const auto& one) { return one.cells(); }) - runs.begin());

  Comparison result;
  auto& out = result.json;
  out = {{"from_s", window[0]}, {"to_s", window[1]}, {"reference", runs[finest].label}};
  result.about = fmt::format("from {} to {}; differences are from {}", quantity(window[0], "s"),
                             quantity(window[1], "s"), runs[finest].label);
  result.runs = {{"run", "title", "cells", "steps", "wall time", "state"}};
  for (const auto& one : runs) {
    result.runs.push_back({one.label, one.run.title, fmt::format("{}", one.run.cells), fmt::format("{}", one.run.steps),
                           duration(one.run.wall_seconds), one.run.status});
    out["runs"].push_back({{"run", one.label},
                           {"title", one.run.title},
                           {"cells", one.run.cells},
                           {"steps", one.run.steps},
                           {"wall_time_s", one.run.wall_seconds},
                           {"status", one.run.status}});
  }
  // What never changes and is the same in all, as volumes of phases in a closed vessel, is said in one line; so is what
  // is nothing, as what passes an opening of a phase that is never there.
  std::map<std::string, double> greatest;  // by unit
  for (const Compared& gauge : gauges) greatest[gauge.unit] = std::max(greatest[gauge.unit], greatest_size(gauge));
  std::erase_if(gauges, [&](const Compared& gauge) {
    if (std::ranges::find(measured, gauge.name, &Measured::name) != measured.end()) return false;
    constexpr double round_off = 1e-10;
    const double value = gauge.figures.front().least;
    const bool is_same = std::ranges::all_of(
        gauge.figures, [&](const Figures& one) { return one.least == value && one.greatest == value; });
    const bool is_none = !is_same && greatest_size(gauge) <= round_off * greatest[gauge.unit];
    if (!is_same && !is_none) return false;
    std::string& names = is_same ? result.same : result.none;
    names += fmt::format("{}{}", names.empty() ? "" : ", ", gauge.name);
    out[is_same ? "same" : "none"].push_back(gauge.name);
    return true;
  });
  if (!gauges.empty()) result.differences = difference_rows(gauges, runs, finest, window, out["gauges"]);
  if (runs.size() >= 3) result.grids = convergence_rows(gauges, runs, out["grids"]);
  if (!request.chart.empty() && gauges.empty())
    throw input_error({"", 0, 0, "--chart"}, "no gauge that changes is in all of these runs", "leave it out");
  if (!measured.empty()) result.measured = measured_rows(measured, gauges, runs, out["measured"]);
  if (!request.field.empty()) result.fields = field_rows(request, runs, finest, out["fields"]);
  if (!request.interfaces.empty()) draw_overlaid(request, runs);
  if (!request.chart.empty()) draw_compared(gauges, runs, measured, window, request.chart);
  return result;
}

int compare(const CompareRequest& request) {
  const Comparison found = comparison(request);
  if (request.json) {
    fmt::print("{}\n", found.json.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
    return 0;
  }
  fmt::print("{}{}\n", aligned(found.runs), found.about);
  if (found.differences.empty() && found.same.empty()) fmt::print("  no gauge is in all of them\n");
  if (!found.differences.empty()) fmt::print("{}", aligned(found.differences));
  if (!found.same.empty()) fmt::print("  the same at all times in all runs: {}\n", found.same);
  if (!found.none.empty()) fmt::print("  nothing but round-off: {}\n", found.none);
  if (!found.grids.empty()) fmt::print("{}", aligned(found.grids));
  if (!found.measured.empty()) fmt::print("against what was measured\n{}", aligned(found.measured));
  if (!found.fields.empty()) fmt::print("{}", aligned(found.fields));
  for (const auto& file : {request.chart, request.interfaces, request.difference})
    if (!file.empty()) fmt::print("wrote {}\n", file);
  return 0;
}

}  // namespace wavy
