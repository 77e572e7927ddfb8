// A half and a quarter of a vessel whose rest is the same turned, against the whole.
#include <doctest/doctest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <optional>
#include <tuple>

#include "about.hpp"
#include "sharp/model.hpp"
#include "turned_part.hpp"

using namespace wavy;
using namespace wavy::sharp;

namespace {

/// Something that half a turn, or a quarter of one, leaves as it is: liquid with a free surface that is not round, and
/// stirs.
template <int D>
class Vessel {
 public:
  Vessel(Turn turn, const Settings<D>& settings, double across, double cell, OpenSpace<D> (*space)(const Grid<D>&),
         bool four = false)
      : grid_(turned_part::grid_of<D>(across, D == 3 ? 0.75 * across : 0.5 * across, cell, turn)),
        model_(std::make_unique<Model<D>>(grid_, settings, space(grid_))) {
    for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
      const Vec<D> x = cell_middle<D>(grid_, b, o);
      const double r2 = (x[0] * x[0] + x[1] * x[1]) / (across * across);
      const double from_walls = (1 - 4 * x[0] * x[0] / (across * across)) * (1 - 4 * x[1] * x[1] / (across * across));
      const double squares = (x[0] * x[0] - x[1] * x[1]) / (across * across);
      const double sides = x[0] * x[1] / (across * across);
      const double lobes = from_walls * (four ? 8 * squares * sides : squares + sides);
      const double level =
          D == 3 ? (0.4 * across + 0.8 * lobes * across - x[D - 1]) / cell : (0.1 + lobes - r2) * across / cell;
      State<D>& state = model_->state();
      state.F.block(b)[o] = std::clamp(0.5 + level, 0.0, 1.0);
      const double swirl = 2 * std::max(0.0, 0.2 - r2);
      const Vec<2> stirring = turned_part::stirring<D>(x, four);
      for (std::size_t c = 0; c < 2; ++c) state.u[c].block(b)[o] = swirl * stirring[c];
    });
    model_->start();
  }
  [[nodiscard]] const Grid<D>& grid() const { return grid_; }
  [[nodiscard]] Model<D>& model() { return *model_; }

 private:
  Grid<D> grid_;
  std::unique_ptr<Model<D>> model_;
};

template <int D>
OpenSpace<D> uncut(const Grid<D>&) {
  return {};
}

/// Two flat baffles along the seam, one face thick, and a round post in the middle whose cells keep half their room.
OpenSpace<3> with_baffles(const Grid<3>& grid) {
  std::vector<ThinWall<3>> walls;
  for (const double side : {-1.0, 1.0})
    walls.push_back({.point = {0, 0, 0},
                     .normal = {1, 0, 0},
                     .extent = box_solid<3>({-0.01, side > 0 ? 0.03 : -0.1, 0}, {0.01, side > 0 ? 0.1 : -0.03, 0.1})});
  return {grid, nullptr, {}, walls};
}

template <int D>
Settings<D> water_and_air(double viscosity) {
  Settings<D> settings;
  settings.liquid = {1000, viscosity};
  settings.gas = {1.2, 2e-5};
  settings.surface_tension = 0.07;
  settings.projection_tolerance = 1e-13;
  settings.body_force = [](double) {
    Vec<D> G{};
    if constexpr (D == 3) G[2] = -9.81;
    return G;
  };
  return settings;
}

/// What is between the two after some steps, over the greatest of each.
template <int D>
void compare(const Settings<D>& settings, double across, double cell, OpenSpace<D> (*space)(const Grid<D>&),
             double bar = 1e-10) {
  Vessel<D> whole(Turn::none, settings, across, cell, space);
  Vessel<D> half(Turn::half, settings, across, cell, space);
  REQUIRE(2 * half.grid().cell_count() == whole.grid().cell_count());
  for (int step = 0; step < 10; ++step) {
    StepLimit limit{};
    const double dt = 0.3 * whole.model().stable_step(limit);
    CHECK(0.3 * half.model().stable_step(limit) == about(dt).epsilon(1e-9));
    whole.model().step(dt);
    half.model().step(dt);
  }
  const State<D>& one = half.model().state();
  const State<D>& all = whole.model().state();
  const auto apart = [&](const Cells<D>& of_half, const Cells<D>& of_whole) {
    double greatest = 0;
    for_cells_in_order<D>(whole.grid(), [&](int b, std::ptrdiff_t o, const Index<D>&) {
      greatest = std::max(greatest, std::abs(of_whole.block(b)[o]));
    });
    REQUIRE(greatest > 0);
    return difference(half.grid(), of_half, whole.grid(), of_whole) / greatest;
  };
  CHECK(apart(one.F, all.F) < bar);
  for (std::size_t c = 0; c < D; ++c) CHECK(apart(one.u[c], all.u[c]) < bar);
}

}  // namespace

