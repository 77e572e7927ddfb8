#include "line/closures.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wavy::line {
namespace {

constexpr double pi = std::numbers::pi;

/// Shear on a wall over the velocity beside it, f rho |u| / 8 [kg/(m2 s)].
double shear_factor(double density, double viscosity, double speed, double hydraulic_diameter, double roughness) {
  const double reynolds = density * std::abs(speed) * hydraulic_diameter / viscosity;
  constexpr double laminar = 2000;
  if (reynolds < laminar) return 8 * viscosity / hydraulic_diameter;  // f = 64 / Re
  return darcy_factor(reynolds, roughness / hydraulic_diameter) * density * std::abs(speed) / 8;
}

}  // namespace

double Bore::cosine() const { return std::sqrt(std::max(0.0, 1 - sine * sine)); }
double Bore::area() const { return pi / 4 * diameter * diameter; }

std::string name_of(Regime regime) {
  switch (regime) {
    case Regime::stratified:
      return "stratified";
    case Regime::wavy:
      return "stratified, wavy";
    case Regime::annular:
      return "annular";
    case Regime::slug:
      return "slug";
    case Regime::bubble:
      return "bubble";
    case Regime::single:
      return "one phase";
  }
  return "";
}

double darcy_factor(double reynolds, double relative_roughness) {
  constexpr double laminar = 2000;
  constexpr double turbulent = 3000;
  const auto colebrook = [&](double re) {
    const double rough = relative_roughness / 3.7;
    // Haaland's formula, then Newton's steps for x = 1 / sqrt(f):  x + 2 log10(rough + 2.51 x / Re) = 0.
    double x = -1.8 * std::log10(std::pow(rough, 1.11) + 6.9 / re);
    for (int i = 0; i < 4; ++i) {
      const double inner = rough + 2.51 * x / re;
      x -= (x + 2 * std::log10(inner)) / (1 + 2 / std::numbers::ln10 * 2.51 / re / inner);
    }
    return 1 / (x * x);
  };
  if (reynolds <= laminar) return 64 / std::max(reynolds, 1.0);
  if (reynolds >= turbulent) return colebrook(reynolds);
  const double share = (reynolds - laminar) / (turbulent - laminar);
  return (1 - share) * 64 / laminar + share * colebrook(turbulent);
}

Layer layer_of(double holdup) {
  const double a = std::clamp(holdup, 0.0, 1.0);
  // Half the angle under the layer: gamma - sin gamma cos gamma = pi a; begun with Biberg's formula (Powder Technol.
  // 104 (1999) 1), bisected where Newton would leave the bracket.
  double low = 0;
  double high = pi;
  double gamma = pi * a + std::cbrt(1.5 * pi) * (1 - 2 * a + std::cbrt(a) - std::cbrt(1 - a));
  for (int i = 0; i < 50; ++i) {
    const double off = gamma - std::sin(gamma) * std::cos(gamma) - pi * a;
    if (std::abs(off) < 1e-12) break;
    (off < 0 ? low : high) = gamma;
    const double slope = 2 * std::sin(gamma) * std::sin(gamma);
    const double next = slope > 0 ? gamma - off / slope : -1;
    gamma = next > low && next < high ? next : 0.5 * (low + high);
  }
  return {0.5 * (1 - std::cos(gamma)), gamma, pi - gamma, std::sin(gamma)};
}

double holdup_of_depth(double depth) {
  const double gamma = std::acos(std::clamp(1 - 2 * depth, -1.0, 1.0));
  return (gamma - std::sin(gamma) * std::cos(gamma)) / pi;
}

Friction layered_friction(const Bore& bore, const Media& media, double holdup, double u_liquid, double u_gas,
                          bool waves) {
  constexpr double least = 1e-8;
  const double liquid = std::clamp(holdup, least, 1 - least);
  const double gas = 1 - liquid;
  const Layer layer = layer_of(liquid);
  const double D = bore.diameter;
  const double area = pi / 4;  // over D^2
  const double D_liquid = 4 * area * liquid / layer.wet * D;
  const double D_gas = 4 * area * gas / (layer.dry + layer.interface) * D;
  Friction result;
  result.wall_liquid = shear_factor(media.liquid_density, media.liquid_viscosity, u_liquid, D_liquid, bore.roughness) *
                       layer.wet / (area * D);
  result.wall_gas =
      shear_factor(media.gas_density, media.gas_viscosity, u_gas, D_gas, bore.roughness) * layer.dry / (area * D);
  double rougher = 1;
  if (waves) {
    // Waves from a superficial gas velocity of 5 m/s on at 1.2 kg/m3.
    const double onset = 5 * std::sqrt(1.2 / media.gas_density);
    rougher += 15 * std::sqrt(layer.depth) * std::max(0.0, std::abs(gas * u_gas) / onset - 1);
  }
  // The friction factor is the gas's on its wall; what it acts on is the difference of speeds.
  const double reynolds = media.gas_density * std::abs(u_gas) * D_gas / media.gas_viscosity;
  const double f = darcy_factor(reynolds, bore.roughness / D_gas);
  const double slip = std::max(std::abs(u_gas - u_liquid), 1e-6);
  result.between = rougher * f * media.gas_density * slip / 8 * layer.interface / (area * D);
  return result;
}

