#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>

#include "flow/turning_places.hpp"

namespace wavy {
namespace {

constexpr double nearest = 1.0 / 40;  // of a wall to a cell's middle, in cells: no friction is greater
constexpr double crossed = 2;         // cells, while the fastest point of what turns crosses them loads are averaged

template <int D>
Vec<3> moment_of(const Vec<D>& arm, const Vec<D>& force) {
  if constexpr (D == 2)
    return {0, 0, arm[0] * force[1] - arm[1] * force[0]};
  else
    return cross(arm, force);
}

}  // namespace

template <int D>
Solid<D> in_pose(const Solid<D>& solid, const Pose<D>& pose) {
  const Vec<D>& about = pose.motion.about;
  if constexpr (D == 2)
    return moved<2>(turned(solid, about, pose.angle), pose.shift);
  else
    return moved<3>(turned(solid, about, pose.axis, pose.angle), pose.shift);
}

template <int D>
TurningSolids<D>::~TurningSolids() = default;

template <int D>
TurningSolids<D>::TurningSolids(const Grid<D>& grid, const OpenSpace<D>& space, TurningSettings<D> settings)
    : space_(space), settings_(std::move(settings)) {
  assert(std::ranges::all_of(settings_.parts, [&](const auto& part) { return part.shaft < settings_.shafts.size(); }));
  loads_.resize(settings_.parts.size());
  mean_loads_.resize(settings_.parts.size());
  if (none()) return;
  const auto blocks = static_cast<std::size_t>(grid.blocks());
  cells_.resize(blocks);
  faces_.resize(blocks);
  given_.assign(blocks, loads_);
  set_time(grid, 0);
}

template <int D>
void TurningSolids<D>::set_time(const Grid<D>& grid, double time) {
  if (none()) return;
  placed_.clear();
  for (const auto& part : settings_.parts) {
    const auto& pose = settings_.shafts[part.shaft];
    placed_.emplace_back(part, pose(time), pose(time_));
  }
  const bool with_sheets = std::ranges::any_of(placed_, [](const auto& part) { return part.sheet.has_value(); });
  if (with_sheets && sheets_.empty()) {
    sheets_.resize(static_cast<std::size_t>(grid.blocks()));
    for_blocks(grid, [&](int b) { find_sheets(grid, b); });
  }
  for_blocks(grid, [&](int b) {
    find_in_block(grid, b);
    if (with_sheets) add_sheets(grid, b);
  });
  time_ = time;
}

template <int D>
double TurningSolids<D>::greatest_speed(double time) const {
  double greatest = 0;
  for (const auto& part : settings_.parts) {
    const Pose<D> pose = settings_.shafts[part.shaft](time);
    // Of its box where it is described: velocities turn with the body.
    for (int corner = 0; corner < (1 << D); ++corner) {
      Vec<D> place;
      for (std::size_t d = 0; d < D; ++d) place[d] = (corner >> d & 1) != 0 ? part.solid.upper[d] : part.solid.lower[d];
      greatest = std::max(greatest, length<D>(pose.motion.at(place)));
    }
  }
  return greatest;
}

template <int D>
void TurningSolids<D>::keep_gain(const Grid<D>& grid, const CellVectors<D>& u, const CellVectors<D>& acceleration,
                                 double dt) {
  if (none()) return;
  dt_ = dt;
  for_blocks(grid, [&](int b) {
    const double size = mean_spacing(grid.geometry(b));
    for (Cell& cell : cells(b)) {
      Vec<D> past;
      for (std::size_t d = 0; d < D; ++d) {
        cell.gain[d] = dt * acceleration[d].block(b)[cell.at];
        past[d] = u[d].block(b)[cell.at] - cell.velocity[d];
      }
      cell.along = acceleration_of(cell, cell_middle<D>(grid, b, cell.at), dt);
      for (double& component : cell.along) component *= dt * cell.solid;
      cell.pace = std::max(length<D>(cell.velocity), length<D>(past)) / size;
    }
  });
}

template <int D>
void TurningSolids<D>::find_penalties(const Grid<D>& grid, const Cells<D>& mass,
                                      const std::array<CellVectors<D>, D>& faces) {
  if (none()) return;
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const Vec<D>& h = grid.geometry(b).spacing;
    const double size = mean_spacing(grid.geometry(b));
    for (Cell& cell : cells(b)) {
      const double away = std::max(cell.distance / size, nearest);
      double friction = 0;
      for (std::size_t d = 0; d < D; ++d) {
        // Of the stress along the wall: that of a component across the face's axis.
        const double* face = faces[d][(d + 1) % D].block(b);
        const double between = 0.5 * (face[cell.at] + face[cell.at + layout.step[d]]);
        const double at_wall =
            cell.wall_viscosity > 0 ? dt_ * mass.block(b)[cell.at] * cell.wall_viscosity / (h[d] * h[d]) : between;
        // Beside a sheet the stress between its two sides is none.
        const double parted = cell.parted[d][0] + cell.parted[d][1];
        friction +=
            parted > 0 ? 2 * at_wall * parted : std::max(0.0, at_wall * std::abs(cell.normal[d]) / away - between);
      }
      friction /= mass.block(b)[cell.at];
      const double covered = cell.solid < 1 ? cell.solid / (1 - cell.solid) : greatest_penalty;
      cell.penalty = std::min(cell.inner_penalty(dt_) + friction, greatest_penalty);
      cell.hold = std::min(covered + friction, greatest_penalty);
    }
  });
}

