// Zones that are seen from a turning frame: what passes faces there, and what turns momentum.
#include "flow/turning_frames.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"
#include "flow/turning_solids.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

constexpr double omega = 3;

/// One shaft through the middle of a unit square or cube, and a zone round it.
template <int D>
TurningSettings<D> turning(const FrameZone<D>& zone) {
  TurningSettings<D> settings;
  Vec<D> about;
  about.fill(0.5);
  settings.shafts = {[about](double) {
    Pose<D> pose;
    pose.motion.turning[2] = omega;
    pose.motion.about = about;
    return pose;
  }};
  settings.frames = {zone};
  return settings;
}

template <int D>
Faces<D> still(const Grid<D>& grid) {
  Faces<D> faces;
  for (auto& field : faces) field = Cells<D>(grid);
  return faces;
}

}  // namespace

TEST_CASE(
    "what a frame takes off the flow is a solid's turning within its zone, nothing outside, and brings no cell "
    "anything") {
  const Grid<3> grid({0, 0, 0}, {1, 1, 1}, Partition<3>{{32, 32, 16}, {16, 16, 8}});
  const OpenSpace<3> space;
  const TurningFrames<3> frames(grid, space, turning<3>({.radius = 0.31, .lower = 0.25, .upper = 0.75}));
  REQUIRE_FALSE(frames.none());
  const Faces<3> seen = frames.seen(grid, still(grid));
  const double h = grid.spacing()[0];
  double brought = 0;
  int within = 0;
  for_cells_in_order<3>(grid, [&](int b, std::ptrdiff_t at, const Index<3>& cell) {
    const double y = (cell[1] + 0.5) * h - 0.5;
    const double far = std::hypot(std::abs(cell[0] * h - 0.5) + h, std::abs(y) + h);
    const double near = std::hypot(std::max(std::abs(cell[0] * h - 0.5) - h, 0.0), std::max(std::abs(y) - h, 0.0));
    const bool at_height = cell[2] >= 4 && cell[2] < 12;
    if (at_height && far < 0.31) {
      CHECK(seen[0].block(b)[at] == about(omega * y).epsilon(1e-12));
      ++within;
    }
    if (!at_height || near > 0.31) CHECK(seen[0].block(b)[at] == 0);
    CHECK(seen[2].block(b)[at] == 0);
    double sum = 0;
    for (std::size_t d = 0; d < 2; ++d)
      sum += (seen[d].block(b)[at + grid.layout().step[d]] - seen[d].block(b)[at]) / grid.spacing()[d];
    brought = std::max(brought, std::abs(sum));
  });
  CHECK(within > 500);
  CHECK(brought < 1e-12);
}

TEST_CASE("water that turns as one with its frame needs the pull to the axis that keeps it on its circle") {
  const Grid<2> grid({0, 0}, {1, 1}, Partition<2>{{40, 40}, {20, 20}});
  const OpenSpace<2> space;
  TurningFrames<2> frames(grid, space, turning<2>({.radius = 0.4}));
  CellVectors<2> u;
  CellVectors<2> last;
  for (std::size_t d = 0; d < 2; ++d) u[d] = last[d] = Cells<2>(grid);
  const double h = grid.spacing()[0];
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
    u[0].block(b)[at] = -omega * ((cell[1] + 0.5) * h - 0.5);
    u[1].block(b)[at] = omega * ((cell[0] + 0.5) * h - 0.5);
  });
  frames.keep(grid, u);
  Faces<2> gain = still(grid);
  frames.find_gain(grid, u, last, 0.1);
  frames.add_gain(grid, nullptr, gain);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
    const double x = cell[0] * h - 0.5;
    const double r = std::hypot(x, (cell[1] + 0.5) * h - 0.5);
    if (r < 0.4 - 2 * h) CHECK(std::abs(gain[0].block(b)[at] - omega * omega * x) < 1e-12);
    if (r > 0.4 + 2 * h) CHECK(gain[0].block(b)[at] == 0);
  });

  SUBCASE("where nothing is it does not count") {
    Cells<2> left_out(grid);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      left_out.block(b)[at] = cell[0] < 20 ? 1.0 : 0.0;
    });
    fill_halo(grid, left_out, 1, all_walls<2>(Mirror::even));
    Faces<2> half = still(grid);
    frames.add_gain(grid, &left_out, half);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
      if (std::abs(cell[1] - 20) > 4) return;
      if (cell[0] < 20) CHECK(half[0].block(b)[at] == 0);
      if (cell[0] == 20) CHECK(half[0].block(b)[at] == about(omega * omega * 0.5 * h).epsilon(1e-12));
    });
  }
}

TEST_CASE("a frame keeps clear of cells that walls cut, and a shaft without zones has none") {
  const Grid<2> grid({0, 0}, {1, 1}, Partition<2>{{40, 40}, {20, 20}});
  const Solid<2> drum = ball_solid<2>({0.5, 0.5}, 0.37);
  const OpenSpace<2> space(grid, &drum, {}, {}, false);
  const TurningFrames<2> frames(grid, space, turning<2>({.radius = 0.49}));
  const Faces<2> seen = frames.seen(grid, still(grid));
  bool any = false;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
    any = any || seen[0].block(b)[at] != 0;
    if (space.volume().block(b)[at] == 1) return;
    for (std::size_t d = 0; d < 2; ++d)
      for (const std::ptrdiff_t face : {at, at + grid.layout().step[d]}) CHECK(seen[d].block(b)[face] == 0);
  });
  CHECK(any);
  TurningSettings<2> none = turning<2>({.radius = 0.3});
  none.frames.clear();
  CHECK(TurningFrames<2>(grid, space, none).none());
}
