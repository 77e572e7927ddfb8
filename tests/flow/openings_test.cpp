// The openings by themselves: where they are, what the pressure given at them means, and what is counted.
#include "flow/openings.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "flow/faces.hpp"

using namespace wavy;

namespace {

/// In the upper side of the last axis, or another.
template <int D>
Opening<D> opening_in(int axis, int side, double from, double to) {
  Opening<D> opening;
  opening.name = "port";
  opening.axis = axis;
  opening.side = side;
  AlignedBox<D> hole;
  hole.lower.fill(from);
  hole.upper.fill(to);
  opening.within = hole;
  opening.pressure = [](double) { return 0.0; };
  return opening;
}

}  // namespace

TEST_CASE("an opening has the area of its hole, wherever that cuts the faces") {
  const Grid<3> grid = grid_over<3>({0, 0, 0}, {1, 1, 1}, 0.05);
  const OpenSpace<3> space;
  for (int axis = 0; axis < 3; ++axis) {
    const Boundary<3> boundary(grid, space, {opening_in<3>(axis, 1, 0.213, 0.687)});
    CHECK(boundary.area(0) == about(0.474 * 0.474).epsilon(1e-12));
    const auto [low, high] = boundary.corners(0, grid);
    for (int d = 0; d < 3; ++d) {
      CHECK(low[d] == about(d == axis ? 1 : 0.213));
      CHECK(high[d] == about(d == axis ? 1 : 0.687));
    }
  }
  auto round = opening_in<3>(2, 0, 0, 1);
  round.within.reset();
  round.round = Ball<3>{{0.5, 0.5, 0}, 0.31};
  CHECK(Boundary<3>(grid, space, {round}).area(0) == about(M_PI * 0.31 * 0.31).epsilon(1e-3));
}

TEST_CASE("a developed flow brings its volume with the parabola of laminar flow") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 1.0 / 64);
  auto opening = opening_in<2>(0, 0, 0.25, 0.75);
  opening.profile = Opening<2>::Profile::laminar;
  opening.flow = [](double t) { return 0.1 * t; };
  const OpenSpace<2> space;
  const Boundary<2> boundary(grid, space, {opening});
  const CellVectors<2> u = faces_on(grid);
  Faces<2> face_u = faces_on(grid);
  boundary.set_faces(grid, 3, u, face_u);
  double flow = 0;
  for (const auto& face : boundary.faces(0)) {
    const double speed = face_u[0].block(face.block)[face.face];
    flow += speed * grid.spacing()[1];
    const double off = (face.middle[1] - 0.5) / 0.25;
    CHECK(speed == about(1.5 * 0.3 / 0.5 * (1 - off * off)).epsilon(2e-3));
  }
  CHECK(flow == about(0.3).epsilon(1e-12));
  CHECK(boundary.greatest_speed(3) == about(0.9).epsilon(2e-3));
}

TEST_CASE("a turbulent flow brings its volume with the power 1/7 of the distance from its edge") {
  const Grid<3> grid = grid_over<3>({0, 0, 0}, {1, 1, 1}, 1.0 / 32);
  auto opening = opening_in<3>(2, 0, 0, 1);
  opening.within.reset();
  opening.round = Ball<3>{{0.5, 0.5, 0}, 0.4};
  opening.profile = Opening<3>::Profile::turbulent;
  opening.flow = [](double) { return 0.2; };
  const OpenSpace<3> space;
  const Boundary<3> boundary(grid, space, {opening});
  Faces<3> face_u;
  for (auto& field : face_u) field = Cells<3>(grid);
  const CellVectors<3> u = face_u;
  boundary.set_faces(grid, 0, u, face_u);
  double flow = 0;
  const double mean = 0.2 / (M_PI * 0.4 * 0.4);
  for (const auto& face : boundary.faces(2)) {
    const double speed = face_u[2].block(face.block)[face.face];
    flow += speed * grid.spacing()[0] * grid.spacing()[1];
    const double off = std::hypot(face.middle[0] - 0.5, face.middle[1] - 0.5) / 0.4;
    // Mean over the greatest speed: 2 / ((1 + 1/7) (2 + 1/7)) = 49/60.
    if (off < 0.8) CHECK(speed == about(mean * 60.0 / 49 * std::pow(1 - off, 1.0 / 7)).epsilon(0.01));
  }
  CHECK(flow == about(0.2).epsilon(1e-12));
}

TEST_CASE("what comes in is what stands outside at that height, for any number of phases") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  auto opening = opening_in<2>(0, 1, 0, 1);
  opening.composition = {0.2, 0.5, 0.3};
  const OpenSpace<2> space;
  const auto share = [&](std::size_t phase, double inside, bool upper) {
    const Boundary<2> boundary(grid, space, {opening}, 3);
    const auto& faces = boundary.faces(0);
    return boundary.incoming_share(upper ? faces.back() : faces.front(), phase, inside);
  };
  CHECK(share(1, 0.9, true) == 0.5);
  opening.share_outside = true;
  CHECK(share(2, 0.9, true) == 0.3);  // air outside: the composition stands
  opening.outside = Opening<2>::Outside::inside;
  CHECK(share(1, 0.9, true) == 0.9);
  CHECK(share(1, 1.0001, true) == 1);
  opening.outside = Opening<2>::Outside::liquid;
  CHECK(share(0, 0.9, true) == 1);
  CHECK(share(1, 0.9, true) == 0);
  opening.outside = Opening<2>::Outside::level;
  opening.outside_level = 0.5;
  CHECK(share(0, 0.9, false) == 1);
  CHECK(share(2, 0.9, false) == 0);
  CHECK(share(0, 0.9, true) == 0);
  CHECK(share(1, 0.9, true) == 0);
  CHECK(share(2, 0.9, true) == 1);
}

