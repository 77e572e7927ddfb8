#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

#include "sharp/parts.hpp"
#include "sharp/sweep.hpp"

namespace wavy::sharp {
namespace {

/// What a group's cells hold together, in whole cells.
struct Content {
  double liquid = 0;
  double open_volume = 0;
};
template <int D>
Content content_of(const std::vector<CellPlace>& group, const GroupCell<D>* cells, const Cells<D>& F) {
  Content content;
  for (std::size_t k = 0; k < group.size(); ++k) {
    content.liquid += cells[k].volume * F.block(group[k].block)[group[k].at];
    content.open_volume += cells[k].volume;
  }
  return content;
}

/// Cells of a group may have been left with more liquid than they have room for, or with less than none: within the
/// group it is put where there is room. What finds none is left to restore_volume: were it kept, the group's mass would
/// not be that by which its momentum has moved.
template <int D>
void redistribute_excess(const std::vector<CellPlace>& group, const GroupCell<D>* cells, Cells<D>& F) {
  double excess = 0;  // of liquid, where it is above 1 or below 0
  for (std::size_t k = 0; k < group.size(); ++k) {
    double& f = F.block(group[k].block)[group[k].at];
    const double kept = std::clamp(f, 0.0, 1.0);
    excess += cells[k].volume * (f - kept);
    f = kept;
  }
  if (excess == 0) return;
  const auto spare = [excess](double f) { return excess > 0 ? 1 - f : f; };  // room for it, or content to take it from
  double capacity = 0;
  for (std::size_t k = 0; k < group.size(); ++k)
    capacity += cells[k].volume * spare(F.block(group[k].block)[group[k].at]);
  const double share = capacity > 0 ? std::clamp(excess / capacity, -1.0, 1.0) : 0.0;
  for (const auto& place : group) {
    double& f = F.block(place.block)[place.at];
    f += share * spare(f);
  }
}

/// After a sweep along `axis` the cells of a group share their room; and their momentum, which is what `state.u` holds
/// of them, becomes velocity: together they keep their momentum; what a cell's velocity differed from the group's
/// before the sweep it loses by as much as its content was exchanged.
template <int D>
void share_group(const Grid<D>& grid, const Settings<D>& settings, const std::vector<CellPlace>& group,
                 GroupCell<D>* cells, State<D>& state, int axis, double dt) {
  redistribute_excess(group, cells, state.F);
  double sum = 0;
  const std::ptrdiff_t s = grid.layout().step[axis];
  for (std::size_t k = 0; k < group.size(); ++k) {
    const auto& [b, at] = group[k];
    cells[k].mass = cells[k].volume * density(settings, state.F.block(b)[at]);
    sum += cells[k].mass;
    const double* q = state.face_u[axis].block(b) + at;
    const double leaving = dt / grid.geometry(b).spacing[axis] * (std::max(0.0, -q[0]) + std::max(0.0, q[s]));
    cells[k].kept = 1 - std::min(1.0, leaving * cells[k].inverse);
  }
  for (std::size_t c = 0; c < D; ++c) {
    double momentum = 0;
    double mean = 0;
    for (std::size_t k = 0; k < group.size(); ++k) {
      momentum += state.u[c].block(group[k].block)[group[k].at];
      mean += cells[k].mass * cells[k].before[c];
    }
    mean /= sum;
    double apart = 0;  // momentum of the differences that are kept
    for (std::size_t k = 0; k < group.size(); ++k) apart += cells[k].mass * cells[k].kept * (cells[k].before[c] - mean);
    for (std::size_t k = 0; k < group.size(); ++k)
      state.u[c].block(group[k].block)[group[k].at] =
          cells[k].kept * (cells[k].before[c] - mean) + (momentum - apart) / sum;
  }
}

/// Nothing is in cells of a block that are left out, whatever the loops beside them have left there.
template <int D>
void empty_inactive(const Layout<D>& layout, int block, const Cells<D>& inactive, State<D>& state) {
  const double* far = inactive.block(block);
  double* F = state.F.block(block);
  for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
    for (std::ptrdiff_t at = o; at < o + n; ++at) {
      if (far[at] == 0) continue;
      F[at] = 0;
      for (auto& component : state.u) component.block(block)[at] = 0;
    }
  });
}

