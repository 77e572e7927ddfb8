#include <doctest/doctest.h>

#include <nlohmann/json.hpp>
#include <regex>

#include "drive.hpp"

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
    text = std::regex_replace(text, std::regex("\nuntil = \"[^\"]*\""), "\nuntil = \"0.06 s\"");
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
    if (line) CHECK(drive::wavy(folder, "check " + name + ".run/case.toml --no-picture").code == 0);
  }
}

TEST_CASE("the case as run gives the same history again") {
  const Folder folder;
  folder.write("tank.toml", drive::small_tank());
  REQUIRE(drive::wavy(folder, "run tank.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run tank.run/case.toml --into again.run").code == 0);
  CHECK(folder.read("tank.run/history.csv").substr(0, 60) == folder.read("again.run/history.csv").substr(0, 60));
  const auto one = json::parse(folder.read("tank.run/summary.json"));
  const auto two = json::parse(folder.read("again.run/summary.json"));
  CHECK(one["gauges"][0]["greatest"].get<double>() ==
        doctest::Approx(two["gauges"][0]["greatest"].get<double>()).epsilon(1e-6));
}

TEST_CASE("a run that cannot go on says where, when and what to try, and keeps what it had") {
  const Folder folder;
  std::string text = drive::small_tank("1 s");
  text.replace(text.find("[\"-1 m/s^2\", \"0\"]"), 17, "[\"1 m/s^2 / max(0, 0.1 - t) * 0.1\", \"0\"]");
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
