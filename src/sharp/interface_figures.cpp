// What a model says of its interface and of the motion within its phases: area, potential energy, dissipation.
#include <algorithm>
#include <cmath>
#include <optional>

#include "flow/shear_rate.hpp"
#include "geometry/clip.hpp"
#include "mesh/cover.hpp"
#include "sharp/extended_interface.hpp"
#include "sharp/face_viscosity.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

/// The area of a plane in the open part of the unit cell, over that of a cell's face, by the cell's true sides.
template <int D>
double area_in_cell(const Plane<D>& plane, const Plane<D>* open, double slope, const Vec<D>& spacing) {
  Vec<D> upper;
  upper.fill(1);
  ConvexBody<D> body({}, upper, slope);
  if (open != nullptr && cuts(*open)) body.cut(*open);
  double section = 0;
  if (body.volume_below(plane, &section) <= 0) return 0;
  // An area as a vector shrinks along each axis by the sides across it.
  double volume = 1;
  double sum = 0;
  for (int d = 0; d < D; ++d) {
    volume *= spacing[d];
    sum += std::pow(plane.normal[d] / spacing[d], 2);
  }
  return section * volume * std::sqrt(sum / dot<D>(plane.normal, plane.normal));
}

/// Share of the low or high face of the unit cell across an axis that lies below the plane.
template <int D>
double share_of_face(const Plane<D>& plane, int axis, int side) {
  double offset = plane.offset - side * plane.normal[axis];
  Vec<D - 1> normal{};
  double sum = 0;
  std::size_t k = 0;
  for (int d = 0; d < D; ++d) {
    if (d == axis) continue;
    offset -= std::min(plane.normal[d], 0.0);
    normal[k] = std::abs(plane.normal[d]);
    sum += normal[k++];
  }
  constexpr double upright = 1e-12;  // to the face
  if (sum < upright) return offset > 0 ? 1 : 0;
  if constexpr (D == 2) {
    return std::clamp(offset / sum, 0.0, 1.0);
  } else {
    for (double& component : normal) component /= sum;
    return share_below<D - 1>(normal, offset / sum);
  }
}

}  // namespace

template <int D>
void Model<D>::for_interface(const std::function<void(const InterfacePiece<D>&)>& take) const {
  const Layout<D>& layout = grid_.layout();
  const ExtendedInterface<D>& interface = extended_interface();
  const Cells<D>& extended = interface.extended_fraction(state_);
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    if (open_share(space_, b, o) == 0) return;
    const double* F = state_.F.block(b) + o;
    const Vec<D>& h = grid_.geometry(b).spacing;
    std::optional<Plane<D>> plane;
    if (is_mixed(*F)) {
      const auto* contact = space_.is_uncut() ? nullptr : interface.contact(b, o);
      plane = contact != nullptr
                  ? contact->plane
                  : plane_through<D>(interface_normal<D>(extended.block(b) + o, layout.step), extended.block(b)[o]);
      if (!cuts(*plane)) return;
      take({b, o,
            area_in_cell<D>(*plane, contact != nullptr ? &contact->open : nullptr, space_.slope(b, layout, o), h) *
                space_.weight(b, layout, o)});
    }
    for (int d = 0; d < D; ++d)
      for (const int side : {0, 1}) {
        // Of two cells that one phase each fills, the lower one has the face; turned by half a turn, each half of it.
        const bool turned = side == 0 && grid_.turned_below(d, cell[d]);
        if (!plane && side == 0 && !turned) continue;
        if (!grid_.beyond(cell, d, side)) continue;
        const std::ptrdiff_t step = layout.step[static_cast<std::size_t>(d)];
        const double beyond = F[side == 0 ? -step : step];
        if (is_mixed(beyond) || open_share(space_, b, o + (side == 0 ? -step : step)) == 0) continue;
        const double own = plane ? share_of_face<D>(*plane, d, side) : std::round(*F);
        const double open = space_.is_uncut() ? 1.0 : space_.area()[d].block(b)[o + side * step];
        const double part = std::abs(own - std::round(beyond)) * open * (!plane && turned ? 0.5 : 1.0);
        if (part > 0) take({b, o, part * grid_.cell_volume() / h[d]});
      }
  });
}