/// Of the last drops the interface may have too little room for what is missing (in cells): whatever holds liquid takes
/// part, by its room for more or by what it holds.
template <int D>
void restore_anywhere(const Grid<D>& grid, const OpenSpace<D>& space, Cells<D>& F, double missing) {
  const auto spare = [missing](double f) { return f <= 0 ? 0.0 : missing > 0 ? 1 - f : f; };
  const double capacity = sum_volumes(grid, [&](int b) {
    const double* f = F.block(b);
    const OpenVolumes<D> open_volumes(space, b);
    double sum = 0;
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) sum += open_volumes[o + i] * spare(f[o + i]);
    });
    return sum;
  });
  if (capacity <= 0) return;
  const double share = std::clamp(missing / capacity, -1.0, 1.0);
  for_blocks(grid, [&](int b) {
    double* f = F.block(b);
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) f[o + i] += share * spare(f[o + i]);
    });
  });
}

/// Of n cells, by eight partial sums: F and F (1 - F), by what is open of them where walls cut the grid.
template <bool is_cut>
std::array<double, 2> sums_of_row(const double* f, const double* open_volume, int n) {
  double held = 0;
  double capacity = 0;
#pragma omp simd simdlen(8) reduction(+ : held, capacity)
  for (int i = 0; i < n; ++i) {
    if constexpr (is_cut) {
      held += open_volume[i] * f[i];
      capacity += open_volume[i] * f[i] * (1 - f[i]);
    } else {
      held += f[i];
      capacity += f[i] * (1 - f[i]);
    }
  }
  return {held, capacity};
}

/// (S9): the residual divergence of the velocity changes the volume of pure cells' liquid, which cannot show there: it
/// is the interface that should have moved. Puts that volume, and any excess beyond 0..1, onto the interface's cells in
/// proportion to F (1 - F), so that the total is kept to round-off.
template <int D>
double restore_volume(const Grid<D>& grid, const OpenSpace<D>& space, Cells<D>& F, double kept_volume) {
  constexpr double trace = 1e-14;
  const Layout<D>& layout = grid.layout();
  // Sums of F and of F (1 - F) per block, added in tree order.
  std::vector<std::array<double, 2>> parts(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    double* f = F.block(b);
    std::array<double, 2> part{};
    const double* open_volume = space.is_uncut(b) ? nullptr : space.volume().block(b);
    for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        // Traces that no drop could be made of count as none: they would spread without end.
        const double value = f[o + i] > trace ? f[o + i] : 0.0;
        f[o + i] = value < 1 - trace ? value : 1.0;
      }
      const auto [held, capacity] =
          open_volume == nullptr ? sums_of_row<false>(f + o, nullptr, n) : sums_of_row<true>(f + o, open_volume + o, n);
      part[0] += held;
      part[1] += capacity;
    });
    for (double& sum : part) sum *= grid.geometry(b).volume_ratio;
    parts[static_cast<std::size_t>(b)] = part;
  });
  double missing = kept_volume / grid.cell_volume();
  double capacity = 0;
  for (const auto& part : parts) {
    missing -= part[0];
    capacity += part[1];
  }
  // The velocity stays: what the residual divergence made or took of the liquid had the velocity of its surroundings.
  const double share = capacity > 0 ? std::clamp(missing / capacity, -1.0, 1.0) : 0.0;
  for_blocks(grid, [&](int b) {
    double* f = F.block(b);
    for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) f[o + i] += share * f[o + i] * (1 - f[o + i]);
    });
  });
  if (const double rest = missing - share * capacity; std::abs(rest) > trace * std::abs(missing))
    restore_anywhere(grid, space, F, rest);
  return std::abs(missing) * grid.cell_volume();
}

}  // namespace

