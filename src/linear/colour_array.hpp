// Flat arrays of cells stored by the two colours of a chess-board.
#pragma once

#include <algorithm>
#include <array>

#include "base/staggered.hpp"
#include "geometry/vector.hpp"
#include "mesh/forest.hpp"

namespace wavy {

/// Index arithmetic of one level. Cell (i, j, k) has colour (i + j + k) % 2 and lies in its colour's array in row
/// (j, k) at i / 2. One empty row round the rows and one empty place round each row stand for the walls, so that
/// kernels need no special cases; coefficients there are zero.
template <int D>
struct ColourLayout {
  Index<D> n{};
  int length = 0;  ///< places of one row of one colour, the two empty ones included
  int rows = 0;    ///< with the empty ones
  std::size_t size = 0;
  ColourLayout() = default;
  explicit ColourLayout(const Index<D>& cells) : n(cells) {
    length = (n[0] + 1) / 2 + 2;
    rows = n[1] + 2;
    if constexpr (D == 3) rows *= n[2] + 2;
    size = static_cast<std::size_t>(length) * static_cast<std::size_t>(rows);
  }
  [[nodiscard]] int row_count() const {
    int count = n[1];
    if constexpr (D == 3) count *= n[2];
    return count;
  }
  /// Number r of the rows of cells, as its indices (j, k).
  [[nodiscard]] std::array<int, 2> row(int r) const {
    if constexpr (D == 3) return {r % n[1], r / n[1]};
    return {r, 0};
  }
  /// Offset of the place i / 2 = 0 of a row.
  [[nodiscard]] std::ptrdiff_t start(int j, int k) const {
    std::ptrdiff_t r = j + 1;
    if constexpr (D == 3) r += static_cast<std::ptrdiff_t>(k + 1) * (n[1] + 2);
    return r * length + 1;
  }
  /// First i of `colour` in row (j, k): 0 or 1.
  [[nodiscard]] static int parity(int colour, int j, int k) { return (j + k + colour) & 1; }
  /// Number of cells of a colour in a row whose first one is at `first`.
  [[nodiscard]] int count(int first) const { return (n[0] - first + 1) / 2; }
  [[nodiscard]] std::ptrdiff_t row_step() const { return length; }
  [[nodiscard]] std::ptrdiff_t plane_step() const {
    return D == 3 ? static_cast<std::ptrdiff_t>(length) * (n[1] + 2) : 0;
  }
};

/// Two colours of values.
template <class T>
struct ColourArray {
  std::array<StaggeredArray<T>, 2> colour;

  void resize(std::size_t size) {
    for (auto& values : colour) values.assign(size, T{});
  }
  void clear() {
    for (auto& values : colour) std::fill(values.begin(), values.end(), T{});
  }
};

/// Which ends of the axes are no boundary.
template <int D>
struct Seams {
  std::array<bool, D> periodic{};
  Turn turn = Turn::none;

  [[nodiscard]] bool any() const {
    return turn != Turn::none || std::ranges::any_of(periodic, [](bool ring) { return ring; });
  }
  /// At the lower or upper end of an axis.
  [[nodiscard]] bool at(int axis, int side) const {
    return periodic[static_cast<std::size_t>(axis)] || (side == 0 && turns_below(turn, axis));
  }
};

/// Fills the places beyond seams in the array of one colour. Where a ring has an odd number of cells its ends have the
/// same colour, and what lies beyond them comes from the other array; so do rows of an odd number that are turned by a
/// half, and all that are turned by a quarter.
template <class T, int D>
void close_seams(const ColourLayout<D>& layout, const Seams<D>& seams, int colour, ColourArray<T>& x) {
  const auto& periodic = seams.periodic;
  auto& values = x.colour[static_cast<std::size_t>(colour)];
  if (periodic[0])
    for (int r = 0; r < layout.row_count(); ++r) {
      const auto [j, k] = layout.row(r);
      const int across = j + k;
      const std::ptrdiff_t start = layout.start(j, k);
      const int n = layout.n[0];
      const auto cell = [&](int i) {
        return x.colour[static_cast<std::size_t>((i + across) & 1)][static_cast<std::size_t>(start + i / 2)];
      };
      T* row = values.data() + start;
      if (((n + across) & 1) == colour) row[n / 2] = cell(0);
      if (((1 + across) & 1) == colour) row[-1] = cell(n - 1);
    }
  if (seams.turn == Turn::quarter)
    for (int k = 0; k < (D == 3 ? layout.n[D - 1] : 1); ++k)
      for (int t = 0; t < layout.n[0]; ++t) {
        if (((t + 1 + k) & 1) != colour) continue;
        const auto& source = x.colour[static_cast<std::size_t>((t + k) & 1)];
        values[static_cast<std::size_t>(layout.start(t, k) - 1)] =
            source[static_cast<std::size_t>(layout.start(0, k) + t / 2)];
        values[static_cast<std::size_t>(layout.start(-1, k) + t / 2)] =
            source[static_cast<std::size_t>(layout.start(t, k))];
      }
  if (seams.turn == Turn::half)
    for (int r = 0; r < layout.row_count(); ++r) {
      const auto [j, k] = layout.row(r);
      if (((1 + j + k) & 1) != colour) continue;
      const int from = layout.n[1] - 1 - j;
      values[static_cast<std::size_t>(layout.start(j, k) - 1)] =
          x.colour[static_cast<std::size_t>((from + k) & 1)][static_cast<std::size_t>(layout.start(from, k))];
    }
  const auto copy_row = [&](int axis, int to_j, int to_k, int from_j, int from_k) {
    const auto& source = x.colour[static_cast<std::size_t>((colour + layout.n[axis]) & 1)];
    std::copy_n(source.data() + layout.start(from_j, from_k) - 1, layout.length,
                values.data() + layout.start(to_j, to_k) - 1);
  };
  const int layers = D == 3 ? layout.n[D - 1] : 1;
  if (periodic[1])
    for (int k = 0; k < layers; ++k) {
      copy_row(1, -1, k, layout.n[1] - 1, k);
      copy_row(1, layout.n[1], k, 0, k);
    }
  if (D == 3 && periodic[D - 1])
    for (int j = 0; j < layout.n[1]; ++j) {
      copy_row(D - 1, j, -1, j, layers - 1);
      copy_row(D - 1, j, layers, j, 0);
    }
}

}  // namespace wavy
