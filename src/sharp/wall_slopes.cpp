#include "sharp/wall_slopes.hpp"

#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
WallSlopes<D>::WallSlopes(const Grid<D>& grid, const OpenSpace<D>& space) : space_(space), told_(grid) {
  for (int d = 0; d < D; ++d) {
    middle_[d] = Cells<D>(grid);
    for (auto& field : slope_[d]) field = Cells<D>(grid);
  }
  find_members(grid);
  list_faces(grid);
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
  for (int d = 0; d < D; ++d) faces_[static_cast<std::size_t>(d)].resize(static_cast<std::size_t>(grid.blocks()));
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space_.is_uncut(b)) continue;
    const Vec<D>& h = grid.geometry(b).spacing;
    for (int d = 0; d < D; ++d) {
      const double* area = space_.face_share()[d].block(b);
      auto& list = faces_[static_cast<std::size_t>(d)][static_cast<std::size_t>(b)];
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          if (area[face] == 0) continue;
          for (const bool above : {true, false}) {
            const std::ptrdiff_t cell = above ? face - layout.step[d] : face;
            if (told_.block(b)[cell] == 0 || space_.volume().block(b)[cell] == 0) continue;
            Face one{face, cell, above, {}, 0};
            double across = 0;  // of the wall's direction, within the face
            for (int e = 0; e < D; ++e)
              if (e != d) across += std::abs(inwards[e].block(b)[cell]);
            for (int e = 0; e < D; ++e) {
              const double to_wall = inwards[e].block(b)[cell];
              const double shift =
                  e == d ? (above ? 0.5 : -0.5) : (across > 0 ? -0.5 * (1 - area[face]) * to_wall / across : 0.0);
              one.off[e] = (shift - middle_[e].block(b)[cell]) * h[e];
            }
            const double weight = space_.weight(b, layout, cell);
            one.inverse = 1 / std::max(space_.volume().block(b)[cell], OpenSpace<D>::small * weight);
            list.push_back(one);
          }
        }
      });
      std::ranges::stable_sort(list, {}, &Face::face);
    }
  }
}

/// The best fit to what lies round some cells that go together, and what bounds it.
template <int D>
struct WallSlopes<D>::Fit {
  Vec<D> mean{};                   // of the cells, by their room [m/s]
  Vec<D> least, most;              // of what lies round them [m/s]
  bool one_phase = false;          // all of it
  std::array<Vec<D>, D> normal{};  // of least squares
  std::array<Vec<D>, D> slope{};   // [component] [1/s]

  Fit(const WallSlopes& of, const Grid<D>& grid, const std::vector<Member>& members, const CellVectors<D>& u,
      const Cells<D>& F) {
    const Layout<D>& layout = grid.layout();
    const Vec<D>& h = grid.spacing();
    const Cells<D>& volume = of.space_.volume();
    least.fill(1e300);
    most.fill(-1e300);
    double emptiest = 1e300;
    double fullest = -1e300;
    double room = 0;
    for (const auto& [place, middle] : members) {
      const double own = volume.block(place.block)[place.at];
      room += own;
      for (std::size_t c = 0; c < D; ++c) mean[c] += own * u[c].block(place.block)[place.at];
    }
    for (double& c : mean) c /= room;
    for (const Member& member : members) {
      const int b = member.place.block;
      const std::ptrdiff_t at = member.place.at;
      for_shifts<D>(1, [&](const Index<D>& shift, int) {
        const std::ptrdiff_t there = at + layout.offset(shift);
        if (volume.block(b)[there] == 0) return;
        emptiest = std::min(emptiest, F.block(b)[there]);
        fullest = std::max(fullest, F.block(b)[there]);
        Vec<D> way;
        double square = 0;
        for (int d = 0; d < D; ++d) {
          way[d] = (shift[d] + of.middle_[d].block(b)[there] - member.middle[d]) * h[d];
          square += std::pow(way[d] / h[d], 2);
        }
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
    }
    one_phase = fullest - emptiest < pure;
    solve();
  }

  /// From the right-hand sides in `slope`, by Gauss, without pivots: the matrix is symmetric and positive.
  void solve() {
    double trace = 0;
    for (std::size_t d = 0; d < D; ++d) trace += normal[d][d];
    if (!one_phase || !(trace > 0)) {
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
      for (const bool above : {false, true}) {
        const std::ptrdiff_t face = place.at + (above ? layout.step[d] : 0);
        auto found = std::ranges::lower_bound(list, face, {}, &Face::face);
        while (found != list.end() && found->face == face && found->cell != place.at) ++found;
        if (found == list.end() || found->face != face) continue;
        const double more = std::abs(dot<D>(fit.slope[c], found->off));
        if (more > span) share = std::min(share, span / more);
      }
    }
  return share;
}

template <int D>
void WallSlopes<D>::find(const Grid<D>& grid, const CellVectors<D>& u, const Cells<D>& F) {
  const auto count = static_cast<std::ptrdiff_t>(together_.size());
#pragma omp parallel for schedule(static)
  for (std::ptrdiff_t g = 0; g < count; ++g) {
    const auto& members = together_[static_cast<std::size_t>(g)];
    const Fit fit(*this, grid, members, u, F);
    for (std::size_t c = 0; c < D; ++c) {
      const double share = share_within(grid.layout(), members, fit, c);
      for (const auto& [place, middle] : members)
        for (std::size_t d = 0; d < D; ++d) slope_[c][d].block(place.block)[place.at] = share * fit.slope[c][d];
    }
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
  for (auto face = std::ranges::lower_bound(list, o + lo, {}, &Face::face); face != list.end() && face->face < o + hi;
       ++face) {
    const double passes = C[face->face];
    if (passes == 0 || (passes > 0) != face->above) continue;
    const std::ptrdiff_t i = face->face - o;
    Vec<D> off = face->off;
    off[axis] *= 1 - std::min(std::abs(passes) * face->inverse, 1.0);  // the mean of what leaves in the step
    for (std::size_t c = 0; c < D; ++c) {
      double more = 0;
      for (std::size_t d = 0; d < D; ++d) more += slope_[c][d].block(block)[face->cell] * off[d];
      row.passes[c][i] += row.mass[i] * more;
    }
  }
}

template class WallSlopes<2>;
template class WallSlopes<3>;

}  // namespace wavy::sharp
