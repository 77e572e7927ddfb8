#include "flow/tracers.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

#include "base/error.hpp"
#include "flow/transport.hpp"
#include "mesh/cover.hpp"

namespace wavy {
namespace {

constexpr double carries = 1e-6;  // of a cell's volume: of less a profile in the next cell says nothing

}  // namespace

template <int D>
Tracers<D>::Tracers(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary,
                    std::vector<TracerSettings<D>> settings)
    : space_(space), boundary_(boundary), settings_(std::move(settings)) {
  kept_.resize(settings_.size());
  most_.resize(settings_.size());
  dosed_.resize(settings_.size());
  transferred_.resize(settings_.size());
  bounds_.resize(settings_.size());
  passed_.assign(settings_.size(), std::vector<Passed>(boundary.openings().size()));
  if (none()) return;
  for (auto& one : settings_) {
    one.inflow.resize(boundary.openings().size());
    contents_.resize(std::max(contents_.size(), one.phase + 1));
    if (contents_[one.phase].data().empty()) contents_[one.phase] = Cells<D>(grid);
    given_.emplace_back(one.doses.size(), 0.0);
    auto& zones = dose_zones_.emplace_back();
    for (const auto& given : one.doses) {
      auto& zone = zones.emplace_back();
      Cells<D> counted(grid);
      cover<D>(grid, counted, given.zone, space);
      for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>&) {
        if (counted.block(b)[o] > 0) zone.push_back({b, o, counted.block(b)[o]});
      });
    }
  }
  room_ = mass_ = rhs_ = Cells<D>(grid);
  for (auto& face : moved_) face = Cells<D>(grid);
  implicit_.emplace(grid, &space);
}

template <int D>
bool Tracers<D>::in_phase(std::size_t phase) const {
  return phase < contents_.size() && !contents_[phase].data().empty();
}

template <int D>
void Tracers<D>::set_contents(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares) {
  for (std::size_t p = 0; p < contents_.size(); ++p) {
    if (!in_phase(p)) continue;
    for_blocks(grid, [&](int b) {
      const OpenVolumes<D> volume(space_, b);
      double* content = contents_[p].block(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          content[at] = volume[at] > 0 ? volume[at] * shares[p](b, at) : 0.0;
      });
    });
  }
}

/// The whole amount, in tree order.
template <int D>
double Tracers<D>::sum(const Grid<D>& grid, std::size_t tracer, const Cells<D>& c) const {
  const Cells<D>& content = contents_[settings_[tracer].phase];
  return grid.cell_volume() * sum_volumes(grid, [&](int b) {
           double own = 0;
           for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
             for (std::ptrdiff_t at = o; at < o + n; ++at) own += content.block(b)[at] * c.block(b)[at];
           });
           return own;
         });
}

/// Least and greatest concentration, of what comes in too.
template <int D>
std::array<double, 2> Tracers<D>::bounds(const Grid<D>& grid, std::size_t tracer, const Cells<D>& c) const {
  const Cells<D>& content = contents_[settings_[tracer].phase];
  constexpr double most = 1e300;
  const auto greatest = [&](double sign) {
    return max_blocks(grid, [&](int b) {
      double own = -most;
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          if (content.block(b)[at] > trace) own = std::max(own, sign * c.block(b)[at]);
      });
      return own;
    });
  };
  std::array<double, 2> result{-greatest(-1), greatest(1)};
  for (const auto& comes : settings_[tracer].inflow) {
    if (!comes) continue;
    result[0] = std::min(result[0], *comes);
    result[1] = std::max(result[1], *comes);
  }
  if (result[0] > result[1]) return {0, 0};  // there is nothing of the phase
  return result;
}

template <int D>
void Tracers<D>::start(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares,
                       std::vector<Cells<D>>& concentrations) {
  set_contents(grid, shares);
  for (std::size_t i = concentrations.size(); i < settings_.size(); ++i) {
    Cells<D>& c = concentrations.emplace_back(grid);
    const Cells<D>& content = contents_[settings_[i].phase];
    if (settings_[i].start)
      for_blocks(grid, [&](int b) {
        for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
          for (std::ptrdiff_t at = o; at < o + n; ++at)
            if (content.block(b)[at] > trace) c.block(b)[at] = settings_[i].start(cell_middle<D>(grid, b, at));
        });
      });
  }
  for (std::size_t i = 0; i < settings_.size(); ++i) {
    share_groups(grid, i, false, concentrations[i]);
    kept_[i] = sum(grid, i, concentrations[i]);
  }
}

