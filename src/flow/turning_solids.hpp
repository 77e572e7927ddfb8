// Rigid bodies that turn, or move otherwise, through the fluid on the fixed grid: agitators and their shafts. Cells
// within them take their velocity implicitly; what the fluid gives up to each of them is its load.
#pragma once

#include <algorithm>
#include <functional>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "base/archive.hpp"
#include "flow/turning_frames.hpp"
#include "flow/walls.hpp"
#include "geometry/solids.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// Where a body is at one time, and how it moves.
template <int D>
struct Pose {
  Vec<D> shift{};        ///< from where it is described [m]
  double angle = 0;      ///< turned by the right hand round `axis` through motion.about; not where shifted [rad]
  Vec<3> axis{0, 0, 1};  ///< of length 1; in 2-D z
  RigidMotion<D> motion{};
};

/// A piece of what moves with one shaft, with a load of its own.
template <int D>
struct TurningPart {
  Solid<D> solid;         ///< as it is described: where the pose has no shift and no angle
  std::size_t shaft = 0;  ///< by whose pose it moves
  /// What of it is thinner than cells, as a body that is thin everywhere: it closes faces. Its pose must not change.
  std::optional<Solid<D>> sheet{};
};

/// A solid as it stands in a pose.
template <int D>
Solid<D> in_pose(const Solid<D>& solid, const Pose<D>& pose);

template <int D>
struct TurningSettings {
  std::vector<std::function<Pose<D>(double)>> shafts;  ///< of t
  std::vector<TurningPart<D>> parts;
  std::vector<FrameZone<D>> frames;  ///< of shafts whose parts stand in one position
};

/// What a part gives to the fluid round it, per thickness [N/m^(3-D), N m/m^(3-D)].
template <int D>
struct PartLoad {
  Vec<D> force{};
  Vec<3> moment{};  ///< about motion.about of its shaft; in 2-D the last one alone counts

  void add(double times, const PartLoad& other) {
    for (std::size_t d = 0; d < D; ++d) force[d] += times * other.force[d];
    for (std::size_t d = 0; d < 3; ++d) moment[d] += times * other.moment[d];
  }
};

/// (S22), (S23): solids on a grid that does not know them (Angot, Bruneau & Fabrie, Numer. Math. 81 (1999) 497, with a
/// smooth edge one cell wide, and the friction of a wall at its true distance).
///
/// With f the distance of a cell's middle from the nearest part, in cells, a share chi = 1/2 - f (0 to 1) of the cell
/// is solid. Sheets close the faces between cells whose middles they part, and hold the cells beside them by the
/// friction of a wall. The momentum equation of each touched cell gets `penalty` (u_solid - u), in units of its mass
/// over the step, and its faces are open by 1 - chi in the pressure equation. The fluid within a solid moves with it.
///
/// A step calls, in this order: set_time; within the viscous step keep_gain, find_penalties and the momenta;
/// blend_faces; clear; round all that uses 1/rho of closed faces, narrow and widen; take_over; finish_loads.
template <int D>
class TurningSolids {
 public:
  struct Cell {
    std::ptrdiff_t at = 0;
    std::size_t part = 0;
    double distance = 0;        ///< from the part, negative in it [m]
    Vec<D> normal{};            ///< away from it, shorter than 1 at edges
    double solid = 0;           ///< chi
    bool closed = false;        ///< so are all of its faces
    Vec<D> velocity{};          ///< of the solid at the cell's middle [m/s]
    Vec<D> before{};            ///< the same at the start of the step [m/s]
    double wall_viscosity = 0;  ///< by which it feels the wall [m2/s]; 0: by the stress on its faces
    double pace = 0;            ///< cells that the solid moves by, or the fluid past it [1/s]
    double penalty = 0;         ///< lambda
    double hold = 0;            ///< the same of forces: the solid's share takes theirs at once
    std::array<std::array<double, 2>, D> parted{};  ///< share that sheets close of its faces: [axis][lower, upper]
    Vec<D> gain{};                                  ///< velocity by the forces of the last step [m/s]
    Vec<D> along{};                                 ///< velocity that the solid's share gains by its own motion [m/s]
    Vec<D> momentum{};  ///< with all but the forces of this step and the solid, over the volume of a whole cell

