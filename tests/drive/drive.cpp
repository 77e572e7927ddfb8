#include "drive/drive.hpp"

#include <doctest/doctest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <regex>
#include <sstream>

namespace drive {

Outcome shell(const Folder& folder, const std::string& command) {
  const std::string whole =
      "cd '" + folder.path().string() + "' && export WAVY='" WAVY_PROGRAM "' && { " + command + "; } 2>&1";
  Outcome outcome;
  FILE* pipe = popen(("bash -c \"" + whole + "\"").c_str(), "r");
  std::array<char, 4096> piece{};
  while (const std::size_t got = std::fread(piece.data(), 1, piece.size(), pipe)) outcome.out.append(piece.data(), got);
  const int status = pclose(pipe);
  outcome.code = WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
  return outcome;
}

double peak_memory(const Folder& folder, const std::string& arguments) {
  const std::string command =
      "cd '" + folder.path().string() + "' && exec '" WAVY_PROGRAM "' " + arguments + " >/dev/null 2>&1";
  const pid_t child = fork();
  if (child == 0) {
    execl("/bin/bash", "bash", "-c", command.c_str(), nullptr);
    _exit(127);
  }
  int status = 0;
  rusage used{};
  wait4(child, &status, 0, &used);
  CHECK(WIFEXITED(status));
  CHECK(WEXITSTATUS(status) == 0);
  return 1024.0 * static_cast<double>(used.ru_maxrss);
}

std::string given_case(const std::string& name) {
  namespace fs = std::filesystem;
  const fs::path source = WAVY_SOURCE;
  fs::path file = source / "cases" / (name + ".toml");
  if (!fs::exists(file)) file = source / "tests/golden" / (name + ".toml");
  std::ostringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

std::string replaced(const std::string& text, const std::string& pattern, const std::string& with) {
  return std::regex_replace(text, std::regex(pattern), with);
}

std::string with_end(const std::string& text, const std::string& end, const std::string& more) {
  return replaced(replaced(text, "\nend_not_before = [^\n]*", ""), "\nuntil = \"[^\"]*\"",
                  "\nuntil = \"" + end + "\"" + more);
}

void refuses(const std::string& text, const std::string& words, int line) {
  const Folder folder;
  folder.write("case.toml", text);
  const auto outcome = wavy(folder, "check case.toml");
  INFO(text);
  INFO(outcome.out);
  CHECK(outcome.code == 2);
  CHECK(outcome.says(words));
  if (line > 0) CHECK(outcome.says("case.toml:" + std::to_string(line) + ":"));
  CHECK(std::count(outcome.out.begin(), outcome.out.end(), '\n') <= 2);
  CHECK_FALSE(std::filesystem::exists(folder / "case.check.png"));
}

std::string small_tank(const std::string& until) {
  return "wavy = 1\ntitle = \"Small tank\"\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\n[grid]\ncell = \"2 cm\"\n" +
         fluids +
         "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n[motion]\nacceleration = [\"-1 m/s^2\", \"0\"]\n"
         "[[gauge]]\nname = \"wall\"\nmeasures = \"level\"\nat = [\"0.39 m\"]\n"
         "[run]\nuntil = \"" +
         until + "\"\nsnapshot_interval = \"0.05 s\"\n";
}

}  // namespace drive
