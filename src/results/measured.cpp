#include "results/measured.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "base/error.hpp"
#include "base/text.hpp"
#include "results/execute.hpp"
#include "results/snapshot.hpp"
#include "run/estimates.hpp"
#include "run/gauge_kinds.hpp"
#include "run/line_gauges.hpp"
#include "run/line_setup.hpp"
#include "run/pieces.hpp"
#include "run/reading_places.hpp"

namespace wavy {
namespace {

constexpr double nan = std::numeric_limits<double>::quiet_NaN();

std::vector<SnapshotFile> within(const RunFolder& run, const SnapshotRange& range) {
  const double hair = 1e-9 * range.to;  // times are sums of intervals
  std::vector<SnapshotFile> snapshots;
  for (const auto& snapshot : run.snapshots)
    if (snapshot.time >= range.from - hair && snapshot.time <= range.to + hair) snapshots.push_back(snapshot);
  return snapshots;
}

/// The snapshots of a run one after the other, in one model of its case.
template <int D>
class Replay {
 public:
  Replay(const RunFolder& run, const Setup<D>& setup, const SnapshotRange& range)
      : setup_(setup), range_(range), grid_((require_memory(setup), make_grid(setup))), snapshots_(within(run, range)) {
    use_threads(grid_.cell_count(), 0);
    model_.emplace(setup, grid_);
  }

  [[nodiscard]] const VesselModel<D>& model() const { return model_->model(); }

  /// fn(time, reading) at each.
  template <class Fn>
  void each(Fn&& fn) {
    for (std::size_t i = 0; i < snapshots_.size(); ++i) {
      recall_snapshot(snapshots_[i].file, model());
      VesselReading<D> now(setup_, model());
      fn(snapshots_[i].time, now);
      if (range_.each) range_.each(i + 1, snapshots_.size());
    }
  }

