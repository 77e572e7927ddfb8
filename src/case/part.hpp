// One table of a case file while it is read: finds keys, checks kinds and units, and notes every value that holds.
#pragma once

#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <optional>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "base/formula.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "case/keys.hpp"
#include "run/column.hpp"

namespace wavy {

/// Text as it stands in a TOML file.
inline std::string toml_text(std::string_view text) {
  std::string result = "\"";
  for (const char c : text) {
    const auto code = static_cast<unsigned char>(c);
    if (c == '"' || c == '\\')
      result += std::string("\\") + c;
    else if (code < 0x20 || code == 0x7F)
      result += fmt::format("\\u{:04X}", code);
    else
      result += c;
  }
  return result + "\"";
}

/// Letters, digits and _, at most 40, not starting with a digit.
inline bool is_name(std::string_view text) {
  if (text.empty() || text.size() > 40) return false;
  const auto letter = [](char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; };
  if (!letter(text.front())) return false;
  return std::all_of(text.begin(), text.end(), [&](char c) { return letter(c) || (c >= '0' && c <= '9'); });
}

/// One table of the file while it is read: knows its path, its place, and notes what was taken from it.
class Part {
 public:
  Part(const toml::table* table, std::string section, std::string label, Place place, CaseFile& out)
      : table_(table), section_(std::move(section)), label_(std::move(label)), place_(std::move(place)), out_(out) {}

  [[nodiscard]] Place place(std::string_view name = "") const {
    Place result = place_;
    result.key = label_;
    if (!name.empty()) result.key += (label_.empty() ? "" : ".") + std::string(name);
    if (const toml::node* node = find(name)) move_to(result, *node);
    return result;
  }
  [[nodiscard]] bool has(std::string_view name) const { return find(name) != nullptr; }

  /// Throws where a key is left out; `right`: what to write.
  void need(std::string_view name, const std::string& right = "") const {
    if (!has(name)) throw input_error(place(), fmt::format("the key '{}' is missing", name), right);
  }

  /// Refuses keys that the table of keys does not know.
  void refuse_unknown(const std::vector<std::string>& subsections = {}) const {
    if (table_ == nullptr) return;
    std::vector<std::string> known = key_names(section_);
    known.insert(known.end(), subsections.begin(), subsections.end());
    for (const auto& name : known) {
      const std::string_view former = former_name(section_, name);
      if (former.empty() || !table_->contains(former)) continue;
      Place where = place_;
      move_to(where, table_->get(former)->source());
      where.key = fmt::format("{}.{}", label_, former);
      if (table_->contains(name))
        throw input_error(where, fmt::format("'{}' is the former name of '{}', which is given too", former, name),
                          fmt::format("keep '{}' alone", name));
      out_.notes.push_back(fmt::format("{}.{} is now called {}.{}", label_, former, label_, name));
      known.emplace_back(former);
      break;
    }
    for (const auto& [name, node] : *table_) {
      const std::string key(name.str());
      if (std::find(known.begin(), known.end(), key) != known.end()) continue;
      Place where = place_;
      move_to(where, name.source());
      where.key = label_.empty() ? key.substr(0, 60) : label_ + "." + key.substr(0, 60);
      const std::string near = nearest(key, known);
      throw input_error(
          where, "this key is not known here",
          near.empty() ? fmt::format("known are {}", listing(known, "and")) : fmt::format("did you mean '{}'?", near));
    }
  }

  /// Text of a key; `standard` when it is left out.
  std::string text(std::string_view name, const std::string& standard = "") {
    const toml::node* node = find(name);
    if (node == nullptr) {
      require(name);
      return standard;
    }
    std::string value = text_of(name);
    note(name, toml_text(value));
    return value;
  }

  /// Path of a file that the case names by its place from the case's folder; noted so that the case as run finds it
  /// from anywhere.
  std::filesystem::path file(std::string_view name) {
    std::filesystem::path path = out_.file.parent_path() / text_of(name);
    note(name, toml_text(std::filesystem::absolute(path).lexically_normal().string()));
    return path;
  }

