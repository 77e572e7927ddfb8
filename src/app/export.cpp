// export: a history, a snapshot or an interface for other programs.
#include <fmt/format.h>

#include <filesystem>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "figures/interface_shape.hpp"
#include "results/run_folder.hpp"
#include "results/snapshot_table.hpp"
#include "results/vtkhdf_file.hpp"

namespace wavy {
namespace {

/// "mm, kPa, min" one by one.
std::vector<std::string> units_of(const std::string& text) {
  std::vector<std::string> units;
  std::string_view rest = text;
  while (!rest.empty()) {
    const std::size_t comma = std::min(rest.find(','), rest.size());
    if (const auto unit = trimmed(rest.substr(0, comma)); !unit.empty()) units.emplace_back(unit);
    rest.remove_prefix(std::min(comma + 1, rest.size()));
  }
  return units;
}

}  // namespace

int export_run(const ExportRequest& request) {
  namespace fs = std::filesystem;
  const RunFolder run = open_run_folder(request.folder);
  const bool history = request.what == "history";
  if (history && !request.at.empty())
    throw input_error({"", 0, 0, "--at"}, "a history is of all times", "leave it out, or say --what snapshot");
  if (run.line && request.what == "interface")
    throw input_error({"", 0, 0, "--what"}, "a line has no interface", "choose history or snapshot");
  const fs::path file = request.to;
  const std::string ending = file.extension().string();
  const bool grid = request.what == "snapshot" && !run.line && (ending == ".vtu" || ending == ".vtkhdf");
  const bool surface = request.what == "interface" && ending == ".stl";
  if (!(grid || surface || ending == ".csv"))
    throw input_error({"", 0, 0, "--to"},
                      fmt::format("'{}' does not end in {}", file.string(),
                                  request.what == "interface"               ? ".stl (3-D) or .csv (2-D)"
                                  : request.what == "snapshot" && !run.line ? ".csv, .vtu or .vtkhdf"
                                                                            : ".csv"),
                      "choose such a name");
  if ((grid || surface) && !request.units.empty())
    throw input_error({"", 0, 0, "--units"}, "such a file is in SI units", "leave it out");
  std::error_code status;
  if (fs::equivalent(file, run.folder / "history.csv", status))
    throw input_error({"", 0, 0, "--to"}, "this is the run's own history", "choose another name");
  const SnapshotFile& snapshot = snapshot_at(run, request.at);
  if (fs::equivalent(file, snapshot.file, status))
    throw input_error({"", 0, 0, "--to"}, "this is the run's own snapshot", "choose another name");
  if (grid || surface) {
    if (surface) {
      write_file(file, interface_stl(snapshot.file));
    } else if (ending == ".vtkhdf") {
      write_vtkhdf(snapshot.file, file);
    } else {
      constexpr std::uintmax_t longest = 1ULL << 36U;
      write_file(file, read_file(snapshot.file, longest).value_or(""));
    }
    note_state(run);
    fmt::print("wrote {}: t = {}\n", file.string(), quantity(snapshot.time, "s"));
    return 0;
  }
  long left_out = 0;
  Table table = history                       ? read_csv(run.folder / "history.csv", &left_out)
                : request.what == "interface" ? interface_lines(snapshot.file)
                                              : snapshot_table(snapshot.file);
  note_state(run, left_out);
  for (const auto& unit : units_of(request.units))
    if (const auto problem = change_unit(table, unit))
      throw input_error({"", 0, 0, "--units"}, *problem, "write units of what is measured, such as 'mm, kPa, min'");
  write_file(file, csv_text(table));
  fmt::print("wrote {}: {} columns, {} rows\n", file.string(), table.names.size(), table.columns[0].size());
  return 0;
}

}  // namespace wavy