Friction annular_friction(const Bore& bore, const Media& media, double holdup, double u_liquid, double u_gas) {
  constexpr double least = 1e-8;
  const double liquid = std::clamp(holdup, least, 1 - least);
  const double D = bore.diameter;
  const double core = std::sqrt(1 - liquid);  // diameter of the gas over D
  Friction result;
  result.wall_liquid =
      shear_factor(media.liquid_density, media.liquid_viscosity, u_liquid, std::max(liquid, 1e-6) * D, bore.roughness) *
      4 / D;
  const double film = 0.5 * (1 - core);  // over D
  const double fanning = 0.005 * (1 + 300 * film);
  result.between = fanning * media.gas_density * std::max(std::abs(u_gas - u_liquid), 1e-6) / 2 * 4 * core / D;
  return result;
}

double mixed_friction(const Bore& bore, const Media& media, double holdup, double flux) {
  const double density = holdup * media.liquid_density + (1 - holdup) * media.gas_density;
  const double viscosity = holdup * media.liquid_viscosity + (1 - holdup) * media.gas_viscosity;
  return shear_factor(density, viscosity, flux, bore.diameter, bore.roughness) * 4 / bore.diameter;
}

Drift long_bubble_drift(const Bore& bore, const Media& media, double flux) {
  const double c = std::sqrt(gravity * bore.diameter * std::max(0.0, media.liquid_density - media.gas_density) /
                             media.liquid_density);
  const double froude = c > 0 ? std::abs(flux) / c : 1e9;
  const double sine = bore.sine;
  // Blended over a tenth of the change, so that a run does not jump between the two.
  constexpr double change = 3.5;
  const double fast = std::clamp((froude - 0.95 * change) / (0.1 * change), 0.0, 1.0);
  const double sense = std::clamp(flux / (0.1 * c + 1e-12), -1.0, 1.0);  // a long bubble points with the flow
  const Drift slow{1.05 + 0.15 * sine * sine, c * (0.35 * sine + 0.54 * bore.cosine() * sense)};
  const Drift quick{1.2, c * 0.35 * sine};
  return {(1 - fast) * slow.distribution + fast * quick.distribution,
          (1 - fast) * slow.velocity + fast * quick.velocity};
}

Drift bubble_drift(const Bore& bore, const Media& media) {
  const double jump = std::max(0.0, media.liquid_density - media.gas_density);
  const double rise = 1.53 * std::pow(media.surface_tension * gravity * jump / std::pow(media.liquid_density, 2), 0.25);
  return {1.2, rise * bore.sine};
}

double bridging_speed(const Bore& bore, const Media& media, double holdup) {
  const double liquid = std::clamp(holdup, 1e-6, 1 - 1e-6);
  const Layer layer = layer_of(liquid);
  const double jump = std::max(0.0, media.liquid_density - media.gas_density);
  return (1 - layer.depth) * std::sqrt(jump * gravity * bore.cosine() * (1 - liquid) * pi / 4 * bore.diameter /
                                       (media.gas_density * std::max(layer.interface, 1e-9)));
}

namespace {

/// Pressure gradients that friction and weight ask of each phase.
struct Gradients {
  double liquid = 0, gas = 0;
};
Gradients gradients(const Bore& bore, const Media& media, const Friction& friction, double holdup, double u_liquid,
                    double u_gas) {
  const double pull = friction.between * (u_gas - u_liquid);
  return {-(friction.wall_liquid * u_liquid - pull) / holdup - media.liquid_density * gravity * bore.sine,
          -(friction.wall_gas * u_gas + pull) / (1 - holdup) - media.gas_density * gravity * bore.sine};
}

/// The least holdup at which both phases ask for the same gradient; or, where one lies in the same piece as `near`,
/// that.
template <class Law>
double balance(const Bore& bore, const Media& media, double liquid_flux, double gas_flux, double near, Law&& law) {
  const auto off = [&](double holdup) {
    const double u_liquid = liquid_flux / holdup;
    const double u_gas = gas_flux / (1 - holdup);
    const Gradients both = gradients(bore, media, law(holdup, u_liquid, u_gas), holdup, u_liquid, u_gas);
    return both.gas - both.liquid;  // positive for a thin layer, which friction holds most
  };
  constexpr int pieces = 200;
  const auto place = [](int i) { return 1e-6 + (1 - 2e-6) * std::pow(static_cast<double>(i) / pieces, 2); };
  const auto within = [&](double low, double high) {
    for (int round = 0; round < 60; ++round) {
      const double middle = 0.5 * (low + high);
      if (middle <= low || middle >= high) break;
      (off(middle) > 0 ? low : high) = middle;
    }
    return 0.5 * (low + high);
  };
  if (near > 0) {
    const int i = std::clamp(static_cast<int>(std::ceil(std::sqrt(near) * pieces)), 1, pieces);
    if (!(off(place(i)) > 0) && (i == 1 || off(place(i - 1)) > 0)) return within(place(i - 1), place(i));
  }
  for (int i = 1; i <= pieces; ++i)
    if (!(off(place(i)) > 0)) return within(place(i - 1), place(i));
  return 1 - 1e-6;
}

}  // namespace

