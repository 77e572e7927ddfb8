#include "base/formula_dimensions.hpp"

#include <doctest/doctest.h>
#include <muParser.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"

using namespace wavy;

namespace {

const Place here{"a.toml", 3, 7, "motion.acceleration"};

FormulaNames names() {
  FormulaNames result;
  result.constants.emplace("width", NamedValue(0.4, powers_of(dimension::length)));
  result.constants.emplace("factor", NamedValue(3));
  result.tables.emplace("road", NamedCurve(Curve({0, 1}, {0, 2}), powers_of(dimension::acceleration)));
  result.tables.emplace("bare", NamedCurve(Curve({0, 1}, {0, 2})));
  return result;
}

void takes(const std::string& text, const Dimension& wanted = dimension::acceleration) {
  INFO(text);
  CHECK_NOTHROW(Formula(text, names(), wanted, here));
}

void refuses(const std::string& text, const std::string& words, const Dimension& wanted = dimension::acceleration) {
  INFO(text);
  CHECK_THROWS_WITH_AS(Formula(text, names(), wanted, here), doctest::Contains(words.c_str()), Error);
}

}  // namespace

TEST_CASE("a formula of the wrong dimension is refused, and both dimensions are named") {
  refuses("pulse(t, 0.2 s, 0.9 s, -1.5 bar)", "is a pressure; an acceleration is needed here");
  refuses("2 * 1.5 bar", "is a pressure");
  refuses("t", "is a time");
  refuses("1 - t", "is a time");
  refuses("pi * t", "is a time");
  refuses("width / (1 s)", "is a speed");
  refuses("sqrt(width) * 1 m/s^2", "a quantity in m1.5/s2");
  refuses("1 m/s^2 + 2 s", "an acceleration and a time");
  refuses("ramp(t, 0 s, 1 m, 0 m/s^2, 1 m/s^2)", "a time and a length");
  refuses("max(1 m/s^2, 3 kg)", "an acceleration and a mass");
  refuses("t > 2 m ? 1 m/s^2 : 0", "a time and a length");
  refuses("sin(t) * 1 m/s^2", "the argument of 'sin' is a time");
  refuses("exp(width) * 1 m/s^2", "the argument of 'exp' is a length");
  refuses("(1 m)^t", "an exponent is a time");
  refuses("width^(t / 1 s)", "raised to a power");
  refuses("road(x)", "a length and a time");
  refuses("road(t) * 1 s", "is a speed");
}

TEST_CASE("a formula of the right dimension passes, by whatever way it comes to it") {
  takes("-3 m/s^2 * sin(2 * pi * t / 1.5 s)");
  takes("0.5 m/s^2 * sin(3.19 1/s * t)");
  takes("width / (0.5 s)^2");
  takes("(0.1 m^2/s^4)^0.5");
  takes("sqrt(4 m^2/s^4)");
  takes("road(t) + factor * road(t + 0.2 s)");
  takes("min(0.1 m/s^2, t * 0.2 m/s^3)");
  takes("t > 0.05 s ? 1 m/s^2 : 0");
  takes("atan2(t, 1 s) * 1 m/s^2");
  takes("x * 2 1/s^2");
  takes("step(t, 1 min, 0, 1 cm/s^2)");
  takes("2 * 3.5 US gal/min", dimension::volume_flow);
  takes("0.1 Pa.s * (1 + t / 2 s)", dimension::dynamic_viscosity);
}

TEST_CASE("bare numbers are SI, and leave open what no unit says") {
  takes("pulse(t, 0.2, 0.9, -1.5)");
  takes("0.3 * t");
  takes("2 * sin(2 * pi * t / 1.4)");
  takes("1 m/s^2 + 0.1 * t + 2");
  takes("bare(t) * 2");
  const Formula sum("1 m/s^2 + 0.1 * t + 2", names(), dimension::acceleration, here);
  CHECK(sum(10) == about(4));
}

TEST_CASE("every function of the parser is in the list, and has a rule for dimensions") {
  const mu::Parser parser;
  for (const auto& definition : parser.GetFunDef()) {
    const std::string& name = definition.first;
    INFO(name);
    CHECK(std::ranges::find(formula_functions(), name, &FormulaFunction::name) != formula_functions().end());
  }
  FormulaNames none;
  for (const auto& function : formula_functions()) {
    INFO(function.name);
    bool works = false;
    for (const char* arguments :
         {"(0.5)", "(0.5, 0.6)", "(0.5, 0.6, 0.7, 0.8)", "(0.5, 0.6, 0.7, 0.8, 0.9)", "(1.5)"}) {
      try {
        const Formula formula(function.name + arguments, none, dimension::number, here);
        works = works || std::isfinite(formula(0));
      } catch (const Error&) {
        continue;
      }
    }
    CHECK(works);
  }
}

TEST_CASE("what is no value is refused") {
  refuses("t = 3", "cannot be understood");
  refuses("x = 1, 2 m/s^2", "cannot be understood");
  refuses("sin()", "cannot be understood");
  refuses("road(t, 1 s)", "cannot be understood");
}
