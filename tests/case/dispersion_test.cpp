// Cases of the Eulerian model: phases, sizes and closures as they are read, and what is refused.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>

#include "about.hpp"
#include "base/error.hpp"
#include "case/case_file.hpp"
#include "case_texts.hpp"
#include "run/estimates.hpp"

using namespace wavy;

namespace {

/// An aerated column, lines counted.
const std::string column = R"(wavy = 1
title = "A column"
model = "eulerian"
[vessel]
size = ["20 cm", "1 m"]
[grid]
cell = "1 cm"
)" + water_and_bubbles +
                           R"([[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
[[opening]]
name = "sparger"
side = "bottom"
volume_flow = "10 L/min"
phase = "air"
[[opening]]
name = "top"
side = "top"
lets_out = "gas"
[[gauge]]
name = "g"
measures = "share"
phase = "air"
[run]
until = "1 s"
)";

std::string with(const std::string& old_text, const std::string& new_text, const std::string& text = column) {
  return replaced_once(text, old_text, new_text);
}

const Setup<2>& setup_of(const CaseFile& the_case) { return std::get<Setup<2>>(the_case.setup); }

/// Oil in three sizes and a heavier liquid that is continuous.
std::string haze() {
  return with("fluid = \"air\"\nform = \"bubbles\"\ndiameter = \"4 mm\"",
              "viscosity = \"20 cP\"\ndensity = \"880 kg/m^3\"\nform = \"drops\"\ndiameters = [\"0.5 mm\", \"1 mm\", "
              "\"2 mm\"]\nclass_shares = "
              "[0.2, 0.5, 0.3]",
              with("lets_out = \"gas\"", "pressure = \"0 Pa\""));
}

}  // namespace

TEST_CASE("an Eulerian case is read into phases, sizes and closures, and its case as run reads back as itself") {
  const CaseFile the_case = parse_case(column, "c.toml");
  const auto& setup = setup_of(the_case);
  REQUIRE(setup.eulerian);
  REQUIRE(setup.eulerian->phases.size() == 2);
  CHECK(setup.eulerian->phases[0].carrier);
  CHECK_FALSE(setup.eulerian->phases[1].carrier);
  CHECK(setup.eulerian->phases[1].gas);
  CHECK(setup.eulerian->phases[1].diameter == about(4e-3));
  REQUIRE(setup.eulerian->pairs.size() == 1);
  const auto& pair = setup.eulerian->pairs[0];
  REQUIRE(pair.second_in_first.law != nullptr);
  CHECK(pair.second_in_first.law->name == "ishii_zuber");
  CHECK(pair.second_in_first.hindrance == nullptr);
  CHECK(pair.virtual_mass == 0.5);
  CHECK(pair.lift == nullptr);
  CHECK(setup.openings[0].opening.composition == std::vector<double>{0, 1});
  CHECK(setup.openings[1].given == OpeningSetup<2>::Given::degassing);
  CHECK(warnings(the_case).empty());

  const CaseFile again = parse_case(the_case.as_run, "c.toml");
  CHECK(again.as_run == the_case.as_run);
  CHECK(setup_of(again).eulerian->pairs[0].surface_tension == pair.surface_tension);
}

TEST_CASE("size classes become phases of their own, which a fill, an opening and a gauge may name together") {
  const std::string text =
      with("[run]", "[[fill]]\nphase = \"air\"\nshare = 0.1\nshape = \"level\"\nlevel = \"50 cm\"\n[run]", haze());
  const CaseFile the_case = parse_case(text, "c.toml");
  const auto& setup = setup_of(the_case);
  REQUIRE(setup.phases.size() == 4);
  CHECK(setup.phases[1].name == "air_1");
  CHECK(setup.phases[3].name == "air_3");
  CHECK(setup.eulerian->pairs.size() == 3);  // each class with the carrier, none with another
  CHECK(setup.fills[0].phase == 1);
  CHECK(setup.fills[0].share == 0.1);
  CHECK(setup.fills[0].classes == std::vector<double>{0.2, 0.5, 0.3});
  CHECK(setup.openings[0].opening.composition == std::vector<double>{0, 0.2, 0.5, 0.3});
  CHECK(setup.gauges[0].phase == 1);
  CHECK(setup.gauges[0].classes == 3);

  const Grid<2> grid = make_grid(setup);
  const auto model = make_dispersed_model(setup, grid);
  const double below = 0.5 * 0.2;  // [m2]
  CHECK(model->volume(2) == about(0.1 * 0.5 * below).epsilon(1e-12));
  CHECK(model->volume(0) == about(0.2 - 0.1 * below).epsilon(1e-12));
}

