#include "geometry/vessel_parts.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wavy {

Solid<3> baffles_solid(const Baffles& baffles, const Vec<3>& foot, double vessel_radius) {
  const double outer = vessel_radius - baffles.gap;
  Solid<3> solid;
  solid.lower = {foot[0] - outer, foot[1] - outer, foot[2]};
  solid.upper = {foot[0] + outer, foot[1] + outer, foot[2] + baffles.height};
  solid.distance = [=](const Vec<3>& p) {
    const double x = p[0] - foot[0];
    const double y = p[1] - foot[1];
    // Seen from the nearest one.
    const double between = 2 * std::numbers::pi / baffles.count;
    const double angle = std::remainder(std::atan2(y, x), between);
    const double r = std::hypot(x, y);
    const double along = r * std::cos(angle);
    const double across = std::abs(r * std::sin(angle));
    const double z = p[2] - foot[2];
    return beyond<5>(
        {along - outer, outer - baffles.width - along, across - 0.5 * baffles.thickness, z - baffles.height, -z});
  };
  return solid;
}

Solid<3> coil_solid(const Vec<3>& foot, double radius, double tube_radius, double turns, double rise) {
  Solid<3> solid;
  const double reach = radius + tube_radius;
  solid.lower = {foot[0] - reach, foot[1] - reach, foot[2] - tube_radius};
  solid.upper = {foot[0] + reach, foot[1] + reach, foot[2] + turns * rise + tube_radius};
  // How much nearer the tube's middle is than at the same angle.
  const double lean = std::cos(std::atan(rise / (2 * std::numbers::pi * radius)));
  solid.distance = [=](const Vec<3>& p) {
    const double x = p[0] - foot[0];
    const double y = p[1] - foot[1];
    const double z = p[2] - foot[2];
    double part = std::atan2(y, x) / (2 * std::numbers::pi);  // of a turn
    if (part < 0) part += 1;
    const double r = std::hypot(x, y);
    const auto from_end = [&](double turn) {
      const double angle = 2 * std::numbers::pi * turn;
      return std::hypot(x - radius * std::cos(angle), y - radius * std::sin(angle), z - rise * turn);
    };
    // Round ends, and the turns above and below.
    double nearest = std::min(from_end(0), from_end(turns));
    const double wound = std::round(z / rise - part);
    for (const double turn : {wound - 1 + part, wound + part, wound + 1 + part})
      if (turn >= 0 && turn <= turns) nearest = std::min(nearest, std::hypot(r - radius, lean * (z - rise * turn)));
    return nearest - tube_radius;
  };
  return solid;
}

Solid<3> sleeve_solid(const Vec<3>& from, const Vec<3>& to, double inner_radius, double thickness) {
  Vec<3> axis = minus<3>(to, from);
  const double length = std::sqrt(dot<3>(axis, axis));
  for (double& c : axis) c /= length;
  Solid<3> solid = cylinder_solid<3>(from, to, inner_radius + thickness);
  solid.distance = [=](const Vec<3>& p) {
    const Vec<3> away = minus<3>(p, from);
    const double z = dot<3>(away, axis);
    const double r = std::sqrt(std::max(0.0, dot<3>(away, away) - z * z));
    return beyond<4>({r - inner_radius - thickness, inner_radius - r, z - length, -z});
  };
  return solid;
}

}  // namespace wavy
