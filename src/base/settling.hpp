// Whether a history has settled: by means over equal stretches of time, so that what swings quickly does not hide what
// drifts slowly.
#pragma once

#include <vector>

namespace wavy {

/// What a history does at its end. The last quarter of its time is held against the rest.
struct Settling {
  enum class Verdict {
    constant,   ///< never anything else
    settled,    ///< it drifts by less than it scatters
    drifting,   ///< it still changes
    too_short,  ///< fewer readings than can tell
  };
  Verdict verdict = Verdict::too_short;
  double mean = 0;     ///< over the last quarter
  double scatter = 0;  ///< root mean square distance from the trend of the last quarter
  double drift = 0;    ///< change over the last quarter by its trend
  /// What counts as nothing: three times the scatter of the means about the trend, at least 1 % of the range.
  double band = 0;
  double since = 0;  ///< settled: from here on all means lie within the band
};

/// Of readings `values` at rising `times` from one time to another; each reading stands for the time since the one
/// before, NaN for none. The last quarter is cut into eight stretches, all that comes before into stretches as long.
Settling settling(const std::vector<double>& times, const std::vector<double>& values, double from, double to);

}  // namespace wavy
