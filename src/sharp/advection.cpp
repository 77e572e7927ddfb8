#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "geometry/clip.hpp"
#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

/// Slope of a limited linear profile (van Leer's monotonised central differences).
inline double limited_slope(double lower, double middle, double upper) {
  const double a = middle - lower;
  const double b = upper - middle;
  const double size = std::min(std::min(2 * std::abs(a), 2 * std::abs(b)), 0.5 * std::abs(a + b));
  return a * b > 0 ? std::copysign(size, a) : 0.0;
}

/// What a row of cells and its faces towards the row before hold in a sweep, at x = 0.
template <int D>
struct SweepRow {
  double* mass;                     // that passes the faces
  double* weight;                   // of the slope upwind in the momentum that does
  std::array<double*, D> momentum;  // of each component
  std::array<double*, D> slope;     // of each component in the cells

  /// The same for x + shift.
  [[nodiscard]] SweepRow at(int shift) const {
    SweepRow other{mass + shift, weight + shift, momentum, slope};
    for (std::size_t c = 0; c < D; ++c) {
      other.momentum[c] += shift;
      other.slope[c] += shift;
    }
    return other;
  }
};

/// Work arrays of one thread: of a block, and of rows, which stay in the nearest cache.
template <int D>
struct Scratch {
  StaggeredArray<double> courant, liquid, change;
  std::array<SweepRow<D>, 2> rows;
  double *held, *dilated, *after;
  explicit Scratch(const Layout<D>& layout) {
    for (auto* array : {&courant, &liquid, &change}) array->assign(layout.size, 0.0);
    const int length = layout.cells[0] + 2 * pad;
    of_rows_.assign(static_cast<std::size_t>(length) * (3 + 2 * (2 + 2 * D)), 0.0);
    double* next = of_rows_.data() + pad;
    const auto take = [&](double*& array) { array = std::exchange(next, next + length); };
    for (auto* array : {&held, &dilated, &after}) take(*array);
    for (auto& row : rows) {
      take(row.mass);
      take(row.weight);
      for (auto& array : row.momentum) take(array);
      for (auto& array : row.slope) take(array);
    }
  }
  static Scratch& of(const Layout<D>& layout) {
    thread_local std::unique_ptr<Scratch> mine;
    thread_local Index<D> cells{};
    if (!mine || cells != layout.cells) mine = std::make_unique<Scratch>(layout);
    cells = layout.cells;
    return *mine;
  }

 private:
  std::vector<double> of_rows_;
};

/// Curvature of the interface in the cell at F[0], in cell units; 0 where it is not resolved, and in 3-D.
template <int D>
double curvature_in_cells(const double* F, const std::array<std::ptrdiff_t, D>& step) {
  if constexpr (D == 3) {
    return 0;
  } else {
    constexpr double greatest = 0.5;
    return std::clamp(height_curvature<2>(F, step, {1, 1}, pad - 1).value_or(0), -greatest, greatest);
  }
}

/// Liquid in a slab of a cell that holds F: under the plane, and in 2-D between it and the arc. No more than there is,
/// and no less than what the rest cannot hold, so that F stays within 0..1.
template <int D>
double liquid_in_slab(const Plane<D>& plane, double bend, double F, int axis, double from, double width) {
  double share = slab_share<D>(plane, axis, from, width);
  if constexpr (D == 2)
    if (bend != 0) share += arc_share(plane, bend, axis, from, width);
  return std::clamp(share, std::max(0.0, F - (1 - width)), std::min(width, F));
}

/// What the sweep of one block reads of solids; all null where there are none.
template <int D>
struct Cut {
  const double* volume = nullptr;   // open volume of the cells
  const double* inverse = nullptr;  // 1 over it
  const double* area = nullptr;     // of the faces across the axis
  const double* at_wall = nullptr;
  const unsigned char* alone = nullptr;
  const unsigned char* smooth = nullptr;  // along the axis
  const ExtendedInterface<D>* interface = nullptr;
  const OpenSpace<D>* space = &all_open<D>();
  int block = 0;
  const std::vector<SmallCell<D>>* small = nullptr;
  const double* rest = nullptr;  // share of liquid in the rest of a small cell's group
};

