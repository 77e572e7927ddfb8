// The walls of a grid in pieces: one list of the flat sides of the grid, of the walls of solids in the cells they cut,
// and of walls thinner than a cell on the faces they close. Who acts on walls, or asks what acts on them, reads it.
#pragma once

#include <algorithm>
#include <span>
#include <vector>

#include "flow/openings.hpp"
#include "flow/walls.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// A piece of wall beside the fluid of one cell.
template <int D>
struct WallElement {
  enum class Of { side, solid, thin };
  Of of = Of::side;
  int block = 0;
  std::ptrdiff_t at = 0;  ///< the cell
  Vec<D> middle{};        ///< of the cell [m]
  Vec<D> fluid{};         ///< middle of the cell's fluid, or of its group's [m]
  Vec<D> place{};         ///< on the wall [m]
  Vec<D> normal{};        ///< into the wall, of length 1
  double area = 0;        ///< over the volume of a whole cell [1/m]
  /// Area / distance of the fluid's middle to it, over the volume of a whole cell [1/m2]; 0 at mirrors, and where the
  /// wall of a solid lies mostly in an opening.
  double friction = 0;
  Wall kind = Wall::no_slip;
  int motion = MovingWalls<D>::none;  ///< number of its motion
  int axis = 0;                       ///< across a side or a thin wall
  std::ptrdiff_t face = 0;            ///< of a side or a thin wall

  /// From the fluid's middle to it, where it has friction [m].
  [[nodiscard]] double distance() const { return area / friction; }
};

/// Where a wall cell's fluid has its middle, or its group's [m].
template <int D>
Vec<D> middle_of_fluid(const Grid<D>& grid, int block, const WallCell<D>& cell) {
  Vec<D> middle = cell_middle<D>(grid, block, cell.at);
  for (std::size_t d = 0; d < D; ++d) middle[d] += (cell.middle[d] - 0.5) * grid.geometry(block).spacing[d];
  return middle;
}

/// Whether its friction acts on a component of the velocity: nothing but pressure acts upright on a wall that lies
/// along faces of the grid.
template <int D>
bool rubs(const WallElement<D>& element, std::size_t component) {
  return element.of == WallElement<D>::Of::solid || static_cast<std::size_t>(element.axis) != component;
}

/// Whether it slows the fluid down.
template <int D>
bool holds(const WallElement<D>& element) {
  return element.kind == Wall::no_slip && element.friction > 0;
}

/// By block: sides by axis and side, less what openings take; then solids, then thin walls, both by wall cell.
template <int D>
using WallElements = std::vector<std::vector<WallElement<D>>>;

template <int D>
const WallElements<D>& no_wall_elements() {
  static const WallElements<D> none;
  return none;
}

/// Those of a block's list that are walls of solids and thin walls: on sides the halo stands for the wall, on these the
/// friction does.
template <int D>
std::span<const WallElement<D>> beside_solids(const std::vector<WallElement<D>>& elements) {
  const auto first =
      std::ranges::partition_point(elements, [](const auto& one) { return one.of == WallElement<D>::Of::side; });
  return {first, elements.end()};
}

/// How walls meet the fluid.
template <int D>
struct WallRule {
  WallKinds<D> sides{};
  Wall solids = Wall::no_slip;
};

template <int D>
WallElements<D> find_wall_elements(const Grid<D>& grid, const OpenSpace<D>& space, const WallRule<D>& rule,
                                   const MovingWalls<D>& moving, const Boundary<D>& boundary);

/// How a wall would move with a motion.
template <int D>
struct WallMeeting {
  double greatest = 0;  ///< its greatest speed, 0 where there is no such wall [m/s]
  double across = 0;    ///< greatest part of its velocity that is upright on it [m/s]
  Vec<D> place{};       ///< where that is [m]
};

/// `number`: of the motion that the wall has.
template <int D>
WallMeeting<D> meet_wall(const WallElements<D>& elements, int number, const RigidMotion<D>& motion);

}  // namespace wavy