    /// Of what the velocity gains by the faces of the cell that are open, what the solid leaves that holds it so.
    [[nodiscard]] Vec<D> gained(const Vec<D>& by_open, double held) const;
    /// What the solid brings to a component of the velocity before that is shared by 1 + penalty.
    [[nodiscard]] double pull(std::size_t component) const {
      return penalty * (velocity[component] + gain[component]) + along[component];
    }
    /// What the solid's share makes of the penalty in dt: chi / (1 - chi) for each half of a cell that it moves by,
    /// so that it does not depend on the step.
    [[nodiscard]] double inner_penalty(double dt) const {
      constexpr double per_cell = 2;
      return solid < 1 ? std::min(per_cell * dt * pace * solid / (1 - solid), greatest_penalty) : greatest_penalty;
    }
  };
  static constexpr double greatest_penalty = 1e6;
  static constexpr double least_open = 1e-4;  ///< of a face in the pressure equation: pressure stays determined
  struct Face {
    std::ptrdiff_t at = 0;
    double open = 1;
    double flow = 0;     ///< of the solid through it [m/s]
    double inverse = 0;  ///< 1/rho of the open face
    double seen = 1;     ///< share that no sheet closes
    std::size_t part = 0;

    /// By what is open the fluid's own, for the rest that of the solid through so much of a face.
    [[nodiscard]] double blended(double own, double area = 1) const { return open * own + (1 - open) * flow * area; }
  };

  /// Space must outlive it. Without parts it does nothing.
  TurningSolids(const Grid<D>& grid, const OpenSpace<D>& space, TurningSettings<D> settings);
  ~TurningSolids();
  TurningSolids(const TurningSolids&) = delete;
  TurningSolids& operator=(const TurningSolids&) = delete;
  TurningSolids(TurningSolids&&) = delete;
  TurningSolids& operator=(TurningSolids&&) = delete;

  [[nodiscard]] bool none() const { return settings_.parts.empty(); }
  /// Finds all touched cells and faces at a time.
  void set_time(const Grid<D>& grid, double time);
  [[nodiscard]] std::span<Cell> cells(int block) { return cells_[static_cast<std::size_t>(block)]; }
  [[nodiscard]] std::span<const Cell> cells(int block) const { return cells_[static_cast<std::size_t>(block)]; }
  [[nodiscard]] std::span<const Face> faces(int block, int axis) const {
    return faces_[static_cast<std::size_t>(block)][static_cast<std::size_t>(axis)];
  }
  /// Cells of a block nearer to a part than `within`, and how far they are from it [m].
  [[nodiscard]] std::vector<std::pair<std::ptrdiff_t, double>> distances(const Grid<D>& grid, int block,
                                                                         double within) const;
  /// Greatest speed of a part at a time [m/s].
  [[nodiscard]] double greatest_speed(double time) const;

  /// Notes what the forces of the last step and the motion of the solids add to u in dt, and how fast u passes them.
  void keep_gain(const Grid<D>& grid, const CellVectors<D>& u, const CellVectors<D>& acceleration, double dt);
  /// `faces`: dt mu / h^2 of each face, by its axis and the component of the velocity; `mass` over the volume of a
  /// whole cell [kg/m3].
  void find_penalties(const Grid<D>& grid, const Cells<D>& mass, const std::array<CellVectors<D>, D>& faces);
  /// Leaves no stress between the two sides of a sheet: `faces` as find_penalties has them.
  void part_stress(const Grid<D>& grid, std::array<CellVectors<D>, D>& faces) const;

