// Lines as users write them, rightly and wrongly.
#include <doctest/doctest.h>
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "about.hpp"
#include "base/table.hpp"
#include "drive/drive.hpp"

using drive::fluids;
using drive::Folder;
using drive::refuses;
using nlohmann::json;

namespace {

const std::string legs =
    "[[leg]]\nname = \"yard\"\nlength = \"40 m\"\nrise = \"-2 m\"\ndiameter = \"50 mm\"\n"
    "[[leg]]\nname = \"riser\"\nlength = \"10 m\"\nrise = \"10 m\"\ndiameter = \"50 mm\"\n";
const std::string source =
    "[[source]]\nname = \"feed\"\nliquid_mass_flow = \"0.2 kg/s\"\ngas_standard_flow = \"2 m^3/h\"\n";
const std::string outlet = "[outlet]\npressure = \"1.013 bar\"\n";

/// Sections begin on line 3.
std::string line_case(const std::string& text, const std::string& until = "60 s") {
  return "wavy = 1\nmodel = \"line\"\n" + text + fluids + "[run]\nuntil = \"" + until + "\"\n";
}

}  // namespace

TEST_CASE("every mistake in a line has its own message") {
  const auto leg = [](const std::string& text) {
    return line_case("[[leg]]\nname = \"a\"\n" + text + source + outlet);
  };
  refuses(line_case(source + outlet), "a line needs at least one leg");
  refuses(leg("diameter = \"5 cm\"\n"), "the key 'length' is missing", 3);
  refuses(leg("length = \"-3 m\"\ndiameter = \"5 cm\"\n"), "the length must be positive, not -3 m", 5);
  refuses(leg("length = \"3 m\"\n"), "the key 'diameter' is missing", 3);
  refuses(leg("length = \"3 m\"\ndiameter = \"0 cm\"\n"), "must be positive, not 0 cm", 6);
  refuses(leg("length = \"3\"\ndiameter = \"5 cm\"\n"), "has no unit", 5);
  refuses(leg("length = \"3 m\"\nrise = \"4 m\"\ndiameter = \"5 cm\"\n"), "cannot rise by 4 m", 6);
  refuses(leg("length = \"3 m\"\nrise = \"1 m\"\nangle = \"3 deg\"\ndiameter = \"5 cm\"\n"), "both rise and angle", 7);
  refuses(leg("length = \"3 m\"\ndiameter = \"5 m\"\n"), "wider than long", 6);
  refuses(leg("length = \"3 m\"\ndiameter = \"5 cm\"\ninto = \"b\"\n"), "no leg is called 'b'", 7);
  refuses(leg("length = \"3 m\"\ndiameter = \"5 cm\"\nroughness = \"1 cm\"\n"), "roughness must lie", 7);
  refuses(leg("profile = \"none.csv\"\ndiameter = \"5 cm\"\n"), "none.csv");
  refuses(line_case(legs + "into = \"yard\"\n" + source + outlet), "stands before", 13);
  refuses(line_case(legs + source + "at = \"50 m\"\n" + outlet), "lies outside the leg 'yard'", 17);
  refuses(line_case(legs + source + "leg = \"rieser\"\n" + outlet), "did you mean 'riser'?", 17);
  refuses(line_case(legs + source + "gas_mass_flow = \"1 g/s\"\n" + outlet),
          "both gas_mass_flow and gas_standard_flow");
  refuses(line_case(legs + source + "liquid_volume_flow = \"1 kg\"\n" + outlet), "both");
  refuses(line_case(legs + "[[source]]\nname = \"feed\"\n" + outlet), "'feed' brings nothing", 13);
  refuses(line_case(legs + "[[source]]\nname = \"feed\"\nliquid_mass_flow = \"-1 kg/s\"\n" + outlet), "cannot take out",
          15);
  refuses(line_case(legs + source), "the line has no outlet");
  refuses(line_case(legs + source + "[outlet]\nend = \"closed\"\npressure = \"1 bar\"\n"),
          "a closed end has no pressure", 19);
  refuses(line_case(legs + source + "[outlet]\npressure = \"-1 bar\"\n"), "absolute and must be positive", 18);
  refuses(line_case(legs + source + "[[valve]]\nname = \"v\"\n" + outlet), "the key 'opening' is missing", 17);
  refuses(line_case(legs + source + "[[valve]]\nname = \"v\"\nopening = \"1.5\"\n" + outlet), "outside 0 to 1", 19);
  const auto held = [](const std::string& keys) {
    return line_case(legs + source + outlet + "[[gauge]]\nname = \"foot\"\nmeasures = \"pressure\"\nleg = \"riser\"\n" +
                     "[[valve]]\nname = \"v\"\nopening = \"0.3\"\n" + keys);
  };
  refuses(held("holds = \"fot\"\n"), "did you mean 'foot'?", 26);
  refuses(held("target = \"2 bar\"\n"), "belongs to a valve that holds something", 26);
  refuses(held("holds = \"foot\"\n"), "the key 'target' is missing", 23);
  refuses(held("holds = \"foot\"\ntarget = \"2 m\"\n"), "pressure", 27);
  refuses(held("holds = \"foot\"\ntarget = \"2 bar\"\nband = \"0 bar\"\n"), "the band must be positive", 28);
  refuses(held("holds = \"foot\"\ntarget = \"2 bar\"\nband = \"1 bar\"\nleast = 0.5\nmost = 0.2\n"),
          "the least below the most", 30);
  refuses(line_case(legs + source + outlet + "[[gauge]]\nname = \"g\"\nmeasures = \"level\"\n"),
          "'level' is not measured in a line", 21);
  refuses(line_case(legs + source + outlet + "[[gauge]]\nname = \"g\"\nmeasures = \"holdup\"\nat = [\"45 m\"]\n"),
          "lies outside the leg", 22);
  refuses(line_case("[vessel]\nsize = [\"1 m\", \"1 m\"]\n" + legs + source + outlet), "not known here", 3);
  refuses("wavy = 1\nmodel = \"line\"\n" + legs + source + outlet + "[run]\nuntil = \"1 s\"\n",
          "a line takes a liquid and a gas");
}

