#include "geometry/impellers.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

namespace wavy {
namespace {

constexpr double pi = std::numbers::pi;

/// Distance to a box of half extents round the origin.
double to_box(const Vec<3>& place, const Vec<3>& half) {
  return beyond<3>({std::abs(place[0]) - half[0], std::abs(place[1]) - half[1], std::abs(place[2]) - half[2]});
}

/// Radius, and place across the nearest of `count` radii from the axis, the first along x, counter-clockwise.
struct AtBlade {
  double along, across;
};
AtBlade at_nearest_blade(double x, double y, int count) {
  const double sector = 2 * pi / count;
  const double angle = std::atan2(y, x);
  const double from_blade = angle - sector * std::round(angle / sector);
  const double r = std::hypot(x, y);
  return {r * std::cos(from_blade), r * std::sin(from_blade)};
}

/// Least of a distance from the two blades between which a place lies: near the hub leaning blades reach over the
/// middle between them. `to_one`(place on the radius, across it).
template <class Fn>
double least_of_two(double x, double y, int count, Fn&& to_one) {
  const AtBlade near = at_nearest_blade(x, y, count);
  const double first = to_one(near.along, near.across);
  if (count == 1) return first;
  const double turn = (near.across > 0 ? -2 : 2) * pi / count;
  const double c = std::cos(turn);
  const double s = std::sin(turn);
  return std::min(first, to_one(c * near.along - s * near.across, s * near.along + c * near.across));
}

/// A measured impeller on a grid: what is thin is thick enough, and edges are cut back.
struct MeasuredImpeller {
  Impeller own;
  double thickness, tip, half_height;

  MeasuredImpeller(const Impeller& impeller, double least, double cut)
      : own(impeller), thickness(std::max(impeller.blade_thickness, least)) {
    const double back = impeller.blade_thickness < least ? cut : 0.0;
    tip = 0.5 * impeller.diameter - back;
    half_height = std::max(0.5 * impeller.blade_height - back, 0.5 * least);
  }
  [[nodiscard]] double root() const { return 0.5 * own.diameter - own.blade_length; }

