#include "run/mixing.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/text.hpp"
#include "run/quantities.hpp"

namespace wavy {

template <int D>
std::vector<MixingTime> mixing_times(const Setup<D>& setup, const Table& history) {
  constexpr double band = 0.05;
  std::vector<MixingTime> result;
  if (history.columns.empty() || history.columns[0].empty()) return result;
  const bool passes = std::ranges::any_of(setup.openings, [](const auto& opening) {
    return opening.given != OpeningSetup<D>::Given::pressure && opening.given != OpeningSetup<D>::Given::degassing;
  });
  if (passes) return result;
  const auto& time = history.columns[0];
  for (const auto& tracer : setup.tracers) {
    if (tracer.doses.empty()) continue;
    double dosed = 0;
    double over = 0;
    for (const auto& dose : tracer.doses) {
      dosed += dose.amount;
      over = std::max(over, dose.from + dose.lasts);
    }
    const int volumes = history.find(setup.phases[tracer.phase].name + "_volume");
    if (volumes < 0 || time.back() <= over) continue;
    const double added = dosed / history.columns[static_cast<std::size_t>(volumes)].back();
    const double mixed = (tracer.start ? tracer.start(Vec<D>{}) : 0.0) + added;
    for (const auto& gauge : setup.gauges) {
      if (tracer_in(gauge.quantity) != tracer.name) continue;
      const bool value = gauge.measures == "value";
      if (!value && gauge.measures != "variation") continue;
      const int column = history.find(gauge.name);
      if (column < 0) continue;
      const auto& reads = history.columns[static_cast<std::size_t>(column)];
      const auto far = [&](double reading) {
        return !(std::abs(value ? (reading - mixed) / added : reading) <= band);  // nothing read is far too
      };
      const auto last = std::ranges::find_if(reads.rbegin(), reads.rend(), far);
      MixingTime one{tracer.name, gauge.name, last != reads.rbegin(), 0};
      const auto next = static_cast<std::size_t>(reads.rend() - last);
      if (one.reached) one.seconds = std::max(time[next] - over, 0.0);
      result.push_back(one);
    }
  }
  return result;
}

std::string mixing_words(const std::vector<MixingTime>& times) {
  std::string text;
  std::string tracer;
  for (const auto& one : times) {
    text += one.tracer == tracer ? ", " : fmt::format("{}{} to 95 %: ", text.empty() ? "" : "; ", one.tracer);
    tracer = one.tracer;
    text += one.reached ? fmt::format("{} after the dose by {}", quantity(one.seconds, "s", 3), one.gauge)
                        : fmt::format("not yet by {}", one.gauge);
  }
  return text;
}

template std::vector<MixingTime> mixing_times<2>(const Setup<2>&, const Table&);
template std::vector<MixingTime> mixing_times<3>(const Setup<3>&, const Table&);

}  // namespace wavy
