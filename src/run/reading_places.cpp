#include "run/reading_places.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <utility>

#include "base/error.hpp"
#include "mesh/cover.hpp"

namespace wavy {
namespace {

/// Whether an element belongs to the wall that a gauge names.
template <int D>
class OfNamedWall {
 public:
  OfNamedWall(const NamedWall& wall, const Setup<D>& setup) : wall_(wall), setup_(setup) {}

  bool operator()(const WallElement<D>& element) const {
    using Of = NamedWall::Of;
    switch (element.of) {
      case WallElement<D>::Of::side:
        return wall_.of == Of::vessel ||
               (wall_.of == Of::side &&
                wall_.side == std::array{element.axis, element.normal[axis(element)] > 0 ? 1 : 0});
      case WallElement<D>::Of::solid:
        if (wall_.of == Of::insert) return nearest_solid(setup_, element.middle) == wall_.number;
        return wall_.of == Of::vessel && setup_.vessel &&
               nearest_solid(setup_, element.middle) == setup_.inserts.size();
      case WallElement<D>::Of::thin:
        // Also what stands as a thin wall where an insert is thinner than a cell.
        if (wall_.of == Of::thin_wall) return covers(setup_.thin_walls[wall_.number], element.place);
        return wall_.of == Of::insert && nearest_solid(setup_, element.place) == wall_.number &&
               std::ranges::none_of(setup_.thin_walls, [&](const auto& wall) { return covers(wall, element.place); });
    }
    return false;
  }

 private:
  static std::size_t axis(const WallElement<D>& element) { return static_cast<std::size_t>(element.axis); }
  static bool covers(const ThinWall<D>& wall, const Vec<D>& place) { return wall.extent.distance(place) <= 0; }

