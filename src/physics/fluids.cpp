#include "physics/fluids.hpp"

#include <fmt/format.h>

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

/// Ratio to 1.002 mPa s at 20 degC. To 40 degC: Kestin, Sokolov & Wakeham, J. Phys. Chem. Ref. Data 7 (1978) 941, eq.
/// 15; above, to 100 degC, where that strays by up to 3 %: Swindells, as in the CRC Handbook of Chemistry and Physics.
/// Both from memory, and so used within 0.2 % of Patek, Hruby, Klomfar, Souckova & Harvey, J. Phys. Chem. Ref. Data 38
/// (2009) 21, eq. 9, from memory too. Where they meet they differ by 0.06 %.
double water_viscosity(double kelvin) {
  const double celsius = kelvin - zero_celsius;
  const double d = 20 - celsius;
  constexpr double meet = 40 + 1e-9;  // [degC]
  const double log10_ratio = celsius <= meet ? d / (celsius + 96) * (1.2364 - 1.37e-3 * d + 5.7e-6 * d * d)
                                             : (1.3272 * d - 1.053e-3 * d * d) / (celsius + 105);
  return 1.002e-3 * std::pow(10.0, log10_ratio);
}

double ideal_gas_density(double molar_mass, double kelvin) {
  return one_atmosphere * molar_mass / (gas_constant * kelvin);
}

/// Sutherland, Phil. Mag. 36 (1893) 507.
double sutherland(double mu0, double t0, double s, double kelvin) {
  return mu0 * std::pow(kelvin / t0, 1.5) * (t0 + s) / (kelvin + s);
}

/// Dynamic viscosity measured at a temperature.
struct Measured {
  double celsius;
  double viscosity;  ///< [mPa s]
};

/// Between measured viscosities along  ln mu = A + B / T  (Andrade 1930), and beyond the last two likewise.
double andrade(const std::vector<Measured>& points, double kelvin) {
  std::size_t upper = 1;
  while (upper + 1 < points.size() && kelvin > points[upper].celsius + zero_celsius) ++upper;
  const Measured& a = points[upper - 1];
  const Measured& b = points[upper];
  const double at_a = 1 / (a.celsius + zero_celsius);
  const double slope = std::log(a.viscosity / b.viscosity) / (at_a - 1 / (b.celsius + zero_celsius));
  return 1e-3 * a.viscosity * std::exp(slope * (1 / kelvin - at_a));
}

/// Cheng, Ind. Eng. Chem. Res. 47 (2008) 3285, eqs. 6, 12, 21 to 24: glycerol of a share by mass in water, 0 to 100
/// degC.
Properties glycerol_solution(double share, double kelvin) {
  const double t = kelvin - zero_celsius;
  const double a = 0.705 - 0.0017 * t;
  const double b = (4.9 + 0.036 * t) * std::pow(a, 2.5);
  const double alpha = 1 - share + a * b * share * (1 - share) / (a * share + b * (1 - share));
  const double water = 1.790e-3 * std::exp((-1230 - t) * t / (36100 + 360 * t));
  const double glycerol = 12.1 * std::exp((-1233 + t) * t / (9900 + 70 * t));
  return {(1277 - 0.654 * t) * share + 1000 * (1 - std::pow(std::abs(t - 4) / 622, 1.7)) * (1 - share),
          std::pow(water, alpha) * std::pow(glycerol, 1 - alpha)};
}

/// Sharqawy, Lienhard & Zubair, Desalin. Water Treat. 16 (2010) 354, eqs. 8 and 22: sea water of 35 g/kg.
Properties sea_water(double kelvin) {
  constexpr double S = 0.035;  // kg/kg
  const double t = kelvin - zero_celsius;
  const double density = 999.9 + t * (2.034e-2 + t * (-6.162e-3 + t * (2.261e-5 - t * 4.657e-8))) +
                         S * (802.0 + t * (-2.001 + t * (1.677e-2 - t * (3.060e-5 + 1.613e-5 * S))));
  const double A = 1.541 + 1.998e-2 * t - 9.52e-5 * t * t;
  const double B = 7.974 - 7.561e-2 * t + 4.724e-4 * t * t;
  return {density, water_viscosity(kelvin) * (1 + A * S + B * S * S)};
}

/// Walther's line  log log(nu + 0.7) = A - B log T  (ASTM D341) through the kinematic viscosities at 40 and 100 degC
/// [mm2/s]; 870 kg/m3 at 15 degC.
Properties mineral_oil(double at_40, double at_100, double kelvin) {
  const auto walther = [](double nu) { return std::log10(std::log10(nu + 0.7)); };
  const double cold = std::log10(40 + zero_celsius);
  const double hot = std::log10(100 + zero_celsius);
  const double line = walther(at_40) + (walther(at_100) - walther(at_40)) * (std::log10(kelvin) - cold) / (hot - cold);
  const double density = 870 - 0.64 * (kelvin - 288.15);
  return {density, 1e-6 * density * (std::pow(10.0, std::pow(10.0, line)) - 0.7)};
}

