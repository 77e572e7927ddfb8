// Solids that turn and move in the fluid: torque, drag, power of impellers.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "case/scenarios.hpp"
#include "geometry/solids.hpp"
#include "run/agitators.hpp"
#include "run/mixing.hpp"
#include "sharp/model.hpp"
#include "validation/case_run.hpp"
#include "validation/part_and_whole.hpp"
#include "validation/validation.hpp"

namespace wavy {
namespace {

constexpr double pi = std::numbers::pi;

/// One liquid that fills everything, without gravity.
sharp::Settings<2> one_liquid(double density, double viscosity) {
  sharp::Settings<2> settings;
  settings.liquid = {density, viscosity};
  settings.gas = {1.2, 1.8e-5};
  settings.body_force = [](double) { return Vec<2>{}; };
  return settings;
}

template <class Fn>
void advance(sharp::Model<2>& model, double until, double largest, Fn&& each) {
  for (double& F : model.state().F.data()) F = 1;
  model.start();
  while (model.state().time < until * (1 - 1e-12)) {
    sharp::StepLimit limit{};
    const double dt = std::min({model.stable_step(limit), largest, until - model.state().time});
    model.step(dt);
    each(dt);
  }
}

/// Torque over that of Couette's flow, and greatest error of the speed over that of the rod, for a rod that turns in a
/// drum of twice its radius, so many cells across.
std::array<double, 2> turning_rod(int cells) {
  constexpr double R = 0.1;
  constexpr double r = 0.05;
  constexpr double mu = 5;
  constexpr double omega = 2;
  const Grid<2> grid = grid_over<2>({0, 0}, {2 * R, 2 * R}, 2 * R / cells);
  sharp::Settings<2> settings = one_liquid(1000, mu);
  settings.turning.shafts = {[](double t) {
    Pose<2> pose;
    pose.angle = omega * t;
    pose.motion = {{}, {0, 0, omega}, {R, R}};
    return pose;
  }};
  settings.turning.parts = {{ball_solid<2>({R, R}, r), 0}};
  const Solid<2> drum = ball_solid<2>({R, R}, R);
  sharp::Model<2> model(grid, settings, OpenSpace<2>(grid, &drum, {}, {}, false));
  constexpr double viscous_times = 1.2;
  advance(model, viscous_times * R * R * 1000 / mu / 2, 1, [](double) {});
  const double a = -omega * r * r / (R * R - r * r);
  double worst = 0;
  for_cells_in_order<2>(grid, [&](int b, std::ptrdiff_t o, const Index<2>& cell) {
    const double x = (cell[0] + 0.5) * grid.spacing()[0] - R;
    const double y = (cell[1] + 0.5) * grid.spacing()[1] - R;
    const double from_axis = std::hypot(x, y);
    if (from_axis > R - 2 * grid.spacing()[0]) return;
    const double exact = from_axis < r ? omega * from_axis : a * from_axis - a * R * R / from_axis;
    const double speed = (x * model.state().u[1].block(b)[o] - y * model.state().u[0].block(b)[o]) / from_axis;
    worst = std::max(worst, std::abs(speed - exact) / (omega * r));
  });
  const double torque = 4 * pi * mu * omega * r * r * R * R / (R * R - r * r);
  return {model.turning_solids().loads()[0].moment[2] / torque, worst};
}

ValidationResult rod_in_drum(bool) {
  ValidationResult result;
  const auto coarse = turning_rod(24);
  const auto fine = turning_rod(48);
  result.findings.push_back(close("torque over Couette's, 48 cells across the drum", fine[0], 1, 0.02));
  result.findings.push_back(
      at_least("order of the torque, 24 to 48 cells", std::log2(std::abs(coarse[0] - 1) / std::abs(fine[0] - 1)), 1));
  result.findings.push_back(small("greatest error of the speed over the rod's, 48 cells", fine[1], 0.02));
  return result;
}

/// Coefficients of drag and of inertia (Morison et al. 1950) of a cylinder that swings in fluid at rest, from its
/// fourth swing on.
std::array<double, 2> swinging_cylinder(int cells_across) {
  constexpr double d = 0.1;
  constexpr double keulegan = 5;
  constexpr double reynolds = 100;
  constexpr double speed = 1;
  constexpr double period = keulegan * d / speed;
  constexpr double omega = 2 * pi / period;
  constexpr double rho = 1000;
  constexpr Vec<2> size{14 * d, 10.5 * d};
  const Grid<2> grid = grid_over<2>({0, 0}, size, d / cells_across);
  sharp::Settings<2> settings = one_liquid(rho, rho * speed * d / reynolds);
  for (auto& axis : settings.walls) axis = {Wall::slip, Wall::slip};
  // Not on a line of the grid: it would see itself in it.
  const Vec<2> middle{0.5 * size[0] + 0.013 * d, 0.5 * size[1] + 0.007 * d};
  settings.turning.shafts = {[middle](double t) {
    Pose<2> pose;
    pose.shift = {-speed / omega * std::sin(omega * t), 0};
    pose.motion = {{-speed * std::cos(omega * t), 0}, {}, middle};
    return pose;
  }};
  settings.turning.parts = {{ball_solid<2>(middle, 0.5 * d), 0}};
  sharp::Model<2> model(grid, settings);
  double aa = 0;
  double ab = 0;
  double bb = 0;
  double fa = 0;
  double fb = 0;
  constexpr double swings = 5;
  advance(model, swings * period, period / 100, [&](double dt) {
    const double t = model.state().time - 0.5 * dt;
    if (t < (swings - 2) * period) return;
    const double force = -model.turning_solids().loads()[0].force[0];
    const double u = -speed * std::cos(omega * t);
    const double drag = -0.5 * rho * d * std::abs(u) * u;
    const double inertia = -0.25 * pi * rho * d * d * speed * omega * std::sin(omega * t);
    aa += drag * drag * dt;
    ab += drag * inertia * dt;
    bb += inertia * inertia * dt;
    fa += force * drag * dt;
    fb += force * inertia * dt;
  });
  const double determinant = aa * bb - ab * ab;
  return {(fa * bb - fb * ab) / determinant, (fb * aa - fa * ab) / determinant};
}

ValidationResult cylinder_in_fluid_at_rest(bool) {
  ValidationResult result;
  const auto found = swinging_cylinder(24);
  result.findings.push_back(close("coefficient of drag, KC 5, Re 100, 24 cells across", found[0], 2.09, 0.06));
  result.findings.push_back(close("coefficient of inertia", found[1], 1.45, 0.06));
  return result;
}

std::string numbers() {
  return gauge_text("power_number", "power_number") + gauge_text("pumping_number", "pumping_number");
}

/// A vessel with an impeller on a shaft, in liquid under air; lengths in metres.
struct Stirred {
  std::string vessel = "shape = \"cylinder\"\ndiameter = \"0.3 m\"\nlength = \"0.3 m\"\n";
  std::string speed{};
  std::string kind = "paddle";
  double diameter = 0;
  double clearance = 0;
  double blade_thickness = 0;
  double viscosity = 0;  // [Pa s]
  double level = 0.3;
  double cell = 0;
  double until = 0;    // [s]
  std::string run{};   // more keys of the run
  std::string more{};  // sections: baffles, turbulence

