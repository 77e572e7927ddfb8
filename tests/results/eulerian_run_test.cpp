// Runs of the Eulerian model as a case describes them: what is measured of one, and that it goes on as it was.
#include <doctest/doctest.h>
#include <fmt/format.h>
#include <omp.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "case/case_file.hpp"
#include "case_texts.hpp"
#include "results/snapshot.hpp"
#include "run/gauge_kinds.hpp"
#include "run/vessel_run.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

/// A small aerated column with a sparger off the floor and drops of two sizes.
std::string column(const std::string& more) {
  return R"(wavy = 1
model = "eulerian"
[vessel]
size = ["12 cm", "30 cm"]
thickness = "5 cm"
[grid]
cell = "1 cm"
)" + water_and_bubbles +
         R"([[phase]]
name = "oil"
density = "880 kg/m^3"
viscosity = "20 cP"
form = "drops"
diameters = ["1 mm", "2 mm"]
class_shares = [0.25, 0.75]
[[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
[[pair]]
between = ["water", "oil"]
surface_tension = "30 mN/m"
[[opening]]
name = "sparger"
spread = "box"
lower = ["4 cm", "3 cm"]
upper = ["8 cm", "5 cm"]
volume_flow = "3 L/min"
phase = "air"
[[opening]]
name = "top"
side = "top"
lets_out = "gas"
[[fill]]
phase = "oil"
share = 0.04
level = "15 cm"
[run]
until = "1 s"
)" + more;
}

const Setup<2>& setup_of(const CaseFile& the_case) { return std::get<Setup<2>>(the_case.setup); }

std::size_t column_of(const VesselRun<2>& run, const std::string& name) {
  const auto found = std::ranges::find(run.columns(), name, &Column::name);
  REQUIRE(found != run.columns().end());
  return static_cast<std::size_t>(found - run.columns().begin());
}

}  // namespace

TEST_CASE("what an Eulerian run measures without asking adds up, and what comes in a zone comes in whole") {
  const CaseFile the_case = parse_case(column("[[gauge]]\nname = \"area\"\nmeasures = \"interface_area\"\n"), "c.toml");
  const auto& setup = setup_of(the_case);
  const Grid<2> grid = make_grid(setup);
  const OwnModel<2> own(setup, grid);
  VesselRun<2> run(setup, own.model());
  run.start();
  const double room = 0.12 * 0.3 * 0.05;
  std::vector<double> row = run.read();
  CHECK(row[column_of(run, "oil_holdup")] == about(0.02).epsilon(1e-12));
  CHECK(row[column_of(run, "oil_volume")] == about(0.02 * room).epsilon(1e-12));
  CHECK(row[column_of(run, "oil_sauter")] == about(1 / (0.25 / 1e-3 + 0.75 / 2e-3)).epsilon(1e-12));
  CHECK(row[column_of(run, "air_holdup")] == 0);
  CHECK(row[column_of(run, "area")] == about(6 * 0.02 * room / row[column_of(run, "oil_sauter")]).epsilon(1e-9));
  while (run.time() < 1) {
    run.step(std::min(run.wanted_step().dt, 1 - run.time()));
    row = run.read();
  }
  run.close_books();
  const auto& ledger = run.ledger();
  CHECK(ledger.volume_in[std::size_t{3}] == about(3e-3 / 60).epsilon(1e-9));
  double all = 0;
  for (std::size_t p = 0; p < 4; ++p) {
    CHECK(std::abs(ledger.drift(static_cast<int>(p))) < 1e-12);
    all += ledger.volume_now[p];
  }
  CHECK(all == about(room).epsilon(1e-12));
  CHECK(row[column_of(run, "oil_volume")] ==
        about(row[column_of(run, "oil_1_volume")] + row[column_of(run, "oil_2_volume")]).epsilon(1e-12));
  CHECK(row[column_of(run, "air_holdup")] == about(row[column_of(run, "air_volume")] / room).epsilon(1e-12));
  // A full vessel has spilled as much as it has come to hold.
  double out = 0;
  for (std::size_t p = 0; p < 4; ++p) out += ledger.volume_out[p];
  CHECK(out == about(ledger.volume_in[3]).epsilon(1e-9));
  CHECK_FALSE(ledger.has_interface);
}

