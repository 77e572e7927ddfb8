// Studies: one case with values varied, described in a TOML file.
#pragma once

#include <cstddef>
#include <filesystem>
#include <string>
#include <vector>

#include "case/case_file.hpp"

namespace wavy {

/// A key of the case whose value is varied.
struct StudyVariable {
  std::string path;                 ///< "grid.cell", "phase.water.fluid", "fill[2].level"
  std::vector<std::string> values;  ///< as TOML
};

/// A figure of one gauge, to be collected from every run.
struct StudyResult {
  enum class Figure { least, mean, greatest, last, span, time_of_least, time_of_greatest, period, amplitude };
  std::string name;
  std::string gauge;
  Figure figure = Figure::mean;
  double from = 0;  ///< [s]
  double to = -1;   ///< [s]; below 0: the end
};

struct StudyRun {
  std::string name;                 ///< of its folder: "cell=5_mm,fluid=water"
  std::vector<std::string> values;  ///< of each variable, as TOML
  std::string text{};               ///< the case
  double until = 0;                 ///< end of the run [s]
  double work = 0;                  ///< how much it is, in no unit
};

struct Study {
  std::filesystem::path case_file;  ///< from which the runs' cases find their files
  std::string title;
  std::vector<StudyVariable> variables;
  std::vector<StudyResult> results;
  std::vector<StudyRun> runs;  ///< the last variable changes first
  bool sampled = false;        ///< a Latin hypercube, not all combinations
};

/// Reads a study and makes all its cases. Throws an input error with its place in the study file for what cannot be,
/// also where one of the cases cannot.
Study read_study(const std::filesystem::path& file);

/// The same case on so many grids, the finest its own, each with cells twice as large as the next.
Study grid_study(const std::filesystem::path& case_file, int grids);

/// The figures that results can be, as they are written.
const std::vector<std::string>& study_figures();

/// A number with the unit behind it, as in "5 mm"; `number` is false where a TOML value is none.
struct Written {
  bool number = false;
  double value = 0;
  std::string unit;
};
Written written_number(const std::string& toml);

}  // namespace wavy
