// Line charts, drawn by gnuplot.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace wavy {

struct Curve2D {
  std::string name;  ///< "" for none beside the panel
  std::vector<double> x;
  std::vector<double> y;
  bool points = false;  ///< dots instead of a line: for references
  bool dashed = false;  ///< for estimates
  double size = 1.6;    ///< of dots
  bool marked = false;  ///< dots on the line: where each point counts
};

/// One chart; several panels stand above each other and share the x axis.
struct Panel {
  std::string y_title;  ///< with unit
  std::vector<Curve2D> curves;
  bool log_axes = false;  ///< both; every value must be positive
  std::string heading{};  ///< over the panel, at its left
};

/// Throws a failure when gnuplot is missing or the file cannot be written. `file` ends in .png, .svg or .pdf.
void draw_chart(const std::string& title, const std::string& x_title, const std::vector<Panel>& panels,
                const std::filesystem::path& file, int width = 1280, int height = 800);

/// A map of values[row][column] over x (of columns) and y (of rows), both rising, as tiles that meet half-way; nothing
/// where a value is NaN. Throws as draw_chart does.
void draw_map(const std::string& title, const std::string& x_title, const std::string& y_title,
              const std::string& value_title, const std::vector<double>& x, const std::vector<double>& y,
              const std::vector<std::vector<double>>& values, const std::filesystem::path& file, int width = 1280,
              int height = 800);

}  // namespace wavy
