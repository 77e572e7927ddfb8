#include "sharp/extended_interface.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <utility>

#include "geometry/clip.hpp"
#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

/// Shifts to the cells at most three cells away, the nearest first.
template <int D>
std::vector<Index<D>> near_shifts() {
  std::vector<std::pair<int, Index<D>>> all;
  for_shifts<D>(3, [&](const Index<D>& shift, int square) { all.emplace_back(square, shift); });
  std::ranges::stable_sort(all, {}, [](const auto& one) { return one.first; });
  std::vector<Index<D>> shifts;
  for (const auto& [square, shift] : all) shifts.push_back(shift);
  return shifts;
}

/// Normal in the nearest mixed cell whose 3^D cells touch no wall, at most three cells away. `open`: shares; `seen`:
/// null where no sheet is near.
template <int D>
std::optional<Vec<D>> clean_normal(const double* F, const double* at_wall, const double* open, const Layout<D>& layout,
                                   const SeenShares<D>* seen) {
  static const std::vector<Index<D>> shifts = near_shifts<D>();
  const auto is_clean = [&](std::ptrdiff_t o) {
    bool clean = true;
    for_shifts<D>(1, [&](const Index<D>& next, int) {
      const std::ptrdiff_t at = o + layout.offset(next);
      clean = clean && at_wall[at] == 0 && open[at] == 1;
    });
    return clean;
  };
  for (const auto& shift : shifts) {
    const std::ptrdiff_t o = layout.offset(shift);
    if (!is_mixed(F[o]) || open[o] < 1 || !is_clean(o) || (seen != nullptr && !seen->sees(shift))) continue;
    const Vec<D> normal = interface_normal<D>(F + o, layout.step);
    if (dot<D>(normal, normal) <= 0) return std::nullopt;
    return normal;
  }
  return std::nullopt;
}

/// The interface's normal at a wall [cell units], from its direction along the wall and the angle in the liquid.
template <int D>
Vec<D> normal_at_angle(const Vec<D>& normal, const Vec<D>& wall, double angle, const Vec<D>& h) {
  Vec<D> along;
  for (int d = 0; d < D; ++d) along[d] = normal[d] / h[d];
  const double into = dot<D>(along, wall);
  double square = 0;
  for (int d = 0; d < D; ++d) {
    along[d] -= into * wall[d];
    square += along[d] * along[d];
  }
  if (square <= 0) return normal;
  Vec<D> result;
  for (int d = 0; d < D; ++d)
    result[d] = (std::sin(angle) * along[d] / std::sqrt(square) - std::cos(angle) * wall[d]) * h[d];
  return result;
}

}  // namespace

template <int D>
ExtendedInterface<D>::ExtendedInterface(const Grid<D>& grid, const OpenSpace<D>& space) : space_(&space) {
  if (space.is_uncut()) return;
  sheets_ = Sheets<D>(grid, space);
  extended_fraction_ = Cells<D>(grid);
  contacts_.resize(static_cast<std::size_t>(grid.blocks()));
  next_.resize(static_cast<std::size_t>(grid.blocks()));
}

template <int D>
const typename ExtendedInterface<D>::Contact* ExtendedInterface<D>::contact(int block, std::ptrdiff_t at) const {
  const auto* own = entry_at(contacts_[static_cast<std::size_t>(block)], at);
  return own != nullptr ? own : entry_at(next_[static_cast<std::size_t>(block)], at);
}

template <int D>
void ExtendedInterface<D>::update(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, int width) {
  if (space_->is_uncut()) {
    fill_fraction_halo<D>(grid, settings, state.F, state.u, width);
    return;
  }
  const Layout<D>& layout = grid.layout();
  const OpenSpace<D>& space = *space_;
  // What is known: F in the open, and in the solid that of the nearest open cell.
  fill_halo(grid, state.F, pad, all_walls<D>(Mirror::even), space.open_spans());
  const CellRange<D> range = with_layers(layout, 1);
  for_blocks(grid, [&](int b) {
    for_open_rows<D>(space, b, layout, range.lo, range.hi,
                     [F = state.F.block(b), E = extended_fraction_.block(b)](std::ptrdiff_t o, int n) {
                       std::copy_n(F + o, n, E + o);
                     });
  });
  carry_on(grid, space, state.F, extended_fraction_);

  sheets_.find_contacts(grid, settings, state.F, state.u);
  find_contacts(grid, settings, state, state.F);
  if (space.axisymmetric()) {
    // Planes by normals that are not yet those of the sections; then once more.
    show_sections(grid);
    fill_halo(grid, extended_fraction_, pad, all_walls<D>(Mirror::even));
    find_contacts(grid, settings, state, extended_fraction_);
    show_sections(grid);
  }
  find_next(grid);
  carry_into_walls(grid, width);
  fill_fraction_halo<D>(grid, settings, extended_fraction_, state.u, width);
  is_current_ = width == pad && settings.slip_length == 0;  // else angles change with the velocity
}

