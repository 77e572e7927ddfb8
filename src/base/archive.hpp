// What a run must know of itself to go on as if it had never stopped, as names and values.
//
// A class says once what it consists of, in a function `archive(Archive&)`, which both keeps and brings back:
//
//   void archive(Archive& a) { a("time", time_); a("steps", steps_); }
#pragma once

#include <array>
#include <map>
#include <span>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace wavy {

class Archive {
 public:
  using Numbers = std::map<std::string, std::vector<double>>;
  using Texts = std::map<std::string, std::string>;

  /// Keeps what it is given.
  Archive() = default;
  /// Brings back what another has kept.
  Archive(Numbers numbers, Texts texts) : reading_(true), numbers_(std::move(numbers)), texts_(std::move(texts)) {}

  [[nodiscard]] bool reading() const { return reading_; }
  [[nodiscard]] const Numbers& numbers() const { return numbers_; }
  [[nodiscard]] const Texts& texts() const { return texts_; }

  /// Whether a number or an array of this name was kept.
  [[nodiscard]] bool holds(const std::string& name) const { return numbers_.contains(prefix_ + name); }

  /// A number, of which doubles hold every digit (whole ones up to 2^53), or an array of numbers, of which those in
  /// `values` must be as many as were kept. All throw a failure that names what the archive does not hold.
  template <class T>
  requires std::is_arithmetic_v<T>
  void operator()(const std::string& name, T& value) {
    auto one = static_cast<double>(value);
    (*this)(name, std::span(&one, 1));
    value = static_cast<T>(one);
  }
  void operator()(const std::string& name, std::span<double> values);
  /// An array of any size, a text, and any number of texts of one line each.
  void operator()(const std::string& name, std::vector<double>& values);
  void operator()(const std::string& name, std::string& text);
  void operator()(const std::string& name, std::vector<std::string>& lines);
  template <std::size_t N>
  void operator()(const std::string& name, std::array<double, N>& values) {
    (*this)(name, std::span<double>(values));
  }

  /// Names within `archive_inner` begin with `name` and a slash.
  template <class Fn>
  void within(const std::string& name, Fn&& archive_inner) {
    const std::string outer = prefix_;
    prefix_ += name + "/";
    archive_inner();
    prefix_ = outer;
  }

 private:
  [[nodiscard]] const std::vector<double>& kept(const std::string& name) const;

  bool reading_ = false;
  std::string prefix_;
  Numbers numbers_;
  Texts texts_;
};

}  // namespace wavy
