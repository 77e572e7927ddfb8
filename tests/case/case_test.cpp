#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <random>

#include "about.hpp"
#include "case/case_file.hpp"
#include "case/keys.hpp"
#include "case/scenarios.hpp"
#include "case_texts.hpp"

using namespace wavy;

namespace {

const std::string good = R"(wavy = 1
title = "A tank"
[vessel]
size = ["1 m", "0.5 m"]
[grid]
cell = "25 mm"
[[phase]]
name = "water"
fluid = "water"
[[phase]]
name = "air"
fluid = "air"
[[fill]]
phase = "water"
level = "20 cm"
[[gauge]]
name = "wall"
measures = "level"
at = ["0.9 m"]
[run]
until = "2 s"
)";

/// `good` with one piece of text replaced.
std::string with(const std::string& old_text, const std::string& new_text) {
  return replaced_once(good, old_text, new_text);
}

struct Wrong {
  std::string old_text, new_text;
  std::string says;  ///< part of the message
  int line;          ///< where
};

}  // namespace

TEST_CASE("a case is read into SI values and its defaults are written out") {
  const CaseFile the_case = parse_case(good, "tank.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  CHECK(the_case.title == "A tank");
  CHECK(setup.size == Vec<2>{1, 0.5});
  CHECK(setup.thickness == 1);
  CHECK(setup.cell_size == about(0.025));
  CHECK(setup.phases[0].name == "water");
  CHECK(setup.phases[0].properties.density == about(998.2).epsilon(1e-4));
  CHECK(std::get<BelowLevel<2>>(setup.fills.at(0).shape).height == about(0.2));
  CHECK(setup.gravity[1](0) == about(-9.80665));
  CHECK(setup.walls[0][0] == Wall::no_slip);
  CHECK(setup.schedule.snapshot_interval == about(0.1));
  CHECK(the_case.lines.at("grid.cell") == std::vector<int>{6});
  CHECK(the_case.lines.at("phase.name") == std::vector<int>{8, 11});
  CHECK(warnings(the_case).empty());
  // The case as run reads back as the same case, and then writes the same text.
  const CaseFile again = parse_case(the_case.as_run, "again.toml");
  CHECK(again.as_run == the_case.as_run);
  CHECK(std::get<Setup<2>>(again.setup).phases[1].properties.viscosity == about(setup.phases[1].properties.viscosity));
}

TEST_CASE("the denser phase is the liquid whatever the order, and own values take the place of the list's") {
  const CaseFile the_case =
      parse_case(with("fluid = \"air\"", "density = \"1200 kg/m^3\"\nkinematic_viscosity = \"2 cSt\""), "a.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  CHECK(setup.phases[0].name == "air");
  CHECK(setup.phases[0].properties.viscosity == about(2.4e-3));
  CHECK(setup.fills.at(0).phase == 1);
}

TEST_CASE("three lengths make a 3-D case") {
  std::string text = with("\"0.5 m\"]", "\"0.5 m\", \"0.4 m\"]");
  text.replace(text.find("[\"0.9 m\"]"), 9, "[\"0.9 m\", \"1 dm\"]");
  const CaseFile the_case = parse_case(text, "a.toml");
  const auto& setup = std::get<Setup<3>>(the_case.setup);
  CHECK(setup.gravity[2](0) == about(-9.80665));
  CHECK(setup.gauges.at(0).at[1] == about(0.1));
}

TEST_CASE("every mistake gets its own message with line and column") {
  const std::vector<Wrong> mistakes{
      {"wavy = 1", "wavy = 2", "format 1", 1},
      {"wavy = 1", "wavy = \"1\"", "whole number", 1},
      {"wavy = 1", "", "'wavy' is missing", 1},
      {"fluid = \"water\"", "fluid = \"water\"\nrheology = \"powr-law\"", "did you mean 'power-law'", 10},
      {"fluid = \"water\"", "fluid = \"water\"\nexponent = 0.6", "has no use for it", 10},
      {"fluid = \"water\"", "fluid = \"water\"\nrheology = \"bingham\"", "needs yield_stress", 7},
      {"fluid = \"water\"",
       "fluid = \"water\"\nrheology = \"cross\"\nlow_shear_viscosity = \"1 Pa.s\"\nshear_time = \"1 s\"\nexponent = "
       "1.5",
       "between 0 and 1", 13},
      {"fluid = \"water\"",
       "fluid = \"water\"\nrheology = \"formula\"\nviscosity_formula = \"1 Pa.s - 1 Pa.s^2 * rate\"",
       "must be positive", 11},
      {"fluid = \"water\"", "fluid = \"water\"\nrheology = \"formula\"\nviscosity_formula = \"1 + t\"",
       "cannot be understood", 11},
      {"fluid = \"water\"", "fluid = \"water\"\nmeasured_at = [\"20 degC\"]\nmeasured_viscosity = [\"1 cP\"]",
       "at least two", 11},
      {"fluid = \"water\"",
       "fluid = \"water\"\nmeasured_at = [\"60 degC\", \"20 degC\"]\nmeasured_viscosity = [\"1 cP\", \"2 cP\"]",
       "must rise", 10},
      {"fluid = \"water\"", "fluid = \"water\"\nviscosity = \"1 cP\"\nkinematic_viscosity = \"1 cSt\"",
       "the same thing twice", 11},
      {"[vessel]", "[pair]\nsurface_tension = \"70 mN/m\"\ncontact_angle = \"179 deg\"\n[vessel]",
       "179 deg is outside 5 deg to 175 deg", 5},
      {"[vessel]", "[pair]\ncontact_angle = \"60 deg\"\n[vessel]", "without a surface tension", 4},
      {"[vessel]", "[pair]\nsurface_tension = \"70 mN/m\"\nslip_length = \"1 m\"\n[vessel]",
       "must lie between 0 and the cell", 5},
      {"[vessel]", "[[pair]]\nbetween = [\"water\", \"oil\"]\n[vessel]", "no phase is called 'oil'", 4},
      {"[vessel]", "[[pair]]\nbetween = [\"water\", \"watre\"]\n[vessel]", "the phases are water and air", 4},
      {"[vessel]", "[[pair]]\nbetween = [1, 2]\n[vessel]",
       "a name in quotation marks is needed here, not a bare number", 4},
      {"[vessel]", "[[pair]]\nbetween = [\"water\"]\n[vessel]", "names of 2 phases", 4},
      {"[vessel]", "[[pair]]\nbetween = \"water\"\n[vessel]", "names of 2 phases", 4},
      {"[vessel]", "[[pair]]\nbetween = [\"water\", \"water\"]\n[vessel]", "two different phases", 4},
      {"[vessel]", "[[pair]]\n[[pair]]\nbetween = [\"air\", \"water\"]\n[vessel]", "stands twice", 5},
      {"[vessel]", "[[pair]]\nsurface_tension = \"-1 mN/m\"\n[vessel]", "-1 mN/m is outside 0 N/m to 1e6 N/m", 4},
      {"[vessel]", "[[pair]]\nbetwen = [\"air\", \"water\"]\n[vessel]", "did you mean 'between'", 4},
      {"title = \"A tank\"", "titel = \"A tank\"", "did you mean 'title'", 2},
      {"[vessel]", "[vesel]", "did you mean 'vessel'", 3},
      {"size = ", "siez = ", "did you mean 'size'", 4},
      {"[\"1 m\", \"0.5 m\"]", "\"1 m\"", "a list in brackets", 4},
      {"[\"1 m\", \"0.5 m\"]", "[\"1 m\"]", "two are needed", 4},
      {"[\"1 m\", \"0.5 m\"]", "[\"1 m\", \"-0.5 m\"]", "positive", 4},
      {"[\"1 m\", \"0.5 m\"]", "[1.0, 0.5]", "no unit", 4},
      {"\"25 mm\"", "\"25 m/s\"", "is a speed; a length is needed", 6},
      {"\"25 mm\"", "\"25\"", "no unit", 6},
      {"\"25 mm\"", "\"25 milimetres\"", "not a unit", 6},
      {"\"25 mm\"", "\"1 m\"", "quarter", 6},
      {"\"25 mm\"", "\"1 um\"", "cells", 6},
      {"\"25 mm\"", "25 mm", "TOML", 6},
      {"fluid = \"water\"", "fluid = \"watr\"", "did you mean 'water'", 9},
      {"fluid = \"water\"", "", "neither a fluid nor a density", 7},
      {"fluid = \"water\"", "fluid = \"water\"\ntemperature = \"300 degC\"", "outside the range", 10},
      {"fluid = \"water\"", "fluid = \"water\"\nviscosity = \"1 cP\"\nkinematic_viscosity = \"1 cSt\"",
       "same thing twice", 11},
      {"name = \"air\"", "name = \"water\"", "two phases are called", 11},
      {"name = \"air\"", "name = \"air 2\"", "letters, digits", 11},
      {"[[phase]]\nname = \"air\"\nfluid = \"air\"\n",
       "[[phase]]\nname = \"air\"\nfluid = \"air\"\n[[phase]]\nname = \"oil\"\nfluid = \"water\"\n", "two phases", 13},
      {"phase = \"water\"", "phase = \"wter\"", "did you mean 'water'", 14},
      {"level = \"20 cm\"", "", "'level' is missing", 13},
      {"level = \"20 cm\"", "level = \"-20 cm\"", "below the floor", 15},
      {"level = \"20 cm\"", "shape = \"sphere\"\ncentre = [\"1 m\", \"1 m\"]\ndiameter = \"1 cm\"", "3-D vessel", 15},
      {"level = \"20 cm\"", "shape = \"circle\"\nlevel = \"1 m\"", "has no 'level'", 16},
      {"level = \"20 cm\"", "shape = \"box\"\nlower = [\"1 m\", \"1 m\"]\nupper = [\"2 m\", \"1 m\"]", "greater", 17},
      {"level = \"20 cm\"", "shape = \"drops\"\ndiameters = [\"4 cm\"]", "'count' is missing", 13},
      {"level = \"20 cm\"", "shape = \"drops\"\ncount = 0\ndiameters = [\"4 cm\"]", "0 drops", 16},
      {"level = \"20 cm\"", "shape = \"drops\"\ncount = 4\ndiameters = [\"-4 cm\"]", "positive", 17},
      {"level = \"20 cm\"", "shape = \"drops\"\ncount = 4\ndiameters = [\"4 m\"]", "does not fit", 17},
      {"level = \"20 cm\"", "shape = \"drops\"\ncount = 999\ndiameters = [\"10 cm\"]", "find room", 16},
      {"level = \"20 cm\"", "shape = \"drops\"\nlevel = \"1 m\"", "drops have no 'level'", 16},
      {"level = \"20 cm\"",
       "shape = \"drops\"\ncount = 4\ndiameters = [\"4 cm\"]\nlower = [\"0 m\", \"0 m\"]\nupper = [\"2 m\", \"1 m\"]",
       "out of the vessel", 19},
      {"level = \"20 cm\"",
       "shape = \"drops\"\ncount = 4\ndiameters = [\"4 cm\"]\nlower = [\"0.5 m\", \"0 m\"]\nupper = [\"0.2 m\", \"0.5 "
       "m\"]",
       "greater", 19},
      {"level = \"20 cm\"", "shape = \"levle\"", "did you mean 'level'", 15},
      {"[[fill]]", "[fill]", "double brackets", 13},
      {"measures = \"level\"", "measures = \"levels\"", "did you mean 'level'", 18},
      {"[\"0.9 m\"]", "[\"1.9 m\"]", "outside the vessel", 19},
      {"[\"0.9 m\"]", "[\"0.9 m\", \"1 m\"]", "one is needed", 19},
      {"name = \"wall\"", "name = \"time\"", "already", 17},
      {"until = \"2 s\"", "until = \"-2 s\"", "after the start", 21},
      {"until = \"2 s\"", "until = \"2 m\"", "is a length; a time is needed", 21},
      {"until = \"2 s\"", "until = \"2 s\"\ncourant = 0.9", "outside 0.05 to 0.5", 22},
      {"until = \"2 s\"", "until = \"2 s\"\nsnapshot_interval = \"1 ns\"", "snapshots", 22},
      {"[run]", "[motion]\nacceleration = [\"sin(t) * 2 m/s^2\"]\n[run]", "2 entries", 21},
      {"[run]", "[motion]\nacceleration = [\"sine(t) * 2 m/s^2\", \"0\"]\n[run]", "did you mean 'sin'", 21},
      {"[run]", "[motion]\nacceleration = [\"2 m/s\", \"0\"]\n[run]", "is a speed; an acceleration is needed", 21},
      {"[run]", "[tables.road]\nfile = \"not-there.csv\"\n[run]", "there is no file", 21},
      {"[run]", "[constants]\nsin = \"2 m\"\n[run]", "meaning in formulas", 21},
      {"[run]", "[vessel.walls]\nfront = \"slip\"\n[run]", "no such wall", 21},
      {"[run]", "[vessel.walls]\nleft = \"sticky\"\n[run]", "not one of", 21},
  };
  for (const auto& mistake : mistakes) {
    INFO(mistake.new_text);
    bool refused = false;
    try {
      parse_case(with(mistake.old_text, mistake.new_text), "tank.toml");
    } catch (const Error& error) {
      refused = true;
      const std::string what = error.what();
      INFO(what);
      CHECK(error.fault() == Fault::input);
      CHECK(what.find(mistake.says) != std::string::npos);
      CHECK(error.place().line == mistake.line);
    }
    CHECK(refused);
  }
}

TEST_CASE("what can hardly be meant is warned of, each with a remedy") {
  const auto warned = [](const std::string& text, const std::string& says) {
    const auto list = warnings(parse_case(text, "a.toml"));
    INFO(says);
    REQUIRE(list.size() == 1);
    CHECK(list.front().find(says) != std::string::npos);
  };
  warned(with("[run]", "[motion]\ngravity = [\"0\", \"0\"]\n[run]"), "no gravity");
  warned(with("\"20 cm\"", "\"3 cm\""), "thinner than two cells");
  warned(with("\"20 cm\"", "\"60 cm\""), "above the lid");
  warned(with("[[fill]]\nphase = \"water\"\nlevel = \"20 cm\"\n", ""), "no fill puts");
  warned(with("[run]",
              "[[fill]]\nphase = \"water\"\nshape = \"circle\"\ncentre = [\"5 m\", \"0.3 m\"]\ndiameter = \"40 "
              "cm\"\n[run]"),
         "outside the vessel");
}

TEST_CASE("tables from CSV files drive formulas") {
  const auto folder = std::filesystem::temp_directory_path() / "wavy_case_test";
  std::filesystem::create_directories(folder);
  std::ofstream(folder / "road.csv") << "t [ms],a [cm/s^2]\n0,0\n1000,50\n2000,0\n";
  const std::string text =
      with("[run]", "[tables.road]\nfile = \"road.csv\"\n[motion]\nacceleration = [\"2 * road(t)\", \"0\"]\n[run]");
  const CaseFile the_case = parse_case(text, folder / "a.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  CHECK(setup.acceleration[0](0.5) == about(0.5));
  std::filesystem::remove_all(folder);
}

TEST_CASE("every scenario, fully commented, reads back as itself and has no warnings") {
  CHECK(scenarios().size() >= 4);
  for (const auto& scenario : scenarios()) {
    INFO(scenario.name);
    CHECK_FALSE(scenario.what.empty());
    const std::string text = commented(scenario, Extent::all);
    CHECK(parse_case(commented(scenario), "a.toml").as_run == parse_case(text, "a.toml").as_run);
    const CaseFile plain = parse_case(scenario.text, "a.toml");
    const CaseFile full = parse_case(text, "a.toml");
    CHECK(plain.as_run == full.as_run);
    CHECK(warnings(plain).empty());
    for (const auto& key : keys())
      if (key.section != "tables") {
        INFO(key.path());
        CHECK(text.find(key.name + " = ") != std::string::npos);
      }
  }
}

TEST_CASE("every key has a meaning, a section, and an example that its reader accepts") {
  for (const auto& key : keys()) {
    INFO(key.path());
    CHECK(key.meaning.size() > 10);
    CHECK(key.meaning.back() == '.');
    CHECK_FALSE(key.example.empty());
    if (key.dimension != nullptr && key.kind == Kind::quantity && key.example.front() == '"') {
      UnitProblem problem;
      CHECK(read_quantity(key.example.substr(1, key.example.size() - 2), *key.dimension, problem).has_value());
    }
  }
  CHECK(reference_page().find("`snapshot_interval`") != std::string::npos);
}

TEST_CASE("a pair is written once for its two phases, in the old way or the new, in any order") {
  const std::string tension = "surface_tension = \"70 mN/m\"\ncontact_angle = \"60 deg\"\n";
  std::vector<std::string> as_run;
  for (const std::string head : {"[pair]\n", "[[pair]]\n", "[[pair]]\nbetween = [\"air\", \"water\"]\n",
                                 "[[pair]]\nbetween = [\"water\", \"air\"]\n"}) {
    const CaseFile the_case = parse_case(with("[vessel]", head + tension + "[vessel]"), "a.toml");
    const auto& pairs = std::get<Setup<2>>(the_case.setup).pairs;
    REQUIRE(pairs.size() == 1);
    CHECK(pairs[0].between == std::array<std::size_t, 2>{0, 1});
    CHECK(pairs[0].surface_tension == about(0.07));
    CHECK(pairs[0].contact_angle == about(M_PI / 3));
    CHECK(parse_case(the_case.as_run, "again.toml").as_run == the_case.as_run);
    as_run.push_back(the_case.as_run);
  }
  CHECK(as_run[0] == as_run[1]);  // both say in full what holds
  CHECK(as_run[1] == as_run[3]);
  CHECK(as_run[0].find("[[pair]]\nbetween = [\"water\", \"air\"]\n") != std::string::npos);
}

TEST_CASE("between which values a key must lie stands in its table, and what holds when it is left out lies there") {
  int limited = 0;
  for (const auto& key : keys()) {
    CAPTURE(key.path());
    const Limits limits = limits_of(key);
    CHECK(limits.lower < limits.upper);
    if (key.limits.empty()) continue;
    ++limited;
    CHECK(allowed_values(key).find(key.limits) != std::string::npos);
    CHECK_FALSE(limits.hold(std::nan("")));
    CHECK(limits.hold(limits.lower) == !limits.above);
    UnitProblem problem;
    if (key.dimension == nullptr) continue;
    if (const auto standard = read_quantity(key.standard, *key.dimension, problem)) CHECK(limits.hold(*standard));
  }
  CHECK(limited > 35);
  CHECK(limits_of(*find_key("pair", "contact_angle")).upper == about(175 * M_PI / 180));
  CHECK(limits_of(*find_key("opening", "stub")).upper == 1000);
}

TEST_CASE("a shear-dependent fluid is read, and its case as run reads back") {
  std::string text = good;
  const auto put = [&](const std::string& lines) {
    std::string changed = text;
    const std::string mark = "fluid = \"water\"";
    changed.replace(changed.find(mark), mark.size(), lines);
    const CaseFile the_case = parse_case(changed, "gel.toml");
    const CaseFile again = parse_case(the_case.as_run, "again.toml");
    CHECK(again.as_run == the_case.as_run);
    return std::get<Setup<2>>(again.setup).phases[0].properties;
  };
  const auto gel =
      put("density = \"1010 kg/m^3\"\nviscosity = \"0.8 Pa.s\"\nrheology = \"power-law\"\nexponent = 0.5\n"
          "reference_rate = \"4 1/s\"");
  CHECK(gel.rheology(4) == about(0.8));
  CHECK(gel.rheology(16) == about(0.4));
  const auto syrup = put(
      "density = \"1010 kg/m^3\"\ntemperature = \"40 degC\"\nmeasured_at = [\"20 degC\", \"40 degC\", \"60 degC\"]\n"
      "measured_viscosity = [\"80 cP\", \"30 cP\", \"12 cP\"]");
  CHECK(syrup.viscosity == about(0.030));
  const auto custom = put(
      "density = \"1010 kg/m^3\"\nrheology = \"formula\"\nviscosity_formula = \"0.1 + 2 / (1 + (0.5 s * rate)^0.8)\"");
  CHECK(custom.rheology(2) == about(1.1).epsilon(1e-3));
}
