#include "case/gauges.hpp"

#include "case/coverings.hpp"
#include "case/moving_walls.hpp"

namespace wavy {

using Needs = GaugeKind::Needs;

namespace {

template <int D>
void read_gauge_place(const Setup<D>& setup, Part& part, Needs needs, Gauge<D>& gauge) {
  const int entries = needs == Needs::upright_line ? D - 1 : D;
  gauge.at = point<D>(part, "at", entries);
  for (int d = 0; d < entries; ++d)
    if (gauge.at[d] < 0 || gauge.at[d] > setup.size[d])
      throw part.wrong("at",
                       fmt::format("{} is outside the vessel, which reaches from 0 to {}", quantity(gauge.at[d], "m"),
                                   quantity(setup.size[d], "m")),
                       "choose a place inside");
}

template <int D>
void read_gauge_direction(Part& part, Gauge<D>& gauge) {
  gauge.axis = part.choice("along")[0] - 'x';
  if (gauge.axis >= D) throw part.wrong("along", "a 2-D vessel has no z axis", "write \"x\" or \"y\"");
}

template <int D>
void read_gauge_wall(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  part.need("wall", "write, for example, wall = \"right\"");
  read_wall_name(setup, part, gauge.wall);
  read_gauge_direction(part, gauge);
  if (cancels_along(setup, gauge.axis))
    throw part.wrong("along", fmt::format("along {} the forces on images cancel", "xyz"[gauge.axis]),
                     "choose another axis, or leave vessel.symmetry out");
}

/// The axis of a moment; the section of a 2-D vessel lies across it.
template <int D>
void read_gauge_axis(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  part.need("wall", "write, for example, wall = \"vessel\"");
  read_wall_name(setup, part, gauge.wall);
  gauge.axis = 2;
  if (D == 2 && part.has("about")) throw part.wrong("about", "in 2-D moments are about z", "leave the key out");
  if (D == 3) gauge.axis = part.choice("about")[0] - 'x';
  if (setup.symmetry == Symmetry::round)
    throw part.wrong("measures", "round an axis the moments of a ring cancel", "describe the vessel in 3-D");
  const bool turned = turn_of(setup) != Turn::none;
  if (turned && gauge.axis != 2)
    throw part.wrong("about", "the moments on images cancel", "write about = \"z\", or leave vessel.symmetry out");
  for (int d = 0; d < D && !turned; ++d)
    if (d != gauge.axis && mirrored(setup, d))
      throw part.wrong("measures", "the moments on mirror images cancel",
                       "choose an axis across the mirrors, or leave vessel.symmetry out");
}

/// A box that reaches into the vessel; along at most `flat` axes it may have no thickness.
template <int D>
AlignedBox<D> read_gauge_box(const Setup<D>& setup, Part& part, int flat) {
  AlignedBox<D> box = read_box<D>(part, flat > 0);
  for (int d = 0; d < D; ++d) {
    const bool thin = box.lower[d] == box.upper[d];
    flat -= thin ? 1 : 0;
    const bool above = thin ? box.lower[d] > setup.upper[d] : box.lower[d] >= setup.upper[d];
    if (above || (thin ? box.upper[d] < setup.lower[d] : box.upper[d] <= setup.lower[d]))
      throw part.wrong(above ? "lower" : "upper", "the box lies outside the vessel",
                       fmt::format("along {} the vessel reaches from 0 to {}", "xyz"[d], quantity(setup.size[d], "m")));
  }
  if (flat < 0)
    throw part.wrong("upper", "the box has no thickness along too many axes",
                     "a plane has none along one axis, in space a line has none along two; a point is for \"value\"");
  return box;
}

/// A zone: a box, a ball or where a formula is positive; or none. Boxes need a thickness along all axes but `flat`.
template <int D>
void read_gauge_zone(const Setup<D>& setup, Part& part, const FormulaNames& names, int flat, Gauge<D>& gauge) {
  const bool box = part.has("lower") || part.has("upper");
  const bool ball = part.has("centre") || part.has("diameter");
  const bool formula = part.has("where");
  if (box + ball + formula > 1)
    throw part.wrong(formula ? "where" : "centre", "a zone is one thing",
                     "give lower and upper, or centre and diameter, or where");
  if (box) gauge.zone = read_gauge_box(setup, part, flat);
  if (ball) gauge.zone = read_ball<D>(part);
  if (formula) gauge.zone = read_covering_where<D>(part, names);
}

/// A line between two points of the vessel, if there is one; instead of a zone.
template <int D>
void read_gauge_line(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  if (!part.has("from") && !part.has("to")) return;
  for (const char* key : {"from", "to"}) part.need(key, "a line has two ends");
  if (gauge.zone) throw part.wrong("from", "a zone is one thing", "give a line, or a box, a ball or a formula");
  gauge.line = {point<D>(part, "from"), point<D>(part, "to")};
  if (gauge.line->front() == gauge.line->back())
    throw part.wrong("to", "the line has no length", "a single point is for measures = \"value\"");
  for (const auto& [key, end] : {std::pair{"from", gauge.line->front()}, {"to", gauge.line->back()}})
    for (int d = 0; d < D; ++d)
      if (end[d] < setup.lower[d] || end[d] > setup.upper[d])
        throw part.wrong(
            key,
            fmt::format("{} is outside what is computed, which reaches along {} from {} to {}", quantity(end[d], "m"),
                        "xyz"[d], quantity(setup.lower[d], "m"), quantity(setup.upper[d], "m")),
            "choose a place inside");
}

/// The plane through which a phase flows.
template <int D>
void read_gauge_plane(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  for (const char* key : {"lower", "upper"})
    part.need(key, "the plane is a box without thickness: lower and upper are alike along one axis");
  const AlignedBox<D> box = read_gauge_box(setup, part, 1);
  int axis = D;
  for (int d = 0; d < D; ++d)
    if (box.lower[d] == box.upper[d]) axis = d;
  if (axis == D)
    throw part.wrong("upper", "a flow is through a plane, and this box has a thickness along every axis",
                     "give lower and upper the same place along one axis");
  if (cancels_along(setup, axis))
    throw part.wrong("upper",
                     setup.symmetry == Symmetry::round
                         ? std::string("round an axis this is a cylinder, no plane")
                         : fmt::format("through a plane across {} images cancel", "xyz"[axis]),
                     "choose a plane across another axis, or leave vessel.symmetry out");
  gauge.zone = box;
}

/// Whether a word stands for something in every formula.
bool has_meaning(const std::string& word, const FormulaNames& names) {
  return word == "t" || word == "x" || word == "y" || word == "z" || word == "pi" || names.constants.contains(word) ||
         names.tables.contains(word) || is_formula_function(word);
}

bool has_word(const std::string& text, const std::string& word) {
  for (std::size_t at = text.find(word); at != std::string::npos; at = text.find(word, at + 1)) {
    const std::size_t end = at + word.size();
    if ((at == 0 || !is_word_character(text[at - 1])) && (end == text.size() || !is_word_character(text[end])))
      return true;
  }
  return false;
}

/// The agitator or the part of one that a gauge is about; `impeller`: it has to be one.
template <int D>
void read_gauge_agitator(const Setup<D>& setup, Part& part, bool impeller, Gauge<D>& gauge) {
  if (setup.agitators.empty())
    throw part.wrong("measures", "nothing turns in this vessel", "add an [[agitator]], or leave the gauge out");
  std::vector<std::string> known;
  if (!impeller)
    for (const auto& agitator : setup.agitators) known.push_back(agitator.name);
  std::vector<std::size_t> impellers;
  for (std::size_t p = 0; p < setup.agitator_parts.size(); ++p) {
    const auto& own = setup.agitator_parts[p];
    if (own.impeller) impellers.push_back(p);
    if (own.impeller || !impeller) known.push_back(own.name);
  }
  if (impeller && impellers.empty())
    throw part.wrong("measures", "no impeller turns in this vessel", "add an [[impeller]], or leave the gauge out");
  if (!part.has("agitator")) {
    if (impeller ? impellers.size() > 1 : setup.agitators.size() > 1)
      throw part.wrong("measures", "which one is not said",
                       fmt::format("add agitator = \"{}\"; there are {}", known[0], listing(known, "and")));
    if (impeller) {
      gauge.part = impellers[0];
      gauge.agitator = setup.agitator_parts[impellers[0]].agitator;
    }
    return;
  }
  const std::string name = part.text("agitator");
  for (std::size_t i = 0; i < setup.agitators.size() && !impeller; ++i)
    if (setup.agitators[i].name == name) {
      gauge.agitator = i;
      return;
    }
  for (std::size_t p = 0; p < setup.agitator_parts.size(); ++p) {
    const auto& own = setup.agitator_parts[p];
    if (own.name != name || (impeller && !own.impeller)) continue;
    gauge.part = p;
    gauge.agitator = own.agitator;
    return;
  }
  const std::string near = nearest(name, known);
  throw part.wrong(
      "agitator",
      fmt::format("no {} is called '{}'", impeller ? "impeller" : "agitator or part of one", name.substr(0, 60)),
      near.empty() ? fmt::format("known are {}", listing(known, "and")) : fmt::format("did you mean '{}'?", near));
}

/// A formula of the gauges that were read before.
template <int D>
void read_gauge_formula(const Setup<D>& setup, Part& part, const FormulaNames& names, Gauge<D>& gauge) {
  part.need("formula", "write, for example, formula = \"2 * front_level\"");
  const std::string text = part.text("formula");
  FormulaNames with_gauges = names;
  for (const auto& other : setup.gauges) {
    if (has_meaning(other.name, names)) {
      if (has_word(text, other.name))
        throw part.wrong("formula", fmt::format("'{}' is a gauge, and has another meaning in formulas", other.name),
                         "give that gauge another name");
      continue;
    }
    const auto scale = scale_to_si(unit_of(other));
    with_gauges.readings.emplace(other.name, NamedValue(1, scale ? std::optional(scale->powers) : std::nullopt));
  }
  const Formula formula(text, with_gauges, dimension::number, part.place("formula"), Formula::any_dimension);
  for (const char* place : {"x", "y", "z"})
    if (formula.uses(place))
      throw part.wrong("formula", fmt::format("'{}' has no value in it", place), "use names of gauges and t");
  bool of_gauges = false;
  for (const auto& [name, value] : with_gauges.readings) of_gauges = of_gauges || formula.uses(name);
  if (!of_gauges)
    throw part.wrong("formula", "it uses no gauge",
                     "name gauges that stand before it in the case, such as \"2 * front_level\"");
  gauge.formula = formula;
}

template <int D>
void read_gauge_phase(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  const NamedPhases phases = named_phases(setup, part);
  gauge.phase = phases.first;
  gauge.classes = static_cast<int>(phases.shares.size());
}

/// All that a gauge can read that bears the name of a tracer; in the Eulerian model also of a phase, or of the classes
/// of a fluid.
template <int D>
std::vector<std::string> named_parts(const Setup<D>& setup) {
  std::vector<std::string> parts;
  const auto add = [&](const std::vector<const VesselQuantity*>& quantities) {
    for (const auto& part : parts_of(quantities, D)) {
      parts.push_back(part);
      parts.push_back("mean_" + part);
      parts.push_back("rms_" + part);
    }
  };
  for (std::size_t i = 0; i < setup.tracers.size(); ++i)
    add(tracer_quantities(setup.tracers[i].name, find_transfer(setup.transfers, i).has_value()));
  if (!setup.eulerian) return parts;
  for (const auto& name : callable_phases(setup)) add(phase_quantities(name));
  return parts;
}

template <int D>
void read_gauge_quantity(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  part.need("quantity", "write, for example, quantity = \"speed\"");
  const std::vector<std::string> own = named_parts(setup);
  const std::string name = part.text_of("quantity");
  if (std::ranges::find(own, name) != own.end()) {
    gauge.quantity = part.text("quantity");
    return;
  }
  if (setup.eulerian) {
    const auto* found = find_quantity_part(name).quantity;
    std::vector<std::string> known = quantity_parts(D);
    std::erase_if(known, [](const std::string& one) { return find_quantity_part(one).quantity->sharp_only; });
    known.insert(known.end(), own.begin(), own.end());
    if (found == nullptr || found->sharp_only || std::ranges::find(all_quantities(), found) == all_quantities().end()) {
      const std::string near = nearest(name, known);
      throw part.wrong(
          "quantity", fmt::format("'{}' is nothing that the Eulerian model has here", name.substr(0, 60)),
          near.empty() ? "choose one such as " + listing(known, "or") : fmt::format("did you mean '{}'?", near));
    }
  }
  gauge.quantity = part.choice("quantity");
  if (const auto* law = setup.turbulence.law; !find_quantity_part(gauge.quantity).quantity->known_with(law))
    throw part.wrong(
        "quantity",
        law == nullptr ? fmt::format("the flow is laminar: it has no {}", gauge.quantity)
                       : fmt::format("{} keeps no {} of its own", law->name, gauge.quantity),
        law == nullptr ? "give [turbulence] a law, or choose another quantity" : "choose another, or a law of k");
  if (find_quantity_part(gauge.quantity).axis >= D)
    throw part.wrong("quantity", "a 2-D vessel has no z axis", "choose a component along x or y");
}

/// Keys that belong to some gauges only, and what is said of them where they stand with another.
struct Belongs {
  std::vector<const char*> keys;
  std::vector<Needs> to;
  const char* else_wrong;
};

/// Refuses what says nothing of a gauge of this kind.
void refuse_foreign(Part& part, const GaugeKind& kind) {
  const std::vector<Belongs> list{
      {{"at"},
       {Needs::point, Needs::upright_line, Needs::quantity_at_point, Needs::wall_and_point},
       "is not measured at a place"},
      {{"wall"}, {Needs::wall, Needs::wall_and_point, Needs::quantity_in_zone}, "does not belong to a wall"},
      {{"along"}, {Needs::wall, Needs::phase_along}, "has no direction"},
      {{"agitator"}, {Needs::agitator, Needs::impeller}, "does not belong to an agitator"},
      {{"about"}, {Needs::wall_and_point}, "is not a moment about an axis"},
      {{"phase"},
       {Needs::phase_in_zone, Needs::phase, Needs::phase_along, Needs::phase_through_plane, Needs::upright_line,
        Needs::surface_over_zone},
       "does not belong to a phase"},
      {{"formula"}, {Needs::formula}, "is no formula"},
      {{"quantity"}, {Needs::quantity_at_point, Needs::quantity_in_zone}, "is measured of itself, not of a quantity"},
      {{"lower", "upper"},
       {Needs::zone, Needs::surface_over_zone, Needs::phase_in_zone, Needs::quantity_in_zone,
        Needs::phase_through_plane},
       "is not measured in a zone"},
      {{"from", "to"}, {Needs::quantity_in_zone}, "is not read along a line"},
      {{"centre", "diameter", "where"},
       {Needs::zone, Needs::surface_over_zone, Needs::phase_in_zone, Needs::quantity_in_zone},
       "is not measured in a zone"},
  };
  for (const auto& one : list)
    for (const char* key : one.keys)
      if (part.has(key) && std::ranges::find(one.to, kind.needs) == one.to.end())
        throw part.wrong(key, fmt::format("{} {}", kind.name, one.else_wrong), "leave the key out");
  if (part.has("percent") && kind.name != "percentile")
    throw part.wrong("percent", fmt::format("{} is no percentile", kind.name), "leave the key out");
}

}  // namespace

const GaugeKind& read_gauge_kind(Part& part, GaugeKind::Of of) {
  std::vector<std::pair<std::string, const GaugeKind*>> known;
  for (const auto& kind : gauge_kinds())
    if (kind.of == of) known.emplace_back(kind.name, &kind);
  return *part.one_of<const GaugeKind*>("measures", known,
                                        of == GaugeKind::Of::vessel ? "measured in a vessel" : "measured in a line");
}

template <int D>
Gauge<D> read_gauge(const Setup<D>& setup, Part& part, const FormulaNames& names, std::set<std::string>& taken) {
  part.refuse_unknown();
  Gauge<D> gauge;
  gauge.place = part.place();
  gauge.name = part.text("name");
  if (!is_name(gauge.name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  if (!taken.insert(gauge.name).second)
    throw part.wrong("name", fmt::format("the history has a column '{}' already", gauge.name), "choose another name");
  const GaugeKind& kind = read_gauge_kind(part, GaugeKind::Of::vessel);
  gauge.measures = kind.name;
  if (kind.in == (setup.eulerian ? GaugeKind::In::sharp : GaugeKind::In::eulerian))
    throw part.wrong("measures",
                     fmt::format("the {} model has no '{}'", setup.eulerian ? "Eulerian" : "sharp", kind.name),
                     fmt::format("leave the gauge out, or set model = \"{}\"", setup.eulerian ? "sharp" : "eulerian"));
  refuse_foreign(part, kind);
  if (part.has("phase") && (kind.needs == Needs::upright_line || kind.needs == Needs::surface_over_zone)) {
    if (!setup.eulerian)
      throw part.wrong("phase", fmt::format("{} does not belong to a phase", kind.name), "leave the key out");
    read_gauge_phase(setup, part, gauge);
  }
  if (part.has("leg")) throw part.wrong("leg", "a vessel has no legs", "leave the key out");
  switch (kind.needs) {
    case Needs::point:
    case Needs::upright_line:
      read_gauge_place(setup, part, kind.needs, gauge);
      break;
    case Needs::zone:
    case Needs::surface_over_zone:
      read_gauge_zone(setup, part, names, 0, gauge);
      break;
    case Needs::phase_in_zone:
      read_gauge_phase(setup, part, gauge);
      read_gauge_zone(setup, part, names, kind.name == "share" ? D - 1 : 0, gauge);
      break;
    case Needs::phase:
      read_gauge_phase(setup, part, gauge);
      break;
    case Needs::phase_along:
      read_gauge_phase(setup, part, gauge);
      read_gauge_direction(part, gauge);
      break;
    case Needs::phase_through_plane:
      read_gauge_phase(setup, part, gauge);
      read_gauge_plane(setup, part, gauge);
      break;
    case Needs::formula:
      read_gauge_formula(setup, part, names, gauge);
      break;
    case Needs::quantity_at_point:
      read_gauge_quantity(setup, part, gauge);
      read_gauge_place(setup, part, kind.needs, gauge);
      break;
    case Needs::quantity_in_zone:
      read_gauge_quantity(setup, part, gauge);
      if (kind.name == "amount" && tracer_in(gauge.quantity).empty())
        throw part.wrong("quantity", "an amount is that of a tracer", "write NAME_concentration of a [[tracer]]");
      read_gauge_zone(setup, part, names, D - 1, gauge);
      read_gauge_line(setup, part, gauge);
      if (part.has("wall")) {
        if (gauge.zone || gauge.line)
          throw part.wrong("wall", "a gauge reads on a wall or in a zone", "leave out one of them");
        read_wall_name(setup, part, gauge.wall);
      }
      if (kind.name == "percentile") gauge.percent = part.quantity("percent");
      break;
    case Needs::wall:
      read_gauge_wall(setup, part, gauge);
      break;
    case Needs::wall_and_point:
      read_gauge_axis(setup, part, gauge);
      gauge.at = point<D>(part, "at");
      // Forces on all images together are a couple, whose moment is the same about all points.
      if (turn_of(setup) != Turn::none) gauge.at = along<D>(Vec<D>{}, 0.5, setup.size);
      break;
    case Needs::agitator:
    case Needs::impeller:
      read_gauge_agitator(setup, part, kind.needs == Needs::impeller, gauge);
      break;
    case Needs::nothing:
    case Needs::place_in_leg:
    case Needs::leg:
      break;
  }
  if (part.has("response_time")) gauge.response_time = part.quantity("response_time");
  return gauge;
}

template Gauge<2> read_gauge<2>(const Setup<2>&, Part&, const FormulaNames&, std::set<std::string>&);
template Gauge<3> read_gauge<3>(const Setup<3>&, Part&, const FormulaNames&, std::set<std::string>&);

}  // namespace wavy
