#include "case/study_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <map>
#include <optional>
#include <random>
#include <set>
#include <sstream>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/part.hpp"
#include "case/toml_text.hpp"

namespace wavy {
namespace {

constexpr std::size_t longest_study_file = 1 << 20;
constexpr std::size_t most_runs = 1000;

Place place_of(const std::filesystem::path& file, const toml::source_region& at, const std::string& key) {
  return {file.string(), static_cast<int>(at.begin.line), static_cast<int>(at.begin.column), key};
}

std::string toml_of(const toml::node& node) {
  if (const auto text = node.value_exact<std::string>()) return toml_text(*text);
  std::ostringstream text;
  node.visit([&](const auto& leaf) { text << toml::toml_formatter(leaf); });
  return text.str();
}

/// One table of a study file.
class StudyPart {
 public:
  StudyPart(const toml::table& table, std::string name, std::filesystem::path file)
      : table_(table), name_(std::move(name)), file_(std::move(file)) {}

  [[nodiscard]] Place place(std::string_view key = "") const {
    const std::string path = key.empty() ? name_ : name_.empty() ? std::string(key) : fmt::format("{}.{}", name_, key);
    const auto* node = key.empty() ? nullptr : table_.get(key);
    return place_of(file_, node != nullptr ? node->source() : table_.source(), path);
  }
  [[nodiscard]] Error wrong(std::string_view key, const std::string& what, const std::string& right) const {
    return input_error(place(key), what, right);
  }
  void refuse_unknown(const std::vector<std::string>& known) const {
    for (const auto& [name, node] : table_) {
      const std::string key(name.str());
      if (std::ranges::find(known, key) != known.end()) continue;
      const std::string near = nearest(key, known);
      throw input_error(place_of(file_, name.source(), name_.empty() ? key : name_ + "." + key),
                        "this key is not known in a study",
                        near.empty() ? "known are " + listing(known, "and") : fmt::format("did you mean '{}'?", near));
    }
  }
  [[nodiscard]] bool has(std::string_view key) const { return table_.contains(key); }
  [[nodiscard]] std::string text(std::string_view key, const std::string& standard) const {
    const auto* node = table_.get(key);
    if (node == nullptr) return standard;
    const auto value = node->value_exact<std::string>();
    if (!value) throw wrong(key, "text in quotation marks is needed here", fmt::format("write {} = \"...\"", key));
    return *value;
  }
  [[nodiscard]] std::string word(std::string_view key, const std::string& standard,
                                 const std::vector<std::string>& known) const {
    std::string value = text(key, standard);
    if (std::ranges::find(known, value) == known.end())
      throw wrong(key, fmt::format("'{}' is not one of {}", value.substr(0, 60), listing(known)),
                  fmt::format("did you mean '{}'?", nearest(value, known)));
    return value;
  }
  [[nodiscard]] std::optional<long> whole_number(std::string_view key, long least, long most) const {
    const auto* node = table_.get(key);
    if (node == nullptr) return std::nullopt;
    const auto value = node->value_exact<std::int64_t>();
    if (!value || *value < least || *value > most)
      throw wrong(key, fmt::format("a whole number from {} to {} is needed here", least, most),
                  fmt::format("write, for example, {} = {}", key, std::max(least, 3L)));
    return *value;
  }
  [[nodiscard]] std::optional<double> time(std::string_view key) const {
    if (!has(key)) return std::nullopt;
    UnitProblem problem;
    const auto value = read_quantity(text(key, ""), dimension::time, problem);
    if (!value) throw wrong(key, problem.what, problem.remedy);
    if (*value < 0) throw wrong(key, "a time must not be negative", "runs begin at 0 s");
    return value;
  }

 private:
  const toml::table& table_;
  std::string name_;
  std::filesystem::path file_;
};

/// A value with a number's digits and the unit that both ends of a range have.
std::string toml_of(double value, const std::string& unit) {
  return unit.empty() ? fmt::format("{:.12g}", value) : fmt::format("\"{:.12g} {}\"", value, unit);
}

/// Ends of a range of values, and a value a share of the way between them.
struct Range {
  double from = 0;
  double to = 0;
  std::string unit;
  bool by_ratio = false;