/// How far into a cell lies what leaves it through a side, when the speed there leads `width` far: as far where the
/// weight is the same everywhere, and where it leans so far that the volume is the same.
double reach_of(double width, double slope, bool high) {
  const double at_side = 1 + (high ? 0.5 : -0.5) * slope;
  if (slope == 0 || at_side <= 0) return width;
  const double grows = high ? -slope : slope;  // inwards
  return 2 * width * at_side / (at_side + std::sqrt(std::max(0.0, at_side * (at_side + 2 * grows * width))));
}

/// Share of the liquid in what leaves a mixed cell at a wall through one side: of the part of the open space that lies
/// within `width` of that side.
template <int D>
double share_beside(const typename ExtendedInterface<D>::Contact& contact, int axis, bool high, double width,
                    double slope, double F) {
  Vec<D> lower{};
  Vec<D> upper;
  upper.fill(1);
  (high ? lower[axis] : upper[axis]) = high ? 1 - width : width;
  ConvexBody<D> body(lower, upper, slope);
  if (cuts(contact.open)) body.cut(contact.open);
  const double open_volume = body.volume();
  constexpr double nothing = 1e-12;
  return open_volume > nothing ? std::clamp(body.volume_below(contact.plane) / open_volume, 0.0, 1.0) : F;
}

/// Liquid that leaves a mixed cell at a wall, when `out` (share of a cell) leaves in all: no more than there is, and no
/// less than what does not find room in the rest.
template <int D>
double liquid_leaving(const Cut<D>& cut, const Layout<D>& layout, std::ptrdiff_t at, double F, int axis, bool high,
                      double area, double out) {
  const auto* contact = cut.interface->contact(cut.block, at);
  const double volume = cut.volume[at];
  if (contact == nullptr || out >= volume) return out * F;
  const double slope = cut.space->slope(cut.block, layout, at);
  const double width = axis == 0 ? reach_of(out / area, slope, high) : out / area;
  const double share = share_beside<D>(*contact, axis, high, std::min(1.0, width), slope, F);
  return std::clamp(share * out, std::max(0.0, out - volume * (1 - F)), std::min(out, volume * F));
}

/// Courant number C = u dt/h times the open area, and liquid flux (share of a cell), through the faces [first, end) of
/// a block across `axis`. `shares`: of whole cells, for the planes.
template <int D>
void liquid_flux(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                 const double* extended_fraction, const double* face_u, double dt_over_h, const Cut<D>& cut, double* C,
                 double* flux) {
  const std::ptrdiff_t s = layout.step[axis];
  for_open_rows<D>(*cut.space, cut.block, layout, first, end, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
    for (int i = 0; i < n; ++i) {
      const double c = face_u[o + i] * dt_over_h;
      C[o + i] = c;
      flux[o + i] = c * (c > 0 ? F[o + i - s] : F[o + i]);
    }
  });
  // Cells with an interface in them: cut the slab that leaves through each face.
  const Sheets<D>* sheets = cut.interface == nullptr ? nullptr : &cut.interface->sheets();
  Index<D> lo = first;
  --lo[axis];
  for_open_rows<D>(*cut.space, cut.block, layout, lo, end, [&](std::ptrdiff_t o, int n) {
    for (int i = 0; i < n; ++i) {
      const std::ptrdiff_t at = o + i;
      if (!is_mixed(F[at])) continue;
      // Of the first and last layer of cells only one face is asked for.
      const int place = axis_index<D>(layout, at, axis);
      const double out_low = place < first[axis] ? 0.0 : -C[at];
      const double out_high = place + 1 == end[axis] ? 0.0 : C[at + s];
      if (out_low <= 0 && out_high <= 0) continue;
      const bool at_sheet = sheets != nullptr && sheets->alone_at(cut.block, at);
      if (cut.volume != nullptr && ((cut.at_wall[at] != 0 && !at_sheet) || cut.space->axisymmetric())) {
        if (out_low > 0) flux[at] = -liquid_leaving<D>(cut, layout, at, F[at], axis, false, cut.area[at], out_low);
        if (out_high > 0)
          flux[at + s] = liquid_leaving<D>(cut, layout, at, F[at], axis, true, cut.area[at + s], out_high);
        continue;
      }
      std::optional<SeenShares<D>> seen;
      if (sheets != nullptr && sheets->near(cut.block, at))
        seen.emplace(*sheets, layout, cut.block, at, extended_fraction);
      const double* around = seen ? seen->middle() : extended_fraction + at;
      const auto& step = seen ? SeenShares<D>::step() : layout.step;
      const Vec<D> normal = interface_normal<D>(around, step);
      if (sum_of_absolutes<D>(normal) <= 0) continue;  // no gradient: the uniform flux stands
      const Plane<D> plane = plane_through<D>(normal, F[at]);
      const double bend = curvature_in_cells<D>(around, step);
      if (out_low > 0) flux[at] = -liquid_in_slab<D>(plane, bend, F[at], axis, 0.0, out_low);
      if (out_high > 0) flux[at + s] = liquid_in_slab<D>(plane, bend, F[at], axis, 1 - out_high, out_high);
    }
  });
}

