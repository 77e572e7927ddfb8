// Preconditioned conjugate gradients (Saad, Iterative Methods for Sparse Linear Systems (2003), alg. 9.1), whatever the
// fields look like.
#pragma once

#include <cmath>

namespace wavy {

/// A symmetric system A x = b, its residual r = b - A x at hand. It can
///
///   more(n)           whether to go on behind n iterations
///   precondition()    z = M r; returns r.z
///   turn(beta)        d = z + beta d
///   apply()           q = A d; returns d.q
///   advance(alpha)    x += alpha d, r -= alpha q
///
/// and says by `sign` whether A and M are positive (1) or negative (-1) definite. Returns the iterations; ends too
/// where nothing is left to gain, or numbers are no longer finite.
template <class System>
int conjugate_gradients(System&& system, int most_iterations) {
  double before = 0;
  for (int n = 0; n < most_iterations; ++n) {
    if (!system.more(n)) return n;
    const double rz = system.precondition();
    system.turn(n == 0 ? 0.0 : rz / before);
    const double dAd = system.apply();
    if (!(system.sign * dAd > 0) || !std::isfinite(rz)) return n;
    system.advance(rz / dAd);
    before = rz;
  }
  return most_iterations;
}

}  // namespace wavy
