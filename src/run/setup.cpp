#include "run/setup.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.hpp"
#include "base/text.hpp"
#include "flow/wall_elements.hpp"
#include "mesh/cover.hpp"
#include "run/agitators.hpp"
#include "run/laying.hpp"

namespace wavy {

template <int D>
double filled_up_to(const Setup<D>& setup) {
  // The vessel is full of the lightest carrier, which may be the densest phase.
  const auto carries = [](const auto& phase) { return phase.carrier; };
  if (setup.eulerian && std::ranges::count_if(setup.eulerian->phases, carries) == 1) return setup.upper[D - 1];
  double top = setup.lower[D - 1];
  for (const auto& fill : setup.fills) {
    if (fill.phase != 0) continue;
    if (const auto* level = std::get_if<BelowLevel<D>>(&fill.shape); level != nullptr && !fill.volume)
      top = std::max(top, level->height);
    if (const auto* box = std::get_if<AlignedBox<D>>(&fill.shape)) top = std::max(top, box->upper[D - 1]);
  }
  return top;
}

template <int D>
bool submerged(const Setup<D>& setup, const OpeningSetup<D>& given) {
  const auto& opening = given.opening;
  if (!given.wall.empty() || opening.axis == D - 1) return false;
  double top = setup.size[D - 1];
  if (opening.within) top = opening.within->upper[D - 1];
  if (opening.round) top = opening.round->centre[D - 1] + opening.round->radius;
  return top <= filled_up_to(setup);
}

template <int D>
Grid<D> make_grid(const Setup<D>& setup) {
  return grid_over<D>(setup.lower, setup.upper, setup.cell_size, setup.periodic, turn_of(setup));
}

template <int D>
OpenSpace<D> make_space(const Setup<D>& setup, const Grid<D>& grid) {
  const bool round = setup.symmetry == Symmetry::round;
  if (!cuts_the_grid(setup)) return {};
  OpenSpace<D> space(grid, setup.vessel ? &*setup.vessel : nullptr, setup.inserts, setup.thin_walls, round);
  if (setup.symmetry == Symmetry::sector)
    space.set_mirrors(grid, [&](const Vec<D>& place) {
      const double mirror = std::abs(beyond_sector(setup, place));
      double wall = setup.whole ? std::abs(setup.whole->distance(place)) : 1e300;
      for (const auto& insert : setup.inserts) wall = std::min(wall, std::abs(insert.distance(place)));
      return mirror < wall;
    });
  return space;
}

template <int D>
std::size_t nearest_solid(const Setup<D>& setup, const std::type_identity_t<Vec<D>>& place) {
  double least = 1e300;
  std::size_t nearest = 0;
  const auto offer = [&](const Solid<D>& solid, std::size_t number) {
    const double distance = std::abs(solid.distance(place));
    if (distance >= least) return;
    least = distance;
    nearest = number;
  };
  for (std::size_t i = 0; i < setup.inserts.size(); ++i) offer(setup.inserts[i], i);
  if (setup.vessel) offer(*setup.vessel, setup.inserts.size());
  return nearest;
}

namespace {

/// Which motion the solid's wall next to a place has.
template <int D>
std::function<int(const Vec<D>&)> motion_of_solids(const Setup<D>& setup) {
  using Of = NamedWall::Of;
  constexpr int none = MovingWalls<D>::none;
  int of_vessel = none;
  std::vector<int> of_inserts(setup.inserts.size(), none);
  std::vector<int> of_thin_walls(setup.thin_walls.size(), none);
  for (std::size_t i = 0; i < setup.moving_walls.size(); ++i) {
    const auto& wall = setup.moving_walls[i];
    if (wall.of == Of::side) continue;
    (wall.of == Of::vessel   ? of_vessel
     : wall.of == Of::insert ? of_inserts[wall.number]
                             : of_thin_walls[wall.number]) = static_cast<int>(i);
  }
  return [=, vessel = setup.vessel, inserts = setup.inserts, thin_walls = setup.thin_walls](const Vec<D>& place) {
    double least = 1e300;
    int motion = none;
    const auto offer = [&](double distance, int number) {
      if (std::abs(distance) >= least) return;
      least = std::abs(distance);
      motion = number;
    };
    if (vessel) offer(vessel->distance(place), of_vessel);
    for (std::size_t i = 0; i < inserts.size(); ++i) offer(inserts[i].distance(place), of_inserts[i]);
    for (std::size_t i = 0; i < thin_walls.size(); ++i)
      if (thin_walls[i].extent.distance(place) < 0)
        offer(dot<D>(minus<D>(place, thin_walls[i].point), thin_walls[i].normal), of_thin_walls[i]);
    return motion;
  };
}

template <int D>
MovingWalls<D> moving_walls(const Setup<D>& setup) {
  using Of = NamedWall::Of;
  MovingWalls<D> result;
  if (setup.moving_walls.empty()) return result;
  result.solid = motion_of_solids(setup);
  for (const auto& wall : setup.moving_walls) {
    const auto number = static_cast<int>(result.motions.size());
    result.motions.push_back([wall](double t) {
      RigidMotion<D> now;
      for (std::size_t d = 0; d < D; ++d) now.velocity[d] = wall.velocity[d](t);
      now.turning[static_cast<std::size_t>(wall.axis)] = wall.turning(t);
      now.about = wall.about;
      return now;
    });
    for (int axis = 0; axis < D; ++axis)
      for (int side = 0; side < 2; ++side)
        if (wall.of == Of::vessel || (wall.of == Of::side && wall.side == std::array{axis, side})) {
          auto& own = result.sides[static_cast<std::size_t>(axis)][static_cast<std::size_t>(side)];
          if (wall.of == Of::side || own == MovingWalls<D>::none) own = number;
        }
  }
  return result;
}

/// Throws an input error where a wall would have to push the fluid aside.
template <int D>
void check_moving_walls(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space) {
  const auto elements = find_wall_elements<D>(grid, space, {setup.walls, setup.solid_walls}, moving_walls(setup), {});
  for (std::size_t i = 0; i < setup.moving_walls.size(); ++i) {
    const auto& wall = setup.moving_walls[i];
    // Each part of the motion by itself, as if it were never 0.
    std::vector<RigidMotion<D>> parts;
    for (std::size_t d = 0; d < D; ++d)
      if (!wall.velocity[d].is_constant() || wall.velocity[d](0) != 0) {
        parts.emplace_back();
        parts.back().velocity[d] = 1;
      }
    if (!wall.turning.is_constant() || wall.turning(0) != 0) {
      parts.emplace_back();
      parts.back().turning[static_cast<std::size_t>(wall.axis)] = 1;
      parts.back().about = wall.about;
    }
    for (const auto& part : parts) {
      const auto met = meet_wall(elements, static_cast<int>(i), part);
      if (met.greatest <= 0)
        throw input_error(wall.place, fmt::format("the moving wall '{}' touches no fluid", wall.name),
                          "a side counts where the vessel's box ends there; for a vessel of another shape write wall "
                          "= \"vessel\"");
      constexpr double smooth = 0.05;
      const double cells = grid.smallest_spacing() * (part.velocity == Vec<D>{} ? 1 / met.greatest : 0.0);
      if (met.across > (smooth + cells) * met.greatest)
        throw input_error(
            wall.place,
            fmt::format("the wall '{}' does not move along itself near ({:.4g}, {:.4g}{}) m: it would "
                        "push the fluid aside",
                        wall.name, met.place[0], met.place[1], D == 3 ? fmt::format(", {:.4g}", met.place[D - 1]) : ""),
            "only bodies of revolution can turn, about their own axis, and only straight walls can "
            "slide, along themselves");
    }
  }
}

/// Gravity less the acceleration of the vessel, of time.
template <int D>
std::function<Vec<D>(double)> body_force_of(const Setup<D>& setup) {
  return [gravity = setup.gravity, acceleration = setup.acceleration](double t) {
    Vec<D> G;
    for (std::size_t d = 0; d < D; ++d) G[d] = gravity[d](t) - acceleration[d](t);
    return G;
  };
}

/// Distance from the walls of the box, where it is the vessel, of the vessel's shape, of inserts and of walls thinner
/// than a cell.
template <int D>
std::function<double(const Vec<D>&)> distance_from_walls(const Setup<D>& setup, bool that_hold) {
  std::array<std::array<bool, 2>, D> counts{};
  for (int d = 0; d < D; ++d)
    for (int side = 0; side < 2; ++side) {
      const bool open = std::ranges::any_of(setup.openings, [&](const auto& one) {
        return one.on_side() && one.opening.axis == d && one.opening.side == side && !one.opening.within &&
               !one.opening.round;
      });
      counts[static_cast<std::size_t>(d)][static_cast<std::size_t>(side)] =
          !setup.vessel && !setup.periodic[static_cast<std::size_t>(d)] && !open &&
          !(side == 0 && mirrored(setup, d)) &&
          !(that_hold && setup.walls[static_cast<std::size_t>(d)][static_cast<std::size_t>(side)] == Wall::slip);
    }
  const bool solids = !that_hold || setup.solid_walls != Wall::slip;
  const auto& whole = setup.whole ? setup.whole : setup.vessel;  // a sector's second mirror is no wall
  return [=, size = setup.size, vessel = whole, inserts = setup.inserts, thin = setup.thin_walls](const Vec<D>& place) {
    double nearest = vessel && solids ? -vessel->distance(place) : 1e300;
    if (solids)
      for (const auto& insert : inserts) nearest = std::min(nearest, insert.distance(place));
    for (const auto& wall : thin) {
      const double across = std::abs(dot<D>(minus<D>(place, wall.point), wall.normal));
      nearest = std::min(nearest, std::max(across, wall.extent.distance(place)));
    }
    for (std::size_t d = 0; d < D; ++d) {
      if (counts[d][0]) nearest = std::min(nearest, place[d]);
      if (counts[d][1]) nearest = std::min(nearest, size[d] - place[d]);
    }
    return nearest;
  };
}

/// Turbulence with what walls and openings say of it.
template <int D>
TurbulenceSettings<D> turbulence_of(const Setup<D>& setup) {
  TurbulenceSettings<D> result = setup.turbulence;
  if (result.law == nullptr) return result;
  result.wall_distance = distance_from_walls(setup, true);
  for (const auto& given : setup.openings) result.inflow.push_back(given.turbulence);
  return result;
}

/// Tracers with what openings bring, per thickness of the grid.
template <int D>
std::vector<TracerSettings<D>> tracers_of(const Setup<D>& setup) {
  auto result = setup.tracers;
  for (std::size_t i = 0; i < result.size(); ++i) {
    for (const auto& given : setup.openings) result[i].inflow.push_back(given.concentrations[i]);
    for (auto& dose : result[i].doses) dose.amount /= setup.thickness;
  }
  return result;
}

/// Throws an input error where the start packs bodies closer than they can be: they could never move again.
template <int D>
void check_packing(const Setup<D>& setup, const dispersed::Model<D>& model) {
  const auto& phases = model.settings().phases;
  double packing = 1;
  for (const auto& phase : phases) packing = std::min(packing, phase.packing);
  if (packing == 1) return;
  for_cells_in_order<D>(model.grid(), [&](int b, std::ptrdiff_t at, const Index<D>&) {
    double held = 0;
    for (std::size_t i = 0; i < phases.size(); ++i)
      if (phases[i].packing < 1) held += model.state().a[i].block(b)[at];
    constexpr double hair = 1e-6;
    if (held > packing * (1 + hair))
      throw input_error(
          setup.fills.empty() ? setup.grid_place : setup.fills.back().place,
          fmt::format("bubbles and drops fill {:.3g} % at ({:.4g}) m at the start, more than their closest packing of "
                      "{:.3g} %",
                      100 * held, fmt::join(cell_middle<D>(model.grid(), b, at), ", "), 100 * packing),
          "give a smaller fill.share, or a larger phase.closest_packing");
  });
}

/// Throws an input error where gas stands over a degassing surface: it could never leave fast enough.
template <int D>
void check_degassing(const Setup<D>& setup, const dispersed::Model<D>& model) {
  const auto& settings = model.settings();
  for (const std::size_t opening : settings.degassing) {
    double gas = 0;
    double area = 0;
    for (int d = 0; d < D; ++d)
      for (const auto& face : model.boundary().faces(d)) {
        if (face.opening != opening) continue;
        area += face.area * face.whole_area;
        for (std::size_t i = 0; i < settings.phases.size(); ++i)
          if (settings.phases[i].gas)
            gas += face.area * face.whole_area * model.state().a[i].block(face.block)[face.inside];
      }
    constexpr double most = 0.5;
    if (gas > most * area)
      throw input_error(setup.openings[opening].place,
                        fmt::format("the degassing surface '{}' lies under gas: {:.3g} % of it",
                                    setup.openings[opening].opening.name, 100 * gas / area),
                        "fill the vessel with liquid up to it; with a gas cap, let the gas out by pressure = \"0 Pa\"");
  }
}

}  // namespace

template <int D>
sharp::Settings<D> model_settings(const Setup<D>& setup) {
  sharp::Settings<D> settings;
  settings.liquid = setup.phases[0].properties;
  settings.gas = setup.phases[1].properties;
  settings.free_surface_only = setup.free_surface_only;
  if (setup.free_surface_only) settings.outside_density = 0;
  settings.contact_angle = setup.pairs[0].contact_angle;
  settings.slip_length = setup.pairs[0].slip_length;
  settings.surface_tension = setup.pairs[0].surface_tension;
  settings.walls = setup.walls;
  settings.solid_walls = setup.solid_walls;
  settings.moving_walls = moving_walls(setup);
  settings.courant = setup.courant;
  settings.projection_tolerance = setup.projection_tolerance;
  settings.body_force = body_force_of(setup);
  return settings;
}

namespace {

/// Calls fn; an error of the input that it throws without a place gets this one.
template <class Fn>
auto at_place(const Place& place, Fn&& fn) {
  try {
    return fn();
  } catch (const Error& error) {
    if (error.fault() != Fault::input || !error.place().file.empty()) throw;
    throw input_error(place, error.problem(), error.remedy());
  }
}

/// Height below which the open volume, thickness included, is `volume` [m3]. The whole height where there is less.
template <int D>
double level_of_volume(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space, double volume) {
  double low = setup.lower[D - 1];
  double high = setup.upper[D - 1];
  const auto below = [&](double level) {
    double sum = 0;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      sum += OpenVolumes<D>(space, b)[o] * covered_share<D>(grid, space, b, o, cell, BelowLevel<D>{level});
    });
    return sum * grid.cell_volume() * setup.thickness;
  };
  constexpr int rounds = 40;
  for (int i = 0; i < rounds; ++i) {
    const double middle = 0.5 * (low + high);
    (below(middle) < volume ? low : high) = middle;
  }
  return 0.5 * (low + high);
}