  [[nodiscard]] std::string text() const {
    return fmt::format(R"(wavy = 1
[vessel]
{}[grid]
cell = "{} m"
[[phase]]
name = "liquid"
density = "1000 kg/m^3"
viscosity = "{} Pa s"
[[phase]]
name = "air"
fluid = "air"
[[agitator]]
speed = "{}"
[[impeller]]
kind = "{}"
diameter = "{} m"
clearance = "{} m"
blade_thickness = "{} m"
[[fill]]
phase = "liquid"
level = "{} m"
[run]
until = "{} s"
{})",
                       vessel, cell, viscosity, speed, kind, diameter, clearance, blade_thickness, level, until, run) +
           numbers() + more;
  }
};

ValidationResult laminar_power(bool quick) {
  ValidationResult result;
  constexpr double N = 1;
  const auto found = [&](const std::string& kind, double diameter, double reynolds, int across) {
    const double viscosity = 1000 * N * diameter * diameter / reynolds;
    const double viscous_time = 1000 * 0.3 * 0.3 / viscosity;
    const double cell = diameter / across;
    const CaseRun<3> done(Stirred{.speed = fmt::format("{} rad/s", 2 * pi * N),
                                  .kind = kind,
                                  .diameter = diameter,
                                  .clearance = 0.15,
                                  .blade_thickness = 1.5 * cell,
                                  .viscosity = viscosity,
                                  .cell = cell,
                                  .until = std::min(0.2 * viscous_time, 3 / N)}
                              .text());
    return done.mean_from(0.6 * done.model().time(), "power_number") * reynolds;
  };
  const int across = quick ? 12 : 20;
  const Impeller paddle = usual_impeller(ImpellerKind::paddle, 0.15);
  const double reference = expected_power(paddle, 5, 0.3, 0.3, false).number * 5;
  result.findings.push_back(
      close("Np Re of a paddle, D/T 0.5, Re 5 (Nagata)", found("paddle", 0.15, 5, across), reference, 0.1));
  // 65 to 75 (from memory: Rushton et al. 1950; Bates et al. 1963; Metzner & Otto 1957).
  result.findings.push_back(
      close("Np Re of a disc turbine, D/T 1/3, Re 5 (65 to 75)", found("disc_turbine", 0.1, 5, across), 70, 0.1));
  return result;
}

/// A gauge of the moment on a wall, of the wall's name; `about`: keys of the axis.
std::string moment_on(const std::string& wall, const std::string& about) {
  return gauge_text(wall, "moment", "wall = \"" + wall + "\"\n" + about);
}

/// What the shaft gives goes to the vessel and its baffles, once the flow repeats itself.
ValidationResult shaft_and_walls(bool) {
  const std::string centre = "at = [\"10 cm\", \"10 cm\", \"0 cm\"]\nabout = \"z\"\n";
  const CaseRun<3> run(R"(wavy = 1
[vessel]
shape = "cylinder"
diameter = "20 cm"
length = "20 cm"
[grid]
cell = "8 mm"
[[phase]]
name = "syrup"
density = "1000 kg/m^3"
viscosity = "1 Pa.s"
[[fill]]
phase = "syrup"
level = "20 cm"
[[insert]]
name = "baffles"
shape = "baffles"
thickness = "16 mm"
[[agitator]]
speed = "120 rev/min"
[[impeller]]
diameter = "10 cm"
clearance = "8 cm"
blade_thickness = "15 mm"
[run]
until = "3.5 s"
)" + gauge_text("shaft", "torque") +
                       moment_on("vessel", centre) + moment_on("baffles", centre));
  const double from = run.model().time() - 1;  // four times that the blades pass
  const double walls = run.mean_from(from, "vessel") + run.mean_from(from, "baffles");
  ValidationResult result;
  result.findings.push_back(
      close("moment on vessel and baffles over the shaft's torque", walls / run.mean_from(from, "shaft"), 1, 0.02));
  return result;
}

