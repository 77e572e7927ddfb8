// The law of the wall and the laws of turbulence against their published formulas.
#include "physics/turbulence.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <string>

#include "about.hpp"
#include "physics/bubbles_and_drops.hpp"

using namespace wavy;

TEST_CASE("the law of the wall is the viscous layer near by and the logarithmic one far away") {
  for (const double y : {0.01, 0.1, 1.0}) CHECK(wall_law(y) == about(y).epsilon(0.01));
  // ln(y)/0.41 + 7.8 + ln(0.41)/0.41.
  for (const double y : {100.0, 1000.0, 1e5})
    CHECK(wall_law(y) == about(std::log(y) / 0.41 + 7.8 + std::log(0.41) / 0.41).epsilon(5e-3));
  // Reichardt's figures between: worked out apart from the program.
  CHECK(wall_law(10) == about(8.3696).epsilon(1e-3));
  CHECK(wall_law(30) == about(13.6004).epsilon(1e-3));
}

TEST_CASE("its slope is that of the curve, on smooth walls and rough ones") {
  constexpr double h = 1e-5;
  for (const double rough : {0.0, 5.0, 50.0, 2000.0})
    for (const double y : {0.3, 3.0, 12.0, 40.0, 700.0}) {
      INFO(rough, ' ', y);
      const double slope = (wall_law(y * (1 + h), rough) - wall_law(y * (1 - h), rough)) / (2 * h * y);
      CHECK(wall_law_slope(y, rough) == about(slope).epsilon(1e-7));
    }
}

TEST_CASE("roughness takes ln(1 + 0.3 k+)/0.41 off the law, and leaves ln(y/k_s)/0.41 + 8.5 in the end") {
  for (const double k : {1.0, 10.0, 100.0}) {
    const double y = 3e4;
    CHECK(wall_law(y) - wall_law(y, k) == about(std::log(1 + 0.3 * k) / 0.41).epsilon(2e-3));
  }
  // Nikuradse, VDI-Forschungsheft 361 (1933): 8.5.
  const double k = 3000;
  CHECK(wall_law(20 * k, k) - std::log(20) / 0.41 == about(8.5).epsilon(0.02));
}

TEST_CASE("the friction velocity is the one whose law gives the speed; production vanishes at the wall and far away") {
  constexpr double nu = 1e-6;
  for (const double roughness : {0.0, 5e-5, 1e-3})
    for (const double y : {1e-5, 1e-4, 2e-3, 0.1})
      for (const double speed : {1e-4, 0.03, 2.0, 40.0}) {
        INFO(roughness, ' ', y, ' ', speed);
        const double u = friction_velocity(speed, y, nu, roughness);
        CHECK(u * wall_law(u * y / nu, u * roughness / nu) == about(speed).epsilon(1e-7));
      }
  CHECK(friction_velocity(0, 0.01, nu) == 0);
  // P+ = (1 - du+/dy+) du+/dy+ is at most a quarter, near y+ = 11, and 1/(0.41 y+) far out.
  const double u = 0.05;
  const auto made = [&](double y_plus) { return wall_production(u, y_plus * nu / u, nu) * nu / std::pow(u, 4); };
  CHECK(made(0.1) < 0.03);
  CHECK(made(11) == about(0.25).epsilon(0.03));
  CHECK(made(500) == about(1 / (0.41 * 500)).epsilon(0.03));
}

TEST_CASE("far from walls lengths are those of the law, near by they vanish with the distance") {
  const double mixing = 0.41 * std::pow(0.09, -0.75);
  CHECK(dissipation_length(0.01, 1000) == about(mixing * 0.01).epsilon(1e-9));
  CHECK(viscosity_length(0.01, 2000) == about(mixing * 0.01).epsilon(1e-9));
  // There epsilon goes to 2 nu k/y2, as diffusion at the wall wants it.
  const double k = 1e-8;
  const double y = 1e-5;
  const double nu = 1e-6;
  CHECK(std::pow(k, 1.5) / dissipation_length(y, std::sqrt(k) * y / nu) == about(2 * nu * k / (y * y)).epsilon(1e-3));
  CHECK(share_of_law(50) < 1e-12);
  CHECK(share_of_law(400) > 1 - 1e-12);
  CHECK(share_of_law(200) == about(0.5));
}

