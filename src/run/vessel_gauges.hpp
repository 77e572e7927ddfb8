// How the gauges of a vessel read what they measure.
#pragma once

#include <functional>
#include <optional>

#include "run/setup.hpp"

namespace wavy {

/// The model at one time, with what several gauges want of it found once.
template <int D>
class VesselReading {
 public:
  VesselReading(const Setup<D>& setup, const sharp::Model<D>& model)
      : model_(model),
        liquid_(model.liquid_volume() * setup.thickness),
        lighter_(model.open_volume() * setup.thickness - liquid_),
        speed_(model.greatest_speed()) {}

  [[nodiscard]] const sharp::Model<D>& model() const { return model_; }
  /// Of a phase, denser one first [m3].
  [[nodiscard]] double volume(int phase) const { return phase == 0 ? liquid_ : lighter_; }
  [[nodiscard]] double greatest_speed() const { return speed_; }
  /// What pressures are told over [Pa].
  [[nodiscard]] double reference_pressure() {
    if (!reference_) reference_ = model_.reference_pressure();
    return *reference_;
  }

 private:
  const sharp::Model<D>& model_;
  double liquid_, lighter_;
  double speed_;
  std::optional<double> reference_;
};

/// A gauge of one place, wall or phase.
template <int D>
using VesselReader = std::function<double(VesselReading<D>&)>;

/// Height of the surface: that of the highest solid on which liquid stands, by half a cell or more, else on the floor
/// [m]. Throws an input error where the gauge lies in a solid.
template <int D>
VesselReader<D> level_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model);
/// At a point, between the cells round it, over the reference [Pa].
template <int D>
VesselReader<D> pressure_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model);
/// Along an axis, on a wall or an insert [N].
template <int D>
VesselReader<D> force_reader(const Gauge<D>& gauge, const Setup<D>& setup, const sharp::Model<D>& model);

}  // namespace wavy
