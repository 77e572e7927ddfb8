// compare: runs beside each other.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <set>

#include "about.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;

namespace {

void write(const std::filesystem::path& file, const std::string& text) { std::ofstream(file) << text; }

/// A run folder with a history made up, so that what compare says of it is known.
void make_run(const Folder& folder, const std::string& name, long cells, const std::string& history,
              double computed_share = 1) {
  const std::filesystem::path run = folder / name;
  std::filesystem::create_directories(run);
  write(run / "history.csv", history);
  write(run / "case.toml", drive::small_tank());
  const json summary{{"format", 1},
                     {"title", "made up"},
                     {"status", "done"},
                     {"ended_at_s", 10.0},
                     {"phases", {"water", "air"}},
                     {"computed_share", computed_share},
                     {"ledger", {{"cells", cells}, {"steps", 3}, {"wall_time_s", 2.5}}},
                     {"snapshots", {{{"time_s", 0.0}, {"file", "snapshots/00000.vtu"}}}}};
  write(run / "summary.json", summary.dump());
}

/// y = 2 + error + t over 10 s, and a volume that never changes.
std::string ramp(double error, int rows = 11) {
  std::string text = "time [s],y [m],water_volume [m3]\n";
  for (int i = 0; i < rows; ++i) {
    const double t = 10.0 * i / (rows - 1);
    text += std::to_string(t) + "," + std::to_string(2 + error + t) + ",0.5\n";
  }
  return text;
}

}  // namespace

TEST_CASE("parts of a vessel are no coarser grids than the whole") {
  const Folder folder;
  make_run(folder, "whole.run", 1600, ramp(0.01));
  make_run(folder, "half.run", 800, ramp(0.02), 0.5);
  make_run(folder, "quarter.run", 400, ramp(0.03), 0.25);
  const auto alike = drive::wavy(folder, "compare quarter.run half.run whole.run");
  CAPTURE(alike.out);
  CHECK(alike.code == 0);
  CHECK_FALSE(alike.says("to be trusted"));
  // Of a grid twice as fine, a quarter is the finest, and has the order that the whole would have.
  make_run(folder, "finest.run", 1600, ramp(0.0025), 0.25);
  make_run(folder, "coarse.run", 400, ramp(0.04));
  const auto found = drive::wavy(folder, "compare whole.run finest.run coarse.run --json");
  const json read = json::parse(found.out);
  CHECK(read.at("reference") == "finest.run");
  CHECK(read.at("grids").at(0).at("order").get<double>() == about(2).epsilon(1e-3));
}

TEST_CASE("what holds nothing but round-off beside others of its unit is told in one line") {
  const Folder folder;
  const auto text = [](double error, double trace) {
    std::string rows = "time [s],in [m3/s],back [m3/s],level [m]\n";
    for (int t = 0; t <= 10; ++t)
      rows += fmt::format("{},{},{},{}\n", t, 1e-3 + error, trace * (t % 3 - 1), 1e-13 * (t % 2 + error));
    return rows;
  };
  make_run(folder, "fine.run", 1600, text(1e-5, 3e-17));
  make_run(folder, "middle.run", 400, text(4e-5, 1e-16));
  make_run(folder, "coarse.run", 100, text(16e-5, -2e-17));
  const auto said = drive::wavy(folder, "compare fine.run middle.run coarse.run");
  CAPTURE(said.out);
  CHECK(said.says("nothing but round-off: back"));
  CHECK(said.says("in, mean"));
  CHECK(said.says("level, greatest"));  // however little: there is no other length
  CHECK_FALSE(said.says("back, mean"));
  const json read = json::parse(drive::wavy(folder, "compare fine.run middle.run coarse.run --json").out);
  CHECK(read.at("none") == json{"back"});
  // A tenth of a millionth of the others is no round-off.
  make_run(folder, "coarse.run", 100, text(16e-5, 1e-10));
  CHECK_FALSE(drive::wavy(folder, "compare fine.run middle.run coarse.run").says("round-off"));
}

