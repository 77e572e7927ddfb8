#include "geometry/solids.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

namespace wavy {
namespace {

constexpr double infinite = std::numeric_limits<double>::infinity();

template <int D>
Vec<D> unit(Vec<D> a) {
  const double size = length<D>(a);
  for (double& c : a) c /= size;
  return a;
}

/// A line with a direction, and where points lie along it and away from it.
template <int D>
struct Axis {
  Vec<D> start;
  Vec<D> direction;  // of length 1
  double extent;     // [m]

  Axis(const Vec<D>& from, const Vec<D>& to)
      : start(from), direction(unit<D>(minus<D>(to, from))), extent(length<D>(minus<D>(to, from))) {}

  /// Distance from the line, and place along it.
  [[nodiscard]] std::pair<double, double> place(const Vec<D>& p) const {
    const Vec<D> away = minus<D>(p, start);
    const double along = dot<D>(away, direction);
    double square = 0;
    for (int d = 0; d < D; ++d) square += std::pow(away[d] - along * direction[d], 2);
    return {std::sqrt(square), along};
  }
};

/// Grows a box round a disc (in 2-D: a line) of this radius across the axis at `centre`.
template <int D>
void take_in(Solid<D>& solid, const Vec<D>& centre, const Vec<D>& direction, double radius) {
  for (int d = 0; d < D; ++d) {
    const double reach = radius * std::sqrt(std::max(0.0, 1 - direction[d] * direction[d]));
    solid.lower[d] = std::min(solid.lower[d], centre[d] - reach);
    solid.upper[d] = std::max(solid.upper[d], centre[d] + reach);
  }
}

template <int D>
Solid<D> nothing_yet() {
  Solid<D> solid;
  solid.lower.fill(infinite);
  solid.upper.fill(-infinite);
  return solid;
}

/// Distance from a head beyond the tangent line, z >= 0 counted outwards.
double head_distance(Head head, double radius, double r, double z) {
  switch (head) {
    case Head::flat:
      return beyond<2>({r - radius, z});
    case Head::hemispherical:
      return std::hypot(r, z) - radius;
    case Head::elliptical: {
      // First order at the surface: value over size of the gradient of the ellipse's equation.
      const double b = radius / 2;
      const double q = std::hypot(r / radius, z / b);
      const double slope = std::hypot(r / (radius * radius), z / (b * b));
      return slope > 0 ? q * (q - 1) / slope : -b;
    }
    case Head::torispherical: {
      const double crown = 2 * radius;
      const double knuckle = radius / 5;
      const double centre = head_depth(head, radius) - crown;  // of the crown, along z
      const double dr = radius - knuckle;
      // The knuckle rules on its side of the line from the crown's centre through its own.
      if (r * (0 - centre) > (z - centre) * dr) return std::hypot(r - dr, z) - knuckle;
      return std::hypot(r, z - centre) - crown;
    }
  }
  return infinite;
}

/// Distance to the segment a-b.
template <int D>
double to_segment(const Vec<D>& p, const Vec<D>& a, const Vec<D>& b) {
  const Vec<D> ab = minus<D>(b, a);
  const Vec<D> ap = minus<D>(p, a);
  const double square = dot<D>(ab, ab);
  const double t = square > 0 ? std::clamp(dot<D>(ap, ab) / square, 0.0, 1.0) : 0.0;
  double sum = 0;
  for (int d = 0; d < D; ++d) sum += std::pow(ap[d] - t * ab[d], 2);
  return std::sqrt(sum);
}

/// Arc of a bend: centre, the plane's two directions, radius and angle.
template <int D>
struct Bend {
  Vec<D> centre{}, first{}, second{};
  double radius = 0;
  double angle = 0;

