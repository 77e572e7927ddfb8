#include "run/quantities.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <utility>

#include "base/error.hpp"
#include "base/text.hpp"

namespace wavy {
namespace {

/// A field of cells, carried on into solids.
template <int D>
CellValue carried_on(const VesselModel<D>& model, Cells<D> field) {
  fill_halo(model.grid(), field, pad, all_walls<D>(Mirror::even));
  carry_on(model.grid(), model.space(), field, field);
  return [kept = std::make_shared<const Cells<D>>(std::move(field))](int block, std::ptrdiff_t at, int) {
    return kept->block(block)[at];
  };
}

/// The same of the components of a vector.
CellValue joined(std::vector<CellValue> parts) {
  return [parts = std::move(parts)](int block, std::ptrdiff_t at, int axis) {
    return axis < std::ssize(parts) ? parts[static_cast<std::size_t>(axis)](block, at, 0) : 0.0;
  };
}

/// What a run has kept beside the flow. Throws an input error where it has not.
template <int D>
CellValue kept_beside(const VesselModel<D>& model, const std::string& name) {
  const auto found = model.beside().find(name);
  if (found == model.beside().end())
    throw input_error({}, fmt::format("the run keeps no {} at this time", name),
                      "set run.means_from in its case, and look at a time behind it");
  std::vector<CellValue> parts;
  for (const auto& field : found->second) parts.push_back(carried_on(model, field));
  return joined(std::move(parts));
}

const auto fraction = [](const auto& model) {
  return carried_on(model, model.is_sharp() ? model.sharp().state().F : model.dispersed().state().a[0]);
};
const auto pressure = [](const auto& model) { return carried_on(model, model.true_pressure()); };
const auto shear_rate = [](const auto& model) {
  return carried_on(model, model.visit([](auto& m) { return m.shear_rate(); }));
};
const auto dynamic_pressure = [](const auto& model) { return carried_on(model, model.sharp().dynamic_pressure()); };

/// Fields of turbulence. Throws an input error where the run has none, or a law that does not know it.
template <class Value>
auto of_turbulence(Value&& value) {
  return [value = std::forward<Value>(value)](const auto& model) {
    return model.visit([&](auto& m) {
      if (m.turbulence() == nullptr)
        throw input_error({}, "the flow of this run is laminar", "give its case a [turbulence] section with a law");
      return carried_on(model, value(m));
    });
  };
}
const auto turbulent_energy = of_turbulence([](auto& m) {
  if (m.state().turbulent.k.data().empty())
    throw input_error({}, fmt::format("{} keeps no energy of its own", m.turbulence()->settings().law->name),
                      "look at eddy_viscosity, or choose a law of k");
  return m.state().turbulent.k;
});
const auto dissipation_rate = of_turbulence([](auto& m) {
  const auto& turbulence = *m.turbulence();
  const auto& state = m.state().turbulent;
  return turbulence.two_equations() ? turbulence.dissipation(state) : turbulence.dissipation(state, m.shear_rate());
});
const auto eddy_viscosity = of_turbulence([](auto& m) { return m.state().turbulent.eddy_viscosity; });
const auto wall_units = of_turbulence([](auto& m) { return m.wall_units(); });

/// What stands for gas that is left out is nobody's velocity.
const auto velocity = [](const auto& model) -> CellValue {
  if (!model.is_sharp()) {
    std::vector<CellValue> parts;
    for (auto& component : model.dispersed().volume_velocity()) parts.push_back(carried_on(model, component));
    return joined(std::move(parts));
  }
  return [&state = model.sharp().state(), alone = model.free_surface_only()](int block, std::ptrdiff_t at, int axis) {
    const auto d = static_cast<std::size_t>(axis);
    if (d >= state.u.size() || (alone && state.F.block(block)[at] <= 0)) return 0.0;
    return state.u[d].block(block)[at];
  };
};

/// Numbers of the phases of that name: one, or the size classes of a fluid. Throws an input error where there is none.
template <int D>
std::array<std::size_t, 2> phases_named(const VesselModel<D>& model, const std::string& name) {
  std::vector<std::string> known;
  if (!model.is_sharp()) {
    const auto& phases = model.dispersed().settings().phases;
    std::size_t first = phases.size();
    std::size_t end = 0;
    for (std::size_t i = 0; i < phases.size(); ++i) {
      known.push_back(phases[i].name);
      if (phases[i].name != name && phases[i].family != name) continue;
      first = std::min(first, i);
      end = i + 1;
    }
    if (first < end) return {first, end};
  }
  throw input_error(
      {}, fmt::format("no phase of the run is called '{}'", name),
      known.empty() ? "fractions of phases belong to model = \"eulerian\"" : "the phases are " + listing(known, "and"));
}

/// A field of a phase, whose values share(first, end) or velocity(first, end, axis) are.
template <class Value>
auto of_phase(const std::string& phase, int components, Value&& value) {
  return [=]<int D>(const VesselModel<D>& model) {
    const auto [first, end] = phases_named(model, phase);
    std::vector<CellValue> parts;
    for (int axis = 0; axis < std::min(components, D); ++axis) {
      Cells<D> field(model.grid());
      const CellNumber number = value(model, first, end, axis);
      for_blocks(model.grid(), [&](int b) {
        for_rows<D>(model.grid().layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) field.block(b)[at] = number(b, at);
        });
      });
      parts.push_back(carried_on(model, std::move(field)));
    }
    return joined(std::move(parts));
  };
}

