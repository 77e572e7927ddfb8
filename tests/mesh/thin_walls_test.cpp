#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <vector>

#include "about.hpp"
#include "mesh/open_space.hpp"

using namespace wavy;

namespace {

constexpr int cells = 32;
constexpr double h = 1.0 / cells;

/// The shell between two balls, `thickness` cells thick.
template <int D>
Solid<D> shell(const Vec<D>& centre, double radius, double thickness) {
  return difference(ball_solid<D>(centre, radius + 0.5 * thickness * h),
                    ball_solid<D>(centre, radius - 0.5 * thickness * h));
}

/// A plate through a place, `thickness` cells thick and longer than any box of the tests, its normal turned by `angle`.
Solid<2> plate(const Vec<2>& through, double angle, double thickness) {
  const Vec<2> along{-std::sin(angle), std::cos(angle)};
  const Vec<2> across{std::cos(angle), std::sin(angle)};
  std::vector<Vec<2>> corners;
  for (const auto& [a, b] : {std::array{-2.0, -0.5}, {2.0, -0.5}, {2.0, 0.5}, {-2.0, 0.5}})
    corners.push_back({through[0] + a * along[0] + b * thickness * h * across[0],
                       through[1] + a * along[1] + b * thickness * h * across[1]});
  return polygon_solid(corners);
}

constexpr double thicknesses[] = {0.02, 0.1, 0.25, 0.5, 0.75, 0.95, 1.0, 1.3};

}  // namespace

TEST_CASE("a shell of any thickness parts what is inside from what is outside") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, h);
  for (const double thickness : thicknesses)
    for (const double radius : {0.201, 0.25, 0.31}) {
      const OpenSpace<2> space(grid, nullptr, {shell<2>({0.503, 0.49}, radius, thickness)}, {});
      CAPTURE(thickness);
      CAPTURE(radius);
      REQUIRE(space.parts().size() == 2);
      // Cells that the wall goes through count wholly on one side: off by less than half a cell all round.
      const double inside = M_PI * std::pow(radius - 0.5 * thickness * h, 2);
      CHECK(std::abs(space.parts()[1] * space.open_volume() - inside) < M_PI * radius * h);
    }
  const Grid<3> box = grid_over<3>({0, 0, 0}, {1, 1, 1}, 1.0 / 16);
  for (const double thickness : {0.2, 0.8, 1.6}) {
    const OpenSpace<3> space(box, nullptr, {shell<3>({0.5, 0.47, 0.52}, 0.3, thickness)}, {});
    CAPTURE(thickness);
    REQUIRE(space.parts().size() == 2);
    CHECK(space.parts()[1] * space.open_volume() == about(4.0 / 3 * M_PI * 0.027).epsilon(0.25));
  }
}

TEST_CASE("a plate of any thickness and lean parts a box, one that ends before the lid does not") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, h);
  for (const double thickness : thicknesses)
    for (int degrees = 0; degrees < 180; degrees += 13)
      for (const double off : {0.0, 0.03, 0.31, 0.5}) {
        const Vec<2> through{0.5 + off * h, 0.5 - 0.4 * off * h};
        CAPTURE(thickness);
        CAPTURE(degrees);
        CAPTURE(off);
        const auto whole = plate(through, degrees * std::numbers::pi / 180, thickness);
        REQUIRE(OpenSpace<2>(grid, nullptr, {whole}, {}).parts().size() == 2);
        const auto gap = ball_solid<2>({0.5, 0.5}, 4 * h);
        CHECK(OpenSpace<2>(grid, nullptr, {difference(whole, gap)}, {}).parts().size() == 1);
      }
}

TEST_CASE("two boxes that nearly touch are two, however far they reach") {
  for (const double gap : {0.05, 0.4, 1.2})
    for (const double at : {0.0, 0.07, 0.4, 0.77})
      for (const double reach : {0.1, 0.25, 0.5, 0.9}) {
        const double low = 0.5 + at * h;
        const auto upper = box_solid<2>({0, low}, {0.75, 1});
        const auto lower = box_solid<2>({0, 0}, {0.5 + reach * h, low - gap * h});
        const auto both = union_of(upper, lower);
        CAPTURE(gap);
        CAPTURE(at);
        CAPTURE(reach);
        const auto parts = [&](const Solid<2>& vessel) {
          return OpenSpace<2>(grid_over<2>({0, 0}, {1, 1}, h), &vessel, {}, {}).parts().size();
        };
        CHECK(parts(both) == 2);
        CHECK(parts(union_of(both, box_solid<2>({0.25, 0.4}, {0.3, 0.6}))) == 1);
      }
}

