#include "results/run_folder.hpp"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <cerrno>
#include <cmath>
#include <cstring>
#include <ctime>
#include <nlohmann/json.hpp>

#include "base/error.hpp"
#include "base/table.hpp"
#include "results/checkpoint.hpp"
#include "results/snapshot.hpp"
#include "run/quantities.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

constexpr int summary_format = 1;

/// To be thrown right behind what has failed.
Error cannot_write_here(const fs::path& file) { return cannot_write(file, errno, "choose another folder with --into"); }

Error taken_away(const fs::path& folder) {
  return failure(
      fmt::format("the run folder '{}' has been removed, renamed or replaced while the run went on", folder.string()),
      "start the run again, and leave its folder where it is");
}

std::string escaped_xml(const std::string& text) {
  std::string result;
  for (const char c : text) {
    switch (c) {
      case '&':
        result += "&amp;";
        break;
      case '<':
        result += "&lt;";
        break;
      case '"':
        result += "&quot;";
        break;
      default:
        result += c;
    }
  }
  return result;
}

}  // namespace

fs::path standard_run_folder(const fs::path& case_file) { return case_file.stem().string() + ".run"; }

namespace {

const char* const lock_name = "lock";
/// How the name of a history begins that was kept because the gauges changed.
const char* const former_history = "history-until-";

/// Pictures that `draw` has named itself, such as speed-section-1.200s.png; others in figures/ are the user's.
bool is_own_figure(const fs::path& figure) {
  if (figure.extension() != ".png") return false;
  const std::string name = figure.stem().string();
  if (name == "history") return true;
  const std::size_t dash = name.rfind('-');
  if (dash == std::string::npos || !name.ends_with('s')) return false;
  const std::string_view time = std::string_view(name).substr(dash + 1, name.size() - dash - 2);
  std::string_view what = std::string_view(name).substr(0, dash);
  constexpr std::string_view section = "-section";
  if (what.ends_with(section)) what.remove_suffix(section.size());
  return !time.empty() && time.find_first_not_of("0123456789.") == std::string_view::npos &&
         (what == "profile" || what == "slugs" || find_quantity(std::string(what)) != nullptr);
}

/// Removes what an earlier run has written, and nothing else.
void clear(const fs::path& folder) {
  std::error_code status;
  const auto check = [&](const fs::path& path) {
    if (status) throw failure(fmt::format("'{}' cannot be removed: {}", path.string(), status.message()));
  };
  for (const char* own :
       {"case.toml", "history.csv", "summary.json", "log.txt", "snapshots.pvd", "snapshots", "profiles", "tracks.csv",
        "slugs.csv", "estimates", "solids.vtp", checkpoint_name, checkpoint_before_name, "checkpoint.new.h5"}) {
    fs::remove_all(folder / own, status);
    check(folder / own);
  }
  std::vector<fs::path> others;
  for (const auto& entry : fs::directory_iterator(folder / "figures", status))
    if (is_own_figure(entry.path())) others.push_back(entry.path());
  for (const auto& entry : fs::directory_iterator(folder, status))
    if (entry.path().filename().string().starts_with(former_history)) others.push_back(entry.path());
  for (const auto& other : others) {
    fs::remove(other, status);
    check(other);
  }
}

}  // namespace

void check_run_folder(const fs::path& folder, bool force) {
  std::error_code status;
  const bool there = fs::exists(folder, status);
  if (there && !fs::is_directory(folder, status))
    throw input_error({folder.string(), 0, 0, ""}, "there is a file of this name", "choose another folder with --into");
  const auto holds_more = [&] {
    const fs::directory_iterator entries(folder, status);
    return std::any_of(fs::begin(entries), fs::end(entries),
                       [](const auto& entry) { return entry.path().filename() != lock_name; });
  };
  if (there && holds_more()) {
    if (!force)
      throw input_error({folder.string(), 0, 0, ""}, "this folder holds an earlier run, which would be lost",
                        "choose another folder with --into, or say --force to replace it");
    const auto there_is = [&](const char* name) { return fs::exists(folder / name, status); };
    if (!there_is("summary.json") && !there_is("history.csv"))
      throw input_error({folder.string(), 0, 0, ""},
                        "this folder holds something else than a run; --force does not touch it",
                        "choose another folder with --into");
  }
}

