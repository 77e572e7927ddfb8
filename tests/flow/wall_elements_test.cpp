// The list of wall elements: areas that close, and who they belong to.
#include "flow/wall_elements.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

template <int D>
struct Sums {
  Vec<D> area{};        // of normals times areas
  double size = 0;      // of areas
  double enclosed = 0;  // D times the volume by the divergence theorem: place . normal area
  double friction = 0;
};

template <int D, class Fn>
Sums<D> sums_of(const Grid<D>& grid, const WallElements<D>& elements, Fn&& counts) {
  Sums<D> sums;
  for (const auto& own : elements)
    for (const auto& element : own) {
      if (!counts(element)) continue;
      const double area = element.area * grid.cell_volume();
      for (std::size_t d = 0; d < D; ++d) {
        sums.area[d] += area * element.normal[d];
        sums.enclosed += area * element.normal[d] * element.place[d];
      }
      sums.size += area;
      sums.friction += element.friction * grid.cell_volume();
    }
  return sums;
}

template <int D>
using Of = typename WallElement<D>::Of;

}  // namespace

TEST_CASE("the sides of a box are its area, seen from inside, at half a cell's distance") {
  const Grid<3> grid = grid_over<3>({1, 2, 3}, {2, 4, 3.5}, 0.125);
  const OpenSpace<3> space;
  WallRule<3> rule;
  rule.sides[1][0] = Wall::slip;
  rule.sides[2][1] = Wall::mirror;
  const auto elements = find_wall_elements<3>(grid, space, rule, {}, {});
  const auto all = sums_of(grid, elements, [](const auto&) { return true; });
  CHECK(all.size == about(2 * (1 * 2 + 2 * 0.5 + 1 * 0.5)).epsilon(1e-12));
  CHECK(all.enclosed == about(3 * 1 * 2 * 0.5).epsilon(1e-12));
  for (const double c : all.area) CHECK(c == about(0).scale(1));
  CHECK(all.friction == about((all.size - 2) * 2 / 0.125).epsilon(1e-12));  // but at the mirror
  const auto slips = sums_of(grid, elements, [](const auto& element) { return element.kind == Wall::slip; });
  CHECK(slips.size == about(0.5).epsilon(1e-12));
  CHECK(slips.area[1] == about(-0.5).epsilon(1e-12));
}

TEST_CASE("what openings take of a side is no wall") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const OpenSpace<2> space;
  Opening<2> opening;
  opening.axis = 1;
  opening.side = 1;
  opening.within = AlignedBox<2>{{0.23, 0}, {0.58, 1}};
  opening.pressure = [](double) { return 0.0; };
  const Boundary<2> boundary(grid, space, {opening});
  const auto elements = find_wall_elements<2>(grid, space, {}, {}, boundary);
  const auto lid = sums_of(grid, elements, [](const auto& element) { return element.normal[1] > 0; });
  CHECK(lid.size == about(0.65).epsilon(1e-12));
}

TEST_CASE("the wall of a solid closes, and has its area and its volume") {
  const double radius = 0.31;
  for (const double h : {1.0 / 16, 1.0 / 32}) {
    const Grid<3> grid = grid_over<3>({0, 0, 0}, {1, 1, 1}, h);
    const OpenSpace<3> space(grid, nullptr, {ball_solid<3>({0.51, 0.47, 0.5}, radius)}, {});
    const auto elements = find_wall_elements<3>(grid, space, {}, {}, {});
    const auto ball = sums_of(grid, elements, [](const auto& element) { return element.of == Of<3>::solid; });
    for (const double c : ball.area) CHECK(c == about(0).scale(1));
    CHECK(ball.size == about(4 * M_PI * radius * radius).epsilon(0.1 * h / radius));
    // Into the solid: the volume counts negative.
    CHECK(ball.enclosed == about(-4 * M_PI * std::pow(radius, 3)).epsilon(0.2 * h / radius));
    CHECK(ball.friction > ball.size / h);  // no fluid is farther than a cell
  }
}

