#include "results/execute.hpp"

#include <fmt/format.h>
#include <omp.h>

#include <algorithm>

#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "base/table.hpp"
#include "results/checkpoint.hpp"
#include "run/estimates.hpp"
#include "run/line_run.hpp"
#include "run/settled_end.hpp"
#include "run/vessel_run.hpp"

namespace wavy {
namespace {

FileLock lock(const RunOptions& options) {
  return options.kept != nullptr ? lock_run_folder(options.folder) : prepare_run_folder(options.folder, options.force);
}

/// The rest is the same for all models: checkpoints, the log, the summary, how it ended. Of `sinks` those are given
/// that write the model's fields.
template <class Run>
RunOutcome carry_out(RunWriter& writer, const CaseFile& the_case, Run& run, const RunOptions& options,
                     const RunWatcher& watcher, Sinks<Run> sinks) {
  const double time = options.kept != nullptr ? time_of(*options.kept) : 0.0;
  const RunStart start{run.ledger().cells, time, warnings(the_case)};
  for (const auto& warning : start.warnings) writer.log("warning: " + warning);
  writer.log(fmt::format("{}: {}, {} cells, threads: {}",
                         options.kept != nullptr ? fmt::format("goes on from t = {:.6g} s", time) : "start",
                         the_case.title, start.cells, omp_get_max_threads()));
  if (watcher.started) watcher.started(start);

  SettledEnd settled(run.schedule(), run.columns());
  if (options.kept != nullptr && !settled.none()) {
    long left_out = 0;  // NaN where a gauge was not there yet
    const Table before = read_csv(options.folder / "history.csv", &left_out);
    std::vector<double> row(before.columns.size());
    for (std::size_t i = 0; i < before.columns[0].size(); ++i) {
      for (std::size_t c = 0; c < row.size(); ++c) row[c] = before.columns[c][i];
      settled.add(row);
    }
  }
  const auto write_fields = std::move(sinks.snapshot);
  sinks.snapshot = [&](const Run& now, int number) {
    write_fields(now, number);
    RunLedger& ledger = run.ledger();
    ledger.settled = settled.reached();
    if (!settled.none()) ledger.settling = settled.words();
    writer.finish(now.ledger(), "running");
  };
  sinks.history = [&](const std::vector<double>& row) {
    writer.history(row);
    settled.add(row);
  };
  sinks.reached = [&] { return settled.reached(); };
  sinks.progress = watcher.progress;
  sinks.stop = watcher.stop;
  Stopwatch since_kept;
  sinks.checkpoint_due = [&] { return since_kept.seconds() >= run.schedule().checkpoint_interval; };
  sinks.checkpoint = [&](Archive& a) {
    std::string as_run = the_case.as_run;
    a("case", as_run);
    writer.checkpoint(a);
    since_kept.lap();
  };
  try {
    simulate(run, sinks, options.kept);
  } catch (const Error& error) {
    try {
      writer.log(std::string("failed: ") + error.what());
      writer.finish(run.ledger(), "failed", error.problem());
    } catch (const Error&) {
      // A full disk: the first error is the one to report.
    }
    throw;
  }
  const RunLedger& ledger = run.ledger();
  const std::string status = ledger.interrupted ? "interrupted" : "done";
  writer.log(fmt::format("{} at t = {:.6g} s after {} steps", status, ledger.ended_at, ledger.steps));
  writer.finish(run.ledger(), status);
  return {run.ledger(), writer.gauges()};
}

/// What Torricelli says of the levels that gauges will show.
template <int D>
void write_estimates(const Setup<D>& setup, const VesselModel<D>& model, RunWriter& writer) {
  if (std::ranges::none_of(setup.gauges, [](const auto& gauge) { return gauge.measures == "level"; })) return;
  for (std::size_t i = 0; i < setup.openings.size(); ++i)
    if (const auto curve = drain_curve(setup, model, i); !curve.empty())
      writer.estimate("drain_" + setup.openings[i].opening.name,
                      {{"time", "s"}, {fmt::format("Torricelli ({})", setup.openings[i].opening.name), "m"}}, curve);
}

template <int D>
RunOutcome execute(const CaseFile& the_case, const Setup<D>& setup, const RunOptions& options,
                   const RunWatcher& watcher) {
  require_memory(setup);
  const Grid<D> grid = make_grid(setup);
  use_threads(grid.cell_count(), options.threads);
  const OwnModel<D> own(setup, grid);
  VesselRun<D> run(setup, own.model());
  RunWriter writer(options.folder, lock(options), the_case, run.columns(), options.kept);
  if (options.kept == nullptr) write_estimates(setup, own.model(), writer);
  Sinks<VesselRun<D>> sinks;
  sinks.snapshot = [&](const VesselRun<D>& now, int number) { writer.snapshot(now.model(), number); };
  return carry_out(writer, the_case, run, options, watcher, std::move(sinks));
}

RunOutcome execute(const CaseFile& the_case, const LineSetup& setup, const RunOptions& options,
                   const RunWatcher& watcher) {
  use_threads(1, 1);
  LineRun run(setup);
  RunWriter writer(options.folder, lock(options), the_case, run.columns(), options.kept);
  Sinks<LineRun> sinks;
  sinks.snapshot = [&](const LineRun& now, int number) {
    writer.profile(now.model(), number);
    if (setup.follow_slugs) writer.passages(now.model());
  };
  if (setup.follow_slugs)
    sinks.step = [&](LineRun& now) {
      if (now.tracks_due()) writer.tracks(now.model());
    };
  return carry_out(writer, the_case, run, options, watcher, std::move(sinks));
}

}  // namespace

RunOutcome execute(const CaseFile& the_case, const RunOptions& options, const RunWatcher& watcher) {
  return std::visit([&](const auto& setup) { return execute(the_case, setup, options, watcher); }, the_case.setup);
}

void use_threads(long cells, int asked) {
  const int worth = static_cast<int>(std::clamp(cells / cells_per_thread, 1L, 1024L));
  static const int offered = omp_get_max_threads();  // all cores, or what OMP_NUM_THREADS says
  omp_set_num_threads(asked > 0 ? asked : std::min(worth, offered));
}

}  // namespace wavy
