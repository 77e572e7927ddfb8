// Bubbles and drops that move.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;

ValidationResult rising_bubble(bool quick) {
  // Case 1: rho 1000/100, mu 10/1, g 0.98, sigma 24.5; the least circularity is left out: it needs the perimeter.
  ValidationResult result;
  result.x_title = "time [s]";
  result.chart = {{"rise speed [m/s]", {}}, {"height of the centre [m]", {}}};
  result.chart[0].curves.push_back({"published", {0.921}, {0.2417}, true});
  result.chart[1].curves.push_back({"published", {3}, {1.0813}, true});
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
    double best = 0;
    double best_time = 0;
    while (model.state().time < 3) {
      sharp::StepLimit limit{};
      model.step(std::min(model.stable_step(limit), 3 - model.state().time));
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
      speed.x.push_back(t);
      speed.y.push_back(rise / volume);
      centre.x.push_back(t);
      centre.y.push_back(height / volume);
      if (rise / volume > best) {
        best = rise / volume;
        best_time = t;
      }
    }
    const double bar = n >= 160 ? 1.5e-3 : 5e-3;
    result.findings.push_back(close(fmt::format("greatest rise speed at {} cells [m/s]", n), best, 0.2417, bar));
    result.findings.push_back(close(fmt::format("its time at {} cells [s]", n), best_time, 0.921, bar));
    result.findings.push_back(close(fmt::format("centre at t = 3 s, {} cells [m]", n), centre.y.back(), 1.0813, bar));
    result.chart[0].curves.push_back(speed);
    result.chart[1].curves.push_back(centre);
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> bubble_cases() {
  return {{"rising_bubble", "a bubble rises in a column, case 1",
           "Hysing et al., Int. J. Numer. Meth. Fluids 60 (2009) 1259", true, rising_bubble}};
}

}  // namespace wavy
