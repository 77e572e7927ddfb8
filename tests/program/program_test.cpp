#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"
#include "results/run_folder.hpp"

using drive::Folder;
using drive::shell;
using drive::small_tank;
using nlohmann::json;

namespace {

/// Width and height in a PNG's header.
std::pair<unsigned, unsigned> png_size(const std::string& bytes) {
  REQUIRE(bytes.size() > 24);
  REQUIRE(bytes.substr(1, 3) == "PNG");
  const auto number = [&](std::size_t at) {
    unsigned value = 0;
    for (std::size_t i = 0; i < 4; ++i) value = value << 8U | static_cast<unsigned char>(bytes[at + i]);
    return value;
  };
  return {number(16), number(20)};
}

}  // namespace

TEST_CASE("a hushed run writes to the folder that was asked for, whatever its name") {
  const Folder folder;
  folder.write("tank.toml", small_tank("0.05 s"));
  for (const std::string name : {"a", "r_quarter_turn", "exactly_16_letters", "a folder with a rather long name"})
    for (const char* order : {"run tank.toml --into '{}' --quiet", "--quiet run tank.toml --into '{}'"}) {
      CAPTURE(name);
      const auto said = drive::wavy(folder, fmt::format(fmt::runtime(order), name));
      CHECK(said.code == 0);
      CHECK(said.out.empty());
      CHECK(std::filesystem::exists(folder.path() / name / "history.csv"));
      std::filesystem::remove_all(folder.path() / name);
    }
}

TEST_CASE("help is one page per command, and wrong words are answered with code 2") {
  const Folder folder;
  const auto help = drive::wavy(folder, "--help");
  CHECK(help.code == 0);
  for (const char* command :
       {"new", "check", "run", "resume", "measure", "compare", "draw", "explain", "fluids", "validate", "demo"}) {
    CHECK(help.says(command));
    const auto page = drive::wavy(folder, std::string(command) + " --help");
    CHECK(page.code == 0);
    CHECK(std::count(page.out.begin(), page.out.end(), '\n') < 40);
  }
  CHECK(drive::wavy(folder, "").code == 2);
  CHECK(drive::wavy(folder, "rnu a.toml").code == 2);
  CHECK(drive::wavy(folder, "run").code == 2);
  CHECK(drive::wavy(folder, "--version").says("wavy 0."));
}

TEST_CASE("new lists scenarios, writes one that check accepts, and never writes over a file") {
  const Folder folder;
  const auto list = drive::wavy(folder, "new");
  CHECK(list.code == 0);
  CHECK(list.says("tote_braking"));
  CHECK(drive::wavy(folder, "new tote_braking").code == 0);
  CHECK(folder.read("tote_braking.toml").find("# ") != std::string::npos);
  const auto again = drive::wavy(folder, "new tote_braking");
  CHECK(again.code == 2);
  CHECK(again.says("there already"));
  CHECK(drive::wavy(folder, "new tote_braking --force").code == 0);
  const auto wrong = drive::wavy(folder, "new tote_brakin other.toml");
  CHECK(wrong.code == 2);
  CHECK(wrong.says("did you mean 'tote_braking'"));
  const auto check = drive::wavy(folder, "check tote_braking.toml");
  CHECK(check.code == 0);
  CHECK(check.says("96 x 64 cells of 12.5 mm"));
  CHECK(check.says("480 L = 50 %"));
  CHECK(check.says("1.004 mm²/s"));
  CHECK(png_size(folder.read("tote_braking.check.png")) == std::pair{1280U, 800U});
}