/// The same of water that turns round in a drum, until it does so as fast as it will.
ValidationResult swirl_and_wall(bool) {
  const CaseRun<2> run(R"(wavy = 1
[vessel]
shape = "circle"
diameter = "40 cm"
[grid]
cell = "12.5 mm"
[turbulence]
law = "k_omega_sst"
[[phase]]
name = "water"
density = "1000 kg/m^3"
viscosity = "1 cP"
[[fill]]
phase = "water"
level = "40 cm"
[motion]
gravity = ["0 m/s^2", "0 m/s^2"]
[[agitator]]
speed = "60 rev/min"
at = ["20 cm", "20 cm"]
[[insert]]
name = "beam"
lower = ["12 cm", "18.8 cm"]
upper = ["28 cm", "21.2 cm"]
turns_with = "agitator 1"
[run]
until = "200 s"
)" + gauge_text("shaft", "torque") +
                       moment_on("vessel", "at = [\"20 cm\", \"20 cm\"]\n"));
  ValidationResult result;
  result.findings.push_back(close("moment on the vessel over the shaft's torque, water, k-omega SST, 32 cells across",
                                  run.mean_from(150, "vessel") / run.mean_from(150, "shaft"), 1, 0.02));
  return result;
}

/// Oil that a paddle of so many blades gets going in a square vessel full of it, or water under air in a round one with
/// baffles: the whole, or a part by symmetry.
std::string part_or_whole(bool round, int blades, const std::string& symmetry) {
  const std::string text =
      Stirred{.vessel = (round ? "shape = \"cylinder\"\ndiameter = \"20 cm\"\nlength = \"24 cm\"\n"
                               : "shape = \"box\"\nsize = [\"20 cm\", \"20 cm\", \"24 cm\"]\n") +
                        fmt::format("symmetry = \"{}\"\n", symmetry),
              .speed = "ramp(t, 0 s, 0.1 s, 0 rev/min, 240 rev/min)",
              .diameter = 0.12,
              .clearance = 0.08,
              .blade_thickness = 0.02,
              .viscosity = round ? 0.001 : 0.1,
              .level = round ? 0.16 : 0.24,
              .cell = 0.0125,
              .until = round ? 2.0 : 0.3,
              .run = "projection_tolerance = 1e-12\n",
              .more = round ? "[turbulence]\nlaw = \"k_omega_sst\"\n[[insert]]\nname = \"baffles\"\nshape = "
                              "\"baffles\"\n"
                            : ""}
          .text();
  return changed(text, "kind = \"paddle\"\n", fmt::format("kind = \"paddle\"\nblades = {}\n", blades));
}

