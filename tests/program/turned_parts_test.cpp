// Vessels of which a half or a quarter is computed, the rest being the same turned.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <filesystem>
#include <string>
#include <vector>

#include "about.hpp"
#include "base/table.hpp"
#include "case_texts.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using wavy::gauge_text;

namespace {

/// Oil under air with baffles, two of them on the seam, dye and a paddle.
const std::string kettle =
    open_kettle + R"case([[phase]]
name = "oil"
density = "900 kg/m^3"
viscosity = "100 cP"
[[phase]]
name = "air"
fluid = "air"
[[insert]]
name = "baffles"
shape = "baffles"
)case" +
    paddle("0.1 s", "240 rev/min") +
    R"case([[tracer]]
name = "dye"
phase = "oil"
diffusivity = "1e-9 m^2/s"
[[dose]]
tracer = "dye"
amount = "1 g"
centre = ["10 cm", "10 cm", "14 cm"]
diameter = "4 cm"
time = "0.1 s"
[[fill]]
phase = "oil"
level = "16 cm"
)case" +
    gauge_text("torque", "torque") +
    gauge_text("on_baffles", "moment", "wall = \"baffles\"\nat = [\"3 cm\", \"5 cm\", \"0 m\"]\n") +
    gauge_text("pumping", "pumping_number") + gauge_text("level_here", "level", "at = [\"16 cm\", \"12 cm\"]\n") +
    gauge_text("level_there", "level", "at = [\"4 cm\", \"8 cm\"]\n") + gauge_text("energy", "kinetic_energy") +
    gauge_text("surface", "interface_area") + gauge_text("dyed", "amount", "quantity = \"dye_concentration\"\n") +
    R"case([run]
until = "0.3 s"
snapshot_interval = "0.1 s"
)case";

std::string part(const std::string& text, const std::string& symmetry) {
  return replaced_once(text, "shape = \"cylinder\"\n", "shape = \"cylinder\"\nsymmetry = \"" + symmetry + "\"\n");
}
std::string half(const std::string& text) { return part(text, "half_turn"); }

/// A case as a whole and a part of it, in whole.run and part.run.
struct Both {
  Folder folder{};
  std::string text{};  // of the part
  wavy::Table all{};
  wavy::Table one{};

  explicit Both(const std::string& whole, const std::string& symmetry = "half_turn") : text(part(whole, symmetry)) {
    folder.write("whole.toml", whole);
    folder.write("part.toml", text);
    for (const char* name : {"whole", "part"}) {
      const auto said = drive::wavy(folder, std::string("run ") + name + ".toml");
      INFO(said.out);
      REQUIRE(said.code == 0);
    }
    all = wavy::read_csv(folder.path() / "whole.run/history.csv");
    one = wavy::read_csv(folder.path() / "part.run/history.csv");
  }
  /// The last readings are alike, to a share.
  void alike(const std::vector<const char*>& names, double share) const {
    for (const char* name : names) {
      INFO(name);
      const double wanted = column(all, name).back();
      CHECK(wanted != 0);
      CHECK(column(one, name).back() == about(wanted).epsilon(share));
    }
  }
  /// A run of the part that was stopped goes on to the last bit.
  void goes_on() const {
    folder.write("short.toml", replaced_once(text, "until = \"0.3 s\"", "until = \"0.2 s\""));
    REQUIRE(drive::wavy(folder, "run short.toml").code == 0);
    REQUIRE(drive::wavy(folder, "resume short.run --until '0.3 s'").code == 0);
    CHECK(drive::shell(folder, "cmp short.run/history.csv part.run/history.csv").code == 0);
  }
  /// It is drawn, and written as a whole: files of the interface are as long, to a share.
  void is_shown_whole(double share) const {
    CHECK(drive::wavy(folder, "draw part.run --what speed --section 'z = 8 cm' --to plan.png").code == 0);
    for (const char* name : {"part", "whole"})
      CHECK(drive::wavy(folder, fmt::format("export {0}.run --what interface --to {0}.stl", name)).code == 0);
    const auto size = [&](const char* name) {
      return static_cast<double>(std::filesystem::file_size(folder.path() / name));
    };
    CHECK(size("part.stl") == about(size("whole.stl")).epsilon(share));
  }
};

}  // namespace

