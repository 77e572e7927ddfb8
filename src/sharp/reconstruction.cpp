#include "sharp/reconstruction.hpp"

#include <algorithm>
#include <cmath>

namespace wavy::sharp {
namespace {

constexpr double tiny = 1e-13;  // normal components below this count as zero

}  // namespace

std::optional<std::array<Vec<2>, 2>> chord_ends(const Plane<2>& line) {
  std::array<Vec<2>, 2> end{};
  std::size_t found = 0;
  for (std::size_t d = 0; d < 2; ++d)
    for (int side = 0; side < 2; ++side) {
      const std::size_t e = 1 - d;
      if (std::abs(line.normal[e]) < tiny) continue;
      const double other = (line.offset - line.normal[d] * side) / line.normal[e];
      if (other < 0 || other > 1) continue;
      Vec<2> point;
      point[d] = side;
      point[e] = other;
      if (found == 1 && std::abs(point[0] - end[0][0]) + std::abs(point[1] - end[0][1]) < tiny) continue;  // a corner
      end[found++] = point;
      if (found == 2) return end;
    }
  return std::nullopt;
}

double arc_share(const Plane<2>& chord, double curvature, int axis, double from, double width) {
  const auto ends = chord_ends(chord);
  if (!ends) return 0;
  const auto& end = *ends;
  const double along = end[1][axis] - end[0][axis];
  if (std::abs(along) < tiny) return 0;
  const double length = std::hypot(end[1][0] - end[0][0], end[1][1] - end[0][1]);
  // The part of the chord in the slab, as shares of its length counted from its middle.
  double a = std::clamp((from - end[0][axis]) / along, 0.0, 1.0) - 0.5;
  double b = std::clamp((from + width - end[0][axis]) / along, 0.0, 1.0) - 0.5;
  if (a > b) std::swap(a, b);
  // The arc stands  curvature length^2 / 2 (1/12 - t^2)  above its chord.
  return 0.5 * curvature * length * length * length * ((b - a) / 12 - (b * b * b - a * a * a) / 3);
}

namespace {

/// How far the line with this normal that holds the middle cell's fraction is off in the nine cells.
struct Misfit {
  const double* F;
  const std::array<std::ptrdiff_t, 2>& step;

  std::array<double, 9> operator()(const Vec<2>& normal) const {
    const Plane<2> plane = plane_through<2>(normal, *F);
    const Vec<2> m{std::abs(plane.normal[0]), std::abs(plane.normal[1])};
    const double base = plane.offset - std::min(plane.normal[0], 0.0) - std::min(plane.normal[1], 0.0);
    std::array<double, 9> off{};
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i)
        off[static_cast<std::size_t>(3 * j + i + 4)] =
            share_below<2>(m, base - i * plane.normal[0] - j * plane.normal[1]) - F[i * step[0] + j * step[1]];
    return off;
  }
};

double square(const std::array<double, 9>& v) {
  double sum = 0;
  for (const double c : v) sum += c * c;
  return sum;
}

}  // namespace

