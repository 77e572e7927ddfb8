// Fills as they stand in a case file.
#pragma once

#include "case/part.hpp"

namespace wavy {

/// What one [[fill]] lays where. The phases must be known. Throws an input error for what cannot be.
template <int D>
Fill<D> read_fill(const Setup<D>& setup, Part& part, const FormulaNames& names);

}  // namespace wavy
