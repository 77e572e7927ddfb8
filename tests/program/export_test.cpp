// export: histories and snapshots as CSV in units of choice.
#include <doctest/doctest.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
namespace fs = std::filesystem;

namespace {

const std::string tank =
    "wavy = 1\nvessel.size = [\"40 cm\", \"40 cm\"]\ngrid.cell = \"4 cm\"\nrun.until = \"0.1 s\"\n" + drive::fluids +
    "[[fill]]\nphase = \"water\"\nlevel = \"22 cm\"\n[[gauge]]\nname = \"height\"\nmeasures = \"level\"\nat = [\"1 "
    "cm\"]\n"
    "[[gauge]]\nname = \"foot\"\nmeasures = \"pressure\"\nat = [\"20 cm\", \"0 m\"]\n";

}  // namespace

TEST_CASE("a history comes out in the units asked for, all else in those of the SI") {
  const Folder folder;
  folder.write("a.toml", tank);
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  const auto outcome = drive::wavy(folder, "export a.run --units 'mm, mbar,min , L' --to h.csv");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  CHECK(outcome.says("wrote h.csv: 6 columns"));
  const wavy::Table own = wavy::read_csv(folder / "a.run/history.csv");
  const wavy::Table table = wavy::read_csv(folder / "h.csv");
  CHECK(table.names == own.names);
  CHECK(table.units == std::vector<std::string>{"min", "mm", "mbar", "L", "L", "m/s"});
  CHECK(table.columns[0].back() == about(0.1 / 60));
  CHECK(table.columns[1].back() == about(220));
  CHECK(table.columns[2].back() == about(own.columns[2].back() / 100));
  CHECK(table.columns[3].back() == about(88));
}

TEST_CASE("a snapshot comes out cell by cell with its places") {
  const Folder folder;
  folder.write("a.toml", tank);
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  REQUIRE(drive::wavy(folder, "export a.run --what snapshot --at '0 s' --units cm --to s.csv").code == 0);
  const wavy::Table table = wavy::read_csv(folder / "s.csv");
  REQUIRE(table.find("velocity_y") > 0);
  CHECK(table.find("velocity_z") < 0);
  CHECK(table.units[0] == "cm");
  CHECK(table.columns[0].size() == 100);
  const auto& y = table.columns[static_cast<std::size_t>(table.find("y"))];
  const auto& fraction = table.columns[static_cast<std::size_t>(table.find("fraction"))];
  for (std::size_t i = 0; i < y.size(); ++i)
    CHECK(fraction[i] == about(std::clamp((22 - (y[i] - 2)) / 4, 0.0, 1.0)).epsilon(1e-9).scale(1));
}

TEST_CASE("what cannot be exported is refused, and nothing is overwritten") {
  const Folder folder;
  folder.write("a.toml", tank);
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  const auto size = fs::file_size(folder / "a.run/history.csv");
  const auto refused = [&](const std::string& arguments, const std::string& words) {
    const auto outcome = drive::wavy(folder, "export " + arguments);
    CAPTURE(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
    CHECK_FALSE(fs::exists(folder / "x.csv"));
  };
  refused("a.run --units 'mm, parsnips' --to x.csv", "'parsnips' is not a unit");
  refused("a.run --units kg --to x.csv", "no column measures what 'kg' does");
  refused("a.run --at '0 s' --to x.csv", "a history is of all times");
  refused("a.run --what snapshot --at '9 s' --to x.csv", "the run reaches from 0 s");
  refused("a.run --what picture --to x.csv", "picture");
  refused("a.run --to x.txt", "does not end in .csv");
  refused("a.run --to a.run/history.csv", "the run's own history");
  refused("none.run --to x.csv", "none.run");
  CHECK(fs::file_size(folder / "a.run/history.csv") == size);
}
