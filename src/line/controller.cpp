#include "line/controller.hpp"

#include <algorithm>
#include <cmath>

namespace wavy::line {

void Controller::advance(double measured, double dt) {
  const auto& c = control_;
  const double error = (measured - c.target) / c.band;
  const double wanted = c.neutral + error + integral_;
  const bool driven_on = (wanted >= c.most && error > 0) || (wanted <= c.least && error < 0);
  if (c.reset > 0 && !driven_on) integral_ += error * dt / c.reset;
  const double aim = std::clamp(c.neutral + error + integral_, c.least, c.most);
  if (c.travel <= 0) {
    opening_ = aim;
    return;
  }
  // As valves do, it goes at full speed until it is near and then more slowly: where pressures answer at once, one that
  // came to its place within a step would hunt.
  constexpr double slows_down = 4;
  const double nearer = (aim - opening_) * (1 - std::exp(-slows_down * dt / c.travel));
  opening_ += std::clamp(nearer, -dt / c.travel, dt / c.travel);
}

}  // namespace wavy::line
