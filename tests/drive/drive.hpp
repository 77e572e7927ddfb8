// Drives the built program as a user would: in a folder of its own, reading what comes back.
#pragma once

#include <algorithm>
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
Outcome shell(const Folder& folder, const std::string& command);

inline Outcome wavy(const Folder& folder, const std::string& arguments) {
  return shell(folder, "\\$WAVY " + arguments);
}

/// Most memory that the program held while it ran, as the system counts it [bytes].
double peak_memory(const Folder& folder, const std::string& arguments);

/// Water and air.
inline const std::string fluids =
    "[[phase]]\nname = \"water\"\nfluid = \"water\"\n[[phase]]\nname = \"air\"\nfluid = \"air\"\n";

/// A case that is handed out, or one of tests/golden.
std::string given_case(const std::string& name);

/// A case with another end, and what is added to its [run].
std::string with_end(const std::string& text, const std::string& end, const std::string& more = "");

/// A text with all that a regular expression finds replaced.
std::string replaced(const std::string& text, const std::string& pattern, const std::string& with);

/// check must fail with exit code 2 and these words, on this line of the case, and leave nothing behind.
void refuses(const std::string& text, const std::string& words, int line = 0);

/// A small tank that runs in a blink.
std::string small_tank(const std::string& until = "0.2 s");

}  // namespace drive
