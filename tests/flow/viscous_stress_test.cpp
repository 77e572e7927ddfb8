// The viscous stress and the friction of walls by themselves, without an interface.
#include "flow/viscous_stress.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <utility>

#include "about.hpp"
#include "geometry/solids.hpp"

using namespace wavy;

namespace {

constexpr double rho = 900;
constexpr double mu = 0.3;

WallKinds<2> all(Wall kind) {
  WallKinds<2> kinds;
  for (auto& axis : kinds) axis = {kind, kind};
  return kinds;
}

template <int D, class Fn>
CellVectors<D> velocity_of(const Grid<D>& grid, Fn&& of) {
  CellVectors<D> u;
  for (auto& component : u) component = Cells<D>(grid);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const Vec<D> value = of(cell_middle<D>(grid, b, o));
    for (std::size_t c = 0; c < D; ++c) u[c].block(b)[o] = value[c];
  });
  return u;
}

/// dt mu / h^2 on all faces, times the space's conductance.
template <int D>
void set_uniform(const Grid<D>& grid, const OpenSpace<D>& space, double dt, ViscousStress<D>& stress) {
  for (std::size_t d = 0; d < D; ++d) {
    const double factor = dt * mu / (grid.spacing()[d] * grid.spacing()[d]);
    for (auto& component : stress.faces()[d])
      for (int b = 0; b < grid.blocks(); ++b)
        for_open_rows<D>(space, b, grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), static_cast<int>(d)),
                         [&](std::ptrdiff_t o, int n) {
                           for (std::ptrdiff_t at = o; at < o + n; ++at)
                             component.block(b)[at] =
                                 factor * (space.is_uncut(b) ? 1.0 : space.face_conductance()[d].block(b)[at]);
                         });
  }
}

template <int D>
double greatest(const Grid<D>& grid, const Cells<D>& field) {
  return max_blocks(grid, [&](int b) {
    double most = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) most = std::max(most, std::abs(field.block(b)[o + i]));
    });
    return most;
  });
}

/// Of one fluid, over the volume of a whole cell; 1 where nothing is open.
Cells<2> masses(const Grid<2>& grid, const OpenSpace<2>& space) {
  Cells<2> mass(grid, rho);
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
    const double volume = OpenVolumes<2>(space, b)[o];
    mass.block(b)[o] = volume > 0 ? volume * rho : 1.0;
  });
  return mass;
}

}  // namespace

TEST_CASE("a shear wave between walls that do not slip decays as the difference equations say") {
  const double H = 0.2;
  const Grid<2> grid = grid_over<2>({0, 0}, {0.2, H}, 0.2 / 32, {true, false});
  const double h = grid.spacing()[1];
  // sin(pi y / H) is odd about both walls: an eigenvector, of 4 mu / (rho h^2) sin^2(pi h / 2 H).
  const double k = std::numbers::pi / H;
  const double decay = 4 * mu / (rho * h * h) * std::pow(std::sin(k * h / 2), 2);
  CHECK(decay == about(mu / rho * k * k).epsilon(1e-2));
  const OpenSpace<2>& space = all_open<2>();
  const Cells<2> mass(grid, rho);
  const WallKinds<2> kinds = [] {
    auto result = all(Wall::slip);
    result[1] = {Wall::no_slip, Wall::no_slip};
    return result;
  }();
  const auto wave = [&](const Vec<2>& x) { return Vec<2>{std::sin(k * x[1]), 0}; };
  const auto error = [&](const CellVectors<2>& u, double factor) {
    const auto exact = velocity_of<2>(grid, [&](const Vec<2>& x) { return Vec<2>{factor * wave(x)[0], 0}; });
    double worst = greatest<2>(grid, u[1]);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      worst = std::max(worst, std::abs(u[0].block(b)[o] - exact[0].block(b)[o]));
    });
    return worst;
  };
  ViscousStress<2> stress(grid, space, kinds, walls_at_rest<2>(), no_wall_elements<2>());

  double dt = 0.1 * rho * h * h / mu;
  auto u = velocity_of<2>(grid, wave);
  set_uniform(grid, space, dt, stress);
  fill_velocity_halo<2>(grid, space, kinds, walls_at_rest<2>(), 1, u);
  stress.step_explicitly(grid, mass, false, u);
  CHECK(error(u, 1 - decay * dt) < 1e-13);

  dt = 50 * rho * h * h / mu;
  u = velocity_of<2>(grid, wave);
  const auto still = velocity_of<2>(grid, [](const Vec<2>&) { return Vec<2>{}; });
  set_uniform(grid, space, dt, stress);
  fill_velocity_halo<2>(grid, space, kinds, walls_at_rest<2>(), 1, u);
  stress.set_right_hand_sides(grid, mass, u, still, dt, false);
  stress.solve(grid, mass, 1e-13, u);
  CHECK(error(u, 1 / (1 + decay * dt)) < 1e-11);
}

