// Agitators of a vessel: how far they have turned, and what the model is told of them.
#pragma once

#include <algorithm>

#include "flow/turning_solids.hpp"
#include "run/setup.hpp"

namespace wavy {

/// Integral of a speed from 0 to t [rad]: the same bits for the same t, whatever was asked before. Not for two threads.
class TurnedAngle {
 public:
  explicit TurnedAngle(Formula speed) : speed_(std::move(speed)) {}
  double operator()(double t);

 private:
  [[nodiscard]] double turned_in(double from, double to) const;

  Formula speed_;
  std::vector<double> up_to_{0.0};  // at multiples of an interval
};

/// Of a cell, how thick solids that turn must be at least, and how far the free edges of thinner blades are cut back.
inline constexpr double least_thickness = 1.5;
inline constexpr double edge_cut = 0.25;

/// Of a cell, how thick the bodies are that close faces as sheets: a way from cell to cell does not step over them.
inline constexpr double sheet_thickness = 0.02;

/// In a frozen frame blades and discs that are thinner stand as sheets between cells, whatever their thickness.
template <int D>
bool stands_as_sheet(const Setup<D>& setup, const AgitatorPart<D>& part) {
  return part.impeller && !setup.agitators[part.agitator].frames.empty() &&
         part.impeller->blade_thickness < least_thickness * setup.cell_size;
}

/// What the model is told of a setup's agitators.
template <int D>
TurningSettings<D> turning_settings(const Setup<D>& setup);

/// Of a time, of a place: distance from the nearest part of all agitators.
template <int D>
std::function<std::function<double(const Vec<D>&)>(double)> turned_parts(const Setup<D>& setup);

/// Load of an agitator's parts, or of one of them, as the drive feels it: the moment about its axis that they give to
/// the fluid [N m].
template <int D>
double torque(const Setup<D>& setup, const VesselModel<D>& model, std::size_t agitator,
              const std::optional<std::size_t>& part);

/// Greatest size of an agitator's speed during the run, as far as a thousand times tell [rad/s].
template <int D>
double greatest_speed(const Setup<D>& setup, const Agitator<D>& agitator);

/// Of the tips of all impellers during the run [m/s].
template <int D>
double greatest_tip_speed(const Setup<D>& setup) {
  double greatest = 0;
  for (const auto& part : setup.agitator_parts)
    if (part.impeller)
      greatest =
          std::max(greatest, 0.5 * part.impeller->diameter * greatest_speed(setup, setup.agitators[part.agitator]));
  return greatest;
}

/// Power number of an impeller P/(rho N^3 D^5) as published for its kind, with usual proportions; 0 where none is
/// known.
struct ExpectedPower {
  double number = 0;
  std::string source;
};
/// `reynolds`: rho N D^2/mu. `vessel`: its diameter [m]; `depth`: of the liquid [m]; `baffled`: there are inserts that
/// keep it from turning.
ExpectedPower expected_power(const Impeller& impeller, double reynolds, double vessel, double depth, bool baffled);

/// Radius within which the liquid of a vessel without baffles turns as a solid, by an impeller with upright blades [m].
/// Nagata, Mixing (1975), as remembered.
double expected_core(const Impeller& impeller, double reynolds, double vessel);
/// How far the surface lies lower in the middle than at the wall, where a core turns at `speed` [rad/s] and the rest
/// keeps its angular momentum [m].
double vortex_depth(double core, double speed, double vessel);

}  // namespace wavy
