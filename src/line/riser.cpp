#include "line/riser.hpp"

#include "line/closures.hpp"

namespace wavy::line {

double blocking_ratio(const Riser& riser) {
  const double gas = riser.gas_pressure_flux / ((1 - riser.pipeline_holdup) * riser.pipeline_length);
  return gas / (riser.liquid_density * gravity * riser.liquid_flux);
}

double steady_pressure(const Riser& riser) {
  constexpr double gas_in_caps = 0.89;
  return riser.liquid_density * gravity *
         ((1 - riser.pipeline_holdup) / gas_in_caps * riser.pipeline_length - riser.height);
}

}  // namespace wavy::line
