// Openings in the grid's boundary: where fluid comes in and goes out, and how much did.
#pragma once

#include <algorithm>
#include <cassert>
#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "geometry/shapes.hpp"
#include "mesh/open_space.hpp"

namespace wavy {

/// A piece of one side of the grid or of the wall of a solid in it, or a zone. Either the flow through it is known, or,
/// on a side, the pressure outside.
template <int D>
struct Opening {
  std::string name;
  /// Of a solid's wall: how much of the wall beside a place lies in the opening. Axis and side then do not count.
  std::function<double(const Vec<D>&)> on_wall;
  /// Spread over what is open in a zone of the vessel, as if by many small holes. Axis and side then do not count.
  std::optional<Shape<D>> zone;
  int axis = 0;
  int side = 0;                            ///< 0 lower, 1 upper
  std::optional<AlignedBox<D>> within;     ///< what lies in this box (the axis does not count)
  std::optional<Ball<D>> round;            ///< 3-D: what lies in this disc (the axis does not count)
  std::function<double(double)> flow;      ///< of t: volume that comes in, negative: goes out [m^D/s]
  std::function<double(double)> pressure;  ///< of t: outside, over air at rest there [Pa]; if there is no flow
  std::vector<double> composition{0, 1};   ///< share of each phase in what comes in, the densest first
  /// What is at rest outside where a pressure is given, which holds at the opening's middle.
  enum class Outside {
    air,     ///< air alone
    inside,  ///< a column of what stands inside, at every height
    liquid,  ///< `column_phase`
    level    ///< `column_phase` below `outside_level`, the lightest one above; the pressure holds at that level
  };
  Outside outside = Outside::air;
  double outside_level = 0;      ///< along the last axis [m]
  std::size_t column_phase = 0;  ///< what stands outside below that level, or in place of the densest phase
  bool share_outside = false;    ///< what comes in is what stands outside at that height, whatever `composition` says
  /// Profile of what comes in: flat; of laminar flow in a pipe or slot; with the power 1/7 of the distance from its
  /// edge (Nikuradse, VDI-Forschungsheft 356 (1932), for Reynolds numbers near 1e5).
  enum class Profile { plug, laminar, turbulent };
  Profile profile = Profile::plug;
};

/// What has passed since the start, by phase [m^D].
struct Throughput {
  std::vector<double> in;
  std::vector<double> out;
};

/// An open face of the grid's boundary.
template <int D>
struct OpeningFace {
  std::size_t opening = 0;
  int block = 0;
  std::ptrdiff_t face = 0;    ///< place of the face's value
  std::ptrdiff_t inside = 0;  ///< cell
  std::ptrdiff_t behind = 0;  ///< place behind the boundary
  double area = 0;            ///< open share, weighted as areas are
  double whole_area = 0;      ///< of the face, open or not [m^(D-1)]
  double width = 0;           ///< of the cell inside, across the face [m]
  double weight = 0;          ///< velocity over the mean one
  Vec<D> middle{};            ///< [m]
};

/// A cell whose wall lies in an opening, or over which one is spread.
template <int D>
struct WallInlet {
  std::size_t opening = 0;
  int block = 0;
  std::ptrdiff_t at = 0;
  double area = 0;   ///< of the wall in the opening, over the volume of a whole cell [1/m]; of a zone its share [1]
  double share = 0;  ///< of the wall that lies in the opening; 0 of a zone
  double speed = 0;  ///< into the vessel, as last set [m/s]; of a zone over its volume [1/s]
  Vec<D> inwards{};  ///< of length 1
  Vec<D> middle{};   ///< of the cell [m]
  std::vector<CellPlace> group;  ///< the cell, or all cells with which it shares its velocity
};

/// Densities on both sides of an open face with a given pressure [kg/m3].
struct DensitiesAtOpening {
  double inside = 0;    ///< that has weight, in the cell inside
  double column = 0;    ///< that has weight, of what stands outside (where that is not air)
  double incoming = 0;  ///< of what comes in
};

/// What a field model tells of the fluid at openings, for the pressures that are given there.
template <int D>
struct FluidAtOpenings {
  Vec<D> G{};              ///< gravity less the tank's acceleration [m/s2]
  double air_density = 0;  ///< outside [kg/m3]
  std::function<DensitiesAtOpening(const OpeningFace<D>&)> densities;
};

/// The openings on a grid.
template <int D>
class Boundary {
 public:
  Boundary() = default;
  /// `phases`: how many the openings' compositions and what has passed are of. Throws an input error without a place
  /// when an opening has no open face.
  Boundary(const Grid<D>& grid, const OpenSpace<D>& space, const std::vector<Opening<D>>& openings,
           std::size_t phases = 2);

