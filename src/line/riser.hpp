// Whether a pipeline that falls to the foot of a riser slugs there, by the published criteria.
#pragma once

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

}  // namespace wavy::line
