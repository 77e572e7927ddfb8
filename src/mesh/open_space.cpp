#include "mesh/open_space.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "geometry/clip.hpp"
#include "geometry/share.hpp"

namespace wavy {
namespace {

constexpr double least_share = 1e-4;  // cells with less room count as solid; their faces must pass next to nothing
constexpr double least_area = 1e-3;
constexpr double pocket = 1e-3;  // unconnected parts with less of the open volume than this are closed,
constexpr double sliver = 0.01;  // and those with less of a cell, which a solid's corner leaves

/// Snaps what round-off left beside 0 and 1.
double snapped(double share, double least) {
  constexpr double full = 1 - 1e-9;
  return share < least ? 0.0 : share > full ? 1.0 : share;
}

}  // namespace

template <int D>
CellMap<D>::CellMap(const Grid<D>& grid) : grid_(grid) {
  Index<D> roots;
  for (int d = 0; d < D; ++d) roots[d] = grid.cells()[d] / grid.layout().cells[d];
  block_at_.assign(static_cast<std::size_t>(product(roots)), -1);
  for (int b = 0; b < grid.blocks(); ++b) {
    const Index<D> start = grid.geometry(b).start;
    long at = 0;
    for (int d = D - 1; d >= 0; --d) at = at * roots[d] + start[d] / grid.layout().cells[d];
    block_at_[static_cast<std::size_t>(at)] = b;
  }
}

template <int D>
CellPlace CellMap<D>::operator()(const Index<D>& cell) const {
  const Layout<D>& layout = grid_.layout();
  long at = 0;
  Index<D> inside;
  for (int d = D - 1; d >= 0; --d) {
    at = at * (grid_.cells()[d] / layout.cells[d]) + cell[d] / layout.cells[d];
    inside[d] = cell[d] % layout.cells[d];
  }
  return {block_at_[static_cast<std::size_t>(at)], layout.offset(inside)};
}

template <int D>
OpenSpace<D>::OpenSpace(const Grid<D>& grid, const Solid<D>* vessel, const std::vector<Solid<D>>& inserts,
                        const std::vector<ThinWall<D>>& thin_walls, bool axisymmetric)
    : volume_(grid, 1.0),
      inverse_(grid),
      at_wall_(grid),
      grouped_(grid),
      axisymmetric_(axisymmetric),
      columns_(grid.cells()[0]),
      blocks_(static_cast<std::size_t>(grid.blocks())) {
  for (int b = 0; b < grid.blocks(); ++b) blocks_[static_cast<std::size_t>(b)].first_column = grid.geometry(b).start[0];
  for (int d = 0; d < D; ++d) {
    area_[d] = Cells<D>(grid, 1.0);
    thin_[d] = Cells<D>(grid);
  }
  const auto distance = [&](const Vec<D>& p) {
    double d = vessel != nullptr ? vessel->distance(p) : -1e300;
    for (const auto& insert : inserts) {
      // One whose box is farther than the surface at hand need not be asked.
      if (-std::sqrt(square_to_box<D>(p, insert.lower, insert.upper)) > d) d = std::max(d, -insert.distance(p));
    }
    return d;
  };
  measure(grid, distance);
  if (vessel != nullptr || !inserts.empty()) close_hidden_walls(grid, distance);
  close_thin_walls(grid, thin_walls);
  list_thin_faces(grid);
  join_parts(grid);
  fill_halo(grid, volume_, pad, all_walls<D>(Mirror::even));
  find_groups(grid);
  const CellVectors<D> middles = find_walls(grid);
  fill_area_halos(grid);
  if (axisymmetric_) set_weights(grid);
  fill_halo(grid, inverse_, 2, all_walls<D>(Mirror::even));
  find_face_conductances(grid, middles);
  find_spans(grid);
}

/// Weights volumes, areas and walls by their distance from the axis of revolution.
template <int D>
void OpenSpace<D>::set_weights(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  share_ = volume_;
  face_share_ = area_;
  std::vector<double> open(blocks_.size());
  std::vector<double> wall_area(blocks_.size());
  for_blocks(grid, [&](int b) {
    auto& block = blocks_[static_cast<std::size_t>(b)];
    double* volume = volume_.block(b);
    double* inverse = inverse_.block(b);
    for (int d = 0; d < D; ++d) {
      double* area = area_[d].block(b);
      const double* share = face_share_[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          // A face across the axis may be open at its near or far end only.
          const double middle = d == 0 ? 0.0 : share[at - 1] >= share[at + 1] ? 0.5 * share[at] : 1 - 0.5 * share[at];
          area[at] *= (radius_in_cells(b, layout, at) - 0.5 + middle) / columns_;
        }
      });
    }
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) volume[at] *= weight(b, layout, at);
    });
    for (auto& wall : block.walls) {
      double own_weight = weight(b, layout, wall.at);
      if (cuts(wall.open)) {
        Vec<D> upper;
        upper.fill(1);
        const ConvexBody<D> flat(Vec<D>{}, upper);
        const ConvexBody<D> cell(Vec<D>{}, upper, slope(b, layout, wall.at));
        double section = 0;
        double flat_section = 0;
        volume[wall.at] = cell.volume_below(wall.open, &section) * own_weight;
        if (flat.volume_below(wall.open, &flat_section) > 0 && flat_section > 0) own_weight *= section / flat_section;
      }
      wall.area *= own_weight;
      wall.friction *= own_weight;
      wall_area[static_cast<std::size_t>(b)] += wall.area * grid.cell_volume();
    }
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        inverse[at] = volume[at] > 0 ? 1 / volume[at] : 0.0;
        open[static_cast<std::size_t>(b)] += volume[at] * grid.cell_volume();
      }
    });
    block.cut = true;
  });
  fill_halo(grid, volume_, pad, all_walls<D>(Mirror::even));
  fill_area_halos(grid);
  open_volume_ = 0;
  wall_area_ = 0;
  for (std::size_t b = 0; b < blocks_.size(); ++b) {
    open_volume_ += open[b];
    wall_area_ += wall_area[b];
  }
}

