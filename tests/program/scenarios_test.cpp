#include <doctest/doctest.h>

#include <nlohmann/json.hpp>
#include <regex>

#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;

namespace {

/// Names in the list that `wavy new` prints.
std::vector<std::string> scenario_names(const Folder& folder) {
  std::vector<std::string> names;
  std::istringstream list(drive::wavy(folder, "new").out);
  std::string line;
  while (std::getline(list, line)) {
    std::smatch match;
    if (std::regex_search(line, match, std::regex("^  ([a-z0-9_]+)  "))) names.push_back(match[1]);
  }
  return names;
}

}  // namespace

TEST_CASE("every scenario runs as it is handed out, on a coarser grid for a short time") {
  const Folder folder;
  const auto names = scenario_names(folder);
  CHECK(names.size() >= 5);
  for (const auto& name : names) {
    INFO(name);
    REQUIRE(drive::wavy(folder, "new " + name).code == 0);
    std::string text = folder.read(name + ".toml");
    text = drive::with_end(text, "0.06 s");
    text = std::regex_replace(text, std::regex("\nsnapshot_interval = \"[^\"]*\""), "\nsnapshot_interval = \"0.03 s\"");
    std::smatch cell;
    const bool line = text.find("\nmodel = \"line\"") != std::string::npos;  // it has sections, few enough as they are
    if (!line) {
      REQUIRE(std::regex_search(text, cell, std::regex("\ncell = \"([0-9.]+) mm\"")));
      text = std::regex_replace(text, std::regex("\ncell = \"[^\"]*\""),
                                "\ncell = \"" + std::to_string(1.4 * std::stod(cell[1])) + " mm\"");
    }
    folder.write(name + ".toml", text);
    const auto run = drive::wavy(folder, "run " + name + ".toml --json");
    INFO(run.out);
    REQUIRE(run.code == 0);
    const auto summary = json::parse(run.out);
    CHECK(summary["status"] == "done");
    CHECK(summary["snapshots"].size() == 3);
    if (!line) CHECK(summary["ledger"]["steps_pressure_not_converged"] == 0);
    for (const auto& phase : summary["ledger"]["phases"]) CHECK(std::abs(phase["drift"].get<double>()) < 1e-12);
    for (const auto& gauge : summary["gauges"]) CHECK(gauge["least"].get<double>() <= gauge["greatest"].get<double>());
    REQUIRE(drive::wavy(folder, "run " + name + ".run/case.toml --into again.run --force").code == 0);
    CHECK(folder.read(name + ".run/history.csv") == folder.read("again.run/history.csv"));
  }
}

TEST_CASE("the case as run is read again, and gives the same history to the last digit") {
  const Folder folder;
  const std::string end =
      drive::fluids + "[[fill]]\nphase = \"water\"\nlevel = \"0.21 m\"\n[run]\nuntil = \"0.05 s\"\n";
  const auto box = [&](const std::string& lengths, const std::string& more) {
    return "wavy = 1\n[vessel]\nsize = [" + lengths + "]\n" + more + "[grid]\ncell = \"3 cm\"\n" + end;
  };
  const std::string solid = "\"0.5 m\", \"0.5 m\", \"0.4 m\"";
  const std::string outlet =
      "[[opening]]\nname = \"out\"\nside = \"right\"\nbalances = \"0.2 m\"\n[[opening]]\nname = \"top\"\nside = "
      "\"top\"\n";
  const std::vector<std::string> cases{
      drive::small_tank(),
      box("\"0.3 m\", \"0.4 m\"", "symmetry = \"round\"\n" + outlet),
      box("\"0.6 m\", \"0.4 m\"", "symmetry = \"half\"\n" + outlet),
      box(solid, "symmetry = \"half\"\n" + outlet),
      box(solid, "symmetry = \"quarter\"\n" + outlet),
      box(solid, "symmetry = \"sector\"\nsector = \"45 deg\"\n"),
      box("\"0.6 m\", \"0.4 m\"", "repeats = \"x\"\n[motion]\nacceleration = [\"0.1 m/s^2\", \"0\"]\n"),
      box("\"0.6 m\", \"0.4 m\"", "repeats = \"x\"\n[[opening]]\nname = \"top\"\nside = \"top\"\n"),
      "wavy = 1\n[constants]\nw = \"0.1 m\"\n[vessel]\nsize = [\"6 * w\", \"0.4 m\"]\n[grid]\ncell = \"3 "
      "cm\"\n[[phase]]\nname = "
      "\"syrup\"\ndensity = \"1234.5678901234567 kg/m^3\"\nviscosity = \"1.2345678901234567 Pa.s\"\n[[opening]]\nname "
      "= "
      "\"in\"\nside = \"top\"\ncentre = [\"0.3 m\"]\nsize = [\"w\"]\nspeed = \"0.31415926535897931 "
      "m/s\"\n[[fill]]\nphase = "
      "\"syrup\"\nlevel = \"w / 0.7\"\n[run]\nuntil = \"0.05 s\"\n",
      "wavy = 1\n[vessel]\nshape = \"cylinder\"\naxis = \"x\"\ndiameter = \"0.4 m\"\nlength = \"0.4 m\"\nends = "
      "[\"elliptical\", \"flat\"]\ntilted = \"3 deg\"\n[grid]\ncell = \"4 cm\"\n" +
          end};
  for (const auto& text : cases) {
    INFO(text);
    folder.write("case.toml", text);
    const auto run = drive::wavy(folder, "run case.toml --into one.run --force");
    INFO(run.out);
    REQUIRE(run.code == 0);
    const auto again = drive::wavy(folder, "run one.run/case.toml --into two.run --force");
    INFO(again.out);
    REQUIRE(again.code == 0);
    CHECK(folder.read("one.run/history.csv") == folder.read("two.run/history.csv"));
    CHECK(folder.read("one.run/case.toml") == folder.read("two.run/case.toml"));
  }
}

TEST_CASE("a run that cannot go on says where, when and what to try, and keeps what it had") {
  const Folder folder;
  std::string text = drive::small_tank("1 s");
  text.replace(text.find("[\"-1 m/s^2\", \"0\"]"), 17, "[\"1 m/s^2 / max(0, 0.1 s - t) * 0.1 s\", \"0\"]");
  folder.write("tank.toml", text);
  const auto run = drive::wavy(folder, "run tank.toml");
  INFO(run.out);
  CHECK(run.code == 1);
  CHECK((run.says("not finite at t =") || run.says("diverged at t =") || run.says("smallest_step")));
  const auto summary = json::parse(folder.read("tank.run/summary.json"));
  CHECK(summary["status"] == "failed");
  CHECK(summary["snapshots"].size() >= 2);
  CHECK(drive::wavy(folder, "draw tank.run").code == 0);
}

TEST_CASE("warnings are counted by run and spelled out by check") {
  const Folder folder;
  std::string text = drive::small_tank("0.05 s");
  text.replace(text.find("\"0.2 m\""), 7, "\"0.5 m\"");
  folder.write("tank.toml", text);
  const auto check = drive::wavy(folder, "check tank.toml --no-picture");
  CHECK(check.code == 0);
  CHECK(check.says("warning: fill[1]: the level of 500 mm lies above the lid"));
  const auto run = drive::wavy(folder, "run tank.toml");
  CHECK(run.says("1 warning;"));
  CHECK(folder.read("tank.run/log.txt").find("above the lid") != std::string::npos);
}
