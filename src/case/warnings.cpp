// What is allowed in a case but can hardly be meant.
#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "case/case_file.hpp"
#include "run/estimates.hpp"

namespace wavy {
namespace {

/// "lower = ["0.1 m", "0 m"]" and the like.
template <int D>
std::string point_key(const char* key, const Vec<D>& point) {
  std::string list;
  for (const double x : point) list += fmt::format("{}\"{:.6g} m\"", list.empty() ? "" : ", ", x);
  return fmt::format("{} = [{}]", key, list);
}

/// A hole in the boundary of the grid, where no jet can contract beyond it: what to write in its place.
template <int D>
void warn_of_hole(const Setup<D>& setup, const OpeningSetup<D>& given, std::vector<std::string>& out) {
  const auto& opening = given.opening;
  if (given.given != OpeningSetup<D>::Given::pressure || !given.on_side() || given.has_stub || given.balances ||
      opening.outside != Opening<D>::Outside::air || (!opening.within && !opening.round))
    return;
  const bool floor = opening.axis == D - 1 && opening.side == 0;
  if (!(floor ? filled_up_to(setup) > 0 : submerged(setup, given))) return;
  const auto reach = [&](int d) -> std::array<double, 2> {
    if (opening.round)
      return {opening.round->centre[d] - opening.round->radius, opening.round->centre[d] + opening.round->radius};
    return {opening.within->lower[d], opening.within->upper[d]};
  };
  double wide = 1e300;
  for (int d = 0; d < D; ++d)
    if (d != opening.axis) wide = std::min(wide, reach(d)[1] - reach(d)[0]);
  const double out_of = opening.side == 0 ? 0.0 : setup.size[opening.axis];
  const double outwards = opening.side == 0 ? -1 : 1;
  const double wall = 0.1 * setup.cell_size;  // thickness: thin enough to stand as a sheet, with sharp edges
  Vec<D> inner{};                             // ends of the hole's axis
  Vec<D> outer{};
  AlignedBox<D> hole{};
  AlignedBox<D> basin{};
  for (int d = 0; d < D; ++d) {
    const auto [low, high] = reach(d);
    if (d == opening.axis) {
      inner[d] = out_of - outwards * setup.cell_size;
      outer[d] = out_of + outwards * (wall + setup.cell_size);
      hole.lower[d] = std::min(inner[d], outer[d]);
      hole.upper[d] = std::max(inner[d], outer[d]);
      const double near = out_of + outwards * wall;
      const double far = out_of + outwards * setup.cell_size * std::ceil(2 * wide / setup.cell_size - 1e-6);
      basin.lower[d] = std::min(near, far);
      basin.upper[d] = std::max(near, far);
      continue;
    }
    if (high - low > 0.5 * setup.size[d]) return;  // no hole but an open side
    inner[d] = outer[d] = 0.5 * (low + high);
    hole.lower[d] = low;
    hole.upper[d] = high;
    const bool from_axis = setup.symmetry == Symmetry::round && d == 0;
    if (from_axis) hole.lower[d] = std::max(0.0, low);
    basin.lower[d] = from_axis ? std::max(0.0, low - 2 * wide) : low - 2 * wide;
    basin.upper[d] = high + 2 * wide;
  }
  const std::string shape =
      opening.round ? fmt::format("shape = \"cylinder\", {}, {}, diameter = \"{:.6g} m\"", point_key<D>("from", inner),
                                  point_key<D>("to", outer), 2 * opening.round->radius)
                    : fmt::format("{}, {}", point_key<D>("lower", hole.lower), point_key<D>("upper", hole.upper));
  out.push_back(
      fmt::format("'{0}' is a hole in the vessel's outermost side: no jet can contract beyond it, and up to a quarter "
                  "more flows than through a real one. Give the hole a wall and the jet a basin: [[insert]] does = "
                  "\"opens\", {1}; [[insert]] does = \"opens\", {2}, {3}; and let '{0}' be the whole side = \"{4}\", "
                  "without centre, diameter and size.",
                  opening.name, shape, point_key<D>("lower", basin.lower), point_key<D>("upper", basin.upper),
                  side_name<D>(opening.axis, opening.side)));
}

template <int D>
void warn_of_motion(const Setup<D>& setup, std::vector<std::string>& out) {
  bool weight = false;
  for (std::size_t d = 0; d < D; ++d) weight = weight || !setup.gravity[d].is_constant() || setup.gravity[d](0) != 0;
  if (!weight)
    out.emplace_back(
        "there is no gravity: the phases will not separate. If that is not meant, leave out motion.gravity for 9.81 "
        "m/s² downwards.");
  // Formulas of time are looked at now and then.
  double strongest = 0;
  constexpr int looks = 64;
  for (int n = 0; n <= looks; ++n)
    for (std::size_t d = 0; d < D; ++d)
      for (const Formula* pull : {&setup.gravity[d], &setup.acceleration[d]})
        strongest = std::max(strongest, std::abs(pull->unchecked(setup.schedule.until * n / looks)));
  constexpr double beyond_any_vessel = 1e4;  // [m/s2]
  if (strongest > beyond_any_vessel)
    out.push_back(
        fmt::format("the vessel is pulled with up to {:.3g} m/s², a thousand times gravity and more: check "
                    "the units of [motion].",
                    strongest));
}

template <int D>
void warn_of_level(const Setup<D>& setup, const std::string& name, const BelowLevel<D>& level,
                   std::vector<std::string>& out) {
  const double cell = setup.cell_size;
  if (level.height > setup.size[D - 1])
    out.push_back(
        fmt::format("{}: the level of {} lies above the lid at {}: the closed vessel is quite full. Lower the level.",
                    name, quantity(level.height, "m"), quantity(setup.size[D - 1], "m")));
  else if (level.height > 0 && level.height < 2 * cell)
    out.push_back(fmt::format("{}: a layer of {} is thinner than two cells of {}. Choose a smaller grid.cell.", name,
                              quantity(level.height, "m"), quantity(cell, "m")));
  else if (setup.size[D - 1] - level.height > 0 && setup.size[D - 1] - level.height < 2 * cell)
    out.push_back(
        fmt::format("{}: the space of {} above the level is thinner than two cells of {}. Choose a smaller grid.cell.",
                    name, quantity(setup.size[D - 1] - level.height, "m"), quantity(cell, "m")));
}

template <int D>
void warn_of_fill(const Setup<D>& setup, const std::string& name, const Fill<D>& fill, std::vector<std::string>& out) {
  const double cell = setup.cell_size;
  if (const auto* level = std::get_if<BelowLevel<D>>(&fill.shape)) warn_of_level(setup, name, *level, out);
  Vec<D> lower{};
  Vec<D> upper = setup.size;
  if (const auto* box = std::get_if<AlignedBox<D>>(&fill.shape)) {
    lower = box->lower;
    upper = box->upper;
    for (int d = 0; d < D; ++d)
      if (upper[d] - lower[d] < 2 * cell) {
        out.push_back(fmt::format("{}: the box is thinner ({}) than two cells of {}. Choose a smaller grid.cell.", name,
                                  quantity(upper[d] - lower[d], "m"), quantity(cell, "m")));
        break;
      }
  } else if (const auto* ball = std::get_if<Ball<D>>(&fill.shape)) {
    for (int d = 0; d < D; ++d) {
      lower[d] = ball->centre[d] - ball->radius;
      upper[d] = ball->centre[d] + ball->radius;
    }
    if (ball->radius < 4 * cell)
      out.push_back(fmt::format("{}: a diameter of {} is less than 8 cells of {}. Choose a smaller grid.cell.", name,
                                quantity(2 * ball->radius, "m"), quantity(cell, "m")));
  } else if (const auto* drops = std::get_if<Drops<D>>(&fill.shape)) {
    const double smallest = drops->balls.back().radius;  // they come largest first
    if (smallest < 4 * cell)
      out.push_back(
          fmt::format("{}: the smallest drops, {}, are less than 8 cells of {} across. Choose a smaller "
                      "grid.cell.",
                      name, quantity(2 * smallest, "m"), quantity(cell, "m")));
  }
  for (int d = 0; d < D; ++d)
    if (lower[d] >= setup.size[d] || upper[d] <= 0) {
      out.push_back(fmt::format("{}: the shape lies outside the vessel and fills nothing. Check its place.", name));
      break;
    }
}

/// Returns whether the denser phase comes in.
template <int D>
bool warn_of_openings(const Setup<D>& setup, std::vector<std::string>& out) {
  bool fed = false;
  for (const auto& given : setup.openings) {
    using Given = typename OpeningSetup<D>::Given;
    const bool pressure = given.given == Given::pressure;
    fed =
        fed || ((!pressure && given.given != Given::level && given.direction > 0 && given.opening.composition[0] > 0) ||
                (pressure && given.opening.composition[0] > 0 && (given.value(0) > 0 || given.balances)));
    const bool back_pressure = !given.value.is_constant() || given.value(0) != 0;
    if (pressure && !given.outside_given && !given.balances && back_pressure &&
        given.opening.outside == Opening<D>::Outside::air && submerged(setup, given))
      out.push_back(fmt::format(
          "'{}' lies on a side below a fill, and its pressure is that of air at rest outside, the same at every "
          "height: '{}' will flow in above and out below. Say what stands outside: outside = \"inside\" for a pipe "
          "full of the same, outside_level for a basin, or outside = \"air\" if air is meant.",
          given.opening.name, setup.phases[0].name));
    warn_of_hole(setup, given, out);
  }
  return fed;
}

/// Bubbles and drops for which a closure was not made, or that a cell can hardly hold.
template <int D>
void warn_of_bodies(const Setup<D>& setup, std::vector<std::string>& out) {
  const auto& phases = setup.eulerian->phases;
  for (const auto& one : bodies_alone(setup)) {
    const std::string& name = phases[one.phase].name;
    if (one.drag.law != nullptr && !one.drag.law->in_range(one.bodies))
      out.push_back(
          fmt::format("'{}' of {} in '{}' (Eo {:.3g}, Re {:.3g}) are outside what {} was made for: {}. Choose "
                      "another pair.drag.",
                      name, quantity(one.bodies.diameter, "m"), phases[one.carrier].name, eotvos(one.bodies),
                      reynolds(one.bodies), one.drag.law->name, one.drag.law->range));
    if (one.bodies.diameter > setup.cell_size)
      out.push_back(
          fmt::format("'{}' of {} are wider than a cell of {}: the Eulerian model means many in a cell. Choose "
                      "a larger grid.cell.",
                      name, quantity(one.bodies.diameter, "m"), quantity(setup.cell_size, "m")));
  }
}

template <int D>
void warn(const Setup<D>& setup, std::vector<std::string>& out) {
  warn_of_motion(setup, out);
  bool dense = false;
  for (std::size_t f = 0; f < setup.fills.size(); ++f) {
    dense = dense || setup.fills[f].phase == 0;
    warn_of_fill(setup, fmt::format("fill[{}]", f + 1), setup.fills[f], out);
  }
  const bool fed = warn_of_openings(setup, out);
  if (!dense && !fed && !setup.eulerian)
    out.push_back(
        fmt::format("no fill puts '{}' into the vessel: it is {}. Add a [[fill]].", setup.phases[0].name,
                    setup.free_surface_only ? "empty" : fmt::format("full of '{}' alone", setup.phases[1].name)));
  if (setup.schedule.snapshot_interval > setup.schedule.until)
    out.emplace_back("run.snapshot_interval is longer than the run: only the start and the end are kept.");
  if (!setup.eulerian && setup.phases[0].properties.density < 1.02 * setup.phases[1].properties.density)
    out.emplace_back("the two phases have nearly the same density: they hardly separate. Check both.");
  if (setup.eulerian) warn_of_bodies(setup, out);
}

}  // namespace

std::vector<std::string> warnings(const CaseFile& the_case) {
  std::vector<std::string> result = the_case.remarks;
  const double until = schedule_of(the_case).until;
  constexpr double a_year = 3e7;  // [s]
  if (until > a_year)
    result.push_back(fmt::format("run.until is {}, years of operation: check its unit.", duration(until)));
  if (line_of(the_case) == nullptr) with_vessel(the_case, [&](const auto& setup) { warn(setup, result); });
  return result;
}

}  // namespace wavy
