#include "base/formula_dimensions.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

#include "base/text.hpp"

namespace wavy {
namespace {

/// A value as far as its dimension goes.
struct Measure {
  Powers powers{};
  bool bare = true;                ///< bare numbers alone
  bool number = false;             ///< a bare number is a factor of it
  bool unit = false;               ///< something with a unit is
  std::optional<double> constant;  ///< of a literal number, for powers

  /// Bare numbers may stand for what a unit would say.
  [[nodiscard]] bool open() const { return bare || (number && !unit); }
};

/// Reads a formula as muParser does, from the loosest operators down.
class DimensionReader {
 public:
  DimensionReader(std::string_view plain, const std::vector<Literal>& literals, const FormulaNames& names,
                  const Place& place, std::string_view text)
      : plain_(plain), literals_(literals), names_(names), place_(place), text_(text) {}

  Measure all() {
    const Measure result = choice();
    if (at_ < plain_.size()) throw not_understood();
    return result;
  }

 private:
  [[nodiscard]] Error wrong(const std::string& what, const std::string& remedy) const {
    return input_error(place_, fmt::format("in '{}' {}", text_.substr(0, 80), what), remedy);
  }
  [[nodiscard]] Error not_understood() const {
    return input_error(place_,
                       fmt::format("the formula '{}' cannot be understood at '{}'", text_.substr(0, 80),
                                   plain_.substr(std::min(at_, plain_.size()), 20)),
                       "a formula gives one value: it sets no names");
  }

  void skip_blanks() {
    while (at_ < plain_.size() && std::string_view(" \t\n\r").find(plain_[at_]) != std::string_view::npos) ++at_;
  }
  bool take(std::string_view token) {
    skip_blanks();
    if (!plain_.substr(at_).starts_with(token)) return false;
    at_ += token.size();
    return true;
  }
  [[nodiscard]] bool next_is(std::string_view token) {
    skip_blanks();
    return plain_.substr(at_).starts_with(token);
  }

  /// The dimension that two values have in common; an error that names both where there is none.
  Measure common(const Measure& a, const Measure& b, const std::string& what) {
    if (!a.open() && !b.open() && a.powers != b.powers)
      throw wrong(fmt::format("{} are {} and {}", what, kind_of(a.powers), kind_of(b.powers)),
                  "both must measure the same: check their units");
    Measure result = a.open() && !b.open() ? b : a;
    result.bare = a.bare && b.bare;
    result.number = a.number && b.number;
    result.unit = a.unit && b.unit;
    // What has found its dimension keeps it.
    if (a.open() != b.open()) result.number = false;
    result.constant.reset();
    return result;
  }
  void want_number(const Measure& value, const std::string& where) {
    if (value.open() || value.powers == Powers{}) return;
    throw wrong(fmt::format("{} is {}; a pure number is needed there", where, kind_of(value.powers)),
                "divide it by a value of its kind, as in sin(2 * pi * t / 1.5 s)");
  }
  static Measure plain_number() {
    Measure result;
    result.bare = false;
    return result;
  }

  Measure choice() {
    Measure condition = either();
    if (!take("?")) return condition;
    const Measure yes = choice();
    if (!take(":")) throw not_understood();
    return common(yes, choice(), "the two values of a choice");
  }
  Measure either() { return joined("||", &DimensionReader::both); }
  Measure both() { return joined("&&", &DimensionReader::comparison); }
  /// Operands with a logical operator between them, which gives a number whatever they measure.
  Measure joined(std::string_view token, Measure (DimensionReader::*operand)()) {
    Measure left = (this->*operand)();
    while (take(token)) {
      (this->*operand)();
      left = plain_number();
    }
    return left;
  }
  Measure comparison() {
    Measure left = sum();
    while (true) {
      bool found = false;
      for (const char* token : {"<=", ">=", "!=", "==", "<", ">"})
        if (!found && take(token)) found = true;
      if (!found) return left;
      common(left, sum(), "the values compared");
      left = plain_number();
    }
  }
  Measure sum() {
    Measure left = product();
    while (true) {
      if (take("+"))
        left = common(left, product(), "the values added");
      else if (take("-"))
        left = common(left, product(), "the values subtracted");
      else
        return left;
    }
  }
  static Measure times(const Measure& a, const Measure& b, double sign) {
    Measure result;
    for (std::size_t i = 0; i < result.powers.size(); ++i) result.powers[i] = a.powers[i] + sign * b.powers[i];
    result.bare = a.bare && b.bare;
    result.number = a.number || b.number;
    result.unit = a.unit || b.unit;
    return result;
  }
  Measure product() {
    Measure left = signed_value();
    while (true) {
      if (take("*"))
        left = times(left, signed_value(), 1);
      else if (take("/"))
        left = times(left, signed_value(), -1);
      else
        return left;
    }
  }
  Measure signed_value() {
    int sign = 1;
    while (next_is("-") || next_is("+") || next_is("!")) {
      sign = next_is("-") ? -sign : sign;
      ++at_;
    }
    Measure result = power();
    if (result.constant) *result.constant *= sign;
    return result;
  }
  Measure power() {
    const Measure base = value();
    if (!take("^")) return base;
    const Measure exponent = signed_value();
    want_number(exponent, "an exponent");
    Measure result = base;
    result.constant.reset();
    if (base.open() || base.powers == Powers{}) return result;
    if (!exponent.constant)
      throw wrong(fmt::format("{} is raised to a power that is no plain number", kind_of(base.powers)),
                  "divide it by a value of its kind first");
    for (double& p : result.powers) p *= *exponent.constant;
    return result;
  }

