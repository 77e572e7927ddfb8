// Vessels, inserts, openings and fills as users write them, rightly and wrongly.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::fluids;
using drive::Folder;
using drive::refuses;
using nlohmann::json;

namespace {

/// A case of a vessel (lines 2 on), what stands in it, and the rest.
std::string vessel_case(const std::string& vessel, const std::string& more, const std::string& cell = "2 cm",
                        const std::string& until = "0.1 s") {
  return "wavy = 1\n[vessel]\n" + vessel + "\n" + more + "\n[grid]\ncell = \"" + cell + "\"\n" + fluids +
         "[run]\nuntil = \"" + until + "\"\nsnapshot_interval = \"1 s\"\n";
}

const std::string tank = "size = [\"0.4 m\", \"0.4 m\"]";

json answered(const Folder& folder, const std::string& text, const std::string& command) {
  folder.write("case.toml", text);
  const auto outcome = drive::wavy(folder, command);
  INFO(outcome.out);
  REQUIRE(outcome.code == 0);
  return json::parse(outcome.out);
}
json checked(const Folder& folder, const std::string& text) {
  return answered(folder, text, "check case.toml --no-picture --json");
}

/// Runs the case into case.run; what --json says of it.
json ran(const Folder& folder, const std::string& text) { return answered(folder, text, "run case.toml --json"); }

/// A column of the history of case.run.
std::vector<double> history(const Folder& folder, const std::string& name) {
  return ::column(::wavy::read_csv(folder / "case.run/history.csv"), name);
}

}  // namespace

TEST_CASE("every mistake in vessel and inserts has its own message") {
  refuses(vessel_case("shape = \"cylinder\"\nlength = \"1 m\"", ""), "the key 'diameter' is missing");
  refuses(vessel_case("shape = \"barrel\"", ""), "'barrel' is not one of");
  refuses(vessel_case("shape = \"sphere\"\ndiameter = \"1 m\"\nlength = \"2 m\"", ""), "a sphere has no 'length'", 5);
  refuses(vessel_case("shape = \"sphere\"\ndiameter = \"1\"", ""), "has no unit", 4);
  refuses(vessel_case("shape = \"cylinder\"\ndiameter = \"1 m\"\nlength = \"1 m\"\nends = [\"torisferical\", \"flat\"]",
                      ""),
          "did you mean 'torispherical'?", 6);
  refuses(vessel_case("shape = \"polygon\"\npoints = [[\"0 m\", \"0 m\"], [\"1 m\", \"0 m\"]]", ""),
          "2 points are given; at least 3 are needed", 4);
  refuses(vessel_case("shape = \"polygon\"\npoints = [[\"0 m\", \"0 m\"], [\"1 m\"]]", ""),
          "a list of points is needed", 4);
  refuses(vessel_case("shape = \"pipe\"\ndiameter = \"0.2 m\"\nbend = \"0.5 m\"\npoints = [[\"0 m\", \"0 m\"], "
                      "[\"0.3 m\", \"0 m\"], [\"0.3 m\", \"1 m\"]]",
                      ""),
          "is too short for bends of 500 mm", 5);
  refuses(vessel_case("shape = \"circle\"\ndiameter = \"1 m\"\ndimensions = 3", ""), "makes this a 2-D vessel", 5);
  refuses(vessel_case(tank, "[[insert]]\nlower = [\"1 m\", \"0 m\"]\nupper = [\"2 m\", \"1 m\"]"),
          "'insert 1' lies outside the vessel");
  refuses(vessel_case(tank, "[[insert]]\nshape = \"sphere\"\ncentre = [\"0 m\", \"0 m\"]\ndiameter = \"1 cm\""),
          "a sphere belongs in a 3-D vessel");
  // A wall from floor to lid: two spaces.
  refuses(vessel_case(tank, "[[insert]]\nlower = [\"0.2 m\", \"0 m\"]\nupper = [\"0.202 m\", \"0.4 m\"]"),
          "the vessel falls into 2 parts without a way between them");
  refuses(vessel_case(tank, "[[insert]]\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.4 m\", \"0.4 m\"]"),
          "leave no open space");
}

TEST_CASE("every mistake in openings has its own message") {
  const auto opening = [](const std::string& keys) {
    return vessel_case(tank, "[[opening]]\nname = \"drain\"\n" + keys);
  };
  refuses(opening("side = \"below\""), "'below' is not one of", 6);
  refuses(opening("side = \"front\""), "a 2-D vessel has no such side", 6);
  refuses(opening("side = \"bottom\"\ncentre = [\"0.39 m\"]\nsize = [\"10 cm\"]"), "out of the side's 0 to 400 mm", 7);
  refuses(opening("side = \"bottom\"\nsize = [\"1 cm\"]"), "less than two cells", 7);
  refuses(opening("side = \"bottom\"\nsize = [\"10 cm\"]\ndiameter = \"10 cm\""), "both diameter and size are given");
  refuses(opening("side = \"bottom\"\nspeed = \"1 m/s\"\nvolume_flow = \"1 L/min\""),
          "both 'speed' and 'volume_flow' are given", 8);
  refuses(opening("side = \"bottom\"\nvolume_flow = \"3 gal/min\""), "could mean the US or the imperial gallon");
  refuses(opening("side = \"bottom\"\nvolume_flow = 3"), "a formula or a quantity in quotation marks is needed", 7);
  refuses(opening("side = \"bottom\"\nvolume_flow = \"3 kg/s\""), "is a mass flow; a volume flow is needed", 7);
  refuses(opening("side = \"bottom\"\nspeed = \"1 m/s\""), "no opening lets the vessel breathe");
  refuses(opening("side = \"bottom\"\nphase = \"milk\""), "no phase is called 'milk'", 7);
  refuses(opening("side = \"bottom\"\nshare = 1.2"), "1.2 is outside 0 to 1", 7);
  refuses(opening("side = \"bottom\"\nholds = \"level\"\ntarget = \"0.2 m\"\nmost_flow = \"1 L/s\""),
          "no level gauge is called 'level'", 7);
  refuses(opening("side = \"bottom\"\ntarget = \"0.2 m\""), "belongs to an outlet that holds a level", 7);
  refuses(opening("side = \"bottom\"\nprofile = \"developed\""), "'profile' belongs to a given flow", 7);
  refuses(opening("side = \"bottom\"\n[[gauge]]\nname = \"drain_water\"\nmeasures = \"volume\"\nphase = \"water\""),
          "has the column 'drain_water', as a gauge is called", 5);
  refuses(opening("side = \"bottom\"\n[[opening]]\nname = \"drain\"\nside = \"top\""),
          "two openings are called 'drain'", 8);
  refuses(opening("side = \"bottom\"\ncentre = [\"0.1 m\"]\nsize = [\"10 cm\"]\n[[opening]]\nname = \"other\"\nside = "
                  "\"bottom\"\ncentre = [\"0.15 m\"]\nsize = [\"10 cm\"]"),
          "the openings 'drain' and 'other' overlap");
  // Blocked by an insert.
  refuses(opening("side = \"bottom\"\nsize = [\"10 cm\"]\n[[insert]]\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.4 m\", "
                  "\"0.1 m\"]"),
          "the opening 'drain' touches no open part of the vessel's boundary");
}