  /// Throws where the file that a key names is not there.
  void require_file(std::string_view name, const std::filesystem::path& path) const {
    std::error_code status;
    if (!std::filesystem::is_regular_file(path, status))
      throw wrong(name, fmt::format("there is no file '{}'", path.string()),
                  "give its path from the folder of the case file");
  }

  /// The table in a CSV file that a key names.
  Table table(std::string_view name) {
    const std::filesystem::path path = file(name);
    require_file(name, path);
    return read_csv(path);
  }

  /// What holds when the key is left out is the table's, unless `standard` says otherwise.
  std::string choice(std::string_view name, const std::string& standard = "") {
    std::string value = lower(has(name) ? text(name) : standard.empty() ? key_of(name).standard : standard);
    if (value.empty()) need(name, remedy(name));
    check_choice(name, value, place(name), "");
    if (!has(name)) note(name, toml_text(value));
    return value;
  }

  /// What a word of a key that is a choice stands for, of those that `where` ("measured in a vessel") knows; all
  /// others are refused.
  template <class Meaning>
  Meaning one_of(std::string_view name, const std::vector<std::pair<std::string, Meaning>>& known,
                 const std::string& where) {
    const std::string word = choice(name, "");
    std::vector<std::string> words;
    for (const auto& [own, meaning] : known) {
      if (own == word) return meaning;
      words.push_back(own);
    }
    throw wrong(name, fmt::format("'{}' is not {}", word, where), fmt::format("choose {}", listing(words)));
  }

  /// SI value of a key, within its limits; what holds when it is left out is the table's, unless `standard` says
  /// otherwise.
  double quantity(std::string_view name, const std::string& standard = "") {
    const Key& key = key_of(name);
    if (has(name)) return quantity_of(name, *key.dimension);
    const std::string& text = standard.empty() ? key.standard : standard;
    UnitProblem problem;
    const auto value = read_quantity(text, *key.dimension, problem);
    if (!value) need(name, remedy(name));
    note(name, key.dimension->unit == "1" ? fmt::format("{}", *value) : toml_text(text));
    return *value;
  }

  /// SI value of a key whose dimension the table of keys leaves to the reader.
  double quantity_of(std::string_view name, const Dimension& dimension) {
    need(name, fmt::format("write, for example, {} = \"{}\"", name, dimension.example));
    std::string written;
    const double value = value_of(*find(name), name, written, dimension);
    check_limits(name, value, written, place(name));
    note(name, written);
    return value;
  }

  /// [constants] and [tables] of the case.
  [[nodiscard]] const FormulaNames& names() const { return out_.names; }

  /// Something allowed that can hardly be meant.
  void remark(const std::string& what) { out_.remarks.push_back(what); }

  /// A list of quantities, by default one per axis.
  std::vector<double> quantities(std::string_view name, std::size_t most = 3) {
    require(name);
    const toml::node* node = find(name);
    if (node == nullptr) return {};
    const auto* list = node->as_array();
    if (list == nullptr)
      throw input_error(place(name),
                        fmt::format("a list in brackets is needed here, {} {}, not {}",
                                    most == 3 ? "one per axis, each a" : "each entry a", key_of(name).dimension->name,
                                    kind_of(*node)),
                        remedy(name));
    std::vector<double> values;
    std::string written;
    for (const auto& item : *list) {
      if (values.size() == most)
        throw input_error(place(name), fmt::format("a list of at most {} entries is needed here", most), remedy(name));
      std::string one;
      values.push_back(value_of(item, name, one));
      Place where = place(name);
      move_to(where, item);
      check_limits(name, values.back(), one, where);
      written += (written.empty() ? "" : ", ") + one;
    }
    note(name, "[" + written + "]");
    return values;
  }

