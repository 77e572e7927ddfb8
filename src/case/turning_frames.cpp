#include "case/turning_frames.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace wavy {
namespace {

constexpr double least_gap = 3.5;     // between what turns and what stands, in cells: the frame's edge lies between
constexpr double least_margin = 1.5;  // between what turns and the frame's edge, likewise
constexpr int angles = 72;

/// What stands on a ring round an agitator's axis.
template <int D>
std::optional<std::string> stands_on_ring(const Setup<D>& setup, const Solid<D>& inside, Vec<D> middle, double radius) {
  for (int i = 0; i < angles; ++i) {
    const double angle = 2 * std::numbers::pi * i / angles;
    Vec<D> place = middle;
    place[0] += radius * std::cos(angle);
    place[1] += radius * std::sin(angle);
    if (auto there = stands_at<D>(setup, inside, place)) return there;
  }
  return std::nullopt;
}

/// Of one part: how far it reaches from its axis.
template <int D>
double swept_radius(const AgitatorPart<D>& own, const Vec<D>& at) {
  return own.impeller ? 0.5 * own.impeller->diameter : reach_of<D>(own.solid, at);
}

/// Zone of one part, with what the keys say of it.
template <int D>
FrameZone<D> zone_of(Part& part, const Setup<D>& setup, const Solid<D>& inside, const AgitatorPart<D>& own) {
  const Vec<D>& at = setup.agitators[own.agitator].at;
  const double h = setup.cell_size;
  const double reach = swept_radius<D>(own, at);
  FrameZone<D> zone{.shaft = own.agitator};
  Vec<D> middle = at;
  if constexpr (D == 3) {
    const double height = own.solid.upper[2] - own.solid.lower[2];
    const double margin = std::max(0.5 * height, 2 * h);
    zone.lower = std::max(own.solid.lower[2] - margin, setup.lower[2]);
    zone.upper = std::min(own.solid.upper[2] + margin, setup.upper[2]);
    if (part.has("frame_from")) zone.lower = part.quantity("frame_from");
    if (part.has("frame_to")) zone.upper = part.quantity("frame_to");
    if (zone.lower > own.solid.lower[2] || zone.upper < own.solid.upper[2])
      throw part.wrong(part.has("frame_from") ? "frame_from" : "frame_to",
                       fmt::format("'{}' reaches from {} to {}, out of the frame", own.name,
                                   quantity(own.solid.lower[2], "m"), quantity(own.solid.upper[2], "m")),
                       "leave the key out, or let the frame reach further");
  }
  const auto stands_within = [&](double radius) -> std::optional<std::string> {
    const int rows = D == 3 ? std::max(1, static_cast<int>(std::ceil((zone.upper - zone.lower) / (0.5 * h)))) : 1;
    for (int row = 0; row < rows; ++row) {
      if constexpr (D == 3) middle[2] = zone.lower + (zone.upper - zone.lower) * (row + 0.5) / rows;
      if (auto there = stands_on_ring<D>(setup, inside, middle, radius)) return there;
    }
    return std::nullopt;
  };
  const auto key = [&] { return part.has("frame_diameter") ? "frame_diameter" : "motion"; };
  const double wanted = part.has("frame_diameter") ? 0.5 * part.quantity("frame_diameter") : 0.0;
  if (wanted > 0 && wanted < reach + least_margin * h)
    throw part.wrong("frame_diameter",
                     fmt::format("the frame ends less than {:g} cells off '{}', which sweeps {}", least_margin,
                                 own.name, quantity(2 * reach, "m")),
                     fmt::format("{} or more, or leave it out", quantity(2 * (reach + least_margin * h), "m")));
  const double least = std::max(wanted, reach + least_gap * h);
  const double farthest = wanted > 0 ? least : 4 * reach + least_gap * h;
  // How far things stand off, in strides of a quarter of a cell; between them lies what is measured in such.
  const double stride = 0.25 * h;
  const int strides = static_cast<int>(std::ceil((farthest - reach) / stride));
  double free = reach;
  for (int i = 0; i <= strides; ++i) {
    const double radius = std::min(reach + (i + 0.5) * stride, farthest);
    if (const auto there = stands_within(radius)) {
      if (free >= least) break;
      throw part.wrong(key(), fmt::format("the frozen frame round '{}' touches {}", own.name, *there),
                       wanted > reach + least_gap * h
                           ? "choose a smaller frame_diameter, or leave it out"
                           : fmt::format("leave {:g} cells ({}) between them, or set motion = \"in_time\"", least_gap,
                                         quantity(least_gap * h, "m")));
    }
    free = radius;
  }
  zone.radius = wanted > 0 ? wanted : 0.5 * (reach + free);
  return zone;
}

}  // namespace

