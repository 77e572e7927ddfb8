#include "case/viscosity.hpp"

#include <algorithm>
#include <map>
#include <utility>

namespace wavy {
namespace {

/// ln mu linear in 1/T between measured points, at the phase's temperature.
double measured_viscosity(Part& part) {
  for (const char* key : {"measured_at", "measured_viscosity"})
    if (!part.has(key)) throw part.wrong(key, "measured_at and measured_viscosity belong together");
  constexpr std::size_t most = 1000;
  const auto temperatures = part.quantities("measured_at", most);
  const auto values = part.quantities("measured_viscosity", most);
  if (temperatures.size() != values.size() || values.size() < 2)
    throw part.wrong("measured_viscosity",
                     fmt::format("{} viscosities stand against {} temperatures; as many are needed, and at least two",
                                 values.size(), temperatures.size()));
  std::vector<std::pair<double, double>> points;
  for (std::size_t i = 0; i < values.size(); ++i) {
    if (i > 0 && !(temperatures[i] > temperatures[i - 1]))
      throw part.wrong("measured_at", "the temperatures must rise from entry to entry");
    points.emplace_back(temperatures[i], values[i]);
  }
  const double temperature = part.quantity("temperature");
  const double margin = 0.5 * (temperatures.back() - temperatures.front());
  if (temperature < temperatures.front() - margin || temperature > temperatures.back() + margin)
    throw part.wrong("temperature",
                     fmt::format("{:.4g} degC is far outside the measured range, {:.4g} to {:.4g} degC",
                                 temperature - 273.15, temperatures.front() - 273.15, temperatures.back() - 273.15),
                     "measure nearer to it, or give viscosity");
  return viscosity_between(points, temperature);
}

/// Throws for keys that a law does not read, as they would change nothing.
void check_keys_of_law(const Part& part, const std::string& law) {
  const std::map<std::string, std::vector<std::string>> keys_of{
      {"newtonian", {}},
      {"power-law", {"exponent", "reference_rate", "low_shear_viscosity", "high_shear_viscosity"}},
      {"carreau", {"exponent", "shear_time", "low_shear_viscosity", "high_shear_viscosity"}},
      {"cross", {"exponent", "shear_time", "low_shear_viscosity", "high_shear_viscosity"}},
      {"bingham", {"yield_stress", "low_shear_viscosity"}},
      {"herschel-bulkley", {"yield_stress", "exponent", "reference_rate", "low_shear_viscosity"}},
      {"formula", {"viscosity_formula"}}};
  const auto& wanted = keys_of.at(law);
  for (const char* key : {"exponent", "reference_rate", "shear_time", "yield_stress", "low_shear_viscosity",
                          "high_shear_viscosity", "viscosity_formula"})
    if (part.has(key) && std::ranges::find(wanted, key) == wanted.end())
      throw part.wrong(key, fmt::format("rheology = \"{}\" has no use for it", law),
                       wanted.empty() ? "set rheology, for example rheology = \"power-law\", or leave it out"
                                      : fmt::format("it takes {}", listing(wanted, "and")));
}

Rheology by_formula(Part& part, const FormulaNames& names) {
  if (!part.has("viscosity_formula"))
    throw part.wrong("viscosity_formula", "rheology = \"formula\" needs viscosity_formula");
  FormulaNames of_rate = names;
  of_rate.variable = "rate";
  of_rate.variable_dimension = dimension::shear_rate;
  const std::string text = part.text("viscosity_formula");
  const Formula formula(text, of_rate, dimension::dynamic_viscosity, part.place("viscosity_formula"));
  return Rheology::tabulated([&](double rate) {
    const double value = formula(rate);
    if (!(value > 0))
      throw part.wrong(
          "viscosity_formula",
          fmt::format("the viscosity is {:.3g} Pa s at a shear rate of {:.3g} 1/s; it must be positive", value, rate),
          "add a floor, as in max(0.001, ...)");
    return value;
  });
}

/// How the viscosity depends on the shear rate; for laws with plateaus of their own also what it is at rest.
void read_law(Part& part, const std::string& law, const FormulaNames& names, double& mu, Rheology& rheology) {
  const auto needed = [&](const char* key) {
    if (!part.has(key)) throw part.wrong(key, fmt::format("rheology = \"{}\" needs {}", law, key));
    const double value = part.quantity(key);
    if (!(value > 0)) throw part.wrong(key, fmt::format("{} must be positive", key));
    return value;
  };
  const auto optional = [&](const char* key, double standard) {
    if (!part.has(key)) return standard;
    return part.quantity(key);
  };
  if (law == "power-law" || law == "herschel-bulkley") {
    const double n = needed("exponent");
    const double reference = optional("reference_rate", 1);
    const double low = optional("low_shear_viscosity", 1000 * mu);
    if (law == "power-law") {
      const double high = optional("high_shear_viscosity", mu / 1000);
      if (!(high < low))
        throw part.wrong("low_shear_viscosity", "the limits of the viscosity leave no room between them");
      rheology = Rheology::power_law(mu, reference, n, high, low);
    } else {
      rheology = Rheology::herschel_bulkley(needed("yield_stress"), mu, reference, n, low);
    }
  } else if (law == "bingham") {
    rheology = Rheology::herschel_bulkley(needed("yield_stress"), mu, 1, 1, optional("low_shear_viscosity", 1000 * mu));
  } else if (law == "carreau" || law == "cross") {
    mu = needed("low_shear_viscosity");
    const double high = optional("high_shear_viscosity", 0);
    const double time = needed("shear_time");
    const double n = needed("exponent");
    if (law == "cross" && n >= 1)
      throw part.wrong("exponent", "a cross fluid thins: its exponent lies between 0 and 1");
    rheology = law == "carreau" ? Rheology::carreau(mu, high, time, n) : Rheology::cross(mu, high, time, n);
  } else if (law == "formula") {
    rheology = by_formula(part, names);
    mu = rheology(1);
  }
}

}  // namespace

void read_viscosity(Part& part, Phase& phase, const FormulaNames& names) {
  double& mu = phase.properties.viscosity;
  const std::string law = part.choice("rheology");
  const bool built_in = part.has("fluid");
  const std::vector<const char*> given = [&] {
    std::vector<const char*> found;
    for (const char* key : {"viscosity", "kinematic_viscosity", "measured_viscosity"})
      if (part.has(key)) found.push_back(key);
    return found;
  }();
  if (given.size() > 1)
    throw part.wrong(given[1], fmt::format("{} and {} say the same thing twice", given[0], given[1]),
                     "give one of them");
  if (part.has("viscosity")) mu = part.quantity("viscosity");
  if (part.has("kinematic_viscosity")) mu = part.quantity("kinematic_viscosity") * phase.properties.density;
  if (part.has("measured_viscosity") || part.has("measured_at")) mu = measured_viscosity(part);
  const bool own_plateaus = law == "carreau" || law == "cross" || law == "formula";
  if (given.empty() && !built_in && !own_plateaus)
    throw part.wrong("", fmt::format("phase '{}' has neither a fluid nor a viscosity", phase.name),
                     "add fluid = \"water\" (see: wavy fluids), or viscosity = \"1 cP\"");
  if (!given.empty() && own_plateaus)
    throw part.wrong(
        given[0],
        fmt::format("a fluid with rheology = \"{}\" takes its viscosity from {}", law,
                    law == "formula" ? "viscosity_formula" : "low_shear_viscosity and high_shear_viscosity"),
        "leave it out");
  check_keys_of_law(part, law);
  if (law != "newtonian" && !own_plateaus && !(mu > 0))
    throw part.wrong(given.empty() ? "" : given[0], fmt::format("rheology = \"{}\" needs a positive viscosity", law));
  read_law(part, law, names, mu, phase.properties.rheology);
}

}  // namespace wavy
