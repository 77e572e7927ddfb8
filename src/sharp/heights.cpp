#include "sharp/heights.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <span>

#include "mesh/grid.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

/// Position of the interface in a column, in cells from the lower end (as seen along `up`) of the cell at F[0], from
/// the last full cell to the first empty one, at most `reach` cells away. `up` = step times +-1, pointing out of the
/// liquid.
std::optional<double> height(const double* F, std::ptrdiff_t up, int reach) {
  int top = 0;  // first empty cell
  while (top <= reach && F[top * up] >= pure) ++top;
  if (top > reach) return std::nullopt;
  int bottom = top == 0 ? -1 : 0;  // last full cell
  while (bottom >= -reach && F[bottom * up] <= 1 - pure) --bottom;
  if (bottom < -reach) return std::nullopt;
  // From a full start the column's last full cell is the one below the first that is not.
  if (bottom == 0)
    while (bottom + 1 < top && F[(bottom + 1) * up] > 1 - pure) ++bottom;
  double sum = bottom + 1;
  for (int k = bottom + 1; k < top; ++k) sum += F[k * up];
  return sum;
}

constexpr double roundest =
    0.4;  // cells over radius beyond which plain differences are taken: too coarse to know better

double arc_curvature(double slope, double second) { return -second / std::pow(1 + slope * slope, 1.5); }

/// Nodes and weights of Gauss's rule for the mean over a column from -1 to 1, as many as its slope asks for.
std::span<const std::array<double, 2>> gauss_rule(double slope) {
  static constexpr std::array<std::array<double, 2>, 5> usual{{{-0.9061798459386640, 0.2369268850561891},
                                                               {-0.5384693101056831, 0.4786286704993665},
                                                               {0, 0.5688888888888889},
                                                               {0.5384693101056831, 0.4786286704993665},
                                                               {0.9061798459386640, 0.2369268850561891}}};
  static constexpr std::array<std::array<double, 2>, 8> fine{{{-0.9602898564975363, 0.1012285362903763},
                                                              {-0.7966664774136267, 0.2223810344533745},
                                                              {-0.5255324099163290, 0.3137066458778873},
                                                              {-0.1834346424956498, 0.3626837833783620},
                                                              {0.1834346424956498, 0.3626837833783620},
                                                              {0.5255324099163290, 0.3137066458778873},
                                                              {0.7966664774136267, 0.2223810344533745},
                                                              {0.9602898564975363, 0.1012285362903763}}};
  constexpr double steep = 1.2;
  if (slope > steep) return fine;
  return usual;
}

struct Circle {
  double curvature = 0;  ///< of the line that bends down [1/cell]
  double centre = 0;     ///< from the middle of the middle column [cells]
};

/// The circle whose mean heights over three columns differ by d1 = y2 - y0 and d2 = y2 - 2 y1 + y0 [cells], by Newton's
/// method on its radius and centre; nothing where there is no such circle. Where columns are rings, `ring` is the
/// radius of the middle one [cells], and means are weighted with the distance from the axis.
std::optional<Circle> circle_through(double d1, double d2, double start_curvature, double start_slope,
                                     double ring = 0) {
  const double sign = start_curvature > 0 ? 1 : -1;
  d1 *= sign;
  d2 *= sign;
  double R = 1 / std::abs(start_curvature);
  double centre = sign * R * start_slope / std::sqrt(1 + start_slope * start_slope);
  // Gauss's rule for the mean over a column.
  const auto rule = gauss_rule(std::abs(start_slope));
  for (int round = 0; round < 8; ++round) {
    // Mean heights below the circle's top, and their derivatives by the centre and by the radius.
    std::array<double, 3> y{};
    std::array<double, 3> by_centre{};
    std::array<double, 3> by_radius{};
    for (std::size_t k = 0; k < 3; ++k)
      for (const auto& [node, weight] : rule) {
        const double column = static_cast<double>(k) - 1;
        const double x = column + 0.5 * node - centre;
        const double square = R * R - x * x;
        if (square <= 0) return std::nullopt;
        const double q = std::sqrt(square);
        const double part = 0.5 * weight * (ring == 0 ? 1.0 : 1 + 0.5 * node / (ring + column));
        y[k] -= part * x * x / (R + q);
        by_centre[k] += part * x / q;
        by_radius[k] += part * (R / q - 1);
      }
    const double off1 = y[2] - y[0] - d1;
    const double off2 = y[2] - 2 * y[1] + y[0] - d2;
    const double a = by_centre[2] - by_centre[0];
    const double b = by_radius[2] - by_radius[0];
    const double c = by_centre[2] - 2 * by_centre[1] + by_centre[0];
    const double d = by_radius[2] - 2 * by_radius[1] + by_radius[0];
    const double determinant = a * d - b * c;
    const double change = (a * off2 - c * off1) / determinant;
    centre -= (off1 * d - off2 * b) / determinant;
    R -= change;
    if (!(R > 1) || !std::isfinite(centre)) return std::nullopt;
    if (std::abs(change) < 1e-12 * R) return Circle{sign / R, centre};
  }
  return std::nullopt;
}

