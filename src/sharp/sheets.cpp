#include "sharp/sheets.hpp"

#include <algorithm>
#include <cstdlib>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {

template <int D>
Sheets<D>::Sheets(const Grid<D>& grid, const OpenSpace<D>& space) {
  if (space.thin_faces().empty()) return;
  const Layout<D>& layout = grid.layout();
  for (std::size_t d = 0; d < D; ++d) {
    closed_[d] = Cells<D>(grid);
    for_blocks(grid, [&](int b) {
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, static_cast<int>(d)), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          closed_[d].block(b)[at] = space.is_sheet(b, static_cast<int>(d), at) ? 1 : 0;
      });
    });
  }
  fill_face_halo(grid, closed_, pad);
  for_blocks(grid, [&](int b) {  // a mirror would write on the boundary of the grid
    for (std::size_t d = 0; d < D; ++d)
      for_boundary_faces(grid, b, static_cast<int>(d), 1,
                         [&](std::ptrdiff_t o, int n) { std::fill_n(closed_[d].block(b) + o, n, 0.0); });
  });
  near_ = Field<unsigned char, D>(grid);
  contacts_.resize(static_cast<std::size_t>(grid.blocks()));
  const CellRange<D> range = with_layers(layout, pad);
  for_blocks(grid, [&](int b) {
    for_rows<D>(layout, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        for (std::size_t d = 0; d < D; ++d) {
          if (closed_[d].block(b)[at] == 0) continue;
          for_shifts<D>(pad, [&](const Index<D>& shift, int) {
            Index<D> cell;
            bool own = true;
            for (int e = 0; e < D; ++e) {
              cell[e] = axis_index<D>(layout, at, e) + shift[e];
              own = own && cell[e] >= 0 && cell[e] < layout.cells[e];
            }
            if (own) near_.block(b)[layout.offset(cell)] = 1;
          });
        }
    });
    for (const auto& wall : space.wall_cells(b))
      if (wall.area == 0 && beside(layout, b, wall.at)) near_.block(b)[wall.at] = alone;
  });
}

template <int D>
bool Sheets<D>::beside(const Layout<D>& layout, int block, std::ptrdiff_t at) const {
  if (none()) return false;
  bool found = false;
  for (std::size_t d = 0; d < D; ++d)
    found = found || closed_[d].block(block)[at] != 0 || closed_[d].block(block)[at + layout.step[d]] != 0;
  return found;
}

template <int D>
void Sheets<D>::find_contacts(const Grid<D>& grid, const Settings<D>& settings, const Cells<D>& F,
                              const CellVectors<D>& velocity) {
  if (none()) return;
  const Layout<D>& layout = grid.layout();
  Index<D> lo;
  Index<D> hi = layout.cells;
  lo.fill(1 - pad);
  for (int& end : hi) end += pad - 1;
  for_blocks(grid, [&](int b) {
    auto& list = contacts_[static_cast<std::size_t>(b)];
    list.clear();
    if (meets_walls_upright(settings)) return;
    const double* f = F.block(b);
    for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (f[at] < pure || !beside(layout, b, at)) continue;
        const SeenShares<D> seen(*this, layout, b, at, f, 1);
        if (!carries_interface<D>(seen.middle(), SeenShares<D>::step())) continue;
        const Vec<D> out = direction_out<D>(seen.middle(), SeenShares<D>::step());
        for (int axis = 0; axis < D; ++axis)
          for (int side = 0; side < 2; ++side) {
            const double* closed = closed_[static_cast<std::size_t>(axis)].block(b);
            if (closed[at + side * layout.step[static_cast<std::size_t>(axis)]] == 0) continue;
            if (const auto found = find_contact<D>(grid, settings, b, at, f, out, velocity, axis, side))
              list.push_back(*found);
          }
      }
    });
  });
}

template <int D>
bool Sheets<D>::shows_none(const Layout<D>& layout, int block, std::ptrdiff_t at, const double* E) const {
  if (E[at] < pure) return true;
  if (!contacts_[static_cast<std::size_t>(block)].empty()) return false;
  bool full = true;
  for_shifts<D>(1, [&](const Index<D>& shift, int) { full = full && E[at + layout.offset(shift)] == 1; });
  return full;
}

template <int D>
const std::array<std::ptrdiff_t, D>& SeenShares<D>::step() {
  static const std::array<std::ptrdiff_t, D> steps = [] {
    std::array<std::ptrdiff_t, D> result;
    std::ptrdiff_t stride = 1;
    for (auto& one : result) {
      one = stride;
      stride *= width;
    }
    return result;
  }();
  return steps;
}

template <int D>
std::size_t SeenShares<D>::place(const Index<D>& shift) {
  std::ptrdiff_t at = centre;
  for (int d = 0; d < D; ++d) at += shift[d] * step()[static_cast<std::size_t>(d)];
  return static_cast<std::size_t>(at);
}

