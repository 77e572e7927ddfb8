// The fields that snapshots hold and that pictures show: one table, read by whoever writes, draws or explains them.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "run/vessel_model.hpp"

namespace wavy {

/// What is known of a field without a model. In `heading` and `title` {denser} and {lighter} stand for the phases.
struct Quantity {
  enum class Scale { share, from_zero, free };  ///< of colours: 0 to 1, 0 to the greatest, least to greatest

  std::string name;
  std::string unit;  ///< "1" of a pure number
  std::string meaning;
  std::string heading;        ///< above a colour bar
  std::string title;          ///< over a picture
  std::string title_alone{};  ///< the same where gas is left out; "" for `title`
  Scale scale = Scale::free;
  int components = 1;       ///< 3: along x, y and z
  bool exact = false;       ///< snapshots keep every digit
  std::string length_of{};  ///< not kept itself: the length of this vector
};

/// Of a cell of the grid: the value in a block at an offset, along an axis (0 of a scalar).
using CellValue = std::function<double(int block, std::ptrdiff_t at, int axis)>;

/// A field of a vessel's model, and how it is had of one. Values are right in all open cells, and reach one cell into
/// solids.
struct VesselQuantity : Quantity {
  std::function<CellValue(const VesselModel<2>&)> of_flat;
  std::function<CellValue(const VesselModel<3>&)> of_solid;
  bool sharp_only = false;  ///< the Eulerian model has none
  enum class Needs { nothing, turbulence, energy };
  Needs needs = Needs::nothing;  ///< a law of turbulence; one of k

  [[nodiscard]] bool known_with(const TurbulenceLaw* law) const {
    return needs == Needs::nothing ||
           (law != nullptr && (needs == Needs::turbulence || law->second != TurbulenceLaw::Second::none));
  }

  [[nodiscard]] CellValue of(const VesselModel<2>& model) const { return of_flat(model); }
  [[nodiscard]] CellValue of(const VesselModel<3>& model) const { return of_solid(model); }
};

/// Those that bear no phase's name, in the order in which snapshots hold them.
const std::vector<VesselQuantity>& vessel_quantities();

/// Of a phase of the Eulerian model, or of the size classes of a fluid together: "air_fraction", "air_velocity" and
/// "air_speed".
std::vector<const VesselQuantity*> phase_quantities(const std::string& phase);

/// Of a tracer: "dye_concentration", and where it dissolves from a gas "oxygen_kla".
std::vector<const VesselQuantity*> tracer_quantities(const std::string& tracer, bool dissolves);
/// The tracer whose concentration it is; empty of anything else.
std::string_view tracer_in(std::string_view quantity);

/// All that a model has, those that are not kept themselves too.
template <int D>
std::vector<const VesselQuantity*> quantities_of(const VesselModel<D>& model);

/// The mean of each over time, then the root mean square of what swings about it: kept only by runs that are asked for
/// it (see RunningMeans). Of vessel_quantities().
const std::vector<VesselQuantity>& mean_quantities();
/// vessel_quantities(), then mean_quantities(): all that snapshots may hold or pictures show without a phase's name.
const std::vector<const VesselQuantity*>& all_quantities();
/// "mean_pressure", "rms_pressure".
std::string mean_name(const Quantity& quantity);
std::string rms_name(const Quantity& quantity);
/// Whether a field or a part of one is a mean or root mean square over time.
bool is_mean(std::string_view name);

/// The field of that name, means too; any word may be a phase's name in "word_fraction". Null where there is none.
const VesselQuantity* find_quantity(const std::string& name);

/// A field, or a part of one: "speed", "velocity_x".
struct QuantityPart {
  const VesselQuantity* quantity = nullptr;
  int axis = 0;
};

/// All there are in so many dimensions without a phase's name; `means`: of mean_quantities().
std::vector<std::string> quantity_parts(int dimensions, bool means = false);
/// The parts of these fields.
std::vector<std::string> parts_of(const std::vector<const VesselQuantity*>& quantities, int dimensions);
/// The part of that name; its quantity is null where there is none.
QuantityPart find_quantity_part(std::string_view name);

/// A part of a field, cell by cell: also of those that are not kept themselves.
template <int D>
CellNumber values_of(const QuantityPart& part, const std::type_identity_t<VesselModel<D>>& model);

}  // namespace wavy