TEST_CASE("without walls that hold it a shear flow loses energy and no momentum") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.3, 0.2}, 0.01, {true, true});
  const OpenSpace<2>& space = all_open<2>();
  const Cells<2> mass(grid, rho);
  auto u = velocity_of<2>(grid, [](const Vec<2>& x) {
    return Vec<2>{1 + std::sin(2 * std::numbers::pi * x[1] / 0.2) * std::cos(2 * std::numbers::pi * x[0] / 0.3),
                  x[0] > 0.1 ? 0.5 : -0.2};
  });
  const auto sum = [&](const Cells<2>& field, int power) {
    return sum_blocks(grid, [&](int b) {
      double total = 0;
      for_rows<2>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) total += std::pow(field.block(b)[o + i], power);
      });
      return total;
    });
  };
  const Vec<2> momentum{sum(u[0], 1), sum(u[1], 1)};
  const double energy = sum(u[0], 2) + sum(u[1], 2);
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls_at_rest<2>(), no_wall_elements<2>());
  set_uniform(grid, space, 0.05 * rho * 1e-4 / mu, stress);
  for (int step = 0; step < 20; ++step) {
    fill_velocity_halo<2>(grid, space, all(Wall::slip), walls_at_rest<2>(), 1, u);
    stress.step_explicitly(grid, mass, false, u);
  }
  CHECK(sum(u[0], 1) == about(momentum[0]).epsilon(1e-12));
  CHECK(sum(u[1], 1) == about(momentum[1]).epsilon(1e-12));
  CHECK(sum(u[0], 2) + sum(u[1], 2) < 0.95 * energy);
}

TEST_CASE("a fluid that turns as a rigid body feels no stress") {
  const Grid<2> grid = grid_over<2>({-0.1, -0.1}, {0.1, 0.1}, 0.01);
  const OpenSpace<2>& space = all_open<2>();
  const Cells<2> mass(grid, rho);
  const auto rigid = [](const Vec<2>& x) { return Vec<2>{-3 * x[1], 3 * x[0]}; };
  auto u = velocity_of<2>(grid, rigid);
  const auto before = u;
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls_at_rest<2>(), no_wall_elements<2>());
  set_uniform(grid, space, 0.1 * rho * 1e-4 / mu, stress);
  fill_velocity_halo<2>(grid, space, all(Wall::slip), walls_at_rest<2>(), 1, u);
  stress.step_explicitly(grid, mass, false, u);
  double worst = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    if (cell[0] < 2 || cell[1] < 2 || cell[0] > 17 || cell[1] > 17) return;  // what walls do
    for (std::size_t c = 0; c < 2; ++c) worst = std::max(worst, std::abs(u[c].block(b)[o] - before[c].block(b)[o]));
  });
  CHECK(worst < 1e-14);
}

TEST_CASE("along a slanted wall that is met by its law a fluid that glides goes on as it is") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.02);
  const OpenSpace<2> space(grid, nullptr, {polygon_solid({{-1, -0.5}, {1.4, 0.7}, {1.4, -1}})}, {});
  const Cells<2> mass = masses(grid, space);
  const auto elements = find_wall_elements<2>(grid, space, {}, {}, {});  // that take nothing
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls_at_rest<2>(), elements);
  const auto changed = [&](bool law_of_wall, bool implicitly) {
    auto u = velocity_of<2>(grid, [](const Vec<2>&) { return Vec<2>{2, 1}; });
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>&) {
      for (auto& component : u)
        if (OpenVolumes<2>(space, b)[o] == 0) component.block(b)[o] = 0;
    });
    const auto still = velocity_of<2>(grid, [](const Vec<2>&) { return Vec<2>{}; });
    set_uniform(grid, space, 0.1 * rho * 4e-4 / mu, stress);
    stress.set_held(grid, mass, implicitly);
    fill_velocity_halo<2>(grid, space, all(Wall::slip), walls_at_rest<2>(), 1, u);
    if (implicitly) {
      stress.set_right_hand_sides(grid, mass, u, still, 0.01, law_of_wall);
      stress.solve(grid, mass, 1e-14, u);
    } else {
      stress.step_explicitly(grid, mass, law_of_wall, u);
    }
    double worst = 0;
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      if (OpenVolumes<2>(space, b)[o] == 0) return;
      for (int d = 0; d < 2; ++d)
        if (cell[d] < 6 || cell[d] > 13) return;  // what the box does
      worst = std::max({worst, std::abs(u[0].block(b)[o] - 2), std::abs(u[1].block(b)[o] - 1)});
    });
    return worst;
  };
  CHECK(changed(true, false) < 1e-14);
  CHECK(changed(false, false) > 1e-3);
  CHECK(changed(true, true) < 0.01 * changed(false, true));
}