TEST_CASE("a run leaves a complete run folder, and its summary and history agree") {
  const Folder folder;
  folder.write("tank.toml", small_tank());
  const auto run = drive::wavy(folder, "run tank.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  CHECK(run.out.find('\r') == std::string::npos);  // no progress line without a terminal
  CHECK(run.says("done at t = 200 ms"));
  const auto summary = json::parse(folder.read("tank.run/summary.json"));
  CHECK(summary["status"] == "done");
  CHECK(summary["ended_at_s"] == 0.2);
  CHECK(std::abs(summary["ledger"]["phases"][0]["drift"].get<double>()) < 1e-12);
  CHECK(summary["snapshots"].size() == 5);
  const ::wavy::Table history = ::wavy::read_csv(folder / "tank.run/history.csv");
  CHECK(history.names == std::vector<std::string>{"time", "wall", "water_volume", "air_volume", "greatest_speed"});
  CHECK(history.units == std::vector<std::string>{"s", "m", "m3", "m3", "m/s"});
  CHECK(history.columns[0].back() == 0.2);
  CHECK(history.columns[0].size() == summary["ledger"]["steps"].get<std::size_t>() + 1);
  CHECK(history.columns[1].back() > 0.21);  // the braking tank's liquid runs up the front wall
  CHECK(folder.read("tank.run/snapshots.pvd").find("timestep=\"0.2\"") != std::string::npos);
  CHECK(drive::wavy(folder, "check tank.run/case.toml --no-picture").code == 0);

  for (const char* what : {"fraction", "speed", "pressure", "dynamic_pressure", "history"}) {
    const auto draw = drive::wavy(folder, std::string("draw tank.run --what ") + what + " --to picture.png");
    INFO(draw.out);
    CHECK(draw.code == 0);
    CHECK(draw.out == "wrote picture.png\n");
    CHECK(png_size(folder.read("picture.png")) == std::pair{1280U, 800U});
  }
  CHECK(drive::wavy(folder, "draw tank.run --cells --at '0.1 s'").says("fraction-0.100s.png"));
  CHECK(drive::wavy(folder, "draw tank.run --what history --to h.svg").code == 0);
  CHECK(drive::wavy(folder, "draw tank.run --at '7 s'").code == 2);
  CHECK(drive::wavy(folder, "draw tank.run --at '7 m'").says("is a length; a time is needed"));
  CHECK(drive::wavy(folder, "draw tank.run --to picture.jpeg").code == 2);
  CHECK(drive::wavy(folder, "draw tank.toml").code == 2);

  SUBCASE("an earlier run is replaced only when asked, and only if it is a run") {
    const auto again = drive::wavy(folder, "run tank.toml");
    CHECK(again.code == 2);
    CHECK(again.says("--force"));
    CHECK(drive::wavy(folder, "run tank.toml --force").code == 0);
    std::filesystem::create_directory(folder / "mine");
    folder.write("mine/letter.txt", "precious");
    CHECK(drive::wavy(folder, "run tank.toml --into mine --force").code == 2);
    CHECK(folder.read("mine/letter.txt") == "precious");
  }
  SUBCASE("a damaged snapshot or summary is one clear error") {
    folder.write("tank.run/snapshots/00004.vtu", "nonsense");
    CHECK(drive::wavy(folder, "draw tank.run").says("cannot be read"));
    folder.write("tank.run/summary.json", "{");
    CHECK(drive::wavy(folder, "draw tank.run").code == 2);
  }
}

TEST_CASE("the same case gives the same history on one and on two threads") {
  const Folder folder;
  folder.write("tank.toml", small_tank());
  CHECK(drive::wavy(folder, "run tank.toml --threads 1 --into one.run").code == 0);
  CHECK(drive::wavy(folder, "run tank.toml --threads 2 --into two.run").code == 0);
  CHECK(folder.read("one.run/history.csv") == folder.read("two.run/history.csv"));
  CHECK(folder.read("one.run/snapshots/00004.vtu") == folder.read("two.run/snapshots/00004.vtu"));
}

TEST_CASE("a 3-D case runs and is drawn") {
  const Folder folder;
  std::string text = small_tank("0.1 s");
  text.replace(text.find("[\"0.4 m\", \"0.4 m\"]"), 18, "[\"0.4 m\", \"0.2 m\", \"0.4 m\"]");
  text.replace(text.find("[\"-1 m/s^2\", \"0\"]"), 17, "[\"-1 m/s^2\", \"0\", \"0\"]");
  text.replace(text.find("[\"0.39 m\"]"), 10, "[\"0.39 m\", \"0.1 m\"]");
  folder.write("tank.toml", text);
  CHECK(drive::wavy(folder, "run tank.toml").code == 0);
  CHECK(drive::wavy(folder, "draw tank.run").code == 0);
  CHECK(drive::wavy(folder, "draw tank.run --what speed").code == 0);
  CHECK(drive::wavy(folder, "check tank.toml").code == 0);
}

TEST_CASE("JSON comes alone on standard output") {
  const Folder folder;
  folder.write("tank.toml", small_tank());
  const auto check = json::parse(drive::wavy(folder, "check tank.toml --json --no-picture").out);
  CHECK(check["cells"] == 400);
  CHECK(check["phases"][0]["volume_m3"].get<double>() == about(0.08));
  const auto run = json::parse(drive::wavy(folder, "run tank.toml --json").out);
  CHECK(run["status"] == "done");
  const auto fluids = json::parse(drive::wavy(folder, "fluids water --json").out);
  CHECK(fluids[0]["density_kg_m3"].get<double>() == about(998.2).epsilon(1e-4));
}

TEST_CASE("Ctrl-C ends a run in order") {
  const Folder folder;
  folder.write("tank.toml", small_tank("100 s"));
  const auto run = shell(folder, "timeout -s INT 1 \\$WAVY run tank.toml; echo code \\$?");
  INFO(run.out);
  CHECK(run.says("interrupted at t ="));
  const auto summary = json::parse(folder.read("tank.run/summary.json"));
  CHECK(summary["status"] == "interrupted");
  const ::wavy::Table history = ::wavy::read_csv(folder / "tank.run/history.csv");
  CHECK(history.columns[0].back() == about(summary["ended_at_s"].get<double>()).epsilon(1e-9));
  CHECK(summary["snapshots"].back()["time_s"] == summary["ended_at_s"]);
  CHECK(drive::wavy(folder, "draw tank.run").code == 0);
}

TEST_CASE("wrong input, an unwritable folder and a full disk give one clear error each") {
  const Folder folder;
  folder.write("tank.toml", small_tank());
  const auto missing = drive::wavy(folder, "run nothing.toml");
  CHECK(missing.code == 2);
  CHECK(missing.says("nothing.toml"));
  folder.write("bad.toml", "wavy = 1\n[vessel]\nsize = [\"1 m\", \"2 s\"]\n");
  for (const char* command : {"run bad.toml", "check bad.toml"}) {
    const auto bad = drive::wavy(folder, command);
    CHECK(bad.code == 2);
    CHECK(bad.says("bad.toml:3:16: vessel.size: '2 s' is a time; a length is needed here"));
    CHECK(std::count(bad.out.begin(), bad.out.end(), '\n') == 2);
  }
  CHECK_FALSE(std::filesystem::exists(folder / "bad.run"));

  const auto unwritable = drive::wavy(folder, "run tank.toml --into tank.toml/below");
  CHECK(unwritable.code == 1);
  CHECK(unwritable.says("cannot be made"));
  // A limit on the size of files stands in for a full disk.
  const auto full = shell(folder, "trap '' XFSZ; ulimit -f 8; \\$WAVY run tank.toml --into full.run");
  INFO(full.out);
  CHECK(full.code == 1);
  CHECK(full.says("cannot be written"));
  CHECK(std::count(full.out.begin(), full.out.end(), '\n') <= 4);
}

TEST_CASE("explain finds keys, words and the line of a case, and suggests what may be meant") {
  const Folder folder;
  folder.write("tank.toml", small_tank());
  const auto key = drive::wavy(folder, "explain cell tank.toml");
  CHECK(key.code == 0);
  CHECK(key.says("grid.cell"));
  CHECK(key.says("tank.toml:6: cell"));
  CHECK(drive::wavy(folder, "explain viscosity tank.toml").says("taken from the fluid on lines 9 and 12"));
  CHECK(drive::wavy(folder, "explain ledger").says("What a run says about its own quality"));
  CHECK(drive::wavy(folder, "explain glide").says("vessel.walls.all"));
  CHECK(drive::wavy(folder, "explain snapshto").says("did you mean 'snapshot'"));
  CHECK(drive::wavy(folder, "explain snapshto").code == 2);
  CHECK(drive::wavy(folder, "explain").says("[[phase]]"));
}

TEST_CASE("validate lists its cases, writes a table, and says when a bar is missed") {
  const Folder folder;
  const auto list = drive::wavy(folder, "validate --list");
  CHECK(list.code == 0);
  CHECK(list.says("rising_bubble"));
  const auto good = drive::wavy(folder, "validate --only rayleigh_taylor --into v");
  INFO(good.out);
  CHECK(good.code == 0);
  CHECK(good.says("1 of 1 bars reached"));
  CHECK(folder.read("v/validation.csv").find("rayleigh_taylor,") != std::string::npos);
  const auto table = json::parse(folder.read("v/validation.json"));
  CHECK(table[0]["error"].get<double>() < table[0]["bar"].get<double>());
  CHECK(png_size(folder.read("v/rayleigh_taylor.png")) == std::pair{1280U, 800U});
  const auto wrong = drive::wavy(folder, "validate --only rising_bubbel");
  CHECK(wrong.code == 2);
  CHECK(wrong.says("did you mean 'rising_bubble'"));
}

TEST_CASE("fluids are listed at a temperature and searched") {
  const Folder folder;
  CHECK(drive::wavy(folder, "fluids").says("glycerol"));
  CHECK(drive::wavy(folder, "fluids water --at '60 degC'").says("983.2 kg/m³"));
  CHECK_FALSE(drive::wavy(folder, "fluids gas").says("ethanol"));
  CHECK(drive::wavy(folder, "fluids etanol").says("did you mean 'ethanol'"));
  CHECK(drive::wavy(folder, "fluids --at '60 m'").code == 2);
}

TEST_CASE("mangled case files get code 2 and a message with a place from the program itself") {
  const Folder folder;
  const std::string text = small_tank();
  unsigned seed = 1;
  for (int n = 0; n < 25; ++n) {
    seed = seed * 1103515245 + 12345;
    std::string broken = text;
    broken[(seed >> 8U) % broken.size()] = static_cast<char>(seed >> 20U);
    folder.write("mangled.toml", broken);
    const auto outcome = drive::wavy(folder, "check mangled.toml --no-picture");
    INFO(broken, "\n", outcome.out);
    CHECK((outcome.code == 0 || outcome.code == 2));
    if (outcome.code == 2) CHECK(outcome.says("mangled.toml:"));
  }
}
