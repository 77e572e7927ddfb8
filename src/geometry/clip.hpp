// Volumes of boxes cut by planes.
#pragma once

#include <array>
#include <span>

#include "geometry/plane.hpp"

namespace wavy {

/// The part of a box that lies below planes (normal . x <= offset; normals of any length but zero), of which it takes
/// up to six. Exact to round-off.
template <int D>
class ConvexBody {
 public:
  /// `lean` (2-D): volumes and sections are weighted by 1 + lean (x - 1/2), x along the first axis.
  ConvexBody(const Vec<D>& lower, const Vec<D>& upper, double slope = 0);
  void cut(const Plane<D>& plane);
  [[nodiscard]] double volume() const;  ///< 2-D: area
  /// Volume of the part below one more plane; `section` is set to the area (2-D: length) of the cut through the body.
  [[nodiscard]] double volume_below(const Plane<D>& plane, double* section = nullptr) const;

 private:
  /// A rim in the plane: of the body (2-D), or of one of its faces (3-D), counter-clockwise seen from outside.
  struct Polygon {
    static constexpr std::size_t most = 16;  // a box cut by a few planes never has more corners
    std::array<Vec<D>, most> point;
    std::size_t count = 0;
    void add(const Vec<D>& p) {
      if (count < most) point[count++] = p;
    }
  };
  static Polygon clip(const Polygon& polygon, const Plane<D>& plane, Polygon* crossings);
  static Polygon ordered(const Polygon& points, const Vec<D>& normal);
  [[nodiscard]] double add_cone(const Polygon& polygon, const Vec<D>& apex, Vec<D>& rest) const;

  static constexpr std::size_t most_faces = D == 2 ? 1 : 12;
  std::array<Polygon, most_faces> faces_;
  std::size_t count_ = 0;
  double lean_ = 0;
};

/// Volume (2-D: area) of the part of the box lower..upper below all of the planes.
template <int D>
double clipped_volume(const Vec<D>& lower, const Vec<D>& upper, std::span<const Plane<D>> planes, double slope = 0);

/// The plane with this normal (any length but zero) that has `volume` of the part of the unit cell below `open` below
/// it; to 1e-13 of the cell. A volume beyond what is there gives a plane beyond all of it. `lean`: as above; `open`
/// need not cut.
template <int D>
Plane<D> plane_through_part(const Vec<D>& normal, double volume, const Plane<D>& open, double slope = 0);

}  // namespace wavy
