// wavy: gas-liquid and liquid-liquid flow in tanks, pipes and separators.
#include <fmt/format.h>
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <exception>

#include "app/commands.hpp"
#include "base/error.hpp"

namespace wavy {

int& exit_code() {
  static int code = 0;
  return code;
}

namespace {

constexpr int exit_failed = 1;
constexpr int exit_wrong_input = 2;

/// Lets threads sleep while they wait for each other. Where they spin instead, as is usual, two runs on the same cores
/// take ten times as long as one. What says so is read before main begins: the program starts over, once.
void let_threads_sleep(char** argv) {
  if (getenv("OMP_WAIT_POLICY") != nullptr || getenv("GOMP_SPINCOUNT") != nullptr) return;
  if (setenv("OMP_WAIT_POLICY", "passive", 1) == 0) execv("/proc/self/exe", argv);  // goes on below where it cannot
}

/// Under a launcher that starts several ranks each would do the same work and write the same files.
void refuse_ranks() {
  for (const auto& [size, rank] :
       {std::pair{"OMPI_COMM_WORLD_SIZE", "OMPI_COMM_WORLD_RANK"}, {"PMI_SIZE", "PMI_RANK"}}) {
    const char* ranks = getenv(size);
    if (ranks == nullptr || std::atoi(ranks) <= 1) continue;
    const char* own = getenv(rank);
    if (own != nullptr && std::atoi(own) > 0) std::_Exit(exit_wrong_input);  // the first one speaks for all
    throw input_error(
        {}, fmt::format("the program was started on {} ranks; it runs on one", ranks),
        "start it without a launcher, or on one rank; 'wavy run --threads N' says how many cores it uses");
  }
}

int command_line(int argc, char** argv) {
  refuse_ranks();
  CLI::App app(
      "Simulates gas-liquid and liquid-liquid flow in tanks, pipes and separators.\n"
      "First steps: wavy new tote_braking; wavy check tote_braking.toml; wavy run tote_braking.toml; wavy draw "
      "tote_braking.run",
      "wavy");
  app.set_version_flag("--version", "wavy " WAVY_VERSION);
  app.require_subcommand(1);
  app.failure_message([](const CLI::App*, const CLI::Error& error) {
    return std::string("wavy: ") + error.what() + "\n  see: wavy --help, or --help behind a command\n";
  });
  add_new(app);
  add_check(app);
  add_run(app);
  add_resume(app);
  add_draw(app);
  add_explain(app);
  add_fluids(app);
  add_demo(app);
  add_measure(app);
  add_validate(app);
  for (const char* computes : {"check", "run", "resume", "demo", "validate"})
    app.get_subcommand(computes)->preparse_callback([argv](std::size_t) { let_threads_sleep(argv); });
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    return app.exit(error) == 0 ? 0 : exit_wrong_input;
  }
  return exit_code();
}

}  // namespace
}  // namespace wavy

int main(int argc, char** argv) {
  // A reader that goes away and a file that becomes too long must not end the program: writing then fails and is told.
  std::signal(SIGPIPE, SIG_IGN);
  std::signal(SIGXFSZ, SIG_IGN);
  try {
    const int code = wavy::command_line(argc, argv);
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0) {
      std::fprintf(stderr, "wavy: what was to be printed could not be: %s\n", std::strerror(errno));
      return wavy::exit_failed;
    }
    return code;
  } catch (const wavy::Error& error) {
    fmt::print(stderr, "wavy: {}\n", error.what());
    return error.fault() == wavy::Fault::input ? wavy::exit_wrong_input : wavy::exit_failed;
  } catch (const std::bad_alloc&) {
    std::fputs("wavy: there is not enough memory\n  choose a larger grid.cell; 'wavy check' estimates the memory\n",
               stderr);
    return wavy::exit_failed;
  } catch (const std::exception& error) {
    std::fprintf(stderr, "wavy: %s\n", error.what());
    return wavy::exit_failed;
  }
}
