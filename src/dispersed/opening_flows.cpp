#include "dispersed/opening_flows.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

#include "dispersed/parts.hpp"

namespace wavy::dispersed {
namespace {

/// What has left of a phase through degassing surfaces, less what has come back; of gas nothing does [m^D].
template <int D>
double spilled(const Boundary<D>& boundary, const Settings<D>& settings, std::size_t phase) {
  if (settings.phases[phase].gas) return 0;
  double volume = 0;
  for (const std::size_t opening : settings.degassing)
    volume += boundary.throughput()[opening].out[phase] - boundary.throughput()[opening].in[phase];
  return std::max(volume, 0.0);
}
template <int D>
double spilled(const Boundary<D>& boundary, const Settings<D>& settings) {
  double volume = 0;
  for (std::size_t i = 0; i < settings.phases.size(); ++i) volume += spilled(boundary, settings, i);
  return volume;
}

/// Degassing surfaces, on which phases have the velocities that forces and drag give them: gas passes as fast as it
/// moves against what else is there.
template <int D>
void degas(const Grid<D>& grid, const Boundary<D>& boundary, const Settings<D>& settings, State<D>& state) {
  double surplus = 0;  // what comes in elsewhere [m^D/s]
  double gas = 0;      // what would leave [m^D/s]
  double area = 0;
  for (const auto& inlet : boundary.wall_inlets())
    surplus += inlet.speed * inlet.area * grid.geometry(inlet.block).cell_volume;
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      double& phi = state.face_u[d].block(face.block)[face.face];
      if (!settings.degasses(face.opening)) {
        surplus += boundary.sign(face) * phi * face.whole_area;
        continue;
      }
      double rest = 0;  // velocity and fraction of all but gas
      double held = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i) {
        if (settings.phases[i].gas) continue;
        const double a = std::max(state.a[i].block(face.block)[face.inside], 0.0);
        rest += a * state.phase_u[i][d].block(face.block)[face.face];
        held += a;
      }
      rest = held > 0 ? rest / held : 0.0;
      phi = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i) {
        double& U = state.phase_u[i][d].block(face.block)[face.face];
        const double outwards = settings.phases[i].gas ? -boundary.sign(face) * (U - rest) : 0.0;
        U = -boundary.sign(face) * std::max(outwards, 0.0);
        phi += face.area * std::max(state.a[i].block(face.block)[face.inside], 0.0) * U;
      }
      gas += std::abs(phi) * face.whole_area;
      area += face.area * face.whole_area;
    }
  if (boundary.holds_pressure()) return;
  // A full vessel: what gas does not make room for spills over. Where more gas leaves than comes in, what has spilled
  // comes back; when all of that is back, no more gas leaves than what comes in makes room for.
  const double share = gas > surplus && !(spilled(boundary, settings) > 0) ? std::max(surplus, 0.0) / gas : 1.0;
  const double spills = (surplus - share * gas) / area;  // below 0: comes back [m/s]
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      if (!settings.degasses(face.opening)) continue;
      double& phi = state.face_u[d].block(face.block)[face.face];
      phi = share * phi - boundary.sign(face) * face.area * spills;
      for (auto& U : state.phase_u) {
        double& own = U[d].block(face.block)[face.face];
        own = share * own - boundary.sign(face) * spills;
      }
    }
}

}  // namespace

template <int D>
void shares_through(const Boundary<D>& boundary, const Settings<D>& settings, const State<D>& state, int axis,
                    const OpeningFace<D>& face, std::array<double, most_phases>& share) {
  const auto phases = settings.phases.size();
  const int sign = boundary.sign(face);
  if (sign * state.face_u[axis].block(face.block)[face.face] > 0) {
    const double back = settings.degasses(face.opening) ? spilled(boundary, settings) : 0.0;
    for (std::size_t i = 0; i < phases && back > 0; ++i) share[i] = spilled(boundary, settings, i) / back;
    if (back > 0) return;
    for (std::size_t i = 0; i < phases; ++i)
      share[i] = boundary.incoming_share(face, i, state.a[i].block(face.block)[face.inside]);
    return;
  }
  const double phi = state.face_u[axis].block(face.block)[face.face];
  const bool comes_back =
      boundary.openings()[face.opening].outside == Opening<D>::Outside::inside || settings.degasses(face.opening);
  double own = 0;  // flow by the phases' velocities
  double out = 0;  // of those that go out
  for (std::size_t i = 0; i < phases; ++i) {
    const double a = std::max(state.a[i].block(face.block)[face.inside], 0.0);
    const double outwards = -sign * state.phase_u[i][axis].block(face.block)[face.face];
    share[i] = a * (comes_back ? outwards : std::max(outwards, 0.0));
    own += a * outwards;
    out += share[i];
  }
  for (std::size_t i = 0; i < phases; ++i) {
    const double a = state.a[i].block(face.block)[face.inside];
    // Where it goes on outside as inside, a phase may move inwards against the others.
    if (comes_back)
      share[i] = phi == 0 ? a : (a * std::abs(phi) + face.area * (share[i] - a * own)) / std::abs(phi);
    else
      share[i] = out > 0 ? share[i] / out : a;
  }
}

