// What passes the openings of the boundary in the sweeps of a step, as the volume fraction of the denser phase.
#pragma once

#include <array>
#include <vector>

#include "flow/openings.hpp"
#include "mesh/open_space.hpp"
#include "sharp/model.hpp"

namespace wavy::sharp {

/// Densities at open faces, for the pressures that are given there. F, settings and boundary must outlive it.
template <int D>
FluidAtOpenings<D> fluid_at_openings(const Boundary<D>& boundary, const Settings<D>& settings, const Cells<D>& F,
                                     const Vec<D>& G);

template <int D>
class OpeningFluxes {
 public:
  /// The boundary must outlive it.
  explicit OpeningFluxes(Boundary<D>& boundary);

  /// F behind open faces: what comes in.
  void set_fraction_behind(const Faces<D>& face_u, Cells<D>& F) const;
  /// What comes in through the faces of a block has its own share of liquid, whatever stands behind or beside them:
  /// sets `liquid` from `all`, both as shares of a cell. F: of the block.
  void set_incoming(int block, int axis, const double* F, const double* all, double* liquid) const;
  /// Notes what a sweep moved through the faces of a block: of both phases and of liquid, as shares of a cell.
  void record_fluxes(int block, int axis, const double* all, const double* liquid);
  /// Adds up what passed through the faces across an axis in a sweep; returns the liquid that came in, less what went
  /// out [m^D].
  double accumulate(const Grid<D>& grid, int axis);
  /// After the sweeps of a step, which have counted what comes through walls as more of what a cell was full of at the
  /// start (`full`, at the velocity `start`): puts what really came or went in its place. Returns the liquid gained
  /// [m^D].
  double pass_walls(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings, double dt,
                    const Field<unsigned char, D>& full, const CellVectors<D>& start, State<D>& state);

 private:
  /// Through a face in the last sweep, along the axis, as shares of a cell.
  struct Passed {
    double all = 0;
    double liquid = 0;
  };
  Boundary<D>* boundary_;
  std::array<std::vector<Passed>, D> passed_;  // as the boundary's faces
};

}  // namespace wavy::sharp
