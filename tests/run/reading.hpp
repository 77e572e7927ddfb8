// A tank of oil, and what a gauge reads in it.
#pragma once

#include <functional>
#include <string>

#include "run/gauge_kinds.hpp"

/// Oil at rest under a light gas, up to a level.
template <int D>
wavy::Setup<D> tank(const wavy::Vec<D>& size, double level, int cells = 20) {
  wavy::Setup<D> setup;
  setup.size = setup.upper = size;
  setup.cell_size = size[0] / cells;
  setup.phases = {wavy::Phase{"oil", {900, 0.05}}, wavy::Phase{"gas", {1e-6, 1e-6}}};
  setup.fills = {{wavy::BelowLevel<D>{level}, 0}};
  setup.gravity[D - 1] = wavy::Formula(-10);
  return setup;
}

/// What a gauge reads at the start, or of velocities that are given.
template <int D>
double reading(const wavy::Setup<D>& setup, const wavy::Gauge<D>& gauge,
               const std::function<wavy::Vec<D>(const wavy::Vec<D>&)>& velocity = {}) {
  const wavy::Grid<D> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  model->start();
  if (velocity)
    wavy::for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const wavy::Index<D>&) {
      const wavy::Vec<D> u = velocity(wavy::cell_middle<D>(grid, b, o));
      for (std::size_t d = 0; d < D; ++d) model->state().u[d].block(b)[o] = u[d];
    });
  wavy::VesselReading<D> now(setup, *model);
  return wavy::gauge_kind(gauge.measures, wavy::GaugeKind::Of::vessel).reader(gauge, setup, *model)(now);
}

template <int D>
wavy::Gauge<D> gauge_of(const std::string& measures, const std::string& quantity = "") {
  wavy::Gauge<D> gauge;
  gauge.name = "g";
  gauge.measures = measures;
  gauge.quantity = quantity;
  return gauge;
}
