// Bubbles and drops that move.
#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;

/// Length of the one closed interface round `middle` [m]: of the polygon through the points where the columns have
/// their heights, in the order of their direction from the middle.
double interface_length(const sharp::Model<2>& model, const Vec<2>& middle) {
  const Grid<2>& grid = model.grid();
  const Vec<2>& h = grid.spacing();
  std::vector<std::pair<double, Vec<2>>> points;  // direction, place
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double* F = model.state().F.block(b) + o;
    if (!sharp::is_mixed(*F)) return;
    Vec<2> at = sharp::interface_point<2>(F, grid.layout().step, h);
    if (at[0] < 0 || at[0] >= 1 || at[1] < 0 || at[1] >= 1) return;  // the height belongs to the next cell
    for (std::size_t d = 0; d < 2; ++d) at[d] = (cell[d] + at[d]) * h[d];
    points.emplace_back(std::atan2(at[1] - middle[1], at[0] - middle[0]), at);
  });
  std::sort(points.begin(), points.end());
  double length = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const Vec<2>& from = points[i].second;
    const Vec<2>& to = points[(i + 1) % points.size()].second;
    length += std::hypot(to[0] - from[0], to[1] - from[1]);
  }
  return length;
}

/// A polynomial of sixth degree through the points of a curve within `reach` of `near`, by least squares.
class Smooth {
 public:
  Smooth(const Curve2D& curve, double near, double reach) : near_(near), reach_(reach) {
    using Powers = Eigen::Matrix<double, 7, 1>;
    Eigen::Matrix<double, 7, 7> A = Eigen::Matrix<double, 7, 7>::Zero();
    Powers right = Powers::Zero();
    for (std::size_t i = 0; i < curve.x.size(); ++i) {
      const double x = (curve.x[i] - near) / reach;
      if (std::abs(x) > 1) continue;
      Powers powers;
      for (int k = 0; k < 7; ++k) powers[k] = std::pow(x, k);
      A += powers * powers.transpose();
      right += powers * curve.y[i];
    }
    const Powers c = A.ldlt().solve(right);
    for (std::size_t k = 0; k < 7; ++k) c_[k] = c[static_cast<int>(k)];
  }
  /// Its greatest slope and where that is, in the middle half.
  [[nodiscard]] std::pair<double, double> greatest_slope() const {
    return greatest([this](double x) {
      double slope = 0;
      for (std::size_t k = 1; k < 7; ++k)
        slope += static_cast<double>(k) * c_[k] * std::pow(x, static_cast<double>(k) - 1) / reach_;
      return slope;
    });
  }
  /// Its least value and where that is, in the middle half.
  [[nodiscard]] std::pair<double, double> least() const {
    const auto [value, place] = greatest([this](double x) {
      double sum = 0;
      for (std::size_t k = 0; k < 7; ++k) sum -= c_[k] * std::pow(x, static_cast<double>(k));
      return sum;
    });
    return {-value, place};
  }

 private:
  template <class Fn>
  [[nodiscard]] std::pair<double, double> greatest(Fn&& fn) const {
    std::pair<double, double> best{-1e300, near_};
    for (int i = -500; i <= 500; ++i) {
      const double x = i / 1000.0;
      if (const double value = fn(x); value > best.first) best = {value, near_ + reach_ * x};
    }
    return best;
  }

  double near_;
  double reach_;
  std::array<double, 7> c_{};
};

