// Errors that know where in the user's input they come from.
#pragma once

#include <stdexcept>
#include <string>

namespace wavy {

/// A place in the user's input. Empty strings and zeros mean "not known".
struct Place {
  std::string file;
  int line = 0;
  int column = 0;
  std::string key;
};

enum class Fault {
  input,    ///< the user's input is wrong: nothing was started          (exit code 2)
  failure,  ///< the input is right, but the work could not be done      (exit code 1)
};

/// One clear message: what is wrong, where, and what would be right.
class Error : public std::runtime_error {
 public:
  Error(Fault fault, const Place& place, const std::string& what, const std::string& remedy = "");

  [[nodiscard]] Fault fault() const { return fault_; }
  [[nodiscard]] const Place& place() const { return place_; }
  [[nodiscard]] const std::string& problem() const { return problem_; }
  [[nodiscard]] const std::string& remedy() const { return remedy_; }

 private:
  Fault fault_;
  Place place_;
  std::string problem_;
  std::string remedy_;
};

inline Error input_error(const Place& place, const std::string& what, const std::string& remedy = "") {
  return {Fault::input, place, what, remedy};
}
inline Error failure(const std::string& what, const std::string& remedy = "") {
  return {Fault::failure, {}, what, remedy};
}

}  // namespace wavy
