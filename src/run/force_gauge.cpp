// The gauge of force: pressure and friction on a wall or an insert.
#include <algorithm>
#include <cmath>

#include "run/vessel_gauges.hpp"

namespace wavy {
namespace {

/// A piece of wall beside a cell.
template <int D>
struct WallElement {
  int block = 0;
  std::ptrdiff_t offset = 0;
  Vec<D> place{};  ///< on the wall [m]
  /// Area of its projection along the gauge's axis, positive where the pressure pushes that way [m2].
  double pressure_area = 0;
  // Friction: on a side of the grid,
  double shear_area = 0;              ///< its area [m2]
  int across = 0;                     ///< axis across it
  int motion = MovingWalls<D>::none;  ///< of that side
  // or in a wall cell of the space.
  double drag = 0;         ///< share of its friction that counts, times the cell's volume [m3]
  std::size_t number = 0;  ///< of the wall cell in its block
};

/// A piece of no area yet, in the middle of a cell.
template <int D>
WallElement<D> element_in(const Grid<D>& grid, int block, std::ptrdiff_t offset) {
  return {.block = block, .offset = offset, .place = cell_middle<D>(grid, block, offset)};
}

/// Area of the thin walls on one of a wall cell's faces, over the volume of a whole cell [1/m]; 0 where there are none.
template <int D>
double thin_area(const OpenSpace<D>& space, const Grid<D>& grid, int block, std::ptrdiff_t at, int axis, bool above) {
  const auto d = static_cast<std::size_t>(axis);
  const double closed = space.thin()[d].block(block)[at + (above ? grid.layout().step[d] : 0)];
  return closed / grid.spacing()[d] * space.weight(block, grid.layout(), at);
}

/// Their friction, as in WallCell.
template <int D>
double thin_friction(const OpenSpace<D>& space, const Grid<D>& grid, int block, std::ptrdiff_t at, int axis,
                     bool above) {
  return 2 / grid.spacing()[axis] * thin_area(space, grid, block, at, axis, above);
}

/// Of the grid's boundary, less what openings take.
template <int D>
void add_side_elements(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model, int b,
                       std::vector<WallElement<D>>& elements) {
  const Grid<D>& grid = model.grid();
  const Vec<D>& h = grid.spacing();
  const NamedWall& wall = gauge.wall;
  for (int axis = 0; axis < D; ++axis)
    for (int side = 0; side < 2; ++side) {
      if (wall.of == NamedWall::Of::side && wall.side != std::array{axis, side}) continue;
      const auto a = static_cast<std::size_t>(axis);
      const auto s = static_cast<std::size_t>(side);
      if (axis != gauge.axis && model.settings().walls[a][s] != Wall::no_slip) continue;
      const double face_area = grid.cell_volume() / h[a] * setup.thickness;
      for_boundary_faces(grid, b, axis, side, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          const double open = model.space().is_uncut() ? 1.0 : model.space().area()[a].block(b)[face];
          const double area = face_area * (open - model.boundary().open_share(b, axis, face));
          if (area <= 0) continue;
          WallElement<D> element = element_in<D>(grid, b, side == 0 ? face : face - grid.layout().step[a]);
          element.place[a] += (side == 0 ? -0.5 : 0.5) * h[a];
          if (axis == gauge.axis) {
            element.pressure_area = side == 0 ? -area : area;
          } else {
            element.shear_area = area;
            element.across = axis;
            element.motion = model.settings().moving_walls.sides[a][s];
          }
          elements.push_back(element);
        }
      });
    }
}

/// Of the wall of an insert, or of a vessel with a shape.
template <int D>
void add_solid_elements(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model, int b,
                        std::vector<WallElement<D>>& elements) {
  const Grid<D>& grid = model.grid();
  const Vec<D>& h = grid.spacing();
  const OpenSpace<D>& space = model.space();
  const auto axis = static_cast<std::size_t>(gauge.axis);
  const std::size_t own = gauge.wall.of == NamedWall::Of::insert ? gauge.wall.number : setup.inserts.size();
  const double cell_volume = grid.cell_volume() * setup.thickness;
  const auto& cells = space.wall_cells(b);
  for (std::size_t k = 0; k < cells.size(); ++k) {
    const auto& cell = cells[k];
    WallElement<D> element = element_in<D>(grid, b, cell.at);
    if (cell.area == 0 || nearest_solid(setup, element.place) != own) continue;
    element.pressure_area = cell.area * cell.wall[axis] * cell_volume;
    // On the wall: from the middle of the cell along its normal.
    if (cuts(cell.open)) {
      double off = cell.open.offset;
      double square = 0;
      for (std::size_t d = 0; d < D; ++d) {
        off -= 0.5 * cell.open.normal[d];
        square += std::pow(cell.open.normal[d] / h[d], 2);
      }
      for (std::size_t d = 0; d < D; ++d) element.place[d] += off * cell.open.normal[d] / (h[d] * square);
    } else {
      element.place[axis] += (cell.wall[axis] > 0 ? 0.5 : -0.5) * h[axis];
    }
    double own_friction = cell.friction;
    for (int d = 0; d < D; ++d)
      for (const bool above : {false, true}) own_friction -= thin_friction(space, grid, b, cell.at, d, above);
    element.number = k;
    if (cell.friction > 0) element.drag = std::max(0.0, own_friction) / cell.friction * cell_volume;
    elements.push_back(element);
  }
}

