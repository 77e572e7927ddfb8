// Gauges read from snapshots: of every kind the numbers that the run itself would have had.
#include "results/measured.hpp"

#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <filesystem>
#include <map>
#include <numbers>
#include <string>
#include <utility>
#include <vector>

#include "about.hpp"
#include "base/error.hpp"
#include "results/snapshot.hpp"
#include "run/gauge_kinds.hpp"
#include "run/vessel_run.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

/// What cannot be measured in every case.
struct Beyond {
  bool moment = true;
  bool gas = true;
  bool corner = true;
};

/// A gauge of every kind, in several forms, in a flow with this law of turbulence.
template <int D>
std::string gauges_of_every_kind(const std::string& wall, const Beyond& beyond, const TurbulenceLaw* law) {
  std::vector<std::string> parts = quantity_parts(D);
  std::erase_if(parts, [&](const std::string& part) { return !find_quantity_part(part).quantity->known_with(law); });
  const auto place = [](const char* x, const char* y) {
    return fmt::format("[\"{}\", {}\"{}\"]", x, D == 3 ? "\"5 cm\", " : "", y);
  };
  parts.emplace_back("dye_concentration");
  std::string text = "[[tracer]]\nname = \"dye\"\n[[dose]]\namount = \"1 g\"\nlower = " + place("2 cm", "1 cm") +
                     "\nupper = " + (D == 3 ? "[\"9 cm\", \"9 cm\", \"5 cm\"]\n" : "[\"9 cm\", \"5 cm\"]\n");
  int number = 0;
  const auto add = [&](const std::string& keys) {
    text += fmt::format("[[gauge]]\nname = \"g{}\"\n{}\n", ++number, keys);
  };
  for (const auto& kind : gauge_kinds()) {
    if (kind.of != GaugeKind::Of::vessel || kind.in == GaugeKind::In::eulerian) continue;
    const std::string measures = "measures = \"" + kind.name + "\"\n";
    const std::string ball = "centre = " + place("4 cm", "7 cm") + "\ndiameter = \"43 mm\"";
    switch (kind.needs) {
      case GaugeKind::Needs::nothing:
        add(measures);
        break;
      case GaugeKind::Needs::point:
        add(measures + "at = " + place("33 mm", "41 mm"));
        if (beyond.corner) add(measures + "at = " + place("1 mm", "1 mm"));
        break;
      case GaugeKind::Needs::upright_line:
        add(measures + (D == 3 ? "at = [\"4 cm\", \"52 mm\"]" : "at = [\"4 cm\"]"));
        break;
      case GaugeKind::Needs::zone:
      case GaugeKind::Needs::surface_over_zone:
        add(measures);
        add(measures + ball);
        break;
      case GaugeKind::Needs::phase_in_zone:
        add(measures);
        if (beyond.gas) add(measures + "phase = \"air\"\n" + ball);
        add(measures + "where = \"8 cm - y - x\"");
        break;
      case GaugeKind::Needs::quantity_at_point:
        for (const auto& part : parts) add(measures + "quantity = \"" + part + "\"\nat = " + place("33 mm", "41 mm"));
        break;
      case GaugeKind::Needs::quantity_in_zone:
        for (const auto& part : parts) {
          if (kind.name == "amount" && tracer_in(part).empty()) continue;
          const std::string quantity = measures + "quantity = \"" + part + "\"\n";
          add(quantity + ball);
          add(quantity + "wall = \"" + wall + "\"");
          add(quantity + "lower = " + place("2 cm", "41 mm") + "\nupper = " + place("8 cm", "41 mm"));
        }
        break;
      case GaugeKind::Needs::phase:
        add(measures);
        if (beyond.gas) add(measures + "phase = \"air\"");
        break;
      case GaugeKind::Needs::phase_along:
        add(measures + "along = \"y\"");
        break;
      case GaugeKind::Needs::phase_through_plane:
        add(measures + "lower = " + place("2 cm", "41 mm") +
            "\nupper = " + (D == 3 ? "[\"8 cm\", \"8 cm\", \"41 mm\"]" : "[\"8 cm\", \"41 mm\"]"));
        break;
      case GaugeKind::Needs::formula:
        add(measures + "formula = \"t * g1 + 2 s * abs(g1)\"");  // of a level
        break;
      case GaugeKind::Needs::wall:
        add(measures + "wall = \"" + wall + "\"\nalong = \"" + (D == 3 ? "z" : "y") + "\"");
        break;
      case GaugeKind::Needs::wall_and_point:
        if (beyond.moment) add(measures + "wall = \"" + wall + "\"\nat = " + place("5 cm", "5 cm"));
        break;
      case GaugeKind::Needs::agitator:  // see tests/program/agitators_test.cpp
      case GaugeKind::Needs::impeller:
      case GaugeKind::Needs::place_in_leg:
      case GaugeKind::Needs::leg:
        break;
    }
  }
  return text;
}

