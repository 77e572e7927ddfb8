// The standard k-epsilon law, and the same with an eddy viscosity that leaves normal stresses positive.
#include <algorithm>
#include <cmath>

#include "physics/turbulence.hpp"

namespace wavy {
namespace {

constexpr double c1 = 1.44;
constexpr double c2 = 1.92;
constexpr double sigma_epsilon = 1.3;

double standard(const LocalTurbulence& at) { return c_mu * at.k * at.k / at.second; }

double realisable(const LocalTurbulence& at) {
  constexpr double most = 0.6;
  const double bound = at.strain > 0 ? most * at.k / (std::sqrt(3.0) * at.strain) : 1e300;
  return std::min(standard(at), bound);
}

TurbulentRates epsilon_rates(const LocalTurbulence& at, double production, double) {
  const double rate = at.second / at.k;
  const double made = std::min(production, most_production * at.second);
  return {made, rate, c1 * made * rate, c2 * rate, 1, 1 / sigma_epsilon};
}

}  // namespace

const TurbulenceLaw k_epsilon{"k_epsilon",
                              "nu_t = 0.09 k^2/e; dk/dt = P - e; de/dt = (1.44 P - 1.92 e) e/k; sigma_k 1, sigma_e 1.3",
                              "Launder & Spalding, Comput. Methods Appl. Mech. Eng. 3 (1974) 269",
                              "fully turbulent flow; separation comes late, jets round an axis spread too fast",
                              TurbulenceLaw::Second::epsilon,
                              standard,
                              epsilon_rates};

const TurbulenceLaw k_epsilon_realisable{"k_epsilon_realisable",
                                         "as k_epsilon, nu_t at most 0.6 k/(sqrt(3) S)",
                                         "Durbin, Int. J. Heat Fluid Flow 17 (1996) 89",
                                         "as k_epsilon; stagnation points make no turbulence of their own",
                                         TurbulenceLaw::Second::epsilon,
                                         realisable,
                                         epsilon_rates};

}  // namespace wavy
