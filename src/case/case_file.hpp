// Reading a case file: TOML in, plain values in SI units out; every complaint has a line and a column.
#pragma once

#include <array>
#include <filesystem>
#include <map>
#include <string>
#include <variant>
#include <vector>

#include "base/formula.hpp"
#include "run/line_setup.hpp"
#include "run/setup.hpp"

namespace wavy {

/// What a case sets up: a vessel in two or three dimensions, or a line.
using CaseSetup = std::variant<Setup<2>, Setup<3>, LineSetup>;

/// A case as it was understood.
struct CaseFile {
  std::string title;
  std::filesystem::path file;
  FormulaNames names;  ///< [constants] and [tables]
  CaseSetup setup;
  std::vector<std::string> phase_origins;         ///< "water at 20 degC", "own values"; denser phase first
  std::vector<std::string> notes;                 ///< what the program made of the case that is worth saying
  std::vector<std::string> remarks;               ///< what can hardly be meant, found while reading; see warnings()
  std::string as_run;                             ///< TOML with every value that holds, defaults included
  std::map<std::string, std::vector<int>> lines;  ///< on which lines a key is set: "vessel.size" -> 7

  /// A key as it stands in the file.
  struct Setting {
    std::string path;   ///< "vessel.size"
    std::string value;  ///< as in the file
    int line = 0;
  };
  /// Something that the file gives a name: a phase, a gauge, a constant.
  struct Named {
    std::string name;
    std::string section;            ///< "phase"
    int line = 0;                   ///< of its name
    std::vector<Setting> settings;  ///< all its keys
  };
  std::vector<Setting> settings;
  std::vector<Named> named;
};

/// Of a case of a line; null of a vessel.
inline const LineSetup* line_of(const CaseFile& the_case) { return std::get_if<LineSetup>(&the_case.setup); }

/// fn(setup) of a vessel, in its number of dimensions. The case must not be one of a line.
template <class Fn>
decltype(auto) with_vessel(const CaseFile& the_case, Fn&& fn) {
  if (const auto* flat = std::get_if<Setup<2>>(&the_case.setup)) return fn(*flat);
  return fn(std::get<Setup<3>>(the_case.setup));
}

/// What the setups of all models have.
inline const Schedule& schedule_of(const CaseFile& the_case) {
  return std::visit([](const auto& setup) -> const Schedule& { return setup.schedule; }, the_case.setup);
}
inline const std::vector<Phase>& phases_of(const CaseFile& the_case) {
  return std::visit([](const auto& setup) -> const std::vector<Phase>& { return setup.phases; }, the_case.setup);
}

/// Throws an input error with a place for everything that cannot be right.
CaseFile read_case(const std::filesystem::path& file);

/// The same from text; `file` names it in messages, and tables are looked for beside it.
CaseFile parse_case(std::string_view text, const std::filesystem::path& file);

/// The same of vessel, inserts and openings alone, without fills and what comes behind them in the setup.
CaseFile read_geometry(const std::filesystem::path& file);

/// Adds gauges to the case of a vessel: the [[gauge]] of a text that has nothing else, such as a file of them. Throws
/// an input error where it cannot be read or the case is one of a line.
void add_gauges(CaseFile& the_case, std::string_view text, const std::filesystem::path& file);
/// The same of a file.
void add_gauges(CaseFile& the_case, const std::filesystem::path& file);

/// What is allowed but can hardly be meant, each with a remedy.
std::vector<std::string> warnings(const CaseFile& the_case);

}  // namespace wavy
