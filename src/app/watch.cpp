// watch: a run that is still going on, seen from another terminal.
#include <fmt/format.h>
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <nlohmann/json.hpp>
#include <string>
#include <thread>
#include <vector>

#include "app/commands.hpp"
#include "base/stopwatch.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;

/// A history that grows: what has come since the last look is read, and nothing twice.
class GrowingHistory {
 public:
  explicit GrowingHistory(fs::path file) : file_(std::move(file)) {}

  void read_on() {
    std::error_code status;
    if (fs::file_size(file_, status) < static_cast<std::uintmax_t>(read_)) *this = GrowingHistory(file_);  // run anew
    std::ifstream in(file_, std::ios::binary);
    in.seekg(read_);
    for (std::string line; std::getline(in, line);) {
      if (in.eof()) break;  // not whole yet
      read_ += static_cast<std::streamoff>(line.size()) + 1;
      const auto cells = csv_cells(line);
      if (table_.names.empty()) {
        table_ = table_headed(cells);
        continue;
      }
      if (cells.size() != table_.columns.size()) continue;
      for (std::size_t c = 0; c < cells.size(); ++c)
        table_.columns[c].push_back(cells[c].empty() ? std::nan("")
                                                     : std::strtod(std::string(cells[c]).c_str(), nullptr));
    }
  }
  [[nodiscard]] const Table& table() const { return table_; }
  [[nodiscard]] double time() const {
    return table_.columns.empty() || table_.columns[0].empty() ? 0 : table_.columns[0].back();
  }

 private:
  fs::path file_;
  std::streamoff read_ = 0;
  Table table_;
};

