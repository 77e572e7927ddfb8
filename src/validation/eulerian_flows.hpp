// Flows of the Eulerian model with known answers: what its validation cases and its tests share.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

#include "dispersed/model.hpp"
#include "mesh/cover.hpp"

namespace wavy::eulerian {

inline constexpr double gravity = 9.81;  ///< [m/s2]
inline const Properties water{998.2, 1.002e-3};
inline const Properties oil{885, 2.1e-3};
inline const Properties air{1.204, 1.813e-5};

/// Drag by a law's name (null: none at all), with a hindrance.
Drag drag_by(const char* law, const char* hindrance = nullptr);

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

/// Across the side of a box; nothing is given there yet.
template <int D>
Opening<D> opening(const char* name, int axis, int side) {
  Opening<D> one;
  one.name = name;
  one.axis = axis;
  one.side = side;
  return one;
}

/// Water that carries bubbles or drops, between walls that slip.
template <int D>
dispersed::Settings<D> bodies_in_water(const Properties& bodies, double diameter, double tension, const Drag& drag) {
  dispersed::Settings<D> settings;
  settings.phases = {{"water", water, true, 0}, {"bodies", bodies, false, diameter}};
  dispersed::Pair pair;
  pair.surface_tension = tension;
  pair.second_in_first = drag;
  settings.pairs = {pair};
  settings.body_force = downwards<D>();
  settings.walls = all<D>(Wall::slip);
  return settings;
}

/// Water, and air over it or in it as bubbles of 3 mm; or oil too, between them.
template <int D>
dispersed::Settings<D> layers(bool with_oil) {
  const Drag drag = drag_by("schiller_naumann");
  dispersed::Settings<D> settings;
  settings.phases = {{"water", water, true, 1e-3}, {"air", air, true, 3e-3}};
  settings.pairs = {{0, 1, 0.0728, drag, drag, 0.5}};
  if (with_oil) {
    settings.phases.insert(settings.phases.begin() + 1, {"oil", oil, true, 1e-3});
    settings.pairs = {{0, 1, 0.025, drag, drag, 0.5}, {0, 2, 0.0728, drag, drag, 0.5}, {1, 2, 0.03, drag, drag, 0.5}};
  }
  settings.body_force = downwards<D>();
  return settings;
}

/// Water and air in bubbles of 4 mm with the drag of Grace, between walls that slip.
template <int D>
dispersed::Settings<D> bubbling() {
  auto settings = layers<D>(false);
  settings.pairs[0].second_in_first = drag_by("grace");
  settings.phases[1].diameter = 4e-3;
  settings.walls = all<D>(Wall::slip);
  return settings;
}

/// Slip at which the bodies of `bodies_in_water` rise or sink in the end, where they take such a share.
double terminal(const Properties& bodies, double diameter, double tension, const Drag& drag, double share);

/// The slip that such bodies have reached after 0.6 s in the middle of a still column.
double slip_in_column(const Properties& bodies, double diameter, double tension, const Drag& drag, double share);

/// Size of the sum of a u over the phases: the greatest; how far the fractions' sum is off 1 at most; the extremes of
/// any fraction.
struct Mixture {
  double speed = 0;
  double sum_error = 0;
  double least = 1;
  double most = 0;
};
template <int D>
Mixture mixture(const dispersed::Model<D>& model) {
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
void run_until(dispersed::Model<D>& model, double time, double longest) {
  dispersed::StepLimit limit{};
  while (model.state().time < time - 1e-12)
    model.step(std::min({longest, model.stable_step(limit), time - model.state().time}));
}

/// The same fractions everywhere.
template <int D>
void fill(dispersed::Model<D>& model, const std::vector<double>& fractions) {
  for (std::size_t i = 0; i < fractions.size(); ++i)
    for (auto& value : model.state().a[i].data()) value = fractions[i];
}

/// Fills phase 0 and the second of three with what shapes cover, the last one with the rest.
template <int D>
void lay(dispersed::Model<D>& model, const Shape<D>& below, const Shape<D>* middle) {
  Cells<D> lower(model.grid());
  Cells<D> upper(model.grid());
  cover<D>(model.grid(), lower, below, model.space());
  cover<D>(model.grid(), upper, middle == nullptr ? below : *middle, model.space());
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<D>&) {
    model.state().a[0].block(b)[at] = lower.block(b)[at];
    if (middle != nullptr) model.state().a[1].block(b)[at] = upper.block(b)[at] - lower.block(b)[at];
    model.state().a.back().block(b)[at] = 1 - upper.block(b)[at];
  });
}

