// What is read after a run, from its snapshots: gauges, distributions of a quantity, pieces of a phase one by one.
#pragma once

#include <array>
#include <functional>
#include <string>
#include <vector>

#include "base/table.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"

namespace wavy {

/// Which snapshots are read: those from one time up to another, both counted. `each` is called after every one with how
/// many are done of how many.
struct SnapshotRange {
  double from = 0;
  double to = 0;
  std::function<void(std::size_t done, std::size_t of)> each{};
};

/// What gauges read at the snapshots of a run, of a line at its profiles: time [s], then the gauges of the case from
/// number `first` on, in SI units, without the lag of instruments. Throws an input error where a snapshot cannot be
/// read.
Table measured(const RunFolder& run, const CaseFile& the_case, std::size_t first, const SnapshotRange& range);

/// A quantity place by place, at every snapshot.
struct Distribution {
  std::string quantity;
  std::string unit;
  std::vector<double> distance;              ///< along a line or, in 2-D, a wall [m]; empty for all else
  std::vector<std::array<double, 3>> place;  ///< [m]; in 2-D the last entry is 0
  int dimensions = 2;
  std::vector<double> time;                ///< [s]
  std::vector<std::vector<double>> value;  ///< [time][place]; NaN where gas is left out
};

/// What a gauge of the case has to make its one figure of: the quantity all over its line, wall, plane or zone. Throws
/// an input error that names `option` where there is no such gauge, or it reads no quantity in a zone.
Distribution distribution(const RunFolder& run, const CaseFile& the_case, const std::string& gauge,
                          const std::string& option, const SnapshotRange& range);
/// A row per place: its distance and coordinates, and the quantity at each time.
Table table_of(const Distribution& distribution);

/// The drops, bubbles or pools of a phase of a vessel at the snapshots of a run (see fluid_pieces): a row for each with
/// the time [s], its number at that time, how many of it the vessel has, volume [m3], diameter of a disc or ball of
/// that volume [m], place [m] and velocity [m/s]. Those smaller than a cell are one row behind the others, with number
/// 0. Throws an input error that names `option` where the case has no such phase.
Table pieces(const RunFolder& run, const CaseFile& the_case, const std::string& phase, const std::string& option,
             const SnapshotRange& range);

}  // namespace wavy
