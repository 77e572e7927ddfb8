// Damaged input of every kind: nothing may crash, hang, eat memory or answer without a place.
//
// WAVY_ATTACK_COUNT: how many variants of each kind (a few where it is not set); WAVY_ATTACK_SEED: of them.
#include <doctest/doctest.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>
#include <vtkUnstructuredGrid.h>

#include <cstdio>
#include <cstdlib>
#include <fstream>
#include <functional>

#include "base/table.hpp"
#include "case/case_file.hpp"
#include "case/scenarios.hpp"
#include "case/snapshot_reader.hpp"
#include "mesh/cover.hpp"
#include "mutator.hpp"
#include "results/run_folder.hpp"
#include "results/snapshot.hpp"
#include "run/estimates.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

constexpr unsigned seconds_each = 20;
constexpr long most_memory = 2L << 20U;  // beyond that at the start [KB]

long from_environment(const char* name, long standard) {
  const char* value = std::getenv(name);
  return value == nullptr ? standard : std::atol(value);
}

/// Gives the content to `use`, which may throw an input error with a place. True where all is well.
bool survives(const std::function<void(const std::string&)>& use, const std::string& content, std::string& answer) {
  try {
    use(content);
    return true;
  } catch (const Error& error) {
    answer = error.what();
    return error.fault() == Fault::input && !error.place().file.empty();
  } catch (const std::exception& error) {
    answer = std::string("not an error of ours: ") + error.what();
    return false;
  }
}

/// Runs `count` variants in processes of their own, many to a process. Failures are kept in /tmp/wavy_attack_*.
void attack_with(const std::string& kind, const std::vector<std::string>& samples, bool text, long quick,
                 const std::function<void(const std::string&)>& use) {
  const long count = from_environment("WAVY_ATTACK_COUNT", quick);
  const auto seed = static_cast<std::uint64_t>(from_environment("WAVY_ATTACK_SEED", 1));
  for (const auto& sample : samples) {  // unharmed they are taken
    std::string answer;
    INFO(kind, ": ", answer);
    REQUIRE(survives(use, sample, answer));
    REQUIRE(answer.empty());
  }
  attack::Mutator mutate(seed);
  constexpr long batch = 100;
  long failed = 0;
  std::fflush(stdout);
  for (long done = 0; done < count; done += batch) {
    std::vector<std::string> variants;
    for (long n = done; n < std::min(count, done + batch); ++n) variants.push_back(mutate(samples, text));
    const auto run = [&](std::size_t first, std::size_t last) {  // exit code, or 128 + signal
      const pid_t child = fork();
      if (child == 0) {
        rusage before{};
        getrusage(RUSAGE_SELF, &before);
        for (std::size_t n = first; n < last; ++n) {
          alarm(seconds_each);
          std::string answer;
          if (!survives(use, variants[n], answer)) _exit(1);
          rusage after{};
          getrusage(RUSAGE_SELF, &after);
          if (after.ru_maxrss - before.ru_maxrss > most_memory) _exit(2);
        }
        _exit(0);
      }
      int status = 0;
      waitpid(child, &status, 0);
      return WIFEXITED(status) ? WEXITSTATUS(status) : 128 + WTERMSIG(status);
    };
    if (run(0, variants.size()) == 0) continue;
    for (std::size_t n = 0; n < variants.size(); ++n) {
      const int code = run(n, n + 1);
      if (code == 0) continue;
      ++failed;
      const std::string file = "/tmp/wavy_attack_" + kind + "_" + std::to_string(done + static_cast<long>(n));
      std::ofstream(file, std::ios::binary) << variants[n];
      std::string answer;
      if (code == 1) survives(use, variants[n], answer);
      MESSAGE(kind, ": ", file,
              code == 1   ? " answers without a place: " + answer
              : code == 2 ? " takes too much memory"
                          : " ends with code " + std::to_string(code));
    }
  }
  std::printf("%s: %ld tried, %ld failed\n", kind.c_str(), count, failed);
  CHECK(failed == 0);
}

