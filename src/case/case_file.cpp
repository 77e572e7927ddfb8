#include "case/case_file.hpp"

#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <sstream>

#include "case/line_file.hpp"
#include "case/named_values.hpp"
#include "case/toml_text.hpp"
#include "case/vessel_file.hpp"

namespace wavy {
namespace {

/// Where everything stands in the file, and what has a name.
void note_lines(const toml::table& table, const std::string& path, CaseFile& out) {
  CaseFile::Named named;
  for (const auto& [key, node] : table) {
    const std::string name = path.empty() ? std::string(key.str()) : path + "." + std::string(key.str());
    const int line = static_cast<int>(key.source().begin.line);
    out.lines[name].push_back(line);
    const auto* list = node.as_array();
    const bool of_sections = list != nullptr && !list->empty() && list->get(0)->is_table();
    if (const auto* inner = node.as_table()) {
      note_lines(*inner, name, out);
    } else if (of_sections) {
      for (const auto& item : *list)
        if (const auto* entry = item.as_table()) note_lines(*entry, name, out);
    } else {
      std::ostringstream value;
      node.visit([&](const auto& leaf) { value << toml::toml_formatter(leaf); });
      const CaseFile::Setting setting{name, value.str(), line};
      out.settings.push_back(setting);
      named.settings.push_back(setting);
      if (path == "constants")
        out.named.push_back({std::string(key.str()), path, line, {setting}});
      else if (key.str() == "name")
        named.name = node.value_or(std::string());
      if (key.str() == "name") named.line = line;
    }
  }
  if (named.name.empty() && path.starts_with("tables.")) {
    named.name = path.substr(path.find('.') + 1);
    named.line = named.settings.empty() ? 0 : named.settings.front().line;
  }
  if (named.name.empty()) return;
  std::ranges::stable_sort(named.settings, {}, &CaseFile::Setting::line);
  named.section = path;
  out.named.push_back(std::move(named));
}

/// Reads the whole file in the order of its sections.
CaseFile read_root(const toml::table& root, const std::filesystem::path& file, bool geometry_only) {
  CaseFile out;
  out.file = file;
  Sections sections(root, out);
  Part whole = sections.whole();
  const bool line = root["model"].value_or(std::string()) == "line";
  if (line)
    whole.refuse_unknown(
        {"line", "leg", "source", "valve", "outlet", "constants", "tables", "phase", "pair", "gauge", "run"});
  else
    whole.refuse_unknown({"vessel", "turbulence", "grid", "constants", "tables", "phase", "pair", "insert", "agitator",
                          "impeller", "moving_wall", "opening", "fill", "tracer", "dose", "motion", "gauge", "run"});
  note_lines(root, "", out);
  if (const long format = whole.whole_number("wavy"); format != 1)
    throw whole.wrong("wavy", fmt::format("this program reads format 1, not {}", format),
                      "a newer program wrote this file: use that one, or set wavy = 1");
  out.title = whole.has("title") ? whole.text("title") : file.stem().string();
  if (!whole.has("title")) whole.note("title", toml_text(out.title));
  whole.choice("model");
  read_names(sections);
  if (line)
    read_line_case(sections);
  else
    read_vessel_case(sections, geometry_only);
  return out;
}

}  // namespace

CaseFile parse_case(std::string_view text, const std::filesystem::path& file) {
  return read_root(parsed_toml(text, file), file, false);
}

CaseFile read_case(const std::filesystem::path& file) { return parse_case(text_of(file), file); }

CaseFile read_geometry(const std::filesystem::path& file) {
  return read_root(parsed_toml(text_of(file), file), file, true);
}

void add_gauges(CaseFile& the_case, std::string_view text, const std::filesystem::path& file) {
  const toml::table root = parsed_toml(text, file);
  CaseFile scratch;
  scratch.file = file;
  scratch.names = the_case.names;
  Sections sections(root, scratch);
  sections.whole().refuse_unknown({"gauge"});
  if (!root.contains("gauge"))
    throw input_error({file.string(), 0, 0, ""}, "there is no [[gauge]] in it", "write name and measures at least");
  if (line_of(the_case) != nullptr)
    read_more_line_gauges(sections, the_case);
  else
    read_more_gauges(sections, the_case);
}

void add_gauges(CaseFile& the_case, const std::filesystem::path& file) { add_gauges(the_case, text_of(file), file); }

}  // namespace wavy
