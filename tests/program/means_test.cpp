// Means over time: in snapshots, pictures, gauges after the run, and over a stop.
#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using wavy::read_csv;
using wavy::Table;

namespace {

std::string tank(const std::string& until) { return drive::small_tank(until) + "means_from = \"50 ms\"\n"; }

}  // namespace

TEST_CASE("means are kept in snapshots from their time on, the same to the bit over a stop") {
  const Folder folder;
  folder.write("whole.toml", tank("0.4 s"));
  folder.write("half.toml", tank("0.2 s"));
  REQUIRE(drive::wavy(folder, "run whole.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run half.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "resume half.run --until '0.4 s' --quiet").code == 0);
  CHECK(folder.read("half.run/snapshots/00008.vtu") == folder.read("whole.run/snapshots/00008.vtu"));
  for (const char* name : {"mean_velocity", "rms_pressure", "mean_fraction"})
    CHECK(folder.read("whole.run/snapshots/00008.vtu").find(std::string("Name=\"") + name + "\"") != std::string::npos);
  CHECK(drive::wavy(folder, "draw whole.run --what mean_speed --arrows").code == 0);
  const auto early = drive::wavy(folder, "draw whole.run --what mean_speed --at '0 s' --to p.png");
  CHECK(early.code == 2);
  CHECK(early.says("this snapshot has no field 'mean_speed'"));

  // The floor carries what stands on it: the mean of the pressure there over the mean of the gauge during the run.
  folder.write("gauge.toml",
               "[[gauge]]\nname = \"floor\"\nmeasures = \"value\"\nquantity = \"mean_pressure\"\nat = "
               "[\"19 cm\", \"1 cm\"]\n");
  REQUIRE(drive::wavy(folder, "measure whole.run --gauges gauge.toml --from '0.1 s' --table t.csv --quiet").code == 0);
  folder.write("with.toml",
               drive::replaced(tank("0.4 s"), "\\[run\\]",
                               "[[gauge]]\nname = \"now\"\nmeasures = \"value\"\nquantity = \"pressure\"\nat = [\"19 "
                               "cm\", \"1 cm\"]\n[run]"));
  REQUIRE(drive::wavy(folder, "run with.toml --quiet").code == 0);
  const Table history = read_csv(folder / "with.run/history.csv");
  const auto now = static_cast<std::size_t>(history.find("now"));
  double sum = 0;
  double span = 0;
  for (std::size_t i = 1; i < history.columns[0].size(); ++i) {
    const double dt = std::min(history.columns[0][i] - history.columns[0][i - 1], history.columns[0][i] - 0.05);
    if (dt <= 0) continue;
    sum += dt * history.columns[now][i];
    span += dt;
  }
  const Table read = read_csv(folder / "t.csv");
  CHECK(read.columns[1].back() == about(sum / span).epsilon(1e-5));
}

TEST_CASE("means that are not kept, not yet there or of a line are refused") {
  const Folder folder;
  folder.write("tank.toml", drive::small_tank());
  REQUIRE(drive::wavy(folder, "run tank.toml --quiet").code == 0);
  const auto none = drive::wavy(folder,
                                "measure tank.run --gauge 'name = \\\"a\\\", measures = \\\"value\\\", quantity = "
                                "\\\"mean_speed\\\", at = [\\\"19 cm\\\", \\\"1 cm\\\"]'");
  CAPTURE(none.out);
  CHECK(none.code == 2);
  CHECK(none.says("set run.means_from"));
  CHECK(drive::wavy(folder, "draw tank.run --what mean_speed").says("has no field 'mean_speed'"));
  drive::refuses(drive::small_tank() + "means_from = \"0.2 s\"\n", "the run is over by then");
  drive::refuses(
      tank("0.4 s") +
          "[[gauge]]\nname = \"a\"\nmeasures = \"value\"\nquantity = \"mean_speed\"\nat = [\"19 cm\", \"1 cm\"]\n",
      "mean_speed is known when the run has ended");
  drive::refuses(drive::replaced(drive::given_case("wash_line"), "\\[run\\]", "[run]\nmeans_from = \"1 s\""),
                 "a line has no such setting");
}

TEST_CASE("what means take of memory is told before, and gas that is left out counts as nothing there") {
  const Folder folder;
  folder.write("large.toml", drive::replaced(tank("60 ms"), "2 cm", "1 mm"));
  folder.write("large.toml",
               drive::replaced(folder.read("large.toml"), "means_from = \"50 ms\"", "means_from = \"0 s\""));
  folder.write("large.toml", drive::replaced(folder.read("large.toml"), "until = \"60 ms\"", "until = \"1 ms\""));
  const auto told = nlohmann::json::parse(drive::wavy(folder, "check large.toml --no-picture --json").out);
  CHECK(drive::peak_memory(folder, "run large.toml --quiet") ==
        about(told["memory_bytes"].get<double>()).epsilon(0.15));

  // Half full of water that is pushed to one side and back: where there was none it is 0, and nowhere more than there.
  folder.write("water.toml",
               drive::replaced(tank("0.4 s"), "\\[\\[phase\\]\\]\nname = \"air\"\nfluid = \"air\"\n", ""));
  REQUIRE(drive::wavy(folder, "run water.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "export water.run --what snapshot --to s.csv").code == 0);
  const Table cells = read_csv(folder / "s.csv");
  const auto& mean = cells.columns[static_cast<std::size_t>(cells.find("mean_fraction"))];
  const auto& rms = cells.columns[static_cast<std::size_t>(cells.find("rms_fraction"))];
  double water = 0;
  for (std::size_t i = 0; i < mean.size(); ++i) {
    water += mean[i] * 0.02 * 0.02;
    // Of something between 0 and 1.
    CHECK(rms[i] * rms[i] <= mean[i] * (1 - mean[i]) + 1e-6);
  }
  CHECK(water == about(0.4 * 0.2).epsilon(1e-5));
}
