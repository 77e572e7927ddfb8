// study: one case with values varied, as many runs at once as there are cores.
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <map>
#include <nlohmann/json.hpp>
#include <thread>

#include "app/command_line.hpp"
#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/grid_convergence.hpp"
#include "base/text.hpp"
#include "results/execute.hpp"
#include "results/study_results.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

/// Share of its time that a run has done, by the last line of its history.
double done_share(const fs::path& folder, double until) {
  std::ifstream history(folder / "history.csv", std::ios::binary | std::ios::ate);
  const auto size = static_cast<std::streamoff>(history.tellg());
  if (!history || size <= 0) return 0;
  constexpr std::streamoff tail = 8192;
  std::string text(static_cast<std::size_t>(std::min(size, tail)), ' ');
  history.seekg(size - static_cast<std::streamoff>(text.size()));
  history.read(text.data(), static_cast<std::streamsize>(text.size()));
  const std::size_t end = text.rfind('\n');
  if (end == std::string::npos || end == 0) return 0;
  const std::size_t begin = text.rfind('\n', end - 1);
  const double time = std::strtod(text.c_str() + (begin == std::string::npos ? 0 : begin + 1), nullptr);
  return until > 0 ? std::clamp(time / until, 0.0, 1.0) : 0.0;
}

constexpr int ended_early = 3;  // exit code of a process whose run can go on

