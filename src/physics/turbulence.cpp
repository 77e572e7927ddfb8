#include "physics/turbulence.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

constexpr double to_turbulent = 7.8;  // that the logarithmic law lies over the curve through the wall
constexpr double rough = 0.3;         // loss by roughness, ln(1 + rough k+)/karman
const double rough_slope = rough / std::exp(karman * to_turbulent);
const double mixing = karman * std::pow(c_mu, -0.75);  // length of dissipation over the distance from the wall

/// What is left of the smooth wall's viscous layer.
double smoothness(double k_plus) {
  return 1 - std::log((1 + rough * k_plus) / (1 + rough_slope * k_plus)) / (karman * to_turbulent);
}

struct LawAndSlope {
  double law = 0;
  double slope = 0;
};

LawAndSlope law_and_slope(double y_plus, double k_plus) {
  const double slow = std::exp(-y_plus / 11);
  const double fast = std::exp(-0.33 * y_plus);
  const double rough_wall = 1 + rough_slope * k_plus;
  const double strength = to_turbulent * (k_plus > 0 ? smoothness(k_plus) : 1.0);
  return {std::log(1 + karman * y_plus / rough_wall) / karman + strength * (1 - slow - y_plus / 11 * fast),
          1 / (rough_wall + karman * y_plus) + strength * (slow - fast + 0.33 * y_plus * fast) / 11};
}

}  // namespace

double strain_rate(const VelocityGradient& g) {
  double sum = 0;
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) sum += 0.5 * (g[i][j] + g[j][i]) * (g[i][j] + g[j][i]);
  return std::sqrt(sum);
}

double wall_law(double y_plus, double k_plus) { return law_and_slope(y_plus, k_plus).law; }
double wall_law_slope(double y_plus, double k_plus) { return law_and_slope(y_plus, k_plus).slope; }

double friction_velocity(double speed, double y, double nu, double roughness) {
  if (!(speed > 0)) return 0;
  constexpr double accuracy = 1e-9;
  // Laminar, or by the power 1/7, whichever is more.
  double u = std::max(std::sqrt(nu * speed / y), std::pow(speed / 8.3, 0.875) * std::pow(nu / y, 0.125));
  for (int n = 0; n < 100; ++n) {
    const auto [law, slope] = law_and_slope(u * y / nu, u * roughness / nu);
    // By Newton, the roughness held: that it grows with u is a small part of the slope.
    const double next = std::max(u - (u * law - speed) / (law + u * y / nu * slope), 0.1 * u);
    if (std::abs(next - u) < accuracy * u) return next;
    u = next;
  }
  return u;
}

double wall_production(double friction_velocity, double y, double nu, double roughness) {
  const double slope = std::min(wall_law_slope(friction_velocity * y / nu, friction_velocity * roughness / nu), 1.0);
  return std::pow(friction_velocity, 4) / nu * slope * (1 - slope);
}

double rough_shift(double k, double nu, double roughness) {
  const double friction = std::pow(c_mu, 0.25) * std::sqrt(k);
  const double k_plus = friction * roughness / nu;
  constexpr double smooth = 5;
  if (k_plus <= smooth) return 0;
  return 0.9 * nu / friction * (std::sqrt(k_plus) - k_plus * std::exp(-k_plus / 6));
}

double dissipation_length(double y, double re_y) {
  const double x = re_y / (2 * mixing);
  return mixing * y * (x > 1e-8 ? 1 - std::exp(-x) : 1e-8);
}

double viscosity_length(double y, double re_y) {
  constexpr double damping = 70;
  return mixing * y * (1 - std::exp(-re_y / damping));
}

double share_of_law(double re_y) {
  constexpr double width = 8.7;
  return 0.5 * (1 + std::tanh((re_y - near_wall) / width));
}

const std::vector<TurbulenceLaw>& turbulence_laws() {
  static const std::vector<TurbulenceLaw> table{k_epsilon, k_epsilon_realisable, k_omega_sst, smagorinsky, wale};
  return table;
}

}  // namespace wavy
