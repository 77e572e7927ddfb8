#include "run/estimates.hpp"

#include <cmath>

namespace wavy {

template <int D>
std::vector<std::array<double, 2>> drain_curve(const Setup<D>& setup, const sharp::Model<D>& model,
                                               std::size_t opening) {
  const Grid<D>& grid = model.grid();
  const auto& given = setup.openings[opening];
  const double g = -setup.gravity[D - 1](0);
  const bool in_floor = given.opening.side == 0 && given.opening.axis == D - 1;
  const bool dammed = !setup.inserts.empty() || !setup.thin_walls.empty();
  const bool in_side = given.opening.axis != D - 1 && !dammed;
  if (given.given != OpeningSetup<D>::Given::pressure || !(in_floor || in_side) || !(g > 0)) return {};
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
  const double h = grid.spacing()[D - 1];
  // The layers that hold it, as if it stood level; from the top down.
  std::vector<std::array<double, 2>> held;  // volume, and level of its upper side
  for (std::size_t k = 0; k < layers && liquid > 0; ++k) {
    const double volume = std::min(open[k], liquid);
    liquid -= volume;
    const double share = open[k] > 0 ? volume / open[k] : 0.0;
    held.push_back({volume, grid.lower()[D - 1] + (static_cast<double>(k) + share) * h});
  }
  std::vector<std::array<double, 2>> curve;
  double time = 0;
  for (auto layer = held.rbegin(); layer != held.rend(); ++layer) {
    const auto& [volume, level] = *layer;
    const double below = layer + 1 == held.rend() ? grid.lower()[D - 1] : (*(layer + 1))[1];
    const double from = level - outlet;
    const double to = std::max(below - outlet, 0.0);
    if (from <= to) break;
    if (curve.empty()) curve.push_back({0.0, level});
    // The mean of 1 / sqrt(height) over the layer.
    time += volume / (area * std::sqrt(2 * g)) * 2 / (std::sqrt(from) + std::sqrt(to));
    curve.push_back({time, below});
  }
  return curve;
}

template <int D>
std::optional<double> given_flow(const Setup<D>& setup, const sharp::Model<D>& model, std::size_t opening,
                                 double time) {
  using Given = typename OpeningSetup<D>::Given;
  const auto& given = setup.openings[opening];
  if (given.given == Given::pressure || given.given == Given::level) return std::nullopt;
  return model.skin().openings()[opening].flow(time) * setup.thickness;
}

template std::vector<std::array<double, 2>> drain_curve<2>(const Setup<2>&, const sharp::Model<2>&, std::size_t);
template std::vector<std::array<double, 2>> drain_curve<3>(const Setup<3>&, const sharp::Model<3>&, std::size_t);
template std::optional<double> given_flow<2>(const Setup<2>&, const sharp::Model<2>&, std::size_t, double);
template std::optional<double> given_flow<3>(const Setup<3>&, const sharp::Model<3>&, std::size_t, double);

}  // namespace wavy
