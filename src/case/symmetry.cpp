#include "case/symmetry.hpp"

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

namespace wavy {
namespace {

/// Greatest difference between the distances from one solid, turned, and from another, in and round the other's box
/// [m].
template <int D>
double unlike_image(const Setup<D>& setup, Turn turn, const Solid<D>& one, const Solid<D>& other) {
  const auto turned_back = [&](Vec<D> place) {
    for (int k = 0; k < (turn == Turn::quarter ? 3 : 1); ++k) place = turned_place(setup, turn, place);
    return place;
  };
  constexpr int samples = 17;  // in no step with blades and baffles
  double greatest = 0;
  Index<D> number{};
  for (int d = 0; d < D;) {
    Vec<D> place;
    for (std::size_t e = 0; e < D; ++e)
      place[e] = other.lower[e] + (number[e] + 0.5) / samples * (other.upper[e] - other.lower[e]);
    greatest = std::max(greatest, std::abs(other.distance(place) - one.distance(turned_back(place))));
    for (d = 0; d < D && ++number[d] == samples; ++d) number[d] = 0;
  }
  return greatest;
}

template <int D>
bool is_image(const Setup<D>& setup, Turn turn, const Solid<D>& one, const Solid<D>& other) {
  constexpr double of_a_cell = 0.1;
  const double hair = of_a_cell * setup.cell_size;
  const Vec<D> lower = turned_place(setup, turn, one.lower);
  const Vec<D> upper = turned_place(setup, turn, one.upper);
  for (std::size_t d = 0; d < D; ++d) {
    const auto [low, high] = std::minmax(lower[d], upper[d]);
    if (std::abs(low - other.lower[d]) > hair || std::abs(high - other.upper[d]) > hair) return false;
  }
  return unlike_image(setup, turn, one, other) <= hair;
}

template <int D>
Solid<D> solid_of(const ThinWall<D>& wall) {
  return {[wall](const Vec<D>& place) {
            const double across = std::abs(dot<D>(minus<D>(place, wall.point), wall.normal));
            return std::max(across, wall.extent.distance(place));
          },
          wall.extent.lower, wall.extent.upper};
}

/// Number of the first of these that none of them is the image of.
template <int D>
std::optional<std::size_t> without_image(const Setup<D>& setup, Turn turn, const std::vector<Solid<D>>& solids) {
  for (std::size_t i = 0; i < solids.size(); ++i)
    if (std::ranges::none_of(solids, [&](const auto& other) { return is_image(setup, turn, solids[i], other); }))
      return i;
  return std::nullopt;
}

/// What a turn does not leave as it is, and why; none: all of it.
struct Misfit {
  std::string what;
  std::string remedy;
};
template <int D>
std::optional<Misfit> misfit(const Setup<D>& setup, Turn turn, const Solid<D>& inside) {
  const std::string leave = "or leave vessel.symmetry out";
  const std::string turning = turn == Turn::half ? "half a turn" : "a quarter of a turn";
  const bool fits = turn == Turn::half || std::abs(setup.size[0] - setup.size[1]) <= 1e-9 * setup.size[0];
  if (!fits || (setup.vessel && !is_image(setup, turn, inside, inside)))
    return Misfit{turning + " round its middle does not leave the vessel as it is", "leave it out"};
  std::vector<Solid<D>> solids = setup.inserts;
  std::vector<std::string> names = setup.insert_names;
  for (const auto& wall : setup.thin_walls) solids.push_back(solid_of(wall));
  names.insert(names.end(), setup.thin_wall_names.begin(), setup.thin_wall_names.end());
  if (const auto alone = without_image(setup, turn, solids))
    return Misfit{
        fmt::format("{} does not leave '{}' as it is, and nothing stands where it goes", turning, names[*alone]),
        "add its image, " + leave};
  for (const auto& agitator : setup.agitators)
    for (std::size_t d = 0; d < 2; ++d)
      if (std::abs(agitator.at[d] - 0.5 * setup.size[d]) > 1e-6 * setup.size[d])
        return Misfit{
            fmt::format("'{}' does not turn about the vessel's middle", agitator.name),
            fmt::format("set its at to \"{}\" along {}, {}", quantity(0.5 * setup.size[d], "m"), "xy"[d], leave)};
  for (const auto& part : setup.agitator_parts) {
    const int alike = turn == Turn::half ? 2 : 4;
    if (part.impeller && part.impeller->blades % alike != 0)
      return Misfit{
          fmt::format("{} does not leave the {} blades of '{}' as they are", turning, part.impeller->blades, part.name),
          fmt::format("choose {}, {}", turn == Turn::half ? "an even number" : "a number that 4 divides", leave)};
    if (!is_image(setup, turn, part.solid, part.solid))
      return Misfit{fmt::format("{} does not leave '{}' as it is", turning, part.name), "leave vessel.symmetry out"};
  }
  return std::nullopt;
}

}  // namespace

template <int D>
void check_turning_symmetry(const Setup<D>& setup, const Part& vessel, const Solid<D>& inside) {
  if (const Turn turn = turn_of(setup); turn != Turn::none) {
    if (const auto found = misfit(setup, turn, inside)) throw vessel.wrong("symmetry", found->what, found->remedy);
    return;
  }
  if (setup.symmetry == Symmetry::none || setup.agitators.empty()) return;
  const auto found = misfit(setup, Turn::half, inside);
  const std::string fitting = misfit(setup, Turn::quarter, inside) ? "half_turn" : "quarter_turn";
  throw input_error(setup.agitators.front().place, "flow that turns is no mirror image of itself",
                    found ? fmt::format("leave vessel.symmetry out ({})", found->what)
                          : fmt::format("write vessel.symmetry = \"{}\", which fits what is there", fitting));
}

template void check_turning_symmetry<2>(const Setup<2>&, const Part&, const Solid<2>&);
template void check_turning_symmetry<3>(const Setup<3>&, const Part&, const Solid<3>&);

}  // namespace wavy