  /// Flat blades, each turned about its radius by the blade angle.
  [[nodiscard]] double flat_blades(const Vec<3>& p) const {
    return least_of_two(p[0], p[1], own.blades, [&](double along, double across) {
      const double s = std::sin(own.blade_angle);
      const double c = std::cos(own.blade_angle);
      // The upper edge leads: what turns counter-clockwise pumps downwards.
      return to_box({along - 0.5 * (root() + tip), s * across - c * p[2], s * p[2] + c * across},
                    {0.5 * (tip - root()), 0.5 * thickness, half_height});
    });
  }
  /// Half tubes, open towards where they turn.
  [[nodiscard]] double half_tubes(const Vec<3>& p) const {
    return least_of_two(p[0], p[1], own.blades, [&](double along, double across) {
      const double radius = half_height - 0.5 * thickness;
      const double y = across - 0.5 * radius;
      const double arc = y < 0 ? std::abs(std::hypot(y, p[2]) - radius) : std::hypot(y, std::abs(p[2]) - radius);
      const double section = arc - 0.5 * thickness;
      return beyond<2>({section, std::abs(along - 0.5 * (root() + tip)) - 0.5 * (tip - root())});
    });
  }
  /// Twisted blades: the sine of their angle falls as 1/r, as that of a screw, their width to 0.6 at the tip.
  [[nodiscard]] double twisted_blades(const Vec<3>& p) const {
    return least_of_two(p[0], p[1], own.blades, [&](double along, double across) {
      const double r = std::clamp(along, root(), tip);
      const double angle = std::min(std::atan(std::tan(own.blade_angle) * tip / std::max(r, 1e-3 * tip)), 0.3 * pi);
      const double width = half_height * (1 - 0.4 * (r - root()) / (tip - root()));
      const double s = std::sin(angle);
      const double c = std::cos(angle);
      return to_box({along - 0.5 * (root() + tip), s * across - c * p[2], s * p[2] + c * across},
                    {0.5 * (tip - root()), 0.5 * thickness, width});
    });
  }
  /// An upright bar between two radii, or one across between two heights.
  [[nodiscard]] double frame_bar(double along, double across, double z, std::array<double, 2> radii,
                                 std::array<double, 2> heights) const {
    return to_box({along - 0.5 * (radii[0] + radii[1]), across, z - 0.5 * (heights[0] + heights[1])},
                  {0.5 * (radii[1] - radii[0]), 0.5 * thickness, 0.5 * (heights[1] - heights[0])});
  }
  [[nodiscard]] double anchor(const Vec<3>& p) const {
    const auto [along, across] = at_nearest_blade(p[0], p[1], own.blades);
    const double inner = tip - 2 * half_height;
    return std::min(frame_bar(along, across, p[2], {inner, tip}, {0, own.height}),
                    frame_bar(along, across, p[2], {0, tip}, {0, 2 * half_height}));
  }
  /// An anchor with a second bar at half the radius and cross-bars at half and full height.
  [[nodiscard]] double gate(const Vec<3>& p) const {
    const auto [along, across] = at_nearest_blade(p[0], p[1], own.blades);
    const double width = 2 * half_height;
    double least = anchor(p);
    const double middle = 0.5 * tip;
    least =
        std::min(least, frame_bar(along, across, p[2], {middle - half_height, middle + half_height}, {0, own.height}));
    for (const double z : {0.5 * (own.height - width), own.height - width})
      least = std::min(least, frame_bar(along, across, p[2], {0, tip}, {z, z + width}));
    return least;
  }
  /// Strips that wind up round the axis, with bars to the shaft at both ends; turning counter-clockwise they press
  /// downwards at the wall.
  [[nodiscard]] double ribbon(const Vec<3>& p) const {
    const double r = std::hypot(p[0], p[1]);
    const double inner = tip - 2 * half_height;
    const double apart = own.rise / own.blades;
    const double height = p[2] - own.rise * std::atan2(p[1], p[0]) / (2 * pi);
    const double off = height - apart * std::round(height / apart);
    const double slope = own.rise / (2 * pi * std::clamp(r, inner, tip));
    const Vec<3> place{r - 0.5 * (inner + tip), off / std::hypot(1.0, slope), p[2] - 0.5 * own.height};
    double least = to_box(place, {half_height, 0.5 * thickness, 0.5 * own.height});
    for (const double z : {0.0, own.height}) {
      // Where the strips end.
      const double turned = 2 * pi * z / own.rise;
      const double c = std::cos(turned);
      const double s = std::sin(turned);
      const auto [along, across] = at_nearest_blade(c * p[0] + s * p[1], c * p[1] - s * p[0], own.blades);
      const double lower = z > 0 ? z - 2 * half_height : z;
      least = std::min(least, frame_bar(along, across, p[2], {0, tip}, {lower, lower + 2 * half_height}));
    }
    return least;
  }
  /// What blades stand on: a disc, a hub.
  [[nodiscard]] double middle(const Vec<3>& p) const {
    const double r = std::hypot(p[0], p[1]);
    const auto plate = [&](double radius, double half) { return beyond<2>({r - radius, std::abs(p[2]) - half}); };
    double least = 1e300;
    if (own.disc_diameter > 0) least = plate(0.5 * own.disc_diameter, 0.5 * thickness);
    if (own.hub_diameter > 0)
      least = std::min(least, plate(0.5 * own.hub_diameter, std::max(upper_end(own), 0.5 * thickness)));
    return least;
  }
  [[nodiscard]] double distance(const Vec<3>& p) const {
    switch (own.kind) {
      case ImpellerKind::paddle:
      case ImpellerKind::disc_turbine:
      case ImpellerKind::pitched_blade:
        return std::min(flat_blades(p), middle(p));
      case ImpellerKind::curved_blade:
        return std::min(half_tubes(p), middle(p));
      case ImpellerKind::hydrofoil:
        return std::min(twisted_blades(p), middle(p));
      case ImpellerKind::anchor:
        return anchor(p);
      case ImpellerKind::gate:
        return gate(p);
      case ImpellerKind::ribbon:
        return ribbon(p);
    }
    return 1e300;
  }
};

}  // namespace

const std::vector<std::pair<std::string, ImpellerKind>>& impeller_kinds() {
  using Kind = ImpellerKind;
  static const std::vector<std::pair<std::string, Kind>> list{{"paddle", Kind::paddle},
                                                              {"disc_turbine", Kind::disc_turbine},
                                                              {"pitched_blade", Kind::pitched_blade},
                                                              {"curved_blade", Kind::curved_blade},
                                                              {"hydrofoil", Kind::hydrofoil},
                                                              {"anchor", Kind::anchor},
                                                              {"ribbon", Kind::ribbon},
                                                              {"gate", Kind::gate}};
  return list;
}

bool stands_on_its_end(ImpellerKind kind) {
  return kind == ImpellerKind::anchor || kind == ImpellerKind::ribbon || kind == ImpellerKind::gate;
}

Impeller usual_impeller(ImpellerKind kind, double diameter) {
  const double D = diameter;
  constexpr double upright = pi / 2;
  // kind, diameter, blades, blade height, angle, thickness, length, disc, hub, height, rise
  switch (kind) {
    case ImpellerKind::paddle:
      return {kind, D, 2, D / 5, upright, D / 50, D / 2, 0, D / 6, 0, 0};
    case ImpellerKind::disc_turbine:
      return {kind, D, 6, D / 5, upright, D / 50, D / 4, 0.75 * D, D / 6, 0, 0};
    case ImpellerKind::pitched_blade:
      return {kind, D, 4, D / 5, pi / 4, D / 50, D / 2, 0, D / 6, 0, 0};
    case ImpellerKind::curved_blade:
      return {kind, D, 6, D / 5, upright, D / 50, D / 4, 0.75 * D, D / 6, 0, 0};
    case ImpellerKind::hydrofoil:
      return {kind, D, 3, D / 5, pi / 9, D / 50, D / 2, 0, D / 6, 0, 0};
    case ImpellerKind::anchor:
    case ImpellerKind::gate:
      return {kind, D, 2, D / 10, upright, D / 50, D / 2, 0, 0, 0.8 * D, 0};
    case ImpellerKind::ribbon:
      return {kind, D, 2, D / 10, upright, D / 50, D / 10, 0, 0, D, D};
  }
  return {};
}

double upper_end(const Impeller& impeller) {
  if (stands_on_its_end(impeller.kind)) return impeller.height;
  const double angle = impeller.kind == ImpellerKind::hydrofoil ? 0.3 * pi : impeller.blade_angle;
  return 0.5 * (impeller.blade_height * std::sin(angle) + impeller.blade_thickness * std::cos(angle));
}

double lower_end(const Impeller& impeller) { return stands_on_its_end(impeller.kind) ? 0.0 : -upper_end(impeller); }

Solid<3> impeller_solid(const Impeller& impeller, double least, double cut) {
  const MeasuredImpeller shape(impeller, least, cut);
  const double out = std::hypot(0.5 * impeller.diameter, shape.half_height + shape.thickness);
  const double spare = least;
  return {[shape](const Vec<3>& p) { return shape.distance(p); },
          {-out, -out, lower_end(impeller) - spare},
          {out, out, upper_end(impeller) + spare}};
}

Solid<3> hub_solid(const Impeller& impeller) {
  const double half = upper_end(impeller);
  if (impeller.hub_diameter <= 0)
    return {[](const Vec<3>&) { return std::numeric_limits<double>::infinity(); }, {0, 0, 0}, {0, 0, 0}};
  return cylinder_solid<3>({0, 0, -half}, {0, 0, half}, 0.5 * impeller.hub_diameter);
}

Solid<3> sheet_of(const Impeller& impeller, double thickness) {
  Impeller thin = impeller;
  thin.blade_thickness = thickness;
  thin.hub_diameter = 0;
  return impeller_solid(thin);
}

}  // namespace wavy