std::vector<std::string> sample_cases() {
  std::vector<std::string> samples;
  for (const auto& scenario : scenarios()) samples.push_back(scenario.text);
  samples.push_back(
      "wavy = 1\nvessel.size = [\"1 m\", \"0.6 m\"]\nvessel.symmetry = \"round\"\ngrid.cell = \"5 cm\"\n[constants]\nw "
      "= "
      "\"0.3 m\"\n[[phase]]\nname = \"oil\"\ndensity = \"900 kg/m^3\"\nrheology = \"formula\"\nviscosity_formula = "
      "\"0.1 Pa.s + "
      "2 Pa.s / (1 + (0.5 s * rate)^0.8)\"\n[[insert]]\nshape = \"formula\"\nwhere = \"w - x - y\"\nlower = [\"0 m\", "
      "\"0 "
      "m\"]\nupper = [\"w\", \"w\"]\n[[fill]]\nphase = \"oil\"\nshape = \"polygon\"\npoints = [[\"0 m\", \"0 m\"], "
      "[\"1 m\", \"0 "
      "m\"], [\"1 m\", \"0.4 m\"]]\n[run]\nuntil = \"1 s\"\n");
  samples.push_back(
      "wavy = 1\nvessel.size = [\"1 m\", \"0.6 m\", \"0.5 m\"]\nvessel.symmetry = \"sector\"\nvessel.sector = \"45 "
      "deg\"\ngrid.cell = \"6 cm\"\n[[phase]]\nname = \"water\"\nfluid = \"water\"\n[[phase]]\nname = \"air\"\nfluid = "
      "\"air\"\n[[opening]]\nname = \"out\"\nside = \"right\"\nbalances = \"0.3 m\"\n[[opening]]\nname = \"top\"\nside "
      "= "
      "\"top\"\n[[opening]]\nname = \"in\"\nside = \"bottom\"\ndiameter = \"20 cm\"\nvolume_flow = \"3 L/min\"\nshare "
      "= "
      "0.4\n[[fill]]\nphase = \"water\"\nvolume = \"60 L\"\n[[gauge]]\nname = \"f\"\nmeasures = \"force\"\nwall = "
      "\"right\"\nalong = \"z\"\n[run]\nuntil = \"1 s\"\n");
  return samples;
}

/// A tetrahedron in three formats.
std::vector<std::string> sample_surfaces(std::vector<std::string>& endings) {
  const std::array<std::array<float, 3>, 4> p{{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {0, 0, 1}}};
  const std::array<std::array<int, 3>, 4> faces{{{0, 2, 1}, {0, 1, 3}, {0, 3, 2}, {1, 2, 3}}};
  std::string text = "solid body\n";
  std::string obj = "# a body\n";
  std::string binary(84, ' ');
  const std::uint32_t count = 4;
  std::memcpy(binary.data() + 80, &count, sizeof(count));
  for (const auto& q : p)
    obj += "v " + std::to_string(q[0]) + " " + std::to_string(q[1]) + " " + std::to_string(q[2]) + "\n";
  obj += "vn 0 0 1\nvt 0 0\n";
  for (const auto& face : faces) {
    text += " facet normal 0 0 0\n  outer loop\n";
    binary.append(12, '\0');
    obj += "f";
    for (const int k : face) {
      const auto& q = p[static_cast<std::size_t>(k)];
      text += "   vertex " + std::to_string(q[0]) + " " + std::to_string(q[1]) + " " + std::to_string(q[2]) + "\n";
      binary.append(reinterpret_cast<const char*>(q.data()), 12);
      obj += " " + std::to_string(k + 1) + "/1/1";
    }
    text += "  endloop\n endfacet\n";
    binary.append(2, '\0');
    obj += "\n";
  }
  endings = {".stl", ".stl", ".obj"};
  return {text + "endsolid body\n", binary, obj};
}

std::string content_of(const std::filesystem::path& file) { return read_file(file, 1U << 30U).value_or(""); }

}  // namespace

TEST_CASE("damaged case files are answered with a place") {
  const TemporaryFolder folder;
  attack_with("cases", sample_cases(), true, 400, [&](const std::string& text) {
    const CaseFile the_case = parse_case(text, folder / "case.toml");
    warnings(the_case);
    if (const LineSetup* line = line_of(the_case)) {
      if (line->legs.size() < 20) make_line(*line);
      return;
    }
    with_vessel(the_case, [](const auto& setup) {
      constexpr double small = 9e7;  // with the program itself
      if (needed_memory(setup) > small) return;
      const auto grid = make_grid(setup);
      const OwnModel model(setup, grid);
    });
  });
}

