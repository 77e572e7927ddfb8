// The fields that snapshots hold and that pictures show: one table, read by whoever writes, draws or explains them.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "sharp/model.hpp"

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

/// A field of the sharp model, and how it is had of one. Values are right in all open cells, and reach one cell into
/// solids.
struct SharpQuantity : Quantity {
  std::function<CellValue(const sharp::Model<2>&)> of_flat;
  std::function<CellValue(const sharp::Model<3>&)> of_solid;

  [[nodiscard]] CellValue of(const sharp::Model<2>& model) const { return of_flat(model); }
  [[nodiscard]] CellValue of(const sharp::Model<3>& model) const { return of_solid(model); }
};

/// In the order in which snapshots hold them.
const std::vector<SharpQuantity>& sharp_quantities();

/// The mean of each of them over time, then the root mean square of what swings about it: kept only by runs that are
/// asked for it (see RunningMeans).
const std::vector<SharpQuantity>& mean_quantities();
/// Both lists: all that a snapshot may hold or a picture show.
const std::vector<const SharpQuantity*>& all_quantities();
/// "mean_pressure", "rms_pressure".
std::string mean_name(const Quantity& quantity);
std::string rms_name(const Quantity& quantity);
/// Whether a field or a part of one is of mean_quantities().
bool is_mean(std::string_view name);

/// The field of that name, means too; null where there is none.
const Quantity* find_quantity(const std::string& name);

/// A field, or a part of one: "speed", "velocity_x".
struct QuantityPart {
  const SharpQuantity* quantity = nullptr;
  int axis = 0;
};

/// All there are in so many dimensions; `means`: of mean_quantities().
std::vector<std::string> quantity_parts(int dimensions, bool means = false);
/// The part of that name; its quantity is null where there is none.
QuantityPart find_quantity_part(std::string_view name);

/// A part of a field, cell by cell: also of those that are not kept themselves.
template <int D>
std::function<double(int block, std::ptrdiff_t at)> values_of(const QuantityPart& part, const sharp::Model<D>& model);

}  // namespace wavy
