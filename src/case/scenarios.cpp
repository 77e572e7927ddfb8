#include "case/scenarios.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <sstream>

#include "base/text.hpp"
#include "case/keys.hpp"
#include "run/gauge_kinds.hpp"

namespace wavy {

/// Made by CMake from the files in cases/: name and text of each.
extern const std::vector<std::pair<std::string, std::string>> embedded_cases;

namespace {

constexpr std::size_t comment_width = 110;

/// First comment line of a file, without "# ".
std::string first_comment(const std::string& text) {
  const std::size_t end = text.find('\n');
  return text.starts_with("# ") ? text.substr(2, end - 2) : "";
}

const Section* find_section(std::string_view name) {
  for (const auto& section : sections())
    if (section.name == name) return &section;
  return nullptr;
}

/// Keys that a case most likely wants next, by section.
const std::map<std::string, std::vector<std::string>>& nearest_keys() {
  static const std::map<std::string, std::vector<std::string>> list{{"phase", {"viscosity", "density"}},
                                                                    {"pair", {"surface_tension", "contact_angle"}},
                                                                    {"fill", {"volume"}},
                                                                    {"motion", {"acceleration"}},
                                                                    {"opening", {"volume_flow"}},
                                                                    {"gauge", {"response_time"}},
                                                                    {"line", {"cell", "slugs"}},
                                                                    {"leg", {"roughness"}},
                                                                    {"source", {"liquid_mass_flow"}},
                                                                    {"run", {"largest_step"}}};
  return list;
}

std::string first_sentence(const std::string& text) {
  const std::size_t end = text.find(". ");
  return end == std::string::npos ? text : text.substr(0, end + 1);
}

/// Writes a scenario line by line; the files in cases/ hold one key a line.
class Commenter {
 public:
  explicit Commenter(Extent extent) : all_(extent == Extent::all) {}

  std::string operator()(const std::string& text) {
    line_model_ = text.find("model = \"line\"") != std::string::npos;
    std::istringstream in(text);
    std::string line;
    std::getline(in, line);
    out_ += line +
            "\n# Lines such as '#key = value' are switched off: take the # away to use them. 'wavy explain KEY' says "
            "more.\n";
    open("");
    while (std::getline(in, line)) {
      if (line.starts_with("[")) {
        close();
        const std::size_t first = line.find_first_not_of('[');
        open(line.substr(first, line.find(']') - first));
        out_ += line + "\n";
      } else if (line.empty() || line.starts_with("#")) {
        if (!line.empty()) out_ += line + "\n";
      } else {
        const std::string name = line.substr(0, line.find(' '));
        if (const Key* key = find_key(section_, name)) {
          given_.insert(name);
          out_ += explain(*key);
        }
        out_ += line + "\n";
      }
    }
    close();
    // Sections that the scenario does without, as comments.
    std::vector<std::string> others;
    for (const auto& section : sections()) {
      if (seen_.contains(section.name) || !belongs(section.name)) continue;
      if (!all_ && section.name != "pair") {
        others.push_back(fmt::format("{}: {}", heading(section), first_sentence(section.meaning)));
        continue;
      }
      open(section.name);
      out_ += "#" + heading(section) + "\n";
      if (section.name == "constants") out_ += "#sway = \"0.2 m/s^2\"\n";
      close();
    }
    if (!others.empty()) out_ += "\n# Sections not used here ('wavy explain SECTION'):\n";
    for (const auto& other : others) out_ += wrapped(other, comment_width, "# ");
    return out_;
  }

