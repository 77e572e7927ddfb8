// What the setups of all models have: phases, and when the run ends and writes.
#pragma once

#include <array>
#include <numbers>
#include <optional>
#include <string>
#include <vector>

#include "physics/fluids.hpp"

namespace wavy {

struct Phase {
  std::string name;
  Properties properties;
  double standard_density = 0;  ///< of a gas of the built-in list at 15 degC and 101.325 kPa [kg/m3]; 0: not known
};

inline std::vector<std::string> names_of(const std::vector<Phase>& phases) {
  std::vector<std::string> names;
  for (const auto& phase : phases) names.push_back(phase.name);
  return names;
}

/// What acts between two phases.
struct Pair {
  std::array<std::size_t, 2> between{0, 1};     ///< their numbers, the denser one's first
  double surface_tension = 0;                   ///< [N/m]
  double contact_angle = std::numbers::pi / 2;  ///< in the denser one, at every wall [rad]
  double slip_length = 0;                       ///< above 0 the contact angle follows the speed of the contact line [m]
};

struct Schedule {
  double until = 1;                             ///< [s]
  double snapshot_interval = 1;                 ///< [s]
  double largest_step = 1e30;                   ///< [s]
  double smallest_step = 1e-9;                  ///< below this the run has failed [s]
  double checkpoint_interval = 600;             ///< of the clock on the wall [s]
  std::vector<std::string> end_when_settled{};  ///< columns of the history; the run ends when all have settled
  double end_not_before = 0;                    ///< for that [s]
  std::optional<double> means_from{};           ///< time from which means are kept, of a vessel [s]
};

}  // namespace wavy