  /// A list of points or the like: rows of `width` quantities.
  std::vector<std::vector<double>> quantity_rows(std::string_view name, int width) {
    const toml::node* node = find(name);
    const std::string wanted =
        fmt::format("a list of points is needed here, each a list of {} {}s", width, key_of(name).dimension->name);
    need(name, remedy(name));
    const auto* list = node->as_array();
    if (list == nullptr)
      throw input_error(place(name), fmt::format("{}, not {}", wanted, kind_of(*node)), remedy(name));
    std::vector<std::vector<double>> rows;
    std::string written;
    constexpr std::size_t most = 1000;
    for (const auto& item : *list) {
      const auto* row = item.as_array();
      Place where = place(name);
      move_to(where, item);
      if (row == nullptr || static_cast<int>(row->size()) != width || rows.size() == most)
        throw input_error(where, wanted, remedy(name));
      rows.emplace_back();
      written += written.empty() ? "[" : ", [";
      for (const auto& entry : *row) {
        std::string one;
        written += rows.back().empty() ? "" : ", ";
        rows.back().push_back(value_of(entry, name, one));
        written += one;
      }
      written += "]";
    }
    note(name, "[" + written + "]");
    return rows;
  }

  /// A list of so many of the key's choices.
  std::vector<std::string> texts(std::string_view name, std::size_t count) {
    const auto* list = find(name)->as_array();
    if (list == nullptr || list->size() != count)
      throw input_error(place(name),
                        fmt::format("a list of {} of {} is needed here", count, listing(key_of(name).choices)),
                        remedy(name));
    std::vector<std::string> values;
    std::string written;
    for (const auto& item : *list) {
      Place where = place(name);
      move_to(where, item);
      const auto* text = item.as_string();
      const std::string value = text == nullptr ? "" : lower(text->get());
      check_choice(name, value, where, remedy(name));
      written += (values.empty() ? "" : ", ") + toml_text(value);
      values.push_back(value);
    }
    note(name, "[" + written + "]");
    return values;
  }

  /// Numbers, among `known` names of a kind of thing ("phase"), of those that a key lists; `count` 0: one or more.
  std::vector<std::size_t> numbers_of(std::string_view name, std::size_t count, const std::vector<std::string>& known,
                                      const std::string& kind) {
    const auto* list = find(name)->as_array();
    if (list == nullptr || (count == 0 ? list->empty() : list->size() != count))
      throw input_error(
          place(name),
          fmt::format("a list of the names of {}{}s is needed here", count == 0 ? "" : fmt::format("{} ", count), kind),
          remedy(name));
    std::vector<std::size_t> numbers;
    std::string written;
    for (const auto& item : *list) {
      const std::string own = item.value_or(std::string());
      const auto found = std::ranges::find(known, own);
      Place where = place(name);
      move_to(where, item);
      if (!item.is_string())
        throw input_error(where, fmt::format("a name in quotation marks is needed here, not {}", kind_of(item)),
                          remedy(name));
      if (found == known.end())
        throw input_error(where, fmt::format("no {} is called '{}'", kind, own.substr(0, 60)),
                          fmt::format("the {}s are {}", kind, listing(known, "and")));
      written += (numbers.empty() ? "" : ", ") + toml_text(own);
      numbers.push_back(static_cast<std::size_t>(found - known.begin()));
    }
    note(name, "[" + written + "]");
    return numbers;
  }

  /// A formula of a key that is there, or a quantity; of bare numbers only 0.
  Formula formula(std::string_view name, const FormulaNames& names) {
    const toml::node* node = find(name);
    const auto* text = node->as_string();
    const bool zero = node->is_number() && node->value<double>() == 0.0;
    if (text == nullptr && !zero)
      throw input_error(
          place(name), fmt::format("a formula or a quantity in quotation marks is needed here, not {}", kind_of(*node)),
          remedy(name));
    const std::string written = text != nullptr ? text->get() : "0";
    note(name, toml_text(written));
    // Nothing but a quantity may have a unit such as "1/min", which a formula would take for a division.
    UnitProblem problem;
    if (const auto value = read_quantity(written, *key_of(name).dimension, problem)) return Formula(*value);
    if (problem.what.find("could mean") != std::string::npos)
      throw input_error(place(name), problem.what, problem.remedy);
    return {written, names, *key_of(name).dimension, place(name)};
  }

