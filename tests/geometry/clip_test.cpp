#include "geometry/clip.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <random>

#include "about.hpp"

using namespace wavy;

TEST_CASE("a corner cut from a box is a pyramid, and its section a triangle") {
  ConvexBody<3> box({0, 0, 0}, {1, 2, 3});
  CHECK(box.volume() == about(6).epsilon(1e-14));
  // x/a + y/b + z/c <= 1 with a, b, c within the box: a b c / 6; the triangle's area by Gram's determinant.
  const double a = 0.7;
  const double b = 1.1;
  const double c = 2.5;
  double section = 0;
  const double corner = box.volume_below({{1 / a, 1 / b, 1 / c}, 1}, &section);
  CHECK(corner == about(a * b * c / 6).epsilon(1e-13));
  CHECK(section == about(0.5 * std::sqrt(a * a * b * b + b * b * c * c + c * c * a * a)).epsilon(1e-13));
  CHECK(box.volume_below({{-1 / a, -1 / b, -1 / c}, -1}) == about(6 - corner).epsilon(1e-13));
}

TEST_CASE("planes that miss a box leave all of it or nothing, and those along its faces as much as they say") {
  const ConvexBody<3> box({0, 0, 0}, {1, 1, 1});
  CHECK(box.volume_below({{1, 1, 1}, 3.5}) == about(1).epsilon(1e-14));
  CHECK(box.volume_below({{1, 1, 1}, -0.5}) == 0);
  CHECK(box.volume_below({{1, 0, 0}, 0}) == about(0).scale(1));
  CHECK(box.volume_below({{0, -2, 0}, -0.5}) == about(0.75).epsilon(1e-14));
  double hexagon = 0;
  CHECK(box.volume_below({{1, 1, 1}, 1.5}, &hexagon) == about(0.5).epsilon(1e-14));
  CHECK(hexagon == about(0.75 * std::sqrt(3.0)).epsilon(1e-13));
}

TEST_CASE("a body cut again and again keeps what all the planes leave") {
  // A tetrahedron on four corners of the cube -1..1: a third of it.
  ConvexBody<3> body({-1, -1, -1}, {1, 1, 1});
  for (const Vec<3>& normal : {Vec<3>{1, 1, 1}, Vec<3>{1, -1, -1}, Vec<3>{-1, 1, -1}, Vec<3>{-1, -1, 1}})
    body.cut({normal, 1});
  CHECK(body.volume() == about(8.0 / 3).epsilon(1e-12));
  CHECK(body.volume_below({{0, 0, 1}, 0}) == about(4.0 / 3).epsilon(1e-12));
  // The same by one call, in 2-D: a square on its corner.
  const std::array<Plane<2>, 4> sides{Plane<2>{{1, 1}, 1}, {{1, -1}, 1}, {{-1, 1}, 1}, {{-1, -1}, 1}};
  CHECK(clipped_volume<2>({-1, -1}, {1, 1}, sides) == about(2).epsilon(1e-13));
}

TEST_CASE("bodies weighted along an axis have their exact volume") {
  // Weight 1 + lean (x - 1/2) over the triangle x + y <= 1: 1/2 + lean (1/6 - 1/4).
  for (const double slope : {0.0, 0.7, 2.0}) {
    const ConvexBody<2> cell({0, 0}, {1, 1}, slope);
    double section = 0;
    CHECK(cell.volume_below({{1, 1}, 1}, &section) == about(0.5 - slope / 12).epsilon(1e-13));
    CHECK(section == about(std::sqrt(2.0)).epsilon(1e-13));  // its middle is at x = 1/2
    CHECK(cell.volume_below({{1, 0}, 0.25}, &section) == about(0.25 + slope * (0.03125 - 0.125)).epsilon(1e-13));
    CHECK(section == about(1 - 0.25 * slope).epsilon(1e-13));
  }
  // Weight 1 + lean (x - 1/2) below x + y = 1/2: 1/8 + lean (1/48 - 1/16).
  const double slope = 0.7;
  ConvexBody<2> body({0, 0}, {1, 1}, slope);
  CHECK(body.volume() == about(1));
  double section = 0;
  const Plane<2> plane{{0.5, 0.5}, 0.25};
  CHECK(body.volume_below(plane, &section) == about(1.0 / 8 + slope * (1.0 / 48 - 1.0 / 16)).epsilon(1e-13));
  CHECK(section == about(std::sqrt(0.5) * (1 - 0.25 * slope)).epsilon(1e-13));
  const Plane<2> found = plane_through_part<2>({1, 1}, 1.0 / 8 + slope * (1.0 / 48 - 1.0 / 16), {}, slope);
  CHECK(found.offset == about(0.25).epsilon(1e-12));
}

