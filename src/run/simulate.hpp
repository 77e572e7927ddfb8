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
  std::function<bool()> reached;                            ///< true: all that was wanted is known, end now
  std::function<bool()> checkpoint_due;                     ///< after a step: keep all that the run depends on
  std::function<void(Archive&)> checkpoint;                 ///< takes it, to which the sink adds what is its own
};

/// A run on its way through time, with its ledger, snapshots and checkpoints.
template <Simulation Run>
class Journey {
 public:
  Journey(Run& run, const Sinks<Run>& sinks) : run_(run), sinks_(sinks), schedule_(run.schedule()) {}

  void start() {
    run_.start();
    sinks_.history(run_.read());
    write_snapshot();
  }
  void go_on(Archive& kept) {
    archive(kept);
    kept = Archive();  // as large as the model's fields
    earlier_seconds_ = run_.ledger().wall_seconds;
    // A run that ended on the time of a snapshot may have missed it by rounding.
    constexpr double rounding = 1e-12;
    if (marks_ * schedule_.snapshot_interval <= run_.time() * (1 + rounding)) write_snapshot();
  }
  void to_the_end() {
    const double from = run_.time();
    try {
      while (run_.time() < schedule_.until && step(from)) {
      }
    } catch (...) {
      finish();
      throw;
    }
    finish();
  }

 private:
  /// False where it was the last.
  bool step(double from) {
    // Multiples, not sums, of the interval: ten intervals of 0.1 s must end at 1 s.
    const double next_snapshot = marks_ * schedule_.snapshot_interval;
    const double target = std::min(schedule_.until, next_snapshot);
    auto [dt, limit] = run_.wanted_step();
    // An even share of the last steps to the target.
    const double left = target - run_.time();
    if (const double steps = std::ceil(left / dt * (1 - 1e-9)); steps < 3) {
      const double even = left / std::max(1.0, steps);
      if (even < 0.9 * dt) limit = by_output;
      dt = even;
    }
    RunLedger& ledger = run_.ledger();
    const double taken = run_.step(dt);
    if (std::abs(run_.time() - target) < 1e-9 * std::max(dt, target)) run_.land(target);
    ledger.count_step(taken, limit);
    sinks_.history(run_.read());
    if (sinks_.step) sinks_.step(run_);
    if (sinks_.progress) sinks_.progress({from, run_.time(), schedule_.until, taken, ledger.steps, watch_.seconds()});
    const bool stop = sinks_.stop && sinks_.stop() && run_.time() < schedule_.until;
    const bool last = stop || run_.time() >= schedule_.until || (sinks_.reached && sinks_.reached());
    if (run_.time() >= next_snapshot) write_snapshot();
    if (last || (sinks_.checkpoint_due && sinks_.checkpoint_due())) keep();
    if (last && run_.time() < next_snapshot) write_snapshot();  // one that a run that goes on does without
    ledger.interrupted = ledger.interrupted || stop;
    return !last;
  }

  void archive(Archive& a) {
    run_.archive(a);
    a("snapshots", snapshots_);
    a("marks", marks_);
    double interval = schedule_.snapshot_interval;
    a("snapshot_interval", interval);
    if (interval == schedule_.snapshot_interval) return;
    constexpr double hair = 1e-9;
    marks_ = 1 + std::floor(run_.time() / schedule_.snapshot_interval * (1 + hair));
  }
  void keep() {
    if (!sinks_.checkpoint) return;
    const Stopwatch own;
    run_.ledger().wall_seconds = earlier_seconds_ + watch_.seconds();
    Archive a;
    archive(a);
    sinks_.checkpoint(a);
    run_.ledger().output_seconds += own.seconds();
  }
  void close_books() {
    run_.close_books();
    run_.ledger().ended_at = run_.time();
  }
  void write_snapshot() {
    const Stopwatch own;
    close_books();
    sinks_.snapshot(run_, snapshots_++);
    ++marks_;
    run_.ledger().output_seconds += own.seconds();
  }
  void finish() {
    close_books();
    run_.ledger().wall_seconds = earlier_seconds_ + watch_.seconds();
  }

  Run& run_;
  const Sinks<Run>& sinks_;
  const Schedule& schedule_;
  Stopwatch watch_;
  int snapshots_ = 0;
  double marks_ = 0;            // how many of the times of snapshots have passed
  double earlier_seconds_ = 0;  // of the run before it was stopped
};

/// Goes from the present time to the end, landing exactly on snapshot times. Throws the model's failures after the last
/// good state has gone to the sinks; the ledger is up to date then too. `kept`: what a checkpoint of an earlier run of
/// the same case holds; the run then goes on from there, to the same bits as if it had not stopped. A checkpoint is
/// also kept at the end, and where the run is stopped.
template <Simulation Run>
void simulate(Run& run, const Sinks<Run>& sinks, Archive* kept = nullptr) {
  Journey<Run> journey(run, sinks);
  if (kept != nullptr)
    journey.go_on(*kept);
  else
    journey.start();
  journey.to_the_end();
}

}  // namespace wavy
