// Runs that were stopped, killed or done go on as if they had never stopped.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using drive::given_case;
using drive::shell;
using drive::small_tank;
using drive::with_end;
using nlohmann::json;

namespace {

/// Names of files that two run folders do not have alike, of those that must be.
std::string differences(const Folder& folder, const std::string& one, const std::string& other) {
  return shell(folder,
               fmt::format("for f in history.csv snapshots.pvd snapshots profiles tracks.csv slugs.csv; do if [ -e "
                           "{0}/\\$f -o -e {1}/\\$f ]; then diff -rq {0}/\\$f {1}/\\$f; fi; done",
                           one, other))
      .out;
}

/// The summary without what the clock on the wall says, and without what comes from the name of the case's file.
json lasting(const Folder& folder, const std::string& run) {
  json summary = json::parse(folder.read(run + "/summary.json"));
  for (const char* of_file : {"case", "title"}) summary.erase(of_file);
  const json ledger = summary["ledger"];
  for (const auto& [key, value] : ledger.items())
    if (key.find("wall") != std::string::npos || key.find("seconds") != std::string::npos ||
        key.find("nanoseconds") != std::string::npos)
      summary["ledger"].erase(key);
  return summary;
}

}  // namespace

TEST_CASE("a run in two halves is the whole run, to the last bit") {
  struct Half {
    const char *name, *half, *whole;
    int threads;
  };
  for (const auto& [name, half, whole, threads] :
       {Half{"condensate_riser", "5 min", "10 min", 1}, Half{"wash_line", "10 s", "15 s", 1},
        Half{"tote_braking", "0.4 s", "0.7 s", 2}, Half{"decanter_weir", "1 s", "1.3 s", 1},
        Half{"drum_turning", "0.1 s", "0.2 s", 2}, Half{"drops_seam", "0.2 s", "0.3 s", 1},
        Half{"funnel_sector", "0.1 s", "0.15 s", 2}, Half{"kettle_drain", "0.1 s", "0.15 s", 1},
        Half{"wave_basin", "0.1 s", "0.15 s", 2}, Half{"wash_column", "2 s", "3 s", 2}}) {
    CAPTURE(name);
    const Folder folder;
    // A run ends at an output time, and the whole one must have it too.
    const std::string text = drive::replaced(given_case(name), "snapshot_interval = \"[^\"]*\"",
                                             fmt::format("snapshot_interval = \"{}\"", half));
    folder.write("whole.toml", with_end(text, whole));
    folder.write("half.toml", with_end(text, half));
    REQUIRE(drive::wavy(folder, "run whole.toml --threads 1").code == 0);
    REQUIRE(drive::wavy(folder, "run half.toml --threads 1").code == 0);
    const auto resumed = drive::wavy(folder, fmt::format("resume half.run --until '{}' --threads {}", whole, threads));
    INFO(resumed.out);
    REQUIRE(resumed.code == 0);
    CHECK(differences(folder, "whole.run", "half.run") == "");
    CHECK(lasting(folder, "whole.run") == lasting(folder, "half.run"));
    CHECK(folder.read("half.run/log.txt").find("goes on") != std::string::npos);
  }
}

TEST_CASE("turbulence of a fluid that thins with shear goes on to the last bit") {
  const Folder folder;
  const std::string text = drive::replaced(
      given_case("wave_basin"), "fluid = \"water\"\n",
      "density = \"1000 kg/m^3\"\nviscosity = \"20 mPa.s\"\nrheology = \"power-law\"\nexponent = 0.7\n");
  folder.write("whole.toml", with_end(text, "0.15 s"));
  folder.write("half.toml", with_end(text, "0.1 s"));
  REQUIRE(drive::wavy(folder, "run whole.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run half.toml").code == 0);
  REQUIRE(drive::wavy(folder, "resume half.run --until '0.15 s'").code == 0);
  CHECK(differences(folder, "whole.run", "half.run") == "");
}

