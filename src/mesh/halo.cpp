#include "mesh/halo.hpp"

#include <algorithm>
#include <cassert>

#include "mesh/grid.hpp"

namespace wavy {
namespace {

/// What counts of the cells [lo, hi) of a block's row (j, k).
template <int D>
std::array<int, 2> part_that_counts(const Layout<D>& layout, const RowSpans& spans, int j, int k, int lo, int hi) {
  if (spans.empty() || j < -1 || j > layout.cells[1]) return {lo, hi};
  if (D == 3 && (k < -1 || k > layout.cells[D - 1])) return {lo, hi};
  const int number = (D == 3 ? (k + 1) * (layout.cells[1] + 2) : 0) + j + 1;
  const auto [first, end] = spans[static_cast<std::size_t>(number)];
  return {first < 0 ? lo : std::max(lo, first), end > layout.cells[0] ? hi : std::min(hi, end)};
}

/// Copies or mirrors `width` layers across one axis, with `before` layers of what has been filled across the axes
/// before it. `faces`: the axis across whose low faces the values are; -1 of cells.
template <int D>
void fill_side(const Layout<D>& layout, const HaloEntry& entry, int axis, int width, int before, double factor,
               int faces, const RowSpans& rows, const double* source, double* own) {
  const std::ptrdiff_t step = layout.step[axis];
  // Seen from the other side of a turn, low faces are high ones.
  const int nearest = entry.nearest + (entry.turned && faces == axis ? 1 : 0);
  const int last_row = layout.cells[1] - 1 + (faces == 1 ? 1 : 0);
  const int farthest = nearest + entry.onwards * (width - 1);
  Index<3> lo{};
  Index<3> hi{1, 1, 1};
  for (int d = 0; d < D; ++d) {
    lo[d] = d < axis ? -before : 0;
    hi[d] = layout.cells[d] + (d < axis ? before : 0);
  }
  lo[axis] = 0;
  hi[axis] = 1;
  const std::ptrdiff_t plane = D == 3 ? layout.step[D - 1] : 0;
  for (int k = lo[2]; k < hi[2]; ++k)
    for (int j = lo[1]; j < hi[1]; ++j) {
      const int from = entry.turned ? last_row - j : j;
      const std::ptrdiff_t outside = k * plane;
      double* row = own + j * layout.step[1] + outside + entry.edge;
      const double* values = source + from * layout.step[1] + outside + nearest * step;
      if (axis == 0) {  // the layers of a row share its cache lines
        const auto [begin, end] =
            part_that_counts<D>(layout, rows, from, k, std::min(nearest, farthest), std::max(nearest, farthest) + 1);
        if (begin >= end) continue;
        for (int layer = 0; layer < width; ++layer)
          row[(1 + layer) * entry.outwards] = factor * values[layer * entry.onwards];
        continue;
      }
      for (int layer = 0; layer < width; ++layer) {
        const int place = nearest + layer * entry.onwards;
        const auto [begin, end] =
            part_that_counts<D>(layout, rows, axis == 1 ? place : j, axis == 2 ? place : k, lo[0], hi[0]);
        double* to = row + (1 + layer) * entry.outwards;
        const double* layer_values = values + layer * entry.onwards * step;
        for (int i = begin; i < end; ++i) to[i] = factor * layer_values[i];
      }
    }
}

template <int D>
void fill_axis(const Grid<D>& grid, Cells<D>& field, int width, const HaloRules<D>& rules, int axis, int before,
               const std::vector<RowSpans>& spans, int faces = -1) {
  assert(width > 0 && width <= pad && width <= grid.layout().cells[axis]);
  assert(spans.empty() || spans.size() == static_cast<std::size_t>(grid.blocks()));
  static const RowSpans all;
  for_blocks(grid, [&](int b) {
    for (const HaloEntry& entry : grid.halo().entries(b, axis)) {
      const auto side = static_cast<std::size_t>(entry.side);
      const bool odd =
          entry.wall ? rules.walls[static_cast<std::size_t>(axis)][side] == Mirror::odd : entry.turned && rules.turns;
      const RowSpans& rows = spans.empty() ? all : spans[static_cast<std::size_t>(entry.source)];
      fill_side(grid.layout(), entry, axis, width, before, odd ? -1.0 : 1.0, faces, rows, field.block(entry.source),
                field.block(b));
    }
  });
}

}  // namespace

template <int D>
HaloPlan<D>::HaloPlan(const Layout<D>& layout, const Forest<D>& forest) {
  for (int b = 0; b < static_cast<int>(forest.leaves().size()); ++b)
    for (int axis = 0; axis < D; ++axis) {
      auto& entries = entries_.emplace_back();
      for (int side = 0; side < 2; ++side) {
        HaloEntry& entry = entries[static_cast<std::size_t>(side)];
        const int next = forest.neighbour(b, axis, side);
        const int last = layout.cells[axis] - 1;
        const int edge = side == 0 ? 0 : last;
        entry.side = side;
        entry.wall = next < 0;
        entry.turned = forest.turned(b, axis, side);
        entry.source = entry.wall ? b : next;
        // What lies outside comes from the neighbour's layers on its other side, going the same way, or at a wall from
        // the own layers, going inwards, as where the neighbour is turned.
        const bool inwards = entry.wall || entry.turned;
        entry.nearest = inwards ? edge : last - edge;
        entry.onwards = (side == 0) == inwards ? 1 : -1;
        entry.edge = edge * layout.step[axis];
        entry.outwards = side == 0 ? -layout.step[axis] : layout.step[axis];
      }
    }
}

template <int D>
void fill_halo(const Grid<D>& grid, Cells<D>& field, int width, const std::type_identity_t<HaloRules<D>>& rules,
               const std::vector<RowSpans>& spans) {
  for (int axis = 0; axis < D; ++axis) fill_axis<D>(grid, field, width, rules, axis, width, spans);
}
template <int D>
void fill_face_halo(const Grid<D>& grid, int across, Cells<D>& field, int width) {
  for (int axis = 0; axis < D; ++axis)
    fill_axis<D>(grid, field, width, all_walls<D>(Mirror::even), axis, width, {}, across);
}
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, Cells<D>& field, int width,
                      const std::type_identity_t<HaloRules<D>>& rules, const std::vector<RowSpans>& spans) {
  fill_axis<D>(grid, field, width, rules, axis, 0, spans);
}

