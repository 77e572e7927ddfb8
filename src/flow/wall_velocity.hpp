// The velocity of walls that move, in the cells beside them, within them and behind the sides of the grid.
#pragma once

#include <type_traits>
#include <vector>

#include "flow/wall_elements.hpp"
#include "flow/walls.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// The velocity of every wall on a grid, at the time last set.
///
/// Beside a solid it is that of the rigid body at the middle of the fluid, not on the wall: friction by the distance to
/// the wall then leaves a fluid that turns with it alone.
template <int D>
class WallVelocity {
 public:
  WallVelocity() = default;
  /// At time 0.
  WallVelocity(const Grid<D>& grid, const OpenSpace<D>& space, const MovingWalls<D>& moving,
               const WallElements<D>& elements);

  [[nodiscard]] bool none() const { return moving_.motions.empty(); }
  void set_time(double time);
  /// By which a wall element drags [m/s].
  [[nodiscard]] Vec<D> of(const WallElement<D>& element) const;
  /// Of a wall element itself [m/s].
  [[nodiscard]] Vec<D> at_place(const WallElement<D>& element) const;
  /// In a group of the space: that of the wall by which its cells are small [m/s].
  [[nodiscard]] Vec<D> in_group(std::size_t group) const;
  /// [m/s]
  [[nodiscard]] double greatest_speed(const Grid<D>& grid) const;
  /// The velocity of moving solids in those of their cells that are next to open ones; `at_rest`: 0 again.
  void set_in_solids(const Grid<D>& grid, bool at_rest, CellVectors<D>& u) const;
  /// Adds to the halo of velocity component `component`, filled by the rules for walls at rest, what moving sides add;
  /// across one axis alone where that is given.
  void add_behind(const Grid<D>& grid, int component, int width, Cells<D>& u, int across = -1) const;

 private:
  struct MovingPlace {
    int motion = MovingWalls<D>::none;
    Vec<D> place{};
  };
  MovingWalls<D> moving_;
  [[nodiscard]] Vec<D> at(const MovingPlace& wall) const {
    return wall.motion == MovingWalls<D>::none ? Vec<D>{} : now_[static_cast<std::size_t>(wall.motion)].at(wall.place);
  }
  std::vector<MovingPlace> beside_solids_;  // cells at moving walls of solids
  std::vector<MovingPlace> groups_;         // as the space's
  struct SolidCell {
    std::ptrdiff_t at = 0;
    MovingPlace wall;
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

/// One layer behind walls and behind openings, through which the flow `face_u` passes.
template <int D>
void fill_velocity_behind(const Grid<D>& grid, const OpenSpace<D>& space,
                          const std::type_identity_t<WallKinds<D>>& kinds, const WallVelocity<D>& walls,
                          const Boundary<D>& boundary, const Faces<D>& face_u, CellVectors<D>& u);

}  // namespace wavy
