#include "app/picture_words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <optional>

#include "base/error.hpp"
#include "base/text.hpp"
#include "base/units.hpp"
#include "case/case_file.hpp"
#include "case/toml_text.hpp"

namespace wavy {
namespace {

/// The solids of a run's case; nothing where the case as run cannot be read any more.
std::optional<SolidShapes> solids_of(const RunFolder& run) {
  try {
    const CaseFile the_case = read_geometry(run.folder / "case.toml");
    return with_vessel(the_case, [](const auto& setup) { return std::optional(solid_shapes(setup)); });
  } catch (const Error&) {
    return std::nullopt;
  }
}

/// A value of a quantity, in a unit of it.
double value_of(const std::string& text, const Quantity& quantity, const char* option) {
  UnitProblem problem;
  const auto value = read_quantity(trimmed(text), Dimension{quantity.name, quantity.unit, "0"}, problem);
  if (!value) throw input_error({"", 0, 0, option}, problem.what, problem.remedy);
  return *value;
}

/// "0 m/s to 2 m/s", in a unit of the quantity.
std::array<double, 2> range_from(const std::string& text, const Quantity& quantity) {
  const auto wrong = [&](const std::string& what) {
    const std::string unit = quantity.unit == "1" ? "" : " " + quantity.unit;
    return input_error({"", 0, 0, "--range"}, what, fmt::format("write, for example, --range '0{0} to 2{0}'", unit));
  };
  const auto middle = text.find(" to ");
  if (middle == std::string::npos) throw wrong(fmt::format("'{}' is no range", text.substr(0, 60)));
  const std::array<double, 2> range{value_of(text.substr(0, middle), quantity, "--range"),
                                    value_of(text.substr(middle + 4), quantity, "--range")};
  if (!(range[1] > range[0])) throw wrong("its end is not above its beginning");
  return range;
}

PictureOptions::Scale scale_from(const std::string& text) {
  using Scale = PictureOptions::Scale;
  if (text.empty() || text == "even") return Scale::even;
  if (text == "log") return Scale::logarithmic;
  if (text == "symmetric") return Scale::symmetric;
  throw input_error({"", 0, 0, "--scale"}, fmt::format("'{}' is no scale of colours", text.substr(0, 60)),
                    "choose even, log or symmetric");
}

/// "pressure = 2 kPa".
ValueSurface surface_from(const std::string& text) {
  const auto equals = text.find('=');
  const auto* quantity = find_quantity(std::string(trimmed(text.substr(0, equals))));
  if (equals == std::string::npos || quantity == nullptr || quantity->components != 1)
    throw input_error({"", 0, 0, "--surface"},
                      fmt::format("'{}' does not say where a quantity has a value", text.substr(0, 60)),
                      "write, for example, --surface 'pressure = 2 kPa'");
  return {quantity, value_of(text.substr(equals + 1), *quantity, "--surface")};
}

/// The factors of x, y and z in "x + 0.5 y - z"; nothing where it is something else.
std::optional<Point3> factors_in(const std::string& text) {
  Point3 factors{};
  std::string rest;
  for (const char c : text)
    if (std::isspace(static_cast<unsigned char>(c)) == 0 && c != '*') rest += c;
  if (rest.empty()) return std::nullopt;
  for (std::size_t at = 0; at < rest.size();) {
    double sign = 1;
    if (rest[at] == '+' || rest[at] == '-') {
      sign = rest[at] == '-' ? -1 : 1;
      ++at;
    } else if (at > 0) {
      return std::nullopt;
    }
    double factor = 1;
    if (at < rest.size() && (std::isdigit(static_cast<unsigned char>(rest[at])) != 0 || rest[at] == '.')) {
      char* end = nullptr;
      factor = std::strtod(rest.c_str() + at, &end);
      at = static_cast<std::size_t>(end - rest.c_str());
    }
    if (at >= rest.size() || rest[at] < 'x' || rest[at] > 'z') return std::nullopt;
    factors[static_cast<std::size_t>(rest[at] - 'x')] += sign * factor;
    ++at;
  }
  return factors;
}

/// Reads the keys of a look file one by one, and then refuses what is left.
class LookFile {
 public:
  explicit LookFile(const std::string& file) : file_(file), table_(parsed_toml(text_of(file), file)) {}