  /// face_u: by what is open that of the fluid, for the rest that of the solid.
  void blend_faces(const Grid<D>& grid, Faces<D>& face_u) const;
  /// What a frame's gain over dt moves through the little by which closed faces stay open to the pressure: with it the
  /// pressure goes on through solids, also where they reach beyond the frame, and what turns as one with them is left
  /// at rest.
  void press(const Grid<D>& grid, const FaceGain& gain, double dt, Faces<D>& face_u) const;
  /// Closes the faces of 1/rho of a block as the solids do; `widen` opens them again, to the same bits.
  void narrow(int block, Faces<D>& inverse_density);
  void widen(int block, Faces<D>& inverse_density) const;
  /// No divergence is to be cured in cells that are all solid, but that of `press`.
  void clear(const Grid<D>& grid, Cells<D>& rhs, const FaceGain& gain = {}) const;
  /// Touched cells of a block take the share of the accelerations that the solid leaves them, and give the rest to it.
  /// `faces`: total acceleration; `inverse_density`: of the open faces; `own`, u: as accelerate_cells leaves them.
  /// `own` takes the solid's acceleration too, by its share: what is carried along gains it on its way.
  void take_over(const Grid<D>& grid, int block, const Cells<D>& mass, const Faces<D>& faces,
                 const Faces<D>& inverse_density, const Vec<D>& body_force, double dt, CellVectors<D>& own,
                 CellVectors<D>& u);
  /// What a cell holds, over the volume of a whole one, of all phases.
  struct Balance {
    double mass = 0;  ///< [kg/m3]
    Vec<D> before{};  ///< momentum with all but the forces of the step and the solid
    Vec<D> after{};
    Vec<D> push{};  ///< by its faces [N/m3]
  };
  /// For models of their own kind, instead of take_over: by what cells of a block hold, their part of the loads.
  void clear_given(int block);
  void give(const Grid<D>& grid, int block, const Cell& cell, const Balance& of, const Vec<D>& body_force, double dt);
  void finish_loads(const Grid<D>& grid, double dt);
  /// Of the last step, by part.
  [[nodiscard]] std::vector<PartLoad<D>>& loads() { return loads_; }
  [[nodiscard]] const std::vector<PartLoad<D>>& loads() const { return loads_; }
  /// The same as running means over the time in which the fastest point crosses two cells (20 steps at most): the grid
  /// makes thin blades flutter from cell to cell.
  [[nodiscard]] std::vector<PartLoad<D>>& mean_loads() { return mean_loads_; }
  [[nodiscard]] const std::vector<PartLoad<D>>& mean_loads() const { return mean_loads_; }
  /// The loads; all else follows from the time.
  void archive(Archive& a);

 private:
  struct Placed;
  struct Near;
  struct Sheet {
    std::ptrdiff_t at = 0;
    double open = 1;
    std::size_t part = 0;
  };
  [[nodiscard]] bool stands_in_frame(std::size_t part, const Vec<D>& place) const;
  [[nodiscard]] Vec<D> acceleration_of(const Cell& cell, const Vec<D>& place, double dt) const;
  [[nodiscard]] double frame_gain(const Grid<D>& grid, const FaceGain& gain, std::size_t part, int axis, int block,
                                  std::ptrdiff_t face) const;
  void find_in_block(const Grid<D>& grid, int block);
  void find_sheets(const Grid<D>& grid, int block);
  void add_sheets(const Grid<D>& grid, int block);

  const OpenSpace<D>& space_;
  TurningSettings<D> settings_;
  double time_ = 0;
  double dt_ = 0;
  std::vector<Placed> placed_;
  std::vector<std::vector<Cell>> cells_;                 // by block
  std::vector<std::array<std::vector<Face>, D>> faces_;  // likewise
  std::vector<std::array<std::vector<Sheet>, D>>
      sheets_;                                   // likewise: faces that sheets close; empty where there are none
  std::vector<std::vector<PartLoad<D>>> given_;  // by block and part: times dt over the volume of a cell
  std::vector<PartLoad<D>> loads_;
  std::vector<PartLoad<D>> mean_loads_;
  bool started_ = false;  // there was a load
};

}  // namespace wavy
