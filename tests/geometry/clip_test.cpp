#include "geometry/clip.hpp"

#include <doctest/doctest.h>

#include <cmath>

using namespace wavy;

TEST_CASE("a corner cut from a box is a pyramid, and its section a triangle") {
  ConvexBody<3> box({0, 0, 0}, {1, 2, 3});
  CHECK(box.volume() == doctest::Approx(6).epsilon(1e-14));
  // x/a + y/b + z/c <= 1 with a, b, c within the box: a b c / 6; the triangle's area by Gram's determinant.
  const double a = 0.7;
  const double b = 1.1;
  const double c = 2.5;
  double section = 0;
  const double corner = box.volume_below({{1 / a, 1 / b, 1 / c}, 1}, &section);
  CHECK(corner == doctest::Approx(a * b * c / 6).epsilon(1e-13));
  CHECK(section == doctest::Approx(0.5 * std::sqrt(a * a * b * b + b * b * c * c + c * c * a * a)).epsilon(1e-13));
  CHECK(box.volume_below({{-1 / a, -1 / b, -1 / c}, -1}) == doctest::Approx(6 - corner).epsilon(1e-13));
}

TEST_CASE("planes that miss a box leave all of it or nothing, and those along its faces as much as they say") {
  const ConvexBody<3> box({0, 0, 0}, {1, 1, 1});
  CHECK(box.volume_below({{1, 1, 1}, 3.5}) == doctest::Approx(1).epsilon(1e-14));
  CHECK(box.volume_below({{1, 1, 1}, -0.5}) == 0);
  CHECK(box.volume_below({{1, 0, 0}, 0}) == doctest::Approx(0));
  CHECK(box.volume_below({{0, -2, 0}, -0.5}) == doctest::Approx(0.75).epsilon(1e-14));
  double hexagon = 0;
  CHECK(box.volume_below({{1, 1, 1}, 1.5}, &hexagon) == doctest::Approx(0.5).epsilon(1e-14));
  CHECK(hexagon == doctest::Approx(0.75 * std::sqrt(3.0)).epsilon(1e-13));
}

TEST_CASE("a body cut again and again keeps what all the planes leave") {
  // A tetrahedron on four corners of the cube -1..1: a third of it.
  ConvexBody<3> body({-1, -1, -1}, {1, 1, 1});
  for (const Vec<3>& normal : {Vec<3>{1, 1, 1}, Vec<3>{1, -1, -1}, Vec<3>{-1, 1, -1}, Vec<3>{-1, -1, 1}})
    body.cut({normal, 1});
  CHECK(body.volume() == doctest::Approx(8.0 / 3).epsilon(1e-12));
  CHECK(body.volume_below({{0, 0, 1}, 0}) == doctest::Approx(4.0 / 3).epsilon(1e-12));
  // The same by one call, in 2-D: a square on its corner.
  const std::array<Plane<2>, 4> sides{Plane<2>{{1, 1}, 1}, {{1, -1}, 1}, {{-1, 1}, 1}, {{-1, -1}, 1}};
  CHECK(clipped_volume<2>({-1, -1}, {1, 1}, sides) == doctest::Approx(2).epsilon(1e-13));
}

TEST_CASE("where the weight leans, volumes are moments") {
  // Weight 1 + lean (x - 1/2) over the triangle x + y <= 1: 1/2 + lean (1/6 - 1/4).
  for (const double lean : {0.0, 0.7, 2.0}) {
    const ConvexBody<2> cell({0, 0}, {1, 1}, lean);
    double section = 0;
    CHECK(cell.volume_below({{1, 1}, 1}, &section) == doctest::Approx(0.5 - lean / 12).epsilon(1e-13));
    CHECK(section == doctest::Approx(std::sqrt(2.0)).epsilon(1e-13));  // its middle is at x = 1/2
    CHECK(cell.volume_below({{1, 0}, 0.25}, &section) ==
          doctest::Approx(0.25 + lean * (0.03125 - 0.125)).epsilon(1e-13));
    CHECK(section == doctest::Approx(1 - 0.25 * lean).epsilon(1e-13));
  }
}

TEST_CASE("a plane is found that leaves a volume of what is open") {
  const Plane<3> open{{1, 0.4, -0.3}, 0.6};
  const ConvexBody<3> cell({0, 0, 0}, {1, 1, 1});
  ConvexBody<3> rest = cell;
  rest.cut(open);
  const double all = rest.volume();
  for (const double share : {1e-6, 0.1, 0.5, 0.93, 1 - 1e-6})
    for (const Vec<3>& normal : {Vec<3>{0, 0, 1}, Vec<3>{0.3, -1, 0.2}, Vec<3>{-1, -0.4, 0.3}}) {
      const Plane<3> plane = plane_through_part<3>(normal, share * all, open);
      CHECK(std::abs(rest.volume_below(plane) - share * all) < 1e-12);
    }
  // More than there is: beyond all of it.
  CHECK(rest.volume_below(plane_through_part<3>({0, 0, 1}, 2, open)) == doctest::Approx(all).epsilon(1e-13));
}
