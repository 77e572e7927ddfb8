// Laws for what a grid does not resolve of a flow whose large eddies it does.
#include <algorithm>
#include <cmath>

#include "physics/turbulence.hpp"

namespace wavy {
namespace {

double smagorinsky_viscosity(const VelocityGradient& g, double width, double distance) {
  constexpr double constant = 0.1;
  const double length = std::min(constant * width, karman * distance);
  return length * length * strain_rate(g);
}

double wale_viscosity(const VelocityGradient& g, double width, double) {
  constexpr double constant = 0.325;
  double strain = 0;  // S:S
  VelocityGradient square{};
  double trace = 0;
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) {
      for (std::size_t k = 0; k < 3; ++k) square[i][j] += g[i][k] * g[k][j];
      strain += 0.25 * (g[i][j] + g[j][i]) * (g[i][j] + g[j][i]);
    }
  for (std::size_t i = 0; i < 3; ++i) trace += square[i][i];
  double deviator = 0;  // of the symmetric part of the square
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) {
      const double own = 0.5 * (square[i][j] + square[j][i]) - (i == j ? trace / 3 : 0.0);
      deviator += own * own;
    }
  if (deviator <= 0) return 0;
  return constant * constant * width * width * std::pow(deviator, 1.5) /
         (std::pow(strain, 2.5) + std::pow(deviator, 1.25));
}

}  // namespace

const TurbulenceLaw smagorinsky{
    "smagorinsky",
    "nu_t = min(0.1 h, 0.41 y)^2 S",
    "Smagorinsky, Mon. Weather Rev. 91 (1963) 99; constant of channels, Deardorff, J. Fluid Mech. 41 (1970) 453",
    "3-D, in time, cells much smaller than the large eddies",
    TurbulenceLaw::Second::none,
    nullptr,
    nullptr,
    smagorinsky_viscosity};

const TurbulenceLaw wale{
    "wale",
    "nu_t = (0.325 h)^2 (G:G)^(3/2)/((S:S)^(5/2) + (G:G)^(5/4)), G the deviator of the symmetric part of (grad u)^2",
    "Nicoud & Ducros, Flow Turbul. Combust. 62 (1999) 183",
    "3-D, in time, cells much smaller than the large eddies; nothing in plain shear",
    TurbulenceLaw::Second::none,
    nullptr,
    nullptr,
    wale_viscosity};

}  // namespace wavy
