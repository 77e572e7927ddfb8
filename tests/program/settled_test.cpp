// Runs that end when their gauges have settled.
#include <doctest/doctest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;
using wavy::read_csv;
using wavy::Table;

namespace {

/// Thick oil in a tank that is suddenly pulled to one side: its surface creeps to a slope of a tenth, half of it in
/// about half a second.
std::string creeping(const std::string& run_keys) {
  return "wavy = 1\ntitle = \"Creeping oil\"\n[vessel]\nsize = [\"40 cm\", \"40 cm\"]\n[grid]\ncell = \"4 cm\"\n"
         "[[phase]]\nname = \"oil\"\ndensity = \"1000 kg/m^3\"\nviscosity = \"200 Pa.s\"\n"
         "[[phase]]\nname = \"air\"\nfluid = \"air\"\n[[fill]]\nphase = \"oil\"\nlevel = \"20 cm\"\n"
         "[motion]\nacceleration = [\"-0.980665 m/s^2\", \"0\"]\n"
         "[[gauge]]\nname = \"wall\"\nmeasures = \"level\"\nat = [\"39 cm\"]\n"
         "[run]\nuntil = \"30 s\"\nsnapshot_interval = \"0.5 s\"\n" +
         run_keys;
}

}  // namespace

TEST_CASE("a run ends when its gauge has settled, says so, and goes on where it is asked to") {
  const Folder folder;
  folder.write("oil.toml", creeping("end_when_settled = [\"wall\"]\n"));
  const auto outcome = drive::wavy(folder, "run oil.toml");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  CHECK(outcome.says("\nsettled at t = "));
  CHECK(outcome.says("  settled: wall at "));
  const json summary = json::parse(folder.read("oil.run/summary.json"));
  CHECK(summary["status"] == "done");
  CHECK(summary["ledger"]["settled"]["ended_run"] == true);
  const double end = summary["ended_at_s"].get<double>();
  CHECK(end > 3);  // not before a tenth of `until`
  CHECK(end < 15);
  const Table history = read_csv(folder / "oil.run/history.csv");
  // A tenth of the distance from the middle, and all of the change in the mean of its last part: 1 % of 19 mm.
  CHECK(history.columns[1].back() == about(0.2 + 0.1 * 0.19).epsilon(0.005));

  // Whole, for comparison: nothing moves any more behind that end.
  folder.write("whole.toml", creeping(""));
  REQUIRE(drive::wavy(folder, "run whole.toml --quiet").code == 0);
  const Table whole = read_csv(folder / "whole.run/history.csv");
  CHECK(std::abs(whole.columns[1].back() - history.columns[1].back()) < 0.02 * 0.019);

  const auto again = drive::wavy(folder, "resume oil.run");
  CAPTURE(again.out);
  CHECK(again.code == 0);  // one step, and it is still settled
  CHECK(again.says("settled at t = "));
  folder.write("oil.run/case.toml", drive::replaced(folder.read("oil.run/case.toml"), "end_when_settled = .*\n", ""));
  folder.write("oil.run/case.toml", drive::replaced(folder.read("oil.run/case.toml"), "end_not_before = .*\n", ""));
  const auto on = drive::wavy(folder, "resume oil.run --until '16 s'");
  CAPTURE(on.out);
  CHECK(on.code == 0);
  CHECK(on.says("done at t = 16 s"));
}

TEST_CASE("a run that was stopped on its way ends at the same step as one that was not") {
  const Folder folder;
  const std::string text = creeping("end_when_settled = [\"wall\"]\nend_not_before = \"1 s\"\n");
  folder.write("whole.toml", text);
  folder.write("half.toml", drive::replaced(text, "\"30 s\"", "\"1.5 s\""));
  REQUIRE(drive::wavy(folder, "run whole.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run half.toml").says("not settled: wall changed by"));
  REQUIRE(drive::wavy(folder, "resume half.run --until '30 s' --quiet").code == 0);
  CHECK(folder.read("half.run/history.csv") == folder.read("whole.run/history.csv"));
}

TEST_CASE("what never changes does not end a run, which says so at its end") {
  const Folder folder;
  folder.write("oil.toml",
               drive::replaced(creeping("end_when_settled = [\"wall\", \"oil_volume\"]\n"), "\"30 s\"", "\"8 s\""));
  const auto outcome = drive::wavy(folder, "run oil.toml");
  CAPTURE(outcome.out);
  CHECK(outcome.code == 0);
  CHECK(outcome.says("done at t = 8 s"));
  CHECK(outcome.says("not settled: oil_volume never changed"));
}

TEST_CASE("gauges that are not there, and ends that cannot be, are refused") {
  drive::refuses(creeping("end_when_settled = [\"wal\"]\n"), "no gauge is called 'wal'");
  drive::refuses(creeping("end_when_settled = []\n"), "a list of the names of gauges is needed here");
  drive::refuses(creeping("end_when_settled = \"wall\"\n"), "a list of the names of gauges is needed here");
  drive::refuses(creeping("end_not_before = \"1 s\"\n"), "it goes with end_when_settled");
  drive::refuses(creeping("end_when_settled = [\"wall\"]\nend_not_before = \"30 s\"\n"), "the run is over by then");
}
