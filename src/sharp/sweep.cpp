#include "sharp/sweep.hpp"

#include <algorithm>
#include <cmath>
#include <memory>

#include "sharp/wall_slopes.hpp"

namespace wavy::sharp {
namespace {

/// Work arrays of one thread: of a block, and of rows.
template <int D>
struct Scratch {
  StaggeredArray<double> courant, liquid, change;
  TransportRows<D> rows;
  explicit Scratch(const Layout<D>& layout) : rows(static_cast<std::size_t>(layout.cells[0] + 2 * pad), pad) {
    for (auto* array : {&courant, &liquid, &change}) array->assign(layout.size, 0.0);
  }
  static Scratch& of(const Layout<D>& layout) {
    thread_local std::unique_ptr<Scratch> mine;
    thread_local Index<D> cells{};
    if (!mine || cells != layout.cells) mine = std::make_unique<Scratch>(layout);
    cells = layout.cells;
    return *mine;
  }
};

template <int D, bool is_cut>
class BlockSweep {
 public:
  BlockSweep(const Layout<D>& layout, const Settings<D>& settings, int axis, double dt_over_h, const Swept<D>& field,
             const Cut<D>& cut, int block, OpeningFluxes<D>* openings, const KeptFluxes& kept)
      : layout_(layout),
        axis_(axis),
        dt_over_h_(dt_over_h),
        field_(field),
        cut_(cut),
        block_(block),
        openings_(openings),
        kept_(kept),
        scratch_(Scratch<D>::of(layout)),
        step_(layout.step[axis]),
        rho_gas_(settings.gas.density),
        rho_jump_(settings.liquid.density - settings.gas.density),
        C_(scratch_.courant.data() + layout.first),
        liquid_(scratch_.liquid.data() + layout.first),
        change_(scratch_.change.data() + layout.first) {}

  void operator()() {
    // In slabs that stay in the cache, across another axis.
    constexpr int layers = D == 2 ? 64 : 4;
    const int across = axis_ == D - 1 && D == 3 ? 1 : D - 1;
    for (int start = 0; start < layout_.cells[across]; start += D == 3 || axis_ == 0 ? layers : layout_.cells[across]) {
      Index<D> lo{};
      Index<D> hi = layout_.cells;
      if (across != axis_) {
        lo[across] = start;
        hi[across] = std::min(start + layers, layout_.cells[across]);
      }
      if (openings_ == nullptr && !keeps()) {  // else all fluxes are asked for at the end
        C_ = scratch_.courant.data() + layout_.first - lo[across] * layout_.step[across];
        liquid_ = scratch_.liquid.data() + layout_.first - lo[across] * layout_.step[across];
      }
      find_fluxes(lo, hi);
      move_slab(lo, hi);
    }
    if (openings_ != nullptr) openings_->record_fluxes(block_, axis_, C_, liquid_);
    if (keeps())
      for_open_rows<D>(*cut_.space, cut_.block, layout_, Index<D>{}, faces_end<D>(layout_, axis_),
                       [&](std::ptrdiff_t o, int n) {
                         for (std::ptrdiff_t at = o; at < o + n; ++at) {
                           if (kept_.liquid != nullptr) kept_.liquid[at] = liquid_[at];
                           if (kept_.gas != nullptr) kept_.gas[at] = C_[at] - liquid_[at];
                         }
                       });
    if constexpr (!is_cut) {
      for_open_rows<D>(*cut_.space, cut_.block, layout_, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) field_.F[o + i] += change_[o + i];
      });
    }
  }

 private:
  [[nodiscard]] bool keeps() const { return kept_.liquid != nullptr || kept_.gas != nullptr; }
  /// Courant numbers and liquid through the faces of the cells [lo, hi).
  void find_fluxes(const Index<D>& lo, Index<D> hi) {
    ++hi[axis_];
    liquid_flux<D>(layout_, axis_, lo, hi, field_.F, field_.extended_fraction, field_.face_u, dt_over_h_, cut_, C_,
                   liquid_);
    if constexpr (is_cut) pass_small_cells<D>(layout_, axis_, lo, hi, field_.F, cut_, C_, liquid_);
    if (openings_ != nullptr) openings_->set_incoming(block_, axis_, field_.F, C_, liquid_);
  }

  void move_slab(const Index<D>& lo, const Index<D>& hi) {
    Index<D> lines_hi = hi;
    lines_hi[axis_] = 1;
    for (int k = D == 3 ? lo[D - 1] : 0; k < (D == 3 ? lines_hi[D - 1] : 1); ++k)
      for (int j = lo[1]; j < lines_hi[1]; ++j) {
        Index<D> row{};
        row[1] = j;
        if constexpr (D == 3) row[2] = k;
        if (axis_ == 0)
          move_along_row(row, hi[0]);
        else
          move_across_rows(row, hi);
      }
  }

  /// Along the first axis: the row before is the row itself, one cell on.
  void move_along_row(const Index<D>& row, int end_of_cells) {
    const std::ptrdiff_t o = layout_.offset(row);
    const auto& own = scratch_.rows.rows[0];
    const auto [first, end] = open_part<D>(cut_.space->spans(block_), layout_, row, -1, end_of_cells + 1);
    find_slopes<is_cut>(field_.u, own, cut_.smooth, o, step_, first, end);
    pass_faces(own.at(-1), own, o, std::max(0, first), end);
    move_cells(own, own.at(1), o, std::max(0, first), std::min(end_of_cells, end));
  }

