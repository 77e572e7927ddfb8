// The command line: what each command is called and takes. The one file that knows how it is read.
#include "app/command_line.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <memory>

#include "app/commands.hpp"
#include "app/shell_pages.hpp"
#include "base/error.hpp"
#include "base/text.hpp"
#include "run/quantities.hpp"

namespace wavy {
namespace {

/// Of the command that was called, set by its callback.
int& exit_code() {
  static int code = 0;
  return code;
}

void add_new(CLI::App& app) {
  auto request = std::make_shared<NewRequest>();
  auto* command = app.add_subcommand("new", "Write a commented case to start from; without a name: list them");
  command->add_option("scenario", request->scenario, "Which one");
  command->add_option("file", request->file, "File to write; left out: SCENARIO.toml here");
  command->add_flag("--all", request->all, "With every key there is, switched off where the case does without it");
  command->add_flag("--force", request->force, "Replace an existing file");
  command->callback([request] { exit_code() = new_case(*request); });
}

void add_check(CLI::App& app) {
  struct Options {
    std::string file, picture;
    bool no_picture = false;
    bool json = false;
  };
  auto options = std::make_shared<Options>();
  auto* command = app.add_subcommand(
      "check", "Read a case: show what was understood, what it will cost, and a picture of the fill");
  command->add_option("case", options->file, "Case file")->required();
  command->add_option("--picture", options->picture,
                      "Name of the picture; left out: CASE.check.png here. Sections of a 3-D vessel go beside it");
  command->add_flag("--no-picture", options->no_picture, "Draw none");
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] {
    std::string picture = options->picture;
    if (picture.empty()) picture = std::filesystem::path(options->file).stem().string() + ".check.png";
    exit_code() = check_case(options->file, options->no_picture ? "" : picture, options->json);
  });
}

/// The options that all commands that run a case have.
void add_run_options(CLI::App& command, RunRequest& request) {
  command
      .add_option("--threads", request.threads,
                  "Processor cores to use; left out: as many as the cells are worth. The result does not depend on it")
      ->check(CLI::Range(1, 1024));
  command.add_flag("--json", request.json, "Print the summary as JSON (SI units) at the end, nothing else");
}

void add_run(CLI::App& app) {
  auto request = std::make_shared<RunRequest>();
  auto* command = app.add_subcommand("run", "Run a case; Ctrl-C ends it in order");
  command->add_option("case", request->case_file, "Case file")->required();
  command->add_option("--into", request->folder, "Run folder; left out: CASE.run here");
  command->add_flag("--force", request->force, "Replace an earlier run in that folder");
  command
      ->add_option(
          "--coarser-first", request->coarser_first,
          "Runs it on cells twice as large before, this many times over (1 to 4), each run from the end of the "
          "one before: the shorter way to a settled state")
      ->check(CLI::Range(1, 4));
  add_run_options(*command, *request);
  command->callback([request] { exit_code() = run_case(*request); });
}

void add_resume(CLI::App& app) {
  auto request = std::make_shared<ResumeRequest>();
  auto* command = app.add_subcommand("resume", "Go on with a run that was stopped or killed, or beyond its end");
  command->add_option("run", request->run.folder, "Run folder")->required();
  command->add_option("--until", request->until, "Another end, for example --until '20 s'");
  command->add_flag("--before", request->before, "From the checkpoint before the newest");
  add_run_options(*command, request->run);
  command->callback([request] { exit_code() = resume(*request); });
}

/// What pictures can show of a vessel.
std::vector<std::string> drawn_fields() {
  std::vector<std::string> names;
  for (const auto* quantity : all_quantities())
    if (quantity->components == 1) names.push_back(quantity->name);
  return names;
}

/// A field that pictures show, one of a phase too ("air_fraction"), or one of these words.
CLI::Validator drawn_field(std::vector<std::string> words) {
  const CLI::IsMember members(std::move(words));
  const auto check = [members](std::string& value) {
    const auto* quantity = find_quantity(value);
    return quantity != nullptr && quantity->components == 1 ? std::string() : members(value);
  };
  return {check, members.get_description()};
}

