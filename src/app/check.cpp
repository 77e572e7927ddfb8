// check: what the program understood of a case, and what a run of it will cost.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <numbers>
#include <utility>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "base/text.hpp"
#include "case/agitators.hpp"
#include "case/case_file.hpp"
#include "case/tracers.hpp"
#include "figures/picture.hpp"
#include "results/execute.hpp"
#include "run/agitators.hpp"
#include "run/estimates.hpp"
#include "run/gauges.hpp"

namespace wavy {
namespace {

/// Cost of a run, from steps really taken on this machine.
struct Cost {
  double bytes = 0;
  double step_seconds = 0;
  double calm_seconds = 0;     ///< if the liquid stays nearly at rest
  double violent_seconds = 0;  ///< if it falls through the vessel's height and splashes all the time
  long calm_steps = 0;
  long violent_steps = 0;
};

/// What check knows of a case, whatever its dimension.
struct Understood {
  std::string extents, cells, cell_size;
  double total_volume = 0;
  std::vector<double> volumes;
  long cell_count = 0;
  double computed_share = 1;                   ///< of the vessel
  double wall_area = 0;                        ///< of solids [m2]
  std::vector<std::vector<std::string>> rows;  ///< openings, times and numbers, as the table shows them
  nlohmann::ordered_json openings = nlohmann::ordered_json::array();
  std::vector<std::string> notes, remarks;
  std::vector<std::string> pictures;
  Cost cost;
};

/// What an opening with a pressure is open to.
template <int D>
std::string outside_words(const Setup<D>& setup, const OpeningSetup<D>& given, const std::string& incoming) {
  using Outside = typename Opening<D>::Outside;
  const std::string pressure = given.value.is_constant() ? quantity(given.value(0), "Pa") : given.value.text();
  const std::string back =
      given.opening.share_outside ? ", which flows back" : fmt::format("; {} flows back", incoming);
  switch (given.opening.outside) {
    case Outside::air:
      break;
    case Outside::inside:
      return fmt::format("{}; outside stands the same as inside{}", pressure, back);
    case Outside::liquid:
      return fmt::format("{}; outside stands {}{}", pressure, setup.phases[0].name, back);
    case Outside::level:
      return fmt::format("a level of {} of {} outside, {} on it{}", quantity(given.opening.outside_level, "m"),
                         setup.phases[given.opening.column_phase].name, pressure, back);
  }
  return fmt::format("{}; {} flows back", pressure, incoming);
}

/// Openings with their flows in the units that people use, and the times that follow.
template <int D>
void describe_openings(const Setup<D>& setup, const VesselModel<D>& model, Understood& out) {
  using Given = typename OpeningSetup<D>::Given;
  const auto& boundary = model.boundary();
  const double total = model.open_volume() * setup.thickness;
  const double liquid = model.volumes(setup.thickness)[0];
  double incoming = 0;
  double filling = 0;  // of the denser phase
  std::vector<std::vector<std::string>> times;
  for (std::size_t i = 0; i < setup.openings.size(); ++i) {
    const auto& given = setup.openings[i];
    const auto& opening = given.opening;
    const double area = boundary.area(i) * setup.thickness;
    std::string text = fmt::format("{} ({}, {})", opening.name,
                                   given.on_side()      ? side_name<D>(opening.axis, opening.side)
                                   : given.opening.zone ? "in a zone"
                                                        : "on " + given.wall,
                                   opening.zone ? quantity(area, "m3") : quantity(area, "m2"));
    const auto mix = [&] {
      std::string list;
      for (std::size_t p = 0; p < phase_count(setup); ++p) {
        const double share = opening.composition[p];
        if (share == 1) return setup.phases[p].name;
        // Of two phases the first tells.
        if (share > 0 && (p == 0 || setup.phases.size() > 2 || opening.composition[0] == 0))
          list += fmt::format("{}{:.4g} % {}", list.empty() ? "" : " + ", 100 * share, setup.phases[p].name);
      }
      return list.empty() ? std::string("nothing") : list;
    };
    nlohmann::ordered_json entry{{"name", opening.name}, {"area_m2", area}};
    if (const auto flow = given_flow(setup, model, i, 0)) {
      const double size = std::abs(*flow);
      // Of a zone what it makes over the vessel's cross-section.
      const double width_of_flow = opening.zone ? total / setup.size[D - 1] : area;
      text += fmt::format(": {} {}{} = {:.4g} L/min = {:.4g} m³/h, {} {}", *flow < 0 ? "takes out" : "brings",
                          *flow < 0 ? "" : mix() + ", ", quantity(size, "m3/s"), size * 60000, size * 3600,
                          quantity(size / width_of_flow, "m/s"),
                          opening.zone ? "superficial, over the vessel's mean cross-section" : "at the opening");
      double rho = 0;
      for (std::size_t p = 0; p < setup.phases.size(); ++p)
        rho += opening.composition[p] * setup.phases[p].properties.density;
      const auto most = std::ranges::max_element(opening.composition) - opening.composition.begin();
      const double mu = setup.phases[static_cast<std::size_t>(most)].properties.viscosity;
      const double width = std::sqrt(area * 4 / std::numbers::pi);
      if (size > 0 && mu > 0 && !opening.zone) {
        const double reynolds = rho * size / area * width / mu;
        text += fmt::format("; Re {:.3g}, Fr {:.3g}", reynolds, size / area / std::sqrt(9.81 * width));
        // Where surface tension acts, what the stream does against it; and gravity, over the opening's width.
        if (!setup.eulerian && setup.pairs[0].surface_tension > 0) {
          const double jump = setup.phases[0].properties.density - setup.phases[1].properties.density;
          text += fmt::format(", We {:.3g}, Bo {:.3g}",
                              rho * std::pow(size / area, 2) * width / setup.pairs[0].surface_tension,
                              jump * 9.81 * width * width / setup.pairs[0].surface_tension);
        }
      }
      entry["flow_m3_s"] = *flow;
      if (*flow > 0) {
        incoming += *flow;
        filling += *flow * opening.composition[0];
      }
    } else if (given.given == Given::pressure) {
      text += ": open to " + outside_words(setup, given, mix());
      if (const auto curve = drain_curve(setup, model, i); !curve.empty() && !given.balances) {
        constexpr double sharp_edge = 0.6;  // discharge coefficient
        const double shortest = curve.back()[0];
        const double longest = shortest / sharp_edge;
        times.push_back({"draining", fmt::format("through '{}' in about {} to {} (Torricelli, discharge 1 to 0.6)",
                                                 opening.name, duration(shortest), duration(longest))});
        entry["drain_time_s"] = longest;
        constexpr double all_but = 0.98;
        if (setup.schedule.until < all_but * longest)
          out.remarks.push_back(fmt::format("draining through '{}' may take {}, longer than run.until = {}",
                                            opening.name, duration(longest), quantity(setup.schedule.until, "s")));
      }
    } else if (given.given == Given::degassing) {
      text += ": gas leaves through it as it arrives, all else stays";
    } else {
      text += fmt::format(": holds '{}' at {}, at most {:.4g} m³/h", setup.gauges[given.gauge].name,
                          quantity(given.target, "m"), given.most * 3600);
    }
    out.rows.push_back({i == 0 ? "openings" : "", text});
    out.openings.push_back(entry);
  }
  out.rows.insert(out.rows.end(), times.begin(), times.end());
  if (incoming > 0)
    out.rows.push_back({"residence", fmt::format("{} (open volume over what comes in)", duration(total / incoming))});
  if (filling > 0)
    out.rows.push_back({"filling", fmt::format("{} until '{}' fills the rest", duration((total - liquid) / filling),
                                               setup.phases[0].name)});
}

/// Sets the fluid into eddies as wide as the vessel, as a lively run may, so that steps cost what they do there.
template <int D>
void stir(const Setup<D>& setup, const VesselModel<D>& model, double speed) {
  const Grid<D>& grid = model.grid();
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    if (open_share(model.space(), b, o) == 0) return;
    std::array<double, 2> phase{};  // along the first and the last axis
    for (std::size_t k = 0; k < 2; ++k) {
      const auto d = k == 0 ? 0 : D - 1;
      phase[k] = 2 * std::numbers::pi * (cell[d] + 0.5) / grid.cells()[d];
    }
    const double across = speed * std::sin(phase[0]) * std::cos(phase[1]);
    const double up = -speed * std::cos(phase[0]) * std::sin(phase[1]) * setup.size[D - 1] / setup.size[0];
    const auto set = [&](CellVectors<D>& u) {
      u[0].block(b)[o] = across;
      u[D - 1].block(b)[o] = up;
    };
    if (model.is_sharp())
      set(model.sharp().state().u);
    else
      for (auto& u : model.dispersed().state().u) set(u);
  });
}