TEST_CASE("a dished tank has the volume and the level of the formulas") {
  // Torispherical head, crown d and knuckle d/10: 0.0990 d^3 (DIN 28011).
  const Folder folder;
  const std::string kettle =
      "shape = \"cylinder\"\ndiameter = \"0.8 m\"\nlength = \"0.6 m\"\nends = [\"torispherical\", \"flat\"]";
  const double head = 0.0990 * 0.8 * 0.8 * 0.8;
  const double straight = M_PI * 0.16 * 0.6;
  auto found = checked(folder, vessel_case(kettle, "[[fill]]\nphase = \"water\"\nlevel = \"0.4 m\"", "25 mm"));
  CHECK(found["vessel_volume_m3"].get<double>() == about(head + straight).epsilon(1e-3));
  CHECK(found["phases"][0]["volume_m3"].get<double>() ==
        about(head + M_PI * 0.16 * (0.4 - 0.1935 * 0.8)).epsilon(2e-3));
  found = checked(folder, vessel_case(kettle, "[[fill]]\nphase = \"water\"\nvolume = \"200 L\"", "25 mm"));
  CHECK(found["phases"][0]["volume_m3"].get<double>() == about(0.2).epsilon(1e-6));
}

TEST_CASE("a vessel and what stands in it come from surface files, in the unit that is said") {
  // A prism of 48 sides, 800 mm wide and 600 mm high, standing away from the origin; a cube of 200 mm in it.
  constexpr int sides = 48;
  const auto corner = [](int i, double z) {
    return fmt::format("{} {} {}", 3000 + 400 * std::cos(2 * M_PI * i / sides),
                       1000 + 400 * std::sin(2 * M_PI * i / sides), z);
  };
  std::string stl = "solid prism\n";
  std::string holed;
  const auto add = [&](const std::string& a, const std::string& b, const std::string& c) {
    holed = stl;
    stl += "facet normal 0 0 0\nouter loop\nvertex " + a + "\nvertex " + b + "\nvertex " + c + "\nendloop\nendfacet\n";
  };
  for (int i = 0; i < sides; ++i) {
    add("3000 1000 -300", corner(i + 1, -300), corner(i, -300));
    add("3000 1000 300", corner(i, 300), corner(i + 1, 300));
    add(corner(i, -300), corner(i + 1, -300), corner(i + 1, 300));
    add(corner(i, -300), corner(i + 1, 300), corner(i, 300));
  }
  const Folder folder;
  folder.write("parts/prism.stl", stl + "endsolid prism\n");
  folder.write("holed.stl", holed + "endsolid prism\n");
  std::string cube;
  for (int n = 0; n < 8; ++n)
    cube += fmt::format("v {} {} {}\n", n & 1 ? 3.1 : 2.9, n & 2 ? 1.1 : 0.9, n & 4 ? 0.1 : -0.1);
  // Its faces in either sense.
  cube += "f 1 2 4 3\nf 5 6 8 7\nf 1 2 6 5\nf 3 4 8 7\nf 1 3 7 5\nf 2 4 8 6\n";
  folder.write("cube.obj", cube);
  const auto vessel = [](const std::string& file, const std::string& unit = "unit = \"1 mm\"") {
    return "shape = \"surface\"\nfile = \"" + file + "\"\n" + unit;
  };
  const std::string insert = "[[insert]]\nshape = \"surface\"\nfile = \"cube.obj\"\nunit = \"1 m\"\n";
  const double whole = sides / 2.0 * 0.16 * std::sin(2 * M_PI / sides) * 0.6;
  auto found = checked(folder, vessel_case(vessel("parts/prism.stl"), "", "40 mm"));
  CHECK(found["vessel_volume_m3"].get<double>() == about(whole).epsilon(1e-3));
  found = checked(folder, vessel_case(vessel("parts/prism.stl"), insert, "40 mm"));
  CHECK(found["vessel_volume_m3"].get<double>() == about(whole - 0.008).epsilon(2e-3));

  const auto says = [&](const std::string& text, const std::string& words) {
    folder.write("case.toml", text);
    const auto outcome = drive::wavy(folder, "check case.toml");
    INFO(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
  };
  says(vessel_case(vessel("holed.stl"), ""), "is not closed: 3 open edges, one of them at (3.397, ");
  says(vessel_case(vessel("parts/prism.stl", ""), ""), "the key 'unit' is missing");
  says(vessel_case(vessel("parts/prism.stl", "unit = \"1\""), ""), "has no unit");
  says(vessel_case(vessel("prism.stl"), ""), "there is no file 'prism.stl'");
  says(vessel_case(vessel("case.toml"), ""), "is no surface file");
  folder.write("empty.stl", "solid nothing\nendsolid nothing\n");
  says(vessel_case(vessel("empty.stl"), ""), "holds 0 faces");
  folder.write("double.obj", cube + "f 1 2 4\n");
  says(vessel_case(vessel("double.obj"), ""), "belong to more than two faces");

  // The case as it was run finds the file from its own folder.
  folder.write("case.toml", vessel_case(vessel("parts/prism.stl"), "", "80 mm"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  CHECK(drive::shell(folder, "cd case.run && \\$WAVY check case.toml --no-picture").code == 0);
}

TEST_CASE("a run that drains keeps Torricelli's line for its chart") {
  const Folder folder;
  folder.write("case.toml",
               vessel_case(tank,
                           "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"4 cm\"]\npressure = \"0 "
                           "Pa\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n[[gauge]]\nname = "
                           "\"depth\"\nmeasures = \"level\"\nat = [\"0.3 m\"]\n[[fill]]\nphase = "
                           "\"water\"\nlevel = \"0.2 m\"\n"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const ::wavy::Table line = ::wavy::read_csv(folder / "case.run/estimates/drain_drain.csv");
  CHECK(line.columns[1].front() == about(0.2));
  CHECK(line.columns[1].back() == about(0).scale(1));
  // From 0.2 m to nothing through a tenth of the floor: (A/a) sqrt(2 H / g).
  CHECK(line.columns[0].back() == about(10 * std::sqrt(2 * 0.2 / 9.81)).epsilon(1e-3));
  CHECK(drive::wavy(folder, "draw case.run --what history --to chart.svg").code == 0);
  CHECK(drive::shell(folder, "grep -c 'Torricelli (drain)' chart.svg").code == 0);
}

TEST_CASE("air stands still in an empty vessel that is open above and below") {
  const Folder folder;
  ran(folder, vessel_case(tank,
                          "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"8 cm\"]\n"
                          "phase = \"air\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\nphase = \"air\"\n",
                          "2 cm", "1 s"));
  for (const double speed : history(folder, "greatest_speed"))
    CHECK(speed < 0.01);  // its own weight would drive it at 2.8 m/s
}

TEST_CASE("check says what a fill takes from those before it") {
  const Folder folder;
  folder.write("case.toml",
               vessel_case(tank,
                           "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n[[fill]]\nphase = \"air\"\nshape = "
                           "\"box\"\nlower = [\"0.1 m\", \"0.1 m\"]\nupper = [\"0.2 m\", \"0.3 m\"]\n"));
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  CHECK(outcome.code == 0);
  CHECK(outcome.says("note: fill 2 (air) takes the place of 10 L of water from earlier fills"));
  CHECK_FALSE(outcome.says("fill 1"));
}

TEST_CASE("a round nozzle becomes a slot of equal area in 2-D, and check says so with the flow in several units") {
  const Folder folder;
  folder.write(
      "case.toml",
      vessel_case("size = [\"0.4 m\", \"0.4 m\"]\nthickness = \"5 cm\"",
                  "[[opening]]\nname = \"feed\"\nside = \"left\"\ndiameter = \"6 cm\"\nvolume_flow = \"12 L/min\"\n"
                  "[[opening]]\nname = \"vent\"\nside = \"top\"\n"));
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  CHECK(outcome.code == 0);
  CHECK(outcome.says("stands as a slot 56.55 mm wide"));
  CHECK(outcome.says("12 L/min = 0.72 m³/h"));
  CHECK(outcome.says("until 'water' fills the rest"));
  CHECK(outcome.says("; Re "));
  CHECK_FALSE(outcome.says(", We "));  // no surface tension, no Weber number
  folder.write("case.toml", folder.read("case.toml") + "[pair]\nsurface_tension = \"72 mN/m\"\n");
  const auto with_tension = drive::wavy(folder, "check case.toml --no-picture");
  // 70.7 mm/s through a disc of 6 cm.
  CHECK(with_tension.says(", We 4.16, Bo 489"));
}

TEST_CASE("not a drop passes a weir before its crest is reached, and what came in is there or has gone out") {
  const Folder folder;
  const auto summary = ran(
      folder,
      vessel_case("size = [\"0.4 m\", \"0.2 m\"]\nthickness = \"0.1 m\"",
                  "[[insert]]\nname = \"weir\"\nlower = [\"0.249 m\", \"0 m\"]\nupper = [\"0.251 m\", \"0.1 m\"]\n"
                  "[[insert]]\nname = \"pipe\"\nshape = \"circle\"\ncentre = [\"0.12 m\", \"0.06 m\"]\ndiameter = "
                  "\"5 cm\"\n[[opening]]\nname = \"feed\"\nside = \"left\"\ncentre = [\"0.03 m\"]\nsize = [\"4 cm\"]\n"
                  "volume_flow = \"60 L/min\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n"
                  "[[gauge]]\nname = \"before\"\nmeasures = \"level\"\nat = [\"0.22 m\"]\n"
                  "[[gauge]]\nname = \"behind\"\nmeasures = \"level\"\nat = [\"0.32 m\"]\n"
                  "[[fill]]\nphase = \"water\"\nlevel = \"0.04 m\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.25 m\", "
                  "\"0.2 m\"]\n",
                  "1 cm", "3 s"));
  for (const auto& phase : summary["ledger"]["phases"]) CHECK(std::abs(phase["drift"].get<double>()) < 1e-10);
  CHECK(summary["ledger"]["openings"][0]["water_in_m3"].get<double>() == about(1e-3 * 3).epsilon(0.02));
  const auto before = history(folder, "before");
  const auto behind = history(folder, "behind");
  bool over = false;
  for (std::size_t i = 0; i < before.size(); ++i) {
    over = over || before[i] > 0.09;
    if (!over) REQUIRE(behind[i] < 1e-12);
  }
  CHECK(over);
  CHECK(behind.back() > 0.005);
}

TEST_CASE("an outlet that holds a level lets out what comes in") {
  const Folder folder;
  ran(folder,
      vessel_case("size = [\"0.4 m\", \"0.3 m\"]\nthickness = \"0.1 m\"",
                  "[[opening]]\nname = \"feed\"\nside = \"left\"\ncentre = [\"0.03 m\"]\nsize = [\"4 cm\"]\n"
                  "volume_flow = \"30 L/min\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n"
                  "[[opening]]\nname = \"out\"\nside = \"right\"\ncentre = [\"0.03 m\"]\nsize = [\"4 cm\"]\nholds = "
                  "\"level\"\ntarget = \"0.15 m\"\nfull_at = \"2 cm\"\nmost_flow = \"60 L/min\"\n"
                  "[[gauge]]\nname = \"level\"\nmeasures = \"level\"\nat = [\"0.2 m\"]\n"
                  "[[fill]]\nphase = \"water\"\nlevel = \"0.15 m\"\n",
                  "1 cm", "12 s"));
  // Steady where most_flow (level - target) / full_at = feed: 1 cm above the target.
  const auto level = history(folder, "level");
  double mean = 0;
  for (std::size_t i = level.size() / 2; i < level.size(); ++i)
    mean += level[i] / static_cast<double>(level.size() - level.size() / 2);
  CHECK(mean == about(0.16).epsilon(0.02));
}

TEST_CASE("a round vessel, a half and a quarter have the volumes of the whole") {
  const Folder folder;
  const std::string fill = "[[fill]]\nphase = \"water\"\nlevel = \"0.21 m\"";
  const auto seen = [&](const std::string& vessel, const std::string& more) {
    return checked(folder, vessel_case(vessel, more));
  };
  // A cylinder of 0.4 m and 0.4 m: 50.27 L, of which 26.39 L lie below the level.
  const auto round = seen("symmetry = \"round\"\nsize = [\"0.2 m\", \"0.4 m\"]", fill);
  CHECK(round["vessel_volume_m3"].get<double>() == about(0.016 * M_PI).epsilon(1e-9));
  CHECK(round["phases"][0]["volume_m3"].get<double>() == about(0.0084 * M_PI).epsilon(1e-9));
  const auto whole = seen("shape = \"cylinder\"\ndiameter = \"0.4 m\"\nlength = \"0.4 m\"", fill);
  for (const char* symmetry : {"half", "quarter"}) {
    const auto part = seen(
        "shape = \"cylinder\"\ndiameter = \"0.4 m\"\nlength = \"0.4 m\"\nsymmetry = \"" + std::string(symmetry) + "\"",
        fill);
    CHECK(part["vessel_volume_m3"].get<double>() == about(whole["vessel_volume_m3"].get<double>()).epsilon(5e-4));
    CHECK(part["phases"][0]["volume_m3"].get<double>() ==
          about(whole["phases"][0]["volume_m3"].get<double>()).epsilon(5e-4));
  }
  // A dished section turned round is the dished vessel.
  const std::string dished = "\ndiameter = \"0.4 m\"\nlength = \"0.2 m\"\nends = [\"torispherical\", \"flat\"]";
  const auto section = seen("shape = \"cylinder\"\nsymmetry = \"round\"" + dished, "");
  const auto body = seen("shape = \"cylinder\"" + dished, "");
  CHECK(section["vessel_volume_m3"].get<double>() == about(body["vessel_volume_m3"].get<double>()).epsilon(2e-3));
}

TEST_CASE("openings of a round vessel are round, and half a vessel takes half the flow") {
  const Folder folder;
  const std::string openings =
      "[[opening]]\nname = \"jet\"\nside = \"top\"\ndiameter = \"8 cm\"\nvolume_flow = \"6 L/s\"\n"
      "[[opening]]\nname = \"vent\"\nside = \"right\"\ncentre = [\"0.35 m\"]\nsize = [\"4 cm\"]\n";
  const auto round = checked(folder, vessel_case("symmetry = \"round\"\nsize = [\"0.2 m\", \"0.4 m\"]", openings));
  CHECK(round["openings"][0]["area_m2"].get<double>() == about(M_PI * 0.0016).epsilon(1e-9));
  CHECK(round["openings"][1]["area_m2"].get<double>() == about(2 * M_PI * 0.2 * 0.04).epsilon(1e-9));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  CHECK(history(folder, "water_volume").back() == about(6e-4).epsilon(1e-6));

  const auto half = checked(
      folder, vessel_case("symmetry = \"half\"\nsize = [\"0.4 m\", \"0.4 m\"]\nthickness = \"0.1 m\"",
                          "[[opening]]\nname = \"jet\"\nside = \"top\"\nsize = [\"8 cm\"]\nvolume_flow = \"6 L/s\"\n"
                          "[[opening]]\nname = \"vent\"\nside = \"right\"\ncentre = [\"0.35 m\"]\nsize = [\"4 cm\"]\n"
                          "[[gauge]]\nname = \"left\"\nmeasures = \"level\"\nat = [\"0.1 m\"]"));
  const auto outcome = drive::wavy(folder, "check case.toml");
  CHECK(outcome.says("computed from 200 mm along x"));
  CHECK(outcome.says("'vent' stands for itself and its image"));
  CHECK(half["notes"].size() == 2);
  CHECK(half["openings"][0]["area_m2"].get<double>() == about(0.008).epsilon(1e-9));
  CHECK(half["openings"][1]["area_m2"].get<double>() == about(0.008).epsilon(1e-9));
  REQUIRE(drive::wavy(folder, "run case.toml --force").code == 0);
  CHECK(history(folder, "water_volume").back() == about(6e-4).epsilon(1e-6));
}

TEST_CASE("every mistake in symmetry has its own message") {
  const std::string round = "symmetry = \"round\"\nsize = [\"0.2 m\", \"0.4 m\"]";
  refuses(vessel_case("symmetry = \"round\"\nsize = [\"1 m\", \"1 m\", \"1 m\"]", ""), "round belongs to a 2-D section",
          3);
  refuses(vessel_case(round + "\ntilted = \"5 deg\"", ""), "cannot be tilted", 5);
  refuses(vessel_case(round + "\nthickness = \"1 m\"", ""), "has no thickness", 5);
  refuses(vessel_case("symmetry = \"quarter\"\n" + tank, ""), "a 2-D vessel has no quarter", 3);
  refuses(vessel_case(round, "[vessel.walls]\nleft = \"slip\""), "there is no such wall in the part", 6);
  refuses(vessel_case(round, "[[opening]]\nname = \"a\"\nside = \"left\""), "there is no such side in the part", 7);
  refuses(vessel_case(round, "[motion]\nacceleration = [\"1 m/s^2\", \"0 m/s^2\"]"), "does not go with vessel.symmetry",
          6);
  refuses(vessel_case(round, "[[fill]]\nphase = \"water\"\nshape = \"drops\"\ncount = 4\ndiameters = [\"4 cm\"]"),
          "would be rings", 7);
  refuses(vessel_case("shape = \"polygon\"\nsymmetry = \"round\"\npoints = [[\"-1 m\", \"0 m\"], [\"1 m\", \"0 m\"], "
                      "[\"0 m\", \"1 m\"]]",
                      "", "5 cm"),
          "a distance from the axis must not be negative", 5);
}

TEST_CASE("a formula fills what it is positive in") {
  const Folder folder;
  // A wavy surface of mean height 0.2 m; then a disc of radius 0.1 m, by its distance.
  const auto wave =
      checked(folder, vessel_case(tank,
                                  "[constants]\nhigh = \"3 cm\"\n[[fill]]\nphase = \"water\"\nshape = \"formula\"\n"
                                  "where = \"0.2 m + high * cos(2 * pi * x / 0.4 m) - y\""));
  CHECK(wave["phases"][0]["volume_m3"].get<double>() == about(0.08).epsilon(1e-4));
  const auto disc = checked(folder, vessel_case(tank,
                                                "[[fill]]\nphase = \"water\"\nshape = \"formula\"\n"
                                                "where = \"0.1 m - sqrt((x - 0.2 m)^2 + (y - 0.2 m)^2)\""));
  CHECK(disc["phases"][0]["volume_m3"].get<double>() == about(M_PI * 0.01).epsilon(2e-3));
  const std::string fill = "[[fill]]\nphase = \"water\"\nshape = \"formula\"\n";
  refuses(vessel_case(tank, fill), "the key 'where' is missing", 4);
  refuses(vessel_case(tank, fill + "where = \"3 cm\""), "does not depend on the place", 7);
  refuses(vessel_case(tank, fill + "where = \"0.2 m - h\""), "", 7);
  refuses(vessel_case(tank, fill + "level = \"3 cm\""), "a formula has no 'level'", 7);
}

TEST_CASE("a run goes on from the end of another on any grid") {
  const Folder folder;
  const std::string rest =
      "[[fill]]\nphase = \"water\"\nlevel = \"0.17 m\"\n[motion]\nacceleration = [\"3 m/s^2\", \"0 m/s^2\"]";
  ran(folder, vessel_case(tank, rest));
  const double volume = history(folder, "water_volume").back();
  const double speed = history(folder, "greatest_speed").back();
  std::filesystem::rename(folder / "case.run", folder / "first.run");
  const std::string on = "[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"first.run\"";
  for (const char* cell : {"2 cm", "1.3 cm", "3 cm"}) {
    std::filesystem::remove_all(folder / "case.run");
    ran(folder, vessel_case(tank, on, cell, "1 ms"));
    CHECK(history(folder, "water_volume").front() == about(volume).epsilon(1e-6));  // snapshots are floats
    CHECK(history(folder, "greatest_speed").front() == about(speed).epsilon(0.2));
  }
  // The same grid: the same state, but for what makes the velocities free of divergence once more.
  std::filesystem::remove_all(folder / "case.run");
  ran(folder, vessel_case(tank, on, "2 cm", "1 ms"));
  CHECK(history(folder, "greatest_speed").front() == about(speed).epsilon(0.02));
  refuses(vessel_case(tank, "[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"none.run\""),
          "cannot be read as a snapshot", 7);
  refuses(vessel_case(tank, "[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \".\""),
          "is no run folder with snapshots", 7);
}

TEST_CASE("every mistake about moving walls has its own message") {
  const std::string drum = "shape = \"circle\"\ndiameter = \"0.4 m\"";
  const auto moving = [](const std::string& text) { return "[[moving_wall]]\n" + text; };
  refuses(vessel_case(drum, moving("wall = \"vessl\"\nturning = \"1 rad/s\"")), "did you mean 'vessel'?", 6);
  refuses(vessel_case(drum, moving("wall = \"vessel\"")), "nothing says how 'vessel' moves", 5);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nturning = \"1 Hz\"")), "turns or radians", 7);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nturning = \"1 m/s\"")), "a rotation is needed", 7);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nturning = \"1 rad/s\"\naxis = \"x\"")), "in its plane alone", 8);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nvelocity = [\"1 m/s\", \"0 m/s\"]\nabout = [\"0 m\", "
                                   "\"0 m\"]")),
          "belongs to a wall that turns", 8);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nturning = \"1 rad/s\"\n") +
                                moving("wall = \"vessel\"\nturning = \"2 rad/s\"")),
          "moves already", 9);
  refuses(vessel_case(drum, moving("wall = \"vessel\"\nvelocity = [\"1 m/s\", \"0 m/s\"]")),
          "does not move along itself");
  refuses(vessel_case(tank, moving("wall = \"vessel\"\nturning = \"1 rad/s\"")), "does not move along itself");
  refuses(vessel_case(drum, moving("wall = \"top\"\nvelocity = [\"1 m/s\", \"0 m/s\"]")), "touches no fluid");
  refuses(vessel_case(tank + "\n[vessel.walls]\nall = \"slip\"",
                      moving("wall = \"top\"\nvelocity = [\"1 m/s\", \"0 m/s\"]")),
          "slips, so its motion would do nothing", 7);
  refuses(vessel_case(tank + "\nsymmetry = \"round\"", moving("wall = \"bottom\"\nturning = \"1 rad/s\"")),
          "has no flow round it", 7);
  refuses(vessel_case(tank + "\nsymmetry = \"half\"", moving("wall = \"top\"\nvelocity = [\"1 m/s\", \"0 m/s\"]")),
          "does not go with vessel.symmetry", 7);
}

