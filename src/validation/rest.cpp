// Liquids and drops at rest.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;
constexpr double g = 9.81;

ValidationResult rest_in_a_box(bool) {
  ValidationResult result;
  for (const double degrees : {0.0, 27.0}) {
    const double tilt = degrees * M_PI / 180;
    const Vec<2> up{std::sin(tilt), std::cos(tilt)};
    const Grid<2> grid = box(1, 1, 32);
    sharp::Model<2> model(grid, fluids({1000, 1e-3}, {1.2, 1.8e-5}, sharp::Wall::no_slip, {-g * up[0], -g * up[1]}));
    fill_below(grid, model.state().F, [&](double x) { return (0.611 - up[0] * x) / up[1]; });
    const Cells<2> start = model.state().F;
    model.start();
    for (int i = 0; i < 1000; ++i) {
      sharp::StepLimit limit{};
      model.step(model.stable_step(limit));
    }
    double moved = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      moved = std::max(moved, std::abs(model.state().F.block(b)[o] - start.block(b)[o]) * grid.spacing()[1]);
    });
    result.findings.push_back(small(fmt::format("speed / sqrt(g H), tilt {:.0f} degrees, 1000 steps", degrees),
                                    model.greatest_speed() / std::sqrt(g), 1e-9));
    result.findings.push_back(small(fmt::format("level / H, tilt {:.0f} degrees", degrees), moved, 1e-6));
  }
  return result;
}

ValidationResult static_drop(bool) {
  // Laplace number 12000, radius 16 cells, one viscous time rho (2R)^2 / mu (Popinet 2009, sec. 5.3).
  const int n = 64;
  const double radius = 0.25;
  const double mu = std::sqrt(2 * radius / 12000);
  const Grid<2> grid = box(1, 1, n);
  auto settings = fluids({1, mu}, {1, mu}, sharp::Wall::slip, {0, 0});
  settings.surface_tension = 1;
  settings.projection_tolerance = 1e-12;
  sharp::Model<2> model(grid, settings);
  fill_shape<2>(grid, model.state().F, Ball<2>{{0.5, 0.5}, radius});
  model.start();
  const double viscous_time = 4 * radius * radius / mu;
  Curve2D flow{"capillary number of the spurious flow", {}, {}};
  long steps = 0;
  while (model.state().time < viscous_time) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
    if (++steps % 200 == 0) {
      flow.x.push_back(model.state().time / viscous_time);
      flow.y.push_back(std::log10(std::max(1e-18, model.greatest_speed() * mu)));
    }
  }
  double inside = 0;
  double outside = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
    if (c == Index<2>{n / 2, n / 2}) inside = model.state().p.block(b)[o];
    if (c == Index<2>{0, 0}) outside = model.state().p.block(b)[o];
  });
  ValidationResult result;
  result.findings.push_back(
      small("capillary number after one viscous time, 2-D, density ratio 1", model.greatest_speed() * mu, 1e-10));
  result.findings.push_back(close("pressure jump, radius 16 cells [Pa]", inside - outside, 1 / radius, 1e-3));
  result.x_title = "time / viscous time";
  result.chart = {{"log10 of capillary number", {flow}}};
  return result;
}

}  // namespace

std::vector<ValidationCase> rest_cases() {
  return {{"rest_in_a_box", "a liquid at rest stays at rest, level and tilted by 27 degrees", "hydrostatics", true,
           rest_in_a_box},
          {"static_drop", "a drop held by surface tension finds its shape and stays",
           "Popinet, J. Comput. Phys. 228 (2009) 5838", false, static_drop}};
}

}  // namespace wavy
