#include "run/estimates.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>

#include "base/error.hpp"
#include "base/text.hpp"

namespace wavy {

template <int D>
std::vector<std::array<double, 2>> drain_curve(const Setup<D>& setup, const VesselModel<D>& model,
                                               std::size_t opening) {
  const Grid<D>& grid = model.grid();
  const auto& given = setup.openings[opening];
  const double g = -setup.gravity[D - 1](0);
  const bool in_floor = given.opening.side == 0 && given.opening.axis == D - 1;
  const bool dammed = !setup.inserts.empty() || !setup.thin_walls.empty();
  const bool in_side = given.opening.axis != D - 1 && !dammed;
  // A level that is balanced, a back pressure or a feed keeps what would drain.
  const bool free = given.given == OpeningSetup<D>::Given::pressure && !given.balances && given.value.is_constant() &&
                    given.value(0) == 0 && given.opening.outside == Opening<D>::Outside::air;
  const bool fed = std::ranges::any_of(setup.openings, [](const auto& other) {
    return other.given != OpeningSetup<D>::Given::pressure && other.given != OpeningSetup<D>::Given::level &&
           !(other.value.is_constant() && other.direction * other.value(0) <= 0);
  });
  const bool covered = std::ranges::any_of(setup.thin_walls, [](const auto& wall) { return wall.normal[D - 1] != 0; });
  if (!free || fed || covered || !(in_floor || in_side) || !(g > 0)) return {};
  // Open and liquid volume of every layer of cells.
  const auto layers = static_cast<std::size_t>(grid.cells()[D - 1]);
  std::vector<double> open(layers);
  double liquid = 0;
  const CellNumber liquid_share = model.share(0, 1);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double open_volume = OpenVolumes<D>(model.space(), b)[o];
    open[static_cast<std::size_t>(cell[D - 1])] += open_volume * grid.cell_volume() * setup.thickness;
    liquid += open_volume * liquid_share(b, o) * grid.cell_volume() * setup.thickness;
  });
  const auto corners = model.boundary().corners(opening, grid);
  const double outlet = 0.5 * (corners[0][D - 1] + corners[1][D - 1]);
  const double area = model.boundary().area(opening) * setup.thickness;
  const double h = grid.spacing()[D - 1];
  // Where the way down is narrower than the opening, or the opening as wide as the vessel, something else rules.
  double narrowest = 1e300;
  double widest = 0;
  double above = liquid;
  for (std::size_t k = 0; k < layers && above > 0; ++k) {
    above -= open[k];
    if (grid.lower()[D - 1] + (static_cast<double>(k) + 1) * h < outlet) continue;
    narrowest = std::min(narrowest, open[k] / h);
    widest = std::max(widest, open[k] / h);
  }
  constexpr double as_wide = 0.5;
  if ((in_floor && narrowest < 0.9 * area) || area > as_wide * widest) return {};
  // The layers that hold it, as if it stood level; from the top down.
  std::vector<std::array<double, 2>> held;  // volume, and level of its upper side
  for (std::size_t k = 0; k < layers && liquid > 0; ++k) {
    const double volume = std::min(open[k], liquid);
    liquid -= volume;
    const double share = open[k] > 0 ? volume / open[k] : 0.0;
    held.push_back({volume, grid.lower()[D - 1] + (static_cast<double>(k) + share) * h});
  }
  std::vector<std::array<double, 2>> curve;
  double time = 0;
  for (auto layer = held.rbegin(); layer != held.rend(); ++layer) {
    const auto& [volume, level] = *layer;
    const double below = layer + 1 == held.rend() ? grid.lower()[D - 1] : (*(layer + 1))[1];
    const double from = level - outlet;
    const double to = std::max(below - outlet, 0.0);
    if (from <= to) break;
    if (curve.empty()) curve.push_back({0.0, level});
    // The mean of 1 / sqrt(height) over the layer.
    time += volume / (area * std::sqrt(2 * g)) * 2 / (std::sqrt(from) + std::sqrt(to));
    curve.push_back({time, below});
  }
  return curve;
}

template <int D>
std::optional<double> given_flow(const Setup<D>& setup, const VesselModel<D>& model, std::size_t opening, double time) {
  using Given = typename OpeningSetup<D>::Given;
  const auto& given = setup.openings[opening];
  if (given.given == Given::pressure || given.given == Given::level || given.given == Given::degassing)
    return std::nullopt;
  return model.boundary().openings()[opening].flow(time) * setup.thickness;
}

