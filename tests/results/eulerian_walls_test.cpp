// Walls in runs of the Eulerian model: what acts on them, and how they carry the fluid along.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "about.hpp"
#include "case/case_file.hpp"
#include "run/vessel_run.hpp"

using namespace wavy;

namespace {

/// What gauges read at the end of a run of a 2-D case, behind the time.
std::vector<double> readings_after(const std::string& text, double time) {
  const CaseFile the_case = parse_case(text, "case.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  const Grid<2> grid = make_grid(setup);
  const OwnModel<2> own(setup, grid);
  VesselRun<2> run(setup, own.model());
  run.start();
  std::vector<double> row = run.read();
  while (run.time() < time) {
    run.step(std::min(run.wanted_step().dt, time - run.time()));
    row = run.read();
  }
  return row;
}

const std::string oil_and_bubbles =
    "phase = [{ name = \"oil\", density = \"900 kg/m^3\", viscosity = \"5 Pa.s\" }, { name = \"air\", fluid = \"air\", "
    "form = \"bubbles\", diameter = \"1 mm\" }]\npair = [{ surface_tension = \"30 mN/m\" }]\n";

}  // namespace

TEST_CASE("a rod that turns in a drum of oil: the flow and both moments are Couette's in the Eulerian model too") {
  const std::string middle = "[\"10 cm\", \"10 cm\"]";
  const auto row = readings_after(
      "wavy = 1\nmodel = \"eulerian\"\nvessel = { shape = \"circle\", diameter = \"20 cm\" }\ngrid.cell = \"2.5 "
      "mm\"\nrun.until = \"3 s\"\n" +
          oil_and_bubbles + "fill = [{ phase = \"oil\", level = \"20 cm\" }]\ninsert = [{ name = \"rod\", shape = " +
          "\"circle\", centre = " + middle +
          ", diameter = \"10 cm\" }]\nmoving_wall = [{ wall = \"rod\", turning = " + "\"4 rad/s\", about = " + middle +
          " }]\ngauge = [{ name = \"torque\", measures = \"moment\", wall = \"rod\", " + "at = " + middle +
          " },\n{ name = \"flow\", measures = \"value\", quantity = \"oil_velocity_y\", at = " +
          "[\"175 mm\", \"10 cm\"] },\n{ name = \"held\", measures = \"moment\", wall = \"vessel\", at = " + middle +
          " }]\n",
      0.5);
  // As for the sharp model: u = (4 rad/s) / 3 (R^2/r - r), moment 4 pi mu omega r^2 R^2 / (R^2 - r^2) a length.
  const double moment = 4 * std::numbers::pi * 5 * 4 * 0.0025 * 0.01 / 0.0075;
  CHECK(row[1] == about(-moment).epsilon(0.03));
  CHECK(row[2] == about(4.0 / 3 * (0.01 / 0.075 - 0.075)).epsilon(0.02));
  CHECK(row[3] == about(moment).epsilon(0.02));
}

TEST_CASE("a wall that slides along a gap drags the fluid with it, and both walls feel mu U / H") {
  const auto row = readings_after(
      "wavy = 1\nmodel = \"eulerian\"\n[vessel]\nsize = [\"2 cm\", \"4 cm\"]\nrepeats = \"y\"\n[grid]\ncell = \"1 "
      "mm\"\n[motion]\ngravity = [\"0 m/s^2\", \"0 m/s^2\"]\n[[phase]]\nname = \"oil\"\ndensity = \"900 "
      "kg/m^3\"\nviscosity = \"5 Pa.s\"\n[[phase]]\nname = \"air\"\nfluid = \"air\"\nform = \"bubbles\"\ndiameter = "
      "\"1 mm\"\n[[pair]]\nsurface_tension = \"30 mN/m\"\n[[moving_wall]]\nwall = \"left\"\nvelocity = [\"0 m/s\", "
      "\"0.3 m/s\"]\n[[gauge]]\nname = \"pulled\"\nmeasures = \"friction_force\"\nwall = \"left\"\nalong = "
      "\"y\"\n[[gauge]]\nname = \"held\"\nmeasures = \"friction_force\"\nwall = \"right\"\nalong = "
      "\"y\"\n[[gauge]]\nname = \"half\"\nmeasures = \"value\"\nquantity = \"oil_velocity_y\"\nat = [\"1 cm\", \"2 "
      "cm\"]\n[[gauge]]\nname = \"heat\"\nmeasures = \"dissipation\"\n[[gauge]]\nname = \"rate\"\nmeasures = "
      "\"mean\"\nquantity = \"shear_rate\"\n[[fill]]\nphase = \"oil\"\nlevel = \"4 cm\"\n[run]\nuntil = \"0.5 s\"\n",
      0.5);
  const double force = 5 * 0.3 / 0.02 * 0.04;  // a length
  CHECK(row[1] == about(-force).epsilon(1e-3));
  CHECK(row[2] == about(force).epsilon(1e-3));
  CHECK(row[3] == about(0.15).epsilon(1e-3));
  // All work of the wall becomes heat.
  CHECK(row[4] == about(force * 0.3).epsilon(1e-3));
  CHECK(row[5] == about(0.3 / 0.02).epsilon(1e-3));
}

TEST_CASE("the floor carries the weight of what stands on it, bubbles and all") {
  const auto row = readings_after(R"(wavy = 1
model = "eulerian"
[vessel]
size = ["10 cm", "20 cm"]
thickness = "5 cm"
[grid]
cell = "1 cm"
[[phase]]
name = "water"
density = "1000 kg/m^3"
viscosity = "1 mPa.s"
[[phase]]
name = "air"
density = "1 kg/m^3"
viscosity = "18 uPa.s"
form = "bubbles"
diameter = "0.2 mm"
[[fill]]
phase = "air"
share = 0.1
level = "20 cm"
[[opening]]
name = "top"
side = "top"
pressure = "0 Pa"
[[gauge]]
name = "floor"
measures = "pressure_force"
wall = "bottom"
along = "y"
[[gauge]]
name = "side"
measures = "moment"
wall = "left"
at = ["0 cm", "0 cm"]
[run]
until = "1 s"
)",
                                  0.1);
  // Small bubbles have their terminal slip long since, and have hardly risen.
  const double rho = 0.9 * 1000 + 0.1;
  constexpr double g = 9.80665;
  // The opening's pressure is over air at rest outside.
  CHECK(row[1] == about(-(rho - 1.204) * g * 0.2 * 0.1 * 0.05).epsilon(0.01));
  // Against the left wall the pressure pushes to the left, more below: about the corner it turns it anticlockwise.
  CHECK(row[2] == about((rho - 1.204) * g * 0.05 * std::pow(0.2, 3) / 6).epsilon(0.02));
}
