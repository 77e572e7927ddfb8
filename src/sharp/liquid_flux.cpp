#include "sharp/liquid_flux.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

#include "geometry/clip.hpp"
#include "sharp/heights.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

/// Curvature of the interface in the cell at F[0], in cell units; 0 where it is not resolved, and in 3-D.
template <int D>
double curvature_in_cells(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  if constexpr (D == 3) {
    return 0;
  } else {
    constexpr double greatest = 0.5;
    return std::clamp(height_curvature<2>(F, step, {1, 1}, Columns::steepest, pad - 1).value_or(0), -greatest,
                      greatest);
  }
}

/// Liquid in a slab of a cell that holds F: under the plane, and in 2-D between it and the arc. No more than there is,
/// and no less than what the rest cannot hold, so that F stays within 0..1.
template <int D>
double liquid_in_slab(const Plane<D>& plane, double bend, double F, int axis, double from, double width) {
  double share = slab_share<D>(plane, axis, from, width);
  if constexpr (D == 2)
    if (bend != 0) share += arc_share(plane, bend, axis, from, width);
  return std::clamp(share, std::max(0.0, F - (1 - width)), std::min(width, F));
}

/// How far into a cell lies what leaves it through a side, when the speed there leads `width` far: as far where the
/// weight is the same everywhere, and where it leans so far that the volume is the same.
double reach_of(double width, double slope, bool high) {
  const double at_side = 1 + (high ? 0.5 : -0.5) * slope;
  if (slope == 0 || at_side <= 0) return width;
  const double grows = high ? -slope : slope;  // inwards
  return 2 * width * at_side / (at_side + std::sqrt(std::max(0.0, at_side * (at_side + 2 * grows * width))));
}

/// Share of the liquid in what leaves a mixed cell at a wall through one side: of the part of the open space that lies
/// within `width` of that side.
template <int D>
double share_beside(const typename ExtendedInterface<D>::Contact& contact, int axis, bool high, double width,
                    double slope, double F) {
  Vec<D> lower{};
  Vec<D> upper;
  upper.fill(1);
  (high ? lower[axis] : upper[axis]) = high ? 1 - width : width;
  ConvexBody<D> body(lower, upper, slope);
  if (cuts(contact.open)) body.cut(contact.open);
  const double open_volume = body.volume();
  constexpr double nothing = 1e-12;
  return open_volume > nothing ? std::clamp(body.volume_below(contact.plane) / open_volume, 0.0, 1.0) : F;
}

/// Liquid that leaves a mixed cell at a wall, when `out` (share of a cell) leaves in all: no more than there is, and no
/// less than what does not find room in the rest.
template <int D>
double liquid_leaving(const Cut<D>& cut, const Layout<D>& layout, std::ptrdiff_t at, double F, int axis, bool high,
                      double area, double out) {
  const auto* contact = cut.interface->contact(cut.block, at);
  const double volume = cut.volume[at];
  if (contact == nullptr || out >= volume) return out * F;
  const double slope = cut.space->slope(cut.block, layout, at);
  const double width = axis == 0 ? reach_of(out / area, slope, high) : out / area;
  const double share = share_beside<D>(*contact, axis, high, std::min(1.0, width), slope, F);
  return std::clamp(share * out, std::max(0.0, out - volume * (1 - F)), std::min(out, volume * F));
}

}  // namespace