template <int D>
double needed_memory(const Setup<D>& setup) {
  // Arrays of doubles per cell that the model holds, pad layers aside, and of its pressure solver; more where walls cut
  // the grid.
  constexpr double arrays_per_cell = D == 2 ? 38 : 52;
  constexpr double arrays_of_snapshot = 36;  // of cells alone, while one is written: more than a checkpoint takes
  constexpr double arrays_for_gradients = D + 2;
  constexpr double arrays_for_walls = 20 + D + arrays_for_gradients;
  constexpr double arrays_for_means = 4 * (5 + D) + 2;  // RunningMeans, twice while a checkpoint is written
  constexpr double arrays_for_turbulence = 27 + 2 * D;  // what is archived counted twice
  constexpr double program = 5.6e7;
  const Partition<D> cells = partition<D>(minus<D>(setup.upper, setup.lower), setup.cell_size);
  const Layout<D> layout(cells.block_cells);
  double count = 1;
  for (const int n : cells.cells) count *= n;
  const double padded = static_cast<double>(layout.size) / static_cast<double>(product(layout.cells));
  // The Eulerian model holds more of each phase and pair.
  constexpr double arrays_of_phase = 20 + 16 * D;
  constexpr double arrays_of_pair = 3 + D;
  const double of_model = setup.eulerian ? (cuts_the_grid(setup) ? arrays_for_gradients : 0.0) +
                                               arrays_of_phase * static_cast<double>(setup.eulerian->phases.size()) +
                                               arrays_of_pair * static_cast<double>(setup.eulerian->pairs.size())
                                         : 0.0;
  const bool turbulent = setup.turbulence.law != nullptr;
  const double of_turbulence = turbulent ? arrays_for_turbulence : 0.0;
  // Of the phases that carry tracers: contents, fluxes and work arrays.
  constexpr double arrays_for_tracers = 11 + 2 * D;
  const double of_tracers =
      setup.tracers.empty() ? 0.0 : arrays_for_tracers + 3 * static_cast<double>(setup.tracers.size());
  const double arrays = arrays_per_cell + of_tracers + of_model + of_turbulence +
                        (cuts_the_grid(setup) ? arrays_for_walls : 0.0) +
                        (setup.schedule.means_from ? arrays_for_means : 0.0);
  return 8 * (arrays * padded + arrays_of_snapshot) * count + program;
}

template <int D>
void require_memory(const Setup<D>& setup) {
  const double needed = needed_memory(setup);
  const double there = static_cast<double>(sysconf(_SC_PHYS_PAGES)) * static_cast<double>(sysconf(_SC_PAGE_SIZE));
  if (needed <= there) return;
  const double larger = std::pow(needed / there, 1.0 / D);
  throw input_error(setup.grid_place,
                    fmt::format("a cell of {} takes {:.3g} GB of memory; this machine has {:.3g} GB",
                                quantity(setup.cell_size, "m"), needed / 1e9, there / 1e9),
                    fmt::format("choose a cell of {} or more, or a machine with more memory",
                                quantity(1.1 * larger * setup.cell_size, "m", 2)));
}

template <int D>
std::vector<BodiesAlone> bodies_alone(const Setup<D>& setup) {
  std::vector<BodiesAlone> result;
  double pull = 0;
  for (int d = 0; d < D; ++d) pull += std::pow(setup.gravity[d](0), 2);
  if (pull == 0) return result;
  const auto& phases = setup.eulerian->phases;
  for (const auto& pair : setup.eulerian->pairs) {
    const auto first = static_cast<std::size_t>(pair.first);
    const auto second = static_cast<std::size_t>(pair.second);
    for (const auto& [body, carrier] : {std::pair{first, second}, std::pair{second, first}}) {
      if (!phases[carrier].carrier) continue;
      BodiesAlone one{body, carrier, body == first ? pair.first_in_second : pair.second_in_first,
                      DispersedBodies{.carrier_density = phases[carrier].fluid.density,
                                      .carrier_viscosity = phases[carrier].fluid.viscosity,
                                      .density = phases[body].fluid.density,
                                      .viscosity = phases[body].fluid.viscosity,
                                      .surface_tension = pair.surface_tension,
                                      .diameter = phases[body].diameter,
                                      .gravity = std::sqrt(pull)}};
      one.bodies.slip = terminal_slip(one.drag, one.bodies);
      result.push_back(one);
    }
  }
  return result;
}

template std::vector<BodiesAlone> bodies_alone<2>(const Setup<2>&);
template std::vector<BodiesAlone> bodies_alone<3>(const Setup<3>&);
template double needed_memory<2>(const Setup<2>&);
template double needed_memory<3>(const Setup<3>&);
template void require_memory<2>(const Setup<2>&);
template void require_memory<3>(const Setup<3>&);
template std::vector<std::array<double, 2>> drain_curve<2>(const Setup<2>&, const VesselModel<2>&, std::size_t);
template std::vector<std::array<double, 2>> drain_curve<3>(const Setup<3>&, const VesselModel<3>&, std::size_t);
template std::optional<double> given_flow<2>(const Setup<2>&, const VesselModel<2>&, std::size_t, double);
template std::optional<double> given_flow<3>(const Setup<3>&, const VesselModel<3>&, std::size_t, double);

}  // namespace wavy
