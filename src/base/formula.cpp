#include "base/formula.hpp"

#include <fmt/format.h>
#include <muParser.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <numbers>
#include <set>
#include <vector>

#include "base/formula_dimensions.hpp"
#include "base/text.hpp"

namespace wavy {
namespace {

double ramp(double t, double start, double end, double from, double to) {
  if (t <= start) return from;
  if (t >= end) return to;
  return from + (to - from) * (t - start) / (end - start);
}
double step(double t, double at, double before, double after) { return t < at ? before : after; }
double pulse(double t, double start, double end, double value) { return t >= start && t < end ? value : 0.0; }
double call_curve(void* curve, double x) { return (*static_cast<const Curve*>(curve))(x); }

std::vector<std::string> function_names() {
  std::vector<std::string> names;
  for (const auto& function : formula_functions()) names.push_back(function.name);
  return names;
}

bool is_unit_start(char c) {
  return std::isalpha(static_cast<unsigned char>(c)) != 0 || c == '%' || (static_cast<unsigned char>(c) & 0x80U) != 0;
}

/// Replaces every "number unit" by the number in SI, so that muParser sees plain arithmetic.
/// A unit is the longest run "name[^power]{/name[^power]}" behind a number in which no name is a variable or function.
class UnitReader {
 public:
  UnitReader(std::string_view text, const FormulaNames& names, const Place& place)
      : text_(text), names_(names), place_(place) {}

  std::string plain() {
    std::string result;
    while (at_ < text_.size()) {
      const char c = text_[at_];
      const bool digit = std::isdigit(static_cast<unsigned char>(c)) != 0;
      const bool starts_number = digit || (c == '.' && at_ + 1 < text_.size() &&
                                           std::isdigit(static_cast<unsigned char>(text_[at_ + 1])) != 0);
      if (starts_number && (at_ == 0 || !is_word_character(text_[at_ - 1]))) {
        number(result);
      } else {
        result += c;
        ++at_;
      }
    }
    return result;
  }

  /// The numbers that had units, by their places in the plain text.
  [[nodiscard]] const std::vector<Literal>& literals() const { return literals_; }

 private:
  /// `called`: a bracket follows, as it does behind functions; without one, "min" is a minute.
  [[nodiscard]] bool is_name_of_formula(std::string_view word, bool called) const {
    if (word == "pi" ||
        (names_.variable.empty() ? word == "t" || word == "x" || word == "y" || word == "z" : word == names_.variable))
      return true;
    const std::string name(word);
    if (names_.constants.contains(name) || names_.tables.contains(name) || names_.readings.contains(name)) return true;
    return called && std::ranges::find(formula_functions(), word, &FormulaFunction::name) != formula_functions().end();
  }

  /// Length of "name[^power]" at `from`, 0 when there is none.
  [[nodiscard]] std::size_t unit_word(std::size_t from) const {
    std::size_t end = from;
    while (end < text_.size() && is_unit_start(text_[end])) ++end;
    const std::size_t next = std::min(text_.find_first_not_of(' ', end), text_.size());
    const bool called = next < text_.size() && text_[next] == '(';
    if (end == from || is_name_of_formula(text_.substr(from, end - from), called)) return 0;

    while (end < text_.size() && std::isdigit(static_cast<unsigned char>(text_[end])) != 0) ++end;  // "m2", "mH2O"
    while (end < text_.size() && is_unit_start(text_[end])) ++end;
    if (end < text_.size() && text_[end] == '(') return 0;
    if (end + 1 < text_.size() && text_[end] == '^') {
      std::size_t power = end + 1;
      if (text_[power] == '-') ++power;
      const std::size_t digits = power;
      while (power < text_.size() && std::isdigit(static_cast<unsigned char>(text_[power])) != 0) ++power;
      if (power > digits) end = power;
    }
    return end - from;
  }

