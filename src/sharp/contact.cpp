// The interface where it meets a wall.
#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"
#include "sharp/sheets.hpp"

namespace wavy::sharp {
namespace {

/// Angle in the liquid between the wall and the interface [rad]. With a slip length the angle that one sees follows the
/// speed of the line (S14): theta^3 = theta_e^3 + 9 Ca ln(h/2 / slip length) (Voinov 1976; Cox, J. Fluid Mech. 168
/// (1986) 169).
double angle_at_speed(double at_rest, double capillary_number, double logarithm) {
  constexpr double least = 5 * M_PI / 180;
  if (logarithm <= 0) return at_rest;
  const double cube = at_rest * at_rest * at_rest + 9 * capillary_number * logarithm;
  return std::clamp(std::cbrt(cube), least, M_PI - least);
}

/// Mean place of the interface in the row of cells at the wall, counted in cells from the liquid's side of the cell at
/// F[0] along `out`, which leads out of the liquid. Nothing where the row does not go from full to empty in a few
/// cells, of which `inward` and `outward` are there.
std::optional<double> front_of_row(const double* F, std::ptrdiff_t out, int inward, int outward) {
  constexpr int reach = 6;
  double interface = *F;
  int k = 1;
  for (; F[-k * out] < 1 - pure; ++k) {
    if (k == std::min(reach, inward)) return std::nullopt;
    interface += F[-k * out] - 1;
  }
  for (k = 1; F[k * out] > pure; ++k) {
    if (k == std::min(reach, outward)) return std::nullopt;
    interface += F[k * out];
  }
  return interface;
}

}  // namespace

template <int D>
bool meets_walls_upright(const Settings<D>& settings) {
  return settings.slip_length <= 0 && std::abs(settings.contact_angle - M_PI / 2) < 1e-9;
}

template <int D>
std::optional<ContactCell<D>> find_contact(const Grid<D>& grid, const Settings<D>& settings, int block,
                                           std::ptrdiff_t at, const double* F, const Vec<D>& out_of,
                                           const CellVectors<D>& velocity, int axis, int side) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.geometry(block).spacing;
  const bool moving = settings.slip_length > 0;
  Vec<D> along = out_of;
  along[axis] = 0;
  double length = 0;
  for (int d = 0; d < D; ++d) {
    along[d] /= h[d];
    length += along[d] * along[d];
  }
  length = std::sqrt(length);
  if (length <= 0) return std::nullopt;
  // A thin wedge fills several cells: the line is in the last of them.
  int main = axis == 0 ? 1 : 0;
  for (int d = 0; d < D; ++d)
    if (d != axis && std::abs(along[d]) > std::abs(along[main])) main = d;
  const bool rising = along[main] > 0;
  const std::ptrdiff_t out = rising ? layout.step[main] : -layout.step[main];
  const bool acute = settings.contact_angle <= M_PI / 2;
  if (acute ? F[at + out] >= pure : F[at - out] <= 1 - pure) return std::nullopt;
  double speed = 0;  // of the line, towards the gas
  for (int d = 0; d < D; ++d) {
    along[d] /= length;
    if (moving) speed += along[d] * velocity[d].block(block)[at];
  }
  const double theta =
      moving && settings.surface_tension > 0
          ? angle_at_speed(settings.contact_angle, settings.liquid.viscosity * speed / settings.surface_tension,
                           std::log(0.5 * grid.smallest_spacing() / settings.slip_length))
          : settings.contact_angle;
  Vec<D> normal = along;
  for (double& c : normal) c *= std::sin(theta);
  normal[axis] = (side == 0 ? 1 : -1) * std::cos(theta);
  for (int d = 0; d < D; ++d) normal[d] *= h[d];
  ContactCell<D> contact;
  contact.axis = axis;
  contact.side = side;
  contact.plane = plane_through<D>(normal, F[at]);
  for (int d = 0; d < D; ++d) contact.cell[d] = axis_index<D>(layout, at, d);
  const int below = contact.cell[main] + pad;  // cells of the block and its halo
  const int above = layout.cells[main] + pad - 1 - contact.cell[main];
  if (const auto interface = front_of_row(F + at, out, rising ? below : above, rising ? above : below)) {
    contact.plane.offset = 0;
    for (int d = 0; d < D; ++d)
      contact.plane.offset += contact.plane.normal[d] * (d != main ? 0.5 : rising ? *interface : 1 - *interface);
  }
  return contact;
}