TEST_CASE("check says how walls move, and the fluid follows") {
  const Folder folder;
  const std::string text = vessel_case(
      "shape = \"circle\"\ndiameter = \"0.4 m\"",
      "[[insert]]\nname = \"shaft\"\nshape = \"circle\"\ncentre = [\"0.2 m\", \"0.2 m\"]\ndiameter = \"0.12 m\"\n"
      "[[moving_wall]]\nwall = \"shaft\"\nturning = \"ramp(t, 0 s, 0.05 s, 0 rev/min, 60 rev/min)\"\n"
      "[[moving_wall]]\nwall = \"vessel\"\nturning = \"-30 rev/min\"\n[[gauge]]\nname = \"fastest\"\n"
      "measures = \"greatest_speed\"\n[[fill]]\nphase = \"water\"\nlevel = \"1 m\"",
      "1 cm", "0.4 s");
  folder.write("case.toml", text);
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  CHECK(outcome.says("vessel: turns at -30 rev/min"));
  CHECK(outcome.says("shaft: turns at ramp(t, 0 s"));
  ran(folder, text);
  const auto speed = history(folder, "fastest");
  CHECK(speed.front() < 1e-6);
  // Walls at 0.628 and 0.377 m/s drag at thin layers of water, of which the cells beside them have the mean.
  CHECK(speed.back() > 0.01);
  CHECK(speed.back() < 0.1);
  CHECK(speed.back() > 1.5 * speed[speed.size() / 3]);
}