FileLock prepare_run_folder(const fs::path& folder, bool force) {
  check_run_folder(folder, force);
  std::error_code status;
  const bool there = fs::exists(folder, status);
  fs::create_directories(folder, status);
  if (status)
    throw failure(fmt::format("the folder '{}' cannot be made: {}", folder.string(), status.message()),
                  "check the rights, or choose another folder with --into");
  FileLock lock = lock_run_folder(folder);
  if (there) clear(folder);
  return lock;
}

FileLock lock_run_folder(const fs::path& folder) {
  if (FileLock::held_by_another(folder / lock_name))
    throw input_error({folder.string(), 0, 0, ""}, "another run is writing to this folder",
                      "wait for it, stop it, or choose another folder with --into");
  return FileLock(folder / lock_name);
}

namespace {

bool follows_slugs(const CaseFile& the_case) {
  const LineSetup* line = line_of(the_case);
  return line != nullptr && line->follow_slugs;
}

/// Cuts a CSV file behind so many rows, the header apart.
void cut_to_rows(const fs::path& file, long rows) {
  std::ifstream in(file);
  std::string line;
  std::uintmax_t size = 0;
  for (long i = 0; i <= rows; ++i) {
    if (!std::getline(in, line) || in.eof())
      throw input_error({file.string(), 0, 0, ""}, "this file is shorter than when the checkpoint was kept",
                        "without it the run cannot go on; run the case again");
    size += line.size() + 1;
  }
  in.close();
  std::error_code status;
  fs::resize_file(file, size, status);
  if (status) throw cannot_write(file, status.value());
}

/// Gives a history the columns that the run goes on with, if these are others: what was not measured is left empty, and
/// the history with all that was measured stays beside it, under the name that is returned.
std::string take_over_history(const fs::path& file, const std::string& header) {
  std::ifstream in(file);
  std::string line;
  std::getline(in, line);
  if (line == header) return {};
  const std::string former_header = line;
  const auto before = csv_cells(former_header);
  std::vector<std::size_t> from;  // column that each takes
  for (const auto name : csv_cells(header))
    from.push_back(static_cast<std::size_t>(std::ranges::find(before, name) - before.begin()));
  std::string text = header + '\n';
  std::string last;
  while (std::getline(in, line)) {
    const auto cells = csv_cells(line);
    for (std::size_t c = 0; c < from.size(); ++c) {
      if (c > 0) text += ',';
      if (from[c] < cells.size()) text += cells[from[c]];
    }
    text += '\n';
    last = cells[0];
  }
  std::error_code status;
  std::string name = fmt::format("{}{}s.csv", former_history, last);
  fs::copy_file(file, file.parent_path() / name, fs::copy_options::skip_existing, status);  // the first has most
  if (status) throw cannot_write(file, status.value());
  write_file(file, text);
  return name;
}

}  // namespace

RunWriter::RunWriter(fs::path folder, FileLock lock, const CaseFile& the_case, const std::vector<Column>& columns,
                     Archive* kept)
    : folder_(std::move(folder)), lock_(std::move(lock)), case_(the_case) {
  for (const auto& column : columns) gauges_.push_back({column});
  if (kept != nullptr) kept->within("writer", [&] { archive(*kept); });
  write_file(folder_ / "case.toml", "# The case as it was run, with every value that held.\n" + the_case.as_run);
  errno = 0;
  const auto mode = kept != nullptr ? std::ios::app : std::ios::trunc;
  history_.open(folder_ / "history.csv", mode);
  log_.open(folder_ / "log.txt", mode);
  if (!history_ || !log_) throw cannot_write_here(folder_ / "history.csv");
  const bool slugs = follows_slugs(case_);
  if (slugs) tracks_.open(folder_ / "tracks.csv", mode);
  if (slugs && !tracks_) throw cannot_write_here(folder_ / "tracks.csv");
  identity_ = identity();
  if (!former_history_.empty()) log("the gauges have changed: the history so far is " + former_history_);
  if (kept != nullptr) return;
  if (slugs) tracks_ << "time [s],slug [1],tail [m],front [m]\n";
  history_ << header() << '\n';
}