/// Wall time of a step on this machine: the median over a few, taken where the fluid moves.
template <int D>
double step_seconds(const Setup<D>& setup, const VesselModel<D>& model, double speed, int most_steps) {
  constexpr double longest = 1.5;  // [s]
  stir(setup, model, speed);
  Gauges<D> gauges(setup, model);
  std::vector<double> times;
  const Stopwatch all;
  while (static_cast<int>(times.size()) < most_steps && (times.empty() || all.seconds() < longest)) {
    const double dt = std::min(model.stable_step().first, setup.schedule.largest_step);
    const Stopwatch one;
    static_cast<void>(model.step(0.5 * dt));
    static_cast<void>(gauges.read(model));
    times.push_back(one.seconds());
  }
  std::ranges::sort(times);
  return times[times.size() / 2];
}

template <int D>
void describe_vessel(const Setup<D>& setup, const VesselModel<D>& model, Understood& result) {
  const Grid<D>& grid = model.grid();
  for (int d = 0; d < D; ++d) {
    result.extents += fmt::format("{}{}", d == 0 ? "" : " x ", quantity(setup.size[d], "m"));
    result.cells += fmt::format("{}{}", d == 0 ? "" : " x ", grid.cells()[d]);
    result.cell_size += fmt::format("{}{}", d == 0 ? "" : " x ", quantity(grid.spacing()[d], "m"));
  }
  for (std::size_t d = 0; d < D; ++d)
    if (setup.periodic[d]) result.extents += fmt::format(", repeats along {}", "xyz"[d]);
  if (setup.symmetry == Symmetry::round)
    result.extents += ", turned round the axis x = 0";
  else if (D == 2)
    result.extents += fmt::format(", {} thick", quantity(share_of_vessel(setup) * setup.thickness, "m"));
  result.total_volume = model.open_volume() * setup.thickness;
  result.volumes = model.volumes(setup.thickness);
  result.computed_share = share_of_vessel(setup);
  result.cell_count = open_cells(grid, model.space());
  result.wall_area = model.space().wall_area() * setup.thickness;
  if (const long hidden = model.space().hidden_walls(); hidden > 0)
    result.notes.push_back(
        fmt::format("solids are thinner than a cell in places: there they stand as walls on {} faces between cells, "
                    "shown in the picture",
                    hidden));
}