  /// Whether the table of keys has this one in this section.
  [[nodiscard]] bool knows(std::string_view name) const { return find_key(section_, name) != nullptr; }

  /// One formula per axis; the standards are quantities.
  template <int D>
  std::array<Formula, D> formulas(std::string_view name, const std::array<std::string, D>& standard,
                                  const FormulaNames& names) {
    const toml::node* node = find(name);
    std::array<Formula, D> result;
    std::string written;
    const toml::array* list = nullptr;
    if (node != nullptr) {
      list = node->as_array();
      if (list == nullptr || list->size() != D)
        throw input_error(
            place(name),
            fmt::format("a list of {} entries is needed here, one {} per axis", D, key_of(name).dimension->name),
            remedy(name));
    }
    for (std::size_t d = 0; d < D; ++d) {
      std::string text = standard[d];
      Place where = place(name);
      if (list != nullptr) {
        const toml::node& item = *list->get(d);
        move_to(where, item);
        text = item.is_string() ? item.as_string()->get() : item.is_number() && item.value<double>() == 0.0 ? "0" : "";
        if (text.empty())
          throw input_error(
              where, fmt::format("a formula or a quantity in quotation marks is needed here, not {}", kind_of(item)),
              remedy(name));
      }
      result[d] = Formula(text, names, *key_of(name).dimension, where);
      written += (d == 0 ? "" : ", ") + toml_text(text);
    }
    note(name, "[" + written + "]");
    return result;
  }

  /// What holds when the key is left out is the table's.
  long whole_number(std::string_view name) {
    if (!has(name)) {
      const std::string& text = key_of(name).standard;
      long value = 0;
      const auto read = std::from_chars(text.data(), text.data() + text.size(), value);
      if (text.empty() || read.ptr != text.data() + text.size()) need(name, remedy(name));
      note(name, text);
      return value;
    }
    const auto* value = find(name)->as_integer();
    if (value == nullptr)
      throw input_error(place(name), fmt::format("a whole number is needed here, not {}", kind_of(*find(name))),
                        remedy(name));
    const std::string written = std::to_string(value->get());
    check_limits(name, static_cast<double>(value->get()), written, place(name));
    note(name, written);
    return value->get();
  }

  [[nodiscard]] const toml::node* find(std::string_view name) const {
    if (table_ == nullptr || name.empty()) return nullptr;
    if (const toml::node* node = table_->get(name)) return node;
    const std::string_view former = former_name(section_, name);
    return former.empty() ? nullptr : table_->get(former);
  }
  /// Writes the value that holds into the case as run.
  /// Once, however often the key is asked for.
  void note(std::string_view name, const std::string& value) {
    if (noted_.emplace(name).second) out_.as_run += fmt::format("{} = {}\n", name, value);
  }
  [[nodiscard]] Error wrong(std::string_view name, const std::string& what, const std::string& right = "") const {
    return input_error(place(name), what, right.empty() ? remedy(name) : right);
  }

  static std::string kind_of(const toml::node& node) {
    if (node.is_string()) return "text";
    if (node.is_number()) return "a bare number";
    if (node.is_boolean()) return "true or false";
    if (node.is_array()) return "a list";
    if (node.is_table()) return "a section";
    return "a date or time";
  }
  template <class Node>
  static void move_to(Place& place, const Node& node) {
    if constexpr (requires { node.source(); }) {
      move_to(place, node.source());
    } else {
      if (node.begin.line == 0) return;
      place.line = static_cast<int>(node.begin.line);
      place.column = static_cast<int>(node.begin.column);
    }
  }

  /// Text of a key that must be there, not noted.
  [[nodiscard]] std::string text_of(std::string_view name) const {
    need(name, remedy(name));
    const toml::node* node = find(name);
    const auto* value = node->as_string();
    if (value == nullptr)
      throw input_error(place(name), fmt::format("text is needed here, not {}", kind_of(*node)), remedy(name));
    return value->get();
  }