template <int D>
double Model<D>::potential_energy(const Vec<D>& gravity) const {
  const Layout<D>& layout = grid_.layout();
  const ExtendedInterface<D>& interface = extended_interface();
  const Cells<D>& extended = interface.extended_fraction(state_);
  const double rho_gas = settings_.free_surface_only ? 0.0 : settings_.gas.density;
  double energy = 0;
  for_cells_in_order<D>(grid_, [&](int b, std::ptrdiff_t o, const Index<D>&) {
    const double F = state_.F.block(b)[o];
    const double volume = OpenVolumes<D>(space_, b)[o] * grid_.cell_volume();
    if (volume == 0) return;
    const Vec<D>& h = grid_.geometry(b).spacing;
    const WallCell<D>* wall = space_.wall_in(b, o);
    const Vec<D> middle = open_middle(grid_, space_, b, o);
    energy -= rho_gas * volume * dot<D>(gravity, middle);
    if (F <= 0) return;
    // The liquid's own middle, where it shares the cell; beside a wall no further off than the open part reaches.
    Vec<D> own = middle;
    if (is_mixed(F) && (wall == nullptr || !cuts(wall->open))) {
      const Vec<D> normal = interface_normal<D>(extended.block(b) + o, layout.step);
      if (dot<D>(normal, normal) > 0) {
        const Vec<D> below = middle_below<D>(plane_through<D>(normal, extended.block(b)[o]));
        for (int d = 0; d < D; ++d) own[d] += (below[d] - 0.5) * h[d];
      }
    }
    energy -= (settings_.liquid.density - rho_gas) * F * volume * dot<D>(gravity, own);
  });
  return energy;
}

template <int D>
Cells<D> Model<D>::shear_rate() const {
  CellVectors<D> u = state_.u;
  fill_velocity_halo<D>(grid_, space_, settings_.walls, wall_velocity(), 1, u);
  return shear_rates<D>(grid_, space_, u, [&](int block, std::ptrdiff_t at) {
    return !settings_.free_surface_only || state_.F.block(block)[at] > 0;
  });
}

template <int D>
double Model<D>::dissipation() const {
  const Cells<D> rates = shear_rate();
  const Cells<D>& eddy_viscosity = state_.turbulent.eddy_viscosity;
  return grid_.cell_volume() * sum_volumes(grid_, [&](int b) {
           const OpenVolumes<D> open(space_, b);
           const double* eddies = eddy_viscosity.data().empty() ? nullptr : eddy_viscosity.block(b);
           double sum = 0;
           for_rows<D>(grid_.layout(), [&](std::ptrdiff_t row, int n) {
             for (std::ptrdiff_t o = row; o < row + n; ++o) {
               const double F = state_.F.block(b)[o];
               const double rate = rates.block(b)[o];
               if (open[o] <= 0 || rate <= 0) continue;
               const double turbulent = eddies == nullptr ? 0.0 : density<D>(settings_, F) * eddies[o];
               sum += open[o] * (viscosity<D>(settings_, F, rate) + turbulent) * rate * rate;
             }
           });
           return sum;
         });
}

template void Model<2>::for_interface(const std::function<void(const InterfacePiece<2>&)>&) const;
template double Model<2>::potential_energy(const Vec<2>&) const;
template Cells<2> Model<2>::shear_rate() const;
template double Model<2>::dissipation() const;
template void Model<3>::for_interface(const std::function<void(const InterfacePiece<3>&)>&) const;
template double Model<3>::potential_energy(const Vec<3>&) const;
template Cells<3> Model<3>::shear_rate() const;
template double Model<3>::dissipation() const;

}  // namespace wavy::sharp
