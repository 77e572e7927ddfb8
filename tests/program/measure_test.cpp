// measure: gauges after the run, from snapshots.
#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;

namespace {

/// The option, through a shell within quotation marks.
std::string gauge(const std::string& text) { return " --gauge '" + drive::replaced(text, "\"", "\\\"") + "' "; }

const std::string more =
    "[[gauge]]\nname = \"top\"\nmeasures = \"highest_level\"\n"
    "[[gauge]]\nname = \"push\"\nmeasures = \"force\"\nwall = \"left\"\n"
    "[[gauge]]\nname = \"fast\"\nmeasures = \"percentile\"\nquantity = \"speed\"\npercent = 90\n"
    "where = \"10 cm - y\"\n";

/// A small tank whose liquid falls over.
std::string collapse() {
  return "wavy = 1\nvessel.size = [\"40 cm\", \"40 cm\"]\ngrid.cell = \"1 cm\"\nrun.until = \"0.2 s\"\n"
         "run.snapshot_interval = \"50 ms\"\n" +
         drive::fluids +
         "[[fill]]\nphase = \"water\"\nshape = \"box\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"15 cm\", \"30 cm\"]\n";
}

}  // namespace

TEST_CASE("gauges asked for after the run read what they would have read in it") {
  const Folder folder;
  folder.write("a.toml", collapse());
  folder.write("b.toml", collapse() + more);
  folder.write("more.toml", more);
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run b.toml").code == 0);
  const auto outcome = drive::wavy(folder, "measure a.run --gauges more.toml --table later.csv");
  CHECK(outcome.code == 0);
  for (const char* words : {"at snapshots", "top", "push", "fast", "(5 snapshots, 0 s to 200 ms)", "wrote later.csv"})
    CHECK(outcome.says(words));
  const wavy::Table later = wavy::read_csv(folder / "later.csv");
  const wavy::Table during = wavy::read_csv(folder / "b.run/history.csv");
  CHECK(later.units == std::vector<std::string>{"s", "m", "N", "m/s"});
  REQUIRE(later.columns[0].size() == 5);
  std::size_t row = 0;
  for (std::size_t i = 0; i < 5; ++i) {
    while (during.columns[0][row] < later.columns[0][i] - 1e-9) ++row;
    CHECK(during.columns[0][row] == about(later.columns[0][i]).epsilon(1e-9));
    for (std::size_t c = 1; c < 4; ++c) {
      const auto column = static_cast<std::size_t>(during.find(later.names[c]));
      // The history is written with ten digits.
      CHECK(std::abs(during.columns[column][row] - later.columns[c][i]) <=
            1e-9 * std::abs(later.columns[c][i]) + 1e-15);
    }
  }
  // On the command line, and for scripts.
  const auto answer = drive::wavy(folder, "measure a.run --from '50 ms' --to '150 ms' --json" +
                                              gauge("name = \"top\", measures = \"highest_level\"") +
                                              gauge("name = \"low\", measures = \"lowest_level\""));
  REQUIRE(answer.code == 0);
  const json read = json::parse(answer.out);
  REQUIRE(read.at("times_s").size() == 3);
  CHECK(read.at("readings").at("top").at(1).get<double>() == later.columns[1][2]);
  CHECK(read.at("at_snapshots").at(1).at("name") == "low");
  CHECK(read.at("at_snapshots").at(0).at("unit") == "m");
}

