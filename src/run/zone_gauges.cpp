// Gauges of what lies in a zone: a part of the vessel, each cell by the volume that is open of it there.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <memory>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "mesh/cover.hpp"
#include "run/pieces.hpp"
#include "run/reading_places.hpp"

namespace wavy {
namespace {

struct Value {
  double value = 0;
  double volume = 0;  ///< [m3]
};

double mean_of(const std::vector<Value>& values) {
  double sum = 0;
  double volume = 0;
  for (const auto& one : values) {
    sum += one.value * one.volume;
    volume += one.volume;
  }
  return sum / volume;
}

double uniformity_of(const std::vector<Value>& values) {
  const double mean = mean_of(values);
  double away = 0;
  double volume = 0;
  for (const auto& one : values) {
    away += one.volume * std::abs(one.value - mean);
    volume += one.volume;
  }
  return away == 0 ? 1.0 : 1 - away / (2 * std::abs(mean) * volume);
}

/// Standard deviation over the mean; 0 where all is 0.
double variation_of(const std::vector<Value>& values) {
  const double mean = mean_of(values);
  double square = 0;
  double volume = 0;
  for (const auto& one : values) {
    square += one.volume * std::pow(one.value - mean, 2);
    volume += one.volume;
  }
  return square == 0 ? 0.0 : std::sqrt(square / volume) / std::abs(mean);
}

/// The least value that `percent` of the volume does not exceed.
double percentile_of(std::vector<Value> values, double percent) {
  std::ranges::sort(values, {}, &Value::value);
  double all = 0;
  for (const auto& one : values) all += one.volume;
  double below = 0;
  for (const auto& one : values) {
    below += one.volume;
    if (below >= percent / 100 * all) return one.value;
  }
  return values.back().value;
}

/// How much there is of phases in the zone of a gauge, or in the whole vessel [m3].
template <int D>
class Volumes {
 public:
  Volumes(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
    if (!gauge.zone) {
      room_ = model.open_volume() * setup.thickness;
      return;
    }
    zone_ = zone_of(gauge, setup, model);
    for (const auto& place : zone_->list()) room_ += place.size;
  }
  [[nodiscard]] double room() const { return room_; }
  /// Of the phases from `first` up to and without `end`.
  [[nodiscard]] double of(std::size_t first, std::size_t end, const VesselReading<D>& now) const {
    double sum = 0;
    if (!zone_) {
      for (std::size_t p = first; p < end; ++p) sum += now.volume(static_cast<int>(p));
      return sum;
    }
    const CellNumber share = now.model().share(first, end);
    for (const auto& place : zone_->list()) sum += place.size * zone_->weighted_sum(place, share);
    return sum;
  }

 private:
  std::optional<ReadingPlaces<D>> zone_;
  double room_ = 0;
};

}  // namespace

template <int D>
VesselReader<D> zone_reader(ZoneFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                            const VesselModel<D>& model) {
  return [zone = zone_of(gauge, setup, model), figure, quantity = gauge.quantity,
          percent = gauge.percent](VesselReading<D>& now) {
    const auto value = zone.read(quantity, now);
    const auto has = zone.has(quantity, now);
    const CellNumber carrier = share_of_carrier(quantity, now.model());
    std::vector<Value> values;
    values.reserve(zone.list().size());
    for (const auto& place : zone.list()) {
      if (!has(place)) continue;
      const double share = carrier ? zone.weighted_sum(place, carrier) : 1.0;
      values.push_back({value(place), place.size * share});
    }
    if (values.empty()) return std::numeric_limits<double>::quiet_NaN();
    switch (figure) {
      case ZoneFigure::variation:
        return variation_of(values);
      case ZoneFigure::amount: {
        double sum = 0;
        for (const auto& one : values) sum += one.value * one.volume;
        return sum;
      }
      case ZoneFigure::least:
        return std::ranges::min_element(values, {}, &Value::value)->value;
      case ZoneFigure::greatest:
        return std::ranges::max_element(values, {}, &Value::value)->value;
      case ZoneFigure::mean:
        return mean_of(values);
      case ZoneFigure::uniformity:
        return uniformity_of(values);
      case ZoneFigure::percentile:
        return percentile_of(std::move(values), percent);
    }
    return 0.0;
  };
}

template <int D>
VesselReader<D> zone_volume_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  return [volumes = Volumes<D>(gauge, setup, model), first = gauge.first_phase(),
          end = gauge.end_phase()](VesselReading<D>& now) { return volumes.of(first, end, now); };
}

