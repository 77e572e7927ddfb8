// Gauges of a vessel as they stand in a case file.
#pragma once

#include <set>

#include "case/part.hpp"

namespace wavy {

/// One [[gauge]]. Phases, walls and inserts must be known. `taken`: headings of the history, to which the gauge's is
/// added. Throws an input error for what cannot be.
template <int D>
Gauge<D> read_gauge(const Setup<D>& setup, Part& part, std::set<std::string>& taken);

}  // namespace wavy
