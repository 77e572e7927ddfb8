// Walls: how fluids meet them, and those that move along themselves (lids that slide, drums and buckets that turn),
// which drag the fluid and stay where they are.
#pragma once

#include <array>
#include <functional>
#include <type_traits>
#include <vector>

#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

enum class Wall {
  no_slip,
  slip,
  mirror,  ///< no wall: the flow beyond is the mirror image
};

/// Of the grid's boundary: [axis][lower, upper].
template <int D>
using WallKinds = std::array<std::array<Wall, 2>, D>;

/// Velocity component `component` behind the walls: the normal one is odd everywhere, the others odd at no-slip walls.
template <int D>
WallRules<D> velocity_rules(const WallKinds<D>& kinds, int component) {
  WallRules<D> rules;
  for (std::size_t d = 0; d < D; ++d)
    for (std::size_t side = 0; side < 2; ++side)
      rules[d][side] = static_cast<int>(d) == component || kinds[d][side] == Wall::no_slip ? Mirror::odd : Mirror::even;
  return rules;
}

/// Velocity of a rigid body at one time.
template <int D>
struct RigidMotion {
  Vec<D> velocity{};  ///< of the point `about` [m/s]
  Vec<3> turning{};   ///< [rad/s]; in 2-D the last one alone counts, which is counter-clockwise
  Vec<D> about{};     ///< [m]

  [[nodiscard]] Vec<D> at(const Vec<D>& place) const {
    Vec<D> u = velocity;
    Vec<D> arm;
    for (std::size_t d = 0; d < D; ++d) arm[d] = place[d] - about[d];
    u[0] -= turning[2] * arm[1];
    u[1] += turning[2] * arm[0];
    if constexpr (D == 3) {
      u[0] += turning[1] * arm[2];
      u[1] -= turning[0] * arm[2];
      u[2] += turning[0] * arm[1] - turning[1] * arm[0];
    }
    return u;
  }
};

/// Which walls move, and how.
template <int D>
struct MovingWalls {
  static constexpr int none = -1;
  std::vector<std::function<RigidMotion<D>(double)>> motions;  ///< of t
  std::array<std::array<int, 2>, D> sides = all_none();  ///< number of the motion of each side of the grid's boundary
  std::function<int(const Vec<D>&)> solid;               ///< of the solid's wall next to a place

 private:
  static std::array<std::array<int, 2>, D> all_none() {
    std::array<std::array<int, 2>, D> result;
    for (auto& axis : result) axis = {none, none};
    return result;
  }
};

/// The velocity of every wall on a grid, at the time last set.
///
/// Beside a solid it is that of the rigid body at the middle of the cell, not on the wall: friction by the distance to
/// the wall then leaves a fluid that turns with it alone.
template <int D>
class WallVelocity {
 public:
  WallVelocity() = default;
  WallVelocity(const Grid<D>& grid, const OpenSpace<D>& space, const MovingWalls<D>& moving);

  [[nodiscard]] bool none() const { return moving_.motions.empty(); }
  void set_time(double time);
  /// In a block's wall cell, by its number there [m/s].
  [[nodiscard]] Vec<D> in_cell(int block, std::size_t number) const;
  /// In a cell of a group of the space, by its number there: that of the wall by which they are small [m/s].
  [[nodiscard]] Vec<D> in_group(std::size_t group, std::size_t number) const;
  /// [m/s]
  [[nodiscard]] double greatest_speed(const Grid<D>& grid) const;
  /// The velocity of moving solids in those of their cells that are next to open ones; `at_rest`: 0 again.
  void set_in_solids(const Grid<D>& grid, bool at_rest, CellVectors<D>& u) const;
  /// Adds to the halo of velocity component `component`, filled by the rules for walls at rest, what moving sides add;
  /// across one axis alone where that is given.
  void add_behind(const Grid<D>& grid, int component, int width, Cells<D>& u, int across = -1) const;

 private:
  struct Wall {
    int motion = MovingWalls<D>::none;
    Vec<D> place{};
  };
  MovingWalls<D> moving_;
  [[nodiscard]] Vec<D> at(const Wall& wall) const {
    return wall.motion == MovingWalls<D>::none ? Vec<D>{} : now_[static_cast<std::size_t>(wall.motion)].at(wall.place);
  }
  std::vector<std::vector<Wall>> walls_;   // by block, as its wall cells
  std::vector<std::vector<Wall>> groups_;  // as the space's
  struct SolidCell {
    std::ptrdiff_t at = 0;
    Wall wall;
  };
  std::vector<std::vector<SolidCell>> solids_;  // by block: cells of moving solids next to open ones
  std::vector<RigidMotion<D>> now_;
};

template <int D>
const WallVelocity<D>& walls_at_rest() {
  static const WallVelocity<D> walls;
  return walls;
}

/// Fills `width` layers of the halo of the velocity, or of what lies across one axis, behind walls by their kinds and
/// their motion.
template <int D>
void fill_velocity_halo(const Grid<D>& grid, const OpenSpace<D>& space, const std::type_identity_t<WallKinds<D>>& kinds,
                        const WallVelocity<D>& walls, int width, CellVectors<D>& u, int axis = -1);

}  // namespace wavy