/// Areas round every block; those on the grid's upper boundary share their place with what a mirror would write there.
template <int D>
void OpenSpace<D>::fill_area_halos(const Grid<D>& grid) {
  const Faces<D> known = area_;
  fill_face_halo(grid, area_, pad);
  for (int axis = 0; axis < D; ++axis)
    for_blocks(grid, [&](int b) {
      for_boundary_faces(grid, b, axis, 1, [&](std::ptrdiff_t o, int n) {
        std::copy_n(known[axis].block(b) + o, n, area_[axis].block(b) + o);
      });
    });
}

template <int D>
const WallCell<D>* OpenSpace<D>::wall_in(int block, std::ptrdiff_t at) const {
  if (is_uncut()) return nullptr;
  return entry_at(blocks_[static_cast<std::size_t>(block)].walls, at);
}

/// Open shares of cells and faces from the signed distances.
template <int D>
void OpenSpace<D>::measure(const Grid<D>& grid, const Distance& distance) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  // A cell whose middle is farther from the surface than this has none in it: half its diagonal, and half as much again
  // for distances that are true to first order.
  const double clear = 0.75 * std::sqrt(dot<D>(h, h));
  for_blocks(grid, [&](int b) {
    const Vec<D> corner = grid.geometry(b).lower;
    const Index<D> start = grid.geometry(b).start;
    double* volume = volume_.block(b);
    const auto lower_of = [&](std::ptrdiff_t at) {
      Vec<D> lower;
      for (int d = 0; d < D; ++d) lower[d] = corner[d] + axis_index<D>(layout, at, d) * h[d];
      return lower;
    };
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        const Vec<D> lower = lower_of(at);
        Vec<D> middle = lower;
        for (int d = 0; d < D; ++d) middle[d] += 0.5 * h[d];
        const double there = distance(middle);
        if (std::abs(there) > clear) {
          volume[at] = there < 0 ? 1.0 : 0.0;
          continue;
        }
        const auto distances = corner_values<D>([&](const std::array<double, 3>& place) {
          Vec<D> p = lower;
          for (std::size_t d = 0; d < D; ++d) p[d] += place[d] * h[d];
          return distance(p);
        });
        volume[at] = snapped(negative_share<D>(distances), least_share);
      }
    });
    for (int axis = 0; axis < D; ++axis) {
      double* area = area_[axis].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, axis), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          Vec<D> lower = lower_of(at);
          // On the grid's boundary, which may be the vessel's flat end too, open is what is open just inside; how far
          // it is from there to the walls is told by the place half a cell inside.
          const int place = start[axis] + axis_index<D>(layout, at, axis);
          const bool seam = grid.periodic()[axis] || grid.turned_below(axis, place);
          const double inwards = seam                          ? 0.0  // no boundary there
                                 : place == 0                  ? h[axis]
                                 : place == grid.cells()[axis] ? -h[axis]
                                                               : 0.0;
          constexpr double hair = 1e-6;
          lower[axis] += hair * inwards;
          const auto point_at = [&](const std::array<double, 3>& along) {
            Vec<D> p = lower;
            std::size_t k = 0;
            for (int d = 0; d < D; ++d)
              if (d != axis) p[d] += along[k++] * h[d];
            return p;
          };
          const double there = distance(point_at({0.5, 0.5, 0.5}));
          if (std::abs(there) > clear) {
            area[at] = there < 0 ? 1.0 : 0.0;
            continue;
          }
          auto distances =
              corner_values<D - 1>([&](const std::array<double, 3>& along) { return distance(point_at(along)); });
          if (inwards != 0) {
            const auto deeper = corner_values<D - 1>([&](const std::array<double, 3>& along) {
              Vec<D> p = point_at(along);
              p[axis] += 0.5 * inwards;
              return distance(p);
            });
            bool round = false;  // a wall that only touches the boundary
            for (std::size_t k = 0; k < deeper.size(); ++k)
              round = round || (distances[k] >= 0 && deeper[k] < -hair * h[axis]);
            for (std::size_t k = 0; k < deeper.size() && !round; ++k)
              if (distances[k] < 0) distances[k] = std::min(distances[k], deeper[k]);
          }
          area[at] = snapped(negative_share<D - 1>(distances), least_area);
        }
      });
    }
  });
}