TEST_CASE("slugs that are followed go on with the run, those on a watched place too") {
  const Folder folder;
  const std::string text =
      drive::replaced(given_case("product_hills"), "\n\\[line\\]", "\n[line]\nslugs = \"follow\"") +
      "\n[[gauge]]\nname = \"passing\"\nmeasures = \"slugs\"\nleg = \"second_hill\"\nat = "
      "[\"2 m\"]\n";
  folder.write("whole.toml", with_end(text, "5 min"));
  REQUIRE(drive::wavy(folder, "run whole.toml").code == 0);
  CHECK(std::ranges::count(folder.read("whole.run/slugs.csv"), '\n') > 10);
  for (const char* half : {"30 s", "2 min", "210 s"}) {  // times of profiles
    folder.write("half.toml", with_end(text, half));
    const auto run = drive::wavy(folder, "run half.toml --force");
    INFO(run.out);
    REQUIRE(run.code == 0);
    // What was written after the checkpoint is cut off.
    folder.write("half.run/tracks.csv", folder.read("half.run/tracks.csv") + "5,1,2,3\n");
    const auto resumed = drive::wavy(folder, "resume half.run --until '5 min'");
    INFO(resumed.out);
    REQUIRE(resumed.code == 0);
    CHECK(resumed.says("on from"));
    CHECK(differences(folder, "whole.run", "half.run") == "");
    CHECK(lasting(folder, "whole.run") == lasting(folder, "half.run"));
  }
  folder.write("case.toml", with_end(text, "5 min", "\ncheckpoint_interval = \"20 ms\""));
  for (const char* moment : {"0.15", "0.22", "0.34", "0.5"}) {
    shell(folder, fmt::format("timeout -s KILL {} \\$WAVY run case.toml --force >/dev/null", moment));
    if (!std::filesystem::exists(folder / "case.run/checkpoint.h5")) continue;
    const auto resumed = drive::wavy(folder, "resume case.run");
    INFO(resumed.out);
    CHECK((resumed.code == 0 || resumed.says("has reached its end")));
    if (resumed.code == 0) CHECK(differences(folder, "whole.run", "case.run") == "");
  }
  // Where slugs are written down may not change: some are on their way there.
  folder.write("whole.run/case.toml",
               folder.read("whole.run/case.toml") +
                   "\n[[gauge]]\nname = \"more\"\nmeasures = \"Slugs\"\nleg = \"second_hill\"\n");
  const auto refused = drive::wavy(folder, "resume whole.run --until '6 min'");
  INFO(refused.out);
  CHECK(refused.code == 2);
  CHECK(refused.says("may change"));
}

TEST_CASE("a run that is killed, and killed again, comes to the same end") {
  const Folder folder;
  folder.write("case.toml", with_end(given_case("tote_braking"), "1 s", "\ncheckpoint_interval = \"10 ms\""));
  REQUIRE(drive::wavy(folder, "run case.toml --into whole.run").code == 0);
  for (const char* moments : {"0.25 0.1", "0.45 0.2", "0.6 0.02", "0.35 0.3"}) {
    const auto killed = shell(
        folder,
        fmt::format("set -- {}; timeout -s KILL \\$1 \\$WAVY run case.toml --force >/dev/null; while [ ! -e "
                    "case.run/checkpoint.h5 ]; do timeout -s KILL 1 \\$WAVY run case.toml --force >/dev/null; done; "
                    "timeout -s KILL \\$2 \\$WAVY resume case.run >/dev/null",
                    moments));
    const auto resumed = drive::wavy(folder, "resume case.run");
    INFO(resumed.out);
    CHECK((resumed.code == 0 || resumed.says("has reached its end")));
    CHECK(differences(folder, "whole.run", "case.run") == "");
  }
}

