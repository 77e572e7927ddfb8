// run and demo.
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <csignal>
#include <ctime>
#include <filesystem>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "results/execute.hpp"

namespace wavy {
namespace {

std::atomic<long> asked_to_stop{0};  // NOLINT(cppcoreguidelines-avoid-non-const-global-variables): a signal sets it
static_assert(std::atomic<long>::is_always_lock_free, "set in a signal handler");

/// Asks the run to end in order. Asked again more than a second later, the program ends at once; launchers deliver one
/// Ctrl-C twice, within moments.
extern "C" void on_signal(int) {
  timespec now{};
  clock_gettime(CLOCK_MONOTONIC, &now);
  long none = 0;
  if (!asked_to_stop.compare_exchange_strong(none, now.tv_sec) && now.tv_sec > none + 1) std::_Exit(1);
}

}  // namespace

bool& quiet() {
  static bool wanted = false;
  return wanted;
}

ProgressLine::ProgressLine(bool wanted) : shown_(wanted && !quiet() && isatty(STDERR_FILENO) == 1) {}

bool ProgressLine::is_due(bool last) {
  const double now = since_.seconds();
  if (!shown_ || (now - last_ < 0.2 && !last)) return false;
  last_ = now;
  return true;
}

void ProgressLine::show(const Progress& p) {
  if (!is_due(p.time >= p.until)) return;
  const double done = p.time / p.until;
  const double left = p.time > p.from ? p.wall_seconds * (p.until - p.time) / (p.time - p.from) : 0;
  fmt::print(stderr, "\r  {:3.0f} %   t = {:.4g} s of {:.4g} s   step {}, {}   {} left\033[K", 100 * done, p.time,
             p.until, p.steps, quantity(p.dt, "s", 3), duration(left));
  std::fflush(stderr);
}

void ProgressLine::show(const std::string& what, bool last) {
  if (!is_due(last)) return;
  fmt::print(stderr, "\r  {}\033[K", what);
  std::fflush(stderr);
}

void ProgressLine::clear() const {
  if (shown_) fmt::print(stderr, "\r\033[K");
}

std::function<bool()> stop_on_signals() {
  asked_to_stop = 0;
  struct sigaction action {};
  action.sa_handler = on_signal;
  // A terminal that goes, and a file that becomes too long (whose writing then fails and says so), are asked the same.
  for (const int signal : {SIGINT, SIGTERM, SIGHUP, SIGXFSZ}) sigaction(signal, &action, nullptr);
  return [] { return asked_to_stop.load() > 0; };
}

RunOutcome execute_watched(const CaseFile& the_case, const RunOptions& options, bool shown,
                           const std::function<void(const RunStart&)>& tell) {
  ProgressLine line(shown);
  std::function<bool()> stopped;  // while the case is prepared Ctrl-C ends the program
  RunWatcher watcher;
  watcher.started = [&](const RunStart& start) {
    stopped = stop_on_signals();
    if (shown) tell(start);
    std::fflush(stdout);
  };
  watcher.progress = [&](const Progress& p) { line.show(p); };
  watcher.stop = [&] { return stopped(); };
  try {
    RunOutcome outcome = execute(the_case, options, watcher);
    line.clear();
    return outcome;
  } catch (...) {
    line.clear();
    throw;
  }
}

/// Runs a case as a command does, with progress and summary on the terminal.
int run_to_summary(const CaseFile& the_case, const std::filesystem::path& folder, const RunRequest& request,
                   Archive* kept) {
  const auto tell = [&](const RunStart& start) {
    const std::string from = kept != nullptr ? fmt::format("on from {} ", quantity(start.time, "s")) : "";
    fmt::print("{}: {} cells, {}until {}\n", the_case.title, start.cells, from,
               quantity(schedule_of(the_case).until, "s"));
    if (const auto count = start.warnings.size(); count > 0)
      fmt::print("{} {}; see {} or 'wavy check'\n", count, count == 1 ? "warning" : "warnings",
                 (folder / "log.txt").string());
  };
  const RunOutcome outcome =
      execute_watched(the_case, {folder, request.force, request.threads, kept}, !request.json, tell);
  const bool interrupted = outcome.books().interrupted;
  if (request.json) {
    constexpr std::uintmax_t longest = 1U << 30U;
    fmt::print("{}", read_file(folder / "summary.json", longest).value_or(""));
    return interrupted ? 1 : 0;
  }
  print_outcome(the_case, outcome);
  const std::string name = folder.string();
  fmt::print("wrote {}\nnext: wavy draw {}{}{}\n", name, name,
             line_of(the_case) != nullptr ? fmt::format("; wavy measure {}", name) : "",
             interrupted ? fmt::format(", or to go on: wavy resume {}", name) : "");
  return interrupted ? 1 : 0;
}

int run_case(const RunRequest& request) {
  const CaseFile the_case = read_case(request.case_file);
  const std::filesystem::path folder =
      request.folder.empty() ? standard_run_folder(request.case_file) : std::filesystem::path(request.folder);
  if (request.coarser_first == 0) return run_to_summary(the_case, folder, request);
  const auto last = after_coarser(the_case, folder, request);
  return last ? run_to_summary(*last, folder, request) : 1;
}

int demo(const std::string& folder, bool force) {
  namespace fs = std::filesystem;
  std::error_code status;
  fs::create_directories(folder, status);
  if (status) throw failure(fmt::format("the folder '{}' cannot be made: {}", folder, status.message()));
  const std::string file = (fs::path(folder) / "tote_braking.toml").string();
  const std::string run_folder = (fs::path(folder) / "tote_braking.run").string();
  write_new_case("tote_braking", file, force, false);
  fmt::print("$ wavy new tote_braking {}\n\n$ wavy check {}\n", file, file);
  check_case(file, (fs::path(folder) / "tote_braking.check.png").string(), false);
  fmt::print("\n$ wavy run {} --into {}\n", file, run_folder);
  if (const int code = run_case({.case_file = file, .folder = run_folder, .force = force}); code != 0) return code;
  fmt::print("\n$ wavy draw {} (six pictures)\n", run_folder);
  for (const auto& [what, at] :
       std::initializer_list<std::pair<const char*, const char*>>{{"fraction", "0.6 s"},
                                                                  {"fraction", "1.2 s"},
                                                                  {"speed", "0.6 s"},
                                                                  {"pressure", "0.6 s"},
                                                                  {"dynamic_pressure", "0.6 s"},
                                                                  {"history", ""}})
    draw_run({.folder = run_folder,
              .subjects = {{what}, {}},
              .at = *at == '\0' ? std::vector<std::string>{} : std::vector<std::string>{at}});
  return 0;
}

}  // namespace wavy