/// What leaves a small cell may be more than it has room for: the rest of it comes from the others of its group, with
/// their share of liquid, so that no group gives more liquid than it has. Sets `flux` on the faces [first, end) of a
/// block across `axis`, as liquid_flux.
template <int D>
void pass_small_cells(const Layout<D>& layout, int axis, const Index<D>& first, const Index<D>& end, const double* F,
                      const Cut<D>& cut, const double* C, double* flux) {
  for (const auto& [at, cell] : *cut.small) {
    bool within = cell[axis] >= first[axis] - 1 && cell[axis] < end[axis];
    for (int d = 0; d < D; ++d) within = within && (d == axis || (cell[d] >= first[d] && cell[d] < end[d]));
    if (!within) continue;
    const double volume = cut.volume[at];
    const auto liquid = [&, at = at](double out) { return volume * F[at] + (out - volume) * cut.rest[at]; };
    const std::ptrdiff_t high = at + layout.step[axis];
    if (cell[axis] >= first[axis] && -C[at] > volume) flux[at] = -liquid(-C[at]);
    if (cell[axis] + 1 < end[axis] && C[high] > volume) flux[high] = liquid(C[high]);
  }
}

/// The fields of one block that a sweep reads and moves.
template <int D>
struct Swept {
  const double* face_u;  // across the axis
  double* F;
  const double* extended_fraction;
  const unsigned char* full;
  std::array<double*, D> u{};
  std::array<const double*, D> u_start{}, gain{};
};