template <int D>
void TurningSolids<D>::part_stress(const Grid<D>& grid, std::array<CellVectors<D>, D>& faces) const {
  if (none() || sheets_.empty()) return;
  for_blocks(grid, [&](int b) {
    for (std::size_t d = 0; d < D; ++d)
      for (const Face& face : faces_[static_cast<std::size_t>(b)][d])
        if (face.seen < 1)
          for (auto& component : faces[d]) component.block(b)[face.at] *= face.seen;
  });
}

template <int D>
Vec<D> TurningSolids<D>::Cell::gained(const Vec<D>& by_open, double held) const {
  Vec<D> result;
  constexpr double least = 1e-6;
  for (std::size_t d = 0; d < D; ++d) {
    const double open = 1 - 0.5 * (parted[d][0] + parted[d][1]);
    result[d] = open > least ? by_open[d] / (open * (1 + held)) : 0.0;
  }
  return result;
}

template <int D>
void TurningSolids<D>::blend_faces(const Grid<D>& grid, Faces<D>& face_u) const {
  if (none()) return;
  for_blocks(grid, [&](int b) {
    for (std::size_t d = 0; d < D; ++d) {
      double* flow = face_u[d].block(b);
      const double* area = space_.is_uncut(b) ? nullptr : space_.area()[d].block(b);
      for (const Face& face : faces_[static_cast<std::size_t>(b)][d])
        flow[face.at] = face.blended(flow[face.at], area == nullptr ? 1.0 : area[face.at]);
    }
  });
}

template <int D>
void TurningSolids<D>::narrow(int block, Faces<D>& inverse_density) {
  if (none()) return;
  for (std::size_t d = 0; d < D; ++d)
    for (Face& face : faces_[static_cast<std::size_t>(block)][d]) {
      double& value = inverse_density[d].block(block)[face.at];
      face.inverse = value;
      value *= std::max(face.open, least_open);
    }
}

template <int D>
void TurningSolids<D>::widen(int block, Faces<D>& inverse_density) const {
  if (none()) return;
  for (std::size_t d = 0; d < D; ++d)
    for (const Face& face : faces_[static_cast<std::size_t>(block)][d])
      inverse_density[d].block(block)[face.at] = face.inverse;
}

template <int D>
void TurningSolids<D>::press(const Grid<D>& grid, const FaceGain& gain, double dt, Faces<D>& face_u) const {
  if (none() || !gain) return;
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d)
      for (const Face& face : faces(b, d))
        if (face.open < least_open)
          face_u[d].block(b)[face.at] +=
              (least_open - face.open) * dt * frame_gain(grid, gain, face.part, d, b, face.at);
  });
}

template <int D>
void TurningSolids<D>::clear(const Grid<D>& grid, Cells<D>& rhs, const FaceGain& gain) const {
  if (none()) return;
  for_blocks(grid, [&](int b) {
    for (const Cell& cell : cells(b)) {
      if (!cell.closed) continue;
      double divergence = 0;
      for (int d = 0; d < D && gain; ++d)
        divergence += least_open / grid.geometry(b).spacing[d] *
                      (frame_gain(grid, gain, cell.part, d, b, cell.at + grid.layout().step[d]) -
                       frame_gain(grid, gain, cell.part, d, b, cell.at));
      rhs.block(b)[cell.at] = divergence;
    }
  });
}

template <int D>
bool TurningSolids<D>::stands_in_frame(std::size_t part, const Vec<D>& place) const {
  const std::size_t shaft = settings_.parts[part].shaft;
  const Vec<D>& about = placed_[part].now.about;
  const double away = std::hypot(place[0] - about[0], place[1] - about[1]);
  return std::ranges::any_of(settings_.frames, [&](const auto& frame) {
    return frame.shaft == shaft && away < frame.radius && place[D - 1] > frame.lower && place[D - 1] < frame.upper;
  });
}

/// What drives fluid that moves with a solid through a face, as seen in its frame: beyond that the solid turns through
/// the grid, and the same pull to its axis is its own acceleration.
template <int D>
double TurningSolids<D>::frame_gain(const Grid<D>& grid, const FaceGain& gain, std::size_t part, int axis, int block,
                                    std::ptrdiff_t face) const {
  Vec<D> place = cell_middle<D>(grid, block, face);
  const auto across = static_cast<std::size_t>(axis);
  place[across] -= 0.5 * grid.geometry(block).spacing[across];
  if (stands_in_frame(part, place)) return gain(axis, block, face);
  const double hair = 0.1 * grid.geometry(block).spacing[across];
  const bool at_side = place[across] < grid.lower()[across] + hair || place[across] > grid.upper()[across] - hair;
  if (at_side || (!space_.is_uncut(block) && space_.area()[across].block(block)[face] == 0)) return 0;
  const RigidMotion<D>& motion = placed_[part].now;
  return -RigidMotion<D>{{}, motion.turning, {}}.at(motion.at(place))[across];
}

