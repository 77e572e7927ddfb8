#include "case/agitators.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "case/turning_frames.hpp"
#include "run/agitators.hpp"

namespace wavy {
namespace {

constexpr double pi = std::numbers::pi;

/// Keys of measures that only some kinds have.
void refuse_foreign_measures(const Part& part, ImpellerKind kind) {
  using Kind = ImpellerKind;
  const bool strips = stands_on_its_end(kind);
  const bool disc = kind == Kind::disc_turbine || kind == Kind::curved_blade;
  const std::vector<std::pair<const char*, bool>> belongs{
      {"blade_angle", !strips && !disc}, {"blade_length", !strips}, {"disc_diameter", disc},
      {"hub_diameter", !strips},         {"height", strips},        {"rise", kind == Kind::ribbon}};
  const auto& name = std::ranges::find(impeller_kinds(), kind, [](const auto& one) { return one.second; })->first;
  for (const auto& [key, own] : belongs)
    if (part.has(key) && !own)
      throw part.wrong(key, fmt::format("a {} has no '{}'", name, key), "leave the key out, or change kind");
}

Impeller read_measures(Part& part) {
  const auto kind = part.one_of<ImpellerKind>("kind", impeller_kinds(), "an impeller");
  refuse_foreign_measures(part, kind);
  Impeller made = usual_impeller(kind, part.quantity("diameter"));
  if (part.has("blades")) made.blades = static_cast<int>(part.whole_number("blades"));
  const auto take = [&](const char* key, double& value, double most) {
    if (part.has(key)) value = part.quantity(key);
    if (value > most * (1 + 1e-9))
      throw part.wrong(key,
                       fmt::format("{} is more than there is room for, {}", quantity(value, "m"), quantity(most, "m")));
  };
  const double D = made.diameter;
  take("blade_height", made.blade_height, D);
  take("blade_thickness", made.blade_thickness, D / 4);
  take("blade_length", made.blade_length, D / 2);
  take("disc_diameter", made.disc_diameter, D);
  take("hub_diameter", made.hub_diameter, D);
  take("height", made.height, 10 * D);
  take("rise", made.rise, 100 * D);
  if (part.has("blade_angle")) made.blade_angle = part.quantity("blade_angle");
  constexpr double flattest = 5 * pi / 180;
  if (made.blade_angle < flattest || made.blade_angle > pi - flattest)
    throw part.wrong("blade_angle", "a blade stands at 5 deg to 175 deg to the plane that it turns in");
  return made;
}

/// Throws an input error where a place of the ring that a part sweeps is not free.
template <int D>
void refuse_solid_at(const Setup<D>& setup, const Solid<D>& inside, const std::string& name, const Place& size,
                     const Vec<D>& place) {
  const auto there = stands_at<D>(setup, inside, place);
  if (!there) return;
  const bool wall = inside.distance(place) > 0;
  throw input_error(size,
                    fmt::format("'{}' {} {} at ({:.4g}) m", name, wall ? "reaches through" : "would turn through",
                                *there, fmt::join(place, ", ")),
                    wall ? "choose a smaller one, or another place" : "leave a gap between them");
}

/// Throws an input error where a part would turn through a wall or an insert: what it sweeps is looked at on rings, up
/// to a height.
template <int D>
void check_sweep(const Setup<D>& setup, const Solid<D>& inside, const AgitatorPart<D>& own, const Place& size,
                 double top) {
  const Vec<D>& at = setup.agitators[own.agitator].at;
  const Vec<D>& lower = own.solid.lower;
  const Vec<D>& upper = own.solid.upper;
  const double reach = reach_of<D>(own.solid, at);
  constexpr int rows = D == 3 ? 40 : 0;
  constexpr int rings = D == 3 ? 40 : 200;
  constexpr int angles = D == 3 ? 72 : 360;
  for (int row = 0; row <= rows; ++row) {
    Vec<D> middle = at;
    if constexpr (D == 3) {
      middle[2] = lower[2] + (upper[2] - lower[2]) * row / rows;
      if (middle[2] > top) continue;  // a shaft goes on to its drive
    }
    for (int ring = 0; ring <= rings; ++ring) {
      std::vector<Vec<D>> places(angles, middle);
      for (int i = 0; i < angles; ++i) {
        const double angle = 2 * pi * i / angles;
        places[static_cast<std::size_t>(i)][0] += reach * ring / rings * std::cos(angle);
        places[static_cast<std::size_t>(i)][1] += reach * ring / rings * std::sin(angle);
      }
      if (std::ranges::none_of(places, [&](const Vec<D>& place) { return own.solid.distance(place) < 0; })) continue;
      for (const Vec<D>& place : places) refuse_solid_at<D>(setup, inside, own.name, size, place);
    }
  }
}

template <int D>
void refuse_name_twice(const Setup<D>& setup, const Place& place, const std::string& name) {
  const bool taken = std::ranges::any_of(setup.agitators, [&](const auto& own) { return own.name == name; }) ||
                     std::ranges::any_of(setup.agitator_parts, [&](const auto& own) { return own.name == name; });
  if (taken)
    throw input_error(place, fmt::format("something that turns is called '{}' already", name), "choose another name");
}

/// Heights from which to which an impeller reaches.
std::array<double, 2> heights_of(const AgitatorPart<3>& part) {
  return {part.height + lower_end(*part.impeller), part.height + upper_end(*part.impeller)};
}

ToTurn<3> read_impeller(Part& part, const Setup<3>& setup, std::size_t number) {
  part.refuse_unknown();
  ToTurn<3> made;
  made.part.place = part.place();
  made.part.name = part.text("name", fmt::format("impeller {}", number));
  if (part.has("turns_with")) made.with = part.text("turns_with");
  made.with_place = part.place(part.has("turns_with") ? "turns_with" : "");
  made.size_place = part.place("diameter");
  const Impeller impeller = read_measures(part);
  made.part.impeller = impeller;
  made.part.height = part.quantity("clearance");
  const double thickness = least_thickness * setup.cell_size;
  const auto [lower, upper] = heights_of(made.part);
  if (lower < 0 || upper > setup.upper[2])
    throw part.wrong("clearance",
                     fmt::format("'{}' would reach from {} to {}, and the vessel from 0 m to {}", made.part.name,
                                 quantity(lower, "m"), quantity(upper, "m"), quantity(setup.upper[2], "m")),
                     "choose another clearance");
  const Vec<3> up{0, 0, made.part.height};
  made.part.solid = moved<3>(impeller_solid(impeller, thickness, edge_cut * setup.cell_size), up);
  made.true_size = moved<3>(impeller_solid(impeller), up);
  return made;
}

/// The shaft of an agitator with impellers, from the lowest of them up to the drive.
void add_shaft(Part& part, Setup<3>& setup, std::size_t number, const Solid<3>& inside) {
  const Agitator<3>& agitator = setup.agitators[number];
  double lowest = 1e300;
  double widest = 0;
  for (const auto& own : setup.agitator_parts)
    if (own.agitator == number && own.impeller) {
      lowest = std::min(lowest, heights_of(own)[0]);
      widest = std::max(widest, own.impeller->diameter);
    }
  if (widest == 0 && !part.has("shaft_diameter")) {
    for (const char* key : {"shaft_from", "shaft_to"})
      if (part.has(key)) throw part.wrong(key, "nothing says how thick the shaft is", "add shaft_diameter");
    return;
  }
  const double diameter = part.quantity("shaft_diameter", fmt::format("{:.6g} m", widest / 10));
  if (diameter == 0) return;
  const double top = setup.upper[2];
  const double from = part.quantity("shaft_from", fmt::format("{:.6g} m", widest > 0 ? lowest : 0.0));
  const double to = part.quantity("shaft_to", fmt::format("{:.9g} m", top));
  if (!(to > from) || to > top * (1 + 1e-6))
    throw part.wrong("shaft_to", fmt::format("a shaft from {} to {} does not lie between the vessel's 0 m and {}",
                                             quantity(from, "m"), quantity(to, "m"), quantity(top, "m")));
  AgitatorPart<3> made;
  made.name = setup.agitators.size() == 1 ? "shaft" : agitator.name + " shaft";
  refuse_name_twice(setup, part.place("shaft_diameter"), made.name);
  made.agitator = number;
  made.is_shaft = true;
  made.place = agitator.place;
  // Beyond the ends of the vessel, so that no face there counts as its end.
  const double beyond = 2 * setup.cell_size;
  const auto body = [&](double radius) {
    Vec<3> low = agitator.at;
    Vec<3> high = agitator.at;
    low[2] = from <= 0 ? -beyond : from;
    high[2] = to >= top * (1 - 1e-6) ? top + beyond : to;
    return cylinder_solid<3>(low, high, radius);
  };
  made.solid = body(0.5 * diameter);
  check_sweep(setup, inside, made, part.place("shaft_diameter"), std::min(to, top - setup.cell_size));
  made.solid = body(std::max(0.5 * diameter, 0.5 * least_thickness * setup.cell_size));
  setup.agitator_parts.push_back(made);
}

/// What keeps the liquid from turning with an impeller.
template <int D>
bool has_baffles(const Setup<D>& setup) {
  return !setup.inserts.empty() || !setup.thin_walls.empty();
}

/// Whether the liquid may turn with an agitator in the middle of a round vessel as it likes.
template <int D>
bool turns_freely(const Setup<D>& setup, const AgitatorPart<D>& part) {
  if (D == 2 || !setup.vessel || has_baffles(setup)) return false;
  const Vec<D>& at = setup.agitators[part.agitator].at;
  bool in_middle = true;
  for (std::size_t d = 0; d < 2; ++d)
    in_middle = in_middle && std::abs(at[d] - 0.5 * setup.size[d]) < 0.01 * setup.size[d];
  return in_middle;
}

/// rho N D^2/mu of an impeller at its greatest speed in the densest phase; 0 where that has no one viscosity.
template <int D>
double reynolds_number(const Setup<D>& setup, const AgitatorPart<D>& part) {
  const Properties& liquid = setup.phases[0].properties;
  if (!liquid.rheology.constant() || liquid.viscosity <= 0) return 0;
  const double N = greatest_speed(setup, setup.agitators[part.agitator]) / (2 * pi);
  return liquid.density * N * std::pow(part.impeller->diameter, 2) / liquid.viscosity;
}

/// One [[agitator]], without what turns with it.
template <int D>
Agitator<D> read_agitator(Sections& sections, const Setup<D>& setup, Part& part, std::size_t number) {
  part.refuse_unknown();
  Agitator<D> made;
  made.place = part.place();
  if (std::ranges::any_of(setup.periodic, [](bool repeats) { return repeats; }))
    throw part.wrong("", "a vessel that repeats has no place for an agitator", "leave vessel.repeats out");
  made.name = part.text("name", fmt::format("agitator {}", number));
  refuse_name_twice(setup, part.place("name"), made.name);
  part.need("speed", "write, for example, speed = \"240 rev/min\"");
  made.speed = part.formula("speed", sections.names());
  for (const char* place : {"x", "y", "z"})
    if (made.speed.uses(place)) throw part.wrong("speed", "a speed changes with time t alone", "leave out x, y and z");
  made.at = along<D>(Vec<D>{}, 0.5, setup.size);
  if (part.has("at")) {
    const Vec<D> at = point<D>(part, "at", 2);
    made.at[0] = at[0];
    made.at[1] = at[1];
  }
  for (std::size_t d = 0; d < 2; ++d)
    if (made.at[d] < 0 || made.at[d] > setup.size[d])
      throw part.wrong("at", "the axis lies outside the vessel",
                       fmt::format("along {} it reaches from 0 to {}", "xy"[d], quantity(setup.size[d], "m")));
  if (part.has("position")) made.position = part.quantity("position");
  return made;
}

/// Takes up what turns with the agitator read last; `only`: there is no other.
template <int D>
void take_along(Setup<D>& setup, const Solid<D>& inside, const std::vector<ToTurn<D>>& to_turn, bool only) {
  const std::size_t number = setup.agitators.size() - 1;
  const Agitator<D>& agitator = setup.agitators[number];
  for (const auto& one : to_turn) {
    if (one.with.empty() ? !only : one.with != agitator.name) continue;
    AgitatorPart<D> part = one.part;
    refuse_name_twice(setup, part.place, part.name);
    part.agitator = number;
    AgitatorPart<D> true_size = part;
    true_size.solid = one.true_size;
    if (part.impeller) {
      Vec<D> at = agitator.at;
      if constexpr (D == 3) at[2] = 0;
      part.solid = moved<D>(part.solid, at);
      true_size.solid = moved<D>(one.true_size, at);
    }
    check_sweep(setup, inside, true_size, one.size_place, setup.upper[D - 1]);
    setup.agitator_parts.push_back(part);
  }
}

/// Parts of different agitators must not sweep through each other, as far as the circles that they sweep tell.
template <int D>
void refuse_meeting(const Setup<D>& setup) {
  const auto swept = [&](const AgitatorPart<D>& part) {
    const Vec<D>& at = setup.agitators[part.agitator].at;
    double widest = 0;  // of the body in its box
    for (std::size_t d = 0; d < 2; ++d)
      widest = std::max({widest, part.solid.upper[d] - at[d], at[d] - part.solid.lower[d]});
    return Swept<D>{at, part.impeller ? 0.5 * part.impeller->diameter : widest, part.solid.lower[D - 1],
                    part.solid.upper[D - 1]};
  };
  for (const auto& one : setup.agitator_parts)
    for (const auto& other : setup.agitator_parts) {
      if (one.agitator >= other.agitator || !meet<D>(swept(one), swept(other))) continue;
      throw input_error(other.place, fmt::format("'{}' and '{}' sweep through each other", one.name, other.name),
                        "move their agitators apart, or let them turn with one");
    }
}

}  // namespace

template <int D>
ToTurn<D> read_turning_insert(Part& part, const Setup<D>& setup, const Solid<D>& solid, const std::string& name) {
  if (part.choice("does") != "blocks")
    throw part.wrong("does", "what turns is solid", "leave it out, or leave turns_with out");
  for (std::size_t d = 0; d < D; ++d)
    if (const double thick = solid.upper[d] - solid.lower[d]; thick < least_thickness * setup.cell_size * (1 - 1e-9))
      throw part.wrong(
          "",
          fmt::format("'{}' is only {} thick; what turns has to be {:g} cells thick, {}", name, quantity(thick, "m"),
                      least_thickness, quantity(least_thickness * setup.cell_size, "m")),
          "make it thicker, choose a smaller grid.cell, or describe it as an [[impeller]]");
  ToTurn<D> made;
  made.part.name = name;
  made.part.solid = made.true_size = solid;
  made.part.place = made.size_place = part.place();
  made.with = part.text("turns_with");
  made.with_place = part.place("turns_with");
  return made;
}

template <int D>
void read_impellers(Sections& sections, const Setup<D>& setup, std::vector<ToTurn<D>>& to_turn) {
  std::size_t number = 0;
  sections.each("impeller", [&](Part part) {
    if constexpr (D == 3)
      to_turn.push_back(read_impeller(part, setup, ++number));
    else
      throw part.wrong("", "an impeller belongs in a 3-D vessel", "in 2-D let an insert turn: give it turns_with");
  });
}

template <int D>
void read_agitators(Sections& sections, Setup<D>& setup, const Solid<D>& inside, std::vector<ToTurn<D>> to_turn) {
  const toml::array* list = sections.root()["agitator"].as_array();
  const bool only = list != nullptr && list->size() == 1;
  std::size_t number = 0;
  sections.each("agitator", [&](Part part) {
    setup.agitators.push_back(read_agitator(sections, setup, part, ++number));
    take_along(setup, inside, to_turn, only);
    if constexpr (D == 3) {
      add_shaft(part, setup, number - 1, inside);
    } else {
      for (const char* key : {"shaft_diameter", "shaft_from", "shaft_to"})
        if (part.has(key)) throw part.wrong(key, "in 2-D a shaft is an insert that turns", "leave it out");
    }
    read_frames(part, setup, inside);
  });
  refuse_meeting(setup);
  refuse_meeting_frames(setup);
  std::vector<std::string> names;
  for (const auto& agitator : setup.agitators) names.push_back(agitator.name);
  for (const auto& one : to_turn) {
    if (names.empty())
      throw input_error(one.with_place, fmt::format("there is no agitator for '{}' to turn with", one.part.name),
                        "add an [[agitator]] with its speed");
    if (one.with.empty() && !only)
      throw input_error(
          one.with_place,
          fmt::format("which of the {} agitators '{}' turns with is not said", names.size(), one.part.name),
          fmt::format("add turns_with = \"{}\"", names[0]));
    if (one.with.empty() || std::ranges::find(names, one.with) != names.end()) continue;
    const std::string near = nearest(one.with, names);
    throw input_error(
        one.with_place, fmt::format("no agitator is called '{}'", one.with.substr(0, 60)),
        near.empty() ? fmt::format("known are {}", listing(names, "and")) : fmt::format("did you mean '{}'?", near));
  }
  for (std::size_t i = 0; i < setup.agitators.size(); ++i)
    if (std::ranges::none_of(setup.agitator_parts, [&](const auto& own) { return own.agitator == i; }))
      throw input_error(setup.agitators[i].place, fmt::format("nothing turns with '{}'", setup.agitators[i].name),
                        "add an [[impeller]], or give an insert turns_with");
}

template <int D>
std::vector<std::string> words_on_agitators(const Setup<D>& setup) {
  std::vector<std::string> lines;
  const double depth = filled_up_to(setup);
  for (const auto& own : setup.agitator_parts) {
    const double omega = greatest_speed(setup, setup.agitators[own.agitator]);
    const double N = omega / (2 * pi);
    const std::string speeds = fmt::format("at up to {:.4g} rev/min ({:.4g} Hz, {:.4g} rad/s)", 60 * N, N, omega);
    if (!own.impeller) {
      lines.push_back(fmt::format("{}: {}", own.name, speeds));
      continue;
    }
    const double diameter = own.impeller->diameter;
    lines.push_back(fmt::format("{}: {} across, {}, tips {}", own.name, quantity(diameter, "m"), speeds,
                                quantity(0.5 * omega * diameter, "m/s")));
    const double top = own.height + upper_end(*own.impeller);
    const std::string submergence =
        depth < top ? fmt::format("it stands out of the liquid by {} at the start", quantity(top - depth, "m"))
                    : fmt::format("{} of liquid over it at the start", quantity(depth - top, "m"));
    const double reynolds = reynolds_number(setup, own);
    if (reynolds == 0) {
      lines.push_back(submergence);
      continue;
    }
    lines.push_back(fmt::format("Re {:.3g}, Fr {:.3g}; {}", reynolds, N * N * diameter / 9.80665, submergence));
    const auto expected = expected_power(*own.impeller, reynolds, setup.size[0], depth, has_baffles(setup));
    if (expected.number == 0) continue;
    const double power = expected.number * setup.phases[0].properties.density * std::pow(N, 3) * std::pow(diameter, 5);
    std::string numbers = fmt::format("power number {:.3g}, {}", expected.number, quantity(power, "W"));
    constexpr double upright = 0.5 * pi - 1e-3;
    if (own.impeller->kind == ImpellerKind::paddle && own.impeller->blade_angle > upright && turns_freely(setup, own) &&
        depth < setup.size[D - 1])
      numbers += fmt::format(
          ", a well of {}",
          quantity(vortex_depth(expected_core(*own.impeller, reynolds, setup.size[0]), omega, setup.size[0]), "m"));
    lines.push_back(fmt::format("to be expected: {} ({})", numbers, expected.source));
    if (stands_as_sheet(setup, own)) continue;
    Impeller computed = *own.impeller;
    computed.blade_thickness = std::max(computed.blade_thickness, least_thickness * setup.cell_size);
    const double thick = expected_power(computed, reynolds, setup.size[0], depth, has_baffles(setup)).number;
    if (thick < 0.97 * expected.number)
      lines.push_back(fmt::format("with blades as thick as they are computed, {}: {:.3g} (by the same formula)",
                                  quantity(computed.blade_thickness, "m"), thick));
  }
  return lines;
}

template <int D>
std::vector<std::string> words_on_frames(const Setup<D>& setup) {
  std::vector<std::string> lines;
  for (const auto& agitator : setup.agitators) {
    std::vector<std::string> zones;
    for (const auto& zone : agitator.frames) {
      zones.push_back(fmt::format("{} across", quantity(2 * zone.radius, "m")));
      if (D == 3) zones.back() += fmt::format(" from {} to {}", quantity(zone.lower, "m"), quantity(zone.upper, "m"));
    }
    if (!zones.empty())
      lines.push_back(fmt::format("'{}' stands still, seen from a frame that turns with it: {}", agitator.name,
                                  fmt::join(zones, ", ")));
  }
  return lines;
}

template <int D>
std::vector<std::string> words_on_gassing(const Setup<D>& setup, double flow, double room) {
  std::vector<std::string> lines;
  const AgitatorPart<D>* lowest = nullptr;
  for (const auto& own : setup.agitator_parts)
    if (own.impeller && own.impeller->kind == ImpellerKind::disc_turbine &&
        (lowest == nullptr || own.height < lowest->height))
      lowest = &own;
  if (lowest == nullptr || flow <= 0) return lines;
  const double N = greatest_speed(setup, setup.agitators[lowest->agitator]) / (2 * pi);
  if (N <= 0) return lines;
  constexpr double g = 9.80665;
  const double diameter = lowest->impeller->diameter;
  const double number = flow / (N * std::pow(diameter, 3));
  const double froude = N * N * diameter / g;
  const double flooding = 30 * froude * std::pow(diameter / setup.size[0], 3.5);
  lines.push_back(
      fmt::format("{} of gas: flow number {:.3g} at '{}', flooded from {:.3g} on (Nienow et al., 5th Europ. Conf. "
                  "Mixing (1985) 143)",
                  quantity(flow, "m3/s"), number, lowest->name, flooding));
  if (number >= flooding) return lines;
  const double share =
      0.1 * std::pow(flow / (N * room), -0.25) *
      std::pow(N * N * std::pow(diameter, 4) / (g * lowest->impeller->blade_height * std::pow(room, 2.0 / 3)), -0.2);
  lines.push_back(
      fmt::format("power with gas over that without to be expected: {:.2g} (Hughmark, Ind. Eng. Chem. "
                  "Process Des. Dev. 19 (1980) 638)",
                  std::min(share, 1.0)));
  return lines;
}

template <int D>
void remark_agitators(const Setup<D>& setup, CaseFile& out) {
  for (const auto& own : setup.agitator_parts) {
    if (!own.impeller) continue;
    if (const double thickness = least_thickness * setup.cell_size; own.impeller->blade_thickness < thickness)
      out.notes.push_back(fmt::format("blades of '{}' ({}) are thinner than 1.5 cells: they {}", own.name,
                                      quantity(own.impeller->blade_thickness, "m"),
                                      stands_as_sheet(setup, own)
                                          ? "stand between cells as sheets"
                                          : fmt::format("are computed {} thick", quantity(thickness, "m"))));
    const double reynolds = reynolds_number(setup, own);
    constexpr double turbulent = 1e4;
    if (reynolds > turbulent && setup.turbulence.law == nullptr)
      out.remarks.push_back(fmt::format(
          "'{}' stirs at Re {:.2g}, and no law of turbulence is given: only eddies that cells resolve are there; add "
          "[turbulence], such as law = \"k_omega_sst\"",
          own.name, reynolds));
    const auto& turbulence = setup.turbulence;
    if (reynolds > turbulent && turbulence.law != nullptr && turbulence.law->second != TurbulenceLaw::Second::none &&
        !turbulence.rotation_correction && turns_freely(setup, own))
      out.notes.push_back(fmt::format(
          "nothing keeps the liquid from turning with '{}', and turning stills turbulence, of which {} by itself knows "
          "nothing: power comes out too great (twice, in the case 'kettle_vortex') and the well too shallow; {}"
          "turbulence.rotation_correction = \"yes\" helps",
          own.name, turbulence.law->name, turbulence.law->name == "k_omega_sst" ? "" : "law = \"k_omega_sst\" with "));
    constexpr double few = 16;
    constexpr double too_few = 12;
    const double across = own.impeller->diameter / setup.cell_size;
    if (across < few - 1e-6)
      (across < too_few ? out.remarks : out.notes)
          .push_back(fmt::format(
              "'{}' is only {:.0f} cells across: its torque is a rough figure; a cell of {} would make {:.0f}",
              own.name, across, quantity(own.impeller->diameter / few, "m"), few));
  }
}

template ToTurn<2> read_turning_insert<2>(Part&, const Setup<2>&, const Solid<2>&, const std::string&);
template ToTurn<3> read_turning_insert<3>(Part&, const Setup<3>&, const Solid<3>&, const std::string&);
template void read_impellers<2>(Sections&, const Setup<2>&, std::vector<ToTurn<2>>&);
template void read_impellers<3>(Sections&, const Setup<3>&, std::vector<ToTurn<3>>&);
template void read_agitators<2>(Sections&, Setup<2>&, const Solid<2>&, std::vector<ToTurn<2>>);
template void read_agitators<3>(Sections&, Setup<3>&, const Solid<3>&, std::vector<ToTurn<3>>);
template std::vector<std::string> words_on_agitators<2>(const Setup<2>&);
template std::vector<std::string> words_on_agitators<3>(const Setup<3>&);
template std::vector<std::string> words_on_frames<2>(const Setup<2>&);
template std::vector<std::string> words_on_frames<3>(const Setup<3>&);
template std::vector<std::string> words_on_gassing<2>(const Setup<2>&, double, double);
template std::vector<std::string> words_on_gassing<3>(const Setup<3>&, double, double);
template void remark_agitators<2>(const Setup<2>&, CaseFile&);
template void remark_agitators<3>(const Setup<3>&, CaseFile&);

}  // namespace wavy
