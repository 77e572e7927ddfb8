// Words that are no keys but that users ask about, and the laws of bubbles and drops.
#include <fmt/format.h>

#include "base/formula_dimensions.hpp"
#include "base/text.hpp"
#include "case/keys.hpp"
#include "physics/bubbles_and_drops.hpp"
#include "physics/turbulence.hpp"
#include "run/quantities.hpp"

namespace wavy {

namespace {

std::string function_list() {
  std::vector<std::string> names;
  for (const auto& function : formula_functions()) names.push_back(function.name);
  return listing(names, "and");
}

/// The topics and every law of bubbles and drops, by its name; of forces with their word before it.
std::vector<Topic> with_closures(std::vector<Topic> list) {
  const auto add = [&](const std::string& before, const std::string& what, const auto& table) {
    for (const auto& law : table)
      list.push_back(
          {fmt::format("{}{}", before, law.name),
           fmt::format("{}: {}. {}. For {}. In it Re = rho_c |slip| d / mu_c, Eo = |rho_c - rho_d| g d^2 / sigma and "
                       "a is the share of all bodies.",
                       what, law.equation, law.source, law.range)});
  };
  add("", "Drag coefficient of bubbles or drops (pair.drag)", drag_laws());
  add("", "Terminal slip among others over that of one alone (pair.hindrance)", hindrance_laws());
  add("lift ", "Lift coefficient (pair.lift)", lift_laws());
  add("wall_lubrication ",
      "Force off a wall at a distance y, C rho_c a |slip along the wall|^2 (pair.wall_lubrication), C in 1/m",
      wall_lubrication_laws());
  for (const auto& law : turbulence_laws())
    list.push_back({std::string(law.name), fmt::format("Law of turbulence (turbulence.law): {}. {}. For {}.",
                                                       law.equation, law.source, law.range)});
  for (const auto& law : turbulent_dispersion_laws())
    list.push_back({fmt::format("turbulent_dispersion {}", law.name),
                    fmt::format("Force by which turbulence spreads bubbles or drops (pair.turbulent_dispersion), per "
                                "volume -D grad a: {}. {}.",
                                law.equation, law.source)});
  return list;
}

std::string quantity_meanings() {
  std::vector<std::string> list;
  for (const auto& quantity : vessel_quantities())
    if (quantity.length_of.empty())
      list.push_back(fmt::format("{}{} ({})", quantity.name,
                                 quantity.unit == "1" ? "" : fmt::format(" [{}]", quantity.unit), quantity.meaning));
  return listing(list, "and");
}

}  // namespace

// An entry of the table reads best in two or three lines.
// clang-format off
const std::vector<Topic>& topics() {
  static const std::vector<Topic> list = with_closures({
      {"case", "One simulation, described in one TOML file: vessel, phases, fill, motion, gauges, run."},
      {"run folder",
       "What one run writes: case.toml (as run, with all defaults), history.csv (gauges in every step, units in the "
       "header), snapshots/ with snapshots.pvd (all fields, one time series that VTK viewers open), summary.json (the "
       "ledger for scripts), log.txt, figures/, and checkpoint.h5 with the one before it: all that the run needs "
       "to go on (wavy resume), kept now and then, at the end and on Ctrl-C."},
      {"resume",
       "A run that was stopped, killed or has reached its end goes on from its newest checkpoint, to the same bits as if it "
       "had not stopped; --until names a later end. Of its case.toml these may change: run.until, largest_step, "
       "smallest_step, snapshot_interval, checkpoint_interval, end_when_settled, end_not_before, and gauges, but for those by which something is held or that "
       "write down slugs. With other gauges the history goes on in other columns, empty where nothing was measured; the "
       "history so far is kept as history-until-TIME.csv."},
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
      {"eulerian model",
       "Two to six phases that share one pressure, each with its share of every cell and its own velocity: bubbles and drops too "
       "many and too small to be followed one by one, and layers. Fractions move by limited second-order fluxes, bounded and "
       "adding up to 1 to round-off; drag is implicit and of all phases at once; where a fraction jumps there is a layer, whose "
       "level surface is found so that it stays at rest. Turbulence is that of the mixture ([turbulence]); without a law plumes "
       "hold together longer than in life. There is no breakage or coalescence: sizes stay what they are. A run may begin where one of either model has ended "
       "(fill.shape = \"run\")."},
      {"time step",
       "Chosen in every step: fluid crosses at most run.courant of a cell; short gravity and capillary waves stay "
       "stable; it grows by at most a quarter from step to step and lands on the snapshot times."},
      {"kinematic viscosity",
       "Dynamic viscosity over density; 1 mm2/s = 1 cSt. Water at 20 degC: 1.0 mm2/s; air: 15 mm2/s."},
      {"pressure",
       "Pressures are over the mean pressure of the lighter phase. Pictures show it with the hydrostatic part "
       "(pressure) and without it (dynamic_pressure)."},
      {"snapshot",
       "All fields at one time: " + quantity_meanings() + "."},
      {"history", "The gauges' values in every time step, in history.csv."},
      {"formula",
       "A value that depends on time: \"-3 m/s^2 * sin(2*pi*t / 1.4 s)\". Numbers with a unit are turned into SI, and what "
       "is added, compared or wanted must measure the same; bare numbers are taken as SI. A formula may use t, x, y, z, "
       "pi, your [constants] and [tables], and the functions " + function_list() + "."},
  });
  return list;
}

// clang-format on

}  // namespace wavy
