// Zones of the fixed grid that are seen from a frame which turns with an agitator: what turns stands still there, in
// one position, and a flow that does not change in that frame settles.
#pragma once

#include <array>
#include <functional>
#include <limits>
#include <vector>

#include "flow/walls.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

template <int D>
struct TurningSettings;

/// An acceleration on the low face of a cell across an axis: of axis, block and cell [m/s2]; empty: none.
using FaceGain = std::function<double(int, int, std::ptrdiff_t)>;

/// A cylinder round the axis of a shaft.
template <int D>
struct FrameZone {
  std::size_t shaft = 0;                                    ///< with whose pose it turns
  double radius = 0;                                        ///< [m]
  double lower = -std::numeric_limits<double>::infinity();  ///< 3-D: heights that it lies between [m]
  double upper = std::numeric_limits<double>::infinity();
};

/// (S24), (S25): velocities stay those of the vessel; a zone carries the fluid by what it moves against the turning
/// frame, and its momentum turns with the frame. The frame's own flow through faces comes from a stream function, which
/// is constant outside the zone, so that it brings no cell anything; it passes no face of a cell that walls cut.
template <int D>
class TurningFrames {
 public:
  TurningFrames(const Grid<D>& grid, const OpenSpace<D>& space, const TurningSettings<D>& settings);

  [[nodiscard]] bool none() const { return shafts_.empty(); }
  void set_time(double time);

  /// At the start of a step.
  void keep(const Grid<D>& grid, const CellVectors<D>& u);
  /// What passes faces as the frames see it.
  [[nodiscard]] Faces<D> seen(const Grid<D>& grid, Faces<D> face_u) const;
  /// - Omega x u at the middle of the step. `u`: moved, without the forces of this step; `last`: by the forces of the
  /// last one.
  void find_gain(const Grid<D>& grid, const CellVectors<D>& u, const CellVectors<D>& last, double dt);
  /// That in the cells of a block along an axis, halo of one layer filled; null along the shafts. Faces have the mean
  /// of both sides.
  [[nodiscard]] const double* gain(int axis, int block) const {
    return axis < 2 ? gain_[static_cast<std::size_t>(axis)].block(block) : nullptr;
  }
  /// Adds it to the accelerations of the faces. `left_out`: 1 in cells where there is nothing (halo filled), null:
  /// nowhere.
  void add_gain(const Grid<D>& grid, const Cells<D>* left_out, Faces<D>& acceleration) const;
  /// What that adds where nothing is left out; empty without frames.
  [[nodiscard]] FaceGain on_faces() const;

 private:
  struct Cell {
    std::ptrdiff_t at = 0;
    double share = 0;  ///< of the frame's turning
    Vec<2> before{};   ///< u at the start of the step [m/s]
  };
  struct Face {
    std::ptrdiff_t at = 0;
    double flow = 0;  ///< of the frame through it, at 1 rad/s [m/s]
  };
  struct Block {
    std::vector<Cell> cells;
    std::array<std::vector<Face>, 2> faces;  ///< that the frame passes
  };
  struct Shaft {
    std::function<double(double)> speed;  ///< of t [rad/s]
    double now = 0;
    std::vector<Block> blocks;
  };

  std::vector<Shaft> shafts_;
  CellVectors<D> gain_;  // in the cells; none along the shafts
};

}  // namespace wavy
