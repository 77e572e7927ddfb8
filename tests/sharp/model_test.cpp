#include "sharp/model.hpp"

#include <doctest/doctest.h>
#include <omp.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "geometry/shapes.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

constexpr double g = 9.81;

template <int D>
Settings<D> settings(double nu_liquid, Wall wall, std::function<Vec<D>(double)> G) {
  Settings<D> s;
  s.liquid = {1000, 1000 * nu_liquid};
  s.gas = {1.2, nu_liquid > 0 ? 1.8e-5 : 0.0};
  for (auto& axis : s.walls) axis = {wall, wall};
  s.body_force = std::move(G);
  return s;
}

/// Fills below  normal . x = offset  exactly.
template <int D>
void fill_below(const Grid<D>& grid, Cells<D>& F, const Vec<D>& normal, double offset) {
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    Plane<D> plane;
    double size = 0;
    double at_corner = 0;
    for (int d = 0; d < D; ++d) {
      plane.normal[d] = normal[d] * grid.spacing()[d];
      size += std::abs(plane.normal[d]);
      at_corner += normal[d] * (grid.lower()[d] + cell[d] * grid.spacing()[d]);
    }
    for (double& c : plane.normal) c /= size;
    plane.offset = (offset - at_corner) / size;
    F.block(b)[o] = slab_share<D>(plane, 0, 0, 1);
  });
}

/// Amplitude of the first standing wave along x: 2/L times the integral of the liquid's height times cos(pi x / L).
template <int D>
double first_mode(const Model<D>& model) {
  const Grid<D>& grid = model.grid();
  const double length = grid.upper()[0] - grid.lower()[0];
  double sum = 0;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    sum += model.state().F.block(b)[o] * std::cos(M_PI * (cell[0] + 0.5) * grid.spacing()[0] / length);
  });
  double area = 1;
  for (int d = 0; d < D - 1; ++d) area *= grid.upper()[d];
  return 2 * sum * grid.cell_volume() / area;
}

/// Mean period between zero crossings of the first mode from `from` to `until`.
template <int D>
double period(Model<D>& model, double from, double until) {
  std::vector<double> crossings;
  double last = first_mode(model);
  double last_time = 0;
  while (model.state().time < until) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
    const double now = first_mode(model);
    const double t = model.state().time;
    if (last_time > from && last * now < 0) crossings.push_back(last_time + (t - last_time) * last / (last - now));
    last = now;
    last_time = t;
  }
  REQUIRE(crossings.size() >= 4);
  return 2 * (crossings.back() - crossings.front()) / (static_cast<double>(crossings.size()) - 1);
}

double slosh_period(double length, double depth) {
  const double k = M_PI / length;
  return 2 * M_PI / std::sqrt(g * k * std::tanh(k * depth));
}

}  // namespace

TEST_CASE("after gentle braking the liquid sloshes with the first natural period, and keeps its volume") {
  const Grid<2> grid({0, 0}, {1.2, 0.8}, partition<2>({1.2, 0.8}, 1.2 / 96));
  Model<2> model(grid, settings<2>(1e-6, Wall::slip, [](double t) {
                   return Vec<2>{t > 0.2 && t < 0.5 ? 0.06 : 0.0, -g};
                 }));
  fill_below<2>(grid, model.state().F, {0, 1}, 0.4);
  model.start();
  const double volume = model.liquid_volume();
  const double found = period(model, 0.5, 8);
  MESSAGE("period / theory: ", found / slosh_period(1.2, 0.4));
  CHECK(found == about(slosh_period(1.2, 0.4)).epsilon(0.01));
  CHECK(std::abs(model.liquid_volume() / volume - 1) < 1e-12);
}

TEST_CASE("a wave in a 3-D box has its natural period") {
  const Grid<3> grid({0, 0, 0}, {1.0, 0.25, 0.5}, partition<3>({1.0, 0.25, 0.5}, 1.0 / 40));
  Model<3> model(grid, settings<3>(0, Wall::slip, [](double t) { return Vec<3>{t < 0.2 ? 0.06 : 0.0, 0, -g}; }));
  fill_below<3>(grid, model.state().F, {0, 0, 1}, 0.25);
  model.start();
  const double volume = model.liquid_volume();
  CHECK(period(model, 0.2, 4) == about(slosh_period(1.0, 0.25)).epsilon(0.01));
  CHECK(std::abs(model.liquid_volume() / volume - 1) < 1e-12);
}