TEST_CASE("a line is checked, run, drawn and measured") {
  const Folder folder;
  folder.write("case.toml",
               line_case("[line]\ncell = \"1 m\"\n" + legs + source + outlet +
                             "[[gauge]]\nname = \"foot\"\nmeasures = \"holdup\"\nleg = \"riser\"\nat = [\"0.5 m\"]\n"
                             "[[gauge]]\nname = \"in_riser\"\nmeasures = \"liquid_held\"\nleg = \"riser\"\n",
                         "300 s"));
  const auto check = drive::wavy(folder, "check case.toml");
  INFO(check.out);
  CHECK(check.code == 0);
  CHECK(check.says("50 cells"));
  CHECK(check.says("(Boe)"));
  CHECK(check.says("case.check.png and case.check.map.png"));
  CHECK(std::filesystem::exists(folder / "case.check.map.png"));
  const auto understood = json::parse(drive::wavy(folder, "check case.toml --no-picture --json").out);
  CHECK(understood["length_m"].get<double>() == about(50));
  CHECK(understood["volume_m3"].get<double>() == about(50 * M_PI / 4 * 0.0025).epsilon(1e-12));
  CHECK(understood["legs"][0]["regime"] == "stratified");

  const auto out = json::parse(drive::wavy(folder, "run case.toml --json").out);
  CHECK(out["status"] == "done");
  for (const auto& phase : out["ledger"]["phases"]) CHECK(std::abs(phase["drift"].get<double>()) < 1e-10);
  const auto table = ::wavy::read_csv(folder / "case.run/history.csv");
  CHECK(table.find("in_riser") > 0);
  CHECK(table.columns[0].back() == about(300).epsilon(1e-12));
  CHECK(drive::wavy(folder, "run case.toml").code == 2);  // nothing is lost
  CHECK(drive::wavy(folder, "draw case.run --to p.svg").code == 0);
  CHECK(folder.read("p.svg").find("stratified") != std::string::npos);
  CHECK(drive::wavy(folder, "draw case.run --what history --to h.png").code == 0);
  CHECK(drive::wavy(folder, "draw case.run --what speed").says("a line has no picture of its speed"));

  // The receiver: all that came when nothing drains; what was asked; rates that are none.
  const auto measured = json::parse(drive::wavy(folder, "measure case.run --json").out);
  double came = 0;
  const auto flow = table.columns[static_cast<std::size_t>(table.find("outlet_water"))];
  for (std::size_t i = 1; i < flow.size(); ++i)
    came += std::max(0.0, flow[i]) * (table.columns[0][i] - table.columns[0][i - 1]);
  CHECK(measured["surge"][0]["volume_m3"].get<double>() == about(came).epsilon(1e-6));
  for (std::size_t i = 1; i < measured["surge"].size(); ++i)
    CHECK(measured["surge"][i]["volume_m3"].get<double>() <= measured["surge"][i - 1]["volume_m3"].get<double>());
  const auto asked = drive::wavy(folder, "measure case.run --drain '1 m^3/h' --chart surge.png --from '60 s'");
  CHECK(asked.says("as asked"));
  CHECK(std::filesystem::exists(folder / "surge.png"));
  const auto wrong = drive::wavy(folder, "measure case.run --drain '1 m/h'");
  CHECK(wrong.code == 2);
  CHECK(wrong.says("--drain"));
  CHECK(drive::wavy(folder, "measure case.run --from '600 s'").says("the run reaches from 0 s to 300 s"));
}