TEST_CASE("check tells the memory that the run then takes") {
  const Folder folder;
  const std::string fill = "[[fill]]\nphase = \"water\"\nlevel = \"0.3 m\"";
  for (const std::string vessel :
       {"size = [\"0.9 m\", \"0.7 m\", \"0.6 m\"]", "shape = \"cylinder\"\ndiameter = \"0.8 m\"\nlength = \"0.8 m\""}) {
    const std::string text = vessel_case(vessel, fill, "1 cm", "0.001 s");
    const double told = checked(folder, text)["memory_bytes"];
    CAPTURE(vessel);
    CHECK(drive::peak_memory(folder, "run case.toml --into case.run --force") == about(told).epsilon(0.15));
  }
}

TEST_CASE("every mistake about openings on walls has its own message") {
  const std::string rod =
      "[[insert]]\nname = \"rod\"\nshape = \"circle\"\ncentre = [\"0.2 m\", \"0.2 m\"]\ndiameter = \"0.12 m\"\n";
  const std::string vent = "[[opening]]\nname = \"vent\"\nside = \"top\"\n";
  const auto on = [&](const std::string& text) {
    return vessel_case(tank, rod + vent + "[[opening]]\nname = \"feed\"\n" + text);
  };
  const std::string flow = "volume_flow = \"1 L/min\"\n";
  refuses(on(flow), "the key 'side' is missing", 12);
  refuses(on("on = \"rood\"\n" + flow), "did you mean 'rod'?", 14);
  refuses(on("on = \"vessel\"\n" + flow), "no insert that blocks is called 'vessel'", 14);
  refuses(on("on = \"rod\"\npressure = \"0 Pa\"\n"), "is not given", 12);
  refuses(on("on = \"rod\"\nside = \"top\"\n" + flow), "has no 'side'", 15);
  refuses(on("side = \"left\"\nlower = [\"0 m\", \"0 m\"]\n" + flow), "picks a piece of the wall", 15);
  refuses(on("on = \"rod\"\nlower = [\"0.1 m\", \"0.3 m\"]\nupper = [\"0.3 m\", \"0.2 m\"]\n" + flow),
          "must be greater", 16);
  refuses(on("on = \"rod\"\ncentre = [\"0.2 m\", \"0.2 m\"]\n" + flow), "'diameter' is missing", 12);
  refuses(on("on = \"rod\"\nlower = [\"0.1 m\", \"0.3 m\"]\nupper = [\"0.3 m\", \"0.35 m\"]\n" + flow),
          "lies on no wall that the fluid touches");
  refuses(on("on = \"rod\"\n" + flow + "[[opening]]\nname = \"more\"\non = \"rod\"\n" + flow),
          "the openings 'feed' and 'more' overlap");
  refuses(vessel_case(tank,
                      "[[insert]]\nname = \"sheet\"\nlower = [\"0.2 m\", \"0 m\"]\nupper = [\"0.202 m\", \"0.1 "
                      "m\"]\n" +
                          vent + "[[opening]]\nname = \"feed\"\non = \"sheet\"\n" + flow),
          "thinner than a cell", 13);
}