/// Of the solid, as what moves with it at a cell's middle, `place`, feels it; none where it stands in a frame.
template <int D>
Vec<D> TurningSolids<D>::acceleration_of(const Cell& cell, const Vec<D>& place, double dt) const {
  if (stands_in_frame(cell.part, place)) return {};
  Vec<D> result = RigidMotion<D>{{}, placed_[cell.part].now.turning, {}}.at(cell.velocity);
  for (std::size_t d = 0; d < D; ++d) result[d] += (cell.velocity[d] - cell.before[d]) / dt;
  return result;
}

template <int D>
void TurningSolids<D>::take_over(const Grid<D>& grid, int block, const Cells<D>& mass, const Faces<D>& faces,
                                 const Faces<D>& inverse_density, const Vec<D>& body_force, double dt,
                                 CellVectors<D>& own, CellVectors<D>& u) {
  if (none()) return;
  const Layout<D>& layout = grid.layout();
  clear_given(block);
  for (const Cell& cell : cells(block)) {
    const std::ptrdiff_t at = cell.at;
    const double m = mass.block(block)[at];
    Balance balance{.mass = m, .before = cell.momentum};
    Vec<D> gains;
    for (std::size_t d = 0; d < D; ++d) {
      // Where a sheet closes a face, what acts there acts on the sheet.
      const double* face = faces[d].block(block) + at;
      gains[d] =
          own[d].block(block)[at] - 0.5 * (cell.parted[d][0] * face[0] + cell.parted[d][1] * face[layout.step[d]]);
    }
    gains = cell.gained(gains, cell.hold);
    for (std::size_t d = 0; d < D; ++d) {
      double& gain = own[d].block(block)[at];
      double& v = u[d].block(block)[at];
      v += dt * (gains[d] - gain);
      gain = gains[d] + cell.along[d] / dt;
      // Forces per volume: within the solid those of neighbours cancel, whatever the pressure is there.
      double push = 0;
      for (const std::ptrdiff_t f : {at, at + layout.step[d]}) {
        const double inverse = inverse_density[d].block(block)[f];
        if (inverse > 0) push += 0.5 * faces[d].block(block)[f] / inverse;
      }
      balance.after[d] = m * v;
      balance.push[d] = push;
    }
    give(grid, block, cell, balance, body_force, dt);
  }
}

template <int D>
void TurningSolids<D>::clear_given(int block) {
  auto& given = given_[static_cast<std::size_t>(block)];
  std::fill(given.begin(), given.end(), PartLoad<D>{});
}

template <int D>
void TurningSolids<D>::give(const Grid<D>& grid, int block, const Cell& cell, const Balance& of,
                            const Vec<D>& body_force, double dt) {
  Vec<D> force;  // times dt
  // The fluid within the solid takes part in its motion, and has weight; what is asked for is the load of that round
  // it.
  const double within = cell.solid * of.mass;
  for (std::size_t d = 0; d < D; ++d)
    force[d] = of.after[d] - of.before[d] - dt * of.push[d] -
               within * (cell.velocity[d] - cell.before[d] - dt * body_force[d]);
  const Vec<D> arm = minus<D>(cell_middle(grid, block, cell.at), placed_[cell.part].now.about);
  given_[static_cast<std::size_t>(block)][cell.part].add(1, {force, moment_of<D>(arm, force)});
}

template <int D>
void TurningSolids<D>::finish_loads(const Grid<D>& grid, double dt) {
  if (none()) return;
  std::fill(loads_.begin(), loads_.end(), PartLoad<D>{});
  for (int b = 0; b < grid.blocks(); ++b)
    for (std::size_t p = 0; p < loads_.size(); ++p)
      loads_[p].add(grid.geometry(b).cell_volume / dt, given_[static_cast<std::size_t>(b)][p]);
  constexpr double longest = 20;  // steps
  const double speed = greatest_speed(time_);
  const double time = std::min(crossed * grid.smallest_spacing() / std::max(speed, 1e-30), longest * dt);
  for (std::size_t p = 0; p < loads_.size(); ++p) {
    const double share = started_ ? dt / (time + dt) : 1.0;
    PartLoad<D> change = loads_[p];
    change.add(-1, mean_loads_[p]);
    mean_loads_[p].add(share, change);
  }
  started_ = true;
}

template <int D>
void TurningSolids<D>::archive(Archive& a) {
  if (none()) return;
  a("started", started_);
  for (std::size_t p = 0; p < loads_.size(); ++p)
    for (const auto& [name, load] : {std::pair{"load", &loads_[p]}, std::pair{"mean_load", &mean_loads_[p]}}) {
      a(fmt::format("{}_force{}", name, p), load->force);
      a(fmt::format("{}_moment{}", name, p), load->moment);
    }
}

template Solid<2> in_pose<2>(const Solid<2>&, const Pose<2>&);
template Solid<3> in_pose<3>(const Solid<3>&, const Pose<3>&);
template class TurningSolids<2>;
template class TurningSolids<3>;

}  // namespace wavy
