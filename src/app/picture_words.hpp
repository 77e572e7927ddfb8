// How pictures are asked for: options of draw, film and compare, and look files that hold the same.
#pragma once

#include <string>
#include <vector>

#include "figures/picture.hpp"

namespace wavy {

/// As on the command line: empty, 0 or false what was not given.
struct PictureWords {
  std::string range;                  ///< of colours: "0 m/s to 2 m/s"
  std::string scale;                  ///< even, log or symmetric
  int lines = 0;                      ///< of equal value
  std::vector<std::string> surfaces;  ///< "pressure = 2 kPa"
  std::string cut_open;               ///< a plane: "y = 0.4 m"
  bool arrows = false;
  bool streamlines = false;
  bool unsmoothed = false;
  bool cells = false;
  std::string look;  ///< TOML file with more of them
};

/// What to show, and where: each may be given several times.
struct PictureSubjects {
  std::vector<std::string> what, sections;
};

/// Adds what the look file says and the command line does not. Throws an input error where it cannot be read.
void read_look(PictureWords& words, PictureSubjects& subjects);

/// What is drawn of a run. Throws an input error that names the option for what cannot be meant.
PictureOptions picture_options(const RunFolder& run, const std::string& what, const std::string& section,
                               const PictureWords& words);

/// "y = 0.4 m" or "x + 0.5 y = 0.4 m" as a plane; `option` in errors.
SectionPlane plane_of(const std::string& text, const char* option);

}  // namespace wavy
