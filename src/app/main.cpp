// wavy: gas-liquid and liquid-liquid flow in tanks, pipes and separators.
#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <cstdio>
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

int command_line(int argc, char** argv) {
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
  add_draw(app);
  add_explain(app);
  add_fluids(app);
  add_demo(app);
  add_measure(app);
  add_validate(app);
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
  try {
    return wavy::command_line(argc, argv);
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