TEST_CASE("what passes through the walls of inserts is counted to round-off") {
  // Air bubbles from the upper half of a rod, water is taken through its lower half, and more than that comes in on the
  // wall of a box that stands on the floor.
  const Folder folder;
  const auto rod = [](const char* from, const char* to) {
    return fmt::format("on = \"rod\"\nlower = [\"0 m\", \"{}\"]\nupper = [\"0.4 m\", \"{}\"]\n", from, to);
  };
  json out =
      ran(folder, vessel_case(tank,
                              "[[insert]]\nname = \"rod\"\nshape = \"circle\"\ncentre = [\"0.2 m\", \"0.15 m\"]\n"
                              "diameter = \"8 cm\"\n[[insert]]\nname = \"box\"\nlower = [\"0.3 m\", \"0 m\"]\nupper = "
                              "[\"0.35 m\", \"5 cm\"]\n[[opening]]\nname = \"vent\"\nside = \"top\"\n"
                              "[[opening]]\nname = \"bubbles\"\nphase = \"air\"\nvolume_flow = \"90 L/min\"\n" +
                                  rod("0.16 m", "0.25 m") +
                                  "[[opening]]\nname = \"drain\"\nvolume_flow = \"60 L/min\"\ndirection = \"out\"\n" +
                                  rod("0.05 m", "0.14 m") +
                                  "[[opening]]\nname = \"feed\"\non = \"box\"\nmass_flow = \"3 kg/s\"\n"
                                  "[[fill]]\nphase = \"water\"\nlevel = \"0.3 m\"\n",
                              "1 cm", "0.5 s"));
  for (const auto& phase : out["ledger"]["phases"]) CHECK(std::abs(phase.at("drift").get<double>()) < 1e-12);
  const auto last = [&](const char* name) { return history(folder, name).back(); };
  CHECK(last("bubbles_air") == about(1.5e-3).epsilon(1e-9));
  CHECK(last("bubbles_water") == 0);
  CHECK(last("drain_water") == about(-1e-3).epsilon(1e-6));
  CHECK(last("feed_water") == about(3 / 998.2).epsilon(1e-4));
  CHECK(last("vent_air") < 0);
}