TEST_CASE("a run that was stopped in order says how to go on, and does so without a seam") {
  const Folder folder;
  folder.write("case.toml", with_end(given_case("tote_braking"), "1.5 s"));
  REQUIRE(drive::wavy(folder, "run case.toml --into whole.run").code == 0);
  const auto stopped = shell(folder,
                             "(\\$WAVY run case.toml & pid=\\$!; while [ ! -e case.run/snapshots/00002.vtu ]; do sleep "
                             "0.01; done; kill -INT \\$pid; wait \\$pid)");
  INFO(stopped.out);
  CHECK(stopped.says("interrupted at t ="));
  CHECK(stopped.says("to go on: wavy resume case.run"));
  const auto resumed = drive::wavy(folder, "resume case.run");
  INFO(resumed.out);
  CHECK(resumed.code == 0);
  CHECK(differences(folder, "whole.run", "case.run") == "");
  CHECK(lasting(folder, "whole.run") == lasting(folder, "case.run"));
}

TEST_CASE("a damaged checkpoint is refused, and the one before offered") {
  const Folder folder;
  folder.write("case.toml", with_end(small_tank("0.3 s"), "0.3 s"));
  REQUIRE(drive::wavy(folder, "run case.toml --into whole.run").code == 0);
  folder.write("short.toml", with_end(small_tank("0.3 s"), "0.2 s", "\ncheckpoint_interval = \"0 s\""));
  REQUIRE(drive::wavy(folder, "run short.toml --into case.run").code == 0);
  const std::string good = folder.read("case.run/checkpoint.h5");
  for (const bool cut : {true, false}) {
    std::string bad = good;
    if (cut)
      bad.resize(bad.size() / 2);
    else
      bad[bad.size() / 3] = static_cast<char>(bad[bad.size() / 3] ^ 4);
    folder.write("case.run/checkpoint.h5", bad);
    const auto refused = drive::wavy(folder, "resume case.run --until '0.3 s'");
    INFO(refused.out);
    CHECK(refused.code == 2);
    CHECK(refused.says("this checkpoint is damaged"));
    CHECK(refused.says("is good: say --before to go on from there"));
  }
  CHECK(drive::wavy(folder, "resume case.run --before --until '0.3 s'").code == 0);
  CHECK(drive::wavy(folder, "draw case.run").code == 0);
  folder.write("case.run/checkpoint.h5", "no checkpoint");
  folder.write("case.run/checkpoint.before.h5", "nor this");
  const auto lost = drive::wavy(folder, "resume case.run --until '1 s'");
  CHECK(lost.code == 2);
  CHECK(lost.says("run the case again"));
}

