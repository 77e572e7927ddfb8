#include "case/eulerian_openings.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "case/coverings.hpp"
#include "case/dispersion.hpp"
#include "mesh/cover.hpp"

namespace wavy {
namespace {

/// A ring that lies level; of a section what it cuts of it.
template <int D>
Shape<D> ring(const Vec<D>& centre, double diameter, double tube) {
  if constexpr (D == 3) {
    return covering_of<D>(torus_solid(centre, {0, 0, 1}, diameter / 2, tube / 2));
  } else {
    std::array<Shape<D>, 2> sides{Ball<D>{centre, tube / 2}, Ball<D>{centre, tube / 2}};
    std::get<Ball<D>>(sides[0]).centre[0] -= diameter / 2;
    std::get<Ball<D>>(sides[1]).centre[0] += diameter / 2;
    return Covering<D>{[sides](const Vec<D>& lower, const Vec<D>& upper) {
      return std::min(1.0, covered_share<D>(sides[0], lower, upper) + covered_share<D>(sides[1], lower, upper));
    }};
  }
}

/// Balls evenly round a level ring, the first towards +x.
Shape<3> holes_of_ring(const Vec<3>& centre, double diameter, double tube, long count) {
  std::vector<Shape<3>> balls;
  for (long k = 0; k < count; ++k) {
    const double angle = 2 * std::numbers::pi * static_cast<double>(k) / static_cast<double>(count);
    const Vec<3> arm{0.5 * diameter * std::cos(angle), 0.5 * diameter * std::sin(angle), 0};
    balls.emplace_back(Ball<3>{{centre[0] + arm[0], centre[1] + arm[1], centre[2]}, tube / 2});
  }
  return Covering<3>{[balls](const Vec<3>& lower, const Vec<3>& upper) {
    double sum = 0;
    for (const auto& ball : balls) sum += covered_share<3>(ball, lower, upper);
    return std::min(sum, 1.0);
  }};
}

/// Number of holes of a ring. Throws where they run into each other, or where what is computed of the vessel has not
/// the same of them as the rest.
template <int D>
long read_holes(const Setup<D>& setup, Part& part, double diameter, double tube) {
  const long count = part.whole_number("holes");
  if (count == 0) return 0;
  if (D == 2) throw part.wrong("holes", "in 2-D a ring has no holes round it", "leave it out, or describe it in 3-D");
  constexpr long most = 1000;
  if (count < 1 || count > most)
    throw part.wrong("holes", fmt::format("a ring cannot have {} holes", count), fmt::format("give 1 to {}", most));
  const double between = diameter * std::sin(std::numbers::pi / static_cast<double>(count));
  if (count > 1 && between < tube)
    throw part.wrong("holes", fmt::format("{} holes of {} run into each other", count, quantity(tube, "m")),
                     "give fewer holes, a thinner tube, or leave it out: an even band");
  double alike = 1;  // parts of the vessel
  if (setup.symmetry == Symmetry::half || setup.symmetry == Symmetry::half_turn) alike = 2;
  if (setup.symmetry == Symmetry::quarter || setup.symmetry == Symmetry::quarter_turn) alike = 4;
  if (setup.symmetry == Symmetry::sector) alike = 2 * std::numbers::pi / setup.sector;
  const double each = static_cast<double>(count) / alike;
  constexpr double hair = 1e-6;
  if (std::abs(each - std::round(each)) > hair)
    throw part.wrong("holes", fmt::format("{} holes are not as many in each of {:.0f} equal parts", count, alike),
                     fmt::format("give a multiple of {:.0f}, or leave vessel.symmetry out", alike));
  return count;
}

}  // namespace

template <int D>
void read_mixture(const Setup<D>& setup, Part& part, bool flow, OpeningSetup<D>& made) {
  using Given = typename OpeningSetup<D>::Given;
  std::vector<double> mixture(setup.phases.size());
  const auto add = [&](const NamedPhases& phases, double share) {
    for (std::size_t c = 0; c < phases.shares.size(); ++c)
      mixture[static_cast<std::size_t>(phases.first) + c] += share * phases.shares[c];
  };
  if (part.has("phases") != part.has("shares"))
    throw part.wrong("",
                     part.has("phases") ? "phases are given without their shares" : "shares are given without phases",
                     "write, for example, phases = [\"water\", \"oil\"] and shares = [0.95, 0.05]");
  if (part.has("phases")) {
    for (const char* key : {"phase", "share"})
      if (part.has(key))
        throw part.wrong(key, fmt::format("both '{}' and '{}s' are given", key, key), "give one of them");
    const auto known = callable_phases(setup);
    const auto names = part.numbers_of("phases", 0, known, "phase");
    const auto shares = part.quantities("shares", dispersed::most_phases);
    if (names.size() != shares.size())
      throw part.wrong("shares", fmt::format("{} shares are given for {} phases", shares.size(), names.size()));
    for (std::size_t k = 0; k < names.size(); ++k)
      add(phases_called(setup, known[names[k]], part, "phases"), shares[k]);
    check_shares(part, "shares", shares);
  } else {
    const std::size_t standard = flow || made.balances ? 0 : lightest_carrier(setup);
    const NamedPhases phases = part.has("phase") ? named_phases(setup, part) : NamedPhases{static_cast<int>(standard)};
    if (!part.has("phase") && made.given != Given::pressure) part.note("phase", toml_text(setup.phases[standard].name));
    const double share = part.has("share") || made.given != Given::pressure ? part.quantity("share") : 1.0;
    if (share < 1 && setup.phases.size() != 2)
      throw part.wrong("share", "of more than two phases the rest may be any",
                       "write phases = [...] and shares = [...], as many, that add up to 1");
    add(phases, share);
    if (share < 1) mixture[phases.first == 0 ? 1 : 0] += 1 - share;
  }
  made.opening.composition = mixture;
  made.opening.share_outside =
      made.given == Given::pressure && !part.has("phase") && !part.has("share") && !part.has("phases");
  if (!made.balances) return;
  const auto own = static_cast<std::size_t>(std::ranges::max_element(mixture) - mixture.begin());
  if (mixture[own] < 1 || !setup.eulerian->phases[own].carrier || own == lightest_carrier(setup))
    throw part.wrong("balances", "what stands outside up to the level is one carrier, under a lighter one",
                     "give 'phase', the one whose level it is, and no shares");
  made.opening.column_phase = own;
  made.opening.share_outside = true;
}

template <int D>
void read_degassing(const Setup<D>& setup, Part& part, const std::string& chosen, OpeningSetup<D>& made) {
  part.choice("lets_out");
  if (!setup.eulerian)
    throw part.wrong("lets_out", "a degassing surface belongs to model = \"eulerian\"",
                     "give pressure = \"0 Pa\", or set the model");
  if (std::ranges::none_of(setup.eulerian->phases, &dispersed::Phase::gas))
    throw part.wrong("lets_out", "no phase is a gas", "leave it out; liquids leave by holds, a flow or a pressure");
  if (!chosen.empty() || made.balances)
    throw part.wrong("lets_out", fmt::format("both '{}' and 'lets_out' are given", made.balances ? "balances" : chosen),
                     "give one of them");
  for (const char* key : {"outside", "outside_level", "target", "full_at", "most_flow", "direction", "profile", "phase",
                          "share", "phases", "shares"})
    if (part.has(key)) throw part.wrong(key, fmt::format("a degassing surface has no '{}'", key), "leave it out");
  made.given = OpeningSetup<D>::Given::degassing;
  made.value = Formula(0);
  made.opening.composition.assign(setup.phases.size(), 0.0);
  made.opening.composition[lightest_carrier(setup)] = 1;
}

template <int D>
void read_zone(const Setup<D>& setup, Part& part, OpeningSetup<D>& made) {
  const std::string shape = part.choice("spread");
  if (!setup.eulerian)
    throw part.wrong("spread", "an opening spread over a zone belongs to model = \"eulerian\"",
                     "give side, or on and an insert");
  for (const char* key : {"side", "on", "size", "stub", "profile", "speed"})
    if (part.has(key))
      throw part.wrong(key, fmt::format("an opening spread over a zone has no '{}'", key), "leave it out");
  if (shape != "ring" && part.has("holes")) throw part.wrong("holes", "holes belong to a ring", "leave it out");
  for (const char* key : {"lower", "upper", "centre", "diameter", "tube"}) {
    const bool corner = std::string_view(key) == "lower" || std::string_view(key) == "upper";
    const bool belongs = corner ? shape == "box" : std::string_view(key) == "tube" ? shape == "ring" : shape != "box";
    if (part.has(key) && !belongs) throw part.wrong(key, fmt::format("a {} has no '{}'", shape, key), "leave it out");
    if (belongs) part.need(key, "a box has lower and upper, a ball centre and diameter, a ring a tube too");
  }
  if (shape == "box") {
    made.opening.zone = read_box<D>(part);
    return;
  }
  const Vec<D> centre = point<D>(part, "centre");
  const double diameter = part.quantity("diameter");
  if (shape == "ball") {
    made.opening.zone = Ball<D>{centre, diameter / 2};
    return;
  }
  const double tube = part.quantity("tube");
  if (setup.symmetry == Symmetry::round && centre[0] != 0)
    throw part.wrong("centre", "round an axis a ring lies about the axis", "give it the place 0 along x");
  if (!(tube < diameter))
    throw part.wrong(
        "tube",
        fmt::format("a tube of {} does not fit into a ring of {}", quantity(tube, "m"), quantity(diameter, "m")),
        "the diameter is that of the middle of the tube");
  const long holes = read_holes(setup, part, diameter, tube);
  if constexpr (D == 3) {
    if (holes > 0) {
      made.opening.zone = holes_of_ring(centre, diameter, tube, holes);
      return;
    }
  }
  made.opening.zone = ring<D>(centre, diameter, tube);
}

template <int D>
void check_source(const Part& part, const OpeningSetup<D>& made) {
  using Given = typename OpeningSetup<D>::Given;
  if (made.given == Given::pressure || made.given == Given::level || made.given == Given::degassing)
    throw part.wrong("", fmt::format("what comes in through '{}' is not given", made.opening.name),
                     "give volume_flow, mass_flow or vessel_volumes");
  if (made.direction < 0 || (made.value.is_constant() && made.value(0) < 0))
    throw part.wrong(part.has("direction") ? "direction" : "",
                     fmt::format("'{}' lets fluid in alone", made.opening.name),
                     "take fluid out through an opening on a side");
}

template void read_mixture<2>(const Setup<2>&, Part&, bool, OpeningSetup<2>&);
template void read_degassing<2>(const Setup<2>&, Part&, const std::string&, OpeningSetup<2>&);
template void read_zone<2>(const Setup<2>&, Part&, OpeningSetup<2>&);
template void check_source<2>(const Part&, const OpeningSetup<2>&);
template void read_mixture<3>(const Setup<3>&, Part&, bool, OpeningSetup<3>&);
template void read_degassing<3>(const Setup<3>&, Part&, const std::string&, OpeningSetup<3>&);
template void read_zone<3>(const Setup<3>&, Part&, OpeningSetup<3>&);
template void check_source<3>(const Part&, const OpeningSetup<3>&);

}  // namespace wavy
