#include "line/model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.hpp"

namespace wavy::line {
namespace {

constexpr double trace = 1e-9;  // shares of a phase below this count as none where a speed is asked for

/// 0 below `low`, 1 above `high`, smooth between.
double smooth_step(double x, double low, double high) {
  const double s = std::clamp((x - low) / (high - low), 0.0, 1.0);
  return s * s * (3 - 2 * s);
}

}  // namespace

std::vector<Section> straight_sections(const std::vector<Straight>& pieces, double diameter, double roughness,
                                       double section_length) {
  std::vector<Section> all;
  double x = 0;
  double z = 0;
  for (std::size_t l = 0; l < pieces.size(); ++l) {
    const int count = std::max(1, static_cast<int>(std::lround(pieces[l].length / section_length)));
    const double h = pieces[l].length / count;
    for (int k = 0; k < count; ++k) {
      Section one;
      one.length = h;
      one.place = x + h / 2;
      one.rise = z + pieces[l].sine * h / 2;
      one.bore = {diameter, roughness, pieces[l].sine};
      one.leg = static_cast<int>(l);
      one.next = static_cast<int>(all.size()) + 1;
      x += h;
      z += pieces[l].sine * h;
      all.push_back(one);
    }
  }
  all.back().next = Section::outlet;
  return all;
}

/// How the phases flow through a face.
struct Model::Closure {
  Bore bore;
  Media media;
  double holdup = 0;
  double length = 1;       // between the middles of the sections
  double climb = 0;        // of the pipe between them [m]
  double level_climb = 0;  // of a layer's surface [m]
  double drift_share = 0;  // 1: bubbles drift in a mixture; 0: the phases flow apart
  bool film = false;       // round the wall, where they flow apart
  Drift drift;
};

Model::Model(std::vector<Section> sections, std::vector<Source> sources, std::vector<Valve> valves, Settings settings)
    : sections_(std::move(sections)),
      sources_(std::move(sources)),
      valves_(std::move(valves)),
      settings_(std::move(settings)) {
  const std::size_t n = sections_.size();
  before_.assign(n, -1);
  valve_at_.assign(n, -1);
  faces_.resize(n);
  depth_.resize(n);
  supply_.resize(n);
  flow_.resize(n);
  for (auto* field : {&state_.pressure, &state_.liquid, &state_.gas, &state_.u_liquid, &state_.u_gas})
    field->assign(n, 0.0);
  for (std::size_t i = 0; i < n; ++i) {
    const int next = sections_[i].next;
    if (next != Section::outlet) before_[static_cast<std::size_t>(next)] = static_cast<int>(i);
    faces_[i].area = sections_[i].bore.area();
    if (next != Section::outlet)
      faces_[i].area = std::min(faces_[i].area, sections_[static_cast<std::size_t>(next)].bore.area());
  }
  for (std::size_t v = 0; v < valves_.size(); ++v) valve_at_[valves_[v].section] = static_cast<int>(v);
  open_ = static_cast<bool>(settings_.outlet_pressure);
  if (open_) outside_ = settings_.outlet_pressure(0);
  in_slugs_.assign(n, 0.0);
  covered_length_.assign(n, 0.0);
  last_begun_.assign(n, -1e300);
  at_places_.resize(settings_.watched.size());
  if (settings_.follow_slugs) find_way();
}

double Model::liquid_density(double pressure) const {
  return settings_.liquid_density + (pressure - settings_.reference_pressure) / std::pow(settings_.sound_speed, 2);
}

double Model::gas_density(double pressure, double temperature) const {
  return settings_.gas_density * pressure / settings_.reference_pressure * settings_.reference_temperature /
         (temperature * settings_.compressibility);
}

Media Model::media(std::size_t section) const {
  const double p = state_.pressure[section];
  return {liquid_density(p), gas_density(p, sections_[section].temperature), settings_.liquid_viscosity,
          settings_.gas_viscosity, settings_.surface_tension};
}

std::array<double, 2> Model::brought(const Source& source, double time) const {
  const double gas = source.gas ? source.gas(time) : 0.0;
  const double by_volume = source.gas_volume ? source.gas_volume(time) * media(source.section).gas_density : 0.0;
  return {source.liquid ? source.liquid(time) : 0.0, gas + by_volume};
}

double Model::holdup(std::size_t section) const {
  return std::clamp(state_.liquid[section] / liquid_density(state_.pressure[section]), 0.0, 1.0);
}

double Model::film_holdup(std::size_t section) const {
  const double all = holdup(section);
  const double slugs = in_slugs_[section];
  const double length = sections_[section].length;
  constexpr double least = 0.02;  // of the section, below which there is no film to speak of
  if (slugs <= 0 || slugs > (1 - least) * length) return all;
  return std::clamp((all * length - slug_holdup(flux_before(section)) * slugs) / (length - slugs), 0.0, 1.0);
}

double Model::slug_holdup(double flux) const {
  return settings_.slugs_hold_gas ? 1 / (1 + std::pow(std::abs(flux) / 8.66, 1.39)) : 1.0;
}

double Model::flux_before(std::size_t face) const {
  const double p = state_.pressure[face];
  return (flow_[face][0] / liquid_density(p) + flow_[face][1] / gas_density(p, sections_[face].temperature)) /
         faces_[face].area;
}

double Model::behind(std::size_t face) const {
  const int next = sections_[face].next;
  return next == Section::outlet ? outside_ : state_.pressure[static_cast<std::size_t>(next)];
}

void Model::start_at_rest(const std::vector<double>& holdup, double pressure) {
  const std::size_t n = sections_.size();
  outside_ = open_ ? settings_.outlet_pressure(0) : pressure;
  for (std::size_t i = n; i-- > 0;) {
    const auto& section = sections_[i];
    const bool last = section.next == Section::outlet;
    const auto next = static_cast<std::size_t>(section.next);
    double& p = state_.pressure[i];
    p = last ? outside_ : state_.pressure[next];
    // Gas stands over the liquid: only full sections carry weight.
    const double full = last ? holdup[i] : 0.5 * (holdup[i] + holdup[next]);
    const double climb = last ? 0.5 * section.length * section.bore.sine : sections_[next].rise - section.rise;
    if (full > 0.99) p += liquid_density(p) * gravity * climb;
    state_.liquid[i] = holdup[i] * liquid_density(p);
    state_.gas[i] = (1 - holdup[i]) * gas_density(p, section.temperature);
    state_.u_liquid[i] = state_.u_gas[i] = 0;
  }
}

void Model::start_steady() {
  const std::size_t n = sections_.size();
  std::vector<std::array<double, 2>> flow(n);
  // Volumes of gas count at the outlet's pressure for now; the run soon has them right.
  outside_ = open_ ? settings_.outlet_pressure(0) : settings_.reference_pressure;
  std::fill(state_.pressure.begin(), state_.pressure.end(), outside_);
  for (const auto& source : sources_) {
    const auto mass = brought(source, 0);
    for (std::size_t k = 0; k < 2; ++k) flow[source.section][k] += mass[k];
  }
  for (std::size_t i = 0; i < n; ++i)
    if (sections_[i].next != Section::outlet)
      for (std::size_t k = 0; k < 2; ++k) flow[static_cast<std::size_t>(sections_[i].next)][k] += flow[i][k];
  flow_ = flow;
  for (std::size_t i = n; i-- > 0;) {
    const auto& section = sections_[i];
    const bool last = section.next == Section::outlet;
    double& p = state_.pressure[i];
    const double beyond = last ? outside_ : state_.pressure[static_cast<std::size_t>(section.next)];
    const double length =
        last ? 0.5 * section.length : 0.5 * (section.length + sections_[static_cast<std::size_t>(section.next)].length);
    const double area = section.bore.area();
    p = beyond;
    Equilibrium flowing;
    constexpr int rounds = 3;  // the gas is lighter or denser with the pressure found
    for (int round = 0; round < rounds; ++round) {
      const Media here = media(i);
      const double liquid_flux = std::max(0.0, flow[i][0]) / (here.liquid_density * area);
      const double gas_flux = std::max(0.0, flow[i][1]) / (here.gas_density * area);
      if (liquid_flux + gas_flux > 0)
        flowing = equilibrium(section.bore, here, liquid_flux, gas_flux, round > 0 ? flowing.layer_holdup : 0.0);
      else
        flowing.holdup = 0;
      p = beyond - flowing.pressure_gradient * length;
      if (const int v = valve_at_[i]; v >= 0) {
        const auto& valve = valves_[static_cast<std::size_t>(v)];
        const double open = std::max(valve.coefficient * valve.opening(0), 1e-3);
        const double mass_flux = liquid_flux * here.liquid_density + gas_flux * here.gas_density;  // no slip in it
        p += (1 / (open * open) - 1) * mass_flux * (liquid_flux + gas_flux) / 2;
      }
    }
    const Media here = media(i);
    state_.liquid[i] = flowing.holdup * here.liquid_density;
    state_.gas[i] = (1 - flowing.holdup) * here.gas_density;
    state_.u_liquid[i] = flowing.holdup > trace ? flow[i][0] / (area * state_.liquid[i]) : 0.0;
    state_.u_gas[i] = flowing.holdup < 1 - trace ? flow[i][1] / (area * state_.gas[i]) : 0.0;
  }
}

Model::Closure Model::closure(std::size_t face) const {
  const auto& here = sections_[face];
  const bool last = here.next == Section::outlet;
  const std::size_t next = last ? face : static_cast<std::size_t>(here.next);
  const auto& there = sections_[next];
  Closure result;
  result.bore = here.bore.diameter <= there.bore.diameter ? here.bore : there.bore;
  result.length = last ? 0.5 * here.length : 0.5 * (here.length + there.length);
  result.climb = last ? 0.5 * here.length * here.bore.sine : there.rise - here.rise;
  result.bore.sine = std::clamp(result.climb / result.length, -1.0, 1.0);
  result.level_climb = result.climb + (last ? 0.0 : depth_[next] - depth_[face]);
  const double share = last ? 1.0 : here.length / (here.length + there.length);
  result.holdup = share * film_holdup(face) + (1 - share) * film_holdup(next);
  const Media a = media(face);
  const Media b = media(next);
  result.media = a;
  result.media.liquid_density = share * a.liquid_density + (1 - share) * b.liquid_density;
  result.media.gas_density = share * a.gas_density + (1 - share) * b.gas_density;

  const double liquid = result.holdup;
  const double gas = 1 - liquid;
  const double u_liquid = state_.u_liquid[face];
  const double u_gas = state_.u_gas[face];
  const double flux = liquid * u_liquid + gas * u_gas;
  const double sine = result.bore.sine;
  constexpr double steep = 0.26;  // as in equilibrium()
  result.film = sine > steep || sine < -0.7;
  // Nearly full pipes have bubbles; so have steep ones but for a film, and others where waves bridge a thick layer.
  const double full = smooth_step(liquid, 0.90, 0.98);
  const double rising = smooth_step(sine, 0.8 * steep, 1.2 * steep) * smooth_step(liquid, 0.12, 0.25);
  double bridged = 0;
  if (!settings_.follow_slugs && !result.film && liquid > 0.2 && gas > trace)
    bridged = smooth_step(std::abs(u_gas - u_liquid) / bridging_speed(result.bore, result.media, liquid), 0.9, 1.1) *
              smooth_step(liquid, 0.24, 0.36);
  result.drift_share = std::max({full, rising, bridged});

  result.drift = long_bubble_drift(result.bore, result.media, flux);
  if (const double small = sine > 0.7 ? 1 - smooth_step(gas, 0.2, 0.3) : 0.0; small > 0) {
    const Drift bubbles = bubble_drift(result.bore, result.media);
    result.drift = {small * bubbles.distribution + (1 - small) * result.drift.distribution,
                    small * bubbles.velocity + (1 - small) * result.drift.velocity};
  }
  // Where gas is nearly all there is, it moves as the mixture does.
  const double wet = smooth_step(liquid, 0.0, 0.25);
  result.drift.distribution = 1 + (result.drift.distribution - 1) * wet;
  result.drift.velocity *= wet;
  return result;
}

void Model::set_face(std::size_t face, double dt, double time) {
  Face& f = faces_[face];
  const auto& here = sections_[face];
  const bool last = here.next == Section::outlet;

  double valve_loss = 0;  // over rho |j| / 2
  if (const int v = valve_at_[face]; v >= 0) {
    const auto& valve = valves_[static_cast<std::size_t>(v)];
    const double open = valve.coefficient * std::clamp(valve.opening(time), 0.0, 1.0);
    constexpr double shut = 1e-4;
    if (open < shut) {
      f.film_a = f.film_b = f.slug_a = f.slug_b = {};
      return;
    }
    valve_loss = 1 / (open * open) - 1;
  }
  if (last && !open_) {
    f.film_a = f.film_b = f.slug_a = f.slug_b = {};
    return;
  }
  Closure c = closure(face);
  if (valve_loss > 0) {  // a choke mixes
    c.drift_share = 1;
    c.drift = {1, 0};
  }

  constexpr double least = 1e-7;
  const double filled = std::clamp(c.holdup, least, 1 - least);
  const double gas = 1 - filled;
  const double rho_l = c.media.liquid_density;
  const double rho_g = c.media.gas_density;
  const double m_l = filled * rho_l;
  const double m_g = gas * rho_g;
  const double speed_l = state_.u_liquid[face];
  const double speed_g = state_.u_gas[face];
  // Momentum that comes along from the face upstream.
  const auto carried = [&](const std::vector<double>& u) {
    const double own = u[face];
    if (own > 0) {
      const int from = before_[face];
      return from < 0 ? 0.0 : own * (own - u[static_cast<std::size_t>(from)]) / here.length;
    }
    if (last) return 0.0;
    const auto next = static_cast<std::size_t>(here.next);
    return own * (u[next] - own) / sections_[next].length;
  };
  const double then_l = m_l * (speed_l / dt - carried(state_.u_liquid));
  const double then_g = m_g * (speed_g / dt - carried(state_.u_gas));
  const double per_length = 1 / c.length;

  std::array<double, 2> a{};
  std::array<double, 2> b{};
  if (c.drift_share < 1) {
    const Friction r = c.film ? annular_friction(c.bore, c.media, filled, speed_l, speed_g)
                              : layered_friction(c.bore, c.media, filled, speed_l, speed_g, true);
    const double climb = c.film ? c.climb : c.level_climb;
    const double ll = m_l / dt + r.wall_liquid + r.between;
    const double gg = m_g / dt + r.wall_gas + r.between;
    const double det = ll * gg - r.between * r.between;
    const double right_l = then_l - m_l * gravity * climb * per_length;
    const double right_g = then_g - m_g * gravity * climb * per_length;
    const double share = 1 - c.drift_share;
    a[0] += share * (gg * right_l + r.between * right_g) / det;
    a[1] += share * (ll * right_g + r.between * right_l) / det;
    b[0] += share * (gg * filled + r.between * gas) * per_length / det;
    b[1] += share * (ll * gas + r.between * filled) * per_length / det;
  }
  if (c.drift_share > 0) {
    // speed_g = C j + d;  speed_l = (j - gas speed_g) / filled. In near-empty pipes the distribution is 1, so that
    // speed_l stays finite.
    const double C = std::min(c.drift.distribution, 1 / gas);
    const double d = c.drift.velocity;
    const double l_j = (1 - gas * C) / filled;
    const double l_d = -gas * d / filled;
    const double flux = filled * speed_l + gas * speed_g;
    // The loss of a valve is linear round the last flux: taken as a factor of it alone, flux x last flux = constant
    // would let it hunt between two values for ever.
    const double valve = valve_loss * (m_l + m_g) * std::abs(flux) / 2 * per_length;
    const double wall = mixed_friction(c.bore, c.media, filled, flux) + 2 * valve;
    const double inertia = (m_l * l_j + m_g * C) / dt;
    const double right =
        then_l + then_g - (m_l * l_d + m_g * d) / dt - (m_l + m_g) * gravity * c.climb * per_length + valve * flux;
    const double j_a = right / (inertia + wall);
    const double j_b = per_length / (inertia + wall);
    a[0] += c.drift_share * (l_j * j_a + l_d);
    a[1] += c.drift_share * (C * j_a + d);
    b[0] += c.drift_share * l_j * j_b;
    b[1] += c.drift_share * C * j_b;
  }
  f.film_a = a;
  f.film_b = b;
  f.slug_a = a;
  f.slug_b = b;
  const double within = covered_length_[face];
  if (within <= 0 && f.covered <= 0) return;
  // In a slug both phases move alike; where one lies beside the face, so does that share of what is between the
  // middles.
  const double flux = flux_before(face);
  const double held = slug_holdup(flux);
  const double mass = held * rho_l + (1 - held) * rho_g;
  const double wall = mixed_friction(c.bore, c.media, held, flux);
  const double inertia = mass / dt;
  const double j_a = (mass * flux / dt - mass * gravity * c.climb * per_length) / (inertia + wall);
  const double j_b = per_length / (inertia + wall);
  f.slug_a = {j_a, j_a};
  f.slug_b = {j_b, j_b};
  for (std::size_t k = 0; k < 2; ++k) {
    f.film_a[k] += within * (j_a - f.film_a[k]);
    f.film_b[k] += within * (j_b - f.film_b[k]);
  }
}
/// What moves through a face: of the film upstream, and of a slug while one covers it.
void Model::set_donors(std::size_t face) {
  Face& f = faces_[face];
  const int next = sections_[face].next;
  const bool last = next == Section::outlet;
  const auto donor = [&](std::size_t phase, double u) -> double {
    const std::vector<double>& mass = phase == 0 ? state_.liquid : state_.gas;
    if (u < 0 && last) return phase == 0 ? 0.0 : gas_density(outside_, sections_[face].temperature);
    const std::size_t from = u >= 0 ? face : static_cast<std::size_t>(next);
    if (in_slugs_[from] <= 0) return mass[from];
    const double film = film_holdup(from);
    const double share = phase == 0 ? film : 1 - film;
    const double whole = phase == 0 ? holdup(from) : 1 - holdup(from);
    return whole > trace ? mass[from] * share / whole : 0.0;
  };
  const std::array<double, 2> u{state_.u_liquid[face], state_.u_gas[face]};
  const double held = f.covered > 0 ? slug_holdup(flux_before(face)) : 1.0;
  for (std::size_t k = 0; k < 2; ++k) {
    const double film = (1 - f.covered) * donor(k, u[k]);
    const double density = k == 0 ? liquid_density(state_.pressure[face])
                                  : gas_density(state_.pressure[face], sections_[face].temperature);
    const double slug = f.covered * (k == 0 ? held : 1 - held) * density;
    f.donor[k] = film + slug;
    const double share = f.donor[k] > 0 ? slug / f.donor[k] : f.covered;
    f.a[k] = (1 - share) * f.film_a[k] + share * f.slug_a[k];
    f.b[k] = (1 - share) * f.film_b[k] + share * f.slug_b[k];
  }
}

/// Pressures with which the phases fill every section after dt; the velocities go along. False where none are found.
bool Model::solve(double dt, double time, StepReport& report) {
  const std::size_t n = sections_.size();
  auto& p = state_.pressure;
  thread_local std::vector<double> diagonal, to_next, from_next, right;
  for (auto* v : {&diagonal, &to_next, &from_next, &right}) v->assign(n, 0.0);
  for (std::size_t i = 0; i < n; ++i) set_face(i, dt, time);
  const double liquid_slope = 1 / std::pow(settings_.sound_speed, 2);
  constexpr int most_rounds = 40;
  constexpr double exact = 1e-11;
  thread_local std::vector<char> flips;
  flips.assign(n, 0);
  for (int round = 0; round < most_rounds; ++round) {
    for (std::size_t i = 0; i < n; ++i) {
      if (round == 0) set_donors(i);
      const double dp = behind(i) - p[i];
      const double l = faces_[i].a[0] - faces_[i].b[0] * dp;
      const double g = faces_[i].a[1] - faces_[i].b[1] * dp;
      const bool flipped = round > 0 && (l * state_.u_liquid[i] < 0 || g * state_.u_gas[i] < 0);
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
    // What is missing of a full section, and how it changes with the pressures.
    std::fill(right.begin(), right.end(), 0.0);
    thread_local std::vector<std::array<double, 2>> mass;
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
    double worst = 0;
    for (std::size_t i = 0; i < n; ++i) {
      const double rho_l = liquid_density(p[i]);
      const double rho_g = gas_density(p[i], sections_[i].temperature);
      right[i] = 1 - mass[i][0] / rho_l - mass[i][1] / rho_g;
      diagonal[i] = -mass[i][0] * liquid_slope / (rho_l * rho_l) - mass[i][1] / (rho_g * p[i]);
      worst = std::max(worst, std::abs(right[i]));
    }
    report.iterations = round + 1;
    report.volume_error = worst;
    if (!std::isfinite(worst)) return false;
    if (worst < exact && round > 0) {
      // Done, if nobody is left with less than nothing.
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
    for (std::size_t i = 0; i < n; ++i) {
      const auto& f = faces_[i];
      const double rho_l = liquid_density(p[i]);
      const double rho_g = gas_density(p[i], sections_[i].temperature);
      const double push = dt * f.area;
      const double own = push * (f.donor[0] * f.b[0] / rho_l + f.donor[1] * f.b[1] / rho_g) / sections_[i].volume();
      diagonal[i] -= own;
      to_next[i] = own;
      if (sections_[i].next == Section::outlet) continue;
      const auto next = static_cast<std::size_t>(sections_[i].next);
      const double their = push *
                           (f.donor[0] * f.b[0] / liquid_density(p[next]) +
                            f.donor[1] * f.b[1] / gas_density(p[next], sections_[next].temperature)) /
                           sections_[next].volume();
      diagonal[next] -= their;
      from_next[i] = their;
    }
    // Every section leads into a later one: eliminated from the ends of the branches to the outlet and back.
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
      if (sections_[i].next != Section::outlet)
        change -= to_next[i] * right[static_cast<std::size_t>(sections_[i].next)];
      right[i] = change / diagonal[i];
    }
    for (std::size_t i = 0; i < n; ++i) p[i] = std::max(p[i] + right[i], 0.2 * p[i]);
  }
  return false;
}

double Model::stable_step() const {
  double step = settings_.largest_step;
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    const std::array<double, 2> u{state_.u_liquid[i], state_.u_gas[i]};
    for (std::size_t k = 0; k < 2; ++k) {
      const int next = sections_[i].next;
      const bool out_of_own = u[k] >= 0;
      if (!out_of_own && next == Section::outlet) continue;
      const std::size_t from = out_of_own ? i : static_cast<std::size_t>(next);
      const double share = k == 0 ? holdup(from) : 1 - holdup(from);
      if (share < 1e-6 || u[k] == 0) continue;
      step = std::min(step, settings_.courant * sections_[from].length / std::abs(u[k]));
    }
  }
  return step;
}

StepReport Model::step(double dt) {
  const std::size_t n = sections_.size();
  StepReport report;
  const State before = state_;
  constexpr int most_halvings = 30;
  for (int halving = 0;; ++halving) {
    report.run_dry = -1;
    const double time = state_.time + dt;
    if (open_) outside_ = settings_.outlet_pressure(time);
    std::fill(supply_.begin(), supply_.end(), std::array<double, 2>{});
    for (const auto& source : sources_) {
      const auto mass = brought(source, time - 0.5 * dt);
      for (std::size_t k = 0; k < 2; ++k) supply_[source.section][k] += mass[k];
    }
    if (settings_.follow_slugs) cover_faces(dt);
    for (std::size_t i = 0; i < n; ++i)
      depth_[i] = layer_of(film_holdup(i)).depth * sections_[i].bore.diameter * sections_[i].bore.cosine();
    if (solve(dt, time, report)) break;
    state_ = before;
    constexpr double least_step = 1e-7;  // [s]
    if (halving == most_halvings || dt < least_step)
      throw failure(fmt::format("no pressures were found at t = {:.6g} s", state_.time),
                    "a source may pump into a closed line, or a valve shut on fast liquid: let it happen more gently");
    constexpr int patient = 3;
    if (settings_.follow_slugs && halving >= patient && report.run_dry >= 0)
      drop_slugs(static_cast<std::size_t>(report.run_dry));
    dt *= 0.5;
  }
  report.dt = dt;
  state_.time += dt;
  if (settings_.follow_slugs) {
    move_slugs(dt);
    trim_slugs();
    begin_slugs();
  }
  for (std::size_t i = 0; i < n; ++i) {
    const auto& f = faces_[i];
    flow_[i] = {f.area * f.donor[0] * state_.u_liquid[i], f.area * f.donor[1] * state_.u_gas[i]};
    for (std::size_t k = 0; k < 2; ++k) {
      came_[k] += dt * supply_[i][k];
      if (sections_[i].next == Section::outlet) went_[k] += dt * flow_[i][k];
    }
  }
  return report;
}

void Model::archive(Archive& a) {
  a("time", state_.time);
  for (const auto& [name, field] : {std::pair<const char*, std::vector<double>*>{"pressure", &state_.pressure},
                                    {"liquid", &state_.liquid},
                                    {"gas", &state_.gas},
                                    {"u_liquid", &state_.u_liquid},
                                    {"u_gas", &state_.u_gas},
                                    {"depth", &depth_},
                                    {"in_slugs", &in_slugs_},
                                    {"covered_length", &covered_length_},
                                    {"last_begun", &last_begun_}})
    a(name, std::span<double>(*field));
  std::vector<double> flow;
  for (const auto& both : flow_) flow.insert(flow.end(), both.begin(), both.end());
  a("flow", std::span<double>(flow));
  for (std::size_t i = 0; i < flow_.size(); ++i) flow_[i] = {flow[2 * i], flow[2 * i + 1]};
  a("outside", outside_);
  a("came", came_);
  a("went", went_);
  a("born", born_);
  archive_slugs(a);
}

Regime Model::regime(std::size_t face) const {
  const Closure c = closure(face);
  constexpr double none = 1e-4;
  if (c.holdup < none || c.holdup > 1 - none) return Regime::single;
  if (in_slugs_[face] > 0) return Regime::slug;
  if (c.drift_share > 0.5) return c.bore.sine > 0.7 && c.holdup > 0.75 ? Regime::bubble : Regime::slug;
  if (c.film) return Regime::annular;
  const double onset = 5 * std::sqrt(1.2 / c.media.gas_density);
  return std::abs((1 - c.holdup) * state_.u_gas[face]) > onset ? Regime::wavy : Regime::stratified;
}

std::array<double, 2> Model::held() const {
  std::array<double, 2> sum{};
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    sum[0] += sections_[i].volume() * state_.liquid[i];
    sum[1] += sections_[i].volume() * state_.gas[i];
  }
  return sum;
}

}  // namespace wavy::line
