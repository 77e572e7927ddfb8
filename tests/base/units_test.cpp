#include "base/units.hpp"

#include <doctest/doctest.h>

#include <cmath>

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
  CHECK(read("12.5 mm", dimension::length) == doctest::Approx(0.0125));
  CHECK(read("1 ft", dimension::length) == doctest::Approx(0.3048));
  CHECK(read("-3 m/s^2", dimension::acceleration) == doctest::Approx(-3));
  CHECK(read("1 cP", dimension::dynamic_viscosity) == doctest::Approx(1e-3));
  CHECK(read("1 cSt", dimension::kinematic_viscosity) == doctest::Approx(1e-6));
  CHECK(read("20 degC", dimension::temperature) == doctest::Approx(293.15));
  CHECK(read("3 m^3/h", dimension::volume_flow) == doctest::Approx(3.0 / 3600));
  CHECK(read("15 L/min", dimension::volume_flow) == doctest::Approx(15e-3 / 60));
  CHECK(read("1 USgal/min", dimension::volume_flow) == doctest::Approx(3.785411784e-3 / 60));
  CHECK(read("60 rev/min", dimension::rotation) == doctest::Approx(2 * M_PI));
  CHECK(read("60 rpm", dimension::rotation) == doctest::Approx(2 * M_PI));
  CHECK(read("2 bar", dimension::pressure) == doctest::Approx(2e5));
  CHECK(read("72 dyn/cm", dimension::surface_tension) == doctest::Approx(0.072));
  CHECK(read("0.4", dimension::number) == doctest::Approx(0.4));
  CHECK(read("40 %", dimension::number) == doctest::Approx(0.4));
  CHECK(read("0", dimension::length) == 0);
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
  CHECK(minutes->factor == doctest::Approx(60));
  const auto celsius = scale_to_si("degC");
  REQUIRE(celsius.has_value());
  CHECK(celsius->factor == doctest::Approx(1));
  CHECK(celsius->offset == doctest::Approx(273.15));
  CHECK(scale_to_si("cm/s^2")->factor == doctest::Approx(0.01));
  CHECK_FALSE(scale_to_si("blorps").has_value());
}