/// Greatest difference of the velocities of a part from those of the whole, over the greatest of these.
double apart(const CaseRun<3>& part, const CaseRun<3>& whole, const CellVectors<3>& of_part,
             const CellVectors<3>& of_whole) {
  double greatest = 0;
  double fastest = 0;
  for (std::size_t c = 0; c < 3; ++c) {
    greatest = std::max(greatest, difference(part.grid(), of_part[c], whole.grid(), of_whole[c]));
    for_cells_in_order<3>(whole.grid(), [&](int b, std::ptrdiff_t at, const Index<3>&) {
      fastest = std::max(fastest, std::abs(of_whole[c].block(b)[at]));
    });
  }
  return greatest / fastest;
}

/// Parts of vessels that a turn leaves as they are against the whole of them.
ValidationResult part_and_whole(bool) {
  ValidationResult result;
  const auto compare = [&](const std::string& symmetry, int blades, bool eulerian) {
    std::string text = part_or_whole(false, blades, symmetry);
    if (eulerian)
      text = changed("model = \"eulerian\"\n" + text, "name = \"air\"\n",
                     "name = \"air\"\nform = \"bubbles\"\ndiameter = \"4 mm\"\n");
    const CaseRun<3> part(text);
    const CaseRun<3> whole(changed(text, symmetry, "none"));
    const auto velocities = [&](const CaseRun<3>& of) -> const CellVectors<3>& {
      return eulerian ? of.model().dispersed().state().u[0] : of.model().sharp().state().u;
    };
    result.findings.push_back(
        small(fmt::format("velocity, {}, paddle of {} blades in oil, {}, 0.3 s, over the greatest", symmetry, blades,
                          eulerian ? "Eulerian" : "sharp"),
              apart(part, whole, velocities(part), velocities(whole)), 1e-10));
  };
  compare("half_turn", 2, false);
  compare("quarter_turn", 4, true);
  compare("quarter_turn", 4, false);
  for (const auto& [symmetry, blades] : {std::pair{"half_turn", 2}, {"quarter_turn", 4}}) {
    const CaseRun<3> part(part_or_whole(true, blades, symmetry));
    const CaseRun<3> whole(part_or_whole(true, blades, "none"));
    for (const char* name : {"power_number", "pumping_number"})
      result.findings.push_back(close(fmt::format("mean {}, {}, water, baffles, k-omega SST, 1 to 2 s", name, symmetry),
                                      part.mean_from(1, name), whole.mean_from(1, name), 0.03));
  }
  return result;
}

/// In a frozen frame, water with four baffles and a lid that slips, k-omega SST.
CaseRun<3> baffled(const std::string& kind, double diameter, double cell, double until, const std::string& more = "") {
  return CaseRun<3>(fmt::format(R"(wavy = 1
[vessel]
shape = "cylinder"
diameter = "30 cm"
length = "30 cm"
symmetry = "half_turn"
[turbulence]
law = "k_omega_sst"
[grid]
cell = "{} m"
[[phase]]
name = "water"
fluid = "water"
[[fill]]
phase = "water"
level = "30 cm"
[[insert]]
name = "baffles"
shape = "baffles"
[[agitator]]
speed = "300 rev/min"
motion = "frozen"
position = "15 deg"
[[impeller]]
kind = "{}"
diameter = "{} m"
clearance = "10 cm"
[run]
until = "{} s"
)",
                                cell, kind, diameter, until) +
                    numbers() + more);
}

ValidationResult baffled_turbine(bool) {
  constexpr double diameter = 0.1;
  const CaseRun<3> run = baffled("disc_turbine", diameter, diameter / 16, 0.6);
  ValidationResult result;
  constexpr double from = 0.3;
  const double thin = expected_power(usual_impeller(ImpellerKind::disc_turbine, diameter), 5e4, 0.3, 0.3, true).number;
  result.findings.push_back(
      close("power number, D/T 1/3, 16 cells across", run.mean_from(from, "power_number"), thin, 0.12));
  result.findings.push_back(close("pumping number", run.mean_from(from, "pumping_number"), 0.75, 0.15));
  return result;
}

ValidationResult baffled_pitched(bool) {
  const CaseRun<3> run = baffled("pitched_blade", 0.15, 7.5e-3, 1.4);
  ValidationResult result;
  constexpr double from = 1.1;
  result.findings.push_back(
      close("power number, D/T 1/2, 20 cells across", run.mean_from(from, "power_number"), 1.27, 0.15));
  result.findings.push_back(close("pumping number", run.mean_from(from, "pumping_number"), 0.79, 0.15));
  return result;
}

