// Flow round an axis of revolution; and Taylor bubbles in tubes and between plates.
#include <fmt/format.h>

#include "validation/flows.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

using namespace validation;

OpenSpace<2> round_space(const Grid<2>& grid) { return {grid, nullptr, {}, {}, true}; }

/// Mean speed 1 through a tube of radius 1 (or half a gap between plates), 16 cells across it: the profile three radii
/// from the inlet, and the fall of the pressure from two to three.
ValidationResult tube_flow(bool) {
  ValidationResult result;
  result.x_title = "distance from the middle";
  result.chart = {{"speed [m/s]", {}}};
  constexpr int cells = 16;
  for (const bool round : {true, false})
    for (const double mu : {0.5, 20.0}) {
      const Grid<2> grid = grid_over<2>({0, 0}, {1, 4}, 1.0 / cells);
      auto settings = fluids({1, mu}, {1, mu}, Wall::no_slip, {0, 0});
      settings.walls[0][0] = Wall::mirror;
      settings.outside_density = 1;
      Opening<2> in;
      in.name = "in";
      in.axis = 1;
      in.flow = [round](double) { return round ? 0.5 : 1.0; };
      Opening<2> out = in;
      out.name = "out";
      out.side = 1;
      out.flow = nullptr;
      out.pressure = [](double) { return 0.0; };
      sharp::Model<2> model(grid, settings, round ? round_space(grid) : OpenSpace<2>(), {in, out});
      model.start();
      run_until(model, 4);
      const CellMap<2> map(grid);
      const std::string name = fmt::format("{}, Reynolds number {:g}", round ? "tube" : "plates", 2 / mu);
      Curve2D found{name, {}, {}};
      Curve2D exact{name + ", exact", {}, {}};
      exact.points = true;
      double worst = 0;
      for (int i = 0; i < cells; ++i) {
        const CellPlace place = map({i, 3 * cells});
        const double r = (i + 0.5) / cells;
        found.x.push_back(r);
        exact.x.push_back(r);
        found.y.push_back(model.state().u[1].block(place.block)[place.at]);
        exact.y.push_back((round ? 2 : 1.5) * (1 - r * r));
        worst = std::max(worst, std::abs(found.y.back() - exact.y.back()) / (round ? 2 : 1.5));
      }
      result.findings.push_back(small(name + ": greatest error / greatest speed", worst, 0.02));
      const auto pressure = [&](int row) {
        const CellPlace place = map({0, row});
        return model.state().p.block(place.block)[place.at];
      };
      result.findings.push_back(close(name + ": fall of the pressure [Pa/m]", pressure(2 * cells) - pressure(3 * cells),
                                      (round ? 8 : 3) * mu, 0.01));
      result.chart.front().curves.push_back(found);
      result.chart.front().curves.push_back(exact);
    }
  return result;
}

/// A drop of radius 1, deformed by 2 % in its second mode, in a gas without weight: period and damping by Lamb,
/// Hydrodynamics (1932), sec. 275 and 355.
ValidationResult oscillating_drop(bool quick) {
  ValidationResult result;
  result.x_title = "time / period";
  result.chart = {{"second moment, as a share of that at the start", {}}};
  constexpr double nu = 0.01;
  constexpr double gas = 1e-3;
  const double period = 2 * M_PI / std::sqrt(24 / (3 + 2 * gas));
  for (const int cells : quick ? std::vector<int>{16} : std::vector<int>{16, 32}) {
    const Grid<2> grid = grid_over<2>({0, 0}, {2, 2}, 1.0 / cells);
    auto settings = fluids({1, nu}, {gas, gas * nu}, Wall::slip, {0, 0});
    settings.surface_tension = 1;
    settings.walls[0][0] = settings.walls[1][0] = Wall::mirror;
    sharp::Model<2> model(grid, settings, round_space(grid));
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      constexpr int samples = 32;
      double all = 0;
      double liquid = 0;
      for (int n = 0; n < samples * samples; ++n) {
        const int column = n % samples;
        const int row = n / samples;
        const double r = (cell[0] + (column + 0.5) / samples) * grid.spacing()[0];
        const double z = (cell[1] + (row + 0.5) / samples) * grid.spacing()[1];
        const double cosine = z / std::hypot(r, z);
        all += r;
        if (std::hypot(r, z) < 1 + 0.02 * (1.5 * cosine * cosine - 0.5)) liquid += r;
      }
      model.state().F.block(b)[o] = liquid / all;
    });
    const auto moment = [&] {
      double sum = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
        const double r = (cell[0] + 0.5) * grid.spacing()[0];
        const double z = (cell[1] + 0.5) * grid.spacing()[1];
        sum += model.space().volume().block(b)[o] * model.state().F.block(b)[o] * (z * z - 0.5 * r * r);
      });
      return sum;
    };
    model.start();
    const double before = model.liquid_volume();
    const double start = moment();
    SwingThroughZero swing(start);
    Curve2D curve{fmt::format("{} cells per radius", cells), {}, {}};
    while (model.state().time < 2.6 * period) {
      sharp::StepLimit limit{};
      model.step(model.stable_step(limit));
      const double now = moment();
      swing.add(model.state().time, now);
      curve.x.push_back(model.state().time / period);
      curve.y.push_back(now / start);
    }
    result.findings.push_back(close(fmt::format("period, {} cells per radius [s]", cells), swing.period(), period,
                                    cells == 16 ? 0.01 : 0.003));
    if (cells == 32)
      result.findings.push_back(close("damping, 32 cells per radius [1/s]", swing.damping(), 5 * nu, 0.2));
    result.findings.push_back(small("volume drift", model.liquid_volume() / before - 1, 1e-12));
    result.chart.front().curves.push_back(curve);
  }
  return result;
}

