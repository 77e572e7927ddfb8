// What the program says of input that cannot be right, or can hardly be meant, and of a case's own names.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <regex>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using drive::refuses;
using drive::shell;
using drive::small_tank;
using nlohmann::json;
using wavy::read_csv;
using wavy::Table;

namespace {

/// A tank of 0.4 m by 0.4 m with what is added.
std::string tank(const std::string& more,
                 const std::string& fill = "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n") {
  return "wavy = 1\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\n[grid]\ncell = \"2 cm\"\n" + drive::fluids + fill + more +
         "[run]\nuntil = \"0.1 s\"\n";
}

std::string checked(const std::string& text) {
  const Folder folder;
  folder.write("case.toml", text);
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  INFO(outcome.out);
  CHECK(outcome.code == 0);
  return std::regex_replace(outcome.out, std::regex("\\n    +| *\\n +"), " ");
}

bool warns(const std::string& text, const std::string& words) {
  const std::string flat = std::regex_replace(checked(text), std::regex("\\s+"), " ");
  INFO(flat);
  return flat.find(words) != std::string::npos;
}

}  // namespace

TEST_CASE("gauges of lines are refused in vessels, and those of vessels in lines") {
  for (const char* kind : {"holdup", "slugs", "liquid_flow", "gas_flow", "liquid_held"})
    refuses(tank("[[gauge]]\nname = \"a\"\nmeasures = \"" + std::string(kind) + "\"\n"), "is not measured in a vessel",
            17);
}

TEST_CASE("a fill that does not fit is refused") {
  refuses(tank("", "[[fill]]\nphase = \"water\"\nvolume = \"5 m^3\"\n"), "do not fit into the vessel", 12);
}

TEST_CASE("everything that only the grid can tell has its line too") {
  refuses(tank("[[insert]]\nname = \"wall\"\nlower = [\"0.1 m\", \"-1 m\"]\nupper = [\"0.2 m\", \"1 m\"]\n"),
          "falls into 2 parts", 2);
  refuses(tank("[[insert]]\nname = \"all\"\nlower = [\"-1 m\", \"-1 m\"]\nupper = [\"1 m\", \"1 m\"]\n"),
          "leave no open space", 2);
  refuses(tank("[[insert]]\nname = \"block\"\nlower = [\"-1 m\", \"-1 m\"]\nupper = [\"1 m\", \"0.1 "
               "m\"]\n[[opening]]\nname = "
               "\"drain\"\nside = \"bottom\"\npressure = \"0 Pa\"\n"),
          "touches no open part", 19);
  refuses(tank("[tables.road]\nfile = \"none.csv\"\n"), "there is no file", 16);
  refuses(tank("[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"none.run\"\n"), "cannot be read as a snapshot",
          18);
  refuses(tank("[[insert]]\nname = \"far\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"2e6 m\", \"0.1 m\"]\n"),
          "a box ends within 1000 km", 18);
}

TEST_CASE("a case whose first steps fail is refused by check, in the file's name") {
  const Folder folder;
  folder.write("case.toml", tank("[motion]\nacceleration = [\"1 m/s^2 * sqrt(1e-9 - t / 1 s)\", \"0\"]\n"));
  const auto outcome = drive::wavy(folder, "check case.toml --no-picture");
  INFO(outcome.out);
  CHECK(outcome.code == 2);
  CHECK(outcome.says("case.toml: its first steps fail already"));
  CHECK(warns(tank("[motion]\nacceleration = [\"1e20 m/s^2\", \"0\"]\n"), "check the units of [motion]"));
}

