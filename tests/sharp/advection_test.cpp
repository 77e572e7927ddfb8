#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "mesh/cover.hpp"
#include "sharp/parts.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

template <int D>
struct Flow {
  Grid<D> grid;
  Settings<D> settings;
  State<D> state;
  Advection<D> advect;
  double volume = 0;

  Flow(int n, const Ball<D>& ball) : grid(Vec<D>{}, ones(), partition<D>(ones(), 1.0 / n)), state(grid), advect(grid) {
    settings.liquid = {1000, 0};
    settings.gas = {1, 0};
    for (auto& axis : settings.walls) axis = {Wall::slip, Wall::slip};
    cover<D>(grid, state.F, ball);
    volume = total();
  }
  static Vec<D> ones() {
    Vec<D> v;
    v.fill(1);
    return v;
  }
  [[nodiscard]] double total() const {
    double sum = 0;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) { sum += state.F.block(b)[o]; });
    return sum * grid.cell_volume();
  }
  /// Velocities on the faces from a stream function of the cell corners: free of divergence to round-off.
  template <class Psi>
  void set_stream(Psi&& psi) {
    const double h = grid.spacing()[0];
    for (int b = 0; b < grid.blocks(); ++b) {
      const Index<2> start = grid.geometry(b).start;
      const auto corner = [&](std::ptrdiff_t o, int i, int j) {
        return psi((start[0] + axis_index<2>(grid.layout(), o, 0) + i) * h,
                   (start[1] + axis_index<2>(grid.layout(), o, 1) + j) * h);
      };
      for_rows<2>(grid.layout(), Index<2>{}, faces_end<2>(grid.layout(), 0), [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) state.face_u[0].block(b)[o + i] = (corner(o + i, 0, 1) - corner(o + i, 0, 0)) / h;
      });
      for_rows<2>(grid.layout(), Index<2>{}, faces_end<2>(grid.layout(), 1), [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) state.face_u[1].block(b)[o + i] = -(corner(o + i, 1, 0) - corner(o + i, 0, 0)) / h;
      });
    }
  }
};

/// L1 error after the reversed single vortex of Rider & Kothe (J. Comput. Phys. 141 (1998) 112), T = 8.
double vortex_error(int n, double& lowest, double& highest, double& drift) {
  Flow<2> flow(n, {{0.5, 0.75}, 0.15});
  const auto start = flow.state.F;
  const double T = 8;
  const int steps = 20 * n;
  lowest = 0;
  highest = 1;
  for (int s = 0; s < steps; ++s) {
    const double t = (s + 0.5) * T / steps;
    flow.set_stream([&](double x, double y) {
      return -std::pow(std::sin(M_PI * x) * std::sin(M_PI * y), 2) / M_PI * std::cos(M_PI * t / T);
    });
    flow.advect(flow.grid, flow.settings, flow.state, T / steps, s, flow.volume);
    for (const double F : flow.state.F.data()) {
      lowest = std::min(lowest, F);
      highest = std::max(highest, F);
    }
  }
  drift = flow.total() / flow.volume - 1;
  double error = 0;
  for_cells_in_order<2>(flow.grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    error += std::abs(flow.state.F.block(b)[o] - start.block(b)[o]);
  });
  return error * flow.grid.cell_volume();
}

}  // namespace

TEST_CASE("the reversed single vortex comes back with second-order error, bounded and with its volume") {
  double lowest = 0;
  double highest = 0;
  double drift = 0;
  const double coarse = vortex_error(64, lowest, highest, drift);
  MESSAGE("L1 error at 64^2: ", coarse);
  CHECK(lowest >= -1e-12);
  CHECK(highest <= 1 + 1e-12);
  CHECK(std::abs(drift) <= 1e-12);
  const double fine = vortex_error(128, lowest, highest, drift);
  MESSAGE("L1 error at 128^2: ", fine);
  CHECK(std::log2(coarse / fine) >= 2);
  CHECK(std::abs(drift) <= 1e-12);
}

TEST_CASE("uniform motion stays uniform across a density ratio of 1000, in 2-D and 3-D") {
  const auto check = [](auto flow, double factor) {
    constexpr int D = std::tuple_size_v<std::remove_cvref_t<decltype(flow.grid.spacing())>>;
    const Vec<3> velocity{0.7, -0.4, 0.5};
    for (int d = 0; d < D; ++d) {
      const auto a = static_cast<std::size_t>(d);
      std::fill(flow.state.face_u[a].data().begin(), flow.state.face_u[a].data().end(), velocity[a]);
      std::fill(flow.state.u[a].data().begin(), flow.state.u[a].data().end(), velocity[a]);
      // Walls that mirror would disturb the motion: look only at what is far from them.
    }
    const double h = flow.grid.spacing()[0];
    for (int s = 0; s < 6; ++s) flow.advect(flow.grid, flow.settings, flow.state, factor * h, s, flow.volume);
    double worst = 0;
    for_cells_in_order<D>(flow.grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      for (int d = 0; d < D; ++d)
        if (cell[static_cast<std::size_t>(d)] < 15 ||
            cell[static_cast<std::size_t>(d)] >= flow.grid.cells()[static_cast<std::size_t>(d)] - 15)
          return;
      for (int d = 0; d < D; ++d)
        worst = std::max(worst, std::abs(flow.state.u[static_cast<std::size_t>(d)].block(b)[o] -
                                         velocity[static_cast<std::size_t>(d)]));
    });
    CHECK(worst < 1e-11);
    CHECK(flow.total() == about(flow.volume).epsilon(1e-12));
  };
  check(Flow<2>(64, {{0.5, 0.5}, 0.13}), 0.4);
  check(Flow<3>(48, {{0.5, 0.5, 0.5}, 0.13}), 0.3);
}

namespace {

/// Greatest error of a sine in u, carried once round a periodic square of one fluid along `axis` at +1 or -1 m/s.
double carried_sine_error(int n, int axis, double speed) {
  const auto d = static_cast<std::size_t>(axis);
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / n), {true, true});
  Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  State<2> state(grid);
  std::fill(state.F.data().begin(), state.F.data().end(), 1.0);
  std::fill(state.face_u[d].data().begin(), state.face_u[d].data().end(), speed);
  const auto sine = [&](const Index<2>& cell) { return std::sin(2 * M_PI * (cell[d] + 0.5) / n); };
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    for (auto& u : state.u) u.block(b)[o] = sine(cell);
  });
  Advection<2> advect(grid);
  const int steps = 4 * n;
  for (int i = 0; i < steps; ++i) advect(grid, settings, state, 1.0 / steps, i, 1.0);
  double greatest = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    for (auto& u : state.u) greatest = std::max(greatest, std::abs(u.block(b)[o] - sine(cell)));
  });
  return greatest;
}

}  // namespace

TEST_CASE("momentum is carried with second-order accuracy, either way along each axis") {
  for (const int axis : {0, 1}) {
    const double coarse = carried_sine_error(32, axis, 1);
    const double fine = carried_sine_error(128, axis, 1);
    INFO("axis ", axis, ": ", coarse, " and ", fine);
    CHECK(fine < 0.02);  // a limiter flattens the crests
    CHECK(std::log2(coarse / fine) / 2 > 1.4);
    CHECK(carried_sine_error(32, axis, -1) == about(coarse).epsilon(1e-9));
  }
}
