// Of solids that turn: where a part is. For the sources of TurningSolids alone.
#pragma once

#include <cmath>
#include <optional>

#include "flow/turning_solids.hpp"

namespace wavy {

template <int D>
double mean_spacing(const BlockGeometry<D>& block) {
  return std::pow(block.cell_volume, 1.0 / D);
}

/// A part where it is now, how it moves, and how it moved at the start of the step.
template <int D>
struct TurningSolids<D>::Placed {
  Solid<D> solid;
  RigidMotion<D> now, before;
  std::optional<Solid<D>> sheet;

  [[nodiscard]] double distance(const Vec<D>& place) const {
    const double own = solid.distance(place);
    return sheet ? std::min(own, sheet->distance(place)) : own;
  }
  [[nodiscard]] Vec<D> lower() const { return box_end(solid.lower, sheet ? sheet->lower : solid.lower, false); }
  [[nodiscard]] Vec<D> upper() const { return box_end(solid.upper, sheet ? sheet->upper : solid.upper, true); }

 private:
  static Vec<D> box_end(const Vec<D>& a, const Vec<D>& b, bool high) {
    Vec<D> result;
    for (std::size_t d = 0; d < D; ++d) result[d] = high ? std::max(a[d], b[d]) : std::min(a[d], b[d]);
    return result;
  }
};

}  // namespace wavy