/// Lines under one heading.
void add_lines(const char* heading, const std::vector<std::string>& lines, Understood& result) {
  for (const auto& line : lines) result.rows.push_back({std::exchange(heading, ""), line});
}

template <int D>
void describe_agitators(const Setup<D>& setup, const VesselModel<D>& model, Understood& result) {
  add_lines("agitators", words_on_agitators(setup), result);
  auto& turning = model.turning_solids();
  if (turning.none()) return;
  const double volume = sum_volumes(model.grid(), [&](int b) {
    double sum = 0;
    const OpenVolumes<D> open_volumes(model.space(), b);
    for (const auto& cell : turning.cells(b)) sum += cell.solid * open_volumes[cell.at];
    return sum;
  });
  add_lines("", words_on_frames(setup), result);
  if (setup.eulerian) {
    double gas = 0;  // that comes in at the end
    for (std::size_t i = 0; i < setup.openings.size(); ++i) {
      const double flow = std::max(given_flow(setup, model, i, setup.schedule.until).value_or(0), 0.0);
      for (std::size_t p = 0; p < setup.eulerian->phases.size(); ++p)
        if (setup.eulerian->phases[p].gas) gas += flow * setup.openings[i].opening.composition[p];
    }
    add_lines("", words_on_gassing(setup, gas, model.open_volume() * setup.thickness), result);
  }
  result.rows.push_back({"", fmt::format("what turns takes {} as computed, which counts as fluid",
                                         quantity(volume * model.grid().cell_volume() * setup.thickness, "m3"))});
}