TEST_CASE("a survey of points is a leg, and a line's outflow feeds a vessel") {
  const Folder folder;
  folder.write("survey.csv", "x [m],z [m]\n0,0\n30,-1\n40,0\n43,4\n");
  folder.write(
      "case.toml",
      line_case("[line]\ncell = \"2 m\"\n[[leg]]\nname = \"run\"\nprofile = \"survey.csv\"\ndiameter = \"50 mm\"\n" +
                    source + outlet,
                "60 s"));
  const auto understood = json::parse(drive::wavy(folder, "check case.toml --no-picture --json").out);
  CHECK(understood["length_m"].get<double>() == about(std::hypot(30, 1) + std::hypot(10, 1) + 5).epsilon(1e-9));
  CHECK(understood["legs"][0]["rise_m"].get<double>() == about(4));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const std::string vessel =
      "wavy = 1\n[vessel]\nsize = [\"0.4 m\", \"0.4 m\"]\nthickness = \"0.4 m\"\n[grid]\ncell = \"2 cm\"\n"
      "[tables.condensate]\nfile = \"case.run/history.csv\"\nvalue = \"outlet_water\"\n"
      "[[opening]]\nname = \"in\"\nside = \"left\"\nsize = [\"10 cm\"]\nvolume_flow = \"max(condensate(t + 20 s), "
      "0)\"\n"
      "[[opening]]\nname = \"vent\"\nside = \"top\"\n" +
      fluids + "[run]\nuntil = \"0.2 s\"\n";
  folder.write("vessel.toml", vessel);
  const auto outcome = drive::wavy(folder, "run vessel.toml");
  INFO(outcome.out);
  CHECK(outcome.code == 0);
  folder.write("bad.csv", "x [m],z [m]\n0,0\n30,-1\n20,0\n");
  refuses(line_case("[[leg]]\nname = \"run\"\nprofile = \"bad.csv\"\ndiameter = \"50 mm\"\n" + source + outlet),
          "bad.csv");
}