  /// Length of the unit at `from`: "m/s^2", "Pa.s", "1/min" and the like; 0 where there is none.
  [[nodiscard]] std::size_t unit_length(std::size_t from, bool behind_blank) const {
    for (const std::string_view gallons : {"US gal", "UK gal", "imp gal"})
      if (text_.substr(from).starts_with(gallons)) return with_factors(from, gallons.size());
    if (behind_blank && text_.substr(from).starts_with("1/")) {
      const std::size_t length = unit_word(from + 2);
      return length == 0 ? 0 : with_factors(from, length + 2);
    }
    const std::size_t length = unit_word(from);
    return length == 0 ? 0 : with_factors(from, length);
  }
  /// The same with the factors behind its first `length` characters.
  [[nodiscard]] std::size_t with_factors(std::size_t from, std::size_t length) const {
    while (from + length < text_.size() && (text_[from + length] == '/' || text_[from + length] == '.')) {
      const std::size_t more = unit_word(from + length + 1);
      if (more == 0) break;
      length += more + 1;
    }
    return length;
  }

  void number(std::string& plain) {
    double value = 0;
    const auto [end, status] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), value);
    if (status != std::errc{})
      throw input_error(place_, fmt::format("a number in '{}' is out of range", text_.substr(0, 80)));
    at_ = static_cast<std::size_t>(end - text_.data());
    std::size_t from = at_;
    while (from < text_.size() && text_[from] == ' ') ++from;
    const std::size_t length = unit_length(from, from > at_);
    if (length == 0) {
      plain += fmt::format("({:.17g})", value);
      return;
    }
    const std::string unit(text_.substr(from, length));
    const auto scale = scale_to_si(unit);
    if (!scale)
      throw input_error(
          place_,
          fmt::format("'{}' behind a number in the formula is not a unit that is known here", unit.substr(0, 40)),
          "write * between a number and a name, and a blank before a unit, as in 2 * t / 1.5 s");
    at_ = from + length;
    literals_.push_back({plain.size() + 1, scale->powers});
    plain += fmt::format("({:.17g})", scale->factor * value + scale->offset);
  }

  std::string_view text_;
  std::vector<Literal> literals_;
  const FormulaNames& names_;
  const Place& place_;
  std::size_t at_ = 0;
};

}  // namespace

bool is_formula_function(const std::string& name) {
  static const mu::Parser parser;
  return parser.GetFunDef().contains(name) ||
         std::ranges::find(formula_functions(), name, &FormulaFunction::name) != formula_functions().end();
}

struct Formula::Program {
  FormulaNames names;
  std::string plain;
  std::array<double, 4> variables{};  // t, x, y, z
  std::map<std::string, double> readings;
  std::set<std::string> used;  // of all its variables
  mutable mu::Parser parser;

  Program(FormulaNames given, std::string text) : names(std::move(given)), plain(std::move(text)) {
    parser.ClearConst();
    parser.DefineConst("pi", std::numbers::pi);
    constexpr std::array<const char*, 4> letters{"t", "x", "y", "z"};
    if (names.variable.empty()) {
      for (std::size_t i = 0; i < letters.size(); ++i) parser.DefineVar(letters[i], &variables[i]);
    } else {
      parser.DefineVar(names.variable, variables.data());
      variables[0] = 1;  // the formula is tried there: t = 0 would be a singular shear rate
    }
    for (const auto& [name, named] : names.readings) parser.DefineVar(name, &(readings[name] = named.value));
    for (const auto& [name, named] : names.constants) parser.DefineConst(name, named.value);
    parser.DefineFun("ramp", ramp);
    parser.DefineFun("step", step);
    parser.DefineFun("pulse", pulse);
    for (auto& [name, named] : names.tables) parser.DefineFunUserData(name, call_curve, &named.curve);
    parser.SetExpr(plain);
  }

  /// To be called once the formula has been understood.
  void find_used() {
    for (const auto& [name, value] : parser.GetUsedVar()) used.insert(name);
  }
};

Formula::Formula(double value) : text_(fmt::format("{:g}", value)), constant_(value) {}

