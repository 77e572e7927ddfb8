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

#include "app/commands.hpp"
#include "app/run_to_end.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"
#include "run/estimates.hpp"
#include "run/simulate.hpp"

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

template <int D>
int run(const CaseFile& the_case, const Setup<D>& setup, const std::filesystem::path& folder, const RunRequest& request,
        Archive* kept) {
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
  return run_vessel(the_case, folder, request);
}

int run_vessel(const CaseFile& the_case, const std::filesystem::path& folder, const RunRequest& request,
               Archive* kept) {
  return std::visit([&](const auto& setup) { return run(the_case, setup, folder, request, kept); }, the_case.setup);
}

void add_run_options(CLI::App& command, RunRequest& request) {
  command
      .add_option("--threads", request.threads,
                  "Processor cores to use; left out: as many as the cells are worth. The result does not depend on it")
      ->check(CLI::Range(1, 1024));
  command.add_flag("--json", request.json, "Print the summary as JSON (SI units) at the end, nothing else");
}

void add_run(CLI::App& app) {
  auto request = std::make_shared<RunRequest>();
  auto* command = app.add_subcommand("run", "Run a case; Ctrl-C ends it in order");
  command->add_option("case", request->case_file, "Case file")->required();
  command->add_option("--into", request->folder, "Run folder; left out: CASE.run here");
  command->add_flag("--force", request->force, "Replace an earlier run in that folder");
  add_run_options(*command, *request);
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