/// Curvature of a line y(x) from the mean heights of 3 columns [m], liquid below.
double curvature_of(const std::array<double, 3>& y, double dx) {
  const double d1 = y[2] - y[0];
  const double d2 = y[2] - 2 * y[1] + y[0];
  const double plain_slope = d1 / (2 * dx);
  const double plain_second = d2 / (dx * dx);
  const double plain = arc_curvature(plain_slope, plain_second);
  if (std::abs(plain) * dx > roundest) return plain;
  // The errors of the differences on a circle, to fourth order: enough by itself where the circle is large.
  double slope = plain_slope;
  double second = plain_second;
  for (int round = 0; round < 3; ++round) {
    const double w = 1 + slope * slope;
    const double third = 3 * slope * second * second / w;
    const double fourth = 3 * second * second * second * (1 + 5 * slope * slope) / (w * w);
    slope = plain_slope - dx * dx * 5 / 24 * third;
    second = plain_second - dx * dx / 8 * fourth;
  }
  const double better = arc_curvature(slope, second);
  constexpr double flattest = 1e-3;  // cells over radius: beyond, round-off would tell
  if (std::abs(better) * dx < flattest) return better;
  const auto exact = circle_through(d1 / dx, d2 / dx, better * dx, slope);
  return exact ? exact->curvature / dx : better;
}

/// The same of a surface z(x, y) from 3 x 3 columns, x running fastest.
double curvature_of(const std::array<double, 9>& z, double dx, double dy) {
  const auto mean = [](double p, double q, double r, double s, double t) {
    return -(r * (1 + q * q) + t * (1 + p * p) - 2 * s * p * q) / std::pow(1 + p * p + q * q, 1.5);
  };
  const double p0 = (z[5] - z[3]) / (2 * dx);
  const double q0 = (z[7] - z[1]) / (2 * dy);
  const double r0 = (z[5] - 2 * z[4] + z[3]) / (dx * dx);
  const double t0 = (z[7] - 2 * z[4] + z[1]) / (dy * dy);
  const double s0 = (z[8] - z[6] - z[2] + z[0]) / (4 * dx * dy);
  const double plain = mean(p0, q0, r0, s0, t0);
  if (std::abs(plain) * std::max(dx, dy) > 2 * roundest) return plain;
  // Higher derivatives in terms of p, q, r, s, t, which hold on spheres and on cylinders along x or y; the mean over a
  // column's base and the differences have errors of second order in them.
  double p = p0;
  double q = q0;
  double r = r0;
  double s = s0;
  double t = t0;
  const double xx = dx * dx;
  const double yy = dy * dy;
  for (int round = 0; round < 3; ++round) {
    const double a = 1 + p * p;
    const double b = 1 + q * q;
    const double zxxx = 3 * p * r * r / a;
    const double zyyy = 3 * q * t * t / b;
    const double zxyy = r * t * p * (1 + 3 * q * q) / (a * b);
    const double zxxy = r * t * q * (1 + 3 * p * p) / (a * b);
    const double zxxxx = 3 * r * r * r * (1 + 5 * p * p) / (a * a);
    const double zyyyy = 3 * t * t * t * (1 + 5 * q * q) / (b * b);
    const double zxxyy = r * t * (r + t) * ((1 + 3 * p * p) * (1 + 3 * q * q) + 6 * p * p * q * q) / (a * b * (a + b));
    const double zxxxy = s * r * r * (9 + 15 * p * p) / (a * a);
    const double zxyyy = s * t * t * (9 + 15 * q * q) / (b * b);
    p = p0 - (5 * xx * zxxx + yy * zxyy) / 24;
    q = q0 - (5 * yy * zyyy + xx * zxxy) / 24;
    r = r0 - (3 * xx * zxxxx + yy * zxxyy) / 24;
    t = t0 - (3 * yy * zyyyy + xx * zxxyy) / 24;
    s = s0 - 5 * (xx * zxxxy + yy * zxyyy) / 24;
  }
  const double better = mean(p, q, r, s, t);
  return std::isfinite(better) ? better : plain;
}