/// Runs a case for some steps, keeps a snapshot, and compares what its gauges read of both.
template <int D>
void compare_with(const TurbulenceLaw* law, const std::string& text, const std::string& wall, const Beyond& beyond) {
  CAPTURE(text);
  std::string turbulence;
  if (law != nullptr) turbulence = fmt::format("[turbulence]\nlaw = \"{}\"\n", law->name);
  if (law != nullptr && law->second != TurbulenceLaw::Second::none) turbulence += "start_speed = \"1 m/s\"\n";
  const CaseFile the_case = parse_case(text + turbulence + gauges_of_every_kind<D>(wall, beyond, law), "case.toml");
  const auto& setup = std::get<Setup<D>>(the_case.setup);
  const Grid<D> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  VesselRun<D> run(setup, *model);
  run.start();
  for (int step = 0; step < 12; ++step) run.step(run.wanted_step().dt);
  const TemporaryFolder temporary;
  const auto file = temporary / "0.vtu";
  write_snapshot<D>(*model, file);
  const auto again = make_sharp_model(setup, grid);
  recall_snapshot<D>(file, *again);
  CHECK(again->state().time == model->state().time);

  VesselReading<D> live(setup, *model);
  VesselReading<D> kept(setup, *again);
  // The greatest reading of each unit stands for the size of what is read.
  std::map<std::string, double> scale;
  std::vector<std::array<double, 2>> readings;
  for (const auto& gauge : setup.gauges) {
    const auto& kind = gauge_kind(gauge.measures, GaugeKind::Of::vessel);
    readings.push_back({kind.reader(gauge, setup, *model)(live), kind.reader(gauge, setup, *again)(kept)});
    live.keep_reading(gauge.name, readings.back()[0]);
    kept.keep_reading(gauge.name, readings.back()[1]);
    auto& own = scale[unit_of(gauge)];
    if (std::isfinite(readings.back()[0])) own = std::max(own, std::abs(readings.back()[0]));
  }
  CHECK(scale.at("m/s") > 0);
  for (std::size_t g = 0; g < readings.size(); ++g) {
    CAPTURE(setup.gauges[g].measures);
    CAPTURE(setup.gauges[g].quantity);
    const auto& [now, later] = readings[g];
    CHECK(std::isnan(now) == std::isnan(later));
    if (!std::isnan(now)) CHECK(std::abs(later - now) <= 1e-12 * scale.at(unit_of(setup.gauges[g])));
  }
}

template <int D>
void compare(const std::string& text, const std::string& wall, const Beyond& beyond = {}) {
  for (const TurbulenceLaw* law : {static_cast<const TurbulenceLaw*>(nullptr), &k_epsilon, &k_omega_sst, &smagorinsky})
    compare_with<D>(law, text, wall, beyond);
}

const std::string phases =
    "phase = [{ name = \"water\", fluid = \"water\" }, { name = \"air\", fluid = \"air\" }]\n"
    "pair = [{ between = [\"water\", \"air\"], surface_tension = \"72 mN/m\" }]\nrun.until = \"1 s\"\n";

}  // namespace

TEST_CASE("in a box that shakes every gauge reads from a snapshot what it reads in the run") {
  compare<2>("wavy = 1\nvessel.size = [\"10 cm\", \"12 cm\"]\ngrid.cell = \"5 mm\"\n" + phases +
                 "fill = [{ phase = \"water\", shape = \"formula\", where = \"6 cm + x / 4 - y\" }]\n"
                 "motion.acceleration = [\"2 m/s^2 * sin(9 * t)\", \"0 m/s^2\"]\n",
             "vessel");
}

TEST_CASE("beside solids, thin walls and moving walls every gauge reads the same") {
  compare<2>(
      "wavy = 1\nvessel = { shape = \"circle\", diameter = \"12 cm\" }\ngrid.cell = \"4 mm\"\n" + phases +
          "fill = [{ phase = \"water\", level = \"7 cm\" }]\n"
          "insert = [{ name = \"rod\", shape = \"circle\", centre = [\"6 cm\", \"5 cm\"], diameter = \"17 mm\" },\n"
          "{ name = \"plate\", lower = [\"90 mm\", \"3 cm\"], upper = [\"91 mm\", \"9 cm\"] }]\n"
          "moving_wall = [{ wall = \"rod\", turning = \"9 rad/s\", about = [\"6 cm\", \"5 cm\"] }]\n",
      "rod", {.corner = false});
}

