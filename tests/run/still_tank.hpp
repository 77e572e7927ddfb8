// A tank of water under air, at rest between walls that slip.
#pragma once

#include "run/setup.hpp"

inline wavy::Setup<2> still_tank(const wavy::Vec<2>& size, double level, double cell) {
  using namespace wavy;
  Setup<2> setup;
  setup.size = setup.upper = size;
  setup.cell_size = cell;
  setup.phases = {Phase{"water", {1000, 1e-3}}, Phase{"air", {1.2, 1.8e-5}}};
  for (auto& axis : setup.walls) axis = {Wall::slip, Wall::slip};
  setup.fills = {{BelowLevel<2>{level}, 0}};
  setup.gravity = {Formula(0), Formula(-9.81)};
  setup.acceleration = {Formula(0), Formula(0)};
  return setup;
}
