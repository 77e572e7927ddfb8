#include "validation/validation.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <set>

using namespace wavy;

TEST_CASE("findings pass below their bar and fail above it or when they are not numbers") {
  CHECK(small("x", -0.5e-3, 1e-3).passed());
  CHECK_FALSE(small("x", 2e-3, 1e-3).passed());
  CHECK(close("x", 1.004, 1, 5e-3).passed());
  CHECK_FALSE(close("x", 1.006, 1, 5e-3).passed());
  CHECK(close("x", 1.004, 1, 5e-3).error == doctest::Approx(4e-3));
  CHECK(at_least("order", 2.1, 2).passed());
  CHECK_FALSE(at_least("order", 1.9, 2).passed());
  CHECK_FALSE(small("x", std::nan(""), 1).passed());
  CHECK_FALSE(close("x", std::nan(""), 1, 1).passed());
}

TEST_CASE("every case has a name of its own, a line, a source, and quick ones exist") {
  std::set<std::string> names;
  int quick = 0;
  for (const auto& one : validation_cases()) {
    CHECK(names.insert(one.name).second);
    CHECK_FALSE(one.what.empty());
    CHECK_FALSE(one.source.empty());
    quick += one.quick ? 1 : 0;
  }
  CHECK(quick >= 5);
}

TEST_CASE("the quick cases of waves and rest reach their bars") {
  for (const auto& one : validation_cases()) {
    if (one.name != "rest_in_a_box" && one.name != "sloshing" && one.name != "rayleigh_taylor" &&
        one.name != "thrown_drop")
      continue;
    const ValidationResult result = one.run(true);
    CHECK_FALSE(result.findings.empty());
    for (const auto& finding : result.findings) {
      INFO(one.name, ": ", finding.what, " ", finding.measured, " against ", finding.reference);
      CHECK(finding.passed());
    }
  }
}
