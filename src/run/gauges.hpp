// Gauges: what is measured in every time step.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "run/column.hpp"
#include "run/setup.hpp"
#include "run/vessel_gauges.hpp"

namespace wavy {

/// Time first, then the gauges in the order of the case, then what is always measured: the flow of each phase through
/// each opening (into the vessel, mean since the last reading; where a pressure is given also in and out apart), the
/// volume of each phase and the greatest speed. Of the Eulerian model then the holdup of each fluid in bubbles or drops
/// (NAME_holdup: its share of the vessel), of several size classes the volume and the Sauter diameter together
/// (NAME_volume, NAME_sauter), and where there are layers the mean level of each (NAME_level).
template <int D>
std::vector<Column> vessel_columns(const Setup<D>& setup);

/// The gauges of a run.
template <int D>
class Gauges {
 public:
  /// Throws an input error where a level gauge lies in a solid.
  Gauges(const Setup<D>& setup, const VesselModel<D>& model);

  /// vessel_columns().
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] std::vector<double> read(const VesselModel<D>& model);

  /// What the next reading depends on.
  void archive(Archive& a);

 private:
  const Setup<D>& setup_;
  std::vector<Column> columns_;
  std::vector<VesselReader<D>> readers_;  // per gauge
  std::vector<VesselReader<D>> always_;   // of the Eulerian model, without asking
  std::vector<Throughput> throughput_;    // at the last reading
  std::vector<double> shown_;             // per gauge: its reading, NaN before the first
  double time_ = 0;
};

}  // namespace wavy
