// Gauges of levels and of what is read at a point, each with the cells that it reads found once.
#include "run/vessel_gauges.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <utility>

#include "base/error.hpp"
#include "mesh/cover.hpp"
#include "run/reading_places.hpp"

namespace wavy {
namespace {

/// The open cells of one column of the grid, from the bottom up, in stretches between solids.
struct Stretch {
  double floor = 0;           ///< height of the solid that it stands on [m]
  std::vector<Sample> cells;  ///< weight: height of what is open [m]
};
struct LevelColumn {
  double weight = 0;
  std::vector<Stretch> stretches;
};

/// The column of cells over a cell, from the bottom up: a new stretch begins wherever a solid closes it.
template <int D>
LevelColumn column_at(const VesselModel<D>& model, const CellMap<D>& map, Index<D> cell) {
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

/// Whether half of a cell of the column over a cell of the lowest row lies in a zone.
template <int D>
bool touches(const Shape<D>& zone, const Grid<D>& grid, Index<D> cell) {
  for (cell[D - 1] = 0; cell[D - 1] < grid.cells()[D - 1]; ++cell[D - 1])
    if (covered_share<D>(grid, cell, zone) >= 0.5) return true;
  return false;
}

/// Where the surface is of what has this share of the cells: on the highest solid on which it stands, by half a cell or
/// more, else on the floor. `h`: height of a cell [m].
double level(const LevelColumn& column, const CellNumber& share, double h) {
  const double film = 0.5 * h;
  for (auto stretch = column.stretches.rbegin(); stretch != column.stretches.rend(); ++stretch) {
    double liquid = 0;
    for (const Sample& part : stretch->cells) liquid += part.weight * share(part.block, part.offset);
    if (liquid >= film || stretch + 1 == column.stretches.rend()) return stretch->floor + liquid;
  }
  return 0;
}

/// A quantity at the point of a gauge.
template <int D>
VesselReader<D> point_reader(const Gauge<D>& gauge, const std::string& quantity, const VesselModel<D>& model) {
  return [places = point_of(gauge, model), quantity](VesselReading<D>& now) {
    return places.read(quantity, now)(places.list().front());
  };
}

}  // namespace

template <int D>
VesselReader<D> level_reader(const Gauge<D>& gauge, const Setup<D>&, const VesselModel<D>& model) {
  const CellMap<D> map(model.grid());
  std::vector<LevelColumn> columns;
  double sum = 0;
  for_cells_round<D>(model.grid(), gauge.at, D - 1, [&](const Index<D>& cell, double weight) {
    LevelColumn column = column_at<D>(model, map, cell);
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
  return [columns = std::move(columns), end = gauge.end_phase()](VesselReading<D>& now) {
    const CellNumber share = now.model().share(0, end);
    const double h = now.model().grid().spacing()[D - 1];
    double value = 0;
    for (const auto& column : columns) value += column.weight * level(column, share, h);
    return value;
  };
}

template <int D>
VesselReader<D> surface_reader(SurfaceFigure figure, const Gauge<D>& gauge, const Setup<D>&,
                               const VesselModel<D>& model) {
  const Grid<D>& grid = model.grid();
  const CellMap<D> map(grid);
  std::vector<LevelColumn> columns;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    if (cell[D - 1] != 0 || (gauge.zone && !touches<D>(*gauge.zone, grid, cell))) return;
    LevelColumn column = column_at<D>(model, map, cell);
    if (column.stretches.empty()) return;
    column.weight = model.space().weight(b, grid.layout(), o);
    columns.push_back(std::move(column));
  });
  if (columns.empty())
    throw input_error(gauge.place, fmt::format("in the zone of the gauge '{}' there is no fluid", gauge.name),
                      "choose a zone in the vessel");
  return [columns = std::move(columns), figure, end = gauge.end_phase()](VesselReading<D>& now) {
    const CellNumber share = now.model().share(0, end);
    const double h = now.model().grid().spacing()[D - 1];
    double least = std::numeric_limits<double>::infinity();
    double greatest = -least;
    double sum = 0;
    double weights = 0;
    for (const auto& column : columns) {
      const double here = level(column, share, h);
      least = std::min(least, here);
      greatest = std::max(greatest, here);
      sum += column.weight * here;
      weights += column.weight;
    }
    switch (figure) {
      case SurfaceFigure::highest:
        return greatest;
      case SurfaceFigure::lowest:
        return least;
      case SurfaceFigure::mean:
        return sum / weights;
      case SurfaceFigure::span:
        return greatest - least;
    }
    return 0.0;
  };
}

template <int D>
VesselReader<D> pressure_reader(const Gauge<D>& gauge, const Setup<D>&, const VesselModel<D>& model) {
  return point_reader(gauge, "pressure", model);
}

template <int D>
VesselReader<D> value_reader(const Gauge<D>& gauge, const Setup<D>&, const VesselModel<D>& model) {
  return point_reader(gauge, gauge.quantity, model);
}

template VesselReader<2> level_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> surface_reader<2>(SurfaceFigure, const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> pressure_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> value_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<3> level_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> surface_reader<3>(SurfaceFigure, const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> pressure_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> value_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);

}  // namespace wavy
