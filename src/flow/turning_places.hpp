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
  std::optional<Solid<D>> sheet;
  Solid<D> whole;  // both
  RigidMotion<D> now, before;

  Placed(const TurningPart<D>& part, const Pose<D>& pose, const Pose<D>& last)
      : solid(in_pose(part.solid, pose)), whole(solid), now(pose.motion), before(last.motion) {
    if (!part.sheet) return;
    sheet = in_pose(*part.sheet, pose);
    whole = union_of(solid, *sheet);
  }
};

}  // namespace wavy
