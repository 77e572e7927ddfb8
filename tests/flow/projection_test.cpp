// The projection by itself: one velocity, and several phases that share one pressure.
#include "flow/projection.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "flow/faces.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

/// fn(axis, middle of the face) on all faces, times their open area.
template <int D, class Fn>
Faces<D> faces_of(const Grid<D>& grid, const OpenSpace<D>& space, Fn&& fn) {
  Faces<D> faces = faces_on(grid);
  for (int d = 0; d < D; ++d)
    for (int b = 0; b < grid.blocks(); ++b)
      for_rows<D>(grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          Vec<D> place = cell_middle<D>(grid, b, at);
          place[static_cast<std::size_t>(d)] -= 0.5 * grid.spacing()[d];
          faces[d].block(b)[at] = fn(d, place) * (space.is_uncut() ? 1.0 : space.area()[d].block(b)[at]);
        }
      });
  return faces;
}

template <int D>
double greatest_of(const Grid<D>& grid, const Projection<D>& projection, const Faces<D>& face_u) {
  return max_blocks(grid, [&](int b) { return projection.greatest_divergence(grid, b, face_u, 1.0, nullptr); });
}

/// What is a swirl and no gradient.
double swirl(int axis, const Vec<2>& x) {
  const double k = M_PI;
  return axis == 0 ? std::sin(k * x[0]) * std::cos(k * x[1]) : -std::cos(k * x[0]) * std::sin(k * x[1]);
}
double gradient(int axis, const Vec<2>& x) {
  const double k = M_PI;  // of -cos(k x) cos(2 k y) / k
  return axis == 0 ? std::sin(k * x[0]) * std::cos(2 * k * x[1]) : 2 * std::cos(k * x[0]) * std::sin(2 * k * x[1]);
}

/// Solves and corrects; leaves the pressure in `p`.
template <int D>
void project(const Grid<D>& grid, const OpenSpace<D>& space, Projection<D>& projection, const Faces<D>& beta, double dt,
             Cells<D>& p, Faces<D>& face_u) {
  projection.find_divergence(grid, face_u, dt);
  projection.solver().set_coefficients(grid, beta);
  const auto report = projection.solver().solve(grid, projection.rhs(), p, 1e-11 / (dt * dt), 100);
  CHECK(report.converged);
  fill_halo(grid, p, 1, all_walls<D>(Mirror::even), space.open_spans());
  for_blocks(grid, [&](int b) { projection.correct_faces(grid, b, p, beta, dt, face_u); });
}

}  // namespace

TEST_CASE("of a velocity the projection leaves what is free of divergence, and takes the gradient") {
  const double dt = 0.01;
  std::array<double, 2> off{};
  for (std::size_t finer = 0; finer < 2; ++finer) {
    const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, finer == 0 ? 1.0 / 32 : 1.0 / 64);
    const OpenSpace<2> space;
    Boundary<2> boundary(grid, space, {});
    Projection<2> projection(grid, space, boundary);
    Faces<2> face_u =
        faces_of<2>(grid, space, [](int d, const Vec<2>& x) { return swirl(d, x) + 0.7 * gradient(d, x); });
    Cells<2> p(grid);
    project<2>(grid, space, projection, faces_on(grid, 1 / 800.0), dt, p, face_u);
    CHECK(greatest_of<2>(grid, projection, face_u) < 1e-9);
    const Faces<2> wanted = faces_of<2>(grid, space, swirl);
    for (int d = 0; d < 2; ++d)
      for (int b = 0; b < grid.blocks(); ++b)
        for_rows<2>(grid.layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at)
            off[finer] = std::max(off[finer], std::abs(face_u[d].block(b)[at] - wanted[d].block(b)[at]));
        });
  }
  CHECK(off[0] < 5e-3);
  CHECK(off[1] < off[0] / 3.5);  // second order
}