/// What one run does in a process of its own, so that nothing that happens to it concerns the others.
int child(const StudyRun& run, const fs::path& case_file, const fs::path& folder, int threads) {
  const fs::path log = folder.string() + ".log";
  const int file = open(log.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (file < 0 || dup2(file, STDOUT_FILENO) < 0 || dup2(file, STDERR_FILENO) < 0) return exit_failed;
  try {
    if (can_go_on(run, folder))
      return resume({{"", folder.string(), false, false, threads}, "", false}) == 0 ? 0 : ended_early;
    const CaseFile the_case = parse_case(run.text, case_file);
    std::function<bool()> stopped;
    RunWatcher watcher;
    watcher.started = [&](const RunStart&) {
      stopped = stop_on_signals();
      mark(run, folder);
    };
    watcher.stop = [&] { return stopped(); };
    const RunOutcome outcome = execute(the_case, {folder, true, threads, nullptr}, watcher);
    print_outcome(the_case, outcome);
    return outcome.books().interrupted ? ended_early : 0;
  } catch (const std::exception& error) {
    fmt::print(stderr, "wavy: {}\n", error.what());
    return exit_failed;
  }
}

/// The first complaint in a run's log.
std::string complaint(const fs::path& folder) {
  constexpr std::uintmax_t longest = 1U << 22U;
  const std::string log = read_file(folder.string() + ".log", longest).value_or("");
  const std::size_t at = log.find("wavy: ");
  if (at == std::string::npos) return "it ended without a word";
  return log.substr(at + 6, log.find('\n', at) - at - 6);
}

/// The runs of a study that are still to be done, in processes.
class Crew {
 public:
  Crew(const Study& study, fs::path folder, int at_once)
      : study_(study), folder_(std::move(folder)), at_once_(at_once) {
    for (const auto& run : study.runs) {
      if (is_done(run, folder_ / run.name)) {
        ++found_;
        continue;
      }
      waiting_.push_back(static_cast<std::size_t>(&run - study.runs.data()));
    }
    all_ = waiting_;
    // The longest first, so that none is left alone at the end.
    std::ranges::stable_sort(waiting_, std::ranges::greater{}, [&](std::size_t r) { return study.runs[r].work; });
  }

  [[nodiscard]] std::size_t found() const { return found_; }
  [[nodiscard]] const std::map<std::size_t, std::string>& failed() const { return failed_; }

  /// Until all are done, or the user asks to stop; then running ones end in order. Returns whether all came to an end.
  bool run(ProgressLine& line) {
    const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
    const int together = std::min(at_once_, static_cast<int>(all_.size()));
    const int threads = std::max(1, cores / std::max(1, together));
    const auto stopped = stop_on_signals();
    bool asked = false;
    int round = 0;
    while (!waiting_.empty() || !running_.empty()) {
      while (!asked && !waiting_.empty() && static_cast<int>(running_.size()) < together) start(threads);
      if (!asked && stopped()) {
        asked = true;
        waiting_.clear();
        for (const auto& [process, r] : running_) kill(process, SIGINT);
      }
      collect();
      constexpr int rarely = 10;  // the shares are read from files
      if (round++ % rarely == 0) show(line);
      if (!running_.empty()) std::this_thread::sleep_for(std::chrono::milliseconds(50));
    }
    return !asked;
  }

 private:
  void start(int threads) {
    const std::size_t r = waiting_.front();
    waiting_.erase(waiting_.begin());
    std::fflush(stdout);
    std::fflush(stderr);
    const pid_t process = fork();
    if (process == 0) {
      const int code = child(study_.runs[r], study_.case_file, folder_ / study_.runs[r].name, threads);
      std::fflush(stdout);
      std::fflush(stderr);
      std::_Exit(code);
    }
    if (process < 0)
      failed_[r] = "no process could be started for it";
    else
      running_[process] = r;
  }

  void collect() {
    int status = 0;
    for (pid_t process = waitpid(-1, &status, WNOHANG); process > 0; process = waitpid(-1, &status, WNOHANG)) {
      const auto found = running_.find(process);
      if (found == running_.end()) continue;
      const std::size_t r = found->second;
      running_.erase(found);
      const fs::path folder = folder_ / study_.runs[r].name;
      if (is_done(study_.runs[r], folder))
        finished_.push_back(r);
      else if (WIFSIGNALED(status))
        failed_[r] = fmt::format("its process was ended by signal {}", WTERMSIG(status));
      else if (WEXITSTATUS(status) != ended_early)
        failed_[r] = complaint(folder);
    }
  }

  void show(ProgressLine& line) {
    double done = 0;
    double all = 0;
    for (const std::size_t r : all_) all += study_.runs[r].work;
    for (const std::size_t r : finished_) done += study_.runs[r].work;
    for (const auto& [r, why] : failed_) done += study_.runs[r].work;
    for (const auto& [process, r] : running_) {
      double& share = shares_[r];
      const fs::path folder = folder_ / study_.runs[r].name;
      if (is_of(study_.runs[r], folder)) share = std::max(share, done_share(folder, study_.runs[r].until));
      done += share * study_.runs[r].work;
    }
    const double wall = since_.seconds();
    const std::string left = done > 0.01 * all ? fmt::format("   {} left", duration(wall * (all - done) / done)) : "";
    line.show(fmt::format("{} of {} runs done{}, {} running{}", found_ + finished_.size(), found_ + all_.size(),
                          failed_.empty() ? "" : fmt::format(", {} failed", failed_.size()), running_.size(), left),
              false);
  }

  const Study& study_;
  fs::path folder_;
  int at_once_;
  std::size_t found_ = 0;  // done before
  std::vector<std::size_t> waiting_, all_, finished_;
  std::map<pid_t, std::size_t> running_;
  std::map<std::size_t, std::string> failed_;
  std::map<std::size_t, double> shares_;
  Stopwatch since_;
};

/// The other values of a run, in words: what a curve over one variable belongs to.
std::string others(const Study& study, const std::vector<StudyColumn>& columns, std::size_t variable, std::size_t run) {
  std::string text;
  for (std::size_t v = 0; v < columns.size(); ++v) {
    if (v == variable) continue;
    const std::string& path = study.variables[v].path;
    const Written value = written_number(study.runs[run].values[v]);
    text += fmt::format("{}{} {}{}", text.empty() ? "" : ", ", path.substr(path.rfind('.') + 1), columns[v].cells[run],
                        columns[v].numbers.empty() || value.unit.empty() ? "" : " " + value.unit);
  }
  return text;
}

/// Each result over each variable that is a number; returns how many were drawn.
int draw_results(const Study& study, const StudyOutcome& outcome, const std::vector<StudyColumn>& columns,
                 const fs::path& folder) {
  int count = 0;
  for (std::size_t v = 0; v < columns.size(); ++v) {
    if (columns[v].numbers.empty()) continue;
    for (std::size_t r = 0; r < study.results.size(); ++r) {
      // In the order of the runs; a sample is a cloud of points.
      std::vector<Curve2D> curves;
      std::vector<std::vector<std::pair<double, double>>> points;
      for (std::size_t i = 0; i < study.runs.size(); ++i) {
        const double value = outcome.runs[i].values[r];
        if (std::isnan(value)) continue;
        const std::string name = study.sampled ? "" : others(study, columns, v, i);
        auto curve = std::ranges::find(curves, name, &Curve2D::name);
        if (curve == curves.end()) {
          curves.push_back({name, {}, {}, study.sampled, false, 1.6, !study.sampled});
          points.emplace_back();
          curve = curves.end() - 1;
        }
        points[static_cast<std::size_t>(curve - curves.begin())].emplace_back(columns[v].numbers[i], value);
      }
      std::size_t most = 0;
      for (std::size_t c = 0; c < curves.size(); ++c) {
        std::ranges::sort(points[c]);
        for (const auto& [x, y] : points[c]) {
          curves[c].x.push_back(x);
          curves[c].y.push_back(y);
        }
        most = std::max(most, points[c].size());
      }
      if (most < 2) continue;
      Panel panel{"", std::move(curves), false, study.results[r].name};
      set_unit_alone(outcome.units[r], panel);
      if (count == 0) fs::create_directories(folder);
      std::string file = fmt::format("{} over {}.png", study.results[r].name, study.variables[v].path);
      std::ranges::replace(file, ' ', '_');
      std::ranges::replace(file, '/', '_');
      draw_chart(study.title, columns[v].heading, {panel}, folder / file);
      ++count;
    }
  }
  return count;
}

/// The table as it stands on the terminal: no more columns and rows than can be taken in.
Rows table_rows(const Study& study, const StudyOutcome& outcome, const std::vector<StudyColumn>& columns,
                const std::map<std::size_t, std::string>& failed) {
  constexpr std::size_t most_rows = 24;
  constexpr std::size_t most_results = 6;
  Rows rows(1);
  for (const auto& column : columns) rows[0].push_back(column.heading);
  const std::size_t results = std::min(most_results, study.results.size());
  for (std::size_t r = 0; r < results; ++r) rows[0].push_back(study.results[r].name);
  rows[0].insert(rows[0].end(), {"cells", "wall time", "state"});
  for (std::size_t i = 0; i < study.runs.size() && i < most_rows; ++i) {
    const StudiedRun& run = outcome.runs[i];
    auto& row = rows.emplace_back();
    for (const auto& column : columns) row.push_back(column.cells[i]);
    for (std::size_t r = 0; r < results; ++r)
      row.push_back(std::isnan(run.values[r]) ? "-" : quantity(run.values[r], outcome.units[r]));
    row.push_back(run.cells > 0 ? fmt::format("{}", run.cells) : "-");
    row.push_back(run.wall_seconds > 0 ? duration(run.wall_seconds) : "-");
    row.push_back(failed.contains(i) ? "failed" : run.status);
  }
  if (study.runs.size() > most_rows) rows.push_back({fmt::format("... and {} more", study.runs.size() - most_rows)});
  return rows;
}

/// Of runs that differ in the size of their cells alone, where there are three or more: what the three finest tell of
/// each result.
void print_grids(const Study& study, const StudyOutcome& outcome, const std::vector<StudyColumn>& columns) {
  for (std::size_t v = 0; v < columns.size(); ++v) {
    if ((study.variables[v].path != "grid.cell" && study.variables[v].path != "line.cell") ||
        columns[v].numbers.empty())
      continue;
    std::vector<std::pair<std::string, std::vector<std::size_t>>> groups;  // in the order of the runs
    for (std::size_t i = 0; i < study.runs.size(); ++i) {
      if (outcome.runs[i].status != "done") continue;
      const std::string name = others(study, columns, v, i);
      auto group = std::ranges::find(groups, name, [](const auto& one) { return one.first; });
      if (group == groups.end()) group = groups.insert(group, {name, {}});
      group->second.push_back(i);
    }
    for (auto& [name, runs] : groups) {
      constexpr std::size_t fewest = 3;
      if (runs.size() < fewest) continue;
      const auto cell = [&](std::size_t i) { return columns[v].numbers[i]; };
      std::ranges::stable_sort(runs, {}, cell);
      const std::array<double, 2> ratios{cell(runs[1]) / cell(runs[0]), cell(runs[2]) / cell(runs[1])};
      Rows rows{grid_headings()};
      for (std::size_t r = 0; r < study.results.size(); ++r) {
        std::array<double, 3> values{};
        for (std::size_t k = 0; k < values.size(); ++k) values[k] = outcome.runs[runs[k]].values[r];
        if (std::ranges::any_of(values, [](double value) { return std::isnan(value); })) continue;
        rows.push_back(grid_row(study.results[r].name, outcome.units[r], values[0], grid_convergence(values, ratios),
                                std::abs(values[0])));
      }
      fmt::print("{} grids{}{}\n{}", runs.size(), name.empty() ? "" : ", ", name, aligned(rows));
    }
  }
}

nlohmann::ordered_json to_json(const Study& study, const StudyOutcome& outcome,
                               const std::map<std::size_t, std::string>& failed) {
  nlohmann::ordered_json out{{"title", study.title}};
  for (std::size_t i = 0; i < study.runs.size(); ++i) {
    const StudiedRun& run = outcome.runs[i];
    nlohmann::ordered_json one{{"run", study.runs[i].name}, {"status", failed.contains(i) ? "failed" : run.status}};
    if (failed.contains(i)) one["problem"] = failed.at(i);
    for (std::size_t v = 0; v < study.variables.size(); ++v)
      one["varied"][study.variables[v].path] = study.runs[i].values[v];
    for (std::size_t r = 0; r < study.results.size(); ++r)
      one["results"][study.results[r].name] = {{"value", run.values[r]}, {"unit", outcome.units[r]}};
    one["cells"] = run.cells;
    one["steps"] = run.steps;
    one["wall_time_s"] = run.wall_seconds;
    out["runs"].push_back(std::move(one));
  }
  return out;
}

}  // namespace

