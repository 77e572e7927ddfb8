// One simulation as plain values in SI units: what a case file means.
#pragma once

#include <array>
#include <cmath>
#include <functional>
#include <memory>
#include <numbers>
#include <optional>
#include <string>
#include <type_traits>
#include <vector>

#include "base/error.hpp"
#include "base/formula.hpp"
#include "geometry/impellers.hpp"
#include "geometry/shapes.hpp"
#include "mesh/open_space.hpp"
#include "run/schedule.hpp"
#include "run/vessel_model.hpp"

namespace wavy {

/// How much of the vessel is computed. Volumes and flows are those of the whole.
enum class Symmetry {
  none,
  round,         ///< 2-D: a section from the axis of revolution, x = 0, outwards
  half,          ///< what lies beyond the middle along x
  quarter,       ///< 3-D: and along y
  sector,        ///< 3-D: a wedge between two mirrors
  half_turn,     ///< what lies beyond the middle along x; the rest is the same, turned by half a turn
  quarter_turn,  ///< what lies beyond the middle along x and y; the rest is the same, turned by quarters of a turn
};

/// Lays a phase over whatever was there inside a shape.
template <int D>
struct Fill {
  Shape<D> shape;
  int phase = 0;                   ///< the densest one first
  std::optional<double> volume{};  ///< [m3]: the shape is a level, as high as leaves this open volume below it
  /// From an earlier run: mean velocity of a phase in the box lower..upper [m/s].
  std::function<Vec<D>(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper)> velocity{};
  /// From an earlier run of the Eulerian model, in place of `phase`: share of the box that each phase filled.
  std::function<double(std::size_t phase, const Vec<D>& lower, const Vec<D>& upper)> mixture{};
  Place place{};                   ///< in the case file
  double share = 1;                ///< of the place that it takes there; what was there before keeps the rest
  std::vector<double> classes{1};  ///< shares of the phases from `phase` on in it: size classes of one fluid
  /// By tracer, in what it lays of its phase [kg/m3]; none: as the tracer starts. Empty: of no tracer.
  std::vector<std::optional<double>> concentrations{};
  /// From an earlier run, in place of these: mean concentration of a tracer in its phase in the box lower..upper, where
  /// there is any of it.
  std::function<std::optional<double>(std::size_t tracer, const Vec<D>& lower, const Vec<D>& upper)> concentration{};
};

/// "left", "right", "front", "back", "bottom" or "top": the lower (0) or upper (1) side of an axis; the last one points
/// up.
template <int D>
std::string side_name(int axis, int side) {
  static constexpr std::array<std::array<const char*, 2>, 3> names{
      {{"left", "right"}, {"front", "back"}, {"bottom", "top"}}};
  return names[axis == D - 1 ? 2 : static_cast<std::size_t>(axis)][static_cast<std::size_t>(side)];
}

/// An opening and what is given there.
template <int D>
struct OpeningSetup {
  /// degassing: gas leaves as it arrives, all else stays.
  enum class Given { speed, volume_flow, standard_flow, mass_flow, vessel_volumes, pressure, level, degassing };
  Opening<D> opening;             ///< where it is and what comes in; its functions are made of the rest
  std::string wall;               ///< name of the wall that it lies on; empty: a side of the vessel's box
  std::size_t insert = 0;         ///< number of the insert with that wall, the vessel itself behind the last
  std::optional<Shape<D>> piece;  ///< of the wall; none: all of it
  /// It is a piece of a side of the vessel's box.
  [[nodiscard]] bool on_side() const { return wall.empty() && !opening.zone; }

  Given given = Given::pressure;
  Formula value;        ///< of t; SI (vessel volumes: 1/s); positive into the vessel
  int direction = 1;    ///< -1: the value counts out of the vessel
  std::size_t gauge{};  ///< level: number of the gauge that is held
  double target = 0;    ///< level [m]; of a pressure: the one that it balances, where `balances`
  bool balances = false;
  double standard_density = 0;  ///< standard_flow: of the gas at 15 degC and 101.325 kPa [kg/m3]
  bool has_stub = false;        ///< a pipe leads to it from the vessel's box
  TurbulenceLevel turbulence;   ///< of what comes in; length 0: by its extent
  bool outside_given = false;   ///< the case says what is at rest outside
  /// By tracer, in what comes in of its phase [kg/m3]; none: as it is inside.
  std::vector<std::optional<double>> concentrations;

