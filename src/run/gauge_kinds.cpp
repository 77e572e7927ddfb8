#include "run/gauge_kinds.hpp"

#include <algorithm>

namespace wavy {

const std::vector<GaugeKind>& gauge_kinds() {
  using Of = GaugeKind::Of;
  using Needs = GaugeKind::Needs;
  const auto volume = [](const auto& gauge, const auto&, const auto&) {
    return [phase = gauge.phase](auto& now) { return now.volume(phase); };
  };
  const auto greatest_speed = [](const auto&, const auto&, const auto&) {
    return [](auto& now) { return now.greatest_speed(); };
  };
  const auto kinetic_energy = [](const auto&, const auto& setup, const auto&) {
    return [thickness = setup.thickness](auto& now) { return thickness * now.model().kinetic_energy(); };
  };
  const auto in_cell = [](auto value) {
    return [value](const LineGauge& gauge, const LineSetup& setup) { return reader_in_cell(gauge, setup, value); };
  };
  static const std::vector<GaugeKind> list{
      {Of::vessel, "level", "m",
       "height of the denser phase over the vessel's lowest point along an upright line, gas pockets left out",
       Needs::upright_line, level_reader<2>, level_reader<3>},
      {Of::vessel, "pressure", "Pa", "at a point, over the mean of the lighter phase", Needs::point, pressure_reader<2>,
       pressure_reader<3>},
      {Of::vessel, "volume", "m3", "of a phase", Needs::phase, volume, volume},
      {Of::vessel, "greatest_speed", "m/s", "of all cells", Needs::nothing, greatest_speed, greatest_speed},
      {Of::vessel, "force", "N", "of pressure and friction on a wall or an insert", Needs::wall, force_reader<2>,
       force_reader<3>},
      {Of::vessel, "kinetic_energy", "J", "of all fluid in the vessel", Needs::nothing, kinetic_energy, kinetic_energy},
      {Of::line,
       "pressure",
       "Pa",
       "absolute",
       Needs::place_in_leg,
       {},
       {},
       in_cell([](const line::Model& model, std::size_t cell) { return model.state().pressure[cell]; })},
      {Of::line,
       "holdup",
       "1",
       "share of the cell that the liquid fills",
       Needs::place_in_leg,
       {},
       {},
       in_cell([](const line::Model& model, std::size_t cell) { return model.holdup(cell); })},
      {Of::line,
       "liquid_flow",
       "kg/s",
       "mass of liquid that passes",
       Needs::place_in_leg,
       {},
       {},
       in_cell([](const line::Model& model, std::size_t cell) { return model.liquid_flow(cell); })},
      {Of::line,
       "gas_flow",
       "kg/s",
       "mass of gas that passes",
       Needs::place_in_leg,
       {},
       {},
       in_cell([](const line::Model& model, std::size_t cell) { return model.gas_flow(cell); })},
      {Of::line, "liquid_held", "m3", "liquid in a leg or the whole line", Needs::leg, {}, {}, liquid_held_reader},
      {Of::line,
       "slugs",
       "1",
       "how many slugs have passed; measure says more of them",
       Needs::place_in_leg,
       {},
       {},
       slugs_reader},
  };
  return list;
}

const GaugeKind* find_gauge_kind(std::string_view name, GaugeKind::Of of) {
  const auto found =
      std::ranges::find_if(gauge_kinds(), [&](const GaugeKind& kind) { return kind.of == of && kind.name == name; });
  return found == gauge_kinds().end() ? nullptr : &*found;
}

}  // namespace wavy
