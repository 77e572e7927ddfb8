#include "results/measured.hpp"

#include "results/execute.hpp"
#include "results/snapshot.hpp"
#include "run/estimates.hpp"
#include "run/gauge_kinds.hpp"

namespace wavy {
namespace {

template <int D>
Table measured(const std::vector<SnapshotFile>& snapshots, const Setup<D>& setup, std::size_t first,
               const std::function<void(std::size_t, std::size_t)>& each) {
  require_memory(setup);
  const Grid<D> grid = make_grid(setup);
  use_threads(grid.cell_count(), 0);
  const auto model = make_model(setup, grid);
  Table table{{"time"}, {"s"}, {{}}};
  std::vector<VesselReader<D>> readers;
  for (std::size_t g = first; g < setup.gauges.size(); ++g) {
    const Gauge<D>& gauge = setup.gauges[g];
    readers.push_back(gauge_kind(gauge.measures, GaugeKind::Of::vessel).reader(gauge, setup, *model));
    table.names.push_back(gauge.name);
    table.units.push_back(unit_of(gauge));
    table.columns.emplace_back();
  }
  for (std::size_t i = 0; i < snapshots.size(); ++i) {
    recall_snapshot(snapshots[i].file, *model);
    VesselReading<D> now(setup, *model);
    table.columns[0].push_back(snapshots[i].time);
    for (std::size_t g = 0; g < readers.size(); ++g) table.columns[g + 1].push_back(readers[g](now));
    if (each) each(i + 1, snapshots.size());
  }
  return table;
}

}  // namespace

Table measured(const RunFolder& run, const CaseFile& the_case, std::size_t first, double from, double to,
               const std::function<void(std::size_t, std::size_t)>& each) {
  std::vector<SnapshotFile> within;
  const double hair = 1e-9 * to;  // times are sums of intervals
  for (const auto& snapshot : run.snapshots)
    if (snapshot.time >= from - hair && snapshot.time <= to + hair) within.push_back(snapshot);
  return with_vessel(the_case, [&](const auto& setup) { return measured(within, setup, first, each); });
}

}  // namespace wavy
