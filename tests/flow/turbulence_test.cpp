// Turbulence by itself: what it carries, makes, loses and adds to a stress.
#include "flow/turbulence.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "flow/shear_rate.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

constexpr double nu = 1e-6;

/// A turbulence and its surroundings: a flow that is the same everywhere, unless it is changed.
template <int D>
struct Bench {
  Grid<D> grid;
  OpenSpace<D> space;
  Boundary<D> boundary;
  WallElements<D> elements;
  CellVectors<D> u;
  Faces<D> face_u;
  Cells<D> nu_field;
  Turbulence<D> turbulence;
  TurbulentState<D> state;

  static TurbulenceSettings<D> settings(const TurbulenceLaw& law) {
    TurbulenceSettings<D> result;
    result.law = &law;
    result.start = {0.1, 0.02};
    result.start_speed = 1;
    return result;
  }
  Bench(const Grid<D>& on, const TurbulenceSettings<D>& with, const WallKinds<D>& walls,
        const std::vector<Opening<D>>& openings = {}, const Solid<D>* vessel = nullptr)
      : grid(on),
        space(vessel == nullptr ? OpenSpace<D>() : OpenSpace<D>(grid, vessel, {}, {})),
        boundary(grid, space, openings),
        elements(find_wall_elements<D>(grid, space, {walls, walls[0][0]}, {}, boundary)),
        nu_field(grid, nu),
        turbulence(grid, space, boundary, walls_at_rest<D>(), elements, with) {
    for (int d = 0; d < D; ++d) u[d] = face_u[d] = Cells<D>(grid);
    turbulence.start(grid, flow(), state);
  }
  [[nodiscard]] MeanFlow<D> flow() const { return {u, face_u, nu_field}; }
  /// The same velocity in all cells, halos included, and on all open faces.
  void stream(const Vec<D>& velocity) {
    for (int d = 0; d < D; ++d)
      for (int b = 0; b < grid.blocks(); ++b) {
        std::fill(u[d].data().begin(), u[d].data().end(), velocity[d]);
        const Index<D> end = faces_end<D>(grid.layout(), d);
        for_rows<D>(grid.layout(), Index<D>{}, end, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at)
            face_u[d].block(b)[at] = velocity[d] * (space.is_uncut(b) ? 1.0 : space.area()[d].block(b)[at]);
        });
      }
  }
  /// A flow along the first axis that grows along the last, in the halo too.
  void shear(double rate) {
    const CellRange<D> range = with_layers(grid.layout(), 1);
    for (int b = 0; b < grid.blocks(); ++b)
      for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) u[0].block(b)[at] = rate * cell_middle<D>(grid, b, at)[D - 1];
      });
  }
  [[nodiscard]] std::array<double, 2> extremes(const Cells<D>& field) const {
    std::array<double, 2> result{1e300, -1e300};
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
      if (open_share(space, b, at) == 0) return;
      result = {std::min(result[0], field.block(b)[at]), std::max(result[1], field.block(b)[at])};
    });
    return result;
  }
};

WallKinds<2> all(Wall kind) {
  WallKinds<2> kinds;
  for (auto& axis : kinds) axis = {kind, kind};
  return kinds;
}

Opening<2> across(int side) {
  Opening<2> one;
  one.axis = 0;
  one.side = side;
  return one;
}

}  // namespace

TEST_CASE("it starts with the intensity and length that are given, near walls with no larger eddies than fit") {
  for (const auto* law : {&k_epsilon, &k_omega_sst}) {
    auto settings = Bench<2>::settings(*law);
    settings.wall_distance = [](const Vec<2>& p) { return std::min(p[1], 1 - p[1]); };
    const Bench<2> bench(grid_over<2>({0, 0}, {1, 1}, 0.01), settings, all(Wall::no_slip));
    const auto k = bench.extremes(bench.state.k);
    CHECK(k[0] == about(0.015));
    CHECK(k[1] == about(0.015));
    const Cells<2> epsilon = bench.turbulence.dissipation(bench.state);
    // The least in the middle, by the length; the greatest in the first cells, half a cell from the wall.
    CHECK(bench.extremes(epsilon)[0] == about(std::pow(0.09, 0.75) * std::pow(0.015, 1.5) / 0.02));
    CHECK(bench.extremes(epsilon)[1] == about(std::pow(0.09, 0.75) * std::pow(0.015, 1.5) / (0.41 * 0.005)));
  }
}