double layer_balance(const Bore& bore, const Media& media, double liquid_flux, double gas_flux, bool waves,
                     double near) {
  return balance(bore, media, liquid_flux, gas_flux, near, [&](double holdup, double u_liquid, double u_gas) {
    return layered_friction(bore, media, holdup, u_liquid, u_gas, waves);
  });
}

Equilibrium equilibrium(const Bore& bore, const Media& media, double liquid_flux, double gas_flux, double near) {
  Equilibrium result;
  const double flux = liquid_flux + gas_flux;
  constexpr double none = 1e-12;
  if (gas_flux < none || liquid_flux < none) {
    result.holdup = gas_flux < none ? 1 : 0;
    result.layer_holdup = result.holdup;
    const double density = gas_flux < none ? media.liquid_density : media.gas_density;
    result.pressure_gradient = -mixed_friction(bore, media, result.holdup, flux) * flux - density * gravity * bore.sine;
    return result;
  }
  constexpr double steep = 0.26;  // sine of 15 degrees: above it layers do not stand against the flow
  result.layer_holdup = layer_balance(bore, media, liquid_flux, gas_flux, true, near);
  const double h = result.layer_holdup;
  const double u_gas = gas_flux / (1 - h);
  const double u_liquid = liquid_flux / h;
  if (bore.sine < steep && std::abs(u_gas - u_liquid) < bridging_speed(bore, media, h)) {
    const Friction friction = layered_friction(bore, media, h, u_liquid, u_gas, true);
    result.holdup = h;
    const double onset = 5 * std::sqrt(1.2 / media.gas_density);
    result.regime = gas_flux > onset ? Regime::wavy : Regime::stratified;
    const Gradients both = gradients(bore, media, friction, h, u_liquid, u_gas);
    result.pressure_gradient = h * both.liquid + (1 - h) * both.gas;
    return result;
  }
  const double jump = media.liquid_density - media.gas_density;
  // Gas that carries drops up a steep pipe; or too thin a layer to bridge the pipe.
  const double lifting = 3.1 * std::pow(media.surface_tension * gravity * jump, 0.25) / std::sqrt(media.gas_density);
  constexpr double thin = 0.35;  // depth over diameter (Barnea et al. 1982)
  const bool film = bore.sine >= steep ? gas_flux > lifting : layer_of(h).depth < thin;
  if (film) {
    result.regime = Regime::annular;
    result.holdup = balance(bore, media, liquid_flux, gas_flux, 0, [&](double holdup, double ul, double ug) {
      return annular_friction(bore, media, holdup, ul, ug);
    });
    const double ul = liquid_flux / result.holdup;
    const double ug = gas_flux / (1 - result.holdup);
    const Gradients both =
        gradients(bore, media, annular_friction(bore, media, result.holdup, ul, ug), result.holdup, ul, ug);
    result.pressure_gradient = result.holdup * both.liquid + (1 - result.holdup) * both.gas;
    return result;
  }
  // Turbulence that keeps bubbles small against coalescence (Barnea 1987 eq. 5 with the drop size of Barnea et al.).
  const Drift bubbles = bubble_drift(bore, media);
  const double gas_in_bubbles = gas_flux / (bubbles.distribution * flux + bubbles.velocity);
  const double speed_to_break = 3.0 * std::sqrt(gravity * bore.diameter);
  const bool small = gas_in_bubbles < 0.25 && (bore.sine > 0.7 || flux > speed_to_break);
  const Drift drift = small ? bubbles : long_bubble_drift(bore, media, flux);
  result.regime = small ? Regime::bubble : Regime::slug;
  const double gas = std::min(gas_flux / (drift.distribution * flux + drift.velocity), 1 - 1e-6);
  result.holdup = 1 - gas;
  const double density = result.holdup * media.liquid_density + gas * media.gas_density;
  result.pressure_gradient = -mixed_friction(bore, media, result.holdup, flux) * flux - density * gravity * bore.sine;
  return result;
}

}  // namespace wavy::line
