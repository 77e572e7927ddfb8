// The dimension of a formula: what it measures, found by evaluating it on dimensions in place of numbers.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/formula.hpp"

namespace wavy {

/// How a function treats the dimensions of its arguments.
enum class FunctionKind {
  of_number,  ///< takes a pure number (angles are), gives one
  keeps,      ///< of one argument: gives what it takes
  root,       ///< the square root
  sign,       ///< of one argument of any dimension: gives a number
  alike,      ///< of any number of arguments of one dimension, which it gives
  angle_of,   ///< atan2: of two arguments of one dimension, gives an angle
  ramp,
  step,
  pulse
};

struct FormulaFunction {
  std::string name;
  FunctionKind kind;
};

/// All functions that formulas may use.
const std::vector<FormulaFunction>& formula_functions();

/// A number in a formula's plain text that had a unit.
struct Literal {
  std::size_t at = 0;  ///< of its first character
  Powers powers{};
};

/// What a formula measures; nothing where bare numbers leave that open.
///
/// A bare number alone in a sum, an argument or a result takes the dimension that is wanted there, and so does a
/// product with a bare number in which no unit stands ("0.1 * t", "2 * sin(t / 1 s)"). Throws an input error at `place`
/// where dimensions do not go together. `plain`: the formula with its units taken out, `text`: as the user wrote it.
std::optional<Powers> dimensions_of(std::string_view plain, const std::vector<Literal>& literals,
                                    const FormulaNames& names, const Place& place, std::string_view text);

}  // namespace wavy
