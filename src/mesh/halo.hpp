// What stands round the blocks of a forest: a plan, made once, of which layers are read from where.
//
// Kernels ask for so many layers to be filled and know nothing of who is next to whom: refinement (layers of a coarser
// or finer neighbour) and ranks (layers that come by message) are further kinds of entries of the plan.
#pragma once

#include <array>
#include <vector>

#include "mesh/forest.hpp"
#include "mesh/layout.hpp"

namespace wavy {

/// What stands behind a wall, seen from inside.
enum class Mirror {
  even,  ///< the same value: no gradient through the wall
  odd,   ///< the negative value: zero on the wall
};

/// What stands beyond the boundary of a grid, of one field.
template <int D>
struct HaloRules {
  std::array<std::array<Mirror, 2>, D> walls{};  ///< [axis][lower, upper]
};

/// The same of the components of vectors.
template <int D>
using VectorRules = std::array<HaloRules<D>, D>;

template <int D>
HaloRules<D> all_walls(Mirror rule) {
  HaloRules<D> rules;
  for (auto& axis : rules.walls) axis = {rule, rule};
  return rules;
}

/// Of vectors that walls do not change.
template <int D>
VectorRules<D> even_vector() {
  VectorRules<D> rules;
  rules.fill(all_walls<D>(Mirror::even));
  return rules;
}

/// For every row of cells of a block, with one row more on each side (the second index fastest, both from -1 on): the
/// first cell that counts in it, from -1 on, and the end of those.
using RowSpans = std::vector<std::array<int, 2>>;

/// One side of a block, and where what lies beyond it comes from.
struct HaloEntry {
  int side = 0;                 ///< 0 lower, 1 upper
  int source = 0;               ///< the block that is read; at a wall the block itself
  bool wall = false;            ///< the wall's rule says with which sign
  Turn turn = Turn::none;       ///< half: rows are read from the last back to the first; quarter: by the first axis
                                ///< instead of the second, the source's layers lying across the other of the two
  int nearest = 0;              ///< layer of the source that is copied next to the block,
  int onwards = 1;              ///< and the way from there to the others
  std::ptrdiff_t edge = 0;      ///< offset of the block's outermost layer on this side
  std::ptrdiff_t outwards = 0;  ///< step from there to the first layer outside
};

template <int D>
class HaloPlan {
 public:
  HaloPlan(const Layout<D>& layout, const Forest<D>& forest);
  [[nodiscard]] const std::array<HaloEntry, 2>& entries(int block, int axis) const {
    return entries_[static_cast<std::size_t>(block * D + axis)];
  }

 private:
  std::vector<std::array<HaloEntry, 2>> entries_;
};

}  // namespace wavy