ValidationResult rising_bubble(bool quick) {
  // Case 1: rho 1000/100, mu 10/1, g 0.98, sigma 24.5. The rise speed is that of the bubble's centre.
  ValidationResult result;
  result.x_title = "time [s]";
  result.chart = {{"rise speed [m/s]", {}}, {"height of the centre [m]", {}}, {"circularity", {}}};
  result.chart[0].curves.push_back({"published", {0.921}, {0.2417}, true});
  result.chart[1].curves.push_back({"published", {3}, {1.0813}, true});
  result.chart[2].curves.push_back({"published", {1.90}, {0.9012}, true});
  for (const int n : quick ? std::vector<int>{80} : std::vector<int>{80, 160}) {
    const Grid<2> grid = box(1, 2, n);
    auto settings = fluids({1000, 10}, {100, 1}, Wall::slip, {0, -0.98});
    settings.walls[1] = {Wall::no_slip, Wall::no_slip};
    settings.surface_tension = 24.5;
    sharp::Model<2> model(grid, settings);
    cover<2>(grid, model.state().F, Ball<2>{{0.5, 0.5}, 0.25});
    for (double& share : model.state().F.data()) share = 1 - share;  // F counts the liquid
    model.start();
    Curve2D speed{fmt::format("{} cells across", n), {}, {}};
    Curve2D centre = speed;
    Curve2D roundness = speed;
    double last_time = 0;
    while (model.state().time < 3) {
      sharp::StepLimit limit{};
      const double dt = std::min(model.stable_step(limit), 3 - model.state().time);
      model.step(dt);
      double volume = 0;
      double height = 0;
      double rise = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
        const double gas = 1 - model.state().F.block(b)[o];
        volume += gas;
        height += gas * (cell[1] + 0.5) * grid.spacing()[1];
        rise += gas * model.state().u[1].block(b)[o];
      });
      const double t = model.state().time;
      centre.x.push_back(t - 0.5 * dt);  // F stands half a step before the velocity
      centre.y.push_back(height / volume);
      if (t - last_time >= 0.01) {
        speed.x.push_back(t);
        speed.y.push_back(rise / volume);
        roundness.x.push_back(t - 0.5 * dt);
        roundness.y.push_back(2 * std::sqrt(M_PI * volume * grid.cell_volume()) /
                              interface_length(model, {0.5, height / volume}));
        last_time = t;
      }
    }
    const double bar = n >= 160 ? 1.5e-3 : 5e-3;
    const auto [best, best_time] = Smooth(centre, 0.92, 0.4).greatest_slope();
    const auto [flattest, flattest_time] = Smooth(roundness, 1.9, 0.5).least();
    result.findings.push_back(close(fmt::format("greatest rise speed at {} cells [m/s]", n), best, 0.2417, bar));
    result.findings.push_back(close(fmt::format("its time at {} cells [s]", n), best_time, 0.921, bar));
    result.findings.push_back(close(fmt::format("centre at t = 3 s, {} cells [m]", n), centre.y.back(), 1.0813, bar));
    result.findings.push_back(close(fmt::format("least circularity at {} cells", n), flattest, 0.9012, bar));
    result.findings.push_back(close(fmt::format("its time at {} cells [s]", n), flattest_time, 1.90, bar));
    result.chart[0].curves.push_back(speed);
    result.chart[1].curves.push_back(centre);
    result.chart[2].curves.push_back(roundness);
  }
  return result;
}

/// Steady flow between plates at y = 0 and 1 driven by a pressure gradient of -1 Pa/m, along a periodic axis, by the
/// viscous part of the model alone: everything else is at rest. Returns the velocities from y = 0 up.
std::vector<double> channel(int cells, const Properties& lower, const Properties& upper, double level, double time) {
  const Grid<2> grid({0, 0}, {4.0 / cells, 1}, partition<2>({4.0 / cells, 1}, 1.0 / cells), {true, false});
  auto settings = fluids(lower, upper, Wall::no_slip, {0, 0});
  sharp::State<2> state(grid);
  sharp::Viscosity<2> diffuse(grid);
  fill_below(grid, state.F, [level](double) { return level; });
  fill_halo(grid, state.F, 2, all_walls<2>(Mirror::even));
  Cells<2> mass(grid);
  sharp::find_masses(grid, all_open<2>(), settings, state.F, mass);
  const int steps = 400;
  for (int i = 0; i < steps; ++i) {
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      state.u[0].block(b)[o] += time / steps / sharp::density(settings, state.F.block(b)[o]);
    });
    diffuse(grid, settings, state.F, mass, state, time / steps);
  }
  std::vector<double> u(static_cast<std::size_t>(grid.cells()[1]));
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    if (cell[0] == 0) u[static_cast<std::size_t>(cell[1])] = state.u[0].block(b)[o];
  });
  return u;
}

