// What the validation cases share: boxes, exact fills, and the amplitude of a standing wave.
#pragma once

#include <cmath>

#include "geometry/shapes.hpp"
#include "sharp/model.hpp"
#include "sharp/plane.hpp"

namespace wavy::validation {

/// A box of `cells` cells along x.
inline Grid<2> box(double width, double height, int cells) {
  return Grid<2>({0, 0}, {width, height}, partition<2>({width, height}, width / cells));
}

inline sharp::Settings<2> fluids(const Properties& liquid, const Properties& gas, sharp::Wall wall, const Vec<2>& G) {
  sharp::Settings<2> settings;
  settings.liquid = liquid;
  settings.gas = gas;
  for (auto& axis : settings.walls) axis = {wall, wall};
  settings.body_force = [G](double) { return G; };
  return settings;
}

template <int D>
void fill_shape(const Grid<D>& grid, Cells<D>& F, const Shape<D>& shape, bool outside = false) {
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    Vec<D> lower;
    Vec<D> upper;
    for (int d = 0; d < D; ++d) {
      lower[d] = grid.lower()[d] + cell[d] * grid.spacing()[d];
      upper[d] = lower[d] + grid.spacing()[d];
    }
    const double share = covered_share<D>(shape, lower, upper);
    F.block(b)[o] = outside ? 1 - share : share;
  });
}

/// Fills below y = height(x): each cell below the straight line between the heights at its sides.
template <class Height>
void fill_below(const Grid<2>& grid, Cells<2>& F, Height&& height) {
  const Vec<2>& h = grid.spacing();
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double left = height(cell[0] * h[0]);
    const double right = height((cell[0] + 1) * h[0]);
    sharp::Plane<2> plane{{-(right - left) / h[1], 1}, left / h[1] - cell[1]};
    const double size = std::abs(plane.normal[0]) + 1;
    for (double& c : plane.normal) c /= size;
    plane.offset /= size;
    F.block(b)[o] = sharp::slab_share<2>(plane, 0, 0, 1);
  });
}

/// 2/width times the integral over the width of (liquid height) cos(n pi x / width).
inline double mode_amplitude(const sharp::Model<2>& model, int n) {
  const Grid<2>& grid = model.grid();
  double sum = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    sum += model.state().F.block(b)[o] * std::cos(n * M_PI * (cell[0] + 0.5) / grid.cells()[0]);
  });
  return 2 * sum * grid.cell_volume() / grid.upper()[0];
}

}  // namespace wavy::validation
