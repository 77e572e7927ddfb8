// A vessel as it stands in a case file: its shape, what is in it, how it is divided, filled, moved and measured.
#include "case/vessel_file.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "case/agitators.hpp"
#include "case/fills.hpp"
#include "case/gauges.hpp"
#include "case/moving_walls.hpp"
#include "case/openings.hpp"
#include "case/phases.hpp"
#include "case/solids.hpp"
#include "case/symmetry.hpp"
#include "case/tracers.hpp"
#include "case/turbulence.hpp"
#include "run/gauges.hpp"
#include "run/quantities.hpp"

namespace wavy {
namespace {

constexpr double most_vessel_cells = 1e9;
constexpr double most_snapshots = 1e5;

/// 2 or 3: as many as there are lengths or coordinates, else as the shape is or the user says.
int dimensions_of(Part& vessel, const std::string& shape) {
  const auto* symmetry = vessel.find("symmetry");
  const bool round = symmetry != nullptr && symmetry->value_or(std::string()) == "round";
  std::size_t found = shape == "circle" || (shape == "cylinder" && round) ? 2 : 3;
  const char* from = "shape";
  if (shape == "box") {
    const auto* list = vessel.find("size") == nullptr ? nullptr : vessel.find("size")->as_array();
    if (list == nullptr) {
      if (vessel.has("size")) vessel.quantities("size");  // says what is wrong with it
      throw vessel.wrong("", "the key 'size' is missing", "write, for example, size = [\"1.2 m\", \"0.8 m\"]");
    }
    from = "size";
    found = list->size();
    if (found != 2 && found != 3)
      throw vessel.wrong("size", fmt::format("{} {} given; two are needed for 2-D, three for 3-D", found,
                                             found == 1 ? "length is" : "lengths are"));
  } else if (shape == "pipe" || shape == "polygon") {
    const auto* list = vessel.find("points") == nullptr ? nullptr : vessel.find("points")->as_array();
    const auto* row = list == nullptr || list->empty() ? nullptr : list->get(0)->as_array();
    if (row != nullptr && (row->size() == 2 || row->size() == 3)) found = row->size();
    if (shape == "polygon") found = vessel.has("upper_end") ? 3 : 2;
    from = "points";
  }
  if (vessel.has("dimensions")) {
    const long wanted = vessel.whole_number("dimensions");
    if (wanted != 2 && wanted != 3) throw vessel.wrong("dimensions", fmt::format("{} is not 2 or 3", wanted));
    if (shape == "cylinder") return static_cast<int>(wanted);
    if (wanted != static_cast<long>(found))
      throw vessel.wrong("dimensions", fmt::format("'{}' makes this a {}-D vessel", from, found), "leave it out");
  }
  return static_cast<int>(found);
}

template <int D>
Symmetry read_symmetry(Part& vessel) {
  const std::string name = vessel.choice("symmetry");
  if (name == "round") {
    if (D != 2)
      throw vessel.wrong("symmetry", "round belongs to a 2-D section, from the axis outwards",
                         "give two lengths (radius and height), or dimensions = 2");
    if (vessel.has("tilted"))
      throw vessel.wrong("tilted", "a section that is turned round the upright axis cannot be tilted",
                         "leave it out, or describe the vessel in 3-D");
    return Symmetry::round;
  }
  if ((name == "quarter" || name == "sector") && D == 2)
    throw vessel.wrong("symmetry", fmt::format("a 2-D vessel has no {}", name), "write \"half\"");
  if (name != "sector" && vessel.has("sector"))
    throw vessel.wrong("sector", "an angle belongs to symmetry = \"sector\"", "leave it out, or set symmetry");
  if (name == "sector") return Symmetry::sector;
  if (name == "half_turn") return Symmetry::half_turn;
  if (name == "quarter_turn") return Symmetry::quarter_turn;
  return name == "half" ? Symmetry::half : name == "quarter" ? Symmetry::quarter : Symmetry::none;
}

/// Angle of the wedge [rad].
double read_sector(Part& vessel) {
  vessel.need("sector", "give the angle of the wedge, such as sector = \"30 deg\"");
  const double sector = vessel.quantity("sector");
  const double times = std::numbers::pi / sector;
  constexpr double most = 36;
  if (!(sector > 0) || times > most + 1e-9 || times < 2 - 1e-9 || std::abs(times - std::round(times)) > 1e-6)
    throw vessel.wrong("sector",
                       fmt::format("{:.4g} deg does not go into 180 deg a whole number of times, 2 to {:.0f}",
                                   sector * 180 / std::numbers::pi, most),
                       "choose 90, 60, 45, 36, 30 ... deg");
  return sector;
}

template <int D>
void read_repeats(Part& vessel, Setup<D>& setup, bool plain) {
  const std::string along = vessel.choice("repeats");
  if (along == "none") return;
  if (!plain) throw vessel.wrong("repeats", "only a box that is not tilted can repeat", "leave it out");
  for (const char axis : along) {
    const auto d = static_cast<std::size_t>(axis - 'x');
    if (d >= D) throw vessel.wrong("repeats", "a 2-D vessel has no z axis", "write \"x\" or \"y\"");
    if (cancels_along(setup, static_cast<int>(d)))
      throw vessel.wrong("repeats", fmt::format("along {} the vessel has an image already", axis),
                         "leave out repeats, or vessel.symmetry");
    setup.periodic[d] = true;
  }
}

template <int D>
void take_sector(Setup<D>& setup, std::vector<std::string>& notes) {
  setup.whole = setup.vessel ? *setup.vessel : box_solid<D>(setup.lower, setup.upper);
  Solid<D> wedge{[copy = setup](const Vec<D>& p) { return beyond_sector(copy, p); }, setup.lower, setup.upper};
  setup.vessel = intersection<D>(*setup.whole, wedge);
  for (const auto& given : setup.openings)
    if (given.opening.axis != D - 1 && given.on_side())
      notes.push_back(fmt::format("'{}' stands for itself and its images: its flows are those of all {:.0f}",
                                  given.opening.name, setup.thickness));
  notes.push_back(
      fmt::format("computed a sector of {:.4g} deg; volumes, flows and forces are those of the whole vessel",
                  setup.sector * 180 / std::numbers::pi));
}

/// What a turn takes to another place counts together with its images.
template <int D>
void note_turned(const Setup<D>& setup, std::vector<std::string>& notes) {
  const auto off_axis = [&](const Vec<D>& lower, const Vec<D>& upper) {
    for (std::size_t d = 0; d < 2; ++d)
      if (std::abs(lower[d] + upper[d] - setup.size[d]) > 1e-6 * setup.size[d]) return true;
    return false;
  };
  const bool half = setup.symmetry == Symmetry::half_turn;
  for (const auto& given : setup.openings) {
    if (!given.on_side()) continue;
    const auto& opening = given.opening;
    bool turned = opening.axis < 2;
    if (opening.round) turned = turned || off_axis(opening.round->centre, opening.round->centre);
    if (opening.within) turned = turned || off_axis(opening.within->lower, opening.within->upper);
    if (turned)
      notes.push_back(fmt::format("'{}' stands for itself and its {}: its flows are those of {}", opening.name,
                                  half ? "image" : "images", half ? "both" : "all four"));
  }
  for (const auto& gauge : setup.gauges) {
    if (!gauge.zone) continue;
    const auto* box = std::get_if<AlignedBox<D>>(&*gauge.zone);
    const auto* ball = std::get_if<Ball<D>>(&*gauge.zone);
    if ((box != nullptr && off_axis(box->lower, box->upper)) ||
        (ball != nullptr && off_axis(ball->centre, ball->centre)))
      notes.push_back(fmt::format("the zone of '{}' is what of it lies in the computed {}", gauge.name,
                                  half ? "half, and its image" : "quarter, and its images"));
  }
}

template <int D>
void take_part(Setup<D>& setup, std::vector<std::string>& notes) {
  if (setup.symmetry == Symmetry::none) return;
  const bool sector = setup.symmetry == Symmetry::sector;
  const Turn turn = turn_of(setup);
  const bool turned = turn != Turn::none;
  const int axes = setup.symmetry == Symmetry::quarter || turn == Turn::quarter || sector ? 2 : 1;
  std::string part;
  for (int d = 0; d < axes; ++d) {
    const auto axis = static_cast<std::size_t>(d);
    // Along x a sector ends at the axis alone, and what is beyond is no image of it.
    setup.walls[axis][0] = turned || (sector && d == 0) ? Wall::slip : Wall::mirror;
    setup.lower[axis] = setup.symmetry == Symmetry::round ? 0.0 : 0.5 * setup.size[axis];
    for (auto& gauge : setup.gauges)
      if (!turned && gauge.at[axis] < setup.lower[axis]) gauge.at[axis] = setup.size[axis] - gauge.at[axis];
    if (setup.symmetry == Symmetry::round || sector) continue;
    part += fmt::format("{}from {} along {}", d == 0 ? "" : " and ", quantity(setup.lower[axis], "m"), "xyz"[axis]);
    for (const auto& given : setup.openings)
      if (!turned && given.opening.axis == d && given.on_side())
        notes.push_back(
            fmt::format("'{}' stands for itself and its image: its flows are those of both", given.opening.name));
  }
  if (turned) {
    for (auto& gauge : setup.gauges)
      for (int k = 0; k < 3 && (gauge.at[0] < setup.lower[0] || gauge.at[1] < setup.lower[1]); ++k)
        gauge.at = turned_place(setup, turn, gauge.at);
    note_turned(setup, notes);
  }
  setup.thickness /= share_of_vessel(setup);
  if (setup.symmetry == Symmetry::round)
    setup.thickness = 2 * std::numbers::pi * setup.upper[0];
  else if (sector)
    take_sector(setup, notes);
  else
    notes.push_back(fmt::format("computed {}{}; volumes, flows and forces are those of the whole vessel", part,
                                turn == Turn::half      ? ", the rest is the same turned by half a turn"
                                : turn == Turn::quarter ? ", the rest is the same turned by quarters of a turn"
                                                        : ""));
}

template <int D>
void read_walls(Sections& sections, Setup<D>& setup) {
  Part walls = sections.section("vessel.walls");
  walls.refuse_unknown();
  const std::string all = walls.choice("all");
  setup.solid_walls = all == "slip" ? Wall::slip : Wall::no_slip;
  for (const char* name : {"front", "back"})
    if (D == 2 && walls.has(name))
      throw walls.wrong(name, "a 2-D vessel has no such wall", "leave it out, or give vessel.size three lengths");
  for (int d = 0; d < D; ++d)
    if (mirrored(setup, d) && walls.has(side_name<D>(d, 0)))
      throw walls.wrong(side_name<D>(d, 0), "there is no such wall in the part of the vessel that is computed",
                        "leave it out; see vessel.symmetry");
  for (int d = 0; d < D; ++d)
    for (int side = 0; side < 2; ++side)
      if (setup.periodic[static_cast<std::size_t>(d)] && walls.has(side_name<D>(d, side)))
        throw walls.wrong(side_name<D>(d, side), "there is no such wall where the vessel repeats", "leave it out");
  for (int d = 0; d < D; ++d)
    for (int side = 0; side < 2; ++side) {
      if (setup.periodic[static_cast<std::size_t>(d)] || (side == 0 && mirrored(setup, d))) continue;
      setup.walls[static_cast<std::size_t>(d)][static_cast<std::size_t>(side)] =
          walls.choice(side_name<D>(d, side), all) == "slip" ? Wall::slip : Wall::no_slip;
    }
}

template <int D>
void check_cells(const Setup<D>& setup, double cells) {
  if (cells > most_vessel_cells)
    throw input_error(setup.grid_place,
                      fmt::format("a cell of {} makes {:.2g} cells, more than {:.0g}", quantity(setup.cell_size, "m"),
                                  cells, most_vessel_cells),
                      "choose a larger cell");
}

template <int D>
void read_grid(Sections& sections, Setup<D>& setup) {
  Part grid = sections.section("grid");
  grid.refuse_unknown();
  setup.cell_size = grid.quantity("cell");
  double cells = 1;
  for (const double length : setup.size) {
    cells *= std::max(4.0, length / setup.cell_size);
    if (setup.cell_size > length / 4 * (1 + 1e-9))
      throw grid.wrong("cell",
                       fmt::format("a cell of {} is more than a quarter of the vessel's {}",
                                   quantity(setup.cell_size, "m"), quantity(length, "m")),
                       "choose a cell so small that at least 4, better 40, fit into the vessel");
  }
  setup.grid_place = grid.place("cell");
  check_cells(setup, cells);
}

template <int D>
Solid<D> read_inserts(Sections& sections, Setup<D>& setup, const Solid<D>& body, const Vec<D>& of_files,
                      std::vector<ToTurn<D>>& to_turn) {
  Solid<D> shell = body;
  std::size_t number = 0;
  sections.each("insert", [&](Part part) {
    part.refuse_unknown();
    ++number;
    const std::string name = part.text("name", fmt::format("insert {}", number));
    const std::string does = part.choice("does");
    const std::string shape = part.choice("shape");
    Solid<D> solid = placed<D>(part, read_solid<D>(part, shape, false, setup.size));
    if (shape == "surface" && !part.has("moved")) solid = moved<D>(solid, of_files);
    for (std::size_t d = 0; d < D; ++d)  // as far as earlier inserts have opened it
      if (solid.upper[d] <= setup.lower[d] || solid.lower[d] >= setup.upper[d])
        throw part.wrong("", fmt::format("'{}' lies outside the vessel", name),
                         fmt::format("the vessel reaches from {} to {} along {}", quantity(setup.lower[d], "m"),
                                     quantity(setup.upper[d], "m"), "xyz"[d]));
    if (does != "blocks" && std::ranges::any_of(setup.periodic, [](bool repeats) { return repeats; }))
      throw part.wrong("does", "a vessel that repeats stays a box",
                       "leave out vessel.repeats, or let the insert block");
    if (does == "opens") {
      shell = union_of<D>(shell, solid);
      setup.vessel = shell;
      for (std::size_t d = 0; d < D; ++d) {
        setup.lower[d] = std::min(setup.lower[d], solid.lower[d]);
        setup.upper[d] = std::max(setup.upper[d], solid.upper[d]);
      }
      return;
    }
    if (does == "confines") {
      shell = intersection<D>(shell, solid);
      setup.vessel = shell;
      return;
    }
    if (part.has("turns_with")) {
      to_turn.push_back(read_turning_insert(part, setup, solid, name));
      return;
    }
    // A box thinner than a cell along one axis: a wall on faces, at its middle.
    int thin = -1;
    for (int d = 0; d < D; ++d)
      if (solid.upper[d] - solid.lower[d] < setup.cell_size) thin = d;
    if (shape == "box" && !part.has("tilted") && thin >= 0) {
      ThinWall<D> wall;
      wall.normal[thin] = 1;
      wall.point = solid.lower;
      wall.point[thin] = 0.5 * (solid.lower[thin] + solid.upper[thin]);
      Vec<D> lower = solid.lower;
      Vec<D> upper = solid.upper;
      lower[thin] = wall.point[thin] - setup.cell_size;
      upper[thin] = wall.point[thin] + setup.cell_size;
      wall.extent = box_solid<D>(lower, upper);
      setup.thin_walls.push_back(wall);
      setup.thin_wall_names.push_back(name);

      sections.out().notes.push_back(
          fmt::format("'{}' is thinner ({}) than a cell: it stands as a wall on the faces between cells", name,
                      quantity(solid.upper[thin] - solid.lower[thin], "m")));
      return;
    }
    setup.inserts.push_back(solid);
    setup.insert_names.push_back(name);
  });
  return shell;
}

template <int D>
void read_openings(Sections& sections, Setup<D>& setup, Shell<D> shell) {
  using Given = typename OpeningSetup<D>::Given;
  Place last = sections.top();
  bool flows = false;
  bool relief = false;
  sections.each("opening", [&](Part part) {
    last = part.place();
    setup.openings.push_back(read_opening(setup, part, sections.names(), shell, sections.out().notes));
    const Given given = setup.openings.back().given;
    (given == Given::pressure || given == Given::degassing ? relief : flows) = true;
  });
  if (shell.nozzles) setup.vessel = shell.open;
  last.key = "opening";
  find_back_pressures(setup, sections.out().notes, last);

  if (flows && !relief && !setup.free_surface_only) {
    throw input_error(last, "fluid is let in or out, but no opening lets the vessel breathe",
                      "add an opening with pressure = \"0 Pa\", such as a vent or an open top");
  }
}

template <int D>
void read_motion(Sections& sections, Setup<D>& setup) {
  Part motion = sections.section("motion");
  motion.refuse_unknown();
  std::array<std::string, D> down;
  std::array<std::string, D> none;
  for (std::size_t d = 0; d < D; ++d) none[d] = down[d] = "0 m/s^2";
  down[D - 1] = "-9.80665 m/s^2";
  setup.gravity = motion.formulas<D>("gravity", down, sections.names());
  setup.acceleration = motion.formulas<D>("acceleration", none, sections.names());
  const auto refuse_across = [&](const char* name, const std::array<Formula, D>& pull) {
    for (std::size_t d = 0; d < D; ++d)
      if (cancels_along(setup, static_cast<int>(d)) && !(pull[d].is_constant() && pull[d](0) == 0))
        throw motion.wrong(name, fmt::format("a pull along {} does not go with vessel.symmetry", "xyz"[d]),
                           "leave that symmetry out, or set this component to \"0 m/s^2\"");
  };
  refuse_across("gravity", setup.gravity);
  refuse_across("acceleration", setup.acceleration);
}

/// `after`: the run, when means over time are known.
template <int D>
void read_gauges(Sections& sections, Setup<D>& setup, bool after) {
  std::set<std::string> taken;
  for (const auto& column : vessel_columns(setup)) taken.insert(column.name);
  sections.each("gauge", [&](Part part) {
    setup.gauges.push_back(read_gauge(setup, part, sections.names(), taken));
    if (const std::string& quantity = setup.gauges.back().quantity; !after && is_mean(quantity))
      throw part.wrong("quantity", quantity + " is known when the run has ended",
                       "leave the gauge out of the case, and give it to wavy measure with --gauge");
  });
}

template <int D>
void read_schedule(Sections& sections, Setup<D>& setup) {
  Part run = sections.section("run");
  run.refuse_unknown();
  Schedule& schedule = setup.schedule;
  read_times(run, schedule, 20, most_snapshots);
  if (run.has("largest_step")) schedule.largest_step = run.quantity("largest_step");
  schedule.smallest_step = run.quantity("smallest_step");
  if (schedule.smallest_step >= schedule.largest_step)
    throw run.wrong("smallest_step", "the smallest step must be below the largest");
  read_checkpoint_interval(run, schedule);
  read_settled_end(run, schedule, vessel_columns(setup));
  if (run.has("means_from")) {
    schedule.means_from = run.quantity("means_from");
    if (*schedule.means_from >= schedule.until)
      throw run.wrong("means_from", "the run is over by then", "name an earlier time than run.until");
  }
  setup.courant = run.quantity("courant");
  if (setup.courant > 0.5) throw run.wrong("courant", fmt::format("{:g} is outside 0.05 to 0.5", setup.courant));
  setup.projection_tolerance = run.quantity("projection_tolerance");
}

template <int D>
void read_vessel(Sections& sections, Part& vessel, const std::string& shape, bool geometry_only) {
  const bool eulerian = sections.root()["model"].value_or(std::string()) == "eulerian";
  Setup<D> setup;
  setup.vessel_place = vessel.place();
  setup.symmetry = read_symmetry<D>(vessel);
  const bool round = setup.symmetry == Symmetry::round;
  if (setup.symmetry == Symmetry::sector) setup.sector = read_sector(vessel);
  Solid<D> body = placed<D>(vessel, read_solid<D>(vessel, shape, true));
  if (round && (shape == "polygon" || shape == "pipe") && body.lower[0] < 0)
    throw vessel.wrong("points", "a distance from the axis must not be negative",
                       "x counts from the axis of revolution outwards");
  Vec<D> back;
  for (std::size_t d = 0; d < D; ++d) {
    back[d] = round && d == 0 ? 0.0 : -body.lower[d];
    setup.size[d] = body.upper[d] + back[d];
  }
  body = moved<D>(body, back);
  setup.upper = setup.size;
  const bool plain = shape == "box" && !vessel.has("tilted");
  read_repeats(vessel, setup, plain);
  if (round) {
    if (vessel.has("thickness"))
      throw vessel.wrong("thickness", "a vessel turned round an axis has no thickness", "leave it out");
  } else if constexpr (D == 2) {
    setup.thickness = vessel.quantity("thickness");
  } else if (vessel.has("thickness")) {
    throw vessel.wrong("thickness", "a 3-D vessel has no thickness", "leave it out, or give size only two lengths");
  }
  read_walls(sections, setup);
  read_grid(sections, setup);
  if (!plain) setup.vessel = body;
  read_turbulence(sections, setup);
  if (eulerian) {
    read_fluid_pairs(sections, read_fluids(sections, setup), setup);
  } else {
    read_phases(sections, setup);
    read_pairs(sections, setup);
  }
  std::vector<ToTurn<D>> to_turn;
  const Solid<D> inside = read_inserts<D>(sections, setup, body, shape == "surface" ? back : Vec<D>{}, to_turn);
  sections.each("moving_wall",
                [&](Part part) { setup.moving_walls.push_back(read_moving_wall(setup, part, sections.names())); });
  read_impellers(sections, setup, to_turn);
  read_agitators(sections, setup, inside, std::move(to_turn));
  check_turning_symmetry(setup, vessel, inside);
  read_motion(sections, setup);
  read_tracers(sections, setup);
  read_gauges(sections, setup, false);
  read_openings(sections, setup, Shell<D>{inside, plain});
  if (geometry_only) {
    take_part(setup, sections.out().notes);
    sections.out().setup = std::move(setup);
    return;
  }
  sections.each("fill", [&](Part part) { setup.fills.push_back(read_fill(setup, part, sections.names())); });
  read_doses(sections, setup);
  choose_outside(setup, sections.out().notes);
  read_schedule(sections, setup);
  remark_agitators(setup, sections.out());
  remark_tracers(setup, sections.out());
  take_part(setup, sections.out().notes);
  double cells = 1;  // with all that inserts and stubs add
  for (std::size_t d = 0; d < D; ++d) cells *= std::max(4.0, (setup.upper[d] - setup.lower[d]) / setup.cell_size);
  check_cells(setup, cells);
  sections.out().setup = std::move(setup);
}

}  // namespace

void read_vessel_case(Sections& sections, bool geometry_only) {
  Part vessel = sections.section("vessel");
  vessel.refuse_unknown({"walls"});
  const std::string shape = vessel.choice("shape");
  if (dimensions_of(vessel, shape) == 2)
    read_vessel<2>(sections, vessel, shape, geometry_only);
  else
    read_vessel<3>(sections, vessel, shape, geometry_only);
}

void read_more_gauges(Sections& sections, CaseFile& the_case) {
  std::visit(
      [&](auto& setup) {
        if constexpr (!std::is_same_v<std::decay_t<decltype(setup)>, LineSetup>) read_gauges(sections, setup, true);
      },
      the_case.setup);
}

}  // namespace wavy
