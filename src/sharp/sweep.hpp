// One direction of the split step on one block: liquid and momentum move along one axis.
#pragma once

#include "flow/transport.hpp"
#include "sharp/liquid_flux.hpp"
#include "sharp/opening_fluxes.hpp"

namespace wavy::sharp {

/// The fields of one block that a sweep reads and moves.
template <int D>
struct Swept {
  const double* face_u;  ///< across the axis
  double* F;
  const double* extended_fraction;
  const unsigned char* full;  ///< 1 where F > 1/2 at the start of the step
  Carried<D> u;
};

/// Each row of cells moves when what passes the faces behind it has been found from the values of before.
///
/// Beside solids (`cut` then says what the sweep reads of them) the cells of groups are left with their momentum in
/// place of their velocity.
template <int D, bool is_cut>
void sweep_block(const Layout<D>& layout, const Settings<D>& settings, int axis, double dt_over_h,
                 const Swept<D>& field, const Cut<D>& cut, int block, OpeningFluxes<D>* openings,
                 const KeptFluxes& kept = {});

}  // namespace wavy::sharp
