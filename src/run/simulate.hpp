// The loop over time that every run has, whatever its model. It hands what it makes to sinks given from above.
#pragma once

#include <algorithm>
#include <cmath>
#include <concepts>
#include <functional>
#include <string>
#include <vector>

#include "base/archive.hpp"
#include "base/stopwatch.hpp"
#include "run/ledger.hpp"
#include "run/schedule.hpp"

namespace wavy {

struct Progress {
  double from = 0;  ///< where this run began or goes on [s]
  double time = 0;
  double until = 0;
  double dt = 0;
  long steps = 0;
  double wall_seconds = 0;  ///< since then
};

/// The step that a model would take now, and what limits it.
struct WantedStep {
  double dt = 0;  ///< [s]
  std::string limit;

  void at_most(double other, const char* by) {
    if (other >= dt) return;
    dt = other;
    limit = by;
  }
};

/// Limits that are not the physics'.
inline constexpr const char* by_growth = "growth from step to step";
inline constexpr const char* by_largest_step = "largest_step";
inline constexpr const char* by_output = "output times";

/// A model on its way through time, with its gauges, its controllers and its ledger.
template <class Run>
concept Simulation = requires(Run run, const Run seen, double number, Archive archive) {
  { seen.schedule() } -> std::same_as<const Schedule&>;
  { seen.time() } -> std::same_as<double>;              // [s]
  run.start();                                          // the first state; a run that goes on brings it back instead
  { run.read() } -> std::same_as<std::vector<double>>;  // a row of the history; controllers have acted on it then
  { run.wanted_step() } -> std::same_as<WantedStep>;    // stable, and not much longer than the last one
  { run.step(number) } -> std::same_as<double>;         // advances by so much or less: the step that was taken [s]
  run.land(number);                                     // the time is this, but for rounding
  run.close_books();                                    // brings the ledger up to date
  run.archive(archive);                                 // all that the rest of the run depends on
  { run.ledger() } -> std::convertible_to<RunLedger&>;
};

/// Where a run's results go. All are called on the calling thread; `history` and `snapshot` must be set.
template <Simulation Run>
struct Sinks {
  std::function<void(const std::vector<double>&)> history;  ///< one row per step
  std::function<void(const Run&, int)> snapshot;            ///< all fields, and the number of the snapshot
  std::function<void(Run&)> step;                           ///< after every step, behind `history`
  std::function<void(const Progress&)> progress;            ///< after every step
  std::function<bool()> stop;                               ///< true: end in order now
  std::function<bool()> checkpoint_due;                     ///< after a step: keep all that the run depends on
  std::function<void(Archive&)> checkpoint;                 ///< takes it, to which the sink adds what is its own
};

/// Goes from the present time to the end, landing exactly on snapshot times. Throws the model's failures after the last
/// good state has gone to the sinks; the ledger is up to date then too. `kept`: what a checkpoint of an earlier run of
/// the same case holds; the run then goes on from there, to the same bits as if it had not stopped. A checkpoint is
/// also kept at the end, and where the run is stopped.
template <Simulation Run>
void simulate(Run& run, const Sinks<Run>& sinks, Archive* kept = nullptr) {
  const Stopwatch watch;
  const Schedule& schedule = run.schedule();
  RunLedger& ledger = run.ledger();
  int snapshots = 0;
  double marks = 0;            // how many of the times of snapshots have passed
  double earlier_seconds = 0;  // of the run before it was stopped
  const auto archive = [&](Archive& a) {
    run.archive(a);
    a("snapshots", snapshots);
    a("marks", marks);
    double interval = schedule.snapshot_interval;
    a("snapshot_interval", interval);
    if (interval != schedule.snapshot_interval) {
      constexpr double hair = 1e-9;
      marks = 1 + std::floor(run.time() / schedule.snapshot_interval * (1 + hair));
    }
  };
  const auto keep = [&] {
    if (!sinks.checkpoint) return;
    const Stopwatch own;
    ledger.wall_seconds = earlier_seconds + watch.seconds();
    Archive a;
    archive(a);
    sinks.checkpoint(a);
    ledger.output_seconds += own.seconds();
  };
  const auto close_books = [&] {
    run.close_books();
    ledger.ended_at = run.time();
  };
  const auto write_snapshot = [&] {
    const Stopwatch own;
    close_books();
    sinks.snapshot(run, snapshots++);
    ++marks;
    ledger.output_seconds += own.seconds();
  };
  const auto finish = [&] {
    close_books();
    ledger.wall_seconds = earlier_seconds + watch.seconds();
  };

  if (kept != nullptr) {
    archive(*kept);
    *kept = Archive();  // as large as the model's fields
    earlier_seconds = ledger.wall_seconds;
  } else {
    run.start();
    sinks.history(run.read());
    write_snapshot();
  }
  const double from = run.time();
  try {
    while (run.time() < schedule.until) {
      // Multiples, not sums, of the interval: ten intervals of 0.1 s must end at 1 s.
      const double next_snapshot = marks * schedule.snapshot_interval;
      const double target = std::min(schedule.until, next_snapshot);
      auto [dt, limit] = run.wanted_step();
      // An even share of the last steps to the target.
      const double left = target - run.time();
      if (const double steps = std::ceil(left / dt * (1 - 1e-9)); steps < 3) {
        const double even = left / std::max(1.0, steps);
        if (even < 0.9 * dt) limit = by_output;
        dt = even;
      }
      const double taken = run.step(dt);
      if (std::abs(run.time() - target) < 1e-9 * std::max(dt, target)) run.land(target);
      ledger.count_step(taken, limit);
      sinks.history(run.read());
      if (sinks.step) sinks.step(run);
      if (sinks.progress) sinks.progress({from, run.time(), schedule.until, taken, ledger.steps, watch.seconds()});
      const bool stop = sinks.stop && sinks.stop() && run.time() < schedule.until;
      const bool last = stop || run.time() >= schedule.until;
      if (run.time() >= next_snapshot) write_snapshot();
      if (last || (sinks.checkpoint_due && sinks.checkpoint_due())) keep();
      if (last && run.time() < next_snapshot) write_snapshot();  // one that a run that goes on does without
      if (stop) {
        ledger.interrupted = true;
        break;
      }
    }
  } catch (...) {
    finish();
    throw;
  }
  finish();
}

}  // namespace wavy
