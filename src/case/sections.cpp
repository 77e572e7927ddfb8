#include "case/sections.hpp"

#include <utility>

namespace wavy {

Sections::Sections(const toml::table& root, CaseFile& out) : root_(root), out_(out) {
  top_.file = out.file.string();
  top_.line = 1;
  top_.column = 1;
}

Part Sections::section(const std::string& name, bool header) {
  const toml::node* node = root_.at_path(name).node();
  if (header) out_.as_run += fmt::format("\n[{}]\n", name);
  Place place = top_;
  if (node != nullptr) {
    Part::move_to(place, *node);
    if (!node->is_table()) {
      place.key = name;
      throw input_error(place, fmt::format("a section is needed here, not {}", Part::kind_of(*node)),
                        fmt::format("write [{}] on a line of its own", name));
    }
  }
  return {node == nullptr ? nullptr : node->as_table(), name, name, place, out_};
}

const toml::array* Sections::list_of(const std::string& name) const {
  const toml::node* node = root_.get(name);
  if (node == nullptr || node->is_array()) return node == nullptr ? nullptr : node->as_array();
  Place place = top_;
  Part::move_to(place, *node);
  place.key = name;
  throw input_error(place, "this section may stand several times: double brackets are needed",
                    fmt::format("write [[{}]]", name));
}

Part Sections::entry(const std::string& name, const toml::node& item, std::size_t number) {
  Place place = top_;
  place.key = name;
  Part::move_to(place, item);
  if (!item.is_table())
    throw input_error(place, fmt::format("a section is needed here, not {}", Part::kind_of(item)),
                      fmt::format("write [[{}]] on a line of its own", name));
  out_.as_run += fmt::format("\n[[{}]]\n", name);
  return {item.as_table(), name, fmt::format("{}[{}]", name, number), place, out_};
}

}  // namespace wavy
