// Drives the built program as a user would: in a folder of its own, reading what comes back.
#pragma once

#include <doctest/doctest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <regex>
#include <sstream>
#include <string>

#include "temporary_folder.hpp"

namespace drive {

using Folder = TemporaryFolder;

struct Outcome {
  int code = -1;
  std::string out;  ///< standard output and error together
  [[nodiscard]] bool says(const std::string& words) const { return out.find(words) != std::string::npos; }
  /// How often.
  [[nodiscard]] int times(const std::string& words) const {
    int count = 0;
    for (auto at = out.find(words); at != std::string::npos; at = out.find(words, at + words.size())) ++count;
    return count;
  }
};

/// Runs a shell command in the folder; WAVY stands for the program.
inline Outcome shell(const Folder& folder, const std::string& command) {
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

inline Outcome wavy(const Folder& folder, const std::string& arguments) {
  return shell(folder, "\\$WAVY " + arguments);
}

/// Most memory that the program held while it ran, as the system counts it [bytes].
inline double peak_memory(const Folder& folder, const std::string& arguments) {
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

/// Water and air.
inline const std::string fluids =
    "[[phase]]\nname = \"water\"\nfluid = \"water\"\n[[phase]]\nname = \"air\"\nfluid = \"air\"\n";

/// A case that is handed out, or one of tests/golden.
inline std::string given_case(const std::string& name) {
  namespace fs = std::filesystem;
  const fs::path source = WAVY_SOURCE;
  fs::path file = source / "cases" / (name + ".toml");
  if (!fs::exists(file)) file = source / "tests/golden" / (name + ".toml");
  std::ostringstream text;
  text << std::ifstream(file).rdbuf();
  return text.str();
}

/// A case with another end, and what is added to its [run].
inline std::string with_end(const std::string& text, const std::string& end, const std::string& more = "") {
  return std::regex_replace(text, std::regex("\nuntil = \"[^\"]*\""), "\nuntil = \"" + end + "\"" + more);
}

/// check must fail with exit code 2 and these words, on this line of the case, and leave nothing behind.
inline void refuses(const std::string& text, const std::string& words, int line = 0) {
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

/// A small tank that runs in a blink.
inline std::string small_tank(const std::string& until = "0.2 s") {
  return "wavy = 1\ntitle = \"Small tank\"\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\n[grid]\ncell = \"2 cm\"\n" +
         fluids +
         "[[fill]]\nphase = \"water\"\nlevel = \"0.2 m\"\n[motion]\nacceleration = [\"-1 m/s^2\", \"0\"]\n"
         "[[gauge]]\nname = \"wall\"\nmeasures = \"level\"\nat = [\"0.39 m\"]\n"
         "[run]\nuntil = \"" +
         until + "\"\nsnapshot_interval = \"0.05 s\"\n";
}

}  // namespace drive
