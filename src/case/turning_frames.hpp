// Frozen frames of agitators, as they stand in a case file.
#pragma once

#include <optional>
#include <string>

#include "case/sections.hpp"

namespace wavy {

/// What stands at a place that something is to turn through: "the wall of the vessel", the name of an insert; none: it
/// is free. `inside`: of the vessel.
template <int D>
std::optional<std::string> stands_at(const Setup<D>& setup, const Solid<D>& inside, const Vec<D>& place);

/// Zones round the parts of the agitator read last, but for its shaft, where its motion is frozen. Throws an input
/// error where something that stands still leaves them no room.
template <int D>
void read_frames(Part& part, Setup<D>& setup, const Solid<D>& inside);

/// Once all agitators are known. Throws an input error where a frame reaches what turns with another of them, or its
/// frame.
template <int D>
void refuse_meeting_frames(const Setup<D>& setup);

}  // namespace wavy
