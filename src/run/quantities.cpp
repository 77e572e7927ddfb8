#include "run/quantities.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <memory>
#include <utility>

#include "base/error.hpp"

namespace wavy {
namespace {

/// A field of cells, carried on into solids.
template <int D>
CellValue carried_on(const sharp::Model<D>& model, Cells<D> field) {
  fill_halo(model.grid(), field, pad, all_walls<D>(Mirror::even));
  carry_on(model.grid(), model.space(), field, field);
  return [kept = std::make_shared<const Cells<D>>(std::move(field))](int block, std::ptrdiff_t at, int) {
    return kept->block(block)[at];
  };
}

/// What a run has kept beside the flow. Throws an input error where it has not.
template <int D>
CellValue kept_beside(const sharp::Model<D>& model, const std::string& name) {
  const auto found = model.state().beside.find(name);
  if (found == model.state().beside.end())
    throw input_error({}, fmt::format("the run keeps no {} at this time", name),
                      "set run.means_from in its case, and look at a time behind it");
  std::vector<CellValue> parts;
  for (const auto& field : found->second) parts.push_back(carried_on(model, field));
  return [parts = std::move(parts)](int block, std::ptrdiff_t at, int axis) {
    return axis < std::ssize(parts) ? parts[static_cast<std::size_t>(axis)](block, at, 0) : 0.0;
  };
}

const auto fraction = [](const auto& model) { return carried_on(model, model.state().F); };
const auto pressure = [](const auto& model) { return carried_on(model, model.true_pressure()); };
const auto shear_rate = [](const auto& model) { return carried_on(model, model.shear_rate()); };
const auto dynamic_pressure = [](const auto& model) { return carried_on(model, model.dynamic_pressure()); };

/// What stands for gas that is left out is nobody's velocity.
const auto velocity = [](const auto& model) -> CellValue {
  return [&state = model.state(), alone = model.settings().free_surface_only](int block, std::ptrdiff_t at, int axis) {
    const auto d = static_cast<std::size_t>(axis);
    if (d >= state.u.size() || (alone && state.F.block(block)[at] <= 0)) return 0.0;
    return state.u[d].block(block)[at];
  };
};

}  // namespace

const std::vector<SharpQuantity>& sharp_quantities() {
  using Scale = Quantity::Scale;
  static const std::vector<SharpQuantity> list{
      {{.name = "fraction",
        .unit = "1",
        .meaning = "share of a cell's open part that the denser phase fills",
        .heading = "share of {denser}",
        .title = "{denser} and {lighter}",
        .title_alone = "{denser}",
        .scale = Scale::share,
        .exact = true},
       fraction,
       fraction},
      {{.name = "velocity",
        .unit = "m/s",
        .meaning = "velocity along x, y and z; 0 where gas is left out",
        .heading = "velocity",
        .title = "velocity",
        .components = 3,
        .exact = true},
       velocity,
       velocity},
      {{.name = "speed",
        .unit = "m/s",
        .meaning = "length of the velocity",
        .heading = "speed",
        .title = "speed",
        .scale = Scale::from_zero,
        .length_of = "velocity"},
       {},
       {}},
      {{.name = "pressure",
        .unit = "Pa",
        .meaning = "pressure over the mean of the lighter phase, or over that on the surface where gas is left out",
        .heading = "pressure",
        .title = "pressure over the mean of {lighter}",
        .title_alone = "pressure over that on the surface",
        .exact = true},
       pressure,
       pressure},
      {{.name = "dynamic_pressure",
        .unit = "Pa",
        .meaning = "pressure without the hydrostatic part",
        .heading = "dynamic pressure",
        .title = "pressure without the hydrostatic part"},
       dynamic_pressure,
       dynamic_pressure},
      {{.name = "shear_rate",
        .unit = "1/s",
        .meaning = "sqrt(2 S:S), S = (grad u + grad u^T)/2: how fast layers slide over each other",
        .heading = "shear rate",
        .title = "shear rate",
        .scale = Scale::from_zero},
       shear_rate,
       shear_rate},
  };
  return list;
}

std::string mean_name(const Quantity& quantity) { return "mean_" + quantity.name; }
std::string rms_name(const Quantity& quantity) { return "rms_" + quantity.name; }

const std::vector<SharpQuantity>& mean_quantities() {
  static const std::vector<SharpQuantity> list = [] {
    std::vector<SharpQuantity> means;
    for (const bool swings : {false, true})
      for (const auto& quantity : sharp_quantities()) {
        SharpQuantity one = quantity;
        one.name = swings ? rms_name(quantity) : mean_name(quantity);
        const std::string words = swings ? "rms of what swings about the mean of the " : "mean of the ";
        one.meaning = fmt::format("{}{} since run.means_from", words, quantity.name);
        one.heading = (swings ? "rms " : "mean ") + quantity.heading;
        one.title = words + quantity.heading;
        one.title_alone = "";
        if (swings) one.scale = Quantity::Scale::from_zero;
        one.exact = false;
        one.length_of = "";
        const auto kept = [name = one.name](const auto& model) { return kept_beside(model, name); };
        one.of_flat = kept;
        one.of_solid = kept;
        means.push_back(std::move(one));
      }
    return means;
  }();
  return list;
}

const std::vector<const SharpQuantity*>& all_quantities() {
  static const std::vector<const SharpQuantity*> all = [] {
    std::vector<const SharpQuantity*> both;
    for (const auto* list : {&sharp_quantities(), &mean_quantities()})
      for (const auto& quantity : *list) both.push_back(&quantity);
    return both;
  }();
  return all;
}

bool is_mean(std::string_view name) { return name.starts_with("mean_") || name.starts_with("rms_"); }

const Quantity* find_quantity(const std::string& name) {
  const auto found = std::ranges::find(all_quantities(), name, &SharpQuantity::name);
  return found == all_quantities().end() ? nullptr : *found;
}

std::vector<std::string> quantity_parts(int dimensions, bool means) {
  std::vector<std::string> names;
  for (const auto& quantity : means ? mean_quantities() : sharp_quantities()) {
    if (quantity.components == 1) names.push_back(quantity.name);
    for (int axis = 0; axis < std::min(dimensions, quantity.components) && quantity.components > 1; ++axis)
      names.push_back(fmt::format("{}_{}", quantity.name, "xyz"[axis]));
  }
  return names;
}

QuantityPart find_quantity_part(std::string_view name) {
  for (const auto* quantity : all_quantities()) {
    if (name == quantity->name) return {quantity, 0};
    for (int axis = 0; axis < quantity->components && quantity->components > 1; ++axis)
      if (name == fmt::format("{}_{}", quantity->name, "xyz"[axis])) return {quantity, axis};
  }
  return {};
}

template <int D>
std::function<double(int, std::ptrdiff_t)> values_of(const QuantityPart& part, const sharp::Model<D>& model) {
  assert(part.quantity != nullptr);
  if (part.quantity->length_of.empty())
    return [value = part.quantity->of(model), axis = part.axis](int block, std::ptrdiff_t at) {
      return value(block, at, axis);
    };
  return [value = find_quantity_part(part.quantity->length_of).quantity->of(model)](int block, std::ptrdiff_t at) {
    double square = 0;
    for (int axis = 0; axis < D; ++axis) square += std::pow(value(block, at, axis), 2);
    return std::sqrt(square);
  };
}

template std::function<double(int, std::ptrdiff_t)> values_of<2>(const QuantityPart&, const sharp::Model<2>&);
template std::function<double(int, std::ptrdiff_t)> values_of<3>(const QuantityPart&, const sharp::Model<3>&);

}  // namespace wavy
