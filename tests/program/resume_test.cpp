// Runs that were stopped, killed or done go on as if they had never stopped.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <nlohmann/json.hpp>
#include <regex>

#include "drive.hpp"

using drive::Folder;
using drive::given_case;
using drive::shell;
using drive::small_tank;
using drive::with_end;
using nlohmann::json;

namespace {

/// Names of files that two run folders do not have alike, of those that must be.
std::string differences(const Folder& folder, const std::string& one, const std::string& other) {
  return shell(folder, fmt::format("for f in history.csv snapshots.pvd snapshots; do diff -rq {0}/\\$f {1}/\\$f; done",
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
       {Half{"tote_braking", "0.4 s", "0.7 s", 2}, Half{"decanter_weir", "1 s", "1.3 s", 1},
        Half{"drum_turning", "0.1 s", "0.2 s", 2}, Half{"drops_seam", "0.2 s", "0.3 s", 1},
        Half{"funnel_sector", "0.1 s", "0.15 s", 2}, Half{"kettle_drain", "0.5 s", "0.6 s", 1}}) {
    CAPTURE(name);
    const Folder folder;
    const std::string text = given_case(name);
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
  folder.write("case.run/case.toml", std::regex_replace(as_run, std::regex("cell = \"[^\"]*\""), "cell = \"4 cm\""));
  refuses("case.run --until '1 s'", "grid.cell");
  // What does not may change; the last of the history is cut off where it has been touched.
  folder.write("case.run/case.toml", with_end(as_run, "0.12 s", "\nlargest_step = \"2 ms\""));
  CHECK(drive::wavy(folder, "resume case.run").code == 0);
  CHECK(folder.read("case.run/history.csv").starts_with(history));
  CHECK(folder.read("case.run/history.csv").size() > history.size());
  folder.write("case.run/history.csv", history.substr(0, history.size() / 2));
  const auto cut = drive::wavy(folder, "resume case.run --until '1 s'");
  CHECK(cut.code == 2);
  CHECK(cut.says("the history is shorter than when the checkpoint was kept"));
  CHECK(folder.read("case.run/case.toml").find("until = \"1") == std::string::npos);
  std::filesystem::remove(folder / "case.run/checkpoint.h5");
  std::filesystem::remove(folder / "case.run/checkpoint.before.h5");
  const auto none = drive::wavy(folder, "resume case.run --until '1 s'");
  CHECK(none.code == 2);
  CHECK(none.says("there is no checkpoint here"));
}