TEST_CASE("volumes under two planes agree with counted points and add up") {
  std::mt19937 dice(7);
  std::uniform_real_distribution<double> any(-1, 1);
  for (int n = 0; n < 20; ++n) {
    const std::array<Plane<3>, 2> planes{Plane<3>{{any(dice), any(dice), any(dice)}, any(dice)},
                                         Plane<3>{{any(dice), any(dice), any(dice)}, any(dice)}};
    const int points = 50;
    long inside = 0;
    for (int i = 0; i < points; ++i)
      for (int j = 0; j < points; ++j)
        for (int k = 0; k < points; ++k) {
          const Vec<3> p{(i + 0.5) / points, (j + 0.5) / points, (k + 0.5) / points};
          inside += dot<3>(planes[0].normal, p) < planes[0].offset && dot<3>(planes[1].normal, p) < planes[1].offset;
        }
    const double whole = clipped_volume<3>({0, 0, 0}, {1, 1, 1}, planes);
    CHECK(whole == about(static_cast<double>(inside) / std::pow(points, 3)).scale(1).epsilon(2e-3));
    CHECK(clipped_volume<3>({0, 0, 0}, {0.3, 1, 1}, planes) + clipped_volume<3>({0.3, 0, 0}, {1, 1, 1}, planes) ==
          about(whole).scale(1).epsilon(1e-12));
  }
  const std::array<Plane<2>, 1> half{Plane<2>{{1, 1}, 1}};
  CHECK(clipped_volume<2>({0, 0}, {1, 1}, half) == about(0.5));
}

TEST_CASE("what a body has below a plane is what cutting it leaves, and grows by the section") {
  std::mt19937 dice(9);
  std::uniform_real_distribution<double> any(-1, 1);
  const auto check = [&](auto dimension) {
    constexpr int D = decltype(dimension)::value;
    const auto plane = [&] {
      Plane<D> result;
      for (double& c : result.normal) c = any(dice);
      result.offset = any(dice);
      return result;
    };
    Vec<D> upper;
    for (int d = 0; d < D; ++d) upper[d] = 0.5 + 0.25 * d;
    for (int n = 0; n < 200; ++n) {
      ConvexBody<D> body(Vec<D>{}, upper);
      body.cut(plane());
      Plane<D> below = plane();
      double section = 0;
      const double volume = body.volume_below(below, &section);
      ConvexBody<D> rest = body;
      rest.cut(below);
      CHECK(rest.volume() == about(volume).scale(1).epsilon(1e-13));
      CHECK(volume <= body.volume() + 1e-13);
      constexpr double hair = 1e-6;
      const double size = length<D>(below.normal);
      below.offset += hair * size;
      const double more = body.volume_below(below);
      below.offset -= 2 * hair * size;
      const double less = body.volume_below(below);
      CHECK((more - less) / (2 * hair) == about(section).scale(1).epsilon(1e-4));
    }
  };
  check(std::integral_constant<int, 2>{});
  check(std::integral_constant<int, 3>{});
}

TEST_CASE("a plane through the open part of a cell has the wanted volume below it") {
  std::mt19937 dice(8);
  std::uniform_real_distribution<double> any(-1, 1);
  for (int n = 0; n < 200; ++n) {
    const Plane<3> open = plane_through<3>({any(dice), any(dice), any(dice)}, 0.1 + 0.4 * (1 + any(dice)));
    const std::array<Plane<3>, 1> alone{open};
    const double room = clipped_volume<3>({0, 0, 0}, {1, 1, 1}, alone);
    const double wanted = room * 0.5 * (1 + any(dice));
    const std::array<Plane<3>, 2> both{open, plane_through_part<3>({any(dice), any(dice), any(dice)}, wanted, open)};
    CHECK(clipped_volume<3>({0, 0, 0}, {1, 1, 1}, both) == about(wanted).scale(1).epsilon(1e-12));
  }
  // More than there is: beyond all of it.
  ConvexBody<3> rest({0, 0, 0}, {1, 1, 1});
  const Plane<3> open{{1, 0.4, -0.3}, 0.6};
  rest.cut(open);
  CHECK(rest.volume_below(plane_through_part<3>({0, 0, 1}, 2, open)) == about(rest.volume()).epsilon(1e-13));
}
