// Columns of numbers from a CSV file, and linear interpolation between their rows.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"

namespace wavy {

/// A CSV file with one header line; the unit may stand in brackets behind a name: "t [s],ax [m/s^2]".
struct Table {
  std::vector<std::string> names;            ///< without units
  std::vector<std::string> units;            ///< "" where none was given
  std::vector<std::vector<double>> columns;  ///< as written, not converted

  /// Index of a column, or -1.
  [[nodiscard]] int find(const std::string& name) const;
};

/// The cells of a line, without blanks and quotation marks round them.
std::vector<std::string_view> csv_cells(std::string_view line);

/// A table without rows, of the cells of a header line.
Table table_headed(const std::vector<std::string_view>& cells);

/// Throws an input error that names the file, the line and the column. With `left_out` rows that are not finite or cut
/// off, as a run that has failed or was killed leaves them, are left out and counted, and where nothing stands behind
/// the first column (a gauge that was not there yet) it is NaN.
Table read_csv(const std::filesystem::path& file, long* left_out = nullptr);

/// The same as text: names with their units, then a row a line, so that numbers come back to the bit; nothing where a
/// value is NaN.
std::string csv_text(const Table& table);

/// Turns all columns that measure what `unit` does into it. Says what is wrong where it is no unit or there are none;
/// the table is then as it was.
std::optional<std::string> change_unit(Table& table, const std::string& unit);

/// y over x, linear between points, constant beyond both ends.
class Curve {
 public:
  /// x must rise strictly; at least one point.
  Curve(std::vector<double> x, std::vector<double> y);
  double operator()(double x) const;

 private:
  std::vector<double> x_;
  std::vector<double> y_;
};

}  // namespace wavy
