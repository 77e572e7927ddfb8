// resume.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <sstream>
#include <string_view>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/case_file.hpp"
#include "results/checkpoint.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

/// The keys, as section and name, whose values may change before a run goes on.
bool may_change(const std::string& key) {
  return key == "title" || key == "run.snapshot_interval" || key == "run.until" || key == "run.largest_step" ||
         key == "run.smallest_step" || key == "run.checkpoint_interval" || key == "run.end_when_settled" ||
         key == "run.end_not_before";
}

/// Lines of a case as run, each with its section and key, but for those that may change.
std::vector<std::pair<std::string, std::string>> settings_of(const std::string& as_run) {
  std::vector<std::pair<std::string, std::string>> result;
  std::istringstream lines(as_run);
  std::string section;
  std::vector<std::pair<std::string, std::string>> gauge;
  bool gauge_matters = false;
  const auto end_gauge = [&] {
    if (gauge_matters) result.insert(result.end(), gauge.begin(), gauge.end());
    gauge.clear();
    gauge_matters = false;
  };
  for (std::string line; std::getline(lines, line);) {
    if (line.empty() || line.starts_with("#")) continue;
    if (line.starts_with("[")) {
      end_gauge();
      section = line.substr(line.find_first_not_of('['), line.find(']') - line.find_first_not_of('['));
    }
    const std::string name = line.starts_with("[") ? "" : line.substr(0, line.find(' '));
    const std::string key = section.empty() || name.empty() ? name : fmt::format("{}.{}", section, name);
    if (section != "gauge") {
      if (!may_change(key)) result.emplace_back(key, line);
      continue;
    }
    gauge.emplace_back(key, line);
    // What looks at the flow alone may come and go.
    const bool held =
        name == "name" && as_run.find("\nholds = " + line.substr(line.find('"')) + "\n") != std::string::npos;
    gauge_matters = gauge_matters || held || lower(line) == "measures = \"slugs\"";
  }
  end_gauge();
  return result;
}

/// Throws an input error where a case is no longer that of a checkpoint, in what matters.
void check_same_case(const std::string& kept, const CaseFile& now) {
  const auto before = settings_of(parse_case(kept, now.file).as_run);  // as this version of the program writes it
  const auto after = settings_of(now.as_run);
  for (std::size_t i = 0; i < std::max(before.size(), after.size()); ++i) {
    const auto text = [&](const auto& list) { return i < list.size() ? list[i].second : std::string("nothing"); };
    if (text(before) == text(after)) continue;
    const std::string& key = (i < after.size() ? after[i] : before[i]).first;
    const auto lines = now.lines.find(key);
    const bool once = lines != now.lines.end() && lines->second.size() == 1;
    throw input_error({now.file.string(), once ? lines->second.front() : 0, 0, key},
                      fmt::format("'{}' stands where the run had '{}'", text(after), text(before)),
                      "the end, steps, intervals of writing, and gauges by which nothing is held may change; for other "
                      "changes run the case anew, of a vessel if need be with fill shape = \"run\"");
  }
}

/// The newest checkpoint of a run, or the one before.
Archive checkpoint_of(const std::filesystem::path& folder, bool before) {
  const auto newest = folder / checkpoint_name;
  const auto older = folder / checkpoint_before_name;
  std::error_code status;
  if (before || (!std::filesystem::exists(newest, status) && std::filesystem::exists(older, status)))
    return read_checkpoint(older);
  try {
    return read_checkpoint(newest);
  } catch (const Error& error) {
    double time = 0;
    try {
      Archive a = read_checkpoint(older);
      time = time_of(a);
    } catch (const Error&) {
      throw input_error(error.place(), error.problem(), "run the case again: wavy run --force");
    }
    throw input_error(error.place(), error.problem(),
                      fmt::format("the checkpoint before it, at t = {}, is good: say --before to go on from there",
                                  quantity(time, "s")));
  }
}

}  // namespace

int resume(const ResumeRequest& request) {
  namespace fs = std::filesystem;
  const fs::path folder = request.run.folder;
  open_run_folder(folder);
  CaseFile the_case = read_case(folder / "case.toml");
  Archive kept = checkpoint_of(folder, request.before);
  const double time = time_of(kept);
  std::string as_run;
  kept("case", as_run);
  check_same_case(as_run, the_case);
  Schedule& schedule = std::visit([](auto& setup) -> Schedule& { return setup.schedule; }, the_case.setup);
  if (!request.until.empty()) {
    UnitProblem problem;
    const auto until = read_quantity(request.until, dimension::time, problem);
    if (!until) throw input_error({"", 0, 0, "--until"}, problem.what, problem.remedy);
    schedule.until = *until;
    constexpr std::string_view key = "\nuntil = ";
    const std::size_t at = the_case.as_run.find(key) + key.size();
    the_case.as_run.replace(at, the_case.as_run.find('\n', at) - at, fmt::format("\"{:.17g} s\"", *until));
  }
  if (!(schedule.until > time))
    throw input_error({folder.string(), 0, 0, ""},
                      fmt::format("this run has reached its end at t = {}", quantity(time, "s")),
                      "to go on, name a later one, such as --until '2 min'");
  return run_to_summary(the_case, folder, request.run, &kept);
}

}  // namespace wavy
