#include "dispersed/layers.hpp"

#include <algorithm>
#include <cmath>

#include "geometry/plane.hpp"

namespace wavy::dispersed {

template <int D>
Layers<D>::Layers(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight, std::size_t phases)
    : space_(space), sight_(sight), beside_(grid) {
  for (std::size_t k = 0; k + 1 < phases; ++k)
    for (auto* fields : {&place_, &weight_}) fields->emplace_back(grid);
}

/// Whether a fraction changes by more than half over four cells in a row along an axis, of which `at` is one of the
/// middle two. `a`: there.
template <int D>
bool Layers<D>::changes_at(const Layout<D>& layout, int block, std::ptrdiff_t at, int axis, const double* a) const {
  const std::ptrdiff_t s = layout.step[axis];
  constexpr double jump = 0.5;
  const auto over_half = [&](double farther_low, double low, double high, double farther_high) {
    const auto [least, most] = std::minmax({low, a[0], high});
    return std::max(most, farther_low) - std::min(least, farther_low) > jump ||
           std::max(most, farther_high) - std::min(least, farther_high) > jump;
  };
  if (sight_.everywhere()) return over_half(a[-2 * s], a[-s], a[s], a[2 * s]);
  // What is hidden is taken for the last that is seen.
  const double low = sight_.parts(block, axis, at) ? a[0] : a[-s];
  const double high = sight_.parts(block, axis, at + s) ? a[0] : a[s];
  const bool below = sight_.parts(block, axis, at) || sight_.parts(block, axis, at - s);
  const bool above = sight_.parts(block, axis, at + s) || sight_.parts(block, axis, at + 2 * s);
  return over_half(below ? low : a[-2 * s], low, high, above ? high : a[2 * s]);
}

template <int D>
void Layers<D>::update(const Grid<D>& grid, const State<D>& state, const std::type_identity_t<Vec<D>>& G) {
  const Layout<D>& layout = grid.layout();
  const CellRange<D> range = with_layers(layout, 1);
  G_ = G;
  any_ = max_blocks(grid, [&](int b) {
           double* beside = beside_.block(b);
           double some = 0;
           const auto visit = [&](std::ptrdiff_t o, int n) {
             for (std::ptrdiff_t at = o; at < o + n; ++at) {
               bool found = false;
               for (std::size_t i = 0; i < state.a.size() && !found; ++i) {
                 const double* a = state.a[i].block(b) + at;
                 for (int d = 0; d < D && !found; ++d) found = changes_at(layout, b, at, d, a);
               }
               beside[at] = found ? 1 : 0;
               some = found ? 1.0 : some;
             }
           };
           for_rows<D>(layout, range.lo, range.hi, visit);
           return some;
         }) > 0;
  if (!any_) {
    for (auto& weight : weight_) std::fill(weight.data().begin(), weight.data().end(), 0.0);
    return;
  }
  if (!space_.is_uncut()) mark_walls(grid);
  find_places(grid, state, G);
  if (!space_.is_uncut()) carry_to_walls(grid, state);
}

/// Share of a face where G.x exceeds a value.
template <int D>
double share_beyond(const Vec<D>& G, const Vec<D>& h, int axis, double place, const Vec<D>& middle) {
  // In the face's unit square, from its corner of greatest G.x on: n . x < offset.
  double offset = -place;
  Vec<D - 1> n{};
  double scale = 0;
  std::size_t next = 0;
  for (int d = 0; d < D; ++d) {
    offset += G[d] * middle[d];
    if (d == axis) continue;
    n[next] = std::abs(G[d]) * h[d];
    offset += 0.5 * n[next];
    scale += n[next++];
  }
  if (scale == 0 || offset <= 0) return offset > 0 ? 1.0 : 0.0;
  if (offset >= scale) return 1;
  if constexpr (D == 2) return offset / scale;
  if constexpr (D == 3) return share_below<2>({n[0] / scale, n[1] / scale}, offset / scale);
}

template <int D>
void Layers<D>::stand_on_face(const Grid<D>& grid, const State<D>& state, int block, std::ptrdiff_t cell, int axis,
                              const Vec<D>& middle, std::array<double, most_phases + 1>& up_to) const {
  double c = 0;
  up_to[0] = 0;
  const std::size_t phases = state.a.size();
  for (std::size_t k = 0; k + 1 < phases; ++k) {
    c += state.a[k].block(block)[cell];
    const bool stands = weight_[k].block(block)[cell] >= least_weight;
    up_to[k + 1] = stands
                       ? share_beyond<D>(G_, grid.geometry(block).spacing, axis, place_[k].block(block)[cell], middle)
                       : std::clamp(c, 0.0, 1.0);
  }
  up_to[phases] = 1;
}

template <int D>
void Layers<D>::find_places(const Grid<D>& grid, const State<D>& state, const Vec<D>& G) {
  const Layout<D>& layout = grid.layout();
  constexpr double pure = 1e-13;
  for_blocks(grid, [&](int b) {
    const Vec<D>& h = grid.geometry(b).spacing;
    Vec<D> normal;  // in the unit cell, out of what is denser
    double scale = 0;
    for (int d = 0; d < D; ++d) {
      normal[d] = -G[d] * h[d];
      scale += std::abs(normal[d]);
    }
    const double* beside = beside_.block(b);
    const bool cut = !space_.is_uncut(b);
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double c = 0;
        for (std::size_t k = 0; k < weight_.size(); ++k) {
          c += state.a[k].block(b)[at];
          double& weight = weight_[k].block(b)[at];
          weight = 0;
          if (scale == 0 || beside[at] == 0 || c < pure || c > 1 - pure) continue;
          if (cut && !is_clear(b, at)) continue;
          const Plane<D> plane = plane_through<D>(normal, c);
          double corner = 0;  // G.x in the cell's lower corner
          const Vec<D> middle = cell_middle(grid, b, at);
          for (int d = 0; d < D; ++d) corner += G[d] * (middle[d] - 0.5 * h[d]);
          place_[k].block(b)[at] = corner - plane.offset * scale;
          weight = c * (1 - c);
        }
      }
    });
  });
  for (std::size_t k = 0; k < weight_.size(); ++k) {
    fill_halo(grid, weight_[k], 2, all_walls<D>(Mirror::even));
    fill_halo(grid, place_[k], 2, all_walls<D>(Mirror::even));
  }
}

