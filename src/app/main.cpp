// wavy: gas-liquid and liquid-liquid flow in tanks, pipes and separators.
#include <fmt/format.h>

#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <exception>
#include <new>

#include "app/command_line.hpp"
#include "base/error.hpp"

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