template <int D>
void carry_on(const Grid<D>& grid, const OpenSpace<D>& space, const Cells<D>& from, Cells<D>& to) {
  for_blocks(grid, [&](int b) {
    const double* values = from.block(b);
    double* carried = to.block(b);
    if (!space.is_uncut(b))
      for (const auto& [at, source] : space.solid_extension(b)) carried[at] = values[source];
  });
}
/// Finds the connected parts, and closes pockets, cells without a way out, and faces that lead to closed cells.
template <int D>
void OpenSpace<D>::join_parts(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  const CellMap<D> map(grid);
  const Index<D>& n = grid.cells();
  const auto number = [&](const Index<D>& cell) {
    long at = 0;
    for (int d = D - 1; d >= 0; --d) at = at * n[d] + cell[d];
    return static_cast<std::size_t>(at);
  };
  std::vector<int> part(static_cast<std::size_t>(grid.cell_count()), -1);
  std::vector<double> size;
  std::vector<Index<D>> first;
  std::vector<Index<D>> ahead;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    if (volume_.block(b)[o] == 0 || part[number(cell)] >= 0) return;
    const int own = static_cast<int>(size.size());
    size.push_back(0);
    first.push_back(cell);
    ahead.assign(1, cell);
    part[number(cell)] = own;
    while (!ahead.empty()) {
      const Index<D> here = ahead.back();
      ahead.pop_back();
      const CellPlace place = map(here);
      size.back() += volume_.block(place.block)[place.at];
      for (int d = 0; d < D; ++d)
        for (int side = 0; side < 2; ++side) {
          const auto next = grid.beyond(here, d, side);
          if (!next || part[number(*next)] >= 0) continue;
          const CellPlace there = map(*next);
          if (area_[d].block(place.block)[place.at + side * layout.step[d]] == 0 ||
              volume_.block(there.block)[there.at] == 0)
            continue;
          part[number(*next)] = own;
          ahead.push_back(*next);
        }
    }
  });
  double total = 0;
  for (const double s : size) total += s;
  const double least = std::max(pocket * total, sliver);
  std::vector<std::pair<double, std::size_t>> by_size;
  for (std::size_t p = 0; p < size.size(); ++p)
    if (size[p] >= least) by_size.emplace_back(size[p], p);
  std::sort(by_size.rbegin(), by_size.rend());
  for (const auto& [share, p] : by_size) {
    parts_.push_back(share / total);
    Vec<D> place;
    for (int d = 0; d < D; ++d) place[d] = grid.lower()[d] + (first[p][d] + 0.5) * grid.spacing()[d];
    part_places_.push_back(place);
  }
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const int p = part[number(cell)];
    if (p >= 0 && size[static_cast<std::size_t>(p)] < least) volume_.block(b)[o] = 0;
  });
  fill_halo(grid, volume_, 1, all_walls<D>(Mirror::even));
  std::vector<double> open(static_cast<std::size_t>(grid.blocks()));
  std::vector<long> count(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    const double* volume = volume_.block(b);
    double* inverse = inverse_.block(b);
    for (int d = 0; d < D; ++d) {
      double* area = area_[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int count_) {
        for (std::ptrdiff_t at = o; at < o + count_; ++at)
          if (volume[at] == 0 || volume[at - layout.step[d]] == 0) area[at] = 0;
      });
    }
    for_rows<D>(layout, [&](std::ptrdiff_t o, int count_) {
      for (std::ptrdiff_t at = o; at < o + count_; ++at) {
        inverse[at] = volume[at] > 0 ? 1 / volume[at] : 0.0;
        open[static_cast<std::size_t>(b)] += volume[at];
        count[static_cast<std::size_t>(b)] += volume[at] > 0 ? 1 : 0;
      }
    });
  });
  for (std::size_t b = 0; b < open.size(); ++b) {
    open_volume_ += open[b] * grid.cell_volume();
    open_cells_ += count[b];
  }
}