TEST_CASE("closures that a case chooses are those of the tables; what it leaves out goes by the sizes") {
  const auto pair_of = [](const std::string& more) {
    const CaseFile the_case = parse_case(with("surface_tension = \"72 mN/m\"", more), "c.toml");
    return setup_of(the_case).eulerian->pairs[0];
  };
  const auto chosen = pair_of(
      "surface_tension = \"72 mN/m\"\ndrag = \"grace\"\nhindrance = \"richardson_zaki\"\nswarm_exponent = -1\nlift = "
      "\"tomiyama\"\nvirtual_mass = 0.3");
  CHECK(chosen.second_in_first.law->name == "grace");
  CHECK(chosen.second_in_first.hindrance->name == "richardson_zaki");
  CHECK(chosen.second_in_first.swarm_exponent == -1);
  CHECK(chosen.lift->name == "tomiyama");
  CHECK(chosen.virtual_mass == 0.3);
  const auto constant = pair_of("drag = \"constant\"\ndrag_coefficient = 1.2");
  CHECK(constant.second_in_first.law == nullptr);
  CHECK(constant.second_in_first.constant == 1.2);
  const auto spheres = pair_of("drag = \"schiller_naumann\"");
  CHECK(spheres.second_in_first.hindrance->name == "richardson_zaki");

  const CaseFile bare = parse_case(with("surface_tension = \"72 mN/m\"\n", ""), "c.toml");
  CHECK(setup_of(bare).eulerian->pairs[0].second_in_first.law->name == "schiller_naumann");
  const auto said = warnings(bare);
  REQUIRE(said.size() == 2);
  CHECK(said[0].find("no surface tension is given between 'water' and 'air'") != std::string::npos);
  CHECK(said[1].find("outside what schiller_naumann was made for") != std::string::npos);

  // One bubble of 4 mm in water, by the closure itself.
  const auto alone = bodies_alone(setup_of(parse_case(column, "c.toml")));
  REQUIRE(alone.size() == 1);
  CHECK(alone[0].bodies.slip == about(terminal_slip(alone[0].drag, alone[0].bodies)));
  CHECK(alone[0].bodies.slip == about(0.23).epsilon(0.02));
}

