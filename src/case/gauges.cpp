#include "case/gauges.hpp"

#include "case/moving_walls.hpp"

namespace wavy {
namespace {

template <int D>
void read_gauge_place(const Setup<D>& setup, Part& part, Gauge<D>& gauge) {
  const int entries = gauge.measures == Measure::level ? D - 1 : D;
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
  gauge.axis = part.choice("along", "x")[0] - 'x';
  if (gauge.axis >= D) throw part.wrong("along", "a 2-D vessel has no z axis", "write \"x\" or \"y\"");
  if (mirrored(setup, gauge.axis))
    throw part.wrong("along", fmt::format("along {} the forces on mirror images cancel", "xyz"[gauge.axis]),
                     "choose an axis along the mirrors, or leave vessel.symmetry out");
}

}  // namespace

template <int D>
Gauge<D> read_gauge(const Setup<D>& setup, Part& part, std::set<std::string>& taken) {
  part.refuse_unknown();
  Gauge<D> gauge;
  gauge.place = part.place();
  gauge.name = part.text("name");
  if (!is_name(gauge.name)) throw part.wrong("name", "a name may have letters, digits and _ and starts with a letter");
  if (!taken.insert(gauge.name).second)
    throw part.wrong("name", fmt::format("the history has a column '{}' already", gauge.name), "choose another name");
  gauge.measures = part.one_of<Measure>("measures",
                                        {{"level", Measure::level},
                                         {"pressure", Measure::pressure},
                                         {"volume", Measure::volume},
                                         {"greatest_speed", Measure::greatest_speed},
                                         {"force", Measure::force}},
                                        "measured in a vessel");
  const std::string measures = lower(part.find("measures")->value_or(std::string()));
  const bool place = gauge.measures == Measure::level || gauge.measures == Measure::pressure;
  if (!place && part.has("at"))
    throw part.wrong("at", fmt::format("{} is not measured at a place", measures), "leave the key out");
  for (const char* name : {"wall", "along"})
    if (gauge.measures != Measure::force && part.has(name))
      throw part.wrong(name, fmt::format("{} does not belong to a wall", measures), "leave the key out");
  if (gauge.measures != Measure::volume && part.has("phase"))
    throw part.wrong("phase", fmt::format("{} does not belong to a phase", measures), "leave the key out");
  if (part.has("leg")) throw part.wrong("leg", "a vessel has no legs", "leave the key out");
  if (place) read_gauge_place(setup, part, gauge);
  if (gauge.measures == Measure::volume) gauge.phase = phase_number(setup, part);
  if (gauge.measures == Measure::force) read_gauge_wall(setup, part, gauge);
  if (part.has("response_time")) {
    gauge.response_time = part.quantity("response_time");
    if (!(gauge.response_time > 0))
      throw part.wrong("response_time", "the time must be positive", "leave it out for an instrument without a lag");
  }
  return gauge;
}

template Gauge<2> read_gauge<2>(const Setup<2>&, Part&, std::set<std::string>&);
template Gauge<3> read_gauge<3>(const Setup<3>&, Part&, std::set<std::string>&);

}  // namespace wavy
