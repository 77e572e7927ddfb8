// measure: figures from a run folder, after the run.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "app/line_figures.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/history_figures.hpp"
#include "base/settling.hpp"
#include "base/swings.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "figures/chart.hpp"
#include "results/measured.hpp"
#include "results/run_folder.hpp"
#include "run/mixing.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

/// Rows of a table up to a time, which its first column holds.
Table up_to(Table table, double to) {
  const auto& time = table.columns[0];
  const auto count = std::ranges::upper_bound(time, to) - time.begin();
  for (auto& column : table.columns) column.resize(static_cast<std::size_t>(count));
  return table;
}

/// The case of a run with the gauges that were asked for now.
struct AskedCase {
  CaseFile the_case;
  std::size_t first = 0;  ///< of these gauges
};

AskedCase case_with_gauges(const MeasureRequest& request, const RunFolder& run) {
  AskedCase result{read_case(run.folder / "case.toml")};
  if (run.line) {
    for (const auto& [given, option] :
         {std::pair{!request.distribution.empty(), "--distribution"}, {!request.pieces.empty(), "--pieces"}})
      if (given)
        throw input_error({"", 0, 0, option}, "a line has none",
                          "'wavy draw RUN --what profile' shows it along its length");
  }
  result.first = std::visit([](const auto& setup) { return setup.gauges.size(); }, result.the_case.setup);
  for (const auto& gauge : request.gauges) add_gauges(result.the_case, "gauge = [{" + gauge + "}]", "--gauge");
  if (!request.gauge_file.empty()) add_gauges(result.the_case, fs::path(request.gauge_file));
  return result;
}

/// Files to be written once nothing more can be refused.
using Outputs = std::vector<std::function<void()>>;

/// Refuses what has nothing to do, or two things at once.
void check_request(const MeasureRequest& request, bool line) {
  const bool gauges = !request.gauges.empty() || !request.gauge_file.empty();
  const bool distribution = !request.distribution.empty();
  const bool pieces = !request.pieces.empty();
  if (distribution && pieces)
    throw input_error({"", 0, 0, "--pieces"}, "there is --distribution already", "ask for one at a time");
  if (!request.table.empty() && !gauges && !distribution && !pieces)
    throw input_error({"", 0, 0, "--table"}, "it is for what --gauge, --gauges, --distribution and --pieces read",
                      "give one of them; all that the run measured stands in its history.csv");
  if (!request.map.empty() && !distribution)
    throw input_error({"", 0, 0, "--map"}, "it is a map of a distribution", "add --distribution and a gauge's name");
  for (const auto& [option, given] :
       {std::pair{"--beside", !request.beside.empty()}, {"--measured", !request.measured.empty()}})
    if (given && (!distribution || request.chart.empty()))
      throw input_error({"", 0, 0, option}, "it is drawn with a distribution", "add --distribution and --chart");
  if (request.chart.empty()) return;
  if (distribution && !request.swings.empty())
    throw input_error({"", 0, 0, "--chart"}, "it could be of --distribution or of --swings", "ask for one at a time");
  if (!line && !distribution && request.swings.empty())
    throw input_error({"", 0, 0, "--chart"}, "it is of --distribution, of --swings, or of the receiver behind a line",
                      "give one of the first two; 'wavy draw RUN --what history' draws all gauges");
}

/// Reads snapshots with progress; `read` gets the range.
template <class Read>
auto with_progress(double from, double to, Read&& read) {
  ProgressLine line(true);
  auto result = read(SnapshotRange{from, to, [&](std::size_t done, std::size_t of) {
                                     line.show(fmt::format("snapshot {} of {}", done, of), done == of);
                                   }});
  line.clear();
  return result;
}

void require_snapshots(bool any, const RunFolder& run) {
  if (any) return;
  throw input_error({"", 0, 0, "--from"}, "there is no snapshot between these times",
                    run.snapshots.empty() ? "the run has kept none"
                                          : fmt::format("the run has {} from {} to {}", run.snapshots.size(),
                                                        quantity(run.snapshots.front().time, "s"),
                                                        quantity(run.snapshots.back().time, "s")));
}