TEST_CASE("under steady acceleration the surface settles at the slope a/g and the floor pressure is linear") {
  const double a = 2;
  const Grid<2> grid({0, 0}, {1.2, 0.8}, partition<2>({1.2, 0.8}, 1.2 / 48));
  auto tank = settings<2>(0.05, Wall::slip, [a](double t) { return Vec<2>{std::min(t, 1.0) * a, -g}; });
  tank.gas.viscosity = 1e-2;  // or it would go on circling between the slip walls
  Model<2> model(grid, tank);
  fill_below<2>(grid, model.state().F, {0, 1}, 0.4);
  model.start();
  while (model.state().time < 14) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  // Least-squares slope of the columns' heights.
  std::vector<double> height(static_cast<std::size_t>(grid.cells()[0]));
  std::vector<double> floor_pressure(height.size());
  const Cells<2> pressure = model.true_pressure();
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    height[static_cast<std::size_t>(cell[0])] += model.state().F.block(b)[o] * grid.spacing()[1];
    if (cell[1] == 0) floor_pressure[static_cast<std::size_t>(cell[0])] = pressure.block(b)[o];
  });
  double xx = 0;
  double xy = 0;
  double xp = 0;
  for (std::size_t i = 0; i < height.size(); ++i) {
    const double x = (static_cast<double>(i) + 0.5) * grid.spacing()[0] - 0.6;
    xx += x * x;
    xy += x * height[i];
    xp += x * floor_pressure[i];
  }
  CHECK(xy / xx == about(a / g).epsilon(0.01));
  CHECK(xp / xx == about(1000 * a).epsilon(0.01));
  CHECK(model.greatest_speed() < 1e-3);
}

TEST_CASE("a liquid at rest stays at rest, level and tilted, in 2-D and 3-D") {
  const auto check = [](auto& model, int steps) {
    for (int s = 0; s < steps; ++s) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), 5e-3));
    }
    MESSAGE("greatest speed / sqrt(g H): ", model.greatest_speed() / std::sqrt(g * 0.5));
    return model.greatest_speed() / std::sqrt(g * 0.5);
  };
  {
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
    Model<2> model(grid, settings<2>(1e-6, Wall::no_slip, [](double) { return Vec<2>{0, -g}; }));
    fill_below<2>(grid, model.state().F, {0, 1}, 0.511);
    model.start();
    CHECK(check(model, 1000) < 1e-9);
  }
  {
    const double tilt = 27 * M_PI / 180;
    const Vec<2> up{std::sin(tilt), std::cos(tilt)};
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
    Model<2> model(grid, settings<2>(1e-6, Wall::slip, [up](double) { return Vec<2>{-g * up[0], -g * up[1]}; }));
    fill_below<2>(grid, model.state().F, up, 0.65);
    model.start();
    CHECK(check(model, 1000) < 1e-9);
  }
  {
    const Vec<3> up{0.2, 0.1, std::sqrt(1 - 0.05)};
    const Grid<3> grid({0, 0, 0}, {1, 1, 1}, partition<3>({1, 1, 1}, 1.0 / 16));
    Model<3> model(grid, settings<3>(1e-6, Wall::slip, [up](double) {
                     return Vec<3>{-g * up[0], -g * up[1], -g * up[2]};
                   }));
    fill_below<3>(grid, model.state().F, up, 0.63);
    model.start();
    CHECK(check(model, 200) < 1e-9);
  }
}

TEST_CASE("a drop held by surface tension comes to rest with the pressure jump of Laplace") {
  // Radius 8 cells, Laplace number 12000: the spurious flow dies out once the drop has found its shape on the grid.
  const int n = 32;
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / n));
  Settings<2> s = settings<2>(0, Wall::slip, [](double) { return Vec<2>{}; });
  const double mu = std::sqrt(0.5 / 12000);
  s.liquid = s.gas = {1, mu};
  s.surface_tension = 1;
  Model<2> model(grid, s);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
    const double h = 1.0 / n;
    model.state().F.block(b)[o] =
        covered_share<2>(Ball<2>{{0.5, 0.5}, 0.25}, {c[0] * h, c[1] * h}, {(c[0] + 1) * h, (c[1] + 1) * h});
  });
  model.start();
  while (model.state().time < 6) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
  }
  const double capillary_number = model.greatest_speed() * mu;
  MESSAGE("capillary number of the spurious flow: ", capillary_number);
  CHECK(capillary_number < 1e-12);
  double inside = 0;
  double outside = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
    if (c == Index<2>{n / 2, n / 2}) inside = model.state().p.block(b)[o];
    if (c == Index<2>{0, 0}) outside = model.state().p.block(b)[o];
  });
  CHECK(inside - outside == about(4).epsilon(1e-6));
}

