// A vessel's run: the model with its gauges, the openings that hold a level, and its ledger.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "run/gauges.hpp"
#include "run/ledger.hpp"
#include "run/running_means.hpp"
#include "run/setup.hpp"
#include "run/simulate.hpp"

namespace wavy {

/// Watches for a run that goes out of bounds while its books stay in order: within a few steps the fluid is many times
/// as fast as before, and far faster than all that drives it could make it.
class SpeedWatch {
 public:
  /// `speed` of now, at most; `by_drive`: VesselModel::speed_by_drive. Throws a failure; `place` finds where.
  void look(double time, double speed, double by_drive, const std::function<std::string()>& place);

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
  VesselRun(const Setup<D>& setup, const VesselModel<D>& model);

  [[nodiscard]] const Schedule& schedule() const { return setup_.schedule; }
  [[nodiscard]] const std::vector<Column>& columns() const { return gauges_.columns(); }
  [[nodiscard]] const VesselModel<D>& model() const { return model_; }
  [[nodiscard]] VesselLedger& ledger() { return ledger_; }
  [[nodiscard]] const VesselLedger& ledger() const { return ledger_; }

  [[nodiscard]] double time() const { return model_.time(); }
  void start();
  [[nodiscard]] std::vector<double> read();
  /// Throws a failure where the stable step is below the smallest one, or the speed leaps beyond all that drives it.
  [[nodiscard]] WantedStep wanted_step();
  double step(double dt);
  void land(double time) { model_.set_time(time); }
  void close_books();
  void archive(Archive& a);

 private:
  [[nodiscard]] VesselLedger::Tracer tracer_balance(std::size_t number) const;
  [[nodiscard]] std::array<double, 3> wall_units_at_walls() const;
  const Setup<D>& setup_;
  VesselModel<D> model_;
  Gauges<D> gauges_;
  VesselLedger ledger_;
  SpeedWatch watch_;
  std::optional<RunningMeans<D>> means_;
  std::size_t speed_column_ = 0;
  double last_step_ = 0;  // as wanted [s]
};

}  // namespace wavy