/// A field of a tracer, which value(model, number) gives. Throws an input error where there is no such tracer.
template <class Value>
auto of_tracer(const std::string& name, Value&& value) {
  return [=](const auto& model) {
    const auto number = model.find_tracer(name);
    if (!number) {
      std::vector<std::string> known;
      for (const auto& one : model.tracers().settings()) known.push_back(one.name);
      throw input_error({}, fmt::format("no tracer of the run is called '{}'", name),
                        known.empty() ? "add a [[tracer]] to its case" : "its tracers are " + listing(known, "and"));
    }
    return carried_on(model, value(model, *number));
  };
}

/// kLa of a tracer that dissolves. Throws an input error where it does not.
const auto kla = [](const auto& model, std::size_t tracer) {
  if (const auto transfer = find_transfer(model.transfers(), tracer))
    return model.visit([&](auto& m) { return m.transfer_rate(*transfer); });
  throw input_error({}, fmt::format("'{}' dissolves from no gas", model.tracers().settings()[tracer].name),
                    "give its [[tracer]] a law by dissolves_by");
};

/// Fields that bear a phase's or tracer's name, made when they are first asked for.
class NamedQuantities {
 public:
  /// Null where the name says no such field.
  const VesselQuantity* find(const std::string& name) {
    const std::scoped_lock lock(mutex_);
    if (const auto found = known_.find(name); found != known_.end()) return found->second.get();
    const auto made = is_mean(name) ? mean_of_named(name) : named(name);
    if (!made) return nullptr;
    return known_.emplace(name, std::make_unique<const VesselQuantity>(*made)).first->second.get();
  }

 private:
  static std::optional<VesselQuantity> named(const std::string& name) {
    const auto end = name.rfind('_');
    if (end == std::string::npos || end == 0) return std::nullopt;
    const std::string phase = name.substr(0, end);
    const std::string what = name.substr(end + 1);
    VesselQuantity one;
    one.name = name;
    one.unit = "m/s";
    one.heading = one.title = what + " of " + phase;
    const auto keep = [&](int components, auto value) {
      one.components = components;
      one.exact = true;
      const auto of = of_phase(phase, components, value);
      one.of_flat = of;
      one.of_solid = of;
    };
    if (what == "fraction") {
      one.unit = "1";
      one.meaning = fmt::format("share of a cell's open part that {} fills", phase);
      one.heading = one.title = "share of " + phase;
      one.scale = Quantity::Scale::from_zero;
      keep(1, [](const auto& model, std::size_t first, std::size_t last, int) { return model.share(first, last); });
    } else if (what == "velocity") {
      one.meaning = fmt::format("velocity of {} along x, y and z", phase);
      keep(3, [](const auto& model, std::size_t first, std::size_t last, int axis) {
        return model.velocity(first, last, axis);
      });
    } else if (what == "concentration") {
      one.unit = "kg/m3";
      one.meaning = fmt::format("of {} in the phase that carries it", phase);
      one.scale = Quantity::Scale::from_zero;
      one.exact = true;
      const auto of =
          of_tracer(phase, [](const auto& model, std::size_t tracer) { return model.concentrations()[tracer]; });
      one.of_flat = of;
      one.of_solid = of;
    } else if (what == "kla") {
      one.unit = "1/s";
      one.meaning = fmt::format("kLa: how fast the liquid takes up {}, per volume of the vessel", phase);
      one.heading = one.title = "kLa of " + phase;
      one.scale = Quantity::Scale::from_zero;
      const auto of = of_tracer(phase, kla);
      one.of_flat = of;
      one.of_solid = of;
    } else if (what == "speed") {
      one.meaning = fmt::format("length of the velocity of {}", phase);
      one.scale = Quantity::Scale::from_zero;
      one.length_of = phase + "_velocity";
    } else {
      return std::nullopt;
    }
    return one;
  }
  static std::optional<VesselQuantity> mean_of_named(const std::string& name);