TEST_CASE("a thin wall has two sides, and moves with no solid beside it") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const ThinWall<2> plate{{0.5, 0}, {1, 0}, box_solid<2>({0.45, 0}, {0.55, 0.6})};
  const OpenSpace<2> space(grid, nullptr, {ball_solid<2>({0.2, 0.8}, 0.12)}, {plate});
  MovingWalls<2> moving;
  moving.motions.push_back([](double) { return RigidMotion<2>{{}, {0, 0, 3}, {0.2, 0.8}}; });
  moving.solid = [](const Vec<2>&) { return 0; };
  const auto elements = find_wall_elements<2>(grid, space, {{}, Wall::slip}, moving, {});
  const auto thin = sums_of(grid, elements, [](const auto& element) { return element.of == Of<2>::thin; });
  CHECK(thin.size == about(1.2).epsilon(1e-12));
  CHECK(thin.area[0] == about(0).scale(1));
  CHECK(thin.friction == about(1.2 / 0.05).epsilon(1e-12));
  for (const auto& own : elements)
    for (const auto& element : own) {
      CHECK(element.motion == (element.of == Of<2>::solid ? 0 : MovingWalls<2>::none));
      if (element.of == Of<2>::thin) CHECK(std::abs(element.place[0] - 0.5) < 1e-12);
    }
}

TEST_CASE("a block's list has its sides first, and walls of solids and thin walls last") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.1);
  const ThinWall<2> plate{{0.5, 0}, {1, 0}, box_solid<2>({0.45, 0}, {0.55, 0.6})};
  const OpenSpace<2> space(grid, nullptr, {ball_solid<2>({0.2, 0.8}, 0.12)}, {plate});
  std::size_t solids = 0;
  for (const auto& own : find_wall_elements<2>(grid, space, {}, {}, {})) {
    const auto last = beside_solids<2>(own);
    solids += last.size();
    for (const auto& element : own) CHECK((element.of == Of<2>::side) == (&element < last.data()));
  }
  CHECK(solids > 12);
  CHECK(beside_solids<2>({}).empty());
}

TEST_CASE("the wall of a solid has no friction where it lies in an opening") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 0.05);
  const auto vessel = ball_solid<2>({0.5, 0.5}, 0.48);
  const OpenSpace<2> space(grid, &vessel, {}, {});
  Opening<2> opening;
  opening.name = "nozzle";
  opening.on_wall = [](const Vec<2>& x) { return std::abs(x[0] - 0.5) < 0.1 && x[1] > 0.5 ? 1.0 : 0.0; };
  opening.flow = [](double) { return 0.1; };
  const Boundary<2> boundary(grid, space, {opening});
  int passed = 0;
  for (const auto& own : find_wall_elements<2>(grid, space, {}, {}, boundary))
    for (const auto& element : beside_solids<2>(own)) {
      if (element.friction == 0) {
        ++passed;
        CHECK(std::abs(element.middle[0] - 0.5) < 0.1);
        CHECK(element.middle[1] > 0.5);
      } else {
        CHECK((std::abs(element.middle[0] - 0.5) > 0.09 || element.middle[1] < 0.5));
      }
    }
  CHECK(passed >= 4);
}

TEST_CASE("a wall that turns about its middle moves along itself; one that slides across itself does not") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, 1.0 / 64);
  const OpenSpace<2> space(grid, nullptr, {ball_solid<2>({0.5, 0.5}, 0.3)}, {});
  MovingWalls<2> moving;
  moving.motions.emplace_back();
  moving.solid = [](const Vec<2>&) { return 0; };
  const auto elements = find_wall_elements<2>(grid, space, {}, moving, {});
  const auto turns = meet_wall<2>(elements, 0, {{}, {0, 0, 2}, {0.5, 0.5}});
  CHECK(turns.greatest == about(0.6).epsilon(0.01));
  CHECK(turns.across < turns.greatest / (64 * 0.3));  // a wall is straight within a cell
  const auto slides = meet_wall<2>(elements, 0, {{1, 0}, {}, {}});
  CHECK(slides.greatest == 1);
  CHECK(slides.across == about(1).epsilon(0.01));
  CHECK(meet_wall<2>(elements, 7, {{1, 0}, {}, {}}).greatest == 0);
}
