#include "base/error.hpp"

#include <fmt/format.h>

namespace wavy {
namespace {

std::string message(const Place& place, const std::string& what, const std::string& remedy) {
  std::string text;
  if (!place.file.empty()) {
    text += place.file;
    if (place.line > 0) text += fmt::format(":{}:{}", place.line, place.column);
    text += ": ";
  }
  if (!place.key.empty()) text += place.key + ": ";
  text += what;
  if (!remedy.empty()) text += "\n  " + remedy;
  return text;
}

}  // namespace

Error::Error(Fault fault, const Place& place, const std::string& what, const std::string& remedy)
    : std::runtime_error(message(place, what, remedy)), fault_(fault), place_(place), problem_(what), remedy_(remedy) {}

}  // namespace wavy
