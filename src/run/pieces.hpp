// Drops, bubbles and pools one by one: the connected pieces of a phase.
#pragma once

#include <vector>

#include "run/setup.hpp"

namespace wavy {

template <int D>
struct FluidPiece {
  /// How many of them the whole vessel has: where a part of it is computed, one for each mirror image that is not
  /// joined to it.
  int copies = 1;
  double volume = 0;  ///< of one of them [m3]
  /// Of what is computed of it [m]; across a mirror that it touches, the mirror's own place.
  Vec<D> middle{};
  Vec<D> velocity{};  ///< by volume [m/s]
};

/// All pieces of a phase (0: the denser one), the largest first; equal ones in the grid's order. Cells that the phase
/// fills by half or more belong to one piece where they share an open face, also through the seam of a periodic axis;
/// what it fills of the others goes with the piece beside that fills more of its cell, or with what is left beside. So
/// copies times volume sum up to the phase's volume.
template <int D>
std::vector<FluidPiece<D>> fluid_pieces(const VesselModel<D>& model, const Setup<D>& setup, int phase);

/// Volume of a cell as the vessel has it [m3]: smaller pieces are hardly told from what is left over in a cell.
template <int D>
double whole_cell_volume(const Setup<D>& setup, const Grid<D>& grid) {
  return grid.cell_volume() * setup.thickness * share_of_vessel(setup);
}

}  // namespace wavy