/// Of both sides of a thin wall, or of what stands as one where an insert is thinner than a cell.
template <int D>
void add_thin_elements(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model, int b,
                       std::vector<WallElement<D>>& elements) {
  const Grid<D>& grid = model.grid();
  const OpenSpace<D>& space = model.space();
  const double cell_volume = grid.cell_volume() * setup.thickness;
  const auto covers = [&](const ThinWall<D>& wall, const Vec<D>& place) { return wall.extent.distance(place) <= 0; };
  const auto is_own = [&](const Vec<D>& place) {
    if (gauge.wall.of == NamedWall::Of::thin_wall) return covers(setup.thin_walls[gauge.wall.number], place);
    return nearest_solid(setup, place) == gauge.wall.number &&
           std::ranges::none_of(setup.thin_walls, [&](const auto& wall) { return covers(wall, place); });
  };
  const auto& cells = space.wall_cells(b);
  for (std::size_t k = 0; k < cells.size(); ++k)
    for (int d = 0; d < D; ++d)
      for (const bool above : {false, true}) {
        const auto axis = static_cast<std::size_t>(d);
        const double friction = thin_friction(space, grid, b, cells[k].at, d, above);
        WallElement<D> element = element_in<D>(grid, b, cells[k].at);
        element.place[axis] += (above ? 0.5 : -0.5) * grid.spacing()[axis];
        if (friction == 0 || !is_own(element.place)) continue;
        if (d == gauge.axis) {
          const double area = cell_volume * thin_area(space, grid, b, cells[k].at, d, above);
          element.pressure_area = above ? area : -area;
        } else {
          element.number = k;
          element.drag = friction / cells[k].friction * cell_volume;
        }
        elements.push_back(element);
      }
}

/// The pieces of a wall that a gauge of force adds up.
template <int D>
std::vector<WallElement<D>> elements_of(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  using Of = NamedWall::Of;
  std::vector<WallElement<D>> elements;
  const Of of = gauge.wall.of;
  for (int b = 0; b < model.grid().blocks(); ++b) {
    if (of == Of::vessel || of == Of::side) add_side_elements(gauge, setup, model, b, elements);
    if (model.space().is_uncut()) continue;
    if (of == Of::insert || (of == Of::vessel && setup.vessel)) add_solid_elements(gauge, setup, model, b, elements);
    if (of == Of::thin_wall || of == Of::insert) add_thin_elements(gauge, setup, model, b, elements);
  }
  return elements;
}

/// Of pressure, over the reference, and friction along an axis [N].
template <int D>
double force(const std::vector<WallElement<D>>& elements, int axis, const sharp::Model<D>& model, double reference) {
  const auto& state = model.state();
  std::vector<RigidMotion<D>> motions;
  for (const auto& motion : model.settings().moving_walls.motions) motions.push_back(motion(state.time));
  double sum = 0;
  for (const auto& element : elements) {
    if (element.pressure_area != 0) {
      const double F = state.F.block(element.block)[element.offset];
      sum += element.pressure_area *
             (state.p.block(element.block)[element.offset] + model.hydrostatic_pressure(F, element.place) - reference);
    }
    const auto along = static_cast<std::size_t>(axis);
    if (element.drag != 0) sum += element.drag * model.drag(element.block, element.number)[along];
    if (element.shear_area == 0) continue;
    const Vec<D> wall =
        element.motion < 0 ? Vec<D>{} : motions[static_cast<std::size_t>(element.motion)].at(element.place);
    sum += element.shear_area * model.friction(element.block, element.offset, element.across, wall)[along];
  }
  return sum;
}

}  // namespace

template <int D>
VesselReader<D> force_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  return [elements = elements_of(gauge, setup, model), axis = gauge.axis](VesselReading<D>& now) {
    return force(elements, axis, now.model(), now.reference_pressure());
  };
}

template VesselReader<2> force_reader<2>(const Gauge<2>&, const Setup<2>&, const sharp::Model<2>&);
template VesselReader<3> force_reader<3>(const Gauge<3>&, const Setup<3>&, const sharp::Model<3>&);

}  // namespace wavy
