#include "case/keys.hpp"

#include <fmt/format.h>

#include "base/text.hpp"

namespace wavy {

// clang-format off: one entry of the table reads best in a line or two.
const std::vector<Section>& sections() {
  static const std::vector<Section> list{
      {"", false, "What the case is."},
      {"vessel", false,
       "The space that holds the fluids. Its lower corner is the origin; the last axis (y in 2-D, z in 3-D) points "
       "up."},
      {"vessel.walls", false, "How the fluids meet the walls."},
      {"grid", false, "How finely the vessel is divided. There is no mesh to make."},
      {"constants", false, "Names of your own for use in formulas: name = \"value with unit\"."},
      {"tables", false, "Tables of time from CSV files for use in formulas: [tables.name] makes name(t)."},
      {"phase", true, "The two phases. The denser one is followed as the liquid."},
      {"pair", false, "What acts between the two phases."},
      {"fill", true,
       "Where the phases are at the start. The vessel is full of the lighter phase; each fill is laid over what is "
       "already there."},
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
  static const std::vector<Key> list{
      {"",
       "wavy",
       Kind::whole_number,
       nullptr,
       "",
       true,
       {},
       "Format of this file. Later versions of the program go on reading format 1.",
       "1"},
      {"",
       "title",
       Kind::text,
       nullptr,
       "untitled",
       false,
       {},
       "A line for pictures and tables.",
       "\"Hydrosol tote on a braking van\""},
      {"",
       "model",
       Kind::choice,
       nullptr,
       "sharp",
       false,
       {"sharp"},
       "How the phases are treated. sharp: two phases that do not mix, with a sharp interface between them (volume of "
       "fluid).",
       "\"sharp\""},
      {"vessel", "shape", Kind::choice, nullptr, "box", false, {"box"}, "The vessel's shape.", "\"box\""},
      {"vessel",
       "size",
       Kind::quantities,
       &length,
       "",
       true,
       {},
       "Extent along each axis: two lengths for a 2-D section (width, height), three for 3-D (length, breadth, "
       "height).",
       "[\"1.2 m\", \"0.8 m\"]"},
      {"vessel",
       "thickness",
       Kind::quantity,
       &length,
       "1 m",
       false,
       {},
       "2-D only: extent across the section. Volumes and forces are given for this thickness.",
       "\"1 m\""},
      {"vessel.walls",
       "all",
       Kind::choice,
       nullptr,
       "no-slip",
       false,
       {"no-slip", "slip"},
       "All walls that are not named below. no-slip: the fluid at the wall stands still, as real fluids do; slip: it "
       "glides without friction.",
       "\"no-slip\""},
      {"vessel.walls",
       "left",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "The wall at x = 0.",
       "\"slip\""},
      {"vessel.walls",
       "right",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "The wall at the greatest x.",
       "\"slip\""},
      {"vessel.walls",
       "front",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "3-D only: the wall at y = 0.",
       "\"slip\""},
      {"vessel.walls",
       "back",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "3-D only: the wall at the greatest y.",
       "\"slip\""},
      {"vessel.walls",
       "bottom",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "The wall at the bottom.",
       "\"slip\""},
      {"vessel.walls",
       "top",
       Kind::choice,
       nullptr,
       "as all",
       false,
       {"no-slip", "slip"},
       "The wall at the top, the lid.",
       "\"slip\""},
      {"grid",
       "cell",
       Kind::quantity,
       &length,
       "",
       true,
       {},
       "Side of a cell. The program takes the nearest size that divides the vessel evenly; check shows it. Half the "
       "size costs about 8 times as much in 2-D, 16 times in 3-D.",
       "\"12.5 mm\""},
      {"tables",
       "file",
       Kind::text,
       nullptr,
       "",
       true,
       {},
       "A CSV file with one header line, looked for beside the case file. Units may stand in brackets behind the "
       "names: t [s], ax [m/s^2].",
       "\"braking.csv\""},
      {"tables",
       "time",
       Kind::text,
       nullptr,
       "the first column",
       false,
       {},
       "Name of the column that holds the time (s unless the header gives a unit).",
       "\"t\""},
      {"tables",
       "value",
       Kind::text,
       nullptr,
       "the second column",
       false,
       {},
       "Name of the column that holds the value (SI unless the header gives a unit); linear between rows.",
       "\"ax\""},
      {"phase",
       "name",
       Kind::text,
       nullptr,
       "",
       true,
       {},
       "Your name for the phase: letters, digits and _.",
       "\"hydrosol\""},
      {"phase",
       "fluid",
       Kind::text,
       nullptr,
       "none: give density and viscosity",
       false,
       {},
       "A fluid of the built-in list (see: wavy fluids). Values given below take its values' place.",
       "\"water\""},
      {"phase",
       "temperature",
       Kind::quantity,
       &temperature,
       "20 degC",
       false,
       {},
       "Temperature at which the built-in fluid's values are taken.",
       "\"20 degC\""},
      {"phase", "density", Kind::quantity, &density, "the fluid's", false, {}, "Mass per volume.", "\"998 kg/m^3\""},
      {"phase",
       "viscosity",
       Kind::quantity,
       &dynamic_viscosity,
       "the fluid's",
       false,
       {},
       "Dynamic viscosity. Give this or kinematic_viscosity.",
       "\"1 cP\""},
      {"phase",
       "kinematic_viscosity",
       Kind::quantity,
       &kinematic_viscosity,
       "viscosity / density",
       false,
       {},
       "Kinematic viscosity: dynamic viscosity over density. Give this or viscosity.",
       "\"1 mm^2/s\""},
      {"pair",
       "surface_tension",
       Kind::quantity,
       &surface_tension,
       "none: 0 N/m",
       false,
       {},
       "Surface or interfacial tension between the phases. Matters where Bond and Weber numbers are below about 10: "
       "drops, bubbles, ripples of a few millimetres; it limits the time step.",
       "\"72 mN/m\""},
      {"fill", "phase", Kind::text, nullptr, "", true, {}, "Name of the phase that fills the shape.", "\"hydrosol\""},
      {"fill",
       "shape",
       Kind::choice,
       nullptr,
       "level",
       false,
       {"level", "box", "circle", "sphere"},
       "level: everything below a height; box: between two corners; circle (2-D) or sphere (3-D): round a centre. "
       "Cells cut by the shape are filled in their exact part.",
       "\"level\""},
      {"fill",
       "level",
       Kind::quantity,
       &length,
       "",
       false,
       {},
       "shape = \"level\": height above the vessel's floor.",
       "\"0.4 m\""},
      {"fill",
       "lower",
       Kind::quantities,
       &length,
       "",
       false,
       {},
       "shape = \"box\": the corner nearest to the origin.",
       "[\"0 m\", \"0 m\"]"},
      {"fill",
       "upper",
       Kind::quantities,
       &length,
       "",
       false,
       {},
       "shape = \"box\": the opposite corner.",
       "[\"0.3 m\", \"0.5 m\"]"},
      {"fill",
       "centre",
       Kind::quantities,
       &length,
       "",
       false,
       {},
       "shape = \"circle\" or \"sphere\": its centre.",
       "[\"0.6 m\", \"0.5 m\"]"},
      {"fill",
       "diameter",
       Kind::quantity,
       &length,
       "",
       false,
       {},
       "shape = \"circle\" or \"sphere\": its diameter.",
       "\"10 cm\""},
      {"motion",
       "gravity",
       Kind::formulas,
       &acceleration,
       "9.80665 m/s^2 downwards",
       false,
       {},
       "Gravity along each axis; a formula of t turns it with a tilting vessel.",
       "[\"0 m/s^2\", \"-9.80665 m/s^2\"]"},
      {"motion",
       "acceleration",
       Kind::formulas,
       &acceleration,
       "none",
       false,
       {},
       "Acceleration of the vessel along each axis, formulas of t. A van that drives towards +x and brakes has a "
       "negative one along x.",
       "[\"pulse(t, 0.2 s, 1.2 s, -3 m/s^2)\", \"0 m/s^2\"]"},
      {"gauge",
       "name",
       Kind::text,
       nullptr,
       "",
       true,
       {},
       "Heading of the gauge's column in history.csv: letters, digits and _.",
       "\"front_level\""},
      {"gauge",
       "measures",
       Kind::choice,
       nullptr,
       "",
       true,
       {"level", "pressure", "volume", "greatest_speed"},
       "level: height of the denser phase over the floor along an upright line, gas pockets left out; pressure: at a "
       "point, over the mean of the lighter phase; volume: of a phase; greatest_speed: of all cells.",
       "\"level\""},
      {"gauge",
       "at",
       Kind::quantities,
       &length,
       "",
       false,
       {},
       "Where: the point for pressure; for a level its horizontal place (x in 2-D; x, y in 3-D).",
       "[\"1.19 m\"]"},
      {"gauge",
       "phase",
       Kind::text,
       nullptr,
       "the denser phase",
       false,
       {},
       "measures = \"volume\": which phase.",
       "\"hydrosol\""},
      {"run", "until", Kind::quantity, &time, "", true, {}, "Time at which the run ends; it starts at 0.", "\"8 s\""},
      {"run",
       "snapshot_interval",
       Kind::quantity,
       &time,
       "a twentieth of until",
       false,
       {},
       "How often all fields are kept for pictures. The time step lands exactly on these times.",
       "\"0.1 s\""},
      {"run",
       "largest_step",
       Kind::quantity,
       &time,
       "none",
       false,
       {},
       "Ceiling on the time step, which is otherwise chosen by the program.",
       "\"10 ms\""},
      {"run",
       "smallest_step",
       Kind::quantity,
       &time,
       "1 ns",
       false,
       {},
       "A run whose time step falls below this has failed and stops.",
       "\"1 us\""},
      {"run",
       "courant",
       Kind::quantity,
       &number,
       "0.4",
       false,
       {},
       "Greatest share of a cell that the fluid crosses in one step, summed over the axes; 0.05 to 0.5.",
       "0.4"},
      {"run",
       "projection_tolerance",
       Kind::quantity,
       &number,
       "1e-7",
       false,
       {},
       "Greatest volume error of a cell in one step that the pressure solver may leave, as a share of the cell. The "
       "phases' volumes are kept to round-off whatever it is.",
       "1e-7"},
  };
  return list;
}

const std::vector<Topic>& topics() {
  static const std::vector<Topic> list{
      {"case", "One simulation, described in one TOML file: vessel, phases, fill, motion, gauges, run."},
      {"run folder",
       "What one run writes: case.toml (as run, with all defaults), history.csv (gauges in every step, units in the "
       "header), snapshots/ with snapshots.pvd (all fields, one time series that VTK viewers open), summary.json (the "
       "ledger for scripts), log.txt, figures/."},
      {"ledger",
       "What a run says about its own quality: volume of each phase at the start, in, out and now; drift (the part of "
       "a change that no opening explains); greatest divergence; how smeared the interface is; which limits ruled the "
       "time step; effort of the pressure solver; wall time per cell and step."},
      {"drift",
       "Relative change of a phase's volume that no opening explains. The interface is moved so that it stays at the "
       "round-off of the computer."},
      {"smeared",
       "Share of the denser phase that sits in partly filled cells more than one cell away from the interface: a sharp "
       "interface has next to none; spray finer than the cells shows here."},
      {"divergence",
       "Volume that a cell gains or loses in one step because the pressure equation is solved to a tolerance "
       "(run.projection_tolerance), as a share of the cell."},
      {"sharp model",
       "Two phases with one velocity and one pressure; the interface is a plane in each cell it crosses (mixed "
       "Youngs-centred normals) and is moved geometrically with exact volumes (Weymouth & Yue 2010); momentum moves "
       "with the same mass (Rudman 1998; Arrufat et al. 2021); viscosity is implicit; gravity acts at the interface so "
       "that a liquid at rest stays at rest; surface tension takes its curvature from height functions and is balanced "
       "by the pressure in the same way; the pressure is found by conjugate gradients with multigrid."},
      {"time step",
       "Chosen in every step: fluid crosses at most run.courant of a cell; short gravity and capillary waves stay "
       "stable; it grows by at most a quarter from step to step and lands on the snapshot times."},
      {"kinematic viscosity",
       "Dynamic viscosity over density; 1 mm2/s = 1 cSt. Water at 20 degC: 1.0 mm2/s; air: 15 mm2/s."},
      {"pressure",
       "Pressures are over the mean pressure of the lighter phase. Pictures show it with the hydrostatic part "
       "(pressure) and without it (dynamic_pressure)."},
      {"snapshot",
       "All fields at one time: phase fraction (share of the denser phase in each cell), velocity, pressure, "
       "dynamic_pressure."},
      {"history", "The gauges' values in every time step, in history.csv."},
      {"formula",
       "A value that depends on time: \"-3 m/s^2 * sin(2*pi*t / 1.4 s)\". Numbers with a unit are turned into SI, bare "
       "numbers are taken as SI. Functions: ramp, step, pulse, sin, cos, tan, exp, sqrt, abs, min, max, ln, log10, "
       "tanh; your [constants] and [tables]."},
  };
  return list;
}

// clang-format on

const Key* find_key(std::string_view section, std::string_view name) {
  for (const auto& key : keys())
    if (key.section == section && key.name == name) return &key;
  return nullptr;
}

std::vector<std::string> key_names(std::string_view section) {
  std::vector<std::string> names;
  for (const auto& key : keys())
    if (key.section == section) names.push_back(key.name);
  return names;
}

std::string allowed_values(const Key& key) {
  std::string text;
  switch (key.kind) {
    case Kind::text:
      text = "text";
      break;
    case Kind::choice: {
      std::vector<std::string> quoted;
      for (const auto& choice : key.choices) quoted.push_back("\"" + choice + "\"");
      text = quoted.size() == 1 ? quoted.front() + " (more to come)" : listing(quoted);
      break;
    }
    case Kind::quantity:
      text = std::string(key.dimension->name);
      break;
    case Kind::quantities:
      text = fmt::format("{} per axis", key.dimension->name);
      break;
    case Kind::formulas:
      text = fmt::format("{} per axis, as a quantity or a formula", key.dimension->name);
      break;
    case Kind::whole_number:
      text = "whole number";
      break;
  }
  if (key.kind != Kind::choice && !key.example.empty()) text += ", for example " + key.example;
  if (!key.standard.empty()) text += "; left out: " + key.standard;
  return text;
}

}  // namespace wavy