TEST_CASE("three grids of second order are told to be so, with the value without a grid") {
  const Folder folder;
  // Cells of 1, 2 and 4 in 2-D: errors of 0.01, 0.04 and 0.16; histories at other times too.
  make_run(folder, "fine.run", 1600, ramp(0.01));
  make_run(folder, "middle.run", 400, ramp(0.04, 6));
  make_run(folder, "coarse.run", 100, ramp(0.16, 21));
  const auto outcome = drive::wavy(folder, "compare coarse.run fine.run middle.run");
  CHECK(outcome.code == 0);
  CAPTURE(outcome.out);
  for (const char* words : {"differences are from fine.run", "the same at all times in all runs: water_volume",
                            "to be trusted", "yes, to ± 12.5 mm"})
    CHECK(outcome.says(words));
  const auto answer = drive::wavy(folder, "compare coarse.run fine.run middle.run --json");
  const json read = json::parse(answer.out);
  CHECK(read.at("reference") == "fine.run");
  const auto& grids = read.at("grids");
  REQUIRE(grids.size() == 2);
  CHECK(grids[0].at("figure") == "mean");
  CHECK(grids[0].at("kind") == "monotonic");
  CHECK(grids[0].at("order").get<double>() == about(2).epsilon(1e-3));
  CHECK(grids[0].at("extrapolated").get<double>() == about(7).epsilon(1e-5));
  CHECK(grids[1].at("extrapolated").get<double>() == about(12).epsilon(1e-5));
  CHECK(grids[0].at("grid_convergence_index").get<double>() == about(0.0125).epsilon(1e-3));
  const auto& coarse = read.at("gauges").at(0);
  CHECK(coarse.at("run") == "coarse.run");
  CHECK(coarse.at("greatest_difference").get<double>() == about(0.15).epsilon(1e-5));
  CHECK(coarse.at("rms_difference").get<double>() == about(0.15).epsilon(1e-5));
  CHECK(coarse.at("difference_at_end").get<double>() == about(0.15).epsilon(1e-5));
  // Of a part of the time.
  const json part = json::parse(drive::wavy(folder, "compare fine.run middle.run --from '5 s' --json").out);
  CHECK(part.at("gauges").at(0).at("mean").get<double>() == about(2.01 + 7.5).epsilon(1e-5));
  CHECK_FALSE(part.contains("grids"));
}

TEST_CASE("grids that do not draw near, or are hardly finer, are told of without a figure to trust") {
  const Folder folder;
  make_run(folder, "a.run", 1600, ramp(0.3));
  make_run(folder, "b.run", 400, ramp(0.1));
  make_run(folder, "c.run", 100, ramp(0.0));
  CHECK(drive::wavy(folder, "compare a.run b.run c.run")
            .says("not yet: differences do not fall; it may be off by 600 mm"));
  make_run(folder, "d.run", 1620, ramp(0.3));
  const auto outcome = drive::wavy(folder, "compare a.run b.run d.run");
  CHECK(outcome.code == 0);
  CHECK_FALSE(outcome.says("to be trusted"));
}

