// What is allowed in a case but can hardly be meant.
#include <fmt/format.h>

#include "base/text.hpp"
#include "case/case_file.hpp"

namespace wavy {
namespace {

template <int D>
void warn(const Setup<D>& setup, std::vector<std::string>& out) {
  bool weight = false;
  for (std::size_t d = 0; d < D; ++d) weight = weight || !setup.gravity[d].is_constant() || setup.gravity[d](0) != 0;
  if (!weight)
    out.emplace_back(
        "there is no gravity: the phases will not separate. If that is not meant, leave out motion.gravity for 9.81 "
        "m/s² downwards.");
  bool dense = false;
  const double cell = setup.cell_size;
  for (std::size_t f = 0; f < setup.fills.size(); ++f) {
    const auto& fill = setup.fills[f];
    const std::string name = fmt::format("fill[{}]", f + 1);
    dense = dense || fill.phase == 0;
    if (const auto* level = std::get_if<BelowLevel<D>>(&fill.shape)) {
      if (level->height > setup.size[D - 1])
        out.push_back(fmt::format(
            "{}: the level of {} lies above the lid at {}: the closed vessel is quite full. Lower the level.", name,
            quantity(level->height, "m"), quantity(setup.size[D - 1], "m")));
      else if (level->height > 0 && level->height < 2 * cell)
        out.push_back(fmt::format("{}: a layer of {} is thinner than two cells of {}. Choose a smaller grid.cell.",
                                  name, quantity(level->height, "m"), quantity(cell, "m")));
      else if (setup.size[D - 1] - level->height > 0 && setup.size[D - 1] - level->height < 2 * cell)
        out.push_back(fmt::format(
            "{}: the space of {} above the level is thinner than two cells of {}. Choose a smaller grid.cell.", name,
            quantity(setup.size[D - 1] - level->height, "m"), quantity(cell, "m")));
    }
    Vec<D> lower{};
    Vec<D> upper = setup.size;
    if (const auto* box = std::get_if<AlignedBox<D>>(&fill.shape)) {
      lower = box->lower;
      upper = box->upper;
      for (int d = 0; d < D; ++d)
        if (upper[d] - lower[d] < 2 * cell) {
          out.push_back(fmt::format("{}: the box is thinner ({}) than two cells of {}. Choose a smaller grid.cell.",
                                    name, quantity(upper[d] - lower[d], "m"), quantity(cell, "m")));
          break;
        }
    } else if (const auto* ball = std::get_if<Ball<D>>(&fill.shape)) {
      for (int d = 0; d < D; ++d) {
        lower[d] = ball->centre[d] - ball->radius;
        upper[d] = ball->centre[d] + ball->radius;
      }
      if (ball->radius < 4 * cell)
        out.push_back(fmt::format("{}: a diameter of {} is less than 8 cells of {}. Choose a smaller grid.cell.", name,
                                  quantity(2 * ball->radius, "m"), quantity(cell, "m")));
    } else if (const auto* drops = std::get_if<Drops<D>>(&fill.shape)) {
      const double smallest = drops->balls.back().radius;  // they come largest first
      if (smallest < 4 * cell)
        out.push_back(
            fmt::format("{}: the smallest drops, {}, are less than 8 cells of {} across. Choose a smaller "
                        "grid.cell.",
                        name, quantity(2 * smallest, "m"), quantity(cell, "m")));
    }
    for (int d = 0; d < D; ++d)
      if (lower[d] >= setup.size[d] || upper[d] <= 0) {
        out.push_back(fmt::format("{}: the shape lies outside the vessel and fills nothing. Check its place.", name));
        break;
      }
  }
  if (!dense)
    out.push_back(fmt::format("no fill puts '{}' into the vessel: it is {}. Add a [[fill]].", setup.phases[0].name,
                              setup.gas_left_out ? "empty" : fmt::format("full of '{}' alone", setup.phases[1].name)));
  if (setup.schedule.snapshot_interval > setup.schedule.until)
    out.emplace_back("run.snapshot_interval is longer than the run: only the start and the end are kept.");
  if (setup.phases[0].properties.density < 1.02 * setup.phases[1].properties.density)
    out.emplace_back("the two phases have nearly the same density: they hardly separate. Check both.");
}

}  // namespace

std::vector<std::string> warnings(const CaseFile& the_case) {
  std::vector<std::string> result;
  if (the_case.line) return result;
  std::visit([&](const auto& setup) { warn(setup, result); }, the_case.setup);
  return result;
}

}  // namespace wavy
