#include "run/gauges.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include "base/error.hpp"

namespace wavy {
namespace {

/// The two cell centres round a coordinate along one axis and the weight of the upper one; the outermost half cells
/// take the nearest centre.
struct Between {
  int lower = 0;
  int upper = 0;
  double weight = 0;
};

Between between(double x, double lower, double spacing, int cells) {
  const double place = std::clamp((x - lower) / spacing - 0.5, 0.0, cells - 1.0);
  Between result;
  result.lower = std::min(static_cast<int>(place), cells - 1);
  result.upper = std::min(result.lower + 1, cells - 1);
  result.weight = place - result.lower;
  return result;
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

/// How many of flow_ways an opening has columns for: only under a given pressure fluid goes both ways.
template <int D>
std::size_t ways(const OpeningSetup<D>& opening) {
  return opening.given == OpeningSetup<D>::Given::pressure ? flow_ways.size() : 1;
}

/// fn(cell, weight) for the cells whose middles lie round a place along the first `axes` axes.
template <int D, class Fn>
void for_cells_round(const Grid<D>& grid, const Vec<D>& place, int axes, Fn&& fn) {
  std::array<Between, D> sides;
  for (int d = 0; d < axes; ++d) sides[d] = between(place[d], grid.lower()[d], grid.spacing()[d], grid.cells()[d]);
  for (int corner = 0; corner < (1 << axes); ++corner) {
    Index<D> cell{};
    double weight = 1;
    for (int d = 0; d < axes; ++d) {
      const bool up = ((corner >> d) & 1) != 0;
      cell[d] = up ? sides[d].upper : sides[d].lower;
      weight *= up ? sides[d].weight : 1 - sides[d].weight;
    }
    if (weight != 0) fn(cell, weight);
  }
}

}  // namespace

/// The column of cells over a cell, from the bottom up: a new stretch begins wherever a solid closes it.
template <int D>
auto Gauges<D>::column_at(const sharp::Model<D>& model, const CellMap<D>& map, Index<D> cell) -> LevelColumn {
  const Grid<D>& grid = model.grid();
  const OpenSpace<D>& space = model.space();
  const double h = grid.spacing()[D - 1];
  LevelColumn column;
  bool closed = true;  // below the cell at hand
  for (cell[D - 1] = 0; cell[D - 1] < grid.cells()[D - 1]; ++cell[D - 1]) {
    const CellPlace place = map(cell);
    const double open = open_share(space, place.block, place.at);
    if (!space.is_uncut(place.block)) closed = closed || space.area()[D - 1].block(place.block)[place.at] == 0;
    if (open == 0) {
      closed = true;
      continue;
    }
    Sample part{place.block, place.at, h};
    if (closed) {
      part.weight = open * h;
      column.stretches.push_back({grid.lower()[D - 1] + (cell[D - 1] + 1 - open) * h, {}});
    }
    column.stretches.back().cells.push_back(part);
    closed = false;
  }
  return column;
}

template <int D>
void Gauges<D>::add_level(const Gauge<D>& gauge, const sharp::Model<D>& model, const CellMap<D>& map) {
  std::vector<LevelColumn> columns;
  double sum = 0;
  for_cells_round<D>(model.grid(), gauge.at, D - 1, [&](const Index<D>& cell, double weight) {
    LevelColumn column = column_at(model, map, cell);
    if (column.stretches.empty()) return;
    column.weight = weight;
    sum += weight;
    columns.push_back(std::move(column));
  });
  if (columns.empty())
    throw input_error(gauge.place,
                      fmt::format("the level gauge '{}' lies in a solid over its whole height", gauge.name),
                      "move it to where the fluid is");
  for (auto& column : columns) column.weight /= sum;
  levels_.back() = std::move(columns);
}

/// Where the surface is: that of the highest solid on which liquid stands, by half a cell or more, else on the floor.
template <int D>
double Gauges<D>::level(const std::vector<LevelColumn>& columns, const sharp::Model<D>& model) const {
  const double film = 0.5 * model.grid().spacing()[D - 1];
  double value = 0;
  for (const auto& column : columns)
    for (auto stretch = column.stretches.rbegin(); stretch != column.stretches.rend(); ++stretch) {
      double liquid = 0;
      for (const Sample& part : stretch->cells) liquid += part.weight * model.state().F.block(part.block)[part.offset];
      if (liquid < film && stretch + 1 != column.stretches.rend()) continue;
      value += column.weight * (stretch->floor + liquid);
      break;
    }
  return value;
}

template <int D>
Gauges<D>::Gauges(const Setup<D>& setup, const sharp::Model<D>& model)
    : setup_(setup),
      throughput_(setup.openings.size()),
      shown_(setup.gauges.size(), std::numeric_limits<double>::quiet_NaN()) {
  const Grid<D>& grid = model.grid();
  const CellMap<D> map(grid);
  columns_.push_back({"time", "s"});
  for (const auto& gauge : setup.gauges) {
    std::vector<Sample> samples;
    levels_.emplace_back();
    if (gauge.measures == Measure::level) add_level(gauge, model, map);
    if (gauge.measures == Measure::pressure)
      for_cells_round<D>(grid, gauge.at, D, [&](const Index<D>& cell, double weight) {
        const CellPlace place = map(cell);
        samples.push_back({place.block, place.at, weight});
      });
    elements_.emplace_back();
    if (gauge.measures == Measure::force) elements_.back() = elements_of(gauge, model);
    samples_.push_back(std::move(samples));
    switch (gauge.measures) {
      case Measure::level:
        columns_.push_back({gauge.name, "m"});
        break;
      case Measure::pressure:
        columns_.push_back({gauge.name, "Pa"});
        break;
      case Measure::volume:
        columns_.push_back({gauge.name, "m3"});
        break;
      case Measure::greatest_speed:
        columns_.push_back({gauge.name, "m/s"});
        break;
      case Measure::force:
        columns_.push_back({gauge.name, "N"});
        break;
    }
  }
  for (const auto& opening : setup.openings)
    for (std::size_t p = 0; p < phase_count(setup); ++p)
      for (std::size_t way = 0; way < ways(opening); ++way)
        columns_.push_back({flow_column(opening.opening.name, setup.phases[p].name, flow_ways[way]), "m3/s"});
  for (std::size_t p = 0; p < phase_count(setup); ++p) columns_.push_back({setup.phases[p].name + "_volume", "m3"});
  columns_.push_back({"greatest_speed", "m/s"});
}

/// The pieces of a wall that a gauge of force adds up.
template <int D>
auto Gauges<D>::elements_of(const Gauge<D>& gauge, const sharp::Model<D>& model) const -> std::vector<WallElement> {
  using Of = NamedWall::Of;
  std::vector<WallElement> elements;
  const Of of = gauge.wall.of;
  for (int b = 0; b < model.grid().blocks(); ++b) {
    if (of == Of::vessel || of == Of::side) add_side_elements(gauge, model, b, elements);
    if (model.space().is_uncut()) continue;
    if (of == Of::insert || (of == Of::vessel && setup_.vessel)) add_solid_elements(gauge, model, b, elements);
    if (of == Of::thin_wall || of == Of::insert) add_thin_elements(gauge, model, b, elements);
  }
  return elements;
}

/// Of the grid's boundary, less what openings take.
template <int D>
void Gauges<D>::add_side_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int b,
                                  std::vector<WallElement>& elements) const {
  const Grid<D>& grid = model.grid();
  const Vec<D>& h = grid.spacing();
  const NamedWall& wall = gauge.wall;
  for (int axis = 0; axis < D; ++axis)
    for (int side = 0; side < 2; ++side) {
      if (wall.of == NamedWall::Of::side && wall.side != std::array{axis, side}) continue;
      const auto a = static_cast<std::size_t>(axis);
      const auto s = static_cast<std::size_t>(side);
      if (axis != gauge.axis && model.settings().walls[a][s] != sharp::Wall::no_slip) continue;
      const double face_area = grid.cell_volume() / h[a] * setup_.thickness;
      for_boundary_faces(grid, b, axis, side, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          const double open = model.space().is_uncut() ? 1.0 : model.space().area()[a].block(b)[face];
          const double area = face_area * (open - model.boundary().open_share(b, axis, face));
          if (area <= 0) continue;
          WallElement element = element_in(grid, b, side == 0 ? face : face - grid.layout().step[a]);
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
void Gauges<D>::add_solid_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int b,
                                   std::vector<WallElement>& elements) const {
  const Grid<D>& grid = model.grid();
  const Vec<D>& h = grid.spacing();
  const OpenSpace<D>& space = model.space();
  const auto axis = static_cast<std::size_t>(gauge.axis);
  const std::size_t own = gauge.wall.of == NamedWall::Of::insert ? gauge.wall.number : setup_.inserts.size();
  const double cell_volume = grid.cell_volume() * setup_.thickness;
  const auto& cells = space.wall_cells(b);
  for (std::size_t k = 0; k < cells.size(); ++k) {
    const auto& cell = cells[k];
    WallElement element = element_in(grid, b, cell.at);
    if (cell.area == 0 || nearest_solid(setup_, element.place) != own) continue;
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
void Gauges<D>::add_thin_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int b,
                                  std::vector<WallElement>& elements) const {
  const Grid<D>& grid = model.grid();
  const OpenSpace<D>& space = model.space();
  const double cell_volume = grid.cell_volume() * setup_.thickness;
  const auto covers = [&](const ThinWall<D>& wall, const Vec<D>& place) { return wall.extent.distance(place) <= 0; };
  const auto is_own = [&](const Vec<D>& place) {
    if (gauge.wall.of == NamedWall::Of::thin_wall) return covers(setup_.thin_walls[gauge.wall.number], place);
    return nearest_solid(setup_, place) == gauge.wall.number &&
           std::ranges::none_of(setup_.thin_walls, [&](const auto& wall) { return covers(wall, place); });
  };
  const auto& cells = space.wall_cells(b);
  for (std::size_t k = 0; k < cells.size(); ++k)
    for (int d = 0; d < D; ++d)
      for (const bool above : {false, true}) {
        const auto axis = static_cast<std::size_t>(d);
        const double friction = thin_friction(space, grid, b, cells[k].at, d, above);
        WallElement element = element_in(grid, b, cells[k].at);
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

/// Of pressure, over the reference, and friction along an axis [N].
template <int D>
double Gauges<D>::force(const std::vector<WallElement>& elements, int axis, const sharp::Model<D>& model,
                        double reference) const {
  const auto& state = model.state();
  std::vector<sharp::RigidMotion<D>> motions;
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

template <int D>
std::vector<double> Gauges<D>::read(const sharp::Model<D>& model) {
  const auto& state = model.state();
  const double liquid = model.liquid_volume() * setup_.thickness;
  const double total = model.open_volume() * setup_.thickness;

  const double speed = model.greatest_speed();
  const auto sum = [](const std::vector<Sample>& samples, const Cells<D>& field) {
    double value = 0;
    for (const auto& part : samples) value += part.weight * field.block(part.block)[part.offset];
    return value;
  };

  std::vector<double> row{state.time};
  double reference = 0;
  bool reference_known = false;
  for (std::size_t g = 0; g < setup_.gauges.size(); ++g) {
    const auto& gauge = setup_.gauges[g];
    switch (gauge.measures) {
      case Measure::level:
        row.push_back(level(levels_[g], model));
        break;
      case Measure::pressure: {
        if (!reference_known) reference = model.reference_pressure();
        reference_known = true;
        // The part rho G.x is taken at the point itself, so that a gauge on the floor reads the full head.
        row.push_back(sum(samples_[g], state.p) + model.hydrostatic_pressure(sum(samples_[g], state.F), gauge.at) -
                      reference);
        break;
      }
      case Measure::force: {
        if (!reference_known) reference = model.reference_pressure();
        reference_known = true;
        row.push_back(force(elements_[g], gauge.axis, model, reference));
        break;
      }
      case Measure::volume:
        row.push_back(gauge.phase == 0 ? liquid : total - liquid);
        break;
      case Measure::greatest_speed:
        row.push_back(speed);
        break;
    }
  }
  const double since = state.time - time_;
  // What instruments show, whose readings lag.
  for (std::size_t g = 0; g < shown_.size(); ++g) {
    double& value = row[1 + g];
    const double lag = setup_.gauges[g].response_time;
    shown_[g] = std::isnan(shown_[g]) || lag <= 0 ? value : value + (shown_[g] - value) * std::exp(-since / lag);
    value = shown_[g];
  }
  for (std::size_t i = 0; i < throughput_.size(); ++i) {
    const sharp::Throughput& now = model.boundary().throughput()[i];
    for (std::size_t p = 0; p < phase_count(setup_); ++p) {
      const double in = now.in[p] - throughput_[i].in[p];
      const double out = now.out[p] - throughput_[i].out[p];
      const std::array<double, flow_ways.size()> volumes{in - out, in, out};
      for (std::size_t way = 0; way < ways(setup_.openings[i]); ++way)
        row.push_back(since > 0 ? volumes[way] * setup_.thickness / since : 0.0);
    }
    throughput_[i] = now;
  }
  time_ = state.time;
  row.push_back(liquid);
  if (!setup_.free_surface_only) row.push_back(total - liquid);
  row.push_back(speed);
  return row;
}

template <int D>
void Gauges<D>::archive(Archive& a) {
  a("time", time_);
  for (std::size_t g = 0; g < shown_.size(); ++g) {
    const std::string name = "shown/" + columns_[1 + g].archive_name();
    if (!a.reading() || a.holds(name)) a(name, shown_[g]);  // a gauge may be a new one
  }
  for (std::size_t i = 0; i < throughput_.size(); ++i) {
    a(fmt::format("in{}", i), throughput_[i].in);
    a(fmt::format("out{}", i), throughput_[i].out);
  }
}

template class Gauges<2>;
template class Gauges<3>;

}  // namespace wavy
