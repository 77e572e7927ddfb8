// Where quantities are read: points, lines, planes, walls and zones, each place by the cells round it.
#pragma once

#include <algorithm>
#include <array>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "run/setup.hpp"
#include "run/vessel_gauges.hpp"

namespace wavy {

/// Share of a cell's value in what is read.
struct Sample {
  int block = 0;
  std::ptrdiff_t offset = 0;
  double weight = 0;
};

/// The two cell centres round a coordinate along one axis and the weight of the upper one; the outermost half cells
/// take the nearest centre.
struct Between {
  int lower = 0;
  int upper = 0;
  double weight = 0;
};
Between between(double x, double lower, double spacing, int cells);

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

template <int D>
class ReadingPlaces {
 public:
  struct Place {
    Vec<D> at{};      ///< [m]
    double size = 1;  ///< of the part of a zone, a wall, a plane or a line that it stands for [m3, m2 or m]
    std::size_t first = 0;
    std::size_t count = 0;  ///< of its samples, whose weights add up to 1
  };

  /// Adds a place, read between the middles of the open cells round it; its size shrinks by what is not open there.
  /// Returns false, and adds nothing, where there are none.
  bool add(const Vec<D>& at, double size, const VesselModel<D>& model, const CellMap<D>& map);
  /// Adds a place that reads one cell.
  void add(const Vec<D>& at, double size, int block, std::ptrdiff_t offset);

  [[nodiscard]] const std::vector<Place>& list() const { return places_; }
  /// Of every place: the quantity there. Pressures hold at the place itself, also where it lies beside the middles of
  /// the outermost cells: at a wall that is the pressure on it.
  [[nodiscard]] std::function<double(const Place&)> read(const std::string& quantity, VesselReading<D>& now) const;
  /// Of every place: whether there is something to read of the quantity. Where gas is left out only the fraction is
  /// anything in it, and a tracer is where its phase is.
  [[nodiscard]] std::function<bool(const Place&)> has(const std::string& quantity, const VesselReading<D>& now) const;
  /// Sum of value(block, offset) by the weights of the samples of a place.
  template <class Value>
  [[nodiscard]] double weighted_sum(const Place& place, Value&& value) const {
    double sum = 0;
    for (std::size_t i = place.first; i < place.first + place.count; ++i)
      sum += samples_[i].weight * value(samples_[i].block, samples_[i].offset);
    return sum;
  }

 private:
  std::vector<Place> places_;
  std::vector<Sample> samples_;
};

/// Of a tracer's concentration: how much of a cell the phase fills that carries it. Empty of all else.
template <int D>
CellNumber share_of_carrier(const std::string& quantity, const VesselModel<D>& model);

/// The point of a gauge. Throws an input error where it lies in a solid.
template <int D>
ReadingPlaces<D> point_of(const Gauge<D>& gauge, const VesselModel<D>& model);

/// What a gauge's zone is made of: cells of a zone, or of the whole vessel; elements of a wall; in a box without
/// thickness, which is a plane or a line, one place per cell that it crosses. Throws an input error where there is
/// none.
template <int D>
ReadingPlaces<D> zone_of(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);

/// The same in the order in which they are walked along: lines from their lower or first end; in 2-D walls from their
/// lowest piece on, each followed by the nearest that is left; all else by z, y and x.
/// `distance` is set to how far each is along a line or a wall in 2-D [m], and left empty for all else.
template <int D>
std::vector<typename ReadingPlaces<D>::Place> in_order(const ReadingPlaces<D>& places, const Gauge<D>& gauge,
                                                       const Setup<D>& setup, std::vector<double>& distance);

/// Axes along which a zone has no thickness: of boxes only.
template <int D>
std::vector<int> flat_axes(const std::optional<Shape<D>>& zone);

/// The elements of the wall of that name.
template <int D>
std::vector<WallElement<D>> elements_of(const NamedWall& wall, const Setup<D>& setup, const VesselModel<D>& model);

}  // namespace wavy
