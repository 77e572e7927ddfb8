#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <optional>
#include <type_traits>
#include <utility>
#include <vector>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/sheets.hpp"

namespace wavy::sharp {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();       // no interface here
constexpr double unresolved = std::numeric_limits<double>::infinity();  // an interface, but no clear columns

/// fn(block, offset, shares there, step) for the open cells that carry the interface, shared between threads. Near
/// sheets the shares are those that are seen from the cell.
template <int D, class Fn>
void for_interface(const Grid<D>& grid, const OpenSpace<D>& space, const Sheets<D>& sheets,
                   const Cells<D>& extended_fraction, Fn&& fn) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* F = extended_fraction.block(b);
    const double* volume = space.is_uncut(b) ? nullptr : space.volume().block(b);
    const auto offer = [&](std::ptrdiff_t at, const double* f, const std::array<std::ptrdiff_t, D>& step) {
      if (carries_interface<D>(f, step)) fn(b, at, f, step);
    };
    for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (volume != nullptr && volume[at] == 0) continue;
        if (!sheets.near(b, at)) {
          offer(at, F + at, layout.step);
        } else if (!sheets.shows_none(layout, b, at, F)) {
          const SeenShares<D> seen(sheets, layout, b, at, F);
          offer(at, seen.middle(), SeenShares<D>::step());
        }
      }
    });
  });
}

/// Curvature for a cell without clear columns of its own: that of the cells above or below it along the axes near to
/// the normal, which look at the same heights from a better place, weighted as columns are; else of a parabola through
/// the planes. `kappa`: in the cells round it, of which those behind a closed face do not count.
template <int D, class Closed>
double mended_curvature(const double* F, const std::array<std::ptrdiff_t, D>& step_of_F, const double* kappa,
                        const std::array<std::ptrdiff_t, D>& step, const Vec<D>& spacing, Closed&& closed) {
  const Vec<D> out = direction_out<D>(F, step_of_F);
  const auto axes = axes_by_steepness<D>(out, spacing);
  const auto slope = [&](int axis) {
    return std::abs(out[static_cast<std::size_t>(axis)]) / spacing[static_cast<std::size_t>(axis)];
  };
  constexpr double near = 0.5;  // along the interface the next cell is another place, at a contact line another world
  double sum = 0;
  double weights = 0;
  for (const int axis : axes) {
    if (slope(axis) < near * slope(axes[0])) break;
    const std::ptrdiff_t s = step[static_cast<std::size_t>(axis)];
    const bool above = std::isfinite(kappa[s]) && !closed(axis, 1);
    const bool below = std::isfinite(kappa[-s]) && !closed(axis, 0);
    if (!above && !below) continue;
    const double weight = slope(axis) * slope(axis);
    sum += weight * (above && below ? 0.5 * (kappa[s] + kappa[-s]) : above ? kappa[s] : kappa[-s]);
    weights += weight;
    if (D == 3) break;  // as columns are
  }
  if (weights > 0) return sum / weights;
  return fitted_curvature<D>(F, step_of_F, spacing);
}

/// Round an axis: whether all rings that columns of a cell may reach are whole and within the grid, or images of such
/// beyond the axis, a mirror or the seam of an axis that repeats.
template <int D>
bool rings_are_whole(const Grid<D>& grid, const OpenSpace<D>& space, const std::type_identity_t<WallKinds<D>>& walls,
                     int block, std::ptrdiff_t at) {
  const Layout<D>& layout = grid.layout();
  for (int d = 0; d < D; ++d) {
    const int number = grid.geometry(block).start[d] + axis_index<D>(layout, at, d);
    if (grid.periodic()[d]) continue;
    if (number + pad >= grid.cells()[d] && walls[d][1] != Wall::mirror) return false;
    if (number < pad && d > 0 && walls[d][0] != Wall::mirror) return false;
  }
  if (space.is_uncut(block)) return true;
  const double* open = space.share().block(block);
  const double* at_wall = space.at_wall().block(block);
  bool whole = true;
  for (int i = -pad; i <= pad; ++i)
    for (int j = -pad; j <= pad; ++j) {
      const std::ptrdiff_t o = at + i * layout.step[0] + j * layout.step[1];
      whole = whole && open[o] == 1 && at_wall[o] == 0;
    }
  return whole;
}