Formula::Formula(const std::string& text, const FormulaNames& names, const Dimension& wanted, const Place& place,
                 Check check)
    : text_(text) {
  if (text.size() > 2000) throw input_error(place, "the formula is longer than 2000 characters", "use a table instead");
  UnitProblem problem;
  if (const auto value = read_quantity(text, wanted, problem)) {
    constant_ = *value;
    if (wanted.unit != "1") powers_ = powers_of(wanted);
    return;
  }
  const bool only_quantity = problem.what.find("is needed here") != std::string::npos;
  if (only_quantity && check == wanted_dimension) throw input_error(place, problem.what, problem.remedy);
  try {
    UnitReader reader(text, names, place);
    program_ = std::make_unique<Program>(names, reader.plain());
    const double start = program_->parser.Eval();
    if (!std::isfinite(start) && names.readings.empty())
      throw input_error(place,
                        fmt::format("'{}' is not finite at {}", text.substr(0, 80),
                                    names.variable.empty() ? "t = 0" : names.variable + " = 1"),
                        "check for a division by zero or the root of a negative number");
    powers_ = dimensions_of(program_->plain, reader.literals(), names, place, text);
    if (check == wanted_dimension && powers_ && *powers_ != powers_of(wanted))
      throw input_error(
          place, fmt::format("'{}' is {}; {} is needed here", text.substr(0, 80), kind_of(*powers_), kind_of(wanted)),
          "check the units of its numbers");
    program_->find_used();
    if (program_->used.empty()) {
      constant_ = start;
      program_.reset();
    }
  } catch (const mu::Parser::exception_type& error) {
    std::string remedy = fmt::format("this formula may use {}, pi, your [constants] and [tables], and {}",
                                     !names.readings.empty()  ? "t, what other gauges read"
                                     : names.variable.empty() ? "t, x, y, z"
                                                              : names.variable,
                                     listing(function_names(), "and"));
    std::vector<std::string> known = function_names();
    for (const auto& [name, value] : names.constants) known.push_back(name);
    for (const auto& [name, curve] : names.tables) known.push_back(name);
    for (const auto& [name, reading] : names.readings) known.push_back(name);
    const std::string near = error.GetToken().empty() ? "" : nearest(error.GetToken(), known);
    if (!near.empty() && near != error.GetToken()) remedy = fmt::format("did you mean '{}'? ", near) + remedy;
    std::string what = fmt::format("the formula '{}' cannot be understood", text.substr(0, 80));
    if (!error.GetToken().empty()) what += fmt::format(" at '{}'", error.GetToken().substr(0, 40));
    throw input_error(place, what, remedy);
  }
}

Formula::Formula(const Formula& other)
    : text_(other.text_),
      constant_(other.constant_),
      powers_(other.powers_),
      program_(other.program_ ? std::make_unique<Program>(other.program_->names, other.program_->plain) : nullptr) {
  if (program_) program_->used = other.program_->used;
}
Formula& Formula::operator=(const Formula& other) {
  if (this != &other) *this = Formula(other);
  return *this;
}
Formula::Formula(Formula&&) noexcept = default;
Formula& Formula::operator=(Formula&&) noexcept = default;
Formula::~Formula() = default;

double Formula::unchecked(double t, double x, double y, double z) const {
  if (!program_) return constant_;
  program_->variables = {t, x, y, z};
  return program_->parser.Eval();
}

double Formula::of_readings(double t, const std::function<double(const std::string&)>& value) const {
  if (!program_) return constant_;
  program_->variables = {t, 0, 0, 0};
  for (auto& [name, reading] : program_->readings)
    if (uses(name)) reading = value(name);
  return program_->parser.Eval();
}

bool Formula::uses(const std::string& name) const { return program_ != nullptr && program_->used.contains(name); }

double Formula::operator()(double t, double x, double y, double z) const {
  const double value = unchecked(t, x, y, z);
  if (!std::isfinite(value))
    throw failure(program_->names.variable.empty()
                      ? fmt::format("the formula '{}' is not finite at t = {:g} s", text_, t)
                      : fmt::format("the formula '{}' is not finite at {} = {:g}", text_, program_->names.variable, t),
                  "check for a division by zero or the root of a negative number");
  return value;
}

bool Formula::is_constant() const { return program_ == nullptr; }

}  // namespace wavy