/// Dye that is put in under the lid, beside the shaft, once the flow has settled.
ValidationResult baffled_mixing(bool) {
  constexpr double N = 5;
  const CaseRun<3> run = baffled("pitched_blade", 0.15, 7.5e-3, 9,
                                 "[[tracer]]\nname = \"dye\"\n[[dose]]\namount = \"1 g\"\n"
                                 "centre = [\"15 cm\", \"15 cm\", \"27 cm\"]\ndiameter = \"5 cm\"\n"
                                 "time = \"3 s\"\nlasts = \"0.1 s\"\n" +
                                     gauge_text("uneven", "variation", "quantity = \"dye_concentration\"\n"));
  const MixingTime mixed = mixing_times(run.setup(), run.history()).at(0);
  ValidationResult result;
  result.findings.push_back(close("turns until the dye's variation stays below 5 %, D/T 1/2",
                                  mixed.reached ? N * mixed.seconds : HUGE_VAL, 5.2 * 4 / std::cbrt(1.27), 0.25));
  return result;
}

/// The scenario's kettle at three speeds, a hundred turns each.
ValidationResult kettle_wells(bool) {
  const std::string scenario =
      changed(changed(find_scenario("kettle_vortex")->text, "end_when_settled = [\"well\", \"power\"]\n", ""),
              "end_not_before = \"12 s\"\n", "");
  ValidationResult result;
  for (const double speed : {160.0, 200.0, 240.0}) {
    const CaseRun<3> run(
        changed(changed(scenario, "turning = \"240 rev/min\"", fmt::format("turning = \"{} rev/min\"", speed)),
                "until = \"25 s\"", fmt::format("until = \"{} s\"", 6000 / speed)));
    const Setup<3>& setup = run.setup();
    const Impeller& paddle = *std::ranges::find_if(setup.agitator_parts, [](const auto& part) {
                                return part.impeller.has_value();
                              })->impeller;
    const Properties& liquor = setup.phases[0].properties;
    const double vessel = setup.size[0];
    const double reynolds = liquor.density * speed / 60 * paddle.diameter * paddle.diameter / liquor.viscosity;
    const double depth = vortex_depth(expected_core(paddle, reynolds, vessel), speed * pi / 30, vessel);
    const double from = 5400 / speed;
    result.findings.push_back(close(fmt::format("depth of the well in mm, {} rev/min, turns 90 to 100", speed),
                                    1e3 * run.mean_from(from, "well"), 1e3 * depth, 0.15));
    result.findings.push_back(close(fmt::format("power number, {} rev/min", speed), run.mean_from(from, "power_number"),
                                    expected_power(paddle, reynolds, vessel, filled_up_to(setup), false).number, 0.25));
  }
  return result;
}

}  // namespace

std::vector<ValidationCase> stirred_cases() {
  return {
      {"rod_in_drum", "a rod that turns in a drum, as a solid that the grid does not know", "Couette's flow", true,
       rod_in_drum},
      {"swinging_cylinder", "a cylinder that swings in fluid at rest",
       "Duetsch et al., J. Fluid Mech. 360 (1998) 249: 2.09, 1.45", false, cylinder_in_fluid_at_rest},
      {"laminar_power", "power of impellers in thick liquid",
       "Nagata, Mixing (1975); Rushton et al., Chem. Eng. Prog. 46 (1950) 395", false, laminar_power},
      {"part_and_whole", "a half and a quarter of a vessel, the rest being the same turned", "the whole vessel", false,
       part_and_whole},
      {"baffled_turbine", "a disc turbine in a baffled vessel of water, in a frozen frame",
       "Bujalski et al., Chem. Eng. Sci. 42 (1987) 317; pumping from memory", false, baffled_turbine},
      {"baffled_pitched", "a turbine of four blades at 45 degrees in the same vessel",
       "Bates et al., I&EC Process Des. Dev. 2 (1963) 310 (from memory)", false, baffled_pitched},
      {"baffled_mixing", "dye in that vessel, with the turbine of four blades",
       "N t = 5.2 (T/D)^2 Np^(-1/3): Grenville, thesis, Cranfield (1992); Ruszkowski (1994)", false, baffled_mixing},
      {"kettle_wells", "the well in a vessel without baffles at three speeds of its paddle, in a frozen frame",
       "forced and free vortex with the core of Nagata, Mixing (1975) (from memory)", false, kettle_wells},
      {"shaft_and_walls", "a paddle in a baffled vessel of syrup: angular momentum", "balance", false, shaft_and_walls},
      {"swirl_and_wall", "a beam in a drum of water without baffles: angular momentum", "balance", false,
       swirl_and_wall}};
}

}  // namespace wavy