TEST_CASE("a chart of all runs is drawn, and what cannot be compared is refused") {
  const Folder folder;
  make_run(folder, "a.run", 1600, ramp(0.3));
  make_run(folder, "b.run", 400, ramp(0.1));
  CHECK(drive::wavy(folder, "compare a.run b.run --chart both.png").says("wrote both.png"));
  CHECK(std::filesystem::file_size(folder / "both.png") > 5000);
  const auto refused = [&](const std::string& arguments, const std::string& words) {
    const auto outcome = drive::wavy(folder, "compare " + arguments);
    CAPTURE(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
  };
  refused("a.run", "there is one run only");
  refused("a.run ./a.run", "is named twice");
  refused("a.run none.run", "there is no such run folder");
  refused("a.run b.run --from '20 s'", "the run reaches from 0 s to 10 s");
  refused("a.run b.run --from '4 s' --to '3 s'", "it lies before --from");
  make_run(folder, "c.run", 400, "time [s],y [m]\n");
  refused("a.run c.run", "c.run");
  make_run(folder, "d.run", 400, "time [s],z [m]\n0,1\n1,2\n");
  const auto nothing = drive::wavy(folder, "compare a.run d.run");
  CHECK(nothing.code == 0);
  CHECK(nothing.says("no gauge is in all of them"));
  // Runs of the same name in other folders are told apart.
  std::filesystem::create_directories(folder / "old");
  std::filesystem::copy(folder / "b.run", folder / "old/a.run", std::filesystem::copy_options::recursive);
  CHECK(drive::wavy(folder, "compare a.run old/a.run").says("old/a.run"));
}

TEST_CASE("runs are held against measured readings, in the units of the file") {
  const Folder folder;
  make_run(folder, "a.run", 400, ramp(0));
  make_run(folder, "b.run", 100, ramp(0.1));
  // 2 cm too high at all times; one reading lies behind the end of the runs, one is missing.
  folder.write("m.csv", "time [min],y [cm]\n0,202\n0.05,502\n0.1,802\n0.15,\n1,9999\n");
  const auto outcome = drive::wavy(folder, "compare a.run b.run --measured m.csv --json");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  const json read = json::parse(outcome.out)["measured"];
  CHECK(read[0]["run"] == "a.run");
  CHECK(read[0]["readings"] == 3);
  CHECK(read[0]["mean_difference"].get<double>() == about(-0.02));
  CHECK(read[0]["rms_difference"].get<double>() == about(0.02));
  CHECK(read[1]["mean_difference"].get<double>() == about(0.08));
  CHECK(drive::wavy(folder, "compare a.run b.run --measured m.csv --chart c.svg").code == 0);
  CHECK(folder.read("c.svg").find("measured") != std::string::npos);
  for (const auto& [text, words] : {std::pair{"t [s],y [m]\n0,1\n", "there is no column 'time'"},
                                    {"time [s],z [m]\n0,1\n", "none of its columns is a gauge"},
                                    {"time [s],y\n0,1\n", "the column 'y' has no unit"},
                                    {"time [s],y [kg]\n0,1\n", "kg"},
                                    {"time [s],y [m]\n100,1\n", "none of its columns is a gauge"}}) {
    folder.write("m.csv", text);
    const auto wrong = drive::wavy(folder, "compare a.run b.run --measured m.csv");
    CAPTURE(wrong.out);
    CHECK(wrong.code == 2);
    CHECK(wrong.says(words));
  }
}

TEST_CASE("interfaces are laid over each other and fields subtracted, over grids of their own") {
  const Folder folder;
  folder.write("fine.toml", drive::small_tank());
  folder.write("coarse.toml", drive::replaced(drive::small_tank(), "2 cm", "4 cm"));
  REQUIRE(drive::wavy(folder, "run fine.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run coarse.toml --quiet").code == 0);
  const auto outcome = drive::wavy(folder,
                                   "compare coarse.run fine.run --interfaces i.png --field pressure --difference d.png "
                                   "--at '0.1 s' --json");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  const json field = json::parse(outcome.out)["fields"][0];
  CHECK(field["less_than"] == "fine.run");
  CHECK(field["time_s"].get<double>() == about(0.1));
  // Water of 0.2 m: half of the vessel with up to 2 kPa.
  CHECK(field["rms"].get<double>() == about(800).epsilon(0.1));
  CHECK(field["rms_difference"].get<double>() < 0.03 * 800);
  CHECK(std::filesystem::file_size(folder / "i.png") > 5000);
  CHECK(std::filesystem::file_size(folder / "d.png") > 5000);
  CHECK(drive::wavy(folder, "compare coarse.run fine.run --interfaces two.png --at '0.1 s' --at '0.2 s'").code == 0);
  for (const auto& [options, words] : {std::pair{"--difference d.png", "of what is not said"},
                                       {"--field speed --at '0.1 s' --at '0.2 s'", "a field is compared at one time"},
                                       {"--at '0.1 s'", "it goes with --interfaces or --field"},
                                       {"--interfaces i.svg", "it is drawn as .png"},
                                       {"--range '0 Pa to 1 Pa'", "it goes with --difference"},
                                       {"--field pressure --at '9 s'", "the run reaches from"}}) {
    const auto wrong = drive::wavy(folder, std::string("compare coarse.run fine.run ") + options);
    CAPTURE(options);
    CAPTURE(wrong.out);
    CHECK(wrong.code == 2);
    CHECK(wrong.says(words));
  }
}