/// One direction of the split step on one block, row by row along the direction: each row of cells moves when what
/// passes the faces behind it has been found from the values of before.
///
/// Beside solids the cells of groups are left with their momentum in place of their velocity.
template <int D, bool is_cut>
void sweep(const Layout<D>& layout, const Settings<D>& settings, int axis, double dt_over_h, const Swept<D>& field,
           const Cut<D>& cut, int block, Boundary<D>* boundary) {
  auto& scratch = Scratch<D>::of(layout);
  double* C = scratch.courant.data() + layout.first;
  double* liquid = scratch.liquid.data() + layout.first;
  double* change = scratch.change.data() + layout.first;  // of F, which stencils still read
  double* F = field.F;
  const unsigned char* full = field.full;
  const double* volume = cut.volume;
  const double* inverse = cut.inverse;
  const unsigned char* alone = cut.alone;
  const unsigned char* smooth = cut.smooth;
  const std::ptrdiff_t s = layout.step[axis];
  const double rho_gas = settings.gas.density;
  const double rho_jump = settings.liquid.density - rho_gas;

  // In all three [lo, hi) are cells of the row that begins at an offset.
  const auto find_slopes = [&](const SweepRow<D>& row, std::ptrdiff_t o, int lo, int hi) {
    for (std::size_t c = 0; c < D; ++c) {
      const double* v = field.u[c] + o;
      double* slope = row.slope[c];
#pragma omp simd
      for (int i = lo; i < hi; ++i) {
        slope[i] = limited_slope(v[i - s], v[i], v[i + s]);
        if constexpr (is_cut) slope[i] *= smooth[o + i];
      }
    }
  };
  // The momentum that passes a face is the mean of the upwind cell's linear profile over what leaves it, half a step
  // later, carried by the mass (the predictor of Colella, J. Comput. Phys. 87 (1990) 171, without its transverse part).
  // Where most of a cell's mass leaves (liquid, from a cell that stays behind full of gas), the rest must not be left
  // with the difference: the slope counts for at most (mass that stays) / (mass that leaves).
  const auto pass_faces = [&](const SweepRow<D>& before, const SweepRow<D>& row, std::ptrdiff_t o, int lo, int hi) {
    double* mass = row.mass;
    double* weight = row.weight;
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      const std::ptrdiff_t a = o + i;
      // Written without branches and references, so that the loop runs in vectors.
      const double from_low = 0.5 + std::copysign(0.5, C[a]);
      const double from_high = 1 - from_low;
      double there = rho_gas + rho_jump * (from_low * F[a - s] + from_high * F[a]);
      double k = std::abs(C[a]);  // share of the upwind cell that leaves
      if constexpr (is_cut) {
        there *= from_low * volume[a - s] + from_high * volume[a];
        k *= from_low * inverse[a - s] + from_high * inverse[a];
        k = k < 1 ? k : 1.0;
      }
      const double moved = rho_gas * C[a] + rho_jump * liquid[a];
      const double leaving = std::abs(moved);
      const double left = there - leaving;
      const double limit = left > 0 ? left : 0.0;
      mass[i] = moved;
      weight[i] = 0.5 * (1 - k) * (limit < leaving ? limit : leaving);
    }
    for (std::size_t c = 0; c < D; ++c) {
      const double* v = field.u[c] + o;
      const double* g = field.gain[c] + o;
      const double* slope_low = before.slope[c];
      const double* slope_high = row.slope[c];
      double* momentum = row.momentum[c];
#pragma omp simd
      for (int i = lo; i < hi; ++i) {
        const double from_low = 0.5 + std::copysign(0.5, C[o + i]);
        const double from_high = 1 - from_low;
        const double value = from_low * (v[i - s] + g[i - s]) + from_high * (v[i] + g[i]);
        const double slope = from_low * slope_low[i] + from_high * slope_high[i];
        momentum[i] = mass[i] * value + weight[i] * slope;
      }
    }
  };
  // rho u, less what leaves, plus the dilation of the direction, by the mass of then. Where solids cut cells F moves
  // too: stencils read the extended fraction.
  const auto move_cells = [&](const SweepRow<D>& row, const SweepRow<D>& next, std::ptrdiff_t o, int lo, int hi) {
    double* held = scratch.held;        // mass before
    double* dilated = scratch.dilated;  // mass that the dilation adds
    double* after = scratch.after;      // 1 / mass after
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      const std::ptrdiff_t a = o + i;
      held[i] = rho_gas + rho_jump * F[a];
      if constexpr (is_cut) held[i] *= volume[a];
      const double opens = C[a + s] - C[a];
      dilated[i] = (rho_gas + rho_jump * full[a]) * opens;
      const double left = held[i] - (next.mass[i] - row.mass[i]) + dilated[i];
      if constexpr (is_cut) {
        // In the solid nothing moves, and what its far faces hold is anything.
        const double moves = volume[a] > 0 ? 1.0 : 0.0;
        const double on_own = alone[a];
        after[i] = moves / (on_own * left + 1 - on_own);
        F[a] += inverse[a] * (full[a] * opens - (liquid[a + s] - liquid[a]));
      } else {
        after[i] = 1 / left;
        change[a] = full[a] * opens - (liquid[a + s] - liquid[a]);
      }
    }
    for (std::size_t c = 0; c < D; ++c) {
      double* v = field.u[c] + o;
      const double* v0 = field.u_start[c] + o;
      const double* g = field.gain[c] + o;
      const double* in = row.momentum[c];
      const double* out = next.momentum[c];
#pragma omp simd
      for (int i = lo; i < hi; ++i) v[i] = (held[i] * v[i] - (out[i] - in[i]) + dilated[i] * (v0[i] + g[i])) * after[i];
    }
  };

  // In slabs that stay in the cache, across another axis.
  constexpr int layers = D == 2 ? 64 : 4;
  const int across = axis == D - 1 && D == 3 ? 1 : D - 1;
  const RowSpans* spans = cut.space->spans(block);
  for (int start = 0; start < layout.cells[across]; start += D == 3 || axis == 0 ? layers : layout.cells[across]) {
    Index<D> lo{};
    Index<D> hi = layout.cells;
    if (across != axis) {
      lo[across] = start;
      hi[across] = std::min(start + layers, layout.cells[across]);
    }
    Index<D> faces_hi = hi;
    ++faces_hi[axis];
    if (boundary == nullptr) {  // else all are asked for at the end
      C = scratch.courant.data() + layout.first - lo[across] * layout.step[across];
      liquid = scratch.liquid.data() + layout.first - lo[across] * layout.step[across];
    }
    liquid_flux<D>(layout, axis, lo, faces_hi, F, field.extended_fraction, field.face_u, dt_over_h, cut, C, liquid);
    if constexpr (is_cut) pass_small_cells<D>(layout, axis, lo, faces_hi, F, cut, C, liquid);
    if (boundary != nullptr) boundary->set_incoming(block, axis, F, C, liquid);
    Index<D> lines_hi = hi;
    lines_hi[axis] = 1;
    const auto& rows = scratch.rows;
    const auto in_rows = [&](Index<D> row) {
      if (axis == 0) {
        const std::ptrdiff_t o = layout.offset(row);
        const auto [first, end] = open_part<D>(spans, layout, row, -1, hi[0] + 1);
        find_slopes(rows[0], o, first, end);
        pass_faces(rows[0].at(-1), rows[0], o, std::max(0, first), end);
        move_cells(rows[0], rows[0].at(1), o, std::max(0, first), std::min(hi[0], end));
        return;
      }
      const auto visit = [&](int place, const auto& act) {
        row[axis] = place;
        const auto [first, end] = open_part<D>(spans, layout, row, 0, hi[0]);
        act(layout.offset(row), first, end);
      };
      visit(-1, [&](std::ptrdiff_t o, int first, int end) { find_slopes(rows[1], o, first, end); });
      for (int place = 0; place <= hi[axis]; ++place) {
        const SweepRow<D>& here = rows[static_cast<std::size_t>(place % 2)];
        const SweepRow<D>& before = rows[static_cast<std::size_t>((place + 1) % 2)];
        visit(place, [&](std::ptrdiff_t o, int first, int end) {
          find_slopes(here, o, first, end);
          pass_faces(before, here, o, first, end);
        });
        if (place > 0)
          visit(place - 1, [&](std::ptrdiff_t o, int first, int end) { move_cells(before, here, o, first, end); });
      }
    };
    for (int k = D == 3 ? lo[D - 1] : 0; k < (D == 3 ? lines_hi[D - 1] : 1); ++k)
      for (int j = lo[1]; j < lines_hi[1]; ++j) {
        Index<D> row{};
        row[1] = j;
        if constexpr (D == 3) row[2] = k;
        in_rows(row);
      }
  }
  if (boundary != nullptr) boundary->record_fluxes(block, axis, C, liquid);
  if constexpr (!is_cut) {
    for_open_rows<D>(*cut.space, cut.block, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) F[o + i] += change[o + i];
    });
  }
}

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
    const double leaving = dt / grid.spacing()[axis] * (std::max(0.0, -q[0]) + std::max(0.0, q[s]));
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
void empty_away(const Layout<D>& layout, int block, const Cells<D>& inactive, State<D>& state) {
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
  const double capacity = sum_blocks(grid, [&](int b) {
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

/// The residual divergence of the velocity changes the volume of pure cells' liquid, which cannot show there: it is the
/// interface that should have moved. Puts that volume, and any excess beyond 0..1, onto the interface's cells in
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
    const OpenVolumes<D> open_volumes(space, b);
    for_open_rows<D>(space, b, layout, [&](std::ptrdiff_t o, int n) {
      double held = 0;
      double capacity = 0;
#pragma omp simd reduction(+ : held, capacity)
      for (int i = 0; i < n; ++i) {
        // Traces that no drop could be made of count as none: they would spread without end.
        const double value = f[o + i] > trace ? f[o + i] : 0.0;
        f[o + i] = value < 1 - trace ? value : 1.0;
        held += open_volumes[o + i] * f[o + i];
        capacity += open_volumes[o + i] * f[o + i] * (1 - f[o + i]);
      }
      part[0] += held;
      part[1] += capacity;
    });
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
                        const WallVelocity<D>& walls)
    : space_(&space),
      boundary_(boundary == nullptr || boundary->closed() ? nullptr : boundary),
      walls_(&walls),
      interface_(grid, space),
      full_(grid) {
  for (auto& component : start_) component = Cells<D>(grid);
  for (auto& component : gain_) component = Cells<D>(grid);
  for (const auto& group : space.groups()) {
    first_.push_back(group_cells_.size());
    for (const auto& [block, at] : group)
      group_cells_.push_back({space.volume().block(block)[at], space.inverse_volume().block(block)[at]});
  }
  if (!space.is_uncut()) find_closed(grid);
}

/// Which cells' velocities go on alone, and along which axis they have slopes: nothing is known behind a closed face.
/// And which cells of groups are so small that more may leave them than they have room for.
template <int D>
void Advection<D>::find_closed(const Grid<D>& grid) {
  const Layout<D>& layout = grid.layout();
  alone_ = Field<unsigned char, D>(grid);
  for (auto& smooth : smooth_) smooth = Field<unsigned char, D>(grid);
  Index<D> lo;
  lo.fill(-1);
  Index<D> hi = layout.cells;
  for (int& end : hi) ++end;
  small_.resize(static_cast<std::size_t>(grid.blocks()));
  rest_ = Cells<D>(grid);
  for_blocks(grid, [&](int b) {
    const double* volume = space_->volume().block(b);
    const double* seen = space_->share().block(b);
    const double* grouped = space_->grouped().block(b);
    const double* at_wall = space_->at_wall().block(b);
    for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
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
        passing += dt / grid.spacing()[d] * std::max(std::abs(q[0]), std::abs(q[grid.layout().step[d]]));
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
  for (int c = 0; c < D; ++c) fill_halo(grid, gain_[c], 1, velocity_rules<D>(settings.walls, c), space_->open_spans());
}

template <int D>
double Advection<D>::operator()(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, double dt, int turn,
                                double kept_volume) {
  const Layout<D>& layout = grid.layout();
  fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 2, state.u);
  gained_ = 0;
  keep_start(grid, settings, state, 0.5 * dt);
  fill_with_groups(grid, state, dt);

  for (int pass = 0; pass < D; ++pass) {
    // Orders xy, yx in turn; xyz, zyx, yzx, xzy, zxy, yxz in 3-D.
    const int shift = turn / 2 % D;
    const int axis = (turn % 2 == 0 ? pass + shift : D - 1 - pass + shift) % D;
    if (!interface_.is_current()) interface_.update(grid, settings, state, D == 2 ? pad : 2);  // 2-D: for the arcs
    interface_.invalidate();
    if (pass > 0) fill_velocity_halo<D>(grid, *space_, settings.walls, *walls_, 2, state.u, axis);

    if (boundary_ != nullptr) {
      boundary_->set_fraction_behind(state, state.F);
      for (int c = 0; c < D; ++c) boundary_->set_velocity_behind(grid, state, c, state.u[c]);
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
                     .full = full_.block(b)};
      for (int c = 0; c < D; ++c) {
        field.u[c] = state.u[c].block(b);
        field.u_start[c] = pass == 0 ? field.u[c] : start_[c].block(b);
        field.gain[c] = gain_[c].block(b);
      }
      const auto act = [&](auto is_cut, const Cut<D>& cut) {
        sweep<D, decltype(is_cut)::value>(layout, settings, axis, dt / grid.spacing()[axis], field, cut, b, boundary_);
      };
      if (space_->is_uncut(b))
        act(std::false_type{}, {});
      else
        act(std::true_type{},
            {space_->volume().block(b), space_->inverse_volume().block(b), space_->area()[axis].block(b),
             space_->at_wall().block(b), alone_.block(b), smooth_[axis].block(b), &interface_, space_, b,
             &small_[static_cast<std::size_t>(b)], rest_.block(b)});
      if (inactive_ != nullptr) empty_away(layout, b, *inactive_, state);
      share(b);
    });
    share(grid.blocks());
    if (boundary_ != nullptr) gained_ += boundary_->count(grid, axis);
  }
  if (boundary_ != nullptr && boundary_->through_walls()) {
    gained_ += boundary_->pass_walls(grid, *space_, settings, dt, full_, start_, state);
    for (std::size_t g = 0; g < space_->groups().size(); ++g)
      redistribute_excess<D>(space_->groups()[g], &group_cells_[first_[g]], state.F);
  }
  return restore_volume(grid, *space_, state.F, kept_volume + gained_);
}

template class Advection<2>;
template class Advection<3>;

}  // namespace wavy::sharp