/// A history as one line of blocks, so many letters wide.
std::string small_chart(const std::vector<double>& time, const std::vector<double>& values, std::size_t wide) {
  constexpr std::array<const char*, 8> blocks{"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
  std::vector<double> shown(wide, std::nan(""));
  const double begin = time.front();
  const double length = std::max(1e-300, time.back() - begin);
  for (std::size_t i = 0; i < time.size(); ++i) {
    const auto at = static_cast<std::size_t>((time[i] - begin) / length * static_cast<double>(wide));
    shown[std::min(at, wide - 1)] = values[i];
  }
  double least = 1e300;
  double greatest = -1e300;
  for (const double value : shown) {
    if (std::isnan(value)) continue;
    least = std::min(least, value);
    greatest = std::max(greatest, value);
  }
  std::string text;
  double last = std::nan("");
  for (double value : shown) {
    if (std::isnan(value)) value = last;  // no step ended there
    last = value;
    if (std::isnan(value)) {
      text += ' ';
      continue;
    }
    constexpr double hair = 1e-6;  // less is no change
    const double size = std::max(std::abs(least), std::abs(greatest));
    const double share = greatest - least > hair * size ? (value - least) / (greatest - least) : 0;
    text += blocks[static_cast<std::size_t>(std::lround(share * 7))];
  }
  return text;
}

std::size_t terminal_width() {
  winsize size{};
  return ioctl(STDOUT_FILENO, TIOCGWINSZ, &size) == 0 && size.ws_col > 0 ? size.ws_col : 100;
}

/// How fast the run goes on: seconds of the clock for one of the run's.
class Pace {
 public:
  explicit Pace(const fs::path& folder) {
    std::error_code status;
    const auto began = fs::last_write_time(folder / "case.toml", status);
    if (!status) before_ = std::chrono::duration<double>(fs::file_time_type::clock::now() - began).count();
  }
  /// Seconds left until `until`, as the last while has gone; negative where nothing can be said.
  double left(double time, double until) {
    const double now = since_.seconds();
    if (first_ < 0) {
      first_ = time;
      first_seen_ = now;
    }
    constexpr double enough = 3;  // seconds of watching that tell more than all before
    if (time > first_ && now - first_seen_ > enough) return (until - time) * (now - first_seen_) / (time - first_);
    return time > 0 && before_ > 0 ? (until - time) * (before_ + now) / time : -1;
  }

 private:
  Stopwatch since_;
  double before_ = 0;  // since the case was written into the folder [s]
  double first_ = -1;  // time of the run when it was first seen [s]
  double first_seen_ = 0;
};

/// The state of a run as text.
std::string view_of(const RunFolder& run, const GrowingHistory& history, double until, double seconds_left,
                    std::size_t wide, bool coloured) {
  const double time = std::max(history.time(), 0.0);
  const bool live = run.status == "still going on";
  std::string text = fmt::format(
      "{}   {}\n  {:3.0f} %   t = {} of {}   step {}", run.title, run.status, 100 * std::min(1.0, time / until),
      quantity(time, "s"), quantity(until, "s"),
      std::max<std::size_t>(1, history.table().columns.empty() ? 1 : history.table().columns[0].size()) - 1);
  if (live && seconds_left >= 0) text += fmt::format("   {} left", duration(seconds_left));
  text += '\n';
  const auto& table = history.table();
  if (table.columns.empty() || table.columns[0].empty()) return text + "  no readings yet\n";
  Rows rows{{"gauge", "last", "least", "greatest"}};
  for (std::size_t c = 1; c < table.names.size(); ++c) {
    double least = 1e300;
    double greatest = -1e300;
    for (const double value : table.columns[c])
      if (!std::isnan(value)) {
        least = std::min(least, value);
        greatest = std::max(greatest, value);
      }
    if (least > greatest) continue;
    rows.push_back({table.names[c], quantity(table.columns[c].back(), table.units[c]), quantity(least, table.units[c]),
                    quantity(greatest, table.units[c])});
  }
  // The chart stands behind the figures, in what is left of the line.
  const std::string figures = aligned(rows);
  std::size_t widest = 0;
  for (std::size_t at = 0; at < figures.size();) {
    const std::size_t end = figures.find('\n', at);
    widest = std::max(widest, printed_width(std::string_view(figures).substr(at, end - at)));
    at = end + 1;
  }
  constexpr std::size_t least_wide = 8;
  constexpr std::size_t most_wide = 60;
  if (wide < widest + 3 + least_wide) return text + figures;
  std::size_t column = 1;
  for (std::size_t i = 1; i < rows.size(); ++i) {
    while (table.names[column] != rows[i][0]) ++column;
    const std::string chart =
        small_chart(table.columns[0], table.columns[column], std::min(most_wide, wide - widest - 3));
    rows[i].push_back(coloured ? fmt::format("\033[35m{}\033[0m", chart) : chart);
  }
  return text + aligned(rows);
}

nlohmann::ordered_json json_of(const RunFolder& run, const GrowingHistory& history, double until) {
  nlohmann::ordered_json out{{"title", run.title},
                             {"status", run.status},
                             {"time_s", history.time()},
                             {"until_s", until},
                             {"gauges", nlohmann::ordered_json::array()}};
  const auto& table = history.table();
  for (std::size_t c = 1; c < table.names.size(); ++c)
    if (!table.columns[c].empty())
      out["gauges"].push_back({{"name", table.names[c]}, {"unit", table.units[c]}, {"last", table.columns[c].back()}});
  return out;
}

}  // namespace

int watch(const std::string& folder, bool once, bool json) {
  RunFolder run = open_run_folder(folder);
  const double until = schedule_of(read_case(run.folder / "case.toml")).until;
  GrowingHistory history(run.folder / "history.csv");
  history.read_on();
  if (json) {
    fmt::print("{}\n", json_of(run, history, until).dump(2, ' ', false, nlohmann::json::error_handler_t::replace));
    return 0;
  }
  const bool terminal = isatty(STDOUT_FILENO) == 1;
  const char* no_colour = std::getenv("NO_COLOR");
  const bool coloured = terminal && (no_colour == nullptr || *no_colour == '\0');
  const auto stopped = stop_on_signals();
  Pace pace(run.folder);
  std::size_t lines = 0;  // that stand there from the last look
  while (true) {
    const std::string view =
        view_of(run, history, until, pace.left(history.time(), until), terminal ? terminal_width() : 100, coloured);
    if (lines > 0) fmt::print("\033[{}A\033[J", lines);
    fmt::print("{}", view);
    std::fflush(stdout);
    lines = static_cast<std::size_t>(std::ranges::count(view, '\n'));
    if (once || !terminal || run.status != "still going on" || stopped()) break;
    constexpr int looks_a_second = 2;
    for (int i = 0; i < 10 && !stopped(); ++i)
      std::this_thread::sleep_for(std::chrono::milliseconds(1000 / looks_a_second / 10));
    run = open_run_folder(folder);
    history.read_on();
  }
  return 0;
}

}  // namespace wavy
