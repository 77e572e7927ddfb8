// How the gauges of a line read what they measure.
#pragma once

#include <array>
#include <functional>

#include "run/line_setup.hpp"

namespace wavy {

/// A gauge of one place or stretch.
using LineReader = std::function<double(const line::Model&)>;

/// Liquid in the cells from a first number up to an end [m3].
double liquid_held(const line::Model& model, const std::array<std::size_t, 2>& cells);

/// The cells of a gauge's leg, or of the whole line, from a first number up to an end.
std::array<std::size_t, 2> cells_of(const LineGauge& gauge, const LineSetup& setup);
/// Liquid in them [m3].
LineReader liquid_held_reader(const LineGauge& gauge, const LineSetup& setup);
/// How many slugs have passed a gauge's place.
LineReader slugs_reader(const LineGauge& gauge, const LineSetup& setup);

/// What value(model, cell) says at a gauge's place.
template <class Value>
LineReader reader_in_cell(const LineGauge& gauge, const LineSetup& setup, Value&& value) {
  return [cell = section_at(setup, static_cast<std::size_t>(gauge.leg), gauge.at), value](const line::Model& model) {
    return value(model, cell);
  };
}

}  // namespace wavy