 private:
  [[nodiscard]] const Key& key_of(std::string_view name) const { return *find_key(section_, name); }
  [[nodiscard]] std::string remedy(std::string_view name) const {
    const Key* key = find_key(section_, name);
    return key == nullptr || key->example.empty() ? ""
                                                  : fmt::format("write, for example, {} = {}", key->name, key->example);
  }
  /// `otherwise`: what to say where no choice is near.
  void check_choice(std::string_view name, const std::string& value, const Place& where,
                    const std::string& otherwise) const {
    const Key& key = key_of(name);
    if (std::find(key.choices.begin(), key.choices.end(), value) != key.choices.end()) return;
    const std::string near = nearest(value, key.choices);
    throw input_error(where, fmt::format("'{}' is not one of {}", value.substr(0, 60), listing(key.choices)),
                      near.empty() ? otherwise : fmt::format("did you mean '{}'?", near));
  }
  /// Throws where a value, as written, is not what the key may be.
  void check_limits(std::string_view name, double value, std::string written, const Place& where) const {
    const Key& key = key_of(name);
    const Limits limits = limits_of(key);
    if (limits.hold(value)) return;
    std::erase(written, '"');
    std::string words = key.name;
    std::ranges::replace(words, '_', ' ');
    const std::string one =
        key.kind == Kind::quantities ? fmt::format("every entry of '{}'", key.name) : fmt::format("the {}", words);
    throw input_error(where,
                      limits.lower != 0 || !std::isinf(limits.upper)
                          ? fmt::format("{} is outside {}", written, key.limits)
                      : limits.above ? fmt::format("{} must be positive, not {}", one, written)
                                     : fmt::format("{} must not be negative; {} is", one, written),
                      remedy(name));
  }
  void require(std::string_view name) const {
    if (key_of(name).required) need(name, remedy(name));
  }
  /// SI value of a node; `written` is the value as it would stand in a file.
  double value_of(const toml::node& node, std::string_view name, std::string& written) const {
    return value_of(node, name, written, *key_of(name).dimension);
  }
  double value_of(const toml::node& node, std::string_view name, std::string& written, const Dimension& wanted) const {
    Place where = place(name);
    move_to(where, node);
    if (node.is_number()) {
      const double value = node.value<double>().value_or(0);
      written = fmt::format("{}", value);
      if ((wanted.unit == "1" && std::isfinite(value)) || value == 0) return value;
      throw input_error(where, fmt::format("the bare number {} has no unit; a {} is needed here", value, wanted.name),
                        remedy(name));
    }
    const auto* text = node.as_string();
    if (text == nullptr)
      throw input_error(where, fmt::format("a {} is needed here, not {}", wanted.name, kind_of(node)), remedy(name));
    UnitProblem problem;
    auto value = read_quantity(text->get(), wanted, problem);
    if (!value) value = of_constants(text->get(), wanted, where);
    if (!value) throw input_error(where, problem.what, problem.remedy);
    written = toml_text(text->get());
    return *value;
  }

  /// Value of what is written with [constants], such as "2 * width"; nothing where none is named.
  [[nodiscard]] std::optional<double> of_constants(const std::string& text, const Dimension& wanted,
                                                   const Place& where) const {
    const auto named = [&](const auto& constant) { return mentions_word(text, constant.first); };
    if (std::ranges::none_of(out_.names.constants, named)) return std::nullopt;
    const Formula formula(text, out_.names, wanted, where);
    if (!formula.is_constant())
      throw input_error(where,
                        fmt::format("'{}' changes with time or place; one value is needed here", text.substr(0, 60)),
                        "use [constants] alone in it");
    if (!formula.powers() && wanted.unit != "1" && formula(0) != 0)
      throw input_error(where, fmt::format("'{}' has no unit; a {} is needed here", text.substr(0, 60), wanted.name),
                        "give the constant its unit");
    return formula(0);
  }