  std::mutex mutex_;
  std::map<std::string, std::unique_ptr<const VesselQuantity>> known_;
};

/// The mean of a field over time, or the root mean square of what swings about it.
VesselQuantity mean_of(const VesselQuantity& quantity, bool swings) {
  VesselQuantity one = quantity;
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
  return one;
}

std::optional<VesselQuantity> NamedQuantities::mean_of_named(const std::string& name) {
  const bool swings = name.starts_with("rms_");
  const auto of = named(name.substr(name.find('_') + 1));
  return of ? std::optional(mean_of(*of, swings)) : std::nullopt;
}

}  // namespace

const std::vector<VesselQuantity>& vessel_quantities() {
  using Scale = Quantity::Scale;
  static const std::vector<VesselQuantity> list{
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
        .meaning =
            "velocity along x, y and z; 0 where gas is left out; in the Eulerian model of the volume of all phases",
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
       dynamic_pressure,
       true},
      {{.name = "shear_rate",
        .unit = "1/s",
        .meaning = "sqrt(2 S:S), S = (grad u + grad u^T)/2: how fast layers slide over each other",
        .heading = "shear rate",
        .title = "shear rate",
        .scale = Scale::from_zero},
       shear_rate,
       shear_rate},
      {{.name = "turbulent_energy",
        .unit = "m2/s2",
        .meaning = "k, energy of the fluctuations per mass (with turbulence.law)",
        .heading = "turbulent energy",
        .title = "turbulent energy",
        .scale = Scale::from_zero,
        .exact = true},
       turbulent_energy,
       turbulent_energy,
       false,
       VesselQuantity::Needs::energy},
      {{.name = "dissipation_rate",
        .unit = "m2/s3",
        .meaning = "epsilon, what the fluctuations lose to heat per mass and time (with turbulence.law)",
        .heading = "dissipation rate",
        .title = "dissipation rate of turbulence",
        .scale = Scale::from_zero,
        .exact = true},
       dissipation_rate,
       dissipation_rate,
       false,
       VesselQuantity::Needs::turbulence},
      {{.name = "eddy_viscosity",
        .unit = "m2/s",
        .meaning = "kinematic viscosity that fluctuations add (with turbulence.law)",
        .heading = "eddy viscosity",
        .title = "eddy viscosity",
        .scale = Scale::from_zero,
        .exact = true},
       eddy_viscosity,
       eddy_viscosity,
       false,
       VesselQuantity::Needs::turbulence},
      {{.name = "wall_units",
        .unit = "1",
        .meaning =
            "y+ of first cells: their distance from walls that hold the fluid, over viscosity/friction velocity (with "
            "turbulence.law); 0 elsewhere",
        .heading = "y+",
        .title = "first cells' distance from walls in wall units",
        .scale = Scale::from_zero},
       wall_units,
       wall_units,
       false,
       VesselQuantity::Needs::turbulence},
  };
  return list;
}

std::string mean_name(const Quantity& quantity) { return "mean_" + quantity.name; }
std::string rms_name(const Quantity& quantity) { return "rms_" + quantity.name; }

const std::vector<VesselQuantity>& mean_quantities() {
  static const std::vector<VesselQuantity> list = [] {
    std::vector<VesselQuantity> means;
    for (const bool swings : {false, true})
      for (const auto& quantity : vessel_quantities()) means.push_back(mean_of(quantity, swings));
    return means;
  }();
  return list;
}

const std::vector<const VesselQuantity*>& all_quantities() {
  static const std::vector<const VesselQuantity*> all = [] {
    std::vector<const VesselQuantity*> both;
    for (const auto* list : {&vessel_quantities(), &mean_quantities()})
      for (const auto& quantity : *list) both.push_back(&quantity);
    return both;
  }();
  return all;
}

