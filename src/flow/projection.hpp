// The projection: the pressure that leaves the volume flow through the faces free of divergence, and what it does to
// one velocity, or to those of several phases that share it.
#pragma once

#include "flow/openings.hpp"
#include "linear/pressure_solver.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// (S15): velocities on the faces: the mean of the cells' by `weight` (their mass: that conserves momentum), times the
/// open area, plus dt times an acceleration that has the area in it. Nothing passes the boundary but where it is open.
/// Reads u(1), weight(1).
template <int D>
void predict_faces(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary, const Cells<D>& weight,
                   const CellVectors<D>& u, const Faces<D>& acceleration, double dt, Faces<D>& face_u);

/// Adds a uniform acceleration [m/s2] to that of the open faces.
template <int D>
void add_uniform(const Grid<D>& grid, const OpenSpace<D>& space, const Vec<D>& added, Faces<D>& acceleration);

/// Takes out of a body force what acts along periodic axes, where it has no potential [m/s2].
template <int D>
Vec<D> take_periodic(const Grid<D>& grid, Vec<D>& force);

/// Weight in a cell's mean of what is on its two faces over their open share: over the open faces, and a closed one
/// counts like a wall, as far as the cell reaches it. 1/2 without solids.
template <int D>
CellVectors<D> mean_weights(const Grid<D>& grid, const OpenSpace<D>& space);

/// Pressure solver and right-hand side of one grid. A step calls, in this order: set_given, find_divergence, solve,
/// add_pressure for every momentum, then per block correct_faces, accelerate_cells for every momentum, and
/// greatest_divergence.
template <int D>
class Projection {
 public:
  /// Space and boundary must outlive it.
  Projection(const Grid<D>& grid, const OpenSpace<D>& space, Boundary<D>& boundary);

  /// Velocities on open faces of the boundary and flows through walls, as given at a time.
  void set_given(const Grid<D>& grid, double time, const CellVectors<D>& u, Faces<D>& face_u);
  /// What comes through walls and in zones at a time; not `flows`: nothing.
  void set_sources(double time, bool flows);
  /// The same, over the volume of a whole cell [1/s]; null where nothing can.
  [[nodiscard]] const Cells<D>* source() const { return boundary_.through_walls() ? &source_ : nullptr; }
  /// (S16): rhs = (div(face velocity) - what comes through walls) / dt [1/s2].
  void find_divergence(const Grid<D>& grid, const Faces<D>& face_u, double dt);
  /// First guess of the pressure: on the straight line through the last two, `ahead` times as far beyond.
  void guess(const Grid<D>& grid, Cells<D>& p, double ahead);
  [[nodiscard]] Cells<D>& rhs() { return rhs_; }
  [[nodiscard]] Cells<D>& last_pressure() { return last_pressure_; }
  [[nodiscard]] PressureSolver<D>& solver() { return solver_; }

  /// (S17): a -= grad p / rho: the total acceleration on the faces; 0 at walls. Reads p(1).
  void add_pressure(const Grid<D>& grid, const Cells<D>& p, const Faces<D>& inverse_density,
                    Faces<D>& acceleration) const;
  /// (S17): face_u -= dt grad p / rho on the faces of a block. Reads p(1).
  void correct_faces(const Grid<D>& grid, int block, const Cells<D>& p, const Faces<D>& inverse_density, double dt,
                     Faces<D>& face_u) const;
  /// (S18): the mean of the faces' accelerations in the cells of a block, `own`, and u += dt own. In cut cells the mean
  /// over the open faces; a closed one counts like a wall, as far as the cell reaches it.
  void accelerate_cells(const Grid<D>& grid, int block, const Faces<D>& acceleration, double dt, CellVectors<D>& own,
                        CellVectors<D>& u) const;
  /// Greatest |div u| dt of the cells of a block; `left_out`: but those where this is not 0.
  [[nodiscard]] double greatest_divergence(const Grid<D>& grid, int block, const Faces<D>& face_u, double dt,
                                           const Cells<D>* left_out) const;

 private:
  const OpenSpace<D>& space_;
  Boundary<D>& boundary_;
  PressureSolver<D> solver_;
  Cells<D> rhs_;
  Cells<D> last_pressure_;
  CellVectors<D> mean_weight_;  // of what passes a cell's two faces in its mean; only where there are solids
  Cells<D> source_;             // what comes through walls [1/s]; only where some openings lie on walls
};

}  // namespace wavy
