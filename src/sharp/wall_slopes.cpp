#include "sharp/wall_slopes.hpp"

#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
WallSlopes<D>::WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space, const WallGradients<D>& gradients)
    : space_(space),
      gradients_(gradients),
      slopes_(grid, gradients, [](std::size_t) { return all_walls<D>(Mirror::even); }) {
  list_faces(grid);
  list_ways(grid.layout());
}

/// The open faces of cells that are told, of the blocks' cells and of those beside them.
template <int D>
void WallSlopes<D>::list_faces(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  CellVectors<D> inwards;  // direction into the wall of a cut cell, in cells
  for (auto& field : inwards) field = Cells<D>(grid);
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space_.is_uncut(b)) continue;
    for (const auto& wall : space_.wall_cells(b))
      for (int d = 0; d < D; ++d) inwards[d].block(b)[wall.at] = wall.open.normal[d];
  }
  fill_halo(grid, inwards, 1, even_vector<D>());
  for (auto& blocks : faces_) blocks.resize(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    if (space_.is_uncut(b)) return;
    const Vec<D>& h = grid.geometry(b).spacing;
    const double* volume = space_.volume().block(b);
    for (int d = 0; d < D; ++d) {
      const double* share = space_.face_share()[d].block(b);
      auto& list = faces_[static_cast<std::size_t>(d)][static_cast<std::size_t>(b)];
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          const std::array<std::ptrdiff_t, 2> cells{face - layout.step[d], face};
          Face one{.face = face};
          Vec<D> to_wall{};  // within the face
          double across = 0;
          for (std::size_t side = 0; side < 2; ++side) {
            const std::ptrdiff_t cell = cells[side];
            one.told[side] = gradients_.tells(b, cell) && volume[cell] > 0;
            if (one.told[side]) one.kept[side] = slopes_.place(b, cell);
            one.inverse[side] = 1 / std::max(volume[cell], OpenSpace<D>::small * space_.weight(b, layout, cell));
          }
          if (share[face] == 0 || (!one.told[0] && !one.told[1])) continue;
          for (int e = 0; e < D; ++e) {
            if (e == d) continue;
            for (const std::ptrdiff_t cell : cells) to_wall[e] += inwards[e].block(b)[cell];
            across += std::abs(to_wall[e]);
          }
          for (std::size_t side = 0; side < 2; ++side)
            for (int e = 0; e < D; ++e) {
              const double shift = e == d       ? (side == 0 ? 0.5 : -0.5)
                                   : across > 0 ? -0.5 * (1 - share[face]) * to_wall[e] / across
                                                : 0.0;
              one.off[side][e] = (shift - gradients_.middle()[e].block(b)[cells[side]]) * h[e];
            }
          list.push_back(one);
        }
      });
    }
  });
}

/// From the middle of each piece to those of what is open of its faces.
template <int D>
void WallSlopes<D>::list_ways(const Layout<D>& layout) {
  for (const Piece& piece : gradients_.pieces()) {
    auto& ways = to_faces_.emplace_back();
    for (const CellPlace& place : piece.cells)
      for (std::size_t d = 0; d < D; ++d) {
        const auto& list = faces_[d][static_cast<std::size_t>(place.block)];
        for (const std::size_t side : {0, 1}) {  // of the face on which the cell lies
          const std::ptrdiff_t face = place.at + (side == 0 ? layout.step[d] : 0);
          const auto found = std::ranges::lower_bound(list, face, {}, &Face::face);
          if (found != list.end() && found->face == face) ways.push_back(found->off[side]);
        }
      }
  }
}

template <int D>
bool WallSlopes<D>::in_one_phase(const Piece& piece, const Cells<D>& F) const {
  double emptiest = 1e300;
  double fullest = -1e300;
  for (const auto& neighbour : piece.neighbours) {
    const double there = F.block(neighbour.place.block)[neighbour.place.at];
    emptiest = std::min(emptiest, there);
    fullest = std::max(fullest, there);
  }
  return fullest - emptiest < pure;
}

/// As much of the gradients as leaves all faces of a piece within bounds.
template <int D>
typename KeptGradients<D>::Matrix WallSlopes<D>::bounded_slopes(std::size_t piece, const CellVectors<D>& u) const {
  typename KeptGradients<D>::Matrix slopes;
  const auto fits = gradients_.fit(gradients_.pieces()[piece], u, false);
  for (std::size_t c = 0; c < D; ++c) {
    const auto& fit = fits[c];
    // Towards the wall it goes on as far as away from it.
    const double span = std::max(fit.most - fit.mean, fit.mean - fit.least);
    double share = 1;
    for (const Vec<D>& way : to_faces_[piece])
      if (const double more = std::abs(dot<D>(fit.gradient, way)); more > span) share = std::min(share, span / more);
    for (std::size_t d = 0; d < D; ++d) slopes[c][d] = share * fit.gradient[d];
  }
  return slopes;
}

template <int D>
void WallSlopes<D>::find(const CellVectors<D>& u, const Cells<D>& F) {
  slopes_.keep([&](std::size_t piece) {
    return in_one_phase(gradients_.pieces()[piece], F) ? bounded_slopes(piece, u) : typename KeptGradients<D>::Matrix{};
  });
}

template <int D>
void WallSlopes<D>::add(int block, int axis, std::ptrdiff_t o, int lo, int hi, const double* C,
                        const TransportRow<D>& row) const {
  const auto& list = faces_[static_cast<std::size_t>(axis)][static_cast<std::size_t>(block)];
  for (auto face = std::ranges::lower_bound(list, o + lo, {}, &Face::face); face != list.end() && face->face < o + hi;
       ++face) {
    const double passes = C[face->face];
    const std::size_t side = passes > 0 ? 0 : 1;
    if (passes == 0 || !face->told[side]) continue;
    const std::ptrdiff_t i = face->face - o;
    const auto& slopes = slopes_[face->kept[side]];
    Vec<D> off = face->off[side];
    off[axis] *= 1 - std::min(std::abs(passes) * face->inverse[side], 1.0);  // the mean of what leaves in the step
    for (std::size_t c = 0; c < D; ++c) {
      double more = 0;
      for (std::size_t d = 0; d < D; ++d) more += slopes[c][d] * off[d];
      row.passes[c][i] += row.mass[i] * more;
    }
  }
}

template class WallSlopes<2>;
template class WallSlopes<3>;

}  // namespace wavy::sharp