/// Curvature from the columns along `axis`, or nothing.
template <int D>
std::optional<double> column_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& h,
                                       int axis, int sign, int reach) {
  const std::ptrdiff_t up = sign * step[static_cast<std::size_t>(axis)];
  const double along = h[static_cast<std::size_t>(axis)];
  if constexpr (D == 2) {
    const auto side = static_cast<std::size_t>(1 - axis);
    std::array<double, 3> y{};
    for (int i = -1; i <= 1; ++i) {
      const auto value = height(F + i * step[side], up, reach);
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
        const auto value = height(F + i * step[a] + j * step[b], up, reach);
        if (!value) return std::nullopt;
        z[static_cast<std::size_t>(3 * (j + 1) + i + 1)] = *value * along;
      }
    return curvature_of(z, h[a], h[b]);
  }
}

/// Least-squares parabola through points near the interface, in a frame along a normal.
template <int D>
class Parabola {
 public:
  static constexpr int unknowns = D == 2 ? 3 : 6;

  /// normal: out of the liquid, any length; scale: 1 / cell size [1/m].
  Parabola(const Vec<D>& normal, double scale) : scale_(scale) {
    for (int d = 0; d < D; ++d) frame_[0][d] = normal[d];
    frame_[0].normalize();
    if constexpr (D == 2) {
      frame_[1] = {-frame_[0][1], frame_[0][0]};
    } else {
      Eigen::Vector3d other = std::abs(frame_[0][0]) < 0.6 ? Eigen::Vector3d::UnitX() : Eigen::Vector3d::UnitY();
      frame_[1] = frame_[0].cross(other).normalized();
      frame_[2] = frame_[0].cross(frame_[1]);
    }
  }
  /// place: from the middle of the cell [m].
  void add(const Vec<D>& place, double weight) {
    const Eigen::Map<const Eigen::Matrix<double, D, 1>> point(place.data());
    const double x = scale_ * point.dot(frame_[1]);
    right_[rows_] = weight * scale_ * point.dot(frame_[0]);
    if constexpr (D == 2) {
      A_.row(rows_) << 1, x, x * x;
    } else {
      const double y = scale_ * point.dot(frame_[2]);
      A_.row(rows_) << 1, x, y, x * x, x * y, y * y;
    }
    A_.row(rows_) *= weight;
    ++rows_;
  }
  [[nodiscard]] int points() const { return rows_; }
  /// [1/m]; a speck smaller than a cell cannot have a radius that the grid resolves: bounded.
  [[nodiscard]] double curvature() const {
    const Eigen::Matrix<double, unknowns, 1> c = A_.topRows(rows_).colPivHouseholderQr().solve(right_.head(rows_));
    constexpr double bound = 2.0 * (D - 1);
    double found = 0;
    if constexpr (D == 2)
      found = arc_curvature(c[1], 2 * c[2]);
    else
      found = -2 * (c[3] * (1 + c[2] * c[2]) + c[5] * (1 + c[1] * c[1]) - c[4] * c[1] * c[2]) /
              std::pow(1 + c[1] * c[1] + c[2] * c[2], 1.5);
    return scale_ * std::clamp(found, -bound, bound);
  }

