// Impellers from their measures.
#include "geometry/impellers.hpp"

#include <doctest/doctest.h>

#include <array>
#include <cmath>
#include <numbers>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

constexpr std::array all_kinds{ImpellerKind::paddle,       ImpellerKind::disc_turbine, ImpellerKind::pitched_blade,
                               ImpellerKind::curved_blade, ImpellerKind::hydrofoil,    ImpellerKind::anchor,
                               ImpellerKind::ribbon,       ImpellerKind::gate};

/// Volume by the middles of cubes with this edge.
double volume_of(const Solid<3>& solid, double edge) {
  double sum = 0;
  for (double x = solid.lower[0] + edge / 2; x < solid.upper[0]; x += edge)
    for (double y = solid.lower[1] + edge / 2; y < solid.upper[1]; y += edge)
      for (double z = solid.lower[2] + edge / 2; z < solid.upper[2]; z += edge)
        if (solid.distance({x, y, z}) < 0) sum += edge * edge * edge;
  return sum;
}

}  // namespace

TEST_CASE("an impeller keeps within its diameter and its heights, and reaches them") {
  std::mt19937 random(7);
  for (const ImpellerKind kind : all_kinds) {
    const Impeller own = usual_impeller(kind, 0.2);
    const Solid<3> solid = impeller_solid(own);
    std::uniform_real_distribution<double> across(-0.13, 0.13);
    std::uniform_real_distribution<double> up(lower_end(own) - 0.02, upper_end(own) + 0.02);
    double widest = 0;
    double highest = -1;
    double lowest = 1;
    for (int i = 0; i < 400000; ++i) {
      const Vec<3> place{across(random), across(random), up(random)};
      if (solid.distance(place) >= 0) continue;
      widest = std::max(widest, std::hypot(place[0], place[1]));
      highest = std::max(highest, place[2]);
      lowest = std::min(lowest, place[2]);
      for (std::size_t d = 0; d < 3; ++d) {
        CHECK_MESSAGE(place[d] >= solid.lower[d], static_cast<int>(kind));
        CHECK_MESSAGE(place[d] <= solid.upper[d], static_cast<int>(kind));
      }
    }
    // Square ends of blades reach a little beyond the circle.
    CHECK_MESSAGE(widest <= 0.103, static_cast<int>(kind));
    CHECK_MESSAGE(widest > 0.097, static_cast<int>(kind));
    CHECK_MESSAGE(highest <= upper_end(own) + 1e-12, static_cast<int>(kind));
    CHECK_MESSAGE(highest > 0.8 * upper_end(own), static_cast<int>(kind));
    CHECK_MESSAGE(lowest >= lower_end(own) - 1e-12, static_cast<int>(kind));
  }
}

TEST_CASE("blades have the volume of their measures") {
  Impeller paddle = usual_impeller(ImpellerKind::paddle, 0.2);
  paddle.hub_diameter = 0;
  paddle.blade_thickness = 0.01;
  CHECK(volume_of(impeller_solid(paddle), 0.001) == about(0.2 * 0.01 * 0.04).epsilon(0.01));
  Impeller pitched = usual_impeller(ImpellerKind::pitched_blade, 0.2);
  pitched.hub_diameter = 0;
  pitched.blade_length = 0.05;
  pitched.blade_thickness = 0.01;
  CHECK(volume_of(impeller_solid(pitched), 0.001) == about(4 * 0.05 * 0.01 * 0.04).epsilon(0.02));
}

TEST_CASE("on a grid thin blades get a thickness, and their free edges are cut back") {
  const Impeller paddle = usual_impeller(ImpellerKind::paddle, 0.2);  // 4 mm thick
  const Solid<3> solid = impeller_solid(paddle, 0.015, 0.0025);
  CHECK(solid.distance({0.06, 0, 0}) == about(-0.0075));
  CHECK(solid.distance({0.0975, 0, 0}) == about(0).scale(1));     // the tip
  CHECK(solid.distance({0.06, 0, 0.0175}) == about(0).scale(1));  // the upper edge
  const Impeller thick = [&] {
    Impeller own = paddle;
    own.blade_thickness = 0.02;
    return own;
  }();
  CHECK(impeller_solid(thick, 0.015, 0.0025).distance({0.1, 0, 0}) == about(0).scale(1));
}

TEST_CASE("pitched blades and hydrofoils that turn counter-clockwise press downwards") {
  for (const ImpellerKind kind : {ImpellerKind::pitched_blade, ImpellerKind::hydrofoil}) {
    const Solid<3> solid = impeller_solid(usual_impeller(kind, 0.2));
    // On the front of the blade along x, which moves along y: where its surface faces.
    double y = 0.05;
    while (solid.distance({0.08, y, 0}) > 0) y -= 1e-5;
    const double step = 1e-5;
    const double up = solid.distance({0.08, y, step}) - solid.distance({0.08, y, -step});
    const double ahead = solid.distance({0.08, y + step, 0}) - solid.distance({0.08, y - step, 0});
    CHECK_MESSAGE(ahead > 0, static_cast<int>(kind));
    CHECK_MESSAGE(up < 0, static_cast<int>(kind));
  }
}

TEST_CASE("the strips of a ribbon rise with the angle") {
  const Impeller own = usual_impeller(ImpellerKind::ribbon, 0.2);
  const Solid<3> solid = impeller_solid(own);
  for (const double turn : {0.15, 0.3, 0.6, 0.8}) {
    const double angle = 2 * std::numbers::pi * turn;
    const Vec<3> on{0.09 * std::cos(angle), 0.09 * std::sin(angle), turn * own.rise};
    CHECK_MESSAGE(solid.distance(on) < 0, turn);
    CHECK_MESSAGE(solid.distance({on[0], on[1], on[2] + 0.02}) > 0, turn);
  }
}

TEST_CASE("near an impeller distances are those of the way, to a half") {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> place(-0.15, 0.15);
  std::uniform_real_distribution<double> step(-0.002, 0.002);
  for (const ImpellerKind kind : all_kinds) {
    const Solid<3> solid = impeller_solid(usual_impeller(kind, 0.2), 0.01, 0.002);
    for (int i = 0; i < 200000; ++i) {
      const Vec<3> a{place(random), place(random), place(random)};
      const double here = solid.distance(a);
      if (std::abs(here) > 0.004) continue;
      const Vec<3> b{a[0] + step(random), a[1] + step(random), a[2] + step(random)};
      const double way = length<3>(minus<3>(a, b));
      CHECK_MESSAGE(std::abs(here - solid.distance(b)) <= 1.5 * way + 1e-12, static_cast<int>(kind));
    }
  }
}
