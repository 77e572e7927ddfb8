// measure: figures from a run folder, after the run.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "figures/chart.hpp"
#include "line/surge.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

struct Options {
  std::string folder, drain, from, chart;
  bool json = false;
};

double read_option(const std::string& text, const char* option, const Dimension& dimension) {
  UnitProblem problem;
  const auto value = read_quantity(text, dimension, problem);
  if (!value) throw input_error({"", 0, 0, option}, problem.what, problem.remedy);
  return *value;
}

/// Least, mean and greatest of every column from a time on.
std::vector<std::vector<std::string>> gauge_rows(const Table& history, double from, nlohmann::ordered_json& out) {
  std::vector<std::vector<std::string>> rows{{"gauge", "least", "mean", "greatest", "last"}};
  const auto& time = history.columns[0];
  for (std::size_t c = 1; c < history.names.size(); ++c) {
    const auto& values = history.columns[c];
    double least = 1e300;
    double greatest = -1e300;
    double sum = 0;
    double span = 0;
    for (std::size_t i = 0; i < time.size(); ++i) {
      if (time[i] < from) continue;
      least = std::min(least, values[i]);
      greatest = std::max(greatest, values[i]);
      if (i == 0 || time[i] <= from) continue;
      const double dt = time[i] - std::max(from, time[i - 1]);
      sum += values[i] * dt;  // flows are means of the steps; of the rest the value at its end
      span += dt;
    }
    const double mean = span > 0 ? sum / span : values.back();
    const std::string unit = history.units[c] == "1" ? "" : history.units[c];
    rows.push_back({history.names[c], quantity(least, unit), quantity(mean, unit), quantity(greatest, unit),
                    quantity(values.back(), unit)});
    out["gauges"].push_back({{"name", history.names[c]},
                             {"unit", history.units[c]},
                             {"least", least},
                             {"mean", mean},
                             {"greatest", greatest},
                             {"last", values.back()}});
  }
  return rows;
}

int measure(const Options& options) {
  const RunFolder run = open_run_folder(options.folder);
  const Table history = read_csv(run.folder / "history.csv");
  const auto& time = history.columns[0];
  const double from = options.from.empty() ? 0 : read_option(options.from, "--from", dimension::time);
  if (from < 0 || from >= time.back())
    throw input_error({"", 0, 0, "--from"}, fmt::format("the run reaches from 0 s to {}", quantity(time.back(), "s")),
                      "choose a time within");
  nlohmann::ordered_json out;
  out["title"] = run.title;
  out["from_s"] = from;
  const auto gauges = gauge_rows(history, from, out);

  std::vector<std::vector<std::string>> surges;
  const int column = run.line ? history.find("outlet_" + run.phases[0]) : -1;
  for (const auto& [given, option] : {std::pair{options.drain, "--drain"}, {options.chart, "--chart"}})
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
    if (!options.drain.empty()) {
      const double drain = read_option(options.drain, "--drain", dimension::volume_flow);
      if (drain < 0)
        throw input_error({"", 0, 0, "--drain"}, "a drain rate must not be negative",
                          "write, for example, --drain '2 m^3/h'");
      row(drain, "as asked");
    } else {
      row(0, "all that comes");
      for (const double share : {0.5, 0.9, 1.0, 1.1, 1.25, 1.5, 2.0})
        row(share * mean, share == 1 ? "the mean outflow" : fmt::format("{:g} of the mean", share));
    }
    if (!options.chart.empty()) {
      Curve2D curve{"receiver", {}, {}};
      const double most = 2 * std::max(mean, 1e-12);
      for (int i = 0; i <= 100; ++i) {
        curve.x.push_back(3600 * most * i / 100);
        curve.y.push_back(line::surge_volume(when, flow, most * i / 100));
      }
      Curve2D at_mean{"at the mean outflow", {3600 * mean}, {line::surge_volume(when, flow, mean)}, true};
      draw_chart(run.title + ": receiver for a drain rate", "drain rate [m³/h]", {{"volume [m³]", {curve, at_mean}}},
                 options.chart);
    }
  }
  if (options.json) {
    fmt::print("{}\n", out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
    return 0;
  }
  fmt::print("{}, from {} to {}\n{}", run.title, quantity(from, "s"), quantity(time.back(), "s"), aligned(gauges));
  if (!surges.empty()) fmt::print("{}", aligned(surges));
  if (!options.chart.empty()) fmt::print("wrote {}\n", options.chart);
  return 0;
}

}  // namespace

void add_measure(CLI::App& app) {
  auto options = std::make_shared<Options>();
  auto* command =
      app.add_subcommand("measure", "Figures from a run: gauges, and how large a receiver behind a line must be");
  command->add_option("run", options->folder, "Run folder")->required();
  command->add_option("--from", options->from, "Count from this time on, for example '600 s'; left out: the start");
  command->add_option("--drain", options->drain,
                      "Behind a line: volume of the receiver for this drain rate, for example '2 m^3/h'");
  command->add_option("--chart", options->chart,
                      "Behind a line: draw the receiver's volume over the drain rate into this .png, .svg or .pdf");
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] { exit_code() = measure(*options); });
}

}  // namespace wavy
