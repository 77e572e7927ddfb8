#include "run/agitators.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <numbers>

namespace wavy {

namespace {

constexpr double angle_interval = 0.005;  // [s]: kinks of a ramp are missed by its square at most

}  // namespace

/// Gauss-Legendre with three points.
double TurnedAngle::turned_in(double from, double to) const {
  const double middle = 0.5 * (from + to);
  const double half = 0.5 * (to - from);
  const double off = half * std::sqrt(0.6);
  return half / 9 * (5 * speed_(middle - off) + 8 * speed_(middle) + 5 * speed_(middle + off));
}

double TurnedAngle::operator()(double t) {
  if (speed_.is_constant()) return speed_(0) * t;
  const auto whole = static_cast<std::size_t>(std::max(0.0, std::floor(t / angle_interval)));
  while (up_to_.size() <= whole) {
    const double from = angle_interval * static_cast<double>(up_to_.size() - 1);
    up_to_.push_back(up_to_.back() + turned_in(from, from + angle_interval));
  }
  return up_to_[whole] + turned_in(angle_interval * static_cast<double>(whole), t);
}

namespace {

/// An impeller round z = 0 where it is.
Solid<3> in_place(const Setup<3>& setup, const AgitatorPart<3>& part, const Solid<3>& solid) {
  const Vec<3>& at = setup.agitators[part.agitator].at;
  return moved<3>(solid, {at[0], at[1], part.height});
}

}  // namespace

template <int D>
TurningSettings<D> turning_settings(const Setup<D>& setup) {
  TurningSettings<D> settings;
  for (const auto& agitator : setup.agitators) {
    const auto angle = std::make_shared<TurnedAngle>(agitator.speed);
    const bool frozen = !agitator.frames.empty();
    settings.frames.insert(settings.frames.end(), agitator.frames.begin(), agitator.frames.end());
    settings.shafts.push_back([=, speed = agitator.speed, at = agitator.at, position = agitator.position](double t) {
      Pose<D> pose;
      pose.angle = position + (frozen ? 0.0 : (*angle)(t));
      pose.motion.turning[2] = speed(t);
      pose.motion.about = at;
      return pose;
    });
  }
  for (const auto& part : setup.agitator_parts) {
    settings.parts.push_back({part.solid, part.agitator});
    if constexpr (D == 3)
      if (stands_as_sheet(setup, part)) {
        settings.parts.back().solid = in_place(setup, part, hub_solid(*part.impeller));
        settings.parts.back().sheet =
            in_place(setup, part, sheet_of(*part.impeller, sheet_thickness * setup.cell_size));
      }
  }
  return settings;
}

template <int D>
std::function<std::function<double(const Vec<D>&)>(double)> turned_parts(const Setup<D>& setup) {
  TurningSettings<D> drawn = turning_settings(setup);
  if constexpr (D == 3)  // sheets as thick as they are
    for (std::size_t p = 0; p < drawn.parts.size(); ++p)
      if (const auto& part = setup.agitator_parts[p]; stands_as_sheet(setup, part))
        drawn.parts[p].solid = in_place(setup, part, impeller_solid(*part.impeller));
  return [settings = std::move(drawn)](double time) {
    std::vector<Solid<D>> parts;
    for (const auto& part : settings.parts) parts.push_back(in_pose(part.solid, settings.shafts[part.shaft](time)));
    return [parts](const Vec<D>& place) {
      double least = std::numeric_limits<double>::infinity();
      for (const auto& part : parts) least = std::min(least, part.distance(place));
      return least;
    };
  };
}

template <int D>
double torque(const Setup<D>& setup, const VesselModel<D>& model, std::size_t agitator,
              const std::optional<std::size_t>& part) {
  const auto& loads = model.turning_solids().mean_loads();
  double sum = 0;
  for (std::size_t p = 0; p < setup.agitator_parts.size(); ++p)
    if (part ? p == *part : setup.agitator_parts[p].agitator == agitator) sum += loads[p].moment[2];
  return sum * setup.thickness;
}

template <int D>
double greatest_speed(const Setup<D>& setup, const Agitator<D>& agitator) {
  constexpr int times = 1000;
  double greatest = 0;
  for (int i = 0; i <= times; ++i)
    greatest = std::max(greatest, std::abs(agitator.speed(setup.schedule.until * i / times)));
  return greatest;
}

ExpectedPower expected_power(const Impeller& impeller, double reynolds, double vessel, double depth, bool baffled) {
  constexpr double turbulent = 1e4;
  const double b = impeller.blade_height / vessel;
  const double d = impeller.diameter / vessel;
  if (impeller.kind == ImpellerKind::paddle && impeller.blades == 2 && !baffled && reynolds > 0 && d < 1) {
    const double A = 14 + b * (670 * std::pow(d - 0.6, 2) + 185);
    const double B = std::pow(10, 1.3 - 4 * std::pow(b - 0.5, 2) - 1.14 * d);
    const double p = 1.1 + 4 * b - 2.5 * std::pow(d - 0.5, 2) - 7 * std::pow(b, 4);
    const double way = std::pow((1e3 + 1.2 * std::pow(reynolds, 0.66)) / (1e3 + 3.2 * std::pow(reynolds, 0.66)), p);
    return {A / reynolds + B * way * std::pow(depth / vessel, 0.35 + b) * std::pow(std::sin(impeller.blade_angle), 1.2),
            "Nagata, Mixing (1975), for paddles in unbaffled vessels"};
  }
  if (!baffled || reynolds < turbulent) return {};
  if (impeller.kind == ImpellerKind::disc_turbine && impeller.blades == 6)
    return {2.512 * std::pow(impeller.blade_thickness / impeller.diameter, -0.195) * std::pow(vessel, 0.063),
            "by blade thickness: Bujalski et al., Chem. Eng. Sci. 42 (1987) 317, for thicknesses up to D/20"};
  if (impeller.kind == ImpellerKind::pitched_blade && impeller.blades == 4 &&
      std::abs(impeller.blade_angle - std::numbers::pi / 4) < 0.01)
    return {1.27, "Bates, Fondy & Corpstein, I&EC Process Des. Dev. 2 (1963) 310"};
  return {};
}

double expected_core(const Impeller& impeller, double reynolds, double vessel) {
  return 0.5 * impeller.diameter * 1.23 * (0.57 + 0.35 * impeller.diameter / vessel) *
         std::pow(impeller.blade_height / vessel, 0.036) * std::pow(impeller.blades, 0.116) * reynolds /
         (1e3 + 1.43 * reynolds);
}

double vortex_depth(double core, double speed, double vessel) {
  return std::pow(speed * core, 2) / 9.80665 * (1 - 2 * std::pow(core / vessel, 2));
}

template TurningSettings<2> turning_settings<2>(const Setup<2>&);
template TurningSettings<3> turning_settings<3>(const Setup<3>&);
template std::function<std::function<double(const Vec<2>&)>(double)> turned_parts<2>(const Setup<2>&);
template std::function<std::function<double(const Vec<3>&)>(double)> turned_parts<3>(const Setup<3>&);
template double torque<2>(const Setup<2>&, const VesselModel<2>&, std::size_t, const std::optional<std::size_t>&);
template double torque<3>(const Setup<3>&, const VesselModel<3>&, std::size_t, const std::optional<std::size_t>&);
template double greatest_speed<2>(const Setup<2>&, const Agitator<2>&);
template double greatest_speed<3>(const Setup<3>&, const Agitator<3>&);

}  // namespace wavy
