// Agitators at the prompt: what check says of them, their gauges, and what cannot be.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <numbers>

#include "about.hpp"
#include "base/history_figures.hpp"
#include "base/table.hpp"
#include "case_texts.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using wavy::gauge_text;

namespace {

constexpr double pi = std::numbers::pi;

/// A small kettle of water and air with a paddle, quick to compute.
const std::string kettle = open_kettle + drive::fluids + paddle("0.2 s", "120 rev/min") + R"case([[fill]]
phase = "water"
level = "16 cm"
)case" + gauge_text("torque", "torque") +
                           gauge_text("on_paddle", "torque", "agitator = \"paddle\"\n") +
                           gauge_text("on_shaft", "torque", "agitator = \"shaft\"\n") +
                           gauge_text("power", "shaft_power") + gauge_text("power_number", "power_number") +
                           gauge_text("pumping_number", "pumping_number") + R"case([run]
until = "0.4 s"
snapshot_interval = "0.1 s"
)case";

/// A wheel in a section: an insert that turns.
const std::string wheel = R"(wavy = 1
vessel.size = ["0.4 m", "0.3 m"]
grid.cell = "1 cm"
)" + drive::fluids + R"([[agitator]]
speed = "30 rev/min"
at = ["0.2 m", "0.14 m"]
[[insert]]
name = "beam"
lower = ["0.1 m", "0.13 m"]
upper = ["0.3 m", "0.15 m"]
turns_with = "agitator 1"
[[fill]]
phase = "water"
level = "15 cm"
[[gauge]]
name = "torque"
measures = "torque"
[run]
until = "0.5 s"
snapshot_interval = "0.25 s"
)";

