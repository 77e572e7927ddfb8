// The velocities of all phases at one place, one direction: inertia, drag, virtual mass and forces at once.
#pragma once

#include <array>
#include <cstddef>

namespace wavy::dispersed {

/// (E6), each row over its fraction, times dt:
///
///     rho_i (U_i - U*_i) + sum_j a_j [B_ij (U_i - U_j) + m_ij ((U_i - U_j) - (U*_i - U*_j))] = dt f_i
///
/// It holds at a fraction of 0 too, where it gives the slip that the phase would have.
template <int N>
struct SmallSystem {
  std::array<double, N> a{};                       ///< fractions, sum 1
  std::array<double, N> rho{};                     ///< [kg/m3]
  std::array<double, N> star{};                    ///< velocities before [m/s]
  std::array<std::array<double, N>, N> drag{};     ///< B: dt times the rate of the pair; symmetric [kg/m3]
  std::array<std::array<double, N>, N> inertia{};  ///< m: of virtual mass; symmetric [kg/m3]

  /// Velocities, and what each gains by a unit force f = 1 upon all of them (`response`, [m^3 s/kg]).
  ///
  /// The row of the phase with most mass is replaced by that of the mixture, in which drag cancels, and the slips to
  /// that phase are solved for: drag of any size then costs no digit.
  void solve(const std::array<double, N>& f, double dt, std::array<double, N>& velocity,
             std::array<double, N>& response) const {
    std::size_t main = 0;
    double mass = 0;
    for (std::size_t i = 0; i < N; ++i) {
      if (a[i] * rho[i] > a[main] * rho[main]) main = i;
      mass += a[i] * rho[i];
    }
    double momentum = 0;  // of the mixture after
    double fractions = 0;
    for (std::size_t i = 0; i < N; ++i) {
      momentum += a[i] * (rho[i] * star[i] + dt * f[i]);
      fractions += a[i];
    }
    constexpr std::size_t slips = N - 1;
    std::array<std::size_t, slips> row{};
    for (std::size_t i = 0, next = 0; i < N; ++i)
      if (i != main) row[next++] = i;
    // Matrix, and the right-hand sides of forces and of a unit force.
    std::array<std::array<double, slips + 2>, slips> A{};
    for (std::size_t r = 0; r < slips; ++r) {
      const std::size_t i = row[r];
      double diagonal = rho[i];
      double right = rho[i] * star[i] + dt * f[i] - rho[i] * momentum / mass;
      for (std::size_t j = 0; j < N; ++j) {
        if (j == i) continue;
        diagonal += a[j] * (drag[i][j] + inertia[i][j]);
        right += a[j] * inertia[i][j] * (star[i] - star[j]);
      }
      for (std::size_t c = 0; c < slips; ++c) {
        const std::size_t j = row[c];
        A[r][c] = (r == c ? diagonal : -a[j] * (drag[i][j] + inertia[i][j])) - rho[i] * a[j] * rho[j] / mass;
      }
      A[r][slips] = right;
      A[r][slips + 1] = dt * (1 - rho[i] * fractions / mass);
    }
    for (std::size_t k = 0; k < slips; ++k) {
      const double inverse = 1 / A[k][k];
      for (std::size_t r = k + 1; r < slips; ++r) {
        const double factor = A[r][k] * inverse;
        for (std::size_t c = k; c < slips + 2; ++c) A[r][c] -= factor * A[k][c];
      }
    }
    for (std::size_t k = slips; k-- > 0;)
      for (std::size_t side = slips; side < slips + 2; ++side) {
        for (std::size_t c = k + 1; c < slips; ++c) A[k][side] -= A[k][c] * A[c][side];
        A[k][side] /= A[k][k];
      }
    double all = momentum;
    double all_response = dt * fractions;
    for (std::size_t r = 0; r < slips; ++r) {
      all -= a[row[r]] * rho[row[r]] * A[r][slips];
      all_response -= a[row[r]] * rho[row[r]] * A[r][slips + 1];
    }
    velocity[main] = all / mass;
    response[main] = all_response / mass;
    for (std::size_t r = 0; r < slips; ++r) {
      velocity[row[r]] = velocity[main] + A[r][slips];
      response[row[r]] = response[main] + A[r][slips + 1];
    }
  }
};

}  // namespace wavy::dispersed
