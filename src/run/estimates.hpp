// What can be said of a case before it runs: times to fill, to drain, to be exchanged.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "run/setup.hpp"

namespace wavy {

/// Time [s] and level [m] while the liquid runs out through an opening without friction or contraction, after
/// Torricelli, dV/dt = -area sqrt(2 g (level - height of the opening)), with the open volume below each level; with a
/// discharge coefficient all times are divided by it. Empty where the opening has no given pressure, lies neither in
/// the floor nor in a side that no insert may dam, no liquid stands above it, or gravity does not pull along the last
/// axis. What stands below it stays.
template <int D>
std::vector<std::array<double, 2>> drain_curve(const Setup<D>& setup, const VesselModel<D>& model, std::size_t opening);

/// Memory that a run of the case takes, from its numbers of cells alone [bytes].
template <int D>
double needed_memory(const Setup<D>& setup);

/// Throws an input error at grid.cell where this machine has less memory than a run of the case takes.
template <int D>
void require_memory(const Setup<D>& setup);

/// Volume flow that an opening brings in at a time [m3/s], negative: takes out; nothing where it follows from the
/// pressure or a level.
template <int D>
std::optional<double> given_flow(const Setup<D>& setup, const VesselModel<D>& model, std::size_t opening, double time);

/// Bubbles or drops of a phase, one alone at its terminal slip in a carrier.
struct BodiesAlone {
  std::size_t phase = 0;
  std::size_t carrier = 0;
  Drag drag;
  DispersedBodies bodies;  ///< its slip is the terminal one
};
/// Of every phase of the Eulerian model in every carrier that it has a pair with, by gravity at the start; none without
/// gravity.
template <int D>
std::vector<BodiesAlone> bodies_alone(const Setup<D>& setup);

}  // namespace wavy