/// The same vessel full of water, with a turbine and air from a ring under it, in the Eulerian model.
const std::string aerated = R"(wavy = 1
model = "eulerian"
[vessel]
shape = "cylinder"
diameter = "20 cm"
length = "24 cm"
[grid]
cell = "12.5 mm"
)" + drive::fluids + R"(form = "bubbles"
diameter = "3 mm"
[[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
[[agitator]]
name = "stirrer"
speed = "240 rev/min"
[[impeller]]
name = "turbine"
kind = "disc_turbine"
diameter = "10 cm"
clearance = "8 cm"
blade_thickness = "2 cm"
[[opening]]
name = "sparger"
spread = "ring"
centre = ["10 cm", "10 cm", "3 cm"]
diameter = "8 cm"
tube = "3 cm"
volume_flow = "6 L/min"
phase = "air"
[[opening]]
name = "top"
side = "top"
lets_out = "gas"
[[gauge]]
name = "torque"
measures = "torque"
[[gauge]]
name = "power_number"
measures = "power_number"
[[gauge]]
name = "pumping_number"
measures = "pumping_number"
[run]
until = "0.4 s"
snapshot_interval = "0.1 s"
)";

/// The same with blades that stand still in a frozen frame; `more`: keys of the agitator.
std::string frozen(const std::string& text, const std::string& more = "") {
  // There has to be room for a frame's edge.
  const std::string fine = replaced_once(text, "cell = \"12.5 mm\"", "cell = \"10 mm\"");
  return replaced_once(fine, "name = \"stirrer\"\n", "name = \"stirrer\"\nmotion = \"frozen\"\n" + more);
}

/// With blades of usual thickness, which are thinner than cells.
std::string thin(const std::string& text) { return replaced_once(text, "blade_thickness = \"2 cm\"\n", ""); }

std::string replaced_piece(const std::string& old_text, const std::string& new_text) {
  return replaced_once(kettle, old_text, new_text);
}

}  // namespace

TEST_CASE("check says how fast an impeller turns in all three units, its numbers and what it is made of") {
  const Folder folder;
  folder.write("kettle.toml", kettle);
  const auto said = drive::wavy(folder, "check kettle.toml --no-picture");
  INFO(said.out);
  CHECK(said.code == 0);
  CHECK(said.says("120 rev/min (2 Hz, 12.57 rad/s)"));
  CHECK(said.says("tips 0.754 m/s"));
  CHECK(said.says("20 mm of liquid over it") == false);
  CHECK(said.says("68 mm of liquid over it"));
  CHECK(said.says("which counts as fluid"));
  CHECK(said.says("2.87e+04"));
  CHECK(said.says("a well of "));
  CHECK(said.says("Nagata"));
  CHECK(said.says("only 10 cells across"));
  CHECK(said.says("turbulence"));
  // N D^2 and its power by the same formula, with the blade's thickness told where the grid changes it.
  folder.write("thin.toml", replaced_piece("blade_thickness = \"2 cm\"\n", ""));
  CHECK(drive::wavy(folder, "check thin.toml --no-picture").says("(2.4 mm) are thinner than 1.5 cells"));
  folder.write("sheets.toml", thin(frozen(kettle)));
  const auto sheets = drive::wavy(folder, "check sheets.toml --no-picture");
  INFO(sheets.out);
  CHECK(sheets.says("they stand between cells as sheets"));
  CHECK_FALSE(sheets.says("as thick as they are computed"));
}

TEST_CASE("a kettle is stirred: torque of the parts adds up, power is torque times speed, water stays") {
  const Folder folder;
  folder.write("kettle.toml", kettle);
  const auto said = drive::wavy(folder, "run kettle.toml");
  INFO(said.out);
  REQUIRE(said.code == 0);
  const wavy::Table history = wavy::read_csv(folder.path() / "kettle.run/history.csv");
  const auto& time = column(history, "time");
  double greatest = 0;
  for (std::size_t i = 1; i < time.size(); ++i) {
    const double torque = column(history, "torque")[i];
    CHECK(torque == about(column(history, "on_paddle")[i] + column(history, "on_shaft")[i]).epsilon(1e-9).scale(1));
    const double now = std::min(time[i] / 0.2, 1.0) * 120 * 2 * 3.14159265358979 / 60;
    CHECK(column(history, "power")[i] == about(torque * now).epsilon(1e-6).scale(1));
    greatest = std::max(greatest, torque);
  }
  const double N = 2;
  const double omega = 4 * 3.14159265358979;
  CHECK(
      column(history, "power_number").back() ==
      about(column(history, "on_paddle").back() * omega / (998.2 * std::pow(N, 3) * std::pow(0.12, 5))).epsilon(1e-3));
  CHECK(greatest > 0);
  CHECK(column(history, "power_number").back() > 0.3);
  CHECK(column(history, "power_number").back() < 10);
  CHECK(column(history, "pumping_number").back() > 0.02);
  CHECK(column(history, "pumping_number").back() < 2);
  const auto& water = column(history, "water_volume");
  CHECK(water.back() == about(water.front()).epsilon(1e-12));

  // Snapshots tell the same as the run did, and it is drawn where it stands.
  folder.write("more.toml",
               "[[gauge]]\nname = \"torque_again\"\nmeasures = \"torque\"\n"
               "[[gauge]]\nname = \"pumping_again\"\nmeasures = \"pumping_number\"\n");
  const auto measured = drive::wavy(folder, "measure kettle.run --gauges more.toml --table again.csv");
  INFO(measured.out);
  REQUIRE(measured.code == 0);
  const wavy::Table again = wavy::read_csv(folder.path() / "again.csv");
  CHECK(column(again, "torque_again").back() == about(column(history, "torque").back()).epsilon(1e-9));
  CHECK(column(again, "pumping_again").back() == about(column(history, "pumping_number").back()).epsilon(1e-9));
  CHECK(drive::wavy(folder, "draw kettle.run --what speed --section 'z = 8 cm' --to plan.png").code == 0);
  CHECK(std::filesystem::file_size(folder.path() / "plan.png") > 5000);
}

TEST_CASE("a run that was stopped goes on with its agitators to the last bit, in every model and frame") {
  const std::string eddies = "[turbulence]\nlaw = \"k_omega_sst\"\n";
  for (const std::string& text : {kettle, kettle + eddies, frozen(kettle) + eddies, thin(frozen(kettle)) + eddies,
                                  aerated + eddies, frozen(aerated) + eddies, thin(frozen(aerated)) + eddies}) {
    const Folder folder;
    folder.write("whole.toml", replaced_once(text, "until = \"0.4 s\"", "until = \"0.15 s\""));
    REQUIRE(drive::wavy(folder, "run whole.toml --threads 1").code == 0);
    folder.write("half.toml", replaced_once(text, "until = \"0.4 s\"", "until = \"0.1 s\""));
    REQUIRE(drive::wavy(folder, "run half.toml").code == 0);
    const auto on = drive::wavy(folder, "resume half.run --until '0.15 s' --threads 2");
    INFO(on.out);
    REQUIRE(on.code == 0);
    CHECK(drive::shell(folder, "cmp whole.run/history.csv half.run/history.csv").code == 0);
  }
}

TEST_CASE("a liquid alone is stirred too, and asks for much the same torque as under air") {
  const Folder folder;
  folder.write("both.toml", kettle);
  const std::string alone =
      replaced_once(replaced_once(kettle, "[[phase]]\nname = \"air\"\nfluid = \"air\"\n", ""),
                    "[[opening]]\nname = \"open_top\"\nside = \"top\"\npressure = \"0 Pa\"\n", "");
  folder.write("alone.toml", alone);
  REQUIRE(drive::wavy(folder, "run both.toml").code == 0);
  const auto said = drive::wavy(folder, "run alone.toml");
  INFO(said.out);
  REQUIRE(said.code == 0);
  const wavy::Table both = wavy::read_csv(folder.path() / "both.run/history.csv");
  const wavy::Table one = wavy::read_csv(folder.path() / "alone.run/history.csv");
  const auto mean = [](const wavy::Table& table) {
    return wavy::history_figures(column(table, "time"), column(table, "torque"), 0.2, 0.4).value().mean;
  };
  CHECK(mean(one) == about(mean(both)).epsilon(0.05));
}

TEST_CASE("with one word more a kettle is seen from the frame of its stirrer: check says where, and it stays there") {
  const Folder folder;
  folder.write("kettle.toml", frozen(kettle, "position = \"30 deg\"\n"));
  const auto said = drive::wavy(folder, "check kettle.toml --no-picture");
  INFO(said.out);
  CHECK(said.code == 0);
  // Half-way between the paddle's 12 cm and what of the vessel's 20 cm was found to be free, from 4 cm below it to 4 cm
  // above.
  CHECK(said.says("'stirrer' stands still, seen from a frame that turns with it: 15"));
  CHECK(said.says("from 26 mm to 134 mm"));
  folder.write("own.toml", frozen(kettle, "frame_diameter = \"17 cm\"\nframe_from = \"3 cm\"\nframe_to = \"13 cm\"\n"));
  CHECK(drive::wavy(folder, "check own.toml --no-picture").says("170 mm across from 30 mm to 130 mm"));
  REQUIRE(drive::wavy(folder, "run kettle.toml").code == 0);
  const wavy::Table history = wavy::read_csv(folder.path() / "kettle.run/history.csv");
  CHECK(column(history, "torque").back() > 0);
  CHECK(column(history, "water_volume").back() == about(column(history, "water_volume").front()).epsilon(1e-12));
  const auto drawn =
      drive::wavy(folder, "draw kettle.run --what speed --section 'z = 8 cm' --at '0.4 s' --to plan.png");
  INFO(drawn.out);
  CHECK(drawn.code == 0);
}

TEST_CASE("gas and turbine: the flow number and where it floods are told; air rises past blades and leaves") {
  const Folder folder;
  folder.write("vat.toml", frozen(aerated));
  const auto check = drive::wavy(folder, "check vat.toml --no-picture");
  INFO(check.out);
  CHECK(check.code == 0);
  // 1e-4 m3/s / (4 Hz (0.1 m)^3); 30 (16 0.1/g) 0.5^3.5.
  CHECK(check.says("flow number 0.025 at 'turbine', flooded from 0.433 on"));
  CHECK(check.says("160 mm of liquid over it") == false);
  CHECK(check.says("mm of liquid over it at the start"));
  const auto said = drive::wavy(folder, "run vat.toml");
  INFO(said.out);
  REQUIRE(said.code == 0);
  const wavy::Table history = wavy::read_csv(folder.path() / "vat.run/history.csv");
  CHECK(column(history, "power_number").back() > 0.5);
  CHECK(column(history, "power_number").back() < 10);
  CHECK(column(history, "pumping_number").back() > 0.02);
  CHECK(column(history, "air_volume").back() == about(0.4 * 1e-4).epsilon(0.02));
  // Too much gas for so slow a turbine.
  folder.write("flooded.toml", replaced_once(aerated, "6 L/min", "120 L/min"));
  const auto flooded = drive::wavy(folder, "check flooded.toml --no-picture");
  CHECK(flooded.says("flow number 0.5"));
  CHECK(flooded.says("power with gas") == false);
}

TEST_CASE("in a section an insert turns with an agitator") {
  const Folder folder;
  folder.write("wheel.toml", wheel);
  const auto said = drive::wavy(folder, "run wheel.toml");
  INFO(said.out);
  REQUIRE(said.code == 0);
  const wavy::Table history = wavy::read_csv(folder.path() / "wheel.run/history.csv");
  CHECK(column(history, "water_volume").back() == about(column(history, "water_volume").front()).epsilon(1e-12));
  CHECK(column(history, "torque").back() > 0);
}

TEST_CASE("the case as run is read again, with what turns in it, and gives the same history") {
  std::string two = frozen(kettle, "frame_from = \"3 cm\"\nframe_to = \"18 cm\"\n") +
                    "[[impeller]]\nname = \"other\"\ndiameter = \"10 cm\"\nclearance = \"14 cm\"\n";
  for (const std::string figure : {"measures = \"power_number\"\n", "measures = \"pumping_number\"\n"})
    two = replaced_once(two, figure, figure + "agitator = \"paddle\"\n");
  for (const std::string& text : {wheel, two}) {
    const Folder folder;
    folder.write("case.toml",
                 replaced_once(text, text == wheel ? "until = \"0.5 s\"" : "until = \"0.4 s\"", "until = \"0.02 s\""));
    const auto first = drive::wavy(folder, "run case.toml");
    INFO(first.out);
    REQUIRE(first.code == 0);
    const auto again = drive::wavy(folder, "run case.run/case.toml --into again.run");
    INFO(again.out);
    CHECK(again.code == 0);
    CHECK(folder.read("case.run/history.csv") == folder.read("again.run/history.csv"));
  }
}

TEST_CASE("baffles, a coil and a draft tube stand where their measures say, and refuse what has no room") {
  const std::string vat =
      "wavy = 1\n[vessel]\nshape = \"cylinder\"\ndiameter = \"20 cm\"\nlength = \"20 cm\"\n[grid]\ncell = \"5 "
      "mm\"\n" +
      drive::fluids + "[[fill]]\nphase = \"water\"\nlevel = \"10 cm\"\n[run]\nuntil = \"1 ms\"\n";
  const Folder folder;
  const auto room = [&](const std::string& insert) {
    folder.write("case.toml", vat + "[[insert]]\nname = \"part\"\n" + insert);
    const auto told = drive::wavy(folder, "check case.toml --no-picture --json");
    CAPTURE(told.out);
    REQUIRE(told.code == 0);
    return nlohmann::json::parse(told.out)["vessel_volume_m3"].get<double>();
  };
  const double empty = room("shape = \"sphere\"\ncentre = [\"10 cm\", \"10 cm\", \"10 cm\"]\ndiameter = \"0.1 mm\"\n");
  // Four of 2 cm by 1 cm along the whole height, whose outer ends follow the wall.
  const double sliver = 0.1 - std::sqrt(0.1 * 0.1 - 0.005 * 0.005);
  CHECK(empty - room("shape = \"baffles\"\nthickness = \"1 cm\"\n") ==
        about(4 * 0.2 * 0.01 * (0.02 - 2 * sliver / 3)).epsilon(0.01));
  CHECK(empty - room("shape = \"baffles\"\nthickness = \"1 cm\"\ngap = \"1 cm\"\ncount = 3\nwidth = \"3 cm\"\nheight "
                     "= \"10 cm\"\n") ==
        about(3 * 0.03 * 0.01 * 0.1).epsilon(0.01));
  CHECK(
      empty - room("shape = \"coil\"\ncentre = [\"10 cm\", \"10 cm\", \"5 cm\"]\ndiameter = \"12 cm\"\ntube = \"15 "
                   "mm\"\nturns = 3\nrise = \"3 cm\"\n") ==
      about(3 * std::hypot(pi * 0.12, 0.03) * pi * 0.0075 * 0.0075 + 4.0 / 3 * pi * std::pow(0.0075, 3)).epsilon(0.03));
  CHECK(empty - room("shape = \"sleeve\"\nfrom = [\"10 cm\", \"10 cm\", \"5 cm\"]\nto = [\"10 cm\", \"10 cm\", \"15 "
                     "cm\"]\ndiameter = \"8 cm\"\nthickness = \"1 cm\"\n") ==
        about(pi * (0.05 * 0.05 - 0.04 * 0.04) * 0.1).epsilon(0.02));
  const auto refuses = [&](const std::string& insert, const std::string& words) {
    drive::refuses(vat + "[[insert]]\n" + insert, words);
  };
  refuses("shape = \"baffles\"\nwidth = \"10 cm\"\n", "the baffles would reach to the vessel's axis");
  refuses("shape = \"baffles\"\ncount = 24\nthickness = \"3 cm\"\n", "there is no room for so many");
  refuses("shape = \"baffles\"\ncount = 0\n", "count");
  refuses("shape = \"baffles\"\nturns = 2\n", "a set of baffles has no 'turns'");
  refuses("shape = \"coil\"\ncentre = [\"10 cm\", \"10 cm\", \"5 cm\"]\ndiameter = \"12 cm\"\ntube = \"15 cm\"\n",
          "the tube is thicker than the coil is wide");
  refuses(
      "shape = \"coil\"\ncentre = [\"10 cm\", \"10 cm\", \"5 cm\"]\ndiameter = \"12 cm\"\ntube = \"3 cm\"\nrise = "
      "\"2 cm\"\n",
      "turns of the coil would lie in each other");
  refuses(
      "shape = \"sleeve\"\nfrom = [\"10 cm\", \"10 cm\", \"5 cm\"]\nto = [\"10 cm\", \"10 cm\", \"5 "
      "cm\"]\ndiameter = \"8 cm\"\nthickness = \"1 cm\"\n",
      "are the same point");
  drive::refuses(kettle + "[[insert]]\nname = \"plates\"\nshape = \"baffles\"\nwidth = \"45 mm\"\n",
                 "'paddle' would turn through 'plates'");
  drive::refuses(drive::small_tank() + "[[insert]]\nshape = \"baffles\"\n", "belongs in a 3-D vessel");
}

TEST_CASE("what cannot turn is refused in words") {
  using drive::refuses;
  refuses(replaced_piece("diameter = \"12 cm\"", "diameter = \"21 cm\""), "'paddle' reaches through the wall");
  refuses(replaced_piece("clearance = \"8 cm\"", "clearance = \"1 cm\""), "would reach from");
  refuses(replaced_piece("clearance = \"8 cm\"\n", ""), "clearance");
  refuses(kettle +
              "[[insert]]\nname = \"baffle\"\nlower = [\"5 cm\", \"9 cm\", \"0 m\"]\n"
              "upper = [\"7 cm\", \"12 cm\", \"20 cm\"]\n",
          "'paddle' would turn through 'baffle'");
  refuses(kettle +
              "[[insert]]\nname = \"plate\"\nlower = [\"5 cm\", \"9.9 cm\", \"0 m\"]\n"
              "upper = [\"7 cm\", \"10.1 cm\", \"20 cm\"]\n",
          "'paddle' would turn through 'plate'");
  refuses(replaced_piece("length = \"24 cm\"", "length = \"24 cm\"\nsymmetry = \"half\""),
          "write vessel.symmetry = \"half_turn\"");
  refuses(replaced_piece("speed = \"ramp(t, 0 s, 0.2 s, 0 rev/min, 120 rev/min)\"\n", ""), "speed");
  refuses(replaced_piece("speed = \"ramp(t, 0 s, 0.2 s, 0 rev/min, 120 rev/min)\"", "speed = \"120\""), "speed");
  refuses(replaced_piece("speed = \"ramp(t, 0 s, 0.2 s, 0 rev/min, 120 rev/min)\"", "speed = \"x * 10 rad/s / (1 m)\""),
          "time t alone");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nturns_with = \"stirer\"\n"),
          "did you mean 'stirrer'?");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"stirrer\"\n"), "is called 'stirrer' already");
  refuses(frozen(kettle) +
              "[[insert]]\nname = \"plate\"\nlower = [\"17.2 cm\", \"9.9 cm\", \"0 m\"]\n"
              "upper = [\"19 cm\", \"10.1 cm\", \"20 cm\"]\n",
          "the frozen frame round 'paddle' touches 'plate'");
  const std::string pair = R"(wavy = 1
