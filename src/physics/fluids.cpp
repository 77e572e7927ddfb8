#include "physics/fluids.hpp"

#include <algorithm>
#include <cmath>
#include <functional>

namespace wavy {
namespace {

constexpr double zero_celsius = 273.15;
constexpr double gas_constant = 8.314462618;  // J/(mol K)
constexpr double one_atmosphere = 101325;     // Pa

/// Kell, J. Chem. Eng. Data 20 (1975) 97, eq. 16: water at 1 atm, 0 to 150 degC, to 1e-5.
double water_density(double kelvin) {
  const double t = kelvin - zero_celsius;
  return (999.83952 + 16.945176 * t - 7.9870401e-3 * t * t - 46.170461e-6 * std::pow(t, 3) +
          105.56302e-9 * std::pow(t, 4) - 280.54253e-12 * std::pow(t, 5)) /
         (1 + 16.879850e-3 * t);
}

/// Kestin, Sokolov & Wakeham, J. Phys. Chem. Ref. Data 7 (1978) 941, eq. 15: ratio to 1.002 mPa s at 20 degC.
double water_viscosity(double kelvin) {
  const double d = 20 - (kelvin - zero_celsius);
  const double log10_ratio = d / (kelvin - zero_celsius + 96) * (1.2364 - 1.37e-3 * d + 5.7e-6 * d * d);
  return 1.002e-3 * std::pow(10.0, log10_ratio);
}

double ideal_gas_density(double molar_mass, double kelvin) {
  return one_atmosphere * molar_mass / (gas_constant * kelvin);
}

/// Sutherland, Phil. Mag. 36 (1893) 507.
double sutherland(double mu0, double t0, double s, double kelvin) {
  return mu0 * std::pow(kelvin / t0, 1.5) * (t0 + s) / (kelvin + s);
}

/// Between two measured viscosities along  ln mu = A + B / T  (Andrade 1930).
double andrade(double t1, double mu1, double t2, double mu2, double kelvin) {
  const double b = std::log(mu1 / mu2) / (1 / t1 - 1 / t2);
  return mu1 * std::exp(b * (1 / kelvin - 1 / t1));
}

struct Entry {
  Fluid fluid;
  std::function<Properties(double)> at;
};

const std::vector<Entry>& entries() {
  static const std::vector<Entry> list{
      {{"water", "liquid", "pure water", 273.15, 373.15,
        "Kell 1975 (density); Kestin, Sokolov & Wakeham 1978 (viscosity)"},
       [](double T) {
         return Properties{water_density(T), water_viscosity(T)};
       }},
      {{"ethanol", "liquid", "pure ethanol", 273.15, 343.15,
        "linear density 789.3 kg/m3 at 20 degC, 0.86 kg/m3 per K; Andrade through 1.200 and 0.694 mPa s (20, 50 degC), "
        "CRC Handbook"},
       [](double T) {
         return Properties{789.3 - 0.86 * (T - 293.15), andrade(293.15, 1.200e-3, 323.15, 0.694e-3, T)};
       }},
      {{"glycerol", "liquid", "pure glycerol", 288.15, 373.15,
        "Cheng, Ind. Eng. Chem. Res. 47 (2008) 3285, eqs. 22 and 24"},
       [](double T) {
         const double t = T - zero_celsius;
         return Properties{1277 - 0.654 * t, 12.1 * std::exp((-1233 + t) * t / (9900 + 70 * t))};
       }},
      {{"sunflower_oil", "liquid", "refined sunflower oil", 283.15, 373.15,
        "linear density 919 kg/m3 at 20 degC, 0.67 kg/m3 per K; Andrade through 60 and 16 mPa s (20, 60 degC), typical "
        "of handbook values"},
       [](double T) {
         return Properties{919.0 - 0.67 * (T - 293.15), andrade(293.15, 60e-3, 333.15, 16e-3, T)};
       }},
      {{"lavender_oil", "liquid", "essential oil of lavender", 283.15, 353.15,
        "linear density 885 kg/m3 at 20 degC (ISO 3515 range), 0.8 kg/m3 per K; Andrade through 2.9 and 1.5 mPa s (20, "
        "50 degC), typical"},
       [](double T) {
         return Properties{885.0 - 0.8 * (T - 293.15), andrade(293.15, 2.9e-3, 323.15, 1.5e-3, T)};
       }},
      {{"air", "gas", "dry air at 1 atm", 223.15, 573.15,
        "ideal gas, 28.965 g/mol; Sutherland with 17.16 uPa s at 273.15 K, S = 110.4 K"},
       [](double T) {
         return Properties{ideal_gas_density(28.965e-3, T), sutherland(17.16e-6, 273.15, 110.4, T)};
       }},
      {{"nitrogen", "gas", "nitrogen at 1 atm", 223.15, 573.15,
        "ideal gas, 28.0134 g/mol; Sutherland with 16.63 uPa s at 273.15 K, S = 106.7 K"},
       [](double T) {
         return Properties{ideal_gas_density(28.0134e-3, T), sutherland(16.63e-6, 273.15, 106.7, T)};
       }},
      {{"carbon_dioxide", "gas", "carbon dioxide at 1 atm", 223.15, 573.15,
        "ideal gas, 44.0095 g/mol; Sutherland with 13.70 uPa s at 273.15 K, S = 222 K"},
       [](double T) {
         return Properties{ideal_gas_density(44.0095e-3, T), sutherland(13.70e-6, 273.15, 222.0, T)};
       }},
      {{"steam", "gas", "water vapour at 1 atm, as an ideal gas", 373.15, 573.15,
        "ideal gas, 18.01528 g/mol; Sutherland with 11.2 uPa s at 350 K, S = 1064 K (White, Viscous Fluid Flow)"},
       [](double T) {
         return Properties{ideal_gas_density(18.01528e-3, T), sutherland(11.2e-6, 350.0, 1064.0, T)};
       }},
  };
  return list;
}

const Entry* find(const std::string& name) {
  const auto& list = entries();
  const auto at = std::find_if(list.begin(), list.end(), [&](const Entry& e) { return e.fluid.name == name; });
  return at == list.end() ? nullptr : &*at;
}

}  // namespace

const std::vector<Fluid>& fluids() {
  static const std::vector<Fluid> list = [] {
    std::vector<Fluid> result;
    for (const auto& entry : entries()) result.push_back(entry.fluid);
    return result;
  }();
  return list;
}

const Fluid* find_fluid(const std::string& name) {
  const Entry* entry = find(name);
  return entry == nullptr ? nullptr : &entry->fluid;
}

std::optional<Properties> properties_of(const std::string& fluid, double temperature) {
  const Entry* entry = find(fluid);
  if (entry == nullptr) return std::nullopt;
  return entry->at(temperature);
}

}  // namespace wavy
