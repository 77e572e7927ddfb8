#include "geometry/solids.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy;

namespace {

/// Volume by counting points of a fine lattice over the solid's own box.
template <int D>
double counted_volume(const Solid<D>& solid, int points) {
  double cell = 1;
  for (int d = 0; d < D; ++d) cell *= (solid.upper[d] - solid.lower[d]) / points;
  long inside = 0;
  const int layers = D == 3 ? points : 1;
  for (int k = 0; k < layers; ++k)
    for (int j = 0; j < points; ++j)
      for (int i = 0; i < points; ++i) {
        const std::array<int, 3> at{i, j, k};
        Vec<D> p;
        for (std::size_t d = 0; d < D; ++d)
          p[d] = solid.lower[d] + (at[d] + 0.5) * (solid.upper[d] - solid.lower[d]) / points;
        if (solid.distance(p) < 0) ++inside;
      }
  return static_cast<double>(inside) * cell;
}

}  // namespace

TEST_CASE("volumes of solids are those of the formulas") {
  const auto close = [](double volume, double exact) { CHECK(volume == about(exact).epsilon(4e-3)); };
  const double pi = M_PI;
  close(counted_volume(box_solid<3>({0, 0, 0}, {1, 2, 0.5}), 60), 1);
  close(counted_volume(ball_solid<3>({1, 2, 3}, 0.5), 100), pi / 6);
  close(counted_volume(cylinder_solid<3>({0, 0, 0}, {2, 0, 0}, 0.3), 100), 2 * pi * 0.09);
  close(counted_volume(cylinder_solid<3>({0, 0, 0}, {1, 1, 1}, 0.2), 160), std::sqrt(3.0) * pi * 0.04);
  close(counted_volume(cone_solid<3>({0, 0, 0}, {0, 0, 1}, 0.2, 0.5), 100), pi / 3 * (0.04 + 0.1 + 0.25));
  close(counted_volume(torus_solid({0, 0, 0}, {0, 0, 2}, 0.5, 0.1), 160), 2 * pi * pi * 0.5 * 0.01);
  close(counted_volume(polygon_solid({{0, 0}, {2, 0}, {2, 1}, {1, 1}, {1, 2}, {0, 2}}), 200), 3);
  close(counted_volume(extruded_solid({{0, 0}, {1, 0}, {0, 1}}, 1, 2, 5), 200), 1.5);
  close(counted_volume(revolved_solid({{0, 0}, {0.4, 0}, {0.4, 1}, {0, 1}}, {1, 1, 1}, {0, 0, 1}), 100), pi * 0.16);
  // A right-angled bend of centre line pi/2 R between legs (Pappus).
  close(counted_volume(pipe_solid<3>({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}}, 0.1, 0.3), 200),
        pi * 0.01 * (2 * 0.7 + pi / 2 * 0.3));
  close(counted_volume(pipe_solid<2>({{0, 0}, {2, 0}}, 0.25, 0), 200), 1);
}

TEST_CASE("dished ends have the depth and the volume of their kind") {
  const double d = 1.2;
  const double r = d / 2;
  const auto both = [&](Head head) { return cylinder_solid<3>({0, 0, 0}, {0, 0, 1}, r, head, Head::flat); };
  const double straight = M_PI * r * r;
  CHECK(counted_volume(both(Head::hemispherical), 120) - straight == about(M_PI * d * d * d / 12).epsilon(0.01));
  CHECK(counted_volume(both(Head::elliptical), 120) - straight == about(M_PI * d * d * d / 24).epsilon(0.02));
  // Crown d, knuckle d/10: 0.0990 d^3, depth 0.1935 d (DIN 28011).
  CHECK(counted_volume(both(Head::torispherical), 160) - straight == about(0.0990 * d * d * d).epsilon(0.02));
  CHECK(head_depth(Head::torispherical, r) == about(0.1935 * d).epsilon(2e-3));
  CHECK(both(Head::elliptical).lower[2] == about(-d / 4).epsilon(1e-6));
  CHECK(both(Head::torispherical).distance({0, 0, -0.1935 * d}) == about(0).scale(1).epsilon(1e-3));
}

TEST_CASE("solids are joined, cut, moved, turned and mirrored") {
  const auto box = box_solid<2>({0, 0}, {2, 1});
  const auto disc = ball_solid<2>({2, 0.5}, 0.5);
  CHECK(counted_volume(union_of(box, disc), 300) == about(2 + M_PI / 8).epsilon(3e-3));
  CHECK(counted_volume(difference(box, disc), 300) == about(2 - M_PI / 8).epsilon(3e-3));
  CHECK(counted_volume(intersection(box, disc), 300) == about(M_PI / 8).epsilon(3e-3));
  CHECK(moved<2>(box, {1, 1}).distance({2.9, 1.9}) < 0);
  CHECK(moved<2>(box, {1, 1}).upper[0] == 3);
  const auto upright = turned(box, {0, 0}, M_PI / 2);  // x 0..2 becomes y 0..2
  CHECK(upright.distance({-0.5, 1.9}) < 0);
  CHECK(upright.distance({0.5, 1.9}) > 0);
  const auto beam = turned(box_solid<3>({0, 0, 0}, {3, 1, 1}), {0, 0, 0}, {0, 0, 1}, M_PI / 2);
  CHECK(beam.distance({-0.5, 2.9, 0.5}) < 0);
  CHECK(mirrored<2>(box, 0, 2).distance({3.9, 0.5}) < 0);
  CHECK(mirrored<2>(box, 0, 2).lower[0] == about(2));
}