template <int D>
void fill_turned_edges(const Grid<D>& grid, Cells<D>& field, const std::type_identity_t<HaloRules<D>>& rules) {
  if (!grid.half_turn()) return;
  const Layout<D>& layout = grid.layout();
  CellRange<D> edge = with_layers(layout, 1);
  edge.hi[0] = 0;
  for_blocks(grid, [&](int b) {
    const HaloEntry& entry = grid.halo().entries(b, 0)[0];
    if (!entry.turned) return;
    const double sign = rules.turns ? -1 : 1;
    const double* source = field.block(entry.source);
    double* own = field.block(b);
    for_rows<D>(layout, edge.lo, edge.hi, [&](std::ptrdiff_t o, int) {
      const int j = axis_index<D>(layout, o, 1);
      Index<D> cell{};
      cell[1] = layout.cells[1] - 1 - j;
      if constexpr (D == 3) cell[2] = axis_index<D>(layout, o, 2);
      const bool inside =
          j >= 0 && j < layout.cells[1] && (D == 2 || (cell[D - 1] >= 0 && cell[D - 1] < layout.cells[D - 1]));
      if (!inside) own[o] = sign * source[layout.offset(cell)];
    });
  });
}

template void fill_turned_edges<2>(const Grid<2>&, Cells<2>&, const HaloRules<2>&);
template void fill_turned_edges<3>(const Grid<3>&, Cells<3>&, const HaloRules<3>&);
template class HaloPlan<2>;
template class HaloPlan<3>;
template void fill_halo<2>(const Grid<2>&, Cells<2>&, int, const HaloRules<2>&, const std::vector<RowSpans>&);
template void fill_halo<3>(const Grid<3>&, Cells<3>&, int, const HaloRules<3>&, const std::vector<RowSpans>&);
template void fill_face_halo<2>(const Grid<2>&, int, Cells<2>&, int);
template void fill_face_halo<3>(const Grid<3>&, int, Cells<3>&, int);
template void fill_halo_across<2>(const Grid<2>&, int, Cells<2>&, int, const HaloRules<2>&,
                                  const std::vector<RowSpans>&);
template void fill_halo_across<3>(const Grid<3>&, int, Cells<3>&, int, const HaloRules<3>&,
                                  const std::vector<RowSpans>&);

}  // namespace wavy
