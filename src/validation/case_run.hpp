// A case in a validation: read from its text, run to its end.
#pragma once

#include <string>
#include <variant>
#include <vector>

#include "case/case_file.hpp"
#include "run/setup.hpp"
#include "run/simulate.hpp"
#include "run/vessel_run.hpp"

namespace wavy {

/// A vessel in the plane and what its run has left.
class CaseRun {
 public:
  explicit CaseRun(const std::string& text)
      : case_(parse_case(text, "case.toml")),
        grid_(make_grid(setup())),
        own_(setup(), grid_),
        run_(setup(), own_.model()) {
    Sinks<VesselRun<2>> sinks;
    sinks.history = [&](const std::vector<double>& row) { rows_.push_back(row); };
    sinks.snapshot = [](const VesselRun<2>&, int) {};
    simulate(run_, sinks);
  }
  [[nodiscard]] const Setup<2>& setup() const { return std::get<Setup<2>>(case_.setup); }
  [[nodiscard]] const Grid<2>& grid() const { return grid_; }
  [[nodiscard]] const VesselModel<2>& model() const { return own_.model(); }
  [[nodiscard]] const VesselRun<2>& run() const { return run_; }
  /// The history, row by row.
  [[nodiscard]] const std::vector<std::vector<double>>& rows() const { return rows_; }

 private:
  CaseFile case_;
  Grid<2> grid_;
  OwnModel<2> own_;
  VesselRun<2> run_;
  std::vector<std::vector<double>> rows_;
};

}  // namespace wavy