  /// Distance to the arc; infinite beside its ends, where the legs rule.
  [[nodiscard]] double operator()(const Vec<D>& p) const {
    const Vec<D> away = minus<D>(p, centre);
    const double x = dot<D>(away, first);
    const double y = dot<D>(away, second);
    const double phi = std::atan2(y, x);
    if (phi < 0 || phi > angle) return infinite;
    double off = 0;  // out of the plane
    for (int d = 0; d < D; ++d) off += std::pow(away[d] - x * first[d] - y * second[d], 2);
    return std::sqrt(std::pow(std::hypot(x, y) - radius, 2) + off);
  }
};

}  // namespace

double head_depth(Head head, double radius) {
  switch (head) {
    case Head::flat:
      return 0;
    case Head::elliptical:
      return radius / 2;
    case Head::hemispherical:
      return radius;
    case Head::torispherical: {
      const double crown = 2 * radius;
      const double knuckle = radius / 5;
      return crown - std::sqrt(std::pow(crown - knuckle, 2) - std::pow(radius - knuckle, 2));
    }
  }
  return 0;
}

template <int D>
Solid<D> box_solid(const Vec<D>& lower, const Vec<D>& upper) {
  return {[lower, upper](const Vec<D>& p) {
            std::array<double, D> sides;
            for (std::size_t d = 0; d < D; ++d) sides[d] = std::max(lower[d] - p[d], p[d] - upper[d]);
            return beyond(sides);
          },
          lower, upper};
}

template <int D>
Solid<D> ball_solid(const Vec<D>& centre, double radius) {
  Solid<D> solid{[=](const Vec<D>& p) { return length<D>(minus<D>(p, centre)) - radius; }, centre, centre};
  for (int d = 0; d < D; ++d) {
    solid.lower[d] -= radius;
    solid.upper[d] += radius;
  }
  return solid;
}

template <int D>
Solid<D> cylinder_solid(const Vec<D>& from, const Vec<D>& to, double radius, Head at_from, Head at_to) {
  const Axis<D> axis(from, to);
  Solid<D> solid = nothing_yet<D>();
  solid.distance = [=](const Vec<D>& p) {
    const auto [r, z] = axis.place(p);
    if (z < 0 && at_from != Head::flat) return head_distance(at_from, radius, r, -z);
    if (z > axis.extent && at_to != Head::flat) return head_distance(at_to, radius, r, z - axis.extent);
    return beyond<3>(
        {r - radius, at_from == Head::flat ? -z : -infinite, at_to == Head::flat ? z - axis.extent : -infinite});
  };
  // Slices of the heads give their box closely enough: they are convex.
  constexpr int slices = 64;
  for (const bool end : {false, true}) {
    const Head head = end ? at_to : at_from;
    const double depth = head_depth(head, radius);
    take_in<D>(solid, end ? to : from, axis.direction, radius);
    for (int i = 1; i <= slices && depth > 0; ++i) {
      const double z = depth * i / slices;
      double low = 0;
      double high = radius;
      for (int halving = 0; halving < 40; ++halving)
        (head_distance(head, radius, 0.5 * (low + high), z) < 0 ? low : high) = 0.5 * (low + high);
      Vec<D> centre = end ? to : from;
      for (int d = 0; d < D; ++d) centre[d] += (end ? z : -z) * axis.direction[d];
      take_in<D>(solid, centre, axis.direction, low);
    }
  }
  return solid;
}

template <int D>
Solid<D> cone_solid(const Vec<D>& from, const Vec<D>& to, double radius_from, double radius_to) {
  const Axis<D> axis(from, to);
  const double slope = (radius_to - radius_from) / axis.extent;
  const double cosine = 1 / std::sqrt(1 + slope * slope);
  Solid<D> solid = nothing_yet<D>();
  solid.distance = [=](const Vec<D>& p) {
    const auto [r, z] = axis.place(p);
    return beyond<3>({(r - radius_from - slope * z) * cosine, -z, z - axis.extent});
  };
  take_in<D>(solid, from, axis.direction, radius_from);
  take_in<D>(solid, to, axis.direction, radius_to);
  return solid;
}

Solid<3> torus_solid(const Vec<3>& centre, const Vec<3>& axis, double ring, double tube) {
  const Vec<3> up = unit<3>(axis);
  Solid<3> solid = nothing_yet<3>();
  solid.distance = [=](const Vec<3>& p) {
    const Vec<3> away = minus<3>(p, centre);
    const double z = dot<3>(away, up);
    const double r = std::sqrt(std::max(0.0, dot<3>(away, away) - z * z));
    return std::hypot(r - ring, z) - tube;
  };
  take_in<3>(solid, centre, up, ring);
  for (std::size_t d = 0; d < 3; ++d) {
    solid.lower[d] -= tube;
    solid.upper[d] += tube;
  }
  return solid;
}

namespace {

template <int D>
struct PipeLeg {
  Vec<D> from, to;
};

/// The line of a pipe as straight legs with bends between them.
template <int D>
struct PipeLine {
  std::vector<PipeLeg<D>> legs;
  std::vector<Bend<D>> bends;
};

template <int D>
PipeLine<D> line_of_pipe(const std::vector<Vec<D>>& points, double bend) {
  PipeLine<D> line;
  auto& [legs, bends] = line;
  Vec<D> start = points.front();
  for (std::size_t i = 1; i < points.size(); ++i) {
    Vec<D> end = points[i];
    if (i + 1 == points.size() || bend <= 0) {
      legs.push_back({start, end});
      start = end;
      continue;
    }
    const Vec<D> in = unit<D>(minus<D>(points[i], points[i - 1]));
    const Vec<D> out = unit<D>(minus<D>(points[i + 1], points[i]));
    const double angle = std::acos(std::clamp(dot<D>(in, out), -1.0, 1.0));
    if (angle < 1e-6) {
      legs.push_back({start, end});
      start = end;
      continue;
    }
    const double cut = bend * std::tan(angle / 2);
    Bend<D> arc;
    arc.radius = bend;
    arc.angle = angle;
    Vec<D> across;  // from the leg towards the arc's centre
    for (int d = 0; d < D; ++d) across[d] = out[d] - std::cos(angle) * in[d];
    across = unit<D>(across);
    Vec<D> next = points[i];
    for (int d = 0; d < D; ++d) {
      end[d] -= cut * in[d];
      next[d] += cut * out[d];
      arc.centre[d] = end[d] + bend * across[d];
      arc.first[d] = -across[d];
      arc.second[d] = in[d];
    }
    legs.push_back({start, end});
    bends.push_back(arc);
    start = next;
  }
  return line;
}

/// Makes a solid's extent reach round a bend.
template <int D>
void take_in_bend(Solid<D>& solid, const Bend<D>& arc, double radius) {
  constexpr int steps = 32;
  for (int i = 0; i <= steps; ++i) {
    const double phi = arc.angle * i / steps;
    for (const double r : {arc.radius - radius, arc.radius + radius}) {
      Vec<D> p = arc.centre;
      for (int d = 0; d < D; ++d) p[d] += r * (std::cos(phi) * arc.first[d] + std::sin(phi) * arc.second[d]);
      take_in<D>(solid, p, Vec<D>{}, 0);
    }
    if constexpr (D == 3) {
      Vec<D> p = arc.centre;
      Vec<D> tangent;
      for (int d = 0; d < D; ++d) {
        p[d] += arc.radius * (std::cos(phi) * arc.first[d] + std::sin(phi) * arc.second[d]);
        tangent[d] = std::cos(phi) * arc.second[d] - std::sin(phi) * arc.first[d];
      }
      take_in<D>(solid, p, tangent, radius);
    }
  }
}

}  // namespace

template <int D>
Solid<D> pipe_solid(const std::vector<Vec<D>>& points, double radius, double bend) {
  const PipeLine<D> line = line_of_pipe<D>(points, bend);
  // Flat ends: nothing lies beyond the planes through the first and the last point, near them.
  const Vec<D> first = points.front();
  const Vec<D> last = points.back();
  const Vec<D> backwards = unit<D>(minus<D>(points[0], points[1]));
  const Vec<D> forwards = unit<D>(minus<D>(last, points[points.size() - 2]));
  Solid<D> solid = nothing_yet<D>();
  solid.distance = [line, radius, first, last, backwards, forwards](const Vec<D>& p) {
    double nearest = infinite;
    for (std::size_t i = 0; i < line.legs.size(); ++i) {
      double d = to_segment<D>(p, line.legs[i].from, line.legs[i].to) - radius;
      const bool at_start = i == 0;
      const bool at_end = i + 1 == line.legs.size();
      if (at_start || at_end) {
        const Axis<D> axis(line.legs[i].from, line.legs[i].to);
        const auto [r, z] = axis.place(p);
        if (at_start && z < radius && dot<D>(minus<D>(p, first), backwards) > -radius)
          d = std::max(d, beyond<2>({r - radius, -z}));
        if (at_end && z > axis.extent - radius && dot<D>(minus<D>(p, last), forwards) > -radius)
          d = std::max(d, beyond<2>({r - radius, z - axis.extent}));
      }
      nearest = std::min(nearest, d);
    }
    for (const auto& arc : line.bends) nearest = std::min(nearest, arc(p) - radius);
    return nearest;
  };
  for (const auto& leg : line.legs) {
    const Vec<D> direction = unit<D>(minus<D>(leg.to, leg.from));
    take_in<D>(solid, leg.from, direction, radius);
    take_in<D>(solid, leg.to, direction, radius);
  }
  for (const auto& arc : line.bends) take_in_bend<D>(solid, arc, radius);
  return solid;
}

Solid<2> polygon_solid(std::vector<Vec<2>> points) {
  Solid<2> solid = nothing_yet<2>();
  for (const auto& p : points) take_in<2>(solid, p, {}, 0);
  solid.distance = [points = std::move(points)](const Vec<2>& p) {
    double nearest = infinite;
    bool inside = false;
    for (std::size_t i = 0, j = points.size() - 1; i < points.size(); j = i++) {
      const Vec<2>& a = points[i];
      const Vec<2>& b = points[j];
      nearest = std::min(nearest, to_segment<2>(p, a, b));
      if ((a[1] > p[1]) != (b[1] > p[1]) && p[0] < (b[0] - a[0]) * (p[1] - a[1]) / (b[1] - a[1]) + a[0])
        inside = !inside;
    }
    return inside ? -nearest : nearest;
  };
  return solid;
}

Solid<3> extruded_solid(const std::vector<Vec<2>>& points, int axis, double from, double to) {
  const Solid<2> flat = polygon_solid(points);
  const auto a = static_cast<std::size_t>(axis == 0 ? 1 : 0);
  const auto b = static_cast<std::size_t>(axis == 2 ? 1 : 2);
  const auto c = static_cast<std::size_t>(axis);
  Solid<3> solid;
  solid.distance = [=, inside = flat.distance](const Vec<3>& p) {
    return beyond<3>({inside({p[a], p[b]}), from - p[c], p[c] - to});
  };
  solid.lower[a] = flat.lower[0];
  solid.upper[a] = flat.upper[0];
  solid.lower[b] = flat.lower[1];
  solid.upper[b] = flat.upper[1];
  solid.lower[c] = from;
  solid.upper[c] = to;
  return solid;
}

Solid<3> revolved_solid(const std::vector<Vec<2>>& profile, const Vec<3>& base, const Vec<3>& axis) {
  // Mirrored at the axis, so that the edge along it is no surface.
  std::vector<Vec<2>> whole = profile;
  const std::vector<Vec<2>> backwards(profile.rbegin(), profile.rend());
  for (const auto& point : backwards) whole.push_back({-point[0], point[1]});
  const Solid<2> flat = polygon_solid(whole);
  Vec<3> tip = base;
  const Vec<3> direction = unit<3>(axis);
  for (std::size_t d = 0; d < 3; ++d) tip[d] += direction[d];
  const Axis<3> line(base, tip);
  Solid<3> solid = nothing_yet<3>();
  solid.distance = [line, inside = flat.distance](const Vec<3>& p) {
    const auto [r, z] = line.place(p);
    return inside({r, z});
  };
  for (const auto& point : profile) {
    Vec<3> centre = base;
    for (std::size_t d = 0; d < 3; ++d) centre[d] += point[1] * direction[d];
    take_in<3>(solid, centre, direction, point[0]);
  }
  return solid;
}

template <int D>
Solid<D> union_of(const Solid<D>& a, const Solid<D>& b) {
  Solid<D> solid{[f = a.distance, g = b.distance](const Vec<D>& p) { return std::min(f(p), g(p)); }, a.lower, a.upper};
  for (int d = 0; d < D; ++d) {
    solid.lower[d] = std::min(a.lower[d], b.lower[d]);
    solid.upper[d] = std::max(a.upper[d], b.upper[d]);
  }
  return solid;
}

template <int D>
Solid<D> difference(const Solid<D>& a, const Solid<D>& b) {
  return {[f = a.distance, g = b.distance](const Vec<D>& p) { return std::max(f(p), -g(p)); }, a.lower, a.upper};
}

template <int D>
Solid<D> intersection(const Solid<D>& a, const Solid<D>& b) {
  Solid<D> solid{[f = a.distance, g = b.distance](const Vec<D>& p) { return std::max(f(p), g(p)); }, a.lower, a.upper};
  for (int d = 0; d < D; ++d) {
    solid.lower[d] = std::max(a.lower[d], b.lower[d]);
    solid.upper[d] = std::min(a.upper[d], b.upper[d]);
  }
  return solid;
}

template <int D>
Solid<D> moved(const Solid<D>& solid, const Vec<D>& by) {
  Solid<D> result = solid;
  result.distance = [f = solid.distance, by](const Vec<D>& p) { return f(minus<D>(p, by)); };
  for (int d = 0; d < D; ++d) {
    result.lower[d] += by[d];
    result.upper[d] += by[d];
  }
  return result;
}

Solid<2> turned(const Solid<2>& solid, const Vec<2>& centre, double angle) {
  const double c = std::cos(angle);
  const double s = std::sin(angle);
  Solid<2> result = nothing_yet<2>();
  result.distance = [=, f = solid.distance](const Vec<2>& p) {
    const Vec<2> a = minus<2>(p, centre);
    return f({centre[0] + c * a[0] + s * a[1], centre[1] - s * a[0] + c * a[1]});
  };
  for (const double x : {solid.lower[0], solid.upper[0]})
    for (const double y : {solid.lower[1], solid.upper[1]}) {
      const Vec<2> a = minus<2>({x, y}, centre);
      take_in<2>(result, {centre[0] + c * a[0] - s * a[1], centre[1] + s * a[0] + c * a[1]}, {}, 0);
    }
  return result;
}

Solid<3> turned(const Solid<3>& solid, const Vec<3>& centre, const Vec<3>& axis, double angle) {
  const Vec<3> k = unit<3>(axis);
  // Rodrigues' formula.
  const auto rotate = [centre, k, c = std::cos(angle)](const Vec<3>& p, double s) {
    const Vec<3> a = minus<3>(p, centre);
    const double along = dot<3>(k, a) * (1 - c);
    return Vec<3>{centre[0] + a[0] * c + (k[1] * a[2] - k[2] * a[1]) * s + k[0] * along,
                  centre[1] + a[1] * c + (k[2] * a[0] - k[0] * a[2]) * s + k[1] * along,
                  centre[2] + a[2] * c + (k[0] * a[1] - k[1] * a[0]) * s + k[2] * along};
  };
  const double sine = std::sin(angle);
  Solid<3> result = nothing_yet<3>();
  result.distance = [=, f = solid.distance](const Vec<3>& p) { return f(rotate(p, -sine)); };
  for (const double x : {solid.lower[0], solid.upper[0]})
    for (const double y : {solid.lower[1], solid.upper[1]})
      for (const double z : {solid.lower[2], solid.upper[2]}) take_in<3>(result, rotate({x, y, z}, sine), {}, 0);
  return result;
}

template <int D>
Solid<D> mirrored(const Solid<D>& solid, int axis, double at) {
  const auto a = static_cast<std::size_t>(axis);
  Solid<D> result = solid;
  result.distance = [=, f = solid.distance](const Vec<D>& p) {
    Vec<D> q = p;
    q[a] = 2 * at - q[a];
    return f(q);
  };
  result.lower[a] = 2 * at - solid.upper[a];
  result.upper[a] = 2 * at - solid.lower[a];
  return result;
}

template Solid<2> box_solid<2>(const Vec<2>&, const Vec<2>&);
template Solid<3> box_solid<3>(const Vec<3>&, const Vec<3>&);
template Solid<2> ball_solid<2>(const Vec<2>&, double);
template Solid<3> ball_solid<3>(const Vec<3>&, double);
template Solid<2> cylinder_solid<2>(const Vec<2>&, const Vec<2>&, double, Head, Head);
template Solid<3> cylinder_solid<3>(const Vec<3>&, const Vec<3>&, double, Head, Head);
template Solid<2> cone_solid<2>(const Vec<2>&, const Vec<2>&, double, double);
template Solid<3> cone_solid<3>(const Vec<3>&, const Vec<3>&, double, double);
template Solid<2> pipe_solid<2>(const std::vector<Vec<2>>&, double, double);
template Solid<3> pipe_solid<3>(const std::vector<Vec<3>>&, double, double);
template Solid<2> union_of<2>(const Solid<2>&, const Solid<2>&);
template Solid<3> union_of<3>(const Solid<3>&, const Solid<3>&);
template Solid<2> difference<2>(const Solid<2>&, const Solid<2>&);
template Solid<3> difference<3>(const Solid<3>&, const Solid<3>&);
template Solid<2> intersection<2>(const Solid<2>&, const Solid<2>&);
template Solid<3> intersection<3>(const Solid<3>&, const Solid<3>&);
template Solid<2> moved<2>(const Solid<2>&, const Vec<2>&);
template Solid<3> moved<3>(const Solid<3>&, const Vec<3>&);
template Solid<2> mirrored<2>(const Solid<2>&, int, double);
template Solid<3> mirrored<3>(const Solid<3>&, int, double);

}  // namespace wavy
