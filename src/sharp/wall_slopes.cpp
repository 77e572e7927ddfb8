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
  find_members(grid);
  list_faces(grid);
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
void WallSlopes<D>::find_members(const Grid<D>& grid) {
  const auto middle_of = [&](const WallCell<D>& wall) {
    Vec<D> result = wall.middle;
    for (double& c : result) c -= 0.5;
    return result;
  };
  for (const auto& group : space_.groups()) {
    // A group's middle stands with those of its cells that have a wall.
    std::vector<Member> members;
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
      members.push_back({place, middle});
    }
    together_.push_back(std::move(members));
  }
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space_.is_uncut(b)) continue;
    for (const auto& wall : space_.wall_cells(b))
      if (space_.grouped().block(b)[wall.at] == 0) together_.push_back({{{b, wall.at}, middle_of(wall)}});
  }
  Cells<D> told(grid);
  for (const auto& members : together_)
    for (const auto& member : members) {
      told.block(member.place.block)[member.place.at] = 1;
      for (int d = 0; d < D; ++d) middle_[d].block(member.place.block)[member.place.at] = member.middle[d];
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
      std::ranges::sort(list, {}, &Face::face);
    }
  });
}

/// fn(block, offset, way) for every known cell beside a cell of those that go together and seen from it; the way from
/// the middle of these to its own [m].
template <int D>
template <class Fn>
void WallSlopes<D>::for_neighbours(const Grid<D>& grid, const Member& member, Fn&& fn) const {
  const Layout<D>& layout = grid.layout();
  const int b = member.place.block;
  const std::ptrdiff_t at = member.place.at;
  for_shifts<D>(1, [&](const Index<D>& shift, int) {
    const std::ptrdiff_t there = at + layout.offset(shift);
    if (known_.block(b)[there] == 0 || !sight_.reaches(layout, b, at, shift)) return;
    Vec<D> way;
    for (int d = 0; d < D; ++d) way[d] = (shift[d] + middle_[d].block(b)[there] - member.middle[d]) * grid.spacing()[d];
    fn(b, there, way);
  });
}

/// The best fit to what lies round some cells that go together, and what bounds it.
template <int D>
struct WallSlopes<D>::Fit {
  Vec<D> mean{};                   // of the cells, by their room [m/s]
  Vec<D> least, most;              // of what lies round them [m/s]
  std::array<Vec<D>, D> normal{};  // of least squares
  std::array<Vec<D>, D> slope{};   // [component] [1/s]

  Fit(const WallSlopes& of, const Grid<D>& grid, const std::vector<Member>& members, const CellVectors<D>& u) {
    least.fill(1e300);
    most.fill(-1e300);
    double room = 0;
    for (const auto& [place, middle] : members) {
      const double own = of.space_.volume().block(place.block)[place.at];
      room += own;
      for (std::size_t c = 0; c < D; ++c) mean[c] += own * u[c].block(place.block)[place.at];
    }
    for (double& c : mean) c /= room;
    for (const Member& member : members)
      of.for_neighbours(grid, member, [&](int b, std::ptrdiff_t there, const Vec<D>& way) {
        double square = 0;
        for (int d = 0; d < D; ++d) square += std::pow(way[d] / grid.spacing()[d], 2);
        constexpr double itself = 1e-6;
        if (square < itself) return;
        for (std::size_t c = 0; c < D; ++c) {
          const double value = u[c].block(b)[there];
          least[c] = std::min(least[c], value);
          most[c] = std::max(most[c], value);
          for (std::size_t d = 0; d < D; ++d) slope[c][d] += way[d] * (value - mean[c]) / square;
        }
        for (std::size_t d = 0; d < D; ++d)
          for (std::size_t e = 0; e < D; ++e) normal[d][e] += way[d] * way[e] / square;
      });
    solve();
  }

  /// From the right-hand sides in `slope`, by Gauss, without pivots: the matrix is symmetric and positive.
  void solve() {
    double trace = 0;
    for (std::size_t d = 0; d < D; ++d) trace += normal[d][d];
    if (!(trace > 0)) {
      slope = {};
      return;
    }
    for (std::size_t d = 0; d < D; ++d) normal[d][d] += 1e-3 * trace;  // where all neighbours lie in a row
    for (std::size_t k = 0; k < D; ++k)
      for (std::size_t r = k + 1; r < D; ++r) {
        const double factor = normal[r][k] / normal[k][k];
        for (std::size_t e = k; e < D; ++e) normal[r][e] -= factor * normal[k][e];
        for (std::size_t c = 0; c < D; ++c) slope[c][r] -= factor * slope[c][k];
      }
    for (std::size_t c = 0; c < D; ++c)
      for (std::size_t k = D; k-- > 0;) {
        for (std::size_t e = k + 1; e < D; ++e) slope[c][k] -= normal[k][e] * slope[c][e];
        slope[c][k] /= normal[k][k];
      }
  }
};

/// How much of a component's slope leaves it within bounds on all faces of the cells.
template <int D>
double WallSlopes<D>::share_within(const Layout<D>& layout, const std::vector<Member>& members, const Fit& fit,
                                   std::size_t c) const {
  // Towards the wall it goes on as far as away from it.
  const double span = std::max(fit.most[c] - fit.mean[c], fit.mean[c] - fit.least[c]);
  double share = 1;
  for (const auto& [place, middle] : members)
    for (std::size_t d = 0; d < D; ++d) {
      const auto& list = faces_[d][static_cast<std::size_t>(place.block)];
      for (const std::size_t side : {0, 1}) {  // of the face on which the cell lies
        const std::ptrdiff_t face = place.at + (side == 0 ? layout.step[d] : 0);
        const auto found = std::ranges::lower_bound(list, face, {}, &Face::face);
        if (found == list.end() || found->face != face) continue;
        const double more = std::abs(dot<D>(fit.slope[c], found->off[side]));
        if (more > span) share = std::min(share, span / more);
      }
    }
  return share;
}

template <int D>
bool WallSlopes<D>::in_one_phase(const Grid<D>& grid, const std::vector<Member>& members, const Cells<D>& F) const {
  double emptiest = 1e300;
  double fullest = -1e300;
  for (const Member& member : members)
    for_neighbours(grid, member, [&](int b, std::ptrdiff_t there, const Vec<D>&) {
      emptiest = std::min(emptiest, F.block(b)[there]);
      fullest = std::max(fullest, F.block(b)[there]);
    });
  return fullest - emptiest < pure;
}

template <int D>
void WallSlopes<D>::find(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& F) {
  const auto count = static_cast<std::ptrdiff_t>(together_.size());
#pragma omp parallel for schedule(static)
  for (std::ptrdiff_t g = 0; g < count; ++g) {
    const auto& members = together_[static_cast<std::size_t>(g)];
    std::array<Vec<D>, D> slope{};
    if (in_one_phase(grid, members, F)) {
      const Fit fit(*this, grid, members, u);
      for (std::size_t c = 0; c < D; ++c) {
        const double share = share_within(grid.layout(), members, fit, c);
        for (std::size_t d = 0; d < D; ++d) slope[c][d] = share * fit.slope[c][d];
      }
    }
    for (const auto& [place, middle] : members)
      for (std::size_t c = 0; c < D; ++c)
        for (std::size_t d = 0; d < D; ++d) slope_[c][d].block(place.block)[place.at] = slope[c][d];
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
