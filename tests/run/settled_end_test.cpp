// When a run may end because its gauges have settled.
#include "run/settled_end.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <functional>
#include <optional>

#include "about.hpp"

namespace wavy {
namespace {

const std::vector<Column> columns{{"time", "s"}, {"quick", "m"}, {"slow", "N"}, {"still", "Pa"}};

/// What the columns behind the time do.
std::vector<double> row_at(double t) { return {t, 1 - std::exp(-t), 40 * std::exp(-t / 3), 5}; }

Schedule ending_with(std::vector<std::string> names, double not_before = 0) {
  Schedule schedule;
  schedule.end_when_settled = std::move(names);
  schedule.end_not_before = not_before;
  return schedule;
}

/// The time of the end, within 100 s in steps of 10 ms.
std::optional<double> end_of(SettledEnd& end, const std::function<std::vector<double>(double)>& row = row_at) {
  for (int i = 0; i <= 10000; ++i) {
    end.add(row(i * 0.01));
    if (end.reached()) return i * 0.01;
  }
  return std::nullopt;
}

TEST_CASE("a run ends a tenth of its time after the slowest of its gauges has come within its band") {
  // exp(-t) falls by less than 1 % over the last quarter of the time where exp(-0.75 t) < 0.01: from 6.1 on.
  SettledEnd quick(ending_with({"quick"}), columns);
  const auto quick_end = end_of(quick);
  REQUIRE(quick_end);
  CHECK(*quick_end > 1.1 * 5.5);
  CHECK(*quick_end < 1.1 * 1.1 * 6.5);
  CHECK(quick.words().starts_with("quick at 0.99"));
  SettledEnd both(ending_with({"quick", "slow"}), columns);
  const auto both_end = end_of(both);
  REQUIRE(both_end);
  CHECK(*both_end == about(3 * *quick_end).epsilon(0.05));  // everything takes three times as long
  CHECK(both.words().starts_with("slow at "));
  CHECK(both.words().ends_with("the last to settle"));
}

TEST_CASE("a run does not end before its time, nor for what never changes, drifts or is not asked for") {
  SettledEnd late(ending_with({"quick"}, 30), columns);
  const auto end = end_of(late);
  REQUIRE(end);
  CHECK(*end >= 30);
  CHECK(*end < 31);
  SettledEnd still(ending_with({"quick", "still"}), columns);
  CHECK_FALSE(end_of(still));
  CHECK(still.words() == "still never changed");
  SettledEnd drifting(ending_with({"quick"}), columns);
  CHECK_FALSE(end_of(drifting, [](double t) { return std::vector<double>{t, t, 0, 0}; }));
  CHECK(drifting.words().starts_with("quick changed by "));
  SettledEnd none(ending_with({}), columns);
  CHECK(none.none());
  CHECK_FALSE(end_of(none));
}

TEST_CASE("what swings about a mean has settled, what begins to move again has not") {
  SettledEnd swinging(ending_with({"quick"}), columns);
  const auto end = end_of(swinging, [](double t) {
    return std::vector<double>{t, 1 - std::exp(-t) + 0.2 * std::sin(20 * t), 0, 0};
  });
  REQUIRE(end);
  CHECK(*end < 15);
  // A second filling begins at 6, before the first has been settled for long enough.
  SettledEnd again(ending_with({"quick"}), columns);
  const auto later = end_of(again, [](double t) {
    return std::vector<double>{t, 1 - std::exp(-t) + (t > 6 ? 1 - std::exp(6 - t) : 0.0), 0, 0};
  });
  REQUIRE(later);
  CHECK(*later > 6 + 6);
}

TEST_CASE("readings count as a history in CSV keeps them, so that a run that goes on ends at the same step") {
  SettledEnd whole(ending_with({"quick", "slow"}), columns);
  SettledEnd replayed(ending_with({"quick", "slow"}), columns);
  int ended = -1;
  for (int i = 0; ended < 0; ++i) {
    const auto row = row_at(i * 0.01);
    whole.add(row);
    auto kept = row;
    for (double& value : kept) value *= 1 + 1e-13;  // beyond what the history keeps
    replayed.add(kept);
    CHECK(whole.reached() == replayed.reached());
    if (whole.reached()) ended = i;
  }
  CHECK(ended > 0);
  CHECK(whole.words() == replayed.words());
}

}  // namespace
}  // namespace wavy
