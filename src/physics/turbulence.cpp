#include "physics/turbulence.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

constexpr double to_turbulent = 7.8;  // that the logarithmic law lies over the curve through the wall
constexpr double rough = 0.3;         // loss by roughness, ln(1 + rough k+)/karman
const double rough_slope = rough / std::exp(karman * to_turbulent);

/// What is left of the smooth wall's viscous layer.
double smoothness(double k_plus) {
  return 1 - std::log((1 + rough * k_plus) / (1 + rough_slope * k_plus)) / (karman * to_turbulent);
}

}  // namespace

double strain_rate(const VelocityGradient& g) {
  double sum = 0;
  for (std::size_t i = 0; i < 3; ++i)
    for (std::size_t j = 0; j < 3; ++j) sum += 0.5 * (g[i][j] + g[j][i]) * (g[i][j] + g[j][i]);
  return std::sqrt(sum);
}

double wall_law(double y_plus, double k_plus) {
  const double layer = 1 - std::exp(-y_plus / 11) - y_plus / 11 * std::exp(-0.33 * y_plus);
  return std::log(1 + karman * y_plus / (1 + rough_slope * k_plus)) / karman +
         to_turbulent * smoothness(k_plus) * layer;
}

double wall_law_slope(double y_plus, double k_plus) {
  const double layer =
      (std::exp(-y_plus / 11) - std::exp(-0.33 * y_plus) + 0.33 * y_plus * std::exp(-0.33 * y_plus)) / 11;
  return 1 / (1 + rough_slope * k_plus + karman * y_plus) + to_turbulent * smoothness(k_plus) * layer;
}

double friction_velocity(double speed, double y, double nu, double roughness, double guess) {
  if (!(speed > 0)) return 0;
  constexpr double accuracy = 1e-10;
  double u = guess > 0 ? guess : std::sqrt(nu * speed / y);
  for (int n = 0; n < 100; ++n) {
    const double law = wall_law(u * y / nu, u * roughness / nu);
    // By Newton, the roughness held: that it grows with u is a small part of the slope.
    const double next =
        std::max(u - (u * law - speed) / (law + u * y / nu * wall_law_slope(u * y / nu, u * roughness / nu)), 0.1 * u);
    if (std::abs(next - u) < accuracy * u) return next;
    u = next;
  }
  return u;
}

double wall_production(double friction_velocity, double y, double nu, double roughness) {
  const double slope = std::min(wall_law_slope(friction_velocity * y / nu, friction_velocity * roughness / nu), 1.0);
  return std::pow(friction_velocity, 4) / nu * slope * (1 - slope);
}

namespace {
const double mixing = karman * std::pow(c_mu, -0.75);
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

double eddy_viscosity_between(double a, double b, double nu) {
  // In the buffer layer viscosities grow with a high power of the distance, and the geometric mean carries the right
  // stress; farther out they grow with the distance itself.
  constexpr double buffer = 8;
  const double geometric = std::sqrt((nu + a) * (nu + b)) - nu;
  const double least = std::min(a, b);
  return geometric + (least > 0 ? least / (least + buffer * nu) : 0.0) * (0.5 * (a + b) - geometric);
}

const std::vector<TurbulenceLaw>& turbulence_laws() {
  static const std::vector<TurbulenceLaw> table{k_epsilon, k_epsilon_realisable, k_omega_sst, smagorinsky, wale};
  return table;
}

}  // namespace wavy