struct Entry {
  Fluid fluid;
  std::function<Properties(double)> at;
};

/// A liquid over a range [degC] by its density at 20 degC [kg/m3], what that loses per kelvin, and measured
/// viscosities.
Entry liquid(const std::string& name, const std::string& what, double coldest, double hottest, double density,
             double per_kelvin, const std::vector<Measured>& points, const std::string& source) {
  return {{name, "liquid", what, coldest + zero_celsius, hottest + zero_celsius,
           fmt::format("{}; density linear, viscosity between measured points after Andrade", source)},
          [=](double T) {
            return Properties{density - per_kelvin * (T - zero_celsius - 20), andrade(points, T)};
          }};
}

/// A salt's solution by how much denser and more viscous than water it is at 20 degC.
Entry brine(const std::string& name, const std::string& what, double density, double viscosity) {
  return {{name, "liquid", what, 273.15, 333.15,
           "CRC Handbook, concentrative properties at 20 degC; at other temperatures in proportion to water"},
          [=](double T) {
            return Properties{density / 998.2 * water_density(T), viscosity / 1.002e-3 * water_viscosity(T)};
          }};
}

/// A gas at 1 atm, ideal, over a range [K], by molar mass [g/mol], viscosity [uPa s] at a temperature [K] and
/// Sutherland's constant [K].
Entry gas(const std::string& name, const std::string& what, double coldest, double hottest, double molar_mass,
          double viscosity, double at, double constant, const std::string& source = "") {
  return {{name, "gas", what, coldest, hottest,
           fmt::format("ideal gas, {} g/mol; Sutherland with {:g} uPa s at {:g} K, S = {:g} K{}", molar_mass, viscosity,
                       at, constant, source)},
          [=](double T) {
            return Properties{ideal_gas_density(1e-3 * molar_mass, T), sutherland(1e-6 * viscosity, at, constant, T)};
          }};
}

Entry diluted_glycerol(int percent) {
  return {{fmt::format("glycerol_{}", percent), "liquid", fmt::format("{} % glycerol by mass in water", percent),
           273.15, 373.15, "Cheng, Ind. Eng. Chem. Res. 47 (2008) 3285"},
          [=](double T) { return glycerol_solution(0.01 * percent, T); }};
}

Entry oil_of_grade(int grade, double at_100) {
  return {{fmt::format("mineral_oil_{}", grade), "liquid", fmt::format("mineral oil, ISO VG {}", grade), 273.15, 393.15,
           fmt::format("{} and {:g} mm2/s at 40 and 100 degC, a viscosity index near 95; Walther's line (ASTM D341)",
                       grade, at_100)},
          [=](double T) { return mineral_oil(grade, at_100, T); }};
}

