// Transport of the momentum of each phase by the volume of it that has passed the faces.
#pragma once

#include <vector>

#include "dispersed/fraction_transport.hpp"
#include "dispersed/model.hpp"

namespace wavy::dispersed {

/// (E10): u of every phase after the fractions have moved. Limited second order, unsplit; within the range of the
/// velocities in the cell and next to it, so that phases of which hardly anything is there cannot run away. Small cells
/// share with their group. Reads u(2); writes u(0).
template <int D>
void transport_momentum(const Grid<D>& grid, const OpenSpace<D>& space, const FractionTransport<D>& transport,
                        double dt, State<D>& state, std::vector<CellVectors<D>>& scratch);

}  // namespace wavy::dispersed