TEST_CASE("two phases share one pressure: their volume flow has no divergence, each answers by its own density") {
  // Side by side in every cell, shares that differ from place to place, driven by buoyancy upwards and downwards.
  const double dt = 0.02;
  const std::array<double, 2> rho{1000, 1.2};
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 1.0 / 32);
  const OpenSpace<2> space;
  Boundary<2> boundary(grid, space, {});
  Projection<2> projection(grid, space, boundary);
  const auto share = [](const Vec<2>& x) { return 0.5 + 0.4 * std::sin(7 * x[0]) * std::cos(5 * x[1]); };
  std::array<Faces<2>, 2> acceleration;
  std::array<Faces<2>, 2> response;
  std::array<CellVectors<2>, 2> u{faces_on(grid), faces_on(grid)};
  std::array<CellVectors<2>, 2> own{faces_on(grid), faces_on(grid)};
  for (std::size_t k = 0; k < 2; ++k) {
    response[k] = faces_on(grid, 1 / rho[k]);
    acceleration[k] =
        faces_of<2>(grid, space, [&](int d, const Vec<2>&) { return d == 1 ? (k == 0 ? -9.81 : 3.0) : 0.0; });
  }
  const Faces<2> beta =
      faces_of<2>(grid, space, [&](int, const Vec<2>& x) { return share(x) / rho[0] + (1 - share(x)) / rho[1]; });
  Faces<2> flow = faces_of<2>(grid, space, [&](int d, const Vec<2>& x) {
    return d == 1 ? dt * (share(x) * -9.81 + (1 - share(x)) * 3.0) : 0.0;
  });
  for (int b = 0; b < grid.blocks(); ++b)
    for (int d = 0; d < 2; ++d) boundary.close(grid, b, d, flow[d].block(b));
  Cells<2> p(grid);
  project<2>(grid, space, projection, beta, dt, p, flow);
  CHECK(greatest_of<2>(grid, projection, flow) < 1e-9);

  for (std::size_t k = 0; k < 2; ++k) {
    projection.add_pressure(grid, p, response[k], acceleration[k]);
    for (int b = 0; b < grid.blocks(); ++b) projection.accelerate_cells(grid, b, acceleration[k], dt, own[k], u[k]);
  }
  // The phases' flows, weighted by their shares on the faces, are the flow that was projected.
  double off = 0;
  double slip = 0;
  for (int d = 0; d < 2; ++d)
    for (int b = 0; b < grid.blocks(); ++b)
      for_rows<2>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          Vec<2> place = cell_middle<2>(grid, b, at);
          place[static_cast<std::size_t>(d)] -= 0.5 * grid.spacing()[d];
          const double a = share(place);
          const double sum = a * acceleration[0][d].block(b)[at] + (1 - a) * acceleration[1][d].block(b)[at];
          off = std::max(off, std::abs(dt * sum - flow[d].block(b)[at]));
          slip = std::max(slip, std::abs(u[1][d].block(b)[at] - u[0][d].block(b)[at]));
        }
      });
  CHECK(off < 1e-10);
  CHECK(slip > 0.1);
}

TEST_CASE("a force with a potential is balanced to round-off, also where solids cut the cells") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 1.0 / 32);
  const OpenSpace<2> space(grid, nullptr, {ball_solid<2>({0.43, 0.55}, 0.21)}, {});
  Boundary<2> boundary(grid, space, {});
  Projection<2> projection(grid, space, boundary);
  const double dt = 0.01;
  Faces<2> acceleration = faces_on(grid);
  add_uniform<2>(grid, space, {2.5, -9.81}, acceleration);
  const Faces<2> beta = faces_of<2>(grid, space, [](int, const Vec<2>&) { return 1e-3; });
  CellVectors<2> u = faces_on(grid);
  Faces<2> face_u = faces_on(grid);
  predict_faces<2>(grid, space, boundary, Cells<2>(grid, 1000.0), u, acceleration, dt, face_u);
  Cells<2> p(grid);
  project<2>(grid, space, projection, beta, dt, p, face_u);
  projection.add_pressure(grid, p, beta, acceleration);
  CellVectors<2> own = faces_on(grid);
  double fastest = 0;
  for (int b = 0; b < grid.blocks(); ++b) {
    projection.accelerate_cells(grid, b, acceleration, dt, own, u);
    for_open_rows<2>(space, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        for (int d = 0; d < 2; ++d)
          fastest = std::max({fastest, std::abs(u[d].block(b)[at]), std::abs(face_u[d].block(b)[at])});
    });
  }
  CHECK(fastest < 1e-9);
}

TEST_CASE("the mean on a face conserves momentum: it is weighted by the cells' masses") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  Boundary<2> boundary(grid, space, {});
  Cells<2> mass(grid, 1.0);
  CellVectors<2> u = faces_on(grid);
  const std::ptrdiff_t at = grid.layout().offset({5, 5});
  mass.block(0)[at] = 1000;
  u[0].block(0)[at] = 2;
  Faces<2> face_u = faces_on(grid);
  predict_faces<2>(grid, space, boundary, mass, u, faces_on(grid, 3.0), 0.1, face_u);
  CHECK(face_u[0].block(0)[at] == about(2000.0 / 1001 + 0.3).epsilon(1e-14));
  CHECK(face_u[0].block(0)[at + 1] == about(2000.0 / 1001 + 0.3).epsilon(1e-14));
  CHECK(face_u[0].block(0)[grid.layout().offset({0, 5})] == 0);  // a wall
}
