#include "run/setup.hpp"

#include "mesh/cover.hpp"

namespace wavy {

template <int D>
Grid<D> make_grid(const Setup<D>& setup) {
  return Grid<D>(Vec<D>{}, setup.size, partition<D>(setup.size, setup.cell_size));
}

template <int D>
sharp::Settings<D> model_settings(const Setup<D>& setup) {
  sharp::Settings<D> settings;
  settings.liquid = setup.phases[0].properties;
  settings.gas = setup.phases[1].properties;
  settings.contact_angle = setup.contact_angle;
  settings.slip_length = setup.slip_length;
  settings.surface_tension = setup.surface_tension;
  settings.walls = setup.walls;
  settings.courant = setup.courant;
  settings.projection_tolerance = setup.projection_tolerance;
  settings.body_force = [gravity = setup.gravity, acceleration = setup.acceleration](double t) {
    Vec<D> G;
    for (std::size_t d = 0; d < D; ++d) G[d] = gravity[d](t) - acceleration[d](t);
    return G;
  };
  return settings;
}

template <int D>
void fill(const Setup<D>& setup, const Grid<D>& grid, Cells<D>& F) {
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    double share = 0;
    for (const auto& part : setup.fills) {
      const double covered = covered_share<D>(grid, cell, part.shape);
      share = share * (1 - covered) + (part.phase == 0 ? covered : 0.0);
    }
    F.block(b)[o] = share;
  });
}

template Grid<2> make_grid<2>(const Setup<2>&);
template Grid<3> make_grid<3>(const Setup<3>&);
template sharp::Settings<2> model_settings<2>(const Setup<2>&);
template sharp::Settings<3> model_settings<3>(const Setup<3>&);
template void fill<2>(const Setup<2>&, const Grid<2>&, Cells<2>&);
template void fill<3>(const Setup<3>&, const Grid<3>&, Cells<3>&);

}  // namespace wavy