/// Curvature of the interface's cells, NaN elsewhere. `F`: shares of sections, `rings`: of what is open in cells.
template <int D>
void find_curvature(const Grid<D>& grid, const OpenSpace<D>& space, const Sheets<D>& sheets, const Cells<D>& F,
                    const Cells<D>& rings, const std::type_identity_t<WallKinds<D>>& walls, Cells<D>& curvature) {
  using Step = std::array<std::ptrdiff_t, D>;
  const Step& step = grid.layout().step;
  std::fill(curvature.data().begin(), curvature.data().end(), none);
  for_interface<D>(grid, space, sheets, F, [&](int b, std::ptrdiff_t at, const double* f, const Step& step_of_f) {
    // At walls columns along other axes run into them, where shares are but carried on.
    const Columns columns = !space.is_uncut(b) && space.at_wall().block(b)[at] != 0 ? Columns::steepest : Columns::all;
    curvature.block(b)[at] = height_curvature<D>(f, step_of_f, grid.geometry(b).spacing, columns).value_or(unresolved);
  });
  fill_halo(grid, curvature, 1, all_walls<D>(Mirror::even));
  std::vector<std::vector<std::pair<std::ptrdiff_t, double>>> mended(static_cast<std::size_t>(grid.blocks()));
  for_interface<D>(grid, space, sheets, F, [&](int b, std::ptrdiff_t at, const double* f, const Step& step_of_f) {
    const double* kappa = curvature.block(b) + at;
    if (std::isfinite(*kappa)) return;
    const auto closed = [&](int axis, int side) {
      const auto d = static_cast<std::size_t>(axis);
      return !sheets.none() && sheets.closed()[d].block(b)[at + side * step[d]] != 0;
    };
    mended[static_cast<std::size_t>(b)].emplace_back(
        at, mended_curvature<D>(f, step_of_f, kappa, step, grid.geometry(b).spacing, closed));
  });
  for (int b = 0; b < grid.blocks(); ++b)
    for (const auto& [at, value] : mended[static_cast<std::size_t>(b)]) curvature.block(b)[at] = value;
  if (!space.axisymmetric()) return;
  for_interface<D>(grid, space, sheets, F, [&](int b, std::ptrdiff_t at, const double* f, const Step& step_of_f) {
    const double radius = space.radius_in_cells(b, grid.layout(), at);
    std::optional<double> whole;
    if constexpr (D == 2)
      if (rings_are_whole<D>(grid, space, walls, b, at))
        whole = ring_curvature(rings.block(b) + at, step, grid.geometry(b).spacing, radius);
    double& own = curvature.block(b)[at];
    own = whole ? *whole : own + curvature_round_axis<D>(f, step_of_f, grid.geometry(b).spacing, radius);
  });
}

}  // namespace

template <int D>
InterfaceForce<D>::InterfaceForce(const Grid<D>& grid, const OpenSpace<D>& space)
    : space_(&space), jump_(grid), curvature_(grid) {}

/// The value at the middle of a straight line, or plane, through values around it: least squares, weighted with the
/// inverse square of the distance. Where the places do not span a direction there is no slope along it.
template <int D>
class StraightFit {
 public:
  void add(const Index<D>& shift, int square, double value) {
    const double weight = 1.0 / square;
    if (weight_ == 0) base_ = value;  // of which the others differ little
    Vector x;
    for (int d = 0; d < D; ++d) x[d] = shift[d];
    weight_ += weight;
    x_ += weight * x;
    y_ += weight * (value - base_);
    xx_ += weight * x * x.transpose();
    xy_ += weight * (value - base_) * x;
  }
  [[nodiscard]] bool empty() const { return weight_ == 0; }
  /// `most`: greatest slope along each axis.
  [[nodiscard]] double value(double most) const {
    const Vector x = x_ / weight_;
    const double y = y_ / weight_;
    constexpr double faint = 1e-2;
    const Matrix spread = xx_ / weight_ - x * x.transpose() + faint * Matrix::Identity();
    const Vector slope = spread.ldlt().solve(xy_ / weight_ - y * x).cwiseMin(most).cwiseMax(-most);
    return base_ + y - slope.dot(x);
  }

 private:
  using Vector = Eigen::Matrix<double, D, 1>;
  using Matrix = Eigen::Matrix<double, D, D>;
  double weight_ = 0, base_ = 0, y_ = 0;
  Vector x_ = Vector::Zero(), xy_ = Vector::Zero();
  Matrix xx_ = Matrix::Zero();
};