  const NamedWall& wall_;
  const Setup<D>& setup_;
};

}  // namespace

Between between(double x, double lower, double spacing, int cells) {
  const double place = std::clamp((x - lower) / spacing - 0.5, 0.0, cells - 1.0);
  Between result;
  result.lower = std::min(static_cast<int>(place), cells - 1);
  result.upper = std::min(result.lower + 1, cells - 1);
  result.weight = place - result.lower;
  return result;
}

template <int D>
std::vector<WallElement<D>> elements_of(const NamedWall& wall, const Setup<D>& setup, const VesselModel<D>& model) {
  std::vector<WallElement<D>> elements;
  const OfNamedWall<D> is_own(wall, setup);
  for (const auto& of_block : model.wall_elements())
    for (const auto& element : of_block)
      if (is_own(element)) elements.push_back(element);
  return elements;
}

template <int D>
bool ReadingPlaces<D>::add(const Vec<D>& at, double size, const VesselModel<D>& model, const CellMap<D>& map) {
  Place place{at, size, samples_.size(), 0};
  double sum = 0;
  double open = 0;
  for_cells_round<D>(model.grid(), at, D, [&](const Index<D>& cell, double weight) {
    const CellPlace there = map(cell);
    const double share = open_share(model.space(), there.block, there.at);
    if (share == 0) return;
    samples_.push_back({there.block, there.at, weight});
    sum += weight;
    open += weight * share;
    ++place.count;
  });
  if (place.count == 0) return false;
  if (sum < 1)
    for (std::size_t i = place.first; i < samples_.size(); ++i) samples_[i].weight /= sum;
  place.size *= open;
  places_.push_back(place);
  return true;
}

template <int D>
void ReadingPlaces<D>::add(const Vec<D>& at, double size, int block, std::ptrdiff_t offset) {
  places_.push_back({at, size, samples_.size(), 1});
  samples_.push_back({block, offset, 1});
}

template <int D>
std::function<double(const typename ReadingPlaces<D>::Place&)> ReadingPlaces<D>::read(const std::string& quantity,
                                                                                      VesselReading<D>& now) const {
  if (quantity == "pressure")
    return [this, &now](const Place& place) {
      const auto sum = [&](const Cells<D>& field) {
        return weighted_sum(place, [&](int block, std::ptrdiff_t o) { return field.block(block)[o]; });
      };
      // The part rho G.x is taken at the place itself, so that the floor has the full head.
      return sum(now.model().reduced_pressure()) + now.model().hydrostatic_pressure(sum, place.at) -
             now.reference_pressure();
    };
  const auto& value = now.values(quantity);
  if (const CellNumber carrier = share_of_carrier(quantity, now.model()))
    return [this, &value, carrier](const Place& place) {
      const double held = weighted_sum(place, carrier);
      const auto own = [&](int block, std::ptrdiff_t at) { return carrier(block, at) * value(block, at); };
      return held > 0 ? weighted_sum(place, own) / held : std::numeric_limits<double>::quiet_NaN();
    };
  return [this, &value](const Place& place) { return weighted_sum(place, value); };
}

template <int D>
std::function<bool(const typename ReadingPlaces<D>::Place&)> ReadingPlaces<D>::has(const std::string& quantity,
                                                                                   const VesselReading<D>& now) const {
  if (const CellNumber carrier = share_of_carrier(quantity, now.model()))
    return [this, carrier](const Place& place) { return weighted_sum(place, carrier) > 1e-9; };
  if (!now.model().free_surface_only() || quantity == "fraction") return [](const Place&) { return true; };
  return [this, &F = now.model().sharp().state().F](const Place& place) {
    return weighted_sum(place, [&](int block, std::ptrdiff_t at) { return F.block(block)[at]; }) >= 0.5;
  };
}

template <int D>
CellNumber share_of_carrier(const std::string& quantity, const VesselModel<D>& model) {
  const std::string_view name = tracer_in(quantity);
  const auto tracer = name.empty() ? std::nullopt : model.find_tracer(name);
  if (!tracer) return {};
  const std::size_t phase = model.tracers().settings()[*tracer].phase;
  return model.share(phase, phase + 1);
}

template <int D>
ReadingPlaces<D> point_of(const Gauge<D>& gauge, const VesselModel<D>& model) {
  ReadingPlaces<D> places;
  if (!places.add(gauge.at, 1, model, CellMap<D>(model.grid())))
    throw input_error(gauge.place, fmt::format("the gauge '{}' lies in a solid", gauge.name),
                      "move it to where the fluid is");
  return places;
}

template <int D>
std::vector<int> flat_axes(const std::optional<Shape<D>>& zone) {
  std::vector<int> axes;
  const auto* box = zone ? std::get_if<AlignedBox<D>>(&*zone) : nullptr;
  for (int d = 0; d < D && box != nullptr; ++d)
    if (box->upper[d] == box->lower[d]) axes.push_back(d);
  return axes;
}

template <int D>
ReadingPlaces<D> zone_of(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  const Grid<D>& grid = model.grid();
  const OpenSpace<D>& space = model.space();
  ReadingPlaces<D> places;
  const auto flat = flat_axes<D>(gauge.zone);
  if (!gauge.wall.name.empty()) {
    for (const auto& element : elements_of(gauge.wall, setup, model))
      places.add(element.place, element.area * grid.cell_volume() * setup.thickness, element.block, element.at);
  } else if (gauge.line) {
    const auto& [from, to] = *gauge.line;
    double length = 0;
    for (int d = 0; d < D; ++d) length += (to[d] - from[d]) * (to[d] - from[d]);
    length = std::sqrt(length);
    const double finest = *std::ranges::min_element(grid.spacing());
    const int count = std::max(2, static_cast<int>(std::ceil(2 * length / finest)));
    const CellMap<D> map(grid);
    for (int i = 0; i < count; ++i) {
      Vec<D> at;
      for (int d = 0; d < D; ++d) at[d] = from[d] + (i + 0.5) / count * (to[d] - from[d]);
      places.add(at, length / count, model, map);
    }
  } else if (flat.empty()) {
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      const double open = OpenVolumes<D>(space, b)[o];
      const double share = gauge.zone ? covered_share<D>(grid, space, b, o, cell, *gauge.zone) : 1.0;
      if (open * share > 0)
        places.add(cell_middle<D>(grid, b, o), share * open * grid.cell_volume() * setup.thickness, b, o);
    });
  } else {
    const auto& box = std::get<AlignedBox<D>>(*gauge.zone);
    const CellMap<D> map(grid);
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      // One cell of each row across the plane or line; the place lies on it.
      Vec<D> at = cell_middle<D>(grid, b, o);
      double size = setup.thickness * space.weight(b, grid.layout(), o);
      for (int d = 0; d < D; ++d) {
        const double h = grid.spacing()[d];
        const double lower = grid.lower()[d] + cell[d] * h;
        if (std::ranges::find(flat, d) != flat.end()) {
          if (cell[d] != 0) return;
          at[d] = box.lower[d];
          continue;
        }
        const double from = std::max(lower, box.lower[d]);
        const double to = std::min(lower + h, box.upper[d]);
        if (to <= from) return;
        at[d] = 0.5 * (from + to);
        size *= to - from;
      }
      places.add(at, size, model, map);
    });
  }
  if (places.list().empty())
    throw input_error(gauge.place, fmt::format("in the zone of the gauge '{}' there is no fluid", gauge.name),
                      "choose a zone in the vessel");
  return places;
}