const std::vector<Entry>& entries() {
  static const std::vector<Entry> list{
      // Water and what is dissolved in it
      {{"water", "liquid", "pure water", 273.15, 373.15,
        "Kell 1975 (density); Kestin, Sokolov & Wakeham 1978, above 40 degC Swindells (viscosity)"},
       [](double T) {
         return Properties{water_density(T), water_viscosity(T)};
       }},
      {{"sea_water", "liquid", "sea water, 35 g salt per kg", 273.15, 373.15,
        "Sharqawy, Lienhard & Zubair, Desalin. Water Treat. 16 (2010) 354"},
       sea_water},
      brine("brine_10", "10 % sodium chloride by mass in water", 1070.7, 1.193e-3),
      brine("brine_20", "20 % sodium chloride by mass in water", 1147.8, 1.557e-3),
      brine("calcium_brine_20", "20 % calcium chloride by mass in water", 1177.5, 1.993e-3),
      // Alcohols, glycols and glycerol
      liquid("methanol", "pure methanol", 0, 60, 791.3, 0.94, {{0, 0.793}, {25, 0.544}}, "CRC Handbook"),
      liquid("ethanol", "pure ethanol", 0, 70, 789.3, 0.86, {{20, 1.200}, {50, 0.694}}, "CRC Handbook"),
      liquid("isopropanol", "2-propanol", 0, 80, 785.5, 0.83, {{0, 4.619}, {25, 2.038}, {50, 1.028}, {75, 0.576}},
             "CRC Handbook"),
      liquid("butanol", "1-butanol", 20, 100, 809.7, 0.75, {{25, 2.544}, {50, 1.394}, {75, 0.833}}, "CRC Handbook"),
      liquid("ethylene_glycol", "pure ethylene glycol", 15, 110, 1113.5, 0.70,
             {{25, 16.1}, {50, 6.554}, {75, 3.340}, {100, 1.975}}, "CRC Handbook"),
      liquid("diethylene_glycol", "pure diethylene glycol", 15, 110, 1116.0, 0.73,
             {{25, 30.2}, {50, 11.13}, {75, 4.917}, {100, 2.505}}, "CRC Handbook"),
      liquid("propylene_glycol", "1,2-propanediol", 0, 110, 1036.1, 0.73,
             {{0, 248}, {25, 40.4}, {50, 11.3}, {75, 4.770}, {100, 2.75}}, "CRC Handbook"),
      {{"glycerol", "liquid", "pure glycerol", 288.15, 373.15,
        "Cheng, Ind. Eng. Chem. Res. 47 (2008) 3285, eqs. 22 and 24"},
       [](double T) { return glycerol_solution(1, T); }},
      diluted_glycerol(25),
      diluted_glycerol(50),
      diluted_glycerol(75),
      diluted_glycerol(85),
      // Solvents
      liquid("acetone", "pure acetone", 0, 55, 789.9, 1.13, {{0, 0.395}, {25, 0.306}, {50, 0.247}}, "CRC Handbook"),
      liquid("ethyl_acetate", "pure ethyl acetate", 0, 75, 900.5, 1.22,
             {{0, 0.578}, {25, 0.423}, {50, 0.325}, {75, 0.259}}, "CRC Handbook"),
      liquid("acetic_acid", "pure acetic acid", 18, 110, 1049.2, 1.10,
             {{25, 1.056}, {50, 0.786}, {75, 0.599}, {100, 0.464}}, "CRC Handbook"),
      liquid("hexane", "n-hexane", 0, 65, 659.4, 0.90, {{0, 0.405}, {25, 0.300}, {50, 0.240}}, "CRC Handbook"),
      liquid("heptane", "n-heptane", 0, 90, 683.7, 0.85, {{0, 0.523}, {25, 0.387}, {50, 0.301}, {75, 0.243}},
             "CRC Handbook"),
      liquid("cyclohexane", "pure cyclohexane", 10, 80, 778.5, 0.95, {{25, 0.894}, {50, 0.615}, {75, 0.447}},
             "CRC Handbook"),
      liquid("toluene", "pure toluene", 0, 105, 866.8, 0.93,
             {{0, 0.778}, {25, 0.560}, {50, 0.424}, {75, 0.333}, {100, 0.270}}, "CRC Handbook"),
      // Oils
      liquid("lavender_oil", "essential oil of lavender", 10, 80, 885.0, 0.8, {{20, 2.9}, {50, 1.5}},
             "density in the range of ISO 3515, viscosity typical"),
      liquid("sunflower_oil", "refined sunflower oil", 10, 100, 919.0, 0.67, {{20, 60}, {60, 16}},
             "typical of handbook values"),
      liquid("olive_oil", "olive oil", 10, 80, 912.0, 0.67, {{20, 84}, {40, 36}}, "typical of handbook values"),
      liquid("rapeseed_oil", "refined rapeseed oil", 10, 80, 918.0, 0.67, {{20, 73}, {40, 35}},
             "typical of handbook values"),
      oil_of_grade(32, 5.4),
      oil_of_grade(68, 8.7),
      oil_of_grade(220, 19.0),
      // Gases
      gas("air", "dry air", 223.15, 573.15, 28.965, 17.16, 273.15, 110.4),
      gas("nitrogen", "nitrogen", 223.15, 573.15, 28.0134, 16.63, 273.15, 106.7),
      gas("oxygen", "oxygen", 223.15, 573.15, 31.9988, 19.19, 273.15, 138.9),
      gas("carbon_dioxide", "carbon dioxide", 223.15, 573.15, 44.0095, 13.70, 273.15, 222),
      gas("argon", "argon", 223.15, 573.15, 39.948, 21.2, 273.15, 144),
      gas("helium", "helium", 223.15, 573.15, 4.0026, 18.7, 273.15, 79.4),
      gas("hydrogen", "hydrogen", 223.15, 473.15, 2.01588, 8.411, 273.15, 97),
      gas("methane", "methane", 223.15, 473.15, 16.043, 10.3, 273.15, 167,
          " (through handbook values at 300 and 400 K)"),
      gas("ammonia", "ammonia", 273.15, 473.15, 17.031, 10.2, 300, 521, " (through handbook values at 300 and 400 K)"),
      gas("propane", "propane", 273.15, 473.15, 44.096, 8.2, 300, 292, " (through handbook values at 300 and 400 K)"),
      gas("steam", "water vapour", 373.15, 573.15, 18.01528, 11.2, 350, 1064, " (White, Viscous Fluid Flow)"),
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
