// Study files: what they vary, how it is combined, and what is refused.
#include <doctest/doctest.h>

#include <algorithm>
#include <fstream>
#include <set>

#include "about.hpp"
#include "base/error.hpp"
#include "case/study_file.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

const std::string small_case =
    "wavy = 1\ntitle = \"Tank\"\nvessel.size = [\"1 m\", \"1 m\"]\ngrid.cell = \"10 cm\"\nrun.until = \"1 s\"\n"
    "[[phase]]\nname = \"water\"\nfluid = \"water\"\n[[phase]]\nname = \"air\"\nfluid = \"air\"\n"
    "[[fill]]\nphase = \"water\"\nlevel = \"40 cm\"\n[[gauge]]\nname = \"front\"\nmeasures = \"level\"\nat = [\"9 "
    "cm\"]\n";

/// A folder with the case and a study.
struct Folder : TemporaryFolder {
  Study study(const std::string& text) const {
    std::ofstream(*this / "tank.toml") << small_case;
    std::ofstream(*this / "s.toml") << text;
    return read_study(*this / "s.toml");
  }
};

const std::string head = "wavy = 1\ncase = \"tank.toml\"\n";

}  // namespace

TEST_CASE("all combinations of lists and ranges are made, the last key changing first, with names that tell them") {
  const Folder folder;
  const Study study = folder.study(
      head +
      "[vary]\ngrid.cell = [\"10 cm\", \"5 cm\"]\n"
      "phase.water.viscosity = { from = \"1 mPa.s\", to = \"9 mPa.s\", count = 3, spacing = \"ratio\" }\n");
  REQUIRE(study.runs.size() == 6);
  CHECK(study.title == "s");
  CHECK(study.variables[1].values == std::vector<std::string>{"\"1 mPa.s\"", "\"3 mPa.s\"", "\"9 mPa.s\""});
  CHECK(study.runs[0].name == "cell=10_cm,viscosity=1_mPa.s");
  CHECK(study.runs[5].name == "cell=5_cm,viscosity=9_mPa.s");
  const CaseFile last = parse_case(study.runs[5].text, folder / "tank.toml");
  const auto& setup = std::get<Setup<2>>(last.setup);
  CHECK(setup.cell_size == about(0.05));
  CHECK(setup.phases[0].properties.viscosity == about(9e-3));
  CHECK(last.title == "Tank, grid.cell = 5 cm, phase.water.viscosity = 9 mPa.s");
  // Without results what every gauge does.
  REQUIRE(study.results.size() == 4);
  CHECK(study.results[0].name == "front_least");
}

TEST_CASE("entries are found by number and by name, keys that the case leaves out are added") {
  const Folder folder;
  const Study study = folder.study(head +
                                   "combine = \"each\"\n[vary]\n\"fill[1].level\" = [\"30 cm\", \"60 cm\"]\n"
                                   "gauge.front.at = [[\"1 cm\"], [\"2 cm\"]]\n\"run.courant\" = [0.2, 0.4]\n"
                                   "[[result]]\ngauge = \"front\"\nfigure = \"period\"\nfrom = \"0.2 s\"\n");
  REQUIRE(study.runs.size() == 2);
  const CaseFile second = parse_case(study.runs[1].text, folder / "tank.toml");
  const auto& setup = std::get<Setup<2>>(second.setup);
  CHECK(std::get<BelowLevel<2>>(setup.fills[0].shape).height == about(0.6));
  CHECK(setup.gauges[0].at[0] == about(0.02));
  CHECK(setup.courant == about(0.4));
  REQUIRE(study.results.size() == 1);
  CHECK(study.results[0].name == "front_period");
  CHECK(study.results[0].figure == StudyResult::Figure::period);
  CHECK(study.results[0].from == about(0.2));
}

TEST_CASE("gauges of the study are measured in every run beside those of the case") {
  const Folder folder;
  const Study study = folder.study(head +
                                   "[vary]\ngrid.cell = [\"10 cm\", \"5 cm\"]\n[[gauge]]\nname = \"far\"\n"
                                   "measures = \"reach\"\nalong = \"y\"\n");
  for (const auto& run : study.runs) {
    const CaseFile the_case = parse_case(run.text, folder / "tank.toml");
    const auto& gauges = std::get<Setup<2>>(the_case.setup).gauges;
    REQUIRE(gauges.size() == 2);
    CHECK(gauges[1].name == "far");
    CHECK(gauges[1].axis == 1);
  }
  CHECK(study.results.size() == 8);
}

TEST_CASE("a Latin hypercube meets every part of a range once, lists evenly, and is the same for one seed") {
  const Folder folder;
  const std::string text = head +
                           "combine = \"sample\"\nsamples = 8\nseed = 7\n[vary]\n"
                           "\"fill[1].level\" = { from = \"10 cm\", to = \"90 cm\" }\n"
                           "phase.water.fluid = [\"water\", \"glycerol_75\"]\n";
  const Study study = folder.study(text);
  REQUIRE(study.runs.size() == 8);
  std::set<int> parts;
  int thick = 0;
  for (const auto& run : study.runs) {
    const Written level = written_number(run.values[0]);
    REQUIRE(level.number);
    CHECK(level.unit == "cm");
    parts.insert(static_cast<int>((level.value - 10) / 10));
    thick += run.values[1] == "\"glycerol_75\"" ? 1 : 0;
  }
  CHECK(parts.size() == 8);
  CHECK(*parts.begin() == 0);
  CHECK(*parts.rbegin() == 7);
  CHECK(thick == 4);
  CHECK(folder.study(text).runs[3].text == study.runs[3].text);
}

