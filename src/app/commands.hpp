// The commands of the program, as functions of what was asked for; each returns its exit code and throws what is wrong.
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "app/picture_words.hpp"
#include "base/stopwatch.hpp"
#include "base/units.hpp"
#include "figures/chart.hpp"
#include "run/simulate.hpp"

namespace wavy {

/// Of a table in text, its headings first (see aligned).
using Rows = std::vector<std::vector<std::string>>;

struct NewRequest {
  std::string scenario;  ///< "" to list them
  std::string file;      ///< "" for the scenario's name here
  bool force = false;
  bool all = false;  ///< every key there is
};
int new_case(const NewRequest& request);
/// Says what a word means, and where a case (or "") sets it; "" lists all keys.
int explain(const std::string& word, const std::string& place);
/// Fluids with a word in their name or kind, at a temperature with unit.
int show_fluids(const std::string& word, const std::string& at, bool json);
int demo(const std::string& folder, bool force);
struct MeasureRequest {
  std::string folder, drain, from, to, chart;
  std::vector<std::string> gauges;  ///< each as a [[gauge]] in one line: read from the snapshots
  std::string gauge_file;           ///< TOML with more of them; "" for none
  std::vector<std::string> beside;  ///< run folders whose distributions are drawn beside it
  std::string measured;             ///< CSV with such a distribution as it was measured; "" for none
  std::string distribution;         ///< name of the gauge whose quantity is shown place by place; "" for none
  std::string pieces;               ///< phase whose drops, bubbles or pools are listed; "" for none
  std::vector<std::string> when;    ///< conditions: "front_level > 40 cm"
  std::vector<std::string> swings;  ///< gauges whose periods are found
  std::string table;                ///< CSV file for what is read from snapshots; "" for none
  std::string map;                  ///< picture of the distribution over distance and time; "" for none
  bool json = false;
};
int measure(const MeasureRequest& request);
struct Table;
enum class Reading;
/// Least, mean and greatest of every column of a history from a time on, and whether it has settled; `what` stands over
/// the names.
Rows gauge_rows(const std::string& what, Reading reading, const Table& history, double from,
                nlohmann::ordered_json& out);
/// What was measured elsewhere, from CSV; says how many rows have no number and are left out.
Table measured_table(const std::string& file);
/// A column of it in an SI unit. Throws an input error where there is none, or it has no such unit.
std::vector<double> measured_column(const Table& table, const std::string& name, const std::string& unit,
                                    const std::string& file);
struct CompareRequest {
  std::vector<std::string> folders;
  std::string from, to, chart;
  std::string measured;           ///< CSV with columns of gauges; "" for none
  std::string interfaces;         ///< picture of interfaces over each other; "" for none
  std::string field, difference;  ///< a quantity whose fields are compared, and a picture of that; "" for none
  std::vector<std::string> at{};  ///< times of these; none: the last that all reach
  std::string section, range;     ///< of these
  bool json = false;
};
int compare(const CompareRequest& request);
/// What compare finds: tables, empty where there is nothing to say.
struct Comparison {
  Rows runs, differences, grids, measured, fields;
  std::string about;  ///< the times, and from which run differences are
  std::string same;   ///< gauges that never change and are the same in all
  std::string none;   ///< gauges that hold nothing but round-off beside others of their unit
  nlohmann::ordered_json json;
};
/// Also draws what is asked for. Throws an input error for what cannot be compared.
Comparison comparison(const CompareRequest& request);
/// Shows a run as it goes on until it ends; `once`, or not on a terminal: as it is now.
int watch(const std::string& folder, bool once, bool json);
struct ReportRequest {
  std::vector<std::string> folders;  ///< the run, and others that it is compared with
  std::string to;                    ///< "" for report.html in the run folder
  std::string measured;              ///< as CompareRequest has it
};
int report(const ReportRequest& request);
struct GridConvergence;
/// A figure on the finest grid, what grids tell of it, and a sentence on whether it can be trusted; `size`: what counts
/// as large for it.
std::vector<std::string> grid_row(const std::string& name, const std::string& unit, double finest,
                                  const GridConvergence& found, double size);
std::vector<std::string> grid_headings();
struct StudyRequest {
  std::string file;    ///< of a study; with `grids` a case
  std::string folder;  ///< "" for the standard one
  int grids = 0;       ///< above 0: the case on so many grids
  int at_once = 0;     ///< runs; 0: as many as there are cores
  bool json = false;
};
int study(const StudyRequest& request);
struct ValidateRequest {
  bool list = false, quick = false, json = false;
  std::vector<std::string> only;
  std::string into = "validation";
};
int validate(const ValidateRequest& request);

int check_case(const std::string& case_file, const std::string& picture, bool json);
struct RunRequest {
  std::string case_file;
  std::string folder;  ///< "" for the standard one
  bool force = false;
  bool json = false;
  int threads = 0;        ///< 0: as many as the cells are worth
  int coarser_first = 0;  ///< how often the cells are doubled for runs before
};
int run_case(const RunRequest& request);
struct ResumeRequest {
  RunRequest run;     ///< of it folder, json and threads
  std::string until;  ///< a time with unit; "" for that of the case
  bool before = false;
};
int resume(const ResumeRequest& request);
struct CaseFile;
/// Runs a case into a folder, with progress and summary on the terminal. `kept`: what the checkpoint of the run holds
/// that goes on there; null for a new one.
int run_to_summary(const CaseFile& the_case, const std::filesystem::path& folder, const RunRequest& request,
                   Archive* kept = nullptr);
/// The case to run after runs of it on cells 2^n, ..., 4 and 2 times as large, n = request.coarser_first, each from the
/// end of the one before, in folders beside that of the run; it begins where the last one has ended. None: one of them
/// was interrupted. Throws an input error where the case cannot be on such cells.
std::optional<CaseFile> after_coarser(const CaseFile& the_case, const std::filesystem::path& folder,
                                      const RunRequest& request);
struct RunOutcome;
struct RunOptions;
struct RunStart;
/// Executes a case, with progress on the terminal where it is `shown`, and `tell` called as the first step begins; ends
/// in order when it is asked to by a signal.
RunOutcome execute_watched(const CaseFile& the_case, const RunOptions& options, bool shown,
                           const std::function<void(const RunStart&)>& tell);
/// "done", "settled" or "interrupted".
std::string ending_of(const RunOutcome& outcome);
void print_outcome(const CaseFile& the_case, const RunOutcome& outcome);
int check_line(const CaseFile& the_case, const std::string& picture, bool json);
struct SnapshotFile;
struct RunFolder;
struct DrawRequest {
  std::string folder;
  PictureSubjects subjects{};     ///< what and sections; none: the fraction, the body
  std::vector<std::string> at{};  ///< times with unit; none: the last snapshot
  PictureWords words{};
  std::string to{};  ///< "" for a file in the run folder's figures/
};
int draw_run(const DrawRequest& request);
/// The snapshot nearest to a time with unit; the last one where it is "". Throws an input error where the run does not
/// reach it.
const SnapshotFile& snapshot_at(const RunFolder& run, const std::string& at);
struct ExportRequest {
  std::string folder;
  std::string what = "history";  ///< or snapshot
  std::string at;                ///< of a snapshot: a time with unit; "" for the last
  std::string units;             ///< "mm, kPa, min"
  std::string to;
};
int export_run(const ExportRequest& request);
struct FilmRequest {
  std::vector<std::string> folders;
  std::string what, section;
  std::string from, to_time;  ///< with units
  PictureWords words;
  std::string to;     ///< "" for a file in the first run folder's figures/
  std::string lasts;  ///< time of the film with unit; "" for twenty pictures a second
};
int film(const FilmRequest& request);
/// Says on standard error what is not as usual with a run that is looked at: killed, failed, still going on; rows of
/// its history that had to be left out.
void note_state(const RunFolder& run, long left_out = 0);
/// All gauges over time, one panel per unit; the phases' volumes are constant in a closed vessel and stay out.
void draw_history(const RunFolder& run, const std::filesystem::path& file);
/// Fronts and tails of a line's slugs over distance and time.
void draw_slugs(const RunFolder& run, const std::filesystem::path& file);
/// Profile of a line at one time: its height coloured by regime, holdup, pressure, speeds.
void draw_profile(const std::string& title, const SnapshotFile& profile, const std::filesystem::path& file);
int write_new_case(const std::string& scenario, const std::string& file, bool force, bool all);

/// A quantity given to an option; throws an input error that names the option where it cannot be read.
double read_option(const std::string& text, const char* option, const Dimension& dimension);
/// The times that --from and --to (or an option of another name) give, or all from 0 to `end`. Throws an input error
/// where they are not within.
std::array<double, 2> read_window(const std::string& from, const std::string& to, double end,
                                  const char* to_option = "--to");
/// Gives all curves of a panel that measure `kind` the unit that reads best, and names the axis.
void set_unit(const std::string& kind, Panel& panel);
/// The same with the unit alone at the axis, for panels that say elsewhere what they show.
void set_unit_alone(const std::string& kind, Panel& panel);

/// Whether nothing is to be said but what is wrong. Set once, before a command begins.
bool& quiet();

/// Percent, step and time left, on one line of the terminal; silent elsewhere.
class ProgressLine {
 public:
  explicit ProgressLine(bool wanted);
  void show(const Progress& p);
  /// What is being done; always where it is the last.
  void show(const std::string& what, bool last);
  void clear() const;

 private:
  [[nodiscard]] bool is_due(bool last);
  bool shown_;
  double last_ = -1;
  Stopwatch since_;
};
/// From now on Ctrl-C and what ends a session ask the run to end in order. The answer to whether they did.
std::function<bool()> stop_on_signals();

}  // namespace wavy
