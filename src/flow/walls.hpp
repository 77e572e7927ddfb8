// Walls as they are given: how fluids meet them, and how those move that slide or turn along themselves (lids, drums,
// buckets), which drag the fluid and stay where they are.
#pragma once

#include <array>
#include <functional>
#include <vector>

#include "mesh/grid.hpp"

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
HaloRules<D> velocity_rules(const WallKinds<D>& kinds, int component) {
  HaloRules<D> rules;
  for (std::size_t d = 0; d < D; ++d)
    for (std::size_t side = 0; side < 2; ++side)
      rules.walls[d][side] =
          static_cast<int>(d) == component || kinds[d][side] == Wall::no_slip ? Mirror::odd : Mirror::even;
  return rules;
}

/// All of them.
template <int D>
VectorRules<D> velocity_rules(const WallKinds<D>& kinds) {
  VectorRules<D> rules;
  for (int c = 0; c < D; ++c) rules[c] = velocity_rules<D>(kinds, c);
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

}  // namespace wavy
