// measure: figures from a run folder, after the run.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/settling.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "figures/chart.hpp"
#include "line/surge.hpp"
#include "results/measured.hpp"
#include "results/run_folder.hpp"

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

/// The gauges that were asked for now, read from the snapshots; no columns where there are none.
Table read_from_snapshots(const MeasureRequest& request, const RunFolder& run, double from, double to) {
  if (request.gauges.empty() && request.gauge_file.empty()) {
    if (!request.table.empty())
      throw input_error({"", 0, 0, "--table"}, "it is for what --gauge and --gauges read",
                        "give one of them; all that the run measured stands in its history.csv");
    return {};
  }
  CaseFile the_case = read_case(run.folder / "case.toml");
  const std::size_t first = run.line ? 0 : with_vessel(the_case, [](const auto& setup) { return setup.gauges.size(); });
  for (const auto& gauge : request.gauges) add_gauges(the_case, "gauge = [{" + gauge + "}]", "--gauge");
  if (!request.gauge_file.empty()) add_gauges(the_case, fs::path(request.gauge_file));
  ProgressLine line(true);
  Table table = measured(run, the_case, first, from, to, [&](std::size_t done, std::size_t of) {
    line.show(fmt::format("snapshot {} of {}", done, of), done == of);
  });
  line.clear();
  if (table.columns[0].empty())
    throw input_error({"", 0, 0, "--from"}, "there is no snapshot between these times",
                      fmt::format("the run has {} from {} to {}", run.snapshots.size(),
                                  quantity(run.snapshots.front().time, "s"), quantity(run.snapshots.back().time, "s")));
  if (!request.table.empty()) write_file(request.table, csv_text(table));
  return table;
}

/// Whether a history has settled, in a few words, and as JSON.
std::string settled_words(const Settling& found, double span, const std::string& unit, nlohmann::ordered_json& out) {
  using Verdict = Settling::Verdict;
  out = {
      {"verdict", std::array{"constant", "settled", "drifting", "too short"}[static_cast<std::size_t>(found.verdict)]}};
  if (found.verdict == Verdict::too_short) return "too short to tell";
  out["last_quarter_mean"] = found.mean;
  out["last_quarter_scatter"] = found.scatter;
  out["last_quarter_drift"] = found.drift;
  if (found.verdict == Verdict::constant) return "never changes";
  if (found.verdict == Verdict::drifting)
    return fmt::format("no: {}{} in the last {}", found.drift > 0 ? "+" : "", quantity(found.drift, unit),
                       quantity(span / 4, "s"));
  out["since_s"] = found.since;
  return fmt::format("since {}: {} ± {}", quantity(found.since, "s", 3), quantity(found.mean, unit),
                     quantity(found.scatter, unit, 3));
}

/// What readings stand for: those of a history for the step that ends there, as flows are means of it; those of
/// snapshots for their moment.
enum class Reading { of_step, of_moment };

/// Least, mean and greatest of every column from a time on; `what` stands over the names.
std::vector<std::vector<std::string>> gauge_rows(const std::string& what, Reading reading, const Table& history,
                                                 double from, nlohmann::ordered_json& out) {
  std::vector<std::vector<std::string>> rows{{what, "least", "mean", "greatest", "last", "settled"}};
  const auto& time = history.columns[0];
  for (std::size_t c = 1; c < history.names.size(); ++c) {
    const auto& values = history.columns[c];
    double least = 1e300;
    double greatest = -1e300;
    double sum = 0;
    double span = 0;
    for (std::size_t i = 0; i < time.size(); ++i) {
      if (time[i] < from || std::isnan(values[i])) continue;  // the gauge was not there yet
      least = std::min(least, values[i]);
      greatest = std::max(greatest, values[i]);
      if (i == 0 || time[i] <= from) continue;
      const double dt = time[i] - std::max(from, time[i - 1]);
      sum += (reading == Reading::of_step ? values[i] : 0.5 * (values[i - 1] + values[i])) * dt;
      span += dt;
    }
    const double mean = span > 0 ? sum / span : values.back();
    const std::string& unit = history.units[c];
    if (least > greatest) {
      rows.push_back({history.names[c], "never read"});
      continue;
    }
    nlohmann::ordered_json settled;
    rows.push_back({history.names[c], quantity(least, unit), quantity(mean, unit), quantity(greatest, unit),
                    quantity(values.back(), unit),
                    settled_words(settling(time, values, from, time.back()), time.back() - from, unit, settled)});
    out.push_back({{"name", history.names[c]},
                   {"unit", history.units[c]},
                   {"least", least},
                   {"mean", mean},
                   {"greatest", greatest},
                   {"last", values.back()},
                   {"settled", settled}});
  }
  return rows;
}

