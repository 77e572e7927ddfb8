// What the tests of the Eulerian model share.
#pragma once

#include <algorithm>
#include <cmath>

#include "dispersed/model.hpp"
#include "mesh/cover.hpp"

namespace wavy::dispersed {

inline constexpr double gravity = 9.81;

inline Drag drag_by(const char* law, const char* hindrance = nullptr) {
  return {find_law(drag_laws(), law), 0.44, hindrance == nullptr ? nullptr : find_law(hindrance_laws(), hindrance), 0};
}

/// G along the last axis, downwards; tilted towards the first one.
template <int D>
std::function<Vec<D>(double)> downwards(double tilt = 0) {
  return [tilt](double) {
    Vec<D> G{};
    G[0] = gravity * std::sin(tilt);
    G[D - 1] = -gravity * std::cos(tilt);
    return G;
  };
}

template <int D>
WallKinds<D> all(Wall kind) {
  WallKinds<D> kinds;
  for (auto& axis : kinds) axis = {kind, kind};
  return kinds;
}

/// Water that carries bubbles or drops.
template <int D>
Settings<D> bodies_in_water(const Properties& bodies, double diameter, double tension, const Drag& drag) {
  Settings<D> settings;
  settings.phases = {{"water", {998.2, 1.002e-3}, true, 0}, {"bodies", bodies, false, diameter}};
  Pair pair;
  pair.surface_tension = tension;
  pair.second_in_first = drag;
  settings.pairs = {pair};
  settings.body_force = downwards<D>();
  settings.walls = all<D>(Wall::slip);
  return settings;
}

/// Water, and air over it or in it as bubbles of 3 mm; or oil too, between them.
template <int D>
Settings<D> layers(bool with_oil) {
  const Phase water{"water", {998.2, 1.002e-3}, true, 1e-3};
  const Phase oil{"oil", {885, 2.1e-3}, true, 1e-3};
  const Phase air{"air", {1.204, 1.813e-5}, true, 3e-3};
  const Drag drag = drag_by("schiller_naumann");
  Settings<D> settings;
  settings.phases = {water, air};
  settings.pairs = {{0, 1, 0.0728, drag, drag, 0.5}};
  if (with_oil) {
    settings.phases = {water, oil, air};
    settings.pairs = {{0, 1, 0.025, drag, drag, 0.5}, {0, 2, 0.0728, drag, drag, 0.5}, {1, 2, 0.03, drag, drag, 0.5}};
  }
  settings.body_force = downwards<D>();
  return settings;
}

/// Sum of a (u) over the phases: the greatest, and how far the fractions' sum is off 1 at most.
struct Mixture {
  double speed = 0;
  double sum_error = 0;
  double least = 1;
  double most = 0;
};
template <int D>
Mixture mixture(const Model<D>& model) {
  Mixture result;
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<D>&) {
    if (open_share(model.space(), b, at) == 0) return;
    double square = 0;
    double sum = 0;
    for (int d = 0; d < D; ++d) {
      double flow = 0;
      for (std::size_t i = 0; i < model.phases(); ++i)
        flow += model.state().a[i].block(b)[at] * model.state().u[i][d].block(b)[at];
      square += flow * flow;
    }
    for (std::size_t i = 0; i < model.phases(); ++i) {
      const double a = model.state().a[i].block(b)[at];
      sum += a;
      result.least = std::min(result.least, a);
      result.most = std::max(result.most, a);
    }
    result.speed = std::max(result.speed, std::sqrt(square));
    result.sum_error = std::max(result.sum_error, std::abs(sum - 1));
  });
  return result;
}

/// Steps as long as the model allows, at most `longest`, until the given time.
template <int D>
void run_until(Model<D>& model, double time, double longest) {
  StepLimit limit{};
  while (model.state().time < time - 1e-12)
    model.step(std::min({longest, model.stable_step(limit), time - model.state().time}));
}

/// Fills phase 0 and the second of three with what shapes cover, the last one with the rest.
template <int D>
void lay(Model<D>& model, const Shape<D>& water, const Shape<D>* oil) {
  Cells<D> lower(model.grid());
  Cells<D> upper(model.grid());
  cover<D>(model.grid(), lower, water, model.space());
  cover<D>(model.grid(), upper, oil == nullptr ? water : *oil, model.space());
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<D>&) {
    model.state().a[0].block(b)[at] = lower.block(b)[at];
    if (oil != nullptr) model.state().a[1].block(b)[at] = upper.block(b)[at] - lower.block(b)[at];
    model.state().a.back().block(b)[at] = 1 - upper.block(b)[at];
  });
}

}  // namespace wavy::dispersed
