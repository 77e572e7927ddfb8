#include "results/run_folder.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "run/setup.hpp"
#include "temporary_folder.hpp"

using namespace wavy;
namespace fs = std::filesystem;

namespace {

const char* const tank =
    "wavy = 1\ntitle = \"A <tank> & more\"\nvessel.size = [\"0.4 m\", \"0.4 m\"]\ngrid.cell = \"5 cm\"\n"
    "phase = [{ name = \"water\", fluid = \"water\" }, { name = \"air\", fluid = \"air\" }]\n"
    "fill = [{ phase = \"water\", level = \"0.2 m\" }]\nrun.until = \"1 s\"\n";

std::string read(const fs::path& file) {
  std::ifstream in(file);
  return {std::istreambuf_iterator<char>(in), {}};
}

}  // namespace

TEST_CASE("a run folder holds what was written, and reads back") {
  const TemporaryFolder temporary;
  const fs::path run_folder = temporary / "tank.run";
  const CaseFile the_case = parse_case(tank, "tank.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  const Grid<2> grid = make_grid(setup);
  sharp::Model<2> model(grid, model_settings(setup));
  fill(setup, grid, model.space(), {&model.state().F});
  model.start();
  {
    RunWriter writer(run_folder, prepare_run_folder(run_folder, false), the_case, {{"time", "s"}, {"level", "m"}});
    writer.history({0, 0.2});
    writer.history({0.5, 0.3});
    writer.history({1, 0.1});
    writer.snapshot<2>(model, 0);
    writer.log("a line");
    VesselLedger ledger;
    ledger.volume_start = ledger.volume_now = {0.08, 0.08};
    ledger.limits["advection"] = 2;
    writer.finish(ledger, "done");
    REQUIRE(writer.gauges().size() == 2);
    CHECK(writer.gauges()[1].greatest == 0.3);
    CHECK(writer.gauges()[1].greatest_time == 0.5);
    CHECK(writer.gauges()[1].least == 0.1);
    CHECK(writer.gauges()[1].last == 0.1);
  }
  const Table history = read_csv(run_folder / "history.csv");
  CHECK(history.names == std::vector<std::string>{"time", "level"});
  CHECK(history.columns[1] == std::vector<double>{0.2, 0.3, 0.1});
  CHECK(read(run_folder / "log.txt").find("a line") != std::string::npos);
  CHECK(read(run_folder / "case.toml").find("courant = 0.4") != std::string::npos);

  const RunFolder run = open_run_folder(run_folder);
  CHECK(run.title == "A <tank> & more");
  CHECK(run.phases == std::vector<std::string>{"water", "air"});
  REQUIRE(run.snapshots.size() == 1);
  CHECK(fs::exists(run.snapshots[0].file));
  // No half-written file is left behind.
  for (const auto& entry : fs::recursive_directory_iterator(run_folder)) CHECK(entry.path().extension() != ".part");

  const auto summary = nlohmann::json::parse(read(run_folder / "summary.json"));
  CHECK(summary["ledger"]["phases"][0]["volume_now_m3"] == 0.08);
  CHECK(summary["ledger"]["step_limits"]["advection"] == 2);
  CHECK(summary["gauges"][0]["unit"] == "m");
}

TEST_CASE("only a run folder is replaced, and only when asked") {
  const TemporaryFolder temporary;
  const fs::path run_folder = temporary / "tank.run";
  prepare_run_folder(run_folder, false);
  std::ofstream(run_folder / "history.csv") << "time [s]\n0\n";
  std::ofstream(run_folder / "notes.txt") << "mine";
  CHECK_THROWS_WITH_AS(prepare_run_folder(run_folder, false), doctest::Contains("--force"), Error);
  prepare_run_folder(run_folder, true);
  CHECK_FALSE(fs::exists(run_folder / "history.csv"));
  CHECK(read(run_folder / "notes.txt") == "mine");  // what a run did not write stays
  CHECK_THROWS_WITH_AS(prepare_run_folder(run_folder, true), doctest::Contains("something else"), Error);
}

TEST_CASE("what is not a run folder is refused, whatever is wrong with it") {
  const TemporaryFolder temporary;
  const fs::path run_folder = temporary / "tank.run";
  CHECK_THROWS_WITH_AS(open_run_folder(run_folder), doctest::Contains("no such run folder"), Error);
  fs::create_directories(run_folder);
  CHECK_THROWS_WITH_AS(open_run_folder(run_folder), doctest::Contains("no summary.json"), Error);
  for (const char* text : {"", "{", "[]", "{\"format\": 1}", "{\"format\": \"x\", \"title\": 3}"}) {
    std::ofstream(run_folder / "summary.json") << text;
    CHECK_THROWS_WITH_AS(open_run_folder(run_folder), doctest::Contains("cannot be read"), Error);
  }
  std::ofstream(run_folder / "summary.json") << R"({"format": 99, "title": "", "phases": ["a", "b"], "snapshots": []})";
  CHECK_THROWS_WITH_AS(open_run_folder(run_folder), doctest::Contains("newer"), Error);
  std::ofstream(run_folder / "summary.json") << R"({"format": 1, "title": "", "phases": ["a", "b"], "snapshots": []})";
  CHECK_THROWS_WITH_AS(open_run_folder(run_folder), doctest::Contains("no snapshots"), Error);
}

TEST_CASE("a phase stays as long as its flow out takes for what is held") {
  VesselLedger ledger;
  ledger.volume_in = {3, 1, 0};
  ledger.volume_out = {2, 0, 4};
  ledger.volume_now = {6, 1, 1};
  ledger.ended_at = 10;
  CHECK(ledger.residence(0) == about(30));
  CHECK(ledger.residence(1) == 0);  // nothing has left
  CHECK(ledger.residence(2) == 0);  // it only drains
}

TEST_CASE("drift is what no opening explains, and the standard folder is named after the case") {
  VesselLedger ledger;
  ledger.volume_start = {2, 1};
  ledger.volume_in = {1, 0};
  ledger.volume_out = {0.5, 0};
  ledger.volume_now = {2.5, 1.001};
  CHECK(ledger.drift(0) == 0);
  CHECK(ledger.drift(1) == about(1e-3));
  CHECK(standard_run_folder("some/where/tote.toml") == "tote.run");
}
