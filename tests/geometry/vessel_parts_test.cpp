// Baffles, coils and draft tubes.
#include "geometry/vessel_parts.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

constexpr double pi = std::numbers::pi;

/// Volume by random places, to half a per cent or so.
double volume(const Solid<3>& solid) {
  std::mt19937 random(7);
  std::array<std::uniform_real_distribution<double>, 3> along;
  double box = 1;
  for (std::size_t d = 0; d < 3; ++d) {
    along[d] = std::uniform_real_distribution(solid.lower[d], solid.upper[d]);
    box *= solid.upper[d] - solid.lower[d];
  }
  constexpr int count = 400000;
  int inside = 0;
  for (int i = 0; i < count; ++i)
    if (solid.distance({along[0](random), along[1](random), along[2](random)}) < 0) ++inside;
  return box * inside / count;
}

/// Greatest |gradient| of a distance near the solid: at most 1.
double steepest(const Solid<3>& solid, double near) {
  std::mt19937 random(11);
  double most = 0;
  for (int i = 0; i < 20000; ++i) {
    Vec<3> p;
    for (std::size_t d = 0; d < 3; ++d) p[d] = std::uniform_real_distribution(solid.lower[d], solid.upper[d])(random);
    if (solid.distance(p) > near) continue;
    Vec<3> q = p;
    constexpr double step = 1e-4;
    for (double& c : q) c += std::uniform_real_distribution(-step, step)(random);
    const Vec<3> way = minus<3>(q, p);
    most = std::max(most, std::abs(solid.distance(q) - solid.distance(p)) / std::sqrt(dot<3>(way, way)));
  }
  return most;
}

}  // namespace

TEST_CASE("baffles stand evenly, at their gap from the wall") {
  const Baffles four{.count = 4, .width = 0.03, .gap = 0.005, .thickness = 0.01, .height = 0.3};
  const Solid<3> solid = baffles_solid(four, {0.2, 0.2, 0.1}, 0.15);
  CHECK(solid.distance({0.33, 0.2, 0.2}) == about(-0.005).epsilon(1e-9));
  CHECK(solid.distance({0.2, 0.07, 0.2}) == about(-0.005).epsilon(1e-9));
  CHECK(solid.distance({0.2, 0.2, 0.2}) == about(0.115).epsilon(1e-9));
  CHECK(solid.distance({0.35, 0.2, 0.2}) == about(0.005).epsilon(1e-9));
  CHECK(solid.distance({0.33, 0.2, 0.05}) == about(0.05).epsilon(1e-9));
  CHECK(volume(solid) == about(4 * 0.03 * 0.01 * 0.3).epsilon(0.03));
  const Baffles three{.count = 3, .width = 0.03, .gap = 0, .thickness = 0.01, .height = 0.3};
  const Solid<3> of_three = baffles_solid(three, {0, 0, 0}, 0.15);
  CHECK(of_three.distance({0.13 * std::cos(2 * pi / 3), 0.13 * std::sin(2 * pi / 3), 0.1}) < 0);
  CHECK(of_three.distance({-0.13, 0, 0.1}) > 0.05);
  CHECK(steepest(solid, 1) < 1 + 1e-6);
}

TEST_CASE("a coil has the volume of its tube, and ends where its turns do") {
  const Solid<3> coil = coil_solid({0, 0, 0.1}, 0.1, 0.01, 3.5, 0.04);
  CHECK(coil.distance({0.1, 0, 0.1}) == about(-0.01).epsilon(1e-9));
  CHECK(coil.distance({-0.1, 0, 0.12}) == about(-0.01).epsilon(1e-9));
  CHECK(coil.distance({-0.1, 0, 0.24}) == about(-0.01).epsilon(1e-9));
  CHECK(coil.distance({0.1, 0, 0.26}) > 0.01);
  const double length = 3.5 * std::hypot(2 * pi * 0.1, 0.04);
  const double ends = 4.0 / 3 * pi * std::pow(0.01, 3);
  CHECK(volume(coil) == about(length * pi * 1e-4 + ends).epsilon(0.02));
  CHECK(steepest(coil, 0.02) < 1.01);
}

TEST_CASE("a sleeve is open at both ends") {
  const Solid<3> sleeve = sleeve_solid({0, 0, 0}, {0, 0, 0.4}, 0.1, 0.02);
  CHECK(sleeve.distance({0, 0, 0.2}) == about(0.1).epsilon(1e-9));
  CHECK(sleeve.distance({0.11, 0, 0.2}) == about(-0.01).epsilon(1e-9));
  CHECK(sleeve.distance({0.11, 0, 0.43}) == about(0.03).epsilon(1e-9));
  CHECK(volume(sleeve) == about(pi * (0.12 * 0.12 - 0.1 * 0.1) * 0.4).epsilon(0.02));
}
