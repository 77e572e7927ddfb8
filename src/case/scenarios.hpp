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

/// The scenario's text with every key explained: what it does, its unit, what else it could be; keys that are left out
/// stand there as comments. Reads back as the same case.
std::string commented(const Scenario& scenario);

/// The reference page of all keys, in Markdown.
std::string reference_page();

}  // namespace wavy
