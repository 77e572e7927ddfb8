#include "mesh/halo.hpp"

#include <algorithm>
#include <cassert>
#include <span>

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

/// A field whose halo is to be filled.
template <int D>
struct Filled {
  Cells<D>* field = nullptr;
  HaloRules<D> rules;
  int component = -1;                 ///< of vectors; -1: values without a sign
  int faces = -1;                     ///< the axis across whose low faces the values are; -1: of cells
  const Cells<D>* quarter = nullptr;  ///< what a quarter of a turn brings here

  /// Of what lies beyond an end across `axis` that is turned.
  [[nodiscard]] double sign(Turn turn, int axis) const {
    if (component < 0 || component >= 2) return 1;
    return turn == Turn::half || component == axis ? -1 : 1;
  }
};

template <int D>
Filled<D> filled(Cells<D>& field, const HaloRules<D>& rules) {
  return {.field = &field, .rules = rules, .quarter = &field};
}

/// Of two that a quarter of a turn exchanges, each is the other's.
template <int D>
const Cells<D>* exchanged(const std::array<Cells<D>, D>& fields, int d) {
  return &fields[static_cast<std::size_t>(d < 2 ? 1 - d : d)];
}

template <int D>
std::vector<Filled<D>> filled(CellVectors<D>& field, const VectorRules<D>& rules) {
  std::vector<Filled<D>> all;
  for (int c = 0; c < D; ++c)
    if (!field[c].data().empty())
      all.push_back({.field = &field[c], .rules = rules[c], .component = c, .quarter = exchanged<D>(field, c)});
  return all;
}

/// Rows and planes of a side, along the axes across it.
template <int D>
CellRange<3> side_range(const Layout<D>& layout, int axis, int before) {
  CellRange<3> range{{}, {1, 1, 1}};
  for (int d = 0; d < D; ++d) {
    range.lo[d] = d < axis ? -before : 0;
    range.hi[d] = layout.cells[d] + (d < axis ? before : 0);
  }
  range.lo[axis] = 0;
  range.hi[axis] = 1;
  return range;
}