/// The options that all commands with pictures of fields have.
void add_picture_options(CLI::App& command, PictureWords& words) {
  command.add_option("--range", words.range,
                     "Range of the colours, for example '0 m/s to 2 m/s'; left out: that of what is shown");
  command.add_option("--scale", words.scale, "Of the colours: even, log, or symmetric about 0; left out: even")
      ->check(CLI::IsMember({"even", "log", "symmetric"}));
  command.add_option("--lines", words.lines, "Draw about so many lines of equal value, at round values")
      ->check(CLI::Range(1, 100));
  command.add_flag("--arrows", words.arrows, "Draw arrows of the velocity");
  command.add_flag("--streamlines", words.streamlines, "Draw streamlines of the velocity at that moment");
  command
      .add_option("--surface", words.surfaces,
                  "Of a 3-D run: the surface where a quantity has a value, for example 'pressure = 2 kPa', in place "
                  "of the liquid; may be given several times")
      ->allow_extra_args(false);
  command.add_option("--cut-open", words.cut_open,
                     "Of a 3-D run: leave out what lies before a plane, for example 'y = 0.4 m'");
  command.add_flag("--unsmoothed", words.unsmoothed, "Show every cell in the colour of its own value");
  command.add_flag("--cells", words.cells, "Show the cells");
  command.add_option("--look", words.look,
                     "TOML file with these options as keys (what = \"speed\", arrows = true); what is given here wins");
}

void add_draw(CLI::App& app) {
  auto request = std::make_shared<DrawRequest>();
  auto* command = app.add_subcommand("draw", "Draw a picture of a run, 1280 x 800");
  std::vector<std::string> words = drawn_fields();
  std::vector<std::string> pictured;
  for (const auto& name : words)
    if (!is_mean(name)) pictured.push_back(fmt::format("{} ({})", name, find_quantity(name)->meaning));
  words.insert(words.end(), {"history", "profile", "slugs"});
  command->add_option("run", request->folder, "Run folder")->required();
  command
      ->add_option(
          "--what", request->subjects.what,
          "Of a vessel, one or several on a page (with mean_ or rms_ before it of a run with run.means_from): " +
              listing(pictured) +
              "; with model = \"eulerian\" also PHASE_fraction and PHASE_speed. Of a line: profile (height, regime, "
              "holdup, pressure and speeds along it) or slugs (over "
              "distance and time). Of both: history (chart of all gauges)")
      ->check(drawn_field(words))
      ->allow_extra_args(false);
  command
      ->add_option("--at", request->at,
                   "Time, for example --at '1.2 s'; the nearest snapshot is drawn. Several times: one below the "
                   "other. Left out: the last")
      ->allow_extra_args(false);
  command
      ->add_option("--section", request->subjects.sections,
                   "Of a 3-D run what a plane shows, for example --section 'y = 0.4 m' or 'x + y = 0.8 m'; several "
                   "beside each other. Left out: the body from outside")
      ->allow_extra_args(false);
  add_picture_options(*command, request->words);
  command->add_option("--to", request->to,
                      "File to write; left out: in the run folder's figures/. A chart may be .svg or .pdf too");
  command->callback([request] { exit_code() = draw_run(*request); });
}

void add_explain(CLI::App& app) {
  auto word = std::make_shared<std::string>();
  auto file = std::make_shared<std::string>();
  auto* command =
      app.add_subcommand("explain", "Say what a key, a word or a name in a case means, and where the case sets it");
  command->add_option("word", *word, "Key or word; left out: list all; 'reference': the page of all keys in Markdown");
  command->add_option("case", *file, "Case file or run folder in which to look for it");
  command->callback([word, file] { exit_code() = explain(*word, *file); });
}

void add_fluids(CLI::App& app) {
  struct Options {
    std::string word, at = "20 degC";
    bool json = false;
  };
  auto options = std::make_shared<Options>();
  auto* command = app.add_subcommand("fluids", "Show and search the built-in fluids");
  command->add_option("word", options->word, "Only fluids with this word in their name or kind");
  command->add_option("--at", options->at, "Temperature, for example --at '60 degC'")->capture_default_str();
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] { exit_code() = show_fluids(options->word, options->at, options->json); });
}

