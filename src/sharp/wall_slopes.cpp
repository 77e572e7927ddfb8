#include "sharp/wall_slopes.hpp"

#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
WallSlopes<D>::WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds)
    : space_(space), sight_(grid, space), known_(grid), told_(grid) {
  for (int d = 0; d < D; ++d) {
    middle_[d] = Cells<D>(grid);
    for (auto& field : slope_[d]) field = Cells<D>(grid);
  }
  find_known(grid, kinds);
  find_pieces(grid);
  list_faces(grid);
  for (Piece& piece : pieces_) prepare(grid, piece);
}

template <int D>
void WallSlopes<D>::find_known(const Grid<D>& grid, const WallKinds<D>& kinds) {
  HaloRules<D> rules = all_walls<D>(Mirror::even);
  for (std::size_t d = 0; d < D; ++d)
    for (std::size_t side = 0; side < 2; ++side)
      if (kinds[d][side] == Wall::no_slip) rules.walls[d][side] = Mirror::odd;
  Cells<D> open = space_.volume();
  fill_halo(grid, open, 1, rules);
  for (std::size_t i = 0; i < open.data().size(); ++i) known_.data()[i] = open.data()[i] > 0 ? 1 : 0;
}

/// All cells with walls, and groups, with their middles.
template <int D>
void WallSlopes<D>::find_pieces(const Grid<D>& grid) {
  Cells<D> told(grid);
  const auto tell = [&](const CellPlace& place, const Vec<D>& middle) {
    told.block(place.block)[place.at] = 1;
    for (int d = 0; d < D; ++d) middle_[d].block(place.block)[place.at] = middle[d];
  };
  const auto middle_of = [&](const WallCell<D>& wall) {
    Vec<D> result = wall.middle;
    for (double& c : result) c -= 0.5;
    return result;
  };
  for (const auto& group : space_.groups()) {
    // A group's middle stands with those of its cells that have a wall.
    const WallCell<D>* known = nullptr;
    Vec<D> from{};
    for (const auto& place : group)
      if (const auto* wall = space_.wall_in(place.block, place.at); wall != nullptr && known == nullptr) {
        known = wall;
        from = cell_middle<D>(grid, place.block, place.at);
      }
    if (known == nullptr) continue;
    for (const auto& place : group) {
      const Vec<D> own = cell_middle<D>(grid, place.block, place.at);
      Vec<D> middle = middle_of(*known);
      for (int d = 0; d < D; ++d) {
        double apart = from[d] - own[d];
        const double whole = grid.upper()[d] - grid.lower()[d];
        if (grid.periodic()[static_cast<std::size_t>(d)]) apart -= whole * std::round(apart / whole);
        middle[d] += apart / grid.spacing()[d];
      }
      tell(place, middle);
    }
    pieces_.emplace_back().cells = group;
  }
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space_.is_uncut(b)) continue;
    for (const auto& wall : space_.wall_cells(b)) {
      if (space_.grouped().block(b)[wall.at] != 0) continue;
      tell({b, wall.at}, middle_of(wall));
      pieces_.emplace_back().cells = {{b, wall.at}};
    }
  }
  fill_halo(grid, told, 1, all_walls<D>(Mirror::even));
  for (int d = 0; d < D; ++d) fill_halo(grid, middle_[d], 1, even_vector<D>(d));
  for (std::size_t i = 0; i < told.data().size(); ++i) told_.data()[i] = told.data()[i] != 0 ? 1 : 0;
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
  for (int d = 0; d < D; ++d) fill_halo(grid, inwards[d], 1, even_vector<D>(d));
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
            one.told[side] = told_.block(b)[cell] != 0 && volume[cell] > 0;
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
              one.off[side][e] = (shift - middle_[e].block(b)[cells[side]]) * h[e];
            }
          list.push_back(one);
        }
      });
    }
  });
}

namespace {

/// A way this short is none: it leads to a cell of the same group [cells^2].
constexpr double nowhere = 1e-6;

}  // namespace

/// What does not change from step to step.
template <int D>
void WallSlopes<D>::prepare(const Grid<D>& grid, Piece& piece) const {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  std::array<Vec<D>, D>& normal = piece.elimination;
  for (const CellPlace& place : piece.cells) {
    for_shifts<D>(1, [&](const Index<D>& shift, int) {
      const std::ptrdiff_t there = place.at + layout.offset(shift);
      if (known_.block(place.block)[there] == 0 || !sight_.reaches(layout, place.block, place.at, shift)) return;
      Neighbour one{.place = {place.block, there}};
      for (int d = 0; d < D; ++d) {
        const double* middle = middle_[d].block(place.block);
        one.way[d] = (shift[d] + middle[there] - middle[place.at]) * h[d];
        one.square += std::pow(one.way[d] / h[d], 2);
      }
      piece.neighbours.push_back(one);
      if (one.square < nowhere) return;
      for (std::size_t d = 0; d < D; ++d)
        for (std::size_t e = 0; e < D; ++e) normal[d][e] += one.way[d] * one.way[e] / one.square;
    });
    for (std::size_t d = 0; d < D; ++d) {
      const auto& list = faces_[d][static_cast<std::size_t>(place.block)];
      for (const std::size_t side : {0, 1}) {  // of the face on which the cell lies
        const std::ptrdiff_t face = place.at + (side == 0 ? layout.step[d] : 0);
        const auto found = std::ranges::lower_bound(list, face, {}, &Face::face);
        if (found != list.end() && found->face == face) piece.to_faces.push_back(found->off[side]);
      }
    }
  }
  double trace = 0;
  for (std::size_t d = 0; d < D; ++d) trace += normal[d][d];
  piece.is_alone = !(trace > 0);
  if (piece.is_alone) return;
  // Without pivots: the matrix is symmetric and positive.
  for (std::size_t d = 0; d < D; ++d) normal[d][d] += 1e-3 * trace;  // where all neighbours lie in a row
  for (std::size_t k = 0; k < D; ++k)
    for (std::size_t r = k + 1; r < D; ++r) {
      const double factor = normal[r][k] / normal[k][k];
      for (std::size_t e = k; e < D; ++e) normal[r][e] -= factor * normal[k][e];
      normal[r][k] = factor;
    }
}

