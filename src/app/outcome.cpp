// What a run's ledger and gauges say at its end.
#include <fmt/format.h>

#include <algorithm>

#include "app/commands.hpp"
#include "base/text.hpp"
#include "results/execute.hpp"

namespace wavy {
namespace {

/// Least, greatest and last value of the gauges, without the time and what is `left_out` by its name.
template <class LeftOut>
void print_gauges(const std::vector<GaugeSummary>& gauges, LeftOut&& left_out) {
  Rows rows{{"gauge", "least", "at", "greatest", "at", "last"}};
  for (const auto& gauge : gauges) {
    const auto& [name, unit] = gauge.column;
    if (name == "time" || left_out(name)) continue;
    if (!gauge.read) {
      rows.push_back({name, "never read"});
      continue;
    }
    rows.push_back({name, quantity(gauge.least, unit), quantity(gauge.least_time, "s"), quantity(gauge.greatest, unit),
                    quantity(gauge.greatest_time, "s"), quantity(gauge.last, unit)});
  }
  fmt::print("{}", aligned(rows));
}

std::string steps_taken(const RunLedger& ledger) {
  std::string limits;
  for (const auto& [name, count] : ledger.limits)
    limits += fmt::format("{}{} {:.0f} %", limits.empty() ? "" : ", ", name,
                          100.0 * static_cast<double>(count) / static_cast<double>(ledger.steps));
  return fmt::format("{}, from {} to {}; limited by {}", ledger.steps, quantity(ledger.smallest_step, "s", 3),
                     quantity(ledger.largest_step, "s", 3), limits);
}

/// Share of each phase in what has left through each opening: percents, or parts per million of what is little; and
/// how long each phase stays.
void print_carry_over(const VesselLedger& ledger, const std::vector<std::string>& phases) {
  Rows rows;
  for (const auto& through : ledger.openings) {
    double all = 0;
    for (const double out : through.out) all += out;
    if (!(all > 0)) continue;
    std::string text;
    for (std::size_t p = 0; p < phases.size(); ++p) {
      const double share = through.out[p] / all;
      constexpr double little = 1e-3;
      if (share > 0)
        text +=
            fmt::format("{}{} {}", text.empty() ? "" : ", ", phases[p],
                        share < little ? fmt::format("{:.3g} ppm", 1e6 * share) : fmt::format("{:.4g} %", 100 * share));
    }
    rows.push_back({rows.empty() ? "left as" : "", through.opening, text});
  }
  if (!rows.empty()) fmt::print("{}", aligned(rows));
  std::string stays;
  for (std::size_t p = 0; p < phases.size(); ++p)
    if (const double time = ledger.residence(p); time > 0)
      stays += fmt::format("{}{} {}", stays.empty() ? "" : ", ", phases[p], duration(time));
  if (!stays.empty()) fmt::print("{}", aligned({{"residence", stays + " (held now over what left in a second)"}}));
}

/// What is to be said of most first cells' distance from walls.
std::string too_far(double y_plus) {
  constexpr double law_holds = 500;
  return y_plus > law_holds ? ": coarse for the law of the wall, friction is a guess there" : "";
}

void print_ledger(const VesselLedger& ledger, const std::vector<std::string>& phases,
                  const std::vector<GaugeSummary>& gauges) {
  const auto passed = [](double volume) { return volume > 0 ? quantity(volume, "m3") : std::string("-"); };
  Rows rows{{"phase", "start", "in", "out", "now", "drift"}};
  const std::size_t computed = phases[1].empty() ? 1 : phases.size();
  for (std::size_t p = 0; p < computed; ++p)
    rows.push_back({phases[p], quantity(ledger.volume_start[p], "m3"), passed(ledger.volume_in[p]),
                    passed(ledger.volume_out[p]), quantity(ledger.volume_now[p], "m3"),
                    fmt::format("{:.1e}", ledger.drift(static_cast<int>(p)))});
  fmt::print("{}", aligned(rows));

  if (!ledger.openings.empty()) {
    rows = {{"opening"}};
    for (std::size_t p = 0; p < computed; ++p) rows[0].insert(rows[0].end(), {phases[p] + " in", "out"});
    for (const auto& through : ledger.openings) {
      rows.push_back({through.opening});
      for (std::size_t p = 0; p < computed; ++p)
        rows.back().insert(rows.back().end(), {passed(through.in[p]), passed(through.out[p])});
    }
    fmt::print("{}", aligned(rows));
    if (!ledger.has_interface) print_carry_over(ledger, phases);
  }

  if (!ledger.tracers.empty()) {
    const auto amount = [](double kg) { return kg != 0 ? quantity(kg, "kg") : std::string("-"); };
    rows = {{"tracer", "start", "dosed", "dissolved", "in", "out", "now", "drift"}};
    for (std::size_t i = 0; i < ledger.tracers.size(); ++i) {
      const auto& one = ledger.tracers[i];
      rows.push_back({one.name, amount(ledger.tracers_start[i]), amount(one.dosed), amount(one.dissolved),
                      amount(one.in), amount(one.out), amount(one.now), fmt::format("{:.1e}", ledger.tracer_drift(i))});
    }
    fmt::print("{}", aligned(rows));
    constexpr double much = 1e-4;
    if (ledger.tracer_correction > much)
      fmt::print(
          "  warning: a step put back {:.1e} of a tracer that volumes had not taken along; try a smaller "
          "run.projection_tolerance\n",
          ledger.tracer_correction);
  }

  const auto of_opening = [&](const std::string& column) {
    return std::ranges::any_of(ledger.openings, [&](const auto& through) {
      return std::ranges::any_of(phases, [&](const std::string& phase) {
        return std::ranges::any_of(flow_ways,
                                   [&](const char* way) { return column == flow_column(through.opening, phase, way); });
      });
    });
  };
  print_gauges(gauges, [&](const std::string& column) { return column.ends_with("_volume") || of_opening(column); });

  const double steps = std::max(1.0, static_cast<double>(ledger.steps));
  rows = {{"steps", steps_taken(ledger)}};
  if (ledger.has_interface)
    rows.push_back({"interface", fmt::format("{:.2g} % of {} lies away from the interface in mixed cells (at most "
                                             "{:.2g} %)",
                                             100 * ledger.smeared, phases[0], 100 * ledger.greatest_smeared)});
  if (const auto& [least, middle, greatest] = ledger.wall_units; greatest > 0)
    rows.push_back({"walls", fmt::format("first cells at y+ {:.3g} to {:.3g}, half of them beyond {:.3g}{}", least,
                                         greatest, middle, too_far(middle))});
  rows.insert(
      rows.end(),
      {{"pressure", fmt::format("{:.1f} iterations a step, at most {}; greatest volume error of a cell {:.1e} a step",
                                static_cast<double>(ledger.pressure_iterations) / steps,
                                ledger.most_pressure_iterations, ledger.greatest_divergence)},
       {"time", fmt::format("{}, {:.0f} ns per cell and step", duration(ledger.wall_seconds),
                            ledger.nanoseconds_per_cell_and_step())}});
  if (ledger.unconverged > 0)
    rows.push_back({"warning", fmt::format("the pressure missed its tolerance in {} steps", ledger.unconverged)});
  fmt::print("{}", aligned(rows));
}

void print_ledger(const LineLedger& ledger, const std::vector<std::string>& phases,
                  const std::vector<GaugeSummary>& gauges) {
  Rows rows{{"phase", "start", "in", "out", "now", "drift"}};
  for (std::size_t p = 0; p < 2; ++p)
    rows.push_back({phases[p], quantity(ledger.mass_start[p], "kg"), quantity(ledger.mass_in[p], "kg"),
                    quantity(ledger.mass_out[p], "kg"), quantity(ledger.mass_now[p], "kg"),
                    fmt::format("{:.1e}", ledger.drift(p))});
  fmt::print("{}", aligned(rows));
  print_gauges(gauges, [](const std::string&) { return false; });
  fmt::print("{}", aligned({{"steps", steps_taken(ledger)},
                            {"time", fmt::format("{}; cells are full to {:.0e} of their volume",
                                                 duration(ledger.wall_seconds), ledger.greatest_volume_error)}}));
}

}  // namespace

std::string ending_of(const RunOutcome& outcome) {
  const RunLedger& books = outcome.books();
  return books.interrupted ? "interrupted" : books.settled ? "settled" : "done";
}

void print_outcome(const CaseFile& the_case, const RunOutcome& outcome) {
  const RunLedger& books = outcome.books();
  fmt::print("{} at t = {}\n", ending_of(outcome), quantity(books.ended_at, "s"));
  if (!books.settling.empty()) fmt::print("  {}: {}\n", books.settled ? "settled" : "not settled", books.settling);
  const auto names = names_of(phases_of(the_case));
  std::visit([&](const auto& ledger) { print_ledger(ledger, names, outcome.gauges); }, outcome.ledger);
}

}  // namespace wavy