template <int D>
void describe_moving_walls(const Setup<D>& setup, Understood& result) {
  for (const auto& wall : setup.moving_walls) {
    std::string text = wall.name + ":";
    const double turning = wall.turning(0);
    if (!wall.turning.is_constant())
      text += fmt::format(" turns at {}", wall.turning.text());
    else if (turning != 0)
      text += fmt::format(" turns at {:.4g} rev/min", turning * 30 / std::numbers::pi);
    std::string along;
    for (const auto& speed : wall.velocity)
      along += fmt::format("{}{}", along.empty() ? "" : ", ",
                           speed.is_constant() ? quantity(speed(0), "m/s") : speed.text());
    if (std::ranges::any_of(wall.velocity, [](const auto& v) { return !v.is_constant() || v(0) != 0; }))
      text += fmt::format(" slides at ({})", along);
    result.rows.push_back({&wall == setup.moving_walls.data() ? "moving" : "", text});
  }
}

/// Its law, what it starts with, and how far from walls first cells are where the flow is as fast as anything given.
template <int D>
void describe_turbulence(const Setup<D>& setup, const VesselModel<D>& model, Understood& out) {
  const auto& turbulence = setup.turbulence;
  if (turbulence.law == nullptr) return;
  std::string text(turbulence.law->name);
  if (turbulence.rotation_correction) text += ", corrected for rotation";
  if (turbulence.law->second != TurbulenceLaw::Second::none)
    text += fmt::format("; at the start {:g} % of {}, eddies of {}", 100 * turbulence.start.intensity,
                        turbulence.start_speed > 0 ? quantity(turbulence.start_speed, "m/s") : "what moves then",
                        quantity(turbulence.start.length, "m"));
  text += turbulence.roughness > 0 ? fmt::format("; walls as rough as sand of {}", quantity(turbulence.roughness, "m"))
                                   : "; smooth walls";
  out.rows.push_back({"turbulence", text});
  const auto& densest = setup.phases.front();
  const double given = model.boundary().greatest_speed(0);
  const double speed = given > 0 ? given : 1.0;
  const double y = 0.5 * model.grid().smallest_spacing();
  const double nu = densest.properties.viscosity / densest.properties.density;
  if (!(nu > 0)) return;
  const double y_plus = friction_velocity(speed, y, nu, turbulence.roughness) * y / nu;
  out.rows.push_back({"", fmt::format("first cells are at y+ {:.3g} where {} flows along a wall at {}{}", y_plus,
                                      densest.name, quantity(speed, "m/s"),
                                      y_plus < 1     ? ": laminar"
                                      : y_plus > 500 ? ": coarse for the law of the wall"
                                                     : "")});
}

