// Figures of a line alone: its slugs, and the receiver behind it.
#include "app/line_figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/error.hpp"
#include "base/text.hpp"
#include "line/surge.hpp"

namespace wavy {

Rows slug_rows(const RunFolder& run, double from, double to, nlohmann::ordered_json& out) {
  Rows rows;
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

Rows receiver_rows(const MeasureRequest& request, const RunFolder& run, const Table& history, double from,
                   nlohmann::ordered_json& out) {
  const int column = run.line ? history.find("outlet_" + run.phases[0]) : -1;
  if (!request.drain.empty() && column < 0)
    throw input_error({"", 0, 0, "--drain"}, "a receiver is measured behind a line alone", "leave it out");
  if (column < 0) return {};
  const auto& time = history.columns[0];
  // What the receiver gets from that time on.
  std::vector<double> when;
  std::vector<double> flow;
  for (std::size_t i = 0; i < time.size(); ++i) {
    if (i + 1 < time.size() && time[i + 1] <= from) continue;
    when.push_back(std::max(time[i], from));
    flow.push_back(history.columns[static_cast<std::size_t>(column)][i]);
  }
  const double mean = line::mean_flow(when, flow);
  Rows surges{{"drain rate", "", "receiver"}};
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
  if (!request.chart.empty() && request.swings.empty()) {
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
  return surges;
}

}  // namespace wavy
