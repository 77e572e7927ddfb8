// How much liquid passes the faces across one axis: cut out of the cells upwind by their interface.
#pragma once

#include <vector>

#include "sharp/extended_interface.hpp"
#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
class WallSlopes;

/// What the sweep of one block reads of solids; all null where there are none.
template <int D>
struct Cut {
  const double* volume = nullptr;   // open volume of the cells
  const double* inverse = nullptr;  // 1 over it
  const double* area = nullptr;     // of the faces across the axis
  const double* at_wall = nullptr;
  const unsigned char* alone = nullptr;
  const unsigned char* smooth = nullptr;  // along the axis
  const ExtendedInterface<D>* interface = nullptr;
  const OpenSpace<D>* space = &all_open<D>();
  int block = 0;
  const std::vector<SmallCell<D>>* small = nullptr;
  const double* rest = nullptr;           // share of liquid in the rest of a small cell's group
  const WallSlopes<D>* slopes = nullptr;  // where they tell of cells at walls
};

/// (S4): Courant number C = u dt/h times the open area, and liquid flux (share of a cell), through the faces [first,
/// end) of a block across `axis`. `shares`: of whole cells, for the planes.
template <int D>
void liquid_flux(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                 const double* extended_fraction, const double* face_u, double dt_over_h, const Cut<D>& cut, double* C,
                 double* flux);

/// What leaves a small cell may be more than it has room for: the rest of it comes from the others of its group, with
/// their share of liquid, so that no group gives more liquid than it has. Sets `flux` on the faces [first, end) of a
/// block across `axis`, as liquid_flux.
template <int D>
void pass_small_cells(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                      const Cut<D>& cut, const double* C, double* flux);

}  // namespace wavy::sharp