  const toml::table* table_;
  std::string section_;
  std::string label_;
  std::set<std::string> noted_;  // keys
  Place place_;
  CaseFile& out_;
};

/// [run], as far as all models have it: the end, and `wanted` snapshots where their interval is left out, at most
/// `most`.
inline void read_times(Part& run, Schedule& schedule, int wanted, double most) {
  schedule.until = run.quantity("until");
  if (!(schedule.until > 0)) throw run.wrong("until", "the end must lie after the start at 0 s");
  schedule.snapshot_interval = run.quantity("snapshot_interval", fmt::format("{:.6g} s", schedule.until / wanted));
  if (schedule.until / schedule.snapshot_interval > most)
    throw run.wrong("snapshot_interval", fmt::format("this makes more than {:.0f} snapshots", most),
                    "choose a longer interval");
}

/// What ends a run before its time. `columns`: of the history.
inline void read_settled_end(Part& run, Schedule& schedule, const std::vector<Column>& columns) {
  const std::string standard = fmt::format("{:.6g} s", schedule.until / 10);
  if (!run.has("end_when_settled")) {
    if (run.has("end_not_before"))
      throw run.wrong("end_not_before", "it goes with end_when_settled, which is not there",
                      "add end_when_settled, or leave this out");
    return;
  }
  std::vector<std::string> names;
  for (const auto& column : columns)
    if (column.name != "time") names.push_back(column.name);
  for (const std::size_t number : run.numbers_of("end_when_settled", 0, names, "gauge"))
    schedule.end_when_settled.push_back(names[number]);
  schedule.end_not_before = run.quantity("end_not_before", standard);
  if (schedule.end_not_before >= schedule.until)
    throw run.wrong("end_not_before", "the run is over by then", "name an earlier time than run.until");
}

inline void read_checkpoint_interval(Part& run, Schedule& schedule) {
  schedule.checkpoint_interval = run.quantity("checkpoint_interval");
}

/// A phase, or the size classes of one fluid: how much each is of what they are together.
struct NamedPhases {
  int first = 0;
  std::vector<double> shares{1};
};

/// All names by which phases can be called: of fluids with several size classes first.
template <int D>
std::vector<std::string> callable_phases(const Setup<D>& setup) {
  std::vector<std::string> names;
  if (setup.eulerian)
    for (const auto& family : setup.eulerian->families) names.push_back(family.name);
  for (std::size_t p = 0; p < phase_count(setup); ++p) names.push_back(setup.phases[p].name);
  return names;
}

/// The phases of that name, which stands in a key; one of their names alone is right.
template <int D>
NamedPhases phases_called(const Setup<D>& setup, const std::string& name, const Part& part, const char* key) {
  if (setup.eulerian)
    for (const auto& family : setup.eulerian->families)
      if (family.name == name) return {family.first, family.shares};
  for (std::size_t p = 0; p < phase_count(setup); ++p)
    if (setup.phases[p].name == name) return {static_cast<int>(p), {1}};
  const auto names = callable_phases(setup);
  const std::string near = nearest(name, names);
  throw part.wrong(key, fmt::format("no phase is called '{}'", name.substr(0, 60)),
                   !near.empty()       ? fmt::format("did you mean '{}'?", near)
                   : names.size() == 1 ? fmt::format("the only phase is {}", names[0])
                                       : fmt::format("the phases are {}", listing(names, "and")));
}

/// The phases that a section names; the densest one where it names none.
template <int D>
NamedPhases named_phases(const Setup<D>& setup, Part& part) {
  return phases_called(setup, part.text("phase", setup.phases[0].name), part, "phase");
}

/// A point by its `entries` coordinates, the others 0.
template <int D>
Vec<D> point(Part& part, const char* name, int entries = D) {
  part.need(name, fmt::format("give {} {}", entries, entries == 1 ? "length" : "lengths, one per axis"));
  const std::vector<double> values = part.quantities(name);
  if (static_cast<int>(values.size()) != entries)
    throw part.wrong(name, fmt::format("{} {} given; {} needed here", values.size(),
                                       values.size() == 1 ? "length is" : "lengths are",
                                       entries == 1 ? "one is" : fmt::format("{} are", entries)));
  Vec<D> result{};
  std::copy(values.begin(), values.end(), result.begin());
  return result;
}

}  // namespace wavy
