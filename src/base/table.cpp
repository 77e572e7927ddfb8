#include "base/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <fstream>
#include <limits>
#include <string_view>

#include "base/units.hpp"

namespace wavy {
namespace {

/// The numbers of one line; with `gaps` NaN where nothing stands behind the first one.
std::vector<double> numbers_in(const std::vector<std::string_view>& cells, const Table& table, const std::string& line,
                               Place place, bool gaps) {
  if (cells.size() != table.names.size())
    throw input_error(place,
                      fmt::format("{} values where the header names {} columns", cells.size(), table.names.size()),
                      "give every line one value per column");
  std::vector<double> row;
  for (std::size_t c = 0; c < cells.size(); ++c) {
    double value = std::numeric_limits<double>::quiet_NaN();
    if (cells[c].empty() && gaps && c > 0) {
      row.push_back(value);
      continue;
    }
    const auto [end, status] = std::from_chars(cells[c].data(), cells[c].data() + cells[c].size(), value);
    if (status != std::errc{} || end != cells[c].data() + cells[c].size() || !std::isfinite(value)) {
      place.column = static_cast<int>(cells[c].data() - line.data()) + 1;
      place.key = table.names[c];
      throw input_error(place, fmt::format("'{}' is not a number", cells[c].substr(0, 40)),
                        "write a plain number, such as 0.25");
    }
    row.push_back(value);
  }
  return row;
}

}  // namespace

std::vector<std::string_view> csv_cells(std::string_view line) {
  std::vector<std::string_view> cells;
  while (true) {
    const std::size_t comma = line.find_first_of(",;");
    std::string_view cell = line.substr(0, comma);
    while (!cell.empty() && (cell.front() == ' ' || cell.front() == '"')) cell.remove_prefix(1);
    while (!cell.empty() && (cell.back() == ' ' || cell.back() == '\r' || cell.back() == '"')) cell.remove_suffix(1);
    cells.push_back(cell);
    if (comma == std::string_view::npos) return cells;
    line.remove_prefix(comma + 1);
  }
}

int Table::find(const std::string& name) const {
  const auto at = std::find(names.begin(), names.end(), name);
  return at == names.end() ? -1 : static_cast<int>(at - names.begin());
}

Table table_headed(const std::vector<std::string_view>& cells) {
  Table table;
  for (const std::string_view cell : cells) {
    const std::size_t open = cell.find('[');
    const std::size_t close = cell.rfind(']');
    std::string_view name = cell.substr(0, open);
    while (!name.empty() && name.back() == ' ') name.remove_suffix(1);
    table.names.emplace_back(name);
    table.units.emplace_back(open != std::string_view::npos && close != std::string_view::npos && close > open
                                 ? cell.substr(open + 1, close - open - 1)
                                 : std::string_view{});
  }
  table.columns.resize(cells.size());
  return table;
}

Table read_csv(const std::filesystem::path& file, long* left_out) {
  std::error_code status;
  std::ifstream in(file);
  if (!in || !std::filesystem::is_regular_file(file, status))
    throw input_error({file.string(), 0, 0, ""}, "the file cannot be read", "check its name and that it is there");
  Table table;
  std::string line;
  int number = 0;
  while (std::getline(in, line)) {
    ++number;
    if (line.empty() || line == "\r" || line.front() == '#') continue;
    const auto cells = csv_cells(line);
    if (table.names.empty()) {
      table = table_headed(cells);
      continue;
    }
    std::vector<double> row;
    try {
      const bool gaps = left_out != nullptr && !in.eof();  // where the file ends within a line, it was cut off
      row = numbers_in(cells, table, line, {file.string(), number, 1, ""}, gaps);
    } catch (const Error&) {
      if (left_out == nullptr) throw;
      ++*left_out;
      continue;
    }
    for (std::size_t c = 0; c < cells.size(); ++c) table.columns[c].push_back(row[c]);
  }
  if (table.names.empty() || table.columns.front().empty())
    throw input_error({file.string(), 0, 0, ""}, "the table is empty",
                      "write a header line and at least one line of numbers");
  return table;
}

std::optional<std::string> change_unit(Table& table, const std::string& unit) {
  const auto wanted = scale_to_si(unit);
  if (!wanted) return fmt::format("'{}' is not a unit that is known here", unit.substr(0, 40));
  bool any = false;
  for (std::size_t c = 0; c < table.columns.size(); ++c) {
    const auto own = scale_to_si(table.units[c]);
    if (!own || own->powers != wanted->powers || table.units[c] == "1") continue;
    for (double& value : table.columns[c])
      value = (own->factor * value + own->offset - wanted->offset) / wanted->factor;
    table.units[c] = unit;
    any = true;
  }
  if (!any) return fmt::format("no column measures what '{}' does", unit);
  return std::nullopt;
}

std::string csv_text(const Table& table) {
  std::string text;
  for (std::size_t c = 0; c < table.names.size(); ++c)
    text += fmt::format("{}{} [{}]", c > 0 ? "," : "", table.names[c], table.units[c]);
  text += '\n';
  for (std::size_t i = 0; i < table.columns.front().size(); ++i) {
    for (std::size_t c = 0; c < table.columns.size(); ++c)
      text += fmt::format("{}{}", c > 0 ? "," : "",
                          std::isnan(table.columns[c][i]) ? "" : fmt::format("{}", table.columns[c][i]));
    text += '\n';
  }
  return text;
}

Curve::Curve(std::vector<double> x, std::vector<double> y) : x_(std::move(x)), y_(std::move(y)) {}

double Curve::operator()(double x) const {
  const auto above = std::upper_bound(x_.begin(), x_.end(), x);
  if (above == x_.begin()) return y_.front();
  if (above == x_.end()) return y_.back();
  const auto i = static_cast<std::size_t>(above - x_.begin());
  const double weight = (x - x_[i - 1]) / (x_[i] - x_[i - 1]);
  return y_[i - 1] + weight * (y_[i] - y_[i - 1]);
}

}  // namespace wavy