template <int D>
VesselReader<D> zone_share_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  return [volumes = Volumes<D>(gauge, setup, model), first = gauge.first_phase(),
          end = gauge.end_phase()](VesselReading<D>& now) { return volumes.of(first, end, now) / volumes.room(); };
}

template <int D>
VesselReader<D> sauter_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  return [volumes = Volumes<D>(gauge, setup, model), first = gauge.first_phase(), end = gauge.end_phase(),
          &phases = setup.eulerian->phases](VesselReading<D>& now) {
    double volume = 0;
    double over_diameter = 0;
    for (std::size_t p = first; p < end; ++p) {
      const double own = volumes.of(p, p + 1, now);
      volume += own;
      over_diameter += own / phases[p].diameter;
    }
    return volume > 0 ? volume / over_diameter : std::numeric_limits<double>::quiet_NaN();
  };
}

template <int D>
VesselReader<D> flow_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  const int axis = flat_axes<D>(gauge.zone).front();
  return [zone = zone_of(gauge, setup, model), first = gauge.first_phase(), end = gauge.end_phase(),
          axis](VesselReading<D>& now) {
    const CellNumber share = now.model().share(first, end);
    const CellNumber u = now.model().velocity(first, end, axis);
    double sum = 0;
    for (const auto& place : zone.list())
      sum += place.size *
             zone.weighted_sum(place, [&](int block, std::ptrdiff_t at) { return share(block, at) * u(block, at); });
    return sum;
  };
}

template <int D>
VesselReader<D> interface_area_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  if (setup.eulerian)
    return [volumes = Volumes<D>(gauge, setup, model), &phases = setup.eulerian->phases](VesselReading<D>& now) {
      constexpr double sphere = 6;  // area over volume and diameter
      double sum = 0;
      for (std::size_t p = 0; p < phases.size(); ++p)
        if (!phases[p].carrier) sum += sphere * volumes.of(p, p + 1, now) / phases[p].diameter;
      return sum;
    };
  // How much of each cell counts, where there is a zone.
  std::optional<Cells<D>> counted;
  if (gauge.zone) {
    counted.emplace(model.grid());
    cover<D>(model.grid(), *counted, *gauge.zone, model.space());
  }
  return [counted = std::move(counted), thickness = setup.thickness](VesselReading<D>& now) {
    double sum = 0;
    now.model().sharp().for_interface([&](const sharp::InterfacePiece<D>& piece) {
      sum += piece.area * (counted ? counted->block(piece.block)[piece.at] : 1.0);
    });
    return thickness * sum;
  };
}

template <int D>
VesselReader<D> reach_reader(const Gauge<D>& gauge, const Setup<D>&, const VesselModel<D>&) {
  return [first = gauge.first_phase(), end = gauge.end_phase(), axis = gauge.axis](VesselReading<D>& now) {
    const auto& model = now.model();
    const Grid<D>& grid = model.grid();
    const CellNumber share = model.share(first, end);
    const std::ptrdiff_t step = grid.layout().step[static_cast<std::size_t>(axis)];
    const double h = grid.spacing()[axis];
    double reach = std::numeric_limits<double>::quiet_NaN();
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      if (open_share(model.space(), b, o) == 0) return;
      const double own = share(b, o);
      if (own < 0.5) return;
      double place = grid.lower()[axis] + (cell[axis] + 1) * h;
      const bool last = cell[axis] + 1 == grid.cells()[axis];
      if (!last && open_share(model.space(), b, o + step) > 0) {
        const double next = share(b, o + step);
        if (next < 0.5) place += h * ((own - 0.5) / (own - next) - 0.5);
      }
      if (!(place <= reach)) reach = place;
    });
    return reach;
  };
}

template <int D>
VesselReader<D> pieces_reader(PieceFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                              const VesselModel<D>& model) {
  return [figure, &setup, phase = gauge.phase, least = whole_cell_volume(setup, model.grid())](VesselReading<D>& now) {
    const auto& pieces = now.pieces(setup, phase);
    if (figure == PieceFigure::largest) return pieces.empty() ? 0.0 : pieces.front().volume;
    int count = 0;
    for (const auto& piece : pieces)
      if (piece.volume >= least) count += piece.copies;
    return static_cast<double>(count);
  };
}

template VesselReader<2> zone_reader<2>(ZoneFigure, const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> zone_volume_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> zone_share_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> sauter_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<3> sauter_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<2> flow_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> interface_area_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> reach_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> pieces_reader<2>(PieceFigure, const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<3> zone_reader<3>(ZoneFigure, const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> zone_volume_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> zone_share_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> flow_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> interface_area_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> reach_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> pieces_reader<3>(PieceFigure, const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);

}  // namespace wavy