TEST_CASE("what cannot be measured afterwards is refused with its place, and nothing is written") {
  const Folder folder;
  folder.write("a.toml", collapse() + "[[gauge]]\nname = \"g\"\nmeasures = \"volume\"\n");
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  const auto refused = [&](const std::string& arguments, const std::string& words) {
    CAPTURE(arguments);
    const auto outcome = drive::wavy(folder, "measure a.run --table t.csv " + arguments);
    CHECK(outcome.code == 2);
    CAPTURE(outcome.out);
    CHECK(outcome.says(words));
    CHECK_FALSE(std::filesystem::exists(folder / "t.csv"));
  };
  refused("", "--table: it is for what --gauge, --gauges, --distribution and --pieces read");
  refused(gauge("name = \"a\""), "gauge[1]: the key 'measures' is missing");
  refused(gauge("name = \"a\", measures = \"mean\""), "the key 'quantity' is missing");
  refused(gauge("name = \"a\", measures = \"mean\", quantity = \"sped\""), "did you mean 'speed'?");
  refused(gauge("name = \"a\", measures = \"value\", quantity = \"velocity_z\", at = [\"1 cm\", \"1 cm\"]"),
          "a 2-D vessel has no z axis");
  refused(gauge("name = \"g\", measures = \"mean_level\""), "the history has a column 'g' already");
  refused(gauge("name = \"a\", measures = \"mean_level\", where = \"1 cm\""), "does not depend on the place");
  refused(gauge("name = \"a\", measures = \"mean_level\", where = \"x\", lower = [\"0 m\", \"0 m\"]"),
          "a zone is one thing");
  refused(gauge("name = \"a\", measures = \"mean_level\", lower = [\"1 m\", \"0 m\"], upper = [\"2 m\", \"1 m\"]"),
          "the box lies outside the vessel");
  refused(gauge("name = \"a\", measures = \"volume\", centre = [\"2 m\", \"0 m\"], diameter = \"1 cm\""),
          "in the zone of the gauge 'a' there is no fluid");
  refused(gauge("name = \"a\", measures = \"level\", at = [\"1 cm\"], quantity = \"speed\""),
          "level is measured of itself, not of a quantity");
  refused(gauge("name = \"a\", measures = \"least\", quantity = \"speed\", percent = 3"), "least is no percentile");
  refused(gauge("name = \"a\", measures = \"moment\", wall = \"left\", at = [\"0 m\", \"0 m\"], about = \"x\""),
          "in 2-D moments are about z");
  const std::string flow = "name = \"a\", measures = \"flow\", ";
  refused(gauge(flow + "phase = \"water\""), "the plane is a box without thickness");
  refused(gauge(flow + "lower = [\"0 m\", \"0 m\"], upper = [\"1 cm\", \"1 cm\"]"), "this box has a thickness");
  refused(gauge(flow + "lower = [\"1 cm\", \"1 cm\"], upper = [\"1 cm\", \"1 cm\"]"), "along too many axes");
  refused(gauge("name = \"a\", measures = \"volume\", lower = [\"0 m\", \"1 cm\"], upper = [\"1 cm\", \"1 cm\"]"),
          "must be greater than that of 'lower'");
  const std::string mean = "name = \"a\", measures = \"mean\", quantity = \"speed\", ";
  refused(gauge(mean + "from = [\"0 m\", \"0 m\"]"), "a line has two ends");
  refused(gauge(mean + "from = [\"0 m\", \"0 m\"], to = [\"0 m\", \"0 m\"]"), "the line has no length");
  refused(gauge(mean + "from = [\"0 m\", \"0 m\"], to = [\"9 m\", \"0 m\"]"), "9 m is outside what is computed");
  refused(gauge(mean + "wall = \"left\", centre = [\"0 m\", \"0 m\"], diameter = \"1 cm\""), "on a wall or in a zone");
  refused(gauge("name = \"a\", measures = \"least\", quantity = \"speed\", wall = \"lefd\""), "left");
  const std::string formula = "name = \"a\", measures = \"formula\", ";
  refused(gauge(formula + "at = [\"0 m\"]"), "formula is not measured at a place");
  refused(gauge(formula + "phase = \"water\""), "formula does not belong to a phase");
  refused(gauge("name = \"a\", measures = \"formula\""), "write, for example, formula = ");
  refused(gauge(formula + "formula = \"2 * h\""), "cannot be understood");
  refused(gauge(formula + "formula = \"2 * t\""), "it uses no gauge");
  refused(gauge(formula + "formula = \"g * x\""), "'x' has no value in it");
  refused(gauge(formula + "formula = \"g + 1 s\""), "g");
  const std::string sum = "name = \"sum\", measures = \"volume\"";
  refused(gauge(sum) + gauge(formula + "formula = \"2 * sum\""), "'sum' is a gauge, and has another meaning");
  refused(gauge(drive::replaced(sum, "\"sum\"", "\"t\"")) + gauge(formula + "formula = \"g * t\""), "'t' is a gauge");
  CHECK(drive::wavy(folder, "measure a.run " + gauge(sum) + gauge(formula + "formula = \"2 * g\"")).code == 0);
  refused(gauge("name = \"a\", measures = \"pieces\", phase = \"steam\""), "steam");
  refused("--distribution g", "g reads no quantity along a line");
  refused("--distribution h", "there is no gauge 'h'");
  refused("--pieces steam", "the run has no phase 'steam'");
  refused("--pieces water --distribution g", "there is --distribution already");
  refused("--pieces water --map m.png", "--map: it is a map of a distribution");
  refused("--pieces water --chart m.png", "--chart: it is of --distribution, of --swings");
  refused("--pieces water --when 'g'", "has neither > nor <");
  refused("--pieces water --when 'gg > 1 L'", "did you mean 'g'?");
  refused("--pieces water --when 'g > 1 m'", "--when: ");
  refused("--pieces water --when 'g > L'", "--when: ");
  refused("--pieces water --when '> 1 L'", "no gauge stands before >");
  refused("--pieces water --swings h", "there is no gauge 'h'");
  refused("--distribution a --chart c.png" + gauge("name = \"a\", measures = \"mean\", quantity = \"speed\""),
          "only along a line");
  CHECK_FALSE(std::filesystem::exists(folder / "c.png"));
  refused(gauge("name = a"), "this is not valid TOML");
  refused("--gauges none.toml", "none.toml");
  folder.write("vessel.toml", "[vessel]\nsize = [\"1 m\", \"1 m\"]\n");
  refused("--gauges vessel.toml", "vessel.toml:1");
  folder.write("empty.toml", "");
  refused("--gauges empty.toml", "there is no [[gauge]] in it");
  refused("--from '110 ms' --to '120 ms'" + gauge("name = \"a\", measures = \"mean_level\""),
          "there is no snapshot between these times");

  // A snapshot of another run, and one that is damaged.
  folder.write("b.toml", drive::replaced(collapse(), "\"1 cm\"", "\"2 cm\""));
  REQUIRE(drive::wavy(folder, "run b.toml").code == 0);
  std::filesystem::copy_file(folder / "b.run/snapshots/00002.vtu", folder / "a.run/snapshots/00002.vtu",
                             std::filesystem::copy_options::overwrite_existing);
  refused(gauge("name = \"a\", measures = \"mean_level\""), "the snapshot does not belong to this run");
  std::filesystem::resize_file(folder / "a.run/snapshots/00002.vtu", 5000);
  refused(gauge("name = \"a\", measures = \"mean_level\""), "00002.vtu");
}