void add_demo(CLI::App& app) {
  auto folder = std::make_shared<std::string>("demo");
  auto force = std::make_shared<bool>(false);
  auto* command =
      app.add_subcommand("demo", "Write, check, run and draw the braking hydrosol tote of Hollin Fold (half a minute)");
  command->add_option("folder", *folder, "Folder for everything")->capture_default_str();
  command->add_flag("--force", *force, "Replace an earlier demo");
  command->callback([folder, force] { exit_code() = demo(*folder, *force); });
}

void add_film(CLI::App& app) {
  auto options = std::make_shared<FilmRequest>();
  auto* command = app.add_subcommand("film", "Make a film (MP4) of the snapshots of a run, or of several side by side");
  command->add_option("runs", options->folders, "Run folders, one to four")->required()->expected(1, 4);
  command
      ->add_option(
          "--what", options->what,
          "The field to show, see draw; left out: fraction, in the Eulerian model that of the first dispersed phase")
      ->check(drawn_field(drawn_fields()));
  command->add_option("--from", options->from, "Begin at this time, for example '0.5 s'; left out: the start");
  command->add_option("--until", options->to_time, "End at this time; left out: as far as all reach");
  command->add_option("--section", options->section, "Of a 3-D run: what a plane shows, for example 'y = 0.4 m'");
  add_picture_options(*command, options->words);
  command->add_option("--lasts", options->lasts,
                      "How long the film is, for example '10 s'; left out: twenty pictures a second");
  command->add_option("--to", options->to, "MP4 file; left out: figures/WHAT.mp4 in the run folder");
  command->callback([options] { exit_code() = film(*options); });
}

void add_export(CLI::App& app) {
  auto options = std::make_shared<ExportRequest>();
  auto* command =
      app.add_subcommand("export", "Write the history, a snapshot or the interface of a run for other programs");
  command->add_option("run", options->folder, "Run folder")->required();
  command
      ->add_option("--what", options->what,
                   "history; snapshot: a row for every cell, or the grid; interface: its surface, or in 2-D the "
                   "points of its lines")
      ->capture_default_str()
      ->check(CLI::IsMember({"history", "snapshot", "interface"}));
  command->add_option("--at", options->at, "Time of the snapshot, for example '1.2 s'; left out: the last");
  command->add_option(
      "--units", options->units,
      "Units in place of those of the SI, for example 'mm, kPa, min': each for all that it can measure");
  command
      ->add_option("--to", options->to,
                   "File to write: .csv; a snapshot also .vtu or .vtkhdf, the interface of a 3-D run .stl (m)")
      ->required();
  command->callback([options] { exit_code() = export_run(*options); });
}

void add_measure(CLI::App& app) {
  auto options = std::make_shared<MeasureRequest>();
  auto* command =
      app.add_subcommand("measure", "Figures from a run: gauges, and how large a receiver behind a line must be");
  command->add_option("run", options->folder, "Run folder")->required();
  command->add_option("--from", options->from, "Count from this time on, for example '600 s'; left out: the start");
  command->add_option("--to", options->to, "Count up to this time, for example '900 s'; left out: the end");
  command->add_option(
      "--gauge", options->gauges,
      "Read this from the snapshots, for example 'name = \"top\", measures = \"highest_level\"'; may be "
      "given several times");
  command->add_option("--gauges", options->gauge_file, "Read the [[gauge]] in this TOML file from the snapshots");
  command->add_option("--distribution", options->distribution,
                      "Show what this gauge makes its figure of place by place: a quantity along a line or a wall");
  command
      ->add_option("--beside", options->beside,
                   "Draw --distribution of this run too, at the end of the time; may be given several times")
      ->allow_extra_args(false);
  command->add_option(
      "--measured", options->measured,
      "Draw --distribution with what was measured: CSV with 'distance [m]' and a column of the quantity");
  command->add_option("--pieces", options->pieces,
                      "List the drops, bubbles and pools of this phase: volume, place and velocity of each");
  command->add_option("--when", options->when,
                      "Say when this holds and for how long, for example 'front_level > 40 cm'; may be given several "
                      "times");
  command->add_option("--swings", options->swings,
                      "Find the periods and amplitudes of this gauge; may be given several times");
  command->add_option("--table", options->table,
                      "Write what --gauge, --gauges, --distribution or --pieces read into this .csv");
  command->add_option("--drain", options->drain,
                      "Behind a line: volume of the receiver for this drain rate, for example '2 m^3/h'");
  command->add_option("--chart", options->chart,
                      "Draw --distribution at some times, the spectra of --swings or, behind a line, the receiver's "
                      "volume over the drain rate into this .png, .svg or .pdf");
  command->add_option("--map", options->map, "Draw --distribution over distance and time into this .png, .svg or .pdf");
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] { exit_code() = measure(*options); });
}

