// Turbulence laws: functions of numbers at one place, and the table from which they are named and explained; the law of
// the wall, and what holds beside walls for any of them.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <string_view>
#include <vector>

namespace wavy {

/// What a law of two equations knows of a place. `second` is the dissipation epsilon [m2/s3], or the frequency
/// omega = epsilon/(0.09 k) [1/s].
struct LocalTurbulence {
  double k = 0;         ///< energy of the fluctuations per mass [m2/s2]
  double second = 0;    ///< epsilon or omega
  double nu = 0;        ///< kinematic viscosity of the fluid [m2/s]
  double strain = 0;    ///< S = sqrt(2 S:S) of the mean flow [1/s]
  double distance = 0;  ///< from the nearest wall [m]
  double cross = 0;     ///< grad k . grad omega [m/s4]
};

/// dk/dt = k_gain - k_sink k, the same of the second; what diffuses by nu + share nu_t.
struct TurbulentRates {
  double k_gain = 0;       ///< [m2/s3]
  double k_sink = 0;       ///< [1/s]
  double second_gain = 0;  ///< [m2/s4] or [1/s2]
  double second_sink = 0;  ///< [1/s]
  double k_share = 1;
  double second_share = 1;
};

using VelocityGradient = std::array<std::array<double, 3>, 3>;  ///< [component][direction] [1/s]

/// sqrt(2 S:S) of a gradient.
double strain_rate(const VelocityGradient& g);

/// A law of turbulence: of two equations, or of what a grid does not resolve.
struct TurbulenceLaw {
  enum class Second { none, epsilon, omega };
  std::string_view name;
  std::string_view equation;
  std::string_view source;
  std::string_view range;  ///< in words
  Second second = Second::none;
  double (*eddy_viscosity)(const LocalTurbulence&) = nullptr;  ///< away from walls [m2/s]
  /// `production`: of k by the mean flow [m2/s3]; `eddy_viscosity` as it is there.
  TurbulentRates (*rates)(const LocalTurbulence&, double production, double eddy_viscosity) = nullptr;
  /// Of a large-eddy law, by the size of the filter and the distance from walls [m2/s].
  double (*subgrid)(const VelocityGradient&, double width, double distance) = nullptr;
};
const std::vector<TurbulenceLaw>& turbulence_laws();

/// Laws by name; see the files of that name.
extern const TurbulenceLaw k_epsilon, k_epsilon_realisable, k_omega_sst, smagorinsky, wale;

inline constexpr double c_mu = 0.09;           ///< nu_t = c_mu k^2/epsilon
inline constexpr double karman = 0.41;         ///< slope of the logarithmic law
inline constexpr double most_production = 10;  ///< in units of the dissipation: near stagnation points laws make more

/// (T1) Speed along a wall over the friction velocity, at a distance in wall units y+ = u* y/nu and with a roughness
/// k+ = u* k_s/nu: Reichardt, Z. angew. Math. Mech. 31 (1951) 208; with sand roughness k_s it goes over into
/// ln(33.5 y/k_s)/0.41 so that the loss is ln(1 + 0.3 k+)/0.41 (Colebrook, J. Inst. Civ. Eng. 11 (1939) 133).
double wall_law(double y_plus, double k_plus = 0);
/// Its slope.
double wall_law_slope(double y_plus, double k_plus = 0);
/// Friction velocity by that law of a flow of so much speed at a distance y [m/s].
double friction_velocity(double speed, double y, double nu, double roughness = 0);
/// Production of k by that law [m2/s3].
double wall_production(double friction_velocity, double y, double nu, double roughness = 0);

/// (T8) By what rotation and curved flow multiply production in the SST law, 0 to 1.25: Spalart & Shur, Aerosp. Sci.
/// Technol. 1 (1997) 297, for SST Smirnov & Menter, J. Turbomach. 131 (2009) 041010; the axes of strain are taken to
/// turn as fast as the velocity does along its path. `u`: of the mean flow, seen from where its pattern stands [m/s];
/// `omega` [1/s].
double rotation_factor(const VelocityGradient& g, const std::array<double, 3>& u, double omega);

/// (T2) Beside walls, where Re_y = sqrt(k) y/nu is below some 200, lengths go with the distance from the wall:
/// epsilon = k^(3/2)/l_epsilon, nu_t = c_mu sqrt(k) l_mu (Wolfshtein, Int. J. Heat Mass Transfer 12 (1969) 301).
double dissipation_length(double y, double re_y);
double viscosity_length(double y, double re_y);
/// Share of the law's own eddy viscosity, the rest being that of (T2) (Jongen, PhD thesis, EPF Lausanne (1992)).
double share_of_law(double re_y);
/// How much farther the wall seems to be where it is rough, in these lengths [m]: Cebeci & Chang, AIAA J. 16 (1978)
/// 730, after Rotta.
double rough_shift(double k, double nu, double roughness);
inline constexpr double near_wall = 200;  ///< Re_y up to which (T2) says the dissipation

/// (T3) Eddy viscosity on a face between cells: as the stress of a profile that grows away from a wall wants it.
inline double eddy_viscosity_between(double a, double b, double nu) {
  // In the buffer layer viscosities grow with a high power of the distance, and the geometric mean carries the right
  // stress; farther out they grow with the distance itself.
  constexpr double buffer = 8;
  const double geometric = std::sqrt((nu + a) * (nu + b)) - nu;
  const double least = std::min(a, b);
  return geometric + (least > 0 ? least / (least + buffer * nu) : 0.0) * (0.5 * (a + b) - geometric);
}

}  // namespace wavy