  template <class Value>
  void read(const char* key, Value& given) {
    const toml::node* node = find(key);
    if (node == nullptr) return;
    const auto value = node->value_exact<Value>();
    if (!value)
      throw wrong(key, *node, std::is_same_v<Value, bool> ? "true or false is needed here" : "a text is needed here");
    if (given == Value{}) given = *value;
  }
  void read(const char* key, int& given) {
    const toml::node* node = find(key);
    if (node == nullptr) return;
    const auto value = node->value_exact<std::int64_t>();
    if (!value || *value < 0 || *value > 100) throw wrong(key, *node, "a whole number up to 100 is needed here");
    if (given == 0) given = static_cast<int>(*value);
  }
  void read(const char* key, std::vector<std::string>& given) {
    const toml::node* node = find(key);
    if (node == nullptr) return;
    std::vector<std::string> values;
    if (const auto one = node->value_exact<std::string>()) values.push_back(*one);
    if (const auto* list = node->as_array())
      for (const auto& item : *list) {
        const auto text = item.value_exact<std::string>();
        if (!text) throw wrong(key, item, "a text is needed here");
        values.push_back(*text);
      }
    if (values.empty()) throw wrong(key, *node, "a text or a list of texts is needed here");
    if (given.empty()) given = values;
  }
  void refuse_others() const {
    for (const auto& [key, node] : table_)
      if (std::ranges::find(known_, key.str()) == known_.end())
        throw wrong(std::string(key.str()), node, "a look has no such key", "the keys are " + listing(known_, "and"));
  }

 private:
  /// From now on one of the keys that a look has.
  const toml::node* find(const char* key) {
    known_.emplace_back(key);
    return table_.get(key);
  }
  [[nodiscard]] Error wrong(const std::string& key, const toml::node& node, const std::string& what,
                            const std::string& remedy = "see: wavy draw --help") const {
    const auto& at = node.source().begin;
    return input_error({file_, static_cast<int>(at.line), static_cast<int>(at.column), key}, what, remedy);
  }
  std::string file_;
  toml::table table_;
  std::vector<std::string> known_;
};

}  // namespace

SectionPlane plane_of(const std::string& text, const char* option) {
  const auto wrong = [&](const std::string& what) {
    return input_error({"", 0, 0, option}, what,
                       fmt::format("write, for example, {0} 'y = 0.4 m', or {0} 'x + y = 0.8 m'", option));
  };
  const auto equals = text.find('=');
  const auto factors = equals == std::string::npos ? std::nullopt : factors_in(text.substr(0, equals));
  if (!factors || *factors == Point3{}) throw wrong(fmt::format("'{}' does not name a plane", text.substr(0, 60)));
  UnitProblem problem;
  const auto place = read_quantity(trimmed(text.substr(equals + 1)), dimension::length, problem);
  if (!place) throw wrong(problem.what);
  const double length = std::sqrt(dot3(*factors, *factors));
  SectionPlane plane{*factors, *place / length};
  for (double& factor : plane.normal) factor /= length;
  return plane;
}

void read_look(PictureWords& words, PictureSubjects& subjects) {
  if (words.look.empty()) return;
  LookFile look(words.look);
  look.read("what", subjects.what);
  look.read("section", subjects.sections);
  look.read("range", words.range);
  look.read("scale", words.scale);
  look.read("lines", words.lines);
  look.read("surface", words.surfaces);
  look.read("cut_open", words.cut_open);
  look.read("arrows", words.arrows);
  look.read("streamlines", words.streamlines);
  look.read("unsmoothed", words.unsmoothed);
  look.read("cells", words.cells);
  look.refuse_others();
}

PictureOptions picture_options(const RunFolder& run, const std::string& what, const std::string& section,
                               const PictureWords& words) {
  PictureOptions options;
  options.quantity = find_quantity(what.empty() ? run.pictured : what);
  if (options.quantity == nullptr || options.quantity->components != 1)
    throw input_error({"", 0, 0, "--what"}, fmt::format("'{}' is nothing that pictures show", what.substr(0, 60)),
                      "see: wavy draw --help");
  if (!section.empty()) options.section = plane_of(section, "--section");
  if (!words.range.empty()) options.range = range_from(words.range, *options.quantity);
  options.scale = scale_from(words.scale);
  options.lines = words.lines;
  for (const auto& surface : words.surfaces) options.surfaces.push_back(surface_from(surface));
  if (!words.cut_open.empty()) options.cut_open = plane_of(words.cut_open, "--cut-open");
  options.arrows = words.arrows;
  options.streamlines = words.streamlines;
  options.unsmoothed = words.unsmoothed;
  options.cells = words.cells;
  options.solids = solids_of(run);
  return options;
}

}  // namespace wavy
