#include "physics/rheology.hpp"

#include <doctest/doctest.h>

#include <cmath>

#include "about.hpp"

using namespace wavy;

TEST_CASE("a power law has the given viscosity at its reference rate and follows its exponent") {
  const auto law = Rheology::power_law(0.8, 10, 0.6, 1e-4, 1e4);
  CHECK(law(10) == about(0.8).epsilon(1e-12));
  CHECK(law(1000) == about(0.8 * std::pow(100, -0.4)).epsilon(1e-12));
  CHECK(law(0) == 1e4);  // thins: at rest the greatest
  CHECK(law(1e300) == 1e-4);
}

TEST_CASE("Carreau's and Cross's laws go from the low plateau to the high one round 1 / time") {
  const auto carreau = Rheology::carreau(20, 0.01, 0.5, 0.4);
  CHECK(carreau(0) == about(20).epsilon(1e-12));
  CHECK(carreau(2) == about(0.01 + 19.99 * std::pow(2, -0.3)).epsilon(1e-12));
  CHECK(carreau(1e12) == about(0.01).epsilon(1e-3));
  const auto cross = Rheology::cross(20, 0.01, 0.5, 0.4);
  CHECK(cross(2) == about(0.01 + 19.99 / 2).epsilon(1e-12));
  CHECK(cross(0) == about(20).epsilon(1e-12));
}

TEST_CASE("above its yield stress a Bingham fluid has stress = yield stress + viscosity times rate") {
  const auto law = Rheology::herschel_bulkley(12, 0.3, 1, 1, 300);
  for (const double rate : {10.0, 100.0, 1000.0}) CHECK(law(rate) * rate == about(12 + 0.3 * rate).epsilon(1e-9));
  CHECK(law(0) == about(300.3));
  CHECK(law(1e-9) == about(300.3).epsilon(1e-6));
}

TEST_CASE("a tabulated law gives back its formula between the points") {
  const auto formula = [](double rate) { return 0.1 + 2 / (1 + std::pow(0.5 * rate, 0.8)); };
  const auto law = Rheology::tabulated(formula);
  for (double rate = 1.3e-5; rate < 1e7; rate *= 3.7) CHECK(law(rate) == about(formula(rate)).epsilon(1e-3));
  CHECK(law(0) == about(2.1).epsilon(1e-3));
  CHECK_FALSE(law.constant());
  CHECK(Rheology{}.constant());
}

TEST_CASE("a viscosity between measured ones follows ln mu = A + B/T") {
  const std::vector<std::pair<double, double>> points{{293.15, 0.080}, {313.15, 0.030}, {333.15, 0.012}};
  CHECK(viscosity_between(points, 293.15) == about(0.080));
  CHECK(viscosity_between(points, 333.15) == about(0.012));
  // Halfway in 1/T the geometric mean.
  const double middle = 2 / (1 / 313.15 + 1 / 333.15);
  CHECK(viscosity_between(points, middle) == about(std::sqrt(0.030 * 0.012)));
  CHECK(viscosity_between(points, 283.15) > 0.080);
}