 private:
  const Setup<D>& setup_;
  const SnapshotRange& range_;
  Grid<D> grid_;
  std::optional<OwnModel<D>> model_;
  std::vector<SnapshotFile> snapshots_;
};

template <int D>
Table measured(const RunFolder& run, const Setup<D>& setup, std::size_t first, const SnapshotRange& range) {
  Replay<D> replay(run, setup, range);
  Table table{{"time"}, {"s"}, {{}}};
  std::vector<VesselReader<D>> readers;
  // Formulas may use what stands before them.
  const auto is_wanted = [&](std::size_t g) {
    const auto uses = [&](const Gauge<D>& later) { return later.formula && later.formula->uses(setup.gauges[g].name); };
    return g >= first || std::any_of(setup.gauges.begin() + static_cast<std::ptrdiff_t>(g), setup.gauges.end(), uses);
  };
  for (std::size_t g = 0; g < setup.gauges.size(); ++g) {
    const Gauge<D>& gauge = setup.gauges[g];
    readers.push_back(is_wanted(g)
                          ? gauge_kind(gauge.measures, GaugeKind::Of::vessel).reader(gauge, setup, replay.model())
                          : VesselReader<D>());
    if (g < first) continue;
    table.names.push_back(gauge.name);
    table.units.push_back(unit_of(gauge));
    table.columns.emplace_back();
  }
  replay.each([&](double time, VesselReading<D>& now) {
    table.columns[0].push_back(time);
    for (std::size_t g = 0; g < readers.size(); ++g) {
      if (!readers[g]) continue;
      const double value = readers[g](now);
      now.keep_reading(setup.gauges[g].name, value);
      if (g >= first) table.columns[g - first + 1].push_back(value);
    }
  });
  return table;
}

template <int D>
Distribution distribution(const RunFolder& run, const Setup<D>& setup, const std::string& name,
                          const std::string& option, const SnapshotRange& range) {
  const auto found = std::ranges::find(setup.gauges, name, &Gauge<D>::name);
  if (found == setup.gauges.end()) {
    std::vector<std::string> known;
    for (const auto& gauge : setup.gauges) known.push_back(gauge.name);
    throw input_error({"", 0, 0, option}, fmt::format("there is no gauge '{}'", name),
                      known.empty() ? "define it with --gauge"
                                    : fmt::format("choose {}, or define it with --gauge", listing(known, "or")));
  }
  if (gauge_kind(found->measures, GaugeKind::Of::vessel).needs != GaugeKind::Needs::quantity_in_zone)
    throw input_error({"", 0, 0, option},
                      fmt::format("{} reads no quantity along a line, on a wall or in a zone", name),
                      "choose one that measures least, greatest, mean, percentile or uniformity");
  const Gauge<D>& gauge = *found;
  Replay<D> replay(run, setup, range);
  const ReadingPlaces<D> places = zone_of(gauge, setup, replay.model());
  Distribution result;
  result.quantity = gauge.quantity;
  result.unit = unit_of(gauge);
  result.dimensions = D;
  const auto list = in_order(places, gauge, setup, result.distance);
  for (const auto& place : list) {
    auto& at = result.place.emplace_back();
    std::ranges::copy(place.at, at.begin());
  }
  replay.each([&](double time, VesselReading<D>& now) {
    result.time.push_back(time);
    auto& values = result.value.emplace_back();
    const auto read = places.read(gauge.quantity, now);
    const auto has = places.has(gauge.quantity, now);
    for (const auto& place : list) values.push_back(has(place) ? read(place) : nan);
  });
  return result;
}

template <int D>
Table pieces(const RunFolder& run, const Setup<D>& setup, const std::string& name, const std::string& option,
             const SnapshotRange& range) {
  std::vector<std::string> known;
  for (std::size_t p = 0; p < phase_count(setup); ++p) known.push_back(setup.phases[p].name);
  const auto found = std::ranges::find(known, name);
  if (found == known.end())
    throw input_error({"", 0, 0, option}, fmt::format("the run has no phase '{}'", name),
                      "choose " + listing(known, "or"));
  if (setup.eulerian)
    throw input_error({"", 0, 0, option}, "in the Eulerian model bubbles and drops are not followed one by one",
                      "see the gauges that measure volume, share or mean");
  const auto phase = static_cast<int>(found - known.begin());
  Replay<D> replay(run, setup, range);
  Table table{{"time", "number", "copies", "volume", "diameter"}, {"s", "1", "1", "m3", "m"}, {}};
  for (const auto& [prefix, unit] : {std::pair{"", "m"}, {"velocity_", "m/s"}})
    for (int d = 0; d < D; ++d) {
      table.names.push_back(fmt::format("{}{}", prefix, "xyz"[d]));
      table.units.emplace_back(unit);
    }
  table.columns.resize(table.names.size());
  const double least = whole_cell_volume(setup, replay.model().grid());
  const auto add = [&](std::vector<double> row) {
    row.resize(table.columns.size(), nan);
    for (std::size_t c = 0; c < row.size(); ++c) table.columns[c].push_back(row[c]);
  };
  replay.each([&](double time, VesselReading<D>& now) {
    double number = 0;
    int small = 0;
    double rest = 0;
    for (const auto& piece : now.pieces(setup, phase)) {
      if (piece.volume < least) {
        small += piece.copies;
        rest += piece.copies * piece.volume;
        continue;
      }
      // Round an axis pieces are rings or lie on it: of a body of that volume.
      const bool disc = D == 2 && setup.symmetry != Symmetry::round;
      const double diameter = disc ? 2 * std::sqrt(piece.volume / setup.thickness / std::numbers::pi)
                                   : std::cbrt(6 * piece.volume / std::numbers::pi);
      std::vector<double> row{time, ++number, static_cast<double>(piece.copies), piece.volume, diameter};
      row.insert(row.end(), piece.middle.begin(), piece.middle.end());
      row.insert(row.end(), piece.velocity.begin(), piece.velocity.end());
      add(row);
    }
    if (small > 0) add({time, 0, static_cast<double>(small), rest / small});
  });
  return table;
}

/// From the profiles of a line.
Table measured(const RunFolder& run, const LineSetup& setup, std::size_t first, const SnapshotRange& range) {
  const auto model = make_line(setup);
  Table table{{"time"}, {"s"}, {{}}};
  for (std::size_t g = first; g < setup.gauges.size(); ++g) {
    table.names.push_back(setup.gauges[g].name);
    table.units.push_back(gauge_kind(setup.gauges[g].measures, GaugeKind::Of::line).unit);
    table.columns.emplace_back();
  }
  for (const auto& snapshot : within(run, range)) {
    const Table profile = read_csv(snapshot.file);
    const auto wrong = [&](const std::string& what) {
      return input_error({snapshot.file.string(), 0, 0, ""}, what, "run the case again");
    };
    const auto column = [&](const std::string& name) -> const std::vector<double>& {
      const int found = profile.find(name);
      if (found < 0) throw wrong(fmt::format("the profile has no column '{}': an older program wrote it", name));
      return profile.columns[static_cast<std::size_t>(found)];
    };
    if (profile.columns[0].size() != model.sections().size()) throw wrong("the profile is that of another line");
    table.columns[0].push_back(snapshot.time);
    for (std::size_t g = first; g < setup.gauges.size(); ++g) {
      const LineGauge& gauge = setup.gauges[g];
      double value = 0;
      if (gauge.measures == "liquid_held") {
        const auto cells = cells_of(gauge, setup);
        for (std::size_t i = cells[0]; i < cells[1]; ++i) value += model.sections()[i].volume() * column("holdup")[i];
      } else {
        value = column(gauge.measures)[section_at(setup, static_cast<std::size_t>(gauge.leg), gauge.at)];
      }
      table.columns[g - first + 1].push_back(value);
    }
  }
  return table;
}

}  // namespace

Table measured(const RunFolder& run, const CaseFile& the_case, std::size_t first, const SnapshotRange& range) {
  if (const LineSetup* line = line_of(the_case)) return measured(run, *line, first, range);
  return with_vessel(the_case, [&](const auto& setup) { return measured(run, setup, first, range); });
}

Distribution distribution(const RunFolder& run, const CaseFile& the_case, const std::string& gauge,
                          const std::string& option, const SnapshotRange& range) {
  return with_vessel(the_case, [&](const auto& setup) { return distribution(run, setup, gauge, option, range); });
}

Table table_of(const Distribution& distribution) {
  Table table;
  const auto add = [&](const std::string& name, const std::string& unit, std::vector<double> values) {
    table.names.push_back(name);
    table.units.push_back(unit);
    table.columns.push_back(std::move(values));
  };
  if (!distribution.distance.empty()) add("distance", "m", distribution.distance);
  for (int d = 0; d < distribution.dimensions; ++d) {
    std::vector<double> along;
    for (const auto& place : distribution.place) along.push_back(place[static_cast<std::size_t>(d)]);
    add(std::string(1, "xyz"[d]), "m", std::move(along));
  }
  for (std::size_t i = 0; i < distribution.time.size(); ++i)
    add(fmt::format("{} at {:.6g} s", distribution.quantity, distribution.time[i]), distribution.unit,
        distribution.value[i]);
  return table;
}

Table pieces(const RunFolder& run, const CaseFile& the_case, const std::string& phase, const std::string& option,
             const SnapshotRange& range) {
  return with_vessel(the_case, [&](const auto& setup) { return pieces(run, setup, phase, option, range); });
}

}  // namespace wavy