TEST_CASE("slugs in a line are followed, counted and drawn where that is asked for") {
  const Folder folder;
  const std::string slugging =
      "[line]\ncell = \"5 m\"\nslugs = \"follow\"\n[[leg]]\nname = \"run\"\nlength = \"200 m\"\ndiameter = \"0.1 "
      "m\"\n"
      "[[source]]\nname = \"feed\"\nliquid_mass_flow = \"4 kg/s\"\ngas_standard_flow = \"60 m^3/h\"\n" +
      outlet + "[[gauge]]\nname = \"end\"\nmeasures = \"slugs\"\nat = [\"180 m\"]\n";
  folder.write("case.toml", line_case(slugging, "300 s"));
  const auto out = json::parse(drive::wavy(folder, "run case.toml --json").out);
  for (const auto& phase : out["ledger"]["phases"]) CHECK(std::abs(phase["drift"].get<double>()) < 1e-10);
  const auto measured = json::parse(drive::wavy(folder, "measure case.run --json --from '60 s'").out);
  const auto& slugs = measured["slugs"][0];
  CHECK(slugs["place"] == "end");
  CHECK(slugs["count"].get<int>() > 5);
  // Faster than the mixture's 2.6 m/s by Bendiksen's 1.05 j + 0.54 sqrt(g D) or so.
  CHECK(slugs["speed_m_s"].get<double>() > 2);
  CHECK(slugs["speed_m_s"].get<double>() < 6);
  CHECK(slugs["median_length_m"].get<double>() <= slugs["greatest_length_m"].get<double>());
  CHECK(drive::wavy(folder, "measure case.run").says("half are longer than"));
  CHECK(drive::wavy(folder, "draw case.run --what slugs --to s.svg").code == 0);
  refuses(line_case("[line]\nslug_gas = \"gregory\"\n" + legs + source + outlet),
          "only slugs that are followed hold gas", 4);
  refuses(line_case(legs + source + outlet + "[[gauge]]\nname = \"g\"\nmeasures = \"slugs\"\n"),
          "only where they are followed", 21);
  folder.write("plain.toml", line_case(legs + source + outlet, "5 s"));
  drive::wavy(folder, "run plain.toml");
  CHECK(drive::wavy(folder, "draw plain.run --what slugs").says("no slugs were followed"));
}

TEST_CASE("a valve under control holds a pressure, and its opening is in the history") {
  const Folder folder;
  folder.write("case.toml",
               line_case("[[leg]]\nname = \"pipe\"\nlength = \"50 m\"\ndiameter = \"50 mm\"\n"
                         "[[source]]\nname = \"feed\"\nliquid_mass_flow = \"ramp(t, 100 s, 110 s, 2 kg/s, 3 kg/s)\"\n" +
                             outlet +
                             "[[gauge]]\nname = \"upstream\"\nmeasures = \"pressure\"\nat = [\"40 m\"]\n"
                             "[[valve]]\nname = \"v\"\nopening = \"0.2\"\nholds = \"upstream\"\ntarget = \"1.5 bar\"\n"
                             "band = \"2 bar\"\nreset = \"5 s\"\ntravel = \"4 s\"\n",
                         "400 s"));
  REQUIRE(drive::wavy(folder, "run case.toml").code == 0);
  const auto history = wavy::read_csv(folder / "case.run" / "history.csv");
  const auto at = [&](const char* name, double time) {
    const auto column = static_cast<std::size_t>(history.find(name));
    const auto& times = history.columns[0];
    const auto row = std::lower_bound(times.begin(), times.end(), time) - times.begin();
    return history.columns[column][static_cast<std::size_t>(row)];
  };
  CHECK(at("upstream", 99) == about(1.5e5).epsilon(1e-3));
  CHECK(at("upstream", 400) == about(1.5e5).epsilon(1e-3));
  CHECK(at("v_opening", 400) > 1.2 * at("v_opening", 99));

  // The valve's time limits the steps, and what was run can be run again.
  const auto summary = json::parse(folder.read("case.run/summary.json"));
  CHECK(summary["ledger"]["largest_step_s"].get<double>() <= 4.0 / 20 * (1 + 1e-9));
  const auto again = drive::wavy(folder, "run case.run/case.toml --into again");
  INFO(again.out);
  CHECK(again.code == 0);
  CHECK(folder.read("again/history.csv") == folder.read("case.run/history.csv"));

  // In the chart pressures stand in bar, flows in L/s, the opening in a panel of its own.
  CHECK(drive::wavy(folder, "draw case.run --what history --to h.svg").code == 0);
  const std::string chart = folder.read("h.svg");
  for (const char* title : {"pressure [bar]", "flow [L/s]", "opening", "volume [L]"})
    CHECK(chart.find(title) != std::string::npos);
  CHECK(chart.find("[Pa]") == std::string::npos);
}

