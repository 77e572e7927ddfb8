// measure: distributions, pieces one by one, times and swings, against formulas.
#include <doctest/doctest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <numbers>

#include "about.hpp"
#include "base/table.hpp"
#include "case_texts.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;
using wavy::gauge_text;

namespace {

/// Text of a command line, through a shell within quotation marks.
std::string escaped(const std::string& text) { return drive::replaced(text, "\"", "\\\""); }

std::string tank(const std::string& size, const std::string& cell, const std::string& until, const std::string& every) {
  return "wavy = 1\nvessel.size = " + size + "\ngrid.cell = \"" + cell + "\"\nrun.until = \"" + until +
         "\"\nrun.snapshot_interval = \"" + every + "\"\n" + drive::fluids;
}

}  // namespace

TEST_CASE("along the floor of a box that speeds up steadily pressure falls by rho a, within half a per cent") {
  const Folder folder;
  // Inclined as it lies at rest in the box.
  folder.write("a.toml", tank("[\"1 m\", \"50 cm\"]", "2.5 cm", "0.4 s", "0.2 s") +
                             "[motion]\nacceleration = [\"2 m/s^2\", \"0 m/s^2\"]\n"
                             "[[fill]]\nphase = \"water\"\nshape = \"formula\"\n"
                             "where = \"0.25 m - y - (x - 0.5 m) * 2 / 9.80665\"\n"
                             "[[gauge]]\nname = \"floor\"\nmeasures = \"mean\"\nquantity = \"pressure\"\nwall = "
                             "\"bottom\"\n");
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  for (const std::string& given :
       {std::string("--distribution floor"),
        "--distribution line " +
            escaped("--gauge 'name = \"line\", measures = \"least\", quantity = \"pressure\", from "
                    "= [\"0 m\", \"0 m\"], to = [\"1 m\", \"0 m\"]'")}) {
    CAPTURE(given);
    const auto outcome = drive::wavy(folder, "measure a.run " + given + " --table t.csv --chart c.png --map m.png");
    CAPTURE(outcome.out);
    REQUIRE(outcome.code == 0);
    for (const char* words : {"mean of places", "400 ms", "wrote t.csv", "wrote c.png", "wrote m.png"})
      CHECK(outcome.says(words));
    const wavy::Table table = wavy::read_csv(folder / "t.csv");
    const auto& x = column(table, "x");
    CHECK(column(table, "distance").back() == about(x.back()).epsilon(1e-9));
    for (const char* time : {"pressure at 0.2 s", "pressure at 0.4 s"}) {
      const auto& p = column(table, time);
      const double density = 998;  // of drive::fluids
      CHECK((p.front() - p.back()) / (x.back() - x.front()) == about(density * 2).epsilon(5e-3));
    }
    const json all = json::parse(drive::wavy(folder, "measure a.run --json " + given).out);
    CHECK(all["distribution"]["values"].size() == 3);
    CHECK(all["distribution"]["unit"] == "Pa");
  }
}

