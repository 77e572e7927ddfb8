// report: one page on a run.
#include <fmt/format.h>
#include <toml++/toml.h>

#include <algorithm>
#include <array>
#include <filesystem>
#include <kainjow/mustache.hpp>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "app/commands.hpp"
#include "app/report_page.hpp"
#include "base/error.hpp"
#include "base/files.hpp"
#include "base/history_figures.hpp"
#include "base/table.hpp"
#include "base/text.hpp"
#include "case/case_file.hpp"
#include "case/keys.hpp"
#include "case/toml_text.hpp"
#include "figures/picture.hpp"
#include "results/run_folder.hpp"

namespace wavy {
namespace {

namespace fs = std::filesystem;
namespace mustache = kainjow::mustache;
using mustache::data;

constexpr std::uintmax_t longest_file = 1U << 28U;

data table_of(const Rows& rows) {
  data headings = data::type::list;
  for (const auto& heading : rows.front()) headings << data(heading);
  data body = data::type::list;
  for (std::size_t i = 1; i < rows.size(); ++i) {
    data cells = data::type::list;
    for (const auto& cell : rows[i]) cells << data(cell);
    body << data("cells", cells);
  }
  data table;
  table.set("headings", headings);
  table.set("rows", body);
  return table;
}

/// A picture within the page.
std::string embedded(const fs::path& file) {
  const auto bytes = read_file(file, longest_file);
  if (!bytes) throw failure(fmt::format("the picture '{}' cannot be read", file.string()), "free some space");
  return fmt::format("data:image/{};base64,{}", file.extension() == ".svg" ? "svg+xml" : "png", base64(*bytes));
}

data figure_of(const fs::path& file, const std::string& caption) {
  data figure;
  figure.set("data", embedded(file));
  figure.set("caption", caption);
  return figure;
}

/// A quantity with six digits; other texts as they are.
std::string shortened(const std::string& text) {
  char* end = nullptr;
  const double number = std::strtod(text.c_str(), &end);
  const auto digits = static_cast<std::size_t>(end - text.c_str());
  constexpr std::size_t many = 8;
  return digits > many && (*end == ' ' || *end == '\0') ? fmt::format("{:.6g}", number) + end : text;
}

/// A value as a case writes it, without quotation marks.
std::string plain(const toml::node& node) {
  if (const auto* text = node.as_string()) return shortened(text->get());
  if (const auto number = node.value<double>(); number && node.is_number()) return fmt::format("{:.6g}", *number);
  if (const auto* list = node.as_array()) {
    std::string text;
    for (const auto& item : *list) text += fmt::format("{}{}", text.empty() ? "" : ", ", plain(item));
    return text;
  }
  std::ostringstream text;
  node.visit([&](const auto& value) { text << value; });
  return text.str();
}

/// Keys in the order in which they stand in the text.
std::vector<std::pair<std::string, const toml::node*>> lines_of(const toml::table& table) {
  std::vector<std::pair<std::string, const toml::node*>> lines;
  for (const auto& [key, node] : table) lines.emplace_back(key.str(), &node);
  std::ranges::stable_sort(lines, {}, [](const auto& line) {
    // A list of tables has no place of its own.
    const auto* list = line.second->as_array();
    const toml::node* first = list != nullptr && !list->empty() ? list->get(0) : line.second;
    return first->source().begin.line;
  });
  return lines;
}

/// The sections of a case with their keys, tables within tables as sections of their own.
void add_sections(const std::string& name, const std::string& section, const toml::table& table, data& sections) {
  data keys = data::type::list;
  bool any = false;
  const auto in_order = lines_of(table);
  for (const auto& [key, node_of] : in_order) {
    const toml::node& node = *node_of;
    const bool nested = node.is_table() || (node.is_array_of_tables());
    if (nested || key == "wavy") continue;
    const Key* known = find_key(section, key);
    data entry;
    entry.set("key", key);
    entry.set("value", plain(node));
    entry.set("meaning", known == nullptr ? "" : known->meaning);
    keys << entry;
    any = true;
  }
  if (any) {
    data entry;
    entry.set("name", name);
    entry.set("keys", keys);
    sections << entry;
  }
  for (const auto& [key, node_of] : in_order) {
    const toml::node& node = *node_of;
    const std::string own = section.empty() ? key : fmt::format("{}.{}", section, key);
    if (const auto* inner = node.as_table()) add_sections(own, own, *inner, sections);
    if (const auto* list = node.as_array(); list != nullptr && node.is_array_of_tables())
      for (const auto& item : *list) {
        const auto title = (*item.as_table())["name"].value_or(std::string());
        add_sections(title.empty() ? own : fmt::format("{} {}", own, title), own, *item.as_table(), sections);
      }
  }
}

/// A sentence or two on the case.
std::string case_words(const CaseFile& the_case, const RunFolder& run) {
  const auto fluid = [](const Phase& phase) {
    return fmt::format("{} ({}, {})", phase.name, quantity(phase.properties.density, "kg/m3"),
                       quantity(phase.properties.viscosity, "Pa s"));
  };
  const auto& phases = phases_of(the_case);
  std::string fluids = fluid(phases[0]);
  for (std::size_t p = 1; p < phases.size() && !run.phases[1].empty(); ++p)
    fluids += (p + 1 == phases.size() ? " and " : ", ") + fluid(phases[p]);
  const std::string end = quantity(schedule_of(the_case).until, "s");
  if (run.line)
    return fmt::format("Phases: {}. A line of {} sections, by the one-dimensional line model, for {}.", fluids,
                       run.cells, end);
  return with_vessel(the_case, [&](const auto& setup) {
    constexpr int dimensions = static_cast<int>(std::tuple_size_v<std::decay_t<decltype(setup.size)>>);
    std::string size;
    for (const double extent : setup.size)
      size += fmt::format("{}{}", size.empty() ? "" : " x ", quantity(extent, "m"));
    return fmt::format(
        "Phases: {}. A vessel of {}, in {} dimensions on {} cells of {}, {}{}, for {}.", fluids, size, dimensions,
        run.cells, quantity(setup.cell_size, "m"),
        setup.eulerian ? "each phase by its share of every cell and its own velocity" : "with the interface kept sharp",
        setup.free_surface_only ? " and the gas left out" : "", end);
  });
}

/// What pictures a vessel is shown by.
void draw_vessel(const RunFolder& run, const fs::path& scratch, data& pictures) {
  constexpr std::size_t most = 6;
  const std::size_t count = std::min(most, run.snapshots.size());
  const PictureOptions plain = picture_options(run, run.pictured, "", {});
  const auto options_of = [&](const char* what, int width) {
    PictureOptions options = plain;
    options.quantity = find_quantity(what);
    options.width = width;
    options.height = width * 7 / 10;
    return options;
  };
  std::vector<PictureOf> frames;
  for (std::size_t i = 0; i < count; ++i)
    frames.push_back({run.snapshots[count == 1 ? 0 : i * (run.snapshots.size() - 1) / (count - 1)],
                      options_of(run.pictured.c_str(), 620)});
  draw_page(frames, 3, "", run.phases, scratch / "frames.png");
  const auto& last = run.snapshots.back();
  draw_page({{last, options_of("speed", 860)}, {last, options_of("pressure", 860)}}, 2, "", run.phases,
            scratch / "fields.png");
  data figures = data::type::list;
  figures << figure_of(scratch / "frames.png",
                       fmt::format("The phases from {} to {}", quantity(frames.front().snapshot.time, "s"),
                                   quantity(frames.back().snapshot.time, "s")));
  figures << figure_of(scratch / "fields.png", fmt::format("Speed and pressure at {}", quantity(last.time, "s")));
  data entry;
  entry.set("heading", "Pictures");
  entry.set("figures", figures);
  pictures << entry;
}

void draw_line(const RunFolder& run, const fs::path& scratch, data& pictures) {
  data figures = data::type::list;
  draw_profile(run.title, run.snapshots.back(), scratch / "profile.png");
  figures << figure_of(scratch / "profile.png",
                       fmt::format("Along the line at {}", quantity(run.snapshots.back().time, "s")));
  std::error_code status;
  if (fs::exists(run.folder / "tracks.csv", status)) {
    draw_slugs(run, scratch / "slugs.png");
    figures << figure_of(scratch / "slugs.png", "Slugs over distance and time");
  }
  data entry;
  entry.set("heading", "Pictures");
  entry.set("figures", figures);
  pictures << entry;
}

/// Sentences on how far the run can be trusted.
class Trust {
 public:
  void say(const std::string& text, bool warns = false) {
    data entry;
    entry.set("text", text);
    entry.set("warns", warns);
    list_ << entry;
  }
  [[nodiscard]] const data& list() const { return list_; }

