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

/// Greatest slope of y(x) and where it is, from a polynomial of sixth degree through the points within `reach` of
/// `near`.
std::pair<double, double> greatest_slope(const Curve2D& curve, double near, double reach) {
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
  std::pair<double, double> best{0, near};
  for (int i = -500; i <= 500; ++i) {
    const double x = i / 1000.0;
    double slope = 0;
    for (int k = 1; k < 7; ++k) slope += k * c[k] * std::pow(x, k - 1) / reach;
    if (slope > best.first) best = {slope, near + reach * x};
  }
  return best;
}

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
    auto settings = fluids({1000, 10}, {100, 1}, sharp::Wall::slip, {0, -0.98});
    settings.walls[1] = {sharp::Wall::no_slip, sharp::Wall::no_slip};
    settings.surface_tension = 24.5;
    sharp::Model<2> model(grid, settings);
    fill_shape<2>(grid, model.state().F, Ball<2>{{0.5, 0.5}, 0.25}, true);
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
    const auto [best, best_time] = greatest_slope(centre, 0.92, 0.4);
    const auto flattest = std::min_element(roundness.y.begin(), roundness.y.end()) - roundness.y.begin();
    result.findings.push_back(close(fmt::format("greatest rise speed at {} cells [m/s]", n), best, 0.2417, bar));
    result.findings.push_back(close(fmt::format("its time at {} cells [s]", n), best_time, 0.921, bar));
    result.findings.push_back(close(fmt::format("centre at t = 3 s, {} cells [m]", n), centre.y.back(), 1.0813, bar));
    result.findings.push_back(close(fmt::format("least circularity at {} cells", n),
                                    roundness.y[static_cast<std::size_t>(flattest)], 0.9012, bar));
    result.findings.push_back(
        close(fmt::format("its time at {} cells [s]", n), roundness.x[static_cast<std::size_t>(flattest)], 1.90, bar));
    result.chart[0].curves.push_back(speed);
    result.chart[1].curves.push_back(centre);
    result.chart[2].curves.push_back(roundness);
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> bubble_cases() {
  return {{"rising_bubble", "a bubble rises in a column, case 1",
           "Hysing et al., Int. J. Numer. Meth. Fluids 60 (2009) 1259", true, rising_bubble}};
}

}  // namespace wavy
