// study: runs side by side, what is done is kept, what failed does not end the rest.
#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;
namespace fs = std::filesystem;

namespace {

const std::string tank =
    "wavy = 1\nvessel.size = [\"40 cm\", \"40 cm\"]\ngrid.cell = \"2 cm\"\nrun.until = \"0.3 s\"\n" + drive::fluids +
    "[[fill]]\nphase = \"water\"\nshape = \"box\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"15 cm\", \"30 cm\"]\n"
    "[[gauge]]\nname = \"right\"\nmeasures = \"level\"\nat = [\"39 cm\"]\n";

const std::string vary =
    "wavy = 1\ncase = \"tank.toml\"\ntitle = \"How high\"\n[vary]\n\"grid.cell\" = [\"4 cm\", \"2 cm\", \"1 cm\"]\n"
    "phase.water.fluid = [\"water\", \"glycerol_75\"]\n"
    "[[result]]\ngauge = \"right\"\nfigure = \"greatest\"\nname = \"height\"\n";

}  // namespace

TEST_CASE(
    "a study runs all it names, writes one table and charts, and says which grid to trust; again it has nothing to "
    "do") {
  const Folder folder;
  folder.write("tank.toml", tank);
  folder.write("how.toml", vary);
  const auto outcome = drive::wavy(folder, "study how.toml");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  for (const char* words : {"How high: 6 runs", "grid.cell [cm]", "glycerol_75", "done", "3 grids, fluid water",
                            "3 grids, fluid glycerol_75", "to be trusted", "wrote how.study/study.csv and 1 charts"})
    CHECK(outcome.says(words));
  const std::string table = folder.read("how.study/study.csv");
  CHECK(table.starts_with("run,grid.cell [cm],phase.water.fluid,height [m],cells,steps,wall_time [s],status\n"));
  CHECK(table.find("\"cell=1_cm,fluid=glycerol_75\",1,\"glycerol_75\",0.") != std::string::npos);
  CHECK(fs::exists(folder / "how.study/charts/height_over_grid.cell.png"));
  CHECK(fs::exists(folder / "how.study/runs/cell=4_cm,fluid=water/history.csv"));

  const auto begun = fs::last_write_time(folder / "how.study/runs/cell=4_cm,fluid=water/history.csv");
  const auto again = drive::wavy(folder, "study how.toml");
  CHECK(again.code == 0);
  CHECK(again.says("6 of them done before"));
  CHECK(fs::last_write_time(folder / "how.study/runs/cell=4_cm,fluid=water/history.csv") == begun);
  CHECK(folder.read("how.study/study.csv") == table);
  // Another case under the same name is another run.
  folder.write("tank.toml", drive::replaced(tank, "0.3 s", "0.2 s"));
  const json anew = json::parse(drive::wavy(folder, "study how.toml --json --at-once 3").out);
  CHECK(anew["runs"].size() == 6);
  CHECK(anew["runs"][0]["status"] == "done");
  CHECK(fs::last_write_time(folder / "how.study/runs/cell=4_cm,fluid=water/history.csv") != begun);
}

TEST_CASE("a run that fails does not end the others, and one that was interrupted goes on") {
  const Folder folder;
  folder.write("tank.toml", tank + "[motion]\nacceleration = [\"1 m/s^2\", \"0 m/s^2\"]\n");
  // The second formula has no value from 0.1 s on.
  folder.write("how.toml",
               "wavy = 1\ncase = \"tank.toml\"\n[vary]\nmotion.acceleration = [[\"2 m/s^2\", \"0 m/s^2\"], "
               "[\"sqrt(0.1 - t / 1 s) * 1 m/s^2\", \"0 m/s^2\"], [\"3 m/s^2\", \"0 m/s^2\"]]\n");
  const auto outcome = drive::wavy(folder, "study how.toml");
  CAPTURE(outcome.out);
  CHECK(outcome.code == 1);
  for (const char* words : {"failed: ", "is not finite at t = ", "done"}) CHECK(outcome.says(words));
  CHECK(folder.read("how.study/study.csv").find("failed") != std::string::npos);

  // Ctrl-C in the midst: what ran is kept, and goes on.
  folder.write("long.toml", drive::replaced(tank, "0.3 s", "40 s"));
  folder.write("long_study.toml",
               "wavy = 1\ncase = \"long.toml\"\n[vary]\ngrid.cell = [\"1 cm\", \"8 mm\", \"5 mm\"]\n");
  const std::string kept = "long_study.study/runs/cell=5_mm/history.csv";
  // As long as the machine needs for so many bytes of history, a minute at most.
  const auto interrupted_beyond = [&](std::size_t bytes) {
    return drive::shell(
        folder, "\\$WAVY study long_study.toml & for _ in \\$(seq 600); do sleep 0.1; [ \\$(stat -c %s " + kept +
                    " 2>/dev/null || echo 0) -gt " + std::to_string(bytes) + " ] && break; done; kill -INT \\$!; wait");
  };
  const auto stopped = interrupted_beyond(1000);
  CAPTURE(stopped.out);
  CHECK(stopped.says("the same command goes on"));
  const std::string history = folder.read(kept);
  REQUIRE(history.size() > 1000);
  const auto on = interrupted_beyond(history.size());
  CAPTURE(on.out);
  const std::string later = folder.read(kept);
  CHECK(later.size() > history.size());
  CHECK(later.substr(0, 1000) == history.substr(0, 1000));
}

TEST_CASE("one line makes a grid study, and a study that cannot be is refused before anything runs") {
  const Folder folder;
  folder.write("tank.toml", tank);
  const auto grids = drive::wavy(folder, "study tank.toml --grids 3");
  CAPTURE(grids.out);
  CHECK(grids.code == 0);
  for (const char* words : {"grid.cell [mm]", "80", "20", "right_mean", "3 grids\n", "charts in tank.study/charts"})
    CHECK(grids.says(words));
  folder.write("bad.toml", drive::replaced(vary, "4 cm", "4 s"));
  const auto refused = drive::wavy(folder, "study bad.toml");
  CHECK(refused.code == 2);
  CHECK(refused.says("bad.toml:5:1: vary.grid.cell: with grid.cell = 4 s"));
  CHECK_FALSE(fs::exists(folder / "bad.study"));
  // One section of its kind needs no number, of several one must be named.
  folder.write("level.toml", "wavy = 1\ncase = \"tank.toml\"\n[vary]\nfill.phase = [\"water\", \"air\"]\n");
  const auto one = drive::wavy(folder, "study level.toml");
  CAPTURE(one.out);
  CHECK(one.says("fill.phase"));
  folder.write("tank.toml", tank + "[[fill]]\nphase = \"water\"\nlevel = \"2 cm\"\n");
  CHECK(drive::wavy(folder, "study level.toml").says("the case has several [[fill]]: say which"));
  CHECK(drive::wavy(folder, "study none.toml").code == 2);
  CHECK(drive::wavy(folder, "study tank.toml").code == 2);
}