TEST_CASE("units in formulas and tables are checked") {
  refuses(tank("[motion]\nacceleration = [\"pulse(t, 0.2 s, 0.9 s, -1.5 bar)\", \"0\"]\n"), "is a pressure", 16);
  const Folder folder;
  folder.write("road.csv", "t [kg],ax [m/s^2]\n0,0\n1,1\n");
  folder.write("case.toml",
               tank("[tables.road]\nfile = \"road.csv\"\n[motion]\nacceleration = [\"road(t)\", \"0\"]\n"));
  const auto outcome = drive::wavy(folder, "check case.toml");
  CHECK(outcome.code == 2);
  CHECK(outcome.says("case.toml:16:"));
  CHECK(outcome.says("are a mass; a time is needed there"));
}

TEST_CASE("a constant may stand wherever a quantity may, with its unit") {
  const std::string constants = "[constants]\nwide = \"0.4 m\"\nbare = 3\n";
  CHECK(warns("wavy = 1\n" + constants + "[vessel]\nsize = [\"2 * wide\", \"wide\"]\n[grid]\ncell = \"wide / 20\"\n" +
                  drive::fluids + "[[fill]]\nphase = \"water\"\nlevel = \"wide / 2\"\n[run]\nuntil = \"1 s\"\n",
              "800 mm x 400 mm"));
  refuses("wavy = 1\n" + constants + "[vessel]\nsize = [\"bare\", \"wide\"]\n", "has no unit", 6);
  refuses("wavy = 1\n" + constants + "[vessel]\nsize = [\"wide * wide\", \"wide\"]\n", "an area", 6);
  refuses("wavy = 1\n" + constants + "[vessel]\nsize = [\"wide * t / 1 s\", \"wide\"]\n", "changes with time", 6);
}

TEST_CASE("a vessel that is filled through an opening needs no fill, and one that is not is told") {
  const std::string feed =
      "[[opening]]\nname = \"feed\"\nside = \"left\"\nspeed = \"0.1 m/s\"\n[[opening]]\nname = \"vent\"\nside = "
      "\"top\"\n";
  CHECK_FALSE(warns(tank(feed, ""), "Add a [[fill]]"));
  CHECK(warns(tank("", ""), "Add a [[fill]]"));
}

TEST_CASE("a back pressure of air on a submerged side is warned of, and what stands outside can be said") {
  const auto outlet = [](const std::string& more) {
    return tank("[[opening]]\nname = \"out\"\nside = \"right\"\ncentre = [\"0.1 m\"]\nsize = [\"8 cm\"]\n" + more +
                "[[opening]]\nname = \"vent\"\nside = \"top\"\n");
  };
  CHECK(warns(outlet("pressure = \"1 kPa\"\n"), "will flow in above and out below"));
  CHECK_FALSE(warns(outlet("pressure = \"1 kPa\"\noutside = \"liquid\"\n"), "will flow in above"));
  CHECK_FALSE(warns(outlet("outside_level = \"0.15 m\"\n"), "will flow in above"));
  CHECK(warns(outlet("outside_level = \"0.15 m\"\n"), "a level of 150 mm of water outside"));
  refuses(outlet("outside_level = \"0.15 m\"\noutside = \"air\"\n"), "both outside and outside_level", 20);
  CHECK(warns(tank("[[opening]]\nname = \"out\"\nside = \"right\"\ncentre = [\"0.1 m\"]\nsize = [\"8 cm\"]\n"),
              "at rest outside is the same as inside"));
}

