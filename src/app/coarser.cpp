// run --coarser-first: a case on larger cells, then on its own from where that has ended.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "case/part.hpp"
#include "results/execute.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

/// Takes all tables of an array out of the text of a case as run.
void take_out(std::string& text, const std::string& array) {
  const std::string head = fmt::format("\n[[{}]]\n", array);
  for (std::size_t begin = text.find(head); begin != std::string::npos; begin = text.find(head))
    text.erase(begin, std::min(text.find("\n[", begin + head.size()), text.size()) - begin);
}

/// Text of a case as run, on cells of another size and, where it is given, from the end of an earlier run of it.
/// `coarser`: others go on from its end, so that doses have to wait.
std::string changed(const CaseFile& the_case, double cell, const std::filesystem::path& from, bool coarser) {
  std::string text = the_case.as_run;
  const std::string key = "\ncell = ";
  const std::size_t at = text.find(key, text.find("[grid]")) + key.size();
  text.replace(at, text.find('\n', at) - at, fmt::format("\"{} m\"", cell));
  if (coarser) take_out(text, "dose");
  if (from.empty()) return text;
  take_out(text, "fill");  // what it began with otherwise
  const bool by_names = with_vessel(the_case, [](const auto& setup) { return setup.eulerian.has_value(); });
  return text + fmt::format("\n[[fill]]\nshape = \"run\"\nfrom = {}\n{}",
                            toml_text(std::filesystem::absolute(from).string()),
                            by_names ? "" : fmt::format("phase = {}\n", toml_text(phases_of(the_case)[0].name)));
}

}  // namespace

std::optional<CaseFile> after_coarser(const CaseFile& the_case, const std::filesystem::path& folder,
                                      const RunRequest& request) {
  if (line_of(the_case) != nullptr)
    throw input_error({the_case.file.string(), 0, 0, "--coarser-first"}, "a line has no cells in two directions",
                      "leave the option out");
  check_run_folder(folder, request.force);  // before hours have gone into the others
  const double cell = with_vessel(the_case, [](const auto& setup) { return setup.cell_size; });
  std::filesystem::path from;
  for (int level = request.coarser_first; level > 0; --level) {
    const double size = cell * std::exp2(level);
    std::filesystem::path own = folder;
    own.replace_filename(fmt::format("{}.coarser_{}{}", folder.stem().string(), level, folder.extension().string()));
    const CaseFile coarse = [&] {
      try {
        return parse_case(changed(the_case, size, from, true), the_case.file);
      } catch (const Error& error) {
        throw input_error({the_case.file.string(), 0, 0, "--coarser-first"},
                          fmt::format("on cells of {} there is no such case: {}", quantity(size, "m"), error.problem()),
                          level > 1 ? fmt::format("give --coarser-first {}", level - 1) : "leave the option out");
      }
    }();
    const RunOutcome outcome = execute_watched(
        coarse, {own, request.force, request.threads, nullptr}, !request.json,
        [&](const RunStart& start) { fmt::print("on cells of {}: {} cells\n", quantity(size, "m"), start.cells); });
    const RunLedger& books = outcome.books();
    if (!request.json)
      fmt::print("  {} at t = {}, {} of computing; wrote {}\n", ending_of(outcome), quantity(books.ended_at, "s"),
                 duration(books.wall_seconds), own.string());
    if (books.interrupted) return std::nullopt;
    from = own;
  }
  return parse_case(changed(the_case, cell, from, false), the_case.file);
}

}  // namespace wavy
