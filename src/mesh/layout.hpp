// The array of one block: its cells with layers round them.
#pragma once

#include <array>
#include <cstddef>

#include "geometry/vector.hpp"

namespace wavy {

/// Layers of cells round a block: wide enough for the longest stencil (height functions, four cells each way).
inline constexpr int pad = 4;

/// Shape of the array of one block.
template <int D>
struct Layout {
  Index<D> cells{};                      ///< without the layers round them
  std::array<std::ptrdiff_t, D> step{};  ///< from a cell to the next along each axis; step[0] = 1
  std::size_t size = 0;                  ///< values of one block
  std::ptrdiff_t first = 0;              ///< offset of cell (0, 0, 0) in the block

  Layout() = default;
  explicit Layout(const Index<D>& block_cells) : cells(block_cells) {
    std::ptrdiff_t stride = 1;
    for (int d = 0; d < D; ++d) {
      step[d] = stride;
      first += pad * stride;
      stride *= cells[d] + 2 * pad;
    }
    size = static_cast<std::size_t>(stride);
  }
  [[nodiscard]] std::ptrdiff_t offset(const Index<D>& cell) const {
    std::ptrdiff_t sum = 0;
    for (int d = 0; d < D; ++d) sum += cell[d] * step[d];
    return sum;
  }
};

/// Cells lo <= index < hi of a block.
template <int D>
struct CellRange {
  Index<D> lo{};
  Index<D> hi{};
};

/// All cells of a block, and so many layers round them.
template <int D>
CellRange<D> with_layers(const Layout<D>& layout, int layers) {
  CellRange<D> range{{}, layout.cells};
  for (int d = 0; d < D; ++d) {
    range.lo[d] -= layers;
    range.hi[d] += layers;
  }
  return range;
}

/// Index along `axis` (pad layers included, so from -pad) of the cell at an offset.
template <int D>
int axis_index(const Layout<D>& layout, std::ptrdiff_t offset, int axis) {
  std::ptrdiff_t rest = offset + layout.first;
  if (axis + 1 < D) rest %= layout.step[axis + 1];
  return static_cast<int>(rest / layout.step[axis]) - pad;
}

}  // namespace wavy
