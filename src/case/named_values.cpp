#include "case/named_values.hpp"

#include <set>

#include "base/formula_dimensions.hpp"

namespace wavy {
namespace {

NamedCurve read_table(Part part) {
  part.refuse_unknown();
  const Table table = part.table("file");
  const std::string file = part.text_of("file");
  const auto column = [&](const char* key, std::size_t standard, std::optional<Powers>& powers) {
    const std::string name = part.has(key) ? part.text(key) : "";
    int at = static_cast<int>(standard);
    if (!name.empty()) at = table.find(name);
    if (at < 0 || static_cast<std::size_t>(at) >= table.columns.size())
      throw part.wrong(part.has(key) ? key : "file",
                       name.empty() ? fmt::format("'{}' has only one column", file)
                                    : fmt::format("'{}' has no column '{}'", file, name),
                       fmt::format("its columns are {}", listing(table.names, "and")));
    const auto index = static_cast<std::size_t>(at);
    std::vector<double> values = table.columns[index];
    if (const std::string& unit = table.units[index]; !unit.empty()) {
      const auto scale = scale_to_si(unit);
      if (!scale)
        throw part.wrong("file", fmt::format("the unit '{}' in the header of '{}' is not known", unit, file),
                         "write, for example, t [s],ax [m/s^2]");
      for (double& value : values) value = scale->factor * value + scale->offset;
      powers = scale->powers;
    }
    return values;
  };
  std::optional<Powers> of_times;
  std::optional<Powers> of_values;
  std::vector<double> x = column("time", 0, of_times);
  std::vector<double> y = column("value", 1, of_values);
  if (of_times && *of_times != powers_of(dimension::time))
    throw part.wrong("file", fmt::format("the times in '{}' are {}; a time is needed there", file, kind_of(*of_times)),
                     "write, for example, t [s],ax [m/s^2], or name the columns with time and value");
  for (std::size_t i = 1; i < x.size(); ++i)
    if (!(x[i] > x[i - 1]))
      throw part.wrong("file", fmt::format("the times in '{}' must rise from row to row; row {} does not", file, i + 1),
                       "sort the rows by time");
  return {Curve(std::move(x), std::move(y)), of_values};
}

}  // namespace

void read_names(Sections& sections) {
  FormulaNames& names = sections.out().names;
  std::set<std::string> reserved{"t", "x", "y", "z", "pi", "e"};
  for (const auto& function : formula_functions()) reserved.insert(function.name);
  const auto check_name = [&](const std::string& name, const Place& where) {
    if (!is_name(name))
      throw input_error(where, "a name may have letters, digits and _ and starts with a letter",
                        "write, for example, braking = \"-3 m/s^2\"");
    if (reserved.contains(name))
      throw input_error(where, fmt::format("the name '{}' has a meaning in formulas already", name),
                        "choose another name");
  };
  Part constants = sections.section("constants", sections.root().contains("constants"));
  if (const auto* table =
          sections.root().get("constants") != nullptr ? sections.root().get("constants")->as_table() : nullptr) {
    for (const auto& [key, node] : *table) {
      const std::string name(key.str());
      Place where = constants.place(name);
      where.key = "constants." + name.substr(0, 60);
      Part::move_to(where, key.source());
      check_name(name, where);
      const bool number = node.is_number();
      if (!number && !node.is_string())
        throw input_error(where, fmt::format("a number or a quantity in quotation marks is needed here, not {}",
                                             Part::kind_of(node)));
      const std::string text =
          number ? fmt::format("{}", node.template value<double>().value_or(0)) : node.as_string()->get();
      const Formula constant(text, {}, dimension::number, where, Formula::any_dimension);
      names.constants[name] = {constant(0), number ? std::nullopt : constant.powers()};
      sections.out().as_run += fmt::format("{} = {}\n", name, number ? text : toml_text(text));
    }
  }
  Part tables = sections.section("tables", false);
  if (const auto* table =
          sections.root().get("tables") != nullptr ? sections.root().get("tables")->as_table() : nullptr) {
    for (const auto& [key, node] : *table) {
      const std::string name(key.str());
      Place where = tables.place();
      where.key = "tables." + name.substr(0, 60);
      Part::move_to(where, key.source());
      check_name(name, where);
      if (!node.is_table())
        throw input_error(where, fmt::format("a section is needed here, not {}", Part::kind_of(node)),
                          fmt::format("write [tables.{}] and below it file = \"data.csv\"", name));
      sections.out().as_run += fmt::format("\n[tables.{}]\n", name);
      names.tables.emplace(name, read_table(Part(node.as_table(), "tables", "tables." + name, where, sections.out())));
    }
  }
}

}  // namespace wavy