namespace {

/// Share of the ideal discharge, over `area` [m2] from a tank of `floor` [m2], that leaves through a hole in the floor,
/// written as `check` advises. The ideal one has the speed of a free fall from the level to half of the hole's width
/// below it, where the jet has contracted.
double discharge(const std::string& vessel, const std::string& hole, double area, double floor, double level) {
  const Folder folder;
  const auto text = [&](const std::string& inserts, const std::string& opening) {
    return fmt::format(
        "wavy = 1\n[vessel]\n{}[vessel.walls]\nall = \"slip\"\n[grid]\ncell = \"1 cm\"\n{}[[fill]]\nphase "
        "= \"water\"\nlevel = \"{} m\"\n{}[[opening]]\nname = \"drain\"\nside = \"bottom\"\n{}[[opening]]\n"
        "name = \"vent\"\nside = \"top\"\n[run]\nuntil = \"0.35 s\"\nsnapshot_interval = \"0.35 s\"\n",
        vessel, drive::fluids, level, inserts, opening);
  };
  folder.write("hole.toml", text("", hole));
  const auto warned = json::parse(drive::wavy(folder, "check hole.toml --no-picture --json").out)["warnings"];
  REQUIRE(!warned.empty());
  const std::string advice = warned[0].get<std::string>();
  INFO(advice);
  REQUIRE(advice.find("no jet can contract beyond it") != std::string::npos);
  // What stands in the advice, as it is to be written: each key on a line of its own.
  std::string written;
  const std::regex section(R"(\[\[insert\]\] ([^;]*);)");
  const std::regex key(R"(([a-z]+ = (\[[^\]]*\]|"[^"]*")),? ?)");
  for (auto found = std::sregex_iterator(advice.begin(), advice.end(), section); found != std::sregex_iterator();
       ++found)
    written += "[[insert]]\n" + std::regex_replace((*found)[1].str(), key, "$1\n");
  folder.write("jet.toml", text(written, ""));
  const auto run = drive::wavy(folder, "run jet.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  // What comes in through the vent has left through the hole.
  const Table history = read_csv(folder / "jet.run/history.csv");
  const auto& time = history.columns[0];
  const auto& in = history.columns[static_cast<std::size_t>(history.find("vent_air"))];
  double left = 0;
  double measured = 0;
  double ideal = 0;
  for (std::size_t k = 1; k < time.size(); ++k) {
    const double step = time[k] - time[k - 1];
    left += std::abs(in[k]) * step;
    if (time[k] < 0.15) continue;
    measured += std::abs(in[k]) * step;
    ideal += area * std::sqrt(2 * 9.80665 * (level - left / floor + 0.04)) * step;
  }
  return measured / ideal;
}

}  // namespace

TEST_CASE("a hole in the outermost side is warned of, and with what is to be written instead its jet contracts") {
  // Eight cells across. A slot in a channel five times as wide: von Mises' free streamlines,
  // 1 / C = 1 + 2 / pi (1 / q - q) atan(q) with q = C / 5, and with the speed in the channel 0.6206 of the ideal.
  const double slot = discharge("size = [\"0.4 m\", \"1.4 m\"]\n", "size = [\"8 cm\"]\n", 0.08, 0.4, 1.2);
  CHECK(slot == about(0.6206).epsilon(0.03));
  // A round hole in a vessel: the discharge coefficient of a sharp-edged orifice in a pipe at great Reynolds numbers,
  // 0.5961 + 0.0261 b^2 (ISO 5167-2, first terms), b = 0.2.
  const double hole = discharge("size = [\"0.2 m\", \"1.4 m\"]\nsymmetry = \"round\"\n",
                                "centre = [\"0 m\"]\nsize = [\"8 cm\"]\n", M_PI * 0.0016, M_PI * 0.04, 1.2);
  CHECK(hole == about(0.5971).epsilon(0.03));
}

TEST_CASE("so it does through a round hole in space") {
  const double hole = discharge("size = [\"0.24 m\", \"0.24 m\", \"0.8 m\"]\nsymmetry = \"quarter\"\n",
                                "centre = [\"0.12 m\", \"0.12 m\"]\ndiameter = \"8 cm\"\n", M_PI * 0.0016, 0.0576, 0.6);
  // b = 0.295, and the speed of approach. 4.3 % with these eight cells across, below 3 % with thirteen.
  CHECK(hole == about(0.6006).epsilon(0.05));
}