template <int D>
Advection<D>::Advection(const Grid<D>& grid, const OpenSpace<D>& space, Boundary<D>* boundary,
                        const WallVelocity<D>& walls, Tracers<D>* tracers)
    : space_(&space),
      boundary_(boundary == nullptr || boundary->closed() ? nullptr : boundary),
      walls_(&walls),
      tracers_(tracers == nullptr || tracers->none() ? nullptr : tracers),
      interface_(grid, space),
      full_(grid) {
  if (boundary_ != nullptr) openings_.emplace(*boundary_);
  for (auto& component : start_) component = Cells<D>(grid);
  for (auto& component : gain_) component = Cells<D>(grid);
  for (const auto& group : space.groups()) {
    first_.push_back(group_cells_.size());
    for (const auto& [block, at] : group)
      group_cells_.push_back({space.volume().block(block)[at], space.inverse_volume().block(block)[at]});
  }
  if (!space.is_uncut()) find_closed(grid);
  for (std::size_t p = 0; p < 2; ++p)
    for (int d = 0; d < D; ++d) {
      const bool at_seam = p == 0 && grid.turn() == Turn::quarter && d < 2;
      if (at_seam || (tracers_ != nullptr && tracers_->in_phase(p))) passed_[p][d] = Cells<D>(grid);
    }
  if (grid.turn() == Turn::quarter) {
    const CellMap<D> map(grid);
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>& cell) {
      if (grid.turned_below(0, cell[0])) seam_.push_back({CellPlace{b, at}, map(*grid.beyond(cell, 0, 0))});
    });
  }
}

/// Which cells' velocities go on alone, and along which axis they have slopes: nothing is known behind a closed face.
/// And which cells of groups are so small that more may leave them than they have room for.
template <int D>
void Advection<D>::find_closed(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  alone_ = Field<unsigned char, D>(grid);
  for (auto& smooth : smooth_) smooth = Field<unsigned char, D>(grid);
  const CellRange<D> range = with_layers(layout, 1);
  small_.resize(static_cast<std::size_t>(grid.blocks()));
  rest_ = Cells<D>(grid);
  for_blocks(grid, [&](int b) {
    const double* volume = space_->volume().block(b);
    const double* seen = space_->share().block(b);
    const double* grouped = space_->grouped().block(b);
    const double* at_wall = space_->at_wall().block(b);
    for_rows<D>(layout, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t a = o; a < o + n; ++a) {
        alone_.block(b)[a] = volume[a] > 0 && grouped[a] == 0 ? 1 : 0;
        if (seen[a] > 0 && seen[a] < OpenSpace<D>::small) {
          SmallCell<D>& cell = small_[static_cast<std::size_t>(b)].emplace_back();
          cell.at = a;
          for (int d = 0; d < D; ++d) cell.index[d] = axis_index<D>(layout, a, d);
        }
        for (std::size_t d = 0; d < D; ++d) {
          const double* area = space_->area()[d].block(b);
          const bool open = area[a] > 0 && area[a + layout.step[d]] > 0;
          smooth_[d].block(b)[a] = open || at_wall[a] == 0 ? 1 : 0;
        }
      }
    });
  });
}

template <int D>
void Advection<D>::follow_walls(const Grid<D>& grid, const WallGradients<D>& gradients) {
  wall_slopes_.emplace(grid, *space_, gradients);
  for (auto& smooth : smooth_)
    for_blocks(grid, [&](int b) {
      const CellRange<D> range = with_layers(grid.layout(), 1);
      for_rows<D>(grid.layout(), range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          if (wall_slopes_->tells(b, at)) smooth.block(b)[at] = 0;
      });
    });
}

/// Cells of groups through which so much passes that the dilation of one direction could take more liquid from them
/// than they hold, or bring more than they have room for, count as full or not as their groups do.
template <int D>
void Advection<D>::fill_with_groups(const Grid<D>& grid, const State<D>& state, double dt) {
  constexpr double most = 0.5;  // of a cell's room that passes in a step: up to there its share stays within 0..1
  for_all_groups<D>(grid, *space_, {&state.F}, [&](std::size_t g, const auto& group) {
    const GroupCell<D>* cells = &group_cells_[first_[g]];
    const auto [liquid, open_volume] = content_of<D>(group, cells, state.F);
    for (std::size_t k = 0; k < group.size(); ++k) {
      const auto& [b, at] = group[k];
      double passing = 0;
      for (int d = 0; d < D; ++d) {
        const double* q = state.face_u[d].block(b) + at;
        passing += dt / grid.geometry(b).spacing[d] * std::max(std::abs(q[0]), std::abs(q[grid.layout().step[d]]));
      }
      if (passing > most * cells[k].volume) full_.block(b)[at] = liquid > 0.5 * open_volume ? 1 : 0;
    }
  });
}

