// How fast layers of a flow slide over each other, in its cells.
#pragma once

#include <cmath>

#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// sqrt(2 S:S), S = (grad u + grad u^T)/2, in every open cell that counts; 0 in all others [1/s]. `counts(block, at)`:
/// whether a cell's velocity is that of a fluid or, behind a side, of the wall; differences are one-sided beside those
/// that do not count. Reads u(1).
template <int D, class Counts>
Cells<D> shear_rates(const Grid<D>& grid, const OpenSpace<D>& space, const CellVectors<D>& u, Counts&& counts) {
  const Layout<D>& layout = grid.layout();
  Cells<D> result(grid);
  for_blocks(grid, [&](int b) {
    const Vec<D>& h = grid.geometry(b).spacing;
    const auto has_velocity = [&](std::ptrdiff_t at) {
      return counts(b, at) && (space.is_uncut() || space.volume().block(b)[at] > 0);
    };
    for_rows<D>(layout, [&](std::ptrdiff_t row, int n) {
      for (std::ptrdiff_t o = row; o < row + n; ++o) {
        if (open_share(space, b, o) == 0 || !counts(b, o)) continue;
        std::array<Vec<D>, D> gradient{};  // [direction][component]
        for (std::size_t d = 0; d < D; ++d) {
          const std::ptrdiff_t s = layout.step[d];
          const std::ptrdiff_t up = has_velocity(o + s) ? s : 0;
          const std::ptrdiff_t down = has_velocity(o - s) ? s : 0;
          if (up + down == 0) continue;
          const double apart = h[d] * static_cast<double>(up + down) / static_cast<double>(s);
          for (std::size_t c = 0; c < D; ++c)
            gradient[d][c] = (u[c].block(b)[o + up] - u[c].block(b)[o - down]) / apart;
        }
        double sum = 0;
        for (std::size_t c = 0; c < D; ++c)
          for (std::size_t d = 0; d < D; ++d) sum += 0.5 * std::pow(gradient[d][c] + gradient[c][d], 2);
        if (space.axisymmetric()) {
          const double r = space.radius_in_cells(b, layout, o) * h[0];
          sum += 2 * std::pow(u[0].block(b)[o] / r, 2);
        }
        result.block(b)[o] = std::sqrt(sum);
      }
    });
  });
  return result;
}

}  // namespace wavy
