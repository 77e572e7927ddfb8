// The loop over time that every run has: clock, gauges, ledger. It hands what it makes to sinks given from above.
#pragma once

#include <functional>
#include <vector>

#include "run/gauges.hpp"
#include "run/ledger.hpp"
#include "run/setup.hpp"

namespace wavy {

struct Progress {
  double time = 0;  ///< [s]
  double until = 0;
  double dt = 0;
  long steps = 0;
  double wall_seconds = 0;  ///< since the start of the run
};

/// Where a run's results go. All are called on the calling thread; `history` and `snapshot` must be set.
template <int D>
struct Sinks {
  std::function<void(const std::vector<double>&)> history;    ///< one row per step, as Gauges::columns
  std::function<void(const sharp::Model<D>&, int)> snapshot;  ///< all fields, and the number of the snapshot
  std::function<void(const Progress&)> progress;              ///< after every step
  std::function<bool()> stop;                                 ///< true: end in order now
  std::function<bool()> checkpoint_due;                       ///< after a step: keep all that the run depends on
  std::function<void(Archive&)> checkpoint;                   ///< takes it, to which the sink adds what is its own
};

/// Runs the model from its present time to the end, landing exactly on snapshot times. Throws the model's failures
/// after the last good state has gone to the sinks; `ledger` is up to date then too. `kept`: what a checkpoint of an
/// earlier run of the same case holds; the run then goes on from there, to the same bits as if it had not stopped.
/// A checkpoint is also kept at the end, and where the run is stopped.
template <int D>
void simulate(const Setup<D>& setup, sharp::Model<D>& model, const Sinks<D>& sinks, Ledger& ledger,
              Archive* kept = nullptr);

}  // namespace wavy
