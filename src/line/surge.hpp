// How large a receiver must be for what a line brings, from the recorded outflow.
#pragma once

#include <vector>

namespace wavy::line {

/// Greatest content of a receiver that starts empty, fills with the outflow and is drained at a rate while it holds
/// anything: the running sum S <- max(0, S + (Q - drain) dt). `time` rises [s]; flow[i] is the mean from time[i - 1] to
/// time[i] (flow[0] counts for nothing) [m3/s]. [m3]
double surge_volume(const std::vector<double>& time, const std::vector<double>& flow, double drain);

/// Mean of such a flow from a time on [m3/s].
double mean_flow(const std::vector<double>& time, const std::vector<double>& flow, double from = 0);

}  // namespace wavy::line