template <int D>
void Tracers<D>::begin(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares,
                       const std::vector<Cells<D>>& concentrations) {
  set_contents(grid, shares);
  for (std::size_t i = 0; i < settings_.size(); ++i) bounds_[i] = bounds(grid, i, concentrations[i]);
}

template <int D>
void Tracers<D>::pass_walls(const Grid<D>& grid, double dt, bool incoming, std::vector<Cells<D>>& concentrations) {
  for (const auto& inlet : boundary_.wall_inlets()) {
    const double all = dt * inlet.speed * inlet.area;  // over the volume of a whole cell
    if (all == 0 || (all > 0) != incoming) continue;
    const double cell_volume = grid.geometry(inlet.block).cell_volume;
    const double room = OpenVolumes<D>(space_, inlet.block)[inlet.at];
    for (std::size_t p = 0; p < contents_.size(); ++p) {
      if (!in_phase(p)) continue;
      double& held = contents_[p].block(inlet.block)[inlet.at];
      const double share = incoming ? boundary_.openings()[inlet.opening].composition[p] : std::min(held / room, 1.0);
      const double volume = std::max(all * share, -held);
      for (std::size_t i = 0; i < settings_.size(); ++i) {
        if (settings_[i].phase != p) continue;
        double& c = concentrations[i].block(inlet.block)[inlet.at];
        const double with = incoming ? settings_[i].inflow[inlet.opening].value_or(c) : c;
        if (held + volume > trace) c = (held * c + volume * with) / (held + volume);
        kept_[i] += volume * with * cell_volume;
        (incoming ? passed_[i][inlet.opening].in : passed_[i][inlet.opening].out) +=
            std::abs(volume * with) * cell_volume;
      }
      held += volume;
    }
  }
}

/// (C2) What a cell may use of its slope, so that what it is left with lies within its neighbours' bounds.
template <int D>
void Tracers<D>::find_room(const Grid<D>& grid, int first, int end, const Faces<D>& passed, const Cells<D>& content) {
  for_blocks(grid, [&](int b) {
    for_open_rows<D>(space_, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        double out = 0;
        for_open_faces(grid.layout(), b, at, first, end, [&](int d, std::ptrdiff_t face, double sign) {
          out += std::max(-sign * passed[d].block(b)[face], 0.0);
        });
        const double stays = content.block(b)[at] - out;
        room_.block(b)[at] = stays >= out ? 1.0 : std::max(stays, 0.0) / out;
      }
    });
  });
  fill_halo(grid, room_, 1, all_walls<D>(Mirror::even));
}

