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
#include "run/vessel_gauges.hpp"

namespace wavy {
namespace {

/// A cell that lies in a zone, wholly or in part.
struct Share {
  int block = 0;
  std::ptrdiff_t at = 0;
  double volume = 0;  ///< open and in the zone [m3]
};

/// Throws an input error where there is none.
template <int D>
std::vector<Share> cells_of(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  const Grid<D>& grid = model.grid();
  std::vector<Share> cells;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double open = OpenVolumes<D>(model.space(), b)[o];
    const double share = gauge.zone ? covered_share<D>(grid, model.space(), b, o, cell, *gauge.zone) : 1.0;
    if (open * share > 0) cells.push_back({b, o, share * open * grid.cell_volume() * setup.thickness});
  });
  if (cells.empty())
    throw input_error(gauge.place, fmt::format("in the zone of the gauge '{}' there is no fluid", gauge.name),
                      "choose a zone in the vessel");
  return cells;
}

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

/// Of a phase, denser one first [m3].
template <int D>
double volume_in(const std::vector<Share>& cells, int phase, const sharp::Model<D>& model) {
  double sum = 0;
  for (const auto& cell : cells) {
    const double F = model.state().F.block(cell.block)[cell.at];
    sum += cell.volume * (phase == 0 ? F : 1 - F);
  }
  return sum;
}

}  // namespace

template <int D>
VesselReader<D> zone_reader(ZoneFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                            const sharp::Model<D>& model) {
  // Only the fraction is anything where gas is left out.
  const bool in_liquid = setup.free_surface_only && gauge.quantity != "fraction";
  return [cells = cells_of(gauge, setup, model), figure, in_liquid, quantity = gauge.quantity,
          percent = gauge.percent](VesselReading<D>& now) {
    const auto& value = now.values(quantity);
    std::vector<Value> values;
    values.reserve(cells.size());
    for (const auto& cell : cells)
      if (!in_liquid || now.model().state().F.block(cell.block)[cell.at] >= 0.5)
        values.push_back({value(cell.block, cell.at), cell.volume});
    if (values.empty()) return std::numeric_limits<double>::quiet_NaN();
    switch (figure) {
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
VesselReader<D> zone_volume_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  if (!gauge.zone) return [phase = gauge.phase](VesselReading<D>& now) { return now.volume(phase); };
  return [cells = cells_of(gauge, setup, model), phase = gauge.phase](VesselReading<D>& now) {
    return volume_in(cells, phase, now.model());
  };
}

template <int D>
VesselReader<D> zone_share_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  auto cells = cells_of(gauge, setup, model);
  double all = 0;
  for (const auto& cell : cells) all += cell.volume;
  return [cells = std::move(cells), all, phase = gauge.phase](VesselReading<D>& now) {
    return volume_in(cells, phase, now.model()) / all;
  };
}

template VesselReader<2> zone_reader<2>(ZoneFigure, const Gauge<2>&, const Setup<2>&, const sharp::Model<2>&);
template VesselReader<2> zone_volume_reader<2>(const Gauge<2>&, const Setup<2>&, const sharp::Model<2>&);
template VesselReader<2> zone_share_reader<2>(const Gauge<2>&, const Setup<2>&, const sharp::Model<2>&);
template VesselReader<3> zone_reader<3>(ZoneFigure, const Gauge<3>&, const Setup<3>&, const sharp::Model<3>&);
template VesselReader<3> zone_volume_reader<3>(const Gauge<3>&, const Setup<3>&, const sharp::Model<3>&);
template VesselReader<3> zone_share_reader<3>(const Gauge<3>&, const Setup<3>&, const sharp::Model<3>&);

}  // namespace wavy
