// Waves, sloshing, and the instability of a heavy layer over a light one.
#include <fmt/format.h>

#include <array>
#include <complex>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;
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
      sharp::Model<2> model(grid, fluids({1000, 0}, {0.01, 0}, Wall::slip, {0, -g}));
      fill_below(grid, model.state().F, [&](double x) { return depth + 0.002 * std::cos(k * x); });
      model.start();
      Curve2D curve{fmt::format("h/L = {}, n = {}", depth, mode), {}, {}};
      const double start = mode_amplitude(model, mode);
      SwingThroughZero swing(start);
      while (model.state().time < 3.1 * period) {
        sharp::StepLimit limit{};
        model.step(std::min(model.stable_step(limit), period / 60));
        const double now = mode_amplitude(model, mode);
        const double t = model.state().time;
        swing.add(t, now);
        curve.x.push_back(t / period);
        curve.y.push_back(now / start);
      }
      result.findings.push_back(
          close(fmt::format("period, h/L = {}, n = {} [s]", depth, mode), swing.period(), period, 5e-3));
      if (mode == 1) result.chart.front().curves.push_back(curve);
    }
  }
  return result;
}

ValidationResult steady_acceleration(bool) {
  const double a = 2;
  const Grid<2> grid = box(1.2, 0.8, 48);
  auto settings = fluids({1000, 50}, {1.2, 1e-2}, Wall::slip, {0, 0});
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
  auto settings = fluids(heavy, light, Wall::slip, {0, -g});
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

/// w(z) = exp(-z^2) erfc(-i z) for Im z >= 0, to 1e-12 (Weideman, SIAM J. Numer. Anal. 31 (1994) 1497), and its
/// continuation below the axis.
std::complex<double> faddeeva(std::complex<double> z) {
  if (z.imag() < 0) return 2.0 * std::exp(-z * z) - faddeeva(-z);
  constexpr int N = 40;
  static const auto coefficients = [] {
    const double L = std::sqrt(N / std::sqrt(2.0));
    std::array<double, N> a{};
    for (int n = 0; n < N; ++n)
      for (int k = -2 * N + 1; k < 2 * N; ++k) {
        const double theta = k * M_PI / (2 * N);
        const double t = L * std::tan(theta / 2);
        a[static_cast<std::size_t>(n)] += std::exp(-t * t) * (L * L + t * t) * std::cos((n + 1) * theta) / (4 * N);
      }
    return a;
  }();
  const double L = std::sqrt(N / std::sqrt(2.0));
  const std::complex<double> below = L - std::complex<double>(0, 1) * z;
  const std::complex<double> Z = (L + std::complex<double>(0, 1) * z) / below;
  std::complex<double> sum = 0;
  for (std::size_t n = N; n-- > 0;) sum = sum * Z + coefficients[n];
  return 2.0 * sum / (below * below) + 1.0 / (std::sqrt(M_PI) * below);
}

/// Amplitude over start of a capillary wave of wave number k between two deep fluids of the same kinematic viscosity
/// nu, from rest: Prosperetti, Phys. Fluids 24 (1981) 1217, eq. 22. omega0: frequency without viscosity; beta = rho1
/// rho2 / (rho1 + rho2)^2.
double capillary_amplitude(double t, double omega0, double nu, double k, double beta) {
  using Complex = std::complex<double>;
  const double n = nu * k * k;
  const double root = std::sqrt(n);
  // Roots of z^4 - 4 beta root z^3 + 2 (1 - 6 beta) n z^2 + 4 (1 - 3 beta) n root z + (1 - 4 beta) n^2 + omega0^2.
  const std::array<double, 4> c{(1 - 4 * beta) * n * n + omega0 * omega0, 4 * (1 - 3 * beta) * n * root,
                                2 * (1 - 6 * beta) * n, -4 * beta * root};
  std::array<Complex, 4> z;
  for (std::size_t i = 0; i < 4; ++i) z[i] = std::sqrt(omega0) * std::pow(Complex(0.4, 0.9), static_cast<double>(i));
  for (int round = 0; round < 200; ++round)  // Durand and Kerner's iteration
    for (std::size_t i = 0; i < 4; ++i) {
      Complex others = 1;
      for (std::size_t j = 0; j < 4; ++j)
        if (j != i) others *= z[i] - z[j];
      z[i] -= ((((z[i] + c[3]) * z[i] + c[2]) * z[i] + c[1]) * z[i] + c[0]) / others;
    }
  const double constant = 4 * (1 - 4 * beta) * n * n;
  Complex sum = constant / (2 * constant + omega0 * omega0) * std::erfc(std::sqrt(n * t));
  for (std::size_t i = 0; i < 4; ++i) {
    Complex Z = 1;
    for (std::size_t j = 0; j < 4; ++j)
      if (j != i) Z *= z[j] - z[i];
    // exp(z^2 t) erfc(z sqrt t) = w(i z sqrt t)
    sum += z[i] / Z * (omega0 * omega0 / (z[i] * z[i] - n)) * std::exp(-n * t) *
           faddeeva(Complex(0, 1) * z[i] * std::sqrt(t));
  }
  return sum.real();
}

ValidationResult capillary_wave(bool quick) {
  // Wavelength 1, amplitude 0.01, Laplace number 3000 (Popinet 2009, sec. 5.4), half a wave between planes of symmetry.
  const double k = 2 * M_PI;
  const double sigma = 1;
  const double nu = 1 / std::sqrt(3000.0);
  ValidationResult result;
  result.x_title = "omega0 t";
  result.chart = {{"amplitude / start", {}}};
  const double omega0 = std::sqrt(sigma * k * k * k / 2);
  const double until = 25 / omega0;
  Curve2D theory{"Prosperetti 1981", {}, {}};
  for (int i = 0; i <= 400; ++i) {
    const double t = std::max(1e-6, until * i / 400);
    theory.x.push_back(t * omega0);
    theory.y.push_back(capillary_amplitude(t, omega0, nu, k, 0.25));
  }
  for (const int n : quick ? std::vector<int>{32} : std::vector<int>{32, 64}) {
    const Grid<2> grid = box(0.5, 3, n / 2);
    auto settings = fluids({1, nu}, {1, nu}, Wall::slip, {0, 0});
    settings.surface_tension = sigma;
    sharp::Model<2> model(grid, settings);
    fill_below(grid, model.state().F, [&](double x) { return 1.5 + 0.01 * std::cos(k * x); });
    model.start();
    const double start = mode_amplitude(model, 1);
    Curve2D curve{fmt::format("{} cells per wavelength", n), {}, {}};
    double squares = 0;
    double last_time = 0;
    while (model.state().time < until) {
      sharp::StepLimit limit{};
      const double dt = std::min(model.stable_step(limit), until - model.state().time);
      model.step(dt);
      const double t = model.state().time;
      const double found = mode_amplitude(model, 1) / start;
      // F stands half a step before the velocity.
      const double off = found - capillary_amplitude(t - 0.5 * dt, omega0, nu, k, 0.25);
      squares += off * off * (t - last_time);
      last_time = t;
      curve.x.push_back((t - 0.5 * dt) * omega0);
      curve.y.push_back(found);
    }
    result.findings.push_back(small(fmt::format("rms error / amplitude at {} cells per wavelength", n),
                                    std::sqrt(squares / until), n == 32 ? 1e-2 : 3e-3));
    result.chart.front().curves.push_back(curve);
  }
  result.chart.front().curves.push_back(theory);
  return result;
}

ValidationResult gravity_wave(bool) {
  // Deep water, half a wave across 1 m, 64 cells; damping by a thin liquid under a gas too light to count.
  const int n = 64;
  const double k = M_PI;
  const double nu = 2e-3;
  const double rate = 2 * nu * k * k;
  const double period = 2 * M_PI / std::sqrt(g * k * std::tanh(1.25 * k));
  const Grid<2> grid = box(1, 2, n);
  sharp::Model<2> model(grid, fluids({1000, 1000 * nu}, {0.1, 1e-6}, Wall::slip, {0, -g}));
  fill_below(grid, model.state().F, [&](double x) { return 1.25 + 0.005 * std::cos(k * x); });
  model.start();
  const double start = mode_amplitude(model, 1);
  Curve2D curve{"found", {}, {}};
  Curve2D theory{"exp(-2 nu k^2 t)", {}, {}};
  SwingThroughZero swing(start);
  while (model.state().time < 4.2 * period) {
    sharp::StepLimit limit{};
    model.step(std::min(model.stable_step(limit), period / 60));
    const double now = mode_amplitude(model, 1);
    const double t = model.state().time;
    swing.add(t, now);
    curve.x.push_back(t / period);
    curve.y.push_back(now / start);
    theory.x.push_back(t / period);
    theory.y.push_back(std::exp(-rate * t));
  }
  ValidationResult result;
  // Viscosity lengthens the period by the square of damping over frequency, which is below 1e-4 here.
  result.findings = {close("period [s]", swing.period(), period, 5e-3),
                     close("damping [1/s]", swing.damping(), rate, 0.1)};
  result.x_title = "time / period";
  result.chart = {{"amplitude / start", {curve, theory}}};
  return result;
}

}  // namespace

std::vector<ValidationCase> wave_cases() {
  return {{"sloshing", "free sloshing of a tank, three depths", "omega_n^2 = (n pi g / L) tanh(n pi h / L)", true,
           sloshing},
          {"steady_acceleration", "a tank under steady acceleration", "surface slope a/g, floor pressure linear", true,
           steady_acceleration},
          {"capillary_wave", "a capillary wave between two viscous fluids", "Prosperetti, Phys. Fluids 24 (1981) 1217",
           true, capillary_wave},
          {"gravity_wave", "a standing wave in deep, slightly viscous water",
           "omega^2 = g k tanh(k h); Lamb, Hydrodynamics (1932), sec. 348", true, gravity_wave},
          {"rayleigh_taylor", "a heavy layer over a light one, small amplitude",
           "Chandrasekhar, Hydrodynamic and Hydromagnetic Stability (1961), ch. 10", true, rayleigh_taylor}};
}

}  // namespace wavy
