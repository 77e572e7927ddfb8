// A line as plain values in SI units, and the model of it.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "base/formula.hpp"
#include "line/controller.hpp"
#include "line/model.hpp"
#include "run/column.hpp"
#include "run/schedule.hpp"

namespace wavy {

struct LineLeg {
  std::string name;
  std::vector<std::array<double, 2>>
      points;                        ///< (distance along the leg, height over its beginning), from (0, 0) on [m]
  double diameter = 0;               ///< [m]
  double roughness = 0;              ///< [m]
  double temperature = 293.15;       ///< [K]
  double holdup = 0;                 ///< at the start, of a line at rest
  int into = line::Section::outlet;  ///< number of the leg that it leads into, always a later one

  [[nodiscard]] double length() const { return points.back()[0]; }
  [[nodiscard]] double rise() const { return points.back()[1]; }
};

struct LineSource {
  enum class By { nothing, mass, volume, standard_volume };  ///< standard: 15 degC, 101.325 kPa
  std::string name;
  std::size_t leg = 0;
  double at = 0;  ///< distance from the leg's beginning [m]
  By liquid_by = By::nothing, gas_by = By::nothing;
  Formula liquid, gas;  ///< of t [kg/s or m3/s]
};

struct LineValve {
  std::string name;
  std::size_t leg = 0;
  double at = 0;    ///< [m]
  Formula opening;  ///< of t, 0 to 1
  double coefficient = 0.84;
  std::optional<std::size_t> gauge;  ///< whose value a controller holds by moving it
  line::Control control;             ///< of that
};

struct LineGauge {
  std::string name;
  std::string measures = "pressure";  ///< name of a kind of gauges of a line
  int leg = -1;                       ///< -1 for the whole line
  double at = 0;
};

struct LineSetup {
  std::vector<LineLeg> legs;  ///< the last one leads to the outlet
  double cell = 0;            ///< length aimed at [m]
  std::vector<LineSource> sources;
  std::vector<LineValve> valves;
  std::vector<LineGauge> gauges;
  bool closed = false;              ///< at its end
  Formula outlet_pressure;          ///< absolute, of t [Pa]
  bool steady = true;               ///< at the start; else at rest
  std::vector<Phase> phases{2};     ///< liquid, gas; the gas's density at 101.325 kPa and its temperature
  double gas_temperature = 293.15;  ///< at which that is [K]
  double compressibility = 1;
  double sound_speed = 1400;  ///< of the liquid [m/s]
  bool follow_slugs = false;
  bool slugs_hold_gas = false;
  std::vector<Pair> pairs{Pair{.surface_tension = 0.07}};
  Schedule schedule;
  double courant = 0.7;
};

/// Distance from the beginning of the line at which a leg begins: of the longest way through it to the outlet [m].
std::vector<double> leg_starts(const LineSetup& setup);
/// Names of the gauges that write slugs down, in the order of the model's watched places.
std::vector<std::string> slug_gauges(const LineSetup& setup);
/// Sections of a leg: first number and end.
std::array<std::size_t, 2> sections_of(const LineSetup& setup, std::size_t leg);

/// Number of the section at a place of a leg [m].
std::size_t section_at(const LineSetup& setup, std::size_t leg, double at);

/// The model, at its start.
line::Model make_line(const LineSetup& setup);

/// Columns of the history: the gauges, then what is always measured: mass and volume flow of each phase through the
/// outlet (mean of the step), the liquid held, the pressure at the beginning, the openings of controlled valves.
std::vector<Column> line_columns(const LineSetup& setup);

}  // namespace wavy