 private:
  static constexpr int most = 27;
  double scale_;
  std::array<Eigen::Matrix<double, D, 1>, D> frame_;
  Eigen::Matrix<double, most, unknowns> A_ = Eigen::Matrix<double, most, unknowns>::Zero();
  Eigen::Matrix<double, most, 1> right_ = Eigen::Matrix<double, most, 1>::Zero();
  int rows_ = 0;
};

}  // namespace

template <int D>
Vec<D> direction_out(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  Vec<D> out{};
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t up = step[static_cast<std::size_t>(d)];
    const std::ptrdiff_t side = step[static_cast<std::size_t>((d + 1) % D)];
    const std::ptrdiff_t other = D == 3 ? step[static_cast<std::size_t>((d + 2) % D)] : 0;
    const int layers = D == 3 ? 1 : 0;
    for (int j = -layers; j <= layers; ++j)
      for (int i = -1; i <= 1; ++i) {
        const double weight = (i == 0 ? 2.0 : 1.0) * (j == 0 ? 2.0 : 1.0);
        const double* f = F + i * side + j * other;
        out[static_cast<std::size_t>(d)] += weight * (f[-up] - f[up]);
      }
  }
  return out;
}

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

template <int D>
double fitted_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing) {
  Vec<D> normal = interface_normal<D>(F, step);
  if (dot<D>(normal, normal) <= 0) return 0;
  for (int d = 0; d < D; ++d) normal[d] /= spacing[d];
  Parabola<D> parabola(normal, 1 / spacing[0]);
  for_shifts<D>(1, [&](const Index<D>& shift, int) {
    const double* f = F;
    for (int d = 0; d < D; ++d) f += shift[d] * step[d];
    if (!is_mixed(*f)) return;
    const Vec<D> here = interface_normal<D>(f, step);
    if (dot<D>(here, here) <= 0) return;
    Vec<D> point = foot_point<D>(plane_through<D>(here, *f));
    for (int d = 0; d < D; ++d) point[d] = (shift[d] + point[d] - 0.5) * spacing[d];
    parabola.add(point, std::sqrt(*f * (1 - *f) + 1e-3));  // slivers say little
  });
  // A speck has too few points to bend anything through.
  return parabola.points() < Parabola<D>::unknowns ? 0 : parabola.curvature();
}

namespace {

/// The mean of what columns along each axis say, `of(axis, sign)`: a column's curvature is that of the interface in the
/// column's middle, off along it from its place in the cell. Weights of the square of the normal's component cancel
/// that to first order, and none jumps where the axes change places; flat columns are left out, where others are clear.
template <int D, class Of>
std::optional<double> mean_of_columns(const Vec<D>& normal, const Vec<D>& spacing, Columns columns, Of&& of) {
  const double flat = columns == Columns::all && D == 2 ? 0.1 : 1;  // in space a drop at rest would not stay so
  double square = 0;
  for (std::size_t d = 0; d < D; ++d) square += std::pow(normal[d] / spacing[d], 2);
  double sum = 0;
  double weights = 0;
  for (const int axis : axes_by_steepness<D>(normal, spacing)) {
    const auto d = static_cast<std::size_t>(axis);
    if (normal[d] == 0) break;
    const double weight = std::pow(normal[d] / spacing[d], 2) / square - flat;
    if (weights > 0 && weight <= 0) break;
    const std::optional<double> found = of(axis, normal[d] > 0 ? 1 : -1);
    if (!found) continue;
    if (weight <= 0) return found;
    sum += weight * *found;
    weights += weight;
  }
  if (weights == 0) return std::nullopt;
  return sum / weights;
}

}  // namespace