TEST_CASE("every mistake about a valve under control has its own message") {
  const auto valve = [](const std::string& keys, const std::string& gauges = "") {
    return line_case(legs + source + outlet + "[[gauge]]\nname = \"foot\"\nmeasures = \"holdup\"\nleg = \"riser\"\n" +
                     gauges + "[[valve]]\nname = \"v\"\n" + keys);
  };
  const std::string good = "opening = \"0.3\"\nholds = \"foot\"\ntarget = 0.4\nband = 0.5\n";
  const Folder folder;
  folder.write("case.toml", valve(good));
  CHECK(drive::wavy(folder, "check case.toml --no-picture").code == 0);
  refuses(valve("opening = \"0.3\"\nholds = \"foot\"\ntarget = 0.4\n"), "the key 'band' is missing");
  refuses(valve("opening = \"0.3\"\nholds = \"foot\"\ntarget = \"2 bar\"\nband = 0.5\n"), "pure number", 27);
  refuses(valve(good + "reset = \"0 s\"\n"), "the reset must be positive", 29);
  refuses(valve(good + "travel = \"0 s\"\n"), "the travel must be positive, not 0 s", 29);
  refuses(valve(good + "opens_on = \"rising\"\n"), "is not one of rise or fall", 29);
  refuses(valve(good + "most = 1.5\n"), "1.5 is outside 0 to 1", 29);
  refuses(valve("opening = \"step(t, 5 s, 0.2, 0.4)\"\nholds = \"foot\"\ntarget = 0.4\nband = 0.5\n"),
          "no formula of time", 25);
  refuses(valve(good, "[[gauge]]\nname = \"v_opening\"\nmeasures = \"pressure\"\nleg = \"riser\"\n"),
          "'v_opening' already");
  refuses(valve("opening = \"0.3\"\nreset = \"1 min\"\n"), "'reset' belongs to a valve that holds something", 26);
  // Slugs come and go: nothing that a valve could hold.
  refuses(line_case("[line]\nslugs = \"follow\"\n" + legs + source + outlet +
                    "[[gauge]]\nname = \"count\"\nmeasures = \"slugs\"\nleg = \"yard\"\n[[valve]]\nname = \"v\"\n"
                    "opening = \"0.3\"\nholds = \"count\"\ntarget = 1\nband = 1\n"),
          "no gauge that a valve can hold is called 'count'");
}

TEST_CASE("check says how far a choke may be open, and that sections are too long for slugs") {
  const Folder folder;
  folder.write("case.toml", line_case("[line]\ncell = \"1 m\"\n" + legs + source + outlet));
  CHECK(drive::wavy(folder, "check case.toml --no-picture")
            .says("a choke at its top keeps the flow steady when open to"));
  folder.write("choked.toml", line_case("[line]\ncell = \"1 m\"\n" + legs + source + outlet +
                                        "[[valve]]\nname = \"top_valve\"\nopening = \"1\"\n"));
  CHECK(drive::wavy(folder, "check choked.toml --no-picture").says("top_valve at its top keeps the flow steady"));
  folder.write("airy.toml",
               line_case("[line]\ncell = \"1 m\"\n" + legs +
                         "[[source]]\nname = \"feed\"\nliquid_mass_flow = \"0.2 kg/s\"\ngas_standard_flow = \"200 "
                         "m^3/h\"\n" +
                         outlet));
  CHECK(drive::wavy(folder, "check airy.toml --no-picture").says("small disturbances of steady flow die out"));

  const auto notes = [&](const std::string& section) {
    folder.write("slugs.toml",
                 line_case("[line]\nslugs = \"follow\"\ncell = \"" + section + "\"\n" + legs + source + outlet));
    return json::parse(drive::wavy(folder, "check slugs.toml --no-picture --json").out)["notes"].dump();
  };
  CHECK(notes("2 m").find("cells of up to 40 diameters") != std::string::npos);
  CHECK(notes("1 m").find("diameters") == std::string::npos);
}