namespace {

/// Shifts of at most `pad` cells along each axis, by the number of steps to them.
template <int D>
const std::vector<Index<D>>& shifts_by_steps() {
  static const std::vector<Index<D>> list = [] {
    std::vector<Index<D>> all;
    for_shifts<D>(pad, [&](const Index<D>& shift, int) { all.push_back(shift); });
    const auto steps = [](const Index<D>& shift) {
      int sum = 0;
      for (const int s : shift) sum += std::abs(s);
      return sum;
    };
    std::ranges::stable_sort(all, {}, steps);
    return all;
  }();
  return list;
}

}  // namespace

template <int D>
SeenShares<D>::SeenShares(const Sheets<D>& sheets, const Layout<D>& layout, int block, std::ptrdiff_t at,
                          const double* E, int reach)
    : reach_(reach) {
  std::array<Image, count> images;
  for (const Index<D>& shift : shifts_by_steps<D>()) {
    if (!within(shift)) continue;
    const std::ptrdiff_t cell = at + layout.offset(shift);
    const std::size_t own = place(shift);
    if (look(sheets, layout, block, cell, shift, images)) values_[own] = E[cell];
  }
  std::array<bool, count> at_angle{};
  for (const Index<D>& shift : shifts_by_steps<D>()) {
    const std::size_t own = place(shift);
    if (!within(shift) || seen_[own]) continue;
    values_[own] = values_[place(images[own].source)];
    const auto carried = carried_on(sheets, layout, block, at, shift, images[own]);
    at_angle[own] = carried.has_value();
    if (carried) values_[own] = *carried;
  }
  // Where the interface runs along the sheet its image would close the columns across it.
  const Vec<D> out = direction_out<D>(middle(), step());
  int main = 0;
  for (int d = 1; d < D; ++d)
    if (std::abs(out[d]) > std::abs(out[main])) main = d;
  if (out[main] == 0) return;
  for (const Index<D>& shift : shifts_by_steps<D>()) {
    const std::size_t own = place(shift);
    if (!within(shift) || seen_[own] || at_angle[own] || images[own].axis != main) continue;
    values_[own] = out[main] * images[own].way > 0 ? 0.0 : 1.0;
  }
}

/// Whether the cell at a shift is seen, by way of those nearer; else what it is the image of.
template <int D>
bool SeenShares<D>::look(const Sheets<D>& sheets, const Layout<D>& layout, int block, std::ptrdiff_t cell,
                         const Index<D>& shift, std::array<Image, count>& images) {
  const std::size_t own = place(shift);
  bool seen = own == centre;
  bool imaged = false;
  Image image;
  for (int d = 0; d < D && !seen; ++d) {
    if (shift[d] == 0) continue;
    const int way = shift[d] > 0 ? 1 : -1;
    Index<D> before = shift;
    before[d] -= way;
    const std::size_t there = place(before);
    const std::ptrdiff_t face = way > 0 ? cell : cell + layout.step[static_cast<std::size_t>(d)];
    const bool closed = sheets.closed()[static_cast<std::size_t>(d)].block(block)[face] != 0;
    if (seen_[there] && !closed) {
      seen = true;
    } else if (!imaged && seen_[there]) {
      image = {before, d, before[d], way};
      imaged = true;
    } else if (!imaged) {
      image = images[there];
      Index<D> moved = image.source;
      moved[d] += image.axis == d ? -way : way;
      if (within(moved) && seen_[place(moved)]) image.source = moved;
      imaged = true;
    }
  }
  seen_[own] = seen;
  if (!seen) images[own] = image;
  return seen;
}

/// Share of what is hidden where the interface goes on at its angle from the nearest cell in which it meets the sheet;
/// nothing where it meets it nowhere near.
template <int D>
std::optional<double> SeenShares<D>::carried_on(const Sheets<D>& sheets, const Layout<D>& layout, int block,
                                                std::ptrdiff_t at, const Index<D>& shift, const Image& image) const {
  const ContactCell<D>* nearest = nullptr;
  Index<D> from_nearest{};
  int least = pad * pad + 1;
  for (const auto& contact : sheets.contacts(block)) {
    if (contact.axis != image.axis || contact.side != (image.way > 0 ? 1 : 0)) continue;
    Index<D> to_contact;
    Index<D> apart;
    int square = 0;
    for (int d = 0; d < D; ++d) {
      to_contact[d] = contact.cell[d] - axis_index<D>(layout, at, d);
      apart[d] = shift[d] - to_contact[d];
      if (d != image.axis) square += apart[d] * apart[d];
    }
    if (to_contact[image.axis] != image.layer || square >= least || !within(to_contact) || !sees(to_contact)) continue;
    least = square;
    nearest = &contact;
    from_nearest = apart;
  }
  return nearest == nullptr ? std::nullopt : std::optional(share_in_cell<D>(nearest->plane, from_nearest));
}

template class Sheets<2>;
template class Sheets<3>;
template class SeenShares<2>;
template class SeenShares<3>;

}  // namespace wavy::sharp