/// Joins every small cell to the neighbour through which it has most room, and that one to its own if it is small too.
template <int D>
void OpenSpace<D>::find_groups(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  const CellMap<D> map(grid);
  constexpr double alike = 1e-9;  // of rooms that are the same by symmetry, the first is taken
  std::map<Index<D>, std::size_t> group_of;
  std::vector<std::vector<Index<D>>> members;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& cell) {
    const double* volume = volume_.block(b);
    if (volume[o] == 0 || volume[o] >= small || group_of.contains(cell)) return;
    std::vector<Index<D>> chain{cell};
    Index<D> here = cell;
    std::size_t group = members.size();
    while (true) {
      const CellPlace place = map(here);
      Index<D> best = here;
      double most = 0;
      for (int d = 0; d < D; ++d)
        for (int side = 0; side < 2; ++side) {
          // What is turned has other directions, and no velocity in common.
          if (side == 0 && grid.turned_below(d, here[d])) continue;
          const auto next = grid.beyond(here, d, side);
          if (!next) continue;
          const CellPlace there = map(*next);
          const double open_volume =
              area_[d].block(place.block)[place.at + side * layout.step[d]] * volume_.block(there.block)[there.at];
          if (open_volume > (1 + alike) * most) {
            most = open_volume;
            best = *next;
          }
        }
      if (most <= 0) break;
      if (const auto found = group_of.find(best); found != group_of.end()) {
        group = found->second;
        break;
      }
      if (std::find(chain.begin(), chain.end(), best) != chain.end()) break;
      chain.push_back(best);
      const CellPlace there = map(best);
      if (volume_.block(there.block)[there.at] >= small) break;
      here = best;
    }
    if (group == members.size()) members.emplace_back();
    for (const auto& member : chain) {
      group_of[member] = group;
      members[group].push_back(member);
    }
  });
  for (const auto& list : members) {
    std::vector<CellPlace> places;
    for (const auto& cell : list) places.push_back(map(cell));
    std::stable_sort(places.begin(), places.end(), [&](const CellPlace& a, const CellPlace& b) {
      return volume_.block(a.block)[a.at] > volume_.block(b.block)[b.at];
    });
    for (const auto& place : places) grouped_.block(place.block)[place.at] = 1;
    groups_.push_back(std::move(places));
  }
  const auto home = [&](const std::vector<CellPlace>& group) {  // the block, or their number where it is in several
    const int first = group.front().block;
    const bool within = std::ranges::all_of(group, [first](const auto& place) { return place.block == first; });
    return within ? first : grid.blocks();
  };
  std::ranges::stable_sort(groups_, {}, home);
  for (int b = 0; b <= grid.blocks() + 1; ++b) {
    const auto start = std::ranges::partition_point(groups_, [&](const auto& group) { return home(group) < b; });
    group_starts_.push_back(static_cast<std::size_t>(start - groups_.begin()));
  }
}

