// Impellers and shafts of agitators from a few measures.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "geometry/solids.hpp"

namespace wavy {

enum class ImpellerKind { paddle, disc_turbine, pitched_blade, curved_blade, hydrofoil, anchor, ribbon, gate };

/// All of them by their names.
const std::vector<std::pair<std::string, ImpellerKind>>& impeller_kinds();

/// Anchors, gates and ribbons: of strips, described from their lower end upwards.
bool stands_on_its_end(ImpellerKind kind);

/// Measures of an impeller; lengths in m, angles in rad. `usual_impeller` has them all.
struct Impeller {
  ImpellerKind kind = ImpellerKind::paddle;
  double diameter = 0;         ///< over the tips
  int blades = 2;              ///< anchor, gate: arms; ribbon: strips
  double blade_height = 0;     ///< width of the blade, before it is pitched; anchor, ribbon, gate: width of the strips
  double blade_angle = 0;      ///< from the plane that it turns in: upright pi/2; hydrofoil: at the tip
  double blade_thickness = 0;  ///< of blades, strips and the disc
  double blade_length = 0;     ///< along the radius, inwards from the tip
  double disc_diameter = 0;    ///< 0: none
  double hub_diameter = 0;
  double height = 0;  ///< of an anchor, a ribbon or a gate
  double rise = 0;    ///< of a ribbon in one turn
};

/// With the usual proportions for its diameter: see the table in the source.
Impeller usual_impeller(ImpellerKind kind, double diameter);

/// Its body round the axis x = y = 0, turning counter-clockwise; z = 0 is the middle of the blades, or the lower end of
/// an anchor, a ribbon or a gate. What is thinner than `least` is made so thick; then free edges of blades are cut back
/// by `cut`.
Solid<3> impeller_solid(const Impeller& impeller, double least = 0, double cut = 0);

/// What of it is no blade, strip or disc; nothing where there is no hub.
Solid<3> hub_solid(const Impeller& impeller);
/// All but the hub, of this thickness.
Solid<3> sheet_of(const Impeller& impeller, double thickness);

/// Greatest extent above and below z = 0 [m].
double upper_end(const Impeller& impeller);
double lower_end(const Impeller& impeller);

}  // namespace wavy
