// Parts that stand in vessels, from a few measures.
#pragma once

#include "geometry/solids.hpp"

namespace wavy {

/// Upright plates along the wall of a round vessel, evenly round its axis; lengths in m.
struct Baffles {
  int count = 4;
  double width = 0;  ///< across the wall
  double gap = 0;    ///< between them and the wall
  double thickness = 0;
  double height = 0;
};
/// `foot`: where the vessel's axis meets the plane of the baffles' lower edges; the first one stands along x.
Solid<3> baffles_solid(const Baffles& baffles, const Vec<3>& foot, double vessel_radius);

/// A tube wound round an upright axis: `foot` is the middle of its lower end's turn, where the tube's middle begins
/// along x, counter-clockwise upwards; `rise`: of one turn, more than the tube is thick.
Solid<3> coil_solid(const Vec<3>& foot, double radius, double tube_radius, double turns, double rise);

/// The wall of a round tube that is open at both ends.
Solid<3> sleeve_solid(const Vec<3>& from, const Vec<3>& to, double inner_radius, double thickness);

}  // namespace wavy