  double gain = 0;  ///< level: flow out per height above the target [m2/s]
  double most = 0;  ///< level: greatest flow out [m3/s]
  Place place{};    ///< in the case file
};

/// A wall by its name in the case.
struct NamedWall {
  enum class Of { vessel, side, insert, thin_wall };
  std::string name;
  Of of = Of::vessel;
  std::array<int, 2> side{};  ///< axis; 0 lower, 1 upper
  std::size_t number = 0;     ///< of the insert or thin wall
};

/// A wall that moves along itself.
template <int D>
struct MovingWall : NamedWall {
  std::array<Formula, D> velocity;  ///< of t [m/s]
  Formula turning;                  ///< of t [rad/s]
  int axis = 2;                     ///< that it turns about
  Vec<D> about{};                   ///< [m]
  Place place{};                    ///< in the case file
};

/// What drives parts round an upright axis (2-D: one across the plane).
template <int D>
struct Agitator {
  std::string name;
  Formula speed;                       ///< of t, counter-clockwise seen from above [rad/s]
  Vec<D> at{};                         ///< a point on its axis [m]
  double position = 0;                 ///< of what turns at the start: by this angle from how it is described [rad]
  std::vector<FrameZone<D>> frames{};  ///< where it stays in that position; none: it turns in time
  Place place{};                       ///< in the case file
};

/// An impeller, a shaft or an insert that turns with an agitator.
template <int D>
struct AgitatorPart {
  std::string name;
  std::size_t agitator = 0;
  Solid<D> solid;                    ///< as it is at the start
  std::optional<Impeller> impeller;  ///< its measures, if it is one
  double height = 0;                 ///< of the impeller's place over the vessel's lowest point [m]
  bool is_shaft = false;             ///< its agitator's
  Place place{};                     ///< in the case file
};

/// Something that is measured in every time step.
template <int D>
struct Gauge {
  std::string name;
  std::string measures = "level";     ///< name of a kind of gauges of a vessel
  Vec<D> at{};                        ///< the point; level: the place, its last entry unused; moment: about it [m]
  int phase = 0;                      ///< which one, where it is of one
  NamedWall wall{};                   ///< force, moment: on what
  int axis = 0;                       ///< force: its component; moment: about it, 2 in 2-D
  std::size_t agitator = 0;           ///< torque and power: of which one
  std::optional<std::size_t> part{};  ///< of which of its parts alone, by number in the setup
  std::string quantity{};             ///< what is read at a point or in a zone, see find_quantity_part
  std::optional<Shape<D>> zone{};     ///< none: the whole vessel
  /// Of a quantity: along the straight line between these ends [m].
  std::optional<std::array<Vec<D>, 2>> line{};
  double percent = 50;               ///< percentile: of the zone
  std::optional<Formula> formula{};  ///< of what gauges before it read
  double response_time = 0;          ///< of the instrument: lag of first order [s]
  Place place{};                     ///< in the case file
  int classes = 1;                   ///< of how many phases from `phase` on: size classes of one fluid