TEST_CASE("what cannot be an Eulerian case gets a message of its own, with its line") {
  struct Wrong {
    std::string text;
    std::string says;
    int line;
  };
  const std::string second_carrier = with("form = \"bubbles\"\ndiameter = \"4 mm\"\n", "");
  const std::vector<Wrong> list{
      {with("form = \"bubbles\"\n", ""), "'water' and 'air' are both carriers, and 'water' has no diameter", 8},
      {second_carrier, "'water' and 'air' are both carriers, and 'water' has no diameter", 8},
      {with("fluid = \"water\"\n", "fluid = \"water\"\nform = \"drops\"\ndiameter = \"1 mm\"\n"),
       "no phase is a carrier", 13},
      {with("diameter = \"4 mm\"\n", ""), "bubbles need a size", 11},
      {with("form = \"bubbles\"", "form = \"drops\""), "'air' is a gas: it forms bubbles", 11},
      {with("fluid = \"water\"\n", "fluid = \"water\"\ndiameter = \"1 mm\"\n"), "'water' is the only carrier", 8},
      {with("diameter = \"4 mm\"", "diameter = \"4 cm\""), "bubbles of 40 mm are wider than two cells of 10 mm", 11},
      {with("diameter = \"4 mm\"", "diameters = [\"1 mm\", \"2 mm\"]\nclass_shares = [0.5, 0.6]"),
       "the shares add up to 1.1, not to 1", 16},
      {with("diameter = \"4 mm\"", "diameters = [\"1 mm\", \"2 mm\"]\nclass_shares = [1]"),
       "1 shares are given for 2 diameters", 16},
      {with("diameter = \"4 mm\"", "diameter = \"4 mm\"\nclass_shares = [1]"), "shares belong to size classes", 16},
      {with("diameter = \"4 mm\"",
            "diameters = [\"1 mm\", \"2 mm\", \"3 mm\", \"4 mm\", \"5 mm\"]\n[[phase]]\nname = "
            "\"oil\"\nfluid = \"lavender_oil\"\nform = \"drops\"\ndiameter = \"1 mm\""),
       "these are 7 phases", 16},
      {with("surface_tension = \"72 mN/m\"", "drag = \"grace\""), "grace goes by the surface tension", 18},
      {with("surface_tension = \"72 mN/m\"", "surface_tension = \"72 mN/m\"\ndrag = \"graze\""), "did you mean 'grace'",
       19},
      {with("surface_tension = \"72 mN/m\"", "surface_tension = \"72 mN/m\"\nhindrance = \"richardson_zaki\""),
       "ishii_zuber says itself", 19},
      {with("surface_tension = \"72 mN/m\"", "drag_coefficient = 1"), "belongs to drag = \"constant\"", 18},
      {with("between = [\"water\", \"air\"]", "between = [\"water\", \"oil\"]"), "no phase is called 'oil'", 17},
      {with("surface_tension = \"72 mN/m\"", "contact_angle = \"60 deg\""), "follows no contact line", 18},
      {with("lets_out = \"gas\"", "lets_out = \"gas\"\npressure = \"0 Pa\""), "both 'pressure' and 'lets_out'", 27},
      {with("lets_out = \"gas\"", "lets_out = \"gas\"\nphase = \"air\""), "a degassing surface has no 'phase'", 28},
      {with("pressure = \"0 Pa\"", "lets_out = \"gas\"", haze()), "no phase is a gas", 29},
      {with("phase = \"air\"\n[[opening]]", "phases = [\"air\", \"water\"]\nshares = [0.5, 0.4]\n[[opening]]"),
       "the shares add up to 0.9, not to 1", 24},
      {with("name = \"water\"\nfluid", "name = \"mean\"\nfluid"), "would be mistaken for the mean of something", 8},
      {with(
           "side = \"bottom\"\nvolume_flow = \"10 L/min\"",
           "spread = \"box\"\nlower = [\"5 cm\", \"5 cm\"]\nupper = [\"9 cm\", \"8 cm\"]\nvolume_flow = \"-10 L/min\""),
       "'sparger' lets fluid in alone", 19},
      {with("phase = \"air\"\n[[opening]]", "phases = [\"air\", \"water\"]\n[[opening]]"),
       "phases are given without their shares", 19},
      {with("measures = \"share\"\nphase = \"air\"", "measures = \"pieces\""), "the Eulerian model has no 'pieces'",
       30},
      {with("measures = \"share\"\nphase = \"air\"", "measures = \"mean\"\nquantity = \"dynamic_pressure\""),
       "'dynamic_pressure' is nothing that the Eulerian model has", 31},
      {with("measures = \"share\"\nphase = \"air\"", "measures = \"mean\"\nquantity = \"oil_fraction\""),
       "'oil_fraction' is nothing that the Eulerian model has", 31},
      {with("fluid = \"water\"\n", "fluid = \"water\"\nrheology = \"power-law\"\nexponent = 0.5\n"),
       "'water' needs one viscosity", 8},
      {with("fluid = \"water\"\n", "fluid = \"water\"\nclosest_packing = 0.6\n"), "a carrier fills its layer by itself",
       11},
      {with("surface_tension = \"72 mN/m\"", "wall_lubrication = \"frank\""), "frank goes by the surface tension", 18},
      {with("volume_flow = \"10 L/min\"\nphase = \"air\"", "standard_flow = \"10 L/min\"\nphase = \"water\""),
       "is not known", 22},
      {with("volume_flow = \"10 L/min\"\nphase = \"air\"",
            "standard_flow = \"10 L/min\"\nphase = \"air\"\nshare = 0.9"),
       "a standard volume is that of a gas alone", 22},
      {with("fluid = \"air\"", "density = \"1.2 kg/m^3\"\nviscosity = \"18 uPa.s\"",
            with("volume_flow", "standard_flow")),
       "is not known", 23},
  };
  for (const auto& [text, says, line] : list) {
    CAPTURE(says);
    try {
      parse_case(text, "c.toml");
      FAIL_CHECK("accepted");
    } catch (const Error& error) {
      const std::string all = error.problem() + " / " + error.remedy();
      CHECK_MESSAGE(all.find(says) != std::string::npos, all);
      CHECK(error.place().line == line);
      CHECK(error.place().file == "c.toml");
    }
  }
  // The keys of one model do not pass unseen in the other.
  const std::string sharp = with("model = \"eulerian\"\n", "");
  CHECK_THROWS_WITH_AS(parse_case(sharp, "c.toml"), doctest::Contains("'form' belongs to model = \"eulerian\""), Error);
}

