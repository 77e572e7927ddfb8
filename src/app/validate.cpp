// validate: what the physics shows, held against formulas and the literature.
#include <fmt/format.h>

#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/stopwatch.hpp"
#include "base/text.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

void write_text(const std::filesystem::path& file, const std::string& text) {
  std::ofstream out(file);
  out << text;
  out.close();
  if (!out)
    throw failure(fmt::format("'{}' cannot be written", file.string()),
                  "free some space or choose another folder with --into");
}

std::vector<const ValidationCase*> chosen(const ValidateRequest& request) {
  std::vector<const ValidationCase*> result;
  std::vector<std::string> names;
  for (const auto& one : validation_cases()) names.push_back(one.name);
  for (const auto& wanted : request.only) {
    const auto at = std::find(names.begin(), names.end(), wanted);
    if (at == names.end()) {
      const std::string near = nearest(wanted, names);
      throw input_error({"", 0, 0, "--only"}, fmt::format("no case is called '{}'", wanted.substr(0, 60)),
                        near.empty() ? "'wavy validate --list' lists them" : fmt::format("did you mean '{}'?", near));
    }
    result.push_back(&validation_cases()[static_cast<std::size_t>(at - names.begin())]);
  }
  if (request.only.empty())
    for (const auto& one : validation_cases())
      if (!request.quick || one.quick) result.push_back(&one);
  return result;
}

}  // namespace

int validate(const ValidateRequest& request) {
  if (request.list) {
    std::vector<std::vector<std::string>> rows;
    for (const auto& one : validation_cases())
      rows.push_back({one.name, one.quick ? "quick" : "", one.what, one.source});
    fmt::print("{}", aligned(rows));
    return 0;
  }
  namespace fs = std::filesystem;
  std::error_code status;
  fs::create_directories(request.into, status);
  if (status)
    throw failure(fmt::format("the folder '{}' cannot be made: {}", request.into, status.message()),
                  "choose another folder with --into");
  auto json = nlohmann::ordered_json::array();
  std::string csv = "case,what,measured,reference,error,bar,verdict\n";
  std::string page;
  int missed = 0;
  int count = 0;
  for (const auto* one : chosen(request)) {
    const Stopwatch watch;
    const ValidationResult result = one->run(request.quick);
    const double seconds = watch.seconds();
    std::vector<std::vector<std::string>> rows;
    page +=
        fmt::format("\n## {}\n\n`{}`: {}.\n\n| | measured | reference | error | bar | |\n|---|---|---|---|---|---|\n",
                    one->what, one->name, one->source);
    for (const auto& finding : result.findings) {
      ++count;
      if (!finding.passed()) ++missed;
      const std::string verdict = finding.passed() ? "reached" : "MISSED";
      rows.push_back({finding.what, fmt::format("{:.5g}", finding.measured), fmt::format("{:.5g}", finding.reference),
                      fmt::format("{:.2e}", finding.error), fmt::format("{:.2e}", finding.bar), verdict});
      json.push_back({{"case", one->name},
                      {"what", finding.what},
                      {"measured", finding.measured},
                      {"reference", finding.reference},
                      {"error", finding.error},
                      {"bar", finding.bar},
                      {"passed", finding.passed()}});
      page += fmt::format("| {} | {:.5g} | {:.5g} | {:.2e} | {:.2e} | {} |\n", finding.what, finding.measured,
                          finding.reference, finding.error, finding.bar, finding.passed() ? "reached" : "**missed**");
      csv += fmt::format("{},\"{}\",{:.10g},{:.10g},{:.4g},{:.4g},{}\n", one->name, finding.what, finding.measured,
                         finding.reference, finding.error, finding.bar, verdict);
    }
    if (!result.chart.empty())
      draw_chart(fmt::format("{} ({})", one->what, one->source), result.x_title, result.chart,
                 fs::path(request.into) / (one->name + ".png"));
    if (!request.json) {
      if (count == static_cast<int>(rows.size()))
        rows.insert(rows.begin(), {"", "measured", "reference", "error", "bar", ""});
      fmt::print("{}: {} ({})\n{}", one->name, one->what, duration(seconds), aligned(rows));
      std::fflush(stdout);
    }
  }
  write_text(fs::path(request.into) / "validation.json", json.dump(2) + "\n");
  write_text(fs::path(request.into) / "validation.csv", csv);
  write_text(
      fs::path(request.into) / "validation.md",
      fmt::format("# What the physics shows\n\nWritten by `wavy validate{}`{}: {} of {} bars reached. Errors are "
                  "relative where the reference is not 0; an order of convergence lacks what stands as its "
                  "error.\n{}",
                  request.quick ? " --quick" : "", request.only.empty() ? "" : " from chosen cases", count - missed,
                  count, page));
  if (request.json)
    fmt::print("{}\n", json.dump(2));
  else
    fmt::print("{} of {} bars reached; tables and figures in {}/\n", count - missed, count, request.into);
  return missed == 0 ? 0 : 1;
}

}  // namespace wavy