/// Cells that walls cut, which say little of how fractions change, are beside a surface if cells near are.
template <int D>
void Layers<D>::mark_walls(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  fill_halo(grid, beside_, reach, all_walls<D>(Mirror::even));
  Cells<D> marked = beside_;
  for_blocks(grid, [&](int b) {
    if (space_.is_uncut(b)) return;
    const double* at_wall = space_.at_wall().block(b);
    const double* beside = beside_.block(b);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (at_wall[at] == 0 || is_clear(b, at)) continue;
        for_shifts<D>(reach, [&](const Index<D>& shift, int) {
          const std::ptrdiff_t from = at + layout.offset(shift);
          if (is_clear(b, from) && beside[from] != 0 && sight_.reaches(layout, b, at, shift)) marked.block(b)[at] = 1;
        });
      }
    });
  });
  std::swap(beside_, marked);
  fill_halo(grid, beside_, 1, all_walls<D>(Mirror::even));
}

/// In cells that walls cut the surface goes on as it stands in the nearest cells that none does.
template <int D>
void Layers<D>::carry_to_walls(const Grid<D>& grid, const State<D>& state) {
  const Layout<D>& layout = grid.layout();
  for (std::size_t k = 0; k < weight_.size(); ++k) {
    Cells<D> carried = weight_[k];
    for_blocks(grid, [&](int b) {
      if (space_.is_uncut(b)) return;
      const double* at_wall = space_.at_wall().block(b);
      const double* weight = weight_[k].block(b);
      double* place = place_[k].block(b);
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          if (at_wall[at] == 0 || is_clear(b, at) || beside_.block(b)[at] == 0) continue;
          double sum = 0;
          double weights = 0;
          for_shifts<D>(reach, [&](const Index<D>& shift, int square) {
            const std::ptrdiff_t from = at + layout.offset(shift);
            if (weight[from] < least_weight || !is_clear(b, from) || !sight_.reaches(layout, b, at, shift)) return;
            const double counts = weight[from] / (square * square);  // the nearest most
            sum += counts * place[from];
            weights += counts;
          });
          if (weights == 0) continue;
          place[at] = sum / weights;
          double c = 0;
          for (std::size_t i = 0; i <= k; ++i) c += state.a[i].block(b)[at];
          carried.block(b)[at] = std::max(c * (1 - c), least_weight);
        }
      });
    });
    weight_[k] = carried;
    fill_halo(grid, weight_[k], 1, all_walls<D>(Mirror::even));
    fill_halo(grid, place_[k], 1, all_walls<D>(Mirror::even));
  }
}

template class Layers<2>;
template class Layers<3>;

}  // namespace wavy::dispersed
