#include "case/keys.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <stdexcept>

#include "base/text.hpp"

namespace wavy {

const Key* find_key(std::string_view section, std::string_view name) {
  for (const auto& key : keys())
    if (key.section == section && key.name == name) return &key;
  return nullptr;
}

std::string_view former_name(std::string_view section, std::string_view name) {
  struct Renamed {
    std::string_view section, name, former;
  };
  constexpr std::array renamed{Renamed{"line", "cell", "section"}};
  for (const auto& key : renamed)
    if (key.section == section && key.name == name) return key.former;
  return {};
}

std::vector<std::string> key_names(std::string_view section) {
  std::vector<std::string> names;
  for (const auto& key : keys())
    if (key.section == section) names.push_back(key.name);
  return names;
}

Limits limits_of(const Key& key) {
  Limits limits;
  const std::string_view text = key.limits;
  const auto value = [&](std::string_view part) {
    if (key.dimension == nullptr) return std::stod(std::string(part));
    UnitProblem problem;
    const auto found = read_quantity(std::string(part), *key.dimension, problem);
    if (!found && part == "0") return 0.0;
    if (!found) throw std::logic_error(fmt::format("limits of {}: {}", key.path(), problem.what));
    return *found;
  };
  constexpr std::string_view above = "above ";
  constexpr std::string_view or_more = " or more";
  constexpr std::string_view to = " to ";
  if (text.empty()) return limits;
  if (text.starts_with(above)) {
    limits.lower = value(text.substr(above.size()));
    limits.above = true;
  } else if (text.ends_with(or_more)) {
    limits.lower = value(text.substr(0, text.size() - or_more.size()));
  } else {
    const std::size_t at = text.find(to);
    limits.lower = value(text.substr(0, at));
    limits.upper = value(text.substr(at + to.size()));
  }
  return limits;
}

std::string allowed_values(const Key& key) {
  std::string text;
  switch (key.kind) {
    case Kind::text:
      text = "text";
      break;
    case Kind::choice: {
      std::vector<std::string> quoted;
      for (const auto& choice : key.choices) quoted.push_back("\"" + choice + "\"");
      text = quoted.size() == 1 ? quoted.front() + " (more to come)" : listing(quoted);
      break;
    }
    case Kind::quantity:
      text = std::string(key.dimension->name);
      break;
    case Kind::names:
      text = "list of names";
      break;
    case Kind::choices: {
      std::vector<std::string> quoted;
      for (const auto& choice : key.choices) quoted.push_back("\"" + choice + "\"");
      text = "list of " + listing(quoted);
      break;
    }
    case Kind::quantities:
      text = fmt::format("{} per axis", key.dimension->name);
      break;
    case Kind::points:
      text = fmt::format("list of points, each a list of {}s", key.dimension->name);
      break;
    case Kind::formula:
      text = fmt::format("{}, as a quantity or a formula", key.dimension->name);
      break;
    case Kind::formulas:
      text = fmt::format("{} per axis, as a quantity or a formula", key.dimension->name);
      break;
    case Kind::whole_number:
      text = "whole number";
      break;
  }
  if (!key.limits.empty()) text += ", " + key.limits;
  if (key.kind != Kind::choice && !key.example.empty()) text += ", for example " + key.example;
  if (!key.standard.empty()) text += "; left out: " + key.standard;
  return text;
}

}  // namespace wavy
