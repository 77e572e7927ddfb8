// new, explain, fluids: what can be said without running anything.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "case/keys.hpp"
#include "case/scenarios.hpp"

namespace wavy {
namespace {

constexpr std::size_t width = 100;

std::vector<std::string> scenario_names() {
  std::vector<std::string> names;
  for (const auto& scenario : scenarios()) names.push_back(scenario.name);
  return names;
}

bool mentions(const std::string& text, const std::string& word) { return lower(text).find(word) != std::string::npos; }

/// "line 7", "lines 7 and 12", or nothing.
std::string lines_of(const CaseFile& the_case, const std::string& path) {
  const auto at = the_case.lines.find(path);
  if (at == the_case.lines.end()) return "";
  std::vector<std::string> numbers;
  for (const int line : at->second) numbers.push_back(std::to_string(line));
  return (numbers.size() == 1 ? "line " : "lines ") + listing(numbers, "and");
}

/// Explains one key in full.
void print_key(const Key& key, const CaseFile* the_case) {
  fmt::print("{}\n{}", key.path(), wrapped(key.meaning, width, "  "));
  fmt::print("{}", wrapped("value: " + allowed_values(key), width, "  "));
  if (the_case == nullptr) return;
  const std::string file = the_case->file.string();
  const std::string own = lines_of(*the_case, key.path());
  const bool of_fluid = key.section == "phase" && (key.name == "density" || key.name.ends_with("viscosity"));
  const std::string fluid = of_fluid ? lines_of(*the_case, "phase.fluid") : "";
  if (!own.empty())
    for (const auto& setting : the_case->settings) {
      if (setting.path == key.path()) fmt::print("  {}:{}: {} = {}\n", file, setting.line, key.name, setting.value);
    }
  else if (!fluid.empty())
    fmt::print("  not set in {}; taken from the fluid on {}\n", file, fluid);
  else
    fmt::print("  not set in {}\n", file);
}

/// Things of the case that have this name, with all that is said of them.
int print_named(const CaseFile& the_case, const std::string& word) {
  int found = 0;
  for (const auto& named : the_case.named) {
    if (lower(named.name) != lower(word)) continue;
    ++found;
    const bool listed = std::ranges::any_of(
        sections(), [&](const Section& section) { return section.name == named.section && section.repeated; });
    fmt::print("{}\n  in {} of {}, line {}\n", named.name,
               listed ? "[[" + named.section + "]]" : "[" + named.section + "]", the_case.file.string(), named.line);
    for (const auto& setting : named.settings)
      if (!setting.path.ends_with(".name"))
        fmt::print("  {}:{}: {} = {}\n", the_case.file.string(), setting.line,
                   setting.path.substr(setting.path.rfind('.') + 1), setting.value);
  }
  return found;
}

void list_keys() {
  for (const auto& section : sections()) {
    const auto names = key_names(section.name);
    if (names.empty()) continue;
    const std::string heading = section.name.empty() ? "top"
                                : section.repeated   ? "[[" + section.name + "]]"
                                                     : "[" + section.name + "]";
    fmt::print("{}\n{}", heading, wrapped(listing(names, "and"), width, "  "));
  }
  std::vector<std::string> words;
  for (const auto& topic : topics()) words.push_back(topic.name);
  fmt::print("words\n{}", wrapped(listing(words, "and"), width, "  "));
  fmt::print("'wavy explain WORD' explains one; 'wavy explain WORD CASE' also says where a case sets it\n");
}

}  // namespace

int explain(const std::string& word, const std::string& place) {
  if (word.empty()) {
    list_keys();
    return 0;
  }
  std::unique_ptr<CaseFile> the_case;
  std::error_code status;
  // Of a run folder the case as it was run.
  std::filesystem::path file = place;
  if (std::filesystem::is_directory(file, status)) file /= "case.toml";
  if (!file.empty()) the_case = std::make_unique<CaseFile>(read_case(file));
  const std::string wanted = lower(word);
  if (wanted == "reference") {
    fmt::print("{}", reference_page());
    return 0;
  }
  int found = the_case ? print_named(*the_case, word) : 0;
  // Keys and topics of this very name come in full; everything that mentions the word is listed below them.
  for (const auto& topic : topics())
    if (topic.name == wanted && ++found > 0) fmt::print("{}\n{}", topic.name, wrapped(topic.meaning, width, "  "));
  for (const auto& section : sections())
    if (!section.name.empty() && section.name == wanted && ++found > 0) {
      fmt::print("{}\n{}", section.repeated ? "[[" + section.name + "]]" : "[" + section.name + "]",
                 wrapped(section.meaning, width, "  "));
      fmt::print("{}", wrapped("keys: " + listing(key_names(section.name), "and"), width, "  "));
    }
  for (const auto& key : keys())
    if (key.name == wanted || key.path() == wanted) {
      ++found;
      print_key(key, the_case.get());
    }
  if (const Fluid* fluid = find_fluid(wanted); fluid != nullptr && ++found > 0)
    fmt::print("{}: {}\n  source: {}\n  see: wavy fluids {}\n", fluid->name, fluid->what, fluid->source, fluid->name);

  std::vector<std::vector<std::string>> others;
  for (const auto& key : keys()) {
    if (key.name == wanted || key.path() == wanted) continue;
    const bool in_choices =
        std::any_of(key.choices.begin(), key.choices.end(), [&](const std::string& c) { return mentions(c, wanted); });
    if (!mentions(key.path(), wanted) && !mentions(key.meaning, wanted) && !in_choices) continue;
    std::string meaning = key.meaning.substr(0, key.meaning.find(". ") + 1);
    if (meaning.empty()) meaning = key.meaning;
    const std::string lines = the_case ? lines_of(*the_case, key.path()) : "";
    if (!lines.empty()) meaning = fmt::format("({}) {}", lines, meaning);
    others.push_back({key.path(), meaning});
  }
  for (const auto& topic : topics())
    if (topic.name != wanted && (mentions(topic.name, wanted) || mentions(topic.meaning, wanted)))
      others.push_back({topic.name, topic.meaning.substr(0, topic.meaning.find_first_of(".:") + 1)});
  if (found > 0) {
    if (!others.empty()) {
      std::vector<std::string> names;
      for (const auto& row : others) names.push_back(row.front());
      fmt::print("{}", wrapped("see also: " + listing(names, "and"), width, ""));
    }
    return 0;
  }
  if (!others.empty()) {
    fmt::print("'{}' is mentioned by:\n{}", word, aligned(others));
    return 0;
  }
  std::vector<std::string> known;
  for (const auto& key : keys()) known.push_back(key.name);
  for (const auto& topic : topics()) known.push_back(topic.name);
  for (const auto& section : sections()) known.push_back(section.name);
  if (the_case)
    for (const auto& named : the_case->named) known.push_back(named.name);
  const std::string near = nearest(word, known);
  throw input_error(
      {}, fmt::format("nothing here is called '{}'", word.substr(0, 60)),
      near.empty() ? "'wavy explain' without a word lists all keys" : fmt::format("did you mean '{}'?", near));
}

int show_fluids(const std::string& word, const std::string& at, bool json) {
  UnitProblem problem;
  const auto temperature = read_quantity(at, dimension::temperature, problem);
  if (!temperature) throw input_error({"", 0, 0, "--at"}, problem.what, problem.remedy);
  std::vector<std::vector<std::string>> rows{{"fluid", "density", "viscosity", "kinematic", "what", "range"}};
  auto list = nlohmann::ordered_json::array();
  std::vector<const Fluid*> shown;
  for (const auto& fluid : fluids()) {
    if (!word.empty() && !mentions(fluid.name, lower(word)) && !mentions(fluid.what, lower(word)) &&
        !mentions(fluid.kind, lower(word)))
      continue;
    shown.push_back(&fluid);
    const bool in_range = *temperature >= fluid.coldest - 1e-9 && *temperature <= fluid.hottest + 1e-9;
    const std::string range = fmt::format("{:.0f} to {:.0f} °C", fluid.coldest - 273.15, fluid.hottest - 273.15);
    nlohmann::ordered_json entry{{"name", fluid.name},
                                 {"kind", fluid.kind},
                                 {"coldest_K", fluid.coldest},
                                 {"hottest_K", fluid.hottest},
                                 {"source", fluid.source}};
    if (in_range) {
      const Properties p = *properties_of(fluid.name, *temperature);
      rows.push_back({fluid.name, quantity(p.density, "kg/m3"), quantity(p.viscosity, "Pa.s"),
                      quantity(p.viscosity / p.density, "m2/s"), fluid.what, range});
      entry["temperature_K"] = *temperature;
      entry["density_kg_m3"] = p.density;
      entry["viscosity_Pa_s"] = p.viscosity;
    } else {
      rows.push_back({fluid.name, "-", "-", "-", fluid.what, range});
    }
    list.push_back(entry);
  }
  if (shown.empty()) {
    std::vector<std::string> names;
    for (const auto& fluid : fluids()) names.push_back(fluid.name);
    const std::string near = nearest(word, names);
    throw input_error(
        {}, fmt::format("no fluid is called '{}'", word.substr(0, 60)),
        near.empty() ? fmt::format("known are {}", listing(names, "and")) : fmt::format("did you mean '{}'?", near));
  }
  if (json) {
    fmt::print("{}\n", list.dump(2));
    return 0;
  }
  fmt::print("at {:.4g} °C and 1 atm\n{}", *temperature - 273.15, aligned(rows));
  if (shown.size() == 1) fmt::print("{}", wrapped("source: " + shown.front()->source, width, ""));
  return 0;
}

int write_new_case(const std::string& scenario_name, const std::string& file, bool force, bool all) {
  const Scenario* scenario = find_scenario(scenario_name);
  if (scenario == nullptr) {
    const std::string near = nearest(scenario_name, scenario_names());
    throw input_error({}, fmt::format("no scenario is called '{}'", scenario_name.substr(0, 60)),
                      near.empty() ? "'wavy new' lists them" : fmt::format("did you mean '{}'?", near));
  }
  std::error_code status;
  if (!force && std::filesystem::exists(file, status))
    throw input_error({file, 0, 0, ""}, "this file is there already",
                      "name another file, or say --force to replace it");
  write_file(file, commented(*scenario, all ? Extent::all : Extent::nearest));
  return 0;
}

int new_case(const NewRequest& request) {
  if (request.scenario.empty()) {
    std::vector<std::vector<std::string>> rows;
    for (const auto& scenario : scenarios()) rows.push_back({scenario.name, scenario.what});
    fmt::print("{}'wavy new NAME' writes NAME.toml\n", aligned(rows));
    return 0;
  }
  const std::string file = request.file.empty() ? request.scenario + ".toml" : request.file;
  const int code = write_new_case(request.scenario, file, request.force, request.all);
  fmt::print("wrote {}\nnext: wavy check {}\n", file, file);
  return code;
}

}  // namespace wavy
