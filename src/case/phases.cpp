#include "case/phases.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "case/dispersion.hpp"
#include "case/viscosity.hpp"
#include "physics/fluids.hpp"

namespace wavy {
namespace {

/// A phase as the file has it.
struct GivenPhase {
  Phase phase;
  std::string origin;  ///< "water at 20 degC"
  double temperature = 293.15;
  bool gas = false;
  PhaseForm form;
  Place place;
};

/// Properties of a fluid of the built-in list.
void read_fluid(Part& part, GivenPhase& given) {
  const std::string name = part.text("fluid");
  given.temperature = part.quantity("temperature");
  const Fluid* fluid = find_fluid(name);
  if (fluid == nullptr) {
    std::vector<std::string> known;
    for (const auto& one : fluids()) known.push_back(one.name);
    const std::string near = nearest(name, known);
    throw part.wrong("fluid", fmt::format("'{}' is not in the built-in list", name.substr(0, 60)),
                     near.empty() ? fmt::format("known are {}; or give density and viscosity", listing(known, "and"))
                                  : fmt::format("did you mean '{}'?", near));
  }
  const double celsius = given.temperature - 273.15;
  if (given.temperature < fluid->coldest - 1e-9 || given.temperature > fluid->hottest + 1e-9)
    throw part.wrong("temperature",
                     fmt::format("{:.4g} degC is outside the range of '{}', {:.4g} to {:.4g} degC", celsius, name,
                                 fluid->coldest - 273.15, fluid->hottest - 273.15),
                     "choose a temperature in the range, or give density and viscosity yourself");
  given.phase.properties = *properties_of(name, given.temperature);
  given.origin = fmt::format("{} at {:.4g} °C", name, celsius);
  given.gas = fluid->kind == "gas";
  constexpr double standard = 288.15;  // [K], as for lines
  if (given.gas && fluid->coldest <= standard && fluid->hottest >= standard)
    given.phase.standard_density = properties_of(name, standard)->density;
}

/// `dispersed`: of the Eulerian model.
GivenPhase read_phase(Part& part, const std::vector<GivenPhase>& before, const FormulaNames& names, bool dispersed) {
  part.refuse_unknown();
  GivenPhase given;
  given.place = part.place();
  Phase& phase = given.phase;
  phase.name = part.text("name");
  if (!is_name(phase.name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  for (const auto& other : before)
    if (other.phase.name == phase.name)
      throw part.wrong("name", fmt::format("two phases are called '{}'", phase.name),
                       "give each phase a name of its own");
  given.origin = "own values";
  if (part.has("fluid")) {
    read_fluid(part, given);
  } else {
    if (part.has("temperature") && !part.has("measured_viscosity"))
      throw part.wrong("temperature", "a temperature needs a fluid of the built-in list or measured viscosities",
                       "add, for example, fluid = \"water\", or measured_at and measured_viscosity");
    if (!part.has("density"))
      throw part.wrong("", fmt::format("phase '{}' has neither a fluid nor a density", phase.name),
                       "add fluid = \"water\" (see: wavy fluids), or density and viscosity");
  }
  if (part.has("density"))
    phase.properties.density = part.quantity("density");
  else
    part.note("density", fmt::format("\"{} kg/m^3\"", phase.properties.density));
  read_viscosity(part, phase, names);
  if (phase.properties.density > 1e6 || phase.properties.viscosity > 1e9)
    throw part.wrong("",
                     fmt::format("density {:.3g} kg/m3 and viscosity {:.3g} Pa s are beyond any fluid",
                                 phase.properties.density, phase.properties.viscosity),
                     "check the units");
  if (!part.has("viscosity") && !part.has("kinematic_viscosity") && !part.has("measured_viscosity") &&
      phase.properties.rheology.constant())
    part.note("viscosity", fmt::format("\"{} Pa.s\"", phase.properties.viscosity));
  constexpr double heaviest_gas = 100;  // of own values, what is no liquid [kg/m3]
  if (!part.has("fluid")) given.gas = phase.properties.density < heaviest_gas;
  if (dispersed)
    given.form = read_form(part);
  else
    refuse_dispersion(part);
  return given;
}

/// All of them; `last`: place of the last one.
std::vector<GivenPhase> read_given(Sections& sections, Place& last, bool dispersed = false) {
  std::vector<GivenPhase> list;
  last = sections.top();
  sections.each("phase", [&](Part part) {
    last = part.place();
    list.push_back(read_phase(part, list, sections.names(), dispersed));
  });
  return list;
}

void sort_by_density(std::vector<GivenPhase>& given) {
  std::ranges::stable_sort(
      given, [](const auto& a, const auto& b) { return a.phase.properties.density > b.phase.properties.density; });
}

/// Into a setup, the denser one first.
void order(std::vector<GivenPhase>& given, std::vector<Phase>& phases, std::vector<std::string>& origins) {
  sort_by_density(given);
  phases.clear();
  origins.clear();
  for (const auto& one : given) {
    phases.push_back(one.phase);
    origins.push_back(one.origin);
  }
}

/// Numbers of the two phases that a pair names; of two phases it need not.
std::array<std::size_t, 2> read_between(Part& part, const std::vector<std::string>& names) {
  if (!part.has("between")) {
    if (names.size() > 2) throw part.wrong("between", "of more than two phases a pair says which two it means");
    if (names.size() == 2) part.note("between", fmt::format("[{}, {}]", toml_text(names[0]), toml_text(names[1])));
    return {0, 1};
  }
  if (names.size() == 1)
    throw part.wrong("between", fmt::format("the only phase is {}", names[0]),
                     "leave it out: its free surface has a surface tension all the same");
  const std::vector<std::size_t> numbers = part.numbers_of("between", 2, names, "phase");
  if (numbers[0] == numbers[1]) throw part.wrong("between", "a pair is of two different phases");
  return {std::min(numbers[0], numbers[1]), std::max(numbers[0], numbers[1])};
}

/// fn(part, pair) for every pair that the case has, [pair] or [[pair]], or for the only one there can be.
template <class Fn>
void each_pair(Sections& sections, const std::vector<std::string>& names, std::vector<Pair>& pairs, Fn&& fn) {
  pairs.clear();
  const auto read = [&](Part part) {
    part.refuse_unknown();
    Pair pair;
    pair.between = read_between(part, names);
    for (const auto& other : pairs)
      if (other.between == pair.between)
        throw part.wrong(part.has("between") ? "between" : "", "this pair of phases stands twice", "join the two");
    fn(part, pair);
    pairs.push_back(pair);
  };
  const toml::node* node = sections.root().get("pair");
  if (node != nullptr && node->is_array()) {
    sections.each("pair", read);
    return;
  }
  if (node == nullptr && names.size() > 2) return;
  Part only = sections.section("pair", false);  // as it was written at first, or left out
  sections.out().as_run += "\n[[pair]]\n";
  read(only);
}

}  // namespace

template <int D>
std::vector<FormedFluid> read_fluids(Sections& sections, Setup<D>& setup) {
  Place last;
  std::vector<GivenPhase> given = read_given(sections, last, true);
  last.key = "phase";
  sort_by_density(given);
  std::vector<FormedFluid> fluids;
  for (const auto& one : given) fluids.push_back({one.phase.name, one.phase.properties, one.gas, one.form, one.place});
  check_forms(fluids, setup.cell_size, last);
  setup.eulerian = formed_phases(fluids);
  setup.phases.clear();
  sections.out().phase_origins.clear();
  for (std::size_t f = 0; f < given.size(); ++f)
    for (std::size_t c = 0; c < fluids[f].form.shares.size(); ++c) {
      const auto& own = setup.eulerian->phases[setup.phases.size()];
      setup.phases.push_back({own.name, own.fluid, given[f].phase.standard_density});
      sections.out().phase_origins.push_back(given[f].origin);
    }
  std::set<std::string> taken;
  for (const auto& family : setup.eulerian->families) taken.insert(family.name);
  for (const auto& phase : setup.phases)
    if (!taken.insert(phase.name).second)
      throw input_error(last, fmt::format("a size class and a phase are both called '{}'", phase.name),
                        "give that phase another name");
  return fluids;
}

template <int D>
void read_fluid_pairs(Sections& sections, const std::vector<FormedFluid>& fluids, Setup<D>& setup) {
  std::vector<std::string> names;
  for (const auto& fluid : fluids) names.push_back(fluid.name);
  std::vector<PairClosures> given;
  each_pair(sections, names, setup.pairs, [&](Part& part, Pair& pair) {
    given.push_back(read_closures(part, pair.between, fluids, setup.turbulence.law));
    pair.surface_tension = given.back().surface_tension;
  });
  add_pairs(fluids, given, setup.turbulence.law, *setup.eulerian, sections.out());
}

template <int D>
void read_phases(Sections& sections, Setup<D>& setup) {
  Place last;
  std::vector<GivenPhase> given = read_given(sections, last);
  setup.free_surface_only = given.size() == 1;
  if (given.size() != 1 && given.size() != 2) {
    last.key = "phase";
    throw input_error(
        last,
        fmt::format("the sharp model takes two phases, or one liquid alone; {} given",
                    given.empty() ? "none is" : "more are"),
        "write two [[phase]] sections, for example one with fluid = \"water\" and one with fluid = \"air\"");
  }
  if (setup.free_surface_only) {  // the space over the liquid's surface holds nothing that would matter
    constexpr double next_to_nothing = 1e-3;
    const double density = next_to_nothing * given[0].phase.properties.density;
    given.emplace_back();
    given[1].phase.properties.density = density;
  }
  order(given, setup.phases, sections.out().phase_origins);
}

void read_line_phases(Sections& sections, LineSetup& setup) {
  Place last;
  std::vector<GivenPhase> given = read_given(sections, last);
  last.key = "phase";
  if (given.size() != 2)
    throw input_error(
        last,
        fmt::format("a line takes a liquid and a gas; {} given", given.empty()       ? "none is"
                                                                 : given.size() == 1 ? "one is"
                                                                                     : "more are"),
        "write two [[phase]] sections, for example one with fluid = \"water\" and one with fluid = \"air\"");
  order(given, setup.phases, sections.out().phase_origins);
  setup.gas_temperature = given[1].temperature;
  for (const auto& phase : setup.phases) {
    if (!phase.properties.rheology.constant())
      throw input_error(last, fmt::format("in a line '{}' cannot thin or thicken with shear", phase.name),
                        "give it one viscosity");
    if (!(phase.properties.viscosity > 0))
      throw input_error(last, fmt::format("in a line '{}' needs a viscosity above 0", phase.name), "give viscosity");
  }
}

template <int D>
void read_pairs(Sections& sections, Setup<D>& setup) {
  std::vector<std::string> names;
  for (std::size_t p = 0; p < phase_count(setup); ++p) names.push_back(setup.phases[p].name);
  each_pair(sections, names, setup.pairs, [&](Part& part, Pair& pair) {
    refuse_dispersion(part);
    pair.surface_tension = part.quantity("surface_tension", "0 N/m");
    pair.contact_angle = part.quantity("contact_angle");
    if (std::abs(pair.contact_angle - std::numbers::pi / 2) > 1e-9 && pair.surface_tension == 0)
      throw part.wrong("contact_angle", "a contact angle does nothing without a surface tension",
                       "give pair.surface_tension, or leave it out");
    if (!part.has("slip_length")) return;
    pair.slip_length = part.quantity("slip_length");
    if (!(pair.slip_length < setup.cell_size))
      throw part.wrong("slip_length", fmt::format("a slip length of {} must lie between 0 and the cell of {}",
                                                  quantity(pair.slip_length, "m"), quantity(setup.cell_size, "m")));
  });
}

void read_line_pairs(Sections& sections, LineSetup& setup) {
  each_pair(sections, names_of(setup.phases), setup.pairs, [&](Part& part, Pair& pair) {
    for (const char* key : {"contact_angle", "slip_length"})
      if (part.has(key)) throw part.wrong(key, "a line has no such setting", "leave it out");
    refuse_dispersion(part);
    pair.surface_tension = part.quantity("surface_tension", "72 mN/m");
  });
}

template std::vector<FormedFluid> read_fluids<2>(Sections&, Setup<2>&);
template std::vector<FormedFluid> read_fluids<3>(Sections&, Setup<3>&);
template void read_fluid_pairs<2>(Sections&, const std::vector<FormedFluid>&, Setup<2>&);
template void read_fluid_pairs<3>(Sections&, const std::vector<FormedFluid>&, Setup<3>&);
template void read_phases<2>(Sections&, Setup<2>&);
template void read_phases<3>(Sections&, Setup<3>&);
template void read_pairs<2>(Sections&, Setup<2>&);
template void read_pairs<3>(Sections&, Setup<3>&);

}  // namespace wavy