/// Count, lengths, speed and period of the slugs that passed each watched place.
std::vector<std::vector<std::string>> slug_rows(const RunFolder& run, double from, double to,
                                                nlohmann::ordered_json& out) {
  std::vector<std::vector<std::string>> rows;
  if (run.slug_gauges.empty()) return rows;
  const Table table = read_csv(run.folder / "slugs.csv");
  rows.push_back(
      {"slugs", "passed", "length", "half are longer than", "a tenth longer than", "greatest", "speed", "period"});
  for (std::size_t g = 0; g < run.slug_gauges.size(); ++g) {
    std::vector<double> lengths;
    std::vector<double> fronts;
    double speed = 0;
    for (std::size_t i = 0; i < table.columns[0].size(); ++i) {
      if (std::lround(table.columns[0][i]) != static_cast<long>(g) + 1 || table.columns[2][i] < from ||
          table.columns[2][i] > to)
        continue;
      fronts.push_back(table.columns[2][i]);
      lengths.push_back(table.columns[4][i]);
      speed += table.columns[5][i];
    }
    const auto count = static_cast<double>(lengths.size());
    if (lengths.empty()) {
      rows.push_back({run.slug_gauges[g], "0"});
      out["slugs"].push_back({{"place", run.slug_gauges[g]}, {"count", 0}});
      continue;
    }
    std::sort(lengths.begin(), lengths.end());
    std::sort(fronts.begin(), fronts.end());
    double sum = 0;
    for (const double length : lengths) sum += length;
    const auto share = [&](double part) {
      return lengths[static_cast<std::size_t>(std::min(count - 1, std::floor(part * count)))];
    };
    const double period = fronts.size() > 1 ? (fronts.back() - fronts.front()) / (count - 1) : 0;
    rows.push_back({run.slug_gauges[g], fmt::format("{}", lengths.size()), quantity(sum / count, "m"),
                    quantity(share(0.5), "m"), quantity(share(0.9), "m"), quantity(lengths.back(), "m"),
                    quantity(speed / count, "m/s"), period > 0 ? quantity(period, "s") : "-"});
    out["slugs"].push_back({{"place", run.slug_gauges[g]},
                            {"count", lengths.size()},
                            {"mean_length_m", sum / count},
                            {"median_length_m", share(0.5)},
                            {"ninth_decile_length_m", share(0.9)},
                            {"greatest_length_m", lengths.back()},
                            {"speed_m_s", speed / count},
                            {"period_s", period}});
  }
  return rows;
}

}  // namespace

double read_option(const std::string& text, const char* option, const Dimension& dimension) {
  UnitProblem problem;
  const auto value = read_quantity(text, dimension, problem);
  if (!value) throw input_error({"", 0, 0, option}, problem.what, problem.remedy);
  return *value;
}

std::array<double, 2> read_window(const std::string& from, const std::string& to, double end) {
  const double upper = to.empty() ? end : read_option(to, "--to", dimension::time);
  const double lower = from.empty() ? 0 : read_option(from, "--from", dimension::time);
  if (lower < 0 || (lower >= end && end > 0))
    throw input_error({"", 0, 0, "--from"}, fmt::format("the run reaches from 0 s to {}", quantity(end, "s")),
                      "choose a time within");
  if (upper > end * (1 + 1e-9) || upper < lower)
    throw input_error({"", 0, 0, "--to"},
                      upper < lower ? std::string("it lies before --from")
                                    : fmt::format("the run reaches from 0 s to {}", quantity(end, "s")),
                      "choose a time behind --from and within the run");
  return {lower, upper};
}