 private:
  static std::string heading(const Section& section) {
    const std::string name = section.name == "tables" ? "tables.road" : section.name;
    return section.repeated ? "[[" + name + "]]" : "[" + name + "]";
  }
  /// Whether a section can stand in a case of this model.
  [[nodiscard]] bool belongs(const std::string& section) const {
    static const std::set<std::string> of_both{"", "constants", "tables", "phase", "pair", "gauge", "run"};
    static const std::set<std::string> of_lines{"line", "leg", "source", "valve", "outlet"};
    return all_ || of_both.contains(section) || of_lines.contains(section) == line_model_;
  }
  void open(const std::string& name) {
    section_ = name.starts_with("tables.") ? "tables" : name;
    given_.clear();
    if (!seen_.insert(section_).second) {  // a repeated section is explained once
      out_ += "\n";
      return;
    }
    const Section* section = find_section(section_);
    if (section == nullptr || section_.empty()) return;
    out_ += "\n" + wrapped(all_ ? section->meaning : first_sentence(section->meaning), comment_width, "# ");
  }
  /// Keys that the section could have too.
  void close() {
    if (!closed_.insert(section_).second) return;
    std::vector<std::string> more;
    for (const auto& key : keys()) {
      if (key.section != section_ || given_.contains(key.name)) continue;
      const auto near = nearest_keys().find(section_);
      if (!all_ && (near == nearest_keys().end() || std::ranges::find(near->second, key.name) == near->second.end())) {
        if (!section_.empty()) more.push_back(key.name);
        continue;
      }
      out_ += explain(key);
      out_ += fmt::format("#{} = {}\n", key.name, key.example);
    }
    if (!more.empty()) out_ += wrapped("more keys: " + listing(more, "and"), comment_width, "# ");
  }
  std::string explain(const Key& key) {
    if (!explained_.insert(key.path()).second) return "";
    std::string text = all_ ? key.meaning : first_sentence(key.meaning);
    // The nearest extent does not say twice what the meaning lists already.
    const auto foreign = [&](const std::string& c) {  // a gauge of the other kind of case
      return key.path() == "gauge.measures" &&
             find_gauge_kind(c, line_model_ ? GaugeKind::Of::line : GaugeKind::Of::vessel) == nullptr;
    };
    const bool listed = !all_ && std::ranges::all_of(key.choices, [&](const std::string& c) {
      return text.find(c + ":") != std::string::npos || text.find(c + " (") != std::string::npos || foreign(c);
    });
    if (key.kind == Kind::choice && key.choices.size() > 1 && !listed) text += " One of " + allowed_values(key) + ".";
    if (key.kind != Kind::choice && !key.standard.empty()) text += " Left out: " + key.standard + ".";
    return (all_ ? "\n" : "") + wrapped(text, comment_width, "# ");
  }

  bool all_;
  bool line_model_ = false;
  std::string out_;
  std::string section_;
  std::set<std::string> given_, seen_, closed_, explained_;
};

}  // namespace

const std::vector<Scenario>& scenarios() {
  static const std::vector<Scenario> list = [] {
    std::vector<Scenario> result;
    for (const auto& [name, text] : embedded_cases) result.push_back({name, first_comment(text), text});
    return result;
  }();
  return list;
}

const Scenario* find_scenario(std::string_view name) {
  for (const auto& scenario : scenarios())
    if (scenario.name == name) return &scenario;
  return nullptr;
}

std::string commented(const Scenario& scenario, Extent extent) { return Commenter(extent)(scenario.text); }

std::string reference_page() {
  std::string page =
      "# The case file\n\nEvery key, made from the table that the program itself uses. Quantities are written with "
      "their unit in quotation marks.\n";
  for (const auto& section : sections()) {
    page += fmt::format("\n## {}\n\n{}\n\n| key | value | meaning |\n|---|---|---|\n",
                        section.name.empty() ? "top of the file"
                        : section.repeated   ? "[[" + section.name + "]]"
                                             : "[" + section.name + "]",
                        section.meaning);
    for (const auto& key : keys())
      if (key.section == section.name)
        page += fmt::format("| `{}`{} | {} | {} |\n", key.name, key.required ? " (required)" : "", allowed_values(key),
                            key.meaning);
  }
  return page;
}

}  // namespace wavy
