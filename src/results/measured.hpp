// Gauges that are read after a run, from its snapshots.
#pragma once

#include <functional>

#include "base/table.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"

namespace wavy {

/// What gauges of a vessel read at the snapshots of a run from one time up to another, both counted: time [s], then the
/// gauges of the case from number `first` on, in SI units, without the lag of instruments. `each` is called after every
/// snapshot with how many are done of how many. Throws an input error where a snapshot cannot be read.
Table measured(const RunFolder& run, const CaseFile& the_case, std::size_t first, double from, double to,
               const std::function<void(std::size_t, std::size_t)>& each = {});

}  // namespace wavy
