#include "case/openings.hpp"

#include <algorithm>
#include <numbers>

#include "case/eulerian_openings.hpp"
#include "case/tracers.hpp"
#include "run/gauges.hpp"

namespace wavy {
namespace {

/// What an opening takes of a side.
template <int D>
struct Hole {
  std::array<int, 2> along{};  ///< the side's axes,
  int count = 0;               ///< so many
  Vec<D> centre{};             ///< [m]
  std::array<double, 2> extent{};
  bool round = false;
  bool whole_side = false;

  /// fn(axis, extent along it)
  template <class Fn>
  void each_axis(Fn&& fn) const {
    for (int i = 0; i < count; ++i) fn(along[static_cast<std::size_t>(i)], extent[static_cast<std::size_t>(i)]);
  }
};

/// As many lengths as a side has axes.
template <int D>
std::vector<double> on_side(Part& part, const char* key, int count) {
  std::vector<double> given = part.quantities(key);
  if (static_cast<int>(given.size()) != count)
    throw part.wrong(
        key, fmt::format("{} {} given; {} needed on a side of a {}-D vessel", given.size(),
                         given.size() == 1 ? "length is" : "lengths are", count == 1 ? "one is" : "two are", D));
  return given;
}

/// Extent of a round opening: in 2-D and round an axis that of a slot of the same area.
template <int D>
void read_diameter(const Setup<D>& setup, Part& part, const Opening<D>& opening, Hole<D>& hole,
                   std::vector<std::string>& notes) {
  const double diameter = part.quantity("diameter");
  const bool turned = setup.symmetry == Symmetry::round;
  if (turned && opening.axis != 0 && hole.centre[0] == 0) {
    hole.extent[0] = diameter;  // round the axis
  } else if (turned) {
    const double radius = opening.axis == 0 ? setup.size[0] : hole.centre[0];
    hole.extent[0] = diameter * diameter / (8 * radius);
    notes.push_back(
        fmt::format("the round opening '{}' of {} stands as a slot {} wide all round the axis, of the same area",
                    opening.name, quantity(diameter, "m"), quantity(hole.extent[0], "m")));
  } else if constexpr (D == 2) {
    hole.extent[0] = std::numbers::pi / 4 * diameter * diameter / setup.thickness;
    notes.push_back(fmt::format(
        "the round opening '{}' of {} stands as a slot {} wide across the thickness of {}, of the same area",
        opening.name, quantity(diameter, "m"), quantity(hole.extent[0], "m"), quantity(setup.thickness, "m")));
  } else {
    hole.round = true;
    hole.extent = {diameter, diameter};
  }
}

template <int D>
Hole<D> read_hole(const Setup<D>& setup, Part& part, const Opening<D>& opening, std::vector<std::string>& notes) {
  Hole<D> hole;
  for (int d = 0; d < D; ++d)
    if (d != opening.axis) hole.along[static_cast<std::size_t>(hole.count++)] = d;
  for (int d = 0; d < D; ++d) hole.centre[d] = setup.symmetry == Symmetry::round && d == 0 ? 0.0 : 0.5 * setup.size[d];
  if (part.has("centre")) {
    const std::vector<double> given = on_side<D>(part, "centre", hole.count);
    for (std::size_t i = 0; i < given.size(); ++i) hole.centre[hole.along[i]] = given[i];
  }
  if (part.has("diameter") && part.has("size"))
    throw part.wrong("size", "both diameter and size are given", "give one of them");
  hole.whole_side = !part.has("diameter") && !part.has("size");
  if (part.has("diameter"))
    read_diameter(setup, part, opening, hole, notes);
  else if (part.has("size"))
    std::ranges::copy(on_side<D>(part, "size", hole.count), hole.extent.begin());
  else if (part.has("centre"))
    throw part.wrong("centre", "an opening with a centre needs a diameter or a size");
  if (hole.whole_side && part.has("stub"))
    throw part.wrong("stub", "a whole side has no stub", "give a diameter or a size");
  return hole;
}

/// Throws where a hole is narrower than two cells, or reaches out of its side.
template <int D>
void check_hole(const Setup<D>& setup, const Part& part, const Hole<D>& hole) {
  hole.each_axis([&](int d, double extent) {
    const double half = 0.5 * extent;
    if (half * 2 < 2 * setup.cell_size)
      throw part.wrong(part.has("size") ? "size" : "diameter",
                       fmt::format("the opening is {} wide, less than two cells of {}", quantity(2 * half, "m"),
                                   quantity(setup.cell_size, "m")),
                       "choose a smaller grid.cell, or a larger opening");
    const bool on_axis = setup.symmetry == Symmetry::round && d == 0 && hole.centre[d] == 0;
    if ((hole.centre[d] - half < -1e-9 * setup.size[d] && !on_axis) ||
        hole.centre[d] + half > setup.size[d] * (1 + 1e-9))
      throw part.wrong("centre",
                       fmt::format("the opening reaches from {} to {} along {}, out of the side's 0 to {}",
                                   quantity(hole.centre[d] - half, "m"), quantity(hole.centre[d] + half, "m"), "xyz"[d],
                                   quantity(setup.size[d], "m")),
                       "move it, or make it smaller");
  });
}

/// Place and size; a nozzle with a stub is added to the vessel's inside and the grid reaches to its end.
template <int D>
void read_place(Setup<D>& setup, Part& part, OpeningSetup<D>& made, Shell<D>& shell, std::vector<std::string>& notes) {
  auto& opening = made.opening;
  const Hole<D> hole = read_hole(setup, part, opening, notes);
  if (hole.whole_side) return;
  check_hole(setup, part, hole);
  const double stub = part.quantity("stub", shell.plain ? "0 m" : fmt::format("{} m", hole.extent[0]));
  if (stub > 0 && std::ranges::any_of(setup.periodic, [](bool repeats) { return repeats; }))
    throw part.wrong("stub", "a vessel that repeats has no stubs", "leave it out");
  made.has_stub = stub > 0;
  AlignedBox<D> box{hole.centre, hole.centre};
  hole.each_axis([&](int d, double extent) {
    box.lower[d] -= 0.5 * extent;
    box.upper[d] += 0.5 * extent;
  });
  const int a = opening.axis;
  if (stub > 0 || !shell.plain) {
    // A pipe from the middle of the vessel's box to the end of the stub.
    const double end = opening.side == 0 ? -stub : setup.size[a] + stub;
    box.lower[a] = std::min(end, 0.5 * setup.size[a]);
    box.upper[a] = std::max(end, 0.5 * setup.size[a]);
    Vec<D> from = hole.centre;
    Vec<D> to = hole.centre;
    from[a] = box.lower[a];
    to[a] = box.upper[a];
    shell.open = union_of<D>(
        shell.open, hole.round ? cylinder_solid<D>(from, to, hole.extent[0] / 2) : box_solid<D>(box.lower, box.upper));
    shell.nozzles = true;
    setup.lower[a] = std::min(setup.lower[a], end);
    setup.upper[a] = std::max(setup.upper[a], end);
  }
  const double margin = stub > 0 ? setup.cell_size : 0.0;  // the stub's walls say how wide it is
  if (hole.round) {
    opening.round = Ball<D>{hole.centre, hole.extent[0] / 2 + margin};
    return;
  }
  opening.within = box;
  hole.each_axis([&](int d, double) {
    opening.within->lower[d] -= margin;
    opening.within->upper[d] += margin;
  });
}

/// A piece of the wall of an insert or of the vessel's shape.
template <int D>
void read_wall(const Setup<D>& setup, Part& part, OpeningSetup<D>& made) {
  made.wall = part.text("on");
  std::vector<std::string> known = setup.insert_names;
  if (setup.vessel) known.emplace_back("vessel");
  const auto found = std::find(known.begin(), known.end(), made.wall);
  if (found == known.end()) {
    const bool thin = std::ranges::find(setup.thin_wall_names, made.wall) != setup.thin_wall_names.end();
    const std::string near = nearest(made.wall, known);
    throw part.wrong("on",
                     thin ? fmt::format("'{}' is thinner than a cell and has no room for an opening", made.wall)
                          : fmt::format("no insert that blocks is called '{}'", made.wall.substr(0, 60)),
                     thin            ? "choose a smaller grid.cell, or a thicker insert"
                     : !near.empty() ? fmt::format("did you mean '{}'?", near)
                     : known.empty() ? "on a plain box write side; an opening on an insert needs an [[insert]]"
                                     : fmt::format("known are {}", listing(known, "and")));
  }
  made.insert = static_cast<std::size_t>(found - known.begin());
  for (const char* name : {"side", "size", "stub", "profile"})
    if (part.has(name))
      throw part.wrong(name, fmt::format("an opening on the wall of '{}' has no '{}'", made.wall, name),
                       "pick a piece of the wall by lower and upper (a box), or by centre and diameter (a ball)");
  const bool ball = part.has("centre") || part.has("diameter");
  const bool box = part.has("lower") || part.has("upper");
  if (ball && box)
    throw part.wrong("lower", "both a box and a ball pick the piece of the wall",
                     "give lower and upper, or centre and "
                     "diameter");
  if (box) {
    AlignedBox<D> piece{point<D>(part, "lower"), point<D>(part, "upper")};
    for (int d = 0; d < D; ++d)
      if (!(piece.upper[d] > piece.lower[d]))
        throw part.wrong("upper", "every length of 'upper' must be greater than that of 'lower'");
    made.piece = piece;
  } else if (ball) {
    part.need("diameter");
    const double diameter = part.quantity("diameter");
    made.piece = Ball<D>{point<D>(part, "centre"), diameter / 2};
  }
}

/// What is at rest outside an opening with a pressure.
template <int D>
void read_outside(Part& part, OpeningSetup<D>& made) {
  using Outside = typename Opening<D>::Outside;
  const bool pressure = made.given == OpeningSetup<D>::Given::pressure && !made.balances;
  for (const char* key : {"outside", "outside_level"})
    if (part.has(key) && !pressure)
      throw part.wrong(key, fmt::format("'{}' belongs to an opening with a pressure", key), "leave it out");
  if (!pressure) return;
  made.outside_given = part.has("outside") || part.has("outside_level");
  if (part.has("outside") && part.has("outside_level"))
    throw part.wrong("outside_level", "both outside and outside_level are given", "give one of them");
  if (part.has("outside_level")) {
    made.opening.outside = Outside::level;
    made.opening.outside_level = part.quantity("outside_level");
    return;
  }
  if (!part.has("outside")) return;
  made.opening.outside = part.one_of<Outside>(
      "outside", {{"air", Outside::air}, {"inside", Outside::inside}, {"liquid", Outside::liquid}}, "at rest outside");
}

/// A pressure that holds a level.
template <int D>
void read_balance(const Setup<D>& setup, Part& part, OpeningSetup<D>& made) {
  made.balances = true;
  made.opening.outside = Opening<D>::Outside::level;
  made.target = part.quantity("balances");
  if (!(made.target > 0 && made.target < setup.size[D - 1]))
    throw part.wrong("balances", fmt::format("a level of {} does not lie within the vessel's height of {}",
                                             quantity(made.target, "m"), quantity(setup.size[D - 1], "m")));
  for (const auto& pull : setup.gravity)
    if (!pull.is_constant())
      throw part.wrong("balances", "a level has a pressure of its own only under a steady gravity",
                       "give pressure, or holds with a level gauge");
}

/// An outlet that holds a level by its gauge.
template <int D>
void read_level_control(const Setup<D>& setup, Part& part, OpeningSetup<D>& made) {
  const std::string name = part.text("holds");
  std::vector<std::string> known;
  bool found = false;
  for (std::size_t i = 0; i < setup.gauges.size(); ++i) {
    if (setup.gauges[i].measures != "level") continue;
    known.push_back(setup.gauges[i].name);
    if (setup.gauges[i].name != name) continue;
    made.gauge = i;
    found = true;
  }
  if (!found)
    throw part.wrong("holds", fmt::format("no level gauge is called '{}'", name.substr(0, 60)),
                     known.empty() ? "add a [[gauge]] with measures = \"level\""
                                   : fmt::format("level gauges are {}", listing(known, "and")));
  for (const char* key : {"target", "most_flow"}) part.need(key);
  made.target = part.quantity("target");
  if (!(made.target > 0 && made.target < setup.size[D - 1]))
    throw part.wrong("target", fmt::format("a level of {} does not lie within the vessel's height of {}",
                                           quantity(made.target, "m"), quantity(setup.size[D - 1], "m")));
  const double full = part.quantity("full_at", fmt::format("{} m", made.target / 10));
  made.most = part.quantity("most_flow");
  made.gain = made.most / full;
}

/// What comes in.
template <int D>
void read_composition(const Setup<D>& setup, Part& part, bool flow, OpeningSetup<D>& made) {
  using Given = typename OpeningSetup<D>::Given;
  if (setup.eulerian) {
    read_mixture(setup, part, flow, made);
    return;
  }
  for (const char* key : {"phases", "shares"})
    if (part.has(key))
      throw part.wrong(key, fmt::format("'{}' belongs to model = \"eulerian\"", key), "give phase and share");
  int phase = flow || made.balances ? 0 : 1;
  if (part.has("phase"))
    phase = named_phases(setup, part).first;
  else if (made.given != Given::pressure && !setup.phases[static_cast<std::size_t>(phase)].name.empty())
    part.note("phase", toml_text(setup.phases[static_cast<std::size_t>(phase)].name));
  if (part.has("share") && setup.free_surface_only)
    throw part.wrong("share", fmt::format("there is nothing but '{}' to come in", setup.phases[0].name),
                     "leave it out");
  // What the case does not say of an opening with a pressure follows from what is at rest outside.
  const bool own_share = !setup.free_surface_only && (part.has("share") || made.given != Given::pressure);
  const double share = own_share ? part.quantity("share") : 1.0;
  made.opening.composition = phase == 0 ? std::vector{share, 1 - share} : std::vector{1 - share, share};
  made.opening.share_outside = made.given == Given::pressure && !part.has("phase") && !part.has("share");
}

/// What a volume of gas at 15 degC and 101.325 kPa weighs.
template <int D>
void read_standard(const Setup<D>& setup, const Part& part, OpeningSetup<D>& made) {
  const auto& shares = made.opening.composition;
  const auto gas = static_cast<std::size_t>(std::ranges::max_element(shares) - shares.begin());
  made.standard_density = setup.phases[gas].standard_density;
  if (made.standard_density == 0 || shares[gas] < 1)
    throw part.wrong("standard_flow",
                     shares[gas] < 1 ? "a standard volume is that of a gas alone, and a mixture comes in here"
                                     : fmt::format("what '{}' weighs at 15 degC and 101.325 kPa is not known",
                                                   setup.phases[gas].name),
                     shares[gas] < 1 ? "give volume_flow or mass_flow"
                                     : "name a gas of the built-in list by phase.fluid, or give mass_flow");
}

template <int D>
void read_flow(const Setup<D>& setup, Part& part, OpeningSetup<D>& made, const FormulaNames& names) {
  using Given = typename OpeningSetup<D>::Given;
  static const std::vector<std::pair<std::string, Given>> kinds{{"speed", Given::speed},
                                                                {"volume_flow", Given::volume_flow},
                                                                {"standard_flow", Given::standard_flow},
                                                                {"mass_flow", Given::mass_flow},
                                                                {"vessel_volumes", Given::vessel_volumes},
                                                                {"pressure", Given::pressure},
                                                                {"holds", Given::level}};
  std::string chosen;
  for (const auto& [key, kind] : kinds) {
    if (!part.has(key)) continue;
    if (!chosen.empty())
      throw part.wrong(key, fmt::format("both '{}' and '{}' are given", chosen, key), "give one of them");
    chosen = key;
    made.given = kind;
  }
  if (part.has("balances")) {
    if (!chosen.empty())
      throw part.wrong("balances", fmt::format("both '{}' and 'balances' are given", chosen), "give one of them");
    read_balance(setup, part, made);
  }
  if (part.has("lets_out")) {
    read_degassing(setup, part, chosen, made);
    read_concentrations(setup, part, made);
    return;
  }
  const bool flow = made.given != Given::pressure && made.given != Given::level;
  read_outside(part, made);

  if (made.balances) {
    made.value = Formula(0);  // until all openings are known
  } else if (chosen.empty()) {
    made.value = Formula(0);
    part.note("pressure", "\"0 Pa\"");
  } else if (made.given != Given::level) {
    made.value = part.formula(chosen, names);
  }
  for (const char* key : {"target", "full_at", "most_flow"})
    if (part.has(key) && made.given != Given::level)
      throw part.wrong(key, fmt::format("'{}' belongs to an outlet that holds a level", key),
                       "add holds = \"NAME\" of a level gauge, or leave it out");
  for (const char* key : {"direction", "profile"})
    if (part.has(key) && !flow) throw part.wrong(key, fmt::format("'{}' belongs to a given flow", key), "leave it out");
  if (made.given == Given::level) read_level_control(setup, part, made);
  if (flow) {
    made.direction = part.choice("direction") == "out" ? -1 : 1;
    using Profile = typename Opening<D>::Profile;
    if (made.on_side())
      made.opening.profile = part.one_of<Profile>(
          "profile", {{"plug", Profile::plug}, {"developed", Profile::laminar}, {"turbulent", Profile::turbulent}},
          "a profile");
  }
  for (const char* key : {"turbulence_intensity", "turbulence_length"})
    if (part.has(key) && setup.turbulence.law == nullptr)
      throw part.wrong(key, "the flow is laminar", "leave it out, or give [turbulence] a law");
  if (part.has("turbulence_intensity")) made.turbulence.intensity = part.quantity("turbulence_intensity");
  if (part.has("turbulence_length")) made.turbulence.length = part.quantity("turbulence_length");
  read_composition(setup, part, flow, made);
  read_concentrations(setup, part, made);
  if (made.given == Given::standard_flow) read_standard(setup, part, made);
}

template <int D>
void check_overlap(const Setup<D>& setup, const Part& part, const OpeningSetup<D>& made) {
  const auto reach = [](const Opening<D>& opening, int d) -> std::pair<double, double> {
    if (opening.within) return {opening.within->lower[d], opening.within->upper[d]};
    if (opening.round)
      return {opening.round->centre[d] - opening.round->radius, opening.round->centre[d] + opening.round->radius};
    return {-1e300, 1e300};
  };
  for (const auto& other : setup.openings) {
    if (!other.on_side() || other.opening.axis != made.opening.axis || other.opening.side != made.opening.side)
      continue;
    bool apart = false;
    for (int d = 0; d < D; ++d) {
      if (d == made.opening.axis) continue;
      const auto [low, high] = reach(made.opening, d);
      const auto [other_low, other_high] = reach(other.opening, d);
      apart = apart || low >= other_high || high <= other_low;
    }
    if (!apart)
      throw part.wrong("", fmt::format("the openings '{}' and '{}' overlap", other.opening.name, made.opening.name),
                       "move one of them, or make it smaller");
  }
}

}  // namespace

template <int D>
OpeningSetup<D> read_opening(Setup<D>& setup, Part& part, const FormulaNames& names, Shell<D>& shell,
                             std::vector<std::string>& notes) {
  part.refuse_unknown();
  OpeningSetup<D> made;
  made.place = part.place();
  auto& opening = made.opening;
  opening.name = part.text("name");
  if (!is_name(opening.name))
    throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  for (const auto& gauge : setup.gauges)
    for (const auto& phase : setup.phases)
      for (const char* way : flow_ways)
        if (gauge.name == flow_column(opening.name, phase.name, way))
          throw part.wrong(
              "name", fmt::format("the flow of '{}' has the column '{}', as a gauge is called", phase.name, gauge.name),
              "choose another name for one of them");
  for (const auto& other : setup.openings)
    if (other.opening.name == opening.name)
      throw part.wrong("name", fmt::format("two openings are called '{}'", opening.name),
                       "give each opening a name of its own");
  if (part.has("spread")) {
    read_zone(setup, part, made);
    read_flow(setup, part, made, names);
    check_source(part, made);
    return made;
  }
  for (const char* key : {"tube", "holes"})
    if (part.has(key)) throw part.wrong(key, fmt::format("'{}' belongs to spread = \"ring\"", key), "leave it out");
  if (part.has("on")) {
    read_wall(setup, part, made);
    read_flow(setup, part, made, names);
    if (made.given == OpeningSetup<D>::Given::pressure)
      throw part.wrong(
          "", fmt::format("the flow through '{}', on the wall of '{}', is not given", opening.name, made.wall),
          "give speed, volume_flow, mass_flow, vessel_volumes or holds; a pressure belongs to an opening on "
          "a side");
    if (setup.eulerian) check_source(part, made);
    return made;
  }
  for (const char* name : {"lower", "upper"})
    if (part.has(name))
      throw part.wrong(name, fmt::format("'{}' picks a piece of the wall of an insert", name),
                       "add on = \"NAME\", or give centre and size");
  part.need("side", "write side (of the vessel's box), or on (an insert, or \"vessel\" for a wall of its shape)");
  const std::string side = part.choice("side", "");

  if (D == 2 && (side == "front" || side == "back"))
    throw part.wrong("side", "a 2-D vessel has no such side", "choose left, right, bottom or top");
  for (int axis = 0; axis < D; ++axis)
    for (int end = 0; end < 2; ++end)
      if (side == side_name<D>(axis, end)) {
        opening.axis = axis;
        opening.side = end;
      }
  if (opening.side == 0 && mirrored(setup, opening.axis))
    throw part.wrong("side", "there is no such side in the part of the vessel that is computed",
                     "choose the opposite side, or see vessel.symmetry");
  if (setup.periodic[static_cast<std::size_t>(opening.axis)])
    throw part.wrong("side", "there is no such side where the vessel repeats", "choose another side");
  read_place(setup, part, made, shell, notes);
  read_flow(setup, part, made, names);
  check_overlap(setup, part, made);
  return made;
}

template <int D>
void find_back_pressures(Setup<D>& setup, std::vector<std::string>& notes, const Place& place) {
  const auto height = [&](const OpeningSetup<D>& given) {
    const auto& opening = given.opening;
    if (opening.axis == D - 1) return opening.side == 0 ? setup.lower[D - 1] : setup.upper[D - 1];
    if (opening.round) return opening.round->centre[D - 1];
    return opening.within ? 0.5 * (opening.within->lower[D - 1] + opening.within->upper[D - 1])
                          : 0.5 * setup.size[D - 1];
  };
  for (auto& given : setup.openings) {
    if (!given.balances) continue;
    const std::string name = given.opening.name;
    given.opening.outside_level = given.target;
    given.value = Formula(0);  // at that level
    if (setup.free_surface_only) {
      const double g = setup.acceleration[D - 1](0) - setup.gravity[D - 1](0);
      const double pressure = g * setup.phases[0].properties.density * (given.target - height(given));
      notes.push_back(fmt::format("'{}' leads to a pressure of {}, which balances a level of {}", name,
                                  quantity(pressure, "Pa"), quantity(given.target, "m")));
      continue;
    }
    const OpeningSetup<D>* vent = nullptr;
    for (const auto& other : setup.openings)
      if (other.given == OpeningSetup<D>::Given::pressure && !other.balances &&
          (vent == nullptr || height(other) > height(*vent)))
        vent = &other;
    if (vent == nullptr)
      throw input_error(place,
                        fmt::format("no other opening gives the pressure over which '{}' balances a level", name),
                        "add an opening with pressure = \"0 Pa\", such as a vent");
    if (!vent->value.is_constant())
      throw input_error(place,
                        fmt::format("the pressure at '{}' changes with time; '{}' can balance a level only over "
                                    "a steady one",
                                    vent->opening.name, name),
                        "give '" + name + "' a pressure of its own");
    if (height(*vent) < given.target)
      throw input_error(place,
                        fmt::format("'{}' is to balance a level of {}, above the vent '{}' at {}", name,
                                    quantity(given.target, "m"), vent->opening.name, quantity(height(*vent), "m")),
                        "choose a lower level, or a higher vent");
    const double g = setup.acceleration[D - 1](0) - setup.gravity[D - 1](0);
    const double outside = sharp::Settings<D>{}.outside_density;
    const auto weight = [&](const Phase& phase) { return g * (phase.properties.density - outside); };
    const double above = vent->value(0) + weight(setup.phases.back()) * (height(*vent) - given.target);
    const double pressure = above + weight(setup.phases[given.opening.column_phase]) * (given.target - height(given));
    given.value = Formula(above);
    notes.push_back(fmt::format("'{}' leads to a pressure of {}, which balances a level of {} below '{}'", name,
                                quantity(pressure, "Pa"), quantity(given.target, "m"), vent->opening.name));
  }
}

template <int D>
void choose_outside(Setup<D>& setup, std::vector<std::string>& notes) {
  using Outside = typename Opening<D>::Outside;
  const auto gives_pressure = [](const OpeningSetup<D>& given) {
    return given.given == OpeningSetup<D>::Given::pressure;
  };
  // Of two liquids what leads away below the denser one is full of it.
  constexpr double of_liquids = 100;  // [kg/m3]
  for (auto& given : setup.openings) {
    const bool floor = given.opening.axis == D - 1 && given.opening.side == 0 && filled_up_to(setup) > 0;
    if (gives_pressure(given) && given.opening.share_outside && setup.phases.back().properties.density > of_liquids &&
        given.on_side() && (floor || submerged(setup, given))) {
      std::ranges::fill(given.opening.composition, 0.0);
      given.opening.composition[0] = 1;
    }
  }
  if (std::ranges::count_if(setup.openings, gives_pressure) != 1) return;
  auto& given = *std::ranges::find_if(setup.openings, gives_pressure);
  if (given.outside_given || given.balances || !submerged(setup, given)) return;
  given.opening.outside = Outside::inside;
  notes.push_back(
      fmt::format("'{}' lies below a fill and is the only opening with a pressure: at rest outside is the "
                  "same as inside (outside = \"inside\")",
                  given.opening.name));
}

template void choose_outside<2>(Setup<2>&, std::vector<std::string>&);
template void choose_outside<3>(Setup<3>&, std::vector<std::string>&);
template void find_back_pressures<2>(Setup<2>&, std::vector<std::string>&, const Place&);
template void find_back_pressures<3>(Setup<3>&, std::vector<std::string>&, const Place&);
template OpeningSetup<2> read_opening<2>(Setup<2>&, Part&, const FormulaNames&, Shell<2>&, std::vector<std::string>&);
template OpeningSetup<3> read_opening<3>(Setup<3>&, Part&, const FormulaNames&, Shell<3>&, std::vector<std::string>&);

}  // namespace wavy
