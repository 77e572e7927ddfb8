#include "base/history_figures.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {

std::optional<HistoryFigures> history_figures(const std::vector<double>& times, const std::vector<double>& values,
                                              double from, double to, Reading reading) {
  std::optional<HistoryFigures> result;
  double sum = 0;
  double span = 0;
  for (std::size_t i = 0; i < times.size(); ++i) {
    const double value = values[i];
    if (times[i] < from || times[i] > to || std::isnan(value)) continue;
    if (!result) result = HistoryFigures{value, times[i], value, times[i], 0, value};
    if (value < result->least) {
      result->least = value;
      result->at_least = times[i];
    }
    if (value > result->greatest) {
      result->greatest = value;
      result->at_greatest = times[i];
    }
    result->last = value;
    if (i == 0 || times[i] <= from) continue;
    const double dt = times[i] - std::max(from, times[i - 1]);
    sum += (reading == Reading::of_step ? value : 0.5 * (values[i - 1] + value)) * dt;
    span += dt;
  }
  if (result) result->mean = span > 0 ? sum / span : result->last;
  return result;
}

}  // namespace wavy
