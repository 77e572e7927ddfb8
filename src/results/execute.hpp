// Running a case into a folder, without a word to anybody: what every command that runs one calls.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <variant>
#include <vector>

#include "base/archive.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"
#include "run/ledger.hpp"
#include "run/simulate.hpp"

namespace wavy {

struct RunOptions {
  std::filesystem::path folder;
  bool force = false;       ///< replace an earlier run there
  int threads = 0;          ///< 0: as many as the cells are worth
  Archive* kept = nullptr;  ///< what the checkpoint holds of the run that goes on there; null for a new one
};

/// What is known when the first step begins.
struct RunStart {
  long cells = 0;
  double time = 0;  ///< [s]
  std::vector<std::string> warnings;
};

/// Who looks on. All may be left out.
struct RunWatcher {
  std::function<void(const RunStart&)> started;
  std::function<void(const Progress&)> progress;  ///< after every step
  std::function<bool()> stop;                     ///< true: end in order now
};

struct RunOutcome {
  std::variant<VesselLedger, LineLedger> ledger;
  std::vector<GaugeSummary> gauges;

  [[nodiscard]] const RunLedger& books() const {
    return std::visit([](const auto& one) -> const RunLedger& { return one; }, ledger);
  }
};

/// Runs a case to its end, or until it is asked to stop, and writes all there is to write into the folder. Throws an
/// input error where the case or the folder will not do; a failure of the run goes on to the caller when the folder
/// tells of it.
RunOutcome execute(const CaseFile& the_case, const RunOptions& options, const RunWatcher& watcher = {});

/// Sets the number of threads: as asked, or (0) as many as this many cells are worth.
void use_threads(long cells, int asked);

}  // namespace wavy