void add_compare(CLI::App& app) {
  auto options = std::make_shared<CompareRequest>();
  auto* command = app.add_subcommand(
      "compare", "Runs beside each other: what differs, and of three grids or more which figures can be trusted");
  command->add_option("runs", options->folders, "Run folders, two or more")->required();
  command->add_option("--from", options->from, "Count from this time on; left out: the start");
  command->add_option("--to", options->to, "Count up to this time; left out: as far as all reach");
  command->add_option("--chart", options->chart, "Draw all gauges of all runs into this .png, .svg or .pdf");
  command->add_option(
      "--measured", options->measured,
      "Hold the runs against this CSV: a column 'time [s]', and columns with names and units of gauges");
  command->add_option("--interfaces", options->interfaces,
                      "Lay the interfaces of the runs over each other in this .png");
  command->add_option("--field", options->field, "Compare this field place by place, over different grids too")
      ->check(drawn_field(drawn_fields()));
  command->add_option("--difference", options->difference, "Draw the difference of --field of two runs into this .png");
  command
      ->add_option("--at", options->at,
                   "Time of --interfaces and --field, for example '1.2 s'; of interfaces several times. Left out: the "
                   "last that all reach")
      ->allow_extra_args(false);
  command->add_option("--section", options->section, "Of 3-D runs: the plane that these show, for example 'y = 0.4 m'");
  command->add_option("--range", options->range, "Range of the colours of --difference, for example '-1 kPa to 1 kPa'");
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] { exit_code() = compare(*options); });
}

void add_watch(CLI::App& app) {
  struct Options {
    std::string folder;
    bool once = false, json = false;
  };
  auto options = std::make_shared<Options>();
  auto* command = app.add_subcommand("watch", "Follow a run that is going on from another terminal; Ctrl-C leaves it");
  command->add_option("run", options->folder, "Run folder")->required();
  command->add_flag("--once", options->once, "Show it as it is now and end");
  command->add_flag("--json", options->json, "Print it as it is now as JSON (SI units)");
  command->callback([options] { exit_code() = watch(options->folder, options->once, options->json); });
}

void add_report(CLI::App& app) {
  auto options = std::make_shared<ReportRequest>();
  auto* command = app.add_subcommand(
      "report", "Write one page (HTML, nothing beside it) on a run: case, pictures, charts, ledger, what to trust");
  command->add_option("runs", options->folders, "The run folder, and others to compare it with")->required();
  command->add_option("--measured", options->measured, "Hold the runs against this CSV, as compare does");
  command->add_option("--to", options->to, "File to write, .html; left out: report.html in the run folder");
  command->callback([options] { exit_code() = report(*options); });
}

void add_study(CLI::App& app) {
  auto options = std::make_shared<StudyRequest>();
  auto* command = app.add_subcommand(
      "study",
      "Run a case with values varied, as a TOML file says; what is done is kept, what was interrupted goes on");
  command->add_option("file", options->file, "Study file, or with --grids a case file")->required();
  command
      ->add_option("--grids", options->grids,
                   "Run a case on so many grids, the finest its own, each with cells twice as large as the next")
      ->check(CLI::Range(2, 8));
  command->add_option("--into", options->folder, "Folder of the study; left out: FILE.study here");
  command->add_option("--at-once", options->at_once, "How many runs at once; left out: as many as there are cores")
      ->check(CLI::Range(1, 1024));
  command->add_flag("--json", options->json, "Print JSON (SI units)");
  command->callback([options] { exit_code() = study(*options); });
}

void add_validate(CLI::App& app) {
  auto options = std::make_shared<ValidateRequest>();
  auto* command =
      app.add_subcommand("validate", "Run published problems and hold the results against their references");
  command->add_flag("--list", options->list, "List the cases");
  command->add_flag("--quick", options->quick, "Only the quick ones, smaller where they can be (two minutes)");
  command->add_option("--only", options->only, "Only these cases");
  command->add_option("--into", options->into, "Folder for the table and the figures")->capture_default_str();
  command->add_flag("--json", options->json, "Print JSON");
  command->callback([options] { exit_code() = validate(*options); });
}

