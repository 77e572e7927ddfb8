// What every model's run has in common at the command line: how its end is written down and told.
#pragma once

#include <fmt/format.h>

#include <cstdint>
#include <string>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "results/run_folder.hpp"

namespace wavy {

/// Runs `simulate`, which keeps the ledger, and writes down how it ended; a failure goes on to the caller. Prints the
/// summary as JSON, or that it is done.
template <class Ledger, class Simulate>
void run_to_end(RunWriter& writer, const ProgressLine& line, const Ledger& ledger, bool json, Simulate&& simulate) {
  try {
    simulate();
  } catch (const Error& error) {
    line.clear();
    try {
      writer.log(std::string("failed: ") + error.what());
      writer.finish(ledger, "failed", error.problem());
    } catch (const Error&) {
      // A full disk: the first error is the one to report.
    }
    throw;
  }
  line.clear();
  const std::string status = ledger.interrupted ? "interrupted" : "done";
  writer.log(fmt::format("{} at t = {:.6g} s after {} steps", status, ledger.ended_at, ledger.steps));
  writer.finish(ledger, status);
  if (json) {
    constexpr std::uintmax_t longest = 1U << 30U;
    fmt::print("{}", read_file(writer.folder() / "summary.json", longest).value_or(""));
  } else {
    fmt::print("{} at t = {}\n", status, quantity(ledger.ended_at, "s"));
  }
}

}  // namespace wavy