template <int D>
std::optional<std::string> stands_at(const Setup<D>& setup, const Solid<D>& inside, const Vec<D>& place) {
  if (inside.distance(place) > 0) return "the wall of the vessel";
  for (std::size_t k = 0; k < setup.inserts.size(); ++k)
    if (setup.inserts[k].distance(place) < 0) return fmt::format("'{}'", setup.insert_names[k]);
  for (std::size_t k = 0; k < setup.thin_walls.size(); ++k) {
    const auto& wall = setup.thin_walls[k];
    if (wall.extent.distance(place) < 0 &&
        std::abs(dot<D>(minus<D>(place, wall.point), wall.normal)) < 0.5 * setup.cell_size)
      return fmt::format("'{}'", setup.thin_wall_names[k]);
  }
  return std::nullopt;
}

template <int D>
void read_frames(Part& part, Setup<D>& setup, const Solid<D>& inside) {
  Agitator<D>& agitator = setup.agitators.back();
  const bool frozen = part.choice("motion") == "frozen";
  for (const char* key : {"frame_diameter", "frame_from", "frame_to"}) {
    if (!part.has(key)) continue;
    if (!frozen) throw part.wrong(key, "a frame belongs to motion = \"frozen\"", "leave the key out");
    if (D == 2 && std::string(key) != "frame_diameter") throw part.wrong(key, "it belongs to a 3-D vessel");
  }
  if (!frozen) return;
  for (const auto& own : setup.agitator_parts) {
    if (own.agitator + 1 != setup.agitators.size() || own.is_shaft) continue;
    agitator.frames.push_back(zone_of<D>(part, setup, inside, own));
  }
}

template <int D>
void refuse_meeting_frames(const Setup<D>& setup) {
  const auto place = [&](const FrameZone<D>& zone) {
    return Swept<D>{setup.agitators[zone.shaft].at, zone.radius, zone.lower, zone.upper};
  };
  for (const auto& own : setup.agitators)
    for (const auto& zone : own.frames) {
      const auto refuse = [&](const Swept<D>& other, const std::string& what) {
        if (meet<D>(place(zone), other))
          throw input_error(own.place, fmt::format("the frozen frame of '{}' reaches {}", own.name, what),
                            "choose a smaller frame_diameter, or set motion = \"in_time\"");
      };
      for (const auto& part : setup.agitator_parts) {
        if (part.agitator == zone.shaft) continue;
        const Vec<D>& at = setup.agitators[part.agitator].at;
        refuse({at, swept_radius<D>(part, at), part.solid.lower[D - 1], part.solid.upper[D - 1]},
               fmt::format("'{}'", part.name));
      }
      for (const auto& other : setup.agitators)
        for (const auto& next : other.frames)
          if (next.shaft != zone.shaft) refuse(place(next), fmt::format("that of '{}'", other.name));
    }
}

template std::optional<std::string> stands_at<2>(const Setup<2>&, const Solid<2>&, const Vec<2>&);
template std::optional<std::string> stands_at<3>(const Setup<3>&, const Solid<3>&, const Vec<3>&);
template void read_frames<2>(Part&, Setup<2>&, const Solid<2>&);
template void read_frames<3>(Part&, Setup<3>&, const Solid<3>&);
template void refuse_meeting_frames<2>(const Setup<2>&);
template void refuse_meeting_frames<3>(const Setup<3>&);

}  // namespace wavy