template <int D>
bool WallSlopes<D>::in_one_phase(const Piece& piece, const Cells<D>& F) const {
  double emptiest = 1e300;
  double fullest = -1e300;
  for (const auto& [place, way, square] : piece.neighbours) {
    const double there = F.block(place.block)[place.at];
    emptiest = std::min(emptiest, there);
    fullest = std::max(fullest, there);
  }
  return fullest - emptiest < pure;
}

/// The best fit to what lies round a piece, of every component, as much of it as leaves all its faces within bounds.
template <int D>
std::array<Vec<D>, D> WallSlopes<D>::slopes_of(const Piece& piece, const CellVectors<D>& u) const {
  std::array<Vec<D>, D> slope{};
  if (piece.is_alone) return slope;
  const auto& normal = piece.elimination;
  for (std::size_t c = 0; c < D; ++c) {
    double mean = 0;  // of the cells, by their room [m/s]
    double room = 0;
    for (const auto& [b, at] : piece.cells) {
      const double own = space_.volume().block(b)[at];
      room += own;
      mean += own * u[c].block(b)[at];
    }
    mean /= room;
    double least = 1e300;  // of what lies round them [m/s]
    double most = -1e300;
    Vec<D>& own = slope[c];
    for (const auto& [place, way, square] : piece.neighbours) {
      if (square < nowhere) continue;
      const double value = u[c].block(place.block)[place.at];
      least = std::min(least, value);
      most = std::max(most, value);
      for (std::size_t d = 0; d < D; ++d) own[d] += way[d] * (value - mean) / square;
    }
    for (std::size_t k = 0; k < D; ++k)
      for (std::size_t r = k + 1; r < D; ++r) own[r] -= normal[r][k] * own[k];
    for (std::size_t k = D; k-- > 0;) {
      for (std::size_t e = k + 1; e < D; ++e) own[k] -= normal[k][e] * own[e];
      own[k] /= normal[k][k];
    }
    // Towards the wall it goes on as far as away from it.
    const double span = std::max(most - mean, mean - least);
    double share = 1;
    for (const Vec<D>& way : piece.to_faces)
      if (const double more = std::abs(dot<D>(own, way)); more > span) share = std::min(share, span / more);
    for (double& component : own) component *= share;
  }
  return slope;
}

template <int D>
void WallSlopes<D>::find(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& F) {
  const auto count = static_cast<std::ptrdiff_t>(pieces_.size());
#pragma omp parallel for schedule(static)
  for (std::ptrdiff_t g = 0; g < count; ++g) {
    const Piece& piece = pieces_[static_cast<std::size_t>(g)];
    const auto slope = in_one_phase(piece, F) ? slopes_of(piece, u) : std::array<Vec<D>, D>{};
    for (const auto& [b, at] : piece.cells)
      for (std::size_t c = 0; c < D; ++c)
        for (std::size_t d = 0; d < D; ++d) slope_[c][d].block(b)[at] = slope[c][d];
  }
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      HaloRules<D> rules = all_walls<D>(Mirror::even);
      rules.turns = (c < 2) != (d < 2);
      fill_halo(grid, slope_[c][d], 1, rules, space_.open_spans());
    }
}

template <int D>
void WallSlopes<D>::add(int block, int axis, std::ptrdiff_t o, int lo, int hi, const double* C,
                        const TransportRow<D>& row) const {
  const auto& list = faces_[static_cast<std::size_t>(axis)][static_cast<std::size_t>(block)];
  const std::ptrdiff_t s = told_.layout().step[axis];
  for (auto face = std::ranges::lower_bound(list, o + lo, {}, &Face::face); face != list.end() && face->face < o + hi;
       ++face) {
    const double passes = C[face->face];
    const std::size_t side = passes > 0 ? 0 : 1;
    if (passes == 0 || !face->told[side]) continue;
    const std::ptrdiff_t i = face->face - o;
    const std::ptrdiff_t cell = face->face - (side == 0 ? s : 0);
    Vec<D> off = face->off[side];
    off[axis] *= 1 - std::min(std::abs(passes) * face->inverse[side], 1.0);  // the mean of what leaves in the step
    for (std::size_t c = 0; c < D; ++c) {
      double more = 0;
      for (std::size_t d = 0; d < D; ++d) more += slope_[c][d].block(block)[cell] * off[d];
      row.passes[c][i] += row.mass[i] * more;
    }
  }
}

template class WallSlopes<2>;
template class WallSlopes<3>;

}  // namespace wavy::sharp
