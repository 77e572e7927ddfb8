// How the gauges of a vessel read what they measure.
#pragma once

#include <array>
#include <functional>
#include <map>
#include <optional>
#include <string>

#include "run/pieces.hpp"
#include "run/quantities.hpp"
#include "run/setup.hpp"

namespace wavy {

/// The model at one time, with what several gauges want of it found once.
template <int D>
class VesselReading {
 public:
  VesselReading(const Setup<D>& setup, const VesselModel<D>& model)
      : model_(model),
        volumes_(model.volumes(setup.thickness)),
        speed_(model.greatest_speed()),
        pieces_(volumes_.size()) {}

  [[nodiscard]] const VesselModel<D>& model() const { return model_; }
  /// Of a phase, the densest one first [m3].
  [[nodiscard]] double volume(int phase) const { return volumes_[static_cast<std::size_t>(phase)]; }
  [[nodiscard]] double greatest_speed() const { return speed_; }
  /// What pressures are told over [Pa].
  [[nodiscard]] double reference_pressure() {
    if (!reference_) reference_ = model_.reference_pressure();
    return *reference_;
  }
  /// A field or a part of one, by its name (see find_quantity_part).
  [[nodiscard]] const CellNumber& values(const std::string& name) {
    const auto found = values_.find(name);
    if (found != values_.end()) return found->second;
    return values_.emplace(name, values_of<D>(find_quantity_part(name), model_)).first->second;
  }
  /// The pieces of a phase (see fluid_pieces).
  [[nodiscard]] const std::vector<FluidPiece<D>>& pieces(const Setup<D>& setup, int phase) {
    auto& found = pieces_[static_cast<std::size_t>(phase)];
    if (!found) found = fluid_pieces<D>(model_, setup, phase);
    return *found;
  }
  /// What a gauge has read now, for formulas of it.
  void keep_reading(const std::string& gauge, double value) { readings_[gauge] = value; }
  [[nodiscard]] double reading(const std::string& gauge) const { return readings_.at(gauge); }

 private:
  VesselModel<D> model_;
  std::vector<double> volumes_;
  double speed_;
  std::optional<double> reference_;
  std::map<std::string, CellNumber> values_;
  std::vector<std::optional<std::vector<FluidPiece<D>>>> pieces_;
  std::map<std::string, double> readings_;
};

/// A gauge of one place, wall or phase.
template <int D>
using VesselReader = std::function<double(VesselReading<D>&)>;

/// Height up to which a phase and all denser ones stand: on the highest solid on which they do, by half a cell or more,
/// else on the floor [m]. Throws an input error where the gauge lies in a solid.
template <int D>
VesselReader<D> level_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// At a point, between the cells round it, over the reference [Pa].
template <int D>
VesselReader<D> pressure_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of the surface over a zone: the greatest of the levels of all columns with a cell of which half lies in it, the
/// least, their mean, or the greatest less the least [m]. Throws an input error where there is none.
enum class SurfaceFigure { highest, lowest, mean, span };
template <int D>
VesselReader<D> surface_reader(SurfaceFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                               const VesselModel<D>& model);
/// Of pressure, friction or both along an axis, on a wall or an insert [N].
enum class ForceOf { pressure, friction, both };
template <int D>
VesselReader<D> force_reader(ForceOf of, const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of pressure and friction about an axis through a point [N m].
template <int D>
VesselReader<D> moment_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);

/// A quantity at a point, between the middles of the open cells round it.
template <int D>
VesselReader<D> value_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// A quantity in a zone, each cell by the volume that is open in it; where gas is left out, of what lies in the liquid.
/// uniformity: 1 - sum V |q - mean| / (2 |mean| sum V), 1 where q is the same everywhere (after Weltens et al., SAE
/// 930780 (1993)). Concentrations count by what their phase fills; `amount` is the sum of those. NaN where there is
/// nothing to read.
enum class ZoneFigure { least, greatest, mean, uniformity, variation, amount, percentile };
template <int D>
VesselReader<D> zone_reader(ZoneFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                            const VesselModel<D>& model);
/// Of a phase in a zone [m3].
template <int D>
VesselReader<D> zone_volume_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of the volume that is open in a zone, what a phase fills [1].
template <int D>
VesselReader<D> zone_share_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Sum of the volumes over the sum of volume over diameter of the size classes of a fluid of the Eulerian model, in a
/// zone [m]. NaN where there is nothing of it.
template <int D>
VesselReader<D> sauter_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of a phase through a plane, towards where its axis points: by what the cells on both sides hold of it, and its
/// velocities there [m3/s].
template <int D>
VesselReader<D> flow_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of the interface between the phases, in a zone [m2].
template <int D>
VesselReader<D> interface_area_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// How far along an axis a phase reaches: where its share falls through a half beyond the furthest cell that it fills
/// by half or more [m]. NaN where it fills none.
template <int D>
VesselReader<D> reach_reader(const Gauge<D>& gauge, const Setup<D>& setup, const VesselModel<D>& model);
/// Of the drops, bubbles and pools of a phase: how many are as large as a cell or larger, or the volume of the largest
/// [m3].
enum class PieceFigure { count, largest };
template <int D>
VesselReader<D> pieces_reader(PieceFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                              const VesselModel<D>& model);

/// Of an agitator or a part of it, as the drive feels it: moment about its axis [N m] and moment times speed [W]; of an
/// impeller P/(rho N^3 D^5) with the density of the densest phase, and what flows out of the cylinder that it sweeps
/// over N D^3 (by the means of velocities on rings). Numbers are 0 while it stands.
enum class AgitatorFigure { torque, power, power_number, pumping_number };
template <int D>
VesselReader<D> agitator_reader(AgitatorFigure figure, const Gauge<D>& gauge, const Setup<D>& setup,
                                const VesselModel<D>& model);

}  // namespace wavy
