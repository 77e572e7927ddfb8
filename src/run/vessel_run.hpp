// A vessel's run: the sharp model with its gauges, the openings that hold a level, and its ledger.
#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "run/gauges.hpp"
#include "run/ledger.hpp"
#include "run/setup.hpp"
#include "run/simulate.hpp"

namespace wavy {

/// Watches for a run that goes out of bounds while its books stay in order: within a few steps the fluid is many times
/// as fast as before, and far faster than all that drives it could make it.
class SpeedWatch {
 public:
  /// `speed` of now, at most; `by_drive`: Model::speed_by_drive. Throws a failure; `place` finds where.
  template <class Place>
  void look(double time, double speed, double by_drive, Place&& place) {
    constexpr double beyond_drive = 3;
    constexpr double jump = 10;
    if (last_.empty()) {
      by_drive_ = speed;  // of the start
      last_.assign(3, speed);
    }
    by_drive_ = std::max(by_drive_, by_drive);
    const double before = *std::min_element(last_.begin(), last_.end());
    if (speed > beyond_drive * by_drive_ && speed > jump * before)
      throw failure(
          fmt::format("the run diverged at t = {:.6g} s near {}: within {} steps the speed rose from {:.2g} to "
                      "{:.2g} m/s, and what drives the flow could bring about {:.2g} m/s at most",
                      time, place(), last_.size(), before, speed, by_drive_),
          "what was written before that is good; try a smaller run.courant, or another grid.cell");
    std::rotate(last_.begin(), last_.begin() + 1, last_.end());
    last_.back() = speed;
  }

  void archive(Archive& a) {
    a("last", last_);
    a("by_drive", by_drive_);
  }

 private:
  std::vector<double> last_;  // speeds of the steps before [m/s]
  double by_drive_ = 0;       // greatest so far, that of the start included [m/s]
};

/// Of a model of that setup, filled and not started. Setup and model must outlive it.
template <int D>
class VesselRun {
 public:
  VesselRun(const Setup<D>& setup, sharp::Model<D>& model);

  [[nodiscard]] const Schedule& schedule() const { return setup_.schedule; }
  [[nodiscard]] const std::vector<Column>& columns() const { return gauges_.columns(); }
  [[nodiscard]] const sharp::Model<D>& model() const { return model_; }
  [[nodiscard]] VesselLedger& ledger() { return ledger_; }
  [[nodiscard]] const VesselLedger& ledger() const { return ledger_; }

  [[nodiscard]] double time() const { return model_.state().time; }
  void start();
  [[nodiscard]] std::vector<double> read();
  /// Throws a failure where the stable step is below the smallest one, or the speed leaps beyond all that drives it.
  [[nodiscard]] WantedStep wanted_step();
  double step(double dt);
  void land(double time) { model_.state().time = time; }
  void close_books();
  void archive(Archive& a);

 private:
  const Setup<D>& setup_;
  sharp::Model<D>& model_;
  Gauges<D> gauges_;
  VesselLedger ledger_;
  SpeedWatch watch_;
  double last_step_ = 0;  // as wanted [s]
};

}  // namespace wavy
