#include "flow/wall_velocity.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {

template <int D>
WallVelocity<D>::WallVelocity(const Grid<D>& grid, const OpenSpace<D>& space, const MovingWalls<D>& moving,
                              const WallElements<D>& elements)
    : moving_(moving), now_(moving.motions.size()) {
  set_time(0);
  if (none() || space.is_uncut() || !moving.solid) return;
  for (const auto& own : elements)
    for (const auto& element : beside_solids<D>(own))
      if (element.motion != MovingWalls<D>::none) beside_solids_.push_back({element.motion, element.middle});
  for (const auto& group : space.groups()) {
    const Vec<D> last = cell_middle<D>(grid, group.back().block, group.back().at);
    groups_.push_back({moving.solid(last), last});
    for (const auto& place : group)
      if (const auto* wall = space.wall_in(place.block, place.at); wall != nullptr) {
        groups_.back().place = middle_of_fluid(grid, place.block, *wall);
        break;
      }
  }
  solids_.resize(static_cast<std::size_t>(grid.blocks()));
  const auto neighbours = [&](int b, std::ptrdiff_t at, auto&& fn) {
    for_shifts<D>(1,
                  [&](const Index<D>& shift, int) { fn(space.volume().block(b)[at + grid.layout().offset(shift)]); });
  };
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space.is_uncut(b)) continue;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (space.volume().block(b)[at] > 0) continue;
        bool beside = false;
        neighbours(b, at, [&](double volume) { beside = beside || volume > 0; });
        if (!beside) continue;
        const Vec<D> place = cell_middle<D>(grid, b, at);
        if (const int motion = moving.solid(place); motion != MovingWalls<D>::none)
          solids_[static_cast<std::size_t>(b)].push_back({at, {motion, place}});
      }
    });
  }
}

template <int D>
void WallVelocity<D>::set_time(double time) {
  for (std::size_t i = 0; i < now_.size(); ++i) now_[i] = moving_.motions[i](time);
}

template <int D>
Vec<D> WallVelocity<D>::of(const WallElement<D>& element) const {
  if (none()) return {};
  return at({element.motion, element.of == WallElement<D>::Of::solid ? element.fluid : element.place});
}

template <int D>
Vec<D> WallVelocity<D>::at_place(const WallElement<D>& element) const {
  return none() ? Vec<D>{} : at({element.motion, element.place});
}

template <int D>
Vec<D> WallVelocity<D>::in_group(std::size_t group) const {
  return groups_.empty() ? Vec<D>{} : at(groups_[group]);
}

template <int D>
void WallVelocity<D>::set_in_solids(const Grid<D>& grid, bool at_rest, CellVectors<D>& u) const {
  if (solids_.empty()) return;
  for_blocks(grid, [&](int b) {
    for (const auto& [at, wall] : solids_[static_cast<std::size_t>(b)]) {
      const Vec<D> own = at_rest ? Vec<D>{} : this->at(wall);
      for (std::size_t c = 0; c < D; ++c) u[c].block(b)[at] = own[c];
    }
  });
}

template <int D>
double WallVelocity<D>::greatest_speed(const Grid<D>& grid) const {
  double greatest = 0;
  for (const auto& wall : beside_solids_) greatest = std::max(greatest, length<D>(at(wall)));
  for (const auto& axis : moving_.sides)
    for (const int motion : axis) {
      if (motion == MovingWalls<D>::none) continue;
      for (int corner = 0; corner < 1 << D; ++corner) {
        Vec<D> place;
        for (int d = 0; d < D; ++d) place[d] = (corner >> d & 1) != 0 ? grid.upper()[d] : grid.lower()[d];
        greatest = std::max(greatest, length<D>(now_[static_cast<std::size_t>(motion)].at(place)));
      }
    }
  return greatest;
}

template <int D>
void WallVelocity<D>::add_behind(const Grid<D>& grid, int component, int width, Cells<D>& u, int across) const {
  if (none()) return;
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    double* value = u.block(b);
    for (int axis = 0; axis < D; ++axis) {
      if (axis == component || (across >= 0 && axis != across)) continue;
      for (int side = 0; side < 2; ++side) {
        const int motion = moving_.sides[static_cast<std::size_t>(axis)][static_cast<std::size_t>(side)];
        if (motion == MovingWalls<D>::none || grid.forest().neighbour(b, axis, side) >= 0) continue;
        Index<D> lo{};
        Index<D> hi = layout.cells;
        for (int d = 0; d < D; ++d) {
          if (grid.forest().neighbour(b, d, 0) >= 0) lo[d] -= width;
          if (grid.forest().neighbour(b, d, 1) >= 0) hi[d] += width;
        }
        lo[axis] = side == 0 ? -width : layout.cells[axis];
        hi[axis] = lo[axis] + width;
        for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at)
            value[at] += 2 * now_[static_cast<std::size_t>(motion)].at(cell_middle<D>(grid, b, at))[component];
        });
      }
    }
  });
}

template <int D>
void fill_velocity_halo(const Grid<D>& grid, const OpenSpace<D>& space, const std::type_identity_t<WallKinds<D>>& kinds,
                        const WallVelocity<D>& walls, int width, CellVectors<D>& u, int axis) {
  if (axis < 0)
    fill_halo(grid, u, width, velocity_rules<D>(kinds), space.open_spans());
  else
    fill_halo_across(grid, axis, u, width, velocity_rules<D>(kinds), space.open_spans());
  for (int c = 0; c < D; ++c) walls.add_behind(grid, c, width, u[c], axis);
}

template <int D>
void fill_velocity_behind(const Grid<D>& grid, const OpenSpace<D>& space,
                          const std::type_identity_t<WallKinds<D>>& kinds, const WallVelocity<D>& walls,
                          const Boundary<D>& boundary, const Faces<D>& face_u, CellVectors<D>& u) {
  fill_velocity_halo<D>(grid, space, kinds, walls, 1, u);
  boundary.set_velocity_behind(grid, face_u, u);
}

template class WallVelocity<2>;
template class WallVelocity<3>;
template void fill_velocity_halo<2>(const Grid<2>&, const OpenSpace<2>&, const WallKinds<2>&, const WallVelocity<2>&,
                                    int, CellVectors<2>&, int);
template void fill_velocity_halo<3>(const Grid<3>&, const OpenSpace<3>&, const WallKinds<3>&, const WallVelocity<3>&,
                                    int, CellVectors<3>&, int);
template void fill_velocity_behind<2>(const Grid<2>&, const OpenSpace<2>&, const WallKinds<2>&, const WallVelocity<2>&,
                                      const Boundary<2>&, const Faces<2>&, CellVectors<2>&);
template void fill_velocity_behind<3>(const Grid<3>&, const OpenSpace<3>&, const WallKinds<3>&, const WallVelocity<3>&,
                                      const Boundary<3>&, const Faces<3>&, CellVectors<3>&);

}  // namespace wavy
