#include "case/tracers.hpp"

#include <algorithm>

#include "case/coverings.hpp"
#include "physics/mass_transfer.hpp"
#include "run/quantities.hpp"

namespace wavy {
namespace {

template <int D>
std::vector<std::string> tracer_names(const Setup<D>& setup) {
  std::vector<std::string> names;
  for (const auto& tracer : setup.tracers) names.push_back(tracer.name);
  return names;
}

/// Eulerian: the bubbles that it comes from.
template <int D>
void read_bubbles(const Setup<D>& setup, Part& part, std::size_t liquid, GasTransfer& made) {
  part.need("dissolves_from", "name the phase of the bubbles");
  const NamedPhases gas = phases_called(setup, part.text("dissolves_from"), part, "dissolves_from");
  for (std::size_t k = 0; k < gas.shares.size(); ++k) {
    const std::size_t phase = static_cast<std::size_t>(gas.first) + k;
    if (setup.eulerian->phases[phase].carrier || phase == liquid)
      throw part.wrong("dissolves_from",
                       fmt::format("'{}' is not in bubbles or drops", setup.eulerian->phases[phase].name),
                       "name a dispersed phase, whose diameter says how much surface it has");
    made.bodies.push_back(phase);
  }
}

/// Sharp: it comes through the interface, from whatever is on the other side.
template <int D>
void read_surface(const Setup<D>& setup, Part& part, std::size_t liquid, const std::string& law) {
  if (law == "penetration")
    throw part.wrong("dissolves_by", "penetration is a law of bubbles, by their slip and diameter",
                     "write \"small_eddies\" or \"constant\", or set model = \"eulerian\"");
  if (liquid != 0) throw part.wrong("phase", "only the denser phase takes up a gas here", "leave it out");
  if (!part.has("dissolves_from")) return;
  const std::string gas = part.text("dissolves_from");
  if (setup.free_surface_only || gas != setup.phases[1].name)
    throw part.wrong("dissolves_from",
                     fmt::format("it is the other side of the interface{}",
                                 setup.free_surface_only ? "" : fmt::format(", '{}'", setup.phases[1].name)),
                     "leave it out");
}

/// The gas that a tracer comes from, and how fast.
template <int D>
void read_transfer(Setup<D>& setup, Part& part, std::size_t number) {
  const std::string law = part.choice("dissolves_by");
  if (law == "none") {
    for (const char* key : {"dissolves_from", "saturation", "transfer_coefficient", "saturation_by_pressure"})
      if (part.has(key))
        throw part.wrong(key, "nothing dissolves without a law", "leave it out, or give tracer.dissolves_by");
    return;
  }
  const auto& tracer = setup.tracers[number];
  GasTransfer made;
  made.tracer = number;
  if (setup.eulerian)
    read_bubbles(setup, part, tracer.phase, made);
  else
    read_surface(setup, part, tracer.phase, law);
  part.need("saturation", "give its concentration in equilibrium with that gas at 101.325 kPa, such as \"8.6 mg/L\"");
  made.saturation = part.quantity("saturation");
  made.by_pressure = part.choice("saturation_by_pressure") == "yes";
  if (law == "constant") {
    part.need("transfer_coefficient", "give kL, such as \"0.3 mm/s\"");
    made.coefficient = part.quantity("transfer_coefficient");
  } else {
    if (part.has("transfer_coefficient"))
      throw part.wrong("transfer_coefficient", fmt::format("{} finds kL of itself", law),
                       "leave it out, or write dissolves_by = \"constant\"");
    made.law = find_law(transfer_laws(), law);
    if (tracer.diffusivity <= 0)
      throw part.wrong("diffusivity", fmt::format("{} needs one above 0", law), "give that of the gas in the liquid");
    if (made.law->by_eddies &&
        (setup.turbulence.law == nullptr || setup.turbulence.law->second == TurbulenceLaw::Second::none))
      throw part.wrong("dissolves_by", fmt::format("{} needs the dissipation of turbulence", law),
                       "give [turbulence] a law of k, or write \"constant\"");
  }
  setup.transfers.push_back(made);
}

}  // namespace

template <int D>
void read_tracers(Sections& sections, Setup<D>& setup) {
  sections.each("tracer", [&](Part part) {
    part.refuse_unknown();
    TracerSettings<D> made;
    made.name = part.text("name");
    if (!is_name(made.name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
    if (is_mean(made.name + "_"))
      throw part.wrong("name", "mean_ and rms_ begin the names of means over time", "choose another name");
    const auto phases = callable_phases(setup);
    if (std::ranges::find(phases, made.name) != phases.end())
      throw part.wrong("name", fmt::format("a phase is called '{}'", made.name), "choose another name");
    if (std::ranges::find(setup.tracers, made.name, &TracerSettings<D>::name) != setup.tracers.end())
      throw part.wrong("name", fmt::format("two tracers are called '{}'", made.name), "choose another name");
    const NamedPhases phase = named_phases(setup, part);
    if (phase.shares.size() > 1)
      throw part.wrong("phase", "a fluid of several size classes carries no tracer", "name a phase");
    made.phase = static_cast<std::size_t>(phase.first);
    if (!part.has("phase")) part.note("phase", toml_text(setup.phases[made.phase].name));
    made.diffusivity = part.quantity("diffusivity");
    made.turbulent_schmidt = part.quantity("turbulent_schmidt");
    if (const double start = part.quantity("start"); start > 0) made.start = [start](const Vec<D>&) { return start; };
    setup.tracers.push_back(made);
    read_transfer(setup, part, setup.tracers.size() - 1);
  });
}

template <int D>
void read_doses(Sections& sections, Setup<D>& setup) {
  std::size_t number = 0;
  sections.each("dose", [&](Part part) {
    part.refuse_unknown();
    ++number;
    const auto names = tracer_names(setup);
    if (names.empty()) throw part.wrong("", "there is no tracer to put in", "add a [[tracer]]");
    std::size_t tracer = 0;
    if (part.has("tracer")) {
      const std::string name = part.text("tracer");
      const auto found = std::ranges::find(names, name);
      if (found == names.end())
        throw part.wrong("tracer", fmt::format("no tracer is called '{}'", name.substr(0, 60)),
                         fmt::format("known are {}", listing(names, "and")));
      tracer = static_cast<std::size_t>(found - names.begin());
    } else if (names.size() > 1) {
      part.need("tracer", fmt::format("there are {}", listing(names, "and")));
    } else {
      part.note("tracer", toml_text(names[0]));
    }
    Dose<D> made;
    made.name = fmt::format("dose {} of '{}'", number, names[tracer]);
    made.amount = part.quantity("amount");
    made.from = part.quantity("time");
    made.lasts = part.quantity("lasts");
    const bool box = part.has("lower") || part.has("upper");
    const bool ball = part.has("centre") || part.has("diameter");
    if (box == ball)
      throw part.wrong("", box ? "both a box and a ball are given" : "a dose needs a zone",
                       "give lower and upper, or centre and diameter");
    Vec<D> low;
    Vec<D> high;
    if (box) {
      const AlignedBox<D> zone = read_box<D>(part);
      low = zone.lower;
      high = zone.upper;
      made.zone = zone;
    } else {
      const Ball<D> zone = read_ball<D>(part);
      for (int d = 0; d < D; ++d) {
        low[d] = zone.centre[d] - zone.radius;
        high[d] = zone.centre[d] + zone.radius;
      }
      made.zone = zone;
    }
    for (int d = 0; d < D; ++d) {
      if (high[d] <= setup.lower[d] || low[d] >= setup.upper[d])
        throw part.wrong(box ? "lower" : "centre", fmt::format("'{}' lies outside the vessel", made.name),
                         fmt::format("the vessel reaches from {} to {} along {}", quantity(setup.lower[d], "m"),
                                     quantity(setup.upper[d], "m"), "xyz"[d]));
      if (cancels_along(setup, d) && setup.symmetry != Symmetry::round &&
          std::abs(low[d] + high[d] - setup.size[d]) > 1e-9 * setup.size[d])
        throw part.wrong(box ? "lower" : "centre", "with vessel.symmetry a dose must be as symmetric as the vessel",
                         fmt::format("put its middle at {} along {}, or leave vessel.symmetry out",
                                     quantity(0.5 * setup.size[d], "m"), "xyz"[d]));
    }
    setup.tracers[tracer].doses.push_back(made);
  });
}

namespace {

/// Keys 'tracers' and 'concentrations', in phases that `brings(phase)`; `not_brought`: of a phase that it does not.
template <int D, class Brings>
void read_named_concentrations(const Setup<D>& setup, Part& part, Brings&& brings, const char* not_brought,
                               std::vector<std::optional<double>>& made) {
  if (part.has("tracers") != part.has("concentrations"))
    throw part.wrong("", "tracers and concentrations go together",
                     "write, for example, tracers = [\"dye\"] and concentrations = [\"2 g/L\"]");
  if (!part.has("tracers")) return;
  const auto names = tracer_names(setup);
  if (names.empty()) throw part.wrong("tracers", "the case has no tracer", "add a [[tracer]]");
  const auto numbers = part.numbers_of("tracers", 0, names, "tracer");
  const auto values = part.quantities("concentrations");
  if (values.size() != numbers.size())
    throw part.wrong("concentrations",
                     fmt::format("{} concentrations are given for {} tracers", values.size(), numbers.size()));
  for (std::size_t k = 0; k < numbers.size(); ++k) {
    const std::size_t phase = setup.tracers[numbers[k]].phase;
    if (!brings(phase))
      throw part.wrong(
          "tracers",
          fmt::format("'{}' is carried by {}, of which {}", names[numbers[k]], setup.phases[phase].name, not_brought),
          "leave it out, or bring that phase");
    made[numbers[k]] = values[k];
  }
}

}  // namespace

template <int D>
void read_concentrations(const Setup<D>& setup, Part& part, OpeningSetup<D>& made) {
  made.concentrations.assign(setup.tracers.size(),
                             made.given == OpeningSetup<D>::Given::degassing ? std::nullopt : std::optional<double>(0));
  const auto brings = [&](std::size_t phase) {
    return made.opening.share_outside || made.opening.composition[phase] > 0;
  };
  read_named_concentrations(setup, part, brings, "nothing comes in here", made.concentrations);
}

template <int D>
void read_concentrations(const Setup<D>& setup, Part& part, Fill<D>& made) {
  if (!part.has("tracers") && !part.has("concentrations")) return;
  if (made.velocity)
    throw part.wrong(part.has("tracers") ? "tracers" : "concentrations", "an earlier run brings its own tracers",
                     "leave it out; they are taken by their names");
  made.concentrations.resize(setup.tracers.size());
  const auto first = static_cast<std::size_t>(made.phase);
  const auto brings = [&](std::size_t phase) { return phase >= first && phase < first + made.classes.size(); };
  read_named_concentrations(setup, part, brings, "this fill lays nothing", made.concentrations);
}

template <int D>
void remark_tracers(const Setup<D>& setup, CaseFile& out) {
  for (const auto& tracer : setup.tracers) {
    for (const auto& dose : tracer.doses)
      if (dose.from > setup.schedule.until)
        out.remarks.push_back(fmt::format("{} comes at {}, after the end of the run at {}", dose.name,
                                          quantity(dose.from, "s"), quantity(setup.schedule.until, "s")));
  }
}

template <int D>
std::vector<std::string> words_on_tracers(const Setup<D>& setup) {
  std::vector<std::string> words;
  for (std::size_t i = 0; i < setup.tracers.size(); ++i) {
    const auto& tracer = setup.tracers[i];
    std::string text = fmt::format("{}: in {}, diffusivity {}", tracer.name, setup.phases[tracer.phase].name,
                                   quantity(tracer.diffusivity, "m2/s"));
    if (setup.turbulence.law != nullptr)
      text += fmt::format(", turbulent Schmidt number {:.3g}", tracer.turbulent_schmidt);
    if (tracer.start) text += fmt::format(", at the start {}", quantity(tracer.start(Vec<D>{}), "kg/m3"));
    for (std::size_t k = 0; k < setup.fills.size(); ++k) {
      const auto& fill = setup.fills[k];
      if (fill.concentration && fill.concentration(i, setup.lower, setup.upper))
        text += fmt::format(", of the earlier run in fill {}", k + 1);
      else if (!fill.concentrations.empty() && fill.concentrations[i])
        text += fmt::format(", {} in fill {}", quantity(*fill.concentrations[i], "kg/m3"), k + 1);
    }
    for (const auto& dose : tracer.doses)
      text += fmt::format(", {} {} {}", quantity(dose.amount, "kg"), dose.lasts > 0 ? "from" : "at",
                          quantity(dose.from, "s")) +
              (dose.lasts > 0 ? fmt::format(" to {}", quantity(dose.from + dose.lasts, "s")) : "");
    if (const auto transfer = find_transfer(setup.transfers, i)) {
      const GasTransfer& given = setup.transfers[*transfer];
      text +=
          fmt::format("; dissolves {} towards {}, kL {}",
                      given.bodies.empty() ? "through the surface" : "from " + setup.phases[given.bodies.front()].name,
                      quantity(given.saturation, "kg/m3"),
                      given.law == nullptr ? quantity(given.coefficient, "m/s")
                                           : fmt::format("by {} ({})", given.law->name, given.law->source));
    }
    words.push_back(text);
  }
  return words;
}

template void read_tracers<2>(Sections&, Setup<2>&);
template void read_tracers<3>(Sections&, Setup<3>&);
template void read_doses<2>(Sections&, Setup<2>&);
template void read_doses<3>(Sections&, Setup<3>&);
template void read_concentrations<2>(const Setup<2>&, Part&, OpeningSetup<2>&);
template void read_concentrations<3>(const Setup<3>&, Part&, OpeningSetup<3>&);
template void read_concentrations<2>(const Setup<2>&, Part&, Fill<2>&);
template void read_concentrations<3>(const Setup<3>&, Part&, Fill<3>&);
template void remark_tracers<2>(const Setup<2>&, CaseFile&);
template void remark_tracers<3>(const Setup<3>&, CaseFile&);
template std::vector<std::string> words_on_tracers<2>(const Setup<2>&);
template std::vector<std::string> words_on_tracers<3>(const Setup<3>&);

}  // namespace wavy
