// The Eulerian model at the prompt: the same commands as for the sharp model.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;

namespace {

const std::string wash_column = drive::replaced(drive::with_end(drive::given_case("wash_column"), "0.6 s"),
                                                "(end_when_settled|end_not_before|snapshot_interval) = [^\n]*\n", "");

/// A square tank of 20 cm with 16 cm of water, aerated by a ring of 10 cm.
std::string sparged(const std::string& more) {
  return "wavy = 1\nmodel = \"eulerian\"\n[vessel]\nsize = [\"20 cm\", \"20 cm\", \"16 cm\"]\n[grid]\ncell = \"1 cm\"\n"
         "[[phase]]\nname = \"water\"\nfluid = \"water\"\nform = \"carrier\"\n[[phase]]\nname = \"air\"\nfluid = "
         "\"air\"\nform = \"bubbles\"\ndiameter = \"3 mm\"\n[[fill]]\nphase = \"water\"\nlevel = \"16 cm\"\n"
         "[[opening]]\nname = \"top\"\nside = \"top\"\nlets_out = \"gas\"\n[[opening]]\nname = \"sparger\"\n"
         "spread = \"ring\"\ncentre = [\"10 cm\", \"10 cm\", \"4 cm\"]\ndiameter = \"10 cm\"\ntube = \"2 cm\"\n" +
         more +
         "\nphase = \"air\"\nvolume_flow = \"2 L/min\"\n[run]\nuntil = \"0.1 s\"\nsnapshot_interval = \"0.1 s\"\n";
}

}  // namespace

TEST_CASE("air leaves a ring through its holes alone, as much as through a band") {
  const Folder folder;
  const std::string gauges =
      "[[gauge]]\nname = \"at_hole\"\nmeasures = \"greatest\"\nquantity = \"air_fraction\"\ncentre = [\"15 cm\", \"10 "
      "cm\", \"4 "
      "cm\"]\ndiameter = \"3 cm\"\n[[gauge]]\nname = \"between\"\nmeasures = \"greatest\"\nquantity = "
      "\"air_fraction\"\ncentre = [\"13.5 cm\", \"13.5 cm\", \"3 cm\"]\ndiameter = \"1.5 cm\"\n[[gauge]]\nname = "
      "\"air\"\nmeasures = \"mean\"\nquantity = \"air_fraction\"\n";
  folder.write("holes.toml", sparged("holes = 4") + gauges);
  folder.write("band.toml", sparged("") + gauges);
  folder.write("quarter.toml",
               drive::replaced(sparged("holes = 4"), "size = ", "symmetry = \"quarter_turn\"\nsize = ") +
                   "[[gauge]]\nname = \"air\"\nmeasures = \"mean\"\nquantity = \"air_fraction\"\n");
  for (const char* name : {"holes", "band", "quarter"})
    REQUIRE(drive::wavy(folder, fmt::format("run {}.toml --quiet", name)).code == 0);
  const auto last = [&](const std::string& run, const std::string& gauge) {
    return column(wavy::read_csv(folder.path() / (run + ".run/history.csv")), gauge).back();
  };
  CHECK(last("holes", "at_hole") > 3 * last("band", "at_hole"));
  CHECK(last("holes", "between") < 1e-3 * last("holes", "at_hole"));
  CHECK(last("band", "between") > 0.1 * last("band", "at_hole"));
  // 2 L/min for 0.1 s.
  for (const char* name : {"holes", "band", "quarter"})
    CHECK(last(name, "air") == about(2e-3 / 60 * 0.1 / (0.2 * 0.2 * 0.16)).epsilon(1e-6));
}

TEST_CASE("check tells of an aerated column its sizes, its sparger and its degassing surface, and draws it") {
  const Folder folder;
  folder.write("column.toml", wash_column);
  const auto said = drive::wavy(folder, "check column.toml");
  CHECK(said.code == 0);
  CHECK(said.says("air of 4 mm in water: rise at 0.23"));
  CHECK(said.says("(ishii_zuber)"));
  CHECK(said.says("sparger (in a zone, "));
  CHECK(said.says("superficial, over the vessel's mean cross-section"));
  CHECK(said.says("top (top, 452.4 cm²): gas leaves through it as it arrives, all else stays"));
  CHECK_FALSE(said.says("warning"));
  CHECK(std::filesystem::exists(folder / "column.check.png"));
}

