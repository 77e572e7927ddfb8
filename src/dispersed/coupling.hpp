// Forces, drag and virtual mass of all phases at once: on the faces, where the pressure acts, and back to the cells.
#pragma once

#include <vector>

#include "dispersed/layers.hpp"
#include "dispersed/model.hpp"
#include "dispersed/turning.hpp"

namespace wavy::dispersed {

/// A step calls, in this order: find_rates, set_faces, (the pressure is solved), add_pressure, return_to_cells,
/// unlock_faces.
template <int D>
class Coupling {
 public:
  Coupling(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight, const Settings<D>& settings,
           TurningPhases<D>& turning);

  /// (E7): drag of every pair in the cells and one layer round them, by the slips there; the geometric mean with what
  /// it was in the step before, without which steps longer than a body's response would swing from one value to
  /// another. Reads a(1), u(1).
  void find_rates(const Grid<D>& grid, const Settings<D>& settings, double gravity, State<D>& state);
  /// (E6) on the faces without the pressure: phase_u, the flow of all phases, and what the latter gains by a pressure
  /// gradient, over dt [m3/kg] with the open area in it. `G`, `drive`: body force that has a potential, and along
  /// periodic axes. Reads a(3), u(1).
  void set_faces(const Grid<D>& grid, const Settings<D>& settings, const Vec<D>& G, const Vec<D>& drive, double dt,
                 State<D>& state, Faces<D>& inverse_density);
  /// phase_u -= response grad p. Reads p(1).
  void add_pressure(const Grid<D>& grid, State<D>& state) const;
  /// Where a flow is given forces act in the cell inside as on the face opposite; at degassing surfaces they act on the
  /// gas alone, and stop all else as a wall does.
  void continue_to_openings(const Boundary<D>& boundary, const Grid<D>& grid, const Settings<D>& settings,
                            const State<D>& state);
  /// The cells' velocities: the mean of their faces', and what they differed from it before, as far as drag lets it be.
  /// Those in solids that turn keep what these leave them.
  void return_to_cells(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state) const;
  /// Gives phases on faces beside layers, which have moved as one, the slips that they have at this pressure: bubbles
  /// leave a liquid through its surface, drops fall into it.
  void unlock_faces(const Grid<D>& grid, const Settings<D>& settings, double dt, State<D>& state) const;

  /// The layers of a state that is brought back, as set_faces has left them. Reads a(3).
  void find_layers(const Grid<D>& grid, const State<D>& state, const Vec<D>& G) { layers_.update(grid, state, G); }
  [[nodiscard]] const Layers<D>& layers() const { return layers_; }

 private:
  template <int N>
  struct Fields;
  void find_walls(const Grid<D>& grid, const Settings<D>& settings);
  template <int N>
  void set_faces_of(const Grid<D>& grid, const Settings<D>& settings, int block, double dt, State<D>& state,
                    Faces<D>& inverse_density);
  template <int N>
  void return_to(const Grid<D>& grid, const Settings<D>& settings, int block, double dt, State<D>& state) const;
  template <int N>
  void unlock(const Grid<D>& grid, const Settings<D>& settings, int block, double dt, State<D>& state) const;

  const OpenSpace<D>& space_;
  const Sight<D>& sight_;
  TurningPhases<D>& turning_;
  Layers<D> layers_;
  Vec<D> G_{}, drive_{};
  std::vector<Cells<D>> inertia_;  // by pair: virtual mass over both fractions [kg/m3]; empty where there is none
  // By pair: lift and what pushes off walls, on the first, over both fractions [N/m3]; empty likewise.
  std::vector<CellVectors<D>> side_;
  Cells<D> wall_distance_;   // [m]; empty where nothing asks for it
  CellVectors<D> off_wall_;  // unit vector
  std::vector<Faces<D>> response_;
  std::vector<Faces<D>> star_;  // velocities on the faces before forces and drag
  Faces<D> jump_;               // force of gravity on what changes from cell to cell, over a length [N/m3]
  CellVectors<D> mean_weight_;  // of what stands on a cell's two faces in its mean; only where there are solids
};

}  // namespace wavy::dispersed