/// At most so many of a row of numbers, the first and the last among them.
std::vector<std::size_t> some_of(std::size_t count, std::size_t most) {
  std::vector<std::size_t> result;
  if (count <= most) {
    for (std::size_t i = 0; i < count; ++i) result.push_back(i);
  } else {
    for (std::size_t i = 0; i < most; ++i) result.push_back(i * (count - 1) / (most - 1));
  }
  return result;
}

/// The last distribution, those of other runs at that time, and what was measured.
std::vector<Curve2D> curves_beside(const MeasureRequest& request, const RunFolder& run, const Distribution& found) {
  const auto name = [](const RunFolder& of, double time) {
    return fmt::format("{}, {}", of.folder.lexically_normal().filename().string(), quantity(time, "s", 3));
  };
  const double time = found.time.back();
  std::vector<Curve2D> curves{{name(run, time), found.distance, found.value.back()}};
  for (const auto& folder : request.beside) {
    const RunFolder other = open_run_folder(folder);
    note_state(other);
    const AskedCase asked = case_with_gauges(request, other);
    const double nearest = snapshot_at(other, fmt::format("{:.17g} s", time)).time;
    const Distribution own =
        distribution(other, asked.the_case, request.distribution, "--distribution", {.from = nearest, .to = nearest});
    if (own.quantity != found.quantity)
      throw input_error({"", 0, 0, "--beside"},
                        fmt::format("there '{}' reads {}, not {}", request.distribution, own.quantity, found.quantity),
                        "define one gauge for all of them with --gauge");
    curves.push_back({name(other, nearest), own.distance, own.value.back()});
  }
  if (request.measured.empty()) return curves;
  const Table table = measured_table(request.measured);
  Curve2D points{"measured", measured_column(table, "distance", "m", request.measured),
                 measured_column(table, found.quantity, found.unit, request.measured), true};
  points.size = 0.9;
  curves.push_back(std::move(points));
  return curves;
}

/// The distribution of a gauge's quantity: to be written and drawn, and its least, mean and greatest at some times.
Rows distribution_rows(const MeasureRequest& request, const AskedCase& asked, const RunFolder& run, double from,
                       double to, Outputs& outputs, nlohmann::ordered_json& out) {
  auto found = with_progress(from, to, [&](const SnapshotRange& range) {
    return distribution(run, asked.the_case, request.distribution, "--distribution", range);
  });
  require_snapshots(!found.time.empty(), run);
  const bool drawn = !request.chart.empty() || !request.map.empty();
  if (drawn && found.distance.empty())
    throw input_error({"", 0, 0, request.chart.empty() ? "--map" : "--chart"},
                      "only along a line, or a wall of a 2-D vessel, is there a distance to draw over",
                      "write the values with --table, or choose a gauge along a line");
  const std::string title = fmt::format("{}: {} ({})", run.title, request.distribution, found.quantity);
  if (!request.table.empty())
    outputs.emplace_back([&request, text = csv_text(table_of(found))] { write_file(request.table, text); });
  if (!request.chart.empty()) {
    Panel panel;
    if (request.beside.empty() && request.measured.empty())
      for (const std::size_t i : some_of(found.time.size(), 6))
        panel.curves.push_back({quantity(found.time[i], "s", 3), found.distance, found.value[i]});
    else
      panel.curves = curves_beside(request, run, found);
    set_unit(found.unit, panel);
    outputs.emplace_back([&request, title, panel] { draw_chart(title, "distance [m]", {panel}, request.chart); });
  }
  if (!request.map.empty())
    outputs.emplace_back([&request, title, found] {
      draw_map(title, "distance [m]", "time [s]", fmt::format("{} [{}]", found.quantity, found.unit), found.distance,
               found.time, found.value, request.map);
    });
  Rows rows{{"time", "least", "mean of places", "greatest"}};
  for (const std::size_t i : some_of(found.time.size(), 12)) {
    std::vector<double> values;
    for (const double value : found.value[i])
      if (!std::isnan(value)) values.push_back(value);
    if (values.empty()) {
      rows.push_back({quantity(found.time[i], "s"), "nothing to read"});
      continue;
    }
    double sum = 0;
    for (const double value : values) sum += value;
    rows.push_back({quantity(found.time[i], "s"), quantity(std::ranges::min(values), found.unit),
                    quantity(sum / static_cast<double>(values.size()), found.unit),
                    quantity(std::ranges::max(values), found.unit)});
  }
  out["distribution"] = {{"gauge", request.distribution}, {"quantity", found.quantity}, {"unit", found.unit},
                         {"distance_m", found.distance},  {"place_m", found.place},     {"times_s", found.time},
                         {"values", found.value}};
  return rows;
}

