// Planes that pictures cut bodies by, and where they lie on the page.
#pragma once

#include <array>
#include <cmath>
#include <optional>
#include <vector>

#include "geometry/quarter_turn.hpp"

namespace wavy {

using Point3 = std::array<double, 3>;

inline double dot3(const Point3& a, const Point3& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

/// All points p with normal . p = place.
struct SectionPlane {
  Point3 normal{0, 1, 0};  ///< of length 1
  double place = 0;        ///< [m]

  /// Across this axis.
  static SectionPlane across(int axis, double place) {
    SectionPlane plane{{0, 0, 0}, place};
    plane.normal[static_cast<std::size_t>(axis)] = 1;
    return plane;
  }
  /// The axis that it lies across; -1 where it is oblique.
  [[nodiscard]] int axis() const {
    for (std::size_t d = 0; d < 3; ++d)
      if (std::abs(normal[d]) == 1) return static_cast<int>(d);
    return -1;
  }
};

/// Where a point of the page, given by its distances along and up, lies in space.
struct PagePlane {
  Point3 origin{0, 0, 0};
  Point3 along{1, 0, 0};
  Point3 up{0, 1, 0};

  [[nodiscard]] Point3 at(double x, double y) const {
    Point3 p = origin;
    for (std::size_t d = 0; d < 3; ++d) p[d] += x * along[d] + y * up[d];
    return p;
  }
};

/// The page of a section: the axes that are left where it lies across one; else a level line of the plane along, and
/// the steepest way up, both counted from the point of the plane that is nearest to the origin, which an upright plane
/// keeps at its height.
inline PagePlane page_of_section(const SectionPlane& plane) {
  const int axis = plane.axis();
  PagePlane page;
  for (std::size_t d = 0; d < 3; ++d) page.origin[d] = plane.place * plane.normal[d];
  if (axis >= 0) {
    page.along = page.up = {0, 0, 0};
    page.along[axis == 0 ? 1 : 0] = 1;
    page.up[axis == 2 ? 1 : 2] = 1;
    return page;
  }
  const Point3& n = plane.normal;
  const double level = std::hypot(n[0], n[1]);                      // not 0: it lies across no axis
  const double sign = std::abs(n[1]) > 1e-12 && n[1] < 0 ? -1 : 1;  // x goes to the right where it can
  page.along = {sign * n[1] / level, -sign * n[0] / level, 0};
  // Up: normal x along, towards +z.
  page.up = {-page.along[1] * n[2], page.along[0] * n[2], n[0] * page.along[1] - n[1] * page.along[0]};
  if (page.up[2] < 0)
    for (double& c : page.up) c = -c;
  return page;
}

/// The lower end of an axis, where the picture of a vessel goes on as its own image.
struct MirrorPlane {
  int axis = 0;
  double place = 0;  ///< [m]
};

/// A wedge between two mirrors round an upright axis, from the direction of x on towards y. It goes into a whole turn
/// an even number of times.
struct Sector {
  std::array<double, 2> middle{};  ///< the axis [m]
  double angle = 0;                ///< [rad]

  /// The place of the wedge that a place is an image of, and how directions at that place are seen at the image.
  struct Image {
    Point3 place;
    double turn = 0;  ///< [rad]
    bool mirrored = false;

    [[nodiscard]] Point3 turned(const Point3& v) const {
      const double y = mirrored ? -v[1] : v[1];
      return {std::cos(turn) * v[0] - std::sin(turn) * y, std::sin(turn) * v[0] + std::cos(turn) * y, v[2]};
    }
  };
  [[nodiscard]] Image image_of(const Point3& p) const {
    const double x = p[0] - middle[0];
    const double y = p[1] - middle[1];
    const double at = std::atan2(y, x);
    const double wedge = std::floor(at / angle);
    const bool mirrored = std::fmod(std::abs(wedge), 2) == 1;
    const double own = mirrored ? (wedge + 1) * angle - at : at - wedge * angle;
    const double r = std::hypot(x, y);
    return {{middle[0] + r * std::cos(own), middle[1] + r * std::sin(own), p[2]},
            mirrored ? (wedge + 1) * angle : wedge * angle,
            mirrored};
  }
};

/// An upright axis round which what lies beyond it along x is repeated by half a turn, or what lies beyond it along x
/// and y by quarters of a turn.
struct TurnedImages {
  std::array<double, 2> axis{};  ///< [m]
  bool quarters = false;

  [[nodiscard]] Point3 computed(const Point3& p) const {
    Point3 from_axis{p[0] - axis[0], p[1] - axis[1], p[2]};
    const auto is_image = [&] { return from_axis[0] < 0 || (quarters && from_axis[1] < 0); };
    if (!is_image()) return p;
    if (!quarters) return {2 * axis[0] - p[0], 2 * axis[1] - p[1], p[2]};
    for (int k = 0; k < 3 && is_image(); ++k) from_axis = quarter_turned(from_axis);
    return {axis[0] + from_axis[0], axis[1] + from_axis[1], p[2]};
  }
};

/// Of what a picture shows images: at mirrors, turned, or all round an axis.
struct Images {
  std::vector<MirrorPlane> mirrors;
  std::optional<TurnedImages> turned;
  std::optional<Sector> sector;

  /// The place that was computed for what is seen at a place.
  [[nodiscard]] Point3 computed(Point3 p) const {
    for (const auto& mirror : mirrors) {
      double& x = p[static_cast<std::size_t>(mirror.axis)];
      x = mirror.place + std::abs(x - mirror.place);
    }
    if (turned) p = turned->computed(p);
    return sector ? sector->image_of(p).place : p;
  }
};

}  // namespace wavy
