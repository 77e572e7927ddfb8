// The run folder: what one run writes, and reading it again.
#pragma once

#include <filesystem>
#include <fstream>
#include <map>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "base/files.hpp"
#include "base/stopwatch.hpp"
#include "case/case_file.hpp"
#include "run/column.hpp"
#include "run/ledger.hpp"

namespace wavy {

/// Name of the run folder for a case file: "tote.toml" -> "tote.run", beside the present folder.
std::filesystem::path standard_run_folder(const std::filesystem::path& case_file);

/// Throws an input error where the folder is there already, unless it is empty, or `force` is set and it is a run
/// folder.
void check_run_folder(const std::filesystem::path& folder, bool force);
/// Makes the folder, where check_run_folder finds nothing wrong; the contents of an earlier run, and nothing else, are
/// removed; what a user has put into it stays. Returns the lock on the folder, which no other run must hold.
FileLock prepare_run_folder(const std::filesystem::path& folder, bool force);
/// The lock on the folder of a run that goes on, with nothing removed. Throws an input error where another holds it.
FileLock lock_run_folder(const std::filesystem::path& folder);

/// Least, greatest and last value of a gauge.
struct GaugeSummary {
  Column column;
  double least = 0, least_time = 0, greatest = 0, greatest_time = 0, last = 0;
  bool read = false;  ///< at least once
};

/// What a line's sections hold, as CSV: place, height, holdup, pressure, velocities, number of the regime (from 0, as
/// line::Regime has them) and of the leg (from 1), mass flows behind them. What gauges read stands there to the bit.
std::string profile_text(const line::Model& model);

/// Writes a run's results as they come. Every failure to write (full disk, rights) is an Error that names the file.
class RunWriter {
 public:
  /// `lock`: as prepare_run_folder has given it. `kept`: what the run's own checkpoint holds; the history is then cut
  /// back to where it stood and goes on from there, with other columns if the gauges are others, and what else has been
  /// written since is forgotten.
  RunWriter(std::filesystem::path folder, FileLock lock, const CaseFile& the_case, const std::vector<Column>& columns,
            Archive* kept = nullptr);
  ~RunWriter();
  RunWriter(const RunWriter&) = delete;
  RunWriter& operator=(const RunWriter&) = delete;
  RunWriter(RunWriter&&) = delete;
  RunWriter& operator=(RunWriter&&) = delete;

  /// A curve known before the run, as estimates/<name>.csv; charts show it beside what came out.
  void estimate(const std::string& name, const std::vector<Column>& columns,
                const std::vector<std::array<double, 2>>& rows);
  void history(const std::vector<double>& row);
  template <int D>
  void snapshot(const VesselModel<D>& model, int number);
  void log(const std::string& line);
  /// The line's sections at one time, as profiles/<number>.csv.
  void profile(const line::Model& model, int number);
  /// Where slugs are now, as rows of tracks.csv.
  void tracks(const line::Model& model);
  /// All that has passed watched places, as slugs.csv.
  void passages(const line::Model& model);
  /// summary.json; `status` is "done", "interrupted" or "failed", `problem` says why it failed.
  void finish(const VesselLedger& ledger, const std::string& status, const std::string& problem = "");
  void finish(const LineLedger& ledger, const std::string& status, const std::string& problem = "");

  /// Adds to a checkpoint what the writer must know to go on, and writes it.
  void checkpoint(Archive& a);

  [[nodiscard]] const std::vector<GaugeSummary>& gauges() const { return gauges_; }
  [[nodiscard]] const std::filesystem::path& folder() const { return folder_; }

 private:
  /// write() writes a state into a folder within the run's. Throws as check_folder does where that goes away in the
  /// midst of it.
  void archive(Archive& a);
  [[nodiscard]] std::string header() const;
  template <class Fn>
  void write_into(const std::filesystem::path& inner, Fn&& write);
  void write_index();
  [[nodiscard]] std::array<std::uintmax_t, 2> identity() const;
  /// Brings the history to the disk. Throws a failure where the folder is no longer the one that the run began in.
  void check_folder();
  void write_summary(const nlohmann::ordered_json& ledger, double ended_at, const std::string& status,
                     const std::string& problem);
  std::filesystem::path folder_;
  FileLock lock_;
  std::array<std::uintmax_t, 2> identity_{};  // of the history, as it was begun
  const CaseFile& case_;
  std::ofstream history_;
  std::ofstream log_;
  std::ofstream tracks_;
  std::vector<GaugeSummary> gauges_;
  long rows_ = 0;  // of the history
  long track_rows_ = 0;
  Stopwatch since_told_;        // since the history was last brought to where others read it
  std::string former_history_;  // file of the history before gauges changed; empty where they have not
  std::vector<std::pair<double, std::string>> snapshots_;  // time, file name
};

/// The ledger as the numbers that scripts want, units in the names. A phase without a name is left out.
nlohmann::ordered_json to_json(const VesselLedger& ledger, const std::vector<std::string>& phase_names);
nlohmann::ordered_json to_json(const LineLedger& ledger, const std::vector<std::string>& phase_names);

struct SnapshotFile {
  double time = 0;
  std::filesystem::path file;
};

/// A run folder as it is read back.
struct RunFolder {
  std::filesystem::path folder;
  bool line = false;                     ///< snapshots are profiles along a line
  std::vector<std::string> slug_gauges;  ///< in the order of the places in slugs.csv
  std::string title;
  std::string status;                 ///< done, interrupted, failed, still going on, or killed
  double ended_at = 0;                ///< time of the last state written [s]
  std::vector<std::string> phases;    ///< the densest first, at least two: the second one empty where gas is left out
  std::string pictured = "fraction";  ///< the field that tells most of the run
  bool tracers = false;               ///< it follows some
  std::vector<SnapshotFile> snapshots;
  long cells = 0;             ///< open ones
  double computed_share = 1;  ///< of the vessel, above 0
  long steps = 0;
  double wall_seconds = 0;
};

/// Throws an input error when the folder is not one that a run has written.
RunFolder open_run_folder(const std::filesystem::path& folder);

}  // namespace wavy