TEST_CASE("three drops are followed one by one, their volumes add up, and when they are one is told") {
  const Folder folder;
  std::string fills;
  for (const char* place : {"\"3 cm\", \"3 cm\"", "\"9 cm\", \"4 cm\"", "\"6 cm\", \"7 cm\""})
    fills +=
        "[[fill]]\nphase = \"air\"\nshape = \"circle\"\ncentre = [" + std::string(place) + "]\ndiameter = \"2 cm\"\n";
  folder.write("a.toml", tank("[\"12 cm\", \"14 cm\"]", "2 mm", "0.6 s", "0.1 s") +
                             "[[pair]]\nbetween = [\"water\", \"air\"]\nsurface_tension = \"72 mN/m\"\n"
                             "[motion]\ngravity = [\"0 m/s^2\", \"-0.5 m/s^2\"]\n"
                             "[[fill]]\nphase = \"water\"\nlevel = \"14 cm\"\n" +
                             fills +
                             "[[gauge]]\nname = \"bubbles\"\nmeasures = \"pieces\"\nphase = \"air\"\n"
                             "[[gauge]]\nname = \"area\"\nmeasures = \"interface_area\"\n"
                             "[[gauge]]\nname = \"mean_size\"\nmeasures = \"formula\"\nformula = \"1 L / bubbles\"\n");
  const auto ran = drive::wavy(folder, "run a.toml");
  CAPTURE(ran.out);
  REQUIRE(ran.code == 0);
  const auto outcome =
      drive::wavy(folder, "measure a.run --pieces air --table p.csv --when 'bubbles < 2' --when 'area > 1 cm^2'");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  for (const char* words : {"piece at 600 ms", "diameter", "bubbles < 2", "area > 1 cm^2", "to the end"})
    CHECK(outcome.says(words));
  long left_out = 0;  // those smaller than a cell have no places
  const wavy::Table table = wavy::read_csv(folder / "p.csv", &left_out);
  const auto& time = column(table, "time");
  const auto& number = column(table, "number");
  const auto& volume = column(table, "volume");
  const auto& copies = column(table, "copies");
  const double disc = std::numbers::pi * 1e-4;  // of each bubble, a metre thick
  std::vector<double> sum(7, 0.0);
  double lowest = 1;
  for (std::size_t i = 0; i < time.size(); ++i) {
    const auto snapshot = static_cast<std::size_t>(std::lround(time[i] / 0.1));
    sum.at(snapshot) += volume[i] * copies[i];
    if (snapshot == 0) {
      CHECK(volume[i] == about(disc).epsilon(1e-2));
      CHECK(column(table, "diameter")[i] == about(0.02).epsilon(5e-3));
      lowest = std::min(lowest, column(table, "y")[i]);
    }
    if (snapshot == 3 && number[i] > 0) CHECK(column(table, "velocity_y")[i] > 0.02);
  }
  CHECK(lowest == about(0.03).epsilon(1e-3));
  for (const double all : sum) CHECK(all == about(sum[0]).epsilon(1e-9));
  const wavy::Table history = wavy::read_csv(folder / "a.run/history.csv");
  CHECK(sum[0] == about(column(history, "air_volume").front()).epsilon(1e-9));  // of ten digits
  CHECK(column(history, "bubbles").front() == 3);
  CHECK(history.units[static_cast<std::size_t>(history.find("mean_size"))] == "m3");
  CHECK(column(history, "mean_size").front() == about(1e-3 / 3));
  CHECK(column(history, "area").front() == about(3 * std::numbers::pi * 0.02).epsilon(0.015));
}

TEST_CASE("the period of a sloshing tank comes out of its swings within half a per cent") {
  const Folder folder;
  // omega^2 = g k tanh(k h); the air above would lengthen it by 0.12 %.
  folder.write("a.toml", drive::replaced(tank("[\"1 m\", \"80 cm\"]", "2 cm", "6 s", "3 s"), "grid.cell", "grid.cell") +
                             "[[fill]]\nphase = \"water\"\nshape = \"formula\"\n"
                             "where = \"0.4 m - y + 0.01 m * cos(pi * x / 1 m)\"\n"
                             "[[gauge]]\nname = \"left_level\"\nmeasures = \"level\"\nat = [\"1 cm\"]\n");
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  const auto outcome = drive::wavy(folder, "measure a.run --swings left_level --chart c.svg");
  CHECK(outcome.code == 0);
  CHECK(outcome.says("swings: 400"));
  CHECK(outcome.says("wrote c.svg"));
  const json all = json::parse(drive::wavy(folder, "measure a.run --json --swings left_level").out);
  const double k = std::numbers::pi;
  const double period = 2 * std::numbers::pi / std::sqrt(9.80665 * k * std::tanh(k * 0.4));
  CHECK(all["swings"][0]["period_s"].get<double>() == about(period).epsilon(5e-3));
  CHECK(all["swings"][0]["amplitude"].get<double>() == about(0.01).epsilon(0.1));
  CHECK(all["gauges"][0]["settled"]["verdict"] == "swinging");
}

