// Eulerian runs that begin where another run has ended, of either model.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "about.hpp"
#include "base/error.hpp"
#include "case/case_file.hpp"
#include "case_texts.hpp"
#include "results/snapshot.hpp"
#include "run/vessel_run.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

/// A basin of water, some of it aerated, in which all moves.
std::string basin(const std::string& cell, const std::string& phases, const std::string& fills,
                  const std::string& model = "eulerian") {
  return fmt::format(
      "wavy = 1\nmodel = \"{}\"\n[vessel]\nsize = [\"24 cm\", \"20 cm\"]\nthickness = \"10 cm\"\n[grid]\ncell = "
      "\"{}\"\n{}{}[run]\nuntil = \"1 s\"\n",
      model, cell, phases, fills);
}
const std::string pair_of_water_and_air = R"([[pair]]
between = ["water", "air"]
surface_tension = "72 mN/m"
)";
const std::string heap = R"([[fill]]
phase = "water"
shape = "box"
lower = ["0 cm", "0 cm"]
upper = ["12 cm", "15 cm"]
)";
const std::string drops = R"([[phase]]
name = "oil"
density = "880 kg/m^3"
viscosity = "20 cP"
form = "drops"
)";
const std::string both_pairs = pair_of_water_and_air + R"([[pair]]
between = ["water", "oil"]
surface_tension = "30 mN/m"
)";
const std::string water_and_air = R"([[phase]]
name = "water"
fluid = "water"
diameter = "2 mm"
[[phase]]
name = "air"
fluid = "air"
diameter = "4 mm"
)";
const std::string sharp_water_and_air = R"([[phase]]
name = "water"
fluid = "water"
[[phase]]
name = "air"
fluid = "air"
)";
const std::string from_before = R"([[fill]]
shape = "run"
from = "before.vtu"
)";

/// A run of a case, in a folder, up to a time.
struct Run {
  Run(const std::string& text, const TemporaryFolder& folder)
      : of(parse_case(text, folder / "case.toml")),
        setup(std::get<Setup<2>>(of.setup)),
        grid(make_grid(setup)),
        own(setup, grid),
        run(setup, own.model()) {
    run.start();
  }
  void until(double time) {
    while (run.time() < time) run.step(std::min(run.wanted_step().dt, time - run.time()));
  }
  void keep(const TemporaryFolder& folder) const { write_snapshot(own.model(), folder / "before.vtu"); }
  [[nodiscard]] const dispersed::Model<2>& model() const { return own.model().dispersed(); }

  CaseFile of;
  const Setup<2>& setup;
  Grid<2> grid;
  OwnModel<2> own;
  VesselRun<2> run;
};

/// Greatest difference between fractions, or between velocities, of two models on one grid.
std::array<double, 2> differences(const dispersed::Model<2>& one, const dispersed::Model<2>& other) {
  std::array<double, 2> greatest{};
  for_cells_in_order<2>(one.grid(), [&](int b, std::ptrdiff_t at, const Index<2>&) {
    for (std::size_t i = 0; i < one.phases(); ++i) {
      const auto difference = [&](const Cells<2>& a, const Cells<2>& c) {
        return std::abs(a.block(b)[at] - c.block(b)[at]);
      };
      greatest[0] = std::max(greatest[0], difference(one.state().a[i], other.state().a[i]));
      for (std::size_t d = 0; d < 2; ++d)
        greatest[1] = std::max(greatest[1], difference(one.state().u[i][d], other.state().u[i][d]));
    }
  });
  return greatest;
}

void refuses(const std::string& text, const TemporaryFolder& folder, const std::string& part) {
  try {
    parse_case(text, folder / "case.toml");
    FAIL("not refused: " << part);
  } catch (const Error& error) {
    CHECK(std::string(error.what()).find(part) != std::string::npos);
    INFO(error.what());
    CHECK(error.place().line > 0);
  }
}

}  // namespace

TEST_CASE("an Eulerian run begins where another one ended, moving as it moved, on its own grid and on another") {
  const TemporaryFolder folder;
  const std::string phases = water_and_air + pair_of_water_and_air;
  Run first(basin("1 cm", phases, heap), folder);
  first.until(0.25);
  first.keep(folder);
  const double energy = first.model().kinetic_energy();
  REQUIRE(energy > 0.1);
  SUBCASE("on its own grid") {
    Run next(basin("1 cm", phases, from_before), folder);
    const auto [fraction, velocity] = differences(first.model(), next.model());
    CHECK(fraction < 1e-12);
    CHECK(velocity < 1e-12);
    // It goes on as the first one does: their ways part by what a step's history leaves out.
    next.until(0.05);
    first.until(0.3);
    const auto apart = differences(first.model(), next.model());
    Run unmoved(basin("1 cm", phases, heap), folder);
    const auto as_far = differences(unmoved.model(), next.model());
    CHECK(apart[0] < 0.1 * as_far[0]);
    CHECK(next.model().kinetic_energy() == about(first.model().kinetic_energy()).epsilon(0.03));
  }
  SUBCASE("on others") {
    for (const std::string cell : {"2 cm", "8 mm", "5 mm"}) {
      Run next(basin(cell, phases, from_before), folder);
      for (std::size_t i = 0; i < 2; ++i) CHECK(next.model().volume(i) == about(first.model().volume(i)).epsilon(1e-9));
      CHECK(next.model().kinetic_energy() == about(energy).epsilon(0.25));
      CHECK(next.model().kinetic_energy() < energy * 1.0001);  // means of boxes
      next.until(0.02);
    }
  }
}

