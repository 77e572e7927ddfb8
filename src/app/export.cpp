// export: a history or a snapshot as CSV, in units of choice.
#include <fmt/format.h>

#include <filesystem>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "results/run_folder.hpp"
#include "results/snapshot_table.hpp"

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
  const fs::path file = request.to;
  if (file.extension() != ".csv")
    throw input_error({"", 0, 0, "--to"}, fmt::format("'{}' does not end in .csv", file.string()),
                      "choose such a name");
  std::error_code status;
  if (fs::equivalent(file, run.folder / "history.csv", status))
    throw input_error({"", 0, 0, "--to"}, "this is the run's own history", "choose another name");
  long left_out = 0;
  Table table =
      history ? read_csv(run.folder / "history.csv", &left_out) : snapshot_table(snapshot_at(run, request.at).file);
  note_state(run, left_out);
  for (const auto& unit : units_of(request.units))
    if (const auto problem = change_unit(table, unit))
      throw input_error({"", 0, 0, "--units"}, *problem, "write units of what is measured, such as 'mm, kPa, min'");
  write_file(file, csv_text(table));
  fmt::print("wrote {}: {} columns, {} rows\n", file.string(), table.names.size(), table.columns[0].size());
  return 0;
}

}  // namespace wavy
