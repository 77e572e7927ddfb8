// The gauge of force: pressure and friction on a wall or an insert.
#include <algorithm>
#include <cmath>

#include "flow/wall_elements.hpp"
#include "run/vessel_gauges.hpp"

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

/// Force of pressure, over the reference, and of friction along an axis [N].
template <int D>
double force(const std::vector<WallElement<D>>& elements, int axis, const sharp::Model<D>& model, double cell_volume,
             double reference) {
  const auto& state = model.state();
  const auto along = static_cast<std::size_t>(axis);
  std::vector<RigidMotion<D>> motions;
  for (const auto& motion : model.settings().moving_walls.motions) motions.push_back(motion(state.time));
  double sum = 0;
  for (const auto& element : elements) {
    const double area = element.area * cell_volume;
    if (element.normal[along] != 0) {
      const double F = state.F.block(element.block)[element.at];
      const double pressure =
          state.p.block(element.block)[element.at] + model.hydrostatic_pressure(F, element.place) - reference;
      sum += area * element.normal[along] * pressure;
    }
    if (element.of != WallElement<D>::Of::side) {
      if (element.of == WallElement<D>::Of::solid || element.axis != axis)
        sum += cell_volume * model.drag(element)[along];
    } else if (element.axis != axis && element.kind == Wall::no_slip) {
      const Vec<D> wall =
          element.motion < 0 ? Vec<D>{} : motions[static_cast<std::size_t>(element.motion)].at(element.place);
      sum += area * model.friction(element.block, element.at, element.axis, wall)[along];
    }
  }
  return sum;
}

}  // namespace

template <int D>
VesselReader<D> force_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model) {
  const OfNamedWall<D> is_own(gauge.wall, setup);
  std::vector<WallElement<D>> elements;
  for (const auto& of_block : model.wall_elements())
    for (const auto& element : of_block)
      if (is_own(element)) elements.push_back(element);
  return [elements = std::move(elements), axis = gauge.axis,
          cell_volume = model.grid().cell_volume() * setup.thickness](VesselReading<D>& now) {
    return force(elements, axis, now.model(), cell_volume, now.reference_pressure());
  };
}

template VesselReader<2> force_reader<2>(const Gauge<2>&, const Setup<2>&, const sharp::Model<2>&);
template VesselReader<3> force_reader<3>(const Gauge<3>&, const Setup<3>&, const sharp::Model<3>&);

}  // namespace wavy
