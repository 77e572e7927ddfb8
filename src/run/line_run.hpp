// A line's run: the model with its gauges, its controllers and its ledger.
#pragma once

#include <vector>

#include "run/ledger.hpp"
#include "run/line_gauges.hpp"
#include "run/line_setup.hpp"
#include "run/simulate.hpp"

namespace wavy {

/// Of a line at its start. The setup must outlive it.
class LineRun {
 public:
  explicit LineRun(const LineSetup& setup);

  [[nodiscard]] const Schedule& schedule() const { return setup_.schedule; }
  [[nodiscard]] std::vector<Column> columns() const { return line_columns(setup_); }
  [[nodiscard]] const line::Model& model() const { return model_; }
  [[nodiscard]] LineLedger& ledger() { return ledger_; }
  [[nodiscard]] const LineLedger& ledger() const { return ledger_; }

  [[nodiscard]] double time() const { return model_.state().time; }
  void start() { ledger_.mass_start = model_.held(); }
  [[nodiscard]] std::vector<double> read();
  [[nodiscard]] WantedStep wanted_step() const;
  double step(double dt);
  void land(double time) { model_.state().time = time; }
  void close_books();
  void archive(Archive& a);

  /// Whether it is time to write down where slugs are, some times between profiles; no more then until the next time.
  [[nodiscard]] bool tracks_due();

 private:
  /// A controller and the numbers of its valve and gauge.
  struct Loop {
    std::size_t valve, gauge;
    line::Controller controller;
  };
  const LineSetup& setup_;
  line::Model model_;
  std::vector<LineReader> readers_;
  std::vector<Loop> loops_;
  LineLedger ledger_;
  double last_step_ = 0;    // [s]
  double next_tracks_ = 0;  // [s]
};

}  // namespace wavy
