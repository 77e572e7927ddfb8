#include "line/riser.hpp"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <vector>

namespace wavy::line {
namespace {

using Complex = std::complex<double>;
constexpr int pieces = 60;  // of the riser, for its integrals

/// Steady flow up a riser with a choke, and what small disturbances of it do.
class ChokedRiser {
 public:
  ChokedRiser(const Riser& riser, const Bore& bore, double coefficient, double opening)
      : riser_(riser), bore_(bore), loss_(1 / std::pow(coefficient * opening, 2) - 1) {
    // The pressure before the choke, p = behind + loss rho_l j_l (j_l + G / p) / 2, is the root of a square.
    const double head = 0.5 * loss_ * riser.liquid_density * riser.liquid_flux;
    const double half = 0.5 * (riser.top_pressure + head * riser.liquid_flux);
    double p = half + std::sqrt(half * half + head * riser.gas_pressure_flux);
    const double dz = riser.height / pieces;
    up_.push_back(at(p));
    for (int k = 0; k < pieces; ++k) {
      up_.push_back(at(p - 0.5 * dz * up_.back().gradient));
      p -= dz * up_.back().gradient;
      up_.push_back(at(p));
    }
    std::ranges::reverse(up_);
  }

  /// Time that bubbles take up the riser [s].
  [[nodiscard]] double passage() const {
    double time = 0;
    for (std::size_t k = 0; k < pieces; ++k) time += riser_.height / pieces / up_[2 * k].bubble_speed;
    return time;
  }

  /// What a disturbance that grows as exp(s t), and brings a gas flux of 1 into the foot, leaves over of the pressure
  /// before the choke when the choke has taken its part; times the inertia of the pipeline's gas, which removes a pole.
  [[nodiscard]] Complex left_over(Complex s) const {
    const double rho = riser_.liquid_density;
    const double gas_volume = (1 - riser_.pipeline_holdup) * riser_.pipeline_length;
    const double foot = up_.front().pressure;
    const Complex spring = gas_volume * s + riser_.gas_pressure_flux / foot;
    Disturbance d{-foot / spring, 1, 0};
    const double dz = riser_.height / pieces;
    for (std::size_t k = 0; k < pieces; ++k) {
      const Disturbance half = d.plus(0.5 * dz, growth(up_[2 * k], s, d));
      d = d.plus(dz, growth(up_[2 * k + 1], s, half));
    }
    const double flux = riser_.liquid_flux + up_.back().gas_flux;
    const Complex choke = 0.5 * loss_ * rho * (riser_.liquid_flux * (d.gas + d.liquid) + d.liquid * flux);
    return (d.pressure - choke) * spring;
  }

 private:
  struct Flow {
    double pressure, gas_flux, drift, bubble_speed, share, gradient;
  };
  /// At a pressure, and with it a height.
  [[nodiscard]] Flow at(double pressure) const {
    const double gas = riser_.gas_pressure_flux / pressure;
    const double flux = gas + riser_.liquid_flux;
    const Drift drift = long_bubble_drift(bore_, {.liquid_density = riser_.liquid_density}, flux);
    const double speed = drift.distribution * flux + drift.velocity;
    const double share = gas / speed;
    return {pressure, gas,   drift.distribution,
            speed,    share, -riser_.liquid_density * gravity * bore_.sine * (1 - share)};
  }
  struct Disturbance {
    Complex pressure, gas, liquid;  // volume fluxes
    [[nodiscard]] Disturbance plus(double way, const Disturbance& slope) const {
      return {pressure + way * slope.pressure, gas + way * slope.gas, liquid + way * slope.liquid};
    }
  };
  /// Its change along the riser: gas = share (C j + drift) and the masses of both phases.
  [[nodiscard]] Disturbance growth(const Flow& flow, Complex s, const Disturbance& d) const {
    const double p = flow.pressure;
    const double rho = riser_.liquid_density;
    const Complex share = (d.gas - flow.share * flow.drift * (d.gas + d.liquid)) / flow.bubble_speed;
    const Complex pressure =
        rho * gravity * bore_.sine * share - rho * (1 - flow.share) * s * (d.gas + d.liquid);  // weight and inertia
    const double expansion = -flow.gas_flux / p * flow.gradient;
    const Complex gas = (-s * (share * p + flow.share * d.pressure) - d.gas * flow.gradient - d.pressure * expansion -
                         flow.gas_flux * pressure) /
                        p;
    return {pressure, gas, s * share};
  }

  Riser riser_;
  Bore bore_;
  double loss_;
  std::vector<Flow> up_;  // at the ends and middles of the pieces, from the foot
};

/// Whether any disturbance grows: turns of left_over() round 0 while s goes round the half circle of those that do.
bool grows(const ChokedRiser& riser) {
  const double fastest = 4 / riser.passage();
  constexpr int steps = 600;
  constexpr double slowest = 1e-4;  // over the fastest
  std::vector<Complex> way;
  const auto on_axis = [&](int i) { return fastest * std::pow(slowest, static_cast<double>(i) / steps); };
  for (int i = 0; i < steps; ++i) way.emplace_back(0.0, -on_axis(i));
  for (int i = steps; i-- > 0;) way.emplace_back(0.0, on_axis(i));
  for (int i = 1; i < steps; ++i)
    way.push_back(std::polar(fastest, std::numbers::pi * (0.5 - static_cast<double>(i) / steps)));
  double turned = 0;
  Complex last = riser.left_over(way.back());
  for (const Complex s : way) {
    const Complex now = riser.left_over(s);
    turned += std::arg(now / last);
    last = now;
  }
  return std::abs(turned) > std::numbers::pi;
}

}  // namespace

double blocking_ratio(const Riser& riser) {
  const double gas = riser.gas_pressure_flux / ((1 - riser.pipeline_holdup) * riser.pipeline_length);
  return gas / (riser.liquid_density * gravity * riser.liquid_flux);
}

double steady_pressure(const Riser& riser) {
  constexpr double gas_in_caps = 0.89;
  return riser.liquid_density * gravity *
         ((1 - riser.pipeline_holdup) / gas_in_caps * riser.pipeline_length - riser.height);
}

double steady_opening(const Riser& riser, const Bore& bore, double coefficient) {
  const auto steady = [&](double opening) { return !grows({riser, bore, coefficient, opening}); };
  if (steady(1)) return 1;
  double low = 1e-3;
  double high = 1;
  if (!steady(low)) return 0;
  constexpr double near = 1.01;
  while (high / low > near) {
    const double middle = std::sqrt(low * high);
    (steady(middle) ? low : high) = middle;
  }
  return low;
}

}  // namespace wavy::line
