#include "run/gauges.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

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

}  // namespace

template <int D>
Gauges<D>::Gauges(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space)
    : setup_(setup), passed_(setup.openings.size()) {
  const CellMap<D> map(grid);
  const auto part = [&](const Index<D>& cell, double weight) {
    const CellPlace place = map(cell);
    return Part{place.block, place.at, weight};
  };
  columns_.push_back({"time", "s"});
  for (const auto& gauge : setup.gauges) {
    std::vector<Part> parts;
    double base = 0;

    const int axes = gauge.measures == Measure::level ? D - 1 : D;  // a level sums over the last axis
    if (gauge.measures == Measure::level || gauge.measures == Measure::pressure) {
      std::array<Between, D> sides;
      for (int d = 0; d < axes; ++d)
        sides[d] = between(gauge.at[d], grid.lower()[d], grid.spacing()[d], grid.cells()[d]);
      for (int corner = 0; corner < (1 << axes); ++corner) {
        Index<D> cell{};
        double weight = 1;
        for (int d = 0; d < axes; ++d) {
          const bool up = ((corner >> d) & 1) != 0;
          cell[d] = up ? sides[d].upper : sides[d].lower;
          weight *= up ? sides[d].weight : 1 - sides[d].weight;
        }
        if (weight == 0) continue;
        if (gauge.measures == Measure::pressure) {
          parts.push_back(part(cell, weight));
        } else {
          // The height of the liquid stands on what is solid below it.
          bool floor = true;
          base += weight * grid.lower()[D - 1];
          for (cell[D - 1] = 0; cell[D - 1] < grid.cells()[D - 1]; ++cell[D - 1]) {
            Part one = part(cell, weight * grid.spacing()[D - 1]);
            const double open = open_share(space, one.block, one.offset);
            if (floor) base += (1 - open) * one.weight;
            floor = floor && open == 0;
            one.weight *= open;
            parts.push_back(one);
          }
        }
      }
    }
    pieces_.emplace_back();
    if (gauge.measures == Measure::force) pieces_.back() = pieces_of(gauge.wall, gauge.axis, grid, space);
    parts_.push_back(std::move(parts));
    base_.push_back(base);
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
      columns_.push_back({flow_column(opening.opening.name, setup.phases[p].name), "m3/s"});
  for (std::size_t p = 0; p < phase_count(setup); ++p) columns_.push_back({setup.phases[p].name + "_volume", "m3"});
  columns_.push_back({"greatest_speed", "m/s"});
}

/// Pieces of the grid's skin, of solids' walls and of both sides of thin walls.
template <int D>
auto Gauges<D>::pieces_of(const NamedWall& wall, int axis, const Grid<D>& grid, const OpenSpace<D>& space) const
    -> std::vector<Piece> {
  using Of = NamedWall::Of;
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  const double face_area = grid.cell_volume() / h[axis] * setup_.thickness;
  std::vector<Piece> pieces;
  for (int b = 0; b < grid.blocks(); ++b) {
    const auto middle = [&](std::ptrdiff_t at) { return cell_middle<D>(grid, b, at); };
    for (int side = 0; side < 2; ++side) {
      if (wall.of != Of::vessel && !(wall.of == Of::side && wall.side == std::array{axis, side})) continue;
      for_skin_faces(grid, b, axis, side, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          const std::ptrdiff_t inside = side == 0 ? face : face - layout.step[axis];
          const double open = space.whole() ? 1.0 : space.area()[axis].block(b)[face];
          if (open <= 0) continue;
          Vec<D> place = middle(inside);
          place[axis] += (side == 0 ? -0.5 : 0.5) * h[axis];
          pieces.push_back({b, inside, (side == 0 ? -1 : 1) * open * face_area, place});
        }
      });
    }
    if (space.whole()) continue;
    const std::size_t own = wall.of == Of::insert ? wall.number : setup_.inserts.size();
    if (wall.of == Of::insert || (wall.of == Of::vessel && setup_.vessel))
      for (const auto& cell : space.wall_cells(b)) {
        const Vec<D> place = middle(cell.at);
        const double area = cell.area * cell.wall[axis] * grid.cell_volume() * setup_.thickness;
        if (area == 0 || nearest_solid(setup_, place) != own) continue;
        // On the wall: from the middle of the cell along its normal.
        Vec<D> on_wall = place;
        if (cuts(cell.open)) {
          double off = cell.open.offset;
          double square = 0;
          for (int d = 0; d < D; ++d) {
            off -= 0.5 * cell.open.normal[d];
            square += std::pow(cell.open.normal[d] / h[d], 2);
          }
          for (int d = 0; d < D; ++d) on_wall[d] += off * cell.open.normal[d] / (h[d] * square);
        } else {
          on_wall[axis] += (area > 0 ? 0.5 : -0.5) * h[axis];
        }
        pieces.push_back({b, cell.at, area, on_wall});
      }
    if (wall.of == Of::thin_wall) {
      const auto& thin = setup_.thin_walls[wall.number];
      const double* closed = space.thin()[axis].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, axis), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t face = o; face < o + n; ++face) {
          Vec<D> place = middle(face);
          place[axis] -= 0.5 * h[axis];
          if (closed[face] == 0 || thin.extent.distance(place) > 0) continue;
          // A face between two blocks: each sees its own side of it.
          const int at = axis_index<D>(layout, face, axis);
          if (at > 0) pieces.push_back({b, face - layout.step[axis], face_area, place});
          if (at < layout.cells[axis]) pieces.push_back({b, face, -face_area, place});
        }
      });
    }
  }
  return pieces;
}