template <int D>
void set_openings(const Grid<D>& grid, const Boundary<D>& boundary, const Settings<D>& settings, double time,
                  bool flows, State<D>& state, Faces<D>& inverse_density) {
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d) {
      boundary.close(grid, b, d, state.face_u[d].block(b));
      boundary.close(grid, b, d, inverse_density[d].block(b));
      for (auto& U : state.phase_u) boundary.close(grid, b, d, U[d].block(b));
    }
  });
  if (boundary.closed()) return;
  std::vector<double> free;  // what passes by forces and drag alone, face by face
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) free.push_back(state.face_u[d].block(face.block)[face.face]);
  boundary.set_faces(grid, time, state.u[0], state.face_u);
  auto own_flow = free.begin();
  for (int d = 0; d < D; ++d)
    for (const auto& face : boundary.faces(d)) {
      const auto& opening = boundary.openings()[face.opening];
      double& phi = state.face_u[d].block(face.block)[face.face];
      const double without_pressure = *own_flow++;
      if (!opening.flow) {
        phi = without_pressure;
        continue;
      }
      inverse_density[d].block(face.block)[face.face] = 0;
      if (!flows) phi = 0;
      if (settings.degasses(face.opening)) continue;
      const double through = phi / face.area;
      if (boundary.sign(face) * through > 0) {
        const auto* fractions =
            face.opening < settings.inlet_fractions.size() && !settings.inlet_fractions[face.opening].empty()
                ? &settings.inlet_fractions[face.opening]
                : nullptr;
        for (std::size_t i = 0; i < state.a.size(); ++i) {
          const double share = opening.composition[i];
          const double fraction = fractions == nullptr ? share : (*fractions)[i];
          state.phase_u[i][d].block(face.block)[face.face] = fraction > 0 ? through * share / fraction : through;
        }
        continue;
      }
      double own = 0;
      for (std::size_t i = 0; i < state.a.size(); ++i)
        own += state.a[i].block(face.block)[face.inside] * state.phase_u[i][d].block(face.block)[face.face];
      for (auto& U : state.phase_u) U[d].block(face.block)[face.face] += through - own;
    }
  if (flows && !settings.degassing.empty()) degas(grid, boundary, settings, state);
}

template <int D>
FluidAtOpenings<D> fluid_at_openings(const Boundary<D>& boundary, const Settings<D>& settings, const State<D>& state,
                                     const Vec<D>& G) {
  const auto densities = [&boundary, &settings, &state](const OpeningFace<D>& face) {
    DensitiesAtOpening at{.inside = density(settings, state, face.block, face.inside), .column = 0, .incoming = 0};
    for (std::size_t i = 0; i < state.a.size(); ++i)
      at.incoming += settings.phases[i].fluid.density *
                     boundary.incoming_share(face, i, state.a[i].block(face.block)[face.inside]);
    const std::size_t column = boundary.openings()[face.opening].column_phase;
    at.column = boundary.column_density(face, at.inside, settings.phases[column].fluid.density,
                                        settings.phases.back().fluid.density);
    return at;
  };
  return {.G = G, .air_density = settings.outside_density, .densities = densities};
}

template void shares_through<2>(const Boundary<2>&, const Settings<2>&, const State<2>&, int, const OpeningFace<2>&,
                                std::array<double, most_phases>&);
template void set_openings<2>(const Grid<2>&, const Boundary<2>&, const Settings<2>&, double, bool, State<2>&,
                              Faces<2>&);
template FluidAtOpenings<2> fluid_at_openings<2>(const Boundary<2>&, const Settings<2>&, const State<2>&,
                                                 const Vec<2>&);
template void shares_through<3>(const Boundary<3>&, const Settings<3>&, const State<3>&, int, const OpeningFace<3>&,
                                std::array<double, most_phases>&);
template void set_openings<3>(const Grid<3>&, const Boundary<3>&, const Settings<3>&, double, bool, State<3>&,
                              Faces<3>&);
template FluidAtOpenings<3> fluid_at_openings<3>(const Boundary<3>&, const Settings<3>&, const State<3>&,
                                                 const Vec<3>&);

}  // namespace wavy::dispersed
