// run and demo.
#include <fmt/format.h>
#include <omp.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <csignal>
#include <ctime>
#include <filesystem>
#include <memory>
#include <regex>
#include <sstream>

#include "app/commands.hpp"
#include "app/run_to_end.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/case_file.hpp"
#include "results/checkpoint.hpp"
#include "results/run_folder.hpp"
#include "run/estimates.hpp"
#include "run/simulate.hpp"

namespace wavy {
namespace {

struct ResumeRequest {
  std::string folder;
  std::string until;  ///< a time with unit; "" for that of the case
  bool before = false;
  bool json = false;
  int threads = 0;  ///< 0: as many as the cells are worth
};

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

ProgressLine::ProgressLine(bool wanted) : shown_(wanted && isatty(STDERR_FILENO) == 1) {}

void ProgressLine::show(const Progress& p) {
  if (!shown_ || (p.wall_seconds - last_ < 0.2 && p.time < p.until)) return;
  last_ = p.wall_seconds;
  const double done = p.time / p.until;
  const double left = done > 0 ? p.wall_seconds * (1 - done) / done : 0;
  fmt::print(stderr, "\r  {:3.0f} %   t = {:.4g} s of {:.4g} s   step {}, {}   {} left\033[K", 100 * done, p.time,
             p.until, p.steps, quantity(p.dt, "s", 3), duration(left));
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

namespace {

void print_ledger(const Ledger& ledger, const std::array<std::string, 2>& phases,
                  const std::vector<GaugeSummary>& gauges) {
  const auto passed = [](double volume) { return volume > 0 ? quantity(volume, "m3") : std::string("-"); };
  std::vector<std::vector<std::string>> rows{{"phase", "start", "in", "out", "now", "drift"}};
  const std::size_t computed = phases[1].empty() ? 1 : 2;
  for (std::size_t p = 0; p < computed; ++p)
    rows.push_back({phases[p], quantity(ledger.volume_start[p], "m3"), passed(ledger.volume_in[p]),
                    passed(ledger.volume_out[p]), quantity(ledger.volume_now[p], "m3"),
                    fmt::format("{:.1e}", ledger.drift(static_cast<int>(p)))});
  fmt::print("{}", aligned(rows));

  if (!ledger.openings.empty()) {
    rows = {{"opening"}};
    for (std::size_t p = 0; p < computed; ++p) rows[0].insert(rows[0].end(), {phases[p] + " in", "out"});
    for (const auto& through : ledger.openings) {
      rows.push_back({through.opening});
      for (std::size_t p = 0; p < computed; ++p)
        rows.back().insert(rows.back().end(), {passed(through.in[p]), passed(through.out[p])});
    }
    fmt::print("{}", aligned(rows));
  }

  const auto of_opening = [&](const std::string& column) {
    return std::ranges::any_of(ledger.openings, [&](const auto& through) {
      return std::ranges::any_of(phases, [&](const std::string& phase) {
        return std::ranges::any_of(flow_ways,
                                   [&](const char* way) { return column == flow_column(through.opening, phase, way); });
      });
    });
  };
  rows = {{"gauge", "least", "at", "greatest", "at", "last"}};
  for (const auto& gauge : gauges) {
    if (gauge.column.name == "time" || gauge.column.name.ends_with("_volume") || of_opening(gauge.column.name))
      continue;
    const auto& unit = gauge.column.unit;
    rows.push_back({gauge.column.name, quantity(gauge.least, unit), quantity(gauge.least_time, "s"),
                    quantity(gauge.greatest, unit), quantity(gauge.greatest_time, "s"), quantity(gauge.last, unit)});
  }
  fmt::print("{}", aligned(rows));

  std::string limits;
  for (const auto& [name, count] : ledger.limits)
    limits += fmt::format("{}{} {:.0f} %", limits.empty() ? "" : ", ", name,
                          100.0 * static_cast<double>(count) / static_cast<double>(ledger.steps));
  const double steps = std::max(1.0, static_cast<double>(ledger.steps));
  rows = {
      {"steps", fmt::format("{}, from {} to {}; limited by {}", ledger.steps, quantity(ledger.smallest_step, "s", 3),
                            quantity(ledger.largest_step, "s", 3), limits)},
      {"interface", fmt::format("{:.2g} % of {} lies away from the interface in mixed cells (at most {:.2g} %)",
                                100 * ledger.smeared, phases[0], 100 * ledger.greatest_smeared)},
      {"pressure", fmt::format("{:.1f} iterations a step, at most {}; greatest volume error of a cell {:.1e} a step",
                               static_cast<double>(ledger.pressure_iterations) / steps, ledger.most_pressure_iterations,
                               ledger.greatest_divergence)},
      {"time", fmt::format("{}, {:.0f} ns per cell and step", duration(ledger.wall_seconds),
                           ledger.nanoseconds_per_cell_and_step())}};
  if (ledger.unconverged > 0)
    rows.push_back({"warning", fmt::format("the pressure missed its tolerance in {} steps", ledger.unconverged)});
  fmt::print("{}", aligned(rows));
}

/// `kept`: of the run to go on with, null for a new one.
template <int D>
int run(const CaseFile& the_case, const Setup<D>& setup, const std::filesystem::path& folder, const RunRequest& request,
        Archive* kept = nullptr) {
  require_memory(setup);
  const Grid<D> grid = make_grid(setup);
  use_threads(grid.cell_count(), request.threads);
  const auto made = make_model(setup, grid);
  sharp::Model<D>& model = *made;

  RunWriter writer(folder, kept != nullptr ? lock_run_folder(folder) : prepare_run_folder(folder, request.force),
                   the_case, Gauges<D>(setup, model).columns(), kept);
  if (kept == nullptr &&
      std::ranges::any_of(setup.gauges, [](const auto& gauge) { return gauge.measures == Measure::level; }))
    for (std::size_t i = 0; i < setup.openings.size(); ++i)
      if (const auto curve = drain_curve(setup, model, i); !curve.empty())
        writer.estimate("drain_" + setup.openings[i].opening.name,
                        {{"time", "s"}, {fmt::format("Torricelli ({})", setup.openings[i].opening.name), "m"}}, curve);
  const auto problems = warnings(the_case);
  for (const auto& problem : problems) writer.log("warning: " + problem);
  writer.log(fmt::format("{}: {}, {} cells, {} threads", kept != nullptr ? "goes on" : "start", the_case.title,
                         grid.cell_count(), omp_get_max_threads()));
  if (!request.json) {
    fmt::print("{}: {} cells, until {}\n", the_case.title, grid.cell_count(), quantity(setup.schedule.until, "s"));
    if (!problems.empty())
      fmt::print("{} {}; see {} or 'wavy check'\n", problems.size(), problems.size() == 1 ? "warning" : "warnings",
                 (folder / "log.txt").string());
    std::fflush(stdout);
  }

  ProgressLine line(!request.json);
  Ledger ledger;
  Sinks<D> sinks;
  sinks.history = [&](const std::vector<double>& row) { writer.history(row); };
  sinks.snapshot = [&](const sharp::Model<D>& m, int number) {
    writer.snapshot(m, number);
    writer.finish(ledger, "running");
  };
  sinks.progress = [&](const Progress& p) { line.show(p); };
  sinks.stop = stop_on_signals();
  using Clock = std::chrono::steady_clock;
  auto last_kept = Clock::now();
  const auto interval = std::chrono::duration<double>(setup.schedule.checkpoint_interval);
  sinks.checkpoint_due = [&] { return Clock::now() - last_kept >= interval; };
  sinks.checkpoint = [&](Archive& a) {
    std::string as_run = the_case.as_run;
    a("case", as_run);
    writer.checkpoint(a);
    last_kept = Clock::now();
  };

  run_to_end(writer, line, ledger, request.json, [&] { simulate(setup, model, sinks, ledger, kept); });
  const std::array<std::string, 2> phases{setup.phases[0].name, setup.phases[1].name};
  if (!request.json) {
    print_ledger(ledger, phases, writer.gauges());
    fmt::print("wrote {}\nnext: wavy draw {}{}\n", folder.string(), folder.string(),
               ledger.interrupted ? fmt::format(", or to go on: wavy resume {}", folder.string()) : "");
  }
  return ledger.interrupted ? 1 : 0;
}

}  // namespace

void use_threads(long cells, int asked) {
  const int worth = static_cast<int>(std::clamp(cells / cells_per_thread, 1L, 1024L));
  static const int offered = omp_get_max_threads();  // all cores, or what OMP_NUM_THREADS says
  omp_set_num_threads(asked > 0 ? asked : std::min(worth, offered));
}

int run_case(const RunRequest& request) {
  const CaseFile the_case = read_case(request.case_file);
  if (the_case.line) return run_line(the_case, request);
  const std::filesystem::path folder =
      request.folder.empty() ? standard_run_folder(request.case_file) : std::filesystem::path(request.folder);
  return std::visit([&](const auto& setup) { return run(the_case, setup, folder, request); }, the_case.setup);
}

namespace {

/// The keys, as section and name, whose values may change before a run goes on.
bool may_change(const std::string& key) {
  return key == "title" || key == "run.until" || key == "run.largest_step" || key == "run.smallest_step" ||
         key == "run.checkpoint_interval";
}

/// Lines of a case as run, with the section each stands in.
std::vector<std::pair<std::string, std::string>> settings_of(const std::string& as_run) {
  std::vector<std::pair<std::string, std::string>> result;
  std::istringstream lines(as_run);
  std::string section;
  for (std::string line; std::getline(lines, line);) {
    if (line.empty() || line.starts_with("#")) continue;
    if (line.starts_with("["))
      section = line.substr(line.find_first_not_of('['), line.find(']') - line.find_first_not_of('['));
    const std::string name = line.starts_with("[") ? "" : line.substr(0, line.find(' '));
    const std::string key = section.empty() || name.empty() ? name : fmt::format("{}.{}", section, name);
    if (!may_change(key)) result.emplace_back(key, line);
  }
  return result;
}

/// Throws an input error where a case is no longer that of a checkpoint, in what matters.
void check_same_case(const std::filesystem::path& file, const std::string& kept, const std::string& now) {
  const auto before = settings_of(kept);
  const auto after = settings_of(now);
  for (std::size_t i = 0; i < std::max(before.size(), after.size()); ++i) {
    const auto text = [&](const auto& list) { return i < list.size() ? list[i].second : std::string("nothing"); };
    if (text(before) == text(after)) continue;
    throw input_error(
        {file.string(), 0, 0, (i < after.size() ? after[i] : before[i]).first},
        fmt::format("'{}' stands where the run had '{}'", text(after), text(before)),
        "only run.until, largest_step, smallest_step and checkpoint_interval may change; for other changes run the "
        "case anew, if need be with fill shape = \"run\"");
  }
}

/// The newest checkpoint of a run, or the one before.
Archive checkpoint_of(const std::filesystem::path& folder, bool before) {
  const auto newest = folder / checkpoint_name;
  const auto older = folder / checkpoint_before_name;
  std::error_code status;
  if (before || (!std::filesystem::exists(newest, status) && std::filesystem::exists(older, status)))
    return read_checkpoint(older);
  try {
    return read_checkpoint(newest);
  } catch (const Error& error) {
    double time = 0;
    try {
      Archive a = read_checkpoint(older);
      a.within("model", [&] { a("time", time); });
    } catch (const Error&) {
      throw input_error(error.place(), error.problem(), "run the case again: wavy run --force");
    }
    throw input_error(error.place(), error.problem(),
                      fmt::format("the checkpoint before it, at t = {}, is good: say --before to go on from there",
                                  quantity(time, "s")));
  }
}

int resume(const ResumeRequest& request) {
  namespace fs = std::filesystem;
  const fs::path folder = request.folder;
  open_run_folder(folder);
  CaseFile the_case = read_case(folder / "case.toml");
  if (the_case.line)
    throw input_error({folder.string(), 0, 0, ""}, "runs of lines keep no checkpoints",
                      "run the case again, with --force");
  Archive kept = checkpoint_of(folder, request.before);
  double time = 0;
  kept.within("model", [&] { kept("time", time); });
  std::string as_run;
  kept("case", as_run);
  check_same_case(folder / "case.toml", as_run, the_case.as_run);
  return std::visit(
      [&](auto& setup) {
        if (!request.until.empty()) {
          UnitProblem problem;
          const auto until = read_quantity(request.until, dimension::time, problem);
          if (!until) throw input_error({"", 0, 0, "--until"}, problem.what, problem.remedy);
          setup.schedule.until = *until;
          const std::regex line("\nuntil = [^\n]*");
          the_case.as_run = std::regex_replace(the_case.as_run, line, fmt::format("\nuntil = \"{:.17g} s\"", *until));
        }
        if (!(setup.schedule.until > time))
          throw input_error({folder.string(), 0, 0, ""},
                            fmt::format("this run has reached its end at t = {}", quantity(time, "s")),
                            "to go on, name a later one, such as --until '2 min'");
        return run(the_case, setup, folder,
                   {.case_file = "", .folder = "", .json = request.json, .threads = request.threads}, &kept);
      },
      the_case.setup);
}

}  // namespace

void add_resume(CLI::App& app) {
  auto request = std::make_shared<ResumeRequest>();
  auto* command = app.add_subcommand("resume", "Go on with a run that was stopped or killed, or beyond its end");
  command->add_option("run", request->folder, "Run folder")->required();
  command->add_option("--until", request->until, "Another end, for example --until '20 s'");
  command->add_flag("--before", request->before, "From the checkpoint before the newest");
  command->add_option("--threads", request->threads, "Processor cores to use, as in run")->check(CLI::Range(1, 1024));
  command->add_flag("--json", request->json, "Print the summary as JSON (SI units) at the end, nothing else");
  command->callback([request] { exit_code() = resume(*request); });
}

void add_run(CLI::App& app) {
  auto request = std::make_shared<RunRequest>();
  auto* command = app.add_subcommand("run", "Run a case; Ctrl-C ends it in order");
  command->add_option("case", request->case_file, "Case file")->required();
  command->add_option("--into", request->folder, "Run folder; left out: CASE.run here");
  command->add_flag("--force", request->force, "Replace an earlier run in that folder");
  command
      ->add_option("--threads", request->threads,
                   "Processor cores to use; left out: as many as the cells are worth. The result does not depend on it")
      ->check(CLI::Range(1, 1024));
  command->add_flag("--json", request->json, "Print the summary as JSON (SI units) at the end, nothing else");
  command->callback([request] { exit_code() = run_case(*request); });
}

void add_demo(CLI::App& app) {
  auto folder = std::make_shared<std::string>("demo");
  auto force = std::make_shared<bool>(false);
  auto* command =
      app.add_subcommand("demo", "Write, check, run and draw the braking hydrosol tote of Hollin Fold (half a minute)");
  command->add_option("folder", *folder, "Folder for everything")->capture_default_str();
  command->add_flag("--force", *force, "Replace an earlier demo");
  command->callback([folder, force] {
    namespace fs = std::filesystem;
    std::error_code status;
    fs::create_directories(*folder, status);
    if (status) throw failure(fmt::format("the folder '{}' cannot be made: {}", *folder, status.message()));
    const std::string file = (fs::path(*folder) / "tote_braking.toml").string();
    const std::string run_folder = (fs::path(*folder) / "tote_braking.run").string();
    write_new_case("tote_braking", file, *force, false);
    fmt::print("$ wavy new tote_braking {}\n\n$ wavy check {}\n", file, file);
    check_case(file, (fs::path(*folder) / "tote_braking.check.png").string(), false);
    fmt::print("\n$ wavy run {} --into {}\n", file, run_folder);
    exit_code() = run_case({file, run_folder, *force, false, 0});
    if (exit_code() != 0) return;
    fmt::print("\n$ wavy draw {} (six pictures)\n", run_folder);
    for (const auto& [what, at] :
         std::initializer_list<std::pair<const char*, const char*>>{{"fraction", "0.6 s"},
                                                                    {"fraction", "1.2 s"},
                                                                    {"speed", "0.6 s"},
                                                                    {"pressure", "0.6 s"},
                                                                    {"dynamic_pressure", "0.6 s"},
                                                                    {"history", ""}})
      draw_run({.folder = run_folder, .what = what, .at = at, .section = "", .to = ""});
  });
}

}  // namespace wavy
