#include "run/ledger.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {

void RunLedger::count_step(double dt, const std::string& limit) {
  ++steps;
  ++limits[limit];
  smallest_step = steps == 1 ? dt : std::min(smallest_step, dt);
  largest_step = std::max(largest_step, dt);
}

void RunLedger::archive(Archive& a) {
  a("steps", steps);
  a("smallest_step", smallest_step);
  a("largest_step", largest_step);
  std::vector<std::string> names;
  for (const auto& [name, count] : limits) names.push_back(name);
  a("limits", names);
  for (const auto& name : names) a("steps by " + name, limits[name]);
  a("cells", cells);
  a("wall_seconds", wall_seconds);
  a("output_seconds", output_seconds);
}

void VesselLedger::archive(Archive& a) {
  RunLedger::archive(a);
  a("volume_start", std::span(volume_start));
  a("tracers_start", tracers_start);
  a("smeared", smeared);
  a("greatest_smeared", greatest_smeared);
  a("greatest_divergence", greatest_divergence);
  a("volume_correction", volume_correction);
  a("kinetic_energy", kinetic_energy);
  a("greatest_speed", greatest_speed);
  a("pressure_iterations", pressure_iterations);
  a("most_pressure_iterations", most_pressure_iterations);
  a("unconverged", unconverged);
  a("viscous_iterations", viscous_iterations);
  a("part_seconds", part_seconds);
}

void LineLedger::archive(Archive& a) {
  RunLedger::archive(a);
  a("mass_start", mass_start);
  a("iterations", iterations);
  a("greatest_volume_error", greatest_volume_error);
}

double LineLedger::drift(std::size_t phase) const {
  const double expected = mass_start[phase] + mass_in[phase] - mass_out[phase];
  const double size = std::max({mass_start[phase], mass_in[phase], 1e-300});
  return (mass_now[phase] - expected) / size;
}

double VesselLedger::tracer_drift(std::size_t tracer) const {
  const Tracer& one = tracers[tracer];
  const double came = tracers_start[tracer] + one.in + one.dosed + std::max(one.dissolved, 0.0);
  const double expected = came - one.out + std::min(one.dissolved, 0.0);
  return came > 0 ? (one.now - expected) / came : one.now;
}

double VesselLedger::residence(std::size_t phase) const {
  return volume_out[phase] > 0 && volume_in[phase] > 0 ? volume_now[phase] * ended_at / volume_out[phase] : 0;
}

double VesselLedger::drift(int phase) const {
  const auto p = static_cast<std::size_t>(phase);
  const double expected = volume_start[p] + volume_in[p] - volume_out[p];
  // Of what was handled: what is left in a drained vessel is next to nothing.
  const double size = std::max(volume_start[p], volume_in[p]);
  return size > 0 ? (volume_now[p] - expected) / size : volume_now[p];
}

double VesselLedger::nanoseconds_per_cell_and_step() const {
  const double work = static_cast<double>(cells) * static_cast<double>(steps);
  return work > 0 ? 1e9 * (wall_seconds - output_seconds) / work : 0;
}

template <int D>
double smeared_share(const Grid<D>& grid, const OpenSpace<D>& space, Cells<D>& F) {
  const Layout<D>& layout = grid.layout();
  fill_halo(grid, F, 1, all_walls<D>(Mirror::even));
  const auto crosses = [&](const double* f) {
    bool low = false;
    bool high = false;
    for_shifts<D>(1, [&](const Index<D>& shift, int) { (f[layout.offset(shift)] < 0.5 ? low : high) = true; });
    return low && high;
  };
  const auto total = [&](bool smeared_only) {
    return sum_blocks(grid, [&](int b) {
      const double* f = F.block(b);
      const OpenVolumes<D> open_volumes(space, b);

      const double* at_wall = space.is_uncut(b) ? nullptr : space.at_wall().block(b);
      double sum = 0;
      for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
        for (int i = 0; i < n; ++i) {
          const double value = f[o + i];
          const bool mixed = value > 1e-6 && value < 1 - 1e-6 && (at_wall == nullptr || at_wall[o + i] == 0);
          if (!smeared_only || (mixed && !crosses(f + o + i))) sum += value * open_volumes[o + i];
        }
      });
      return sum;
    });
  };
  const double all = total(false);
  return all > 0 ? total(true) / all : 0;
}

template double smeared_share<2>(const Grid<2>&, const OpenSpace<2>&, Cells<2>&);
template double smeared_share<3>(const Grid<3>&, const OpenSpace<3>&, Cells<3>&);

}  // namespace wavy
