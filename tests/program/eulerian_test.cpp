// The Eulerian model at the prompt: the same commands as for the sharp model.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;

namespace {

const std::string column = drive::replaced(drive::with_end(drive::given_case("wash_column"), "0.6 s"),
                                           "(end_when_settled|end_not_before|snapshot_interval) = [^\n]*\n", "");

}  // namespace

TEST_CASE("check tells of an aerated column its sizes, its sparger and its degassing surface, and draws it") {
  const Folder folder;
  folder.write("column.toml", column);
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
  folder.write("column.toml", column);
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
  folder.write("other.toml", drive::replaced(column, "diameter = \"4 mm\"", "diameter = \"2 mm\""));
  REQUIRE(drive::wavy(folder, "run other.toml --quiet").code == 0);
  const auto compared = drive::wavy(folder, "compare column.run other.run --field air_fraction");
  INFO(compared.out);
  CHECK(compared.code == 0);
}

TEST_CASE("a run on coarser cells first goes on from their end, in either model") {
  const Folder folder;
  folder.write("column.toml", column);
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
  folder.write("column.toml", column);
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
  drive::refuses(drive::replaced(column, "diameter = \"4 mm\"\n", ""), "bubbles need a size", 16);
  drive::refuses(drive::replaced(column, "volume_flow = \"25 L/min\"", "pressure = \"0 Pa\""),
                 "what comes in through 'sparger' is not given", 24);
  drive::refuses(drive::replaced(column, "tube = \"3 cm\"", "tube = \"30 cm\""), "does not fit into a ring", 29);
  drive::refuses(drive::replaced(column, "spread = \"ring\"", "spread = \"ring\"\nside = \"bottom\""), "has no 'side'",
                 27);
  drive::refuses(drive::replaced(column, "model = \"eulerian\"", "model = \"sharp\""), "belongs to model", 19);
}
