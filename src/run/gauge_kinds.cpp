#include "run/gauge_kinds.hpp"

#include <algorithm>

namespace wavy {

const std::vector<GaugeKind>& gauge_kinds() {
  using Of = GaugeKind::Of;
  using Needs = GaugeKind::Needs;
  const auto surface = [](SurfaceFigure figure) {
    return [figure](const auto& gauge, const auto& setup, const auto& model) {
      return surface_reader(figure, gauge, setup, model);
    };
  };
  const auto zone = [](ZoneFigure figure) {
    return [figure](const auto& gauge, const auto& setup, const auto& model) {
      return zone_reader(figure, gauge, setup, model);
    };
  };
  const auto force = [](ForceOf of) {
    return
        [of](const auto& gauge, const auto& setup, const auto& model) { return force_reader(of, gauge, setup, model); };
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
      {Of::vessel, "highest_level", "m", "greatest level over a zone", Needs::zone, surface(SurfaceFigure::highest),
       surface(SurfaceFigure::highest)},
      {Of::vessel, "lowest_level", "m", "least level over a zone", Needs::zone, surface(SurfaceFigure::lowest),
       surface(SurfaceFigure::lowest)},
      {Of::vessel, "mean_level", "m", "mean of the level over a zone", Needs::zone, surface(SurfaceFigure::mean),
       surface(SurfaceFigure::mean)},
      {Of::vessel, "level_span", "m", "greatest less least level over a zone: height of a wave, depth of a vortex",
       Needs::zone, surface(SurfaceFigure::span), surface(SurfaceFigure::span)},
      {Of::vessel, "value", "", "a quantity at a point", Needs::quantity_at_point, value_reader<2>, value_reader<3>},
      {Of::vessel, "least", "", "of a quantity in a zone", Needs::quantity_in_zone, zone(ZoneFigure::least),
       zone(ZoneFigure::least)},
      {Of::vessel, "greatest", "", "of a quantity in a zone", Needs::quantity_in_zone, zone(ZoneFigure::greatest),
       zone(ZoneFigure::greatest)},
      {Of::vessel, "mean", "", "of a quantity in a zone, by volume", Needs::quantity_in_zone, zone(ZoneFigure::mean),
       zone(ZoneFigure::mean)},
      {Of::vessel, "percentile", "", "value of a quantity that a percentage of the zone's volume does not exceed",
       Needs::quantity_in_zone, zone(ZoneFigure::percentile), zone(ZoneFigure::percentile)},
      {Of::vessel, "uniformity", "1",
       "of a quantity in a zone: 1 - sum V |q - mean| / (2 |mean| sum V), 1 where it is the same everywhere",
       Needs::quantity_in_zone, zone(ZoneFigure::uniformity), zone(ZoneFigure::uniformity)},
      {Of::vessel, "volume", "m3", "of a phase, in a zone", Needs::phase_in_zone, zone_volume_reader<2>,
       zone_volume_reader<3>},
      {Of::vessel, "share", "1", "what a phase fills of the volume that is open in a zone", Needs::phase_in_zone,
       zone_share_reader<2>, zone_share_reader<3>},
      {Of::vessel, "greatest_speed", "m/s", "of all cells", Needs::nothing, greatest_speed, greatest_speed},
      {Of::vessel, "force", "N", "of pressure and friction on a wall or an insert", Needs::wall, force(ForceOf::both),
       force(ForceOf::both)},
      {Of::vessel, "pressure_force", "N", "the part of force by pressure", Needs::wall, force(ForceOf::pressure),
       force(ForceOf::pressure)},
      {Of::vessel, "friction_force", "N", "the part of force by friction", Needs::wall, force(ForceOf::friction),
       force(ForceOf::friction)},
      {Of::vessel, "moment", "N m", "of pressure and friction on a wall or an insert, about an axis through a point",
       Needs::wall_and_point, moment_reader<2>, moment_reader<3>},
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

template <int D>
std::string unit_of(const Gauge<D>& gauge) {
  const std::string& own = gauge_kind(gauge.measures, GaugeKind::Of::vessel).unit;
  return own.empty() ? find_quantity_part(gauge.quantity).quantity->unit : own;
}

template std::string unit_of<2>(const Gauge<2>&);
template std::string unit_of<3>(const Gauge<3>&);

}  // namespace wavy