/// How much of the wall beside a place lies in an opening on the wall of a solid.
template <int D>
std::function<double(const Vec<D>&)> share_of_wall(const Setup<D>& setup, const Grid<D>& grid,
                                                   const OpeningSetup<D>& given) {
  return [copy = setup, own = given.insert, piece = given.piece, h = grid.spacing()](const Vec<D>& place) {
    if (nearest_solid(copy, place) != own) return 0.0;
    if (!piece) return 1.0;
    const Vec<D> lower = along<D>(place, -0.5, h);
    return covered_share<D>(*piece, lower, along<D>(place, 0.5, h));
  };
}

/// The openings with their functions: volume flows over the thickness, or pressures.
template <int D>
std::vector<Opening<D>> make_openings(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space) {
  using Given = typename OpeningSetup<D>::Given;
  std::vector<Opening<D>> result;
  for (const auto& given : setup.openings) {
    Opening<D> opening = given.opening;
    if (!given.wall.empty()) opening.on_wall = share_of_wall(setup, grid, given);
    Opening<D> alone = opening;
    alone.pressure = [](double) { return 0.0; };
    const double area = at_place(given.place, [&] {
      try {
        return Boundary<D>(grid, space, {alone}, setup.phases.size()).area(0);
      } catch (const Error& error) {
        if (setup.symmetry != Symmetry::sector) throw;
        throw input_error({},
                          fmt::format("{} that lies in the computed wedge, from 0 to {:.4g} deg round the middle",
                                      error.problem(), setup.sector * 180 / std::numbers::pi),
                          "an opening stands for itself and its images in all wedges: place one of them in this wedge");
      }
    });

    double rho = 0;
    for (std::size_t p = 0; p < setup.phases.size(); ++p)
      rho += opening.composition[p] * setup.phases[p].properties.density;
    double factor = given.direction;
    if (given.given == Given::speed) {
      factor *= area;
    } else if (given.given == Given::volume_flow) {
      factor /= setup.thickness;
    } else if (given.given == Given::standard_flow) {
      factor *= given.standard_density / (rho * setup.thickness);
    } else if (given.given == Given::mass_flow) {
      factor /= rho * setup.thickness;
    } else if (given.given == Given::vessel_volumes) {
      factor *= open_volume(grid, space);
    }
    if (given.given == Given::pressure)
      opening.pressure = [value = given.value](double t) { return value(t); };
    else if (given.given == Given::level || given.given == Given::degassing)
      opening.flow = [](double) { return 0.0; };  // until the gauge has been read, or gas arrives
    else
      opening.flow = [value = given.value, factor](double t) { return factor * value(t); };
    result.push_back(std::move(opening));
  }
  return result;
}

