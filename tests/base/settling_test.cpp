#include "base/settling.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <limits>
#include <numbers>
#include <random>

#include "about.hpp"

using namespace wavy;

namespace {

Settling of(const std::function<double(double)>& y, double end = 100, double step = 0.1, double from = 0) {
  std::vector<double> times;
  std::vector<double> values;
  for (double t = 0; t < end + 0.5 * step; t += step) {
    times.push_back(t);
    values.push_back(y(t));
  }
  return settling(times, values, from, end);
}

}  // namespace

TEST_CASE("what falls to a value has settled once it is within a hundredth of its range, by the formula") {
  const double tau = 6;
  const auto settled = of([&](double t) { return 3 + 2 * std::exp(-t / tau); });
  CHECK(settled.verdict == Settling::Verdict::settled);
  CHECK(settled.mean == about(3).epsilon(1e-5));
  // e^(-t/tau) = 0.01 at 27.6 s; told to a stretch of 100/32 s.
  CHECK(std::abs(settled.since - tau * std::log(100)) < 100.0 / 32 + 1);
  CHECK(settled.scatter < 1e-4);
}

TEST_CASE("what still falls at the end has not, and its drift is told") {
  const auto slow = of([](double t) { return std::exp(-t / 60); });
  CHECK(slow.verdict == Settling::Verdict::drifting);
  CHECK(slow.drift == about(std::exp(-100 / 60.0) - std::exp(-75 / 60.0)).epsilon(0.02));
  const auto line = of([](double t) { return 5 - 0.01 * t; });
  CHECK(line.verdict == Settling::Verdict::drifting);
  CHECK(line.drift == about(-0.25).epsilon(1e-2));
}

TEST_CASE("noise and swings round a value have settled; on a slope they have not") {
  std::mt19937 random(3);
  std::normal_distribution<double> noise(0, 0.1);
  const auto rough = of([&](double t) { return 1 - std::exp(-t / 5) + noise(random); });
  CHECK(rough.verdict == Settling::Verdict::settled);
  CHECK(rough.mean == about(1).epsilon(0.02));
  CHECK(rough.scatter == about(0.1).epsilon(0.2));
  CHECK(rough.since > 5);
  CHECK(rough.since < 25);
  const auto swings = of([](double t) { return 2 + std::sin(2 * std::numbers::pi * t / 1.7); });
  CHECK(swings.verdict == Settling::Verdict::settled);
  CHECK(swings.mean == about(2).epsilon(0.02));
  CHECK(swings.scatter == about(std::sqrt(0.5)).epsilon(0.02));
  const auto slope = of([&](double t) { return 0.05 * t + noise(random); });
  CHECK(slope.verdict == Settling::Verdict::drifting);
}

TEST_CASE("a swing that dies away has settled later than its mean, when it is cut from a late start too") {
  const auto damped = of([](double t) { return std::exp(-t / 10) * std::cos(t); });
  CHECK(damped.verdict == Settling::Verdict::settled);
  const auto later = of([](double t) { return 3 + 2 * std::exp(-t / 6); }, 100, 0.1, 50);
  CHECK(later.since >= 50);
}

TEST_CASE("what never changes is constant, and few readings cannot tell") {
  const auto same = of([](double) { return 0.4; });
  CHECK(same.verdict == Settling::Verdict::constant);
  CHECK(same.mean == about(0.4));
  CHECK(of([](double t) { return t; }, 10, 1).verdict == Settling::Verdict::too_short);
  CHECK(settling({}, {}, 0, 1).verdict == Settling::Verdict::too_short);
  CHECK(settling({0}, {1}, 0, 0).verdict == Settling::Verdict::too_short);
  CHECK(of([](double) { return std::numeric_limits<double>::quiet_NaN(); }).verdict == Settling::Verdict::too_short);
  // A gauge that was not there for the first half.
  const auto late =
      of([](double t) { return t < 50 ? std::numeric_limits<double>::quiet_NaN() : 2 + 1e-3 * std::sin(t); });
  CHECK(late.verdict == Settling::Verdict::settled);
  CHECK(late.since >= 50 - 100.0 / 32);
}
