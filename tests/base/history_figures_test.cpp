// What is made of a history: extremes and their times, means of steps and of moments.
#include "base/history_figures.hpp"

#include <doctest/doctest.h>

#include <limits>

#include "about.hpp"

using namespace wavy;

TEST_CASE("extremes come with their times, a mean of steps counts each for the time before it") {
  const std::vector<double> time{0, 1, 3, 4};
  const std::vector<double> values{9, 2, 5, 3};
  const auto all = history_figures(time, values, 0, 4);
  REQUIRE(all);
  CHECK(all->least == 2);
  CHECK(all->at_least == 1);
  CHECK(all->greatest == 9);
  CHECK(all->at_greatest == 0);
  CHECK(all->last == 3);
  CHECK(all->mean == about((2 * 1 + 5 * 2 + 3 * 1) / 4.0));
  // From within a step on, and up to a time: both ends count.
  const auto part = history_figures(time, values, 2, 3);
  REQUIRE(part);
  CHECK(part->least == 5);
  CHECK(part->mean == 5);
  CHECK(part->last == 5);
}

TEST_CASE("a mean of moments is by straight lines between them") {
  const auto found = history_figures({0, 2, 3}, {1, 5, 5}, 0, 3, Reading::of_moment);
  REQUIRE(found);
  CHECK(found->mean == about((3 * 2 + 5 * 1) / 3.0));
}

TEST_CASE("one reading is its own mean, missing ones are passed over, none gives nothing") {
  const double none = std::numeric_limits<double>::quiet_NaN();
  CHECK(history_figures({0, 1}, {none, 4}, 1, 1)->mean == 4);
  CHECK(history_figures({0, 1, 2}, {3, none, 7}, 0, 2)->last == 7);
  CHECK(history_figures({0, 1, 2}, {3, none, none}, 0, 2)->last == 3);
  CHECK_FALSE(history_figures({0, 1}, {none, none}, 0, 1));
  CHECK_FALSE(history_figures({0, 1}, {1, 2}, 3, 4));
  CHECK_FALSE(history_figures({}, {}, 0, 1));
}