template <int D>
void liquid_flux(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                 const double* extended_fraction, const double* face_u, double dt_over_h, const Cut<D>& cut, double* C,
                 double* flux) {
  const std::ptrdiff_t s = layout.step[axis];
  for_open_rows<D>(*cut.space, cut.block, layout, first, end, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
    for (int i = 0; i < n; ++i) {
      const double c = face_u[o + i] * dt_over_h;
      C[o + i] = c;
      flux[o + i] = c * (c > 0 ? F[o + i - s] : F[o + i]);
    }
  });
  // Cells with an interface in them: cut the slab that leaves through each face.
  const Sheets<D>* sheets = cut.interface == nullptr ? nullptr : &cut.interface->sheets();
  Index<D> lo = first;
  --lo[axis];
  for_open_rows<D>(*cut.space, cut.block, layout, lo, end, [&](std::ptrdiff_t o, int n) {
    for (int i = 0; i < n; ++i) {
      const std::ptrdiff_t at = o + i;
      if (!is_mixed(F[at])) continue;
      // Of the first and last layer of cells only one face is asked for.
      const int place = axis_index<D>(layout, at, axis);
      const double out_low = place < first[axis] ? 0.0 : -C[at];
      const double out_high = place + 1 == end[axis] ? 0.0 : C[at + s];
      if (out_low <= 0 && out_high <= 0) continue;
      const bool at_sheet = sheets != nullptr && sheets->alone_at(cut.block, at);
      if (cut.volume != nullptr && ((cut.at_wall[at] != 0 && !at_sheet) || cut.space->axisymmetric())) {
        if (out_low > 0) flux[at] = -liquid_leaving<D>(cut, layout, at, F[at], axis, false, cut.area[at], out_low);
        if (out_high > 0)
          flux[at + s] = liquid_leaving<D>(cut, layout, at, F[at], axis, true, cut.area[at + s], out_high);
        continue;
      }
      std::optional<SeenShares<D>> seen;
      if (sheets != nullptr && sheets->near(cut.block, at))
        seen.emplace(*sheets, layout, cut.block, at, extended_fraction);
      const double* around = seen ? seen->middle() : extended_fraction + at;
      const auto& step = seen ? SeenShares<D>::step() : layout.step;
      const Vec<D> normal = interface_normal<D>(around, step);
      if (sum_of_absolutes<D>(normal) <= 0) continue;  // no gradient: the uniform flux stands
      const Plane<D> plane = plane_through<D>(normal, F[at]);
      const double bend = curvature_in_cells<D>(around, step);
      if (out_low > 0) flux[at] = -liquid_in_slab<D>(plane, bend, F[at], axis, 0.0, out_low);
      if (out_high > 0) flux[at + s] = liquid_in_slab<D>(plane, bend, F[at], axis, 1 - out_high, out_high);
    }
  });
}

template <int D>
void pass_small_cells(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                      const Cut<D>& cut, const double* C, double* flux) {
  for (const auto& [at, cell] : *cut.small) {
    bool within = cell[axis] >= first[axis] - 1 && cell[axis] < end[axis];
    for (int d = 0; d < D; ++d) within = within && (d == axis || (cell[d] >= first[d] && cell[d] < end[d]));
    if (!within) continue;
    const double volume = cut.volume[at];
    const auto liquid = [&, at = at](double out) { return volume * F[at] + (out - volume) * cut.rest[at]; };
    const std::ptrdiff_t high = at + layout.step[axis];
    if (cell[axis] >= first[axis] && -C[at] > volume) flux[at] = -liquid(-C[at]);
    if (cell[axis] + 1 < end[axis] && C[high] > volume) flux[high] = liquid(C[high]);
  }
}

template void liquid_flux<2>(const Layout<2>&, int, const Index<2>&, const Index<2>&, const double*, const double*,
                             const double*, double, const Cut<2>&, double*, double*);
template void pass_small_cells<2>(const Layout<2>&, int, const Index<2>&, const Index<2>&, const double*, const Cut<2>&,
                                  const double*, double*);
template void liquid_flux<3>(const Layout<3>&, int, const Index<3>&, const Index<3>&, const double*, const double*,
                             const double*, double, const Cut<3>&, double*, double*);
template void pass_small_cells<3>(const Layout<3>&, int, const Index<3>&, const Index<3>&, const double*, const Cut<3>&,
                                  const double*, double*);

}  // namespace wavy::sharp
