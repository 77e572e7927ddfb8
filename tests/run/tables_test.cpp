// The tables of quantities and of kinds of gauges.
#include <doctest/doctest.h>

#include <cmath>
#include <set>

#include "about.hpp"
#include "base/units.hpp"
#include "run/gauge_kinds.hpp"
#include "run/quantities.hpp"
#include "run/still_tank.hpp"

using namespace wavy;

namespace {

Setup<2> cup() { return still_tank({0.4, 0.3}, 0.16, 0.02); }

bool is_unit(const std::string& unit) { return unit == "1" || scale_to_si(unit).has_value(); }

}  // namespace

TEST_CASE("every quantity has a name of its own, a unit that is one, and words; speeds come from what is kept") {
  std::set<std::string> names;
  for (const auto& quantity : vessel_quantities()) {
    CAPTURE(quantity.name);
    CHECK(names.insert(quantity.name).second);
    CHECK(is_unit(quantity.unit));
    CHECK(scale_to_si(quantity.unit == "1" ? "m/m" : quantity.unit)->factor == 1);
    CHECK_FALSE(quantity.meaning.empty());
    CHECK_FALSE(quantity.heading.empty());
    CHECK_FALSE(quantity.title.empty());
    CHECK(find_quantity(quantity.name) == &quantity);
    if (quantity.length_of.empty()) {
      CHECK(quantity.of_flat);
      CHECK(quantity.of_solid);
      continue;
    }
    const Quantity* vector = find_quantity(quantity.length_of);
    REQUIRE(vector != nullptr);
    CHECK(vector->components == 3);
    CHECK(vector->unit == quantity.unit);
  }
  CHECK(find_quantity("colour") == nullptr);
}

TEST_CASE("quantities of a cup at rest are those of its fluids, and reach into a solid") {
  Setup<2> setup = cup();
  setup.inserts = {box_solid<2>({0.1, 0}, {0.2, 0.1})};
  setup.insert_names = {"block"};
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  model->start();
  const CellMap<2> map(grid);
  const auto value = [&](const char* name, const Index<2>& cell, int axis = 0) {
    const auto place = map(cell);
    const auto& list = vessel_quantities();
    const auto found = std::ranges::find(list, name, &VesselQuantity::name);
    return found->of(*model)(place.block, place.at, axis);
  };
  CHECK(value("fraction", {1, 2}) == 1);
  CHECK(value("fraction", {1, 12}) == 0);
  CHECK(value("fraction", {5, 4}) == 1);  // in the solid, beside its side
  CHECK(value("velocity", {1, 2}, 1) == 0);
  CHECK(value("velocity", {1, 2}, 2) == 0);  // there is no such axis
  // Water stands 0.11 m above the middle of that cell, and half of the gas space weighs on it.
  const double expected = 9.81 * (1000 * 0.11 + 1.2 * 0.07);
  CHECK(value("pressure", {1, 2}) == about(expected).epsilon(1e-6));
  CHECK(std::isfinite(value("pressure", {5, 4})));
  CHECK(std::abs(value("dynamic_pressure", {1, 2}) - value("dynamic_pressure", {18, 3})) < 1e-6);
}

TEST_CASE("every kind of gauge has a name, a unit and a meaning, and can be made where it belongs") {
  std::set<std::pair<GaugeKind::Of, std::string>> names;
  for (const auto& kind : gauge_kinds()) {
    CAPTURE(kind.name);
    CHECK(names.insert({kind.of, kind.name}).second);
    CHECK(is_unit(kind.unit));
    CHECK_FALSE(kind.meaning.empty());
    CHECK(find_gauge_kind(kind.name, kind.of) == &kind);
    const bool of_vessel = kind.of == GaugeKind::Of::vessel;
    CHECK(static_cast<bool>(kind.of_flat) == of_vessel);
    CHECK(static_cast<bool>(kind.of_solid) == of_vessel);
    CHECK(static_cast<bool>(kind.of_line) == !of_vessel);
  }
  CHECK(find_gauge_kind("level", GaugeKind::Of::line) == nullptr);
  CHECK(find_gauge_kind("holdup", GaugeKind::Of::vessel) == nullptr);
  CHECK(gauge_kind("pressure", GaugeKind::Of::vessel).meaning != gauge_kind("pressure", GaugeKind::Of::line).meaning);
}

