// The end of a run whose gauges have settled.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/settling.hpp"
#include "run/column.hpp"
#include "run/schedule.hpp"

namespace wavy {

/// Watches the gauges that Schedule::end_when_settled names, row by row of the history.
///
/// A gauge has settled when the means of its readings over stretches of time no longer drift (settling()), and this is
/// found again and again while the run grows by a tenth; it is looked at each time that the run has grown by a
/// fiftieth. A gauge that has never changed has not settled, as nothing has happened there yet. Readings count as the
/// history keeps them, so that a run that goes on from its history ends where it would have.
class SettledEnd {
 public:
  /// `columns` of the rows, which hold those that are named.
  SettledEnd(const Schedule& schedule, const std::vector<Column>& columns);

  [[nodiscard]] bool none() const { return watched_.empty(); }
  /// [SI], time first.
  void add(const std::vector<double>& row);
  /// Whether all have settled, at a time at which the run may end.
  [[nodiscard]] bool reached() const { return reached_; }
  /// Which gauge was the last to settle, or which have not and what they do.
  [[nodiscard]] std::string words() const;

 private:
  struct Watched {
    Column column;
    std::size_t number = 0;  // of the column
    std::vector<double> readings;
    Settling found{};
    std::optional<double> settled{};  // the time of the first of the looks that all found it so [s]
  };
  void look(double time);

  double not_before_;
  std::vector<double> times_;
  std::vector<Watched> watched_;
  double next_look_ = 0;
  bool reached_ = false;
};

}  // namespace wavy
