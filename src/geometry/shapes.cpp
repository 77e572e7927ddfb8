#include "geometry/shapes.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <random>
#include <vector>

namespace wavy {
namespace {

/// Area under min(h, sqrt(r^2 - x^2)) over [x0, x1] within the disc, h >= 0.
double area_below(double r, double x0, double x1, double h) {
  x0 = std::clamp(x0, -r, r);
  x1 = std::clamp(x1, -r, r);
  const double flat = h < r ? std::sqrt(r * r - h * h) : 0.0;  // |x| < flat: cut by h, beyond: by the arc
  const auto arc = [r](double x) {
    const double s = std::clamp(x / r, -1.0, 1.0);
    return 0.5 * r * r * (s * std::sqrt(std::max(0.0, 1 - s * s)) + std::asin(s));
  };
  const auto part = [&](double a, double b, double lo, double hi) {
    return std::pair{std::max(a, lo), std::min(b, hi)};
  };
  double area = 0;
  const auto [a0, a1] = part(x0, x1, -r, -flat);
  if (a1 > a0) area += arc(a1) - arc(a0);
  const auto [b0, b1] = part(x0, x1, -flat, flat);
  if (b1 > b0) area += h * (b1 - b0);
  const auto [c0, c1] = part(x0, x1, flat, r);
  if (c1 > c0) area += arc(c1) - arc(c0);
  return area;
}

double overlap(double a0, double a1, double b0, double b1) {
  return std::max(0.0, std::min(a1, b1) - std::max(a0, b0));
}

double sphere_in_box(double r, const Vec<3>& lo, const Vec<3>& hi) {
  std::vector<double> cuts{std::clamp(lo[2], -r, r), std::clamp(hi[2], -r, r)};
  const auto cut_where_radius_is = [&](double rho) {
    if (rho >= r) return;
    const double z = std::sqrt(r * r - rho * rho);
    for (const double candidate : {-z, z})
      if (candidate > cuts[0] && candidate < cuts[1]) cuts.push_back(candidate);
  };
  for (const double x : {lo[0], hi[0]}) {
    cut_where_radius_is(std::abs(x));
    for (const double y : {lo[1], hi[1]}) cut_where_radius_is(std::hypot(x, y));
  }
  for (const double y : {lo[1], hi[1]}) cut_where_radius_is(std::abs(y));
  std::sort(cuts.begin(), cuts.end());
  constexpr std::array<double, 5> node{0.1488743389816312, 0.4333953941292472, 0.6794095682990244, 0.8650633666889845,
                                       0.9739065285171717};
  constexpr std::array<double, 5> weight{0.2955242247147529, 0.2692667193099963, 0.2190863625159820, 0.1494513491505806,
                                         0.0666713443086881};
  double volume = 0;
  for (std::size_t i = 0; i + 1 < cuts.size(); ++i) {
    const double mid = 0.5 * (cuts[i] + cuts[i + 1]);
    const double half = 0.5 * (cuts[i + 1] - cuts[i]);
    for (std::size_t g = 0; g < node.size(); ++g) {
      for (const double z : {mid - half * node[g], mid + half * node[g]}) {
        const double rho = std::sqrt(std::max(0.0, r * r - z * z));
        volume += half * weight[g] * disc_in_rectangle(rho, lo[0], hi[0], lo[1], hi[1]);
      }
    }
  }
  return volume;
}

template <int D>
struct Covered {
  const Vec<D>& lower;
  const Vec<D>& upper;

  double operator()(const BelowLevel<D>& level) const {
    return std::clamp((level.height - lower[D - 1]) / (upper[D - 1] - lower[D - 1]), 0.0, 1.0);
  }
  double operator()(const AlignedBox<D>& box) const {
    double share = 1;
    for (int d = 0; d < D; ++d)
      share *= overlap(lower[d], upper[d], box.lower[d], box.upper[d]) / (upper[d] - lower[d]);
    return share;
  }
  double operator()(const Ball<D>& ball) const {
    Vec<D> lo = lower;
    Vec<D> hi = upper;
    double volume = 1;
    double nearest = 0;
    double farthest = 0;
    for (int d = 0; d < D; ++d) {
      lo[d] -= ball.centre[d];
      hi[d] -= ball.centre[d];
      volume *= hi[d] - lo[d];
      const double gap = std::max({lo[d], -hi[d], 0.0});
      nearest += gap * gap;
      const double reach = std::max(std::abs(lo[d]), std::abs(hi[d]));
      farthest += reach * reach;
    }
    const double r = ball.radius;
    if (nearest >= r * r) return 0;
    if (farthest <= r * r) return 1;
    double inside = 0;
    if constexpr (D == 2)
      inside = disc_in_rectangle(r, lo[0], hi[0], lo[1], hi[1]);
    else
      inside = sphere_in_box(r, lo, hi);
    return std::clamp(inside / volume, 0.0, 1.0);
  }
  double operator()(const Covering<D>& covering) const { return covering.share(lower, upper); }
  double operator()(const Drops<D>& drops) const {
    double sum = 0;
    for (const auto& ball : drops.balls) sum += (*this)(ball);
    return std::min(sum, 1.0);
  }
};

}  // namespace

double disc_in_rectangle(double r, double x0, double x1, double y0, double y1) {
  if (r <= 0) return 0;
  const auto signed_area = [&](double y) { return std::copysign(area_below(r, x0, x1, std::abs(y)), y); };
  return std::max(0.0, signed_area(y1) - signed_area(y0));
}

template <int D>
double covered_share(const Shape<D>& shape, const Vec<D>& lower, const Vec<D>& upper) {
  return std::visit(Covered<D>{lower, upper}, shape);
}

template <int D>
Drops<D> scatter(const AlignedBox<D>& room, long count, const std::vector<double>& diameters, unsigned long seed) {
  std::vector<double> radii;
  for (long i = 0; i < count; ++i) radii.push_back(0.5 * diameters[static_cast<std::size_t>(i) % diameters.size()]);
  std::stable_sort(radii.begin(), radii.end(), std::greater<>());
  std::mt19937_64 random(seed);
  const auto share = [&random] { return std::ldexp(static_cast<double>(random() >> 11U), -53); };
  constexpr int tries = 1000;
  Drops<D> drops;
  // Radius of the last drop that found no room: others of its size need not try.
  double without_room = std::numeric_limits<double>::infinity();
  for (const double r : radii) {
    if (r >= without_room) continue;
    bool laid = false;
    for (int attempt = 0; attempt < tries && !laid; ++attempt) {
      Ball<D> ball{{}, r};
      for (int d = 0; d < D; ++d)
        ball.centre[d] = room.lower[d] + r + share() * (room.upper[d] - room.lower[d] - 2 * r);
      laid = std::ranges::all_of(drops.balls, [&](const Ball<D>& other) {
        double square = 0;
        for (int d = 0; d < D; ++d) square += std::pow(ball.centre[d] - other.centre[d], 2);
        return std::sqrt(square) >= r + other.radius + 0.5 * std::min(r, other.radius);
      });
      if (laid) drops.balls.push_back(ball);
    }
    if (!laid) without_room = r;
  }
  return drops;
}

template Drops<2> scatter<2>(const AlignedBox<2>&, long, const std::vector<double>&, unsigned long);
template Drops<3> scatter<3>(const AlignedBox<3>&, long, const std::vector<double>&, unsigned long);
template double covered_share<2>(const Shape<2>&, const Vec<2>&, const Vec<2>&);
template double covered_share<3>(const Shape<3>&, const Vec<3>&, const Vec<3>&);

}  // namespace wavy
