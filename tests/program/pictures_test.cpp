// draw: what is laid over maps, sections, surfaces, several pictures on a page, looks.
#include <doctest/doctest.h>

#include <filesystem>

#include "drive/drive.hpp"

using drive::Folder;
namespace fs = std::filesystem;

namespace {

/// A column of water in a box, run for a moment.
void run_tanks(const Folder& folder) {
  folder.write("flat.toml", drive::small_tank("0.1 s"));
  folder.write(
      "solid.toml",
      "wavy = 1\nvessel.size = [\"20 cm\", \"20 cm\", \"20 cm\"]\ngrid.cell = \"2 cm\"\nrun.until = \"50 ms\"\n" +
          drive::fluids +
          "[[fill]]\nphase = \"water\"\nshape = \"box\"\nlower = [\"0 m\", \"0 m\", \"0 m\"]\nupper = [\"10 "
          "cm\", \"20 cm\", \"16 cm\"]\n");
  REQUIRE(drive::wavy(folder, "run flat.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run solid.toml --quiet").code == 0);
}

}  // namespace

TEST_CASE("pictures are drawn as asked for, and what does not go together is refused before a file is made") {
  const Folder folder;
  run_tanks(folder);
  for (const char* good :
       {"flat.run --what speed --arrows --lines 8", "flat.run --what speed --streamlines --scale log",
        "flat.run --what pressure --scale symmetric --unsmoothed",
        "flat.run --what speed --what pressure --at '0 s' --at '0.1 s'",
        "solid.run --section 'x + 0.5 y = 12 cm' --arrows", "solid.run --section 'y = 10 cm' --section '-x + z = 2 cm'",
        "solid.run --what speed --surface 'pressure = 500 Pa' --surface 'speed = 10 cm/s'",
        "solid.run --what speed --cut-open 'y = 10 cm' --streamlines", "solid.run --arrows"}) {
    CAPTURE(good);
    const auto outcome = drive::wavy(folder, "draw " + std::string(good) + " --to p.png");
    CAPTURE(outcome.out);
    CHECK(outcome.code == 0);
    CHECK(fs::file_size(folder / "p.png") > 5000);
    fs::remove(folder / "p.png");
  }
  for (const auto& [bad, words] :
       {std::pair{"flat.run --section 'y = 1 cm'", "it is a section already"},
        {"solid.run --section 'x + = 1 cm'", "does not name a plane"},
        {"solid.run --section '0 x = 1 cm'", "does not name a plane"},
        {"solid.run --section 'x y = 1 cm'", "does not name a plane"},
        {"solid.run --section 'x + y = 3 m'", "the plane misses the vessel"},
        {"solid.run --section 'x = 10 s'", "length"},
        {"solid.run --lines 5", "a body seen from outside has none"},
        {"flat.run --cut-open 'x = 1 cm'", "the run is a 2-D one"},
        {"solid.run --section 'y = 1 cm' --surface 'speed = 1 m/s'", "a section is flat"},
        {"solid.run --surface 'speed = 1 kg'", "--surface"},
        {"solid.run --surface 'velocity = 1 m/s'", "does not say where a quantity has a value"},
        {"flat.run --scale log --what pressure --range '-1 Pa to 1 Pa'", "a logarithmic scale begins above 0"},
        {"flat.run --scale cubic", "--scale"},
        {"flat.run --what history --arrows", "shows no field"},
        {"flat.run --what history --what speed", "a chart stands alone"},
        {"flat.run --what history --lines 3", "has no lines of equal value"},
        {"flat.run --what speed --what pressure --at '0 s' --at '0 s' --at '0 s' --at '0 s' --at '0 s'",
         "do not fit onto one page"},
        {"flat.run --what profile", "a vessel is no line"}}) {
    CAPTURE(bad);
    const auto outcome = drive::wavy(folder, "draw " + std::string(bad) + " --to p.png");
    CAPTURE(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
    CHECK_FALSE(fs::exists(folder / "p.png"));
  }
}

TEST_CASE("a look makes the same picture again, and what is said on the command line wins") {
  const Folder folder;
  run_tanks(folder);
  folder.write("look.toml", "what = \"speed\"\narrows = true\nlines = 6\nrange = \"0 m/s to 1 m/s\"\n");
  REQUIRE(drive::wavy(folder, "draw flat.run --look look.toml --to by_look.png").code == 0);
  REQUIRE(
      drive::wavy(folder, "draw flat.run --what speed --arrows --lines 6 --range '0 m/s to 1 m/s' --to by_words.png")
          .code == 0);
  CHECK(folder.read("by_look.png") == folder.read("by_words.png"));
  REQUIRE(drive::wavy(folder, "draw flat.run --look look.toml --lines 3 --to other.png").code == 0);
  CHECK(folder.read("other.png") != folder.read("by_look.png"));
  for (const auto& [text, words] : {std::pair{"wht = \"speed\"\n", "look.toml:1:7: wht: a look has no such key"},
                                    {"what = 3\n", "a text or a list of texts is needed here"},
                                    {"arrows = 1\n", "true or false is needed here"},
                                    {"lines = 2.5\n", "a whole number up to 100 is needed here"},
                                    {"what = \"sped\"\n", "'sped' is nothing that pictures show"},
                                    {"what = [\n", "look.toml"}}) {
    CAPTURE(text);
    folder.write("look.toml", text);
    const auto outcome = drive::wavy(folder, "draw flat.run --look look.toml --to p.png");
    CAPTURE(outcome.out);
    CHECK(outcome.code == 2);
    CHECK(outcome.says(words));
  }
  CHECK(drive::wavy(folder, "draw flat.run --look none.toml").code == 2);
  folder.write("look.toml", "what = [\"speed\", \"pressure\"]\n");
  CHECK(drive::wavy(folder, "film flat.run --look look.toml").says("a film shows one field at one place"));
}