/// (C1), (C2) By what passes the faces, with the mean of the upwind cell's limited profile over what leaves it.
template <int D>
void Tracers<D>::move_one(const Grid<D>& grid, int first, int end, std::size_t tracer, const Faces<D>& passed,
                          const Cells<D>& content, Cells<D>& c) {
  const Layout<D>& layout = grid.layout();
  fill_halo(grid, c, 2, all_walls<D>(Mirror::even));
  for_blocks(grid, [&](int b) {
    const double* q = c.block(b);
    const double* held = content.block(b);
    for (int d = first; d < end; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double* area = areas(d, b);
      const double* flux = passed[d].block(b);
      double* moved = moved_[d].block(b);
      for_open_rows<D>(space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          moved[at] = 0;
          if (flux[at] == 0 || (area != nullptr && area[at] == 0)) continue;
          const bool upwards = flux[at] > 0;
          const std::ptrdiff_t from = upwards ? at - s : at;
          double value = q[from];
          const bool smooth = held[from - s] > carries && held[from + s] > carries &&
                              (area == nullptr || (area[from] > 0 && area[from + s] > 0));
          if (smooth) {
            const double leaves = std::min(std::abs(flux[at]) / std::max(held[from], trace), 1.0);
            const double slope = room_.block(b)[from] * limited_slope(q[from - s], q[from], q[from + s]);
            value += (upwards ? 0.5 : -0.5) * (1 - leaves) * slope;
          }
          moved[at] = flux[at] * value;
        }
      });
    }
  });
  // What comes in through openings, and a record of all that passes them.
  for (int d = first; d < end; ++d)
    for (const auto& face : boundary_.faces(d)) {
      const double flux = passed[d].block(face.block)[face.face];
      const double inwards = boundary_.sign(face) * flux;
      if (inwards == 0) continue;
      const double inside = c.block(face.block)[face.inside];
      const double value = inwards > 0 ? settings_[tracer].inflow[face.opening].value_or(inside) : inside;
      moved_[d].block(face.block)[face.face] = flux * value;
      const double amount = inwards * value * grid.geometry(face.block).cell_volume;
      kept_[tracer] += amount;
      (inwards > 0 ? passed_[tracer][face.opening].in : passed_[tracer][face.opening].out) += std::abs(amount);
    }
  for_blocks(grid, [&](int b) {
    double* q = c.block(b);
    const OpenVolumes<D> volume(space_, b);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (!(volume[at] > 0)) continue;
        double after = content.block(b)[at];
        double amount = after * q[at];
        for_open_faces(layout, b, at, first, end, [&](int d, std::ptrdiff_t face, double sign) {
          after += sign * passed[d].block(b)[face];
          amount += sign * moved_[d].block(b)[face];
        });
        // What is left of cells of groups may be less than nothing: their group as a whole has it.
        if (space_.is_uncut(b) || space_.grouped().block(b)[at] == 0)
          q[at] = after > trace ? std::clamp(amount / after, bounds_[tracer][0], bounds_[tracer][1]) : q[at];
        else
          q[at] = amount;
      }
    });
  });
}

/// The cells of a group have the same. `amounts`: in `c` stands not their concentration, but how much they have.
template <int D>
void Tracers<D>::share_groups(const Grid<D>& grid, std::size_t tracer, bool amounts, Cells<D>& c) const {
  const Cells<D>& content = contents_[settings_[tracer].phase];
  const auto [least, greatest] = bounds_[tracer];
  for_all_groups<D>(grid, space_, {&c, &content},
                    [&, least = least, greatest = greatest](std::size_t, const auto& group) {
                      double amount = 0;
                      double held = 0;
                      for (const auto& place : group) {
                        const double own = content.block(place.block)[place.at];
                        amount += (amounts ? 1.0 : own) * c.block(place.block)[place.at];
                        held += own;
                      }
                      double mean = held > trace ? amount / held : 0.0;
                      if (amounts && held > trace) mean = std::clamp(mean, least, greatest);
                      for (const auto& place : group) c.block(place.block)[place.at] = mean;
                    });
}

template <int D>
void Tracers<D>::move(const Grid<D>& grid, int first, int end, const std::vector<const Faces<D>*>& passed,
                      std::vector<Cells<D>>& concentrations) {
  for (std::size_t p = 0; p < contents_.size(); ++p) {
    if (!in_phase(p)) continue;
    Cells<D>& content = contents_[p];
    fill_halo(grid, content, 2, all_walls<D>(Mirror::even));
    find_room(grid, first, end, *passed[p], content);
    for (std::size_t i = 0; i < settings_.size(); ++i)
      if (settings_[i].phase == p) move_one(grid, first, end, i, *passed[p], content, concentrations[i]);
    for_blocks(grid, [&](int b) {
      const OpenVolumes<D> volume(space_, b);
      for_open_rows<D>(space_, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          if (!(volume[at] > 0)) continue;
          for_open_faces(grid.layout(), b, at, first, end, [&](int d, std::ptrdiff_t face, double sign) {
            content.block(b)[at] += sign * (*passed[p])[d].block(b)[face];
          });
        }
      });
    });
    for (std::size_t i = 0; i < settings_.size(); ++i)
      if (settings_[i].phase == p) share_groups(grid, i, true, concentrations[i]);
  }
}

template <int D>
void Tracers<D>::finish(const Grid<D>& grid, const std::vector<PhaseShare<D>>& shares,
                        std::vector<Cells<D>>& concentrations) {
  set_contents(grid, shares);
  for (std::size_t i = 0; i < settings_.size(); ++i) restore(grid, i, concentrations[i]);
}

