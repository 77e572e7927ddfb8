#include "validation/validation.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <set>

#include "about.hpp"

using namespace wavy;

TEST_CASE("findings pass below their bar and fail above it or when they are not numbers") {
  CHECK(small("x", -0.5e-3, 1e-3).passed());
  CHECK_FALSE(small("x", 2e-3, 1e-3).passed());
  CHECK(close("x", 1.004, 1, 5e-3).passed());
  CHECK_FALSE(close("x", 1.006, 1, 5e-3).passed());
  CHECK(close("x", 1.004, 1, 5e-3).error == about(4e-3));
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

TEST_CASE("the quick cases reach their bars, but for the one that docs/method.md speaks of") {
  int missed = 0;
  for (const auto& one : validation_cases()) {
    if (!one.quick) continue;
    const ValidationResult result = one.run(true);
    CHECK_FALSE(result.findings.empty());
    for (const auto& finding : result.findings) {
      INFO(one.name, ": ", finding.what, " ", finding.measured, " against ", finding.reference);
      if (one.name == "reversed_vortex" && finding.what == "L1 error at 64^2") {
        CHECK(finding.measured < 7.4e-3);
        missed += finding.passed() ? 0 : 1;
      } else {
        CHECK(finding.passed());
      }
    }
  }
  CHECK(missed == 1);  // else method.md says too much
}
