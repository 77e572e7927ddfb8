#include "run/settled_end.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cstdlib>

#include "base/text.hpp"

namespace wavy {
namespace {

constexpr double between_looks = 0.02;  // share of the time
constexpr double lasting = 0.1;         // by how much the run must grow while a gauge stays settled

/// As the history keeps it.
double kept(double reading) { return std::strtod(fmt::format("{:.10g}", reading).c_str(), nullptr); }

}  // namespace

SettledEnd::SettledEnd(const Schedule& schedule, const std::vector<Column>& columns)
    : not_before_(schedule.end_not_before) {
  for (const auto& name : schedule.end_when_settled) {
    const auto found = std::ranges::find(columns, name, &Column::name);
    assert(found != columns.end());
    watched_.push_back({*found, static_cast<std::size_t>(found - columns.begin()), {}});
  }
}

void SettledEnd::add(const std::vector<double>& row) {
  if (none() || reached_) return;
  times_.push_back(kept(row[0]));
  for (auto& one : watched_) one.readings.push_back(kept(row[one.number]));
  if (times_.back() >= next_look_) look(times_.back());
}

void SettledEnd::look(double time) {
  next_look_ = time * (1 + between_looks);
  reached_ = time >= not_before_;
  for (auto& one : watched_) {
    one.found = settling(times_, one.readings, 0, time);
    if (one.found.verdict != Settling::Verdict::settled)
      one.settled.reset();
    else if (!one.settled)
      one.settled = time;
    reached_ = reached_ && one.settled && time >= *one.settled * (1 + lasting);
  }
}

std::string SettledEnd::words() const {
  if (reached_) {
    const auto last = std::ranges::max_element(watched_, {}, [](const auto& one) { return one.settled.value_or(0.0); });
    return fmt::format("{} at {} ± {} since {}{}", last->column.name, quantity(last->found.mean, last->column.unit),
                       quantity(last->found.scatter, last->column.unit, 3), quantity(last->found.since, "s", 3),
                       watched_.size() > 1 ? ", the last to settle" : "");
  }
  std::string text;
  for (const auto& one : watched_) {
    using Verdict = Settling::Verdict;
    if (one.settled) continue;
    text +=
        fmt::format("{}{} {}", text.empty() ? "" : ", ", one.column.name,
                    one.found.verdict == Verdict::constant ? "never changed"
                    : one.found.verdict == Verdict::drifting
                        ? fmt::format("changed by {} in the last quarter", quantity(one.found.drift, one.column.unit))
                        : "has too few readings to tell");
  }
  return text.empty() ? "not for long enough to tell" : text;
}

}  // namespace wavy