/// The fills, with levels in place of volumes.
template <int D>
std::vector<Fill<D>> placed_fills(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space) {
  std::vector<Fill<D>> fills = setup.fills;
  for (auto& part : fills) {
    if (!part.volume) continue;
    const double available = open_volume(grid, space) * setup.thickness;
    constexpr double hair = 1e-9;
    if (*part.volume > available * (1 + hair))
      throw input_error(part.place,
                        fmt::format("{} do not fit into the vessel, which has room for {}",
                                    quantity(*part.volume, "m3"), quantity(available, "m3")),
                        "give a smaller volume, or a larger vessel");
    part.shape = BelowLevel<D>{level_of_volume(setup, grid, space, *part.volume)};
  }
  return fills;
}

}  // namespace

template <int D>
std::vector<double> replaced_volumes(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space) {
  const Laying<D> laying(grid, space, placed_fills(setup, grid, space), setup.phases.size(), lightest_carrier(setup));
  std::vector<double> replaced(setup.fills.size());
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double open_volume = OpenVolumes<D>(space, b)[o] * grid.cell_volume() * setup.thickness;
    const auto held = laying.in(b, o, cell);
    for (std::size_t k = 0; k < replaced.size(); ++k) replaced[k] += open_volume * held.replaced[k];
  });
  return replaced;
}

