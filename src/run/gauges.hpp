// Gauges: what is measured in every time step.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "run/column.hpp"
#include "run/setup.hpp"

namespace wavy {

/// The gauges of a run, with the cells that each of them reads found once.
template <int D>
class Gauges {
 public:
  Gauges(const Setup<D>& setup, const sharp::Model<D>& model);

  /// Time first, then the gauges in the order of the case, then what is always measured: the flow of each phase through
  /// each opening (into the vessel, mean since the last reading; where a pressure is given also in and out apart), the
  /// volume of each phase and the greatest speed. Throws an input error where a level gauge lies in a solid.
  [[nodiscard]] const std::vector<Column>& columns() const { return columns_; }
  [[nodiscard]] std::vector<double> read(const sharp::Model<D>& model);

  /// What the next reading depends on.
  void archive(Archive& a);

 private:
  struct Sample {
    int block = 0;
    std::ptrdiff_t offset = 0;
    double weight = 0;
  };
  /// The open cells of one column of the grid, from the bottom up, in stretches between solids.
  struct Stretch {
    double floor = 0;           ///< height of the solid that it stands on [m]
    std::vector<Sample> cells;  ///< weight: height of what is open [m]
  };
  struct LevelColumn {
    double weight = 0;
    std::vector<Stretch> stretches;
  };
  [[nodiscard]] static LevelColumn column_at(const sharp::Model<D>& model, const CellMap<D>& map, Index<D> cell);
  void add_level(const Gauge<D>& gauge, const sharp::Model<D>& model, const CellMap<D>& map);
  [[nodiscard]] double level(const std::vector<LevelColumn>& columns, const sharp::Model<D>& model) const;
  /// A piece of wall beside a cell.
  struct WallElement {
    int block = 0;
    std::ptrdiff_t offset = 0;
    Vec<D> place{};  ///< on the wall [m]
    /// Area of its projection along the gauge's axis, positive where the pressure pushes that way [m2].
    double pressure_area = 0;
    // Friction: on a side of the grid,
    double shear_area = 0;                     ///< its area [m2]
    int across = 0;                            ///< axis across it
    int motion = sharp::MovingWalls<D>::none;  ///< of that side
    // or in a wall cell of the space.
    double drag = 0;         ///< share of its friction that counts, times the cell's volume [m3]
    std::size_t number = 0;  ///< of the wall cell in its block
  };
  /// A piece of no area yet, in the middle of a cell.
  static WallElement element_in(const Grid<D>& grid, int block, std::ptrdiff_t offset) {
    return {.block = block, .offset = offset, .place = cell_middle<D>(grid, block, offset)};
  }
  [[nodiscard]] std::vector<WallElement> elements_of(const Gauge<D>& gauge, const sharp::Model<D>& model) const;
  void add_side_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int block,
                         std::vector<WallElement>& elements) const;
  void add_solid_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int block,
                          std::vector<WallElement>& elements) const;
  void add_thin_elements(const Gauge<D>& gauge, const sharp::Model<D>& model, int block,
                         std::vector<WallElement>& elements) const;
  [[nodiscard]] double force(const std::vector<WallElement>& elements, int axis, const sharp::Model<D>& model,
                             double reference) const;

  const Setup<D>& setup_;
  std::vector<Column> columns_;
  std::vector<std::vector<Sample>> samples_;        // per gauge, of pressures: value = sum of weight x cell value
  std::vector<std::vector<LevelColumn>> levels_;    // per gauge, of levels
  std::vector<std::vector<WallElement>> elements_;  // per gauge, of forces
  std::vector<sharp::Throughput> throughput_;       // at the last reading
  std::vector<double> shown_;                       // per gauge: its reading, NaN before the first
  double time_ = 0;
};

}  // namespace wavy
