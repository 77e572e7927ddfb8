#include "physics/fluids.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <tuple>

#include "about.hpp"

using namespace wavy;

TEST_CASE("built-in fluids agree with handbook values") {
  const auto at = [](const char* name, double celsius) { return *properties_of(name, celsius + 273.15); };
  // CRC Handbook of Chemistry and Physics: water 998.21 kg/m3 and 1.0016 mPa s at 20 degC, 971.8 and 0.3544 at 80 degC.
  CHECK(at("water", 20).density == about(998.21).epsilon(1e-4));
  CHECK(at("water", 20).viscosity == about(1.0016e-3).epsilon(2e-3));
  CHECK(at("water", 80).density == about(971.8).epsilon(2e-4));
  CHECK(at("water", 80).viscosity == about(0.3544e-3).epsilon(5e-3));
  // Patek et al. 2009, eq. 9, which holds to 1 % between -20 and 110 degC; from memory.
  for (const double celsius : {1.0, 10.0, 25.0, 40.0, 40.1, 60.0, 99.0}) {
    const double T = (celsius + 273.15) / 300;
    const double wanted = 280.68 * std::pow(T, -1.9) + 511.45 * std::pow(T, -7.7) + 61.131 * std::pow(T, -19.6) +
                          0.45903 * std::pow(T, -40);
    CHECK(at("water", celsius).viscosity == about(1e-6 * wanted).epsilon(2.5e-3));
  }
  // Dry air at 20 degC and 1 atm: 1.2041 kg/m3, 18.13 uPa s; nitrogen at 27 degC: 17.9 uPa s; carbon dioxide: 15.0 uPa
  // s.
  CHECK(at("air", 20).density == about(1.2041).epsilon(1e-3));
  CHECK(at("air", 20).viscosity == about(18.13e-6).epsilon(5e-3));
  CHECK(at("nitrogen", 27).viscosity == about(17.9e-6).epsilon(1e-2));
  CHECK(at("carbon_dioxide", 27).viscosity == about(15.0e-6).epsilon(1e-2));
  // Glycerol at 20 degC: 1261 kg/m3, 1.41 Pa s.
  CHECK(at("glycerol", 20).density == about(1261).epsilon(5e-3));
  CHECK(at("glycerol", 20).viscosity == about(1.41).epsilon(2e-2));
}

TEST_CASE("solutions, solvents and oils agree with published values that they were not made from") {
  const auto at = [](const char* name, double celsius) { return *properties_of(name, celsius + 273.15); };
  // Segur & Oberstar, Ind. Eng. Chem. 43 (1951) 2117: glycerol of 25, 50, 75, 85 % at 20 degC, of 50 % at 60 degC [mPa
  // s].
  CHECK(at("glycerol_25", 20).viscosity == about(2.09e-3).epsilon(0.03));
  CHECK(at("glycerol_50", 20).viscosity == about(6.00e-3).epsilon(0.03));
  CHECK(at("glycerol_75", 20).viscosity == about(35.5e-3).epsilon(0.06));
  CHECK(at("glycerol_85", 20).viscosity == about(109e-3).epsilon(0.06));
  CHECK(at("glycerol_50", 60).viscosity == about(1.86e-3).epsilon(0.03));
  CHECK(at("glycerol_50", 20).density == about(1126).epsilon(0.005));
  // Sea water of 35 g/kg at 20 degC: 1024.8 kg/m3 (UNESCO equation of state), 1.077 mPa s.
  CHECK(at("sea_water", 20).density == about(1024.8).epsilon(2e-4));
  CHECK(at("sea_water", 20).viscosity == about(1.077e-3).epsilon(5e-3));
  // A well-known value at 20 degC each: ethylene glycol 19.9, toluene 0.590, acetone 0.32, isopropanol 2.4 mPa s.
  CHECK(at("ethylene_glycol", 20).viscosity == about(19.9e-3).epsilon(0.04));
  CHECK(at("toluene", 20).viscosity == about(0.590e-3).epsilon(0.02));
  CHECK(at("acetone", 20).viscosity == about(0.32e-3).epsilon(0.02));
  CHECK(at("isopropanol", 20).viscosity == about(2.4e-3).epsilon(0.03));
  // Oils pass through what their grade says: kinematic viscosity at 40 and 100 degC [mm2/s].
  for (const auto& [name, warm, hot] :
       {std::tuple{"mineral_oil_32", 32.0, 5.4}, {"mineral_oil_68", 68.0, 8.7}, {"mineral_oil_220", 220.0, 19.0}}) {
    CHECK(1e6 * at(name, 40).viscosity / at(name, 40).density == about(warm).epsilon(1e-9));
    CHECK(1e6 * at(name, 100).viscosity / at(name, 100).density == about(hot).epsilon(1e-9));
  }
  // CRC Handbook, gases at 400 K [uPa s].
  CHECK(at("argon", 126.85).viscosity == about(28.8e-6).epsilon(0.02));
  CHECK(at("helium", 126.85).viscosity == about(24.4e-6).epsilon(0.02));
  CHECK(at("oxygen", 126.85).viscosity == about(26.1e-6).epsilon(0.02));
  CHECK(at("hydrogen", 126.85).viscosity == about(10.9e-6).epsilon(0.03));
}

TEST_CASE("a liquid's viscosity passes through its measured points and falls as it warms") {
  CHECK(properties_of("propylene_glycol", 298.15)->viscosity == about(40.4e-3).epsilon(1e-9));
  CHECK(properties_of("propylene_glycol", 348.15)->viscosity == about(4.770e-3).epsilon(1e-9));
  for (const auto& fluid : fluids()) {
    if (fluid.kind != "liquid") continue;
    INFO(fluid.name);
    double last = 1e300;
    for (double T = fluid.coldest; T <= fluid.hottest; T += 5) {
      CHECK(properties_of(fluid.name, T)->viscosity < last);
      last = properties_of(fluid.name, T)->viscosity;
    }
  }
}

TEST_CASE("every fluid has a source, a range, and positive values over it") {
  for (const auto& fluid : fluids()) {
    INFO(fluid.name);
    CHECK_FALSE(fluid.source.empty());
    CHECK(fluid.coldest < fluid.hottest);
    for (const double T : {fluid.coldest, 0.5 * (fluid.coldest + fluid.hottest), fluid.hottest}) {
      const auto p = properties_of(fluid.name, T);
      REQUIRE(p.has_value());
      CHECK(p->density > 0);
      CHECK(p->viscosity > 0);
    }
  }
  CHECK_FALSE(properties_of("unobtainium", 300).has_value());
}