TEST_CASE("a gauge may have the name of anything that a checkpoint holds") {
  const Folder folder;
  std::string text = small_tank("0.1 s");
  for (const char* name : {"first_row", "gauges", "history_bytes", "model"})
    text += fmt::format("[[gauge]]\nname = \"{}\"\nmeasures = \"greatest_speed\"\n", name);
  folder.write("case.toml", with_end(text, "0.1 s"));
  folder.write("whole.toml", with_end(text, "0.2 s"));
  REQUIRE(drive::wavy(folder, "run whole.toml").code == 0);
  const auto run = drive::wavy(folder, "run case.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  CHECK(drive::wavy(folder, "resume case.run --until '0.2 s'").code == 0);
  CHECK(differences(folder, "whole.run", "case.run") == "");
}

TEST_CASE("gauges may change before a run goes on, and nothing is lost") {
  const Folder folder;
  const std::string speed = "[[gauge]]\nname = \"fast\"\nmeasures = \"greatest_speed\"\n";
  const std::string floor = "[[gauge]]\nname = \"floor\"\nmeasures = \"pressure\"\nat = [\"0.2 m\", \"0 m\"]\n";
  folder.write("case.toml", with_end(small_tank() + speed, "0.2 s"));
  folder.write("whole.toml", with_end(small_tank() + speed + floor, "0.4 s"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run whole.toml").code == 0);
  const std::string before = folder.read("case.run/history.csv");
  // One comes, and one is another quantity under the same name.
  const std::string as_run = folder.read("case.run/case.toml");
  folder.write("case.run/case.toml",
               drive::replaced(as_run, "measures = \"greatest_speed\"", "measures = \"volume\"") + floor);
  // Killed before there is a checkpoint with the new gauges: the next one to go on finds the history as it should be.
  shell(folder, "timeout -s KILL 0.06 \\$WAVY resume case.run --until '0.4 s'");
  const auto resumed = drive::wavy(folder, "resume case.run --until '0.4 s'");
  INFO(resumed.out);
  REQUIRE(resumed.code == 0);
  CHECK(folder.read("case.run/history-until-0.2s.csv") == before);
  CHECK(folder.read("case.run/log.txt").find("the history so far is history-until-0.2s.csv") != std::string::npos);
  long left_out = 0;
  const ::wavy::Table now = ::wavy::read_csv(folder / "case.run/history.csv", &left_out);
  const ::wavy::Table whole = ::wavy::read_csv(folder / "whole.run/history.csv");
  CHECK(left_out == 0);
  CHECK(now.names == whole.names);
  CHECK(now.units[2] == "m3");
  REQUIRE(now.columns[0] == whole.columns[0]);
  CHECK(now.columns[1] == whole.columns[1]);
  CHECK(now.columns.back() == whole.columns.back());
  for (std::size_t i = 0; i < now.columns[0].size(); ++i) {
    const bool known = now.columns[0][i] > 0.2;
    CHECK(std::isnan(now.columns[2][i]) == !known);
    CHECK((known ? now.columns[3][i] == whole.columns[3][i] : std::isnan(now.columns[3][i])));
  }
  const json summary = json::parse(folder.read("case.run/summary.json"));
  CHECK(summary["gauges"][1]["greatest"].get<double>() == about(0.08));  // not the speeds of before
  CHECK(summary["gauges"][2]["least_at_s"].get<double>() > 0.2);
  for (const char* command : {"measure case.run", "draw case.run --what history"}) {
    const auto told = drive::wavy(folder, command);
    INFO(told.out);
    CHECK(told.code == 0);
    CHECK_FALSE(told.says("nan"));
  }
  // Changed once more before there was a checkpoint: what was measured first is still there.
  REQUIRE(drive::wavy(folder, "run case.toml --force").code == 0);
  for (const char* measures : {"volume", "kinetic_energy"}) {
    folder.write("case.run/case.toml",
                 drive::replaced(as_run, "measures = \"greatest_speed\"", fmt::format("measures = \"{}\"", measures)));
    shell(folder,
          "cp case.run/checkpoint.h5 kept.h5; \\$WAVY resume case.run --until '0.3 s'; cp kept.h5 "
          "case.run/checkpoint.h5");
  }
  CHECK(folder.read("case.run/history-until-0.2s.csv") == before);
  CHECK(folder.read("case.run/history.csv").find("fast [J]") != std::string::npos);
  // All of it goes with a run that replaces this one.
  REQUIRE(drive::wavy(folder, "run case.toml --force").code == 0);
  CHECK_FALSE(std::filesystem::exists(folder / "case.run/history-until-0.2s.csv"));
}

TEST_CASE("the interval of snapshots may change before a run goes on") {
  const Folder folder;
  folder.write("case.toml", with_end(small_tank(), "0.2 s"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const std::string as_run = folder.read("case.run/case.toml");
  for (const auto& [interval, times] :
       {std::pair{"0.1 s", std::vector{0.3, 0.4}}, std::pair{"0.07 s", std::vector{0.21, 0.28, 0.35, 0.4}},
        std::pair{"1 s", std::vector{0.4}}}) {
    CAPTURE(interval);
    REQUIRE(drive::wavy(folder, "run case.toml --force").code == 0);
    folder.write("case.run/case.toml", drive::replaced(as_run, "snapshot_interval = \"[^\"]*\"",
                                                       fmt::format("snapshot_interval = \"{}\"", interval)));
    const auto resumed = drive::wavy(folder, "resume case.run --until '0.4 s'");
    INFO(resumed.out);
    REQUIRE(resumed.code == 0);
    std::vector<double> expected{0, 0.05, 0.1, 0.15, 0.2};
    expected.insert(expected.end(), times.begin(), times.end());
    const json summary = json::parse(folder.read("case.run/summary.json"));
    REQUIRE(summary["snapshots"].size() == expected.size());
    for (std::size_t i = 0; i < expected.size(); ++i) {
      CHECK(summary["snapshots"][i]["time_s"].get<double>() == about(expected[i]));
      CHECK(std::filesystem::exists(folder / "case.run" / summary["snapshots"][i]["file"].get<std::string>()));
    }
    CHECK(summary["ledger"]["smallest_step_s"].get<double>() > 1e-4);
  }
}

TEST_CASE("a gauge by which something is held may not change before a run goes on") {
  const Folder folder;
  const std::string opening =
      "[[opening]]\nname = \"drain\"\nside = \"right\"\ncentre = [\"0.05 m\"]\nsize = [\"4 cm\"]\nholds = "
      "\"wall\"\ntarget = \"0.15 m\"\nmost_flow = \"1 L/s\"\n[[opening]]\nname = \"vent\"\nside = \"top\"\n";
  folder.write("case.toml", with_end(small_tank() + opening, "0.05 s"));
  const auto run = drive::wavy(folder, "run case.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  const std::string as_run = folder.read("case.run/case.toml");
  folder.write("case.run/case.toml", drive::replaced(as_run, "at = .\"0.39 m\"", "at = [\"0.1 m\""));
  const auto refused = drive::wavy(folder, "resume case.run --until '0.1 s'");
  INFO(refused.out);
  CHECK(refused.code == 2);
  CHECK(refused.says("gauge.at"));
  CHECK(refused.says("0.39 m"));
}

TEST_CASE("what cannot go on is refused with the reason, and left as it is") {
  const Folder folder;
  folder.write("case.toml", with_end(small_tank("0.1 s"), "0.1 s"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const std::string history = folder.read("case.run/history.csv");
  const std::string as_run = folder.read("case.run/case.toml");
  const auto refuses = [&](const std::string& arguments, const std::string& words) {
    const auto outcome = drive::wavy(folder, "resume " + arguments);
    INFO(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
    CHECK(folder.read("case.run/history.csv") == history);
  };
  refuses("case.run", "this run has reached its end at t = 100 ms");
  refuses("case.run --until '50 ms'", "this run has reached its end at t = 100 ms");
  refuses("case.run --until '2 kg'", "--until");
  refuses("nowhere.run", "nowhere.run");
  // What matters has changed since.
  folder.write("case.run/case.toml", drive::replaced(as_run, "cell = \"[^\"]*\"", "cell = \"4 cm\""));
  refuses("case.run --until '1 s'", "grid.cell");
  // What does not may change; the last of the history is cut off where it has been touched.
  folder.write("case.run/case.toml", with_end(as_run, "0.12 s", "\nlargest_step = \"2 ms\""));
  CHECK(drive::wavy(folder, "resume case.run").code == 0);
  CHECK(folder.read("case.run/history.csv").starts_with(history));
  CHECK(folder.read("case.run/history.csv").size() > history.size());
  folder.write("case.run/history.csv", history.substr(0, history.size() / 2));
  const auto cut = drive::wavy(folder, "resume case.run --until '1 s'");
  CHECK(cut.code == 2);
  CHECK(cut.says("this file is shorter than when the checkpoint was kept"));
  CHECK(folder.read("case.run/case.toml").find("until = \"1") == std::string::npos);
  std::filesystem::remove(folder / "case.run/checkpoint.h5");
  std::filesystem::remove(folder / "case.run/checkpoint.before.h5");
  const auto none = drive::wavy(folder, "resume case.run --until '1 s'");
  CHECK(none.code == 2);
  CHECK(none.says("there is no checkpoint here"));
}