/// Beside walls the place of the interface, and with it the jump that gravity makes, goes straight on from the cells
/// near with an interface and no wall, so that a level liquid is at rest whatever cuts its rim. Beside sheets alone it
/// is where the columns that are seen there have it.
template <int D>
void InterfaceForce<D>::place_at_walls(const Grid<D>& grid, const Sheets<D>& sheets, const Cells<D>& extended_fraction,
                                       double steepest) {
  constexpr int reach = 3;
  const Layout<D>& layout = grid.layout();
  fill_halo(grid, jump_, reach, all_walls<D>(Mirror::even), space_->open_spans());
  std::vector<std::vector<std::pair<std::ptrdiff_t, double>>> found(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    const double* jump = jump_.block(b);
    const double* at_wall = space_->at_wall().block(b);
    for (const auto& wall : space_->wall_cells(b)) {
      if (sheets.alone_at(b, wall.at)) continue;
      const bool near = sheets.near(b, wall.at);
      if (near && sheets.shows_none(layout, b, wall.at, extended_fraction.block(b))) continue;
      std::optional<SeenShares<D>> seen;
      if (near) seen.emplace(sheets, layout, b, wall.at, extended_fraction.block(b));
      if (seen ? !carries_interface<D>(seen->middle(), SeenShares<D>::step())
               : !carries_interface<D>(extended_fraction.block(b) + wall.at, layout.step))
        continue;
      StraightFit<D> fit;
      for_shifts<D>(reach, [&](const Index<D>& shift, int square) {
        const std::ptrdiff_t at = wall.at + layout.offset(shift);
        if (at_wall[at] == 0 && !std::isnan(jump[at]) && (!seen || seen->sees(shift))) fit.add(shift, square, jump[at]);
      });
      if (!fit.empty()) found[static_cast<std::size_t>(b)].emplace_back(wall.at, fit.value(steepest));
    }
  });
  for (int b = 0; b < grid.blocks(); ++b)
    for (const auto& [at, value] : found[static_cast<std::size_t>(b)]) jump_.block(b)[at] = value;
}

template <int D>
void InterfaceForce<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, const Sheets<D>& sheets,
                                   const Cells<D>& extended_fraction, const State<D>& state, const Vec<D>& G,
                                   Faces<D>& acceleration, Faces<D>& inverse_density) {
  using Step = std::array<std::ptrdiff_t, D>;
  const Layout<D>& layout = grid.layout();
  const double rho_gas = settings.gas.density;
  const double rho_jump = settings.liquid.density - rho_gas;
  const double weight_jump = weighing_density(settings, 1.0) - weighing_density(settings, 0.0);
  const double sigma = settings.surface_tension;

  std::fill(jump_.data().begin(), jump_.data().end(), none);
  for_interface<D>(grid, *space_, sheets, extended_fraction,
                   [&](int b, std::ptrdiff_t at, const double* f, const Step& step) {
                     const Vec<D>& lower = grid.geometry(b).lower;
                     const Vec<D>& h = grid.geometry(b).spacing;
                     const Vec<D> point = interface_point<D>(f, step, h);
                     double along = 0;
                     for (int d = 0; d < D; ++d)
                       along += G[d] * (lower[d] + (axis_index<D>(layout, at, d) + point[d]) * h[d]);
                     jump_.block(b)[at] = -weight_jump * along;
                   });
  if (!space_->is_uncut())
    place_at_walls(grid, sheets, extended_fraction, std::abs(weight_jump) * length<D>(G) * grid.smallest_spacing());
  if (sigma > 0) {
    find_curvature(grid, *space_, sheets, extended_fraction, state.F, settings.walls, curvature_);
    for_interface<D>(grid, *space_, sheets, extended_fraction,
                     [&](int b, std::ptrdiff_t at, const double*, const Step&) {
                       jump_.block(b)[at] += sigma * curvature_.block(b)[at];
                     });
  }
  fill_halo(grid, jump_, 1, all_walls<D>(Mirror::even), space_->open_spans());

  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    const double* jump = jump_.block(b);
    const double* share = space_->is_uncut(b) ? nullptr : space_->share().block(b);
    const Vec<D>& h = grid.geometry(b).spacing;
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      double* a = acceleration[d].block(b);
      double* inverse = inverse_density[d].block(b);
      const double* area = share == nullptr ? nullptr : space_->area()[d].block(b);
      for_open_rows<D>(*space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        if (share == nullptr) {
          for (int i = 0; i < n; ++i) inverse[o + i] = 1 / (rho_gas + 0.5 * rho_jump * (F[o + i] + F[o + i - s]));
        } else {
#pragma omp simd
          for (int i = 0; i < n; ++i) {
            const std::ptrdiff_t at = o + i;
            const double open_volume = share[at] + share[at - s];
            const double liquid = share[at] * F[at] + share[at - s] * F[at - s];
            inverse[at] = area[at] / (rho_gas + rho_jump * liquid / (open_volume > 0 ? open_volume : 1.0));
          }
        }
        std::fill_n(a + o, n, 0.0);
        for (int i = 0; i < n; ++i) {
          const std::ptrdiff_t at = o + i;
          if (F[at] == F[at - s]) continue;
          const double here = jump[at];
          const double there = jump[at - s];
          const double mean = std::isnan(here) ? there : std::isnan(there) ? here : 0.5 * (here + there);
          if (std::isnan(mean)) continue;  // traces of liquid in gas that are not followed as an interface
          a[at] = inverse[at] * mean * (F[at] - F[at - s]) / h[d];
        }
      });
    }
  });
}

template class InterfaceForce<2>;
template class InterfaceForce<3>;

}  // namespace wavy::sharp
