#include "line/controller.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <initializer_list>

#include "about.hpp"

using wavy::line::Control;
using wavy::line::Controller;

TEST_CASE("proportional action is the error over the band, within the limits") {
  Controller controller({.target = 10, .band = 4, .neutral = 0.5, .least = 0.1, .most = 0.9});
  CHECK(controller.opening() == 0.5);
  controller.advance(11, 1);
  CHECK(controller.opening() == about(0.75));
  controller.advance(9, 1);
  CHECK(controller.opening() == about(0.25));
  controller.advance(100, 1);
  CHECK(controller.opening() == 0.9);
  controller.advance(-100, 1);
  CHECK(controller.opening() == about(0.1));

  Controller shuts({.target = 10, .band = -4, .neutral = 0.5});
  shuts.advance(11, 1);
  CHECK(shuts.opening() == about(0.25));
}

TEST_CASE("integral action repeats the proportional one in the reset time") {
  Controller controller({.target = 0, .band = 10, .reset = 50, .neutral = 0.2});
  for (int i = 0; i < 500; ++i) controller.advance(1, 0.1);
  CHECK(controller.opening() == about(0.2 + 0.1 + 0.1));
}

TEST_CASE("an integral does not wind up at an end: the valve comes back as soon as the error turns") {
  Controller controller({.target = 0, .band = 1, .reset = 10, .neutral = 0.5});
  for (int i = 0; i < 1000; ++i) controller.advance(2, 1);
  CHECK(controller.opening() == 1);
  controller.advance(-0.6, 0.1);
  CHECK(controller.opening() < 0.6);
}

TEST_CASE("a valve takes its time to travel") {
  Controller controller({.target = 0, .band = 1, .neutral = 0, .travel = 20});
  controller.advance(5, 2);
  CHECK(controller.opening() == about(0.1));
  controller.advance(5, 100);
  CHECK(controller.opening() == about(1));
}

TEST_CASE("a process of first order settles on its target") {
  // dx/dt = 2 - 4 x opening: 0.5 where the valve is fully open, and on target 0.8 with an opening of 0.625.
  Controller controller({.target = 0.8, .band = 2, .reset = 3, .neutral = 0.1, .travel = 1});
  double x = 3;
  for (int i = 0; i < 20000; ++i) {
    x += 0.02 * (2 - 4 * x * controller.opening());
    controller.advance(x, 0.02);
  }
  CHECK(x == about(0.8).epsilon(1e-6));
  CHECK(controller.opening() == about(0.625).epsilon(1e-6));
}

TEST_CASE("limits hold while a valve travels, and where it begins outside of none") {
  Controller controller({.target = 5, .band = 1, .reset = 2, .neutral = 0.4, .least = 0.2, .most = 0.6, .travel = 3});
  for (const double measured : {9.0, -4.0, 5.0, 5.3, 1e6, -1e6})
    for (int i = 0; i < 100; ++i) {
      const double before = controller.opening();
      controller.advance(measured, 0.1);
      CHECK(controller.opening() >= 0.2);
      CHECK(controller.opening() <= 0.6);
      CHECK(std::abs(controller.opening() - before) <= 0.1 / 3 + 1e-12);
    }
}

TEST_CASE("a valve with travel settles where pressures answer at once") {
  // The measured value is 2 / opening: the loop's gain is 4 at 0.5, and a valve that jumped would hunt.
  Controller controller({.target = 4, .band = 2, .neutral = 0.3, .travel = 10});
  double x = 2 / controller.opening();
  for (int i = 0; i < 400; ++i) {
    controller.advance(x, 0.5);
    x = 2 / controller.opening();
  }
  const double settled = controller.opening();
  controller.advance(x, 0.5);
  CHECK(controller.opening() == about(settled).epsilon(1e-9));
  CHECK(settled == about(0.3 + (x - 4) / 2).epsilon(1e-9));
}
