// film: snapshots one after the other as MP4, several runs side by side.
#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <chrono>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <thread>

#include "app/commands.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"
#include "figures/picture.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

constexpr double usual_rate = 20;  // pictures a second

/// A folder for the pictures, which goes away.
class PictureFolder {
 public:
  [[nodiscard]] fs::path file(std::size_t run, std::size_t frame) const {
    return path_ / fmt::format("{}_{:06d}.png", run, frame);
  }
  [[nodiscard]] std::string pattern(std::size_t run) const {
    return (path_ / fmt::format("{}_%06d.png", run)).string();
  }
  /// What a worker says that could not go on.
  [[nodiscard]] fs::path complaint(std::size_t worker) const { return path_ / fmt::format("complaint_{}", worker); }
  [[nodiscard]] std::size_t pictures() const {
    return static_cast<std::size_t>(std::ranges::count_if(
        fs::directory_iterator(path_), [](const auto& entry) { return entry.path().extension() == ".png"; }));
  }

 private:
  ScratchFolder folder_;
  const fs::path& path_ = folder_.path();
};

struct FilmedRun {
  RunFolder run;
  PictureOptions options;
  std::vector<SnapshotFile> frames;
};

const SnapshotFile& nearest_to(const std::vector<SnapshotFile>& snapshots, double time) {
  return *std::ranges::min_element(snapshots, {}, [&](const auto& one) { return std::abs(one.time - time); });
}

/// The pictures of all runs; the frames follow the snapshots of the first.
std::vector<FilmedRun> runs_of(const FilmRequest& request) {
  PictureWords words = request.words;
  PictureSubjects subjects;
  if (!request.what.empty()) subjects.what.push_back(request.what);
  if (!request.section.empty()) subjects.sections.push_back(request.section);
  read_look(words, subjects);
  if (subjects.what.size() > 1 || subjects.sections.size() > 1)
    throw input_error({"", 0, 0, "--look"}, "a film shows one field at one place",
                      "name one with --what and --section");
  const std::string what = subjects.what.empty() ? "" : subjects.what.front();
  const std::string section = subjects.sections.empty() ? "" : subjects.sections.front();
  std::vector<FilmedRun> runs;
  for (const auto& folder : request.folders) {
    FilmedRun one{open_run_folder(folder), {}, {}};
    if (one.run.line)
      throw input_error({"", 0, 0, "runs"}, fmt::format("'{}' is a line, of which there is no film", folder),
                        "draw its profile or its slugs");
    if (one.run.snapshots.empty())
      throw input_error({"", 0, 0, "runs"}, fmt::format("'{}' has no snapshots", folder), "run it again");
    note_state(one.run);
    one.options = picture_options(one.run, what, section, words);
    runs.push_back(std::move(one));
  }
  double end = runs.front().run.snapshots.back().time;
  for (const auto& one : runs) end = std::min(end, one.run.snapshots.back().time);
  const auto [from, to] = read_window(request.from, request.to_time, end, "--until");
  for (const auto& snapshot : runs.front().run.snapshots) {
    if (snapshot.time < from - 1e-9 * end || snapshot.time > to + 1e-9 * end) continue;
    for (auto& one : runs) one.frames.push_back(nearest_to(one.run.snapshots, snapshot.time));
  }
  if (runs.front().frames.size() < 2)
    throw input_error({"", 0, 0, "--from"}, "there are fewer than two snapshots between these times",
                      "choose a longer time, or run again with a shorter run.snapshot_interval");
  // One scale of colours for all pictures, and less wide ones where several stand side by side.
  if (words.range.empty() && runs.front().options.quantity->scale != Quantity::Scale::share) {
    std::array<double, 2> range{1e300, -1e300};
    for (const auto& one : runs)
      for (const auto& frame : one.frames) {
        const auto own = range_of(frame, one.options);
        range = {std::min(range[0], own[0]), std::max(range[1], own[1])};
      }
    range = colour_range(runs.front().options, range);
    for (auto& one : runs) one.options.range = range;
  }
  constexpr int width = 1280;
  constexpr int less_wide = 960;
  for (auto& one : runs) {
    one.options.width = runs.size() > 1 ? less_wide : width;
    // Side by side they must be told apart.
    if (runs.size() > 1)
      one.run.title = fmt::format("{}: {}", one.run.folder.lexically_normal().filename().string(), one.run.title);
  }
  return runs;
}

/// Draws every `of`-th picture from the first on; in a process of its own.
int draw_some(const std::vector<FilmedRun>& runs, const PictureFolder& folder, std::size_t first, std::size_t of) {
  try {
    for (std::size_t frame = first; frame < runs.front().frames.size(); frame += of)
      for (std::size_t r = 0; r < runs.size(); ++r) {
        const auto& one = runs[r];
        draw_snapshot(one.frames[frame], one.run.title, one.run.phases, one.options, folder.file(r, frame));
      }
    return 0;
  } catch (const std::exception& error) {
    std::ofstream(folder.complaint(first)) << error.what();
    return 1;
  }
}