/// The pieces of a phase: to be written, and those of the last snapshot.
Rows piece_rows(const MeasureRequest& request, const AskedCase& asked, const RunFolder& run, double from, double to,
                Outputs& outputs, nlohmann::ordered_json& out) {
  const Table found = with_progress(from, to, [&](const SnapshotRange& range) {
    return pieces(run, asked.the_case, request.pieces, "--pieces", range);
  });
  if (!request.table.empty())
    outputs.emplace_back([&request, text = csv_text(found)] { write_file(request.table, text); });
  const auto column = [&](const char* name) { return found.columns[static_cast<std::size_t>(found.find(name))]; };
  const auto time = column("time");
  const auto number = column("number");
  const auto copies = column("copies");
  const bool in_space = found.find("z") >= 0;
  Rows rows{{"piece", "how many", "volume", "diameter", "place", "velocity"}};
  constexpr double most = 12;
  double left_out = 0;
  for (std::size_t i = 0; i < time.size(); ++i) {
    if (time[i] != time.back()) continue;
    const auto of = [&](const char* name, const char* unit) { return quantity(column(name)[i], unit, 3); };
    if (number[i] > most) {
      left_out += copies[i];
    } else if (number[i] > 0) {
      rows.push_back({fmt::format("{}", number[i]), fmt::format("{}", copies[i]), of("volume", "m3"),
                      of("diameter", "m"),
                      fmt::format("{}, {}{}", of("x", "m"), of("y", "m"), in_space ? ", " + of("z", "m") : ""),
                      fmt::format("{}, {}{}", of("velocity_x", "m/s"), of("velocity_y", "m/s"),
                                  in_space ? ", " + of("velocity_z", "m/s") : "")});
    } else {
      rows.push_back({"smaller than a cell", fmt::format("{}", copies[i]), of("volume", "m3") + " each"});
    }
  }
  if (left_out > 0) rows.push_back({"more", fmt::format("{}", left_out), "see --table"});
  rows.front().front() = time.empty() ? "no piece" : fmt::format("piece at {}", quantity(time.back(), "s"));
  for (std::size_t c = 0; c < found.names.size(); ++c) out["pieces"][found.names[c]] = found.columns[c];
  return rows;
}

/// Both tables of readings, searched one after the other.
struct Series {
  const std::vector<double>* time = nullptr;
  const std::vector<double>* values = nullptr;
  std::string unit;
};

Series series_of(const std::string& name, const Table& history, const Table& added, const char* option) {
  for (const Table* table : {&history, &added}) {
    if (table->columns.empty()) continue;
    const int column = table->find(name);
    if (column > 0)
      return {table->columns.data(), &table->columns[static_cast<std::size_t>(column)],
              table->units[static_cast<std::size_t>(column)]};
  }
  std::vector<std::string> known(history.names.begin() + 1, history.names.end());
  if (!added.names.empty()) known.insert(known.end(), added.names.begin() + 1, added.names.end());
  const std::string near = nearest(name, known);
  throw input_error({"", 0, 0, option}, fmt::format("there is no gauge '{}'", name),
                    near.empty() ? "choose " + listing(known, "or") : fmt::format("did you mean '{}'?", near));
}

/// A condition as users write it: "front_level > 40 cm".
struct Condition {
  std::string name, text;
  bool above = true;
  double value = 0;
};

Condition read_condition(const std::string& text) {
  const auto at = text.find_first_of("<>");
  const auto wrong = [&](const std::string& what) {
    return input_error({"", 0, 0, "--when"}, what, "write a gauge, > or <, and a value: --when 'front_level > 40 cm'");
  };
  if (at == std::string::npos) throw wrong(fmt::format("'{}' has neither > nor <", text));
  Condition result{std::string(trimmed(std::string_view(text).substr(0, at))), text, text[at] == '>', 0};
  if (result.name.empty()) throw wrong("no gauge stands before " + text.substr(at, 1));
  return result;
}