TEST_CASE("a solid that is thinner than a cell holds what stands beside it, and check says so") {
  const Folder folder;
  // A leaning plate of 3 mm in cells of 1 cm, with water on its left.
  folder.write(
      "plate.toml",
      "wavy = 1\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\n[grid]\ncell = \"1 cm\"\n" + drive::fluids +
          "[[insert]]\nname = \"plate\"\nshape = \"polygon\"\npoints = [[\"0.12 m\", \"-0.05 m\"], [\"0.123 m\", "
          "\"-0.05 m\"], [\"0.227 m\", \"0.35 m\"], [\"0.224 m\", \"0.35 m\"]]\n[[fill]]\nphase = "
          "\"water\"\nshape = \"polygon\"\npoints = [[\"0 m\", \"0 m\"], [\"0.1345 m\", \"0 m\"], [\"0.2125 m\", "
          "\"0.3 m\"], [\"0 m\", \"0.3 m\"]]\n[[gauge]]\nname = \"left\"\nmeasures = \"level\"\nat = [\"0.05 "
          "m\"]\n[[gauge]]\nname = \"right\"\nmeasures = \"level\"\nat = [\"0.35 m\"]\n[[gauge]]\nname = "
          "\"push\"\nmeasures = \"force\"\nwall = \"plate\"\nalong = \"x\"\n[run]\nuntil = \"0.5 "
          "s\"\nsnapshot_interval = \"0.5 s\"\n");
  const auto checked = drive::wavy(folder, "check plate.toml --no-picture");
  CHECK(checked.says("thinner than a cell in places"));
  REQUIRE(drive::wavy(folder, "run plate.toml").code == 0);
  const Table history = read_csv(folder / "plate.run/history.csv");
  const auto last = [&](const std::string& name) {
    return history.columns[static_cast<std::size_t>(history.find(name))].back();
  };
  CHECK(last("left") == about(0.3).epsilon(0.01));
  CHECK(last("right") == 0);
  CHECK(last("push") == about(0.5 * 998.2 * 9.80665 * 0.3 * 0.3).epsilon(0.02));
}

TEST_CASE("a run of years is warned of") {
  CHECK(warns(std::regex_replace(tank(""), std::regex("0.1 s"), "1e30 s"), "check its unit"));
}

TEST_CASE("a case that this machine cannot hold is told so before it tries") {
  const Folder folder;
  folder.write("case.toml", "wavy = 1\n[vessel]\nsize = [\"1 m\", \"1 m\", \"1 m\"]\n[grid]\ncell = \"1.05 mm\"\n" +
                                drive::fluids + "[run]\nuntil = \"1 s\"\n");
  const auto outcome = drive::wavy(folder, "check case.toml");
  INFO(outcome.out);
  CHECK(outcome.code == 2);
  CHECK(outcome.says("case.toml:5:"));
  CHECK(outcome.says("GB of memory; this machine has"));
  // What an insert opens counts too.
  refuses("wavy = 1\n[vessel]\nsize = [\"1 m\", \"1 m\"]\n[grid]\ncell = \"1 cm\"\n" + drive::fluids +
              "[[insert]]\ndoes = \"opens\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"900 km\", \"900 "
              "km\"]\n[run]\nuntil = \"1 s\"\n",
          "cells, more than", 5);
}

TEST_CASE("explain finds the names of a case, and of a run, with their values and lines") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  const auto phase = drive::wavy(folder, "explain water case.toml");
  CHECK(phase.says("in [[phase]] of case.toml, line 8"));
  CHECK(phase.says("case.toml:9: fluid = \"water\"") == false);  // quotes as the file has them
  CHECK(std::regex_search(phase.out, std::regex("case.toml:9: fluid = ['\"]water['\"]")));
  const auto gauge = drive::wavy(folder, "explain wall case.toml");
  CHECK(gauge.says("case.toml:20: measures"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  CHECK(drive::wavy(folder, "explain wall case.run").says("[[gauge]]"));
  CHECK(drive::wavy(folder, "explain cell case.toml").says("case.toml:6: cell"));
  CHECK(drive::wavy(folder, "explain walll case.toml").says("did you mean 'wall'?"));
  CHECK(drive::wavy(folder, "explain formula").says("atan2"));
}

TEST_CASE("figures can be taken up to a time") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const auto part = json::parse(drive::wavy(folder, "measure case.run --to '0.05 s' --json").out);
  CHECK(part["to_s"] == 0.05);
  const auto refused = drive::wavy(folder, "measure case.run --from '0.1 s' --to '0.05 s'");
  CHECK(refused.code == 2);
  CHECK(refused.says("lies before --from"));
  CHECK(drive::wavy(folder, "measure case.run --to '9 s'").code == 2);
}

