#include "case/gauges.hpp"

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
void read_gauge_wall(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  part.need("wall", "write, for example, wall = \"right\"");
  read_wall_name(setup, part, gauge.wall);
  gauge.axis = part.choice("along")[0] - 'x';
  if (gauge.axis >= D) throw part.wrong("along", "a 2-D vessel has no z axis", "write \"x\" or \"y\"");
  if (mirrored(setup, gauge.axis))
    throw part.wrong("along", fmt::format("along {} the forces on mirror images cancel", "xyz"[gauge.axis]),
                     "choose an axis along the mirrors, or leave vessel.symmetry out");
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
Gauge<D> read_gauge(const Setup<D>& setup, Part& part, std::set<std::string>& taken) {
  part.refuse_unknown();
  Gauge<D> gauge;
  gauge.place = part.place();
  gauge.name = part.text("name");
  if (!is_name(gauge.name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  if (!taken.insert(gauge.name).second)
    throw part.wrong("name", fmt::format("the history has a column '{}' already", gauge.name), "choose another name");
  const GaugeKind& kind = read_gauge_kind(part, GaugeKind::Of::vessel);
  gauge.measures = kind.name;
  const auto refuse = [&](bool wanted, const char* key, const char* what) {
    if (!wanted && part.has(key)) throw part.wrong(key, fmt::format("{} {}", kind.name, what), "leave the key out");
  };
  const bool place = kind.needs == Needs::point || kind.needs == Needs::upright_line;
  refuse(place, "at", "is not measured at a place");
  for (const char* key : {"wall", "along"}) refuse(kind.needs == Needs::wall, key, "does not belong to a wall");
  refuse(kind.needs == Needs::phase, "phase", "does not belong to a phase");
  if (part.has("leg")) throw part.wrong("leg", "a vessel has no legs", "leave the key out");
  if (place) read_gauge_place(setup, part, kind.needs, gauge);
  if (kind.needs == Needs::phase) gauge.phase = phase_number(setup, part);
  if (kind.needs == Needs::wall) read_gauge_wall(setup, part, gauge);
  if (part.has("response_time")) gauge.response_time = part.quantity("response_time");
  return gauge;
}

template Gauge<2> read_gauge<2>(const Setup<2>&, Part&, std::set<std::string>&);
template Gauge<3> read_gauge<3>(const Setup<3>&, Part&, std::set<std::string>&);

}  // namespace wavy
