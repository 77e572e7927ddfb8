// Gradients of velocities in cells beside walls and in groups of cells.
#include "flow/wall_gradients.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

/// Cells of 1 cm, a shaft that turns in a drum.
struct Annulus {
  static constexpr double turning = 3;
  Solid<2> drum = ball_solid<2>({0.2, 0.2}, 0.2);
  Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.01);
  OpenSpace<2> space{grid, &drum, {ball_solid<2>({0.2, 0.2}, 0.083)}, {}, false};
  MovingWalls<2> moving = [] {
    MovingWalls<2> result;
    result.motions = {[](double) { return RigidMotion<2>{{}, {0, 0, turning}, {0.2, 0.2}}; }};
    result.solid = [](const Vec<2>& p) { return std::hypot(p[0] - 0.2, p[1] - 0.2) < 0.14 ? 0 : -1; };
    return result;
  }();
  WallElements<2> elements = find_wall_elements<2>(grid, space, {}, moving, {});
  WallVelocity<2> walls{grid, space, moving, elements};
  WallGradients<2> gradients{grid, space, {}, walls, elements};

  /// Where the velocity of a cell is meant to be.
  [[nodiscard]] Vec<2> middle(int b, std::ptrdiff_t at) const {
    Vec<2> place = cell_middle<2>(grid, b, at);
    for (int d = 0; d < 2; ++d) place[d] += gradients.middle()[d].block(b)[at] * grid.spacing()[d];
    return place;
  }
  /// Of fluid that has `of` there; halo filled.
  template <class Fn>
  [[nodiscard]] CellVectors<2> field(Fn&& of) const {
    Cells<2> u(grid);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
      u.block(b)[at] = space.volume().block(b)[at] > 0 ? of(middle(b, at)) : 0;
    });
    fill_halo(grid, u, 1, all_walls<2>(Mirror::odd));
    return {u, u};
  }
};

}  // namespace

TEST_CASE("beside round walls the gradient of a linear velocity is found, in groups of cells too") {
  const Annulus a;
  const CellVectors<2> u = a.field([](const Vec<2>& x) { return 5 * x[0] - 2 * x[1]; });
  bool grouped = false;
  for (const auto& piece : a.gradients.pieces()) {
    grouped = grouped || piece.cells.size() > 1;
    const auto fit = a.gradients.fit(piece, u, false)[0];
    // As far as the rest is that is put on the diagonal.
    CHECK(fit.gradient[0] == about(5).epsilon(0.02));
    CHECK(fit.gradient[1] == about(-2).epsilon(0.04));
    CHECK(fit.least <= fit.most);
    const Vec<2> middle = a.middle(piece.cells[0].block, piece.cells[0].at);
    CHECK(fit.mean == about(5 * middle[0] - 2 * middle[1]).epsilon(1e-12));
  }
  CHECK(grouped);
}

TEST_CASE("what walls do counts in gradients where it is asked for") {
  Annulus a;
  a.walls.set_time(0);
  // The shaft's own turning, carried on into fluid: u_x = -3 (y - 0.2).
  const CellVectors<2> turning = a.field([](const Vec<2>& x) { return -Annulus::turning * (x[1] - 0.2); });
  const CellVectors<2> still = a.field([](const Vec<2>&) { return 0.0; });
  int held = 0;
  for (const auto& piece : a.gradients.pieces()) {
    const Vec<2> middle = a.middle(piece.cells[0].block, piece.cells[0].at);
    const bool at_shaft = std::hypot(middle[0] - 0.2, middle[1] - 0.2) < 0.14;
    CHECK(!piece.walls.empty());
    CHECK(a.gradients.fit(piece, still, false)[0].gradient == Vec<2>{});
    if (!at_shaft) {
      CHECK(a.gradients.fit(piece, still, true)[0].gradient == Vec<2>{});
      continue;
    }
    ++held;
    const auto fit = a.gradients.fit(piece, turning, true)[0];
    CHECK(std::abs(fit.gradient[0]) < 0.05 * Annulus::turning);
    CHECK(fit.gradient[1] == about(-Annulus::turning).epsilon(0.02));
    // Beside fluid at rest the velocity grows towards the shaft's.
    const Vec<2> out{(middle[0] - 0.2), (middle[1] - 0.2)};
    if (std::abs(out[1]) < 0.05) continue;
    CHECK(dot<2>(a.gradients.fit(piece, still, true)[0].gradient, out) * out[1] > 0);
  }
  CHECK(held > 40);
}