template <int D>
std::vector<double> Gauges<D>::read(const sharp::Model<D>& model) {
  const auto& state = model.state();
  const double liquid = model.liquid_volume() * setup_.thickness;
  const double total = model.open_volume() * setup_.thickness;

  const double speed = model.greatest_speed();
  const auto sum = [](const std::vector<Part>& parts, const Cells<D>& field) {
    double value = 0;
    for (const auto& part : parts) value += part.weight * field.block(part.block)[part.offset];
    return value;
  };

  std::vector<double> row{state.time};
  double reference = 0;
  bool reference_known = false;
  for (std::size_t g = 0; g < setup_.gauges.size(); ++g) {
    const auto& gauge = setup_.gauges[g];
    switch (gauge.measures) {
      case Measure::level:
        row.push_back(base_[g] + sum(parts_[g], state.F));

        break;
      case Measure::pressure: {
        if (!reference_known) reference = model.reference_pressure();
        reference_known = true;
        // The part rho G.x is taken at the point itself, so that a gauge on the floor reads the full head.
        row.push_back(sum(parts_[g], state.p) + model.head(sum(parts_[g], state.F), gauge.at) - reference);
        break;
      }
      case Measure::force: {
        if (!reference_known) reference = model.reference_pressure();
        reference_known = true;
        double force = 0;
        for (const auto& piece : pieces_[g])
          force += piece.area * (state.p.block(piece.block)[piece.offset] +
                                 model.head(state.F.block(piece.block)[piece.offset], piece.place) - reference);
        row.push_back(force);
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
  for (std::size_t i = 0; i < passed_.size(); ++i) {
    const sharp::Passed& now = model.skin().passed()[i];
    for (std::size_t p = 0; p < phase_count(setup_); ++p) {
      const double gained = now.in[p] - passed_[i].in[p] - (now.out[p] - passed_[i].out[p]);
      row.push_back(since > 0 ? gained * setup_.thickness / since : 0.0);
    }
    passed_[i] = now;
  }
  time_ = state.time;
  row.push_back(liquid);
  if (!setup_.gas_left_out) row.push_back(total - liquid);
  row.push_back(speed);
  return row;
}

template class Gauges<2>;
template class Gauges<3>;

}  // namespace wavy
