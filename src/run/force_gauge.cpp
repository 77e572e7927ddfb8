// The gauges of force and moment: pressure and friction on a wall or an insert.
#include <algorithm>
#include <cmath>

#include "flow/wall_elements.hpp"
#include "run/reading_places.hpp"
#include "run/vessel_gauges.hpp"

namespace wavy {
namespace {

/// What acts on walls: of each element the force by pressure, over the reference, and by friction [N].
template <int D>
class ForcesOnWall {
 public:
  ForcesOnWall(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model)
      : elements_(elements_of(gauge.wall, setup, model)), cell_volume_(model.grid().cell_volume() * setup.thickness) {}

  /// fn(place, force) for each element.
  template <class Fn>
  void each(ForceOf of, VesselReading<D>& now, Fn&& fn) const {
    const VesselModel<D>& model = now.model();
    for (const auto& element : elements_) {
      Vec<D> force{};
      if (of != ForceOf::pressure) force = model.drag(element);
      if (of != ForceOf::friction) {
        const auto own = [&](const Cells<D>& field) { return field.block(element.block)[element.at]; };
        const double pressure =
            own(model.reduced_pressure()) + model.hydrostatic_pressure(own, element.place) - now.reference_pressure();
        for (std::size_t d = 0; d < D; ++d) force[d] += element.area * element.normal[d] * pressure;
      }
      for (double& component : force) component *= cell_volume_;
      fn(element.place, force);
    }
  }

 private:
  std::vector<WallElement<D>> elements_;
  double cell_volume_;
};

}  // namespace

template <int D>
VesselReader<D> force_reader(ForceOf of, const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  return [of, forces = ForcesOnWall<D>(gauge, setup, model),
          axis = static_cast<std::size_t>(gauge.axis)](VesselReading<D>& now) {
    double sum = 0;
    forces.each(of, now, [&](const Vec<D>&, const Vec<D>& force) { sum += force[axis]; });
    return sum;
  };
}

template <int D>
VesselReader<D> moment_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model) {
  const auto a = static_cast<std::size_t>((gauge.axis + 1) % 3);
  const auto b = static_cast<std::size_t>((gauge.axis + 2) % 3);
  return [forces = ForcesOnWall<D>(gauge, setup, model), about = gauge.at, a, b](VesselReading<D>& now) {
    double sum = 0;
    forces.each(ForceOf::both, now, [&](const Vec<D>& place, const Vec<D>& force) {
      sum += (place[a] - about[a]) * force[b] - (place[b] - about[b]) * force[a];
    });
    return sum;
  };
}

template VesselReader<2> force_reader<2>(ForceOf, const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<2> moment_reader<2>(const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<3> force_reader<3>(ForceOf, const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);
template VesselReader<3> moment_reader<3>(const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);

}  // namespace wavy
