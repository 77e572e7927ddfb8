#include <fmt/format.h>

#include <algorithm>

#include "base/text.hpp"
#include "case/keys.hpp"
#include "geometry/impellers.hpp"
#include "physics/bubbles_and_drops.hpp"
#include "physics/mass_transfer.hpp"
#include "physics/turbulence.hpp"
#include "run/gauge_kinds.hpp"
#include "run/quantities.hpp"

namespace wavy {

namespace {

/// Of vessels and lines.
std::vector<std::string> impeller_words() {
  std::vector<std::string> words;
  for (const auto& [name, kind] : impeller_kinds()) words.push_back(name);
  return words;
}

std::vector<std::string> gauge_words() {
  std::vector<std::string> words;
  for (const auto& kind : gauge_kinds())
    if (std::ranges::find(words, kind.name) == words.end()) words.push_back(kind.name);
  return words;
}

std::string gauge_meanings() {
  std::string text;
  for (const auto of : {GaugeKind::Of::vessel, GaugeKind::Of::line}) {
    std::string list;
    for (const auto& kind : gauge_kinds())
      if (kind.of == of) list += fmt::format("{}{} ({})", list.empty() ? "" : "; ", kind.name, kind.meaning);
    text += fmt::format("{}: {}. ", of == GaugeKind::Of::vessel ? "In a vessel" : "In a line", list);
  }
  text.pop_back();
  return text;
}

/// Names in a table of closures, and what else can be chosen.
template <class Laws>
std::vector<std::string> names_of(const Laws& table, std::vector<std::string> names) {
  for (const auto& law : table) names.emplace_back(law.name);
  return names;
}

/// What they say, in a row.
template <class Laws>
std::string laws(const Laws& table) {
  std::string text;
  for (const auto& law : table)
    text += fmt::format("{}{} ({}; {})", text.empty() ? "" : "; ", law.name, law.source, law.range);
  return text;
}

std::string transfer_meanings() {
  std::string text;
  for (const auto& law : transfer_laws())
    text += fmt::format("{}{}: {} ({})", text.empty() ? "" : "; ", law.name, law.equation, law.source);
  return text + ".";
}

/// What a gauge can read: of the moment, and means.
std::vector<std::string> parts_and_means() {
  constexpr int dimensions = 3;
  auto parts = quantity_parts(dimensions);
  const auto means = quantity_parts(dimensions, true);
  parts.insert(parts.end(), means.begin(), means.end());
  return parts;
}

}  // namespace

// An entry of the table reads best in two or three lines.
// clang-format off
const std::vector<Section>& sections() {
  static const std::vector<Section> list{
      {"", false, "What the case is."},
      {"vessel", false,
       "The space that holds the fluids: the inside of a shape, whose lower corner is the origin; the last axis (y in "
       "2-D, z in 3-D) points up."},
      {"vessel.walls", false, "How the fluids meet the walls."},
      {"turbulence", false,
       "What the cells do not resolve of a turbulent flow. Left out: the flow is laminar, or turbulent as far as cells "
       "resolve it."},
      {"insert", true,
       "Something solid in the vessel (a baffle, a weir, a pipe), or a shape that opens or confines it. In this "
       "order."},
            {"moving_wall", true,
       "A wall that moves along itself and drags the fluid. A lid slides, a drum or a bucket turns."},
      {"agitator", true,
       "What drives impellers and inserts. It has an upright axis (in 2-D one across the plane) and a speed. Fluid within what "
       "turns moves with it and counts as fluid."},
      {"impeller", true,
       "3-D: an impeller of an agitator. Measures that are left out are usual ones for its diameter."},
      {"opening", true,
       "A named piece of the vessel's boundary through which fluid passes. Give one of speed, volume_flow, mass_flow, "
       "vessel_volumes, pressure or holds. What passes of each phase is always in the history."},
      {"line", false, "model = \"line\": gas and liquid in a pipe run made of legs, in one dimension."},
      {"leg", true, "model = \"line\": a straight piece of pipe, in the order of the flow; the last one leads to the outlet."},
      {"source", true, "model = \"line\": gas, liquid or both that come into the line. Its beginning is closed but for sources."},
      {"valve", true, "model = \"line\": a choke or a control valve across the pipe."},
      {"outlet", false, "model = \"line\": the end of the line."},
      {"grid", false, "How finely the vessel is divided. There is no mesh to make."},
      {"constants", false, "Names of your own for use in formulas: name = \"value with unit\"."},
      {"tables", false, "Tables of time from CSV files for use in formulas: [tables.name] makes name(t)."},
      {"phase", true, "The two phases; the denser one is followed as the liquid. One alone is a liquid with a free surface: the gas is left "
       "out and the pressure on the surface is 0. With model = \"eulerian\" two to six."},
      {"pair", true, "What acts between two phases. Of two phases it may also stand as [pair]."},
      {"fill", true,
       "Where the phases are at the start. The vessel is full of the lighter phase, or empty (model = \"eulerian\": full of the "
       "lightest carrier); each fill is laid over what is already there."},
      {"tracer", true, "What a phase carries in itself: a dye, a salt, a dissolved gas. It does not act on the flow."},
      {"dose", true, "How much of a tracer is put in where and when. Spread over what its phase fills of a zone."},
      {"motion", false,
       "What pulls and shakes the vessel. Formulas may use t, x, y, z, pi, ramp(t, start, end, from, to), step(t, at, "
       "before, after) and pulse(t, start, end, value)."},
      {"gauge", true, "What is measured in every time step, beside the volume of each phase and the greatest speed."},
      {"run", false, "How long to run and how often to keep all fields."},
  };
  return list;
}

const std::vector<Key>& keys() {
  using namespace dimension;
  using dimension::length;  // not that of a vector
  static const std::vector<Key> list{
      {"", "wavy", Kind::whole_number, nullptr, "", true, {},
       "Format of this file. Later versions of the program go on reading format 1.", "1"},
      {"", "title", Kind::text, nullptr, "untitled", false, {},
       "A line for pictures and tables.", "\"Hydrosol tote on a braking van\""},
      {"", "model", Kind::choice, nullptr, "sharp", false, {"sharp", "eulerian", "line"},
       "How the phases are treated. sharp: two phases that do not mix, with a sharp interface between them (volume "
       "of fluid), in a vessel. eulerian: two to six phases in a vessel, as bubbles and drops too many and too small to be "
       "followed one by one, or as layers. line: gas and liquid along a pipe, in one dimension.", "\"sharp\""},

      {"vessel", "shape", Kind::choice, nullptr, "box", false,
       {"box", "cylinder", "sphere", "circle", "polygon", "turned", "pipe", "surface"},
       "The vessel's shape. cylinder: upright or lying by axis, with ends of your choice; circle: the section of a "
       "lying cylinder (2-D); polygon: a section by its corners (2-D), or carried along axis (3-D); turned: a "
       "profile of (radius, height) turned round axis; pipe: along points; surface: from an STL or OBJ file.",
       "\"box\""},
      {"vessel", "dimensions", Kind::whole_number, nullptr,
       "2 where the shape is given by two lengths or is flat, else 3", false,
       {},
       "2 for a plane section, 3 for the whole body. A cylinder in 2-D is the section along its axis.", "3"},
      {"vessel", "size", Kind::quantities, &length, "", false, {},
       "shape = \"box\": extent along each axis: two lengths for a 2-D section (width, height), three for 3-D "
       "(length, breadth, height).", "[\"1.2 m\", \"0.8 m\"]"},
      {"vessel", "diameter", Kind::quantity, &length, "", false, {},
       "Inner diameter of cylinder, sphere, circle or pipe.", "\"0.9 m\""},
      {"vessel", "length", Kind::quantity, &length, "", false, {},
       "shape = \"cylinder\": length of the straight part; dished ends come on top.", "\"1.5 m\""},
      {"vessel", "axis", Kind::choice, nullptr, "upwards", false, {"x", "y", "z"},
       "Direction of the axis of a cylinder or of a turned profile, or along which a polygon is carried.", "\"z\""},
      {"vessel", "ends", Kind::choices, nullptr, "flat", false,
       {"flat", "torispherical", "elliptical", "hemispherical"},
       "shape = \"cylinder\": its ends, the one at the lower coordinate first. torispherical: crown radius = "
       "diameter, knuckle a tenth of it; elliptical: 2 to 1.", "[\"torispherical\", \"flat\"]"},
      {"vessel", "points", Kind::points, &length, "", false, {},
       "Corners of a polygon, points (radius, height) of a turned profile, or the line of a pipe.",
       "[[\"0 m\", \"0 m\"], [\"1 m\", \"0 m\"], [\"1 m\", \"0.5 m\"]]"},
      {"vessel", "bend", Kind::quantity, &length, "none: corners", false, {},
       "shape = \"pipe\": radius of its bends, to the middle of the pipe.", "\"15 cm\""},
      {"vessel", "upper_end", Kind::quantity, &length, "", false, {},
       "3-D polygon: how far it is carried along axis.", "\"0.6 m\""},
      {"vessel", "file", Kind::text, nullptr, "", false, {},
       "shape = \"surface\": an STL or OBJ file of a closed surface, from the folder of this file.", "\"kettle.stl\""},
      {"vessel", "unit", Kind::quantity, &length, "", false, {},
       "What one unit in the surface file is.", "\"1 mm\"", "above 0"},
      {"vessel", "tilted", Kind::quantity, &angle, "upright", false, {},
       "Turns the vessel by this angle, counter-clockwise in 2-D.", "\"5 deg\""},
      {"vessel", "tilted_round", Kind::choice, nullptr, "y", false, {"x", "y", "z"},
       "3-D: axis of the tilt.", "\"y\""},
      {"vessel", "mirrored", Kind::choice, nullptr, "no", false, {"x", "y", "z"},
       "Mirrors the vessel along this axis.", "\"x\""},
      {"vessel", "repeats", Kind::choice, nullptr, "none", false, {"none", "x", "y", "z", "xy"},
       "shape = \"box\": the vessel is one piece of an endless row along this axis (xy: of a field): what leaves at one "
       "end comes in at the other, and there are no walls. A pull along it drives the flow; pressures are then those "
       "beside the mean gradient that balances it.", "\"x\""},
      {"vessel", "symmetry", Kind::choice, nullptr, "none", false,
       {"none", "round", "half", "quarter", "sector", "half_turn", "quarter_turn"},
       "Computes a part and reports the whole. round: a 2-D section is turned round the upright axis x = 0 (a box has "
       "radius and height; of a cylinder and a circle the half beyond the axis is taken); half: what lies beyond the "
       "middle along x; quarter: and along y; sector: a wedge round the upright line through the middle, between two "
       "mirrors; half_turn, quarter_turn: for stirred vessels, what lies beyond the middle along x, or along x and y: "
       "the rest is the same, turned by 180 deg, or by 90, 180 and 270 deg, round that line.", "\"round\""},
      {"vessel", "sector", Kind::quantity, &angle, "", false, {},
       "symmetry = \"sector\": angle of the wedge, from the x axis on towards y. It goes into half a turn a whole number "
       "of times, at least twice: with six baffles, 30 deg.", "\"30 deg\""},
      {"vessel", "thickness", Kind::quantity, &length, "1 m", false, {},
       "2-D only: extent across the section. Volumes and forces are given for this thickness.", "\"1 m\"", "above 0"},

      {"insert", "name", Kind::text, nullptr, "insert and its number", false, {},
       "Your name for it.", "\"weir\""},
      {"insert", "does", Kind::choice, nullptr, "blocks", false, {"blocks", "opens", "confines"},
       "blocks: it is solid; opens: its inside is added to the vessel; confines: only what lies in it stays open.",
       "\"blocks\""},
      {"insert", "shape", Kind::choice, nullptr, "box", false,
       {"box", "cylinder", "cone", "sphere", "circle", "ring", "pipe", "polygon", "turned", "surface", "formula", "baffles",
        "coil", "sleeve"},
       "Its shape; of a round vessel's baffles, a wound coil and the wall of an open tube (a sleeve) measures are enough. What is thinner than a cell stands as a wall on the faces between cells.", "\"box\""},
      {"insert", "where", Kind::text, nullptr, "", false, {},
       "shape = \"formula\": a formula of x, y and z (m), positive in the body, between lower and upper.",
       "\"0.1 m + 2 cm * sin(2 * pi * x / 30 cm) - y\""},
      {"insert", "lower", Kind::quantities, &length, "", false, {},
       "shape = \"box\" or \"formula\": the corner nearest to the origin.", "[\"0.5 m\", \"0 m\"]"},
      {"insert", "upper", Kind::quantities, &length, "", false, {},
       "shape = \"box\" or \"formula\": the opposite corner.", "[\"0.51 m\", \"0.4 m\"]"},
      {"insert", "from", Kind::quantities, &length, "", false, {},
       "cylinder or cone: one end of its axis.", "[\"0.2 m\", \"0.2 m\", \"0 m\"]"},
      {"insert", "to", Kind::quantities, &length, "", false, {},
       "cylinder or cone: the other end.", "[\"0.2 m\", \"0.2 m\", \"0.5 m\"]"},
      {"insert", "centre", Kind::quantities, &length, "", false, {},
       "sphere, circle or ring: its centre; turned: the foot of its axis; coil: the middle of its lowest turn; baffles: "
       "the foot of the vessel's axis, left out its middle.", "[\"0.5 m\", \"0.3 m\"]"},
      {"insert", "diameter", Kind::quantity, &length, "", false, {},
       "Of cylinder, sphere, circle, pipe; of a ring or coil along the middle of its tube; of a cone at 'from'; of a "
       "sleeve within; of baffles that of the vessel, left out the vessel's.", "\"5 cm\""},
      {"insert", "count", Kind::whole_number, nullptr, "4", false, {},
       "baffles: how many stand evenly round the vessel's axis, the first along x.", "4", "1 to 24"},
      {"insert", "width", Kind::quantity, &length, "a tenth of the diameter", false, {},
       "baffles: across the wall.", "\"4 cm\"", "above 0"},
      {"insert", "gap", Kind::quantity, &length, "0 m", false, {},
       "baffles: between them and the wall.", "\"5 mm\"", "0 or more"},
      {"insert", "thickness", Kind::quantity, &length, "baffles: a fiftieth of the diameter", false, {},
       "Of baffles and of the wall of a sleeve.", "\"4 mm\"", "above 0"},
      {"insert", "height", Kind::quantity, &length, "up to the vessel's top", false, {},
       "Of baffles.", "\"0.4 m\"", "above 0"},
      {"insert", "turns", Kind::quantity, &number, "4", false, {}, "coil: how many, parts of one too.", "5.5", "0.25 to 200"},
      {"insert", "rise", Kind::quantity, &length, "twice its tube", false, {},
       "coil: of one turn.", "\"6 cm\"", "above 0"},
      {"insert", "to_diameter", Kind::quantity, &length, "0 m", false, {},
       "cone: diameter at 'to'.", "\"2 cm\"", "0 or more"},
      {"insert", "tube", Kind::quantity, &length, "", false, {},
       "ring or coil: diameter of its tube.", "\"3 cm\""},
      {"insert", "ends", Kind::choices, nullptr, "flat", false,
       {"flat", "torispherical", "elliptical", "hemispherical"},
       "cylinder: its ends at 'from' and 'to'.", "[\"flat\", \"flat\"]"},
      {"insert", "axis", Kind::choice, nullptr, "z; of a polygon y", false, {"x", "y", "z"},
       "Of a ring or a turned profile; along which a polygon is carried.", "\"z\""},
      {"insert", "points", Kind::points, &length, "", false, {},
       "Corners of a polygon, points (radius, height) of a turned profile, or the line of a pipe.",
       "[[\"0 m\", \"0 m\"], [\"1 m\", \"0 m\"], [\"1 m\", \"0.5 m\"]]"},
      {"insert", "bend", Kind::quantity, &length, "none: corners", false, {},
       "pipe: radius of its bends, to the middle of the pipe.", "\"15 cm\""},
      {"insert", "lower_end", Kind::quantity, &length, "0 m", false, {},
       "3-D polygon: where it begins along axis.", "\"0 m\""},
      {"insert", "upper_end", Kind::quantity, &length, "", false, {},
       "3-D polygon: where it ends along axis.", "\"0.6 m\""},
      {"insert", "file", Kind::text, nullptr, "", false, {},
       "shape = \"surface\": an STL or OBJ file of a closed surface, from the folder of this file.", "\"coil.stl\""},
      {"insert", "unit", Kind::quantity, &length, "", false, {},
       "What one unit in the surface file is.", "\"1 mm\"", "above 0"},
      {"insert", "moved", Kind::quantities, &length, "as the vessel's own surface file, else not at all", false, {},
       "By how much the body in the surface file is moved along each axis.", "[\"0.4 m\", \"0.4 m\", \"0 m\"]"},
      {"insert", "tilted", Kind::quantity, &angle, "no", false, {},
       "Turns it about its middle.", "\"30 deg\""},
      {"insert", "tilted_round", Kind::choice, nullptr, "y", false, {"x", "y", "z"},
       "3-D: axis of the tilt.", "\"y\""},
      {"insert", "mirrored", Kind::choice, nullptr, "no", false, {"x", "y", "z"},
       "Mirrors it along this axis, about its middle.", "\"x\""},
      {"insert", "turns_with", Kind::text, nullptr, "nothing: it stands", false, {},
       "Name of the agitator that it turns with.", "\"stirrer\""},

      {"agitator", "name", Kind::text, nullptr, "agitator and its number", false, {},
       "Your name for it.", "\"stirrer\""},
      {"agitator", "speed", Kind::formula, &rotation, "", true, {},
       "How fast it turns, counter-clockwise seen from above (2-D: as the plane is drawn); a formula of t.",
       "\"ramp(t, 0 s, 1 s, 0 rev/min, 240 rev/min)\""},
      {"agitator", "at", Kind::quantities, &length, "the middle of the vessel", false, {},
       "Where its axis stands: x and y.", "[\"0.3 m\", \"0.3 m\"]"},
      {"agitator", "motion", Kind::choice, nullptr, "in_time", false, {"in_time", "frozen"},
       "in_time: what turns does so in time, through the grid. frozen: it stays in its position, and the fluid round its impellers is seen from the frame that turns with it: for the settled state.",
       "\"frozen\""},
      {"agitator", "position", Kind::quantity, &angle, "0 deg", false, {},
       "By how much what turns is turned at the start, with motion = \"frozen\" for good: at 0 deg the first blade points along x.",
       "\"30 deg\""},
      {"agitator", "frame_diameter", Kind::quantity, &length, "half-way between what turns and what stands", false, {},
       "motion = \"frozen\": of the zone that is seen turning.", "\"0.3 m\"", "above 0"},
      {"agitator", "frame_from", Kind::quantity, &length, "half its height below each impeller", false, {},
       "3-D, motion = \"frozen\": height of the zone's lower end over the vessel's lowest point.", "\"5 cm\"", "0 or more"},
      {"agitator", "frame_to", Kind::quantity, &length, "half its height above each impeller", false, {},
       "3-D, motion = \"frozen\": height of its upper end.", "\"0.2 m\"", "above 0"},
      {"agitator", "shaft_diameter", Kind::quantity, &length, "a tenth of its largest impeller's diameter", false, {},
       "3-D: of the shaft, which turns with it; 0 m: none.", "\"2 cm\"", "0 or more"},
      {"agitator", "shaft_from", Kind::quantity, &length, "the lower end of the lowest impeller", false, {},
       "3-D: height of the shaft's lower end over the vessel's lowest point; 0 m: it stands in a bearing on the floor.",
       "\"0 m\"", "0 or more"},
      {"agitator", "shaft_to", Kind::quantity, &length, "the top of the vessel", false, {},
       "3-D: height of its upper end.", "\"0.6 m\"", "above 0"},

      {"impeller", "name", Kind::text, nullptr, "impeller and its number", false, {},
       "Your name for it.", "\"lower\""},
      {"impeller", "turns_with", Kind::text, nullptr, "the only agitator", false, {},
       "Name of its agitator.", "\"stirrer\""},
      {"impeller", "kind", Kind::choice, nullptr, "paddle", false, impeller_words(),
       "paddle: flat upright blades; disc_turbine: flat blades on a disc; pitched_blade: flat blades at an angle; "
       "curved_blade: half tubes on a disc, hollow side first; hydrofoil: twisted narrow blades; anchor: arms along the "
       "wall; gate: the same with cross-bars; ribbon: strips that wind up round the shaft. Turning counter-clockwise, "
       "pitched blades, hydrofoils and ribbons (at the wall) pump downwards.", "\"disc_turbine\""},
      {"impeller", "diameter", Kind::quantity, &length, "", true, {},
       "Over its tips.", "\"20 cm\"", "above 0"},
      {"impeller", "clearance", Kind::quantity, &length, "", true, {},
       "Height over the vessel's lowest point: of the middle of the blades; of an anchor, a gate or a ribbon of its "
       "lower end.", "\"12 cm\"", "0 or more"},
      {"impeller", "blades", Kind::whole_number, nullptr,
       "2; disc_turbine and curved_blade 6, pitched_blade 4, hydrofoil 3", false, {},
       "How many blades, arms or strips.", "6", "1 to 24"},
      {"impeller", "blade_height", Kind::quantity, &length, "a fifth of the diameter; anchor, gate, ribbon a tenth", false, {},
       "Width of the blades, along the axis when they are upright; of an anchor, a gate or a ribbon that of its strips.",
       "\"4 cm\"", "above 0"},
      {"impeller", "blade_length", Kind::quantity, &length, "half the diameter; with a disc a quarter of it", false, {},
       "Of the blades along the radius, inwards from the tip.", "\"5 cm\"", "above 0"},
      {"impeller", "blade_thickness", Kind::quantity, &length, "a fiftieth of the diameter", false, {},
       "Of blades, strips and disc. Less than 1.5 cells is computed as so much, but with motion = \"frozen\" as a sheet "
       "between cells.", "\"4 mm\"", "above 0"},
      {"impeller", "blade_angle", Kind::quantity, &angle, "90 deg; pitched_blade 45 deg, hydrofoil 20 deg at the tip", false, {},
       "Of a paddle, pitched blades or a hydrofoil to the plane that they turn in; over 90 deg they pump upwards.",
       "\"45 deg\""},
      {"impeller", "disc_diameter", Kind::quantity, &length, "three quarters of the diameter", false, {},
       "disc_turbine and curved_blade.", "\"15 cm\"", "above 0"},
      {"impeller", "hub_diameter", Kind::quantity, &length, "a sixth of the diameter", false, {},
       "Where blades meet the shaft.", "\"35 mm\"", "0 or more"},
      {"impeller", "height", Kind::quantity, &length, "0.8 of the diameter; of a ribbon the diameter", false, {},
       "Of an anchor, a gate or a ribbon.", "\"30 cm\"", "above 0"},
      {"impeller", "rise", Kind::quantity, &length, "the diameter", false, {},
       "ribbon: how much its strips rise in one turn.", "\"40 cm\"", "above 0"},

            {"moving_wall", "wall", Kind::text, nullptr, "", true, {},
       "vessel, a side of its box (left, right, front, back, bottom, top) or the name of an insert that blocks.",
       "\"vessel\""},
      {"moving_wall", "velocity", Kind::formulas, &speed, "none", false, {},
       "Along each axis; formulas of t.", "[\"0.2 m/s\", \"0 m/s\"]"},
      {"moving_wall", "turning", Kind::formula, &rotation, "none", false, {},
       "How fast it turns, counter-clockwise seen against its axis; a formula of t.", "\"40 rev/min\""},
      {"moving_wall", "axis", Kind::choice, nullptr, "z", false, {"x", "y", "z"},
       "3-D: direction of the axis that it turns about.", "\"z\""},
      {"moving_wall", "about", Kind::quantities, &length, "the middle of the vessel or insert", false, {},
       "A point on that axis.", "[\"0.3 m\", \"0.3 m\"]"},

      {"tracer", "name", Kind::text, nullptr, "", true, {},
       "Its concentration is the quantity NAME_concentration of pictures and gauges.", "\"dye\""},
      {"tracer", "phase", Kind::text, nullptr, "the densest", false, {},
       "The phase that carries it, which it never leaves.", "\"water\""},
      {"tracer", "diffusivity", Kind::quantity, &diffusivity, "1e-9 m^2/s", false, {},
       "Of its molecules: near 1e-9 m2/s in water, 2e-5 m2/s in air.", "\"2e-9 m^2/s\"", "0 or more"},
      {"tracer", "turbulent_schmidt", Kind::quantity, &number, "0.7", false, {},
       "Eddy viscosity over the diffusivity of eddies, with turbulence.law.", "0.7", "0.1 to 10"},
      {"tracer", "start", Kind::quantity, &concentration, "0 kg/m^3", false, {},
       "Concentration at the start, everywhere in the phase. Doses at 0 s come on top.", "\"2 g/L\"", "0 or more"},
      {"tracer", "dissolves_by", Kind::choice, nullptr, "none", false, names_of(transfer_laws(), {"none", "constant"}),
       "It dissolves from a gas, at the rate kLa (c* - c): kL by this law, a the interface, with model = \"eulerian\" the "
       "surface of spheres. " + transfer_meanings(), "\"penetration\""},
      {"tracer", "dissolves_from", Kind::text, nullptr, "", false, {},
       "model = \"eulerian\": the dispersed phase that it dissolves from; what that loses is not followed.", "\"air\""},
      {"tracer", "saturation", Kind::quantity, &concentration, "", false, {},
       "c*: in equilibrium with that phase at 101.325 kPa.", "\"8.6 mg/L\"", "0 or more"},
      {"tracer", "saturation_by_pressure", Kind::choice, nullptr, "yes", false, {"yes", "no"},
       "c* grows with the pressure (Henry's law), that of the surface being 101.325 kPa.", "\"no\""},
      {"tracer", "transfer_coefficient", Kind::quantity, &speed, "", false, {},
       "kL, with dissolves_by = \"constant\".", "\"0.3 mm/s\"", "0 or more"},

      {"dose", "tracer", Kind::text, nullptr, "the only tracer", false, {}, "What is put in.", "\"dye\""},
      {"dose", "amount", Kind::quantity, &mass, "", true, {}, "How much, in the whole vessel.", "\"20 g\"", "above 0"},
      {"dose", "lower", Kind::quantities, &length, "none", false, {},
       "Lower corner of a box that it is put in.", "[\"0.1 m\", \"0.2 m\"]"},
      {"dose", "upper", Kind::quantities, &length, "none", false, {}, "Its upper corner.", "[\"0.2 m\", \"0.3 m\"]"},
      {"dose", "centre", Kind::quantities, &length, "none", false, {},
       "Instead: middle of a ball.", "[\"0.1 m\", \"0.2 m\"]"},
      {"dose", "diameter", Kind::quantity, &length, "", false, {}, "Of the ball.", "\"5 cm\"", "above 0"},
      {"dose", "time", Kind::quantity, &time, "0 s", false, {}, "When it begins.", "\"2 s\"", "0 or more"},
      {"dose", "lasts", Kind::quantity, &time, "0 s", false, {},
       "How long it takes, evenly; 0 s: all at once.", "\"0.5 s\"", "0 or more"},

      {"opening", "name", Kind::text, nullptr, "", true, {},
       "Your name for it: letters, digits and _.", "\"drain\""},
            {"opening", "side", Kind::choice, nullptr, "none", false, {"left", "right", "front", "back", "bottom", "top"},
       "The side of the vessel's outer box that it lies on. Each opening needs side or on.", "\"bottom\""},
      {"opening", "on", Kind::text, nullptr, "none", false, {},
       "Instead of side: an insert whose wall it lies on, or vessel for the wall of a shape. Its flow must be given.",
       "\"sparger\""},
      {"opening", "lower", Kind::quantities, &length, "all of the wall", false, {},
       "on: the wall between this corner and upper. spread = \"box\": its corner nearest to the origin.", "[\"0.2 m\", \"0.1 m\"]"},
      {"opening", "upper", Kind::quantities, &length, "", false, {},
       "on or spread: the opposite corner.", "[\"0.4 m\", \"0.2 m\"]"},
      {"opening", "centre", Kind::quantities, &length, "the middle of the side", false, {},
       "Its middle on that side: the coordinates along the side, in the order x, y, z (one in 2-D, two in 3-D). With on: "
       "the wall within the ball round this point, of the diameter given; with spread: the middle of the ball or ring.",
       "[\"0.6 m\"]"},
      {"opening", "diameter", Kind::quantity, &length, "", false, {},
       "Of a round nozzle. In 2-D it becomes a slot of the same area across vessel.thickness. Without diameter and "
       "size the whole side is open.", "\"5 cm\"", "above 0"},
      {"opening", "size", Kind::quantities, &length, "", false, {},
       "Of a rectangular opening, along the side's axes: one length in 2-D, two in 3-D.", "[\"10 cm\"]", "above 0"},
      {"opening", "stub", Kind::quantity, &length, "0 m on a box, else the opening's width", false, {},
       "Length of the nozzle's pipe beyond the vessel's outer box.", "\"8 cm\"", "0 m to 1 km"},
      {"opening", "speed", Kind::formula, &speed, "none", false, {},
       "Mean speed of what comes in; a formula of t.", "\"0.5 m/s\""},
      {"opening", "volume_flow", Kind::formula, &volume_flow, "none", false, {},
       "Volume flow in; a formula of t.", "\"12 L/min\""},
      {"opening", "standard_flow", Kind::formula, &volume_flow, "none", false, {},
       "Flow in of a gas of the built-in list, as its volume at 15 degC and 101.325 kPa; what flows is the same mass at the "
       "phase's density. A formula of t.", "\"20 m^3/h\""},
      {"opening", "mass_flow", Kind::formula, &mass_flow, "none", false, {},
       "Mass flow in; a formula of t.", "\"2 kg/min\""},
      {"opening", "vessel_volumes", Kind::formula, &shear_rate, "none", false, {},
       "Flow in as vessel volumes per time; a formula of t.", "\"0.5 1/min\""},
      {"opening", "direction", Kind::choice, nullptr, "in", false, {"in", "out"},
       "out: the flow given leaves the vessel instead.", "\"out\""},
      {"opening", "pressure", Kind::formula, &pressure, "0 Pa", false, {},
       "Pressure over that of the air outside, at rest. The fluid goes both ways.", "\"0 Pa\""},
      {"opening", "outside", Kind::choice, nullptr,
       "air; inside for the only opening with a pressure, where it lies on a side and below a fill", false,
       {"air", "inside", "liquid"},
       "With pressure: what is at rest outside, over the opening's height; the pressure holds at its middle. air: the "
       "open air, as below a drain or above a lid; inside: the same as stands inside, as in a pipe that goes on level; "
       "liquid: the denser phase.", "\"inside\""},
      {"opening", "outside_level", Kind::quantity, &length, "none", false, {},
       "With pressure, instead of outside: level of the denser phase outside, with the lighter one above it; the "
       "pressure holds at that level.", "\"0.3 m\""},
      {"opening", "balances", Kind::quantity, &length, "none", false, {},
       "Level of the denser phase, with model = \"eulerian\" of the carrier that phase names. The pressure outside is then what this level and the lighter phase above it, at rest, "
       "have here: nothing flows at that level, that phase leaves above it. Of two phases another opening must give "
       "a pressure.",
       "\"0.4 m\""},
      {"opening", "holds", Kind::text, nullptr, "none", false, {},
       "Name of a level gauge: this outlet lets out what stands above target.", "\"level\""},
      {"opening", "target", Kind::quantity, &length, "", false, {},
       "holds: the level to hold.", "\"0.3 m\""},
      {"opening", "full_at", Kind::quantity, &length, "a tenth of target", false, {},
       "holds: how far above target the outlet is fully open; below target it is shut.", "\"3 cm\"", "above 0"},
      {"opening", "most_flow", Kind::quantity, &volume_flow, "", false, {},
       "holds: flow of the fully open outlet.", "\"2 m^3/h\"", "above 0"},
      {"opening", "phase", Kind::text, nullptr, "of a given flow the denser phase, of a pressure what is at rest outside, with air the lighter one", false, {},
       "What comes in, or flows back.", "\"air\""},
      {"opening", "share", Kind::quantity, &number, "1", false, {},
       "Share of that phase in what comes in, by volume; the rest is the other one.", "0.9", "0 to 1"},
      {"opening", "tracers", Kind::names, nullptr, "none", false, {},
       "Tracers that come in, with concentrations; of others nothing does.", "[\"dye\"]"},
      {"opening", "concentrations", Kind::quantities, &concentration, "none", false, {},
       "Of each of tracers in what comes in of its phase.", "[\"2 g/L\"]", "0 or more"},
      {"opening", "phases", Kind::names, nullptr, "none", false, {},
       "model = \"eulerian\": the phases that come in together, with shares. Instead of phase and share.",
       "[\"water\", \"oil\"]"},
      {"opening", "shares", Kind::quantities, &number, "none", false, {},
       "Share of each of phases in what comes in, by volume; they add up to 1.", "[0.95, 0.05]", "0 to 1"},
      {"opening", "spread", Kind::choice, nullptr, "none", false, {"box", "ball", "ring"},
       "model = \"eulerian\": instead of side or on, a sparger or a feed whose holes are not resolved: what comes in is spread "
       "over a box (lower, upper), a ball (centre, diameter) or a level ring (centre, diameter, tube).", "\"ring\""},
      {"opening", "tube", Kind::quantity, &length, "", false, {},
       "spread = \"ring\": diameter of its tube; 'diameter' is that of the middle of the tube.", "\"3 cm\"", "above 0"},
      {"opening", "holes", Kind::whole_number, nullptr, "0", false, {},
       "3-D, spread = \"ring\": through so many places evenly round it, each a ball as wide as the tube, the first one "
       "towards +x; 0: all round it.", "12", "0 or more"},
      {"opening", "lets_out", Kind::choice, nullptr, "none", false, {"gas"},
       "model = \"eulerian\": a degassing surface. Gas leaves as fast as it arrives, liquids slip along it and stay; what a "
       "growing holdup pushes out of a full vessel leaves over it evenly.", "\"gas\""},
      {"opening", "profile", Kind::choice, nullptr, "plug", false, {"plug", "developed", "turbulent"},
       "Of a given flow. developed: that of laminar flow in a pipe or slot; turbulent: with the power 1/7 of the distance from "
       "the opening's edge.", "\"developed\""},

      {"opening", "turbulence_intensity", Kind::quantity, &number, "0.05", false, {},
       "With turbulence.law: fluctuations of what comes in, as a share of its speed.", "0.05", "0 to 1"},
      {"opening", "turbulence_length", Kind::quantity, &length, "7 % of the opening's extent", false, {},
       "With turbulence.law: size of the eddies in what comes in (mixing length).", "\"5 mm\"", "above 0"},

      {"vessel.walls", "all", Kind::choice, nullptr, "no-slip", false, {"no-slip", "slip"},
       "All walls that are not named below. no-slip: the fluid at the wall stands still, as real fluids do; slip: "
       "it glides without friction.", "\"no-slip\""},
      {"vessel.walls", "left", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "The wall at x = 0.", "\"slip\""},
      {"vessel.walls", "right", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "The wall at the greatest x.", "\"slip\""},
      {"vessel.walls", "front", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "3-D only: the wall at y = 0.", "\"slip\""},
      {"vessel.walls", "back", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "3-D only: the wall at the greatest y.", "\"slip\""},
      {"vessel.walls", "bottom", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "The wall at the bottom.", "\"slip\""},
      {"vessel.walls", "top", Kind::choice, nullptr, "as all", false, {"no-slip", "slip"},
       "The wall at the top, the lid.", "\"slip\""},

      {"turbulence", "law", Kind::choice, nullptr, "none", false, names_of(turbulence_laws(), {"none"}),
       "Law of turbulence: " + laws(turbulence_laws()) + "; none: laminar. Walls are met by the law of the wall at any distance of the "
       "first cell.", "\"k_epsilon\""},
      {"turbulence", "start_intensity", Kind::quantity, &number, "0.05", false, {},
       "Fluctuations at the start, as a share of start_speed.", "0.05", "0 to 1"},
      {"turbulence", "start_speed", Kind::quantity, &speed, "the fastest flow there is at the start", false, {},
       "Speed of which start_intensity is a share.", "\"1 m/s\"", "0 m/s or more"},
      {"turbulence", "start_length", Kind::quantity, &length, "7 % of the vessel's least extent", false, {},
       "Size of the eddies at the start (mixing length).", "\"20 mm\"", "above 0"},
      {"turbulence", "roughness", Kind::quantity, &length, "0 m: smooth", false, {},
       "Roughness of all walls, as the size of the sand that would be as rough.", "\"50 um\"", "0 m or more"},
      {"turbulence", "interface_damping", Kind::quantity, &number, "10", false, {},
       "model = \"sharp\", a law of k: how strongly the interface damps turbulence (Egorov 2004); 0: not at all, which "
       "lets turbulence grow in gas that a liquid's surface shears.", "10", "0 to 1000"},
      {"turbulence", "rotation_correction", Kind::choice, nullptr, "no", false, {"yes", "no"},
       "law = \"k_omega_sst\": rotation and curved flow still turbulence where angular momentum grows outwards, and stir it "
       "up where it falls (Spalart & Shur 1997; Smirnov & Menter 2009). For vats without baffles, cyclones, bends.",
       "\"yes\""},
      {"turbulence", "bodies_stir", Kind::choice, nullptr, "yes", false, {"yes", "no"},
       "model = \"eulerian\": bubbles and drops add to the eddy viscosity (Sato & Sekoguchi, Int. J. Multiphase Flow 2 (1975) "
       "79).", "\"no\""},

      {"grid", "cell", Kind::quantity, &length, "", true, {},
       "Side of a cell. The program takes the nearest size that divides the vessel evenly; check shows it. Half the "
       "size costs about 8 times as much in 2-D, 16 times in 3-D.", "\"12.5 mm\"", "above 0"},

      {"tables", "file", Kind::text, nullptr, "", true, {},
       "A CSV file with one header line, looked for beside the case file. Units may stand in brackets behind the "
       "names: t [s], ax [m/s^2].", "\"braking.csv\""},
      {"tables", "time", Kind::text, nullptr, "the first column", false, {},
       "Name of the column that holds the time (s unless the header gives a unit).", "\"t\""},
      {"tables", "value", Kind::text, nullptr, "the second column", false, {},
       "Name of the column that holds the value (SI unless the header gives a unit); linear between rows.", "\"ax\""},

      {"phase", "name", Kind::text, nullptr, "", true, {},
       "Your name for the phase: letters, digits and _.", "\"hydrosol\""},
      {"phase", "fluid", Kind::text, nullptr, "none: give density and viscosity", false, {},
       "A fluid of the built-in list (see: wavy fluids). Values given below take its values' place.", "\"water\""},
      {"phase", "temperature", Kind::quantity, &temperature, "20 degC", false, {},
       "Temperature at which the built-in fluid's values are taken.", "\"20 degC\""},
      {"phase", "density", Kind::quantity, &density, "the fluid's", false, {},
       "Mass per volume.", "\"998 kg/m^3\"", "above 0"},
      {"phase", "viscosity", Kind::quantity, &dynamic_viscosity, "the fluid's", false, {},
       "Dynamic viscosity. Give this or kinematic_viscosity.", "\"1 cP\"", "0 or more"},
      {"phase", "kinematic_viscosity", Kind::quantity, &kinematic_viscosity, "viscosity / density", false, {},
       "Kinematic viscosity: dynamic viscosity over density. Give this or viscosity.", "\"1 mm^2/s\"", "0 or more"},
      {"phase", "form", Kind::choice, nullptr, "carrier", false, {"carrier", "bubbles", "drops"},
       "model = \"eulerian\": carrier: continuous where it is plentiful; bubbles or drops: dispersed in the carriers.",
       "\"bubbles\""},
      {"phase", "diameter", Kind::quantity, &length, "none", false, {},
       "model = \"eulerian\": of its bubbles or drops, as spheres of their volume; of several carriers that of each where "
       "it is dispersed in the others.", "\"4 mm\"", "above 0"},
      {"phase", "diameters", Kind::quantities, &length, "none", false, {},
       "Of several size classes, each of which becomes a phase of its own: NAME_1, NAME_2 and so on. Gauges, fills and openings "
       "that say NAME mean all of them. Instead of diameter.", "[\"1 mm\", \"2 mm\"]", "above 0"},
      {"phase", "class_shares", Kind::quantities, &number, "all alike", false, {},
       "Share of each size class in the phase, by volume; they add up to 1.", "[0.3, 0.7]", "0 to 1"},
      {"phase", "closest_packing", Kind::quantity, &number, "1", false, {},
       "model = \"eulerian\": greatest share of a place that its bubbles or drops reach, together with those of all others "
       "with such a limit; below 1 what gathers keeps some of the carrier between them.", "0.64", "0.3 to 1"},
      {"phase", "measured_at", Kind::quantities, &temperature, "none", false, {},
       "Rising temperatures at which measured_viscosity was measured; the viscosity at phase.temperature follows "
       "from ln(viscosity) linear in 1/T.", "[\"20 degC\", \"60 degC\"]"},
      {"phase", "measured_viscosity", Kind::quantities, &dynamic_viscosity, "none", false, {},
       "Viscosities at the temperatures of measured_at, at least two. Instead of viscosity.", "[\"80 cP\", \"12 cP\"]", "above 0"},
      {"phase", "rheology", Kind::choice, nullptr, "newtonian", false,
       {"newtonian", "power-law", "carreau", "cross", "bingham", "herschel-bulkley", "formula"},
       "How the viscosity depends on the shear rate. power-law: viscosity (rate / reference_rate)^(exponent - 1). "
       "carreau and cross: from low_shear_viscosity to high_shear_viscosity round the rate 1 / shear_time. bingham: "
       "yield_stress and viscosity. herschel-bulkley: yield_stress and a power law. formula: viscosity_formula.",
       "\"power-law\""},
      {"phase", "exponent", Kind::quantity, &number, "1", false, {},
       "Exponent n of the shear stress in the shear rate: below 1 the fluid thins with shear, above 1 it thickens.",
       "0.6", "above 0"},
      {"phase", "reference_rate", Kind::quantity, &shear_rate, "1 1/s", false, {},
       "Shear rate at which a power law has the value given as viscosity. At 1 1/s that value is the consistency.",
       "\"1 1/s\"", "above 0"},
      {"phase", "shear_time", Kind::quantity, &time, "none", false, {},
       "Time whose inverse is the shear rate at which a carreau or cross fluid begins to thin.", "\"0.5 s\"", "above 0"},
      {"phase", "yield_stress", Kind::quantity, &pressure, "none", false, {},
       "Stress below which a bingham or herschel-bulkley fluid hardly flows.", "\"12 Pa\"", "above 0"},
      {"phase", "low_shear_viscosity", Kind::quantity, &dynamic_viscosity, "1000 times viscosity", false, {},
       "Viscosity at rest: of carreau and cross the plateau at low shear (must be given), of the others the "
       "greatest value.", "\"20 Pa.s\"", "0 or more"},
      {"phase", "high_shear_viscosity", Kind::quantity, &dynamic_viscosity,
       "0 Pa.s; of a power law a thousandth of viscosity", false,
       {},
       "Viscosity at high shear: of carreau and cross the plateau, of a power law the least value.", "\"5 cP\"", "0 or more"},
      {"phase", "viscosity_formula", Kind::text, nullptr, "none", false, {},
       "With rheology = formula: the dynamic viscosity in Pa.s as a formula of the shear rate, called rate, in 1/s.",
       "\"0.1 + 2 / (1 + (0.5 s * rate)^0.8)\""},

      {"pair", "between", Kind::names, nullptr, "the two phases", false, {},
       "Names of the two phases that are meant; of more than two it must be given.", "[\"oil\", \"water\"]"},
      {"pair", "surface_tension", Kind::quantity, &surface_tension, "0 N/m, in a line 72 mN/m", false, {},
       "Surface or interfacial tension between the phases. Matters where Bond and Weber numbers are below about 10: "
       "drops, bubbles, ripples of a few millimetres; it limits the time step.", "\"72 mN/m\"", "0 N/m to 1e6 N/m"},
      {"pair", "drag", Kind::choice, nullptr,
       "ishii_zuber; schiller_naumann where no surface tension is given", false, names_of(drag_laws(), {"constant"}),
       "model = \"eulerian\": law of the drag on bubbles or drops: " + laws(drag_laws()) + "; constant (drag_coefficient).",
       "\"grace\""},
      {"pair", "drag_coefficient", Kind::quantity, &number, "0.44", false, {},
       "drag = \"constant\": the drag coefficient of a sphere of the same volume.", "0.44", "above 0"},
      {"pair", "hindrance", Kind::choice, nullptr, "richardson_zaki with schiller_naumann, else none", false,
       names_of(hindrance_laws(), {"none"}),
       "How bubbles or drops slow down among others: " + laws(hindrance_laws()) + "; none: by the law of drag alone.",
       "\"richardson_zaki\""},
      {"pair", "swarm_exponent", Kind::quantity, &number, "0", false, {},
       "The drag coefficient is multiplied by (share of the carrier) to this power: below 0 bodies hinder each other.",
       "-1.3", "-10 to 10"},
      {"pair", "lift", Kind::choice, nullptr, "none", false, names_of(lift_laws(), {}),
       "Law of the force across a shear flow: " + laws(lift_laws()) + ".", "\"tomiyama\""},
      {"pair", "wall_lubrication", Kind::choice, nullptr, "none", false, names_of(wall_lubrication_laws(), {}),
       "Law of the force that pushes bubbles or drops off walls: " + laws(wall_lubrication_laws()) + ".", "\"antal\""},
      {"pair", "turbulent_dispersion", Kind::choice, nullptr, "favre with turbulence.law, else none", false,
       names_of(turbulent_dispersion_laws(), {"none"}),
       "Law of the force by which turbulence spreads bubbles or drops: favre (Burns et al., 5th Int. Conf. Multiphase Flow (2004), no. "
       "392), lopez_de_bertodano (Lopez de Bertodano, Nucl. Eng. Des. 179 (1998) 65; a law of k); none.", "\"favre\""},
      {"pair", "virtual_mass", Kind::quantity, &number, "0.5; between two carriers 0", false, {},
       "Share of the carrier's mass, by volume, that bubbles or drops set in motion with them.", "0.5", "0 to 5"},
      {"pair", "contact_angle", Kind::quantity, &angle, "90 deg", false, {},
       "Angle between wall and interface, measured in the denser phase: small where it wets the wall.",
       "\"60 deg\"", "5 deg to 175 deg"},
      {"pair", "slip_length", Kind::quantity, &length, "none: the angle is the same at any speed", false, {},
       "Makes the contact angle follow the speed of the contact line (Cox and Voinov): wider where the denser phase "
       "advances, narrower where it recedes. A molecular length, some nanometres.", "\"10 nm\"", "above 0"},

      {"fill", "phase", Kind::text, nullptr, "", false, {},
       "Name of the phase that fills the shape. Left out only where shape = \"run\" and that run was one of model = "
       "\"eulerian\": its phases are then taken by their names.", "\"hydrosol\""},
      {"fill", "share", Kind::quantity, &number, "1", false, {},
       "model = \"eulerian\": how much of the place the phase takes; what was there before keeps the rest.", "0.03",
       "above 0"},
      {"fill", "shape", Kind::choice, nullptr, "level", false, {"level", "box", "circle", "sphere", "drops", "polygon", "formula", "run"},
       "level: everything below a height; box: between two corners; circle (2-D) or sphere (3-D): round a centre; "
       "drops: many of them at random places, none touching; polygon: within corners; formula: where a formula is positive; run: where an "
       "earlier run had its denser phase at its end, with the velocities there; of a run of model = \"eulerian\" all its "
       "phases. Cells cut by the shape are filled in "
       "their exact part.",
       "\"level\""},
      {"fill", "level", Kind::quantity, &length, "", false, {},
       "shape = \"level\": height above the vessel's lowest point. With lower and upper: only between these "
       "corners, as on one side of a weir.", "\"0.4 m\""},
      {"fill", "volume", Kind::quantity, &volume, "", false, {},
       "shape = \"level\", instead of level: the volume that lies below it.", "\"300 L\"", "0 or more"},
      {"fill", "lower", Kind::quantities, &length, "", false, {},
       "The corner nearest to the origin of a box, or of the room for drops or for a level, which is the whole "
       "vessel when both corners are left out.", "[\"0 m\", \"0 m\"]"},
      {"fill", "upper", Kind::quantities, &length, "", false, {},
       "The opposite corner.", "[\"0.3 m\", \"0.5 m\"]"},
      {"fill", "centre", Kind::quantities, &length, "", false, {},
       "shape = \"circle\" or \"sphere\": its centre.", "[\"0.6 m\", \"0.5 m\"]"},
      {"fill", "diameter", Kind::quantity, &length, "", false, {},
       "shape = \"circle\" or \"sphere\": its diameter.", "\"10 cm\"", "above 0"},
      {"fill", "count", Kind::whole_number, nullptr, "", false, {},
       "shape = \"drops\": how many, 1 to 10000.", "40"},
      {"fill", "diameters", Kind::quantities, &length, "", false, {},
       "shape = \"drops\": their diameters, up to 20, which the drops have in turn.", "[\"4 mm\", \"6 mm\", \"8 mm\"]", "above 0"},
      {"fill", "seed", Kind::whole_number, nullptr, "1", false, {},
       "shape = \"drops\": another number gives other places; the same number the same ones, on every machine.", "7", "0 or more"},
      {"fill", "where", Kind::text, nullptr, "", false, {},
       "shape = \"formula\": a formula of x, y and z (m), positive in the phase; best of about the size of the distance "
       "to its edge.", "\"0.4 m + 3 cm * cos(pi * x / 1.2 m) - y\""},

      {"fill", "points", Kind::points, &length, "", false, {},
       "shape = \"polygon\": its corners; in 3-D in the plane across axis.",
       "[[\"0 m\", \"0 m\"], [\"1 m\", \"0 m\"], [\"1 m\", \"0.5 m\"]]"},
      {"fill", "axis", Kind::choice, nullptr, "y", false, {"x", "y", "z"},
       "3-D polygon: the axis along which it is carried.", "\"y\""},
      {"fill", "lower_end", Kind::quantity, &length, "0 m", false, {},
       "3-D polygon: where it begins along axis.", "\"0 m\""},
      {"fill", "upper_end", Kind::quantity, &length, "", false, {},
       "3-D polygon: where it ends along axis.", "\"0.6 m\""},
      {"fill", "from", Kind::text, nullptr, "", false, {},
       "shape = \"run\": a run folder (its last snapshot is taken) or a snapshot file, from the folder of this file. The "
       "grids need not agree; both count from the same origin. Tracers are taken by their names.", "\"tote.run\""},
      {"fill", "tracers", Kind::names, nullptr, "none", false, {},
       "Tracers that it brings in its phase, with concentrations; others are there as they start.", "[\"dye\"]"},
      {"fill", "concentrations", Kind::quantities, &concentration, "none", false, {},
       "Of each of tracers in what it lays of their phase.", "[\"2 g/L\"]", "0 or more"},

      {"motion", "gravity", Kind::formulas, &acceleration, "9.80665 m/s^2 downwards", false, {},
       "Gravity along each axis; a formula of t turns it with a tilting vessel.", "[\"0 m/s^2\", \"-9.80665 m/s^2\"]"},
      {"motion", "acceleration", Kind::formulas, &acceleration, "none", false, {},
       "Acceleration of the vessel along each axis, formulas of t. A van that drives towards +x and brakes has a "
       "negative one along x.", "[\"pulse(t, 0.2 s, 1.2 s, -3 m/s^2)\", \"0 m/s^2\"]"},

      {"gauge", "name", Kind::text, nullptr, "", true, {},
       "Heading of the gauge's column in history.csv: letters, digits and _.", "\"front_level\""},
      {"gauge", "measures", Kind::choice, nullptr, "", true, gauge_words(), gauge_meanings(), "\"level\""},
      {"gauge", "at", Kind::quantities, &length, "", false, {},
       "Where: the point for pressure and value, and about which a moment is; for a level its horizontal place (x in 2-D; x, y in "
       "3-D); in a line the distance from the leg's beginning.", "[\"1.19 m\"]"},
      {"gauge", "quantity", Kind::choice, nullptr, "", false, parts_and_means(),
       "measures = \"value\", \"least\", \"greatest\", \"mean\", \"percentile\" or \"uniformity\": of which field. Means "
       "over time (mean_, rms_) are read after the run, by wavy measure --gauge.", "\"speed\""},
      {"gauge", "percent", Kind::quantity, &number, "50", false, {},
       "measures = \"percentile\": of the zone's volume; 50 is the median.", "95", "0 to 100"},
      {"gauge", "lower", Kind::quantities, &length, "the whole vessel", false, {},
       "A zone: lower corner of a box. Where it is that of the upper corner along one axis, the zone is a plane, for flow, "
       "share and what is read of a quantity; along two axes a line.", "[\"0 m\", \"0 m\"]"},
      {"gauge", "upper", Kind::quantities, &length, "", false, {},
       "A zone: upper corner of a box.", "[\"0.5 m\", \"0.3 m\"]"},
      {"gauge", "centre", Kind::quantities, &length, "", false, {},
       "A zone: middle of a ball, in 2-D of a disc.", "[\"0.3 m\", \"0.2 m\"]"},
      {"gauge", "diameter", Kind::quantity, &length, "", false, {},
       "A zone: of the ball or disc.", "\"10 cm\"", "above 0"},
      {"gauge", "from", Kind::quantities, &length, "", false, {},
       "A zone of what is read of a quantity: first end of a straight line.", "[\"0 m\", \"0.2 m\"]"},
      {"gauge", "to", Kind::quantities, &length, "", false, {},
       "A zone of what is read of a quantity: other end of the line.", "[\"1.2 m\", \"0.2 m\"]"},
      {"gauge", "where", Kind::text, nullptr, "", false, {},
       "A zone: where this formula of x, y and z is positive.", "\"0.2 m - y\""},
      {"gauge", "formula", Kind::text, nullptr, "", false, {},
       "measures = \"formula\": of gauges that stand before it, by their names, and of time t. Its unit follows from theirs.",
       "\"torque * 40 rev/min\""},
      {"gauge", "phase", Kind::text, nullptr, "the denser phase", false, {},
       "measures = \"volume\", \"share\", \"flow\", \"reach\", \"pieces\" or \"largest_piece\": which phase. With model = "
       "\"eulerian\" also of a level: that of this phase and all denser ones.", "\"hydrosol\""},
      {"gauge", "wall", Kind::text, nullptr, "", false, {},
       "Of a force or a moment: \"vessel\" (all its walls), a side or an insert. Of least, greatest, mean, percentile and "
       "uniformity: a quantity on that wall, each piece by its area.", "\"weir\""},
      {"gauge", "along", Kind::choice, nullptr, "x", false, {"x", "y", "z"},
       "Of a force and of reach: the axis along which it counts.", "\"x\""},
      {"gauge", "about", Kind::choice, nullptr, "z", false, {"x", "y", "z"},
       "measures = \"moment\": direction of the axis, which runs through the point `at`; in 2-D always z.", "\"z\""},

      {"gauge", "agitator", Kind::text, nullptr, "the only agitator, all of it", false, {},
       "torque, shaft_power: name of an agitator or of one of its parts: an impeller, \"shaft\" or an insert; "
       "power_number (with the density of the densest phase), pumping_number (of mean velocities on rings): name of an "
       "impeller.", "\"stirrer\""},
      {"gauge", "response_time", Kind::quantity, &time, "none", false, {},
       "Of the instrument, in a vessel: its reading lags by this time (first order), so that what is shorter hardly shows, such "
       "as the blow of a splash that closes over a pocket of gas.", "\"20 ms\"", "above 0"},
      {"gauge", "leg", Kind::text, nullptr, "the first one; of liquid_held the whole line", false, {},
       "In a line: the leg that it is in.", "\"riser\""},

      {"line", "cell", Kind::quantity, &length, "a two-hundredth of the line, at least four a leg", false, {},
       "Length aimed at of the cells along the line. Half of it costs four times as much.", "\"5 m\"", "above 0"},
      {"line", "start", Kind::choice, nullptr, "steady", false, {"steady", "rest"},
       "steady: what the sources bring at time 0 flows steadily; rest: nothing moves, and legs hold what their holdup says.", "\"steady\""},
      {"line", "slugs", Kind::choice, nullptr, "average", false, {"average", "follow"},
       "average: in slug flow the gas drifts through the liquid, holdups are means; follow: slugs are bodies with a front and a "
       "tail that begin, grow, merge and die.", "\"follow\""},
      {"line", "slug_gas", Kind::choice, nullptr, "none", false, {"none", "gregory"},
       "Gas that followed slugs carry. gregory: 1 / (1 + (j / 8.66 m/s)^1.39) of them is liquid.", "\"gregory\""},
      {"line", "gas_compressibility", Kind::quantity, &number, "1", false, {},
       "Compressibility factor Z of the gas.", "0.92", "0.05 to 20"},
      {"line", "liquid_sound_speed", Kind::quantity, &speed, "1400 m/s", false, {},
       "Speed of sound of the liquid, by which it is compressed a little.", "\"1200 m/s\"", "10 m/s to 10000 m/s"},
      {"leg", "name", Kind::text, nullptr, "", true, {}, "Your name for it.", "\"riser\""},
      {"leg", "length", Kind::quantity, &length, "", false, {}, "Along the pipe.", "\"40 m\"", "above 0"},
      {"leg", "rise", Kind::quantity, &length, "0 m", false, {},
       "How much higher its end is than its beginning; negative where it falls. Or give angle.", "\"-2 m\""},
      {"leg", "angle", Kind::quantity, &angle, "none", false, {},
       "To the horizontal, positive where it rises. Instead of rise.", "\"-1 deg\""},
      {"leg", "profile", Kind::text, nullptr, "none", false, {},
       "CSV file with columns of horizontal distance and height, beside the case file. Instead of length and rise.", "\"survey.csv\""},
      {"leg", "diameter", Kind::quantity, &length, "", true, {}, "Inner diameter.", "\"80 mm\"", "above 0"},
      {"leg", "roughness", Kind::quantity, &length, "0 mm", false, {}, "Of the wall.", "\"0.05 mm\""},
      {"leg", "temperature", Kind::quantity, &temperature, "20 degC", false, {}, "Of the gas in it.", "\"60 degC\""},
      {"leg", "holdup", Kind::quantity, &number, "0", false, {},
       "line.start = \"rest\": share of the leg that the liquid fills at the start.", "0.3", "0 to 1"},
      {"leg", "into", Kind::text, nullptr, "the leg that follows in the file", false, {},
       "A later leg whose beginning this one leads into: branches that join name the same one.", "\"main\""},
      {"source", "name", Kind::text, nullptr, "", true, {}, "Your name for it.", "\"stills\""},
      {"source", "leg", Kind::text, nullptr, "the first one", false, {}, "The leg that it feeds.", "\"yard\""},
      {"source", "at", Kind::quantity, &length, "0 m", false, {}, "Distance from the leg's beginning.", "\"12 m\""},
      {"source", "liquid_mass_flow", Kind::formula, &mass_flow, "none", false, {}, "Liquid that comes in; a formula of t.", "\"0.4 kg/s\""},
      {"source", "liquid_volume_flow", Kind::formula, &volume_flow, "none", false, {}, "The same as a volume.", "\"1.5 m^3/h\""},
      {"source", "gas_mass_flow", Kind::formula, &mass_flow, "none", false, {}, "Gas that comes in; a formula of t.", "\"8 g/s\""},
      {"source", "gas_volume_flow", Kind::formula, &volume_flow, "none", false, {}, "The same as a volume at the pressure and temperature there.", "\"20 m^3/h\""},
      {"source", "gas_standard_flow", Kind::formula, &volume_flow, "none", false, {}, "The same as a volume at 15 degC and 101.325 kPa.", "\"25 m^3/h\""},
      {"valve", "name", Kind::text, nullptr, "", true, {}, "Your name for it.", "\"choke\""},
      {"valve", "leg", Kind::text, nullptr, "the last one", false, {}, "The leg that it is in.", "\"riser\""},
      {"valve", "at", Kind::quantity, &length, "the leg's end", false, {}, "Distance from the leg's beginning; it lies between two sections.", "\"40 m\""},
      {"valve", "opening", Kind::formula, &number, "", true, {},
       "Open share of the pipe's area, 0 to 1; a formula of t. With holds: at the start and while the gauge is on target.", "\"ramp(t, 60 s, 120 s, 1, 0.2)\""},
      {"valve", "holds", Kind::text, nullptr, "none", false, {},
       "Name of a gauge of pressure, holdup, flow or liquid_held: a controller moves the valve to hold it.", "\"foot\""},
      {"valve", "target", Kind::text, nullptr, "", false, {}, "holds: the value to hold, in a unit of the gauge.", "\"2.4 bar\""},
      {"valve", "band", Kind::text, nullptr, "", false, {},
       "holds: how far the gauge must be off target to move the valve from shut to open (proportional band).", "\"0.5 bar\"", "above 0"},
      {"valve", "opens_on", Kind::choice, nullptr, "rise", false, {"rise", "fall"},
       "holds: whether it opens as the gauge rises or as it falls.", "\"rise\""},
      {"valve", "reset", Kind::quantity, &time, "none", false, {},
       "holds: time in which integral action repeats the proportional one (reset time); without it there is proportional action alone.", "\"2 min\"", "above 0"},
      {"valve", "travel", Kind::quantity, &time, "10 s", false, {}, "holds: the valve's time from shut to open.", "\"20 s\"", "above 0"},
      {"valve", "least", Kind::quantity, &number, "0", false, {}, "holds: least opening.", "0.01", "0 to 1"},
      {"valve", "most", Kind::quantity, &number, "1", false, {}, "holds: greatest opening.", "0.6", "0 to 1"},
      {"valve", "coefficient", Kind::quantity, &number, "0.84", false, {}, "Coefficient of discharge of what is open.", "0.84"},
      {"outlet", "end", Kind::choice, nullptr, "open", false, {"open", "closed"}, "closed: nothing leaves.", "\"open\""},
      {"outlet", "pressure", Kind::formula, &pressure, "", false, {}, "Absolute pressure behind the outlet; a formula of t. Gas may come back in.", "\"1.2 bar\""},

      {"run", "until", Kind::quantity, &time, "", true, {},
       "Time at which the run ends; it starts at 0.", "\"8 s\""},
      {"run", "snapshot_interval", Kind::quantity, &time, "a twentieth of until", false, {},
       "How often all fields are kept for pictures. The time step lands exactly on these times.", "\"0.1 s\"", "above 0"},
      {"run", "largest_step", Kind::quantity, &time, "none", false, {},
       "Ceiling on the time step, which is otherwise chosen by the program.", "\"10 ms\"", "above 0"},
      {"run", "smallest_step", Kind::quantity, &time, "1 ns", false, {},
       "A run whose time step falls below this has failed and stops.", "\"1 us\"", "above 0"},
      {"run", "checkpoint_interval", Kind::quantity, &time, "10 min", false, {},
       "How often, by the clock on the wall, a run keeps all that it needs to go on (wavy resume); it does so at its "
       "end and on Ctrl-C too. 0 s: in every step.", "\"2 min\"", "0 or more"},
      {"run", "end_when_settled", Kind::names, nullptr, "none", false, {},
       "Gauges (columns of history.csv): the run ends when all of them have settled, at run.until at the latest, and "
       "says which was last. Settled: means over stretches of time no longer drift, and stay so while the run grows by a "
       "tenth; readings may still swing about them. What has never changed has not settled.", "[\"load\", \"front\"]"},
      {"run", "end_not_before", Kind::quantity, &time, "a tenth of until", false, {},
       "Earliest end by end_when_settled: past whatever is still to come, such as a valve that opens.", "\"5 s\"", "0 or more"},
      {"run", "means_from", Kind::quantity, &time, "none", false, {},
       "Of a vessel: from this time on snapshots keep the mean over time of every quantity, and the root mean square of "
       "what swings about it: mean_speed, rms_pressure and so on, for draw, film, measure and export.", "\"5 s\"", "0 or more"},
      {"run", "courant", Kind::quantity, &number, "0.4", false, {},
       "Greatest share of a cell that the fluid crosses in one step, summed over the axes; 0.05 to 0.5.", "0.4", "0.05 to 0.9"},
      {"run", "projection_tolerance", Kind::quantity, &number, "1e-6", false, {},
       "Greatest volume error of a cell in one step that the pressure solver may leave, as a share of the cell. The "
       "phases' volumes are kept to round-off whatever it is.", "1e-6", "1e-13 to 1e-3"},
  };
  return list;
}

// clang-format on

}  // namespace wavy