void RunWriter::archive(Archive& a) {
  for (auto& gauge : gauges_) {
    const std::string name = "gauges/" + gauge.column.archive_name();
    if (a.reading() && !a.holds(name + "/last")) continue;  // a new one
    a.within(name, [&] {
      a("least", gauge.least);
      a("least_time", gauge.least_time);
      a("greatest", gauge.greatest);
      a("greatest_time", gauge.greatest_time);
      a("last", gauge.last);
    });
    gauge.read = true;
  }
  std::vector<double> times;
  std::vector<std::string> names;
  for (const auto& [time, name] : snapshots_) {
    times.push_back(time);
    names.push_back(name);
  }
  a("snapshot_times", times);
  a("snapshot_names", names);
  a("rows", rows_);
  a("track_rows", track_rows_);
  if (!a.reading()) return;
  snapshots_.clear();
  for (std::size_t i = 0; i < times.size(); ++i) snapshots_.emplace_back(times[i], names.at(i));
  cut_to_rows(folder_ / "history.csv", rows_);
  former_history_ = take_over_history(folder_ / "history.csv", header());
  if (follows_slugs(case_)) cut_to_rows(folder_ / "tracks.csv", track_rows_);
}

std::string RunWriter::header() const {
  std::string text;
  for (const auto& gauge : gauges_)
    text += fmt::format("{}{} [{}]", text.empty() ? "" : ",", gauge.column.name, gauge.column.unit);
  return text;
}

void RunWriter::checkpoint(Archive& a) {
  write_into(folder_, [&] {
    a.within("writer", [&] { archive(a); });
    write_checkpoint(folder_, a);
  });
}

RunWriter::~RunWriter() {
  std::error_code ignored;
  if (lock_.held() && identity() == identity_) fs::remove(folder_ / lock_name, ignored);
}

/// Device and number of the history's file.
std::array<std::uintmax_t, 2> RunWriter::identity() const {
  struct stat facts {};
  if (stat((folder_ / "history.csv").c_str(), &facts) != 0) return {};
  return {facts.st_dev, facts.st_ino};
}

void RunWriter::check_folder() {
  errno = 0;
  history_.flush();  // what is on disk is never more than one snapshot old
  tracks_.flush();
  if (!history_) throw cannot_write_here(folder_ / "history.csv");
  if (identity() != identity_) throw taken_away(folder_);
}

void RunWriter::estimate(const std::string& name, const std::vector<Column>& columns,
                         const std::vector<std::array<double, 2>>& rows) {
  fs::create_directories(folder_ / "estimates");
  std::string text =
      fmt::format("{} [{}],{} [{}]\n", columns[0].name, columns[0].unit, columns[1].name, columns[1].unit);
  for (const auto& row : rows) text += fmt::format("{:.6g},{:.6g}\n", row[0], row[1]);
  write_file(folder_ / "estimates" / (name + ".csv"), text);
}

void RunWriter::history(const std::vector<double>& row) {
  std::string line;
  for (std::size_t i = 0; i < row.size(); ++i) {
    if (i > 0) line += ',';
    if (std::isnan(row[i])) continue;  // nothing to read
    line += fmt::format("{:.10g}", row[i]);
    GaugeSummary& gauge = gauges_[i];
    if (!gauge.read || row[i] < gauge.least) {
      gauge.least = row[i];
      gauge.least_time = row[0];
    }
    if (!gauge.read || row[i] > gauge.greatest) {
      gauge.greatest = row[i];
      gauge.greatest_time = row[0];
    }
    gauge.last = row[i];
    gauge.read = true;
  }
  ++rows_;
  errno = 0;
  history_ << line << '\n';
  constexpr double often = 1;  // [s] who watches the run from elsewhere is told
  if (since_told_.seconds() > often) {
    history_.flush();
    since_told_.lap();
  }
  if (!history_) throw cannot_write_here(folder_ / "history.csv");
}

template <class Fn>
void RunWriter::write_into(const fs::path& inner, Fn&& write) {
  check_folder();
  try {
    std::error_code ignored;  // the write tells
    if (inner != folder_) fs::create_directory(inner, ignored);
    write();
  } catch (const Error& error) {
    // A folder that went away in the midst of it, whole or in part, is told as that: so is one that a file vanished
    // from as it was written.
    check_folder();
    const bool vanished = error.problem().ends_with(std::strerror(ENOENT));
    if (vanished || !fs::exists(inner)) throw taken_away(folder_);
    throw;
  }
}

