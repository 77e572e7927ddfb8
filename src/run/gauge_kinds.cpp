#include "run/gauge_kinds.hpp"

#include <algorithm>

namespace wavy {

const std::vector<GaugeKind>& gauge_kinds() {
  using Of = GaugeKind::Of;
  using Needs = GaugeKind::Needs;
  // Readers of both numbers of dimensions are made by one generic function.
  const auto in_vessel = [](const char* name, const char* unit, const char* meaning, Needs needs, auto read) {
    return GaugeKind{Of::vessel, name, unit, meaning, needs, read, read, {}, GaugeKind::In::any};
  };
  const auto only_in = [](GaugeKind::In in, GaugeKind kind) {
    kind.in = in;
    return kind;
  };
  const auto of_sharp = [&](const char* name, const char* unit, const char* meaning, Needs needs, auto read) {
    return only_in(GaugeKind::In::sharp, in_vessel(name, unit, meaning, needs, read));
  };
  const auto in_line = [](const char* name, const char* unit, const char* meaning, Needs needs, auto read) {
    return GaugeKind{Of::line, name, unit, meaning, needs, {}, {}, read, GaugeKind::In::any};
  };
  const auto surface = [](SurfaceFigure figure) {
    return [figure](const auto&... of) { return surface_reader(figure, of...); };
  };
  const auto zone = [](ZoneFigure figure) {
    return [figure](const auto&... of) { return zone_reader(figure, of...); };
  };
  const auto force = [](ForceOf part) { return [part](const auto&... of) { return force_reader(part, of...); }; };
  const auto greatest_speed = [](const auto&...) { return [](auto& now) { return now.greatest_speed(); }; };
  const auto kinetic_energy = [](const auto&, const auto& setup, const auto&) {
    return [thickness = setup.thickness](auto& now) { return thickness * now.model().kinetic_energy(); };
  };
  const auto dissipation = [](const auto&, const auto& setup, const auto&) {
    return [thickness = setup.thickness](auto& now) {
      return thickness * now.model().visit([](auto& m) { return m.dissipation(); });
    };
  };
  const auto potential_energy = [](const auto&, const auto& setup, const auto&) {
    return [&setup](auto& now) {
      auto gravity = now.model().body_force();  // of as many axes
      for (std::size_t d = 0; d < gravity.size(); ++d) gravity[d] = setup.gravity[d](now.model().time());
      return setup.thickness * now.model().potential_energy(gravity);
    };
  };
  const auto pieces = [](PieceFigure figure) {
    return [figure](const auto&... of) { return pieces_reader(figure, of...); };
  };
  const auto agitator = [](AgitatorFigure figure) {
    return [figure](const auto&... of) { return agitator_reader(figure, of...); };
  };
  const auto formula = [](const auto& gauge, const auto&, const auto&) {
    return [of = *gauge.formula](auto& now) {
      return of.of_readings(now.model().time(), [&](const std::string& name) { return now.reading(name); });
    };
  };
  const auto in_cell = [](auto value) {
    return [value](const LineGauge& gauge, const LineSetup& setup) { return reader_in_cell(gauge, setup, value); };
  };
  static const std::vector<GaugeKind> list{
      in_vessel("level", "m",
                "height of a phase and all denser ones over the vessel's lowest point along an upright line, gas "
                "pockets left out",
                Needs::upright_line, [](const auto&... of) { return level_reader(of...); }),
      in_vessel("pressure", "Pa", "at a point, over the mean of the lighter phase", Needs::point,
                [](const auto&... of) { return pressure_reader(of...); }),
      in_vessel("highest_level", "m", "greatest level over a zone", Needs::surface_over_zone,
                surface(SurfaceFigure::highest)),
      in_vessel("lowest_level", "m", "least level over a zone", Needs::surface_over_zone,
                surface(SurfaceFigure::lowest)),
      in_vessel("mean_level", "m", "mean of the level over a zone", Needs::surface_over_zone,
                surface(SurfaceFigure::mean)),
      in_vessel("level_span", "m", "greatest less least level over a zone: height of a wave, depth of a vortex",
                Needs::surface_over_zone, surface(SurfaceFigure::span)),
      in_vessel("value", "", "a quantity at a point", Needs::quantity_at_point,
                [](const auto&... of) { return value_reader(of...); }),
      in_vessel("least", "", "of a quantity in a zone", Needs::quantity_in_zone, zone(ZoneFigure::least)),
      in_vessel("greatest", "", "of a quantity in a zone", Needs::quantity_in_zone, zone(ZoneFigure::greatest)),
      in_vessel("mean", "", "of a quantity in a zone, by volume", Needs::quantity_in_zone, zone(ZoneFigure::mean)),
      in_vessel("percentile", "", "value of a quantity that a percentage of the zone's volume does not exceed",
                Needs::quantity_in_zone, zone(ZoneFigure::percentile)),
      in_vessel("uniformity", "1", "of a quantity in a zone: 1 - sum V |q - mean| / (2 |mean| sum V)",
                Needs::quantity_in_zone, zone(ZoneFigure::uniformity)),
      in_vessel("variation", "1", "of a quantity in a zone: standard deviation over mean", Needs::quantity_in_zone,
                zone(ZoneFigure::variation)),
      in_vessel("amount", "kg", "of a tracer in a zone, by its concentration", Needs::quantity_in_zone,
                zone(ZoneFigure::amount)),
      in_vessel("volume", "m3", "of a phase, in a zone", Needs::phase_in_zone,
                [](const auto&... of) { return zone_volume_reader(of...); }),
      in_vessel("share", "1", "what a phase fills of the volume that is open in a zone", Needs::phase_in_zone,
                [](const auto&... of) { return zone_share_reader(of...); }),
      only_in(
          GaugeKind::In::eulerian,
          in_vessel("sauter_diameter", "m",
                    "volume over area of the bubbles or drops of a phase, of all its size classes, as the diameter of "
                    "spheres, in a zone",
                    Needs::phase_in_zone, [](const auto&... of) { return sauter_reader(of...); })),
      in_vessel("greatest_speed", "m/s", "of all cells", Needs::nothing, greatest_speed),
      in_vessel("force", "N", "of pressure and friction on a wall or an insert", Needs::wall, force(ForceOf::both)),
      in_vessel("pressure_force", "N", "the part of force by pressure", Needs::wall, force(ForceOf::pressure)),
      in_vessel("friction_force", "N", "the part of force by friction", Needs::wall, force(ForceOf::friction)),
      in_vessel("moment", "N m", "of force on a wall about an axis through a point", Needs::wall_and_point,
                [](const auto&... of) { return moment_reader(of...); }),
      in_vessel("torque", "N m", "of an agitator or a part of it", Needs::agitator, agitator(AgitatorFigure::torque)),
      in_vessel("shaft_power", "W", "torque times speed", Needs::agitator, agitator(AgitatorFigure::power)),
      in_vessel("power_number", "1", "of an impeller: P / (rho N^3 D^5)", Needs::impeller,
                agitator(AgitatorFigure::power_number)),
      in_vessel("pumping_number", "1", "of an impeller: flow out of what it sweeps over N D^3", Needs::impeller,
                agitator(AgitatorFigure::pumping_number)),
      in_vessel("kinetic_energy", "J", "of all fluid", Needs::nothing, kinetic_energy),
      in_vessel("potential_energy", "J", "of all fluid by gravity, 0 at the origin", Needs::nothing, potential_energy),
      in_vessel("dissipation", "W", "what turns into heat: sum of (mu + mu_t) (shear rate)^2 V", Needs::nothing,
                dissipation),
      in_vessel("flow", "m3/s", "of a phase through a plane: a box without thickness along one axis, in its direction",
                Needs::phase_through_plane, [](const auto&... of) { return flow_reader(of...); }),
      in_vessel("interface_area", "m2", "between the phases, in a zone; Eulerian: of all bubbles and drops, as spheres",
                Needs::zone, [](const auto&... of) { return interface_area_reader(of...); }),
      in_vessel("reach", "m", "how far a phase that fills cells by half or more reaches along an axis",
                Needs::phase_along, [](const auto&... of) { return reach_reader(of...); }),
      of_sharp("pieces", "1", "how many drops, bubbles or pools of a phase there are, of a cell's volume or more",
               Needs::phase, pieces(PieceFigure::count)),
      of_sharp("largest_piece", "m3", "volume of the largest drop, bubble or pool of a phase", Needs::phase,
               pieces(PieceFigure::largest)),
      in_vessel("formula", "", "a formula of what gauges before it read, by their names, and of time t", Needs::formula,
                formula),
      in_line("pressure", "Pa", "absolute", Needs::place_in_leg,
              in_cell([](const line::Model& model, std::size_t cell) { return model.state().pressure[cell]; })),
      in_line("holdup", "1", "share of the cell that the liquid fills", Needs::place_in_leg,
              in_cell([](const line::Model& model, std::size_t cell) { return model.holdup(cell); })),
      in_line("liquid_flow", "kg/s", "mass of liquid that passes", Needs::place_in_leg,
              in_cell([](const line::Model& model, std::size_t cell) { return model.liquid_flow(cell); })),
      in_line("gas_flow", "kg/s", "mass of gas that passes", Needs::place_in_leg,
              in_cell([](const line::Model& model, std::size_t cell) { return model.gas_flow(cell); })),
      in_line("liquid_held", "m3", "liquid in a leg or the whole line", Needs::leg, liquid_held_reader),
      in_line("slugs", "1", "how many slugs have passed; measure says more of them", Needs::place_in_leg, slugs_reader),
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
  if (gauge.formula) return gauge.formula->powers() ? si_unit_of(*gauge.formula->powers()) : "1";
  return own.empty() ? find_quantity_part(gauge.quantity).quantity->unit : own;
}

template std::string unit_of<2>(const Gauge<2>&);
template std::string unit_of<3>(const Gauge<3>&);

}  // namespace wavy