TEST_CASE("the former name of a key is read, with a note, and its new name is written") {
  const Folder folder;
  const auto text = [&](const std::string& keys) { return line_case("[line]\n" + keys + legs + source + outlet); };
  folder.write("new.toml", text("cell = \"1 m\"\n"));
  folder.write("old.toml", text("section = \"1 m\"\n"));
  const auto old = drive::wavy(folder, "check old.toml");
  CHECK(old.code == 0);
  CHECK(old.says("line.section is now called line.cell"));
  CHECK_FALSE(drive::wavy(folder, "check new.toml").says("now called"));
  REQUIRE(drive::wavy(folder, "run new.toml").code == 0);
  REQUIRE(drive::wavy(folder, "run old.toml").code == 0);
  CHECK(folder.read("new.run/history.csv") == folder.read("old.run/history.csv"));
  CHECK(folder.read("old.run/case.toml").find("\ncell = ") != std::string::npos);
  CHECK(folder.read("old.run/case.toml").find("\nsection = ") == std::string::npos);
  folder.write("both.toml", text("cell = \"1 m\"\nsection = \"2 m\"\n"));
  const auto both = drive::wavy(folder, "check both.toml");
  CHECK(both.code == 2);
  CHECK(both.says("'section' is the former name of 'cell', which is given too"));
}

TEST_CASE("gauges of a line read after the run what they read during it") {
  const Folder folder;
  const std::string gauges =
      "[[gauge]]\nname = \"p2\"\nmeasures = \"pressure\"\nleg = \"up\"\nat = [\"3 m\"]\n"
      "[[gauge]]\nname = \"h2\"\nmeasures = \"holdup\"\nleg = \"down\"\nat = [\"17 m\"]\n"
      "[[gauge]]\nname = \"l2\"\nmeasures = \"liquid_flow\"\nleg = \"up\"\nat = [\"1 m\"]\n"
      "[[gauge]]\nname = \"g2\"\nmeasures = \"gas_flow\"\nleg = \"up\"\nat = [\"1 m\"]\n"
      "[[gauge]]\nname = \"all2\"\nmeasures = \"liquid_held\"\n"
      "[[gauge]]\nname = \"leg2\"\nmeasures = \"liquid_held\"\nleg = \"up\"\n";
  const std::string text = drive::with_end(drive::given_case("wash_line"), "20 s");
  folder.write("plain.toml", text);
  folder.write("with.toml", drive::replaced(text, "\\[run\\]", gauges + "[run]"));
  folder.write("gauges.toml", gauges);
  REQUIRE(drive::wavy(folder, "run plain.toml --quiet").code == 0);
  REQUIRE(drive::wavy(folder, "run with.toml --quiet").code == 0);
  const auto outcome = drive::wavy(folder, "measure plain.run --gauges gauges.toml --table t.csv");
  CAPTURE(outcome.out);
  REQUIRE(outcome.code == 0);
  const wavy::Table after = wavy::read_csv(folder / "t.csv");
  const wavy::Table during = wavy::read_csv(folder / "with.run/history.csv");
  REQUIRE(after.columns[0].size() > 2);
  for (std::size_t c = 1; c < after.names.size(); ++c) {
    CAPTURE(after.names[c]);
    const auto column = static_cast<std::size_t>(during.find(after.names[c]));
    for (std::size_t i = 0; i < after.columns[0].size(); ++i) {
      const auto row = static_cast<std::size_t>(std::ranges::find(during.columns[0], after.columns[0][i]) -
                                                during.columns[0].begin());
      REQUIRE(row < during.columns[0].size());
      // The history keeps ten digits.
      CHECK(after.columns[c][i] == about(during.columns[column][row]).epsilon(1e-9));
    }
  }
  const auto slugs = drive::wavy(
      folder,
      "measure plain.run --gauge 'name = \\\"s\\\", measures = \\\"slugs\\\", leg = \\\"up\\\", at = [\\\"1 m\\\"]'");
  CHECK(slugs.code == 2);
  CHECK(drive::wavy(folder, "measure plain.run --distribution p2 --gauges gauges.toml").says("a line has none"));
}