TEST_CASE("gauges of an Eulerian run read the same from its snapshot, of every kind and every phase") {
  std::string gauges;
  int number = 0;
  const auto add = [&](const std::string& keys) {
    gauges += fmt::format("[[gauge]]\nname = \"g{}\"\n{}\n", ++number, keys);
  };
  const std::string ball = "centre = [\"6 cm\", \"8 cm\"]\ndiameter = \"6 cm\"";
  for (const std::string phase : {"water", "air", "oil", "oil_2"}) {
    const std::string of = "phase = \"" + phase + "\"\n";
    add("measures = \"volume\"\n" + of + ball);
    add("measures = \"share\"\n" + of);
    add("measures = \"flow\"\n" + of + "lower = [\"2 cm\", \"9 cm\"]\nupper = [\"9 cm\", \"9 cm\"]");
    if (phase != "water") add("measures = \"sauter_diameter\"\n" + of);
    add("measures = \"level\"\nat = [\"5 cm\"]\n" + of);
    add("measures = \"mean_level\"\n" + of);
    for (const std::string part : {"_fraction", "_velocity_x", "_velocity_y", "_speed"}) {
      const std::string quantity = "quantity = \"" + phase + part + "\"\n";
      add("measures = \"value\"\nat = [\"61 mm\", \"83 mm\"]\n" + quantity);
      add("measures = \"greatest\"\n" + quantity + ball);
      add("measures = \"mean\"\n" + quantity + "from = [\"1 cm\", \"1 cm\"]\nto = [\"10 cm\", \"20 cm\"]");
    }
  }
  for (const std::string part : {"fraction", "velocity_y", "speed", "pressure", "shear_rate"})
    add("measures = \"mean\"\nquantity = \"" + part + "\"");
  add("measures = \"pressure\"\nat = [\"0 cm\", \"0 cm\"]");
  for (const std::string measures : {"force", "pressure_force", "friction_force"})
    add("measures = \"" + measures + "\"\nwall = \"left\"\nalong = \"" + (measures[0] == 'p' ? "x" : "y") + "\"");
  add("measures = \"force\"\nwall = \"post\"\nalong = \"y\"");
  add("measures = \"moment\"\nwall = \"post\"\nat = [\"0 cm\", \"0 cm\"]");
  add("measures = \"mean\"\nquantity = \"pressure\"\nwall = \"post\"");
  add("measures = \"kinetic_energy\"");
  add("measures = \"dissipation\"");
  add("measures = \"interface_area\"\n" + ball);
  add("measures = \"potential_energy\"");
  add("measures = \"reach\"\nalong = \"y\"");
  add("measures = \"greatest_speed\"");
  add("measures = \"formula\"\nformula = \"2 * g1\"");

  const std::string post =
      "[[insert]]\nname = \"post\"\nshape = \"circle\"\ncentre = [\"3 cm\", \"12 cm\"]\ndiameter = \"2 cm\"\n";
  const CaseFile the_case = parse_case(column(post + gauges), "c.toml");
  const auto& setup = setup_of(the_case);
  const Grid<2> grid = make_grid(setup);
  const OwnModel<2> own(setup, grid);
  VesselRun<2> run(setup, own.model());
  run.start();
  for (int step = 0; step < 40; ++step) run.step(run.wanted_step().dt);
  const TemporaryFolder temporary;
  const auto file = temporary / "0.vtu";
  write_snapshot(own.model(), file);
  const OwnModel<2> again(setup, grid);
  recall_snapshot(file, again.model());
  VesselReading<2> live(setup, own.model());
  VesselReading<2> kept(setup, again.model());
  int told = 0;
  for (const auto& gauge : setup.gauges) {
    CAPTURE(gauge.measures);
    CAPTURE(gauge.quantity);
    const auto& kind = gauge_kind(gauge.measures, GaugeKind::Of::vessel);
    const double now = kind.reader(gauge, setup, own.model())(live);
    const double then = kind.reader(gauge, setup, again.model())(kept);
    live.keep_reading(gauge.name, now);
    kept.keep_reading(gauge.name, then);
    CHECK(std::isfinite(now));
    CHECK(std::abs(then - now) <= 1e-9 * std::max(std::abs(now), 1e-6));
    told += now != 0 ? 1 : 0;
  }
  CHECK(told > number - 3);
}

TEST_CASE("an Eulerian run that is kept and brought back goes on to the same bits, with one thread or two") {
  const CaseFile the_case = parse_case(column(""), "c.toml");
  const auto& setup = setup_of(the_case);
  const Grid<2> grid = make_grid(setup);
  const auto steps = [](VesselRun<2>& run, int count) {
    std::vector<double> row;
    for (int step = 0; step < count; ++step) {
      run.step(run.wanted_step().dt);
      row = run.read();
    }
    return row;
  };
  const OwnModel<2> one(setup, grid);
  VesselRun<2> whole(setup, one.model());
  whole.start();
  static_cast<void>(whole.read());
  steps(whole, 30);
  Archive kept;
  whole.archive(kept);
  const std::vector<double> wanted = steps(whole, 30);

  const int threads = omp_get_max_threads();
  for (const int count : {1, 2}) {
    omp_set_num_threads(count);
    const OwnModel<2> two(setup, grid);
    VesselRun<2> resumed(setup, two.model());
    Archive back(kept.numbers(), kept.texts());
    resumed.archive(back);
    const std::vector<double> found = steps(resumed, 30);
    REQUIRE(found.size() == wanted.size());
    for (std::size_t i = 0; i < found.size(); ++i) CHECK(found[i] == wanted[i]);
  }
  omp_set_num_threads(threads);
}