TEST_CASE("what the flow carries stays between what was there, is positive, and goes with the flow") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 64), {true, true});
  auto settings = Bench<2>::settings(k_epsilon);
  settings.start.length = 1e5;  // hardly any loss
  Bench<2> bench(grid, settings, all(Wall::slip));
  bench.stream({0.8, 0.4});
  const auto patch = [](const Vec<2>& p) { return std::hypot(p[0] - 0.3, p[1] - 0.3) < 0.15; };
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
    bench.state.k.block(b)[at] = patch(cell_middle(grid, b, at)) ? 1.0 : 0.1;
    bench.state.eddy_viscosity.block(b)[at] = 0;
  });
  const double start = bench.state.k.block(0)[0];
  CHECK(start == 0.1);
  double sum = 0;
  Vec<2> middle{};
  const auto weigh = [&] {
    sum = 0;
    middle = {};
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      const double more = bench.state.k.block(b)[at] - 0.1;
      const Vec<2> p = cell_middle(grid, b, at);
      sum += more;
      for (std::size_t d = 0; d < 2; ++d) middle[d] += more * p[d];
    });
    for (double& c : middle) c /= sum;
  };
  weigh();
  const double before = sum;
  const Vec<2> from = middle;
  for (int i = 0; i < 50; ++i) {
    for (auto& value : bench.state.eddy_viscosity.data()) value = 0;
    for (auto& value : bench.state.second.data()) value = 1e-12;
    bench.turbulence.step(grid, bench.flow(), 5e-3, bench.state);
  }
  weigh();
  CHECK(sum == about(before).epsilon(1e-3));
  CHECK(middle[0] - from[0] == about(0.8 * 0.25).epsilon(0.01));
  CHECK(middle[1] - from[1] == about(0.4 * 0.25).epsilon(0.01));
  CHECK(bench.extremes(bench.state.k)[0] > 0.1 * (1 - 1e-9));
  CHECK(bench.extremes(bench.state.k)[1] < 1 + 1e-9);
  CHECK(bench.extremes(bench.state.k)[1] > 0.9);
}

TEST_CASE("openings bring it in by intensity and length, and the stream carries it through cut cells too") {
  for (const bool cut : {false, true}) {
    const Grid<2> grid = grid_over<2>({0, 0}, {1, 0.5}, 1.0 / 32);
    auto settings = Bench<2>::settings(k_epsilon);
    settings.start.intensity = 1e-3;
    settings.inflow = {{0.2, 50}, {}};
    auto in = across(0);
    in.flow = [](double) { return 0.5; };
    auto out = across(1);
    out.pressure = [](double) { return 0.0; };
    const Solid<2> floor{[](const Vec<2>& p) { return 0.117 - p[1]; }, {0, 0.117}, {1, 1}};
    Bench<2> bench(grid, settings, all(Wall::slip), {in, out}, cut ? &floor : nullptr);
    bench.stream({1, 0});
    for (int i = 0; i < 400; ++i) {
      for (auto& value : bench.state.eddy_viscosity.data()) value = 0;
      bench.turbulence.step(grid, bench.flow(), 5e-3, bench.state);
    }
    // Eddies so large lose next to nothing on their way.
    const auto k = bench.extremes(bench.state.k);
    INFO(cut);
    CHECK(k[0] == about(1.5 * 0.04).epsilon(0.01));
    CHECK(k[1] == about(1.5 * 0.04).epsilon(0.01));
  }
}

TEST_CASE("shear makes k with nu_t S2: in a uniform shear it grows as the equations say") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 16), {true, false});
  Bench<2> bench(grid, Bench<2>::settings(k_epsilon), all(Wall::slip));
  constexpr double S = 3;
  bench.shear(S);
  double k = 0.015;
  double epsilon = std::pow(0.09, 0.75) * std::pow(k, 1.5) / 0.02;
  constexpr double dt = 1e-3;
  for (int i = 0; i < 300; ++i) {
    bench.turbulence.step(grid, bench.flow(), dt, bench.state);
    constexpr int parts = 20;
    for (int j = 0; j < parts; ++j) {
      const double made = std::min(0.09 * k * k / epsilon * S * S, 10 * epsilon);
      const double dk = made - epsilon;
      const double de = (1.44 * made - 1.92 * epsilon) * epsilon / k;
      k += dt / parts * dk;
      epsilon += dt / parts * de;
    }
  }
  CHECK(bench.extremes(bench.state.k)[0] == about(k).epsilon(0.01));
  CHECK(bench.extremes(bench.state.k)[1] == about(k).epsilon(0.01));
  CHECK(bench.extremes(bench.turbulence.dissipation(bench.state))[1] == about(epsilon).epsilon(0.01));
}