struct ProfileError {
  double greatest = 0;  ///< relative to the greatest speed
  Curve2D found, exact;
};

template <class Exact>
ProfileError compare(const std::vector<double>& u, Exact&& exact) {
  ProfileError result;
  double scale = 0;
  const auto n = static_cast<double>(u.size());
  for (std::size_t i = 0; i < u.size(); ++i) {
    const double y = (static_cast<double>(i) + 0.5) / n;
    result.found.x.push_back(y);
    result.found.y.push_back(u[i]);
    result.exact.x.push_back(y);
    result.exact.y.push_back(exact(y));
    scale = std::max(scale, exact(y));
    result.greatest = std::max(result.greatest, std::abs(u[i] - exact(y)));
  }
  result.greatest /= scale;
  return result;
}

ValidationResult two_layers(bool) {
  // Viscosity 1 below y = a, 1/20 above: u = -y^2/(2 mu) + c y/mu + d in each layer, same stress c - y and speed at a.
  ValidationResult result;
  result.x_title = "height / gap";
  result.chart = {{"speed [m/s]", {}}};
  const double mu1 = 1;
  const double mu2 = 0.05;
  for (const double a : {0.5, 0.55}) {  // on a face between cells; across the middle of one (cells of 1/16, 1/32 ...)
    const double c = (a * a / (2 * mu1) + (1 - a * a) / (2 * mu2)) / (a / mu1 + (1 - a) / mu2);
    const auto exact = [&](double y) {
      return y < a ? (c * y - y * y / 2) / mu1 : (c * (y - 1) - (y * y - 1) / 2) / mu2;
    };
    std::array<double, 3> errors{};
    for (std::size_t level = 0; level < 3; ++level) {
      const int n = 16 << level;
      auto error = compare(channel(n, {1, mu1}, {1, mu2}, a, 40), exact);
      errors[level] = error.greatest;
      if (level == 1 && a == 0.5) {
        error.found.name = "32 cells";
        error.exact.name = "exact";
        result.chart.front().curves = {error.found, error.exact};
      }
    }
    result.findings.push_back(
        at_least(fmt::format("order, interface at {}, 16 to 64 cells (errors {:.2g}, {:.2g}, {:.2g})", a, errors[0],
                             errors[1], errors[2]),
                 0.5 * std::log2(errors[0] / errors[2]), 1.9));
  }
  return result;
}

ValidationResult thinning_channel(bool) {
  // A power law with n = 1/2 and one with a yield stress, between plates: tau = 1/2 - y.
  ValidationResult result;
  result.x_title = "height / gap";
  result.chart = {{"speed [m/s]", {}}};
  const auto run = [&](const std::string& name, const Rheology& rheology, auto&& exact, double bar) {
    const Properties fluid{1, 1, rheology};
    auto error = compare(channel(64, fluid, fluid, 0.5, 10), exact);
    error.found.name = name;
    error.exact.name = name + ", exact";
    error.exact.points = true;
    result.findings.push_back(small(name + ", 64 cells: greatest error / greatest speed", error.greatest, bar));
    result.chart.front().curves.push_back(error.found);
    result.chart.front().curves.push_back(error.exact);
  };
  // Bird, Stewart & Lightfoot, Transport Phenomena, ch. 8: u = n/(n+1) ((1/2)^(1/n+1) - |y-1/2|^(1/n+1)) / K^(1/n).
  const double n = 0.5;
  const double K = 0.2;
  run(
      "power law, n = 0.5", Rheology::power_law(K, 1, n, 1e-4, 1e4),
      [&](double y) {
        const double e = 1 / n + 1;
        return (std::pow(0.5, e) - std::pow(std::abs(y - 0.5), e)) / e / std::pow(K, 1 / n);
      },
      5e-3);
  const double yield = 0.2;
  const double mu = 0.1;
  run(
      "yield stress", Rheology::herschel_bulkley(yield, mu, 1, 1, 1000 * mu),
      [&](double y) {
        const double far = std::max(std::abs(y - 0.5), yield);  // a plug where the stress stays below the yield stress
        return ((0.25 - far * far) / 2 - yield * (0.5 - far)) / mu;
      },
      1e-2);
  return result;
}

