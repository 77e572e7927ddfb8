// The forest of blocks: a brick of root blocks, each a quadtree (2-D) or octree (3-D), kept by p4est.
#pragma once

#include <memory>
#include <vector>

#include "geometry/vector.hpp"

namespace wavy {

/// One leaf of the forest; it carries one block of cells.
template <int D>
struct Leaf {
  int level = 0;        ///< 0 for a root block; each level halves the cells
  Index<D> position{};  ///< lower corner, in blocks of its own level from the brick's lower corner
};

/// The leaves in the order of the space-filling curve ("tree order"), and who is next to whom.
/// One level for now: every leaf is a root block, and a neighbour is one leaf or none.
template <int D>
class Forest {
 public:
  /// `roots` counts the root blocks along each axis, all at least 1. Along a periodic axis the last block is the
  /// neighbour of the first. `half_turn`: beyond the lower end of the first axis the brick goes on as itself, turned by
  /// half a turn round the middle of that end; neither of the first two axes is periodic then.
  explicit Forest(const Index<D>& roots, const std::array<bool, D>& periodic = {}, bool half_turn = false);
  ~Forest();
  Forest(const Forest&) = delete;
  Forest& operator=(const Forest&) = delete;
  Forest(Forest&&) = delete;
  Forest& operator=(Forest&&) = delete;

  [[nodiscard]] const Index<D>& roots() const { return roots_; }
  [[nodiscard]] bool half_turn() const { return half_turn_; }
  [[nodiscard]] const std::vector<Leaf<D>>& leaves() const { return leaves_; }
  /// Whether the brick goes on turned beyond a side of a leaf.
  [[nodiscard]] bool turned(int leaf, int axis, int side) const {
    return half_turn_ && axis == 0 && side == 0 && leaves_[static_cast<std::size_t>(leaf)].position[0] == 0;
  }
  /// Number of the leaf beyond the lower (side 0) or upper (side 1) face across `axis`; -1 at the brick's boundary
  /// (never along a periodic axis). At the end that is turned it is the leaf whose lower face is there too.
  [[nodiscard]] int neighbour(int leaf, int axis, int side) const { return neighbours_[(leaf * D + axis) * 2 + side]; }

 private:
  struct Tree;
  Index<D> roots_;
  bool half_turn_ = false;
  std::unique_ptr<Tree> tree_;
  std::vector<Leaf<D>> leaves_;
  std::vector<int> neighbours_;
};

}  // namespace wavy