TEST_CASE("an Eulerian run begins with the water of a sharp run, and with drops in it") {
  const TemporaryFolder folder;
  Run first(basin("1 cm", sharp_water_and_air, heap, "sharp"), folder);
  first.until(0.25);
  first.keep(folder);
  const auto& sharp = first.own.model().sharp();
  double water = 0;
  for_cells_in_order<2>(first.grid,
                        [&](int b, std::ptrdiff_t at, const Index<2>&) { water += sharp.state().F.block(b)[at]; });
  water *= first.grid.cell_volume();
  const std::string with = replaced_once(from_before, "shape", "phase = \"water\"\nshape");
  Run next(basin("1 cm", water_and_air + pair_of_water_and_air, with), folder);
  CHECK(next.model().volume(0) == about(water).epsilon(1e-9));
  double off = 0;
  for_cells_in_order<2>(first.grid, [&](int b, std::ptrdiff_t at, const Index<2>&) {
    for (std::size_t i = 0; i < 2; ++i)
      off = std::max(off, std::abs(sharp.state().u[1].block(b)[at] - next.model().state().u[i][1].block(b)[at]));
  });
  CHECK(off < 1e-12);

  // Later fills take their share of what is there.
  const std::string oil = "[[fill]]\nphase = \"oil\"\nshare = 0.1\nlevel = \"20 cm\"\n";
  Run mixed(basin("1 cm", water_and_air + drops + "diameters = [\"1 mm\", \"2 mm\"]\n" + both_pairs, with + oil),
            folder);
  CHECK(mixed.model().volume(0) == about(0.9 * water).epsilon(1e-9));
  CHECK(mixed.model().volume(1) == about(0.1 * 0.5 * 0.24 * 0.2).epsilon(1e-9));
}

TEST_CASE("one size of an earlier run may be several classes of the next") {
  const TemporaryFolder folder;
  const std::string oil = "[[fill]]\nphase = \"oil\"\nshare = 0.2\nlevel = \"8 cm\"\n";
  const std::string phases = water_and_air + drops;
  Run first(basin("1 cm", phases + "diameter = \"1 mm\"\n" + both_pairs, heap + oil), folder);
  first.until(0.1);
  first.keep(folder);
  const double volume = first.model().volume(1);
  REQUIRE(first.model().settings().phases[1].name == "oil");
  Run next(
      basin("1 cm", phases + "diameters = [\"1 mm\", \"2 mm\"]\nclass_shares = [0.3, 0.7]\n" + both_pairs, from_before),
      folder);
  CHECK(next.model().volume(1) == about(0.3 * volume).epsilon(1e-9));
  CHECK(next.model().volume(2) == about(0.7 * volume).epsilon(1e-9));
  CHECK(next.model().volume(0) == about(first.model().volume(0)).epsilon(1e-9));
  next.until(0.02);
}

TEST_CASE("what an Eulerian run cannot begin with gets a message of its own") {
  const TemporaryFolder folder;
  const std::string phases = water_and_air + drops + "diameter = \"1 mm\"\n" + both_pairs;
  const std::string oil = "[[fill]]\nphase = \"oil\"\nshare = 0.2\nlevel = \"8 cm\"\n";
  const std::string two = water_and_air + pair_of_water_and_air;
  Run first(basin("2 cm", phases, heap + oil), folder);
  first.keep(folder);
  refuses(basin("2 cm", two, from_before), folder, "has a phase 'oil', which this case has not");
  const std::string named = replaced_once(from_before, "shape", "phase = \"water\"\nshape");
  refuses(basin("2 cm", phases, named), folder, "has all its phases");
  const std::string shared = replaced_once(from_before, "shape", "share = 0.5\nshape");
  refuses(basin("2 cm", phases, shared), folder, "a 'share' of its own");
  refuses(basin("2 cm", sharp_water_and_air, named, "sharp"), folder, "no interface to start from");
  Run sharp(basin("2 cm", sharp_water_and_air, heap, "sharp"), folder);
  sharp.keep(folder);
  refuses(basin("2 cm", two, from_before), folder, "phase");
  refuses(basin("2 cm", two, "[[fill]]\nlevel = \"8 cm\"\n"), folder, "the key 'phase' is missing");
  // A phase that is nowhere is not missed.
  Run without(basin("2 cm", phases, heap), folder);
  without.keep(folder);
  Run next(basin("2 cm", two, from_before), folder);
  CHECK(next.model().volume(0) == about(without.model().volume(0)).epsilon(1e-12));
}