bool is_mean(std::string_view name) { return name.starts_with("mean_") || name.starts_with("rms_"); }

const VesselQuantity* find_quantity(const std::string& name) {
  const auto found = std::ranges::find(all_quantities(), name, &VesselQuantity::name);
  if (found != all_quantities().end()) return *found;
  static NamedQuantities of_phases;
  return of_phases.find(name);
}

std::vector<const VesselQuantity*> phase_quantities(const std::string& phase) {
  std::vector<const VesselQuantity*> result;
  for (const char* what : {"fraction", "velocity", "speed"})
    result.push_back(find_quantity(fmt::format("{}_{}", phase, what)));
  return result;
}

std::vector<const VesselQuantity*> tracer_quantities(const std::string& tracer, bool dissolves) {
  std::vector<const VesselQuantity*> result{find_quantity(tracer + "_concentration")};
  if (dissolves) result.push_back(find_quantity(tracer + "_kla"));
  return result;
}

std::string_view tracer_in(std::string_view quantity) {
  constexpr std::string_view ending = "_concentration";
  if (is_mean(quantity) || !quantity.ends_with(ending)) return {};
  return quantity.substr(0, quantity.size() - ending.size());
}

template <int D>
std::vector<const VesselQuantity*> quantities_of(const VesselModel<D>& model) {
  std::vector<const VesselQuantity*> result;
  const auto* turbulence = model.visit([](auto& m) { return m.turbulence(); });
  const TurbulenceLaw* law = turbulence == nullptr ? nullptr : turbulence->settings().law;
  for (const auto& quantity : vessel_quantities())
    if (quantity.known_with(law) && (model.is_sharp() || !quantity.sharp_only)) result.push_back(&quantity);
  for (std::size_t i = 0; i < model.tracers().settings().size(); ++i) {
    const bool dissolves = find_transfer(model.transfers(), i).has_value();
    for (const auto* quantity : tracer_quantities(model.tracers().settings()[i].name, dissolves))
      result.push_back(quantity);
  }
  if (model.is_sharp()) return result;
  for (const auto& phase : model.dispersed().settings().phases)
    for (const auto* quantity : phase_quantities(phase.name)) result.push_back(quantity);
  for (const auto& phase : model.dispersed().settings().phases) {
    const auto* together = phase.family.empty() ? nullptr : find_quantity(phase.family + "_fraction");
    if (together != nullptr && std::ranges::find(result, together) == result.end()) result.push_back(together);
  }
  return result;
}

std::vector<std::string> parts_of(const std::vector<const VesselQuantity*>& quantities, int dimensions) {
  std::vector<std::string> names;
  for (const auto* quantity : quantities) {
    if (quantity->components == 1) names.push_back(quantity->name);
    for (int axis = 0; axis < std::min(dimensions, quantity->components) && quantity->components > 1; ++axis)
      names.push_back(fmt::format("{}_{}", quantity->name, "xyz"[axis]));
  }
  return names;
}

std::vector<std::string> quantity_parts(int dimensions, bool means) {
  std::vector<const VesselQuantity*> list;
  for (const auto& quantity : means ? mean_quantities() : vessel_quantities()) list.push_back(&quantity);
  return parts_of(list, dimensions);
}

QuantityPart find_quantity_part(std::string_view name) {
  const std::string whole(name);
  if (const auto* quantity = find_quantity(whole)) return {quantity, 0};
  const auto end = whole.rfind('_');
  if (end == std::string::npos || whole.size() != end + 2) return {};
  const int axis = whole.back() - 'x';
  const auto* quantity = find_quantity(whole.substr(0, end));
  if (quantity == nullptr || quantity->components == 1 || axis < 0 || axis >= quantity->components) return {};
  return {quantity, axis};
}

template <int D>
CellNumber values_of(const QuantityPart& part, const std::type_identity_t<VesselModel<D>>& model) {
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

template std::vector<const VesselQuantity*> quantities_of<2>(const VesselModel<2>&);
template std::vector<const VesselQuantity*> quantities_of<3>(const VesselModel<3>&);
template CellNumber values_of<2>(const QuantityPart&, const VesselModel<2>&);
template CellNumber values_of<3>(const QuantityPart&, const VesselModel<3>&);

}  // namespace wavy