vessel.size = ["0.6 m", "0.3 m"]
grid.cell = "1 cm"
)" + drive::fluids + R"([[agitator]]
name = "left"
speed = "30 rev/min"
at = ["0.15 m", "0.15 m"]
motion = "frozen"
frame_diameter = "26 cm"
[[agitator]]
name = "right"
speed = "-30 rev/min"
at = ["0.36 m", "0.15 m"]
motion = "MOTION"
[[insert]]
name = "one"
shape = "circle"
centre = ["0.15 m", "0.15 m"]
diameter = "6 cm"
turns_with = "left"
[[insert]]
name = "two"
shape = "circle"
centre = ["0.36 m", "0.15 m"]
diameter = "WIDTH"
turns_with = "right"
[run]
until = "0.1 s"
)";
  const auto both = [&](const char* motion, const char* width) {
    return replaced_once(replaced_once(pair, "MOTION", motion), "WIDTH", width);
  };
  refuses(both("frozen", "6 cm"), "the frozen frame of 'left' reaches that of 'right'");
  refuses(both("in_time", "22 cm"), "the frozen frame of 'left' reaches 'two'");
  {
    const Folder apart;
    apart.write("pair.toml", both("in_time", "6 cm"));
    CHECK(drive::wavy(apart, "check pair.toml --no-picture").says("'left' stands still"));
  }
  refuses(frozen(kettle, "frame_diameter = \"13 cm\"\n"), "less than 1.5 cells off");
  refuses(frozen(kettle, "frame_diameter = \"21 cm\"\n"), "touches the wall of the vessel");
  // No room for the frame's edge, however small it is chosen.
  refuses(replaced_once(frozen(kettle, "frame_diameter = \"16 cm\"\n"), "diameter = \"12 cm\"", "diameter = \"13 cm\""),
          "leave 3.5 cells");
  refuses(frozen(kettle, "frame_from = \"8 cm\"\n"), "out of the frame");
  refuses(frozen(kettle, "frame_to = \"8 cm\"\n"), "out of the frame");
  refuses(replaced_piece("name = \"stirrer\"\n", "name = \"stirrer\"\nframe_to = \"18 cm\"\n"),
          "belongs to motion = \"frozen\"");
  refuses(replaced_piece("name = \"stirrer\"\n", "name = \"stirrer\"\nmotion = \"still\"\n"), "in_time");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nkind = \"propeller\"\n"), "propeller");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nrise = \"3 cm\"\n"), "has no 'rise'");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nblade_angle = \"0 deg\"\n"), "5 deg to 175 deg");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nblade_height = \"20 cm\"\n"), "room for");
  refuses(replaced_piece("agitator = \"paddle\"", "agitator = \"padle\""), "did you mean 'paddle'?");
  refuses(replaced_piece("name = \"stirrer\"\n", "name = \"stirrer\"\nat = [\"25 cm\", \"10 cm\"]\n"), "outside");
  refuses(replaced_piece("name = \"stirrer\"\n", "name = \"stirrer\"\nshaft_from = \"23 cm\"\nshaft_to = \"10 cm\"\n"),
          "does not lie between");
  refuses(kettle + "[[agitator]]\nname = \"second\"\nspeed = \"10 rev/min\"\n", "which of the 2 agitators");
  refuses(kettle +
              "[[agitator]]\nname = \"second\"\nspeed = \"10 rev/min\"\nat = [\"14 cm\", \"10 cm\"]\n"
              "[[impeller]]\nname = \"other\"\ndiameter = \"6 cm\"\nclearance = \"9 cm\"\nturns_with = \"second\"\n",
          "which of the 2 agitators");
  refuses(replaced_piece("name = \"paddle\"\n", "name = \"paddle\"\nturns_with = \"stirrer\"\n") +
              "[[agitator]]\nname = \"second\"\nspeed = \"10 rev/min\"\nat = [\"14 cm\", \"10 cm\"]\n"
              "[[impeller]]\nname = \"other\"\ndiameter = \"6 cm\"\nclearance = \"9 cm\"\nturns_with = \"second\"\n",
          "sweep through each other");
  refuses(replaced_once(kettle, "name = \"on_shaft\"\nmeasures = \"torque\"\nagitator = \"shaft\"",
                        "name = \"on_shaft\"\nmeasures = \"power_number\"\nagitator = \"shaft\""),
          "no impeller is called 'shaft'");
  refuses(replaced_once(wheel, "turns_with = \"agitator 1\"", ""), "nothing turns with 'agitator 1'");
  refuses(replaced_once(wheel, "upper = [\"0.3 m\", \"0.15 m\"]", "upper = [\"0.3 m\", \"0.14 m\"]"),
          "1.5 cells thick");
  refuses(replaced_once(wheel, "lower = [\"0.1 m\", \"0.13 m\"]", "lower = [\"0.0 m\", \"0.13 m\"]"),
          "through the wall");
  const std::string plate =
      "[[insert]]\nname = \"plate\"\nlower = [\"0.2 m\", \"0.18 m\"]\nupper = [\"0.202 m\", \"0.22 m\"]\n";
  refuses(wheel + plate, "'beam' would turn through 'plate'");
  refuses(wheel + "[[insert]]\nname = \"post\"\nlower = [\"0.19 m\", \"0.18 m\"]\nupper = [\"0.21 m\", \"0.2 m\"]\n",
          "'beam' would turn through 'post'");
  refuses(wheel + "[[impeller]]\ndiameter = \"5 cm\"\nclearance = \"10 cm\"\n", "3-D vessel");
  const std::size_t agitator = wheel.find("[[agitator]]");
  const std::size_t insert = wheel.find("[[insert]]");
  refuses(wheel.substr(0, agitator) + wheel.substr(insert), "there is no agitator for 'beam'");
  refuses(drive::small_tank() + "[[gauge]]\nname = \"torque\"\nmeasures = \"torque\"\n", "nothing turns");
}