TEST_CASE("half a stirred kettle tells torque, levels, volumes and energy of the whole") {
  const Both both(kettle);
  const auto& [folder, text, all, one] = both;
  both.alike({"torque", "pumping", "level_here", "level_there", "energy", "surface", "dyed", "oil_volume"}, 2e-3);
  // What small cells at walls are joined with is not alike on both sides of the whole.
  both.alike({"on_baffles"}, 0.02);
  CHECK(column(one, "level_here").back() == about(column(one, "level_there").back()).epsilon(1e-12));
  CHECK(column(one, "oil_volume").back() == about(column(one, "oil_volume").front()).epsilon(1e-12));

  both.goes_on();
  both.is_shown_whole(0.02);
  // Snapshots tell the same.
  folder.write("more.toml", "[[gauge]]\nname = \"torque_again\"\nmeasures = \"torque\"\n");
  REQUIRE(drive::wavy(folder, "measure part.run --gauges more.toml --table again.csv").code == 0);
  const wavy::Table again = wavy::read_csv(folder.path() / "again.csv");
  CHECK(column(again, "torque_again").back() == about(column(one, "torque").back()).epsilon(1e-9));
}

TEST_CASE("a quarter of a stirred kettle tells torque, levels, volumes and energy of the whole") {
  const std::string four = replaced_once(kettle, "clearance = \"8 cm\"\n", "clearance = \"8 cm\"\nblades = 4\n");
  const Both both(four, "quarter_turn");
  const wavy::Table& one = both.one;
  // Sweeps along the axes one after the other do not leave a whole vessel quite its own image.
  both.alike({"torque", "pumping", "level_here", "level_there", "energy", "surface"}, 0.015);
  both.alike({"dyed"}, 1e-6);
  both.alike({"oil_volume"}, 1e-3);  // as the grid's cells lie round the wall
  both.alike({"on_baffles"}, 0.03);
  CHECK(column(one, "level_here").back() == about(column(one, "level_there").back()).epsilon(1e-12));
  CHECK(column(one, "oil_volume").back() == about(column(one, "oil_volume").front()).epsilon(1e-12));
  CHECK(column(one, "dyed").back() == about(1e-3).epsilon(1e-12));

  both.goes_on();
  both.is_shown_whole(0.03);
}

