// A controller that moves a valve by what is measured in the line.
#pragma once

#include "base/archive.hpp"

namespace wavy::line {

/// Proportional and integral action: opening = neutral + (e + integral of e dt / reset), e = (measured - target) /
/// band. The integral stands still while the valve is at an end and the error would drive it on.
struct Control {
  double target = 0;
  double band = 1;     ///< error that moves the valve from shut to open; below 0 it shuts as the measured value rises
  double reset = 0;    ///< time in which the integral does as much as the error did at once; 0: no integral [s]
  double neutral = 0;  ///< opening at the start and on target
  double least = 0, most = 1;  ///< openings between which it moves
  double travel = 0;           ///< time from shut to open, 0: none [s]
};

class Controller {
 public:
  explicit Controller(const Control& control) : control_(control), opening_(control.neutral) {}

  [[nodiscard]] const Control& control() const { return control_; }
  /// [0, 1]
  [[nodiscard]] double opening() const { return opening_; }
  /// Moves on by a time [s] in which this was measured.
  void advance(double measured, double dt);
  void archive(Archive& a) {
    a("integral", integral_);
    a("opening", opening_);
  }

 private:
  Control control_;
  double integral_ = 0;
  double opening_;
};

}  // namespace wavy::line