/// When conditions hold, by straight lines between readings.
Rows when_rows(const MeasureRequest& request, const Table& history, const Table& added, double from,
               nlohmann::ordered_json& out) {
  Rows rows{{"when", "first", "last", "holds for", "of the time", "times"}};
  for (const auto& text : request.when) {
    Condition condition = read_condition(text);
    const Series series = series_of(condition.name, history, added, "--when");
    std::string_view right = std::string_view(text).substr(text.find_first_of("<>") + 1);
    if (right.starts_with('=')) right.remove_prefix(1);
    const auto scale = scale_to_si(series.unit);
    const Dimension wanted{scale ? std::string_view("value of the gauge") : "number", series.unit, "0"};
    UnitProblem problem;
    const auto value = read_quantity(trimmed(right), wanted, problem);
    if (!value)
      throw input_error({"", 0, 0, "--when"}, problem.what,
                        fmt::format("{} is in {}: write, for example, --when '{} > 1 {}'", condition.name, series.unit,
                                    condition.name, series.unit));
    const double sign = condition.above ? 1 : -1;
    double first = -1;
    double last = -1;
    double held = 0;
    double begin = -1;
    double end = -1;
    int times = 0;
    bool before = false;
    for (std::size_t i = 0; i < series.time->size(); ++i) {
      const double t = (*series.time)[i];
      const double over = sign * ((*series.values)[i] - *value);
      if (t < from || std::isnan(over)) continue;
      const bool now = over > 0;
      double crossing = t;
      const double over_before = i > 0 ? sign * ((*series.values)[i - 1] - *value) : over;
      if (end >= 0 && now != before) crossing = end + (t - end) * over_before / (over_before - over);
      if (now && !before) ++times;
      if (now && first < 0) first = crossing;
      if (end >= 0 && (now || before)) held += now && before ? t - end : now ? t - crossing : crossing - end;
      if (now) last = t;
      if (!now && before) last = crossing;
      if (begin < 0) begin = t;
      end = t;
      before = now;
    }
    if (first < 0) {
      rows.push_back({text, "never"});
      out["when"].push_back({{"condition", text}, {"times", 0}});
      continue;
    }
    rows.push_back({text, quantity(first, "s"), before ? "to the end" : quantity(last, "s"), quantity(held, "s"),
                    fmt::format("{:.3g} %", end > begin ? 100 * held / (end - begin) : 100.0),
                    fmt::format("{}", times)});
    out["when"].push_back({{"condition", text},
                           {"first_s", first},
                           {"last_s", last},
                           {"holds_for_s", held},
                           {"times", times},
                           {"at_the_end", before}});
  }
  return rows;
}

/// The swings of gauges, and their spectra, to be drawn.
Rows swing_rows(const MeasureRequest& request, const RunFolder& run, const Table& history, const Table& added,
                double from, double to, Outputs& outputs, nlohmann::ordered_json& out) {
  Rows rows{{"swings", "period", "amplitude", "of the scatter"}};
  std::vector<Panel> panels;
  for (const auto& name : request.swings) {
    const Series series = series_of(name, history, added, "--swings");
    const auto found = swings(*series.time, *series.values, from, to, 4);
    if (found.empty()) rows.push_back({name, "none"});
    for (const auto& swing : found) {
      rows.push_back({name, quantity(swing.period, "s"), quantity(swing.amplitude, series.unit),
                      fmt::format("{:.2g} %", 100 * swing.share)});
      out["swings"].push_back({{"name", name},
                               {"period_s", swing.period},
                               {"amplitude", swing.amplitude},
                               {"unit", series.unit},
                               {"share", swing.share}});
    }
    if (request.chart.empty()) continue;
    auto whole = spectrum(*series.time, *series.values, from, to);
    // As far up as anything is to be seen.
    const double greatest = whole.amplitude.empty() ? 0 : std::ranges::max(whole.amplitude);
    std::size_t end = whole.amplitude.size();
    while (end > 16 && whole.amplitude[end - 1] < 0.01 * greatest) --end;
    whole.amplitude.resize(end);
    whole.frequency.resize(end);
    Panel panel{"", {{name, whole.frequency, whole.amplitude}}};
    set_unit_alone(series.unit, panel);
    panel.y_title = panel.y_title.empty() ? "amplitude" : "amplitude " + panel.y_title;
    panels.push_back(std::move(panel));
  }
  if (!request.chart.empty())
    outputs.emplace_back([&request, title = run.title + ": amplitudes of swings", panels] {
      draw_chart(title, "frequency [1/s]", panels, request.chart);
    });
  return rows;
}

