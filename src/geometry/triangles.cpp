#include "geometry/triangles.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
#include <numeric>

namespace wavy {
namespace {

/// Of length 1; a triangle without area has a normal of 0.
Vec<3> unit(const Vec<3>& a) {
  const double size = length<3>(a);
  return size > 0 ? Vec<3>{a[0] / size, a[1] / size, a[2] / size} : a;
}

/// A triangle, with the normals of its corners, of its edges (0-1, 1-2, 2-0) and its own.
struct Triangle {
  std::array<Vec<3>, 3> corner;
  std::array<Vec<3>, 7> normal;
};

/// The point of a triangle nearest to p, and which of its `normal`s rules there (Ericson, Real-Time Collision Detection
/// (2005), sec. 5.1.5).
std::pair<Vec<3>, std::size_t> nearest_point(const Triangle& triangle, const Vec<3>& p) {
  const auto& [a, b, c] = triangle.corner;
  const Vec<3> ab = minus<3>(b, a);
  const Vec<3> ac = minus<3>(c, a);
  const Vec<3> ap = minus<3>(p, a);
  const double d1 = dot<3>(ab, ap);
  const double d2 = dot<3>(ac, ap);
  if (d1 <= 0 && d2 <= 0) return {a, 0};
  const Vec<3> bp = minus<3>(p, b);
  const double d3 = dot<3>(ab, bp);
  const double d4 = dot<3>(ac, bp);
  if (d3 >= 0 && d4 <= d3) return {b, 1};
  const double vc = d1 * d4 - d3 * d2;
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return {along<3>(a, d1 / (d1 - d3), ab), 3};
  const Vec<3> cp = minus<3>(p, c);
  const double d5 = dot<3>(ab, cp);
  const double d6 = dot<3>(ac, cp);
  if (d6 >= 0 && d5 <= d6) return {c, 2};
  const double vb = d5 * d2 - d1 * d6;
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return {along<3>(a, d2 / (d2 - d6), ac), 5};
  const double va = d3 * d6 - d5 * d4;
  if (va <= 0 && d4 >= d3 && d5 >= d6) return {along<3>(b, (d4 - d3) / ((d4 - d3) + (d5 - d6)), minus<3>(c, b)), 4};
  const double whole = va + vb + vc;
  return {along<3>(along<3>(a, vb / whole, ab), vc / whole, ac), 6};
}

/// Triangles in a tree of boxes: every branch has the half of its triangles that lie lower along the longest side.
class Tree {
 public:
  explicit Tree(std::vector<Triangle> triangles) : triangles_(std::move(triangles)) {
    std::vector<int> order(triangles_.size());
    std::iota(order.begin(), order.end(), 0);
    build(order, 0, order.size());
    std::vector<Triangle> sorted;
    for (const int i : order) sorted.push_back(triangles_[static_cast<std::size_t>(i)]);
    triangles_ = std::move(sorted);
  }

  [[nodiscard]] double distance(const Vec<3>& p) const {
    // The triangle of this thread's last question is mostly near to the answer, and spares most of the search.
    thread_local std::size_t last = 0;
    Found found;
    look_at(std::min(last, triangles_.size() - 1), p, found);
    search(0, p, found);
    last = found.triangle;
    return std::copysign(std::sqrt(found.square), found.sign);
  }
  [[nodiscard]] const Vec<3>& lower() const { return branches_.front().lower; }
  [[nodiscard]] const Vec<3>& upper() const { return branches_.front().upper; }

 private:
  struct Branch {
    Vec<3> lower, upper;
    std::size_t first = 0, count = 0;       // its triangles, where it is a leaf
    std::array<std::size_t, 2> children{};  // where it is none
  };

  struct Found {
    double square = 1e300;  // of the distance
    double sign = 1;
    std::size_t triangle = 0;
  };

  void look_at(std::size_t i, const Vec<3>& p, Found& found) const {
    const auto [point, ruling] = nearest_point(triangles_[i], p);
    const Vec<3> away = minus<3>(p, point);
    const double square = dot<3>(away, away);
    if (square < found.square) found = {square, dot<3>(away, triangles_[i].normal[ruling]), i};
  }

