#include "run/estimates.hpp"

#include <cmath>

namespace wavy {

template <int D>
std::optional<double> drain_time(const Setup<D>& setup, const sharp::Model<D>& model, std::size_t opening,
                                 double discharge) {
  const Grid<D>& grid = model.grid();
  const double g = -setup.gravity[D - 1](0);
  if (!(g > 0)) return std::nullopt;
  // Open and liquid volume of every layer of cells.
  const auto layers = static_cast<std::size_t>(grid.cells()[D - 1]);
  std::vector<double> open(layers);
  double liquid = 0;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double room = Rooms<D>(model.space(), b)[o];
    open[static_cast<std::size_t>(cell[D - 1])] += room * grid.cell_volume() * setup.thickness;
    liquid += room * model.state().F.block(b)[o] * grid.cell_volume() * setup.thickness;
  });
  const auto corners = model.skin().corners(opening, grid);
  const double outlet = 0.5 * (corners[0][D - 1] + corners[1][D - 1]);
  const double area = model.skin().area(opening) * setup.thickness;
  double time = 0;
  bool above = false;
  for (std::size_t k = 0; k < layers && liquid > 0; ++k) {
    const double volume = std::min(open[k], liquid);
    liquid -= volume;
    const double height = grid.lower()[D - 1] + (static_cast<double>(k) + 0.5) * grid.spacing()[D - 1] - outlet;
    if (height <= 0) continue;
    above = above || volume > 0;
    time += volume / (discharge * area * std::sqrt(2 * g * height));
  }
  if (!above) return std::nullopt;
  return time;
}

template <int D>
std::optional<double> given_flow(const Setup<D>& setup, const sharp::Model<D>& model, std::size_t opening,
                                 double time) {
  using Given = typename OpeningSetup<D>::Given;
  const auto& given = setup.openings[opening];
  if (given.given == Given::pressure || given.given == Given::level) return std::nullopt;
  return model.skin().openings()[opening].flow(time) * setup.thickness;
}

template std::optional<double> drain_time<2>(const Setup<2>&, const sharp::Model<2>&, std::size_t, double);
template std::optional<double> drain_time<3>(const Setup<3>&, const sharp::Model<3>&, std::size_t, double);
template std::optional<double> given_flow<2>(const Setup<2>&, const sharp::Model<2>&, std::size_t, double);
template std::optional<double> given_flow<3>(const Setup<3>&, const sharp::Model<3>&, std::size_t, double);

}  // namespace wavy