template <int D>
void fill(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space, const std::vector<Cells<D>*>& shares,
          std::vector<Cells<D>>* concentrations) {
  std::vector<typename Laying<D>::Carried> tracers;
  const bool bring_tracers = std::ranges::any_of(
      setup.fills, [](const auto& part) { return part.concentration || !part.concentrations.empty(); });
  if (bring_tracers && concentrations != nullptr)
    for (const auto& tracer : setup.tracers) {
      tracers.push_back({tracer.phase, tracer.start ? tracer.start({}) : 0.0});
      concentrations->emplace_back(grid);
    }
  const Laying<D> laying(grid, space, placed_fills(setup, grid, space), setup.phases.size(), lightest_carrier(setup),
                         tracers);
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const auto held = laying.in(b, o, cell);
    for (std::size_t p = 0; p < shares.size(); ++p) shares[p]->block(b)[o] = held.shares[p];
    for (std::size_t i = 0; i < tracers.size(); ++i)
      if (const double content = held.shares[tracers[i].phase]; content > 0)
        (*concentrations)[i].block(b)[o] = held.amounts[i] / content;
  });
}

namespace {

/// What vessel and inserts leave open, which must be one space.
template <int D>
OpenSpace<D> one_space(const Setup<D>& setup, const Grid<D>& grid) {
  OpenSpace<D> space = make_space(setup, grid);
  if (space.parts().size() > 1) {
    throw input_error(
        setup.vessel_place,
        fmt::format("the vessel falls into {} parts without a way between them; one of them, {:.2g} % "
                    "of the volume, begins at ({:.4g}) m",
                    space.parts().size(), 100 * space.parts()[1], fmt::join(space.part_places()[1], ", ")),
        "leave a gap of at least one cell between inserts and walls, or choose a smaller grid.cell");
  }
  if (!space.is_uncut() && space.open_cells() == 0)
    throw input_error(setup.vessel_place, "vessel and inserts leave no open space", "check the sizes of the inserts");
  return space;
}

/// The velocity of each phase that comes with fills from earlier runs.
template <int D>
void set_velocities(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space,
                    const std::vector<CellVectors<D>*>& u) {
  for (const auto& part : setup.fills) {
    if (!part.velocity) continue;
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
      if (open_share(space, b, o) == 0) return;
      const auto [lower, upper] = cell_corners<D>(grid, cell);
      for (std::size_t p = 0; p < u.size(); ++p) {
        const Vec<D> own = part.velocity(p, lower, upper);
        for (int d = 0; d < D; ++d) (*u[p])[d].block(b)[o] = own[d];
      }
    });
  }
}

}  // namespace

