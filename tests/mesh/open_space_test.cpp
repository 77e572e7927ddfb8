#include "mesh/open_space.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <utility>
#include <vector>

#include "about.hpp"

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
  CHECK(space_in(flat, disc).open_volume() == about(M_PI / 4).epsilon(1e-4));
  CHECK(space_in(flat, disc).wall_area() == about(M_PI).epsilon(2e-3));

  const auto drum = cylinder_solid<3>({0, 0, 0}, {1, 0, 0}, 0.5, Head::hemispherical, Head::hemispherical);
  const Grid<3> grid = grid_over<3>(drum.lower, drum.upper, 1.0 / 64);
  const auto space = space_in(grid, drum);
  CHECK(space.open_volume() == about(M_PI / 4 + M_PI / 6).epsilon(1e-4));
  CHECK(space.wall_area() == about(2 * M_PI).epsilon(1e-2));
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
    double open_volume = 0;
    for (const auto& place : group) open_volume += space.volume().block(place.block)[place.at];
    CHECK(open_volume >= 0.5);
  }
}

TEST_CASE("what goes round with a round wall passes the faces beside it and meets none in its way") {
  // By the stream function r^2/2: what comes into a cell goes out of it, but for what closed faces hold back.
  constexpr double R = 0.5;
  const auto vessel = ball_solid<2>({R, R}, R);
  for (const int cells : {24, 40, 64, 96}) {
    CAPTURE(cells);
    const double h = 2 * R / cells;
    const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, h);
    const OpenSpace<2> space(grid, &vessel, {}, {});
    double greatest = 0;  // left in a cell, over what passes a whole face at the wall
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      const auto through = [&](int d, int side) {  // of the part of the face that is nearest to the middle
        const double open = space.area()[d].block(b)[at + side * grid.layout().step[d]] * h;
        const double along = cell[1 - d] * h - R;
        const double from = along + 0.5 * h < 0 ? along + h - open : along;
        return (d == 0 ? -0.5 : 0.5) * (std::pow(from + open, 2) - std::pow(from, 2));
      };
      double left = 0;
      for (int d = 0; d < 2; ++d) left += through(d, 1) - through(d, 0);
      greatest = std::max(greatest, std::abs(left) / (R * h));
    });
    CHECK(greatest < 0.01);
  }
}

TEST_CASE("the rows that loops go through hold every open cell and all its neighbours, and little else") {
  const auto drum = cylinder_solid<3>({0, 0, 0}, {0.5, 0, 0}, 0.5, Head::hemispherical, Head::hemispherical);
  const Grid<3> grid = grid_over<3>(drum.lower, drum.upper, 1.0 / 64);
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
  for (const double slope : {0.0, 0.4, 1.1}) {
    // From wall to wall: two parts are left.
    const Vec<2> normal{std::cos(slope), std::sin(slope)};
    const ThinWall<2> wall{{0.47, 0.52}, normal, box_solid<2>({-1, -1}, {2, 2})};
    const OpenSpace<2> space(grid, nullptr, {}, {wall});
    REQUIRE(space.parts().size() == 2);
    CHECK(space.parts()[0] + space.parts()[1] == about(1));
    CHECK(space.open_volume() == about(1));
  }
  // With a gap at the top: one part.
  const ThinWall<2> baffle{{0.47, 0.5}, {1, 0}, box_solid<2>({0, 0}, {1, 0.8})};
  CHECK(OpenSpace<2>(grid, nullptr, {}, {baffle}).parts().size() == 1);
}

TEST_CASE("pockets that lead nowhere are closed") {
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 1.0 / 64));
  // A hollow ring: its inside is a pocket of 0.05 % of the space.
  const auto ring = difference(ball_solid<2>({0.5, 0.5}, 0.06), ball_solid<2>({0.5, 0.5}, 0.015));
  const OpenSpace<2> space(grid, nullptr, {ring}, {});
  CHECK(space.parts().size() == 1);
  CHECK(space.open_volume() == about(1 - M_PI * 0.06 * 0.06).epsilon(1e-3));
}

TEST_CASE("a cell belongs to one group at most, its own neighbours' through open faces") {
  const auto drum = cylinder_solid<3>({0, 0, 0}, {0.5, 0.2, 0.1}, 0.3, Head::elliptical, Head::flat);
  const Grid<3> grid = grid_over<3>(drum.lower, drum.upper, 1.0 / 24);
  const auto space = space_in(grid, drum);
  std::vector<std::pair<int, std::ptrdiff_t>> seen;
  double grouped = 0;
  for (const auto& group : space.groups()) {
    REQUIRE(group.size() >= 2);
    for (const auto& place : group) {
      seen.emplace_back(place.block, place.at);
      // With room first, and next to another of the group.
      CHECK(space.volume().block(place.block)[place.at] <= space.volume().block(group[0].block)[group[0].at]);
      const auto near = [&](const CellPlace& other) {
        const auto a = cell_middle<3>(grid, place.block, place.at);
        const auto b = cell_middle<3>(grid, other.block, other.at);
        double faces = 0;  // to pass from one to the other
        for (std::size_t d = 0; d < 3; ++d) faces += std::abs(a[d] - b[d]) / grid.spacing()[d];
        return faces < 1.01;
      };
      CHECK(std::count_if(group.begin(), group.end(), near) >= 2);  // itself and one more
    }
  }
  std::sort(seen.begin(), seen.end());
  CHECK(std::adjacent_find(seen.begin(), seen.end()) == seen.end());
  for_cells_in_order<3>(grid,
                        [&](int b, std::ptrdiff_t o, const Index<3>&) { grouped += space.grouped().block(b)[o]; });
  CHECK(grouped == static_cast<double>(seen.size()));
}