TEST_CASE("what flows behind a wall thinner than a cell gives nothing to the fluid before it") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.02);
  const ThinWall<2> plate{{0.2, 0}, {1, 0}, box_solid<2>({0.15, -0.1}, {0.25, 0.5})};
  const OpenSpace<2> space(grid, nullptr, {}, {plate});
  const Cells<2> mass(grid, rho);
  const auto elements = find_wall_elements<2>(grid, space, {}, {}, {});  // that take nothing
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls_at_rest<2>(), elements);
  for (const bool law_of_wall : {false, true}) {
    auto u = velocity_of<2>(grid, [](const Vec<2>& x) { return Vec<2>{0, x[0] > 0.2 ? 5 * x[1] : 0.0}; });
    set_uniform(grid, space, 0.1 * rho * 4e-4 / mu, stress);
    stress.set_held(grid, mass, false);
    fill_velocity_halo<2>(grid, space, all(Wall::slip), walls_at_rest<2>(), 1, u);
    stress.step_explicitly(grid, mass, law_of_wall, u);
    for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
      if (cell[0] >= 10 || cell[1] < 2 || cell[1] > 17) return;  // what the box does
      CHECK(std::abs(u[0].block(b)[o]) < 1e-15);
      CHECK(std::abs(u[1].block(b)[o]) < 1e-15);
    });
  }
}

TEST_CASE("a solid's wall takes momentum by its friction") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.02);
  const std::vector<Solid<2>> inserts{ball_solid<2>({0.2, 0.2}, 0.095)};
  const OpenSpace<2> space(grid, nullptr, inserts, {});
  const Cells<2> mass = masses(grid, space);
  const double dt = 1e-3;
  const auto elements = find_wall_elements<2>(grid, space, {}, {}, {});
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls_at_rest<2>(), elements);
  auto u = velocity_of<2>(grid, [](const Vec<2>&) { return Vec<2>{0.7, -0.2}; });
  double friction = 0;
  for (int b = 0; b < grid.blocks(); ++b) {
    auto& own = stress.wall_friction(b);
    for (std::size_t k = 0; k < own.size(); ++k) {
      own[k] = dt * mu * stress.walls(b)[k].friction;
      friction += own[k];
    }
  }
  CHECK(friction > 0);
  stress.set_held(grid, mass, true);
  // No stress between cells: the walls alone act.
  fill_velocity_halo<2>(grid, space, all(Wall::slip), walls_at_rest<2>(), 1, u);
  const auto momentum = [&](std::size_t c) {
    return sum_blocks(grid, [&](int b) {
      double total = 0;
      for_open_rows<2>(space, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) total += mass.block(b)[at] * u[c].block(b)[at];
      });
      return total;
    });
  };
  const Vec<2> before{momentum(0), momentum(1)};
  stress.step_explicitly(grid, mass, false, u);
  Vec<2> drag{};
  bool slower = false;
  for (int b = 0; b < grid.blocks(); ++b)
    for (const auto& wall : stress.walls(b)) {
      const double now = u[0].block(b)[wall.at];
      CHECK(now <= 0.7);
      slower = slower || now < 0.699;
      for (std::size_t c = 0; c < 2; ++c) drag[c] += mu * wall.friction * u[c].block(b)[wall.at];
    }
  CHECK(slower);
  for (std::size_t c = 0; c < 2; ++c) CHECK(dt * drag[c] == about(before[c] - momentum(c)).epsilon(2e-2));
}

