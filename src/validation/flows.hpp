// What the validation cases share: boxes, exact fills, and the amplitude of a standing wave.
#pragma once

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "geometry/plane.hpp"
#include "mesh/cover.hpp"
#include "sharp/model.hpp"
#include "validation/validation.hpp"

namespace wavy::validation {

constexpr double g = 9.81;  ///< of the cases in vessels [m/s2]

/// A box of `cells` cells along x.
inline Grid<2> box(double width, double height, int cells) {
  return Grid<2>({0, 0}, {width, height}, partition<2>({width, height}, width / cells));
}

template <int D = 2>
sharp::Settings<D> fluids(const Properties& liquid, const Properties& gas, Wall wall, const Vec<D>& G) {
  sharp::Settings<D> settings;
  settings.liquid = liquid;
  settings.gas = gas;
  for (auto& axis : settings.walls) axis = {wall, wall};
  settings.body_force = [G](double) { return G; };
  return settings;
}

/// Lets a liquid that should stay at rest go for 1000 steps; how fast anything is then, and by how much it has moved,
/// for a depth of 1 m.
template <int D>
void stay_at_rest(sharp::Model<D>& model, const std::string& name, ValidationResult& result) {
  constexpr int steps = 1000;
  const Cells<D> before = model.state().F;
  model.start();
  for (int i = 0; i < steps; ++i) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  double moved = 0;
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t o, const Index<D>&) {
    moved = std::max(moved, std::abs(model.state().F.block(b)[o] - before.block(b)[o]) * model.grid().spacing()[D - 1]);
  });
  result.findings.push_back(
      small(fmt::format("speed / sqrt(g H), {}, {} steps", name, steps), model.greatest_speed() / std::sqrt(g), 1e-9));
  result.findings.push_back(small(fmt::format("level / H, {}", name), moved, 1e-6));
}

/// Area of the half disc of radius 1/4 that drops on walls begin as.
inline constexpr double half_disc = M_PI / 2 / 16;

/// Radius of the arc under which a drop of that area rests on a wall at a contact angle.
inline double radius_of_arc(double theta) { return std::sqrt(half_disc / (theta - std::sin(theta) * std::cos(theta))); }

/// A drop of density and surface tension 1 on a wall that slips, and its gas, without gravity; it settles in a few
/// swings.
inline sharp::Settings<2> fluids_of_drop(double R, double theta) {
  const double mu = std::sqrt(2 * R / 50);
  auto settings = fluids({1, mu}, {0.1, 0.1 * mu}, Wall::slip, {0, 0});
  settings.solid_walls = Wall::slip;
  settings.surface_tension = 1;
  settings.contact_angle = theta;
  return settings;
}

template <int D>
void run_until(sharp::Model<D>& model, double until) {
  while (model.state().time < until) {
    sharp::StepLimit limit{};
    model.step(std::min(model.stable_step(limit), until - model.state().time));
  }
}

/// Twenty capillary times from rest.
inline void settle(sharp::Model<2>& model, double R) {
  model.start();
  run_until(model, 20 * std::sqrt(R * R * R));
}

/// Fills below y = height(x): each cell below the straight line between the heights at its sides.
template <class Height>
void fill_below(const Grid<2>& grid, Cells<2>& F, Height&& height) {
  const Vec<2>& h = grid.spacing();
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double left = height(cell[0] * h[0]);
    const double right = height((cell[0] + 1) * h[0]);
    Plane<2> plane{{-(right - left) / h[1], 1}, left / h[1] - cell[1]};
    const double size = std::abs(plane.normal[0]) + 1;
    for (double& c : plane.normal) c /= size;
    plane.offset /= size;
    F.block(b)[o] = slab_share<2>(plane, 0, 0, 1);
  });
}

/// 2/width times the integral over the width of (liquid height) cos(n pi x / width), by the share of every cell.
inline double mode_amplitude(const Grid<2>& grid, const Cells<2>& F, int n) {
  double sum = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    sum += F.block(b)[o] * std::cos(n * M_PI * (cell[0] + 0.5) / grid.cells()[0]);
  });
  return 2 * sum * grid.cell_volume() / grid.upper()[0];
}
inline double mode_amplitude(const sharp::Model<2>& model, int n) {
  return mode_amplitude(model.grid(), model.state().F, n);
}

/// Follows something that swings round zero: when it crosses, and how far it went before each crossing.
class SwingThroughZero {
 public:
  explicit SwingThroughZero(double start) : last_(start), extreme_(std::abs(start)) {}
  void add(double time, double value) {
    if (value * last_ < 0) {
      crossings.push_back(last_time_ + (time - last_time_) * last_ / (last_ - value));
      extremes.push_back(extreme_);
      extreme_ = 0;
    }
    extreme_ = std::max(extreme_, std::abs(value));
    last_ = value;
    last_time_ = time;
  }
  /// Mean over all half periods between crossings; 0 when there are fewer than three crossings.
  [[nodiscard]] double period() const {
    if (crossings.size() < 3) return 0;
    return 2 * (crossings.back() - crossings.front()) / (static_cast<double>(crossings.size()) - 1);
  }
  /// Rate at which the extremes fall, between the second crossing and the last; at least three are needed.
  [[nodiscard]] double damping() const {
    return std::log(extremes[1] / extremes.back()) / (crossings.back() - crossings[1]);
  }

  std::vector<double> crossings;  ///< times
  std::vector<double> extremes;   ///< sizes

 private:
  double last_;
  double last_time_ = 0;
  double extreme_;
};

}  // namespace wavy::validation