  /// Numbers of its phases, the last one left out.
  [[nodiscard]] std::size_t first_phase() const { return static_cast<std::size_t>(phase); }
  [[nodiscard]] std::size_t end_phase() const { return static_cast<std::size_t>(phase + classes); }
};

/// What the Eulerian model needs beside.
struct Eulerian {
  std::vector<dispersed::Phase> phases;  ///< as many as the setup's, in the same order
  std::vector<dispersed::Pair> pairs;
  /// Phases that are size classes of one fluid stand together, and have a name together.
  struct Family {
    std::string name;
    int first = 0;
    std::vector<double> shares;  ///< of each class at the start and in what comes in
  };
  std::vector<Family> families;  ///< of more than one class
};

template <int D>
struct Setup {
  Vec<D> size{};                   ///< the vessel reaches from 0 to size, its nozzles apart [m]
  Vec<D> lower{};                  ///< the grid reaches from here
  Vec<D> upper{};                  ///< to here [m]
  std::optional<Solid<D>> vessel;  ///< its inside; none: the whole grid
  std::optional<Solid<D>> whole;   ///< of a sector: the vessel's inside without the second mirror
  std::vector<Solid<D>> inserts;
  std::vector<ThinWall<D>> thin_walls;
  std::vector<std::string> insert_names;  ///< as many
  std::vector<std::string> thin_wall_names;
  std::vector<MovingWall<D>> moving_walls;
  std::vector<Agitator<D>> agitators;
  std::vector<AgitatorPart<D>> agitator_parts;