int study(const StudyRequest& request) {
  const Study found = request.grids > 0 ? grid_study(request.file, request.grids) : read_study(request.file);
  const fs::path folder =
      request.folder.empty() ? fs::path(fs::path(request.file).stem().string() + ".study") : fs::path(request.folder);
  const fs::path runs = folder / "runs";
  std::error_code status;
  fs::create_directories(runs, status);
  if (status) throw failure(fmt::format("the folder '{}' cannot be made: {}", runs.string(), status.message()));
  const int cores = std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  Crew crew(found, runs, request.at_once > 0 ? request.at_once : cores);
  if (!request.json) {
    fmt::print("{}: {} runs{}\n", found.title, found.runs.size(),
               crew.found() > 0 ? fmt::format(", {} of them done before", crew.found()) : "");
    std::fflush(stdout);
  }
  ProgressLine line(!request.json);
  const bool complete = crew.run(line);
  line.clear();

  const StudyOutcome outcome = study_outcome(found, runs);
  const fs::path table = folder / "study.csv";
  write_file(table, study_csv(found, outcome));
  std::vector<StudyColumn> columns;
  for (std::size_t v = 0; v < found.variables.size(); ++v) columns.push_back(column_of(found, v));
  const int charts = draw_results(found, outcome, columns, folder / "charts");
  if (request.json) {
    fmt::print("{}\n",
               to_json(found, outcome, crew.failed()).dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
  } else {
    fmt::print("{}", aligned(table_rows(found, outcome, columns, crew.failed())));
    for (std::size_t r = 0; r < found.runs.size(); ++r)
      if (!outcome.runs[r].problem.empty())
        fmt::print("cannot be read: {}: {}\n", found.runs[r].name, outcome.runs[r].problem);
    for (const auto& [r, why] : crew.failed()) fmt::print("failed: {}: {}\n", found.runs[r].name, why);
    print_grids(found, outcome, columns);
    fmt::print("wrote {}{}\n", table.string(),
               charts > 0 ? fmt::format(" and {} charts in {}", charts, (folder / "charts").string()) : "");
    if (!complete) fmt::print("ended before all were done; the same command goes on\n");
  }
  return complete && crew.failed().empty() ? 0 : exit_failed;
}

}  // namespace wavy
