// What can be said of a case before it runs: times to fill, to drain, to be exchanged.
#pragma once

#include <optional>

#include "run/setup.hpp"

namespace wavy {

/// Time in which the liquid runs out through an opening with a given pressure in the floor or low in a side, after
/// Torricelli, dV/dt = -discharge area sqrt(2 g (level - height of the opening)), with the open volume below each
/// level; nothing where no liquid stands above it or gravity does not pull along the last axis. What stands below it
/// stays.
template <int D>
std::optional<double> drain_time(const Setup<D>& setup, const sharp::Model<D>& model, std::size_t opening,
                                 double discharge);

/// Volume flow that an opening brings in at a time [m3/s], negative: takes out; nothing where it follows from the
/// pressure or a level.
template <int D>
std::optional<double> given_flow(const Setup<D>& setup, const sharp::Model<D>& model, std::size_t opening, double time);

}  // namespace wavy