template <int D>
std::vector<typename ReadingPlaces<D>::Place> in_order(const ReadingPlaces<D>& places, const Gauge<D>& gauge,
                                                       const Setup<D>& setup, std::vector<double>& distance) {
  auto list = places.list();
  distance.clear();
  const auto upwards = [](const auto& a, const auto& b) {
    return std::lexicographical_compare(a.at.rbegin(), a.at.rend(), b.at.rbegin(), b.at.rend());
  };
  const auto apart = [](const Vec<D>& a, const Vec<D>& b) {
    double square = 0;
    for (int d = 0; d < D; ++d) square += (a[d] - b[d]) * (a[d] - b[d]);
    return std::sqrt(square);
  };
  const bool is_wall = !gauge.wall.name.empty();
  const bool is_line = gauge.line || (!is_wall && flat_axes<D>(gauge.zone).size() == D - 1);
  if (!gauge.line) std::ranges::sort(list, upwards);
  if (is_wall && D == 2) {
    // Each piece is followed by the nearest one that is left.
    for (std::size_t i = 0; i + 1 < list.size(); ++i) {
      const auto nearest = std::min_element(
          list.begin() + static_cast<std::ptrdiff_t>(i) + 1, list.end(),
          [&](const auto& a, const auto& b) { return apart(a.at, list[i].at) < apart(b.at, list[i].at); });
      std::iter_swap(list.begin() + static_cast<std::ptrdiff_t>(i) + 1, nearest);
    }
  }
  if (!is_line && !(is_wall && D == 2)) return list;
  // From the end of a line; along walls from the edge of the first piece.
  const Vec<D>* start = gauge.line ? &gauge.line->front() : nullptr;
  if (start == nullptr && is_line) start = &std::get<AlignedBox<D>>(*gauge.zone).lower;
  double walked = is_wall && !list.empty() ? 0.5 * list.front().size / setup.thickness : 0;
  for (std::size_t i = 0; i < list.size(); ++i) {
    if (start != nullptr)
      walked = apart(*start, list[i].at);
    else
      walked += i > 0 ? apart(list[i - 1].at, list[i].at) : 0;
    distance.push_back(walked);
  }
  return list;
}

template class ReadingPlaces<2>;
template std::vector<WallElement<2>> elements_of<2>(const NamedWall&, const Setup<2>&, const VesselModel<2>&);
template CellNumber share_of_carrier<2>(const std::string&, const VesselModel<2>&);
template CellNumber share_of_carrier<3>(const std::string&, const VesselModel<3>&);
template ReadingPlaces<2> point_of<2>(const Gauge<2>&, const VesselModel<2>&);
template ReadingPlaces<2> zone_of<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template std::vector<ReadingPlaces<2>::Place> in_order<2>(const ReadingPlaces<2>&, const Gauge<2>&, const Setup<2>&,
                                                          std::vector<double>&);
template std::vector<int> flat_axes<2>(const std::optional<Shape<2>>&);
template class ReadingPlaces<3>;
template std::vector<WallElement<3>> elements_of<3>(const NamedWall&, const Setup<3>&, const VesselModel<3>&);
template ReadingPlaces<3> point_of<3>(const Gauge<3>&, const VesselModel<3>&);
template ReadingPlaces<3> zone_of<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template std::vector<ReadingPlaces<3>::Place> in_order<3>(const ReadingPlaces<3>&, const Gauge<3>&, const Setup<3>&,
                                                          std::vector<double>&);
template std::vector<int> flat_axes<3>(const std::optional<Shape<3>>&);

}  // namespace wavy