TEST_CASE("an outlet that balances a level gets its back pressure worked out") {
  const Folder folder;
  const auto drain = [](const std::string& more) {
    return "[[opening]]\nname = \"vent\"\nside = \"top\"\n[[opening]]\nname = \"drain\"\nside = \"bottom\"\n"
           "size = [\"8 cm\"]\n" +
           more;
  };
  const auto filled = [&](const char* level, const std::string& until) {
    return vessel_case(tank,
                       drain("balances = \"0.2 m\"\n") +
                           fmt::format("[[gauge]]\nname = \"level\"\nmeasures = \"level\"\nat = [\"0.1 m\"]\n"
                                       "[[fill]]\nphase = \"water\"\nlevel = \"{}\"\n",
                                       level),
                       "2 cm", until);
  };
  // Water 0.2 m and air 0.2 m deep, less the air outside, over the drain.
  folder.write("case.toml", filled("0.2 m", "1 s"));
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  const double pressure = 9.80665 * (998.2 - 1.204) * 0.2;  // the air above weighs as much as that outside
  CHECK(outcome.says(fmt::format("'drain' leads to a pressure of {:.4g} Pa", pressure)));
  // At that level nothing flows; from above, the vessel empties down to it.
  ran(folder, filled("0.2 m", "1 s"));
  CHECK(history(folder, "level").back() == about(0.2).epsilon(1e-3));
  std::filesystem::remove_all(folder / "case.run");
  ran(folder, filled("0.3 m", "3 s"));
  CHECK(history(folder, "level").back() == about(0.2).epsilon(0.02));
  CHECK(history(folder, "drain_water").front() == 0);

  refuses(vessel_case(tank, drain("balances = \"0.5 m\"\n")), "does not lie within the vessel's height", 11);
  refuses(vessel_case(tank, drain("balances = \"0.2 m\"\npressure = \"0 Pa\"\n")), "are given", 11);
  refuses(
      vessel_case(tank, "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"8 cm\"]\nbalances = \"0.2 m\"\n"),
      "no other opening gives the pressure over which 'drain' balances a level");
  refuses(vessel_case(tank,
                      "[[opening]]\nname = \"vent\"\nside = \"left\"\nsize = [\"4 cm\"]\ncentre = [\"0.1 m\"]\n"
                      "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"8 cm\"]\n"
                      "balances = \"0.2 m\"\n"),
          "choose a lower level, or a higher vent");
  refuses(vessel_case(tank,
                      "[[opening]]\nname = \"vent\"\nside = \"top\"\npressure = \"10 Pa * t / 1 s\"\n"
                      "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"8 cm\"]\n"
                      "balances = \"0.2 m\"\n"),
          "changes with time");
}

TEST_CASE("check and draw show sections of a vessel in space") {
  const Folder folder;
  folder.write(
      "case.toml",
      vessel_case("shape = \"cylinder\"\ndiameter = \"0.4 m\"\nlength = \"0.5 m\"",
                  "[[opening]]\nname = \"vent\"\nside = \"top\"\n[[fill]]\nphase = \"water\"\nlevel = \"0.3 m\"",
                  "4 cm", "1 ms"));
  const auto check = drive::wavy(folder, "check case.toml");
  CHECK(check.says("case.check.png, case.check.y.png and case.check.x.png"));
  for (const char* name : {"case.check.png", "case.check.y.png", "case.check.x.png"})
    CHECK(std::filesystem::exists(folder / name));
  CHECK(drive::wavy(folder, "run case.toml").code == 0);
  CHECK(drive::wavy(folder, "draw case.run --section 'y = 13 cm' --to a.png").code == 0);
  const auto none = drive::wavy(folder, "draw case.run --section 'y = 2 m' --to b.png");
  CHECK(none.code == 2);
  CHECK(none.says("the plane misses the vessel"));
  CHECK(none.says("it reaches from 0 m to 400 mm along y"));
  CHECK(drive::wavy(folder, "draw case.run --section 'w = 1 m'").says("does not name a plane"));
  CHECK(drive::wavy(folder, "draw case.run --section 'y = 1 kg'").code == 2);
  CHECK(drive::wavy(folder, "draw case.run --what history --section 'y = 1 cm'").code == 2);
}

