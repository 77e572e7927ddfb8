// How the phases flow through a face: (L2) and (L3) as velocities that depend on the pressures on its two sides (L4).
#include <algorithm>
#include <cmath>

#include "line/model.hpp"

namespace wavy::line {
namespace {

/// 0 below `low`, 1 above `high`, smooth between.
double smooth_step(double x, double low, double high) {
  const double s = std::clamp((x - low) / (high - low), 0.0, 1.0);
  return s * s * (3 - 2 * s);
}

}  // namespace

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

/// Shares, masses and speeds on a face before the step.
struct Model::FaceFlow {
  double filled = 0, gas = 0;       // shares, neither of them 0
  double m_l = 0, m_g = 0;          // mass per volume of pipe [kg/m3]
  double speed_l = 0, speed_g = 0;  // [m/s]
  double then_l = 0, then_g = 0;    // momentum over dt, with what comes along from the face upstream [N/m3]
  double dt = 0;
  double per_length = 0;  // 1 / distance between the middles [1/m]
};

Model::FaceFlow Model::flow_before(std::size_t face, const Closure& c, double dt) const {
  const auto& here = sections_[face];
  const bool last = here.next == Section::outlet;
  constexpr double least = 1e-7;
  const double filled = std::clamp(c.holdup, least, 1 - least);
  const double gas = 1 - filled;
  const double m_l = filled * c.media.liquid_density;
  const double m_g = gas * c.media.gas_density;
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
  return {filled, gas, m_l, m_g, speed_l, speed_g, then_l, then_g, dt, 1 / c.length};
}

/// (L2) of both phases, where they flow apart.
void Model::add_layers(const Closure& c, const FaceFlow& flow, Face& face) {
  const auto& [filled, gas, m_l, m_g, speed_l, speed_g, then_l, then_g, dt, per_length] = flow;
  const Friction r = c.film ? annular_friction(c.bore, c.media, filled, speed_l, speed_g)
                            : layered_friction(c.bore, c.media, filled, speed_l, speed_g, true);
  const double climb = c.film ? c.climb : c.level_climb;
  const double ll = m_l / dt + r.wall_liquid + r.between;
  const double gg = m_g / dt + r.wall_gas + r.between;
  const double det = ll * gg - r.between * r.between;
  const double right_l = then_l - m_l * gravity * climb * per_length;
  const double right_g = then_g - m_g * gravity * climb * per_length;
  const double share = 1 - c.drift_share;
  face.film_a[0] += share * (gg * right_l + r.between * right_g) / det;
  face.film_a[1] += share * (ll * right_g + r.between * right_l) / det;
  face.film_b[0] += share * (gg * filled + r.between * gas) * per_length / det;
  face.film_b[1] += share * (ll * gas + r.between * filled) * per_length / det;
}

/// (L3): gas that drifts through a mixture with one balance.
void Model::add_drift(const Closure& c, const FaceFlow& flow, double valve_loss, Face& face) {
  const auto& [filled, gas, m_l, m_g, speed_l, speed_g, then_l, then_g, dt, per_length] = flow;
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
  face.film_a[0] += c.drift_share * (l_j * j_a + l_d);
  face.film_a[1] += c.drift_share * (C * j_a + d);
  face.film_b[0] += c.drift_share * l_j * j_b;
  face.film_b[1] += c.drift_share * C * j_b;
}

/// In a slug both phases move alike; where one lies beside the face, so does that share of what is between the middles.
void Model::add_slug(std::size_t face, const Closure& c, double dt) {
  Face& f = faces_[face];
  const double rho_l = c.media.liquid_density;
  const double rho_g = c.media.gas_density;
  const double per_length = 1 / c.length;
  const double within = covered_length_[face];
  if (within <= 0 && f.covered <= 0) return;
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

void Model::set_face(std::size_t face, double dt, double time) {
  Face& f = faces_[face];
  const auto& here = sections_[face];
  const bool last = here.next == Section::outlet;

  double valve_loss = 0;  // (L6) over rho |j| / 2
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

  const FaceFlow flow = flow_before(face, c, dt);
  f.film_a = f.film_b = {};
  if (c.drift_share < 1) add_layers(c, flow, f);
  if (c.drift_share > 0) add_drift(c, flow, valve_loss, f);
  f.slug_a = f.film_a;
  f.slug_b = f.film_b;
  add_slug(face, c, dt);
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
  // A slug carries no more gas than its section has.
  const double held = f.covered > 0 ? std::max(slug_holdup(flux_before(face)), holdup(face)) : 1.0;
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

}  // namespace wavy::line
