// Whether a pipeline that falls to the foot of a riser slugs there: by the published criteria, and by linear theory.
#pragma once

#include "line/closures.hpp"

namespace wavy::line {

/// A riser and what leads to it.
struct Riser {
  double pipeline_length = 0;    ///< of the pipe whose gas drives the riser [m]
  double pipeline_holdup = 0;    ///< of the liquid in it
  double height = 0;             ///< [m]
  double top_pressure = 0;       ///< absolute [Pa]
  double liquid_density = 0;     ///< [kg/m3]
  double liquid_flux = 0;        ///< superficial velocity [m/s]
  double gas_pressure_flux = 0;  ///< superficial velocity of the gas times its absolute pressure [Pa m/s]
};

/// How fast gas raises the pressure in the pipeline over how fast liquid raises that of the column: liquid blocks the
/// foot and fills the riser where this is below 1 (Boe, SPE European Spring Meeting, London 1981).
double blocking_ratio(const Riser& riser);

/// Absolute pressure at the top of the riser above which gas that has come into it cannot blow the column out:
/// rho_l g ((alpha / 0.89) L - H), alpha the gas's share of the pipeline (Taitel, Int. J. Multiphase Flow 12 (1986)
/// 839). Negative where it never can. [Pa]
double steady_pressure(const Riser& riser);

/// Greatest opening of a choke at the top of the riser (of this bore; discharge `coefficient`) with which steady flow
/// through it is stable against small disturbances: `top_pressure` holds behind the choke, which loses
/// (1/(coefficient x opening)^2 - 1) rho j^2 / 2 without slip in it. The gas of the pipeline is a spring; in the riser
/// long bubbles drift (Bendiksen 1984) and gas expands. Linear theory: the disturbances grow that have roots with a
/// positive real part, which Cauchy's argument principle counts, up to periods of a quarter of the bubbles' way up.
/// 1 where no choke is needed, 0 where none helps.
double steady_opening(const Riser& riser, const Bore& bore, double coefficient);

}  // namespace wavy::line