TEST_CASE("where an axis repeats, a plate at the seam parts as one elsewhere does") {
  for (const double at : {-0.4, -0.1, 0.0, 0.1, 0.3}) {
    // Seen from both ends of the grid.
    std::vector<Solid<2>> plates;
    for (const double x : {at * h, 1 + at * h, 0.5}) plates.push_back(plate({x, 0.5}, 0, 0.2));
    const auto parts = [&](bool repeats, std::size_t count) {
      const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, h), {repeats, false});
      return OpenSpace<2>(grid, nullptr, {plates.end() - static_cast<long>(count), plates.end()}, {}).parts().size();
    };
    CAPTURE(at);
    CHECK(parts(true, 3) == 2);
    CHECK(parts(true, 1) == 1);
    CHECK(parts(false, 1) == 2);
  }
}

TEST_CASE("a hole in a plate between faces is as wide as it is, and faces are closed on either side of it") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, h);
  for (const double lower : {0.4, 0.4 + 0.3 * h, 0.4 + 0.7 * h})
    for (const double wide : {2.0, 3.4, 5.5}) {
      const auto wall = difference(box_solid<2>({-1, 0.5 + 0.3 * h}, {2, 0.5 + 0.5 * h}),
                                   box_solid<2>({lower, 0}, {lower + wide * h, 1}));
      const OpenSpace<2> space(grid, nullptr, {wall}, {});
      CAPTURE(lower);
      CAPTURE(wide);
      CHECK(space.parts().size() == 1);
      // In the row of the plate one of the two faces of each column lets through what the hole does.
      double open = 0;
      for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
        if (cell[1] != cells / 2) return;
        const double* area = space.area()[1].block(b);
        open += std::min(area[o], area[o + grid.layout().step[1]]);
      });
      CHECK(open == about(wide).epsilon(0.03));
      CHECK(space.hidden_walls() >= cells - static_cast<long>(wide) - 2);
      CHECK(space.hidden_walls() <= cells - static_cast<long>(wide));
    }
}

TEST_CASE("no face is closed at solids that are thicker than a cell, wherever they lie") {
  const Grid<2> grid = grid_over<2>({0, 0}, {1, 1}, h);
  const auto none_hidden = [&](const Solid<2>& solid) {
    CHECK(OpenSpace<2>(grid, nullptr, {solid}, {}).hidden_walls() == 0);
    const OpenSpace<2> inside(grid, &solid, {}, {});
    CHECK(inside.hidden_walls() == 0);
  };
  for (int n = 0; n < 40; ++n) {
    const Vec<2> centre{0.5 + 0.618 * n * h, 0.5 + 0.38 * n * h};
    const Vec<2> middle{0.5 + std::fmod(0.618 * n, 1.0) * h, 0.5 + std::fmod(0.38 * n, 1.0) * h};
    CAPTURE(n);
    none_hidden(ball_solid<2>(middle, (2 + 0.07 * n) * h));
    none_hidden(turned(box_solid<2>({0.4, 0.45}, {0.6, 0.55}), middle, 0.08 * n));
    none_hidden(cylinder_solid<2>({0.2, 0.5}, {0.8, 0.5 + 0.003 * n}, 0.2, Head::elliptical, Head::torispherical));
    none_hidden(ball_solid<2>(centre, 0.2));
  }
  const Grid<3> box = grid_over<3>({0, 0, 0}, {1, 1, 1}, 1.0 / 16);
  for (const double r : {0.15, 0.2, 0.27}) {
    const auto ball = ball_solid<3>({0.51, 0.48, 0.53}, r);
    CHECK(OpenSpace<3>(box, nullptr, {ball}, {}).hidden_walls() == 0);
    const auto rod = cylinder_solid<3>({0.1, 0.2, 0.3}, {0.8, 0.7, 0.9}, r);
    CHECK(OpenSpace<3>(box, &rod, {}, {}).hidden_walls() == 0);
  }
}