TEST_CASE(
    "walls take the stress of their law, however far the first cell is, and laminar stress where the flow is slow") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.05);
  auto settings = Bench<2>::settings(k_epsilon);
  settings.wall_distance = [](const Vec<2>& p) { return std::min(p[1], 1 - p[1]); };
  WallKinds<2> kinds = all(Wall::slip);
  kinds[1] = {Wall::no_slip, Wall::slip};
  Bench<2> bench(grid, settings, kinds);
  for (const double speed : {1e-7, 0.3, 20.0}) {
    INFO(speed);
    bench.stream({speed, 0});
    std::array<CellVectors<2>, 2> faces;
    for (auto& axis : faces)
      for (auto& field : axis) field = Cells<2>(grid);
    const Cells<2> rho(grid, 1000.0);
    constexpr double dt = 1e-3;
    bench.turbulence.add_to(grid, rho, bench.flow(), dt, bench.state, faces);
    const double friction = friction_velocity(speed, 0.025, nu);
    for (const auto& element : bench.elements[0]) {
      const double factor = bench.turbulence.wall_factor(element, bench.u, nu);
      if (element.kind == Wall::slip) {
        CHECK(factor == 1);
        if (element.axis == 1) CHECK(faces[1][0].block(0)[element.face] == about(0).scale(1e-12));
        continue;
      }
      // Behind the wall the mirror image moves the other way.
      const double added = faces[1][0].block(0)[element.face] * 2 * speed / dt * 0.05;
      const double laminar = 1000 * nu * speed / 0.025;
      CHECK(factor * laminar == about(std::max(1000 * friction * friction, laminar)).epsilon(1e-6));
      CHECK(laminar + added == about(factor * laminar).epsilon(1e-9));
    }
    const auto y_plus = bench.extremes(bench.turbulence.wall_units(grid, bench.u, bench.nu_field));
    CHECK(y_plus[0] == 0);
    CHECK(y_plus[1] == about(friction * 0.025 / nu));
  }
}

TEST_CASE("between cells it adds dt rho nu_t/h2, times the conductance of cut faces and the lighter cell's mass") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  Bench<2> bench(grid, Bench<2>::settings(k_epsilon), all(Wall::slip));
  for (auto& value : bench.state.eddy_viscosity.data()) value = 2e-3;
  std::array<CellVectors<2>, 2> faces;
  for (auto& axis : faces)
    for (auto& field : axis) field = Cells<2>(grid);
  Cells<2> rho(grid, 1000.0);
  rho.block(0)[grid.layout().offset({5, 5})] = 1;
  const double passes = bench.turbulence.add_to(grid, rho, bench.flow(), 0.5, bench.state, faces);
  CHECK(faces[0][1].block(0)[grid.layout().offset({3, 3})] == about(0.5 * 1000 * 2e-3 / 0.01));
  CHECK(faces[0][1].block(0)[grid.layout().offset({5, 5})] == about(0.5 * 2 * 1000.0 / 1001 * 2e-3 / 0.01));
  CHECK(passes == about(6 * 0.5 * 2e-3 / 0.01));
}

TEST_CASE("an interface damps it: the dissipation there grows to what the damping says") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32), {true, false});
  for (const double damping : {0.0, 10.0}) {
    auto settings = Bench<2>::settings(k_omega_sst);
    settings.interface_damping = damping;
    Bench<2> bench(grid, settings, all(Wall::slip));
    Cells<2> share(grid);
    const CellRange<2> range = with_layers(grid.layout(), 1);
    for_rows<2>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) share.block(0)[at] = cell_middle(grid, 0, at)[1] < 0.5 ? 1 : 0;
    });
    for (auto& value : bench.nu_field.data()) value = 1e-4;
    for (int i = 0; i < 200; ++i) {
      const MeanFlow<2> flow{bench.u, bench.face_u, bench.nu_field, &share};
      bench.turbulence.step(grid, flow, 1e-3, bench.state);
    }
    const double there = bench.state.second.block(0)[grid.layout().offset({8, 16})];
    const double away = bench.state.second.block(0)[grid.layout().offset({8, 28})];
    if (damping == 0)
      CHECK(there == about(away).epsilon(1e-6));
    else
      // On its way to 6 B nu/(0.075 h^2).
      CHECK(there > 4 * away);
    CHECK(there < 10 * 6 * 1e-4 / (0.075 / (32 * 32)));
  }
}

TEST_CASE("large-eddy laws keep no energy, and see the shear that there is") {
  const Grid<3> grid = grid_over<3>({0, 0, 0}, {1, 1, 1}, 1.0 / 16);
  WallKinds<3> kinds;
  for (auto& axis : kinds) axis = {Wall::slip, Wall::slip};
  Bench<3> bench(grid, Bench<3>::settings(smagorinsky), kinds);
  CHECK(bench.state.k.data().empty());
  bench.shear(4);
  CHECK(bench.turbulence.step(grid, bench.flow(), 1e-3, bench.state) == 0);
  const double wanted = std::pow(0.1 / 16, 2) * 4;
  CHECK(bench.extremes(bench.state.eddy_viscosity)[0] == about(wanted));
  CHECK(bench.extremes(bench.state.eddy_viscosity)[1] == about(wanted));
  const auto everywhere = [](int, std::ptrdiff_t) { return true; };
  const Cells<3> rates = shear_rates<3>(grid, bench.space, bench.u, everywhere);
  CHECK(bench.extremes(bench.turbulence.dissipation(bench.state, rates))[1] == about(wanted * 16));
}
