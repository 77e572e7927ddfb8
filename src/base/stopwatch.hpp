// Time by the clock on the wall.
#pragma once

#include <chrono>

namespace wavy {

class Stopwatch {
 public:
  /// Since it was made, or the last lap [s].
  [[nodiscard]] double seconds() const { return std::chrono::duration<double>(Clock::now() - start_).count(); }
  /// The same; from now on it counts anew.
  double lap() {
    const double passed = seconds();
    start_ = Clock::now();
    return passed;
  }

 private:
  using Clock = std::chrono::steady_clock;
  Clock::time_point start_ = Clock::now();
};

}  // namespace wavy
