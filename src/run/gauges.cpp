#include "run/gauges.hpp"

#include <algorithm>
#include <cmath>

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
    }
  }
  for (const auto& opening : setup.openings)
    for (std::size_t p = 0; p < phase_count(setup); ++p)
      columns_.push_back({flow_column(opening.opening.name, setup.phases[p].name), "m3/s"});
  for (std::size_t p = 0; p < phase_count(setup); ++p) columns_.push_back({setup.phases[p].name + "_volume", "m3"});
  columns_.push_back({"greatest_speed", "m/s"});
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
