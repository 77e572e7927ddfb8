// Shapes that a fill can have, and the exact share of a rectangular cell that each of them covers.
#pragma once

#include <functional>
#include <variant>
#include <vector>

#include "geometry/vector.hpp"

namespace wavy {

/// Everything below a height along the last axis.
template <int D>
struct BelowLevel {
  double height = 0;  ///< [m]
};

/// A box along the axes.
template <int D>
struct AlignedBox {
  Vec<D> lower{};
  Vec<D> upper{};
};

/// A circle (2-D: a cylinder across the thickness) or a sphere.
template <int D>
struct Ball {
  Vec<D> centre{};
  double radius = 0;
};

/// Circles or spheres that do not overlap.
template <int D>
struct Drops {
  std::vector<Ball<D>> balls;
};

/// Anything else, by the share of the box lower..upper that it covers.
template <int D>
struct Covering {
  std::function<double(const Vec<D>& lower, const Vec<D>& upper)> share;
};

/// Drops of the given diameters [m], each in turn, `count` in all, laid at random into a box: wholly inside, and at
/// least a quarter of the smaller diameter apart. As many as find room, the largest first; a size that finds none in a
/// thousand tries is given up. The same seed gives the same drops on every machine.
template <int D>
Drops<D> scatter(const AlignedBox<D>& room, long count, const std::vector<double>& diameters, unsigned long seed);

template <int D>
using Shape = std::variant<BelowLevel<D>, AlignedBox<D>, Ball<D>, Drops<D>, Covering<D>>;

/// Area of the part of the rectangle [x0,x1] x [y0,y1] that lies in the disc of radius r round the origin.
/// Exact (closed form) up to round-off.
double disc_in_rectangle(double r, double x0, double x1, double y0, double y1);

/// Share (0 to 1) of the cell lower..upper covered by the shape. Exact to round-off, but for the sphere, where the
/// slices are exact and are integrated by Gauss-Legendre between their kinks (error below 1e-6 of a cell).
template <int D>
double covered_share(const Shape<D>& shape, const Vec<D>& lower, const Vec<D>& upper);

}  // namespace wavy