template <int D>
std::optional<double> height_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step,
                                       const Vec<D>& spacing, Columns columns, int reach) {
  return mean_of_columns<D>(direction_out<D>(F, step), spacing, columns, [&](int axis, int sign) {
    return column_curvature<D>(F, step, spacing, axis, sign, reach);
  });
}

template <int D>
Vec<D> interface_point(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing) {
  Vec<D> point;
  point.fill(0.5);
  const Vec<D> normal = direction_out<D>(F, step);
  const auto main = static_cast<std::size_t>(axes_by_steepness<D>(normal, spacing)[0]);
  if (normal[main] == 0) return point;
  const int sign = normal[main] > 0 ? 1 : -1;
  const auto found = height(F, sign * step[main], pad);
  if (!found) {
    const Vec<D> fitted = interface_normal<D>(F, step);
    return dot<D>(fitted, fitted) > 0 ? foot_point<D>(plane_through<D>(fitted, *F)) : point;
  }
  point[main] = sign > 0 ? *found : 1 - *found;
  return point;
}

namespace {

/// Square of the radius [cells] at which the interface crosses a row of rings, as its mean over the row's height;
/// `sign`: 1 where the liquid is within. Nothing where the row has no clear crossing on this side of the axis.
std::optional<double> square_in_row(const double* F, std::ptrdiff_t outwards, int sign, double radius) {
  // Rings from the last full one to the first empty one, as seen out of the liquid.
  const std::ptrdiff_t up = sign * outwards;
  int top = 0;
  while (top <= pad && F[top * up] >= pure) ++top;
  if (top > pad) return std::nullopt;
  int bottom = top - 1;
  while (bottom >= -pad && F[bottom * up] <= 1 - pure) --bottom;
  if (bottom < -pad) return std::nullopt;
  const double face = radius + sign * (bottom + 0.5);  // outer side of the last full one
  if (face < 0 || radius + sign * (top - 0.5) < 0) return std::nullopt;
  double square = face * face;
  for (int k = bottom + 1; k < top; ++k) square += sign * F[k * up] * 2 * (radius + sign * k);
  return square;
}

/// From three rows of rings: exact on spheres about the axis. div of the normal [1/cell]; `ratio`: of the cell's height
/// to its width.
std::optional<double> curvature_of_rows(const double* F, const std::array<std::ptrdiff_t, 2>& step, int sign,
                                        double ratio, double radius) {
  std::array<double, 3> q{};
  for (int j = -1; j <= 1; ++j) {
    const auto square = square_in_row(F + j * step[1], step[0], sign, radius);
    if (!square) return std::nullopt;
    q[static_cast<std::size_t>(j + 1)] = *square;
  }
  const double first = (q[2] - q[0]) / (2 * ratio);
  const double second = (q[2] - 2 * q[1] + q[0]) / (ratio * ratio);
  const double middle = q[1] - ratio * ratio * second / 24;
  const double W = std::sqrt(4 * middle + first * first);
  if (!(middle > 0)) return std::nullopt;
  return sign * (2 * (first * first - 2 * middle * second) / (W * W * W) + 2 / W);
}

/// From three upright columns of rings; exact on tori. div of the normal [1/cell].
std::optional<double> curvature_of_rings(const double* F, const std::array<std::ptrdiff_t, 2>& step, int sign,
                                         double ratio, double radius) {
  std::array<double, 3> y{};
  for (int i = -1; i <= 1; ++i) {
    const auto value = height(F + i * step[0], sign * step[1], pad);
    if (!value) return std::nullopt;
    y[static_cast<std::size_t>(i + 1)] = *value * ratio;
  }
  // Means over rings lie off those over sections; then plain differences.
  double slope = 0.5 * (y[2] - y[0]);
  double second = y[2] - 2 * y[1] + y[0];
  std::array<double, 3> off{};
  for (std::size_t k = 0; k < 3; ++k) {
    const double x = static_cast<double>(k) - 1;
    off[k] = (slope + second * x) / (12 * (radius + x));
  }
  slope -= 0.5 * (off[2] - off[0]);
  second -= off[2] - 2 * off[1] + off[0];
  const double plain = arc_curvature(slope, second);
  constexpr double flattest = 1e-3;
  if (std::abs(plain) > flattest && std::abs(plain) < roundest)
    if (const auto circle = circle_through(y[2] - y[0], y[2] - 2 * y[1] + y[0], plain, slope, radius))
      return circle->curvature * (1 - circle->centre / radius);
  return plain - slope / std::sqrt(1 + slope * slope) / radius;
}

}  // namespace