 private:
  data list_ = data::type::list;
};

/// What a run's own books say.
data trust_of(const RunFolder& run, const nlohmann::json& ledger, bool compared_grids) {
  Trust trust;
  double drift = 0;
  for (const auto& phase : ledger.value("phases", nlohmann::json::array()))
    drift = std::max(drift, std::abs(phase.value("drift", 0.0)));
  constexpr double much_drift = 1e-6;
  trust.say(fmt::format("What is there of each phase is what was there, came in and went out, to {:.1e} of it.", drift),
            drift > much_drift);
  if (ledger.contains("greatest_smeared_share")) {
    constexpr double much_smeared = 0.01;
    const double smeared = ledger.value("greatest_smeared_share", 0.0);
    trust.say(
        fmt::format("At most {:.2g} % of {} lay in mixed cells away from the interface{}.", 100 * smeared,
                    run.phases[0], smeared > much_smeared ? ": drops and films there are thinner than the cells" : ""),
        smeared > much_smeared);
  }
  if (const auto missed = ledger.value("steps_pressure_not_converged", 0L); missed > 0)
    trust.say(fmt::format("The pressure missed its tolerance in {} of {} steps.", missed, run.steps), true);
  if (ledger.contains("greatest_divergence_per_step"))
    trust.say(fmt::format("No cell gained or lost more than {:.1e} of its volume in a step.",
                          ledger.value("greatest_divergence_per_step", 0.0)));
  if (ledger.contains("settled")) {
    const auto& settled = ledger["settled"];
    trust.say(settled.value("ended_run", false)
                  ? "The run ended because its gauges had settled: " + settled.value("gauges", std::string()) + "."
                  : "Its gauges had not settled: " + settled.value("gauges", std::string()) + ".",
              !settled.value("ended_run", false));
  }
  const auto log = read_file(run.folder / "log.txt", longest_file).value_or("");
  for (std::size_t at = log.find("warning: "); at != std::string::npos; at = log.find("warning: ", at + 1)) {
    const std::size_t end = log.find('\n', at);
    trust.say(log.substr(at + 9, end - at - 9), true);
  }
  if (!compared_grids)
    trust.say(
        "How much the figures depend on the size of the cells cannot be told from one grid: wavy study CASE "
        "--grids 3 runs more of them, and wavy report RUN OTHER OTHER says here what they tell.");
  return trust.list();
}

/// Steps, their limits, and where the time went.
Rows ledger_rows(const RunFolder& run, const nlohmann::json& ledger) {
  Rows rows{{"ledger", ""}};
  rows.push_back({"cells", fmt::format("{}", run.cells)});
  rows.push_back(
      {"steps", fmt::format("{}, from {} to {}", run.steps, quantity(ledger.value("smallest_step_s", 0.0), "s", 3),
                            quantity(ledger.value("largest_step_s", 0.0), "s", 3))});
  std::string limits;
  const auto counts = ledger.value("step_limits", nlohmann::json::object());
  for (const auto& [name, count] : counts.items())
    limits += fmt::format("{}{} {:.0f} %", limits.empty() ? "" : ", ", name,
                          100.0 * count.get<double>() / std::max(1.0, static_cast<double>(run.steps)));
  rows.push_back({"limited by", limits});
  rows.push_back({"wall time", duration(run.wall_seconds)});
  for (const auto& phase : ledger.value("phases", nlohmann::json::array())) {
    const bool mass = phase.contains("mass_now_kg");
    const std::string unit = mass ? "kg" : "m3";
    const auto amount = [&](const char* when) {
      return quantity(phase.value(fmt::format("{}_{}_{}", mass ? "mass" : "volume", when, unit), 0.0), unit);
    };
    rows.push_back(
        {phase.value("name", std::string()), fmt::format("{} at the start, {} in, {} out, {} at the end",
                                                         amount("start"), amount("in"), amount("out"), amount("now"))});
  }
  return rows;
}

/// The part on other runs.
data compared_part(const ReportRequest& request, const fs::path& scratch, bool& grids) {
  CompareRequest asked;
  asked.folders = request.folders;
  asked.measured = request.measured;
  asked.chart = (scratch / "compared.svg").string();
  const Comparison found = comparison(asked);
  grids = !found.grids.empty();
  data part;
  part.set("about", found.about);
  std::string same = found.same;
  if (!found.none.empty()) same += fmt::format("{}{} (nothing)", same.empty() ? "" : ", ", found.none);
  if (!same.empty()) part.set("same", same);
  part.set("chart", embedded(asked.chart));
  data tables = data::type::list;
  for (const auto& [name, rows] : {std::pair{"Runs", found.runs},
                                   {"What grids tell", found.grids},
                                   {"Against what was measured", found.measured},
                                   {"Gauge by gauge", found.differences}}) {
    if (rows.empty()) continue;
    data table = table_of(rows);
    table.set("name", name);
    tables << table;
  }
  part.set("tables", tables);
  return part;
}

/// The whole page.
std::string page_of(const ReportRequest& request, const RunFolder& run) {
  const ScratchFolder scratch;
  const auto summary = nlohmann::json::parse(read_file(run.folder / "summary.json", longest_file).value_or("{}"));
  const auto ledger = summary.value("ledger", nlohmann::json::object());
  const CaseFile the_case = read_case(run.folder / "case.toml");
  data page;
  page.set("title", run.title);
  page.set("version", WAVY_VERSION);
  page.set("folder", run.folder.lexically_normal().filename().string());
  page.set("about", fmt::format("{} at {}; {} cells, {} steps, {} of wall time", run.status,
                                quantity(run.ended_at, "s"), run.cells, run.steps, duration(run.wall_seconds)));
  if (const auto problem = summary.value("problem", std::string()); !problem.empty()) page.set("problem", problem);
  page.set("words", case_words(the_case, run));
  data sections = data::type::list;
  add_sections("case", "", parsed_toml(the_case.as_run, the_case.file), sections);
  page.set("sections", sections);

  data pictures = data::type::list;
  if (run.line)
    draw_line(run, scratch.path(), pictures);
  else
    draw_vessel(run, scratch.path(), pictures);
  draw_history(run, scratch.path() / "history.svg");
  data histories = data::type::list;
  histories << figure_of(scratch.path() / "history.svg", "All gauges over time");
  data entry;
  entry.set("heading", "History");
  entry.set("figures", histories);
  pictures << entry;
  page.set("pictures", pictures);

  long left_out = 0;
  const Table history = read_csv(run.folder / "history.csv", &left_out);
  nlohmann::ordered_json unused;
  page.set("gauges", table_of(gauge_rows("gauge", Reading::of_step, history, 0, unused)));
  bool grids = false;
  if (request.folders.size() > 1) page.set("compared", compared_part(request, scratch.path(), grids));
  page.set("trust", trust_of(run, ledger, grids));
  page.set("ledger", table_of(ledger_rows(run, ledger)));
  page.set("table", mustache::partial([] { return std::string(report_table); }));
  mustache::mustache form(report_page);
  return form.render(page);
}

}  // namespace

int report(const ReportRequest& request) {
  const RunFolder run = open_run_folder(request.folders.front());
  if (request.folders.size() == 1 && !request.measured.empty())
    throw input_error({"", 0, 0, "--measured"}, "it is held against several runs", "name another run, or use compare");
  const fs::path file = request.to.empty() ? run.folder / "report.html" : fs::path(request.to);
  if (file.extension() != ".html")
    throw input_error({"", 0, 0, "--to"}, fmt::format("'{}' does not end in .html", file.string()),
                      "choose such a name");
  if (run.snapshots.empty())
    throw input_error({run.folder.string(), 0, 0, ""}, "the run has no snapshots", "run it again");
  write_file(file, page_of(request, run));
  note_state(run);
  fmt::print("wrote {}\n", file.string());
  return 0;
}

}  // namespace wavy