template <>
Vec<2> interface_normal<2>(const double* F, const std::array<std::ptrdiff_t, 2>& step) {
  const auto at = [&](int i, int j) { return F[i * step[0] + j * step[1]]; };
  std::array<double, 3> column{};  // heights along y of the columns left, middle, right
  std::array<double, 3> row{};     // lengths along x of the rows below, middle, above
  for (int a = -1; a <= 1; ++a)
    for (int b = -1; b <= 1; ++b) {
      column[static_cast<std::size_t>(a + 1)] += at(a, b);
      row[static_cast<std::size_t>(a + 1)] += at(b, a);
    }
  const double up = row[2] > row[0] ? -1.0 : 1.0;  // the liquid lies below: the normal points up
  const double right = column[2] > column[0] ? -1.0 : 1.0;
  if (row[2] == row[0] && column[2] == column[0]) return {0.0, 0.0};
  // Slopes by backward, central and forward differences of the heights, along both axes.
  const std::array<Vec<2>, 6> candidates{{{column[0] - column[1], up},
                                          {0.5 * (column[0] - column[2]), up},
                                          {column[1] - column[2], up},
                                          {right, row[0] - row[1]},
                                          {right, 0.5 * (row[0] - row[2])},
                                          {right, row[1] - row[2]}}};
  const Misfit misfit{F, step};
  Vec<2> best{};
  std::array<double, 9> off{};
  double least = 1e300;
  for (const auto& normal : candidates) {
    const auto found = misfit(normal);
    const double error = square(found);
    if (error < least) {
      least = error;
      off = found;
      best = normal;
    }
  }
  // Gauss-Newton on the angle. A line that fits to round-off needs none.
  constexpr double fits = 1e-14;
  constexpr double nudge = 1e-3;  // [rad]
  double angle = std::atan2(best[1], best[0]);
  for (int round = 0; round < 3 && least > fits; ++round) {
    const auto after = misfit({std::cos(angle + nudge), std::sin(angle + nudge)});
    const auto before = misfit({std::cos(angle - nudge), std::sin(angle - nudge)});
    double along = 0;
    double size = 0;
    for (std::size_t k = 0; k < off.size(); ++k) {
      const double slope = (after[k] - before[k]) / (2 * nudge);
      along += slope * off[k];
      size += slope * slope;
    }
    if (size <= 0) break;
    const double turn = std::clamp(-along / size, -0.2, 0.2);
    const Vec<2> normal{std::cos(angle + turn), std::sin(angle + turn)};
    const auto found = misfit(normal);
    const double error = square(found);
    if (error >= least) break;
    least = error;
    off = found;
    best = normal;
    angle += turn;
    if (std::abs(turn) < 1e-4) break;
  }
  const double length = sum_of_absolutes<2>(best);
  return {best[0] / length, best[1] / length};
}

template <>
Vec<3> interface_normal<3>(const double* F, const std::array<std::ptrdiff_t, 3>& step) {
  const auto at = [&](int i, int j, int k) { return F[i * step[0] + j * step[1] + k * step[2]]; };
  // face[d][side]: weighted sums over the 3 x 3 cells beyond; column sums for the centred scheme use the cross only.
  Vec<3> youngs{};
  for (int a = -1; a <= 1; ++a) {
    for (int b = -1; b <= 1; ++b) {
      const double weight = (a == 0 ? 2.0 : 1.0) * (b == 0 ? 2.0 : 1.0);
      youngs[0] += weight * (at(-1, a, b) - at(1, a, b));
      youngs[1] += weight * (at(a, -1, b) - at(a, 1, b));
      youngs[2] += weight * (at(a, b, -1) - at(a, b, 1));
    }
  }
  const double length = sum_of_absolutes<3>(youngs);
  if (length <= 0) return {0.0, 0.0, 0.0};
  for (double& c : youngs) c /= length;
  Vec<3> best{};
  int main = -1;
  for (int d = 0; d < 3; ++d) {  // heights along d
    const std::ptrdiff_t up = step[static_cast<std::size_t>(d)];
    const auto column = [&](std::ptrdiff_t o) { return F[o - up] + F[o] + F[o + up]; };
    Vec<3> m{};
    double above = 0;
    double below = 0;
    for (int e = 0; e < 3; ++e) {
      if (e == d) continue;
      const std::ptrdiff_t side = step[static_cast<std::size_t>(e)];
      m[static_cast<std::size_t>(e)] = 0.5 * (column(-side) - column(side));
      above += F[up + side] + F[up - side];
      below += F[-up + side] + F[-up - side];
    }
    m[static_cast<std::size_t>(d)] = below + F[-up] > above + F[up] ? 1.0 : -1.0;
    const double scale = 1 / sum_of_absolutes<3>(m);
    for (double& c : m) c *= scale;
    if (main < 0 || std::abs(m[static_cast<std::size_t>(d)]) > std::abs(best[static_cast<std::size_t>(main)])) {
      best = m;
      main = d;
    }
  }
  const double largest = std::max({std::abs(youngs[0]), std::abs(youngs[1]), std::abs(youngs[2])});
  return std::abs(best[static_cast<std::size_t>(main)]) > largest ? youngs : best;
}

}  // namespace wavy::sharp