std::optional<double> ring_curvature(const double* F, const std::array<std::ptrdiff_t, 2>& step, const Vec<2>& spacing,
                                     double radius) {
  const auto found = mean_of_columns<2>(direction_out<2>(F, step), spacing, Columns::all, [&](int axis, int sign) {
    const double ratio = spacing[1] / spacing[0];
    return axis == 0 ? curvature_of_rows(F, step, sign, ratio, radius)
                     : curvature_of_rings(F, step, sign, ratio, radius);
  });
  if (!found) return std::nullopt;
  return *found / spacing[0];
}

template <int D>
double curvature_round_axis(const double* F, const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing,
                            double radius) {
  constexpr double least_radius = 0.25;  // of a cell
  const double h = spacing[0];
  const Vec<D> normal = direction_out<D>(F, step);
  for (const int axis : axes_by_steepness<D>(normal, spacing)) {
    const auto main = static_cast<std::size_t>(axis);
    if (normal[main] == 0) continue;
    const int sign = normal[main] > 0 ? 1 : -1;
    const std::ptrdiff_t up = sign * step[main];
    const std::size_t side = axis == 0 ? 1 : 0;
    const auto before = height(F - step[side], up, pad - 1);
    const auto here = height(F, up, pad - 1);
    const auto after = height(F + step[side], up, pad - 1);
    if (!before || !here || !after) continue;
    const double slope = 0.5 * (*after - *before) * spacing[main] / spacing[side];
    const double across = 1 / std::sqrt(1 + slope * slope);
    if (axis != 0) return -slope * across / (radius * h);
    const double place = radius - 0.5 + (sign > 0 ? *here : 1 - *here);
    return sign * across / (std::max(place, least_radius) * h);
  }
  Vec<D> fitted = interface_normal<D>(F, step);
  if (dot<D>(fitted, fitted) <= 0) return 0;
  const Vec<D> foot = foot_point<D>(plane_through<D>(fitted, *F));
  for (int d = 0; d < D; ++d) fitted[d] /= spacing[d];
  return fitted[0] / length<D>(fitted) / (std::max(radius - 0.5 + foot[0], least_radius) * h);
}

template double curvature_round_axis<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&, double);
template double curvature_round_axis<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&, double);
template Vec<2> direction_out<2>(const double*, const std::array<std::ptrdiff_t, 2>&);
template Vec<3> direction_out<3>(const double*, const std::array<std::ptrdiff_t, 3>&);
template std::array<int, 2> axes_by_steepness<2>(const Vec<2>&, const Vec<2>&);
template std::array<int, 3> axes_by_steepness<3>(const Vec<3>&, const Vec<3>&);
template Vec<2> interface_point<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&);
template Vec<3> interface_point<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&);
template std::optional<double> height_curvature<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&,
                                                   Columns, int);
template std::optional<double> height_curvature<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&,
                                                   Columns, int);
template double fitted_curvature<2>(const double*, const std::array<std::ptrdiff_t, 2>&, const Vec<2>&);
template double fitted_curvature<3>(const double*, const std::array<std::ptrdiff_t, 3>&, const Vec<3>&);

}  // namespace wavy::sharp
