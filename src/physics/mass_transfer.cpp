#include "physics/mass_transfer.hpp"

#include <cmath>
#include <numbers>

namespace wavy {

const std::vector<TransferLaw>& transfer_laws() {
  static const std::vector<TransferLaw> laws{
      {"penetration", "kL = 2 sqrt(D slip / (pi d)): the liquid is renewed once per diameter of the way",
       "Higbie, Trans. AIChE 31 (1935) 365", false,
       [](const TransferAt& at) { return 2 * std::sqrt(at.diffusivity * at.slip / (std::numbers::pi * at.diameter)); }},
      {"small_eddies", "kL = 0.4 sqrt(D) (epsilon / nu)^(1/4): the smallest eddies renew it",
       "Lamont & Scott, AIChE J. 16 (1970) 513", true,
       [](const TransferAt& at) {
         constexpr double share = 0.4;
         return share * std::sqrt(at.diffusivity) * std::pow(at.dissipation / at.viscosity, 0.25);
       }},
  };
  return laws;
}

}  // namespace wavy