TEST_CASE(
    "implicit viscosity damps a shear field at the rate of theory, also with steps far beyond the explicit limit") {
  // u = sin(pi x) sin(pi y): one implicit Euler step divides it by 1 + dt nu pi^2 (2 + 1), the normal stress doubled.
  for (const double dt : {1e-4, 0.5}) {
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 64));
    Settings<2> s = settings<2>(0.1, Wall::no_slip, [](double) { return Vec<2>{}; });
    s.gas = s.liquid;
    State<2> state(grid);
    const auto field = [&](const Index<2>& c) {
      return std::sin(M_PI * (c[0] + 0.5) / 64) * std::sin(M_PI * (c[1] + 0.5) / 64);
    };
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) { state.u[0].block(b)[o] = field(c); });
    Viscosity<2> diffuse(grid, s.walls);
    diffuse(grid, s, state.F, Cells<2>(grid, s.gas.density), state, dt);
    const double factor = 1 / (1 + dt * 0.1 * M_PI * M_PI * 3);
    double worst = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
      worst = std::max(worst, std::abs(state.u[0].block(b)[o] - factor * field(c)));
    });
    CHECK(worst < 2e-3 * (1 - factor));
  }
}

TEST_CASE("a steady vortex in a box keeps its energy, at an error of second order or better") {
  // Without viscosity u = (sin pi x cos pi y, -cos pi x sin pi y) is steady.
  const auto lost = [](int cells) {
    const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / cells));
    Settings<2> s = settings<2>(0, Wall::slip, [](double) { return Vec<2>{}; });
    s.gas = s.liquid;
    Model<2> model(grid, s);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
      const double x = M_PI * (c[0] + 0.5) / cells;
      const double y = M_PI * (c[1] + 0.5) / cells;
      model.state().u[0].block(b)[o] = std::sin(x) * std::cos(y);
      model.state().u[1].block(b)[o] = -std::cos(x) * std::sin(y);
    });
    model.start();
    const double energy = model.kinetic_energy();
    while (model.state().time < 1) {
      StepLimit limit{};
      model.step(std::min(model.stable_step(limit), 0.25 / cells));
    }
    return 1 - model.kinetic_energy() / energy;
  };
  const double coarse = lost(24);
  const double fine = lost(48);
  CHECK(fine < 1e-3);
  CHECK(fine < coarse / 4);
}

TEST_CASE("a heavy drop thrown through a light gas gains no energy and does not blow up") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 64));
  Settings<2> s = settings<2>(0, Wall::slip, [](double) { return Vec<2>{}; });
  s.gas.density = 1;
  Model<2> model(grid, s);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& c) {
    const double h = 1.0 / 64;
    const double F =
        covered_share<2>(Ball<2>{{0.3, 0.4}, 0.125}, {c[0] * h, c[1] * h}, {(c[0] + 1) * h, (c[1] + 1) * h});
    model.state().F.block(b)[o] = F;
    if (F > 0) {
      model.state().u[0].block(b)[o] = 1.0;
      model.state().u[1].block(b)[o] = 0.3;
    }
  });
  model.start();
  model.step(1e-6);  // makes the velocity on the faces free of divergence
  const double energy = model.kinetic_energy();
  double greatest = energy;
  for (int i = 0; i < 80 && model.state().time < 0.3; ++i) {
    StepLimit limit{};
    model.step(model.stable_step(limit));
    greatest = std::max(greatest, model.kinetic_energy());
  }
  CHECK(greatest <= energy * (1 + 1e-6));
  CHECK(model.kinetic_energy() > 0.97 * energy);
  CHECK(model.greatest_speed() < 5);
}

TEST_CASE("a violent run has the same bits on one and on two threads") {
  const auto run = [](int threads) {
    omp_set_num_threads(threads);
    const Grid<2> grid({0, 0}, {1, 0.5}, partition<2>({1, 0.5}, 1.0 / 128));
    Model<2> model(grid, settings<2>(1e-5, Wall::no_slip, [](double) { return Vec<2>{3, -g}; }));
    fill_below<2>(grid, model.state().F, {0.3, 1}, 0.4);
    model.start();
    for (int i = 0; i < 60; ++i) {
      StepLimit limit{};
      model.step(model.stable_step(limit));
    }
    return std::array{model.state().F.data(), model.state().u[0].data(), model.state().u[1].data(),
                      model.state().p.data()};
  };
  CHECK(run(1) == run(2));
}
