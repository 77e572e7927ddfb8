// Swings of histories whose periods are known.
#include "base/swings.hpp"

#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <numbers>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

constexpr double pi = std::numbers::pi;

struct History {
  std::vector<double> time, value;
};

/// With steps that differ, as those of a run do.
History history(double until, double step, const std::function<double(double)>& of) {
  History result;
  std::mt19937 random(1);
  std::uniform_real_distribution<double> factor(0.7, 1.3);
  for (double t = 0; t <= until; t += step * factor(random)) {
    result.time.push_back(t);
    result.value.push_back(of(t));
  }
  return result;
}

}  // namespace

TEST_CASE("period and amplitude of one swing on a trend, of few and of many, to a thousandth") {
  for (const double until : {3.0, 7.3, 40.0}) {
    CAPTURE(until);
    const auto h = history(until, 0.01, [](double t) { return 5 + 0.1 * t + 0.3 * std::sin(2 * pi * t / 1.27 + 1); });
    const auto found = swings(h.time, h.value, 0, until, 3);
    REQUIRE(found.size() == 1);
    CHECK(found[0].period == about(1.27).epsilon(until < 4 ? 5e-3 : 1e-3));
    CHECK(found[0].amplitude == about(0.3).epsilon(until < 4 ? 0.02 : 5e-3));
    CHECK(found[0].share > 0.97);
  }
}

TEST_CASE("two swings are told apart, the greater first, and a dying one keeps its period") {
  const auto two = history(
      20, 0.02, [](double t) { return 0.2 * std::cos(2 * pi * t / 0.61) + 0.5 * std::sin(2 * pi * t / 1.9 + 0.4); });
  const auto found = swings(two.time, two.value, 0, 20, 5);
  REQUIRE(found.size() == 2);
  CHECK(found[0].period == about(1.9).epsilon(2e-3));
  CHECK(found[1].period == about(0.61).epsilon(2e-3));
  CHECK(found[1].amplitude == about(0.2).epsilon(0.02));
  CHECK(found[0].share + found[1].share == about(1).epsilon(0.01));
  const auto dying = history(20, 0.02, [](double t) { return std::exp(-t / 15) * std::sin(2 * pi * t / 1.5); });
  CHECK(swings(dying.time, dying.value, 0, 20, 1).at(0).period == about(1.5).epsilon(5e-3));
}

TEST_CASE("a window leaves out what was before, and readings that are missing") {
  auto h = history(20, 0.02, [](double t) { return t < 8 ? 9 * std::sin(40 * t) : std::sin(2 * pi * t / 2.2); });
  for (std::size_t i = 0; i < h.value.size(); i += 7) h.value[i] = std::numeric_limits<double>::quiet_NaN();
  CHECK(swings(h.time, h.value, 9, 20, 1).at(0).period == about(2.2).epsilon(2e-3));
}

TEST_CASE("what does not swing has no swings") {
  const auto constant = history(5, 0.01, [](double) { return 0.1; });
  CHECK(swings(constant.time, constant.value, 0, 5, 3).empty());
  const auto line = history(5, 0.01, [](double t) { return 3 * t; });
  CHECK(swings(line.time, line.value, 0, 5, 3).empty());
  CHECK(swings({}, {}, 0, 1, 3).empty());
  CHECK(swings({0, 1, 2}, {1, 2, 1}, 0, 2, 3).empty());
  // Noise is shared out among many.
  std::mt19937 random(3);
  std::normal_distribution<double> of(0, 1);
  const auto noise = history(20, 0.01, [&](double) { return of(random); });
  for (const auto& swing : swings(noise.time, noise.value, 0, 20, 3)) CHECK(swing.share < 0.05);
}

TEST_CASE("in the spectrum a lasting wave stands at its frequency with its amplitude") {
  const auto h = history(10, 0.01, [](double t) { return 2 + 0.7 * std::sin(2 * pi * 3 * t); });
  const auto found = spectrum(h.time, h.value, 0, 10);
  REQUIRE(found.frequency.size() > 100);
  const auto peak = std::ranges::max_element(found.amplitude) - found.amplitude.begin();
  CHECK(found.frequency[static_cast<std::size_t>(peak)] == about(3).epsilon(0.01));
  CHECK(found.amplitude[static_cast<std::size_t>(peak)] == about(0.7).epsilon(0.02));
}
