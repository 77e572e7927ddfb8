#include <doctest/doctest.h>

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>
#include <string>
#include <vector>

namespace fs = std::filesystem;

namespace {

/// The floors of the house from the ground up.
const std::vector<std::string> floors{"base", "geometry", "mesh",      "linear",     "physics",
                                      "flow", "sharp",    "dispersed", "line",       "run",
                                      "case", "results",  "figures",   "validation", "app"};

int floor_of(const std::string& folder) {
  for (std::size_t i = 0; i < floors.size(); ++i)
    if (floors[i] == folder) return static_cast<int>(i);
  return -1;
}

template <class Fn>
void for_source_lines(Fn&& fn) {
  int files = 0;
  for (const auto& entry : fs::recursive_directory_iterator(fs::path(WAVY_SOURCE) / "src")) {
    const auto ending = entry.path().extension();
    if (ending != ".cpp" && ending != ".hpp") continue;
    ++files;
    std::ifstream in(entry.path());
    std::string line;
    while (std::getline(in, line)) fn(entry.path(), entry.path().parent_path().filename().string(), line);
  }
  REQUIRE(files > 20);
}

}  // namespace

TEST_CASE("no folder includes one above it, and every folder has its floor") {
  const std::regex include(R"(^\s*#include \"([a-z]+)/)");
  int includes = 0;
  for_source_lines([&](const fs::path& file, const std::string& folder, const std::string& line) {
    std::smatch match;
    if (!std::regex_search(line, match, include)) return;
    ++includes;
    INFO(file.string(), ": ", line);
    CHECK(floor_of(folder) >= 0);
    CHECK(floor_of(match[1]) >= 0);
    CHECK(floor_of(match[1]) <= floor_of(folder));
  });
  CHECK(includes > 30);
}

TEST_CASE("the core prints nothing and knows no TOML, no JSON, no VTK and no terminal") {
  const std::regex forbidden(
      R"(\bprintf\b|std::cout|std::cerr|fmt::print|toml|nlohmann|#include <vtk|isatty|getenv\(\"TERM)");
  const int top_of_core = floor_of("run");
  for_source_lines([&](const fs::path& file, const std::string& folder, const std::string& line) {
    if (floor_of(folder) > top_of_core) return;
    INFO(file.string(), ": ", line);
    CHECK_FALSE(std::regex_search(line, forbidden));
  });
}

TEST_CASE("every equation that a kernel cites stands in the method, and every one of the method has a kernel") {
  std::ifstream in(fs::path(WAVY_SOURCE) / "docs/method.md");
  const std::regex number(R"(\(([SLETC]\d+)\))");
  std::set<std::string> written;
  std::string line;
  std::smatch match;
  while (std::getline(in, line))
    if (line.starts_with("    ") && std::regex_search(line, match, std::regex(R"(\(([SLETC]\d+)\)$)"))) {
      INFO(line);
      CHECK(written.insert(match[1]).second);  // once
    }
  CHECK(written.size() > 20);
  std::set<std::string> cited;
  for_source_lines([&](const fs::path& file, const std::string&, const std::string& source) {
    for (auto at = std::sregex_iterator(source.begin(), source.end(), number); at != std::sregex_iterator(); ++at) {
      INFO(file.string(), ": ", source);
      CHECK(written.contains((*at)[1]));
      cited.insert((*at)[1]);
    }
  });
  for (const auto& equation : written) {
    INFO(equation);
    CHECK(cited.contains(equation));
  }
}

TEST_CASE("no file is longer than 600 lines, but for tables") {
  std::map<std::string, int> lines;
  for_source_lines([&](const fs::path& file, const std::string&, const std::string&) { ++lines[file.string()]; });
  for (const auto& [file, count] : lines) {
    INFO(file);
    CHECK((count <= 600 || file.ends_with("_table.cpp")));
  }
}