/// Middle of what is open in all cells of a group, seen from the lower corner of each [cells].
/// What loops go through of every block.
template <int D>
void OpenSpace<D>::find_spans(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  open_spans_.resize(blocks_.size());
  for_blocks(grid, [&](int b) {
    if (is_uncut(b)) return;
    const double* volume = volume_.block(b);
    const CellRange<D> range = with_layers(layout, 1);
    for_rows<D>(layout, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      std::array<int, 2> span{n, -1};
      for_shifts<D>(1, [&](const Index<D>& shift, int) {
        for (int i = 0; i < n; ++i)
          if (volume[o + i + layout.offset(shift)] > 0) span = {std::min(span[0], i - 1), std::max(span[1], i)};
      });
      open_spans_[static_cast<std::size_t>(b)].push_back(span);
    });
  });
}

/// Areas over distances of the middles of what is open.
template <int D>
void OpenSpace<D>::set_mirrors(const Grid<D>& grid, const std::function<bool(const Vec<D>&)>& mirror) {
  for (int b = 0; b < grid.blocks(); ++b) {
    for (auto& wall : blocks_[static_cast<std::size_t>(b)].walls) {
      if (!mirror(cell_middle<D>(grid, b, wall.at))) continue;
      wall.mirror = true;
      wall.friction = 0;
      wall_area_ -= wall.area * grid.cell_volume();
    }
  }
}

template <int D>
void OpenSpace<D>::narrow(const Grid<D>& grid, const Cells<D>& inactive, const std::vector<CellPlace>& kept) {
  constexpr int reach = 2;
  const Layout<D>& layout = grid.layout();
  narrow_spans_.resize(static_cast<std::size_t>(grid.blocks()));
  for_blocks(grid, [&](int b) {
    // First and last cell that counts in each row, with as many rows more on each side as are looked at.
    constexpr int more = reach + 1;
    const CellRange<D> range = with_layers(layout, more);
    thread_local RowSpans extents;
    extents.clear();
    for_rows<D>(layout, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      std::array<int, 2> extent{n, -n};
      const double* far = inactive.block(b) + o;
      for (int i = 0; i < n; ++i)
        if (far[i] == 0) extent = {std::min(extent[0], i - more), i - more};
      extents.push_back(extent);
    });
    const int width = layout.cells[1] + 2 * more;
    for (const auto& [block, at] : kept) {
      if (block != b) continue;
      const int row =
          (D == 3 ? axis_index<D>(layout, at, D - 1) + more : 0) * width + axis_index<D>(layout, at, 1) + more;
      auto& extent = extents[static_cast<std::size_t>(row)];
      const int i = axis_index<D>(layout, at, 0);
      extent = {std::min(extent[0], i), std::max(extent[1], i)};
    }
    auto& spans = narrow_spans_[static_cast<std::size_t>(b)];
    spans.clear();
    const int layers = D == 3 ? layout.cells[D - 1] + 2 : 1;
    for (int k = 0; k < layers; ++k)
      for (int j = 0; j < layout.cells[1] + 2; ++j) {
        std::array<int, 2> span{layout.cells[0] + 2, -1};
        for (int dk = 0; dk <= (D == 3 ? 2 * reach : 0); ++dk)
          for (int dj = 0; dj <= 2 * reach; ++dj) {
            const auto& near = extents[static_cast<std::size_t>((k + dk) * width + j + dj)];
            if (near[0] > near[1]) continue;
            span = {std::min(span[0], near[0] - reach), std::max(span[1], near[1] + reach + 1)};
          }
        if (!is_uncut(b)) {
          const auto& open = open_spans_[static_cast<std::size_t>(b)][spans.size()];
          span = {std::max(span[0], open[0]), std::min(span[1], open[1])};
        }
        spans.push_back(span);
      }
  });
}

template void carry_on<2>(const Grid<2>&, const OpenSpace<2>&, const Cells<2>&, Cells<2>&);
template void carry_on<3>(const Grid<3>&, const OpenSpace<3>&, const Cells<3>&, Cells<3>&);
template class CellMap<2>;
template class CellMap<3>;
template class OpenSpace<2>;
template class OpenSpace<3>;

}  // namespace wavy
