// Every key of a case file, described once: the reader's checks, the comments of new cases, `explain` and the reference
// page are all made from this table.
#pragma once

#include <limits>
#include <string>
#include <string_view>
#include <vector>

#include "base/units.hpp"

namespace wavy {

enum class Kind { text, choice, choices, names, quantity, quantities, points, formula, formulas, whole_number };

struct Key {
  std::string section;  ///< "" for the top, "vessel", "phase" ...
  std::string name;
  Kind kind = Kind::text;
  const Dimension* dimension = nullptr;  ///< of quantities and formulas
  std::string standard;                  ///< what holds when the key is left out; "" when it must be given
  bool required = false;
  std::vector<std::string> choices;
  std::string meaning;  ///< a sentence or two
  std::string example;  ///< a value as it would stand in the file
  /// Of a quantity, each of several, or a whole number: "above 0", "0 or more" or "5 deg to 175 deg"; "" where it may
  /// be any or where what it may be depends on others.
  std::string limits{};

  [[nodiscard]] std::string path() const { return section.empty() ? name : section + "." + name; }
};

struct Section {
  std::string name;
  bool repeated = false;  ///< written as [[name]], any number of times
  std::string meaning;
};

/// A word that is not a key but that users ask about.
struct Topic {
  std::string name;
  std::string meaning;
};

const std::vector<Section>& sections();
const std::vector<Key>& keys();
const std::vector<Topic>& topics();

/// The key, or null.
const Key* find_key(std::string_view section, std::string_view name);
/// What a key was called in older case files, which are still read; empty where it always had its name.
std::string_view former_name(std::string_view section, std::string_view name);
/// Between which values a key must lie, in SI units.
struct Limits {
  double lower = -std::numeric_limits<double>::infinity();
  double upper = std::numeric_limits<double>::infinity();
  bool above = false;  ///< the lower limit itself is not allowed

  [[nodiscard]] bool hold(double value) const { return (above ? value > lower : value >= lower) && value <= upper; }
};
Limits limits_of(const Key& key);

/// Names of the keys of a section.
std::vector<std::string> key_names(std::string_view section);

/// "length, for example "0.8 m"; left out: 1 m" and the like: what a value may be.
std::string allowed_values(const Key& key);

}  // namespace wavy
