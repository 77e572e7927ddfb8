// film: an MP4 of a run's snapshots, and of several runs side by side.
#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>

#include "drive/drive.hpp"

using drive::Folder;
namespace fs = std::filesystem;

namespace {

std::string tank(const std::string& cell) {
  return "wavy = 1\nvessel.size = [\"40 cm\", \"40 cm\"]\ngrid.cell = \"" + cell +
         "\"\nrun.until = \"0.2 s\"\nrun.snapshot_interval = \"20 ms\"\n" + drive::fluids +
         "[[fill]]\nphase = \"water\"\nshape = \"box\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"15 cm\", \"30 cm\"]\n";
}

/// What ffmpeg finds in a film: width, height, seconds and pictures.
std::string stream(const Folder& folder, const std::string& file) {
  return drive::shell(folder,
                      "ffprobe -v error -show_entries stream=width,height,duration,nb_frames -of csv=p=0 " + file)
      .out;
}

}  // namespace

TEST_CASE("a film shows every snapshot, as long as it is to last, of one run and of two side by side") {
  const Folder folder;
  folder.write("a.toml", tank("2 cm"));
  folder.write("b.toml", tank("4 cm"));
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run b.toml").code == 0);
  const auto one = drive::wavy(folder, "film a.run");
  CAPTURE(one.out);
  REQUIRE(one.code == 0);
  CHECK(one.says("wrote a.run/figures/fraction.mp4: 11 pictures from 0 s to 200 ms, 550 ms long"));
  CHECK(stream(folder, "a.run/figures/fraction.mp4") == "1280,800,0.550000,11\n");
  // At the start nothing moves, which no logarithmic scale shows.
  CHECK(drive::wavy(folder, "film a.run --what speed --scale log --arrows --to a.run/figures/log.mp4").code == 0);
  const auto two = drive::wavy(
      folder, "film a.run b.run --what speed --from '0.1 s' --lasts '3 s' --range '0 m/s to 2 m/s' --to two.mp4");
  CAPTURE(two.out);
  CHECK(two.code == 0);
  CHECK(stream(folder, "two.mp4") == "1920,800,3.000000,6\n");
  // No other film than those asked for, and no pictures left behind.
  CHECK(std::distance(fs::directory_iterator(folder.path()), fs::directory_iterator()) == 5);
  CHECK(drive::wavy(folder, "draw a.run --what speed --range '0 m/s to 50 cm/s' --to p.png").code == 0);
}

TEST_CASE("a film that cannot be is refused with the reason, and nothing is written") {
  const Folder folder;
  folder.write("a.toml", tank("4 cm"));
  REQUIRE(drive::wavy(folder, "run a.toml").code == 0);
  const auto refused = [&](const std::string& arguments, const std::string& words, int code = 2) {
    CAPTURE(arguments);
    const auto outcome = drive::wavy(folder, arguments + " --to x.mp4");
    CAPTURE(outcome.out);
    CHECK(outcome.code == code);
    CHECK(outcome.says(words));
    CHECK_FALSE(fs::exists(folder / "x.mp4"));
  };
  refused("film none.run", "none.run");
  refused("film a.run --what temperature", "temperature");
  refused("film a.run --lasts '1 m'", "--lasts");
  refused("film a.run --lasts '1 day'", "make no film");
  refused("film a.run --from '190 ms'", "fewer than two snapshots");
  refused("film a.run --until '3 s'", "--until: the run reaches from 0 s to 200 ms");
  refused("film a.run --section 'y = 1 cm'", "section", 1);
  refused("film a.run --what speed --range '1 m/s'", "is no range");
  refused("film a.run --what speed --range '2 m/s to 1 m/s'", "its end is not above");
  refused("film a.run --what speed --range '1 s to 2 s'", "--range");
  CHECK(drive::wavy(folder, "film a.run --to x.avi").says("does not end in .mp4"));
  CHECK(
      drive::wavy(folder, "draw a.run --what history --range '0 to 1'").says("a chart of the history has no colours"));
  fs::resize_file(folder / "a.run/snapshots/00003.vtu", 2000);
  refused("film a.run", "00003.vtu", 1);
  // Without ffmpeg.
  folder.write("b.toml", tank("4 cm"));
  REQUIRE(drive::wavy(folder, "run b.toml").code == 0);
  const auto missing = drive::shell(folder, "PATH=/nowhere \\$WAVY film b.run --to x.mp4");
  CHECK(missing.code == 1);
  CHECK(missing.says("install the package ffmpeg"));
  CHECK_FALSE(fs::exists(folder / "x.mp4"));
}