TEST_CASE("a vortex with a free surface in half a vessel is that in the whole, thin and thick, with tension") {
  constexpr double implicit = 1e-5;  // as far as friction in thick liquid is solved for
  for (const auto& [viscosity, bar] : {std::pair{1e-2, 1e-10}, {2.0, implicit}}) {
    compare<3>(water_and_air<3>(viscosity), 0.2, 0.2 / 16, uncut<3>, bar);
    compare<2>(water_and_air<2>(viscosity), 0.2, 0.2 / 64, uncut<2>, bar);
  }
}

TEST_CASE("a quarter of a vessel goes as the whole does, as far as the order of sweeps does not tell") {
  // Sweeps go along both axes one after the other: a whole vessel is not quite its own image.
  const double across = 0.2;
  for (const auto& [viscosity, cells, bar] : {std::tuple{1e-2, 16, 2e-3}, {1e-2, 32, 1e-3}, {2.0, 16, 2e-3}}) {
    CAPTURE(viscosity);
    CAPTURE(cells);
    std::array<std::optional<Vessel<3>>, 2> vessels;
    std::array<double, 2> liquid{};
    const auto volume = [](Vessel<3>& vessel) {
      double sum = 0;
      for_cells_in_order<3>(vessel.grid(), [&](int b, std::ptrdiff_t o, const Index<3>&) {
        sum += vessel.model().state().F.block(b)[o] * vessel.grid().cell_volume();
      });
      return sum;
    };
    for (std::size_t n = 0; n < 2; ++n) {
      vessels[n].emplace(n == 0 ? Turn::none : Turn::quarter, water_and_air<3>(viscosity), across, across / cells,
                         uncut<3>, true);
      liquid[n] = volume(*vessels[n]);
    }
    for (int step = 0; step < 20; ++step) {
      StepLimit limit{};
      const double dt = 0.8 * vessels[0]->model().stable_step(limit);
      for (auto& vessel : vessels) vessel->model().step(dt);
    }
    CHECK(4 * liquid[1] == about(liquid[0]).epsilon(1e-12));
    for (std::size_t n = 0; n < 2; ++n) CHECK(volume(*vessels[n]) == about(liquid[n]).epsilon(1e-12));
    const State<3>& all = vessels[0]->model().state();
    const State<3>& one = vessels[1]->model().state();
    double fastest = 0;
    for (const auto& component : all.u)
      for_cells_in_order<3>(vessels[0]->grid(), [&](int b, std::ptrdiff_t o, const Index<3>&) {
        fastest = std::max(fastest, std::abs(component.block(b)[o]));
      });
    CHECK(difference(vessels[1]->grid(), one.F, vessels[0]->grid(), all.F) < 0.5 * bar);
    for (std::size_t c = 0; c < 3; ++c)
      CHECK(difference(vessels[1]->grid(), one.u[c], vessels[0]->grid(), all.u[c]) < bar * fastest);
  }
}

TEST_CASE("walls thinner than a cell stand on the seam as elsewhere") {
  compare<3>(water_and_air<3>(1e-2), 0.2, 0.2 / 16, with_baffles);
}

TEST_CASE("turbulence in half a vessel is that in the whole") {
  Settings<3> settings = water_and_air<3>(1e-2);
  settings.turbulence.law = &k_omega_sst;
  settings.turbulence.start = {0.05, 0.01};
  settings.turbulence.start_speed = 0.3;
  settings.turbulence.wall_distance = [](const Vec<3>& x) {
    return std::min({0.1 - std::abs(x[0]), 0.1 - std::abs(x[1]), x[2]});
  };
  compare<3>(settings, 0.2, 0.2 / 16, uncut<3>);
}

TEST_CASE(
    "a solid that turns, in time or in a frozen frame, gives half a vessel half its torque, and the whole's flow") {
  const double across = 0.2;
  for (const bool frozen : {false, true}) {
    CAPTURE(frozen);
    std::array<double, 2> torque{};
    std::array<std::optional<Vessel<2>>, 2> vessels;
    for (const bool half : {false, true}) {
      Settings<2> settings = water_and_air<2>(0.5);
      settings.turning.shafts = {[frozen](double t) {
        Pose<2> pose;
        pose.angle = frozen ? 0.3 : 12 * t;
        pose.motion = {{}, {0, 0, 12}, {0, 0}};
        return pose;
      }};
      settings.turning.parts = {{box_solid<2>({-0.06, -0.012}, {0.06, 0.012}), 0}};
      if (frozen) settings.turning.frames = {{.radius = 0.08}};
      const std::size_t n = half ? 1 : 0;
      vessels[n].emplace(half ? Turn::half : Turn::none, settings, across, across / 48, uncut<2>);
      for (int step = 0; step < 40; ++step) vessels[n]->model().step(1e-3);
      torque[n] = vessels[n]->model().turning_solids().mean_loads()[0].moment[2];
    }
    CHECK(std::abs(torque[0]) > 0);
    CHECK(2 * torque[1] == about(torque[0]).epsilon(1e-9));
    for (std::size_t c = 0; c < 2; ++c)
      CHECK(difference(vessels[1]->grid(), vessels[1]->model().state().u[c], vessels[0]->grid(),
                       vessels[0]->model().state().u[c]) < 1e-9);
  }
}
