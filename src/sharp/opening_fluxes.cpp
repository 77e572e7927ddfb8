#include "sharp/opening_fluxes.hpp"

#include <algorithm>
#include <cmath>

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
FluidAtOpenings<D> fluid_at_openings(const Boundary<D>& boundary, const Settings<D>& settings, const Cells<D>& F,
                                     const Vec<D>& G) {
  const auto densities = [&boundary, &settings, &F](const OpeningFace<D>& face) {
    const double share = F.block(face.block)[face.inside];
    DensitiesAtOpening at{.inside = weighing_density(settings, share),
                          .column = 0,
                          .incoming = density(settings, boundary.incoming_share(face, 0, share))};
    at.column = boundary.column_density(face, at.inside, weighing_density(settings, 1), weighing_density(settings, 0));
    return at;
  };
  return {.G = G, .air_density = settings.outside_density, .densities = densities};
}

template <int D>
OpeningFluxes<D>::OpeningFluxes(Boundary<D>& boundary) : boundary_(&boundary) {
  for (int axis = 0; axis < D; ++axis) passed_[static_cast<std::size_t>(axis)].resize(boundary.faces(axis).size());
}

template <int D>
void OpeningFluxes<D>::set_fraction_behind(const Faces<D>& face_u, Cells<D>& F) const {
  for (int axis = 0; axis < D; ++axis)
    for (const auto& face : boundary_->faces(axis)) {
      const double inwards = boundary_->sign(face) * face_u[axis].block(face.block)[face.face];
      double* f = F.block(face.block);
      if (inwards > 0) f[face.behind] = boundary_->incoming_share(face, 0, f[face.inside]);
    }
}

template <int D>
void OpeningFluxes<D>::set_incoming(int block, int axis, const double* F, const double* all, double* liquid) const {
  boundary_->each(block, axis, [this, F, all, value = liquid](const OpeningFace<D>& face) {
    if (boundary_->sign(face) * all[face.face] > 0)
      value[face.face] = boundary_->incoming_share(face, 0, F[face.inside]) * all[face.face];
  });
}

template <int D>
void OpeningFluxes<D>::record_fluxes(int block, int axis, const double* all, const double* liquid) {
  auto& passed = passed_[static_cast<std::size_t>(axis)];
  const OpeningFace<D>* first = boundary_->faces(axis).data();
  boundary_->each(block, axis, [&](const OpeningFace<D>& face) {
    passed[static_cast<std::size_t>(&face - first)] = {.all = all[face.face], .liquid = liquid[face.face]};
  });
}

template <int D>
double OpeningFluxes<D>::accumulate(const Grid<D>& grid, int axis) {
  double gained = 0;
  const auto& faces = boundary_->faces(axis);
  for (std::size_t k = 0; k < faces.size(); ++k) {
    const Passed& passed = passed_[static_cast<std::size_t>(axis)][k];
    const int sign = boundary_->sign(faces[k]);
    const double cell_volume = grid.geometry(faces[k].block).cell_volume;
    const double liquid = sign * passed.liquid * cell_volume;
    const double gas = sign * (passed.all - passed.liquid) * cell_volume;
    boundary_->record(faces[k].opening, 0, liquid > 0, std::abs(liquid));
    boundary_->record(faces[k].opening, 1, gas > 0, std::abs(gas));
    gained += liquid;
  }
  return gained;
}

template <int D>
double OpeningFluxes<D>::pass_walls(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings,
                                    double dt, const Field<unsigned char, D>& full, const CellVectors<D>& start,
                                    State<D>& state) {
  double gained = 0;
  for (const auto& cell : boundary_->wall_inlets()) {
    double& F = state.F.block(cell.block)[cell.at];
    const double volume = space.volume().block(cell.block)[cell.at];
    const double cell_volume = grid.geometry(cell.block).cell_volume;
    const double came = dt * cell.speed * cell.area;         // as a share of a whole cell
    const double counted = full.block(cell.block)[cell.at];  // share of liquid that the sweeps have given it
    const double share = came > 0 ? boundary_->openings()[cell.opening].composition[0] : std::clamp(F, 0.0, 1.0);
    // Of the group: mass and momentum without the false dilation and with what came.
    double mass = 0;
    Vec<D> momentum{};
    for (const auto& place : cell.group) {
      const double held = space.volume().block(place.block)[place.at] *
                          density(settings, std::clamp(state.F.block(place.block)[place.at], 0.0, 1.0));
      mass += held;
      for (std::size_t c = 0; c < D; ++c) momentum[c] += held * state.u[c].block(place.block)[place.at];
    }
    const double false_mass = came * density(settings, counted);
    const double true_mass = came * density(settings, share);

    const double left = mass - false_mass + true_mass;
    for (std::size_t c = 0; c < D; ++c) {
      const double own = start[c].block(cell.block)[cell.at];
      const double comes_with = came > 0 ? cell.speed * cell.inwards[c] : own;
      const double change =
          (momentum[c] - false_mass * own + true_mass * comes_with) / std::max(left, 1e-3 * mass) - momentum[c] / mass;
      for (const auto& place : cell.group) state.u[c].block(place.block)[place.at] += change;
    }
    F += (share - counted) * came / volume;
    const double liquid = share * came * cell_volume;
    const double gas = (1 - share) * came * cell_volume;
    boundary_->record(cell.opening, 0, came > 0, std::abs(liquid));
    boundary_->record(cell.opening, 1, came > 0, std::abs(gas));
    gained += liquid;
  }
  return gained;
}

template FluidAtOpenings<2> fluid_at_openings<2>(const Boundary<2>&, const Settings<2>&, const Cells<2>&,
                                                 const Vec<2>&);
template FluidAtOpenings<3> fluid_at_openings<3>(const Boundary<3>&, const Settings<3>&, const Cells<3>&,
                                                 const Vec<3>&);
template class OpeningFluxes<2>;
template class OpeningFluxes<3>;

}  // namespace wavy::sharp