/// Copies or mirrors `width` layers across one axis.
template <int D>
void fill_side(const Layout<D>& layout, const HaloEntry& entry, int axis, int width, const CellRange<3>& range,
               double factor, int faces, const RowSpans& rows, const double* source, double* own) {
  const std::ptrdiff_t step = layout.step[axis];
  // Seen from the other side of a turn, low faces are high ones.
  const bool turned = entry.turn == Turn::half;
  const int nearest = entry.nearest + (turned && faces == axis ? 1 : 0);
  const int last_row = layout.cells[1] - 1 + (faces == 1 ? 1 : 0);
  const int farthest = nearest + entry.onwards * (width - 1);
  const auto& [lo, hi] = range;
  const std::ptrdiff_t plane = D == 3 ? layout.step[D - 1] : 0;
  for (int k = lo[2]; k < hi[2]; ++k)
    for (int j = lo[1]; j < hi[1]; ++j) {
      const int from = turned ? last_row - j : j;
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

/// The same beyond an end that is turned by a quarter: l layers below cell (0, t) lies cell (t, l) of the source, and
/// below cell (t, 0) cell (l, t).
template <int D>
void fill_quarter_turned(const Layout<D>& layout, int axis, int width, const CellRange<3>& range, double factor,
                         int faces, const double* source, double* own) {
  const std::ptrdiff_t across = layout.step[static_cast<std::size_t>(axis)];
  const std::ptrdiff_t along = layout.step[static_cast<std::size_t>(1 - axis)];
  const double* nearest = source + (faces == axis ? along : 0);
  for (int k = range.lo[2]; k < range.hi[2]; ++k) {
    const std::ptrdiff_t plane = D == 3 ? k * layout.step[D - 1] : 0;
    for (int t = range.lo[1 - axis]; t < range.hi[1 - axis]; ++t)
      for (int layer = 0; layer < width; ++layer)
        own[plane + t * along - (1 + layer) * across] = factor * nearest[plane + t * across + layer * along];
  }
}

/// `width` layers beyond one side of a block.
template <int D>
void fill_entry(const Grid<D>& grid, const Filled<D>& filled, int width, int axis, int block, const HaloEntry& entry,
                const CellRange<3>& range, const RowSpans& rows) {
  double* own = filled.field->block(block);
  if (entry.turn == Turn::quarter) {
    assert(filled.quarter != nullptr);
    fill_quarter_turned<D>(grid.layout(), axis, width, range, filled.sign(entry.turn, axis), filled.faces,
                           filled.quarter->block(entry.source), own);
    return;
  }
  const auto side = static_cast<std::size_t>(entry.side);
  double factor = 1;
  if (entry.wall) factor = filled.rules.walls[static_cast<std::size_t>(axis)][side] == Mirror::odd ? -1.0 : 1.0;
  if (entry.turn == Turn::half) factor = filled.sign(entry.turn, axis);
  fill_side(grid.layout(), entry, axis, width, range, factor, filled.faces, rows, filled.field->block(entry.source),
            own);
}

template <int D>
void fill_axis(const Grid<D>& grid, const Filled<D>& filled, int width, int axis, const CellRange<3>& range,
               const std::vector<RowSpans>& spans) {
  assert(width > 0 && width <= pad && width <= grid.layout().cells[axis]);
  assert(spans.empty() || spans.size() == static_cast<std::size_t>(grid.blocks()));
  static const RowSpans all;
  for_blocks(grid, [&](int b) {
    for (const HaloEntry& entry : grid.halo().entries(b, axis))
      fill_entry(grid, filled, width, axis, b, entry, range,
                 spans.empty() ? all : spans[static_cast<std::size_t>(entry.source)]);
  });
}

/// All that lies round the blocks. What a quarter of a turn brings to edges and corners lies in halos itself: across
/// the first axis these are filled when the rows beyond the second are there.
template <int D>
void fill_all(const Grid<D>& grid, std::span<const Filled<D>> fields, int width, const std::vector<RowSpans>& spans) {
  const Layout<D>& layout = grid.layout();
  const auto fill = [&](int axis, const CellRange<3>& range) {
    for (const Filled<D>& one : fields) fill_axis<D>(grid, one, width, axis, range, spans);
  };
  if (grid.turn() != Turn::quarter) {
    for (int axis = 0; axis < D; ++axis) fill(axis, side_range<D>(layout, axis, width));
    return;
  }
  for (int axis = 0; axis < 2; ++axis) fill(axis, side_range<D>(layout, axis, 0));
  CellRange<3> beyond = side_range<D>(layout, 0, 0);
  beyond.lo[1] = -width;
  beyond.hi[1] = 0;
  fill(0, beyond);
  beyond.lo[1] = layout.cells[1];
  beyond.hi[1] = layout.cells[1] + width;
  fill(0, beyond);
  if (D == 3) fill(2, side_range<D>(layout, 2, width));
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
        entry.turn = forest.turned(b, axis, side) ? forest.turn() : Turn::none;
        entry.source = entry.wall ? b : next;
        // What lies outside comes from the neighbour's layers on its other side, going the same way, or at a wall from
        // the own layers, going inwards, as where the neighbour is turned.
        const bool inwards = entry.wall || entry.turn != Turn::none;
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
  fill_all<D>(grid, std::array{filled<D>(field, rules)}, width, spans);
}
template <int D>
void fill_halo(const Grid<D>& grid, std::type_identity_t<CellVectors<D>>& field, int width,
               const std::type_identity_t<VectorRules<D>>& rules, const std::vector<RowSpans>& spans) {
  fill_all<D>(grid, filled<D>(field, rules), width, spans);
}
template <int D>
void fill_component_halo(const Grid<D>& grid, int component, Cells<D>& field, int width,
                         const std::type_identity_t<HaloRules<D>>& rules) {
  const Filled<D> one{
      .field = &field, .rules = rules, .component = component, .quarter = component < 2 ? nullptr : &field};
  fill_all<D>(grid, std::array{one}, width, {});
}
template <int D>
void fill_face_halo(const Grid<D>& grid, std::type_identity_t<Faces<D>>& field, int width) {
  std::vector<Filled<D>> all;
  for (int d = 0; d < D; ++d)
    all.push_back(
        {.field = &field[d], .rules = all_walls<D>(Mirror::even), .faces = d, .quarter = exchanged<D>(field, d)});
  fill_all<D>(grid, all, width, {});
}
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, Cells<D>& field, int width,
                      const std::type_identity_t<HaloRules<D>>& rules, const std::vector<RowSpans>& spans) {
  fill_axis<D>(grid, filled<D>(field, rules), width, axis, side_range<D>(grid.layout(), axis, 0), spans);
}
template <int D>
void fill_halo_across(const Grid<D>& grid, int axis, std::type_identity_t<CellVectors<D>>& field, int width,
                      const std::type_identity_t<VectorRules<D>>& rules, const std::vector<RowSpans>& spans) {
  for (const Filled<D>& one : filled<D>(field, rules))
    fill_axis<D>(grid, one, width, axis, side_range<D>(grid.layout(), axis, 0), spans);
}

template <int D>
void fill_turned_edges(const Grid<D>& grid, std::type_identity_t<CellVectors<D>>& field) {
  const auto components = filled<D>(field, even_vector<D>());
  // First beyond one turned end alone; the edge where two ends meet is read from what that leaves.
  for (const bool beyond_both : {false, true})
    for (int axis = 0; axis < 2; ++axis) {
      if (!turns_below(grid.turn(), axis)) continue;
      CellRange<3> range = side_range<D>(grid.layout(), axis, 0);
      const int other = 1 - axis;
      if (D == 3) {
        --range.lo[2];
        ++range.hi[2];
      }
      ++range.hi[other];
      const bool ends_turned = turns_below(grid.turn(), other);
      if (beyond_both) {
        if (!ends_turned) continue;
        range.hi[other] = 0;
      }
      if (beyond_both || !ends_turned) range.lo[other] = -1;
      for_blocks(grid, [&](int b) {
        const HaloEntry& entry = grid.halo().entries(b, axis)[0];
        if (entry.turn == Turn::none) return;
        for (const Filled<D>& one : components) fill_entry<D>(grid, one, 1, axis, b, entry, range, {});
      });
    }
}

template class HaloPlan<2>;
template class HaloPlan<3>;
template void fill_halo<2>(const Grid<2>&, Cells<2>&, int, const HaloRules<2>&, const std::vector<RowSpans>&);
template void fill_halo<2>(const Grid<2>&, CellVectors<2>&, int, const VectorRules<2>&, const std::vector<RowSpans>&);
template void fill_component_halo<2>(const Grid<2>&, int, Cells<2>&, int, const HaloRules<2>&);
template void fill_face_halo<2>(const Grid<2>&, Faces<2>&, int);
template void fill_halo_across<2>(const Grid<2>&, int, Cells<2>&, int, const HaloRules<2>&,
                                  const std::vector<RowSpans>&);
template void fill_halo_across<2>(const Grid<2>&, int, CellVectors<2>&, int, const VectorRules<2>&,
                                  const std::vector<RowSpans>&);
template void fill_turned_edges<2>(const Grid<2>&, CellVectors<2>&);
template void fill_halo<3>(const Grid<3>&, Cells<3>&, int, const HaloRules<3>&, const std::vector<RowSpans>&);
template void fill_halo<3>(const Grid<3>&, CellVectors<3>&, int, const VectorRules<3>&, const std::vector<RowSpans>&);
template void fill_component_halo<3>(const Grid<3>&, int, Cells<3>&, int, const HaloRules<3>&);
template void fill_face_halo<3>(const Grid<3>&, Faces<3>&, int);
template void fill_halo_across<3>(const Grid<3>&, int, Cells<3>&, int, const HaloRules<3>&,
                                  const std::vector<RowSpans>&);
template void fill_halo_across<3>(const Grid<3>&, int, CellVectors<3>&, int, const VectorRules<3>&,
                                  const std::vector<RowSpans>&);
template void fill_turned_edges<3>(const Grid<3>&, CellVectors<3>&);

}  // namespace wavy
