// Swings in a history: periods and amplitudes of what comes back, told apart from what drifts.
#pragma once

#include <cstddef>
#include <vector>

namespace wavy {

struct Swing {
  double period = 0;     ///< [s]
  double amplitude = 0;  ///< half of what it goes up and down
  double share = 0;      ///< of the mean square about the trend that goes with it: 0 to 1
};

/// The swings that a history consists of, the greatest first, at most `most`: sine waves on a straight trend that fit
/// the readings best, one after the other, until one takes less than a hundredth of what the first had to explain.
/// Readings `values` at rising `times` within from..to, NaN for none; each stands for the time half-way to its
/// neighbours. Swings longer than that time are trends, and ones of fewer than four readings are not looked for. None
/// where the readings are fewer than sixteen or all alike.
std::vector<Swing> swings(const std::vector<double>& times, const std::vector<double>& values, double from, double to,
                          std::size_t most);

/// Amplitudes over frequencies [1/s] of the same history, without its trend, on equal steps of time, under a Hann
/// window: a lasting sine wave shows its own amplitude.
struct Spectrum {
  std::vector<double> frequency;
  std::vector<double> amplitude;
};
Spectrum spectrum(const std::vector<double>& times, const std::vector<double>& values, double from, double to);

}  // namespace wavy