/// Whether a history has settled, in a few words, and as JSON.
std::string settled_words(const std::vector<double>& time, const std::vector<double>& values, double from,
                          const std::string& unit, nlohmann::ordered_json& out) {
  using Verdict = Settling::Verdict;
  const double to = time.back();
  const Settling found = settling(time, values, from, to);
  out = {
      {"verdict", std::array{"constant", "settled", "drifting", "too short"}[static_cast<std::size_t>(found.verdict)]}};
  if (found.verdict == Verdict::too_short) return "too short to tell";
  out["last_quarter_mean"] = found.mean;
  out["last_quarter_scatter"] = found.scatter;
  out["last_quarter_drift"] = found.drift;
  if (found.verdict == Verdict::constant) return "never changes";
  // One wave that makes up most of the last half, and comes back in it, is neither rest nor drift.
  constexpr double most = 0.5;
  const auto waves = swings(time, values, 0.5 * (from + to), to, 1);
  if (!waves.empty() && waves[0].share > most && 2 * waves[0].period < 0.5 * (to - from) &&
      waves[0].amplitude > found.scatter / 2 && waves[0].amplitude > found.band / 3) {
    out["verdict"] = "swinging";
    out["period_s"] = waves[0].period;
    out["amplitude"] = waves[0].amplitude;
    return fmt::format("swings: {} ± {} every {}", quantity(found.mean, unit), quantity(waves[0].amplitude, unit, 3),
                       quantity(waves[0].period, "s", 3));
  }
  if (found.verdict == Verdict::drifting)
    return fmt::format("no: {}{} in the last {}", found.drift > 0 ? "+" : "", quantity(found.drift, unit),
                       quantity((to - from) / 4, "s"));
  out["since_s"] = found.since;
  return fmt::format("since {}: {} ± {}", quantity(found.since, "s", 3), quantity(found.mean, unit),
                     quantity(found.scatter, unit, 3));
}

/// How long doses took to mix, where the case has some.
Rows mixing_rows(const RunFolder& run, const Table& history, nlohmann::ordered_json& out) {
  if (!run.tracers) return {};
  const CaseFile the_case = read_case(run.folder / "case.toml");
  const auto times = with_vessel(the_case, [&](const auto& setup) { return mixing_times(setup, history); });
  for (const auto& one : times) {
    nlohmann::ordered_json entry{{"tracer", one.tracer}, {"gauge", one.gauge}, {"reached", one.reached}};
    if (one.reached) entry["seconds"] = one.seconds;
    out["mixing_to_95_percent"].push_back(entry);
  }
  return times.empty() ? Rows{} : Rows{{"mixing", mixing_words(times)}};
}

}  // namespace

Rows gauge_rows(const std::string& what, Reading reading, const Table& history, double from,
                nlohmann::ordered_json& out) {
  Rows rows{{what, "least", "mean", "greatest", "last", "settled"}};
  const auto& time = history.columns[0];
  for (std::size_t c = 1; c < history.names.size(); ++c) {
    const auto& values = history.columns[c];
    const std::string& unit = history.units[c];
    const auto figures = history_figures(time, values, from, time.back(), reading);
    if (!figures) {
      rows.push_back({history.names[c], "never read"});
      continue;
    }
    nlohmann::ordered_json settled;
    rows.push_back({history.names[c], quantity(figures->least, unit), quantity(figures->mean, unit),
                    quantity(figures->greatest, unit), quantity(values.back(), unit),
                    settled_words(time, values, from, unit, settled)});
    out.push_back({{"name", history.names[c]},
                   {"unit", history.units[c]},
                   {"least", figures->least},
                   {"mean", figures->mean},
                   {"greatest", figures->greatest},
                   {"last", values.back()},
                   {"settled", settled}});
  }
  return rows;
}

