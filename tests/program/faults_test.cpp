// What goes wrong round the program: full disks, folders that go away, several at a time, ends without warning.
#include <doctest/doctest.h>

#include <nlohmann/json.hpp>

#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using drive::shell;
using drive::small_tank;
using nlohmann::json;

TEST_CASE("eight at a time all come to their end, in a read-only temporary folder too") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  const auto many = shell(folder,
                          "for round in 1 2 3; do for i in 1 2 3 4 5 6 7 8; do (\\$WAVY check case.toml --no-picture "
                          ">/dev/null 2>&1; echo code \\$?) & done; wait; done");
  CHECK(many.times("\n") >= 24);
  CHECK(many.times("code 0") == 24);
  std::filesystem::create_directory(folder / "readonly");
  const auto locked =
      shell(folder,
            "chmod 555 readonly; TMPDIR=\\$PWD/readonly \\$WAVY check case.toml --no-picture; code=\\$?; "
            "TMPDIR=/nowhere/at/all \\$WAVY check case.toml --no-picture; exit \\$((code + \\$?))");
  INFO(locked.out);
  CHECK(locked.code == 0);
}

TEST_CASE("more than one rank is refused with one clear error") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  const auto ranks = shell(folder,
                           "OMPI_COMM_WORLD_SIZE=2 OMPI_COMM_WORLD_RANK=0 \\$WAVY run case.toml; echo code \\$?; "
                           "OMPI_COMM_WORLD_SIZE=2 OMPI_COMM_WORLD_RANK=1 \\$WAVY run case.toml; echo code \\$?");
  INFO(ranks.out);
  CHECK(ranks.says("started on 2 ranks; it runs on one"));
  CHECK(ranks.times("code 2") == 2);
  CHECK(ranks.times("\n") == 4);  // the first rank speaks for both
  CHECK_FALSE(std::filesystem::exists(folder / "case.run"));
}

TEST_CASE("what cannot be printed or written is no success") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  for (const char* command : {"measure case.run", "explain viscosity", "fluids", "check case.toml --no-picture"}) {
    INFO(command);
    const auto outcome = shell(folder, std::string("\\$WAVY ") + command + " >/dev/full");
    CHECK(outcome.code == 1);
    CHECK(outcome.says("wavy: "));
  }
  // Files that may not become longer stand for a disk that is full.
  const auto picture = shell(folder, "ulimit -f 2; \\$WAVY draw case.run --to a.png");
  CHECK(picture.code == 1);
  CHECK(picture.says("a.png"));
  CHECK_FALSE(picture.says("wrote"));
  const auto chart = shell(folder, "ulimit -f 2; \\$WAVY draw case.run --what history --to b.png");
  CHECK(chart.code == 1);
  CHECK(chart.says("b.png"));
  const auto fresh = shell(folder, "ulimit -f 1; \\$WAVY new tote_3d --all");
  CHECK(fresh.code == 1);
  const auto run = shell(folder, "ulimit -f 8; \\$WAVY run case.toml --into full.run");
  CHECK(run.code == 1);
  CHECK(run.says("full.run"));
  for (const char* name : {"a.png", "b.png", "tote_3d.toml", "a.png.part", "b.png.part", "tote_3d.toml.part"})
    CHECK_FALSE(std::filesystem::exists(folder / name));
  // A reader that goes away ends no run.
  const auto pipe = shell(folder, "set -o pipefail; \\$WAVY run case.toml --into pipe.run | true");
  CHECK(pipe.code == 1);
  CHECK(json::parse(folder.read("pipe.run/summary.json"))["status"] == "done");
}

TEST_CASE("a folder that is taken away during a run ends it with an error") {
  const Folder folder;
  folder.write("case.toml", small_tank("60 s"));
  for (const char* away : {"rm -r case.run", "mv case.run other.run"}) {
    const auto outcome =
        shell(folder,
              std::string("(\\$WAVY run case.toml --force & pid=\\$!; while [ ! -e case.run/snapshots/00003.vtu ]; do "
                          "sleep 0.02; done; ") +
                  away + "; wait \\$pid); echo code \\$?; rm -rf case.run other.run");
    INFO(outcome.out);
    CHECK(outcome.says("code 1"));
    CHECK(outcome.says("has been removed, renamed or replaced"));
  }
}

