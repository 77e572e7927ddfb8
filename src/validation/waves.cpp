// Waves, sloshing, and the instability of a heavy layer over a light one.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;
constexpr double g = 9.81;

ValidationResult sloshing(bool quick) {
  // A tank 1 m long; a gas so light that it does not count; amplitude 0.2 % of the length.
  ValidationResult result;
  result.x_title = "time / period";
  result.chart = {{"amplitude / start", {}}};
  for (const double depth : {0.1, 0.3, 0.6}) {
    for (int mode = 1; mode <= (quick ? 1 : 3); ++mode) {
      const int n = 96;
      const double k = mode * M_PI;
      const double period = 2 * M_PI / std::sqrt(g * k * std::tanh(k * depth));
      const Grid<2> grid = box(1, depth + 0.25, n);
      sharp::Model<2> model(grid, fluids({1000, 0}, {0.01, 0}, sharp::Wall::slip, {0, -g}));
      fill_below(grid, model.state().F, [&](double x) { return depth + 0.002 * std::cos(k * x); });
      model.start();
      Curve2D curve{fmt::format("h/L = {}, n = {}", depth, mode), {}, {}};
      const double start = mode_amplitude(model, mode);
      double last = start;
      double last_time = 0;
      std::vector<double> crossings;
      while (model.state().time < 3.1 * period) {
        sharp::StepLimit limit{};
        model.step(std::min(model.stable_step(limit), period / 60));
        const double now = mode_amplitude(model, mode);
        const double t = model.state().time;
        if (now * last < 0) crossings.push_back(last_time + (t - last_time) * last / (last - now));
        last = now;
        last_time = t;
        curve.x.push_back(t / period);
        curve.y.push_back(now / start);
      }
      const double found = crossings.size() < 3 ? 0.0
                                                : 2 * (crossings.back() - crossings.front()) /
                                                      (static_cast<double>(crossings.size()) - 1);
      result.findings.push_back(close(fmt::format("period, h/L = {}, n = {} [s]", depth, mode), found, period, 5e-3));
      if (mode == 1) result.chart.front().curves.push_back(curve);
    }
  }
  return result;
}

ValidationResult steady_acceleration(bool) {
  const double a = 2;
  const Grid<2> grid = box(1.2, 0.8, 48);
  auto settings = fluids({1000, 50}, {1.2, 1e-2}, sharp::Wall::slip, {0, 0});
  settings.body_force = [a](double t) { return Vec<2>{std::min(t, 1.0) * a, -g}; };
  sharp::Model<2> model(grid, settings);
  fill_below(grid, model.state().F, [](double) { return 0.4; });
  model.start();
  while (model.state().time < 14) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  const auto n = static_cast<std::size_t>(grid.cells()[0]);
  std::vector<double> height(n);
  std::vector<double> floor(n);
  const Cells<2> pressure = model.true_pressure();
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    height[static_cast<std::size_t>(cell[0])] += model.state().F.block(b)[o] * grid.spacing()[1];
    if (cell[1] == 0) floor[static_cast<std::size_t>(cell[0])] = pressure.block(b)[o];
  });
  double xx = 0;
  double xh = 0;
  double xp = 0;
  Curve2D surface{"found", {}, {}};
  Curve2D theory{"slope a/g", {}, {}};
  for (std::size_t i = 0; i < n; ++i) {
    const double x = (static_cast<double>(i) + 0.5) * grid.spacing()[0];
    xx += (x - 0.6) * (x - 0.6);
    xh += (x - 0.6) * height[i];
    xp += (x - 0.6) * floor[i];
    surface.x.push_back(x);
    surface.y.push_back(height[i]);
    theory.x.push_back(x);
    theory.y.push_back(0.4 + a / g * (x - 0.6));
  }
  ValidationResult result;
  result.findings = {close("surface slope", xh / xx, a / g, 5e-3),
                     close("slope of the floor pressure [Pa/m]", xp / xx, 1000 * a, 5e-3)};
  result.x_title = "x [m]";
  result.chart = {{"level [m]", {surface, theory}}};
  return result;
}

ValidationResult rayleigh_taylor(bool) {
  // Heavy over light, no viscosity: n^2 = A g k tanh(k H) - sigma k^3 / (rho1 + rho2), equal depths H.
  const Properties heavy{3, 0};
  const Properties light{1, 0};
  const double k = M_PI;  // half a wavelength across 1 m
  const double sigma = 0.3;
  const double rate = std::sqrt(0.5 * g * k * std::tanh(k) - sigma * k * k * k / 4);
  const Grid<2> grid = box(1, 2, 64);
  auto settings = fluids(heavy, light, sharp::Wall::slip, {0, -g});
  settings.surface_tension = sigma;
  sharp::Model<2> model(grid, settings);
  // F counts the heavy phase, which lies above.
  fill_below(grid, model.state().F, [&](double x) { return 1 + 1e-4 * std::cos(k * x); });
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    model.state().F.block(b)[o] = 1 - model.state().F.block(b)[o];
  });
  model.start();
  // From rest the amplitude follows cosh(n t): the rate comes from acosh of its growth.
  Curve2D curve{"found", {}, {}};
  Curve2D theory{"cosh(n t)", {}, {}};
  const double start = mode_amplitude(model, 1);
  const double until = 4 / rate;
  while (model.state().time < until) {
    sharp::StepLimit limit{};
    model.step(std::min(model.stable_step(limit), until / 300));
    const double t = model.state().time;
    curve.x.push_back(t * rate);
    curve.y.push_back(mode_amplitude(model, 1) / start);
    theory.x.push_back(t * rate);
    theory.y.push_back(std::cosh(rate * t));
  }
  ValidationResult result;
  result.findings.push_back(close("growth rate [1/s]", std::acosh(curve.y.back()) / model.state().time, rate, 0.03));
  result.x_title = "n t";
  result.chart = {{"amplitude / start", {curve, theory}}};
  return result;
}

}  // namespace

std::vector<ValidationCase> wave_cases() {
  return {{"sloshing", "free sloshing of a tank, three depths", "omega_n^2 = (n pi g / L) tanh(n pi h / L)", true,
           sloshing},
          {"steady_acceleration", "a tank under steady acceleration", "surface slope a/g, floor pressure linear", true,
           steady_acceleration},
          {"rayleigh_taylor", "a heavy layer over a light one, small amplitude",
           "Chandrasekhar, Hydrodynamic and Hydromagnetic Stability (1961), ch. 10", true, rayleigh_taylor}};
}

}  // namespace wavy