TEST_CASE("a liquid alone runs out of its tank and comes to rest where it stays") {
  // Gas is left out: an outlet in the floor, no vent. What is over it passes, and then nothing does.
  const Folder folder;
  const auto alone = [](const std::string& more, const std::string& until) {
    return "wavy = 1\n[vessel]\n" + tank + "\n" + more + "\n[grid]\ncell = \"1 cm\"\n" +
           "[[phase]]\nname = \"water\"\nfluid = \"water\"\n[run]\nuntil = \"" + until +
           "\"\nsnapshot_interval = \"1 s\"\n";
  };
  const std::string drain =
      "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"6 cm\"]\n[[gauge]]\nname = \"floor\"\n"
      "measures = \"pressure\"\nat = [\"0.02 m\", \"0 m\"]\n[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"";
  const json out = ran(folder, alone(drain, "4 s"));
  const auto& phases = out.at("ledger").at("phases");
  REQUIRE(phases.size() == 1);
  CHECK(std::abs(phases[0].at("drift").get<double>()) < 1e-10);
  const auto volume = history(folder, "water_volume");
  CHECK(volume.back() < 0.02 * volume.front());
  CHECK(history(folder, "drain_water").back() > -3e-3);  // a film, of 60 L/s at the start
  CHECK(history(folder, "greatest_speed").back() < 0.5);
  CHECK(::wavy::read_csv(folder / "case.run/history.csv").find("drain_") < 0);  // nothing of the gas
  folder.write("case.toml", alone(drain, "4 s"));
  CHECK(drive::wavy(folder, "check case.toml --no-picture").says("gas is left out"));
  CHECK(drive::wavy(folder, "draw case.run --what pressure --to p.png").code == 0);

  // Closed, it stands still under its own weight.
  std::filesystem::remove_all(folder / "case.run");
  ran(folder, alone(drain.substr(drain.find("[[gauge]]")), "1 s"));
  CHECK(history(folder, "floor").back() == about(998.2 * 9.80665 * 0.2).epsilon(1e-5));
  CHECK(history(folder, "greatest_speed").back() < 1e-12);

  refuses(alone("[[fill]]\nphase = \"air\"\nlevel = \"0.1 m\"", "1 s"), "the only phase is water", 5);
  refuses(
      alone("[[opening]]\nname = \"feed\"\nside = \"top\"\nsize = [\"6 cm\"]\nspeed = \"1 m/s\"\nshare = 0.5", "1 s"),
      "there is nothing but 'water' to come in", 9);
}

TEST_CASE("a vessel that repeats is one piece of an endless row") {
  const Folder folder;
  const std::string row = tank + "\nrepeats = \"x\"";
  const std::string fill = "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n";
  // It falls freely along x, past a rod that stands at the seam.
  const json out = ran(folder, vessel_case(row,
                                           "[[insert]]\nname = \"rod\"\nshape = \"circle\"\ncentre = [\"0 m\", \"0.1 "
                                           "m\"]\ndiameter = \"8 cm\"\n[motion]\ngravity = [\"1 m/s^2\", "
                                           "\"-9.81 m/s^2\"]\n[[gauge]]\nname = \"fastest\"\nmeasures = "
                                           "\"greatest_speed\"\n" +
                                               fill,
                                           "1 cm", "0.5 s"));
  for (const auto& phase : out["ledger"]["phases"]) CHECK(std::abs(phase.at("drift").get<double>()) < 1e-12);
  CHECK(history(folder, "fastest").back() > 0.4);
  CHECK(history(folder, "fastest").back() < 1.2);
  folder.write("case.toml", vessel_case(row, fill));
  CHECK(drive::wavy(folder, "check case.toml --no-picture").says("repeats along x"));
  // Round a wall from floor to lid the next piece of the row leads on.
  const auto divided = checked(
      folder, vessel_case(row, "[[insert]]\nlower = [\"0.2 m\", \"0 m\"]\nupper = [\"0.24 m\", \"0.4 m\"]\n" + fill));
  CHECK(divided["vessel_volume_m3"] == about(0.144));

  refuses(vessel_case(tank + "\nrepeats = \"z\"", fill), "a 2-D vessel has no z axis", 4);
  refuses(vessel_case(row + "\nsymmetry = \"half\"", fill), "has an image already", 4);
  refuses(vessel_case(row + "\n[vessel.walls]\nleft = \"slip\"", fill), "no such wall where the vessel repeats", 6);
  refuses(vessel_case("shape = \"circle\"\ndiameter = \"0.4 m\"\nrepeats = \"x\"", fill), "only a box", 5);
  refuses(vessel_case(row, "[[opening]]\nname = \"in\"\nside = \"left\"\n"), "no such side where", 7);
  refuses(vessel_case(row, "[[opening]]\nname = \"in\"\nside = \"top\"\nsize = [\"8 cm\"]\nstub = \"8 cm\"\n"),
          "has no stubs", 9);
}

TEST_CASE("a sector stands for the whole vessel") {
  // The same kettle in whole, as a quarter and as a sixth: volume, openings and what runs out.
  const Folder folder;
  const auto kettle = [](const std::string& symmetry) {
    return vessel_case("shape = \"cylinder\"\ndiameter = \"0.4 m\"\nlength = \"0.4 m\"\n" + symmetry,
                       "[[opening]]\nname = \"vent\"\nside = \"top\"\n[[opening]]\nname = \"drain\"\nside = "
                       "\"bottom\"\ndiameter = \"12 cm\"\npressure = \"0 Pa\"\n[[fill]]\nphase = \"water\"\nlevel = "
                       "\"0.25 m\"\n[[gauge]]\nname = \"level\"\nmeasures = \"level\"\nat = [\"0.32 m\", \"0.23 m\"]",
                       "2 cm", "0.4 s");
  };
  const json quarter = ran(folder, kettle("symmetry = \"quarter\""));
  const double left = history(folder, "water_volume").back();
  const double level = history(folder, "level").back();
  for (const char* angle : {"90 deg", "60 deg", "30 deg"}) {
    std::filesystem::remove_all(folder / "case.run");
    const json out = ran(folder, kettle(std::string("symmetry = \"sector\"\nsector = \"") + angle + "\""));
    INFO(angle);
    CHECK(history(folder, "water_volume").front() == about(M_PI * (0.04 * 0.25 + 0.0036 * 0.12)).epsilon(5e-3));
    CHECK(history(folder, "water_volume").back() == about(left).epsilon(0.03));
    CHECK(history(folder, "level").back() == about(level).epsilon(0.03));
    CHECK(std::abs(out["ledger"]["phases"][0].at("drift").get<double>()) < 1e-10);
  }
  refuses(kettle("symmetry = \"sector\""), "the key 'sector' is missing", 2);
  refuses(kettle("symmetry = \"sector\"\nsector = \"50 deg\""), "does not go into 180 deg", 7);
  refuses(kettle("sector = \"50 deg\""), "belongs to symmetry", 6);
  refuses(vessel_case(tank + "\nsymmetry = \"sector\"\nsector = \"45 deg\"", ""), "a 2-D vessel has no sector", 4);
}

