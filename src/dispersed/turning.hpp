// Solids that turn through several phases at once, and the frames that they are seen from: what the step of the
// Eulerian model asks of both.
#pragma once

#include <array>
#include <span>
#include <vector>

#include "dispersed/model.hpp"
#include "flow/turning_frames.hpp"
#include "flow/turning_solids.hpp"

namespace wavy::dispersed {

/// A step calls, in this order: set_time, enter_frames; after the friction of each phase keep_momenta; find_frame_gains
/// and, on each face, blend_faces; keep_velocities, take_over, finish.
template <int D>
class TurningPhases {
 public:
  TurningPhases(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings);

  [[nodiscard]] TurningSolids<D>& solids() { return solids_; }
  [[nodiscard]] const TurningSolids<D>& solids() const { return solids_; }
  /// Null where nothing turns.
  [[nodiscard]] TurningSolids<D>* what_turns() { return solids_.none() ? nullptr : &solids_; }
  [[nodiscard]] bool has_frames() const { return !frames_.empty(); }
  /// What passes faces as the frames see it.
  [[nodiscard]] Faces<D> seen(const Grid<D>& grid, const Faces<D>& face_u) const {
    return frames_[0].seen(grid, face_u);
  }
  /// For a step that ends at a time.
  void set_time(const Grid<D>& grid, double time);
  /// Solids that do not act let the pressure through and set nothing in motion.
  void act(bool solids_act) { act_ = solids_act; }

  /// Leaves on the faces of all phases what passes them in the frames, until they are found anew.
  void enter_frames(const Grid<D>& grid, State<D>& state);
  void find_frame_gains(const Grid<D>& grid, const State<D>& state, double dt);
  /// By the frame, of a phase in the cells of a block along an axis [m/s2]; null: nothing.
  [[nodiscard]] const double* frame_gain(std::size_t phase, int axis, int block) const {
    return frames_.empty() ? nullptr : frames_[phase].gain(axis, block);
  }

  /// What a phase has in touched cells after its friction, where there is any of it.
  void keep_momenta(std::size_t phase, const Cells<D>& fractions, double least);
  /// Of a block, on its faces across an axis.
  struct OnFaces {
    double* flow = nullptr;             ///< of all phases
    double* inverse_density = nullptr;  ///< what it gains by the pressure
    std::span<double* const> phase_u;
    std::span<double* const> response;  ///< what these gain
    std::span<double* const> expected;  ///< by the cells, of which these differ by what cells are to gain
  };
  /// In a step of dt. Reads a(1).
  void blend_faces(const State<D>& state, int axis, int block, double dt, const OnFaces& on) const;
  /// Slips on faces with beside[low] + beside[high] > 0 which have been found anew.
  void blend_slips(int axis, int block, std::ptrdiff_t step, const double* beside,
                   std::span<double* const> phase_u) const;
  /// Before the forces have reached the cells.
  void keep_velocities(const State<D>& state);
  /// Touched cells of a block take the share of the forces that the solid leaves them. `push`(at): force on the cell
  /// from its faces [N/m3].
  template <class Push>
  void take_over(const Grid<D>& grid, const Settings<D>& settings, int block, const Vec<D>& body_force, double dt,
                 State<D>& state, Push&& push);
  /// No divergence is to be cured in cells that are all solid, but that of frames.
  void clear(const Grid<D>& grid, const State<D>& state, Cells<D>& rhs) const;
  /// The force on a cell from its open faces, without that which has a potential: pressure, gravity on what changes
  /// from cell to cell (`jump`), frames [N/m3]. Reads a(1), p(1).
  [[nodiscard]] Vec<D> push(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                            const Faces<D>& jump, int block, std::ptrdiff_t at) const;
  void finish(const Grid<D>& grid, double dt) { solids_.finish_loads(grid, dt); }

 private:
  /// Of all phases by their volume, on a face.
  [[nodiscard]] double mean_frame_gain(const State<D>& state, int axis, int block, std::ptrdiff_t at) const;

  struct Cell {
    Vec<D> momentum{};  ///< of all phases, over the volume of a whole cell
    std::array<double, most_phases> hold{};
    std::array<Vec<D>, most_phases> before{};  ///< velocities without the forces [m/s]
    std::array<bool, most_phases> there{};
  };

  const OpenSpace<D>& space_;
  TurningSolids<D> solids_;
  bool act_ = true;
  std::vector<TurningFrames<D>> frames_;  // one for each phase; empty: none
  std::vector<std::vector<Cell>> cells_;  // by block, as the solids'
};

template <int D>
template <class Push>
void TurningPhases<D>::take_over(const Grid<D>& grid, const Settings<D>& settings, int block, const Vec<D>& body_force,
                                 double dt, State<D>& state, Push&& push) {
  if (solids_.none()) return;
  solids_.clear_given(block);
  const auto touched = solids_.cells(block);
  const OpenVolumes<D> volume(space_, block);
  for (std::size_t k = 0; k < touched.size(); ++k) {
    const auto& cell = touched[k];
    const Cell& own = cells_[static_cast<std::size_t>(block)][k];
    const std::ptrdiff_t at = cell.at;
    typename TurningSolids<D>::Balance balance{.before = own.momentum};
    for (std::size_t i = 0; i < state.a.size(); ++i) {
      const double m = own.there[i] ? volume[at] * settings.phases[i].fluid.density * state.a[i].block(block)[at] : 0.0;
      balance.mass += m;
      // What is absent follows the densest.
      const std::size_t held_as = own.there[i] ? i : 0;
      Vec<D> gained;
      Vec<D> faster;
      for (std::size_t d = 0; d < D; ++d) {
        gained[d] = state.u[i][d].block(block)[at] - own.before[i][d];
        faster[d] = state.acceleration[i][d].block(block)[at];
      }
      gained = cell.gained(gained, own.hold[held_as]);
      faster = cell.gained(faster, own.hold[held_as]);
      for (std::size_t d = 0; d < D; ++d) {
        double& v = state.u[i][d].block(block)[at];
        v = own.before[i][d] + gained[d];
        state.acceleration[i][d].block(block)[at] = faster[d];
        balance.after[d] += m * v;
      }
    }
    balance.push = push(at);
    solids_.give(grid, block, cell, balance, body_force, dt);
  }
}

}  // namespace wavy::dispersed
