#include "run/line_gauges.hpp"

#include <algorithm>

namespace wavy {

double liquid_held(const line::Model& model, const std::array<std::size_t, 2>& cells) {
  double volume = 0;
  for (std::size_t i = cells[0]; i < cells[1]; ++i) volume += model.sections()[i].volume() * model.holdup(i);
  return volume;
}

std::array<std::size_t, 2> cells_of(const LineGauge& gauge, const LineSetup& setup) {
  if (gauge.leg >= 0) return sections_of(setup, static_cast<std::size_t>(gauge.leg));
  return {0, sections_of(setup, setup.legs.size() - 1)[1]};
}

LineReader liquid_held_reader(const LineGauge& gauge, const LineSetup& setup) {
  return [cells = cells_of(gauge, setup)](const line::Model& model) { return liquid_held(model, cells); };
}

LineReader slugs_reader(const LineGauge& gauge, const LineSetup& setup) {
  const auto names = slug_gauges(setup);
  const auto place = static_cast<std::size_t>(std::ranges::find(names, gauge.name) - names.begin());
  return [place](const line::Model& model) {
    return static_cast<double>(std::ranges::count(model.passages(), place, &line::Passage::place));
  };
}

}  // namespace wavy
