// One simulation as plain values in SI units: what a case file means.
#pragma once

#include <array>
#include <numbers>
#include <string>
#include <vector>

#include "base/formula.hpp"
#include "geometry/shapes.hpp"
#include "sharp/model.hpp"

namespace wavy {

struct Phase {
  std::string name;
  Properties properties;
};

/// Lays a phase over whatever was there inside a shape.
template <int D>
struct Fill {
  Shape<D> shape;
  int phase = 0;  ///< 0: the denser one, 1: the lighter one
};

enum class Measure { level, pressure, volume, greatest_speed };

/// Something that is measured in every time step.
template <int D>
struct Gauge {
  std::string name;
  Measure measures = Measure::level;
  Vec<D> at{};    ///< pressure: the point; level: the place, its last entry unused [m]
  int phase = 0;  ///< volume: which one
};

struct Schedule {
  double until = 1;              ///< [s]
  double snapshot_interval = 1;  ///< [s]
  double largest_step = 1e30;    ///< [s]
  double smallest_step = 1e-9;   ///< below this the run has failed [s]
};

template <int D>
struct Setup {
  Vec<D> size{};                                ///< the vessel reaches from 0 to size [m]
  double thickness = 1;                         ///< across a 2-D vessel [m]; 1 in 3-D
  double cell_size = 0;                         ///< as wanted [m]
  std::array<Phase, 2> phases;                  ///< denser, lighter
  double surface_tension = 0;                   ///< between them [N/m]
  double contact_angle = std::numbers::pi / 2;  ///< in the denser one, at every wall [rad]
  double slip_length = 0;                       ///< above 0 the contact angle follows the speed of the contact line [m]
  std::array<std::array<sharp::Wall, 2>, D> walls{};
  std::vector<Fill<D>> fills;  ///< over a vessel full of the lighter phase; later ones over earlier ones
  std::array<Formula, D> gravity;
  std::array<Formula, D> acceleration;  ///< of the vessel
  std::vector<Gauge<D>> gauges;
  Schedule schedule;
  double courant = 0.4;
  double projection_tolerance = 1e-6;
};

/// Volume of the whole vessel, thickness included [m3].
template <int D>
double vessel_volume(const Setup<D>& setup) {
  double volume = setup.thickness;
  for (const double length : setup.size) volume *= length;
  return volume;
}

template <int D>
Grid<D> make_grid(const Setup<D>& setup);

template <int D>
sharp::Settings<D> model_settings(const Setup<D>& setup);

/// Share of each cell that the denser phase fills at the start.
template <int D>
void fill(const Setup<D>& setup, const Grid<D>& grid, Cells<D>& F);

}  // namespace wavy