TEST_CASE("check and summary say what share of the vessel is computed, and that the rest is of the whole") {
  const Folder folder;
  const auto drum = [](const std::string& symmetry) {
    return vessel_case("shape = \"cylinder\"\ndiameter = \"0.4 m\"\nlength = \"0.4 m\"\n" + symmetry,
                       "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"", "4 cm", "1 ms");
  };
  const double room = M_PI * 0.04 * 0.4;
  const auto share = [&](const std::string& symmetry) {
    folder.write("case.toml", drum(symmetry));
    const auto outcome = drive::wavy(folder, "check case.toml --no-picture --json");
    REQUIRE(outcome.code == 0);
    const json understood = json::parse(outcome.out);
    CHECK(understood["vessel_volume_m3"].get<double>() == about(room).epsilon(5e-3));
    CHECK(understood["phases"][0]["volume_m3"].get<double>() == about(0.5 * room).epsilon(5e-3));
    std::filesystem::remove_all(folder / "case.run");
    CHECK(ran(folder, drum(symmetry))["computed_share"] == understood["computed_share"]);
    return understood["computed_share"].get<double>();
  };
  CHECK(share("") == 1);
  CHECK(!drive::wavy(folder, "check case.toml --no-picture").says("of the vessel:"));
  CHECK(share("symmetry = \"half\"") == 0.5);
  CHECK(share("symmetry = \"sector\"\nsector = \"60 deg\"") == about(1.0 / 6));
  CHECK(share("symmetry = \"quarter\"") == 0.25);
  CHECK(drive::wavy(folder, "check case.toml --no-picture").says("1/4 of the vessel: 12.5"));
  // A half of a 2-D section keeps the thickness that was given.
  folder.write("case.toml", vessel_case(tank + "\nthickness = \"0.3 m\"\nsymmetry = \"half\"", ""));
  CHECK(drive::wavy(folder, "check case.toml --no-picture").says("300 mm thick"));
}

TEST_CASE("a sector's mirrors leave the contact angle to its walls") {
  // Water creeps up the wall of a cup at 40 degrees, in a quarter of it and in a sector.
  const Folder folder;
  const auto climbs = [&](const std::string& symmetry, const char* angle) {
    std::filesystem::remove_all(folder / "case.run");
    ran(folder, vessel_case("shape = \"cylinder\"\ndiameter = \"4 cm\"\nlength = \"2 cm\"\n" + symmetry,
                            std::string("[pair]\nsurface_tension = \"72 mN/m\"\ncontact_angle = \"") + angle +
                                "\"\n[[fill]]\nphase = \"water\"\nlevel = \"1 cm\"\n"
                                "[[gauge]]\nname = \"rim\"\nmeasures = \"level\"\nat = [\"3.7 cm\", \"2.55 cm\"]",
                            "2 mm", "0.05 s"));
    return history(folder, "rim").back() - 0.01;
  };
  const double quarter = climbs("symmetry = \"quarter\"", "40 deg");
  CHECK(quarter > 2e-4);
  CHECK(climbs("symmetry = \"sector\"\nsector = \"45 deg\"", "40 deg") == about(quarter).epsilon(0.15));
  CHECK(std::abs(climbs("symmetry = \"sector\"\nsector = \"45 deg\"", "90 deg")) < 1e-9);
}

TEST_CASE("forces on walls and inserts are those of the water's weight") {
  // Archimedes and Stevin: a rod under water is lifted by its volume, a side and both sides of a sheet feel rho g
  // h^2/2.
  const Folder folder;
  const auto force = [](const char* name, const char* wall, const char* axis) {
    return fmt::format("[[gauge]]\nname = \"{}\"\nmeasures = \"force\"\nwall = \"{}\"\nalong = \"{}\"\n", name, wall,
                       axis);
  };
  const std::string inserts =
      "[[insert]]\nname = \"rod\"\nshape = \"circle\"\ncentre = [\"0.1 m\", \"0.12 m\"]\ndiameter = \"8 cm\"\n"
      "[[insert]]\nname = \"sheet\"\nlower = [\"0.249 m\", \"0 m\"]\nupper = [\"0.251 m\", \"0.3 m\"]\n"
      "[[fill]]\nphase = \"water\"\nlevel = \"0.25 m\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.25 m\", \"0.4 m\"]\n";
  ran(folder,
      vessel_case(tank,
                  inserts + force("lift", "rod", "y") + force("aside", "rod", "x") + force("left", "left", "x") +
                      force("sheet", "sheet", "x") + force("weight", "vessel", "y"),
                  "1 cm", "0.02 s"));
  const double weight = 9.80665 * (998.2 - 1.204);
  const auto start = [&](const char* name) { return history(folder, name).front(); };
  const double rod = M_PI * 0.04 * 0.04;
  CHECK(start("lift") == about(weight * rod).epsilon(0.01));
  CHECK(std::abs(start("aside")) < 0.01 * weight * rod);
  CHECK(start("left") == about(-weight * 0.25 * 0.25 / 2).epsilon(0.01));
  CHECK(start("sheet") == about(weight * 0.25 * 0.25 / 2).epsilon(0.01));
  CHECK(start("weight") == about(-weight * 0.25 * 0.25).epsilon(0.02));  // on the floor; the lid feels nothing
  const std::string gauge = "[[gauge]]\nname = \"f\"\nmeasures = ";
  refuses(vessel_case(tank, gauge + "\"force\""), "the key 'wall' is missing", 4);
  refuses(vessel_case(tank, gauge + "\"force\"\nwall = \"lef\""), "did you mean 'left'?", 7);
  refuses(vessel_case(tank, gauge + "\"force\"\nwall = \"left\"\nalong = \"z\""), "has no z axis", 8);
  refuses(vessel_case(tank, gauge + "\"force\"\nwall = \"left\"\nresponse_time = \"0 s\""), "must be positive", 8);
  refuses(vessel_case(tank, gauge + "\"level\"\nat = [\"1 cm\"]\nwall = \"left\""), "does not belong to a wall", 8);
  refuses(vessel_case(tank + "\nsymmetry = \"half\"", gauge + "\"force\"\nwall = \"right\"\nalong = \"x\""), "cancel",
          9);
}

TEST_CASE("when a vessel of one liquid has drained, the last films on its walls do not rule the step") {
  const Folder folder;
  ran(folder,
      "wavy = 1\n[vessel]\nshape = \"cylinder\"\ndiameter = \"0.8 m\"\nlength = \"0.3 m\"\nends = [\"torispherical\", "
      "\"flat\"]\n[grid]\ncell = \"25 mm\"\n[[insert]]\nname = \"cone\"\ndoes = \"opens\"\nshape = \"cone\"\nfrom = "
      "[\"0.4 m\", \"0.4 m\", \"0.04 m\"]\nto = [\"0.4 m\", \"0.4 m\", \"-0.05 m\"]\ndiameter = \"25 cm\"\nto_diameter "
      "= "
      "\"12.5 cm\"\n[[opening]]\nname = \"nozzle\"\nside = \"bottom\"\ndiameter = \"12.5 cm\"\nstub = \"10 "
      "cm\"\npressure "
      "= \"0 Pa\"\n[[phase]]\nname = \"liquor\"\nfluid = \"water\"\n[[fill]]\nphase = \"liquor\"\nlevel = \"0.05 m\"\n"
      "[run]\nuntil = \"4 s\"\nsnapshot_interval = \"1 s\"\n");
  const auto liquor = history(folder, "liquor_volume");
  CHECK(liquor.back() < 0.01 * liquor.front());
  CHECK(liquor.back() > 0);  // a film is left
  const auto times = history(folder, "time");
  const auto last_second = std::ranges::count_if(times, [](double t) { return t > 3; });
  // Gravity waves want 66 steps; the films' speeds, without friction, wanted 270.
  CHECK(last_second >= 60);
  CHECK(last_second < 90);
}
