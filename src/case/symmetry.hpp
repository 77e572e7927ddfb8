// Whether a vessel and what turns in it are what a part of it makes them.
#pragma once

#include "case/sections.hpp"

namespace wavy {

/// Once inserts and agitators are known. Throws an input error where half a turn does not leave the vessel, its inserts
/// and what turns as they are although symmetry = "half_turn" or "quarter_turn" says so, and where what turns stands in
/// a vessel with mirrors. `inside`: of the vessel.
template <int D>
void check_turning_symmetry(const Setup<D>& setup, const Part& vessel, const Solid<D>& inside);

}  // namespace wavy