TEST_CASE("groups come block by block, and those across blocks last") {
  const auto tilted = cylinder_solid<3>({0.5, 0, 0.2}, {0.5, 1, 0.8}, 0.3);
  const Grid<3> grid = grid_over<3>({0, 0, 0}, {1, 1, 1}, 1.0 / 48);
  const auto space = space_in(grid, tilted);
  REQUIRE(grid.blocks() == 4);
  std::size_t next = 0;
  for (int b = 0; b <= grid.blocks(); ++b) {
    CHECK(space.groups_in(b)[0] == next);
    for_groups<3>(space, b, {&space.volume()}, [&](std::size_t number, const std::vector<CellPlace>& group) {
      CHECK(number == next++);
      CHECK(&group == &space.groups()[number]);
      std::set<int> blocks;
      for (const auto& place : group) blocks.insert(place.block);
      if (b < grid.blocks())
        CHECK(blocks == std::set<int>{b});
      else
        CHECK(blocks.size() > 1);
    });
    CHECK(space.groups_in(b)[1] == next);
    CHECK(space.groups_in(b)[1] > space.groups_in(b)[0]);  // there are some of each kind
  }
  CHECK(next == space.groups().size());
}

TEST_CASE("what hangs together over the seam of a grid that repeats is one, in parts as in groups") {
  // A plate from floor to ceiling, and a rod whose middle lies on the seam.
  const auto plate = box_solid<2>({0.4, 0}, {0.5, 1});
  const std::vector<Solid<2>> solids{plate, ball_solid<2>({0, 0.5}, 0.2), ball_solid<2>({1, 0.5}, 0.2)};
  const auto parts = [&](bool repeats) {
    const Grid<2> grid({0, 0}, {1, 1}, {{64, 64}, {64, 32}}, {repeats, false});
    return OpenSpace<2>(grid, nullptr, solids, {}).parts().size();
  };
  CHECK(parts(false) == 2);
  CHECK(parts(true) == 1);

  // As within the grid: the same volumes, areas and groups, seen from the rod.
  const auto space_round = [](double middle, const Grid<2>& grid) {
    std::vector<Solid<2>> rods;
    for (const double period : {-1, 0, 1}) rods.push_back(ball_solid<2>({middle + period, 0.5}, 0.2));
    return OpenSpace<2>(grid, nullptr, rods, {});
  };
  const Grid<2> grid({0, 0}, {1, 1}, {{64, 64}, {64, 32}}, {true, false});
  const auto seen = [&](double middle, int shift) {
    const auto space = space_round(middle, grid);
    std::map<Index<2>, std::array<double, 4>> found;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      found[{(cell[0] + shift) % 64, cell[1]}] = {space.volume().block(b)[o], space.area()[0].block(b)[o],
                                                  space.area()[1].block(b)[o], space.grouped().block(b)[o]};
    });
    return found;
  };
  const auto within = seen(0.5, 0);
  for (const auto& [cell, values] : seen(1, 32))
    for (std::size_t k = 0; k < 4; ++k) CHECK(values[k] == about(within.at(cell)[k]).epsilon(1e-9).scale(1));
}

TEST_CASE("walls that are mirrors have no friction and do not count, and the others keep theirs") {
  // Half a drum, cut from it by a mirror that stands askew in the grid.
  const auto round = cylinder_solid<3>({0.5, 0.5, 0}, {0.5, 0.5, 0.4}, 0.5);
  const double angle = 30 * M_PI / 180;
  const auto beyond = [=](const Vec<3>& p) { return std::cos(angle) * (p[1] - 0.5) - std::sin(angle) * (p[0] - 0.5); };
  const Solid<3> behind{beyond, round.lower, round.upper};
  const auto wedge = intersection<3>(round, behind);
  const Grid<3> grid = grid_over<3>(round.lower, round.upper, 1.0 / 32);
  auto space = space_in(grid, wedge);
  const double section = 1.0 * 0.4;  // of the mirror
  const double mantle = 0.5 * M_PI * 0.4;
  const double before = space.wall_area();
  CHECK(before == about(section + mantle).epsilon(0.02));
  space.set_mirrors(grid, [&](const Vec<3>& p) { return std::abs(beyond(p)) < std::abs(round.distance(p)); });
  CHECK(space.wall_area() == about(mantle).epsilon(0.03));
  long mirrors = 0;
  for (int b = 0; b < grid.blocks(); ++b)
    for (const auto& wall : space.wall_cells(b)) {
      const Vec<3> place = cell_middle<3>(grid, b, wall.at);
      if (wall.mirror) {
        ++mirrors;
        CHECK(wall.friction == 0);
        CHECK(std::abs(beyond(place)) < 2.0 / 32);
      } else if (wall.area > 0) {
        CHECK(wall.friction > 0);
      }
    }
  CHECK(mirrors > 32 * 12);
}
