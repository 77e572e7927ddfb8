// How long it takes until what was dosed is the same everywhere.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/table.hpp"
#include "run/setup.hpp"

namespace wavy {

/// By one gauge: from the end of the last dose until it stays within 5 % of what complete mixing makes of it.
struct MixingTime {
  std::string tracer;
  std::string gauge;
  bool reached = false;
  double seconds = 0;  ///< if it is reached
};

/// Of a closed vessel, by all gauges of a dosed tracer's concentration that read a value (within 5 % of what the dose
/// makes in the mean), or its variation (below 5 %). `history`: of the run, up to when it is asked. Empty where the
/// last dose is not over, or where something passes openings.
template <int D>
std::vector<MixingTime> mixing_times(const Setup<D>& setup, const Table& history);

/// The same in words: "dye to 95 %: 4.2 s after the dose by probe, not yet by variation"; empty where there are none.
std::string mixing_words(const std::vector<MixingTime>& times);

}  // namespace wavy
