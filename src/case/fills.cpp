#include "case/fills.hpp"

#include <map>
#include <set>

#include "case/coverings.hpp"
#include "case/snapshot_file.hpp"
#include "case/solids.hpp"
#include "case/tracers.hpp"

namespace wavy {
namespace {

template <int D>
Drops<D> drops(const Setup<D>& setup, Part& part) {
  AlignedBox<D> room{Vec<D>{}, setup.size};
  if (part.has("lower") || part.has("upper")) room = read_box<D>(part);
  for (int d = 0; d < D; ++d)
    if (room.lower[d] < 0 || room.upper[d] > setup.size[d])
      throw part.wrong(room.lower[d] < 0 ? "lower" : "upper", "the room for the drops reaches out of the vessel",
                       "keep both corners within vessel.size");
  for (const char* name : {"count", "diameters"})
    part.need(name, "write, for example, count = 40 and diameters = [\"4 mm\", \"6 mm\"]");
  const long count = part.whole_number("count");
  constexpr long most = 10000;
  if (count < 1 || count > most) throw part.wrong("count", fmt::format("{} drops cannot be laid", count));
  constexpr std::size_t most_sizes = 20;
  const std::vector<double> diameters = part.quantities("diameters", most_sizes);
  if (diameters.empty()) throw part.wrong("diameters", "there is no diameter in the list");
  for (const double diameter : diameters) {
    for (int d = 0; d < D; ++d)
      if (diameter > room.upper[d] - room.lower[d])
        throw part.wrong("diameters", fmt::format("a drop of {} does not fit into its room", quantity(diameter, "m")),
                         "choose smaller drops, or a larger room by 'lower' and 'upper'");
  }
  const long seed = part.whole_number("seed");
  Drops<D> result = scatter<D>(room, count, diameters, static_cast<unsigned long>(seed));
  if (std::ssize(result.balls) < count)
    throw part.wrong("count", fmt::format("only {} of {} drops find room without touching", result.balls.size(), count),
                     "ask for fewer or smaller drops, or give them more room by 'lower' and 'upper'");
  return result;
}

/// Tracers of an earlier run by their names; `source`: which phase there one of this case was, if the fill lays it.
template <int D, class Source>
void take_tracers(const Setup<D>& setup, Part& part, const std::shared_ptr<const PriorSnapshot<D>>& before,
                  Source&& source, Fill<D>& fill) {
  struct Taken {
    std::size_t tracer;  // there
    std::size_t phase;
  };
  const auto names = before->tracer_names();
  std::vector<std::optional<Taken>> taken(setup.tracers.size());
  std::set<std::string> left(names.begin(), names.end());
  for (std::size_t i = 0; i < setup.tracers.size(); ++i) {
    const auto found = std::ranges::find(names, setup.tracers[i].name);
    const std::optional<std::size_t> from = source(setup.tracers[i].phase);
    if (found == names.end() || !from) continue;
    taken[i] = Taken{static_cast<std::size_t>(found - names.begin()), *from};
    left.erase(*found);
  }
  for (const auto& name : left)
    part.remark(
        fmt::format("{}: that run has a tracer '{}', of which nothing is taken: in what it brings this case has "
                    "none of that name",
                    part.place("from").key, name));
  if (std::ranges::none_of(taken, [](const auto& one) { return one.has_value(); })) return;
  fill.concentration = [before, taken](std::size_t i, const Vec<D>& lower, const Vec<D>& upper) {
    return taken[i] ? before->concentration(taken[i]->tracer, taken[i]->phase, lower, upper) : std::nullopt;
  };
}

/// What an earlier run of the Eulerian model had at its end, by the names of its phases; what was one size there may be
/// several classes here.
template <int D>
void take_mixture(const Setup<D>& setup, Part& part, const std::shared_ptr<const PriorSnapshot<D>>& before,
                  Fill<D>& fill) {
  for (const char* key : {"phase", "share"})
    if (part.has(key))
      throw part.wrong(
          key, fmt::format("an earlier run of the Eulerian model has all its phases, and a '{}' of its own", key),
          "leave the key out; the phases are taken by their names");
  struct Source {
    std::size_t phase;  // there
    double share;       // of what it is there
  };
  std::vector<std::optional<Source>> sources(setup.phases.size());
  std::vector<std::string> known;
  for (const auto& phase : setup.phases) known.push_back(phase.name);
  const auto names = before->names();
  for (std::size_t k = 0; k < names.size(); ++k) {
    bool found = false;
    for (std::size_t p = 0; p < known.size(); ++p)
      if (known[p] == names[k]) {
        sources[p] = Source{k, 1};
        found = true;
      }
    for (const auto& family : setup.eulerian->families) {
      if (found || family.name != names[k]) continue;
      for (std::size_t c = 0; c < family.shares.size(); ++c)
        sources[static_cast<std::size_t>(family.first) + c] = Source{k, family.shares[c]};
      found = true;
    }
    if (!found && before->has_any(k))
      throw part.wrong("from", fmt::format("that run has a phase '{}', which this case has not", names[k]),
                       fmt::format("name a phase so; this case has {}", listing(known, "and")));
  }
  fill.shape = before->box();
  fill.mixture = [before, sources](std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) {
    const auto& source = sources[phase];
    return source ? source->share * before->share(source->phase, lower, upper) : 0.0;
  };
  // What was not there moves with the densest one.
  fill.velocity = [before, sources](std::size_t phase, const Vec<D>& lower, const Vec<D>& upper) {
    return before->velocity(sources[phase] ? sources[phase]->phase : 0, lower, upper);
  };
  const auto source = [&](std::size_t phase) {
    return sources[phase] ? std::optional(sources[phase]->phase) : std::nullopt;
  };
  take_tracers<D>(setup, part, before, source, fill);
}

/// The end of an earlier run.
template <int D>
void start_from_run(const Setup<D>& setup, Part& part, Fill<D>& fill) {
  part.need("from", "write, for example, from = \"tote.run\"");
  const auto before = std::make_shared<const PriorSnapshot<D>>(read_earlier<D>(part, "from"));
  if (!before->is_sharp()) {
    if (!setup.eulerian)
      throw part.wrong("from", "that run was one of the Eulerian model, which has no interface to start from",
                       "set model = \"eulerian\", or give a run of the sharp model");
    take_mixture(setup, part, before, fill);
    return;
  }
  part.need("phase", fmt::format("name the phase that the denser one of that run is, for example phase = {}",
                                 toml_text(setup.phases[0].name)));
  fill.shape =
      Covering<D>{[before](const Vec<D>& lower, const Vec<D>& upper) { return before->share(0, lower, upper); }};
  fill.velocity = [before](std::size_t, const Vec<D>& lower, const Vec<D>& upper) {
    return before->velocity(0, lower, upper);
  };
  const auto source = [&](std::size_t phase) {
    return phase == static_cast<std::size_t>(fill.phase) ? std::optional<std::size_t>(0) : std::nullopt;
  };
  take_tracers<D>(setup, part, before, source, fill);
}

}  // namespace

template <int D>
Fill<D> read_fill(const Setup<D>& setup, Part& part, const FormulaNames& names) {
  part.refuse_unknown();
  Fill<D> fill;
  fill.place = part.place();
  const std::string shape = part.choice("shape");
  if (shape != "run" || part.has("phase")) {
    part.need("phase", fmt::format("write, for example, phase = {}", toml_text(setup.phases[0].name)));
    const NamedPhases phases = named_phases(setup, part);
    fill.phase = phases.first;
    fill.classes = phases.shares;
  }
  if (part.has("share")) {
    if (!setup.eulerian)
      throw part.wrong("share", "in the sharp model a place holds one phase or the other",
                       "leave it out, or set model = \"eulerian\"");
    fill.share = part.quantity("share");
  }
  const std::map<std::string, std::set<std::string>> belongs{
      {"level", {"level", "volume", "lower", "upper"}},
      {"box", {"lower", "upper"}},
      {"circle", {"centre", "diameter"}},
      {"sphere", {"centre", "diameter"}},
      {"drops", {"lower", "upper", "count", "diameters", "seed"}},
      {"polygon", {"points", "axis", "lower_end", "upper_end"}},
      {"formula", {"where"}},
      {"run", {"from"}}};
  for (const char* name : {"level", "volume", "lower", "upper", "centre", "diameter", "count", "diameters", "seed",
                           "where", "from", "points", "axis", "lower_end", "upper_end"})
    if (part.has(name) && !belongs.at(shape).contains(name))
      throw part.wrong(name, fmt::format("{} no '{}'", shape == "drops" ? "drops have" : "a " + shape + " has", name),
                       "leave the key out, or change shape");
  if (shape == "level") {
    if (part.has("level") == part.has("volume"))
      throw part.wrong("", part.has("level") ? "both level and volume are given" : "the key 'level' is missing",
                       "write, for example, level = \"0.4 m\", or volume = \"50 L\"");
    const bool part_of_it = part.has("lower") || part.has("upper");
    if (part.has("volume")) {
      fill.volume = part.quantity("volume");
      if (part_of_it) throw part.wrong("volume", "a volume fills the vessel from below as a whole", "give a level");
      fill.shape = BelowLevel<D>{0};
    } else {
      const double height = part.quantity("level");
      if (height < 0) throw part.wrong("level", "the level lies below the floor", "give a height above the floor");
      fill.shape = BelowLevel<D>{height};
      if (part_of_it) {
        AlignedBox<D> within = read_box<D>(part);
        within.upper[D - 1] = std::min(within.upper[D - 1], height);
        fill.shape = within;
      }
    }
  } else if (shape == "box") {
    fill.shape = read_box<D>(part);
  } else if (shape == "run") {
    start_from_run(setup, part, fill);
  } else if (shape == "formula") {
    part.need("where", "write, for example, where = \"0.4 m + 3 cm * cos(pi * x / 1.2 m) - y\"");
    fill.shape = read_covering_where<D>(part, names);
  } else if (shape == "polygon") {
    if (D == 2)
      for (const char* name : {"axis", "lower_end", "upper_end"})
        if (part.has(name)) throw part.wrong(name, "in 2-D a polygon has its corners alone", "leave the key out");
    fill.shape = covering_of<D>(read_solid<D>(part, "polygon", false));
  } else if (shape == "drops") {
    if (setup.symmetry == Symmetry::round)
      throw part.wrong("shape", "drops beside the axis would be rings", "describe the vessel in 3-D");
    fill.shape = drops(setup, part);
  } else {
    if ((shape == "circle") != (D == 2))
      throw part.wrong("shape", fmt::format("a {} belongs in a {} vessel", shape, D == 2 ? "3-D" : "2-D"),
                       fmt::format("write \"{}\"", D == 2 ? "circle" : "sphere"));
    const Vec<D> centre = point<D>(part, "centre");
    part.need("diameter", "write, for example, diameter = \"10 cm\"");
    const double diameter = part.quantity("diameter");
    fill.shape = Ball<D>{centre, diameter / 2};
  }
  read_concentrations(setup, part, fill);
  return fill;
}

template Fill<2> read_fill<2>(const Setup<2>&, Part&, const FormulaNames&);
template Fill<3> read_fill<3>(const Setup<3>&, Part&, const FormulaNames&);

}  // namespace wavy