TEST_CASE("a condition is timed between readings, and one that never holds is said to be so") {
  const Folder folder;
  folder.write("a.toml", tank("[\"20 cm\", \"40 cm\"]", "2 cm", "2 s", "1 s") +
                             "[[fill]]\nphase = \"water\"\nlevel = \"10 cm\"\n"
                             "[[opening]]\nname = \"feed\"\nside = \"left\"\ncentre = [\"6 cm\"]\nsize = [\"4 cm\"]\n"
                             "volume_flow = \"20 L/s\"\nphase = \"water\"\n"
                             "[[opening]]\nname = \"vent\"\nside = \"top\"\npressure = \"0 Pa\"\nphase = \"air\"\n");
  const auto ran = drive::wavy(folder, "run a.toml");
  CAPTURE(ran.out);
  REQUIRE(ran.code == 0);
  // From 20 L to 30 L at 20 L/s: half a second.
  const json all = json::parse(
      drive::wavy(folder, "measure a.run --json --when 'water_volume > 30 L' --when 'water_volume >= 1 m^3'").out);
  CHECK(all["when"][0]["first_s"].get<double>() == about(0.5).epsilon(2e-3));
  CHECK(all["when"][0]["holds_for_s"].get<double>() == about(1.5).epsilon(2e-3));
  CHECK(all["when"][0]["times"] == 1);
  CHECK(all["when"][1]["times"] == 0);
  CHECK(drive::wavy(folder, "measure a.run --when 'water_volume >= 1 m^3'").says("never"));
}

TEST_CASE("a plate thinner than a cell and the walls of a channel take all that the pull gives") {
  // Oil in an endless channel, settled.
  const auto lost = [](const std::string& cell, const std::string& plate_to) {
    const Folder folder;
    folder.write("a.toml",
                 "wavy = 1\n[vessel]\nsize = [\"40 cm\", \"20 cm\"]\nrepeats = \"x\"\n[grid]\ncell = \"" + cell +
                     "\"\n[run]\nuntil = \"4 s\"\n"
                     "[[phase]]\nname = \"oil\"\ndensity = \"900 kg/m^3\"\nviscosity = \"10 Pa.s\"\n"
                     "[[phase]]\nname = \"air\"\nfluid = \"air\"\n[[fill]]\nphase = \"oil\"\nlevel = \"20 cm\"\n"
                     "[motion]\ngravity = [\"1 m/s^2\", \"0 m/s^2\"]\n"
                     "[[insert]]\nname = \"plate\"\nlower = [\"20 cm\", \"0 cm\"]\nupper = [\"" +
                     plate_to + "\", \"10 cm\"]\n" +
                     gauge_text("walls", "force", "wall = \"vessel\"\nalong = \"x\"\n") +
                     gauge_text("plate", "force", "wall = \"plate\"\nalong = \"x\"\n") +
                     gauge_text("oil", "volume", "phase = \"oil\"\n"));
    const auto outcome = drive::wavy(folder, "run a.toml --json");
    CAPTURE(outcome.out);
    REQUIRE(outcome.code == 0);
    const wavy::Table history = wavy::read_csv(folder / "a.run/history.csv");
    // Steps that the end cuts short tell less.
    const std::size_t row = column(history, "plate").size() - 3;
    const double pull = 900 * column(history, "oil")[row];
    return 1 - (column(history, "walls")[row] + column(history, "plate")[row]) / pull;
  };
  const double coarse = lost("16 mm", "20.2 cm");
  const double fine = lost("8 mm", "20.2 cm");
  CHECK(std::abs(fine) < 0.013);
  CHECK(std::abs(fine) < 0.65 * std::abs(coarse));
  // As a wall that fills cells does.
  CHECK(std::abs(lost("8 mm", "21.6 cm")) < 0.013);
}
