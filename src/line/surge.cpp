#include "line/surge.hpp"

#include <algorithm>
#include <cstddef>

namespace wavy::line {

double surge_volume(const std::vector<double>& time, const std::vector<double>& flow, double drain) {
  double content = 0;
  double greatest = 0;
  for (std::size_t i = 1; i < time.size(); ++i) {
    content = std::max(0.0, content + (flow[i] - drain) * (time[i] - time[i - 1]));
    greatest = std::max(greatest, content);
  }
  return greatest;
}

double mean_flow(const std::vector<double>& time, const std::vector<double>& flow, double from) {
  double volume = 0;
  double span = 0;
  for (std::size_t i = 1; i < time.size(); ++i) {
    if (time[i] <= from) continue;
    const double dt = time[i] - std::max(from, time[i - 1]);
    volume += flow[i] * dt;
    span += dt;
  }
  return span > 0 ? volume / span : 0.0;
}

}  // namespace wavy::line