template <int D>
void RunWriter::snapshot(const VesselModel<D>& model, int number) {
  write_into(folder_ / "snapshots", [&] {
    const std::string name = fmt::format("snapshots/{:05d}.vtu", number);
    write_snapshot(model, folder_ / name);
    snapshots_.emplace_back(model.time(), name);
    write_index();
  });
}
template void RunWriter::snapshot<2>(const VesselModel<2>&, int);
template void RunWriter::snapshot<3>(const VesselModel<3>&, int);

std::string profile_text(const line::Model& model) {
  std::string text =
      "x [m],height [m],holdup [1],pressure [Pa],liquid_velocity [m/s],gas_velocity [m/s],regime [1],leg "
      "[1],liquid_flow [kg/s],gas_flow [kg/s]\n";
  const auto& state = model.state();
  for (std::size_t i = 0; i < model.sections().size(); ++i) {
    const auto& section = model.sections()[i];
    text += fmt::format("{:.8g},{:.6g},{},{},{:.6g},{:.6g},{},{},{},{}\n", section.place, section.rise, model.holdup(i),
                        state.pressure[i], state.u_liquid[i], state.u_gas[i], static_cast<int>(model.regime(i)),
                        section.leg + 1, model.liquid_flow(i), model.gas_flow(i));
  }
  return text;
}

void RunWriter::profile(const line::Model& model, int number) {
  write_into(folder_ / "profiles", [&] {
    const std::string name = fmt::format("profiles/{:05d}.csv", number);
    write_file(folder_ / name, profile_text(model));
    snapshots_.emplace_back(model.state().time, name);
  });
}

void RunWriter::tracks(const line::Model& model) {
  errno = 0;
  for (const auto& slug : model.slugs())
    tracks_ << fmt::format("{:.8g},{},{:.6g},{:.6g}\n", model.state().time, slug.number, slug.tail, slug.front);
  track_rows_ += static_cast<long>(model.slugs().size());
  if (!tracks_) throw cannot_write_here(folder_ / "tracks.csv");
}

void RunWriter::passages(const line::Model& model) {
  std::string text = "place [1],slug [1],front_time [s],tail_time [s],length [m],speed [m/s]\n";
  for (const auto& one : model.passages())
    text += fmt::format("{},{},{:.8g},{:.8g},{:.6g},{:.6g}\n", one.place + 1, one.slug, one.front_time, one.tail_time,
                        one.length, one.speed);
  write_file(folder_ / "slugs.csv", text);
}

void RunWriter::write_index() {
  std::string text = "<?xml version=\"1.0\"?>\n<VTKFile type=\"Collection\" version=\"0.1\">\n  <Collection>\n";
  for (const auto& [time, name] : snapshots_)
    text += fmt::format("    <DataSet timestep=\"{:.10g}\" part=\"0\" file=\"{}\"/>\n", time, escaped_xml(name));
  write_file(folder_ / "snapshots.pvd", text + "  </Collection>\n</VTKFile>\n");
}

void RunWriter::log(const std::string& line) {
  const std::time_t now = std::time(nullptr);
  std::tm broken{};
  localtime_r(&now, &broken);
  std::array<char, 32> stamp{};
  std::strftime(stamp.data(), stamp.size(), "%F %T", &broken);
  log_ << stamp.data() << "  " << line << std::endl;
}

void RunWriter::finish(const VesselLedger& ledger, const std::string& status, const std::string& problem) {
  write_summary(to_json(ledger, names_of(phases_of(case_))), ledger.ended_at, status, problem);
}
void RunWriter::finish(const LineLedger& ledger, const std::string& status, const std::string& problem) {
  write_summary(to_json(ledger, names_of(phases_of(case_))), ledger.ended_at, status, problem);
}

namespace {

/// The fraction of the first phase that is dispersed, or of all its size classes.
std::string pictured(const Eulerian& eulerian) {
  for (const auto& phase : eulerian.phases)
    if (!phase.carrier) return (phase.family.empty() ? phase.name : phase.family) + "_fraction";
  return "fraction";
}

}  // namespace