/// The fill at the start; of a body in space also two upright sections through its middle.
template <int D>
void draw_start(const CaseFile& the_case, const Setup<D>& setup, const VesselModel<D>& model,
                const std::string& picture, Understood& result) {
  const Grid<D>& grid = model.grid();
  PictureOptions options;
  options.solids = solid_shapes(setup);
  options.cells = grid.cell_count() <= 20000;
  const auto names = names_of(setup.phases);
  options.subtitle = fmt::format("fill at t = 0: {}{}, {} cells{}", names.front(),
                                 setup.free_surface_only ? "" : " and " + names.back(), result.cells,
                                 D == 2 && !options.cells ? " (too many to show)" : "");
  const auto draw = [&](const std::filesystem::path& file) {
    draw_model(model, the_case.title, names, options, file);
    result.pictures.push_back(file.string());
  };
  draw(picture);
  for (int axis = 1; D == 3 && axis >= 0; --axis) {
    if (axis == 0 && setup.symmetry == Symmetry::sector) continue;  // nothing of it lies there
    options.section = SectionPlane::across(axis, 0.5 * setup.size[axis]);
    options.cells = grid.cell_count() / grid.cells()[axis] <= 20000;
    std::filesystem::path file = picture;
    file.replace_extension(fmt::format("{}.png", "xyz"[axis]));
    draw(file);
  }
}

template <int D>
void estimate_cost(const CaseFile& the_case, const Setup<D>& setup, const VesselModel<D>& model, int trial_steps,
                   Understood& result) {
  result.cost.bytes = needed_memory(setup);
  double calm = std::min(model.stable_step().first, setup.schedule.largest_step);
  // At an angle to the axes what blades drive crosses cells along two of them.
  if (const double tip = greatest_tip_speed(setup); tip > 0)
    calm = std::min(calm, setup.courant * model.grid().smallest_spacing() / (1.4 * tip));
  double pull = 0;
  for (int d = 0; d < D; ++d) pull += std::pow(std::max(std::abs(setup.gravity[d](0)), 1e-3), 2);
  const double fall = std::sqrt(2 * std::sqrt(pull) * setup.size[D - 1]);
  const double violent = std::min(calm, setup.courant * model.grid().smallest_spacing() / (2 * fall));
  try {
    result.cost.step_seconds = step_seconds(setup, model, 0.5 * fall, trial_steps);
  } catch (const Error& error) {
    throw input_error({the_case.file.string(), 0, 0, ""}, "its first steps fail already: " + error.problem(),
                      error.remedy());
  }
  result.cost.calm_steps = std::lround(std::min(setup.schedule.until / calm, 1e15));
  // Splashes cost more than eddies: what runs of all demo cases took lies between the two ends.
  constexpr double dearer = 1.3;   // a step
  constexpr double shorter = 1.3;  // steps
  result.cost.violent_steps = std::lround(std::min(shorter * setup.schedule.until / violent, 1e15));
  result.cost.calm_seconds = result.cost.step_seconds * static_cast<double>(result.cost.calm_steps);
  result.cost.violent_seconds = dearer * result.cost.step_seconds * static_cast<double>(result.cost.violent_steps);
}

template <int D>
Understood study(const CaseFile& the_case, const Setup<D>& setup, const std::string& picture, int trial_steps) {
  Understood result;
  require_memory(setup);
  const Grid<D> grid = make_grid(setup);
  use_threads(grid.cell_count(), 0);

  const OwnModel<D> own(setup, grid);
  const VesselModel<D>& model = own.model();
  describe_vessel(setup, model, result);
  const auto replaced = replaced_volumes(setup, grid, model.space());
  for (std::size_t k = 0; k < replaced.size(); ++k)
    if (replaced[k] > 1e-6 * result.total_volume)
      result.notes.push_back(fmt::format(
          "fill {} ({}) takes the place of {}{} from earlier fills", k + 1,
          setup.phases[static_cast<std::size_t>(setup.fills[k].phase)].name, quantity(replaced[k], "m3"),
          setup.phases.size() > 2 ? ""
                                  : " of " + setup.phases[static_cast<std::size_t>(1 - setup.fills[k].phase)].name));
  describe_openings(setup, model, result);
  describe_moving_walls(setup, result);
  describe_agitators(setup, model, result);
  describe_turbulence(setup, model, result);
  add_lines("tracers", words_on_tracers(setup), result);
  model.start();
  if (!picture.empty()) draw_start(the_case, setup, model, picture, result);
  estimate_cost(the_case, setup, model, trial_steps, result);
  return result;
}