/// The interface's planes in the mixed cells at walls, or in all. `clean`: shares where cells are whole, with more of
/// the halo than the first layer.
template <int D>
void ExtendedInterface<D>::find_contacts(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                                         const Cells<D>& clean) {
  const Layout<D>& layout = grid.layout();
  const OpenSpace<D>& space = *space_;
  for_blocks(grid, [&](int b) {
    auto& list = contacts_[static_cast<std::size_t>(b)];
    list.clear();
    const double* F = state.F.block(b);
    const double* E = extended_fraction_.block(b);
    const double* whole = clean.block(b);
    const double* volume = space.volume().block(b);
    const double* share = space.share().block(b);
    const double* at_wall = space.at_wall().block(b);
    const Index<D> start = grid.geometry(b).start;
    const auto add = [&](std::ptrdiff_t at, const WallCell<D>* wall) {
      Contact contact;
      contact.at = at;
      contact.at_wall = wall != nullptr;
      if (wall != nullptr) contact.open = wall->open;
      for (int d = 0; d < D; ++d) contact.cell[d] = start[d] + axis_index<D>(layout, at, d);
      // Beside a sheet alone the interface is as it is seen there; beside other walls as the nearest cells have it.
      std::optional<SeenShares<D>> seen;
      if (sheets_.near(b, at)) seen.emplace(sheets_, layout, b, at, whole);
      const bool at_sheet = wall != nullptr && sheets_.alone_at(b, at);
      std::optional<Vec<D>> near;
      if (wall != nullptr && !at_sheet)
        near = clean_normal<D>(whole + at, at_wall + at, share + at, layout, seen ? &*seen : nullptr);
      Vec<D> normal = near       ? *near
                      : at_sheet ? interface_normal<D>(seen->middle(), SeenShares<D>::step())
                                 : interface_normal<D>(E + at, layout.step);
      if (dot<D>(normal, normal) <= 0) return;
      if (settings.surface_tension > 0 && wall != nullptr && wall->area > 0)
        normal = normal_at_angle<D>(normal, wall->wall, wall->mirror ? std::numbers::pi / 2 : settings.contact_angle,
                                    grid.geometry(b).spacing);
      const double slope = space.slope(b, layout, at);
      contact.plane =
          slope != 0 || cuts(contact.open)
              ? plane_through_part<D>(normal, volume[at] * F[at] / space.weight(b, layout, at), contact.open, slope)
              : plane_through<D>(normal, F[at]);
      list.push_back(contact);
    };
    if (space.axisymmetric()) {
      for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          if (volume[at] > 0 && is_mixed(F[at])) add(at, at_wall[at] != 0 ? space.wall_in(b, at) : nullptr);
      });
    }
    // Where a contact angle rules, an interface on the faces between full and empty cells meets the wall too.
    const bool at_angle = settings.surface_tension > 0;
    for (const auto& wall : space.wall_cells(b)) {
      const bool mixed = is_mixed(F[wall.at]);
      if (mixed ? !space.axisymmetric() : at_angle && wall.area > 0 && carries_interface<D>(E + wall.at, layout.step))
        add(wall.at, &wall);
    }
    if (space.axisymmetric()) std::ranges::sort(list, {}, &Contact::at);
  });
}

/// Round an axis of revolution: what the planes leave of the sections of mixed cells.
template <int D>
void ExtendedInterface<D>::show_sections(const Grid<D>& grid) {
  for_blocks(grid, [&](int b) {
    double* E = extended_fraction_.block(b);
    for (const auto& contact : contacts_[static_cast<std::size_t>(b)])
      E[contact.at] = share_in_cell<D>(contact.plane, Index<D>{});
  });
}

namespace {

/// The plane of a cell as it is seen beyond an end across `axis` that is turned round an upright line.
template <int D>
Plane<D> turned(Plane<D> plane, Turn turn, int axis) {
  const double x = plane.normal[0];
  const double y = plane.normal[1];
  if (turn == Turn::half) {
    plane.offset -= x + y;
    plane.normal[0] = -x;
    plane.normal[1] = -y;
    return plane;
  }
  plane.offset -= axis == 0 ? y : x;
  plane.normal[0] = axis == 0 ? -y : y;
  plane.normal[1] = axis == 0 ? x : -x;
  return plane;
}

/// The cell that is seen there in the place of a cell.
template <int D>
Index<D> turned_cell(Index<D> cell, const Grid<D>& grid, int axis) {
  if (grid.turn() == Turn::half) {
    cell[0] = -1 - cell[0];
    cell[1] = grid.cells()[1] - 1 - cell[1];
    return cell;
  }
  std::swap(cell[0], cell[1]);
  cell[axis] = -1 - cell[axis];
  return cell;
}

}  // namespace

