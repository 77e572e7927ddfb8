// The gauges of agitators: torque, power and what they make of them.
#include <cmath>
#include <memory>
#include <numbers>

#include "run/agitators.hpp"
#include "run/reading_places.hpp"
#include "run/vessel_gauges.hpp"

namespace wavy {
namespace {

constexpr double pi = std::numbers::pi;

/// Volume flow out of the cylinder that an impeller sweeps: of the mean velocities on rings of its surface, where they
/// point outwards [m3/s].
class SweptCylinder {
 public:
  SweptCylinder(const Impeller& impeller, const Vec<3>& middle, const VesselModel<3>& model) {
    const double radius = 0.5 * impeller.diameter;
    const double low = lower_end(impeller);
    const double high = upper_end(impeller);
    const CellMap<3> map(model.grid());
    constexpr int rings = 24;
    constexpr int angles = 72;
    const auto add = [&](double r, double z, double area, bool upright, double outwards) {
      Ring ring;
      ring.area = area;
      for (int i = 0; i < angles; ++i) {
        const double angle = 2 * pi * (i + 0.5) / angles;
        const Vec<3> normal = upright ? Vec<3>{0, 0, outwards} : Vec<3>{std::cos(angle), std::sin(angle), 0};
        const Vec<3> at{middle[0] + r * std::cos(angle), middle[1] + r * std::sin(angle), middle[2] + z};
        bool is_image = false;  // of what is computed
        for (std::size_t d = 0; d < 2; ++d)
          is_image =
              is_image || (turns_below(model.grid().turn(), static_cast<int>(d)) && at[d] < model.grid().lower()[d]);
        if (is_image) continue;
        if (places_.add(at, 1, model, map)) ring.normals.push_back(normal);
      }
      rings_.push_back(ring);
    };
    for (int k = 0; k < rings; ++k) {
      const double share = (k + 0.5) / rings;
      const double height = high - low;
      add(radius, low + share * height, 2 * pi * radius * height / rings, false, 1);
      const double r = share * radius;
      const double area = 2 * pi * r * radius / rings;
      add(r, low, area, true, -1);
      add(r, high, area, true, 1);
    }
  }

  [[nodiscard]] double flow(const CellVectors<3>& u) const {
    double sum = 0;
    std::size_t next = 0;
    for (const Ring& ring : rings_) {
      double mean = 0;
      for (const Vec<3>& normal : ring.normals) {
        const auto& place = places_.list()[next++];
        for (std::size_t d = 0; d < 3; ++d)
          if (normal[d] != 0)
            mean +=
                normal[d] * places_.weighted_sum(place, [&](int b, std::ptrdiff_t at) { return u[d].block(b)[at]; });
      }
      if (!ring.normals.empty()) sum += std::max(0.0, mean / static_cast<double>(ring.normals.size())) * ring.area;
    }
    return sum;
  }

 private:
  struct Ring {
    double area = 0;  ///< [m2]
    std::vector<Vec<3>> normals;
  };
  ReadingPlaces<3> places_;
  std::vector<Ring> rings_;
};

}  // namespace

template <int D>
VesselReader<D> agitator_reader(AgitatorFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                                const VesselModel<D>& model) {
  const auto speed = [&setup, number = gauge.agitator](VesselReading<D>& now) {
    return setup.agitators[number].speed(now.model().time());
  };
  const auto moment = [&setup, number = gauge.agitator, part = gauge.part](VesselReading<D>& now) {
    return torque(setup, now.model(), number, part);
  };
  switch (figure) {
    case AgitatorFigure::torque:
      return moment;
    case AgitatorFigure::power:
      return [=](VesselReading<D>& now) { return moment(now) * speed(now); };
    case AgitatorFigure::power_number:
      return [=, rho = setup.phases[0].properties.density,
              diameter = setup.agitator_parts[*gauge.part].impeller->diameter](VesselReading<D>& now) {
        const double turns = std::abs(speed(now)) / (2 * pi);
        return turns > 0 ? moment(now) * speed(now) / (rho * std::pow(turns, 3) * std::pow(diameter, 5)) : 0.0;
      };
    case AgitatorFigure::pumping_number:
      if constexpr (D == 3) {
        const auto& part = setup.agitator_parts[*gauge.part];
        Vec<3> middle = setup.agitators[gauge.agitator].at;
        middle[2] = part.height;
        const auto swept = std::make_shared<SweptCylinder>(*part.impeller, middle, model);
        return [=, diameter = part.impeller->diameter](VesselReading<3>& now) {
          const double turns = std::abs(speed(now)) / (2 * pi);
          return turns > 0 ? swept->flow(now.model().is_sharp() ? now.model().sharp().state().u
                                                                : now.model().dispersed().volume_velocity()) /
                                 (turns * std::pow(diameter, 3))
                           : 0.0;
        };
      }
      break;
  }
  return [](VesselReading<D>&) { return 0.0; };
}

template VesselReader<2> agitator_reader<2>(AgitatorFigure, const Gauge<2>&, const Setup<2>&, const VesselModel<2>&);
template VesselReader<3> agitator_reader<3>(AgitatorFigure, const Gauge<3>&, const Setup<3>&, const VesselModel<3>&);

}  // namespace wavy