/// (C3) What is missing goes to where there is neither the least nor the greatest concentration.
template <int D>
void Tracers<D>::restore(const Grid<D>& grid, std::size_t tracer, Cells<D>& c) {
  const Cells<D>& content = contents_[settings_[tracer].phase];
  for_blocks(grid, [&](int b) {
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        if (content.block(b)[at] <= trace) c.block(b)[at] = 0;
    });
  });
  const double there = sum(grid, tracer, c);
  const double missing = kept_[tracer] - there;
  if (missing == 0) return;
  const auto [least, greatest] = bounds(grid, tracer, c);
  const auto add = [&](double share, auto&& weight) {
    for_blocks(grid, [&](int b) {
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          if (content.block(b)[at] > trace) c.block(b)[at] += share * weight(c.block(b)[at]);
      });
    });
  };
  const auto between = [least = least, greatest = greatest](double value) {
    const double range = greatest - least;
    return range > 0 ? (value - least) * (greatest - value) / range : 0.0;
  };
  const auto itself = [](double value) { return value; };
  most_[tracer] = std::max(most_[tracer], std::abs(kept_[tracer]));
  greatest_correction_ = std::max(greatest_correction_, std::abs(missing) / std::max(most_[tracer], 1e-300));
  // With a share up to 1 no value leaves the bounds.
  const double capacity = grid.cell_volume() * sum_volumes(grid, [&](int b) {
                            double own = 0;
                            for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
                              for (std::ptrdiff_t at = o; at < o + n; ++at)
                                if (content.block(b)[at] > trace) own += content.block(b)[at] * between(c.block(b)[at]);
                            });
                            return own;
                          });
  if (capacity > std::abs(missing))
    add(missing / capacity, between);
  else if (there > std::abs(missing))
    add(missing / there, itself);
}

template <int D>
void Tracers<D>::spread(const Grid<D>& grid, double time, double dt, const Cells<D>* eddy_viscosity,
                        std::vector<Cells<D>>& concentrations) {
  for (std::size_t i = 0; i < settings_.size(); ++i) {
    dose(grid, time, dt, i, concentrations[i]);
    if (settings_[i].diffusivity > 0 || eddy_viscosity != nullptr)
      diffuse(grid, dt, eddy_viscosity, i, concentrations[i]);
  }
}

template <int D>
void Tracers<D>::dose(const Grid<D>& grid, double time, double dt, std::size_t tracer, Cells<D>& c) {
  const Cells<D>& content = contents_[settings_[tracer].phase];
  for (std::size_t k = 0; k < settings_[tracer].doses.size(); ++k) {
    const auto& given = settings_[tracer].doses[k];
    // By what is due, so that nothing comes twice or not at all where steps end.
    const double since = time + dt - given.from;
    const double due = given.lasts > 0 ? std::clamp(since / given.lasts, 0.0, 1.0) : since > 0 ? 1.0 : 0.0;
    double& so_far = given_[tracer][k];
    const double share = due - so_far;
    if (share <= 0) continue;
    so_far = due;
    double room = 0;
    for (const auto& place : dose_zones_[tracer][k])
      room += place.share * content.block(place.block)[place.at] * grid.geometry(place.block).cell_volume;
    if (room <= 0)
      throw failure(fmt::format("{} finds nothing of its phase in its zone at t = {:.6g} s", given.name,
                                std::max(time, given.from)),
                    "move it to where the phase is at that time, or give it a larger zone");
    const double concentration = share * given.amount / room;
    for (const auto& place : dose_zones_[tracer][k])
      if (content.block(place.block)[place.at] > trace) c.block(place.block)[place.at] += concentration * place.share;
    kept_[tracer] += share * given.amount;
    dosed_[tracer] += share * given.amount;
    share_groups(grid, tracer, false, c);
    restore(grid, tracer, c);
  }
}