template <int D>
std::unique_ptr<sharp::Model<D>> make_sharp_model(const Setup<D>& setup, const Grid<D>& grid) {
  OpenSpace<D> space = one_space(setup, grid);
  check_moving_walls(setup, grid, space);
  auto openings = make_openings(setup, grid, space);
  sharp::Settings<D> settings = model_settings(setup);
  settings.turbulence = turbulence_of(setup);
  settings.turning = turning_settings(setup);
  settings.tracers = tracers_of(setup);
  settings.transfers = setup.transfers;
  auto model = std::make_unique<sharp::Model<D>>(grid, std::move(settings), std::move(space), openings);
  fill(setup, grid, model->space(), {&model->state().F}, &model->state().tracers);
  set_velocities<D>(setup, grid, model->space(), {&model->state().u});
  return model;
}

template <int D>
std::unique_ptr<dispersed::Model<D>> make_dispersed_model(const Setup<D>& setup, const Grid<D>& grid) {
  OpenSpace<D> space = one_space(setup, grid);
  check_moving_walls(setup, grid, space);
  auto openings = make_openings(setup, grid, space);
  dispersed::Settings<D> settings;
  settings.phases = setup.eulerian->phases;
  settings.pairs = setup.eulerian->pairs;
  settings.walls = setup.walls;
  settings.solid_walls = setup.solid_walls;
  settings.turning = turning_settings(setup);
  settings.body_force = body_force_of(setup);
  settings.moving_walls = moving_walls(setup);
  settings.wall_distance = distance_from_walls(setup, false);
  settings.turbulence = turbulence_of(setup);
  settings.bodies_stir = setup.bodies_stir;
  settings.tracers = tracers_of(setup);
  settings.transfers = setup.transfers;
  settings.courant = setup.courant;
  settings.projection_tolerance = setup.projection_tolerance;
  for (std::size_t i = 0; i < setup.openings.size(); ++i)
    if (setup.openings[i].given == OpeningSetup<D>::Given::degassing) settings.degassing.push_back(i);
  auto model = std::make_unique<dispersed::Model<D>>(grid, settings, std::move(space), openings);
  std::vector<Cells<D>*> shares;
  for (auto& a : model->state().a) shares.push_back(&a);
  fill(setup, grid, model->space(), shares, &model->state().tracers);
  std::vector<CellVectors<D>*> u;
  for (auto& own : model->state().u) u.push_back(&own);
  set_velocities<D>(setup, grid, model->space(), u);
  check_packing(setup, *model);
  check_degassing(setup, *model);
  return model;
}

