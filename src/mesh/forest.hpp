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

/// What lies beyond the lower end of the first axis: the brick itself, turned round an upright line by half a turn
/// (which is the middle of that end) or by a quarter (which is where the lower ends of the first two axes meet; then
/// the same is beyond that of the second).
enum class Turn { none, half, quarter };

/// Whether what lies beyond the lower end of an axis is turned.
constexpr bool turns_below(Turn turn, int axis) {
  return (turn == Turn::half && axis == 0) || (turn == Turn::quarter && axis < 2);
}

/// The leaves in the order of the space-filling curve ("tree order"), and who is next to whom.
/// One level for now: every leaf is a root block, and a neighbour is one leaf or none.
template <int D>
class Forest {
 public:
  /// `roots` counts the root blocks along each axis, all at least 1. Along a periodic axis the last block is the
  /// neighbour of the first. With a turn neither of the first two is; with a quarter they have as many blocks.
  explicit Forest(const Index<D>& roots, const std::array<bool, D>& periodic = {}, Turn turn = Turn::none);
  ~Forest();
  Forest(const Forest&) = delete;
  Forest& operator=(const Forest&) = delete;
  Forest(Forest&&) = delete;
  Forest& operator=(Forest&&) = delete;

  [[nodiscard]] const Index<D>& roots() const { return roots_; }
  [[nodiscard]] Turn turn() const { return turn_; }
  [[nodiscard]] const std::vector<Leaf<D>>& leaves() const { return leaves_; }
  /// Whether the brick goes on turned beyond a side of a leaf.
  [[nodiscard]] bool turned(int leaf, int axis, int side) const {
    return side == 0 && turns_below(turn_, axis) && leaves_[static_cast<std::size_t>(leaf)].position[axis] == 0;
  }
  /// Number of the leaf beyond the lower (side 0) or upper (side 1) face across `axis`; -1 at the brick's boundary
  /// (never along a periodic axis). At an end that is turned it is the leaf a lower face of which is there too.
  [[nodiscard]] int neighbour(int leaf, int axis, int side) const { return neighbours_[(leaf * D + axis) * 2 + side]; }

 private:
  struct Tree;
  Index<D> roots_;
  Turn turn_ = Turn::none;
  std::unique_ptr<Tree> tree_;
  std::vector<Leaf<D>> leaves_;
  std::vector<int> neighbours_;
};

}  // namespace wavy