  /// The line of rows along another axis that begins with `row`.
  void move_across_rows(Index<D> row, const Index<D>& hi) {
    const auto& rows = scratch_.rows.rows;
    const RowSpans* spans = cut_.space->spans(block_);
    const auto visit = [&](int place, const auto& act) {
      row[axis_] = place;
      const auto [first, end] = open_part<D>(spans, layout_, row, 0, hi[0]);
      act(layout_.offset(row), first, end);
    };
    const auto slopes = [&](const TransportRow<D>& own, std::ptrdiff_t o, int first, int end) {
      find_slopes<is_cut>(field_.u, own, cut_.smooth, o, step_, first, end);
    };
    visit(-1, [&](std::ptrdiff_t o, int first, int end) { slopes(rows[1], o, first, end); });
    for (int place = 0; place <= hi[axis_]; ++place) {
      const TransportRow<D>& here = rows[static_cast<std::size_t>(place % 2)];
      const TransportRow<D>& before = rows[static_cast<std::size_t>((place + 1) % 2)];
      visit(place, [&](std::ptrdiff_t o, int first, int end) {
        slopes(here, o, first, end);
        pass_faces(before, here, o, first, end);
      });
      if (place > 0)
        visit(place - 1, [&](std::ptrdiff_t o, int first, int end) { move_cells(before, here, o, first, end); });
    }
  }

  // In both [lo, hi) are cells of the row that begins at an offset.

  /// (S6), (S7): mass that passes the faces, and what it carries. Where most of a cell's mass leaves (liquid, from a
  /// cell that stays behind full of gas), the rest must not be left with the difference: the slope counts for at most
  /// (mass that stays) / (mass that leaves).
  void pass_faces(const TransportRow<D>& before, const TransportRow<D>& row, std::ptrdiff_t o, int lo, int hi) const {
    double* mass = row.mass;
    double* weight = row.weight;
    // Local copies, and no branches, so that the loop runs in vectors.
    const double* C = C_;
    const double* liquid = liquid_;
    const double* F = field_.F;
    const double* volume = cut_.volume;
    const double* inverse = cut_.inverse;
    const double rho_gas = rho_gas_;
    const double rho_jump = rho_jump_;
    const std::ptrdiff_t s = step_;
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      const std::ptrdiff_t a = o + i;
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
    carry_through_faces(field_.u, before, row, C, o, s, lo, hi);
    if constexpr (is_cut)
      if (cut_.slopes != nullptr) cut_.slopes->add(block_, axis_, o, lo, hi, C, row);
  }

  /// (S5), (S8): the dilation of the direction has the density of what the cell was full of at the start of the step.
  /// Where solids cut cells F moves too: stencils read the extended fraction; elsewhere its change waits.
  void move_cells(const TransportRow<D>& row, const TransportRow<D>& next, std::ptrdiff_t o, int lo, int hi) const {
    const auto& masses = scratch_.rows;
    double* held = masses.held;
    double* dilated = masses.dilated;
    double* after = masses.after;
    const double* C = C_;
    const double* liquid = liquid_;
    const unsigned char* full = field_.full;
    double* F = field_.F;
    double* change = change_;
    const double rho_gas = rho_gas_;
    const double rho_jump = rho_jump_;
    const std::ptrdiff_t s = step_;
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      const std::ptrdiff_t a = o + i;
      held[i] = rho_gas + rho_jump * F[a];
      if constexpr (is_cut) held[i] *= cut_.volume[a];
      const double opens = C[a + s] - C[a];
      dilated[i] = (rho_gas + rho_jump * full[a]) * opens;
      const double left = held[i] - (next.mass[i] - row.mass[i]) + dilated[i];
      if constexpr (is_cut) {
        // In the solid nothing moves, and what its far faces hold is anything.
        const double moves = cut_.volume[a] > 0 ? 1.0 : 0.0;
        const double on_own = cut_.alone[a];
        after[i] = moves / (on_own * left + 1 - on_own);
        F[a] += cut_.inverse[a] * (full[a] * opens - (liquid[a + s] - liquid[a]));
      } else {
        after[i] = 1 / left;
        change[a] = full[a] * opens - (liquid[a + s] - liquid[a]);
      }
    }
    take_up(field_.u, row, next, masses, o, lo, hi);
  }

  const Layout<D>& layout_;
  int axis_;
  double dt_over_h_;
  const Swept<D>& field_;
  const Cut<D>& cut_;
  int block_;
  OpeningFluxes<D>* openings_;
  KeptFluxes kept_;
  Scratch<D>& scratch_;
  std::ptrdiff_t step_;
  double rho_gas_, rho_jump_;
  double *C_, *liquid_;
  double* change_;  // of F, which stencils still read
};

}  // namespace

template <int D, bool is_cut>
void sweep_block(const Layout<D>& layout, const Settings<D>& settings, int axis, double dt_over_h,
                 const Swept<D>& field, const Cut<D>& cut, int block, OpeningFluxes<D>* openings,
                 const KeptFluxes& kept) {
  BlockSweep<D, is_cut>(layout, settings, axis, dt_over_h, field, cut, block, openings, kept)();
}

template void sweep_block<2, false>(const Layout<2>&, const Settings<2>&, int, double, const Swept<2>&, const Cut<2>&,
                                    int, OpeningFluxes<2>*, const KeptFluxes&);
template void sweep_block<2, true>(const Layout<2>&, const Settings<2>&, int, double, const Swept<2>&, const Cut<2>&,
                                   int, OpeningFluxes<2>*, const KeptFluxes&);
template void sweep_block<3, false>(const Layout<3>&, const Settings<3>&, int, double, const Swept<3>&, const Cut<3>&,
                                    int, OpeningFluxes<3>*, const KeptFluxes&);
template void sweep_block<3, true>(const Layout<3>&, const Settings<3>&, int, double, const Swept<3>&, const Cut<3>&,
                                   int, OpeningFluxes<3>*, const KeptFluxes&);

}  // namespace wavy::sharp
