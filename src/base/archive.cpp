#include "base/archive.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <sstream>

#include "base/error.hpp"

namespace wavy {
namespace {

Error not_held(const std::string& name) {
  return failure(fmt::format("the checkpoint does not hold '{}' as this case needs it", name),
                 "it was written by another version of the program, or of another case");
}

}  // namespace

const std::vector<double>& Archive::kept(const std::string& name) const {
  const auto found = numbers_.find(prefix_ + name);
  if (found == numbers_.end()) throw not_held(prefix_ + name);
  return found->second;
}

void Archive::operator()(const std::string& name, std::span<double> values) {
  if (!reading_) {
    numbers_[prefix_ + name].assign(values.begin(), values.end());
    return;
  }
  const auto& found = kept(name);
  if (found.size() != values.size()) throw not_held(prefix_ + name);
  std::ranges::copy(found, values.begin());
}

void Archive::operator()(const std::string& name, std::vector<double>& values) {
  if (reading_)
    values = kept(name);
  else
    numbers_[prefix_ + name] = values;
}

void Archive::operator()(const std::string& name, std::string& text) {
  if (!reading_) {
    texts_[prefix_ + name] = text;
    return;
  }
  const auto found = texts_.find(prefix_ + name);
  if (found == texts_.end()) throw not_held(prefix_ + name);
  text = found->second;
}

void Archive::operator()(const std::string& name, std::vector<std::string>& lines) {
  std::string text;
  for (const auto& line : lines) text += line + "\n";
  (*this)(name, text);
  if (!reading_) return;
  lines.clear();
  std::istringstream in(text);
  for (std::string line; std::getline(in, line);) lines.push_back(line);
}

}  // namespace wavy