  [[nodiscard]] bool closed() const { return openings_.empty(); }
  /// Some pressure is given: pressures then count from it.
  [[nodiscard]] bool holds_pressure() const { return holds_pressure_; }
  [[nodiscard]] const std::vector<Opening<D>>& openings() const { return openings_; }
  [[nodiscard]] const std::vector<Throughput>& throughput() const { return throughput_; }
  [[nodiscard]] double area(std::size_t opening) const { return area_[opening]; }  ///< open [m^(D-1)]
  /// Lower and upper corner of the open faces of an opening [m].
  [[nodiscard]] std::array<Vec<D>, 2> corners(std::size_t opening, const Grid<D>& grid) const;
  /// The cells beside openings with a given flow, or with a given pressure.
  [[nodiscard]] std::vector<CellPlace> cells(bool with_flow) const;
  /// Greatest speed of what given flows bring [m/s].
  [[nodiscard]] double greatest_speed(double time) const;
  /// Sum of the sizes of the given flows [m^D/s].
  [[nodiscard]] double given_flow(double time) const;
  /// Greatest size of a given pressure [Pa].
  [[nodiscard]] double greatest_pressure(double time) const;
  /// What given flows could bring about through one face, and a fluid of the lightest density gain by all work of a
  /// body force [m/s2] on the heaviest, of given pressures and of `more` pressure [Pa], at most [m/s].
  [[nodiscard]] double speed_by_drive(const Grid<D>& grid, double time, const Vec<D>& body_force, double heaviest,
                                      double lightest, double more = 0) const;
  /// Some flow is given.
  [[nodiscard]] bool brings_flow() const;
  /// While this holds, given pressures and the weight of the air outside count as 0.
  void leave_out_pressures(bool out) { without_pressures_ = out; }
  /// What has passed, and the flows that controllers have set.
  void archive(Archive& a);
  /// Sets a known flow from now on (for controllers).
  void set_flow(std::size_t opening, double flow);

  /// Keeps what is given on open faces of the boundary, and closes the rest: `value` on faces across `axis` of a block.
  void close(const Grid<D>& grid, int block, int axis, double* value) const;
  /// Given flows, as velocities on the faces; and where a pressure is given, what the cells behind (`u`) would do by
  /// themselves.
  void set_faces(const Grid<D>& grid, double time, const CellVectors<D>& u, Faces<D>& face_u) const;
  /// 1/rho on faces with a given pressure, from the cell inside; 0 and no force on all others of the boundary.
  /// `density`: of a face's cell inside, by which it answers to a pressure gradient [kg/m3].
  void set_coefficients(const Grid<D>& grid, const std::function<double(const OpeningFace<D>&)>& density,
                        Faces<D>& acceleration, Faces<D>& inverse_density) const;
  /// rhs of the pressure equation less what the given pressures add.
  void subtract_pressure(const Grid<D>& grid, const FluidAtOpenings<D>& fluid, double time, const Faces<D>& face_u,
                         const Faces<D>& inverse_density, Cells<D>& rhs) const;
  /// p behind the faces with a given pressure, so that the mean with the cell inside is that pressure.
  void set_pressure_behind(const Grid<D>& grid, const FluidAtOpenings<D>& fluid, double time, const Faces<D>& face_u,
                           Cells<D>& p) const;
  /// Makes what passes the boundary in all cancel, where a pressure is given: the projection leaves as much as its
  /// tolerance.
  void balance(const Grid<D>& grid, Faces<D>& face_u) const;
  /// The velocity behind open faces: of what comes in, or goes on out.
  void set_velocity_behind(const Grid<D>& grid, const Faces<D>& face_u, CellVectors<D>& u) const;
  /// The same of a fluid whose velocity through the open part of a face is through(axis, face) [m/s].
  template <class Through>
  void set_behind(const Grid<D>& grid, Through&& through, CellVectors<D>& u) const {
    for (int axis = 0; axis < D; ++axis)
      for (const auto& face : faces_[static_cast<std::size_t>(axis)]) {
        const double velocity = through(axis, face);
        const bool comes_in = sign(face) * velocity > 0;
        for (int component = 0; component < D; ++component) {
          double* v = u[component].block(face.block);
          // What comes in comes straight; what goes out moves on as it does inside.
          const double behind = !comes_in ? v[face.inside] : axis == component ? velocity : 0.0;
          v[face.behind] = v[face.behind - sign(face) * grid.layout().step[axis]] = behind;
        }
      }
    if (!closed()) fill_turned_edges(grid, u);
  }
  /// Flow through solids' walls and in zones: volume that comes into each cell per time, over the volume of a whole
  /// cell [1/s].
  [[nodiscard]] bool through_walls() const { return !wall_cells_.empty(); }
  void set_sources(double time, Cells<D>& source);
  /// Share of a face of the grid's boundary that openings take.
  [[nodiscard]] double open_share(int block, int axis, std::ptrdiff_t face) const;
  /// Whether the wall in a cell lies mostly in an opening: it does not hold the fluid.
  [[nodiscard]] bool passes(int block, std::ptrdiff_t at) const;
  /// Takes no momentum through the openings: 0 on their faces.
  void clear(int block, int axis, Cells<D>& field) const;