double read_option(const std::string& text, const char* option, const Dimension& dimension) {
  UnitProblem problem;
  const auto value = read_quantity(text, dimension, problem);
  if (!value) throw input_error({"", 0, 0, option}, problem.what, problem.remedy);
  return *value;
}

std::array<double, 2> read_window(const std::string& from, const std::string& to, double end, const char* to_option) {
  const double upper = to.empty() ? end : read_option(to, to_option, dimension::time);
  const double lower = from.empty() ? 0 : read_option(from, "--from", dimension::time);
  if (lower < 0 || (lower >= end && end > 0))
    throw input_error({"", 0, 0, "--from"}, fmt::format("the run reaches from 0 s to {}", quantity(end, "s")),
                      "choose a time within");
  if (upper > end * (1 + 1e-9) || upper < lower)
    throw input_error({"", 0, 0, to_option},
                      upper < lower ? std::string("it lies before --from")
                                    : fmt::format("the run reaches from 0 s to {}", quantity(end, "s")),
                      "choose a time behind --from and within the run");
  return {lower, upper};
}

int measure(const MeasureRequest& request) {
  const RunFolder run = open_run_folder(request.folder);
  check_request(request, run.line);
  long left_out = 0;
  const Table all = read_csv(run.folder / "history.csv", &left_out);
  note_state(run, left_out);
  const auto [from, to] = read_window(request.from, request.to, all.columns[0].back());
  const Table history = up_to(all, to);
  nlohmann::ordered_json out;
  out["title"] = run.title;
  out["from_s"] = from;
  out["to_s"] = to;
  std::vector<Rows> parts{gauge_rows("gauge", Reading::of_step, history, from, out["gauges"])};
  parts.push_back(mixing_rows(run, history, out));
  std::string remark;
  Outputs outputs;
  Table added;
  if (!request.gauges.empty() || !request.gauge_file.empty() || !request.distribution.empty() ||
      !request.pieces.empty()) {
    const AskedCase asked = case_with_gauges(request, run);
    const bool one_figure = request.distribution.empty() && request.pieces.empty();
    const bool timed = !request.when.empty() || !request.swings.empty();  // which may be of these gauges
    if (one_figure || (timed && !(request.gauges.empty() && request.gauge_file.empty()))) {
      added = with_progress(
          from, to, [&](const SnapshotRange& range) { return measured(run, asked.the_case, asked.first, range); });
      require_snapshots(!added.columns[0].empty(), run);
      if (one_figure && !request.table.empty())
        outputs.emplace_back([&request, text = csv_text(added)] { write_file(request.table, text); });
      parts.push_back(gauge_rows("at snapshots", Reading::of_moment, added, from, out["at_snapshots"]));
      out["times_s"] = added.columns[0];
      for (std::size_t c = 1; c < added.names.size(); ++c) out["readings"][added.names[c]] = added.columns[c];
      remark = fmt::format("({} snapshots, {} to {})\n", added.columns[0].size(),
                           quantity(added.columns[0].front(), "s"), quantity(added.columns[0].back(), "s"));
    }
    if (!request.distribution.empty()) parts.push_back(distribution_rows(request, asked, run, from, to, outputs, out));
    if (!request.pieces.empty()) parts.push_back(piece_rows(request, asked, run, from, to, outputs, out));
  }
  if (!request.when.empty()) parts.push_back(when_rows(request, history, added, from, out));
  if (!request.swings.empty()) parts.push_back(swing_rows(request, run, history, added, from, to, outputs, out));
  parts.push_back(slug_rows(run, from, to, out));
  parts.push_back(receiver_rows(request, run, history, from, out));
  for (const auto& write : outputs) write();
  if (request.json) {
    fmt::print("{}\n", out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
    return 0;
  }
  fmt::print("{}, from {} to {}\n", run.title, quantity(from, "s"), quantity(to, "s"));
  for (const auto& part : parts)
    if (!part.empty()) fmt::print("{}", aligned(part));
  fmt::print("{}", remark);
  for (const auto* written : {&request.table, &request.chart, &request.map})
    if (!written->empty()) fmt::print("wrote {}\n", *written);
  return 0;
}

}  // namespace wavy