TEST_CASE("of two walls in one cell each takes momentum by its own velocity") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.4, 0.4}, 0.02);
  // A plate at rest through the middle of a shaft that turns.
  const ThinWall<2> plate{{0.2, 0}, {1, 0}, box_solid<2>({0.15, 0}, {0.25, 0.4})};
  const OpenSpace<2> space(grid, nullptr, {ball_solid<2>({0.2, 0.2}, 0.087)}, {plate});
  MovingWalls<2> moving;
  moving.motions = {[](double) { return RigidMotion<2>{{}, {0, 0, 3}, {0.2, 0.2}}; }};
  moving.solid = [](const Vec<2>&) { return 0; };
  const auto elements = find_wall_elements<2>(grid, space, {}, moving, {});
  WallVelocity<2> walls(grid, space, moving, elements);
  walls.set_time(0);
  ViscousStress<2> stress(grid, space, all(Wall::slip), walls, elements);
  const double dt = 1e-3;
  for (int b = 0; b < grid.blocks(); ++b)
    for (std::size_t k = 0; k < stress.walls(b).size(); ++k)
      stress.wall_friction(b)[k] = dt * mu * stress.walls(b)[k].friction;
  const Cells<2> mass = masses(grid, space);
  stress.set_held(grid, mass, true);
  const auto before = velocity_of<2>(grid, [](const Vec<2>&) { return Vec<2>{0.7, -0.2}; });
  auto u = before;
  fill_velocity_halo<2>(grid, space, all(Wall::slip), walls, 1, u);
  stress.step_explicitly(grid, mass, false, u);
  // Both at once, implicit: (m + f_1 + f_2) u = m u_before + f_1 u_1, where only the shaft moves.
  std::map<std::pair<int, std::ptrdiff_t>, std::array<double, 2>> friction;
  for (int b = 0; b < grid.blocks(); ++b)
    for (std::size_t k = 0; k < stress.walls(b).size(); ++k) {
      const auto& wall = stress.walls(b)[k];
      friction[{b, wall.at}][wall.of == WallElement<2>::Of::solid ? 0 : 1] += stress.wall_friction(b)[k];
    }
  int both = 0;
  for (const auto& [place, f] : friction) {
    const auto& [b, at] = place;
    if (f[0] == 0 || f[1] == 0 || space.grouped().block(b)[at] != 0) continue;
    ++both;
    const Vec<2> fluid = middle_of_fluid(grid, b, *space.wall_in(b, at));
    const Vec<2> turning{-3 * (fluid[1] - 0.2), 3 * (fluid[0] - 0.2)};
    const double m = mass.block(b)[at];
    for (std::size_t c = 0; c < 2; ++c) {
      const double by_plate = c == 0 ? 0 : f[1];  // which lies across x
      CHECK(u[c].block(b)[at] ==
            about((m * before[c].block(b)[at] + f[0] * turning[c]) / (m + f[0] + by_plate)).epsilon(1e-12));
    }
  }
  CHECK(both > 0);
}

TEST_CASE("behind a lid that slides the halo makes the mean at the wall the lid's speed") {
  const Grid<2> grid = grid_over<2>({0, 0}, {0.2, 0.2}, 0.02);
  MovingWalls<2> moving;
  moving.motions = {[](double t) { return RigidMotion<2>{{1 + t, 0}, {}, {}}; }};
  moving.sides[1][1] = 0;
  WallVelocity<2> walls(grid, all_open<2>(), moving, no_wall_elements<2>());
  walls.set_time(0.5);
  auto u = velocity_of<2>(grid, [](const Vec<2>& x) { return Vec<2>{x[0], 0.1}; });
  fill_velocity_halo<2>(grid, all_open<2>(), all(Wall::no_slip), walls, 1, u);
  const CellMap<2> map(grid);
  for (const int i : {1, 5, 8}) {
    const auto [block, at] = map({i, 9});
    const std::ptrdiff_t up = grid.layout().step[1];
    const double own = u[0].block(block)[at];
    CHECK(0.5 * (own + u[0].block(block)[at + up]) == about(1.5));
    CHECK(u[1].block(block)[at + up] == about(-0.1));
    const auto [low_block, low] = map({i, 0});
    CHECK(u[0].block(low_block)[low - up] == about(-u[0].block(low_block)[low]));
  }
  CHECK(walls.greatest_speed(grid) == about(1.5));
}

TEST_CASE("walls that slip, hold or mirror make components even or odd") {
  WallKinds<3> kinds{};
  kinds[0] = {Wall::mirror, Wall::no_slip};
  kinds[1] = {Wall::slip, Wall::slip};
  kinds[2] = {Wall::no_slip, Wall::mirror};
  const HaloRules<3> along_x = velocity_rules<3>(kinds, 0);
  CHECK(along_x.walls[0] == std::array{Mirror::odd, Mirror::odd});
  CHECK(along_x.walls[1] == std::array{Mirror::even, Mirror::even});
  CHECK(along_x.walls[2] == std::array{Mirror::odd, Mirror::even});
  const HaloRules<3> along_z = velocity_rules<3>(kinds, 2);
  CHECK(along_z.walls[0] == std::array{Mirror::even, Mirror::odd});
  CHECK(along_z.walls[2] == std::array{Mirror::odd, Mirror::odd});
}
