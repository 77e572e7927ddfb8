// Gas that is left out where the free surface alone is computed: cells with no liquid within two cells, and no given
// flow. What lies nearer moves along with the surface, which keeps the velocities free of divergence wherever liquid
// can come in the next step.
#pragma once

#include <vector>

#include "sharp/model.hpp"

namespace wavy::sharp {

template <int D>
class InactiveGas {
 public:
  InactiveGas(const Grid<D>& grid, const Boundary<D>& boundary);

  /// Finds the inactive cells. Reads two layers of the halo of `extended_fraction`.
  void mark(const Grid<D>& grid, const Cells<D>& extended_fraction);
  /// Nothing moves between inactive cells, nor through the boundary beside them.
  void still(const Grid<D>& grid, Faces<D>& acceleration, Faces<D>& inverse_density, State<D>& state) const;
  /// Sets 0 in inactive cells.
  void clear(const Grid<D>& grid, Cells<D>& field) const;

  /// 1 in inactive cells, halo filled.
  [[nodiscard]] const Cells<D>& inactive() const { return inactive_; }
  /// Cells beside openings with a given pressure.
  [[nodiscard]] const std::vector<CellPlace>& at_pressures() const { return at_pressures_; }

 private:
  Cells<D> inactive_;
  std::vector<CellPlace> at_flows_, at_pressures_;
};

}  // namespace wavy::sharp
