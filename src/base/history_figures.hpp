// What is made of a history over a stretch of time.
#pragma once

#include <optional>
#include <vector>

namespace wavy {

/// What readings stand for: those of a history for the step that ends there, as flows are means of it; those of
/// snapshots for their moment.
enum class Reading { of_step, of_moment };

struct HistoryFigures {
  double least = 0, at_least = 0;        ///< and when [s]
  double greatest = 0, at_greatest = 0;  ///< and when [s]
  double mean = 0;                       ///< over time
  double last = 0;
};

/// Of the readings `values` at rising `times` from one time to another, both counted, NaN for none; nothing where there
/// is no reading.
std::optional<HistoryFigures> history_figures(const std::vector<double>& times, const std::vector<double>& values,
                                              double from, double to, Reading reading = Reading::of_step);

}  // namespace wavy
