#include "base/settling.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace wavy {
namespace {

constexpr int stretches = 8;          // of the last quarter
constexpr int all = 4 * stretches;    // of the whole
constexpr double least_share = 0.01;  // of the range: less is no change
constexpr int least_readings = 2;     // in each stretch of the last quarter

/// Readings in one stretch of time.
struct Stretch {
  double sum = 0;   // by time
  double span = 0;  // [s]
  int readings = 0;
  [[nodiscard]] double mean() const { return span > 0 ? sum / span : std::numeric_limits<double>::quiet_NaN(); }
};

/// A straight line through means of equal stretches: its slope a stretch, and what is left.
struct Trend {
  double mean = 0;
  double slope = 0;
  double rest = 0;  // root mean square
};

Trend trend_of(const std::vector<double>& means) {
  Trend trend;
  const auto n = static_cast<double>(means.size());
  double square = 0;
  for (std::size_t i = 0; i < means.size(); ++i) {
    const double x = static_cast<double>(i) - 0.5 * (n - 1);
    trend.mean += means[i] / n;
    trend.slope += x * means[i];
    square += x * x;
  }
  trend.slope /= square;
  for (std::size_t i = 0; i < means.size(); ++i) {
    const double x = static_cast<double>(i) - 0.5 * (n - 1);
    trend.rest += std::pow(means[i] - trend.mean - trend.slope * x, 2);
  }
  trend.rest = std::sqrt(trend.rest / (n - 2));
  return trend;
}

}  // namespace

Settling settling(const std::vector<double>& times, const std::vector<double>& values, double from, double to) {
  Settling result;
  std::vector<Stretch> parts(all);
  const double length = (to - from) / all;
  double least = std::numeric_limits<double>::infinity();
  double greatest = -least;
  double before = from;
  for (std::size_t i = 0; i < times.size(); ++i) {
    if (times[i] < from || times[i] > to) continue;
    const double since = std::exchange(before, times[i]);
    if (std::isnan(values[i])) continue;
    least = std::min(least, values[i]);
    greatest = std::max(greatest, values[i]);
    // A reading may reach over several stretches.
    const auto index = [&](double t) { return std::clamp(static_cast<int>((t - from) / length), 0, all - 1); };
    for (int k = index(since); k <= index(times[i]); ++k) {
      const double low = std::max(since, from + k * length);
      const double high = std::min(times[i], from + (k + 1) * length);
      if (high <= low) continue;
      auto& part = parts[static_cast<std::size_t>(k)];
      part.sum += values[i] * (high - low);
      part.span += high - low;
    }
    ++parts[static_cast<std::size_t>(index(times[i]))].readings;
  }
  if (greatest < least) return result;
  const auto last = parts.end() - stretches;
  if (!(length > 0) || std::any_of(last, parts.end(), [](const auto& part) { return part.readings < least_readings; }))
    return result;
  std::vector<double> means;
  for (auto part = last; part != parts.end(); ++part) means.push_back(part->mean());
  const Trend trend = trend_of(means);
  result.mean = trend.mean;
  result.drift = trend.slope * stretches;
  double square = 0;
  double span = 0;
  before = to - stretches * length;
  for (std::size_t i = 0; i < times.size(); ++i) {
    if (times[i] < to - stretches * length || times[i] > to || std::isnan(values[i])) continue;
    const double dt = times[i] - std::exchange(before, times[i]);
    const double x = (times[i] - to) / length + 0.5 * stretches;
    square += dt * std::pow(values[i] - trend.mean - trend.slope * x, 2);
    span += dt;
  }
  result.scatter = span > 0 ? std::sqrt(square / span) : 0.0;
  if (greatest == least) {
    result.verdict = Settling::Verdict::constant;
    result.since = from;
    return result;
  }
  result.band = std::max(3 * trend.rest, least_share * (greatest - least));
  if (std::abs(result.drift) > result.band) {
    result.verdict = Settling::Verdict::drifting;
    return result;
  }
  result.verdict = Settling::Verdict::settled;
  int first = all - stretches;
  while (first > 0) {
    const double mean = parts[static_cast<std::size_t>(first - 1)].mean();
    if (std::isnan(mean) || std::abs(mean - result.mean) > result.band) break;
    --first;
  }
  result.since = from + first * length;
  return result;
}

}  // namespace wavy