TEST_CASE("gradients do not look through walls thinner than a cell, nor behind sides that hold the fluid") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.02);
  const ThinWall<2> plate{{0.2, 0}, {1, 0}, box_solid<2>({0.15, -0.1}, {0.25, 0.5})};
  const OpenSpace<2> space(grid, nullptr, {}, {plate});
  WallKinds<2> kinds;
  for (auto& axis : kinds) axis = {Wall::no_slip, Wall::no_slip};
  const auto elements = find_wall_elements<2>(grid, space, {kinds}, {}, {});
  const WallGradients<2> gradients(grid, space, kinds, walls_at_rest<2>(), elements);
  CellVectors<2> u{Cells<2>(grid), Cells<2>(grid)};
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
    u[0].block(b)[at] = cell[0] >= 10 ? 7 : 3 * cell_middle<2>(grid, b, at)[1];
  });
  fill_halo(grid, u[0], 1, all_walls<2>(Mirror::odd));
  int before = 0;
  for (const auto& piece : gradients.pieces()) {
    const auto& [b, at] = piece.cells[0];
    const bool behind = cell_middle<2>(grid, b, at)[0] > 0.2;
    before += behind ? 0 : 1;
    const Vec<2> gradient = gradients.fit(piece, u, false)[0].gradient;
    CHECK(std::abs(gradient[0]) < 0.005);
    CHECK(gradient[1] == about(behind ? 0.0 : 3.0).epsilon(0.02));
    // With it the wall at rest a centimetre away is seen: the velocity rises from it.
    const Vec<2> held = gradients.fit(piece, u, true)[0].gradient;
    CHECK((behind ? held[0] : -held[0]) > 0);
  }
  CHECK(before == 20);
}

TEST_CASE("cells behind sides of the grid have the gradients of those inside, with the signs of the rules") {
  const Solid<2> drum = ball_solid<2>({0, 0.2}, 0.2);
  const Grid<2> grid = grid_over<2>({0, 0}, {0.2, 0.4}, 0.01);  // half of it
  const OpenSpace<2> space(grid, &drum, {}, {}, false);
  const WallElements<2> elements = find_wall_elements<2>(grid, space, {}, {}, {});
  const WallGradients<2> gradients(grid, space, {}, walls_at_rest<2>(), elements);
  KeptGradients<2> kept(grid, gradients,
                        [](std::size_t c) { return all_walls<2>(c == 0 ? Mirror::odd : Mirror::even); });
  const auto of = [](std::size_t piece) {
    const double x = 1 + static_cast<double>(piece);
    return KeptGradients<2>::Matrix{Vec<2>{x, 2 * x}, Vec<2>{3 * x, 4 * x}};
  };
  kept.keep(of);
  int inside = 0;
  int behind = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t at, const Index<2>& cell) {
    if (!gradients.tells(b, at)) return;
    ++inside;
    const auto wanted = of(gradients.piece_of(b, at));
    CHECK(kept[kept.place(b, at)] == wanted);
    if (cell[0] > 0) return;
    const std::ptrdiff_t image = at - 1;
    REQUIRE(gradients.tells(b, image));
    ++behind;
    const auto& found = kept[kept.place(b, image)];
    for (std::size_t d = 0; d < 2; ++d) {
      CHECK(found[0][d] == -wanted[0][d]);
      CHECK(found[1][d] == wanted[1][d]);
    }
  });
  CHECK(inside > 40);
  CHECK(behind >= 2);
}
