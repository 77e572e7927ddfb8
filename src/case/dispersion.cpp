#include "case/dispersion.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "dispersed/model.hpp"
#include "physics/bubbles_and_drops.hpp"

namespace wavy {

using As = PhaseForm::As;

namespace {

bool disperses(const FormedFluid& fluid) { return fluid.form.as != As::carrier; }

/// What a fluid is dispersed as.
const char* bodies_of(const FormedFluid& fluid) { return fluid.gas ? "bubbles" : "drops"; }

/// Laws that say themselves how bodies hinder each other.
bool counts_neighbours(const std::string& drag) {
  return drag == "ishii_zuber" || drag == "barnea_mizrahi" || drag == "kumar_hartland";
}

bool needs_tension(const std::string& drag) {
  return drag == "ishii_zuber" || drag == "grace" || drag.starts_with("tomiyama");
}

/// Nothing where a name is "none".
template <class Laws>
auto* law_or_none(const Laws& laws, const std::string& name) {
  return name == "none" ? nullptr : find_law(laws, name);
}

/// The drag of bodies of a fluid in another, where the case says it or not.
Drag drag_between(const PairClosures& given) {
  std::string law = given.drag;
  if (law.empty()) law = given.surface_tension > 0 ? "ishii_zuber" : "schiller_naumann";
  std::string hindrance = given.hindrance;
  if (hindrance.empty()) hindrance = law == "schiller_naumann" ? "richardson_zaki" : "none";
  Drag drag;
  drag.law = law == "constant" ? nullptr : find_law(drag_laws(), law);
  drag.constant = given.drag_coefficient;
  drag.hindrance = law_or_none(hindrance_laws(), hindrance);
  drag.swarm_exponent = given.swarm_exponent;
  return drag;
}

}  // namespace

void check_shares(const Part& part, const char* key, const std::vector<double>& shares) {
  constexpr double hair = 1e-6;
  const double sum = std::accumulate(shares.begin(), shares.end(), 0.0);
  if (std::abs(sum - 1) > hair)
    throw part.wrong(key, fmt::format("the shares add up to {:.6g}, not to 1", sum), "change one of them");
}

PhaseForm read_form(Part& part) {
  PhaseForm form;
  form.as = part.one_of<As>("form", {{"carrier", As::carrier}, {"bubbles", As::bubbles}, {"drops", As::drops}},
                            "how a phase can stand in others");
  if (part.has("diameter") && part.has("diameters"))
    throw part.wrong("diameters", "both diameter and diameters are given", "give one of them");
  if (part.has("diameter")) form.diameters = {part.quantity("diameter")};
  if (part.has("diameters")) {
    if (form.as == As::carrier)
      throw part.wrong("diameters", "a carrier has one size of bubbles or drops in other carriers",
                       "give diameter, or form = \"drops\" or \"bubbles\"");
    form.diameters = part.quantities("diameters", dispersed::most_phases - 1);
    if (form.diameters.empty()) throw part.wrong("diameters", "there is no diameter in the list");
  }
  if (form.as != As::carrier && form.diameters.empty())
    throw part.wrong(
        "", fmt::format("{} need a size: the key 'diameter' is missing", form.as == As::bubbles ? "bubbles" : "drops"),
        "write, for example, diameter = \"4 mm\", or diameters for several size classes");
  form.shares.assign(std::max<std::size_t>(form.diameters.size(), 1),
                     1 / std::max(1.0, static_cast<double>(form.diameters.size())));
  if (part.has("class_shares")) {
    if (!part.has("diameters")) throw part.wrong("class_shares", "shares belong to size classes", "give diameters");
    form.shares = part.quantities("class_shares", dispersed::most_phases - 1);
    if (form.shares.size() != form.diameters.size())
      throw part.wrong("class_shares",
                       fmt::format("{} shares are given for {} diameters", form.shares.size(), form.diameters.size()));
    check_shares(part, "class_shares", form.shares);
  }
  if (part.has("closest_packing")) {
    if (form.as == As::carrier)
      throw part.wrong("closest_packing", "a carrier fills its layer by itself",
                       "leave it out, or give the phase a form");
    form.packing = part.quantity("closest_packing");
  }
  return form;
}

void refuse_dispersion(const Part& part) {
  for (const char* key :
       {"form", "diameter", "diameters", "class_shares", "closest_packing", "drag", "drag_coefficient", "hindrance",
        "swarm_exponent", "lift", "wall_lubrication", "turbulent_dispersion", "virtual_mass"})
    if (part.has(key))
      throw part.wrong(key, fmt::format("'{}' belongs to model = \"eulerian\"", key), "leave it out, or set the model");
}

void check_forms(const std::vector<FormedFluid>& fluids, double cell_size, const Place& last) {
  std::size_t phases = 0;
  std::vector<const FormedFluid*> carriers;
  for (const auto& fluid : fluids) {
    phases += fluid.form.shares.size();
    if (!disperses(fluid)) carriers.push_back(&fluid);
  }
  const auto wrong = [](const FormedFluid& fluid, const std::string& key, const std::string& what,
                        const std::string& right) {
    Place place = fluid.place;
    if (!key.empty()) place.key += "." + key;
    return input_error(place, what, right);
  };
  if (fluids.size() < 2)
    throw input_error(last, "the Eulerian model takes two to six phases; one is given or none",
                      "write a [[phase]] section for the carrier and one for what is dispersed in it");
  if (phases > dispersed::most_phases)
    throw input_error(last,
                      fmt::format("these are {} phases, size classes counted one by one; the Eulerian model takes {}",
                                  phases, dispersed::most_phases),
                      "leave out phases, or take fewer size classes");
  if (carriers.empty())
    throw input_error(last, "no phase is a carrier: bubbles and drops need something that carries them",
                      "leave out 'form' of the phase that is continuous");
  for (const auto& fluid : fluids) {
    if (!fluid.properties.rheology.constant())
      throw wrong(fluid, "rheology", fmt::format("in the Eulerian model '{}' needs one viscosity", fluid.name),
                  "leave out rheology");
    if (fluid.form.as == As::bubbles && !fluid.gas)
      throw wrong(fluid, "form", fmt::format("'{}' is a liquid: it forms drops", fluid.name), "write form = \"drops\"");
    if (fluid.form.as == As::drops && fluid.gas)
      throw wrong(fluid, "form", fmt::format("'{}' is a gas: it forms bubbles", fluid.name),
                  "write form = \"bubbles\"");
    if (disperses(fluid)) continue;
    if (carriers.size() > 1 && fluid.form.diameters.empty())
      throw wrong(fluid, "diameter",
                  fmt::format("'{}' and '{}' are both carriers, and '{}' has no diameter: where the other is plentiful "
                              "it breaks up into {}",
                              carriers[0]->name, carriers[1]->name, fluid.name, bodies_of(fluid)),
                  "give every carrier a diameter, or make one of them form = \"drops\" or \"bubbles\"");
    if (carriers.size() == 1 && !fluid.form.diameters.empty())
      throw wrong(fluid, "diameter", fmt::format("'{}' is the only carrier and is never dispersed", fluid.name),
                  "leave the diameter out, or make another phase a carrier");
  }
  for (const auto& fluid : fluids)
    for (const std::string word : {"mean", "rms"})
      if (fluid.name == word || fluid.name.starts_with(word + "_"))
        throw wrong(fluid, "name", fmt::format("'{}' would be mistaken for the {} of something", fluid.name, word),
                    "give the phase another name");
  constexpr double most_cells = 2;
  for (const auto& fluid : fluids)
    for (const double diameter : fluid.form.diameters)
      if (diameter > most_cells * cell_size)
        throw wrong(fluid, fluid.form.diameters.size() == 1 ? "diameter" : "diameters",
                    fmt::format("{} of {} are wider than two cells of {}: the Eulerian model means many in a cell",
                                bodies_of(fluid), quantity(diameter, "m"), quantity(cell_size, "m")),
                    "choose a larger grid.cell, or follow them one by one with model = \"sharp\"");
}

Eulerian formed_phases(const std::vector<FormedFluid>& fluids) {
  Eulerian result;
  for (const auto& fluid : fluids) {
    const std::size_t classes = fluid.form.shares.size();
    if (classes > 1) result.families.push_back({fluid.name, static_cast<int>(result.phases.size()), fluid.form.shares});
    for (std::size_t c = 0; c < classes; ++c)
      result.phases.push_back({.name = classes == 1 ? fluid.name : fmt::format("{}_{}", fluid.name, c + 1),
                               .fluid = fluid.properties,
                               .carrier = !disperses(fluid),
                               .diameter = fluid.form.diameters.empty() ? 0 : fluid.form.diameters[c],
                               .gas = fluid.gas,
                               .family = classes == 1 ? "" : fluid.name,
                               .packing = fluid.form.packing});
  }
  return result;
}

PairClosures read_closures(Part& part, const std::array<std::size_t, 2>& pair, const std::vector<FormedFluid>& fluids,
                           const TurbulenceLaw* turbulence) {
  const FormedFluid& first = fluids[pair[0]];
  const FormedFluid& second = fluids[pair[1]];
  if (disperses(first) && disperses(second))
    throw part.wrong(
        "between", fmt::format("'{}' and '{}' are both dispersed: neither carries the other", first.name, second.name),
        "name a pair of which one is a carrier");
  for (const char* key : {"contact_angle", "slip_length"})
    if (part.has(key))
      throw part.wrong(key, "the Eulerian model follows no contact line", "leave it out, or set model = \"sharp\"");
  PairClosures result{.fluids = pair};
  result.surface_tension = part.quantity("surface_tension", "0 N/m");
  const auto need_tension = [&](const char* key, const std::string& law, const char* otherwise) {
    if (result.surface_tension == 0)
      throw part.wrong(key, fmt::format("{} goes by the surface tension, which is 0 here", law),
                       fmt::format("give pair.surface_tension{}", otherwise));
  };
  if (part.has("drag")) result.drag = part.choice("drag");
  if (part.has("drag_coefficient")) {
    if (result.drag != "constant")
      throw part.wrong("drag_coefficient", "a coefficient belongs to drag = \"constant\"", "leave it out");
    result.drag_coefficient = part.quantity("drag_coefficient");
  }
  if (needs_tension(result.drag)) need_tension("drag", result.drag, ", or choose schiller_naumann for spheres");
  if (part.has("hindrance")) result.hindrance = part.choice("hindrance");
  if (!result.hindrance.empty() && result.hindrance != "none" &&
      (counts_neighbours(result.drag) || (result.drag.empty() && result.surface_tension > 0)))
    throw part.wrong("hindrance",
                     fmt::format("{} says itself how bodies hinder each other: that would count twice",
                                 result.drag.empty() ? "ishii_zuber" : result.drag),
                     "leave hindrance out, or choose another drag");
  if (part.has("swarm_exponent")) result.swarm_exponent = part.quantity("swarm_exponent");
  if (part.has("lift")) result.lift = part.choice("lift");
  if (result.lift == "tomiyama") need_tension("lift", result.lift, "");
  if (part.has("wall_lubrication")) result.wall_lubrication = part.choice("wall_lubrication");
  if (result.wall_lubrication == "tomiyama" || result.wall_lubrication == "frank")
    need_tension("wall_lubrication", result.wall_lubrication, ", or choose antal");
  if (part.has("turbulent_dispersion")) {
    result.turbulent_dispersion = part.choice("turbulent_dispersion");
    if (result.turbulent_dispersion != "none" && turbulence == nullptr)
      throw part.wrong("turbulent_dispersion", "the flow is laminar", "leave it out, or give [turbulence] a law");
    if (result.turbulent_dispersion == "lopez_de_bertodano" && turbulence->second == TurbulenceLaw::Second::none)
      throw part.wrong("turbulent_dispersion",
                       fmt::format("lopez_de_bertodano goes by k, which {} does not know", turbulence->name),
                       "choose favre, or another turbulence.law");
  }
  if (part.has("virtual_mass")) result.virtual_mass = part.quantity("virtual_mass");
  return result;
}

void add_pairs(const std::vector<FormedFluid>& fluids, const std::vector<PairClosures>& given,
               const TurbulenceLaw* turbulence, Eulerian& eulerian, CaseFile& out) {
  std::vector<std::size_t> fluid_of;  // by phase
  for (std::size_t f = 0; f < fluids.size(); ++f) fluid_of.resize(fluid_of.size() + fluids[f].form.shares.size(), f);
  std::vector<std::array<std::size_t, 2>> told;
  for (std::size_t i = 0; i < eulerian.phases.size(); ++i)
    for (std::size_t j = i + 1; j < eulerian.phases.size(); ++j) {
      const std::array between{fluid_of[i], fluid_of[j]};
      const FormedFluid& one = fluids[between[0]];
      const FormedFluid& other = fluids[between[1]];
      if (between[0] == between[1] || (disperses(one) && disperses(other))) continue;
      const auto found = std::ranges::find(given, between, &PairClosures::fluids);
      const PairClosures closures = found == given.end() ? PairClosures{.fluids = between} : *found;
      const Drag drag = drag_between(closures);
      const bool layers = !disperses(one) && !disperses(other);
      constexpr double sphere = 0.5;
      const std::string spread = !closures.turbulent_dispersion.empty() ? closures.turbulent_dispersion
                                 : turbulence != nullptr                ? "favre"
                                                                        : "none";
      eulerian.pairs.push_back({.first = static_cast<int>(i),
                                .second = static_cast<int>(j),
                                .surface_tension = closures.surface_tension,
                                .first_in_second = drag,
                                .second_in_first = drag,
                                .virtual_mass = closures.virtual_mass >= 0 ? closures.virtual_mass
                                                : layers                   ? 0.0
                                                                           : sphere,
                                .lift = law_or_none(lift_laws(), closures.lift),
                                .wall_lubrication = law_or_none(wall_lubrication_laws(), closures.wall_lubrication),
                                .turbulent_dispersion = law_or_none(turbulent_dispersion_laws(), spread)});
      if (std::ranges::find(told, between) != told.end()) continue;
      told.push_back(between);
      if (closures.drag.empty() && closures.surface_tension == 0)
        out.remarks.push_back(
            fmt::format("no surface tension is given between '{}' and '{}': their {} keep the shape of spheres, which "
                        "holds below a millimetre or so. Give pair.surface_tension.",
                        one.name, other.name, bodies_of(disperses(one) ? one : other)));
    }
}

}  // namespace wavy
