// Columns of tables, as tests read them.
#pragma once

#include <doctest/doctest.h>

#include <string>
#include <vector>

#include "base/table.hpp"

/// A column of a table, which must be there.
inline const std::vector<double>& column(const wavy::Table& table, const std::string& name) {
  const int number = table.find(name);
  REQUIRE(number >= 0);
  return table.columns[static_cast<std::size_t>(number)];
}
