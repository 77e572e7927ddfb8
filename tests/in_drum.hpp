// A round vessel in which something turns, for any model of the fluid.
#pragma once

#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <utility>

#include "flow/turning_solids.hpp"
#include "geometry/solids.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace in_drum {

inline constexpr double R = 0.1;  ///< of the drum [m]; it touches both axes

/// Something that turns about the drum's middle, or stands still at an angle in a frozen frame.
template <class Settings>
void let_turn(Settings& settings, const wavy::Solid<2>& solid, double omega, std::optional<double> frozen_at = {}) {
  settings.turning.shafts = {[=](double t) {
    wavy::Pose<2> pose;
    pose.angle = frozen_at.value_or(omega * t);
    pose.motion = {{}, {0, 0, omega}, {R, R}};
    return pose;
  }};
  settings.turning.parts = {{solid, 0}};
  if (frozen_at) settings.turning.frames = {{.radius = 0.75 * R}};
}

/// What turns, taken for a body that is thin everywhere and closes faces.
template <class Settings>
void let_stand_as_sheet(Settings& settings) {
  auto& part = settings.turning.parts[0];
  part.sheet = part.solid;
  part.solid = {[](const wavy::Vec<2>&) { return std::numeric_limits<double>::infinity(); }, {R, R}, {R, R}};
}

template <class Model, class StepLimit>
struct Run {
  wavy::Grid<2> grid;
  Model model;  ///< not started yet

  template <class Settings>
  Run(int cells, Settings settings)
      : grid(wavy::grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells)),
        model(grid, std::move(settings), space(grid)) {}
  static wavy::OpenSpace<2> space(const wavy::Grid<2>& grid) {
    const wavy::Solid<2> drum = wavy::ball_solid<2>({R, R}, R);
    return {grid, &drum, {}, {}, false};
  }
  /// The last steps are alike: loads are those of a flow that has had their length.
  void run_until(double until, double largest_step = 1e30) {
    while (model.state().time < until * (1 - 1e-12)) {
      StepLimit limit{};
      const double most = std::min(model.stable_step(limit), largest_step);
      const double left = until - model.state().time;
      const double steps = std::ceil(left / most * (1 - 1e-9));
      model.step(steps < 20 ? left / steps : most);
    }
  }
  [[nodiscard]] double torque() const { return model.turning_solids().mean_loads()[0].moment[2]; }
};

}  // namespace in_drum
