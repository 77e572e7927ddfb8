#include "line/model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>

#include "base/error.hpp"

namespace wavy::line {
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
  assert(dt > 0);
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

std::array<double, 2> Model::held() const {
  std::array<double, 2> sum{};
  for (std::size_t i = 0; i < sections_.size(); ++i) {
    sum[0] += sections_[i].volume() * state_.liquid[i];
    sum[1] += sections_[i].volume() * state_.gas[i];
  }
  return sum;
}

}  // namespace wavy::line
