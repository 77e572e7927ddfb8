// Gauges: what is measured in every time step.
#pragma once

#include <string>
#include <vector>

#include "run/setup.hpp"

namespace wavy {

struct Column {
  std::string name;
  std::string unit;
};

/// The gauges of a run, with the cells that each of them reads found once.
template <int D>
class Gauges {
 public:
  Gauges(const Setup<D>& setup, const Grid<D>& grid);

  /// Time first, then the gauges in the order of the case, then the volume of each phase and the greatest speed, which
  /// are always measured.
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] std::vector<double> read(const sharp::Model<D>& model) const;

 private:
  struct Part {
    int block = 0;
    std::ptrdiff_t offset = 0;
    double weight = 0;
  };
  const Setup<D>& setup_;
  std::vector<Column> columns_;
  std::vector<std::vector<Part>> parts_;  // per gauge: value = sum of weight x cell value
};

}  // namespace wavy
