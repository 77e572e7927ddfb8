// What passes the openings of an Eulerian vessel, phase by phase.
#pragma once

#include <array>

#include "dispersed/model.hpp"

namespace wavy::dispersed {

/// Share of each phase in what passes an open face of the boundary, sum 1: as given in what comes in; what leaves, by
/// the velocities of the phases (negative where one comes back).
template <int D>
void shares_through(const Boundary<D>& boundary, const Settings<D>& settings, const State<D>& state, int axis,
                    const OpeningFace<D>& face, std::array<double, most_phases>& share);

/// What openings make of the flow and the phases' velocities on the boundary at a time, and of what the flow gains by
/// pressure: given flows (`flows`: else they are 0), degassing surfaces, and nothing where it is closed.
template <int D>
void set_openings(const Grid<D>& grid, const Boundary<D>& boundary, const Settings<D>& settings, double time,
                  bool flows, State<D>& state, Faces<D>& inverse_density);

/// Densities at open faces, for the pressures that are given there. All must outlive it.
template <int D>
FluidAtOpenings<D> fluid_at_openings(const Boundary<D>& boundary, const Settings<D>& settings, const State<D>& state,
                                     const Vec<D>& G);

}  // namespace wavy::dispersed
