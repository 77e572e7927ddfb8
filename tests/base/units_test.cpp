#include "base/units.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy;

namespace {

double read(const char* text, const Dimension& wanted) {
  UnitProblem problem;
  const auto value = read_quantity(text, wanted, problem);
  INFO(text, ": ", problem.what);
  REQUIRE(value.has_value());
  return *value;
}

std::string refusal(const char* text, const Dimension& wanted) {
  UnitProblem problem;
  CHECK_FALSE(read_quantity(text, wanted, problem).has_value());
  CHECK_FALSE(problem.remedy.empty());
  return problem.what;
}

}  // namespace

TEST_CASE("quantities are read in the units of the trade") {
  CHECK(read("12.5 mm", dimension::length) == about(0.0125));
  CHECK(read("1 ft", dimension::length) == about(0.3048));
  CHECK(read("-3 m/s^2", dimension::acceleration) == about(-3));
  CHECK(read("1 cP", dimension::dynamic_viscosity) == about(1e-3));
  CHECK(read("1 cSt", dimension::kinematic_viscosity) == about(1e-6));
  CHECK(read("20 degC", dimension::temperature) == about(293.15));
  CHECK(read("3 m^3/h", dimension::volume_flow) == about(3.0 / 3600));
  CHECK(read("15 L/min", dimension::volume_flow) == about(15e-3 / 60));
  CHECK(read("1 USgal/min", dimension::volume_flow) == about(3.785411784e-3 / 60));
  CHECK(read("60 rev/min", dimension::rotation) == about(2 * M_PI));
  CHECK(read("60 rpm", dimension::rotation) == about(2 * M_PI));
  CHECK(read("2 bar", dimension::pressure) == about(2e5));
  CHECK(read("72 dyn/cm", dimension::surface_tension) == about(0.072));
  CHECK(read("0.4", dimension::number) == about(0.4));
  CHECK(read("40 %", dimension::number) == about(0.4));
  CHECK(read("0", dimension::length) == 0);
}

TEST_CASE("units are read however people spell them") {
  const double us = 3.785411784e-3 / 60;
  for (const char* text : {"1 US gal/min", "1 USgal/min", "1 US gallon/min", "1 US gpm", "1 USgpm", "1 U.S. gal/min"})
    CHECK(read(text, dimension::volume_flow) == about(us));
  for (const char* text : {"1 imp gal/min", "1 UK gal/min", "1 UKgal/min"})
    CHECK(read(text, dimension::volume_flow) == about(4.54609e-3 / 60));
  CHECK(read("6 L/hr", dimension::volume_flow) == about(6e-3 / 3600));
  CHECK(read("6 ltr/hrs", dimension::volume_flow) == about(6e-3 / 3600));
  CHECK(read("6 LPM", dimension::volume_flow) == about(1e-4));
  CHECK(read("90 sec", dimension::time) == about(90));
  CHECK(read("2 mins", dimension::time) == about(120));
  CHECK(read("20 deg C", dimension::temperature) == about(293.15));
  CHECK(read("20 °C", dimension::temperature) == about(293.15));
  CHECK(read("2 bar g", dimension::pressure) == about(2e5));
  CHECK(read("100 mmH2O", dimension::pressure) == about(980.665));
  CHECK(read("5 mPa s", dimension::dynamic_viscosity) == about(5e-3));
  CHECK(read("60 RPM", dimension::rotation) == about(2 * M_PI));
  CHECK(read("3 m³/h", dimension::volume_flow) == about(3.0 / 3600));
}

TEST_CASE("a unit tells what it measures, with a name or without") {
  CHECK(kind_of(scale_to_si("mbar")->powers) == "a pressure");
  CHECK(kind_of(scale_to_si("ft/min")->powers) == "a speed");
  CHECK(kind_of(scale_to_si("bar/s")->powers) == "a quantity in kg/(m s3)");
  CHECK(kind_of(scale_to_si("deg")->powers) == "a pure number");
  CHECK(scale_to_si("bar/min")->factor == about(1e5 / 60));
  CHECK(powers_of(dimension::dynamic_viscosity) == Powers{-1, 1, -1, 0, 0, 0, 0});
}

TEST_CASE("a quantity of another kind is refused and both kinds are named") {
  const std::string what = refusal("2 m", dimension::speed);
  CHECK(what.find("a length") != std::string::npos);
  CHECK(what.find("a speed") != std::string::npos);
  CHECK(refusal("5 kg", dimension::length).find("a mass") != std::string::npos);
}

TEST_CASE("a missing, unknown or ambiguous unit is refused") {
  CHECK(refusal("1.2", dimension::length).find("no unit") != std::string::npos);
  CHECK(refusal("1.2 furlogns", dimension::length).find("not a unit") != std::string::npos);
  CHECK(refusal("30 gal/min", dimension::volume_flow).find("gallon") != std::string::npos);
  CHECK(refusal("nan m", dimension::length).find("number") != std::string::npos);
  CHECK(refusal("1e400 m", dimension::length).find("number") != std::string::npos);
  CHECK(refusal("", dimension::length).find("number") != std::string::npos);
}

TEST_CASE("units of table headers are scaled to SI") {
  const auto minutes = scale_to_si("min");
  REQUIRE(minutes.has_value());
  CHECK(minutes->factor == about(60));
  const auto celsius = scale_to_si("degC");
  REQUIRE(celsius.has_value());
  CHECK(celsius->factor == about(1));
  CHECK(celsius->offset == about(273.15));
  CHECK(scale_to_si("cm/s^2")->factor == about(0.01));
  CHECK_FALSE(scale_to_si("blorps").has_value());
}