/// A drop on a wall, without gravity, let go as a half circle.
struct Sessile {
  double height = 0;  ///< in the middle, over that of the arc of the same area
  double radius = 0;  ///< where it meets the wall, over that of the arc
  Curve2D outline;
};

Sessile sessile_drop(double degrees, int cells) {
  // `cells` of the grid across the radius of the arc that is to come.
  const double theta = degrees * M_PI / 180;
  const double R = radius_of_arc(theta);
  const double half = 1.5 * std::max(R * std::sin(theta), 0.3);
  const double high = 1.5 * std::max(R * (1 - std::cos(theta)), 0.3);
  const Grid<2> grid({-half, 0}, {half, high}, partition<2>({2 * half, high}, R / cells));
  sharp::Model<2> model(grid, fluids_of_drop(R, theta));
  cover<2>(grid, model.state().F, Ball<2>{{0, 0}, 0.25});
  settle(model, R);
  Sessile result;
  std::vector<double> row(static_cast<std::size_t>(grid.cells()[1]));
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double F = model.state().F.block(b)[o];
    if (cell[0] == grid.cells()[0] / 2) result.height += F * grid.spacing()[1] / (R * (1 - std::cos(theta)));
    row[static_cast<std::size_t>(cell[1])] += 0.5 * F * grid.spacing()[0];
  });
  // The mean of the lowest row, taken on to the wall along the arc.
  const double h = grid.spacing()[1];
  result.radius =
      (row[0] + 0.5 * h / std::tan(theta) + h * h / (6 * R * std::pow(std::sin(theta), 3))) / (R * std::sin(theta));
  for (std::size_t j = 0; j < row.size(); ++j) {
    if (row[j] <= 0) continue;
    result.outline.x.push_back(row[j] / R);
    result.outline.y.push_back((static_cast<double>(j) + 0.5) * grid.spacing()[1] / R);
  }
  return result;
}

ValidationResult sessile_drops(bool quick) {
  ValidationResult result;
  result.x_title = "distance from the middle / radius of the arc";
  result.chart = {{"height / radius of the arc", {}}};
  for (const double degrees : quick ? std::vector{60.0} : std::vector{30.0, 60.0, 120.0, 150.0}) {
    auto drop = sessile_drop(degrees, 20);
    drop.outline.name = fmt::format("{:g} degrees", degrees);
    result.findings.push_back(
        close(fmt::format("radius at the wall / that of the arc of the same area, {:g} degrees", degrees), drop.radius,
              1, 0.02));
    result.findings.push_back(
        close(fmt::format("height / that of the arc, {:g} degrees", degrees), drop.height, 1, 0.02));
    result.chart.front().curves.push_back(drop.outline);
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> bubble_cases() {
  return {{"rising_bubble", "a bubble rises in a column, case 1",
           "Hysing et al., Int. J. Numer. Meth. Fluids 60 (2009) 1259", true, rising_bubble},
          {"two_layers", "two layers flow between plates, viscosity ratio 20", "exact profile", true, two_layers},
          {"sessile_drop", "a drop on a wall takes its contact angle, no gravity", "arc of the same area", true,
           sessile_drops},
          {"thinning_channel", "fluids that thin with shear flow between plates",
           "Bird, Stewart & Lightfoot, Transport Phenomena (2002), ch. 8", true, thinning_channel}};
}

}  // namespace wavy
