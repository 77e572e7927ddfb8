// Tracers from a case file: what is told, kept, measured and refused.
#include <doctest/doctest.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "about.hpp"
#include "base/table.hpp"
#include "columns.hpp"
#include "drive/drive.hpp"

using drive::Folder;
using wavy::read_csv;
using wavy::Table;

namespace {

/// Water that is pushed to and fro, with a dye in it.
std::string dyed(const std::string& tracer = "", const std::string& more = "") {
  return drive::small_tank("0.4 s") + "[[tracer]]\nname = \"dye\"\n" + tracer +
         "[[gauge]]\nname = \"dye_all\"\nmeasures = \"amount\"\nquantity = \"dye_concentration\"\n"
         "[[gauge]]\nname = \"uneven\"\nmeasures = \"variation\"\nquantity = \"dye_concentration\"\n"
         "[[gauge]]\nname = \"probe\"\nmeasures = \"value\"\nquantity = \"dye_concentration\"\nat = [\"0.3 m\", \"0.1 "
         "m\"]\n" +
         more;
}

const std::string dose =
    "[[dose]]\namount = \"10 g\"\ncentre = [\"0.1 m\", \"0.1 m\"]\ndiameter = \"8 cm\"\ntime = \"0.15 s\"\nlasts = "
    "\"0.1 s\"\n";

/// Bubbles at rest in water without gravity, of which oxygen dissolves.
std::string absorbing(const std::string& how, const std::string& more = "") {
  return "wavy = 1\nmodel = \"eulerian\"\n[vessel]\nsize = [\"0.2 m\", \"0.2 m\"]\n[grid]\ncell = \"2 cm\"\n"
         "[[phase]]\nname = \"water\"\nfluid = \"water\"\nform = \"carrier\"\n[[phase]]\nname = \"air\"\nfluid = "
         "\"air\"\nform = \"bubbles\"\ndiameter = \"4 mm\"\n[[fill]]\nphase = \"air\"\nshare = 0.05\nshape = "
         "\"box\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.2 m\", \"0.2 m\"]\n[[tracer]]\nname = \"oxygen\"\nphase = "
         "\"water\"\ndiffusivity = \"2e-9 m^2/s\"\ndissolves_from = \"air\"\nsaturation = \"8.6 mg/L\"\n"
         "saturation_by_pressure = \"no\"\n" +
         how +
         "[motion]\ngravity = [\"0 m/s^2\", \"0 m/s^2\"]\n[[gauge]]\nname = \"o2\"\nmeasures = \"mean\"\nquantity = "
         "\"oxygen_concentration\"\n[[gauge]]\nname = \"kla\"\nmeasures = \"mean\"\nquantity = \"oxygen_kla\"\n" +
         more + "[run]\nuntil = \"30 s\"\nlargest_step = \"0.5 s\"\nsnapshot_interval = \"10 s\"\n";
}

/// Of a run's history, which may have gaps.
std::vector<double> column(const Folder& folder, const std::string& run, const std::string& name) {
  long left_out = 0;
  return ::column(read_csv(folder / (run + "/history.csv"), &left_out), name);
}

}  // namespace

