// What the setups of all models have: phases, and when the run ends and writes.
#pragma once

#include <string>

#include "physics/fluids.hpp"

namespace wavy {

struct Phase {
  std::string name;
  Properties properties;
};

struct Schedule {
  double until = 1;                  ///< [s]
  double snapshot_interval = 1;      ///< [s]
  double largest_step = 1e30;        ///< [s]
  double smallest_step = 1e-9;       ///< below this the run has failed [s]
  double checkpoint_interval = 600;  ///< of the clock on the wall [s]
};

}  // namespace wavy