  /// fn(face) for the open faces of a block across an axis.
  template <class Fn>
  void each(int block, int axis, Fn&& fn) const {
    const auto [first, end] = range(block, axis);
    std::for_each(first, end, fn);
  }
  /// All of them across an axis, by block.
  [[nodiscard]] const std::vector<OpeningFace<D>>& faces(int axis) const {
    return faces_[static_cast<std::size_t>(axis)];
  }
  /// Cells whose wall lies in an opening, or over which one is spread, by block and place.
  [[nodiscard]] const std::vector<WallInlet<D>>& wall_inlets() const { return wall_cells_; }
  /// 1 where the axis points into the vessel, else -1.
  [[nodiscard]] int sign(const OpeningFace<D>& face) const { return openings_[face.opening].side == 0 ? 1 : -1; }
  /// Density of the column that stands outside a face with a given pressure, where that is not air, by that of what is
  /// inside, of the opening's `column_phase` and of the lightest phase [kg/m3].
  [[nodiscard]] double column_density(const OpeningFace<D>& face, double inside, double own, double lightest) const;
  /// Share of a phase in what comes in through a face, beside a cell that holds as much of it as given.
  [[nodiscard]] double incoming_share(const OpeningFace<D>& face, std::size_t phase, double inside) const;
  /// Counts a volume of a phase that came in through an opening, or went out [m^D].
  void record(std::size_t opening, std::size_t phase, bool in, double volume) {
    assert(volume >= 0 && phase < throughput_[opening].in.size());
    (in ? throughput_[opening].in : throughput_[opening].out)[phase] += volume;
  }

 private:
  void find_on_side(std::size_t number, const Grid<D>& grid, const OpenSpace<D>& space);
  double find_on_wall(std::size_t opening, const Grid<D>& grid, const OpenSpace<D>& space);
  double find_in_zone(std::size_t opening, const Grid<D>& grid, const OpenSpace<D>& space);
  void sort_wall_cells();
  using FaceRange = std::pair<typename std::vector<OpeningFace<D>>::const_iterator,
                              typename std::vector<OpeningFace<D>>::const_iterator>;
  [[nodiscard]] FaceRange range(int block, int axis) const;
  [[nodiscard]] std::vector<double> speeds(double time) const;
  /// Given pressures now [Pa]; formulas are not to be called by several threads at once.
  [[nodiscard]] std::vector<double> pressures(double time) const;
  [[nodiscard]] double outside(const OpeningFace<D>& face, const FluidAtOpenings<D>& fluid, const Faces<D>& face_u,
                               const std::vector<double>& pressures) const;

  std::vector<Opening<D>> openings_;
  std::array<std::vector<OpeningFace<D>>, D> faces_;  // per axis, by block
  std::vector<WallInlet<D>> wall_cells_;              // by block and place
  std::vector<double> area_;
  std::vector<Vec<D>> middle_;  // of the open faces, by area
  std::vector<std::optional<double>> set_flow_;
  std::vector<Throughput> throughput_;
  bool holds_pressure_ = false;
  bool without_pressures_ = false;
};

}  // namespace wavy