/// A long bubble under a liquid at rest, in a closed tube (or half a gap) of width 1 with walls that slip, g = 1: the
/// mean speed of its nose when it has found its shape.
Curve2D taylor_bubble(bool round, int cells, double viscosity, double until) {
  constexpr double height = 5;
  constexpr double tension = 0.01;  // Eotvos number 100
  const Grid<2> grid = grid_over<2>({0, 0}, {0.5, height}, 0.5 / cells);
  auto settings = fluids({1, viscosity}, {1e-3, 1e-2 * viscosity}, Wall::slip, {0, -1});
  settings.surface_tension = tension;
  settings.walls[0][0] = Wall::mirror;
  sharp::Model<2> model(grid, settings, round ? round_space(grid) : OpenSpace<2>());
  const double radius = round ? 0.38 : 0.3;
  Cells<2> nose(grid);
  auto& F = model.state().F;
  cover<2>(grid, F, AlignedBox<2>{{-1, 0.3}, {radius, 2.3}}, model.space());
  cover<2>(grid, nose, Ball<2>{{0, 2.3}, radius}, model.space());
  for (std::size_t i = 0; i < F.data().size(); ++i) F.data()[i] = 1 - std::max(F.data()[i], nose.data()[i]);
  model.start();
  Curve2D curve{round ? "tube" : "plates", {}, {}};
  while (model.state().time < until) {
    run_until(model, model.state().time + 0.02);
    // Height of the nose on the axis: the gas of the first column counts down to where the bubble's body is whole.
    double gas = 0;
    double whole = 0;
    std::vector<double> column(static_cast<std::size_t>(grid.cells()[1]));
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      if (cell[0] == 0) column[static_cast<std::size_t>(cell[1])] = F.block(b)[o];
    });
    for (std::size_t j = column.size(); j-- > 0;) {
      gas += (1 - column[j]) * grid.spacing()[1];
      whole = static_cast<double>(j) * grid.spacing()[1];
      if (column[j] < 1e-6) break;
    }
    curve.x.push_back(model.state().time);
    curve.y.push_back(whole + gas);
  }
  return curve;
}

/// Slope of the straight line through the later part of a curve.
double slope_after(const Curve2D& curve, double from) {
  double n = 0;
  double x = 0;
  double y = 0;
  double xx = 0;
  double xy = 0;
  for (std::size_t i = 0; i < curve.x.size(); ++i) {
    if (curve.x[i] < from) continue;
    n += 1;
    x += curve.x[i];
    y += curve.y[i];
    xx += curve.x[i] * curve.x[i];
    xy += curve.x[i] * curve.y[i];
  }
  return (n * xy - x * y) / (n * xx - x * x);
}

ValidationResult taylor_bubbles(bool) {
  ValidationResult result;
  result.x_title = "time sqrt(g / D)";
  result.chart = {{"height of the nose / D", {}}};
  const auto tube = taylor_bubble(true, 24, 1e-3, 3.5);
  result.findings.push_back(
      close("tube: speed / sqrt(g D), 24 cells per radius", slope_after(tube, 1.25), 0.345, 0.04));
  const auto plates = taylor_bubble(false, 40, 2e-3, 4);
  result.findings.push_back(
      close("plates: speed / sqrt(g D), 40 cells per half gap", slope_after(plates, 1.5), 0.23, 0.04));
  result.chart.front().curves = {tube, plates};
  return result;
}

}  // namespace

std::vector<ValidationCase> axisymmetric_cases() {
  return {
      {"tube_flow", "a viscous fluid flows through a tube and between plates", "Hagen and Poiseuille", true, tube_flow},
      {"oscillating_drop", "a drop swings in its second mode", "Lamb, Hydrodynamics (1932)", true, oscillating_drop},
      {"taylor_bubbles", "long bubbles rise in a tube and between plates, symmetric",
       "Davies & Taylor, Proc. R. Soc. A 200 (1950) 375; Garabedian, Proc. R. Soc. A 241 (1957) 423", false,
       taylor_bubbles}};
}

}  // namespace wavy
