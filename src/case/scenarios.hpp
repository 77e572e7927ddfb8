// The commented cases that `new` hands out.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace wavy {

struct Scenario {
  std::string name;
  std::string what;  ///< one line: the first comment of the scenario's file
  std::string text;  ///< its TOML, without the comments on keys
};

const std::vector<Scenario>& scenarios();
const Scenario* find_scenario(std::string_view name);

/// How much a new case says of keys that it does without.
enum class Extent {
  nearest,  ///< the likeliest alternatives stand there switched off, of the rest the names
  all       ///< every key stands there switched off
};

/// The scenario's text with its keys explained: what each does, its unit, what else it could be. Reads back as the same
/// case.
std::string commented(const Scenario& scenario, Extent extent = Extent::nearest);

/// The reference page of all keys, in Markdown.
std::string reference_page();

}  // namespace wavy