TEST_CASE("an aerated column runs, goes on, is measured, drawn, filmed, compared, exported and reported") {
  const Folder folder;
  folder.write("column.toml", wash_column);
  const auto run = drive::wavy(folder, "run column.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  CHECK(run.says("left as"));
  CHECK_FALSE(run.says("interface"));
  const json summary = json::parse(folder.read("column.run/summary.json"));
  CHECK(summary["model"] == "eulerian");
  CHECK(summary["pictured"] == "air_fraction");
  const json phases = summary["ledger"]["phases"];
  REQUIRE(phases.size() == 2);
  const double in = phases[1]["volume_in_m3"];
  CHECK(in == about(0.6 * 25e-3 / 60).epsilon(1e-6));
  for (const auto& phase : phases) CHECK(std::abs(phase["drift"].get<double>()) < 1e-12);

  CHECK_FALSE(phases[1].contains("residence_s"));  // no bubble has come through yet
  REQUIRE(drive::wavy(folder, "resume column.run --until '0.8 s' --quiet").code == 0);
  const wavy::Table history = wavy::read_csv(folder.path() / "column.run/history.csv");
  CHECK(history.columns[0].back() == about(0.8));
  const int holdup = history.find("air_holdup");
  REQUIRE(holdup > 0);
  CHECK(history.columns[static_cast<std::size_t>(holdup)].back() == about(0.8 * 25e-3 / 60 / 54.29e-3).epsilon(1e-3));

  CHECK(drive::wavy(folder, "draw column.run").says("air_fraction-0.800s.png"));
  CHECK(drive::wavy(folder, "draw column.run --what water_speed --what fraction --to two.png").code == 0);
  CHECK(std::filesystem::exists(folder / "two.png"));
  const auto unknown = drive::wavy(folder, "draw column.run --what oil_fraction");
  CHECK(unknown.code == 2);
  CHECK(unknown.says("no field 'oil_fraction'"));
  CHECK(drive::wavy(folder, "film column.run --to column.mp4 --quiet").code == 0);

  const auto measured = drive::wavy(folder,
                                    "measure column.run --gauge 'name = \\\"g\\\", measures = \\\"greatest\\\", "
                                    "quantity = \\\"air_fraction\\\"'");
  INFO(measured.out);
  CHECK(measured.code == 0);
  const auto pieces = drive::wavy(folder, "measure column.run --pieces air");
  CHECK(pieces.code == 2);
  CHECK(pieces.says("not followed one by one"));
  CHECK(drive::wavy(folder, "export column.run --what snapshot --to all.csv").code == 0);
  CHECK(folder.read("all.csv").find("air_fraction") != std::string::npos);
  CHECK(drive::wavy(folder, "report column.run --quiet").code == 0);
  folder.write("other.toml", drive::replaced(wash_column, "diameter = \"4 mm\"", "diameter = \"2 mm\""));
  REQUIRE(drive::wavy(folder, "run other.toml --quiet").code == 0);
  const auto compared = drive::wavy(folder, "compare column.run other.run --field air_fraction");
  INFO(compared.out);
  CHECK(compared.code == 0);
}

TEST_CASE("a run on coarser cells first goes on from their end, in either model") {
  const Folder folder;
  folder.write("column.toml", wash_column);
  const auto run = drive::wavy(folder, "run column.toml --coarser-first 1");
  INFO(run.out);
  REQUIRE(run.code == 0);
  CHECK(run.says("on cells of 20 mm: 360 cells"));
  CHECK(run.says("wrote column.coarser_1.run"));
  CHECK(run.says("1440 cells"));
  const wavy::Table before = wavy::read_csv(folder.path() / "column.coarser_1.run/history.csv");
  const wavy::Table after = wavy::read_csv(folder.path() / "column.run/history.csv");
  const auto holdup = static_cast<std::size_t>(after.find("air_holdup"));
  CHECK(before.columns[0].back() == about(0.6));
  CHECK(after.columns[0].front() == 0);
  CHECK(before.columns[holdup].front() == 0);
  CHECK(after.columns[holdup].front() == about(before.columns[holdup].back()).epsilon(1e-9));
  CHECK(after.columns[holdup].back() > 1.5 * after.columns[holdup].front());
  // Such a run goes on like any other.
  CHECK(drive::wavy(folder, "resume column.run --until '0.7 s' --quiet").code == 0);
  // What is there stays.
  const auto again = drive::wavy(folder, "run column.toml --coarser-first 1");
  CHECK(again.code == 2);
  CHECK(again.says("column.run: this folder holds an earlier run"));
  std::filesystem::remove_all(folder / "column.run");
  CHECK(drive::wavy(folder, "run column.toml --coarser-first 1").says("column.coarser_1.run: this folder holds"));

  folder.write("tank.toml", drive::small_tank());
  const auto sharp = drive::wavy(folder, "run tank.toml --coarser-first 2");
  INFO(sharp.out);
  CHECK(sharp.code == 0);
  CHECK(sharp.says("wrote tank.coarser_2.run"));
  CHECK(sharp.says("wrote tank.coarser_1.run"));
  CHECK_FALSE(sharp.says("warning"));
  const std::string as_run = folder.read("tank.run/case.toml");
  CHECK(as_run.find("shape = \"run\"") != std::string::npos);
  CHECK(as_run.find("[[fill]]") == as_run.rfind("[[fill]]"));  // what it began with otherwise is left out
}

TEST_CASE("coarser cells that cannot be are refused before anything runs") {
  const Folder folder;
  folder.write("column.toml", wash_column);
  const auto much = drive::wavy(folder, "run column.toml --coarser-first 5");
  CHECK(much.code == 2);
  const auto far = drive::wavy(folder, "run column.toml --coarser-first 4");
  INFO(far.out);
  CHECK(far.code == 2);
  CHECK(far.says("--coarser-first"));
  CHECK_FALSE(std::filesystem::exists(folder / "column.run"));
  folder.write("line.toml", drive::given_case("wash_line"));
  const auto line = drive::wavy(folder, "run line.toml --coarser-first 1");
  CHECK(line.code == 2);
  CHECK(line.says("a line has no cells in two directions"));
}

TEST_CASE("an Eulerian case that cannot be is refused with its line, and nothing is left behind") {
  drive::refuses(drive::replaced(wash_column, "diameter = \"4 mm\"\n", ""), "bubbles need a size", 16);
  drive::refuses(drive::replaced(wash_column, "volume_flow = \"25 L/min\"", "pressure = \"0 Pa\""),
                 "what comes in through 'sparger' is not given", 24);
  drive::refuses(drive::replaced(wash_column, "tube = \"3 cm\"", "tube = \"30 cm\""), "does not fit into a ring", 29);
  drive::refuses(drive::replaced(wash_column, "spread = \"ring\"", "spread = \"ring\"\nside = \"bottom\""),
                 "has no 'side'", 27);
  drive::refuses(drive::replaced(wash_column, "model = \"eulerian\"", "model = \"sharp\""), "belongs to model", 19);
  drive::refuses(drive::replaced(wash_column, "tube = \"3 cm\"", "tube = \"3 cm\"\nholes = 4"),
                 "in 2-D a ring has no holes", 30);
  drive::refuses(sparged("holes = 2000"), "a ring cannot have 2000 holes");
  drive::refuses(sparged("holes = -1"), "holes");
  drive::refuses(sparged("holes = 20"), "20 holes of 20 mm run into each other");
  drive::refuses(drive::replaced(sparged("holes = 6"), "size = ", "symmetry = \"quarter_turn\"\nsize = "),
                 "6 holes are not as many in each of 4 equal parts");
  drive::refuses(drive::replaced(sparged("holes = 6"), "tube = \"2 cm\"\n", ""), "a ring a tube too");
  drive::refuses(drive::replaced(drive::replaced(sparged("holes = 6"), "spread = \"ring\"", "spread = \"ball\""),
                                 "tube = \"2 cm\"\n", ""),
                 "holes belong to a ring");
  drive::refuses(drive::small_tank() + "[[opening]]\nname = \"top\"\nside = \"top\"\nholes = 3\n",
                 "'holes' belongs to spread");
}