TEST_CASE("where gas is left out every gauge reads the same") {
  compare<2>(
      "wavy = 1\nvessel.size = [\"10 cm\", \"12 cm\"]\ngrid.cell = \"5 mm\"\nphase = [{ name = \"water\", fluid = "
      "\"water\" }]\nrun.until = \"1 s\"\n"
      "fill = [{ phase = \"water\", shape = \"box\", lower = [\"0 m\", \"0 m\"], upper = [\"6 cm\", \"9 cm\"] }]\n",
      "vessel", {.gas = false});
}

TEST_CASE("round an axis, under a vent, every gauge reads the same") {
  compare<2>(
      "wavy = 1\nvessel = { size = [\"10 cm\", \"12 cm\"], symmetry = \"round\" }\ngrid.cell = \"5 mm\"\n" + phases +
          "opening = [{ name = \"vent\", side = \"top\", pressure = \"200 Pa\", phase = \"air\" }]\n"
          "fill = [{ phase = \"water\", shape = \"box\", lower = [\"0 m\", \"0 m\"], upper = [\"6 cm\", \"9 cm\"] }]\n",
      "bottom", {.moment = false});
}

TEST_CASE("in 3-D every gauge reads the same") {
  compare<3>("wavy = 1\nvessel.size = [\"10 cm\", \"10 cm\", \"12 cm\"]\ngrid.cell = \"1 cm\"\n" + phases +
                 "insert = [{ name = \"ball\", shape = \"sphere\", centre = [\"5 cm\", \"5 cm\", \"4 cm\"], diameter = "
                 "\"38 mm\" }]\n"
                 "fill = [{ phase = \"water\", lower = [\"0 m\", \"0 m\", \"0 m\"], upper = [\"6 cm\", \"8 cm\", \"9 "
                 "cm\"], shape = "
                 "\"box\" }]\n",
             "ball");
}

TEST_CASE("a rod that turns in a drum of oil: the flow, both moments and the power are Couette's") {
  const CaseFile the_case = parse_case(
      "wavy = 1\nvessel = { shape = \"circle\", diameter = \"20 cm\" }\ngrid.cell = \"2.5 mm\"\nrun.until = \"3 s\"\n"
      "phase = [{ name = \"oil\", density = \"900 kg/m^3\", viscosity = \"5 Pa.s\" }, { name = \"air\", fluid = "
      "\"air\" }]\n"
      "fill = [{ phase = \"oil\", level = \"20 cm\" }]\n"
      "insert = [{ name = \"rod\", shape = \"circle\", centre = [\"10 cm\", \"10 cm\"], diameter = \"10 cm\" }]\n"
      "moving_wall = [{ wall = \"rod\", turning = \"4 rad/s\", about = [\"10 cm\", \"10 cm\"] }]\n"
      "gauge = [{ name = \"torque\", measures = \"moment\", wall = \"rod\", at = [\"10 cm\", \"10 cm\"] },\n"
      "{ name = \"middle\", measures = \"value\", quantity = \"velocity_y\", at = [\"175 mm\", \"10 cm\"] },\n"
      "{ name = \"power\", measures = \"formula\", formula = \"-torque * 4 rad/s\" },\n"
      "{ name = \"held\", measures = \"moment\", wall = \"vessel\", at = [\"10 cm\", \"10 cm\"] }]\n",
      "case.toml");
  const auto& setup = std::get<Setup<2>>(the_case.setup);
  CHECK(unit_of(setup.gauges[2]) == "W");
  const Grid<2> grid = make_grid(setup);
  const auto model = make_sharp_model(setup, grid);
  VesselRun<2> run(setup, *model);
  run.start();
  std::vector<double> row;
  while (run.time() < 0.5) {
    run.step(run.wanted_step().dt);
    row = run.read();
  }
  // u = (4 rad/s) / 3 (R^2/r - r), R = 2 x the rod's radius; moment 4 pi mu omega r^2 R^2 / (R^2 - r^2) a length.
  const double moment = 4 * std::numbers::pi * 5 * 4 * 0.0025 * 0.01 / 0.0075 * setup.thickness;
  CHECK(row[1] == about(-moment).epsilon(0.003));
  CHECK(row[4] == about(moment).epsilon(0.003));
  CHECK(row[2] == about(4.0 / 3 * (0.01 / 0.075 - 0.075)).epsilon(0.002));
  CHECK(row[3] == about(-4 * row[1]).epsilon(1e-12));
}