TEST_CASE("dye is dosed, told of, followed to the same bits over a stop, and read from snapshots as in the run") {
  const Folder folder;
  folder.write("whole.toml", dyed("start = \"1 mg/L\"\n", dose));
  folder.write("half.toml",
               drive::replaced(dyed("start = \"1 mg/L\"\n", dose), "until = \"0.4 s\"", "until = \"0.2 s\""));
  const auto told = drive::wavy(folder, "check whole.toml --no-picture");
  CHECK(told.says("dye: in water, diffusivity 0.001 mm²/s, at the start 1 mg/L, 10 g from 150 ms to 250 ms"));
  const auto ran = drive::wavy(folder, "run whole.toml");
  REQUIRE(ran.code == 0);
  CHECK(ran.says("tracer  start  dosed"));
  CHECK(ran.says("10.08 g"));
  const auto amount = column(folder, "whole.run", "dye_all");
  CHECK(amount.front() == about(8e-5).epsilon(1e-12));
  CHECK(amount.back() == about(0.01008).epsilon(1e-11));
  CHECK(column(folder, "whole.run", "uneven").front() < 1e-9);
  CHECK(column(folder, "whole.run", "uneven").back() > 1);
  const auto summary = nlohmann::json::parse(folder.read("whole.run/summary.json"));
  CHECK(std::abs(summary["ledger"]["tracers"][0]["drift"].get<double>()) < 1e-12);
  CHECK(summary["ledger"]["greatest_tracer_correction"] < 1e-6);

  REQUIRE(drive::wavy(folder, "run half.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "resume half.run --until '0.4 s' --quiet").code == 0);
  CHECK(folder.read("half.run/snapshots/00008.vtu") == folder.read("whole.run/snapshots/00008.vtu"));

  const auto later = drive::wavy(folder,
                                 "measure whole.run --gauge 'name = \\\"again\\\", measures = \\\"variation\\\", "
                                 "quantity = \\\"dye_concentration\\\"' --table a.csv");
  REQUIRE(later.code == 0);
  CHECK(later.says("dye to 95 %: not yet by uneven, not yet by probe"));
  CHECK(read_csv(folder / "a.csv").columns[1].back() ==
        about(column(folder, "whole.run", "uneven").back()).epsilon(1e-9));
  CHECK(drive::wavy(folder, "draw whole.run --what dye_concentration --to d.png").code == 0);
  CHECK(drive::wavy(folder, "draw whole.run --what salt_concentration --to d.png").code == 2);
}

TEST_CASE("a dose in the whole vessel is mixed at once, and its time counts from its end") {
  const Folder folder;
  folder.write("case.toml", dyed("",
                                 "[[dose]]\namount = \"10 g\"\nlower = [\"0 m\", \"0 m\"]\nupper = [\"0.4 m\", "
                                 "\"0.4 m\"]\ntime = \"0.1 s\"\nlasts = \"0.1 s\"\n"));
  REQUIRE(drive::wavy(folder, "run case.toml --quiet").code == 0);
  const auto out = nlohmann::json::parse(drive::wavy(folder, "measure case.run --json").out);
  for (const auto& one : out["mixing_to_95_percent"]) {
    CHECK(one["reached"].get<bool>());
    CHECK(one["seconds"].get<double>() < 0.01);
  }
  CHECK(out["mixing_to_95_percent"].size() == 2);
}

TEST_CASE("the history of a run without tracers is measured without its case") {
  const Folder folder;
  folder.write("tank.toml", drive::small_tank());
  REQUIRE(drive::wavy(folder, "run tank.toml --quiet").code == 0);
  folder.write("tank.run/case.toml", "no case");
  const auto measured = drive::wavy(folder, "measure tank.run");
  CHECK(measured.code == 0);
  CHECK(measured.says("wall"));
}

TEST_CASE("a dose at a time on which steps end comes once") {
  const Folder folder;
  for (const char* time : {"0 s", "0.1 s", "0.15 s", "0.2 s"}) {
    CAPTURE(time);
    folder.write("case.toml", dyed("",
                                   "[[dose]]\namount = \"10 g\"\ncentre = [\"0.1 m\", \"0.1 m\"]\ndiameter = \"8 "
                                   "cm\"\ntime = \"" +
                                       std::string(time) + "\"\n"));
    REQUIRE(drive::wavy(folder, "run case.toml --quiet --force").code == 0);
    CHECK(column(folder, "case.run", "dye_all").back() == about(0.01).epsilon(1e-11));
  }
}

TEST_CASE("half a vessel has half the dose and tells of the whole") {
  const Folder folder;
  const std::string in_middle =
      "[[dose]]\namount = \"10 g\"\ncentre = [\"0.2 m\", \"0.1 m\"]\ndiameter = \"8 cm\"\ntime = \"0.1 s\"\n";
  std::string whole = drive::replaced(dyed("", in_middle), "\\[motion\\]\nacceleration = [^\n]*\n", "");
  whole = drive::replaced(whole, "level = \"0.2 m\"",
                          "shape = \"box\"\nlower = [\"0.1 m\", \"0 m\"]\nupper = [\"0.3 m\", \"0.2 m\"]");
  folder.write("whole.toml", whole);
  folder.write("half.toml", drive::replaced(whole, "\\[vessel\\]\n", "[vessel]\nsymmetry = \"half\"\n"));
  for (const char* name : {"whole", "half"})
    REQUIRE(drive::wavy(folder, std::string("run ") + name + ".toml --quiet").code == 0);
  CHECK(column(folder, "half.run", "dye_all").back() == about(0.01).epsilon(1e-9));
  CHECK(column(folder, "half.run", "uneven").back() ==
        about(column(folder, "whole.run", "uneven").back()).epsilon(0.01));
  folder.write("aside.toml", drive::replaced(folder.read("half.toml"), "centre = \\[\"0.2 m\"", "centre = [\"0.3 m\""));
  const auto aside = drive::wavy(folder, "check aside.toml --no-picture");
  CHECK(aside.code == 2);
  CHECK(aside.says("with vessel.symmetry a dose must be as symmetric as the vessel"));
}

TEST_CASE("oxygen dissolves from uniform bubbles as 1 - exp(-kLa t)") {
  const Folder folder;
  folder.write("constant.toml", absorbing("dissolves_by = \"constant\"\ntransfer_coefficient = \"0.5 mm/s\"\n"));
  const auto ran = drive::wavy(folder, "run constant.toml");
  REQUIRE(ran.code == 0);
  const double kla = 5e-4 * 6 * 0.05 / 4e-3;
  const auto time = column(folder, "constant.run", "time");
  const auto found = column(folder, "constant.run", "o2");
  for (std::size_t i = 0; i < time.size(); ++i)
    CHECK(found[i] == about(8.6e-3 * (1 - std::exp(-kla / 0.95 * time[i]))).epsilon(1e-9));
  CHECK(column(folder, "constant.run", "kla").back() == about(kla).epsilon(1e-9));
  // Of bubbles at rest penetration brings nothing.
  folder.write("still.toml", absorbing("dissolves_by = \"penetration\"\n"));
  REQUIRE(drive::wavy(folder, "run still.toml --quiet").code == 0);
  CHECK(column(folder, "still.run", "o2").back() == 0);
}

TEST_CASE("oxygen goes into still water through its surface as fast as kL and the area let it") {
  const Folder folder;
  // Well mixed by a high diffusivity: d(c)/dt = kL (c* - c) / depth.
  folder.write("case.toml",
               "wavy = 1\n[vessel]\nsize = [\"0.2 m\", \"0.2 m\"]\n[grid]\ncell = \"1 cm\"\n" + drive::fluids +
                   "[[fill]]\nphase = \"water\"\nlevel = \"0.105 m\"\n[[tracer]]\nname = \"oxygen\"\ndiffusivity = "
                   "\"0.1 m^2/s\"\ndissolves_by = \"constant\"\nsaturation = \"8.6 mg/L\"\ntransfer_coefficient = "
                   "\"2 mm/s\"\nsaturation_by_pressure = \"no\"\n[[gauge]]\nname = \"o2\"\nmeasures = "
                   "\"mean\"\nquantity = \"oxygen_concentration\"\n[[gauge]]\nname = \"kla\"\nmeasures = "
                   "\"mean\"\nquantity = \"oxygen_kla\"\n[run]\nuntil = \"20 s\"\n");
  REQUIRE(drive::wavy(folder, "run case.toml --quiet").code == 0);
  CHECK(column(folder, "case.run", "o2").back() == about(8.6e-3 * (1 - std::exp(-2e-3 / 0.105 * 20))).epsilon(0.005));
  CHECK(column(folder, "case.run", "kla").back() == about(2e-3 / 0.2).epsilon(1e-6));
  CHECK(drive::wavy(folder,
                    "measure case.run --gauge 'name = \\\"k\\\", measures = \\\"mean\\\", quantity = "
                    "\\\"oxygen_kla\\\"'")
            .says("0.01 1/s"));
}

TEST_CASE("what comes in through an opening brings its tracer into each model") {
  for (const bool eulerian : {false, true}) {
    CAPTURE(eulerian);
    const Folder folder;
    const std::string form = eulerian ? "form = \"carrier\"\n" : "";
    folder.write("case.toml",
                 std::string("wavy = 1\n") + (eulerian ? "model = \"eulerian\"\n" : "") +
                     "[vessel]\nsize = [\"0.4 m\", \"0.1 m\"]\n[vessel.walls]\nall = \"slip\"\n[grid]\ncell = \"1 "
                     "cm\"\n[[phase]]\nname = \"water\"\nfluid = \"water\"\n" +
                     form + "[[phase]]\nname = \"oil\"\ndensity = \"900 kg/m^3\"\nviscosity = \"5 mPa.s\"\n" +
                     (eulerian ? "form = \"drops\"\ndiameter = \"2 mm\"\n" : "") +
                     "[[fill]]\nphase = \"water\"\nlevel = \"0.1 m\"\n[[tracer]]\nname = \"salt\"\n"
                     "[[opening]]\nname = \"feed\"\nside = \"left\"\nspeed = \"0.1 m/s\"\nphase = "
                     "\"water\"\ntracers = [\"salt\"]\nconcentrations = [\"2 g/L\"]\n[[opening]]\nname = "
                     "\"outlet\"\nside = \"right\"\n[[gauge]]\nname = \"all\"\nmeasures = \"amount\"\nquantity = "
                     "\"salt_concentration\"\n[run]\nuntil = \"2 s\"\nsnapshot_interval = \"1 s\"\n");
    REQUIRE(drive::wavy(folder, "run case.toml --quiet").code == 0);
    CHECK(column(folder, "case.run", "all").back() == about(0.2 * 0.1 * 2).epsilon(1e-6));
    const auto summary = nlohmann::json::parse(folder.read("case.run/summary.json"));
    const auto& books = summary["ledger"]["tracers"][0];
    CHECK(books["in_kg"].get<double>() == about(0.04).epsilon(1e-6));
    CHECK(std::abs(books["drift"].get<double>()) < 1e-12);
  }
}

TEST_CASE("fills bring tracers, told of, kept in the books and on from one run to the next, on another grid too") {
  const Folder folder;
  const std::string brine =
      "[[fill]]\nphase = \"water\"\nshape = \"box\"\nlower = [\"0.1 m\", \"0.05 m\"]\nupper = [\"0.3 m\", \"0.15 "
      "m\"]\ntracers = [\"dye\"]\nconcentrations = [\"2 g/L\"]\n";
  folder.write("first.toml", dyed("start = \"1 g/L\"\n", brine));
  const auto told = drive::wavy(folder, "check first.toml --no-picture");
  CHECK(told.says("dye: in water, diffusivity 0.001 mm²/s, at the start 1 kg/m³, 2 kg/m³ in fill 2"));
  CHECK_FALSE(told.says("warning"));
  REQUIRE(drive::wavy(folder, "run first.toml --quiet").code == 0);
  const double amount = 0.4 * 0.2 * 1 + 0.2 * 0.1 * 1;
  CHECK(column(folder, "first.run", "dye_all").front() == about(amount).epsilon(1e-12));
  CHECK(column(folder, "first.run", "dye_all").back() == about(amount).epsilon(1e-11));
  const double uneven = column(folder, "first.run", "uneven").back();
  CHECK(uneven > 0.2);

  const std::string on = "[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"first.run\"\n";
  const std::string next = drive::replaced(dyed(), "\\[\\[fill\\]\\]\nphase = \"water\"\nlevel = \"0.2 m\"\n", on);
  folder.write("next.toml", next);
  CHECK(drive::wavy(folder, "check next.toml --no-picture").says("of the earlier run in fill 1"));
  REQUIRE(drive::wavy(folder, "run next.toml --quiet").code == 0);
  CHECK(column(folder, "next.run", "dye_all").front() == about(amount).epsilon(1e-6));
  CHECK(column(folder, "next.run", "uneven").front() == about(uneven).epsilon(1e-3));
  folder.write("finer.toml", drive::replaced(next, "2 cm", "1 cm"));
  REQUIRE(drive::wavy(folder, "run finer.toml --quiet").code == 0);
  CHECK(column(folder, "finer.run", "dye_all").front() == about(amount).epsilon(1e-3));
  // Without a tracer of that name it is left behind, and that is told.
  folder.write("plain.toml",
               drive::replaced(drive::small_tank(), "\\[\\[fill\\]\\]\nphase = \"water\"\nlevel = \"0.2 m\"\n", on));
  CHECK(drive::wavy(folder, "check plain.toml --no-picture")
            .says("that run has a tracer 'dye', of which nothing is taken"));
}

TEST_CASE("an earlier run of the Eulerian model hands on what has dissolved") {
  const Folder folder;
  const std::string law = "dissolves_by = \"constant\"\ntransfer_coefficient = \"0.4 mm/s\"\n";
  folder.write("first.toml", absorbing(law));
  REQUIRE(drive::wavy(folder, "run first.toml --quiet").code == 0);
  const double reached = column(folder, "first.run", "o2").back();
  REQUIRE(reached > 1e-3);
  folder.write("next.toml", drive::replaced(absorbing(law), "\\[\\[fill\\]\\][^]*?\\[\\[tracer\\]\\]",
                                            "[[fill]]\nshape = \"run\"\nfrom = \"first.run\"\n[[tracer]]"));
  REQUIRE(drive::wavy(folder, "run next.toml --quiet").code == 0);
  const auto o2 = column(folder, "next.run", "o2");
  CHECK(o2.front() == about(reached).epsilon(1e-6));
  // The same curve goes on: what is missing to saturation falls by the same factor again.
  constexpr double saturation = 8.6e-3;
  CHECK(saturation - o2.back() == about((saturation - reached) * (saturation - reached) / saturation).epsilon(1e-3));
}

TEST_CASE("every mistake about tracers has its own message") {
  const std::vector<std::array<std::string, 2>> mistakes{
      {dyed("phase = \"oil\"\n"), "no phase is called 'oil'"},
      {dyed("diffusivity = \"1 m\"\n"), "a diffusivity is needed"},
      {dyed("diffusivity = \"-1e-9 m^2/s\"\n"), "must not be negative"},
      {dyed("start = \"3\"\n"), "concentration"},
      {dyed("dissolves_by = \"penetration\"\n"), "penetration is a law of bubbles"},
      {dyed("phase = \"air\"\ndissolves_by = \"constant\"\n"), "only the denser phase takes up a gas"},
      {dyed("dissolves_by = \"constant\"\ndissolves_from = \"oil\"\n"), "the other side of the interface, 'air'"},
      {dyed("saturation = \"1 g/L\"\n"), "nothing dissolves without a law"},
      {dyed("", "[[tracer]]\nname = \"dye\"\n"), "two tracers are called 'dye'"},
      {dyed("", "[[tracer]]\nname = \"water\"\n"), "a phase is called 'water'"},
      {dyed("", "[[tracer]]\nname = \"no name\"\n"), "a name may have letters"},
      {dyed("", "[[tracer]]\nname = \"mean_dye\"\n"), "begin the names of means over time"},
      {dyed("", drive::replaced(dose, "10 g", "0 g")), "must be positive"},
      {dyed("", drive::replaced(dose, "10 g", "10 m")), "mass"},
      {dyed("", drive::replaced(dose, "0.1 m\"\\]", "3 m\"]")), "lies outside the vessel"},
      {dyed("", drive::replaced(dose, "\\[\\[dose\\]\\]", "[[dose]]\ntracer = \"die\"")), "no tracer is called 'die'"},
      {dyed("", drive::replaced(dose, "centre = [^\n]*\n", "")), "a ball has a centre and a diameter"},
      {dyed("", "[[dose]]\namount = \"1 g\"\n"), "a dose needs a zone"},
      {dyed("", dose + "lower = [\"0 m\", \"0 m\"]\nupper = [\"0.1 m\", \"0.1 m\"]\n"), "both a box and a ball"},
      {dyed("", "[[tracer]]\nname = \"salt\"\n" + dose), "there are dye and salt"},
      {drive::small_tank() + dose, "there is no tracer to put in"},
      {drive::replaced(dyed(), "quantity = \"dye_concentration\"\n\\[\\[gauge\\]\\]\nname = \"uneven\"",
                       "quantity = \"speed\"\n[[gauge]]\nname = \"uneven\""),
       "an amount is that of a tracer"},
      {drive::replaced(dyed(), "quantity = \"dye_concentration\"", "quantity = \"salt_concentration\""), "quantity"},
      {dyed("", "[[opening]]\nname = \"top\"\nside = \"top\"\ntracers = [\"dye\"]\n"), "go together"},
      {dyed("",
            "[[opening]]\nname = \"top\"\nside = \"top\"\nphase = \"air\"\ntracers = [\"dye\"]\nconcentrations = "
            "[\"1 g/L\"]\n"),
       "of which nothing comes in here"},
      {dyed("", "[[fill]]\nphase = \"water\"\nlevel = \"0.1 m\"\ntracers = [\"dye\"]\n"), "go together"},
      {dyed("", "[[fill]]\nphase = \"water\"\nlevel = \"0.1 m\"\ntracers = [\"die\"]\nconcentrations = [\"1 g/L\"]\n"),
       "'die'"},
      {dyed("", "[[fill]]\nphase = \"water\"\nlevel = \"0.1 m\"\ntracers = [\"dye\"]\nconcentrations = [\"-1 g/L\"]\n"),
       "must not be negative"},
      {dyed("", "[[fill]]\nphase = \"air\"\nlevel = \"0.1 m\"\ntracers = [\"dye\"]\nconcentrations = [\"1 g/L\"]\n"),
       "of which this fill lays nothing"},
      {drive::small_tank() +
           "[[fill]]\nphase = \"water\"\nlevel = \"0.1 m\"\ntracers = [\"dye\"]\nconcentrations = [\"1 g/L\"]\n",
       "the case has no tracer"},
      {absorbing("dissolves_by = \"small_eddies\"\n"), "needs the dissipation of turbulence"},
      {absorbing("dissolves_by = \"constant\"\n"), "transfer_coefficient"},
      {absorbing("dissolves_by = \"penetration\"\ntransfer_coefficient = \"1 mm/s\"\n"), "finds kL of itself"},
      {drive::replaced(absorbing("dissolves_by = \"penetration\"\n"), "dissolves_from = \"air\"",
                       "dissolves_from = \"water\""),
       "is not in bubbles or drops"},
      {drive::replaced(absorbing("dissolves_by = \"penetration\"\n"), "2e-9 m\\^2/s", "0 m^2/s"), "one above 0"},
  };
  for (const auto& [text, message] : mistakes) drive::refuses(text, message);
  // A dose that comes where the water is not, and one that comes too late.
  const Folder folder;
  folder.write("case.toml", dyed("", drive::replaced(dose, "\"0.1 m\"\\]", "\"0.35 m\"]")));
  const auto dry = drive::wavy(folder, "run case.toml");
  CHECK(dry.code == 1);
  CHECK(dry.says("dose 1 of 'dye' finds nothing of its phase in its zone at t = 0.15 s"));
  folder.write("late.toml", dyed("", drive::replaced(dose, "time = \"0.15 s\"", "time = \"3 s\"")));
  CHECK(drive::wavy(folder, "check late.toml --no-picture").says("after the end of the run"));
}