TEST_CASE("each kind of gauge of a vessel reads what a cup at rest has") {
  const Setup<2> setup = cup();
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  model->start();
  VesselReading<2> now(setup, *model);
  for (const auto& kind : gauge_kinds()) {
    if (kind.of != GaugeKind::Of::vessel || kind.in == GaugeKind::In::eulerian) continue;
    CAPTURE(kind.name);
    if (kind.needs == GaugeKind::Needs::agitator || kind.needs == GaugeKind::Needs::impeller) continue;  // of no cup
    Gauge<2> gauge;
    gauge.name = "g";
    gauge.measures = kind.name;
    gauge.at = {0.1, 0.05};
    gauge.quantity = "pressure";
    if (kind.needs == GaugeKind::Needs::wall || kind.needs == GaugeKind::Needs::wall_and_point)
      gauge.wall = {"bottom", NamedWall::Of::side, {1, 0}};
    gauge.axis = 1;
    if (kind.needs == GaugeKind::Needs::phase_through_plane) gauge.zone = AlignedBox<2>{{0, 0.1}, {0.4, 0.1}};
    if (kind.needs == GaugeKind::Needs::formula) {
      FormulaNames names;
      names.readings.emplace("height", NamedValue(1, powers_of(dimension::length)));
      gauge.formula = Formula("2 * height + t * 1 m/s", names, dimension::length, {});
      now.keep_reading("height", 0.21);
    }
    const double value = kind.reader(gauge, setup, *model)(now);
    if (kind.name.ends_with("level")) CHECK(value == about(0.16));
    if (kind.name == "level_span" || kind.name == "friction_force") CHECK(std::abs(value) < 1e-12);
    if (kind.name == "share") CHECK(value == about(0.16 / 0.3));
    if (kind.name == "pressure" || kind.name == "value")
      CHECK(value == about(9.81 * (1000 * 0.11 + 1.2 * 0.07)).epsilon(1e-6));
    if (kind.name == "volume") CHECK(value == about(0.4 * 0.16));
    if (kind.name == "greatest_speed" || kind.name == "kinetic_energy" || kind.name == "dissipation" ||
        kind.name == "flow")
      CHECK(value == 0);
    if (kind.name == "potential_energy")
      CHECK(value == about(9.81 * 0.4 * (1000 * 0.16 * 0.08 + 1.2 * 0.14 * 0.23)).epsilon(1e-6));
    if (kind.name == "interface_area") CHECK(value == about(0.4));
    if (kind.name == "reach") CHECK(value == about(0.16));
    if (kind.name == "pieces") CHECK(value == 1);
    if (kind.name == "largest_piece") CHECK(value == about(0.4 * 0.16));
    if (kind.name == "formula") CHECK(value == about(0.42));
    if (kind.name == "force" || kind.name == "pressure_force")
      CHECK(value == about(-0.4 * 9.81 * (1000 * 0.16 + 1.2 * 0.07)).epsilon(1e-6));
  }
}

TEST_CASE("the kinetic energy of a cup that moves as one is that of its mass, of the whole vessel") {
  Setup<2> setup = cup();
  setup.thickness = 0.5;
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  for (double& u : model->state().u[0].data()) u = 3;
  VesselReading<2> now(setup, *model);
  Gauge<2> gauge;
  gauge.measures = "kinetic_energy";
  const double mass = 0.5 * 0.4 * (0.16 * 1000 + 0.14 * 1.2);
  CHECK(gauge_kind("kinetic_energy", GaugeKind::Of::vessel).reader(gauge, setup, *model)(now) == about(0.5 * mass * 9));
}

TEST_CASE("each kind of gauge of a line reads what a pipe at rest has") {
  LineSetup setup;
  LineLeg leg;
  leg.name = "pipe";
  leg.points = {{0, 0}, {20, 0}};
  leg.diameter = 0.1;
  leg.holdup = 0.3;
  setup.legs = {leg};
  setup.cell = 1;
  setup.closed = true;
  setup.steady = false;
  setup.phases = {Phase{"water", {1000, 1e-3}}, Phase{"air", {1.2, 1.8e-5}}};
  const line::Model model = make_line(setup);
  const double volume = 20 * M_PI / 4 * 0.01;
  for (const auto& kind : gauge_kinds()) {
    if (kind.of != GaugeKind::Of::line) continue;
    CAPTURE(kind.name);
    LineGauge gauge{"g", kind.name, 0, 5.0};
    setup.gauges = {gauge};
    const double value = kind.of_line(gauge, setup)(model);
    const bool nothing = kind.name.ends_with("_flow") || kind.name == "slugs";
    if (nothing) CHECK(value == 0);
    if (kind.name == "pressure") CHECK(value == about(101325));
    if (kind.name == "holdup") CHECK(value == about(0.3));
    if (kind.name == "liquid_held") CHECK(value == about(0.3 * volume));
  }
  const LineGauge whole{"g", "liquid_held", -1, 0.0};
  CHECK(liquid_held_reader(whole, setup)(model) == about(0.3 * volume));
}