TEST_CASE("damaged surface files are answered with a place") {
  const TemporaryFolder folder;
  std::vector<std::string> endings;
  const auto samples = sample_surfaces(endings);
  for (std::size_t k = 0; k < samples.size(); ++k) {
    const std::string name = "body" + endings[k];
    const std::string text = "wavy = 1\n[vessel]\nshape = \"surface\"\nfile = \"" + name +
                             "\"\nunit = \"1 m\"\n[grid]\ncell = \"10 cm\"\n[[phase]]\nname = \"water\"\nfluid = "
                             "\"water\"\n[run]\nuntil = \"1 s\"\n";
    attack_with("surfaces_" + std::to_string(k), {samples[k]}, k != 1, 150, [&](const std::string& content) {
      folder.write(name, content);
      const CaseFile the_case = parse_case(text, folder / "case.toml");
      const auto& setup = std::get<Setup<3>>(the_case.setup);
      constexpr double small = 9e7;
      if (needed_memory(setup) > small) return;
      const auto grid = make_grid(setup);
      const OwnModel model(setup, grid);
    });
  }
}

TEST_CASE("damaged snapshots are answered with a place") {
  const TemporaryFolder folder;
  const Grid<2> grid({0, 0}, {1, 1}, partition<2>({1, 1}, 0.1));
  sharp::Settings<2> settings;
  settings.liquid = {1000, 0};
  settings.gas = {1, 0};
  settings.body_force = [](double) { return Vec<2>{0, -9.81}; };
  sharp::Model<2> model(grid, settings);
  cover<2>(grid, model.state().F, BelowLevel<2>{0.43});
  model.start();
  write_snapshot<2>(model, folder / "a.vtu");
  const std::string sealed = content_of(folder / "a.vtu");
  const std::string open = sealed.substr(0, sealed.rfind("<!-- checksum"));  // as another program writes it
  const std::string text =
      "wavy = 1\nvessel.size = [\"1 m\", \"1 m\"]\ngrid.cell = \"10 cm\"\n[[phase]]\nname = \"water\"\nfluid = "
      "\"water\"\n[[fill]]\nphase = \"water\"\nshape = \"run\"\nfrom = \"b.vtu\"\n[run]\nuntil = \"1 s\"\n";
  const auto use = [&](const std::string& content) {
    folder.write("b.vtu", content);
    read_snapshot(folder / "b.vtu");
    const CaseFile the_case = parse_case(text, folder / "case.toml");
    const auto& setup = std::get<Setup<2>>(the_case.setup);
    const auto own = make_grid(setup);
    const OwnModel again(setup, own);
  };
  attack_with("snapshots", {sealed}, false, 200, use);
  attack_with("snapshots_unsealed", {open}, false, 200, use);
}

TEST_CASE("damaged histories, tables and summaries are answered with a place") {
  const TemporaryFolder folder;
  const std::string history = "time [s],level [m],speed [m/s]\n0,0.1,2\n0.1,0.2,-3e-5\n0.2,0.3,1e3\n";
  attack_with("histories", {history}, true, 400, [&](const std::string& content) {
    folder.write("history.csv", content);
    long left_out = 0;
    read_csv(folder / "history.csv", &left_out);
    read_csv(folder / "history.csv");
  });
  const std::string summary =
      "{\"format\": 1, \"title\": \"a\", \"status\": \"done\", \"ended_at_s\": 2.0, \"phases\": [\"water\", "
      "\"air\"],\n\"snapshots\": [{\"time_s\": 0.0, \"file\": \"snapshots/00000.vtu\"},\n{\"time_s\": 2.0, \"file\": "
      "\"snapshots/00001.vtu\"}]}\n";
  attack_with("summaries", {summary}, true, 400, [&](const std::string& content) {
    folder.write("summary.json", content);
    open_run_folder(folder.path());
  });
}
