// The demo cases, and some that show what these do not, give the histories they have always given, byte for byte.
//
// histories.txt keeps their checksums. They are renewed, with WAVY_GOLDEN=renew in the environment, only where a mended
// defect has changed a history; the commit says which. WAVY_GOLDEN=whole compares the cases from start to end
// (minutes).
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <vector>

#include "base/files.hpp"
#include "drive/drive.hpp"

namespace {

namespace fs = std::filesystem;

struct Golden {
  std::string name;
  std::string until;
  std::string short_sum;
  std::string whole_sum;
};

const fs::path folder_of_tests = fs::path(WAVY_SOURCE) / "tests/golden";

std::vector<Golden> read_list(std::string& head) {
  std::vector<Golden> list;
  std::ifstream in(folder_of_tests / "histories.txt");
  for (std::string line; std::getline(in, line);) {
    if (line.starts_with("#")) {
      head += line + "\n";
      continue;
    }
    std::istringstream words(line);
    Golden entry;
    words >> entry.name >> entry.until >> entry.short_sum >> entry.whole_sum;
    list.push_back(entry);
  }
  return list;
}

std::string sum_of(const std::string& text) { return fmt::format("{:016x}", wavy::checksum(text)); }

std::string history_of(const Golden& entry, bool whole) {
  const drive::Folder folder;
  const std::string text = drive::given_case(entry.name);
  const std::string end = drive::replaced(entry.until, "([a-z]+)", " $1");
  folder.write("case.toml", whole ? text : drive::with_end(text, end));
  const auto run = drive::wavy(folder, "run case.toml");
  INFO(run.out);
  REQUIRE(run.code == 0);
  return folder.read("case.run/history.csv");
}

/// Family and model of the processor: programs are compiled for it, and sums are formed in as many lanes as it has.
std::string processor() {
  std::ifstream in("/proc/cpuinfo");
  std::string family;
  std::string model;
  for (std::string line; std::getline(in, line) && (family.empty() || model.empty());) {
    const std::string value = line.substr(std::min(line.size(), line.find(':') + 1));
    if (line.starts_with("cpu family")) family = value;
    if (line.starts_with("model\t")) model = value;
  }
  return "# processor:" + family + model;
}

}  // namespace

// Compilers differ in where they round a sum of products once.
#if defined(__FMA__) && defined(__GNUC__) && !defined(__clang__) && __GNUC__ == 12
TEST_CASE("histories are what they were, byte for byte") {
  const char* wish = std::getenv("WAVY_GOLDEN");
  const bool renew = wish != nullptr && std::string(wish) == "renew";
  const bool whole = wish != nullptr && std::string(wish) == "whole";
  std::string text;
  auto list = read_list(text);
  CHECK(list.size() >= 16);
  if (text.find(processor() + "\n") == std::string::npos) {
    MESSAGE("the checksums are of another kind of processor than this one: ", processor());
    return;
  }
  for (auto& entry : list) {
    CAPTURE(entry.name);
    if (renew || !whole) {
      const std::string sum = sum_of(history_of(entry, false));
      if (!renew) CHECK(sum == entry.short_sum);
      entry.short_sum = sum;
    }
    if (renew || whole) {
      const std::string sum = sum_of(history_of(entry, true));
      if (!renew) CHECK(sum == entry.whole_sum);
      entry.whole_sum = sum;
    }
    text += fmt::format("{:<17} {:<6} {} {}\n", entry.name, entry.until, entry.short_sum, entry.whole_sum);
  }
  if (renew) std::ofstream(folder_of_tests / "histories.txt") << text;
  // Every case that is handed out is in the list.
  for (const auto& file : fs::directory_iterator(fs::path(WAVY_SOURCE) / "cases"))
    if (file.path().extension() == ".toml")
      CHECK(std::ranges::any_of(list, [&](const auto& entry) { return entry.name == file.path().stem(); }));
}
#endif
