#include "flow/wall_elements.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

/// An element of no area yet, in the middle of a cell.
template <int D>
WallElement<D> element_in(const Grid<D>& grid, int block, std::ptrdiff_t at) {
  const Vec<D> middle = cell_middle<D>(grid, block, at);
  return {.block = block, .at = at, .middle = middle, .fluid = middle, .place = middle};
}

template <int D>
void add_sides(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds, const MovingWalls<D>& moving,
               const Boundary<D>& boundary, int block, std::vector<WallElement<D>>& elements) {
  const Vec<D>& h = grid.geometry(block).spacing;
  for (int axis = 0; axis < D; ++axis)
    for (int side = 0; side < 2; ++side) {
      const auto a = static_cast<std::size_t>(axis);
      const auto s = static_cast<std::size_t>(side);
      for_boundary_faces(grid, block, axis, side, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          const double open = space.is_uncut() ? 1.0 : space.area()[a].block(block)[face];
          const double share = open - boundary.open_share(block, axis, face);
          if (share <= 0) continue;
          WallElement<D> element = element_in<D>(grid, block, side == 0 ? face : face - grid.layout().step[a]);
          element.place[a] += (side == 0 ? -0.5 : 0.5) * h[a];
          element.normal[a] = side == 0 ? -1 : 1;
          element.area = share / h[a];
          element.kind = kinds[a][s];
          if (element.kind != Wall::mirror) element.friction = 2 * share / (h[a] * h[a]);
          element.motion = moving.sides[a][s];
          element.axis = axis;
          element.face = face;
          elements.push_back(element);
        }
      });
    }
}

/// Both sides of the walls thinner than a cell on the faces of a cell. Returns their friction.
template <int D>
double add_thin(const Grid<D>& grid, const OpenSpace<D>& space, Wall kind, int block, std::ptrdiff_t at,
                std::vector<WallElement<D>>& elements) {
  double friction = 0;
  for (int axis = 0; axis < D; ++axis)
    for (const bool above : {false, true}) {
      const auto a = static_cast<std::size_t>(axis);
      const double h = grid.geometry(block).spacing[a];
      const std::ptrdiff_t face = at + (above ? grid.layout().step[a] : 0);
      const double area = space.thin()[a].block(block)[face] / h * space.weight(block, grid.layout(), at);
      if (area == 0) continue;
      WallElement<D> element = element_in<D>(grid, block, at);
      element.of = WallElement<D>::Of::thin;
      element.place[a] += (above ? 0.5 : -0.5) * h;
      element.normal[a] = above ? 1 : -1;
      element.area = area;
      element.friction = 2 / h * area;
      element.kind = kind;
      element.axis = axis;
      element.face = face;
      friction += element.friction;
      elements.push_back(element);
    }
  return friction;
}

/// From the middle of a wall cell along its normal to its wall [m].
template <int D>
Vec<D> to_wall(const WallCell<D>& cell, const Vec<D>& h) {
  Vec<D> way{};
  if (!cuts(cell.open)) {
    const auto steepest = std::ranges::max_element(cell.wall, {}, [](double c) { return std::abs(c); });
    const auto axis = static_cast<std::size_t>(steepest - cell.wall.begin());
    way[axis] = (cell.wall[axis] > 0 ? 0.5 : -0.5) * h[axis];
    return way;
  }
  double off = cell.open.offset;
  double square = 0;
  for (std::size_t d = 0; d < D; ++d) {
    off -= 0.5 * cell.open.normal[d];
    square += std::pow(cell.open.normal[d] / h[d], 2);
  }
  for (std::size_t d = 0; d < D; ++d) way[d] = off * cell.open.normal[d] / (h[d] * square);
  return way;
}

template <int D>
void add_solids(const Grid<D>& grid, const OpenSpace<D>& space, Wall kind, const MovingWalls<D>& moving,
                const Boundary<D>& boundary, int block, std::vector<WallElement<D>>& elements) {
  std::vector<WallElement<D>> thin;
  for (const WallCell<D>& cell : space.wall_cells(block)) {
    const double thin_friction = add_thin(grid, space, kind, block, cell.at, thin);
    if (cell.area == 0) continue;
    WallElement<D> element = element_in<D>(grid, block, cell.at);
    element.of = WallElement<D>::Of::solid;
    if (moving.solid) element.motion = moving.solid(element.middle);
    const Vec<D> way = to_wall<D>(cell, grid.geometry(block).spacing);
    for (std::size_t d = 0; d < D; ++d) element.place[d] += way[d];
    element.fluid = middle_of_fluid(grid, block, cell);
    element.normal = cell.wall;
    element.area = cell.area;
    element.kind = cell.mirror ? Wall::mirror : kind;
    if (!boundary.passes(block, cell.at)) element.friction = std::max(0.0, cell.friction - thin_friction);
    elements.push_back(element);
  }
  elements.insert(elements.end(), thin.begin(), thin.end());
}

}  // namespace

template <int D>
WallElements<D> find_wall_elements(const Grid<D>& grid, const OpenSpace<D>& space, const WallRule<D>& rule,
                                   const MovingWalls<D>& moving, const Boundary<D>& boundary) {
  WallElements<D> elements(static_cast<std::size_t>(grid.blocks()));
  for (int b = 0; b < grid.blocks(); ++b) {
    auto& own = elements[static_cast<std::size_t>(b)];
    add_sides<D>(grid, space, rule.sides, moving, boundary, b, own);
    if (!space.is_uncut()) add_solids<D>(grid, space, rule.solids, moving, boundary, b, own);
  }
  return elements;
}

template <int D>
WallMeeting<D> meet_wall(const WallElements<D>& elements, int number, const RigidMotion<D>& motion) {
  WallMeeting<D> met;
  for (const auto& own : elements)
    for (const auto& element : own) {
      if (element.motion != number) continue;
      const Vec<D> u = motion.at(element.place);
      met.greatest = std::max(met.greatest, length<D>(u));
      const double across = std::abs(dot<D>(u, element.normal));
      if (across <= met.across) continue;
      met.across = across;
      met.place = element.place;
    }
  return met;
}

template WallElements<2> find_wall_elements<2>(const Grid<2>&, const OpenSpace<2>&, const WallRule<2>&,
                                               const MovingWalls<2>&, const Boundary<2>&);
template WallElements<3> find_wall_elements<3>(const Grid<3>&, const OpenSpace<3>&, const WallRule<3>&,
                                               const MovingWalls<3>&, const Boundary<3>&);
template WallMeeting<2> meet_wall<2>(const WallElements<2>&, int, const RigidMotion<2>&);
template WallMeeting<3> meet_wall<3>(const WallElements<3>&, int, const RigidMotion<3>&);

}  // namespace wavy
