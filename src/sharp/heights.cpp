#include "sharp/heights.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>

#include "mesh/grid.hpp"
#include "sharp/parts.hpp"
#include "sharp/plane.hpp"

namespace wavy::sharp {
namespace {

/// Position of the interface in a column, in cells from the lower end (as seen along `up`) of the cell at F[0], from
/// the last full cell to the first empty one, at most `pad` cells away. `up` = step times +-1, pointing out of the
/// liquid.
std::optional<double> height(const double* F, std::ptrdiff_t up) {
  int top = 0;  // first empty cell
  while (top <= pad && F[top * up] >= pure) ++top;
  if (top > pad) return std::nullopt;
  int bottom = top == 0 ? -1 : 0;  // last full cell
  while (bottom >= -pad && F[bottom * up] <= 1 - pure) --bottom;
  if (bottom < -pad) return std::nullopt;
  // From a full start the column's last full cell is the one below the first that is not.
  if (bottom == 0)
    while (bottom + 1 < top && F[(bottom + 1) * up] > 1 - pure) ++bottom;
  double sum = bottom + 1;
  for (int k = bottom + 1; k < top; ++k) sum += F[k * up];
  return sum;
}

/// Curvature of a surface y(x) or z(x, y) from the heights of 3 or 3 x 3 columns [m], liquid below.
double curvature_of(const std::array<double, 3>& y, double dx) {
  const double slope = (y[2] - y[0]) / (2 * dx);
  const double second = (y[2] - 2 * y[1] + y[0]) / (dx * dx);
  return -second / std::pow(1 + slope * slope, 1.5);
}
double curvature_of(const std::array<double, 9>& z, double dx, double dy) {
  const double zx = (z[5] - z[3]) / (2 * dx);
  const double zy = (z[7] - z[1]) / (2 * dy);
  const double zxx = (z[5] - 2 * z[4] + z[3]) / (dx * dx);
  const double zyy = (z[7] - 2 * z[4] + z[1]) / (dy * dy);
  const double zxy = (z[8] - z[6] - z[2] + z[0]) / (4 * dx * dy);
  return -(zxx * (1 + zy * zy) + zyy * (1 + zx * zx) - 2 * zxy * zx * zy) / std::pow(1 + zx * zx + zy * zy, 1.5);
}

/// Curvature from the columns along `axis`, or nothing.
template <int D>
std::optional<double> column_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& h,
                                       int axis, int sign) {
  const std::ptrdiff_t up = sign * step[static_cast<std::size_t>(axis)];
  const double along = h[static_cast<std::size_t>(axis)];
  if constexpr (D == 2) {
    const auto side = static_cast<std::size_t>(1 - axis);
    std::array<double, 3> y{};
    for (int i = -1; i <= 1; ++i) {
      const auto value = height(F + i * step[side], up);
      if (!value) return std::nullopt;
      y[static_cast<std::size_t>(i + 1)] = *value * along;
    }
    return curvature_of(y, h[side]);
  } else {
    const auto a = static_cast<std::size_t>((axis + 1) % 3);
    const auto b = static_cast<std::size_t>((axis + 2) % 3);
    std::array<double, 9> z{};
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        const auto value = height(F + i * step[a] + j * step[b], up);
        if (!value) return std::nullopt;
        z[static_cast<std::size_t>(3 * (j + 1) + i + 1)] = *value * along;
      }
    return curvature_of(z, h[a], h[b]);
  }
}

/// Axes from the steepest physical component of the normal down: normals are in cell units.
template <int D>
std::array<int, D> axes_by_steepness(const Vec<D>& normal, const Vec<D>& spacing) {
  std::array<int, D> axes;
  for (int d = 0; d < D; ++d) axes[static_cast<std::size_t>(d)] = d;
  const auto steepness = [&](int d) {
    return std::abs(normal[static_cast<std::size_t>(d)]) / spacing[static_cast<std::size_t>(d)];
  };
  std::sort(axes.begin(), axes.end(), [&](int a, int b) { return steepness(a) > steepness(b); });
  return axes;
}

}  // namespace

