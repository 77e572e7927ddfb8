// How fast a gas dissolves from bubbles: closures, each a function of numbers at one place, and the table from which
// they are named, explained and checked.
#pragma once

#include <string_view>
#include <vector>

namespace wavy {

/// The liquid beside bubbles.
struct TransferAt {
  double diffusivity = 0;  ///< of what dissolves, in the liquid [m2/s]
  double viscosity = 0;    ///< kinematic, of the liquid [m2/s]
  double slip = 0;         ///< speed of the bubbles relative to the liquid [m/s]
  double diameter = 0;     ///< of the bubbles [m]
  double dissipation = 0;  ///< of turbulence, epsilon [m2/s3]
};

/// Transfer coefficient kL on the liquid's side: flux per area and difference of concentrations [m/s].
struct TransferLaw {
  std::string_view name;
  std::string_view equation;
  std::string_view source;
  bool by_eddies = false;  ///< it needs the dissipation
  double (*coefficient)(const TransferAt&) = nullptr;
};

const std::vector<TransferLaw>& transfer_laws();

}  // namespace wavy
