#include "results/study_results.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/history_figures.hpp"
#include "base/swings.hpp"
#include "base/table.hpp"
#include "results/checkpoint.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

constexpr double no_value = std::numeric_limits<double>::quiet_NaN();
constexpr const char* mark_name = "study_case.toml";  // the text of the case that a run is of
constexpr std::uintmax_t longest_case = 1U << 22U;

std::string marked(const fs::path& folder) { return read_file(folder / mark_name, longest_case).value_or(""); }

/// A figure of a gauge; NaN where there is none.
double figure_of(const Table& history, std::size_t column, const StudyResult& result) {
  using Figure = StudyResult::Figure;
  const auto& time = history.columns[0];
  const auto& values = history.columns[column];
  const double to = result.to < 0 ? time.back() : result.to;
  const auto figures = history_figures(time, values, result.from, to);
  if (!figures) return no_value;
  const bool swings_wanted = result.figure == Figure::period || result.figure == Figure::amplitude;
  const auto found = swings_wanted ? swings(time, values, result.from, to, 1) : std::vector<Swing>();
  switch (result.figure) {
    case Figure::least:
      return figures->least;
    case Figure::mean:
      return figures->mean;
    case Figure::greatest:
      return figures->greatest;
    case Figure::last:
      return figures->last;
    case Figure::span:
      return figures->greatest - figures->least;
    case Figure::time_of_least:
      return figures->at_least;
    case Figure::time_of_greatest:
      return figures->at_greatest;
    case Figure::period:
      return found.empty() ? no_value : found.front().period;
    case Figure::amplitude:
      return found.empty() ? no_value : found.front().amplitude;
  }
  return no_value;
}

bool is_time(StudyResult::Figure figure) {
  using Figure = StudyResult::Figure;
  return figure == Figure::time_of_least || figure == Figure::time_of_greatest || figure == Figure::period;
}

/// For a cell of a CSV file.
std::string quoted(const std::string& text) {
  std::string result = "\"";
  for (const char c : text) {
    if (c == '"') result += '"';
    result += c == '\n' ? ' ' : c;
  }
  return result + "\"";
}

std::string number(double value) { return std::isnan(value) ? "" : fmt::format("{:.10g}", value); }

}  // namespace

bool is_of(const StudyRun& run, const fs::path& folder) { return marked(folder) == run.text; }

bool is_done(const StudyRun& run, const fs::path& folder) {
  if (!is_of(run, folder)) return false;
  try {
    return open_run_folder(folder).status == "done";
  } catch (const Error&) {
    return false;
  }
}

bool can_go_on(const StudyRun& run, const fs::path& folder) {
  std::error_code status;
  if (!is_of(run, folder) || !fs::exists(folder / checkpoint_name, status)) return false;
  try {
    const std::string now = open_run_folder(folder).status;
    return now != "done" && now != "failed" && now != "still going on";
  } catch (const Error&) {
    return false;
  }
}

void mark(const StudyRun& run, const fs::path& folder) { write_file(folder / mark_name, run.text); }

StudyOutcome study_outcome(const Study& study, const fs::path& runs) {
  StudyOutcome outcome{std::vector<std::string>(study.results.size()), {}};
  for (const auto& run : study.runs) {
    StudiedRun& found = outcome.runs.emplace_back();
    found.values.assign(study.results.size(), no_value);
    found.status = "waiting";
    const fs::path folder = runs / run.name;
    if (!is_of(run, folder)) continue;
    try {
      const RunFolder of = open_run_folder(folder);
      found.status = of.status;
      found.cells = of.cells;
      found.steps = of.steps;
      found.wall_seconds = of.wall_seconds;
      if (of.status != "done") continue;
      const Table history = read_csv(folder / "history.csv");
      for (std::size_t r = 0; r < study.results.size(); ++r) {
        const int column = history.find(study.results[r].gauge);
        if (column <= 0 || history.columns[0].empty()) continue;
        found.values[r] = figure_of(history, static_cast<std::size_t>(column), study.results[r]);
        outcome.units[r] = is_time(study.results[r].figure) ? "s" : history.units[static_cast<std::size_t>(column)];
      }
    } catch (const Error& error) {
      found.problem = error.problem();
    }
  }
  return outcome;
}

StudyColumn column_of(const Study& study, std::size_t variable) {
  std::vector<Written> written;
  for (const auto& run : study.runs) written.push_back(written_number(run.values[variable]));
  const bool alike =
      std::ranges::all_of(written, [&](const Written& one) { return one.number && one.unit == written.front().unit; });
  StudyColumn column;
  const std::string& path = study.variables[variable].path;
  column.heading = alike && !written.front().unit.empty() ? fmt::format("{} [{}]", path, written.front().unit) : path;
  for (std::size_t r = 0; r < study.runs.size(); ++r) {
    if (alike) {
      column.numbers.push_back(written[r].value);
      column.cells.push_back(fmt::format("{:g}", written[r].value));
    } else {
      std::string text = study.runs[r].values[variable];
      std::erase(text, '"');
      column.cells.push_back(std::move(text));
    }
  }
  return column;
}

std::string study_csv(const Study& study, const StudyOutcome& outcome) {
  std::string text = "run";
  std::vector<StudyColumn> columns;
  for (std::size_t v = 0; v < study.variables.size(); ++v) {
    columns.push_back(column_of(study, v));
    text += "," + columns.back().heading;
  }
  for (std::size_t r = 0; r < study.results.size(); ++r)
    text += fmt::format(",{}{}", study.results[r].name,
                        outcome.units[r].empty() ? "" : fmt::format(" [{}]", outcome.units[r]));
  text += ",cells,steps,wall_time [s],status\n";
  for (std::size_t r = 0; r < study.runs.size(); ++r) {
    const StudiedRun& run = outcome.runs[r];
    text += quoted(study.runs[r].name);
    for (const auto& column : columns)
      text += "," + (column.numbers.empty() ? quoted(column.cells[r]) : column.cells[r]);
    for (const double value : run.values) text += "," + number(value);
    text += fmt::format(",{},{},{},{}\n", run.cells, run.steps, number(run.wall_seconds), run.status);
  }
  return text;
}

}  // namespace wavy
