#include "figures/chart.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <memory>

#include "base/error.hpp"
#include "base/files.hpp"
#include "base/text.hpp"

namespace wavy {
namespace {

/// Text for gnuplot in single quotes; enhanced mode is off for all text of users.
std::string quoted(const std::string& text) {
  std::string result = "'";
  for (const char c : text) {
    if (static_cast<unsigned char>(c) < 0x20) continue;
    result += c;
    if (c == '\'') result += '\'';
  }
  return result + "'";
}

/// Colours that stay apart for colour-blind readers, dark enough for thin lines on white.
constexpr std::array<const char*, 6> line_colours{"#5b4b9a", "#c4541b", "#1f7a6d", "#b08a1e", "#8c2f5e", "#4a5560"};

/// 1, 2 or 5 times a power of ten, so that at most so many fit into a range.
double step_between_ticks(double range, int most) {
  const double least = range / most;
  const double ten = std::pow(10.0, std::floor(std::log10(least)));
  for (const double step : {1.0, 2.0, 5.0})
    if (step * ten >= least) return step * ten;
  return 10 * ten;
}

std::string terminal(const std::string& ending, int width, int height) {
  if (ending == ".svg")
    return fmt::format("set terminal svg size {},{} font 'DejaVu Sans,15' noenhanced background '#ffffff'\n", width,
                       height);
  if (ending == ".pdf")
    return fmt::format("set terminal pdfcairo size {:.2f}in,{:.2f}in font 'DejaVu Sans,12' noenhanced\n", width / 100.0,
                       height / 100.0);
  return fmt::format("set terminal pngcairo size {},{} font 'DejaVu Sans,15' noenhanced background '#ffffff'\n", width,
                     height);
}

/// Axes that show all of the curves. `low`: the panel has room for few ticks.
std::string axes(const Panel& panel, bool low) {
  double least = 1e300;
  double greatest = -1e300;
  double x_begin = 1e300;
  double x_end = -1e300;
  for (const auto& curve : panel.curves) {
    for (const double y : curve.y) {
      if (std::isnan(y)) continue;
      least = std::min(least, y);
      greatest = std::max(greatest, y);
    }
    if (!curve.x.empty()) x_end = std::max(x_end, curve.x.back());
    if (!curve.x.empty()) x_begin = std::min(x_begin, curve.x.front());
  }
  // A constant would be blown up to its round-off.
  const double size = std::max(std::abs(least), std::abs(greatest));
  const double room = std::max(0.06 * (greatest - least), size > 0 ? 0.02 * size : 1.0);
  const double lower_end = least >= 0 && least < room ? 0.0 : least - room;  // nothing below zero where nothing is
  if (panel.log_axes) return "set logscale xy\nset yrange [*:*]\nset xrange [*:*]\nset ytics auto\n";
  // From zero on, but where that would leave half of the width empty.
  if (x_begin >= 0 && x_begin < 0.5 * x_end) x_begin = 0;
  if (!(x_end > x_begin)) x_end = x_begin + 1;
  return fmt::format("unset logscale\nset yrange [{:.10g}:{:.10g}]\nset xrange [{:.10g}:{:.10g}]\nset ytics {:.10g}\n",
                     lower_end, greatest + room, x_begin, x_end,
                     step_between_ticks(greatest + room - lower_end, low ? 4 : 6));
}

/// Where panels end, as a share of the width: the names of their curves stand right of it.
double right_edge(const std::vector<Panel>& panels, int width) {
  constexpr double usual = 0.78;
  constexpr double least = 0.5;
  constexpr double letter = 10.6;  // as wide as one is [pixels]
  constexpr double sample = 90;    // with the gaps beside it
  std::size_t longest = 0;
  for (const auto& panel : panels)
    for (const auto& curve : panel.curves) longest = std::max(longest, printed_width(curve.name));
  return std::clamp(1 - (letter * static_cast<double>(longest) + sample) / width, least, usual);
}

/// One panel of `count`, all but its place.
std::string panel_text(const Panel& panel, const std::string& x_title, bool last, std::size_t count) {
  std::string script;
  script += fmt::format("set ylabel {} offset 1,0\n", quoted(panel.y_title));
  script += "unset label\n";
  if (!panel.heading.empty())
    script +=
        fmt::format("set label {} at graph 0, graph 1 offset 0.4,0.7 font ',14' tc '#22202a'\n", quoted(panel.heading));
  // A low panel has room for few names.
  const bool many = panel.curves.size() * count > 12;
  script += many ? "set key font ',12' spacing 1.0 maxcols 1\n" : "set key font ',15' spacing 1.3 maxcols auto\n";
  script +=
      last ? fmt::format("set xlabel {}\nset format x '%g'\n", quoted(x_title)) : "unset xlabel\nset format x ''\n";
  script += axes(panel, count > 3);
  script += "plot ";
  bool first = true;
  for (std::size_t c = 0; c < panel.curves.size(); ++c) {
    const auto& curve = panel.curves[c];
    if (curve.x.empty()) continue;
    script += fmt::format("{}'-' using 1:2 {} lc '{}' title {}", first ? "" : ", ",
                          curve.points   ? fmt::format("with points pt 7 ps {}", curve.size)
                          : curve.dashed ? "with lines lw 2.5 dt 2"
                          : curve.marked ? "with linespoints lw 2.5 pt 7 ps 1.4"
                                         : "with lines lw 2.5",
                          line_colours[c % line_colours.size()], quoted(curve.name));
    first = false;
  }
  script += "\n";
  for (const auto& curve : panel.curves) {
    if (curve.x.empty()) continue;
    for (std::size_t i = 0; i < curve.x.size(); ++i) script += fmt::format("{:.10g} {:.10g}\n", curve.x[i], curve.y[i]);
    script += "e\n";
  }
  return script;
}

/// Has gnuplot draw into `part`. Throws a failure that names `file`.
void run_gnuplot(const std::string& script, const std::filesystem::path& part, const std::filesystem::path& file) {
  const std::string ending = file.extension().string();
  std::error_code ignored;
  std::filesystem::remove(part, ignored);
  const auto before = std::signal(SIGPIPE, SIG_IGN);
  std::FILE* pipe = popen("gnuplot >/dev/null 2>&1", "w");
  bool good = pipe != nullptr;
  if (pipe != nullptr) {
    good = std::fwrite(script.data(), 1, script.size(), pipe) == script.size();
    good = pclose(pipe) == 0 && good;
  }
  std::signal(SIGPIPE, before);
  // gnuplot says nothing of a full disk: its files end in a certain way.
  constexpr std::uintmax_t longest = 1U << 30U;
  const std::string content = read_file(part, longest).value_or("");
  const std::string_view end = ending == ".svg" ? "</svg>" : ending == ".pdf" ? "%%EOF" : "IEND";
  constexpr std::size_t tail = 64;
  if (!good || content.find(end, content.size() - std::min(content.size(), tail)) == std::string::npos) {
    std::filesystem::remove(part, ignored);
    throw failure(fmt::format("the chart '{}' cannot be drawn", file.string()),
                  "free some space, check that the folder can be written to and that gnuplot-nox is installed");
  }
}

}  // namespace

void draw_chart(const std::string& title, const std::string& x_title, const std::vector<Panel>& panels,
                const std::filesystem::path& file, int width, int height) {
  std::string script = terminal(file.extension().string(), width, height);
  const std::filesystem::path part = file.string() + ".part";
  script += fmt::format("set output {}\n", quoted(part.string()));
  script +=
      "set border 3 lw 1.6 lc '#22202a'\nset tics nomirror out\nset grid lw 1.6 lc '#e2dfe8'\nset key outside right "
      "top samplen 2 spacing 1.3 tc '#22202a'\n";
  const auto count = static_cast<double>(panels.size());
  script += fmt::format("set multiplot layout {},1 title {} font 'DejaVu Sans,19'\n", panels.size(), quoted(title));
  // All panels share their left and right edges, so that times line up.
  constexpr double top = 0.90;
  constexpr double bottom = 0.13;  // with less, gnuplot drops the axis title
  const bool headed = std::ranges::any_of(panels, [](const Panel& panel) { return !panel.heading.empty(); });
  const double gap = headed ? 0.055 : 0.035;
  script += fmt::format("set lmargin at screen 0.10\nset rmargin at screen {:.3f}\n", right_edge(panels, width));
  const double each = (top - bottom - gap * (count - 1)) / count;
  for (std::size_t p = 0; p < panels.size(); ++p) {
    const double upper = top - static_cast<double>(p) * (each + gap);
    script += fmt::format("set tmargin at screen {:.4f}\nset bmargin at screen {:.4f}\n", upper, upper - each);
    script += panel_text(panels[p], x_title, p + 1 == panels.size(), panels.size());
  }
  script += "unset multiplot\nset output\n";

  run_gnuplot(script, part, file);
  take_into_place(part, file);
}

void draw_map(const std::string& title, const std::string& x_title, const std::string& y_title,
              const std::string& value_title, const std::vector<double>& x, const std::vector<double>& y,
              const std::vector<std::vector<double>>& values, const std::filesystem::path& file, int width,
              int height) {
  const std::filesystem::path part = file.string() + ".part";
  std::string script = terminal(file.extension().string(), width, height);
  script += fmt::format(
      "set output {}\nset border 3 lw 1.6 lc '#22202a'\nset tics nomirror out\nset title {} font 'DejaVu Sans,19' "
      "offset 0,0.5\nset xlabel {}\nset ylabel {} offset -0.5,0\nset cblabel {} offset 1.5,0\nset lmargin at screen "
      "0.10\nset rmargin at screen 0.82\nset tmargin at screen 0.90\nset bmargin at screen 0.13\n"
      "set palette defined (0 '#2d1f5e', 0.25 '#5b4b9a', 0.5 '#b48ab8', 0.75 '#ecc3a0', 1 '#fdf3d6')\nunset key\n",
      quoted(part.string()), quoted(title), quoted(x_title), quoted(y_title), quoted(value_title));
  // Edges half-way between the places, the outermost ones as far out as their neighbours are near.
  const auto edges = [](const std::vector<double>& middles) {
    std::vector<double> result;
    for (std::size_t i = 0; i + 1 < middles.size(); ++i) result.push_back(0.5 * (middles[i] + middles[i + 1]));
    const double first = middles.size() > 1 ? middles[0] - (result.front() - middles[0]) : middles[0] - 0.5;
    const double last = middles.size() > 1 ? 2 * middles.back() - result.back() : middles[0] + 0.5;
    result.insert(result.begin(), first);
    result.push_back(last);
    return result;
  };
  const auto across = edges(x);
  const auto up = edges(y);
  script += fmt::format("set xrange [{:.10g}:{:.10g}]\nset yrange [{:.10g}:{:.10g}]\n", across.front(), across.back(),
                        up.front(), up.back());
  script += "plot '-' using 1:2:3:4:5:6:7 with boxxyerror fs solid 1.0 noborder lc palette\n";
  for (std::size_t row = 0; row < y.size(); ++row)
    for (std::size_t i = 0; i < x.size(); ++i)
      if (std::isfinite(values[row][i]))
        // Each reaches a little under the next: where edges only meet, the paper shines through.
        script += fmt::format("{:.8g} {:.8g} {:.8g} {:.8g} {:.8g} {:.8g} {:.8g}\n", x[i], y[row], across[i],
                              std::min(across.back(), across[i + 1] + 0.1 * (across[i + 1] - across[i])), up[row],
                              std::min(up.back(), up[row + 1] + 0.1 * (up[row + 1] - up[row])), values[row][i]);
  script += "e\nset output\n";
  run_gnuplot(script, part, file);
  take_into_place(part, file);
}

}  // namespace wavy
