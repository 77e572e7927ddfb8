// The built-in fluids, at a temperature.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "physics/rheology.hpp"

namespace wavy {

/// What the flow needs to know of a fluid.
struct Properties {
  double density = 0;    ///< [kg/m3]
  double viscosity = 0;  ///< dynamic [Pa s]; where a rheology rules, a value typical of it
  Rheology rheology{};
};

struct Fluid {
  std::string name;
  std::string kind;    ///< "liquid" or "gas"
  std::string what;    ///< one line for the list
  double coldest = 0;  ///< range of the correlations [K]
  double hottest = 0;
  std::string source;
};

const std::vector<Fluid>& fluids();

/// Properties at a temperature [K] and 101325 Pa; nothing for an unknown name. The caller checks the range.
std::optional<Properties> properties_of(const std::string& fluid, double temperature);
const Fluid* find_fluid(const std::string& name);

}  // namespace wavy
