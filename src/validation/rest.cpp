// Liquids and drops at rest.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;
ValidationResult rest_in_a_box(bool) {
  ValidationResult result;
  for (const double degrees : {0.0, 27.0}) {
    const double tilt = degrees * M_PI / 180;
    const Vec<2> up{std::sin(tilt), std::cos(tilt)};
    const Grid<2> grid = box(1, 1, 32);
    sharp::Model<2> model(grid, fluids({1000, 1e-3}, {1.2, 1.8e-5}, Wall::no_slip, {-g * up[0], -g * up[1]}));
    fill_below(grid, model.state().F, [&](double x) { return (0.611 - up[0] * x) / up[1]; });
    stay_at_rest(model, fmt::format("tilt {:.0f} degrees", degrees), result);
  }
  return result;
}

struct DropAtRest {
  double capillary_number = 0;
  double jump = 0;  ///< of the pressure, over sigma kappa
  Curve2D flow;
};

/// A quarter (an eighth) of a drop of radius 1/4 in a box of 1/2 between planes of symmetry, Laplace number 12000, for
/// a share of the viscous time rho (2R)^2 / mu (Popinet 2009, sec. 5.3). The gas has the same kinematic viscosity.
/// `round` (2-D): turned round the axis x = 0.
template <int D>
DropAtRest drop_at_rest(int cells_per_radius, double density_ratio, double share_of_time, bool round = false) {
  const double radius = 0.25;
  const double mu = std::sqrt(2 * radius / 12000);
  Vec<D> upper;
  upper.fill(0.5);
  const Grid<D> grid(Vec<D>{}, upper, partition<D>(upper, radius / cells_per_radius));
  sharp::Settings<D> settings;
  settings.liquid = {1, mu};
  settings.gas = {1 / density_ratio, mu / density_ratio};
  settings.surface_tension = 1;
  settings.projection_tolerance = 1e-12;
  for (auto& axis : settings.walls) axis = {Wall::slip, Wall::slip};
  settings.body_force = [](double) { return Vec<D>{}; };
  if (round) settings.walls[0][0] = Wall::mirror;
  sharp::Model<D> model(grid, settings, round ? OpenSpace<D>(grid, nullptr, {}, {}, true) : OpenSpace<D>());
  cover<D>(grid, model.state().F, Ball<D>{Vec<D>{}, radius}, model.space());
  model.start();
  const double viscous_time = 4 * radius * radius / mu;
  DropAtRest result;
  long steps = 0;
  while (model.state().time < share_of_time * viscous_time) {
    sharp::StepLimit limit{};
    model.step(model.stable_step(limit));
    if (++steps % 100 == 0) {
      result.flow.x.push_back(model.state().time / viscous_time);
      result.flow.y.push_back(std::log10(std::max(1e-18, model.greatest_speed() * mu)));
    }
  }
  result.capillary_number = model.greatest_speed() * mu;
  Index<D> last = grid.cells();
  for (int& i : last) --i;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& c) {
    if (c == Index<D>{}) result.jump += model.state().p.block(b)[o];
    if (c == last) result.jump -= model.state().p.block(b)[o];
  });
  result.jump *= radius / (round ? 2 : D - 1);
  return result;
}

ValidationResult static_drop_2d(bool round) {
  ValidationResult result;
  result.x_title = "time / viscous time";
  result.chart = {{"log10 of capillary number", {}}};
  for (const double ratio : {1.0, 1000.0}) {
    auto drop = drop_at_rest<2>(16, ratio, 1, round);
    result.findings.push_back(small(fmt::format("capillary number after one viscous time, density ratio {:g}", ratio),
                                    drop.capillary_number, 1e-10));
    result.findings.push_back(
        close(fmt::format("pressure jump / ({}sigma/R), 16 cells per radius, ratio {:g}", round ? "2 " : "", ratio),
              drop.jump, 1, 1e-3));
    drop.flow.name = fmt::format("density ratio {:g}", ratio);
    result.chart.front().curves.push_back(drop.flow);
  }
  return result;
}

ValidationResult static_drop(bool) { return static_drop_2d(false); }
ValidationResult static_drop_round(bool) { return static_drop_2d(true); }

ValidationResult static_drop_3d(bool) {
  ValidationResult result;
  result.x_title = "time / viscous time";
  result.chart = {{"log10 of capillary number", {}}};
  for (const double ratio : {1.0, 1000.0}) {
    auto drop = drop_at_rest<3>(8, ratio, 1);
    result.findings.push_back(
        small(fmt::format("capillary number after one viscous time, 8 cells per radius, density ratio {:g}", ratio),
              drop.capillary_number, 1e-10));
    drop.flow.name = fmt::format("density ratio {:g}", ratio);
    result.chart.front().curves.push_back(drop.flow);
  }
  const auto fine = drop_at_rest<3>(16, 1, 0.03);
  result.findings.push_back(close("pressure jump / (2 sigma/R), 16 cells per radius", fine.jump, 1, 1e-3));
  return result;
}

}  // namespace

std::vector<ValidationCase> rest_cases() {
  return {{"rest_in_a_box", "a liquid at rest stays at rest, level and tilted by 27 degrees", "hydrostatics", true,
           rest_in_a_box},
          {"static_drop", "a drop held by surface tension finds its shape and stays",
           "Popinet, J. Comput. Phys. 228 (2009) 5838", false, static_drop},
          {"static_drop_3d", "the same in three dimensions", "Popinet, J. Comput. Phys. 228 (2009) 5838", false,
           static_drop_3d},
          {"static_drop_round", "the same turned round an axis", "Popinet, J. Comput. Phys. 228 (2009) 5838", false,
           static_drop_round}};
}

}  // namespace wavy