/// What lies below a plane across G tilted by so much, through a level at the origin, as a shape.
Shape<2> below(double level, double tilt);

/// A fraction in the second column of cells, from the bottom up.
std::vector<double> profile(const dispersed::Model<2>& model, std::size_t phase);

/// What gas over oil over water that should stay at rest does in so many steps.
struct Rest {
  Mixture mixed;
  double change = 0;  ///< greatest one of a fraction in any open cell
  double h = 0;       ///< height of a cell, for a depth of 1 [m]
};
Rest rest_in_box(double tilt, int steps);
Rest rest_in_drum(bool weir, int steps);
/// Oil and water at different levels on the two sides of a plate, upright or leaning.
Rest rest_beside_plate(double thickness, double lean, int steps);

/// A plume of bubbles, stopped on its way or not, on two threads or one.
struct Plume {
  std::vector<double> fields;  ///< fractions, velocities and pressure, cell by cell
  double gas_speed = 0;        ///< greatest one [m/s]
  long cells = 0;
};
Plume plume(int threads, bool stopped);

/// A column of water under a cap of air, air coming in through `share` of its bottom at a superficial speed.
dispersed::Model<2> column(const Grid<2>& grid, double superficial, double share, dispersed::Settings<2> settings);

/// Water at 10 m/s in 0.8 of a vertical pipe of 12 m that draws together as it falls, after 0.6 s: Ransom, in Hewitt,
/// Delhaye & Zuber (eds), Multiphase Science and Technology 3 (1987) 465, cited from memory; what it is held against is
/// free fall.
struct Faucet {
  double error = 0;   ///< mean of the gas fraction's error over the pipe, in shares of its mean
  double behind = 0;  ///< the same over the half nearer to the inlet, where all is smooth
  double most = 0;    ///< greatest gas fraction
  std::vector<double> x;
  std::vector<double> gas;
  std::vector<double> wanted;
};
Faucet faucet(int cells, double gas_density = 1);
/// The gas fraction just behind the faucet's front, which nothing may exceed.
double behind_front_of_faucet();

/// Drops of lavender oil (0.2 mm) that cream in a still column of 0.5 m of water, `share` of them everywhere at first.
struct Creaming {
  double clear = 0;         ///< height that the drops have left [m]
  double clear_wanted = 0;  ///< by kinematic waves
  double volume_error = 0;  ///< of the drops
  Mixture mixed;
  std::vector<double> drops;  ///< fraction from the bottom up
};
Creaming creaming(double share, double time, int cells);

/// Plug flow of water with a trace of drops through a tank of 2 m by 0.25 m whose top takes all that reaches it.
struct PlugFlow {
  double removed = 0;
  double wanted = 0;  ///< v L / (U H): Hazen, Trans. ASCE 53 (1904) 45
};
PlugFlow plug_flow(double diameter);

/// Gas that bubbles up through water that stands, between heights clear of the ends.
double drift_flux_holdup(double superficial);

/// A gas cap over water, sloshing in its first mode, `bubbles` of it in the water at first.
struct Sloshing {
  double period_error = 0;  ///< share of the linear period
  double amplitude = 0;     ///< in the last period, in shares of the first
  double width = 0;         ///< of the surface, in cells
  double trapped = 0;       ///< gas deep in the water in the end [m2]
  double volume_error = 0;
};
Sloshing sloshing(int cells, double bubbles);

/// Air into a full vessel whose top lets gas out; `share` of the bottom is open.
struct Degassing {
  double lost = 0;          ///< water, less what came back [m2]
  double held = 0;          ///< air [m2]
  double came = 0;          ///< air from 6 s on [m2]
  double left = 0;          ///< the same at the top
  double volume_error = 0;  ///< of water, what was lost included
  double came_back = 0;     ///< air through the top
  Mixture mixed;
};
Degassing degassing(double share, double until);

}  // namespace wavy::eulerian