template <int D>
double fitted_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing) {
  const Vec<D> cell_normal = interface_normal<D>(F, step);
  double length = 0;
  for (const double c : cell_normal) length += std::abs(c);
  if (length <= 0) return 0;
  constexpr int unknowns = D == 2 ? 3 : 6;
  constexpr int most = D == 2 ? 9 : 27;
  // Physical unit normal: cell coordinates are scaled by h.
  std::array<Eigen::Matrix<double, D, 1>, D> frame;
  for (int d = 0; d < D; ++d) frame[0][d] = cell_normal[d] / spacing[d];
  frame[0].normalize();
  if constexpr (D == 2) {
    frame[1] = {-frame[0][1], frame[0][0]};
  } else {
    Eigen::Vector3d other = std::abs(frame[0][0]) < 0.6 ? Eigen::Vector3d::UnitX() : Eigen::Vector3d::UnitY();
    frame[1] = frame[0].cross(other).normalized();
    frame[2] = frame[0].cross(frame[1]);
  }
  Eigen::Matrix<double, most, unknowns> A = Eigen::Matrix<double, most, unknowns>::Zero();
  Eigen::Matrix<double, most, 1> right = Eigen::Matrix<double, most, 1>::Zero();
  int rows = 0;
  const int layers = D == 3 ? 1 : 0;
  const double scale = 1 / spacing[0];
  for (int k = -layers; k <= layers; ++k)
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) {
        Index<D> shift{};
        shift[0] = i;
        shift[1] = j;
        if constexpr (D == 3) shift[2] = k;
        const double* f = F;
        for (int d = 0; d < D; ++d) f += shift[d] * step[d];
        if (!is_mixed(*f)) continue;
        const Vec<D> normal = interface_normal<D>(f, step);
        double size = 0;
        for (const double c : normal) size += std::abs(c);
        if (size <= 0) continue;
        const Vec<D> point = foot_point<D>(plane_through<D>(normal, *f));
        Eigen::Matrix<double, D, 1> place;
        for (int d = 0; d < D; ++d) place[d] = (shift[d] + point[d] - 0.5) * spacing[d];
        const double weight = std::sqrt(*f * (1 - *f) + 1e-3);  // slivers say little
        const double x = scale * place.dot(frame[1]);
        right[rows] = weight * scale * place.dot(frame[0]);
        if constexpr (D == 2) {
          A.row(rows) << 1, x, x * x;
        } else {
          const double y = scale * place.dot(frame[2]);
          A.row(rows) << 1, x, y, x * x, x * y, y * y;
        }
        A.row(rows) *= weight;
        ++rows;
      }
  if (rows < unknowns) return 0;  // a speck: too few points to bend anything through
  const Eigen::Matrix<double, unknowns, 1> c = A.topRows(rows).colPivHouseholderQr().solve(right.head(rows));
  // A speck smaller than a cell cannot have a radius that the grid resolves: bounded.
  const double bound = 2.0 * (D - 1);
  double curvature = 0;
  if constexpr (D == 2)
    curvature = -2 * c[2] / std::pow(1 + c[1] * c[1], 1.5);
  else
    curvature = -2 * (c[3] * (1 + c[2] * c[2]) + c[5] * (1 + c[1] * c[1]) - c[4] * c[1] * c[2]) /
                std::pow(1 + c[1] * c[1] + c[2] * c[2], 1.5);
  return scale * std::clamp(curvature, -bound, bound);
}

template <int D>
std::optional<double> height_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step,
                                       const Vec<D>& spacing) {
  const Vec<D> normal = interface_normal<D>(F, step);
  for (const int axis : axes_by_steepness<D>(normal, spacing)) {
    const double component = normal[static_cast<std::size_t>(axis)];
    if (component == 0) continue;
    if (const auto found = column_curvature<D>(F, step, spacing, axis, component > 0 ? 1 : -1)) return found;
  }
  return std::nullopt;
}

template <int D>
Vec<D> interface_point(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing) {
  Vec<D> point;
  point.fill(0.5);
  const Vec<D> normal = interface_normal<D>(F, step);
  const auto main = static_cast<std::size_t>(axes_by_steepness<D>(normal, spacing)[0]);
  if (normal[main] == 0) return point;
  const int sign = normal[main] > 0 ? 1 : -1;
  const auto found = height(F, sign * step[main]);
  if (!found) return foot_point<D>(plane_through<D>(normal, *F));
  point[main] = sign > 0 ? *found : 1 - *found;
  return point;
}

template Vec<2> interface_point<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&);
template Vec<3> interface_point<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&);
template std::optional<double> height_curvature<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&);
template std::optional<double> height_curvature<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&);
template double fitted_curvature<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&);
template double fitted_curvature<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&);

}  // namespace wavy::sharp
