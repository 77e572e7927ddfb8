// The sections of a case file while it is read, in any order.
#pragma once

#include <string>

#include "case/part.hpp"

namespace wavy {

class Sections {
 public:
  Sections(const toml::table& root, CaseFile& out);

  [[nodiscard]] const toml::table& root() const { return root_; }
  [[nodiscard]] CaseFile& out() { return out_; }
  [[nodiscard]] const FormulaNames& names() const { return out_.names; }
  /// Of the file.
  [[nodiscard]] const Place& top() const { return top_; }
  /// The part before the first section.
  [[nodiscard]] Part whole() { return {&root_, "", "", top_, out_}; }

  /// [name], empty where it is left out. `header`: it stands in the case as run.
  Part section(const std::string& name, bool header = true);

  /// fn(part) for every [[name]] in turn.
  template <class Fn>
  void each(const std::string& name, Fn&& fn) {
    const toml::array* list = list_of(name);
    if (list == nullptr) return;
    std::size_t number = 0;
    for (const auto& item : *list) fn(entry(name, item, ++number));
  }

 private:
  [[nodiscard]] const toml::array* list_of(const std::string& name) const;
  Part entry(const std::string& name, const toml::node& item, std::size_t number);

  const toml::table& root_;
  CaseFile& out_;
  Place top_;
};

}  // namespace wavy
