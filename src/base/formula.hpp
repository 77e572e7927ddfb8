// Formulas of time and place, as users write them: "ramp(t, 1 s, 2 s, 0, -3 m/s^2)".
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <utility>

#include "base/error.hpp"
#include "base/table.hpp"
#include "base/units.hpp"

namespace wavy {

/// A value with a name, SI; without powers a bare number, which may measure anything.
struct NamedValue {
  double value = 0;
  std::optional<Powers> powers{};
  NamedValue(double bare = 0) : value(bare) {}  // NOLINT(google-explicit-constructor): a number is one
  NamedValue(double si, const std::optional<Powers>& of) : value(si), powers(of) {}
};

/// Values over time [s], SI; without powers they may measure anything.
struct NamedCurve {
  Curve curve;
  std::optional<Powers> powers{};
  NamedCurve(Curve values) : curve(std::move(values)) {}  // NOLINT(google-explicit-constructor): a curve is one
  NamedCurve(Curve values, const std::optional<Powers>& of) : curve(std::move(values)), powers(of) {}
};

/// What a formula may use besides t, x, y, z and pi.
struct FormulaNames {
  std::map<std::string, NamedValue> constants;
  std::map<std::string, NamedCurve> tables;  ///< called as name(t)
  /// What changes as a run goes on, such as what gauges read: their dimensions, their values at the trial of a formula.
  /// A formula that uses any is evaluated by `of_readings`.
  std::map<std::string, NamedValue> readings{};
  /// Name of the one variable of a formula that is not about time and place; it is passed as t.
  std::string variable{};
  Dimension variable_dimension = dimension::number;
};

/// Whether formulas have a function of this name, or the parser one that they do not offer.
bool is_formula_function(const std::string& name);

/// A compiled formula. Numbers with a unit are turned into SI while reading; bare numbers are taken as SI. Dimensions
/// are checked once, while reading (see dimensions_of). Functions besides the usual ones: ramp(t, start, end, from,
/// to), step(t, at, before, after), pulse(t, start, end, value). Copies share nothing; evaluating one object from two
/// threads is not allowed.
class Formula {
 public:
  enum Check { wanted_dimension, any_dimension };

  /// The constant `value`.
  explicit Formula(double value = 0);

  /// Throws an input error at `place` when the text cannot be understood or is not finite at t = x = y = z = 0.
  /// `wanted` is the dimension of the result, which must be its own (not with any_dimension).
  Formula(const std::string& text, const FormulaNames& names, const Dimension& wanted, const Place& place,
          Check check = wanted_dimension);

  Formula(const Formula& other);
  Formula& operator=(const Formula& other);
  Formula(Formula&&) noexcept;
  Formula& operator=(Formula&&) noexcept;
  ~Formula();

  /// SI in, SI out. Throws a failure that quotes the formula when the result is not finite.
  double operator()(double t, double x = 0, double y = 0, double z = 0) const;

  /// The same where the result need not be finite.
  [[nodiscard]] double unchecked(double t, double x = 0, double y = 0, double z = 0) const;

  /// Not finite where the result is not: of time [s] and of value(name), SI, for every reading that is used.
  [[nodiscard]] double of_readings(double t, const std::function<double(const std::string&)>& value) const;
  /// Whether it depends on what goes by this name.
  [[nodiscard]] bool uses(const std::string& name) const;

  /// True when neither time nor place can change the result.
  [[nodiscard]] bool is_constant() const;
  /// What it measures; nothing where bare numbers leave that open.
  [[nodiscard]] const std::optional<Powers>& powers() const { return powers_; }
  /// The formula as the user wrote it, or the number.
  [[nodiscard]] const std::string& text() const { return text_; }

 private:
  struct Program;
  std::string text_;
  double constant_ = 0;
  std::optional<Powers> powers_;
  std::unique_ptr<Program> program_;
};

}  // namespace wavy