std::size_t phases_computed(const CaseFile& the_case) {
  return with_vessel(the_case, [](const auto& setup) { return phase_count(setup); });
}

std::vector<std::string> gauge_names(const CaseFile& the_case) {
  return with_vessel(the_case, [](const auto& setup) {
    std::vector<std::string> names;
    for (const auto& gauge : setup.gauges)
      names.push_back(gauge.measures == "force"
                          ? fmt::format("{} (force on {} along {})", gauge.name, gauge.wall.name, "xyz"[gauge.axis])
                          : gauge.name);
    return names;
  });
}

void print_json(const CaseFile& the_case, const Understood& u, const std::vector<std::string>& problems,
                const std::vector<std::string>& notes) {
  const auto& phases = phases_of(the_case);
  nlohmann::ordered_json out;
  out["title"] = the_case.title;
  out["cells"] = u.cell_count;
  out["grid"] = u.cells;
  out["vessel_volume_m3"] = u.total_volume;
  out["computed_share"] = u.computed_share;
  for (std::size_t p = 0; p < phases_computed(the_case); ++p)
    out["phases"].push_back(
        {{"name", phases[p].name},
         {"density_kg_m3", phases[p].properties.density},
         {"viscosity_Pa_s", phases[p].properties.viscosity},
         {"kinematic_viscosity_m2_s", phases[p].properties.viscosity / phases[p].properties.density},
         {"volume_m3", u.volumes[p]}});
  if (!u.openings.empty()) out["openings"] = u.openings;
  out["until_s"] = schedule_of(the_case).until;
  out["memory_bytes"] = std::llround(u.cost.bytes);
  out["run_time_calm_s"] = u.cost.calm_seconds;
  out["run_time_violent_s"] = u.cost.violent_seconds;
  out["warnings"] = problems;
  out["notes"] = notes;
  if (!u.pictures.empty()) out["pictures"] = u.pictures;
  fmt::print("{}\n", out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
}

/// Bubbles and drops, each size alone in its carrier.
template <int D>
void add_bodies(const Setup<D>& setup, std::vector<std::vector<std::string>>& rows) {
  bool first = true;
  for (const auto& one : bodies_alone(setup)) {
    const auto& phase = setup.eulerian->phases[one.phase];
    const auto& carrier = setup.eulerian->phases[one.carrier];
    const auto& of = one.bodies;
    rows.push_back(
        {first ? "sizes" : "",
         fmt::format("{} of {} in {}: {} {} {}{}; Re {:.3g}{}", phase.name, quantity(of.diameter, "m"), carrier.name,
                     of.density < of.carrier_density ? "rise at" : "sink at", quantity(of.slip, "m/s"),
                     one.drag.law == nullptr ? fmt::format("(drag coefficient {:g}", one.drag.constant)
                                             : fmt::format("({}", one.drag.law->name),
                     one.drag.hindrance == nullptr ? ")" : fmt::format(", {})", one.drag.hindrance->name), reynolds(of),
                     of.surface_tension > 0 ? fmt::format(", Eo {:.3g}", eotvos(of)) : "")});
    first = false;
  }
}

std::vector<std::vector<std::string>> rows_of(const CaseFile& the_case, const Understood& u) {
  const auto& phases = phases_of(the_case);
  const Schedule& schedule = schedule_of(the_case);
  const auto gauges = gauge_names(the_case);
  const Pair pair = with_vessel(the_case, [](const auto& setup) { return setup.eulerian ? Pair() : setup.pairs[0]; });
  std::vector<std::vector<std::string>> rows{
      {"vessel",
       fmt::format("{}, {} of room{}", u.extents, quantity(u.total_volume, "m3"),
                   u.wall_area > 0 ? fmt::format(", {} of walls that cut the grid", quantity(u.wall_area, "m2")) : "")},
      {"grid", fmt::format("{} cells of {}{}", u.cells, u.cell_size,
                           u.wall_area > 0 ? fmt::format(", {} of them open", u.cell_count) : "")}};
  if (u.computed_share < 1)
    rows.push_back({"computed", fmt::format("1/{:.0f} of the vessel: {} of room, {} of {}; all else is of the whole",
                                            1 / u.computed_share, quantity(u.computed_share * u.total_volume, "m3"),
                                            quantity(u.computed_share * u.volumes[0], "m3"), phases[0].name)});
  for (std::size_t p = 0; p < phases_computed(the_case); ++p) {
    const auto& q = phases[p].properties;
    const std::string viscosity =
        q.rheology.constant()
            ? fmt::format("{} ({})", quantity(q.viscosity, "Pa.s"), quantity(q.viscosity / q.density, "m2/s"))
            : fmt::format("{} at a shear rate of 1/s, {} at 100/s", quantity(q.rheology(1), "Pa.s"),
                          quantity(q.rheology(100), "Pa.s"));
    rows.push_back(
        {p == 0 ? "phases" : "", fmt::format("{} ({}): {}, {}; {} = {:.4g} %", phases[p].name,
                                             the_case.phase_origins[p], quantity(q.density, "kg/m3"), viscosity,
                                             quantity(u.volumes[p], "m3"), 100 * u.volumes[p] / u.total_volume)});
  }
  if (phases_computed(the_case) == 1)
    rows.push_back({"", "gas is left out: the pressure on the liquid's surface is 0, wherever it is"});
  if (pair.surface_tension > 0)
    rows.push_back(
        {"pair", fmt::format("surface tension {}, contact angle {:.4g}° in {}", quantity(pair.surface_tension, "N/m"),
                             pair.contact_angle * 180 / std::numbers::pi, phases[0].name)});
  rows.insert(rows.end(), u.rows.begin(), u.rows.end());
  rows.push_back({"gauges", gauges.empty() ? "none of your own" : listing(gauges, "and")});
  with_vessel(the_case, [&](const auto& setup) {
    if (setup.eulerian) add_bodies(setup, rows);
  });
  rows.push_back({"run", fmt::format("until {}, a snapshot every {}", quantity(schedule.until, "s"),
                                     quantity(schedule.snapshot_interval, "s"))});
  rows.push_back({"cost", fmt::format("from {} if calm ({} steps) to {} if violent ({} steps); {:.0f} MB of memory",
                                      duration(u.cost.calm_seconds), u.cost.calm_steps,
                                      duration(u.cost.violent_seconds), u.cost.violent_steps, u.cost.bytes / 1e6)});
  if (!u.pictures.empty()) rows.push_back({"pictures", listing(u.pictures, "and")});
  return rows;
}

}  // namespace

int check_case(const std::string& case_file, const std::string& picture, bool json) {
  const CaseFile the_case = read_case(case_file);
  if (line_of(the_case) != nullptr) return check_line(the_case, picture, json);
  auto problems = warnings(the_case);
  constexpr int trial_steps = 5;
  const Understood u =
      with_vessel(the_case, [&](const auto& setup) { return study(the_case, setup, picture, trial_steps); });
  auto notes = the_case.notes;
  notes.insert(notes.end(), u.notes.begin(), u.notes.end());
  if (json) {
    print_json(the_case, u, problems, notes);
    return 0;
  }

  fmt::print("{}\n", the_case.title);
  fmt::print("{}", aligned(rows_of(the_case, u)));
  for (const auto& note : notes) fmt::print("{}", wrapped("note: " + note, 100, ""));
  problems.insert(problems.end(), u.remarks.begin(), u.remarks.end());
  for (const auto& problem : problems) fmt::print("{}", wrapped("warning: " + problem, 100, ""));
  fmt::print("next: wavy run {}\n", case_file);
  return 0;
}

}  // namespace wavy