TEST_CASE("the pressure behind an opening balances the columns on its two sides") {
  // A vessel of one fluid, open at a side to a column of the same fluid or to air; p is the pressure less rho G.x.
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  const Vec<2> G{0, -9.81};
  const Faces<2> still = faces_on(grid);
  const auto behind = [&](const Opening<2>& opening, double inside, double column, int number) {
    const Boundary<2> boundary(grid, space, {opening});
    Cells<2> p(grid);
    const auto densities = [&](const OpeningFace<2>&) { return DensitiesAtOpening{inside, column, inside}; };
    boundary.set_pressure_behind(grid, {.G = G, .air_density = 1.2, .densities = densities}, 0, still, p);
    const auto& face = boundary.faces(0)[static_cast<std::size_t>(number)];
    return 0.5 * (p.block(face.block)[face.behind] + p.block(face.block)[face.inside]);
  };
  auto opening = opening_in<2>(0, 1, 0, 1);
  opening.pressure = [](double) { return 500.0; };
  // Over air at rest: the true pressure is 500 Pa less rho_air g y.
  for (int n : {0, 4, 9}) {
    const double y = (n + 0.5) * 0.1;
    const double p = behind(opening, 1000, 0, n);
    CHECK(p - 1000 * 9.81 * y == about(500 - 1.2 * 9.81 * y));
  }
  // A column of what is inside: p is the same at every height, so that nothing is driven.
  opening.outside = Opening<2>::Outside::inside;
  CHECK(behind(opening, 800, 800, 0) == about(behind(opening, 800, 800, 9)).epsilon(1e-12));
  // Below a level of liquid the true pressure grows downwards with the liquid's weight.
  opening.outside = Opening<2>::Outside::level;
  opening.outside_level = 0.8;
  const double y = 0.25;
  CHECK(behind(opening, 1000, 900, 2) - 1000 * 9.81 * y == about(500 - 1.2 * 9.81 * 0.8 + 900 * 9.81 * 0.55));
}

TEST_CASE("what comes in has spent pressure on its speed, what goes out has not") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  const Boundary<2> boundary(grid, space, {opening_in<2>(0, 1, 0, 1)});
  const auto densities = [](const OpeningFace<2>&) { return DensitiesAtOpening{0, 0, 1000}; };
  for (const double u : {-2.0, 2.0}) {  // along x: negative comes in through the upper side
    Cells<2> p(grid);
    boundary.set_pressure_behind(grid, {.G = {}, .air_density = 0, .densities = densities}, 0, faces_on(grid, u), p);
    const auto& face = boundary.faces(0).front();
    CHECK(0.5 * p.block(face.block)[face.behind] == about(u < 0 ? -2000 : 0).scale(1));
  }
}

TEST_CASE("where pressures are given the flow through the boundary is made to cancel") {
  const Grid<2> grid = grid_over<2>({0, 0}, {2, 1}, 0.1);
  const OpenSpace<2> space;
  auto feed = opening_in<2>(1, 0, 0.3, 0.5);
  feed.flow = [](double) { return 0.04; };
  Boundary<2> boundary(grid, space, {feed, opening_in<2>(0, 1, 0, 1)});
  CHECK(boundary.holds_pressure());
  CHECK(boundary.brings_flow());
  Faces<2> face_u = faces_on(grid);
  boundary.set_faces(grid, 0, faces_on(grid, 0.3), face_u);
  boundary.balance(grid, face_u);
  double in = 0;
  for (int axis = 0; axis < 2; ++axis)
    for (const auto& face : boundary.faces(axis))
      in += boundary.sign(face) * face_u[axis].block(face.block)[face.face] * 0.1;
  CHECK(std::abs(in) < 1e-14);
  for (const auto& face : boundary.faces(0))
    CHECK(face_u[0].block(face.block)[face.face] == about(0.04).epsilon(1e-12));
}

TEST_CASE("what passed is counted by opening, phase and direction, and goes into an archive") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  std::vector<Opening<2>> openings{opening_in<2>(0, 1, 0, 1), opening_in<2>(0, 0, 0, 1)};
  for (auto& opening : openings) opening.composition = {1, 0, 0};
  Boundary<2> boundary(grid, space, openings, 3);
  boundary.record(1, 2, true, 0.5);
  boundary.record(1, 2, true, 0.25);
  boundary.record(0, 0, false, 2);
  CHECK(boundary.throughput()[1].in == std::vector<double>{0, 0, 0.75});
  CHECK(boundary.throughput()[1].out == std::vector<double>{0, 0, 0});
  CHECK(boundary.throughput()[0].out == std::vector<double>{2, 0, 0});
  boundary.set_flow(0, -0.3);
  Archive out;
  boundary.archive(out);
  Boundary<2> again(grid, space, boundary.openings(), 3);
  Archive in(out.numbers(), out.texts());
  again.archive(in);
  CHECK(again.throughput()[1].in == boundary.throughput()[1].in);
  CHECK(again.throughput()[0].out == boundary.throughput()[0].out);
}

TEST_CASE("an opening where the vessel has no side is refused") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  CHECK_THROWS(Boundary<2>(grid, space, {opening_in<2>(0, 1, 2, 3)}));
}