/// For every small cell of a group: the share of liquid in the others of it.
template <int D>
void Advection<D>::find_rests(const Grid<D>& grid, const Cells<D>& F, int axis) {
  for_all_groups<D>(grid, *space_, {&F}, [&](std::size_t g, const auto& group) {
    const GroupCell<D>* cells = &group_cells_[first_[g]];
    const auto [liquid, open_volume] = content_of<D>(group, cells, F);
    for (std::size_t k = 0; k < group.size(); ++k) {
      const double f = F.block(group[k].block)[group[k].at];
      const double others = open_volume - cells[k].volume;
      rest_.block(group[k].block)[group[k].at] =
          group.size() > 1 ? std::clamp((liquid - cells[k].volume * f) / others, 0.0, 1.0) : f;
    }
  });
  fill_halo_across(grid, axis, rest_, 1, all_walls<D>(Mirror::even), space_->open_spans());
}

/// The velocities of the start, which cells are full then, and what velocities gain in half a step from pressure and
/// forces: no more than half the difference to a neighbour; where the flow is smooth and steady the gain is what the
/// fluid finds on its way, and less than that.
template <int D>
void Advection<D>::keep_start(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state,
                              double half_step) {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* F = state.F.block(b);
    unsigned char* full = full_.block(b);
    for_open_rows<D>(*space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) full[o + i] = F[o + i] > 0.5 ? 1 : 0;
    });
    for (std::size_t c = 0; c < D; ++c) {
      const double* u = state.u[c].block(b);
      const double* a = state.acceleration[c].block(b);
      double* gain = gain_[c].block(b);
      double* start = start_[c].block(b);
      for_open_rows<D>(*space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          const double own = u[o + i];
          double most = 0;
          for (std::size_t d = 0; d < D; ++d) {
            const double up = std::abs(u[o + i + layout.step[d]] - own);
            const double down = std::abs(u[o + i - layout.step[d]] - own);
            const double larger = up > down ? up : down;
            most = larger > most ? larger : most;
          }
          most *= 0.5;
          const double wanted = half_step * a[o + i];
          const double less = wanted < most ? wanted : most;
          gain[o + i] = less > -most ? less : -most;
          start[o + i] = own;
        }
      });
    }
  });
  fill_halo(grid, gain_, 1, velocity_rules<D>(settings.walls), space_->open_spans());
}

/// On a block, of the phases that carry tracers, and of what passes the ends that a quarter of a turn ties to each
/// other.
template <int D>
KeptFluxes Advection<D>::kept_fluxes(const Grid<D>& grid, int axis, int block) {
  const bool at_seam = grid.turn() == Turn::quarter && grid.forest().turned(block, axis, 0);
  const auto of = [&](std::size_t phase) {
    const bool kept = (phase == 0 && at_seam) || (tracers_ != nullptr && tracers_->in_phase(phase));
    return kept ? passed_[phase][axis].block(block) : nullptr;
  };
  return {of(0), of(1)};
}

/// What passes an end that a quarter of a turn ties to another is found twice, in the sweeps along either axis. What
/// came in through one and did not go out through the other is taken back, by half from the cells of both.
template <int D>
void Advection<D>::match_seams(State<D>& state) const {
  for (const auto& cells : seam_) {
    double gained = 0;
    for (std::size_t axis = 0; axis < 2; ++axis) gained += passed_[0][axis].block(cells[axis].block)[cells[axis].at];
    if (gained == 0) continue;
    for (const auto& [block, at] : cells) {
      const double open = OpenVolumes<D>(*space_, block)[at];
      if (open > 0) state.F.block(block)[at] -= 0.5 * gained / open;
    }
  }
}