  std::size_t build(std::vector<int>& order, std::size_t first, std::size_t count) {
    constexpr std::size_t leaf = 4;
    const std::size_t own = branches_.size();
    Branch branch;
    branch.lower.fill(1e300);
    branch.upper.fill(-1e300);
    for (std::size_t i = first; i < first + count; ++i)
      for (const auto& corner : triangles_[static_cast<std::size_t>(order[i])].corner)
        for (std::size_t d = 0; d < 3; ++d) {
          branch.lower[d] = std::min(branch.lower[d], corner[d]);
          branch.upper[d] = std::max(branch.upper[d], corner[d]);
        }
    branch.first = first;
    branch.count = count;
    branches_.push_back(branch);
    if (count <= leaf) return own;
    const Vec<3> extent = minus<3>(branch.upper, branch.lower);
    const auto axis = static_cast<std::size_t>(std::max_element(extent.begin(), extent.end()) - extent.begin());
    const auto middle = [&](int i) {
      const auto& corner = triangles_[static_cast<std::size_t>(i)].corner;
      return corner[0][axis] + corner[1][axis] + corner[2][axis];
    };
    const auto begin = order.begin() + static_cast<std::ptrdiff_t>(first);
    const std::size_t half = count / 2;
    std::nth_element(begin, begin + static_cast<std::ptrdiff_t>(half), begin + static_cast<std::ptrdiff_t>(count),
                     [&](int i, int j) { return middle(i) < middle(j); });
    branches_[own].count = 0;
    branches_[own].children[0] = build(order, first, half);
    branches_[own].children[1] = build(order, first + half, count - half);
    return own;
  }

  void search(std::size_t at, const Vec<3>& p, Found& found) const {
    const Branch& branch = branches_[at];
    for (std::size_t i = branch.first; i < branch.first + branch.count; ++i) look_at(i, p, found);
    if (branch.count > 0) return;
    const auto square_to = [&](const Branch& other) { return square_to_box<3>(p, other.lower, other.upper); };
    auto [near, far] = branch.children;
    double to_near = square_to(branches_[near]);
    double to_far = square_to(branches_[far]);
    if (to_far < to_near) {
      std::swap(near, far);
      std::swap(to_near, to_far);
    }
    if (to_near < found.square) search(near, p, found);
    if (to_far < found.square) search(far, p, found);
  }

  std::vector<Triangle> triangles_;
  std::vector<Branch> branches_;
};

}  // namespace

Solid<3> triangle_solid(const std::vector<Vec<3>>& points, const std::vector<std::array<int, 3>>& triangles) {
  std::vector<Vec<3>> of_point(points.size(), Vec<3>{});
  std::map<std::array<int, 2>, Vec<3>> of_edge;
  const auto add = [](Vec<3>& sum, double weight, const Vec<3>& normal) { sum = along<3>(sum, weight, normal); };
  const auto edge = [](const std::array<int, 3>& t, std::size_t k) {
    const int a = t[k];
    const int b = t[(k + 1) % 3];
    return std::array<int, 2>{std::min(a, b), std::max(a, b)};
  };
  std::vector<Triangle> made;
  for (const auto& t : triangles) {
    Triangle triangle;
    for (std::size_t k = 0; k < 3; ++k) triangle.corner[k] = points[static_cast<std::size_t>(t[k])];
    const auto& [a, b, c] = triangle.corner;
    const Vec<3> normal = unit(cross(minus<3>(b, a), minus<3>(c, a)));
    triangle.normal[6] = normal;
    for (std::size_t k = 0; k < 3; ++k) {
      const Vec<3> u = unit(minus<3>(triangle.corner[(k + 1) % 3], triangle.corner[k]));
      const Vec<3> v = unit(minus<3>(triangle.corner[(k + 2) % 3], triangle.corner[k]));
      add(of_point[static_cast<std::size_t>(t[k])], std::acos(std::clamp(dot<3>(u, v), -1.0, 1.0)), normal);
      add(of_edge.try_emplace(edge(t, k), Vec<3>{}).first->second, 1.0, normal);
    }
    made.push_back(triangle);
  }
  for (std::size_t i = 0; i < triangles.size(); ++i)
    for (std::size_t k = 0; k < 3; ++k) {
      made[i].normal[k] = of_point[static_cast<std::size_t>(triangles[i][k])];
      made[i].normal[3 + k] = of_edge.at(edge(triangles[i], k));
    }
  const auto tree = std::make_shared<const Tree>(std::move(made));
  return {[tree](const Vec<3>& p) { return tree->distance(p); }, tree->lower(), tree->upper()};
}

}  // namespace wavy