TEST_CASE("packing and what pushes off walls are read; a standard volume of gas comes in as its mass") {
  const CaseFile the_case = parse_case(
      with("diameter = \"4 mm\"", "diameter = \"4 mm\"\nclosest_packing = 0.7\ntemperature = \"60 degC\"",
           with("surface_tension = \"72 mN/m\"", "surface_tension = \"72 mN/m\"\nwall_lubrication = \"frank\"",
                with("volume_flow", "standard_flow"))),
      "c.toml");
  const auto& setup = setup_of(the_case);
  CHECK(setup.eulerian->phases[1].packing == 0.7);
  CHECK(setup.eulerian->phases[0].packing == 1);
  REQUIRE(setup.eulerian->pairs[0].wall_lubrication != nullptr);
  CHECK(setup.eulerian->pairs[0].wall_lubrication->name == "frank");
  const Grid<2> grid = make_grid(setup);
  const auto model = make_dispersed_model(setup, grid);
  // At one pressure a gas takes room by its temperature.
  CHECK(model->boundary().openings()[0].flow(0) == about(10e-3 / 60 * 333.15 / 288.15).epsilon(1e-9));
  // The sides are walls; the bottom and the top are open all over.
  CHECK(model->settings().wall_distance({0.03, 0.001}) == about(0.03));
  CHECK(model->settings().wall_distance({0.16, 0.999}) == about(0.04));
  const CaseFile full = parse_case(
      with("diameter = \"4 mm\"", "diameter = \"4 mm\"\nclosest_packing = 0.7",
           with("[[opening]]\nname = \"sparger\"",
                "[[fill]]\nphase = \"air\"\nshare = 0.8\nlevel = \"50 cm\"\n[[opening]]\nname = \"sparger\"")),
      "c.toml");
  const Grid<2> own = make_grid(setup_of(full));
  CHECK_THROWS_WITH_AS(make_dispersed_model(setup_of(full), own),
                       doctest::Contains("more than their closest packing of 70 %"), Error);
  // What stands in the column counts too, thin or not.
  const CaseFile filled = parse_case(
      with("[[opening]]\nname = \"sparger\"",
           "[[insert]]\nname = \"plate\"\nshape = \"box\"\nlower = [\"99 mm\", \"20 cm\"]\nupper = [\"101 mm\", \"60 "
           "cm\"]\n[[insert]]\nname = \"rod\"\nshape = \"circle\"\ncentre = [\"10 cm\", \"80 cm\"]\ndiameter = \"4 "
           "cm\"\n[[opening]]\nname = \"sparger\""),
      "c.toml");
  const Grid<2> same = make_grid(setup_of(filled));
  const auto around = make_dispersed_model(setup_of(filled), same);
  CHECK(around->settings().wall_distance({0.13, 0.4}) == about(0.03).epsilon(0.05));
  CHECK(around->settings().wall_distance({0.07, 0.4}) == about(0.03).epsilon(0.05));
  CHECK(around->settings().wall_distance({0.1, 0.83}) == about(0.01));
}

TEST_CASE("a degassing surface under gas is refused when the model is made") {
  std::string text = with("form = \"bubbles\"\n", "");
  text = with("fluid = \"water\"\n", "fluid = \"water\"\ndiameter = \"1 mm\"\n", text);
  text = with("[run]", "[[fill]]\nphase = \"water\"\nlevel = \"60 cm\"\n[run]", text);
  const CaseFile the_case = parse_case(text, "c.toml");
  const auto& setup = setup_of(the_case);
  const Grid<2> grid = make_grid(setup);
  CHECK_THROWS_WITH_AS(make_dispersed_model(setup, grid), doctest::Contains("'top' lies under gas"), Error);
}
