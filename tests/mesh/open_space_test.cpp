#include "mesh/open_space.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace wavy;

namespace {

template <int D>
OpenSpace<D> space_in(const Grid<D>& grid, const Solid<D>& vessel) {
  return OpenSpace<D>(grid, &vessel, {}, {});
}

}  // namespace

TEST_CASE("round vessels hold their volume to a ten-thousandth at 32 cells per diameter") {
  const auto disc = ball_solid<2>({0.5, 0.5}, 0.5);
  const Grid<2> flat = grid_over<2>(disc.lower, disc.upper, 1.0 / 32);
  CHECK(space_in(flat, disc).open_volume() == doctest::Approx(M_PI / 4).epsilon(1e-4));
  CHECK(space_in(flat, disc).wall_area() == doctest::Approx(M_PI).epsilon(2e-3));

  const auto drum = cylinder_solid<3>({0, 0, 0}, {1, 0, 0}, 0.5, Head::hemispherical, Head::hemispherical);
  const Grid<3> grid = grid_over<3>(drum.lower, drum.upper, 1.0 / 32);
  const auto space = space_in(grid, drum);
  CHECK(space.open_volume() == doctest::Approx(M_PI / 4 + M_PI / 6).epsilon(1e-4));
  CHECK(space.wall_area() == doctest::Approx(2 * M_PI).epsilon(1e-2));
  CHECK(space.parts().size() == 1);
}

TEST_CASE("no cell in a cut grid has less than half a cell's room but in a group, and walls close round it") {
  const auto disc = ball_solid<2>({0.5, 0.5}, 0.5);
  const Grid<2> grid = grid_over<2>(disc.lower, disc.upper, 1.0 / 32);
  const auto space = space_in(grid, disc);
  long cut = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    const double volume = space.volume().block(b)[o];
    if (volume > 0 && volume < 0.5) CHECK(space.grouped().block(b)[o] == 1);
    if (volume > 0 && volume < 1) ++cut;
    if (volume == 0)
      for (std::size_t d = 0; d < 2; ++d) {
        CHECK(space.area()[d].block(b)[o] == 0);
        CHECK(space.area()[d].block(b)[o + grid.layout().step[d]] == 0);
      }
  });
  CHECK(cut > 60);
  for (const auto& group : space.groups()) {
    double room = 0;
    for (const auto& place : group) room += space.volume().block(place.block)[place.at];
    CHECK(room >= 0.5);
  }
}

TEST_CASE("the rows that loops go through hold every open cell and all its neighbours, and little else") {
  const auto drum = cylinder_solid<3>({0, 0, 0}, {0.5, 0, 0}, 0.5, Head::hemispherical, Head::hemispherical);
  const Grid<3> grid = grid_over<3>(drum.lower, drum.upper, 1.0 / 32);
  const auto space = space_in(grid, drum);
  long met = 0;
  for (int b = 0; b < grid.blocks(); ++b) {
    std::vector<std::ptrdiff_t> reached;
    for_open_rows<3>(space, b, grid.layout(), {-1, -1, -1}, faces_end<3>(grid.layout(), 1),
                     [&](std::ptrdiff_t o, int n) {
                       for (int i = 0; i < n; ++i) reached.push_back(o + i);
                     });
    std::sort(reached.begin(), reached.end());
    met += static_cast<long>(reached.size());
    for_rows<3>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (space.volume().block(b)[at] == 0) continue;
        for_shifts<3>(1, [&](const Index<3>& shift, int) {
          const std::ptrdiff_t near = at + grid.layout().offset(shift);
          const auto& cells = grid.layout().cells;
          if (axis_index<3>(grid.layout(), near, 0) < cells[0] && axis_index<3>(grid.layout(), near, 2) < cells[2])
            CHECK(std::binary_search(reached.begin(), reached.end(), near));
        });
      }
    });
  }
  CHECK(met < 0.9 * static_cast<double>(grid.cell_count()));
}

TEST_CASE("a wall thinner than a cell closes a row of faces without a gap") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 32));
  for (const double lean : {0.0, 0.4, 1.1}) {
    // From wall to wall: two parts are left.
    const Vec<2> normal{std::cos(lean), std::sin(lean)};
    const ThinWall<2> wall{{0.47, 0.52}, normal, box_solid<2>({-1, -1}, {2, 2})};
    const OpenSpace<2> space(grid, nullptr, {}, {wall});
    REQUIRE(space.parts().size() == 2);
    CHECK(space.parts()[0] + space.parts()[1] == doctest::Approx(1));
    CHECK(space.open_volume() == doctest::Approx(1));
  }
  // With a gap at the top: one part.
  const ThinWall<2> baffle{{0.47, 0.5}, {1, 0}, box_solid<2>({0, 0}, {1, 0.8})};
  CHECK(OpenSpace<2>(grid, nullptr, {}, {baffle}).parts().size() == 1);
}

TEST_CASE("pockets that lead nowhere are closed") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 64));
  // A hollow ring: its inside is a pocket of 0.05 % of the space.
  const auto ring = without(ball_solid<2>({0.5, 0.5}, 0.06), ball_solid<2>({0.5, 0.5}, 0.015));
  const OpenSpace<2> space(grid, nullptr, {ring}, {});
  CHECK(space.parts().size() == 1);
  CHECK(space.open_volume() == doctest::Approx(1 - M_PI * 0.06 * 0.06).epsilon(1e-3));
}
