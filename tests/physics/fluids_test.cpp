#include "physics/fluids.hpp"

#include <doctest/doctest.h>

using namespace wavy;

TEST_CASE("built-in fluids agree with handbook values") {
  const auto at = [](const char* name, double celsius) { return *properties_of(name, celsius + 273.15); };
  // CRC Handbook of Chemistry and Physics: water 998.21 kg/m3 and 1.0016 mPa s at 20 degC, 971.8 and 0.3544 at 80 degC.
  CHECK(at("water", 20).density == doctest::Approx(998.21).epsilon(1e-4));
  CHECK(at("water", 20).viscosity == doctest::Approx(1.0016e-3).epsilon(2e-3));
  CHECK(at("water", 80).density == doctest::Approx(971.8).epsilon(2e-4));
  CHECK(at("water", 80).viscosity == doctest::Approx(0.3544e-3).epsilon(5e-3));
  // Dry air at 20 degC and 1 atm: 1.2041 kg/m3, 18.13 uPa s; nitrogen at 27 degC: 17.9 uPa s; carbon dioxide: 15.0 uPa
  // s.
  CHECK(at("air", 20).density == doctest::Approx(1.2041).epsilon(1e-3));
  CHECK(at("air", 20).viscosity == doctest::Approx(18.13e-6).epsilon(5e-3));
  CHECK(at("nitrogen", 27).viscosity == doctest::Approx(17.9e-6).epsilon(1e-2));
  CHECK(at("carbon_dioxide", 27).viscosity == doctest::Approx(15.0e-6).epsilon(1e-2));
  // Glycerol at 20 degC: 1261 kg/m3, 1.41 Pa s.
  CHECK(at("glycerol", 20).density == doctest::Approx(1261).epsilon(5e-3));
  CHECK(at("glycerol", 20).viscosity == doctest::Approx(1.41).epsilon(2e-2));
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
