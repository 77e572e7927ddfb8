// The shear-stress-transport law of k and omega.
#include <algorithm>
#include <cmath>

#include "physics/turbulence.hpp"

namespace wavy {
namespace {

constexpr double beta_star = 0.09;
constexpr double a1 = 0.31;
constexpr double sigma_omega2 = 0.856;

/// sqrt(k)/(0.09 omega y), and what viscosity makes of it at a wall.
double of_length(const LocalTurbulence& at) { return std::sqrt(at.k) / (beta_star * at.second * at.distance); }
double of_viscosity(const LocalTurbulence& at) { return 500 * at.nu / (at.distance * at.distance * at.second); }

/// 1 beside walls, 0 far away.
double first_blend(const LocalTurbulence& at) {
  constexpr double least = 1e-10;
  const double cross = std::max(2 * sigma_omega2 * at.cross / at.second, least);
  const double argument = std::min(std::max(of_length(at), of_viscosity(at)),
                                   4 * sigma_omega2 * at.k / (cross * at.distance * at.distance));
  return std::tanh(std::pow(std::min(argument, 10.0), 4));
}

double sst_viscosity(const LocalTurbulence& at) {
  const double argument = std::min(std::max(2 * of_length(at), of_viscosity(at)), 10.0);
  const double second_blend = std::tanh(argument * argument);
  return a1 * at.k / std::max(a1 * at.second, at.strain * second_blend);
}

TurbulentRates sst_rates(const LocalTurbulence& at, double production, double eddy) {
  const double f = first_blend(at);
  const auto blend = [f](double beside, double far) { return f * beside + (1 - f) * far; };
  const double made = std::min(production, most_production * beta_star * at.second * at.k);
  const double cross = 2 * (1 - f) * sigma_omega2 * at.cross / at.second;
  TurbulentRates result;
  result.k_gain = made;
  result.k_sink = beta_star * at.second;
  result.second_gain = blend(5.0 / 9, 0.44) * made / std::max(eddy, 1e-12 * at.nu) + std::max(cross, 0.0);
  result.second_sink = blend(0.075, 0.0828) * at.second - std::min(cross, 0.0) / at.second;
  result.k_share = blend(0.85, 1);
  result.second_share = blend(0.5, sigma_omega2);
  return result;
}

}  // namespace

const TurbulenceLaw k_omega_sst{
    "k_omega_sst",
    "nu_t = 0.31 k/max(0.31 w, S F2); dk/dt = P - 0.09 w k; dw/dt = a P/nu_t - b w^2 + (1-F1) 1.712 grad k . grad w/w",
    "Menter, Kuntz & Langtry, Turbulence, Heat and Mass Transfer 4 (2003) 625",
    "fully turbulent flow, along walls too where it slows down and separates",
    TurbulenceLaw::Second::omega,
    sst_viscosity,
    sst_rates};

}  // namespace wavy
