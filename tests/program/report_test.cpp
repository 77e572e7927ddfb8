// report and watch: a run on one page, and a run as it goes on; what shells and man are told.
#include <doctest/doctest.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "drive/drive.hpp"

using drive::Folder;
using nlohmann::json;
namespace fs = std::filesystem;

TEST_CASE("a report is one page with all that it needs, alone and beside other runs") {
  const Folder folder;
  folder.write("tank.toml", drive::replaced(drive::small_tank(), "Small tank", "Tank <A> & co"));
  folder.write("coarse.toml", drive::replaced(drive::small_tank(), "2 cm", "4 cm"));
  REQUIRE(drive::wavy(folder, "run tank.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run coarse.toml --quiet").code == 0);
  const auto outcome = drive::wavy(folder, "report tank.run");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  const std::string page = folder.read("tank.run/report.html");
  for (const char* words :
       {"<title>Tank &lt;A&gt; &amp; co</title>", "data:image/png;base64,", "data:image/svg+xml;base64,",
        "A vessel of 400 mm x 400 mm, in 2 dimensions on 400 cells of 20 mm", "<td>wall</td>",
        "cannot be told from one grid", "<dd>-1 m/s^2, 0</dd>"})
    CHECK_MESSAGE(page.find(words) != std::string::npos, words);
  CHECK(page.find("Compared with other runs") == std::string::npos);
  // Nothing is fetched from anywhere.
  for (const char* outside : {"http://", "https://", "<script", "url("}) CHECK(page.find(outside) == std::string::npos);
  CHECK(page.find("{{") == std::string::npos);

  folder.write("m.csv", "time [s],wall [mm]\n0,200\n0.1,203\n0.2,210\n");
  REQUIRE(drive::wavy(folder, "report tank.run coarse.run --measured m.csv --to both.html").code == 0);
  const std::string both = folder.read("both.html");
  for (const char* words : {"Compared with other runs", "Against what was measured", "<td>coarse.run</td>"})
    CHECK_MESSAGE(both.find(words) != std::string::npos, words);
  CHECK(drive::wavy(folder, "report tank.run --to page.pdf").code == 2);
  CHECK(drive::wavy(folder, "report none.run").code == 2);
  CHECK(drive::wavy(folder, "report tank.run --measured m.csv").says("held against several runs"));
}

TEST_CASE("a line has a report too") {
  const Folder folder;
  folder.write("line.toml", drive::with_end(drive::given_case("wash_line"), "10 s"));
  REQUIRE(drive::wavy(folder, "run line.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "report line.run").code == 0);
  const std::string page = folder.read("line.run/report.html");
  CHECK(page.find("by the one-dimensional line model") != std::string::npos);
  CHECK(page.find("A line of 0 sections") == std::string::npos);
  CHECK(page.find("Along the line at 10 s") != std::string::npos);
}

TEST_CASE("a run that goes on is watched from outside; one that has ended is shown as it is") {
  const Folder folder;
  folder.write("long.toml", drive::replaced(drive::small_tank("1000 s"), "2 cm", "1 cm"));
  const auto outcome = drive::shell(folder,
                                    "\\$WAVY run long.toml --quiet & sleep 4; \\$WAVY watch long.run; \\$WAVY watch "
                                    "long.run --json > state.json; kill -INT \\$!; wait");
  CAPTURE(outcome.out);
  CHECK(outcome.says("Small tank   still going on"));
  CHECK(outcome.says(" of 1000 s   step "));
  CHECK(outcome.says(" left"));
  CHECK(outcome.says("wall"));
  CHECK_FALSE(outcome.says("\033["));
  const json state = json::parse(folder.read("state.json"));
  CHECK(state["status"] == "still going on");
  CHECK(state["time_s"].get<double>() > 0);
  CHECK(state["until_s"] == 1000);
  CHECK(state["gauges"][0]["name"] == "wall");
  const auto ended = drive::wavy(folder, "watch long.run --once");
  CHECK(ended.says("Small tank   interrupted"));
  CHECK_FALSE(ended.says(" left"));
  CHECK(drive::wavy(folder, "watch none.run").code == 2);
}

TEST_CASE("with --quiet only what is wrong is said, and what --json asks for") {
  const Folder folder;
  folder.write("tank.toml", drive::small_tank());
  CHECK(drive::wavy(folder, "run tank.toml --quiet").out.empty());
  CHECK(drive::wavy(folder, "--quiet draw tank.run").out.empty());
  CHECK(json::parse(drive::wavy(folder, "measure tank.run --quiet --json").out)["title"] == "Small tank");
  const auto wrong = drive::wavy(folder, "run tank.toml --quiet");  // there is a run
  CHECK(wrong.code == 2);
  CHECK(wrong.says("tank.run"));
}

TEST_CASE("a snapshot and an interface are written for other programs") {
  const Folder folder;
  folder.write("tank.toml", drive::small_tank());
  REQUIRE(drive::wavy(folder, "run tank.toml --quiet").code == 0);
  CHECK(drive::wavy(folder, "export tank.run --what interface --at '0 s' --units mm --to i.csv").code == 0);
  const std::string line = folder.read("i.csv");
  CHECK(line.starts_with("line [1],x [mm],y [mm]\n"));
  CHECK(drive::wavy(folder, "export tank.run --what interface --to i.stl").says("is a line, not a surface"));
  CHECK(drive::wavy(folder, "export tank.run --what snapshot --to s.vtkhdf").code == 0);
  CHECK(drive::wavy(folder, "export tank.run --what snapshot --to s.vtu").code == 0);
  CHECK(folder.read("s.vtu") == folder.read("tank.run/snapshots/00004.vtu"));
  CHECK(drive::wavy(folder, "export tank.run --what snapshot --to tank.run/snapshots/00004.vtu").says("own snapshot"));
  CHECK(drive::wavy(folder, "export tank.run --what snapshot --units mm --to s.vtu").code == 2);
  CHECK(drive::wavy(folder, "export tank.run --what history --to s.vtu").code == 2);
}

TEST_CASE("shells are told every command and option, and man has a page") {
  const Folder folder;
  const auto bash = drive::shell(folder,
                                 "\\$WAVY completion bash > c; source ./c; COMP_WORDS=(wavy dr); COMP_CWORD=1; _wavy; "
                                 "echo \\${COMPREPLY[@]}; COMP_WORDS=(wavy draw --str); COMP_CWORD=2; _wavy; echo "
                                 "\\${COMPREPLY[@]}; COMP_WORDS=(wavy draw --scale l); COMP_CWORD=3; _wavy; echo "
                                 "\\${COMPREPLY[@]}; COMP_WORDS=(wavy completion f); COMP_CWORD=2; _wavy; echo "
                                 "\\${COMPREPLY[@]}");
  CAPTURE(bash.out);
  CHECK(bash.out == "draw\n--streamlines\nlog\nfish\n");
  for (const char* shell : {"zsh", "fish"}) {
    const auto text = drive::wavy(folder, std::string("completion ") + shell);
    CHECK(text.code == 0);
    for (const char* word : {"draw", "streamlines", "report", "even log symmetric", "quiet"}) {
      CAPTURE(shell);
      CHECK_MESSAGE(text.says(word), word);
    }
  }
  CHECK(drive::wavy(folder, "completion csh").code == 2);
  const auto page = drive::wavy(folder, "manual");
  for (const char* words : {".TH WAVY 1", ".SS wavy report", "\\fB\\-\\-streamlines\\fR", ".SH EXIT STATUS"})
    CHECK_MESSAGE(page.says(words), words);
}
