// Pressures with which both phases fill every section (L5), and the masses that then stand in them (L1).
#include <algorithm>
#include <cmath>

#include "line/model.hpp"

namespace wavy::line {

/// What Newton's method works with, by section.
struct Model::Balance {
  std::vector<double> diagonal, to_next, from_next;  // how what is missing changes with the pressures [1/Pa]
  std::vector<double> right;                         // what is missing of a full section; then changes of pressure [Pa]
  std::vector<std::array<double, 2>> mass;           // after the step [kg/m3]
  std::vector<char> flips;  // how often the flow on a face has turned while pressures were found
};

/// Velocities by the pressures, and what they carry.
void Model::set_velocities(bool first, Balance& balance) {
  const auto& p = state_.pressure;
  auto& flips = balance.flips;
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    if (first) set_donors(i);
    const double dp = behind(i) - p[i];
    const double l = faces_[i].a[0] - faces_[i].b[0] * dp;
    const double g = faces_[i].a[1] - faces_[i].b[1] * dp;
    const bool flipped = !first && (l * state_.u_liquid[i] < 0 || g * state_.u_gas[i] < 0);
    if (flipped && ++flips[i] > 6) faces_[i].film_a = faces_[i].film_b = faces_[i].slug_a = faces_[i].slug_b = {};
    // Where neither way holds nothing moves.
    state_.u_liquid[i] = flips[i] > 6 ? 0.0 : l;
    state_.u_gas[i] = flips[i] > 6 ? 0.0 : g;
    set_donors(i);
    if (!settings_.follow_slugs) continue;
    // What a slug carries changes the velocities with their direction.
    state_.u_liquid[i] = faces_[i].a[0] - faces_[i].b[0] * dp;
    state_.u_gas[i] = faces_[i].a[1] - faces_[i].b[1] * dp;
  }
}

/// (L1)
void Model::move_masses(double dt, Balance& balance) const {
  const std::size_t n = sections_.size();
  auto& mass = balance.mass;
  mass.resize(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double volume = sections_[i].volume();
    mass[i] = {state_.liquid[i] + dt * supply_[i][0] / volume, state_.gas[i] + dt * supply_[i][1] / volume};
  }
  for (std::size_t i = 0; i < n; ++i) {
    const std::array<double, 2> u{state_.u_liquid[i], state_.u_gas[i]};
    for (std::size_t k = 0; k < 2; ++k) {
      const double moved = dt * faces_[i].area * faces_[i].donor[k] * u[k];
      mass[i][k] -= moved / sections_[i].volume();
      if (sections_[i].next != Section::outlet) {
        const auto next = static_cast<std::size_t>(sections_[i].next);
        mass[next][k] += moved / sections_[next].volume();
      }
    }
  }
}

/// What is missing of full sections, and how it changes with their own pressures; returns the greatest share.
double Model::find_missing(Balance& balance) const {
  const auto& p = state_.pressure;
  const double liquid_slope = 1 / std::pow(settings_.sound_speed, 2);
  double worst = 0;
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    const double rho_l = liquid_density(p[i]);
    const double rho_g = gas_density(p[i], sections_[i].temperature);
    balance.right[i] = 1 - balance.mass[i][0] / rho_l - balance.mass[i][1] / rho_g;
    balance.diagonal[i] = -balance.mass[i][0] * liquid_slope / (rho_l * rho_l) - balance.mass[i][1] / (rho_g * p[i]);
    worst = std::max(worst, std::abs(balance.right[i]));
  }
  return worst;
}

/// Takes the masses over, if nobody is left with less than nothing.
bool Model::keep(const Balance& balance, StepReport& report) {
  const std::size_t n = sections_.size();
  const auto& mass = balance.mass;
  for (std::size_t i = 0; i < n; ++i)
    for (std::size_t k = 0; k < 2; ++k)
      if (mass[i][k] < (k == 0 ? -1e-13 * settings_.liquid_density : -1e-12 * settings_.gas_density)) {
        if (k == 0) report.run_dry = static_cast<int>(i);
        return false;
      }
  for (std::size_t i = 0; i < n; ++i) {
    state_.liquid[i] = mass[i][0];
    state_.gas[i] = mass[i][1];
  }
  return true;
}

/// How what is missing changes with the pressures behind and before the faces.
void Model::link_sections(double dt, Balance& balance) const {
  const auto& p = state_.pressure;
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    const auto& f = faces_[i];
    const double rho_l = liquid_density(p[i]);
    const double rho_g = gas_density(p[i], sections_[i].temperature);
    const double push = dt * f.area;
    const double own = push * (f.donor[0] * f.b[0] / rho_l + f.donor[1] * f.b[1] / rho_g) / sections_[i].volume();
    balance.diagonal[i] -= own;
    balance.to_next[i] = own;
    if (sections_[i].next == Section::outlet) continue;
    const auto next = static_cast<std::size_t>(sections_[i].next);
    const double their = push *
                         (f.donor[0] * f.b[0] / liquid_density(p[next]) +
                          f.donor[1] * f.b[1] / gas_density(p[next], sections_[next].temperature)) /
                         sections_[next].volume();
    balance.diagonal[next] -= their;
    balance.from_next[i] = their;
  }
}

/// Every section leads into a later one: eliminated from the ends of the branches to the outlet and back.
bool Model::eliminate(Balance& balance) const {
  const std::size_t n = sections_.size();
  auto& diagonal = balance.diagonal;
  auto& right = balance.right;
  const auto& to_next = balance.to_next;
  const auto& from_next = balance.from_next;
  for (std::size_t i = 0; i < n; ++i) {
    if (diagonal[i] == 0) return false;
    if (sections_[i].next == Section::outlet) continue;
    const auto next = static_cast<std::size_t>(sections_[i].next);
    const double factor = from_next[i] / diagonal[i];
    diagonal[next] -= factor * to_next[i];
    right[next] -= factor * right[i];
  }
  for (std::size_t i = n; i-- > 0;) {
    double change = right[i];
    if (sections_[i].next != Section::outlet) change -= to_next[i] * right[static_cast<std::size_t>(sections_[i].next)];
    right[i] = change / diagonal[i];
  }
  return true;
}

/// The velocities go along. False where no pressures are found.
bool Model::solve(double dt, double time, StepReport& report) {
  const std::size_t n = sections_.size();
  auto& p = state_.pressure;
  thread_local Balance balance;
  for (auto* v : {&balance.diagonal, &balance.to_next, &balance.from_next, &balance.right}) v->assign(n, 0.0);
  balance.flips.assign(n, 0);
  for (std::size_t i = 0; i < n; ++i) set_face(i, dt, time);
  constexpr int most_rounds = 40;
  constexpr double exact = 1e-11;
  constexpr double near = 1e-10;  // good enough where no digit of the pressures makes it better
  double before = 1e300;
  for (int round = 0; round < most_rounds; ++round) {
    set_velocities(round == 0, balance);
    move_masses(dt, balance);
    const double worst = find_missing(balance);
    report.iterations = round + 1;
    report.volume_error = worst;
    if (!std::isfinite(worst)) return false;
    const bool no_better = worst < near && worst > 0.5 * before;
    if (round > 0 && (worst < exact || no_better)) return keep(balance, report);
    before = worst;
    link_sections(dt, balance);
    if (!eliminate(balance)) return false;
    for (std::size_t i = 0; i < n; ++i) p[i] = std::max(p[i] + balance.right[i], 0.2 * p[i]);
  }
  return false;
}

}  // namespace wavy::line