TEST_CASE("the distribution along a floor is drawn beside that of another run and what was measured") {
  const Folder folder;
  folder.write("fine.toml", collapse());
  folder.write("coarse.toml", drive::replaced(collapse(), "1 cm", "2 cm"));
  REQUIRE(drive::wavy(folder, "run fine.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run coarse.toml --quiet").code == 0);
  folder.write("m.csv", "distance [cm],pressure [kPa]\n5,2.5\n20,1.0\n35,0.1\n");
  const std::string floor = gauge("name = \"floor\", measures = \"mean\", quantity = \"pressure\", wall = \"bottom\"") +
                            "--distribution floor ";
  const auto outcome = drive::wavy(
      folder, "measure fine.run" + floor + "--to '0.1 s' --beside coarse.run --measured m.csv --chart c.svg");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  const std::string chart = folder.read("c.svg");
  for (const char* words : {"fine.run, 100 ms", "coarse.run, 100 ms", "measured"})
    CHECK_MESSAGE(chart.find(words) != std::string::npos, words);
  for (const auto& [options, words] : {std::pair{floor + "--beside coarse.run", "it is drawn with a distribution"},
                                       {std::string(" --measured m.csv"), "it is drawn with a distribution"},
                                       {floor + "--beside none.run --chart d.svg", "there is no such run folder"},
                                       {floor + "--measured none.csv --chart d.svg", "none.csv"}}) {
    const auto wrong = drive::wavy(folder, "measure fine.run" + options);
    CAPTURE(wrong.out);
    CHECK(wrong.code == 2);
    CHECK(wrong.says(words));
  }
  folder.write("m.csv", "distance [cm],speed [m/s]\n5,2.5\n");
  const auto other = drive::wavy(folder, "measure fine.run" + floor + "--measured m.csv --chart d.svg");
  CHECK(other.says("there is no column 'pressure'"));
}