  Measure value() {
    skip_blanks();
    if (at_ >= plain_.size()) throw not_understood();
    if (take("(")) {
      Measure inner = choice();
      if (!take(")")) throw not_understood();
      return inner;
    }
    const char c = plain_[at_];
    if ((c >= '0' && c <= '9') || c == '.') return literal();
    return name();
  }
  Measure literal() {
    const std::size_t begin = at_;
    double number = 0;
    const auto [end, status] = std::from_chars(plain_.data() + at_, plain_.data() + plain_.size(), number);
    if (status != std::errc{}) throw not_understood();
    at_ = static_cast<std::size_t>(end - plain_.data());
    Measure result;
    const auto found = std::ranges::find(literals_, begin, &Literal::at);
    if (found != literals_.end()) {
      result.powers = found->powers;
      result.bare = false;
      result.unit = true;
    } else {
      result.number = true;
      result.constant = number;
    }
    return result;
  }
  static Measure of(const std::optional<Powers>& powers) {
    Measure result;
    if (!powers) {
      result.number = true;
      return result;
    }
    result.powers = *powers;
    result.bare = false;
    result.unit = true;
    return result;
  }
  Measure name() {
    std::size_t end = at_;
    while (end < plain_.size() && is_word_character(plain_[end])) ++end;
    const std::string word(plain_.substr(at_, end - at_));
    if (word.empty()) throw not_understood();
    at_ = end;
    if (next_is("(")) return call(word);
    if (word == "pi") return plain_number();
    if (const auto found = names_.constants.find(word); found != names_.constants.end())
      return of(found->second.powers);
    if (const auto found = names_.readings.find(word); found != names_.readings.end()) return of(found->second.powers);
    Measure variable;
    variable.bare = false;
    if (!names_.variable.empty())
      variable.powers = powers_of(names_.variable_dimension);
    else
      variable.powers = powers_of(word == "t" ? dimension::time : dimension::length);
    return variable;
  }

  std::vector<Measure> arguments() {
    std::vector<Measure> result;
    take("(");
    if (take(")")) return result;
    do result.push_back(choice());
    while (take(","));
    if (!take(")")) throw not_understood();
    return result;
  }
  Measure call(const std::string& word) {
    const std::vector<Measure> given = arguments();
    if (const auto table = names_.tables.find(word); table != names_.tables.end()) {
      if (given.size() != 1) throw not_understood();
      Measure time;
      time.powers = powers_of(dimension::time);
      time.bare = false;
      time.unit = true;
      common(given[0], time, fmt::format("what '{}' is asked for and its times", word));
      return of(table->second.powers);
    }
    const auto function = std::ranges::find(formula_functions(), word, &FormulaFunction::name);
    if (function == formula_functions().end() || given.empty()) throw not_understood();
    const auto alike = [&](std::size_t first, std::size_t last) {
      Measure result = given[first];
      for (std::size_t i = first + 1; i <= last; ++i)
        result = common(result, given[i], fmt::format("two arguments of '{}'", word));
      result.constant.reset();
      return result;
    };
    const std::size_t count = given.size();
    switch (function->kind) {
      case FunctionKind::of_number:
        for (const Measure& one : given) want_number(one, fmt::format("the argument of '{}'", word));
        return plain_number();
      case FunctionKind::sign:
        return plain_number();
      case FunctionKind::root: {
        Measure result = given[0];
        for (double& p : result.powers) p /= 2;
        result.constant.reset();
        return result;
      }
      case FunctionKind::keeps:
      case FunctionKind::alike:
        return alike(0, count - 1);
      case FunctionKind::angle_of:
        alike(0, count - 1);
        return plain_number();
      case FunctionKind::ramp:
        if (count != 5) throw not_understood();
        alike(0, 2);
        return alike(3, 4);
      case FunctionKind::step:
        if (count != 4) throw not_understood();
        alike(0, 1);
        return alike(2, 3);
      case FunctionKind::pulse:
        if (count != 4) throw not_understood();
        alike(0, 2);
        return given[3];
    }
    throw not_understood();
  }

  std::string_view plain_;
  const std::vector<Literal>& literals_;
  const FormulaNames& names_;
  const Place& place_;
  std::string_view text_;
  std::size_t at_ = 0;
};

}  // namespace

const std::vector<FormulaFunction>& formula_functions() {
  using enum FunctionKind;
  static const std::vector<FormulaFunction> list{
      {"ramp", ramp},       {"step", step},      {"pulse", pulse},    {"sin", of_number},   {"cos", of_number},
      {"tan", of_number},   {"asin", of_number}, {"acos", of_number}, {"atan", of_number},  {"atan2", angle_of},
      {"sinh", of_number},  {"cosh", of_number}, {"tanh", of_number}, {"asinh", of_number}, {"acosh", of_number},
      {"atanh", of_number}, {"exp", of_number},  {"ln", of_number},   {"log", of_number},   {"log2", of_number},
      {"log10", of_number}, {"sqrt", root},      {"abs", keeps},      {"sign", sign},       {"rint", of_number},
      {"min", alike},       {"max", alike},      {"sum", alike},      {"avg", alike}};
  return list;
}

std::optional<Powers> dimensions_of(std::string_view plain, const std::vector<Literal>& literals,
                                    const FormulaNames& names, const Place& place, std::string_view text) {
  const Measure found = DimensionReader(plain, literals, names, place, text).all();
  if (found.open()) return std::nullopt;
  return found.powers;
}

}  // namespace wavy
