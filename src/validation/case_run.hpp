// A case in a validation: read from its text, run to its end.
#pragma once

#include <algorithm>
#include <string>
#include <variant>
#include <vector>

#include "base/history_figures.hpp"
#include "base/table.hpp"
#include "case/case_file.hpp"
#include "run/setup.hpp"
#include "run/simulate.hpp"
#include "run/vessel_run.hpp"
#include "validation/case_texts.hpp"

namespace wavy {

/// A vessel and what its run has left.
template <int D>
class CaseRun {
 public:
  explicit CaseRun(const std::string& text)
      : case_(parse_case(text, "case.toml")),
        grid_(make_grid(setup())),
        own_(setup(), grid_),
        run_(setup(), own_.model()) {
    Sinks<VesselRun<D>> sinks;
    // In one piece: rows of their own would lie in the gaps that a step's work leaves, so that it had to ask for more.
    std::vector<double> values;
    sinks.history = [&](const std::vector<double>& row) { values.insert(values.end(), row.begin(), row.end()); };
    sinks.snapshot = [](const VesselRun<D>&, int) {};
    simulate(run_, sinks);
    const auto width = static_cast<std::ptrdiff_t>(run_.columns().size());
    for (auto row = values.begin(); row != values.end(); row += width) rows_.emplace_back(row, row + width);
  }
  [[nodiscard]] const Setup<D>& setup() const { return std::get<Setup<D>>(case_.setup); }
  [[nodiscard]] const Grid<D>& grid() const { return grid_; }
  [[nodiscard]] const VesselModel<D>& model() const { return own_.model(); }
  [[nodiscard]] const VesselRun<D>& run() const { return run_; }
  /// A column of the history [SI]; "time" is the first.
  [[nodiscard]] std::vector<double> column(const std::string& name) const {
    const auto own = std::ranges::find(run_.columns(), name, &Column::name) - run_.columns().begin();
    std::vector<double> values;
    for (const auto& row : rows_) values.push_back(row[static_cast<std::size_t>(own)]);
    return values;
  }
  /// Mean of a column of the history from a time on [SI].
  [[nodiscard]] double mean_from(double time, const std::string& name) const {
    const std::vector<double> times = column("time");
    return history_figures(times, column(name), time, times.back()).value().mean;
  }
  /// The history as its file would have it.
  [[nodiscard]] Table history() const {
    Table table;
    for (const Column& one : run_.columns()) {
      table.names.push_back(one.name);
      table.units.push_back(one.unit);
      table.columns.push_back(column(one.name));
    }
    return table;
  }
  /// The history, row by row.
  [[nodiscard]] const std::vector<std::vector<double>>& rows() const { return rows_; }

 private:
  CaseFile case_;
  Grid<D> grid_;
  OwnModel<D> own_;
  VesselRun<D> run_;
  std::vector<std::vector<double>> rows_;
};

}  // namespace wavy