void RunWriter::write_summary(const nlohmann::ordered_json& ledger, double ended_at, const std::string& status,
                              const std::string& problem) {
  nlohmann::ordered_json summary;
  summary["format"] = summary_format;
  summary["title"] = case_.title;
  summary["case"] = case_.file.filename().string();
  summary["status"] = status;
  if (!problem.empty()) summary["problem"] = problem;
  summary["ended_at_s"] = ended_at;
  const LineSetup* line = line_of(case_);
  if (line != nullptr) {
    summary["model"] = "line";
    if (line->follow_slugs) summary["slug_gauges"] = slug_gauges(*line);
  } else if (with_vessel(case_, [](const auto& setup) { return setup.eulerian.has_value(); })) {
    summary["model"] = "eulerian";
    summary["pictured"] = with_vessel(case_, [](const auto& setup) { return pictured(*setup.eulerian); });
  }
  summary["phases"] = names_of(phases_of(case_));
  if (line == nullptr)
    summary["computed_share"] = with_vessel(case_, [](const auto& setup) { return share_of_vessel(setup); });
  summary["ledger"] = ledger;
  auto& gauges = summary["gauges"] = nlohmann::ordered_json::array();
  for (const auto& gauge : gauges_) {
    if (gauge.column.name == "time") continue;
    gauges.push_back({{"name", gauge.column.name},
                      {"unit", gauge.column.unit},
                      {"least", gauge.least},
                      {"least_at_s", gauge.least_time},
                      {"greatest", gauge.greatest},
                      {"greatest_at_s", gauge.greatest_time},
                      {"last", gauge.last}});
  }
  auto& snapshots = summary["snapshots"] = nlohmann::ordered_json::array();
  for (const auto& [time, name] : snapshots_) snapshots.push_back({{"time_s", time}, {"file", name}});
  write_into(folder_, [&] {
    write_file(folder_ / "summary.json", summary.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n");
  });
}

RunFolder open_run_folder(const fs::path& folder) {
  RunFolder run;
  run.folder = folder;
  const Place place{folder.string(), 0, 0, ""};
  std::error_code status;
  if (!fs::is_directory(folder, status))
    throw input_error(place, "there is no such run folder",
                      "give the folder that 'wavy run' has made, such as tote.run");
  const fs::path file = folder / "summary.json";
  std::ifstream in(file);
  if (!in)
    throw input_error(place, "this is not a finished run folder: it has no summary.json",
                      "give the folder that 'wavy run' has made, such as tote.run");
  try {
    const auto summary = nlohmann::json::parse(in);
    if (summary.at("format").get<int>() != summary_format)
      throw input_error({file.string(), 0, 0, ""}, "a newer program wrote this run folder", "use that program");
    run.title = summary.at("title").get<std::string>();
    run.status = summary.value("status", "");
    run.ended_at = summary.value("ended_at_s", 0.0);
    if (run.status == "running")
      run.status = FileLock::held_by_another(folder / lock_name) ? "still going on" : "killed";
    run.line = summary.value("model", "") == "line";
    run.slug_gauges = summary.value("slug_gauges", std::vector<std::string>{});
    run.pictured = summary.value("pictured", run.pictured);
    run.phases = summary.at("phases").get<std::vector<std::string>>();
    run.phases.resize(std::max<std::size_t>(run.phases.size(), 2));
    const auto ledger = summary.value("ledger", nlohmann::json::object());
    run.cells = ledger.value("cells", ledger.value("sections", 0L));
    if (const double share = summary.value("computed_share", 1.0); share > 0) run.computed_share = share;
    run.steps = ledger.value("steps", 0L);
    run.tracers = ledger.contains("tracers");
    run.wall_seconds = ledger.value("wall_time_s", 0.0);
    for (const auto& snapshot : summary.at("snapshots"))
      run.snapshots.push_back({snapshot.at("time_s").get<double>(), folder / snapshot.at("file").get<std::string>()});
  } catch (const nlohmann::json::exception& error) {
    throw input_error({file.string(), 0, 0, ""}, fmt::format("the summary cannot be read ({})", error.what()),
                      "run the case again");
  }
  if (run.snapshots.empty()) throw input_error(place, "the run has no snapshots", "run the case again");
  return run;
}

}  // namespace wavy