TEST_CASE(
    "a second run into the same folder is refused while the first goes on, and takes it over when that was killed") {
  const Folder folder;
  folder.write("case.toml", small_tank("600 s"));
  folder.write("short.toml", small_tank());
  const auto outcome = shell(
      folder,
      "(\\$WAVY run case.toml >/dev/null 2>&1 & pid=\\$!; while [ ! -e case.run/snapshots/00002.vtu ]; do sleep 0.02; "
      "done; \\$WAVY run short.toml --into case.run --force; echo second \\$?; \\$WAVY measure case.run; "
      "kill -9 \\$pid; wait \\$pid); \\$WAVY measure case.run; \\$WAVY draw case.run");
  INFO(outcome.out);
  CHECK(outcome.says("another run is writing to this folder"));
  CHECK(outcome.says("second 2"));
  CHECK(outcome.says("note: this run is still going on"));
  CHECK(outcome.says("note: this run was killed"));
  CHECK(drive::wavy(folder, "run short.toml --into case.run --force").code == 0);
  CHECK_FALSE(drive::wavy(folder, "measure case.run").says("note:"));
}

TEST_CASE("a terminal that goes away ends a run in order") {
  const Folder folder;
  folder.write("case.toml", small_tank("600 s"));
  for (const char* signal : {"HUP", "TERM", "INT"}) {
    const auto outcome = shell(
        folder,
        std::string("rm -rf case.run; (setsid \\$WAVY run case.toml --force >/dev/null 2>&1 & pid=\\$!; while [ ! -e "
                    "case.run/snapshots/00002.vtu ]; do sleep 0.02; done; sleep 0.1; kill -") +
            signal + " \\$pid; wait \\$pid); echo code \\$?");
    INFO(signal);
    CHECK(outcome.says("code 1\n"));
    CHECK(json::parse(folder.read("case.run/summary.json"))["status"] == "interrupted");
  }
}

TEST_CASE("of a history that ran away or was cut off the finite rows are shown, and the others named") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  std::string history = folder.read("case.run/history.csv");
  folder.write("case.run/history.csv", history + "0.21,inf,inf,1,1,1\n0.22,nan");
  const auto figures = drive::wavy(folder, "measure case.run --json");
  INFO(figures.out);
  CHECK(figures.code == 0);
  CHECK(figures.says("note: 2 rows of the history are left out"));
  CHECK(drive::wavy(folder, "draw case.run --what history").code == 0);
}

TEST_CASE("a user's own pictures survive the next run") {
  const Folder folder;
  folder.write("case.toml", small_tank());
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  REQUIRE(drive::wavy(folder, "draw case.run").code == 0);
  folder.write("case.run/figures/for the boss.png", "mine");
  REQUIRE(drive::wavy(folder, "run case.toml --force").code == 0);
  CHECK(folder.read("case.run/figures/for the boss.png") == "mine");
  CHECK_FALSE(std::filesystem::exists(folder / "case.run/figures/fraction-0.200s.png"));
}

TEST_CASE("a snapshot whose cells claim to reach far beyond it is refused at once, without the memory they claim") {
  const Folder folder;
  std::filesystem::copy_file(std::filesystem::path(WAVY_SOURCE) / "tests/program/damaged_offsets.vtu",
                             folder / "b.vtu");
  folder.write("case.toml",
               "wavy = 1\n[vessel]\nsize = [\"1 m\", \"1 m\"]\n[grid]\ncell = \"10 cm\"\n" + drive::fluids +
                   "[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"b.vtu\"\n[run]\nuntil = \"1 s\"\n");
  const auto checked = shell(folder, "ulimit -t 8; \\$WAVY check case.toml --no-picture");
  INFO(checked.out);
  CHECK(checked.code == 2);
  CHECK(checked.says("'b.vtu': the snapshot cannot be read: it is damaged"));
}
