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

/// Name of the column with the flow of a phase through an opening.
inline std::string flow_column(const std::string& opening, const std::string& phase) { return opening + "_" + phase; }

/// The gauges of a run, with the cells that each of them reads found once.
template <int D>
class Gauges {
 public:
  Gauges(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space);

  /// Time first, then the gauges in the order of the case, then what is always measured: the flow of each phase through
  /// each opening (into the vessel, mean since the last reading), the volume of each phase and the greatest speed.
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] std::vector<double> read(const sharp::Model<D>& model);

 private:
  struct Part {
    int block = 0;
    std::ptrdiff_t offset = 0;
    double weight = 0;
  };
  /// A piece of wall beside a cell.
  struct Piece {
    int block = 0;
    std::ptrdiff_t offset = 0;
    double area = 0;  ///< of its projection along the gauge's axis, positive where the pressure pushes that way [m2]
    Vec<D> place{};   ///< on the wall [m]
  };
  [[nodiscard]] std::vector<Piece> pieces_of(const NamedWall& wall, int axis, const Grid<D>& grid,
                                             const OpenSpace<D>& space) const;

  const Setup<D>& setup_;
  std::vector<Column> columns_;
  std::vector<std::vector<Part>> parts_;  // per gauge: value = base + sum of weight x cell value
  std::vector<double> base_;
  std::vector<std::vector<Piece>> pieces_;  // per gauge, of forces
  std::vector<sharp::Passed> passed_;       // at the last reading
  double time_ = 0;
};

}  // namespace wavy