template <int D>
OwnModel<D>::OwnModel(const Setup<D>& setup, const Grid<D>& grid) {
  if (setup.eulerian) {
    dispersed_ = make_dispersed_model(setup, grid);
    model_.emplace(*dispersed_);
  } else {
    sharp_ = make_sharp_model(setup, grid);
    model_.emplace(*sharp_);
  }
}

template std::size_t nearest_solid<2>(const Setup<2>&, const Vec<2>&);
template std::size_t nearest_solid<3>(const Setup<3>&, const Vec<3>&);
template double filled_up_to<2>(const Setup<2>&);
template double filled_up_to<3>(const Setup<3>&);
template bool submerged<2>(const Setup<2>&, const OpeningSetup<2>&);
template bool submerged<3>(const Setup<3>&, const OpeningSetup<3>&);
template Grid<2> make_grid<2>(const Setup<2>&);
template Grid<3> make_grid<3>(const Setup<3>&);
template sharp::Settings<2> model_settings<2>(const Setup<2>&);
template sharp::Settings<3> model_settings<3>(const Setup<3>&);
template OpenSpace<2> make_space<2>(const Setup<2>&, const Grid<2>&);
template OpenSpace<3> make_space<3>(const Setup<3>&, const Grid<3>&);
template std::vector<double> replaced_volumes<2>(const Setup<2>&, const Grid<2>&, const OpenSpace<2>&);
template void fill<2>(const Setup<2>&, const Grid<2>&, const OpenSpace<2>&, const std::vector<Cells<2>*>&,
                      std::vector<Cells<2>>*);
template std::vector<double> replaced_volumes<3>(const Setup<3>&, const Grid<3>&, const OpenSpace<3>&);
template void fill<3>(const Setup<3>&, const Grid<3>&, const OpenSpace<3>&, const std::vector<Cells<3>*>&,
                      std::vector<Cells<3>>*);
template std::unique_ptr<sharp::Model<2>> make_sharp_model<2>(const Setup<2>&, const Grid<2>&);
template std::unique_ptr<sharp::Model<3>> make_sharp_model<3>(const Setup<3>&, const Grid<3>&);
template std::unique_ptr<dispersed::Model<2>> make_dispersed_model<2>(const Setup<2>&, const Grid<2>&);
template std::unique_ptr<dispersed::Model<3>> make_dispersed_model<3>(const Setup<3>&, const Grid<3>&);
template class OwnModel<2>;
template class OwnModel<3>;

}  // namespace wavy