/// What makes the program known to a shell and to man.
void add_shell_pages(CLI::App& app) {
  auto shell = std::make_shared<std::string>();
  auto* completing = app.add_subcommand("completion", "Print what a shell reads to complete commands and options");
  completing->add_option("shell", *shell, "Which shell")->required()->check(CLI::IsMember({"bash", "zsh", "fish"}));
  completing->callback([&app, shell] { fmt::print("{}", completion(app, *shell)); });
  auto* manual = app.add_subcommand("manual", "Print the manual page, for man -l -");
  manual->callback([&app] { fmt::print("{}", manual_page(app)); });
}

/// Nothing is printed from here on but errors, and the JSON that the command was asked for.
void hush(const CLI::App& app) {
  quiet() = true;
  const CLI::App* command = app.get_subcommands().front();
  const CLI::Option* json = command->get_option_no_throw("--json");
  if (json != nullptr && json->count() > 0) return;
  if (std::freopen("/dev/null", "w", stdout) == nullptr) throw failure("/dev/null cannot be opened", "");
}

/// Lets threads sleep while they wait for each other. Where they spin instead, as is usual, two runs on the same cores
/// take ten times as long as one. What says so is read before main begins: the program starts over, once.
void let_threads_sleep(char** argv) {
  if (getenv("OMP_WAIT_POLICY") != nullptr || getenv("GOMP_SPINCOUNT") != nullptr) return;
  if (setenv("OMP_WAIT_POLICY", "passive", 1) == 0) execv("/proc/self/exe", argv);  // goes on below where it cannot
}

/// Under a launcher that starts several ranks each would do the same work and write the same files.
void refuse_ranks() {
  for (const auto& [size, rank] :
       {std::pair{"OMPI_COMM_WORLD_SIZE", "OMPI_COMM_WORLD_RANK"}, {"PMI_SIZE", "PMI_RANK"}}) {
    const char* ranks = getenv(size);
    if (ranks == nullptr || std::atoi(ranks) <= 1) continue;
    const char* own = getenv(rank);
    if (own != nullptr && std::atoi(own) > 0) std::_Exit(exit_wrong_input);  // the first one speaks for all
    throw input_error(
        {}, fmt::format("the program was started on {} ranks; it runs on one", ranks),
        "start it without a launcher, or on one rank; 'wavy run --threads N' says how many cores it uses");
  }
}

}  // namespace

int command_line(int argc, char** argv) {
  refuse_ranks();
  CLI::App app(
      "Simulates gas-liquid and liquid-liquid flow in tanks, pipes and separators.\n"
      "First steps: wavy new tote_braking; wavy check tote_braking.toml; wavy run tote_braking.toml; wavy draw "
      "tote_braking.run",
      "wavy");
  app.set_version_flag("--version", "wavy " WAVY_VERSION);
  app.require_subcommand(1);
  app.failure_message([](const CLI::App*, const CLI::Error& error) {
    return std::string("wavy: ") + error.what() + "\n  see: wavy --help, or --help behind a command\n";
  });
  add_new(app);
  add_check(app);
  add_run(app);
  add_resume(app);
  add_draw(app);
  add_explain(app);
  add_fluids(app);
  add_demo(app);
  add_film(app);
  add_export(app);
  add_measure(app);
  add_compare(app);
  add_watch(app);
  add_report(app);
  add_study(app);
  add_validate(app);
  add_shell_pages(app);
  app.fallthrough();
  for (auto* command : app.get_subcommands({})) command->fallthrough();
  const std::string says = "Say nothing but what is wrong, and what --json asks for";
  const auto* hushed = app.add_flag("--quiet", says);
  app.parse_complete_callback([&app, hushed] {
    if (hushed->count() > 0) hush(app);
  });
  for (const char* computes : {"check", "run", "resume", "demo", "study", "validate"})
    app.get_subcommand(computes)->preparse_callback([argv](std::size_t) { let_threads_sleep(argv); });
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    return app.exit(error) == 0 ? 0 : exit_wrong_input;
  }
  return exit_code();
}

}  // namespace wavy