/// What a block's neighbour finds in its outermost cells is what passes their common faces, seen from either side.
template <int D>
void ExtendedInterface<D>::find_next(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    auto& list = next_[static_cast<std::size_t>(b)];
    list.clear();
    for (int d = 0; d < D; ++d)
      for (int side = 0; side < 2; ++side) {
        const int other = grid.forest().neighbour(b, d, side);
        if (other < 0) continue;
        const int last = layout.cells[d] - 1;
        if (grid.forest().turned(b, d, side)) {
          for (const Contact& contact : contacts_[static_cast<std::size_t>(other)]) {
            Index<D> here = turned_cell<D>(contact.cell, grid, d);
            if (here[d] != -1) continue;
            for (int e = 0; e < D; ++e) here[e] -= grid.geometry(b).start[e];
            list.push_back({.at = layout.offset(here),
                            .cell = contact.cell,
                            .plane = turned<D>(contact.plane, grid.turn(), d),
                            .open = turned<D>(contact.open, grid.turn(), d),
                            .at_wall = contact.at_wall});
          }
          continue;
        }
        for (const Contact& contact : contacts_[static_cast<std::size_t>(other)]) {
          if (axis_index<D>(layout, contact.at, d) != (side == 0 ? last : 0)) continue;
          list.push_back(contact);
          list.back().at += (side == 0 ? -last - 1 : last + 1) * layout.step[d];
        }
      }
    std::ranges::sort(list, {}, &Contact::at);
  });
}

/// The planes at walls go on through the cut cells into the solid, `width` cells far.
template <int D>
void ExtendedInterface<D>::carry_into_walls(const Grid<D>& grid, int width) {
  const Layout<D>& layout = grid.layout();
  struct Image {
    Plane<D> plane;
    Index<D> cell;
  };
  std::vector<Image> all;
  for (const auto& list : contacts_)
    for (const auto& one : list)
      if (one.at_wall) all.push_back({one.plane, one.cell});
  // Along axes that repeat also those across the seam.
  for (int d = 0; d < D; ++d) {
    if (!grid.periodic()[d]) continue;
    const int n = grid.cells()[d];
    const std::size_t known = all.size();
    for (std::size_t k = 0; k < known; ++k)
      for (const int away : {-n, n}) {
        Image image = all[k];
        image.cell[d] += away;
        if (image.cell[d] >= -width && image.cell[d] < n + width) all.push_back(image);
      }
  }
  const auto turned_image = [&](const Image& image, int axis) {
    return Image{turned<D>(image.plane, grid.turn(), axis), turned_cell<D>(image.cell, grid, axis)};
  };
  for (std::size_t k = 0, known = all.size(); k < known && grid.turn() != Turn::none; ++k) {
    std::vector<Image> images{turned_image(all[k], 0)};
    if (grid.turn() == Turn::quarter) {
      images.push_back(turned_image(all[k], 1));
      images.push_back(turned_image(images[0], 0));  // across the upright line
    }
    for (const Image& image : images)
      if (image.cell[0] >= -width && image.cell[1] >= -width) all.push_back(image);
  }
  // Of two that are as near the first rules: in an order that does not depend on the blocks.
  std::ranges::sort(all, {}, &Image::cell);
  for_blocks(grid, [&](int b) {
    if (space_->is_uncut(b)) return;
    double* E = extended_fraction_.block(b);
    const double* open = space_->share().block(b);
    const Index<D> start = grid.geometry(b).start;
    thread_local std::vector<unsigned char> nearest;  // square of the distance to the contact that rules a cell
    nearest.assign(layout.size, static_cast<unsigned char>(width * width + 1));
    for (const Image& image : all) {
      Index<D> lo;
      Index<D> hi;
      bool apart = false;
      for (int d = 0; d < D; ++d) {
        lo[d] = std::max(0, image.cell[d] - start[d] - width);
        hi[d] = std::min(layout.cells[d], image.cell[d] - start[d] + width + 1);
        apart = apart || lo[d] >= hi[d];
      }
      if (apart) continue;
      for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
        Index<D> shift;
        for (int d = 0; d < D; ++d) shift[d] = axis_index<D>(layout, o, d) + start[d] - image.cell[d];
        for (std::ptrdiff_t at = o; at < o + n; ++at, ++shift[0]) {
          if (open[at] == 1) continue;
          int square = 0;
          for (const int along : shift) square += along * along;
          auto& least = nearest[static_cast<std::size_t>(at + layout.first)];
          if (square >= least) continue;
          least = static_cast<unsigned char>(square);
          E[at] = share_in_cell<D>(image.plane, shift);
        }
      });
    }
  });
}

template class ExtendedInterface<2>;
template class ExtendedInterface<3>;

}  // namespace wavy::sharp