/// (C4)
template <int D>
void Tracers<D>::diffuse(const Grid<D>& grid, double dt, const Cells<D>* eddy_viscosity, std::size_t tracer,
                         Cells<D>& c) {
  const Layout<D>& layout = grid.layout();
  const auto& own = settings_[tracer];
  Cells<D>& content = contents_[own.phase];
  const auto even = [&](Cells<D>& v) { fill_halo(grid, v, 1, all_walls<D>(Mirror::even)); };
  even(content);
  for_blocks(grid, [&](int b) {
    const double* held = content.block(b);
    const OpenVolumes<D> volume(space_, b);
    const auto share = [&](std::ptrdiff_t at) { return volume[at] > 0 ? held[at] / volume[at] : 0.0; };
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double factor = dt / std::pow(grid.geometry(b).spacing[d], 2);
      const double* conductance = space_.is_uncut(b) ? nullptr : space_.face_conductance()[d].block(b);
      double* face = moved_[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          double diffusivity = own.diffusivity;
          if (eddy_viscosity != nullptr)
            diffusivity +=
                0.5 * (eddy_viscosity->block(b)[at] + eddy_viscosity->block(b)[at - s]) / own.turbulent_schmidt;
          // The phase reaches through the face as far as it fills both cells.
          const double joined = std::min(share(at - s), share(at));
          face[at] =
              joined > carries ? factor * diffusivity * joined * (conductance == nullptr ? 1.0 : conductance[at]) : 0.0;
        }
      });
      for (int side = 0; side < 2; ++side)  // nothing passes the ends of the grid
        for_boundary_faces(grid, b, d, side, [&](std::ptrdiff_t o, int n) { std::fill_n(face + o, n, 0.0); });
    }
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const bool holds = held[at] > trace;
        mass_.block(b)[at] = holds ? held[at] : 1.0;
        rhs_.block(b)[at] = holds ? held[at] * c.block(b)[at] : 0.0;
      }
    });
  });
  std::array<const Cells<D>*, D> faces;
  for (int d = 0; d < D; ++d) faces[d] = &moved_[d];
  const auto range = bounds(grid, tracer, c);
  const double allowed = 1e-10 * (range[1] - range[0]);
  if (!(allowed > 0)) return;
  implicit_->solve(
      grid, {{mass_, faces, -1, rhs_, c}}, allowed, [&] { even(c); },
      [&](CellVectors<D>& changes) { even(changes[0]); });
  bounds_[tracer] = range;
  for_blocks(grid, [&](int b) {
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        if (content.block(b)[at] > trace) c.block(b)[at] = std::clamp(c.block(b)[at], range[0], range[1]);
    });
  });
  restore(grid, tracer, c);
}

template <int D>
void Tracers<D>::dissolve(const Grid<D>& grid, const GasTransfer& given, const Cells<D>& rate, const Cells<D>& pressure,
                          double dt, std::vector<Cells<D>>& concentrations) {
  constexpr double standard = 101325;  // [Pa]
  Cells<D>& c = concentrations[given.tracer];
  const Cells<D>& content = contents_[settings_[given.tracer].phase];
  const double gained = grid.cell_volume() * sum_volumes(grid, [&](int b) {
                          double sum = 0;
                          const OpenVolumes<D> volume(space_, b);
                          for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
                            for (std::ptrdiff_t at = o; at < o + n; ++at) {
                              const double held = content.block(b)[at];
                              if (held <= trace) continue;
                              const double share =
                                  given.by_pressure ? std::max(1 + pressure.block(b)[at] / standard, 0.0) : 1.0;
                              const double way = share * given.saturation - c.block(b)[at];
                              // Exactly, were there nothing else.
                              const double change = -way * std::expm1(-dt * rate.block(b)[at] * volume[at] / held);
                              c.block(b)[at] += change;
                              sum += held * change;
                            }
                          });
                          return sum;
                        });
  kept_[given.tracer] += gained;
  transferred_[given.tracer] += gained;
}

template <int D>
void Tracers<D>::archive(Archive& a, const Grid<D>& grid, std::vector<Cells<D>>& concentrations) {
  if (a.reading()) concentrations.assign(settings_.size(), Cells<D>(grid));
  if (none()) return;
  a("kept", kept_);
  a("most", most_);
  a("dosed", dosed_);
  a("transferred", transferred_);
  a("greatest_correction", greatest_correction_);
  for (std::size_t i = 0; i < settings_.size(); ++i) {
    wavy::archive<D>(a, fmt::format("tracer{}", i), concentrations[i]);
    a(fmt::format("given{}", i), given_[i]);
    for (std::size_t k = 0; k < passed_[i].size(); ++k) {
      a(fmt::format("in{}_{}", i, k), passed_[i][k].in);
      a(fmt::format("out{}_{}", i, k), passed_[i][k].out);
    }
  }
}

template class Tracers<2>;
template class Tracers<3>;

}  // namespace wavy