int measure(const MeasureRequest& request) {
  const RunFolder run = open_run_folder(request.folder);
  long left_out = 0;
  const Table all = read_csv(run.folder / "history.csv", &left_out);
  note_state(run, left_out);
  const auto [from, to] = read_window(request.from, request.to, all.columns[0].back());
  const Table history = up_to(all, to);
  const auto& time = history.columns[0];
  nlohmann::ordered_json out;
  out["title"] = run.title;
  out["from_s"] = from;
  out["to_s"] = to;
  const auto gauges = gauge_rows("gauge", Reading::of_step, history, from, out["gauges"]);
  const Table added = read_from_snapshots(request, run, from, to);
  std::vector<std::vector<std::string>> added_rows;
  if (!added.columns.empty()) {
    added_rows = gauge_rows("at snapshots", Reading::of_moment, added, from, out["at_snapshots"]);
    out["times_s"] = added.columns[0];
    for (std::size_t c = 1; c < added.names.size(); ++c) out["readings"][added.names[c]] = added.columns[c];
  }

  std::vector<std::vector<std::string>> surges;
  const int column = run.line ? history.find("outlet_" + run.phases[0]) : -1;
  for (const auto& [given, option] : {std::pair{request.drain, "--drain"}, {request.chart, "--chart"}})
    if (!given.empty() && column < 0)
      throw input_error({"", 0, 0, option}, "a receiver is measured behind a line alone", "leave it out");
  if (column >= 0) {
    // What the receiver gets from that time on.
    std::vector<double> when;
    std::vector<double> flow;
    for (std::size_t i = 0; i < time.size(); ++i) {
      if (i + 1 < time.size() && time[i + 1] <= from) continue;
      when.push_back(std::max(time[i], from));
      flow.push_back(history.columns[static_cast<std::size_t>(column)][i]);
    }
    const double mean = line::mean_flow(when, flow);
    surges.push_back({"drain rate", "", "receiver"});
    const auto row = [&](double drain, const std::string& what) {
      const double volume = line::surge_volume(when, flow, drain);
      surges.push_back({fmt::format("{:.4g} m³/h", drain * 3600), what, quantity(volume, "m3")});
      out["surge"].push_back({{"drain_m3_s", drain}, {"volume_m3", volume}});
    };
    if (!request.drain.empty()) {
      const double drain = read_option(request.drain, "--drain", dimension::volume_flow);
      if (drain < 0)
        throw input_error({"", 0, 0, "--drain"}, "a drain rate must not be negative",
                          "write, for example, --drain '2 m^3/h'");
      row(drain, "as asked");
    } else {
      row(0, "all that comes");
      for (const double share : {0.5, 0.9, 1.0, 1.1, 1.25, 1.5, 2.0})
        row(share * mean, share == 1 ? "the mean outflow" : fmt::format("{:g} of the mean", share));
    }
    if (!request.chart.empty()) {
      Curve2D curve{"receiver", {}, {}};
      const double most = 2 * std::max(mean, 1e-12);
      for (int i = 0; i <= 100; ++i) {
        curve.x.push_back(3600 * most * i / 100);
        curve.y.push_back(line::surge_volume(when, flow, most * i / 100));
      }
      Curve2D at_mean{"at the mean outflow", {3600 * mean}, {line::surge_volume(when, flow, mean)}, true};
      draw_chart(run.title + ": receiver for a drain rate", "drain rate [m³/h]", {{"volume [m³]", {curve, at_mean}}},
                 request.chart);
    }
  }
  const auto slugs = slug_rows(run, from, to, out);
  if (request.json) {
    fmt::print("{}\n", out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
    return 0;
  }
  fmt::print("{}, from {} to {}\n{}", run.title, quantity(from, "s"), quantity(to, "s"), aligned(gauges));
  if (!added_rows.empty())
    fmt::print("{}({} snapshots, {} to {})\n", aligned(added_rows), added.columns[0].size(),
               quantity(added.columns[0].front(), "s"), quantity(added.columns[0].back(), "s"));
  if (!request.table.empty()) fmt::print("wrote {}\n", request.table);
  if (!slugs.empty()) fmt::print("{}", aligned(slugs));
  if (!surges.empty()) fmt::print("{}", aligned(surges));
  if (!request.chart.empty()) fmt::print("wrote {}\n", request.chart);
  return 0;
}

}  // namespace wavy