/// Draws all pictures on all cores. Throws what the first that cannot be drawn says.
void draw_all(const std::vector<FilmedRun>& runs, const PictureFolder& folder) {
  const std::size_t count = runs.size() * runs.front().frames.size();
  const auto workers = std::min<std::size_t>(std::max(1U, std::thread::hardware_concurrency()), count);
  std::fflush(stdout);
  std::fflush(stderr);
  const auto stopped = stop_on_signals();
  std::vector<pid_t> processes;
  for (std::size_t w = 0; w < workers; ++w) {
    const pid_t process = fork();
    if (process == 0) {
      for (const int signal : {SIGINT, SIGTERM, SIGHUP}) std::signal(signal, SIG_DFL);
      std::_Exit(draw_some(runs, folder, w, workers));
    }
    if (process > 0) processes.push_back(process);
  }
  const auto end_all = [&] {
    for (const pid_t process : processes) kill(process, SIGTERM);
    for (const pid_t process : processes) waitpid(process, nullptr, 0);
  };
  if (processes.size() < workers) {
    end_all();
    throw failure("no process could be started for the pictures", "end some other programs");
  }
  ProgressLine line(true);
  bool good = true;
  std::size_t left = processes.size();
  while (left > 0) {
    int status = 0;
    const pid_t ended = waitpid(-1, &status, WNOHANG);
    if (ended > 0) {
      --left;
      good = good && WIFEXITED(status) && WEXITSTATUS(status) == 0;
      continue;
    }
    if (stopped()) {
      end_all();
      line.clear();
      throw failure("stopped before the film was made");
    }
    line.show(fmt::format("picture {} of {}", folder.pictures(), count), false);
    std::this_thread::sleep_for(std::chrono::milliseconds(50));
  }
  line.clear();
  if (good) return;
  constexpr std::uintmax_t longest = 1U << 16U;
  for (std::size_t w = 0; w < workers; ++w)
    if (const auto said = read_file(folder.complaint(w), longest)) throw failure(*said);
  throw failure("a picture could not be drawn");
}

/// Has ffmpeg make the film. Throws a failure where it cannot.
void encode(const std::vector<FilmedRun>& runs, const PictureFolder& folder, double rate, const fs::path& file) {
  const fs::path part = file.string() + ".part.mp4";
  std::vector<std::string> words{"ffmpeg", "-y", "-loglevel", "error"};
  std::string filter;
  for (std::size_t r = 0; r < runs.size(); ++r) {
    words.insert(words.end(), {"-framerate", fmt::format("{:.6g}", rate), "-i", folder.pattern(r)});
    filter += fmt::format("[{}:v]", r);
  }
  filter += runs.size() > 1 ? fmt::format("hstack=inputs={},", runs.size()) : "";
  // Players want even sides and this form of colours.
  words.insert(words.end(), {"-filter_complex", filter + "pad=ceil(iw/2)*2:ceil(ih/2)*2,format=yuv420p", "-c:v",
                             "libx264", "-crf", "20", "-movflags", "+faststart", part.string()});
  std::vector<char*> arguments;
  for (auto& word : words) arguments.push_back(word.data());
  arguments.push_back(nullptr);
  const pid_t process = fork();
  if (process == 0) {
    std::freopen("/dev/null", "w", stdout);
    execvp("ffmpeg", arguments.data());
    std::_Exit(errno == ENOENT ? 127 : 126);
  }
  int status = 0;
  if (process > 0) waitpid(process, &status, 0);
  if (process > 0 && WIFEXITED(status) && WEXITSTATUS(status) == 0) {
    take_into_place(part, file);
    return;
  }
  std::error_code ignored;
  fs::remove(part, ignored);
  const bool missing = WIFEXITED(status) && WEXITSTATUS(status) == 127;
  throw failure(
      fmt::format("the film '{}' cannot be made{}", file.string(), missing ? ": there is no ffmpeg" : ""),
      missing ? "install the package ffmpeg" : "free some space, and check that the folder can be written to");
}

}  // namespace

int film(const FilmRequest& request) {
  const std::vector<FilmedRun> runs = runs_of(request);
  const auto frames = static_cast<double>(runs.front().frames.size());
  double rate = usual_rate;
  if (!request.lasts.empty()) {
    const double lasts = read_option(request.lasts, "--lasts", dimension::time);
    rate = lasts > 0 ? frames / lasts : 0;
    if (!(rate >= 0.1 && rate <= 120))
      throw input_error({"", 0, 0, "--lasts"}, fmt::format("{} pictures in that time make no film", frames),
                        "choose a time that makes between 0.1 and 120 of them a second");
  }
  fs::path file = request.to;
  if (file.empty()) {
    std::error_code status;
    fs::create_directories(runs.front().run.folder / "figures", status);
    file = runs.front().run.folder / "figures" / (runs.front().options.quantity->name + ".mp4");
  }
  if (file.extension() != ".mp4")
    throw input_error({"", 0, 0, "--to"}, fmt::format("'{}' does not end in .mp4", file.string()),
                      "choose such a name");
  const PictureFolder folder;
  draw_all(runs, folder);
  encode(runs, folder, rate, file);
  fmt::print("wrote {}: {} pictures from {} to {}, {} long\n", file.string(), runs.front().frames.size(),
             quantity(runs.front().frames.front().time, "s"), quantity(runs.front().frames.back().time, "s"),
             quantity(frames / rate, "s", 3));
  return 0;
}

}  // namespace wavy