TEST_CASE("check says that a quarter is computed, and refuses what a quarter of a turn does not leave as it is") {
  using drive::refuses;
  const Folder folder;
  const std::string text =
      part(replaced_once(kettle, "clearance = \"8 cm\"\n", "clearance = \"8 cm\"\nblades = 4\n"), "quarter_turn");
  const auto with = [&](const std::string& old_text, const std::string& new_text) {
    return replaced_once(text, old_text, new_text);
  };
  folder.write("quarter.toml", text);
  const auto said = drive::wavy(folder, "check quarter.toml --no-picture");
  INFO(said.out);
  CHECK(said.code == 0);
  CHECK(said.says("1/4 of the vessel"));
  CHECK(said.says("from 100 mm along x and from 100 mm along y, the rest is the same turned by quarters"));
  CHECK(said.says("8 x 8 x 19 cells"));
  refuses(part(kettle, "quarter_turn"), "the 2 blades of 'paddle'");
  refuses(with("blades = 4\n", "blades = 6\n"), "a number that 4 divides");
  refuses(with("shape = \"baffles\"\n", "shape = \"baffles\"\ncount = 6\n"),
          "a quarter of a turn does not leave 'baffles'");
  refuses(with("shape = \"cylinder\"\n", "shape = \"cylinder\"\nrepeats = \"x\"\n"), "repeats");
  refuses(replaced_once(with("shape = \"cylinder\"\n", "shape = \"box\"\n"), "diameter = \"20 cm\"\nlength = \"24 cm\"",
                        "size = [\"20 cm\", \"24 cm\", \"24 cm\"]"),
          "a quarter of a turn round its middle does not leave the vessel");
  refuses(text + "[vessel.walls]\nfront = \"slip\"\n", "front");
  refuses(text + "[motion]\nacceleration = [\"0 m/s^2\", \"1 m/s^2\", \"0 m/s^2\"]\n", "a pull along y");
  // Of two that stand across from each other each has an image where nothing stands.
  refuses(text +
              "[[insert]]\nname = \"one\"\nlower = [\"15 cm\", \"5 cm\", \"12 cm\"]\n"
              "upper = [\"17 cm\", \"7 cm\", \"24 cm\"]\n"
              "[[insert]]\nname = \"other\"\nlower = [\"3 cm\", \"13 cm\", \"12 cm\"]\n"
              "upper = [\"5 cm\", \"15 cm\", \"24 cm\"]\n",
          "add its image");
  folder.write("off.toml", text +
                               "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nphase = \"oil\"\n"
                               "centre = [\"15 cm\", \"10 cm\"]\ndiameter = \"3 cm\"\nvolume_flow = \"-1 L/min\"\n");
  CHECK(drive::wavy(folder, "check off.toml --no-picture").says("its flows are those of all four"));
  // A mirror is refused with what would do in its place.
  refuses(replaced_once(text, "quarter_turn", "quarter"), "write vessel.symmetry = \"quarter_turn\"");
  refuses(replaced_once(text, "quarter_turn", "half"), "write vessel.symmetry = \"quarter_turn\"");
}

TEST_CASE("a frozen frame in a part of a vessel is that of the whole") {
  // There has to be room for the frame's edge.
  const std::string frozen = replaced_once(replaced_once(kettle, "cell = \"12.5 mm\"", "cell = \"10 mm\""),
                                           "name = \"stirrer\"\n", "name = \"stirrer\"\nmotion = \"frozen\"\n");
  const std::string plain = replaced_once(frozen, "[[insert]]\nname = \"baffles\"\nshape = \"baffles\"\n", "");
  const std::string text =
      replaced_once(plain, "[[gauge]]\nname = \"on_baffles\"\nmeasures = \"moment\"\nwall = \"baffles\"\n",
                    "[[gauge]]\nname = \"on_wall\"\nmeasures = \"moment\"\nwall = \"vessel\"\n");
  Both(text).alike({"torque", "pumping", "on_wall", "energy"}, 3e-3);
  const std::string four = replaced_once(text, "clearance = \"8 cm\"\n", "clearance = \"8 cm\"\nblades = 4\n");
  Both(four, "quarter_turn").alike({"torque", "pumping", "on_wall", "energy"}, 0.04);
}