  std::vector<OpeningSetup<D>> openings;
  Wall solid_walls = Wall::no_slip;  ///< of the vessel's shape and the inserts
  Symmetry symmetry = Symmetry::none;
  double sector = 0;  ///< angle of the wedge [rad]
  std::array<bool, D> periodic{};
  double thickness = 1;          ///< what makes volumes of the grid's [m^D] those of the vessel [m3]
  double cell_size = 0;          ///< as wanted [m]
  std::vector<Phase> phases{2};  ///< the densest first; where gas is left out, the second has no name
  std::vector<Pair> pairs{1};
  std::optional<Eulerian> eulerian;        ///< none: the sharp model
  bool free_surface_only = false;          ///< one liquid with a free surface
  TurbulenceSettings<D> turbulence;        ///< but for what is known of openings and walls
  std::vector<TracerSettings<D>> tracers;  ///< but for what openings bring; doses of the whole vessel [kg]
  std::vector<GasTransfer> transfers;
  bool bodies_stir = true;  ///< Eulerian: bubbles and drops add to the eddy viscosity
  std::array<std::array<Wall, 2>, D> walls{};
  std::vector<Fill<D>> fills;  ///< over a vessel full of the lightest carrier; later ones over earlier ones
  std::array<Formula, D> gravity;
  std::array<Formula, D> acceleration;  ///< of the vessel
  std::vector<Gauge<D>> gauges;
  Schedule schedule;
  double courant = 0.4;
  double projection_tolerance = 1e-6;
  Place vessel_place{}, grid_place{};  ///< of these sections in the case file
};

/// Whether the lower side of an axis is no wall but where the image of what is computed begins.
template <int D>
bool mirrored(const Setup<D>& setup, int axis) {
  const Symmetry symmetry = setup.symmetry;
  return axis == 0 ? symmetry != Symmetry::none
                   : axis == 1 && (symmetry == Symmetry::quarter || symmetry == Symmetry::quarter_turn ||
                                   symmetry == Symmetry::sector);
}

/// By which the rest is what is computed.
template <int D>
Turn turn_of(const Setup<D>& setup) {
  return setup.symmetry == Symmetry::half_turn      ? Turn::half
         : setup.symmetry == Symmetry::quarter_turn ? Turn::quarter
                                                    : Turn::none;
}

/// Whether a force or a pull along an axis points the other way at an image.
template <int D>
bool cancels_along(const Setup<D>& setup, int axis) {
  return mirrored(setup, axis) || (turn_of(setup) != Turn::none && axis < 2);
}

/// A place turned round the upright line through the vessel's middle.
template <int D>
Vec<D> turned_place(const Setup<D>& setup, Turn turn, std::type_identity_t<Vec<D>> place) {
  const double x = place[0] - 0.5 * setup.size[0];
  const double y = place[1] - 0.5 * setup.size[1];
  if (turn == Turn::none) return place;
  place[0] = turn == Turn::half ? setup.size[0] - place[0] : 0.5 * setup.size[0] - y;
  place[1] = turn == Turn::half ? setup.size[1] - place[1] : 0.5 * setup.size[1] + x;
  return place;
}

/// Share of the vessel that is computed: what its volumes, flows and forces have to be multiplied by for those of the
/// computed part.
template <int D>
double share_of_vessel(const Setup<D>& setup) {
  switch (setup.symmetry) {
    case Symmetry::half:
    case Symmetry::half_turn:
      return 0.5;
    case Symmetry::quarter:
    case Symmetry::quarter_turn:
      return 0.25;
    case Symmetry::sector:
      return 0.5 * setup.sector / std::numbers::pi;
    case Symmetry::none:
    case Symmetry::round:
      break;
  }
  return 1;
}

/// Solids, or an axis of revolution, make cells unlike each other.
template <int D>
bool cuts_the_grid(const Setup<D>& setup) {
  return setup.vessel || !setup.inserts.empty() || !setup.thin_walls.empty() || setup.symmetry == Symmetry::round;
}

/// How many phases are computed.
template <int D>
std::size_t phase_count(const Setup<D>& setup) {
  return setup.free_surface_only ? 1 : setup.phases.size();
}

/// Number of the lightest phase that is continuous, of which the vessel is full before it is filled.
template <int D>
std::size_t lightest_carrier(const Setup<D>& setup) {
  return setup.eulerian ? dispersed::lightest_carrier(setup.eulerian->phases) : setup.phases.size() - 1;
}

/// Distance from the second mirror of a sector, positive beyond it [m].
template <int D>
double beyond_sector(const Setup<D>& setup, const std::type_identity_t<Vec<D>>& place) {
  return std::cos(setup.sector) * (place[1] - 0.5 * setup.size[1]) -
         std::sin(setup.sector) * (place[0] - 0.5 * setup.size[0]);
}

/// Height up to which fills put the denser phase, as far as their shapes tell without a grid [m].
template <int D>
double filled_up_to(const Setup<D>& setup);

/// An opening on an upright side lies wholly below what is filled.
template <int D>
bool submerged(const Setup<D>& setup, const OpeningSetup<D>& given);

template <int D>
Grid<D> make_grid(const Setup<D>& setup);

/// What vessel and inserts leave open.
template <int D>
OpenSpace<D> make_space(const Setup<D>& setup, const Grid<D>& grid);

template <int D>
sharp::Settings<D> model_settings(const Setup<D>& setup);

/// Share of the open part of each cell that each phase fills at the start: `share` of as many fields.
template <int D>
void fill(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space, const std::vector<Cells<D>*>& shares,
          std::vector<Cells<D>>* concentrations = nullptr);

/// What each fill takes of other phases that earlier fills put there [m3].
template <int D>
std::vector<double> replaced_volumes(const Setup<D>& setup, const Grid<D>& grid, const OpenSpace<D>& space);

/// Number of the solid whose wall is nearest to a place: of the inserts in their order, then the vessel itself.
template <int D>
std::size_t nearest_solid(const Setup<D>& setup, const std::type_identity_t<Vec<D>>& place);

/// The model of a setup, filled. The grid must outlive it. Throws an input error where an opening leads nowhere, a
/// moving wall does not move along itself, the vessel falls into parts or a fill has no room.
template <int D>
std::unique_ptr<sharp::Model<D>> make_sharp_model(const Setup<D>& setup, const Grid<D>& grid);
/// The same of a setup of the Eulerian model.
template <int D>
std::unique_ptr<dispersed::Model<D>> make_dispersed_model(const Setup<D>& setup, const Grid<D>& grid);

/// Either.
template <int D>
class OwnModel {
 public:
  OwnModel(const Setup<D>& setup, const Grid<D>& grid);
  [[nodiscard]] const VesselModel<D>& model() const { return *model_; }

 private:
  std::unique_ptr<sharp::Model<D>> sharp_;
  std::unique_ptr<dispersed::Model<D>> dispersed_;
  std::optional<VesselModel<D>> model_;
};

}  // namespace wavy