template <int D>
void fill_fraction_halo(const Grid<D>& grid, const Settings<D>& settings, Cells<D>& field,
                        const CellVectors<D>& velocity, int width) {
  const bool mirrored = meets_walls_upright(settings);
  fill_halo(grid, field, mirrored ? width : pad, all_walls<D>(Mirror::even));
  if (mirrored) return;
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    double* F = field.block(b);
    for (int axis = 0; axis < D; ++axis)
      for (int side = 0; side < 2; ++side) {
        if (grid.forest().neighbour(b, axis, side) >= 0 || settings.walls[axis][side] == Wall::mirror) continue;
        const int first = side == 0 ? 0 : layout.cells[axis] - 1;  // the layer of cells at the wall
        // Cells in which the interface, at its angle, meets the wall; those of the neighbours' that this block sees
        // too.
        std::vector<ContactCell<D>> contacts;
        Index<D> lo{};
        Index<D> hi = layout.cells;
        for (int d = 0; d < D; ++d) {
          lo[d] -= pad - 1;
          hi[d] += pad - 1;
        }
        lo[axis] = first;
        hi[axis] = first + 1;
        for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            if (!carries_interface<D>(F + at, layout.step)) continue;
            const Vec<D> out_of = direction_out<D>(F + at, layout.step);
            if (const auto contact = find_contact<D>(grid, settings, b, at, F, out_of, velocity, axis, side))
              contacts.push_back(*contact);
          }
        });
        if (contacts.empty()) continue;
        // Behind the wall the nearest plane goes on.
        constexpr int reach = 4;
        for (int d = 0; d < D; ++d) {
          lo[d] = -pad;
          hi[d] = layout.cells[d] + pad;
        }
        lo[axis] = side == 0 ? -pad : layout.cells[axis];
        hi[axis] = lo[axis] + pad;
        for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
          Index<D> cell{};
          for (int d = 0; d < D; ++d) cell[d] = axis_index<D>(layout, o, d);
          for (int i = 0; i < n; ++i, ++cell[0]) {
            const ContactCell<D>* nearest = nullptr;
            int least = reach * reach + 1;
            for (const auto& contact : contacts) {
              int square = 0;
              for (int d = 0; d < D; ++d)
                if (d != axis) square += (cell[d] - contact.cell[d]) * (cell[d] - contact.cell[d]);
              if (square >= least) continue;
              least = square;
              nearest = &contact;
            }
            if (nearest == nullptr) continue;
            Index<D> shift;
            for (int d = 0; d < D; ++d) shift[d] = cell[d] - nearest->cell[d];
            F[o + i] = share_in_cell<D>(nearest->plane, shift);
          }
        });
      }
  });
}

template bool meets_walls_upright<2>(const Settings<2>&);
template bool meets_walls_upright<3>(const Settings<3>&);
template std::optional<ContactCell<2>> find_contact<2>(const Grid<2>&, const Settings<2>&, int, std::ptrdiff_t,
                                                       const double*, const Vec<2>&, const CellVectors<2>&, int, int);
template std::optional<ContactCell<3>> find_contact<3>(const Grid<3>&, const Settings<3>&, int, std::ptrdiff_t,
                                                       const double*, const Vec<3>&, const CellVectors<3>&, int, int);
template void fill_fraction_halo<2>(const Grid<2>&, const Settings<2>&, Cells<2>&, const CellVectors<2>&, int);
template void fill_fraction_halo<3>(const Grid<3>&, const Settings<3>&, Cells<3>&, const CellVectors<3>&, int);

}  // namespace wavy::sharp