TEST_CASE("check says what is computed, and refuses what half a turn does not leave as it is") {
  using drive::refuses;
  const Folder folder;
  folder.write("half.toml", half(kettle));
  const auto said = drive::wavy(folder, "check half.toml --no-picture");
  INFO(said.out);
  CHECK(said.code == 0);
  CHECK(said.says("1/2 of the vessel"));
  CHECK(said.says("turned by half a turn"));
  CHECK(said.says("8 x 16 x 19 cells"));

  const std::string text = half(kettle);
  const auto with = [&](const std::string& old_text, const std::string& new_text) {
    return replaced_once(text, old_text, new_text);
  };
  refuses(with("clearance = \"8 cm\"\n", "clearance = \"8 cm\"\nblades = 3\n"), "the 3 blades of 'paddle'");
  refuses(with("name = \"stirrer\"\n", "name = \"stirrer\"\nat = [\"11 cm\", \"10 cm\"]\n"),
          "about the vessel's middle");
  refuses(text +
              "[[insert]]\nname = \"probe\"\nlower = [\"3 cm\", \"9 cm\", \"12 cm\"]\n"
              "upper = [\"5 cm\", \"11 cm\", \"24 cm\"]\n",
          "'probe'");
  refuses(text +
              "[[insert]]\nname = \"probe\"\nlower = [\"15 cm\", \"6 cm\", \"12 cm\"]\n"
              "upper = [\"16 cm\", \"7 cm\", \"24 cm\"]\n",
          "add its image");
  refuses(with("shape = \"baffles\"\n", "shape = \"baffles\"\ncount = 3\n"), "'baffles'");
  refuses(with("at = [\"3 cm\", \"5 cm\", \"0 m\"]", "at = [\"3 cm\", \"5 cm\", \"0 m\"]\nabout = \"x\""), "cancel");
  refuses(with("measures = \"moment\"\nwall = \"baffles\"\nat = [\"3 cm\", \"5 cm\", \"0 m\"]",
               "measures = \"force\"\nwall = \"baffles\"\nalong = \"y\""),
          "cancel");
  refuses(with("centre = [\"10 cm\", \"10 cm\", \"14 cm\"]", "centre = [\"10 cm\", \"12 cm\", \"14 cm\"]"),
          "as symmetric as the vessel");
  refuses(text + "[motion]\nacceleration = [\"0 m/s^2\", \"1 m/s^2\", \"0 m/s^2\"]\n", "a pull along y");
  refuses(with("symmetry = \"half_turn\"\n", "symmetry = \"half_turn\"\ntilted = \"5 deg\"\n"), "symmetry");
  refuses(text + "[vessel.walls]\nleft = \"slip\"\n", "left");
  // What stands off the axis counts together with its image, and that is said.
  folder.write("off.toml", text +
                               "[[opening]]\nname = \"drain\"\nside = \"bottom\"\nphase = \"oil\"\n"
                               "centre = [\"15 cm\", \"10 cm\"]\ndiameter = \"3 cm\"\nvolume_flow = \"-1 L/min\"\n"
                               "[[gauge]]\nname = \"held\"\nmeasures = \"volume\"\nphase = \"oil\"\n"
                               "lower = [\"12 cm\", \"5 cm\", \"0 m\"]\nupper = [\"18 cm\", \"9 cm\", \"9 cm\"]\n");
  const auto off = drive::wavy(folder, "check off.toml --no-picture");
  INFO(off.out);
  CHECK(off.says("'drain' stands for itself and its image"));
  CHECK(off.says("the zone of 'held' is what of it lies in the computed half"));
  CHECK_FALSE(off.says("'open_top' stands for itself"));
  // Two of them, one the image of the other, are taken.
  folder.write("pair.toml", text +
                                "[[insert]]\nname = \"one\"\nlower = [\"15 cm\", \"5 cm\", \"12 cm\"]\n"
                                "upper = [\"17 cm\", \"7 cm\", \"24 cm\"]\n"
                                "[[insert]]\nname = \"other\"\nlower = [\"3 cm\", \"13 cm\", \"12 cm\"]\n"
                                "upper = [\"5 cm\", \"15 cm\", \"24 cm\"]\n");
  const auto pair = drive::wavy(folder, "check pair.toml --no-picture");
  INFO(pair.out);
  CHECK(pair.code == 0);
  // A mirror is refused with what would do in its place, if anything would.
  refuses(replaced_once(kettle, "shape = \"cylinder\"\n", "shape = \"cylinder\"\nsymmetry = \"half\"\n"),
          "write vessel.symmetry = \"half_turn\"");
  refuses(replaced_once(replaced_once(kettle, "shape = \"cylinder\"\n", "shape = \"cylinder\"\nsymmetry = \"half\"\n"),
                        "clearance = \"8 cm\"\n", "clearance = \"8 cm\"\nblades = 3\n"),
          "the 3 blades of 'paddle'");
}