TEST_CASE("between two cells the eddy viscosity lies between theirs, nearer to the mean where both are large") {
  CHECK(eddy_viscosity_between(3e-5, 3e-5, 1e-6) == about(3e-5));
  CHECK(eddy_viscosity_between(0, 3e-6, 1e-6) == about(std::sqrt(1e-6 * 4e-6) - 1e-6));
  CHECK(eddy_viscosity_between(2e-3, 4e-3, 1e-6) == about(3e-3).epsilon(1e-2));
  CHECK(eddy_viscosity_between(2e-3, 4e-3, 1e-6) == eddy_viscosity_between(4e-3, 2e-3, 1e-6));
}

TEST_CASE("in equilibrium beside a wall every law of two equations gives 0.41 u* y") {
  const double u = 0.1;
  const double y = 0.02;
  LocalTurbulence at;
  at.k = u * u / std::sqrt(0.09);
  at.nu = 1e-6;
  at.distance = y;
  at.strain = u / (0.41 * y);
  for (const auto& law : turbulence_laws()) {
    if (law.second == TurbulenceLaw::Second::none) continue;
    INFO(law.name);
    const double epsilon = u * u * u / (0.41 * y);
    at.second = law.second == TurbulenceLaw::Second::epsilon ? epsilon : epsilon / (0.09 * at.k);
    const double nu_t = law.eddy_viscosity(at);
    CHECK(nu_t == about(0.41 * u * y).epsilon(0.05));  // SST's 0.31 stands for 0.3
    const auto rates = law.rates(at, nu_t * at.strain * at.strain, nu_t);
    CHECK(rates.k_gain == about(rates.k_sink * at.k).epsilon(0.05));
    CHECK(rates.k_sink > 0);
    CHECK(rates.second_sink > 0);
  }
}

TEST_CASE("a strain that comes too fast makes no more than it may") {
  LocalTurbulence at{.k = 0.01, .second = 0.1, .nu = 1e-6, .strain = 1e4, .distance = 1};
  CHECK(k_epsilon.rates(at, 1e3, 1e-3).k_gain == about(10 * 0.1));
  // Normal stresses stay positive: nu_t S <= k/sqrt(3) (all of it for 1).
  CHECK(k_epsilon_realisable.eddy_viscosity(at) * at.strain < at.k / std::sqrt(3.0));
  CHECK(k_epsilon.eddy_viscosity(at) * at.strain > at.k);
  at.second = 0.1 / (0.09 * 0.01);
  CHECK(k_omega_sst.rates(at, 1e3, 1e-3).k_gain == about(10 * 0.1));
}

TEST_CASE("large-eddy laws: in plain shear WALE adds nothing, Smagorinsky (0.1 h)^2 S; both see a turning strain") {
  VelocityGradient shear{};
  shear[0][1] = 30;
  CHECK(strain_rate(shear) == about(30));
  CHECK(smagorinsky.subgrid(shear, 0.02, 1) == about(std::pow(0.1 * 0.02, 2) * 30));
  CHECK(smagorinsky.subgrid(shear, 0.02, 1e-4) == about(std::pow(0.41 * 1e-4, 2) * 30));
  CHECK(wale.subgrid(shear, 0.02, 1) == about(0).epsilon(1e-12));
  // Solid-body rotation: no strain, (0.325 h)^2 (G:G)^(1/4) with G the deviator of -w^2 (1, 1, 0).
  VelocityGradient turning{};
  turning[0][1] = -7;
  turning[1][0] = 7;
  CHECK(smagorinsky.subgrid(turning, 0.02, 1) == 0);
  const double deviator = std::pow(49, 2) * (2.0 / 9 + 4.0 / 9);
  CHECK(wale.subgrid(turning, 0.02, 1) == about(std::pow(0.325 * 0.02, 2) * std::pow(deviator, 0.25)));
}

TEST_CASE("every law says what it is") {
  for (const auto& law : turbulence_laws()) {
    INFO(law.name);
    CHECK(find_law(turbulence_laws(), law.name) == &law);
    CHECK_FALSE(law.equation.empty());
    CHECK_FALSE(law.source.empty());
    CHECK_FALSE(law.range.empty());
    const bool of_two = law.second != TurbulenceLaw::Second::none;
    CHECK((law.eddy_viscosity != nullptr) == of_two);
    CHECK((law.rates != nullptr) == of_two);
    CHECK((law.subgrid == nullptr) == of_two);
  }
}