TEST_CASE("a new case fits on two screens, and with --all has every key") {
  const Folder folder;
  for (const char* name : {"tote_braking", "kettle_drain", "condensate_riser"}) {
    CAPTURE(name);
    REQUIRE(drive::wavy(folder, std::string("new ") + name).code == 0);
    const std::string text = folder.read(std::string(name) + ".toml");
    CHECK(std::count(text.begin(), text.end(), '\n') < 180);
    CHECK(drive::wavy(folder, std::string("check ") + name + ".toml --no-picture").code == 0);
  }
  CHECK(folder.read("tote_braking.toml").find("#viscosity = ") != std::string::npos);
  REQUIRE(drive::wavy(folder, "new tote_braking all.toml --all").code == 0);
  const std::string all = folder.read("all.toml");
  CHECK(std::count(all.begin(), all.end(), '\n') > 500);
  CHECK(all.find("#slip_length") != std::string::npos);
}

TEST_CASE("files that are no cases are refused at once") {
  const Folder folder;
  const auto endless = drive::wavy(folder, "check /dev/zero");
  CHECK(endless.code == 2);
  CHECK(shell(folder, "truncate -s 3G big.toml; \\$WAVY check big.toml").says("larger than 1 MB"));
  std::string deep = "wavy = 1\n";
  for (int n = 0; n < 100000; ++n) deep += "a.";
  folder.write("deep.toml", deep + "b = 1\n");
  const auto key = drive::wavy(folder, "check deep.toml");
  CHECK(key.code == 2);
  CHECK(key.says("deep.toml:2:"));
}

TEST_CASE("a picture in a place that cannot be written to is named itself") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  const auto outcome = drive::wavy(folder, "check case.toml --picture none/there.png");
  CHECK(outcome.code == 1);
  CHECK(outcome.says("none/there.png"));
  CHECK_FALSE(outcome.says("snapshot"));
}

TEST_CASE("a line of free draining is told only where something drains freely") {
  const std::string drain = "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nsize = [\"8 cm\"]\nstub = \"4 cm\"\n";
  const std::string vent = "[[opening]]\nname = \"vent\"\nside = \"top\"\n";
  const auto says_draining = [](const std::string& text) { return warns(text, "(Torricelli"); };
  CHECK(says_draining(tank(drain + vent)));
  CHECK_FALSE(
      says_draining(tank(drain + vent + "[[opening]]\nname = \"feed\"\nside = \"left\"\nspeed = \"0.1 m/s\"\n")));
  CHECK_FALSE(says_draining(tank(drain + "pressure = \"1 kPa\"\n" + vent)));
  CHECK_FALSE(says_draining(tank(drain + "balances = \"0.1 m\"\n" + vent)));
  // A pit below the vessel with its whole floor open: what is between them rules.
  CHECK_FALSE(says_draining(
      tank("[[insert]]\nname = \"hole\"\ndoes = \"opens\"\nlower = [\"0.16 m\", \"-0.06 m\"]\nupper = [\"0.24 m\", "
           "\"0.02 m\"]\n[[insert]]\nname = \"pit\"\ndoes = \"opens\"\nlower = [\"0.08 m\", \"-0.2 m\"]\nupper = "
           "[\"0.32 m\", \"-0.04 m\"]\n[[opening]]\nname = \"drain\"\nside = \"bottom\"\n" +
           vent)));
}

