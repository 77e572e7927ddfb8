// What a study collects from its runs.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "case/study_file.hpp"

namespace wavy {

/// One run of a study, as far as it has come.
struct StudiedRun {
  std::string status;          ///< done, interrupted, failed, refused, waiting, killed ...
  std::string problem;         ///< why its results cannot be read
  std::vector<double> values;  ///< of each result, in SI units; NaN where there is none
  long cells = 0;
  long steps = 0;
  double wall_seconds = 0;
};

/// The state of every run in a study's folder of runs, and their results as far as they are done.
struct StudyOutcome {
  std::vector<std::string> units;  ///< of the results; "" where no run has that gauge
  std::vector<StudiedRun> runs;    ///< as in the study
};
StudyOutcome study_outcome(const Study& study, const std::filesystem::path& runs);

/// Whether the run in a folder is this one: its case has the same text.
bool is_of(const StudyRun& run, const std::filesystem::path& folder);
/// The same, done.
bool is_done(const StudyRun& run, const std::filesystem::path& folder);
/// Not done, with a checkpoint from which it can go on.
bool can_go_on(const StudyRun& run, const std::filesystem::path& folder);
/// Notes in a folder which run it holds.
void mark(const StudyRun& run, const std::filesystem::path& folder);

/// A row per run: its name, what is varied, results, cells, steps, wall time and status. Numbers with one unit in all
/// runs have it in the heading; words stand in quotation marks.
std::string study_csv(const Study& study, const StudyOutcome& outcome);

/// Heading, and number or word, of a variable in every run.
struct StudyColumn {
  std::string heading;
  std::vector<std::string> cells;
  std::vector<double> numbers;  ///< empty where any is a word
};
StudyColumn column_of(const Study& study, std::size_t variable);

}  // namespace wavy