template <int D>
double Advection<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt, int turn,
                                double kept_volume) {
  assert(dt > 0 && turn >= 0 && std::isfinite(kept_volume));
  const Layout<D>& layout = grid.layout();
  fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 2, state.u);
  gained_ = 0;
  keep_start(grid, settings, state, 0.5 * dt);
  if (wall_slopes_) wall_slopes_->find(state.u, state.F);
  fill_with_groups(grid, state, dt);
  const std::vector<PhaseShare<D>> shares{{&state.F}, {&state.F, true}};
  if (tracers_ != nullptr) {
    tracers_->begin(grid, shares, state.tracers);
    tracers_->pass_walls(grid, dt, true, state.tracers);
  }

  for (int pass = 0; pass < D; ++pass) {
    // Orders xy, yx in turn; xyz, zyx, yzx, xzy, zxy, yxz in 3-D.
    const int shift = turn / 2 % D;
    const int axis = (turn % 2 == 0 ? pass + shift : D - 1 - pass + shift) % D;
    if (!interface_.is_current()) interface_.update(grid, settings, state, D == 2 ? pad : 2);  // 2-D: for the arcs
    interface_.invalidate();
    if (pass > 0) fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 2, state.u, axis);

    if (openings_) {
      openings_->set_fraction_behind(state.face_u, state.F);
      boundary_->set_velocity_behind(grid, state.face_u, state.u);
    }
    // Groups within a block are seen to beside its sweep, while its values are in the cache.
    const auto keep = [&](int block) {
      for_groups<D>(*space_, block, {&state.u[0], &state.u[1], &state.u[D - 1]}, [&](std::size_t g, const auto& group) {
        for (std::size_t k = 0; k < group.size(); ++k)
          for (std::size_t c = 0; c < D; ++c)
            group_cells_[first_[g] + k].before[c] = state.u[c].block(group[k].block)[group[k].at];
      });
    };
    const auto share = [&](int block) {
      for_groups<D>(*space_, block, {&state.F, &state.u[0], &state.u[1], &state.u[D - 1], &state.face_u[axis]},
                    [&](std::size_t g, const auto& group) {
                      share_group<D>(grid, settings, group, &group_cells_[first_[g]], state, axis, dt);
                    });
    };
    if (!space_->groups().empty()) find_rests(grid, state.F, axis);
    keep(grid.blocks());
    for_blocks(grid, [&](int b) {
      keep(b);
      Swept<D> field{.face_u = state.face_u[axis].block(b),
                     .F = state.F.block(b),
                     .extended_fraction = interface_.extended_fraction(state).block(b),
                     .full = full_.block(b),
                     .u = {}};
      for (std::size_t c = 0; c < D; ++c) {
        field.u.value[c] = state.u[c].block(b);
        field.u.start[c] = pass == 0 ? field.u.value[c] : start_[c].block(b);
        field.u.gain[c] = gain_[c].block(b);
      }
      const auto act = [&](auto is_cut, const Cut<D>& cut) {
        sweep_block<D, decltype(is_cut)::value>(layout, settings, axis, dt / grid.geometry(b).spacing[axis], field, cut,
                                                b, openings_ ? &*openings_ : nullptr, kept_fluxes(grid, axis, b));
      };
      if (space_->is_uncut(b))
        act(std::false_type{}, {});
      else
        act(std::true_type{},
            {space_->volume().block(b), space_->inverse_volume().block(b), space_->area()[axis].block(b),
             space_->at_wall().block(b), alone_.block(b), smooth_[axis].block(b), &interface_, space_, b,
             &small_[static_cast<std::size_t>(b)], rest_.block(b), wall_slopes_ ? &*wall_slopes_ : nullptr});
      if (inactive_ != nullptr) empty_inactive(layout, b, *inactive_, state);
      share(b);
    });
    share(grid.blocks());
    if (openings_) gained_ += openings_->accumulate(grid, axis);
    if (tracers_ != nullptr) tracers_->move(grid, axis, axis + 1, {&passed_[0], &passed_[1]}, state.tracers);
  }
  if (boundary_ != nullptr && boundary_->through_walls()) {
    gained_ += openings_->pass_walls(grid, *space_, settings, dt, full_, start_, state);
    for (std::size_t g = 0; g < space_->groups().size(); ++g)
      redistribute_excess<D>(space_->groups()[g], &group_cells_[first_[g]], state.F);
  }
  match_seams(state);
  const double restored = restore_volume(grid, *space_, state.F, kept_volume + gained_);
  if (tracers_ != nullptr) {
    tracers_->pass_walls(grid, dt, false, state.tracers);
    tracers_->finish(grid, shares, state.tracers);
  }
  return restored;
}

template class Advection<2>;
template class Advection<3>;

}  // namespace wavy::sharp