TEST_CASE("the history has what goes in and what goes out through an opening with a pressure apart") {
  const Folder folder;
  folder.write("case.toml",
               tank("[[opening]]\nname = \"side\"\nside = \"right\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const Table history = read_csv(folder / "case.run/history.csv");
  for (const char* phase : {"water", "air"}) {
    const std::string stem = std::string("side_") + phase;
    const auto column = [&](const std::string& name) {
      return history.columns[static_cast<std::size_t>(history.find(name))];
    };
    REQUIRE(history.find(stem + "_in") > 0);
    for (std::size_t i = 0; i < history.columns[0].size(); ++i)
      CHECK(column(stem)[i] == about(column(stem + "_in")[i] - column(stem + "_out")[i]).epsilon(1e-8));
  }
}

TEST_CASE("an opening beside the computed wedge of a sector is told of the wedge") {
  refuses(
      "wavy = 1\n[vessel]\nsize = [\"1 m\", \"1 m\", \"0.5 m\"]\nsymmetry = \"sector\"\nsector = \"30 "
      "deg\"\n[grid]\ncell = \"5 "
      "cm\"\n" +
          drive::fluids +
          "[[opening]]\nname = \"drain\"\nside = \"bottom\"\ncentre = [\"0.2 m\", \"0.8 m\"]\ndiameter = \"20 "
          "cm\"\n[run]\nuntil = "
          "\"1 s\"\n",
      "lies in the computed wedge", 14);
}

TEST_CASE("of two liquids an outlet below the denser one takes that back") {
  const std::string liquids =
      "[[phase]]\nname = \"water\"\nfluid = \"water\"\n[[phase]]\nname = \"oil\"\ndensity = \"900 "
      "kg/m^3\"\nviscosity = \"5 cP\"\n";
  const std::string text =
      "wavy = 1\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\n[grid]\ncell = \"2 cm\"\n" + liquids +
      "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n[[opening]]\nname = \"out\"\nside = \"bottom\"\nsize = [\"8 "
      "cm\"]\nstub = \"4 cm\"\n[[opening]]\nname = \"top\"\nside = \"top\"\n[run]\nuntil = \"1 s\"\n";
  CHECK(warns(text, "out (bottom, 800 cm²): open to 0 Pa; water flows back"));
  CHECK(warns(text, "top (top, 0.4 m²): open to 0 Pa; oil flows back"));
}

TEST_CASE("the steps of a run lie between those of a calm and of a violent one") {
  const Folder folder;
  folder.write("case.toml", small_tank("0.5 s"));
  const std::string told = drive::wavy(folder, "check case.toml --no-picture").out;
  std::smatch found;
  REQUIRE(
      std::regex_search(told, found, std::regex("if calm \\(([0-9]+) steps\\) to .* if violent \\(([0-9]+) steps\\)")));
  const auto run = json::parse(drive::wavy(folder, "run case.toml --json").out);
  const long steps = run["ledger"]["steps"].get<long>();
  CHECK(steps >= std::stol(found[1]));
  CHECK(steps <= std::stol(found[2]));
}

TEST_CASE("units are understood as people write them, in keys and in formulas") {
  const auto feed = [](const std::string& flow) {
    return tank("[[opening]]\nname = \"feed\"\nside = \"left\"\nvolume_flow = \"" + flow +
                "\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n");
  };
  CHECK(warns(feed("2 US gal/min"), "= 7.571 L/min"));
  CHECK(warns(feed("2 * 1 US gal/min"), "= 7.571 L/min"));
  CHECK(warns(feed("6 L/hr"), "= 0.1 L/min"));
  CHECK(warns(tank("[motion]\nacceleration = [\"0.1 m/s^2 * sin(3.19 1/s * t)\", \"0\"]\n"), "next: wavy run"));
}
