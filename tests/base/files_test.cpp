#include "base/files.hpp"

#include <doctest/doctest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cmath>
#include <csignal>
#include <string>

#include "base/error.hpp"
#include "base/table.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

TEST_CASE("a file is written as a whole: where there is no room the old one stays and nothing else is left") {
  const TemporaryFolder folder;
  write_file(folder / "a.txt", "first");
  CHECK(folder.read("a.txt") == "first");
  const pid_t child = fork();
  if (child == 0) {  // a process whose files must not be longer than 100 bytes
    std::signal(SIGXFSZ, SIG_IGN);
    const rlimit few{100, 100};
    setrlimit(RLIMIT_FSIZE, &few);
    try {
      write_file(folder / "a.txt", std::string(200, 'x'));
    } catch (const Error& error) {
      _exit(std::string(error.what()).find("File too large") != std::string::npos ? 7 : 8);
    }
    _exit(9);
  }
  int status = 0;
  waitpid(child, &status, 0);
  CHECK(WEXITSTATUS(status) == 7);
  CHECK(folder.read("a.txt") == "first");
  CHECK_FALSE(std::filesystem::exists(folder / "a.txt.part"));
  CHECK_THROWS_WITH_AS(write_file(folder / "none" / "b.txt", "x"), doctest::Contains("No such file"), Error);
}

TEST_CASE("a file is read only where it is a plain one of a bearable length") {
  const TemporaryFolder folder;
  folder.write("a.txt", "hello");
  CHECK(read_file(folder / "a.txt", 5) == "hello");
  CHECK_FALSE(read_file(folder / "a.txt", 4).has_value());
  CHECK_FALSE(read_file(folder / "none", 100).has_value());
  CHECK_FALSE(read_file("/dev/zero", 100).has_value());
  CHECK_FALSE(read_file(folder.path(), 100).has_value());
}

TEST_CASE("the checksum is that of Fowler, Noll and Vo") {  // published test values of the 64-bit 1a variant
  CHECK(checksum("") == 0xcbf29ce484222325U);
  CHECK(checksum("a") == 0xaf63dc4c8601ec8cU);
  CHECK(checksum("foobar") == 0x85944171f73967e8U);
}

TEST_CASE("a lock is held once, and goes with its holder") {
  const TemporaryFolder folder;
  const auto file = folder / "lock";
  CHECK_FALSE(FileLock::held_by_another(file));
  {
    const FileLock first(file);
    CHECK(first.held());
    CHECK(FileLock::held_by_another(file));
    const FileLock second(file);
    CHECK_FALSE(second.held());
  }
  CHECK_FALSE(FileLock::held_by_another(file));
  const FileLock third(file);
  CHECK(third.held());
}

TEST_CASE("of a history that was cut off or ran away the rows that are whole are read, and the others counted") {
  const TemporaryFolder folder;
  folder.write("history.csv", "time [s],v [m/s]\n0,1\n1,2\n2,inf\n3,nan\n4,5\n5,");
  long left_out = 0;
  const Table table = read_csv(folder / "history.csv", &left_out);
  CHECK(left_out == 3);
  CHECK(table.columns[0] == std::vector<double>{0, 1, 4});
  CHECK(table.columns[1] == std::vector<double>{1, 2, 5});
  CHECK_THROWS_WITH_AS(read_csv(folder / "history.csv"), doctest::Contains(":4:3: v"), Error);
}

TEST_CASE("where a history has nothing in a whole row, behind its time, there was no gauge yet") {
  const TemporaryFolder folder;
  folder.write("history.csv", "time [s],v [m/s],p [Pa]\n0,,7\n1,2,\n,2,3\n3,4,5\n4,5,");
  long left_out = 0;
  const Table table = read_csv(folder / "history.csv", &left_out);
  CHECK(left_out == 2);  // that without a time, and the one that was cut off
  CHECK(table.columns[0] == std::vector<double>{0, 1, 3});
  CHECK(std::isnan(table.columns[1][0]));
  CHECK(table.columns[1][1] == 2);
  CHECK(std::isnan(table.columns[2][1]));
  CHECK(table.columns[2][2] == 5);
  CHECK_THROWS_WITH_AS(read_csv(folder / "history.csv"), doctest::Contains(":2:3: v"), Error);
}

TEST_CASE("bytes as text, by the examples of RFC 4648") {
  CHECK(base64("").empty());
  CHECK(base64("f") == "Zg==");
  CHECK(base64("fo") == "Zm8=");
  CHECK(base64("foo") == "Zm9v");
  CHECK(base64("foobar") == "Zm9vYmFy");
  CHECK(base64(std::string("\xff\xfe\x00", 3)) == "//4A");
}

TEST_CASE("a folder in between goes away with all that is in it") {
  std::filesystem::path path;
  {
    const ScratchFolder folder;
    path = folder.path();
    write_file(path / "a", "text");
    CHECK(std::filesystem::exists(path / "a"));
  }
  CHECK_FALSE(std::filesystem::exists(path));
}