  [[nodiscard]] std::string at(double share) const {
    return toml_of(by_ratio ? from * std::pow(to / from, share) : from + share * (to - from), unit);
  }
};

/// { from, to, count, spacing }.
Range read_range(const StudyPart& part, const toml::table& table) {
  for (const char* key : {"from", "to"})
    if (!part.has(key))
      throw part.wrong("", fmt::format("the key '{}' is missing", key),
                       "a range is { from = \"1 m/s\", to = \"3 m/s\", count = 5 }");
  const Written from = written_number(toml_of(*table.get("from")));
  const Written to = written_number(toml_of(*table.get("to")));
  for (const auto& [key, end] : {std::pair{"from", from}, {"to", to}})
    if (!end.number)
      throw part.wrong(key, "the end of a range is a number or a quantity", "write, for example, \"1 m/s\"");
  if (from.unit != to.unit)
    throw part.wrong("to", fmt::format("its unit is '{}', that of 'from' is '{}'", to.unit, from.unit),
                     "give both ends in one unit");
  const bool by_ratio = part.word("spacing", "even", {"even", "ratio"}) == "ratio";
  if (by_ratio && !(from.value * to.value > 0))
    throw part.wrong("spacing", "between these ends there is no ratio", "leave it out, or choose ends above 0");
  if (from.value == to.value) throw part.wrong("to", "the range has no extent", "give one value in place of a range");
  return {from.value, to.value, from.unit, by_ratio};
}

/// What one line of [vary] says: values, or a range that is sampled.
struct Varied {
  StudyVariable variable;
  std::optional<Range> range;
};

/// A line of [vary]: the path of a key of the case, and what stands behind it.
struct Line {
  std::string path;
  Place place;
  const toml::node* node = nullptr;
};

/// Paths may be written with dots, or in quotation marks as one key.
void find_lines(const toml::table& table, const std::string& before, const std::filesystem::path& file,
                std::vector<Line>& lines) {
  for (const auto& [key, node] : table) {
    const std::string path = before + std::string(key.str());
    const auto* inner = node.as_table();
    if (inner != nullptr && !inner->contains("from") && !inner->contains("to") && !inner->contains("count"))
      find_lines(*inner, path + ".", file, lines);
    else
      lines.push_back({path, place_of(file, key.source(), "vary." + path), &node});
  }
}

Varied read_varied(const Line& line, const std::filesystem::path& file, bool sampled) {
  const auto& [path, place, of] = line;
  const toml::node& node = *of;
  Varied result{{path, {}}, {}};
  if (const auto* list = node.as_array()) {
    for (const auto& item : *list) result.variable.values.push_back(toml_of(item));
    if (result.variable.values.empty()) throw input_error(place, "there is no value in it", "give two or more");
    if (std::set(result.variable.values.begin(), result.variable.values.end()).size() != result.variable.values.size())
      throw input_error(place, "a value stands in it twice", "leave one of them out");
    return result;
  }
  const auto* table = node.as_table();
  if (table == nullptr)
    throw input_error(place, "a list of values or a range is needed here",
                      "write [\"10 mm\", \"5 mm\"], or { from = \"5 mm\", to = \"10 mm\", count = 3 }");
  const StudyPart part(*table, "vary." + path, file);
  part.refuse_unknown({"from", "to", "count", "spacing"});
  result.range = read_range(part, *table);
  if (sampled) {
    if (part.has("count")) throw part.wrong("count", "how many is said by 'samples'", "leave it out");
    return result;
  }
  const auto count = part.whole_number("count", 2, most_runs);
  if (!count) throw part.wrong("", "the key 'count' is missing", "say how many values, as in count = 5");
  for (long i = 0; i < *count; ++i)
    result.variable.values.push_back(result.range->at(static_cast<double>(i) / static_cast<double>(*count - 1)));
  return result;
}

/// A number in 0..below that is the same on every machine.
std::size_t below(std::mt19937_64& random, std::size_t limit) { return static_cast<std::size_t>(random() % limit); }

/// Which values each run has: [run][variable].
using Rows = std::vector<std::vector<std::string>>;

Rows all_combinations(const std::vector<Varied>& varied) {
  Rows rows{{}};
  for (const auto& one : varied) {
    Rows next;
    for (const auto& row : rows)
      for (const auto& value : one.variable.values) {
        next.push_back(row);
        next.back().push_back(value);
        if (next.size() > most_runs) return next;
      }
    rows = std::move(next);
  }
  return rows;
}

/// Latin hypercube: of every variable each of `count` equal parts of its range is met once, a list as evenly as can be.
Rows hypercube(const std::vector<Varied>& varied, std::size_t count, std::uint64_t seed) {
  std::mt19937_64 random(seed);
  Rows rows(count);
  for (const auto& one : varied) {
    std::vector<std::size_t> order(count);
    for (std::size_t i = 0; i < count; ++i) order[i] = i;
    for (std::size_t i = count; i > 1; --i) std::swap(order[i - 1], order[below(random, i)]);
    for (std::size_t i = 0; i < count; ++i) {
      constexpr double parts = 1e6;
      const double within = static_cast<double>(below(random, static_cast<std::size_t>(parts))) / parts;
      const double share = (static_cast<double>(order[i]) + within) / static_cast<double>(count);
      const auto& values = one.variable.values;
      rows[i].push_back(one.range
                            ? one.range->at(share)
                            : values[std::min(values.size() - 1,
                                              static_cast<std::size_t>(share * static_cast<double>(values.size())))]);
    }
  }
  return rows;
}

/// The table, or entry of a list of tables, in which a key's path ends; throws where the case has none.
toml::table& table_at(toml::table& root, const std::string& path, std::string& last, const Place& place) {
  toml::table* table = &root;
  std::string_view rest = path;
  const auto no_such = [&](const std::string& what) {
    return input_error(
        place, what, "write the path of a key of the case, such as grid.cell, phase.water.viscosity or fill[2].level");
  };
  while (true) {
    const std::size_t dot = rest.find('.');
    if (dot == std::string_view::npos) break;
    std::string name(rest.substr(0, dot));
    rest.remove_prefix(dot + 1);
    std::optional<std::size_t> number;
    if (const std::size_t bracket = name.find('['); bracket != std::string::npos && name.ends_with(']')) {
      std::size_t value = 0;
      std::from_chars(name.data() + bracket + 1, name.data() + name.size(), value);
      number = value;
      name.resize(bracket);
    }
    toml::node* node = table->get(name);
    if (node == nullptr && !number) {  // a section of which the case says nothing
      table->insert(name, toml::table());
      node = table->get(name);
    }
    if (auto* list = node == nullptr ? nullptr : node->as_array()) {
      const std::size_t end = rest.find('.');
      if (!number && end == std::string_view::npos) {
        if (list->size() > 1) throw no_such(fmt::format("the case has several [[{}]]: say which", name));
        number = 1;
      }
      toml::table* entry = nullptr;
      if (number) {
        if (*number >= 1 && *number <= list->size()) entry = list->get(*number - 1)->as_table();
      } else {
        const std::string wanted(rest.substr(0, end));
        rest.remove_prefix(end + 1);
        for (auto& item : *list)
          if (auto* candidate = item.as_table();
              candidate != nullptr && (*candidate)["name"].value_or(std::string()) == wanted)
            entry = candidate;
      }
      if (entry == nullptr) throw no_such(fmt::format("the case has no such [[{}]]", name));
      table = entry;
    } else if (node != nullptr && node->is_table() && !number) {
      table = node->as_table();
    } else {
      throw no_such(fmt::format("'{}' is no section of the case", name));
    }
  }
  last = std::string(rest);
  if (last.empty()) throw no_such("the path has no key at its end");
  return *table;
}

/// A value as people read it: without quotation marks.
std::string plain(const std::string& toml) {
  std::string result = toml;
  std::erase_if(result, [](char c) { return c == '"' || c == '\''; });
  return result;
}

std::string folder_name(const std::vector<StudyVariable>& variables, const std::vector<std::string>& values,
                        std::size_t number) {
  std::map<std::string, int> of_last;
  const auto last = [](const std::string& path) { return path.substr(path.rfind('.') + 1); };
  for (const auto& variable : variables) ++of_last[last(variable.path)];
  std::string name;
  for (std::size_t v = 0; v < variables.size(); ++v) {
    const std::string& path = variables[v].path;
    name +=
        fmt::format("{}{}={}", name.empty() ? "" : ",", of_last[last(path)] > 1 ? path : last(path), plain(values[v]));
  }
  for (char& c : name) {
    const bool good = (std::isalnum(static_cast<unsigned char>(c)) != 0) ||
                      std::string_view(".,=+-").find(c) != std::string_view::npos;
    if (!good) c = '_';
  }
  constexpr std::size_t longest_name = 100;
  return name.size() > longest_name ? fmt::format("{}...{}", name.substr(0, longest_name), number + 1) : name;
}

std::string content_of(const std::filesystem::path& file, const Place& named, const std::string& what) {
  std::error_code status;
  auto text = std::filesystem::is_directory(file, status) ? std::nullopt : read_file(file, longest_study_file);
  if (!text) throw input_error(named, fmt::format("the {} '{}' cannot be read", what, file.string()), "check its name");
  return std::move(*text);
}

/// How much work a run is, in no unit: cells times steps.
double work_of(const CaseFile& the_case) {
  const double until = schedule_of(the_case).until;
  if (const LineSetup* line = line_of(the_case)) return until / (line->cell * line->cell);
  return with_vessel(the_case, [&](const auto& setup) {
    double cells = 1;
    for (std::size_t d = 0; d < setup.size.size(); ++d) cells *= (setup.upper[d] - setup.lower[d]) / setup.cell_size;
    return cells / setup.cell_size * until;
  });
}

/// Makes the cases of all runs, with more gauges, and reads each once. `place(variable)`: in the study file.
template <class PlaceOf>
void make_cases(Study& study, const Rows& rows, const toml::array* gauges, PlaceOf&& place) {
  const std::string base = content_of(study.case_file, place(study.variables.size()), "case");
  const CaseFile own = read_case(study.case_file);
  std::set<std::string> names;
  for (std::size_t r = 0; r < rows.size(); ++r) {
    toml::table root = parsed_toml(base, study.case_file);
    StudyRun run{folder_name(study.variables, rows[r], r), rows[r]};
    std::string with;
    for (std::size_t v = 0; v < study.variables.size(); ++v) {
      std::string last;
      toml::table& table = table_at(root, study.variables[v].path, last, place(v));
      toml::table value = toml::parse("value = " + rows[r][v]);
      table.insert_or_assign(last, *value.get("value"));
      with += fmt::format("{}{} = {}", with.empty() ? "" : ", ", study.variables[v].path, plain(rows[r][v]));
    }
    if (gauges != nullptr) {
      if (root.get_as<toml::array>("gauge") == nullptr) root.insert_or_assign("gauge", toml::array());
      for (const auto& gauge : *gauges) root.get_as<toml::array>("gauge")->push_back(gauge);
    }
    root.insert_or_assign("title", fmt::format("{}, {}", own.title, with));
    std::ostringstream text;
    text << root << '\n';
    run.text = text.str();
    try {
      const CaseFile the_case = parse_case(run.text, study.case_file);
      run.until = schedule_of(the_case).until;
      run.work = work_of(the_case);
    } catch (const Error& error) {
      const std::string key = error.place().key.empty() ? "" : error.place().key + ": ";
      throw input_error(place(0), fmt::format("with {} the case cannot be: {}{}", with, key, error.problem()),
                        error.remedy());
    }
    if (!names.insert(run.name).second) run.name += fmt::format("_{}", r + 1);
    study.runs.push_back(std::move(run));
  }
}

std::vector<StudyResult> read_results(const toml::table& root, const std::filesystem::path& file) {
  std::vector<StudyResult> results;
  const auto* list = root["result"].as_array();
  if (list == nullptr) return results;
  std::set<std::string> names;
  for (std::size_t i = 0; i < list->size(); ++i) {
    const auto* table = list->get(i)->as_table();
    if (table == nullptr)
      throw input_error({file.string(), 0, 0, "result"}, "each result is a table", "write [[result]] before its keys");
    const StudyPart part(*table, fmt::format("result[{}]", i + 1), file);
    part.refuse_unknown({"name", "gauge", "figure", "from", "to"});
    StudyResult result;
    result.gauge = part.text("gauge", "");
    if (result.gauge.empty()) throw part.wrong("", "the key 'gauge' is missing", "name a column of history.csv");
    const std::string figure = part.word("figure", "mean", study_figures());
    result.figure =
        static_cast<StudyResult::Figure>(std::ranges::find(study_figures(), figure) - study_figures().begin());
    result.name = part.text("name", result.gauge + "_" + figure);
    if (!names.insert(result.name).second)
      throw part.wrong("name", "another result has this name", "choose another one");
    result.from = part.time("from").value_or(0);
    result.to = part.time("to").value_or(-1);
    if (result.to >= 0 && result.to <= result.from)
      throw part.wrong("to", "it lies before 'from'", "choose a later time");
    results.push_back(std::move(result));
  }
  return results;
}

/// Where nothing else is asked for: what every gauge of the case does.
std::vector<StudyResult> all_results(const CaseFile& the_case) {
  std::vector<StudyResult> results;
  std::visit(
      [&](const auto& setup) {
        for (const auto& gauge : setup.gauges)
          for (const auto figure : {StudyResult::Figure::least, StudyResult::Figure::mean,
                                    StudyResult::Figure::greatest, StudyResult::Figure::last})
            results.push_back(
                {gauge.name + "_" + study_figures()[static_cast<std::size_t>(figure)], gauge.name, figure});
      },
      the_case.setup);
  return results;
}

}  // namespace

const std::vector<std::string>& study_figures() {
  static const std::vector<std::string> list{
      "least", "mean", "greatest", "last", "span", "time_of_least", "time_of_greatest", "period", "amplitude"};
  return list;
}

Written written_number(const std::string& toml) {
  std::string text = plain(toml);
  Written result;
  const char* begin = text.data() + (text.starts_with('+') ? 1 : 0);
  const auto [end, status] = std::from_chars(begin, text.data() + text.size(), result.value);
  if (status != std::errc{} || !std::isfinite(result.value)) return {};
  result.number = true;
  result.unit = std::string(trimmed(std::string_view(end, text.data() + text.size())));
  if (!result.unit.empty() && !scale_to_si(result.unit)) return {};
  return result;
}

Study read_study(const std::filesystem::path& file) {
  const toml::table root = parsed_toml(content_of(file, {file.string(), 0, 0, ""}, "study"), file);
  const StudyPart whole(root, "", file);
  whole.refuse_unknown({"wavy", "case", "title", "combine", "samples", "seed", "vary", "gauge", "result"});
  if (!whole.whole_number("wavy", 1, 1)) throw whole.wrong("", "the key 'wavy' is missing", "write wavy = 1");
  Study study;
  if (!whole.has("case"))
    throw whole.wrong("", "the key 'case' is missing", "name the case file, as in case = \"tote.toml\"");
  study.case_file = file.parent_path() / whole.text("case", "");
  study.title = whole.text("title", file.stem().string());
  const std::string combine = whole.word("combine", "all", {"all", "each", "sample"});
  study.sampled = combine == "sample";
  const auto samples = whole.whole_number("samples", 2, most_runs);
  if (study.sampled != samples.has_value())
    throw whole.wrong("samples", study.sampled ? "how many samples is not said" : "samples need combine = \"sample\"",
                      "write combine = \"sample\" and samples = 20, or neither");
  const auto seed = whole.whole_number("seed", 0, 1000000000);
  if (seed && !study.sampled) throw whole.wrong("seed", "there is nothing random in it", "leave it out");

  const auto* vary = root["vary"].as_table();
  if (vary == nullptr || vary->empty())
    throw whole.wrong("", "nothing is varied",
                      "write [vary] and below it, for example, \"grid.cell\" = [\"10 mm\", \"5 mm\"]");
  std::vector<Line> lines;
  find_lines(*vary, "", file, lines);
  std::ranges::sort(lines, {}, [](const Line& line) { return std::pair{line.place.line, line.place.column}; });
  std::vector<Varied> varied;
  for (const auto& line : lines) {
    varied.push_back(read_varied(line, file, study.sampled));
    study.variables.push_back(varied.back().variable);
  }
  Rows rows;
  if (study.sampled) {
    rows = hypercube(varied, static_cast<std::size_t>(*samples), static_cast<std::uint64_t>(seed.value_or(1)));
  } else if (combine == "each") {
    rows.resize(varied.front().variable.values.size());
    for (std::size_t v = 0; v < varied.size(); ++v) {
      const auto& values = varied[v].variable.values;
      if (values.size() != rows.size())
        throw input_error(lines[v].place,
                          fmt::format("it has {} values, and the first key {}", values.size(), rows.size()),
                          "combine = \"each\" takes the first of all, then the second: give as many of each");
      for (std::size_t r = 0; r < rows.size(); ++r) rows[r].push_back(values[r]);
    }
  } else {
    rows = all_combinations(varied);
  }
  if (rows.size() > most_runs)
    throw whole.wrong("vary", fmt::format("these are more than {} runs", most_runs), "vary less, or sample");
  make_cases(study, rows, root["gauge"].as_array(),
             [&](std::size_t v) { return v < lines.size() ? lines[v].place : whole.place("case"); });
  study.results = read_results(root, file);
  if (study.results.empty()) study.results = all_results(parse_case(study.runs.front().text, study.case_file));
  return study;
}

Study grid_study(const std::filesystem::path& case_file, int grids) {
  Study study;
  study.case_file = case_file;
  const CaseFile own = read_case(case_file);
  study.title = own.title;
  const LineSetup* line = line_of(own);
  const double cell =
      line != nullptr ? line->cell : with_vessel(own, [](const auto& setup) { return setup.cell_size; });
  study.variables.push_back({line != nullptr ? "line.cell" : "grid.cell", {}});
  Rows rows;
  for (int g = grids - 1; g >= 0; --g) {
    study.variables[0].values.push_back(toml_of(1000 * cell * std::pow(2, g), "mm"));
    rows.push_back({study.variables[0].values.back()});
  }
  make_cases(study, rows, nullptr, [&](std::size_t) { return Place{case_file.string(), 0, 0, ""}; });
  study.results = all_results(own);
  return study;
}

}  // namespace wavy
