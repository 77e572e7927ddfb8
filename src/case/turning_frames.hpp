// Frozen frames of agitators, as they stand in a case file.
#pragma once

#include <algorithm>
#include <cmath>
#include <optional>
#include <string>

#include "case/sections.hpp"

namespace wavy {

/// What stands at a place that something is to turn through: "the wall of the vessel", the name of an insert; none: it
/// is free. `inside`: of the vessel.
template <int D>
std::optional<std::string> stands_at(const Setup<D>& setup, const Solid<D>& inside, const Vec<D>& place);

/// How far a body in its box reaches from an agitator's axis, at most.
template <int D>
double reach_of(const Solid<D>& solid, const Vec<D>& at) {
  return std::hypot(std::max(at[0] - solid.lower[0], solid.upper[0] - at[0]),
                    std::max(at[1] - solid.lower[1], solid.upper[1] - at[1]));
}

/// What is swept round an agitator's axis: a cylinder, in 2-D a circle.
template <int D>
struct Swept {
  Vec<D> at{};
  double radius = 0;
  double lower = 0;
  double upper = 0;
};
template <int D>
bool meet(const Swept<D>& one, const Swept<D>& other) {
  return std::hypot(one.at[0] - other.at[0], one.at[1] - other.at[1]) < one.radius + other.radius &&
         (D == 2 || (one.lower < other.upper && other.lower < one.upper));
}

/// Zones round the parts of the agitator read last, but for its shaft, where its motion is frozen. Throws an input
/// error where something that stands still leaves them no room.
template <int D>
void read_frames(Part& part, Setup<D>& setup, const Solid<D>& inside);

/// Once all agitators are known. Throws an input error where a frame reaches what turns with another of them, or its
/// frame.
template <int D>
void refuse_meeting_frames(const Setup<D>& setup);

}  // namespace wavy