TEST_CASE("a grid study has the case's own grid as its finest") {
  const Folder folder;
  folder.study(head + "[vary]\ngrid.cell = [\"10 cm\"]\n");
  const Study study = grid_study(folder / "tank.toml", 2);
  REQUIRE(study.runs.size() == 2);
  CHECK(study.variables[0].values == std::vector<std::string>{"\"200 mm\"", "\"100 mm\""});
  CHECK(study.title == "Tank");
}

TEST_CASE("what a study cannot be is refused with its place") {
  const Folder folder;
  struct Mistake {
    std::string text, says;
    int line;
  };
  const std::string cells = "[vary]\ngrid.cell = [\"10 cm\", \"5 cm\"]\n";
  std::string deep;  // more than the stack would take
  for (int i = 0; i < 60000; ++i) deep += "a.";
  const std::vector<Mistake> mistakes{
      {"", "the key 'wavy' is missing", 0},
      {"wavy = 2\n", "a whole number from 1 to 1", 1},
      {"wavy = 1\n" + cells, "the key 'case' is missing", 0},
      {"wavy = 1\ncase = \"none.toml\"\n" + cells, "cannot be read", 2},
      {head, "nothing is varied", 0},
      {head + "cases = 3\n" + cells, "did you mean 'case'?", 3},
      {head + "combine = \"some\"\n" + cells, "'some' is not one of all, each or sample", 3},
      {head + "samples = 3\n" + cells, "samples need combine", 3},
      {head + "combine = \"sample\"\n" + cells, "how many samples", 0},
      {head + "seed = 3\n" + cells, "nothing random", 3},
      {head + "[vary]\ngrid.cell = \"5 cm\"\n", "a list of values or a range", 4},
      {head + "[vary]\ngrid.cell = []\n", "there is no value", 4},
      {head + "[vary]\ngrid.cell = [\"5 cm\", \"5 cm\"]\n", "a value stands in it twice", 4},
      {head + "[vary]\ngrid.cell = { from = \"5 cm\", count = 3 }\n", "the key 'to' is missing", 0},
      {head + "[vary]\ngrid.cell = { from = \"5 cm\", to = \"10 cm\" }\n", "the key 'count' is missing", 0},
      {head + "[vary]\ngrid.cell = { from = \"5 cm\", to = \"0.1 m\", count = 3 }\n", "its unit is 'm'", 4},
      {head + "[vary]\ngrid.cell = { from = \"5 cm\", to = \"five\", count = 3 }\n", "a number or a quantity", 4},
      {head + "[vary]\ngrid.cell = { from = \"0 cm\", to = \"5 cm\", count = 3, spacing = \"ratio\" }\n", "no ratio",
       4},
      {head + "[vary]\ngrid.cel = [\"5 cm\"]\n", "did you mean 'cell'?", 4},
      {head + "[vary]\ngrid.cell = [\"5 cm\", \"5 s\"]\n", "with grid.cell = 5 s the case cannot be", 4},
      {head + "[vary]\nphase.steam.viscosity = [1]\n", "the case has no such [[phase]]", 4},
      {head + "[vary]\n\"phase[3].viscosity\" = [1]\n", "the case has no such [[phase]]", 4},
      {head + "[vary]\nphase.viscosity = [1]\n", "say which", 4},
      {head + "[vary]\ntitle.x = [1]\n", "'title' is no section", 4},
      {head + "combine = \"each\"\n" + cells + "\"fill[1].level\" = [\"1 cm\"]\n",
       "it has 1 values, and the first key 2", 6},
      {head + "[vary]\n\"fill[1].level\" = { from = \"1 cm\", to = \"2 cm\", count = 1000 }\ngrid.cell = [\"1 cm\", "
              "\"2 cm\"]\n",
       "more than 1000 runs", 3},
      {head + cells + "[[result]]\nfigure = \"mean\"\n", "the key 'gauge' is missing", 0},
      {head + cells + "[[result]]\ngauge = \"front\"\nfigure = \"median\"\n", "'median' is not one of", 7},
      {head + cells + "[[result]]\ngauge = \"front\"\nto = \"1 m\"\n", "time", 7},
      {head + cells + "[[result]]\ngauge = \"front\"\nfrom = \"2 s\"\nto = \"1 s\"\n", "before 'from'", 8},
      {head + cells + "[[result]]\ngauge = \"front\"\n[[result]]\ngauge = \"front\"\n", "has this name", 0},
      {"wavy = ", "not valid TOML", 0},
      {deep + "b = 1\n", "a key of so many parts", 1},
  };
  for (const auto& mistake : mistakes) {
    CAPTURE(mistake.text);
    std::string what;
    int line = 0;
    try {
      folder.study(mistake.text);
    } catch (const Error& error) {
      what = error.what();
      line = error.place().line;
      CHECK(error.fault() == Fault::input);
    }
    CAPTURE(what);
    CHECK(what.find(mistake.says) != std::string::npos);
    if (mistake.line > 0) CHECK(line == mistake.line);
  }
}
