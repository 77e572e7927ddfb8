#include "base/swings.hpp"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>
#include <unsupported/Eigen/FFT>

namespace wavy {
namespace {

constexpr std::size_t fewest = 16;
constexpr double least_of_whole = 0.01;
constexpr int padding = 4;  // of spectra, so that their peaks are round

/// Readings with the time that each stands for.
struct Readings {
  Eigen::ArrayXd time, value, weight;
  [[nodiscard]] double span() const { return time[time.size() - 1] - time[0]; }
};

Readings within(const std::vector<double>& times, const std::vector<double>& values, double from, double to) {
  std::vector<std::size_t> rows;
  for (std::size_t i = 0; i < times.size(); ++i)
    if (times[i] >= from && times[i] <= to && !std::isnan(values[i])) rows.push_back(i);
  const auto count = static_cast<Eigen::Index>(rows.size());
  Readings result{Eigen::ArrayXd(count), Eigen::ArrayXd(count), Eigen::ArrayXd(count)};
  for (Eigen::Index k = 0; k < count; ++k) {
    result.time[k] = times[rows[static_cast<std::size_t>(k)]];
    result.value[k] = values[rows[static_cast<std::size_t>(k)]];
  }
  // Half the way to the neighbours on both sides.
  for (Eigen::Index k = 0; k < count; ++k)
    result.weight[k] = 0.5 * (result.time[std::min(k + 1, count - 1)] - result.time[std::max(k - 1, Eigen::Index{0})]);
  return result;
}

/// A sine wave on a straight line, by least squares.
struct Fit {
  double rest = 0;  ///< weighted mean square that it leaves
  double amplitude = 0;
  Eigen::ArrayXd remaining;
};

/// Frequency 0: the line alone.
Fit fit(const Readings& of, double frequency) {
  const Eigen::Index columns = frequency > 0 ? 4 : 2;
  Eigen::MatrixXd A(of.time.size(), columns);
  const Eigen::ArrayXd x = (of.time - of.time[0]) / of.span();
  A.col(0).setOnes();
  A.col(1) = x - 0.5;
  if (columns == 4) {
    const Eigen::ArrayXd phase = 2 * std::numbers::pi * frequency * (of.time - of.time[0]);
    A.col(2) = phase.cos();
    A.col(3) = phase.sin();
  }
  const Eigen::MatrixXd weighted = of.weight.matrix().asDiagonal() * A;
  const Eigen::VectorXd solution = (A.transpose() * weighted).ldlt().solve(weighted.transpose() * of.value.matrix());
  Fit result;
  result.remaining = of.value - (A * solution).array();
  result.rest = (of.weight * result.remaining.square()).sum() / of.weight.sum();
  if (columns == 4) result.amplitude = std::hypot(solution[2], solution[3]);
  return result;
}

/// On equal steps of time, as many as there are readings.
Eigen::ArrayXd evenly(const Readings& of) {
  const Eigen::Index count = of.time.size();
  Eigen::ArrayXd result(count);
  Eigen::Index k = 0;
  for (Eigen::Index i = 0; i < count; ++i) {
    const double t = of.time[0] + of.span() * static_cast<double>(i) / static_cast<double>(count - 1);
    while (k + 2 < count && of.time[k + 1] < t) ++k;
    const double part = std::clamp((t - of.time[k]) / (of.time[k + 1] - of.time[k]), 0.0, 1.0);
    result[i] = of.value[k] + part * (of.value[k + 1] - of.value[k]);
  }
  return result;
}

/// Amplitudes at the frequencies k / (padding x span), by FFT under a Hann window.
std::vector<double> amplitudes(const Readings& of) {
  const Eigen::ArrayXd even = evenly(of);
  const Eigen::Index count = even.size();
  std::vector<double> signal(static_cast<std::size_t>(count * padding), 0.0);
  for (Eigen::Index i = 0; i < count; ++i) {
    const double phase = 2 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(count);
    signal[static_cast<std::size_t>(i)] = even[i] * (1 - std::cos(phase));
  }
  std::vector<std::complex<double>> transformed;
  Eigen::FFT<double> fft;
  fft.fwd(transformed, signal);
  std::vector<double> result(signal.size() / 2);
  for (std::size_t k = 0; k < result.size(); ++k) result[k] = 2 * std::abs(transformed[k]) / static_cast<double>(count);
  return result;
}

/// The frequency at which a sine wave leaves least, near a first guess, to a hundred-thousandth of 1 / span.
double best_frequency(const Readings& of, double guess) {
  const double step = 0.5 / of.span();
  double low = std::max(guess - step, 0.5 * step);
  double high = guess + step;
  const double ratio = 2 - std::numbers::phi;
  double a = low + ratio * (high - low);
  double b = high - ratio * (high - low);
  double at_a = fit(of, a).rest;
  double at_b = fit(of, b).rest;
  while (high - low > 2e-5 * step) {
    if (at_a < at_b) {
      high = b;
      b = a;
      at_b = at_a;
      a = low + ratio * (high - low);
      at_a = fit(of, a).rest;
    } else {
      low = a;
      a = b;
      at_a = at_b;
      b = high - ratio * (high - low);
      at_b = fit(of, b).rest;
    }
  }
  return 0.5 * (low + high);
}

bool can_tell(const Readings& of) { return of.time.size() >= static_cast<Eigen::Index>(fewest) && of.span() > 0; }

}  // namespace

std::vector<Swing> swings(const std::vector<double>& times, const std::vector<double>& values, double from, double to,
                          std::size_t most) {
  Readings rest = within(times, values, from, to);
  std::vector<Swing> found;
  if (!can_tell(rest)) return found;
  const Fit trend = fit(rest, 0);
  rest.value = trend.remaining;
  const double whole = trend.rest;
  const double size = rest.value.abs().maxCoeff();
  if (!(whole > 1e-24 * std::max(1.0, size * size)) || !(size > 0)) return found;
  while (found.size() < most) {
    const std::vector<double> heights = amplitudes(rest);
    // From one whole swing up to four readings a swing.
    const auto first = heights.begin() + padding;
    const auto end = heights.begin() + std::ssize(heights) / 2;
    if (first >= end) break;
    const auto peak = std::max_element(first, end) - heights.begin();
    const double frequency = best_frequency(rest, static_cast<double>(peak) / (padding * rest.span()));
    const double before = (rest.weight * rest.value.square()).sum() / rest.weight.sum();
    const Fit wave = fit(rest, frequency);
    const double share = (before - wave.rest) / whole;
    if (share < least_of_whole || frequency * rest.span() < 0.9) break;
    found.push_back({1 / frequency, wave.amplitude, share});
    rest.value = wave.remaining;
  }
  std::ranges::stable_sort(found, std::ranges::greater{}, &Swing::share);
  return found;
}

Spectrum spectrum(const std::vector<double>& times, const std::vector<double>& values, double from, double to) {
  Readings of = within(times, values, from, to);
  Spectrum result;
  if (!can_tell(of)) return result;
  of.value = fit(of, 0).remaining;
  const std::vector<double> heights = amplitudes(of);
  for (std::size_t k = padding; k < heights.size(); ++k) {
    result.frequency.push_back(static_cast<double>(k) / (padding * of.span()));
    result.amplitude.push_back(heights[k]);
  }
  return result;
}

}  // namespace wavy
