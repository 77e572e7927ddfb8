// Gauges as they stand in a case file.
#pragma once

#include <set>

#include "case/part.hpp"
#include "run/gauge_kinds.hpp"

namespace wavy {

/// What a [[gauge]] measures. Throws an input error for what such a case does not know.
const GaugeKind& read_gauge_kind(Part& part, GaugeKind::Of of);

/// One [[gauge]] of a vessel. Phases, walls and inserts must be known. `taken`: headings of the history, to which the
/// gauge's is added. Throws an input error for what cannot be.
template <int D>
Gauge<D> read_gauge(const Setup<D>& setup, Part& part, const FormulaNames& names, std::set<std::string>& taken);

}  // namespace wavy
