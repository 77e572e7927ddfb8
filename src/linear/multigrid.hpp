// The levels of a multigrid cycle on flat arrays stored by colour, and what goes on between them: relaxation, transfer
// of residuals and corrections, and the coefficients of coarser levels.
//
// Briggs, Henson & McCormick, A Multigrid Tutorial, ch. 4, 8. Coarse coefficients are the rediscretised means of the
// fine ones, and the transfers piecewise constant.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "base/staggered.hpp"
#include "linear/colour_array.hpp"

namespace wavy::multigrid {

/// Below this many cells, sharing a loop between threads costs more than it brings.
inline constexpr long parallel_from = 8192;

/// The neighbours of cells of one colour in one row: offsets into the other colour's array, per face (-x, +x, -y, ...).
template <int D>
std::array<std::ptrdiff_t, 2 * D> neighbour_offsets(const ColourLayout<D>& layout, std::ptrdiff_t start, int first) {
  std::array<std::ptrdiff_t, 2 * D> at{};
  at[0] = start + first - 1;
  at[1] = start + first;
  at[2] = start - layout.row_step();
  at[3] = start + layout.row_step();
  if constexpr (D == 3) {
    at[4] = start - layout.plane_step();
    at[5] = start + layout.plane_step();
  }
  return at;
}

/// Integrated face coefficients (beta x area / distance) of the operator, kept with the red cells.
template <class T, int D>
struct FaceCoefficients {
  std::array<StaggeredArray<T>, 2 * D> red;  ///< faces -x, +x, -y, +y, -z, +z of red cells

  void resize(std::size_t size) {
    for (auto& values : red) values.assign(size, T{});
  }
};

/// Pointers to the coefficients of the faces of one row of one colour.
template <class T, int D>
struct RowCoefficients {
  std::array<const T*, 2 * D> face;

  RowCoefficients(const FaceCoefficients<T, D>& all, const ColourLayout<D>& layout, int colour, std::ptrdiff_t start,
                  int first) {
    const auto neighbour = neighbour_offsets<D>(layout, start, first);
    for (int f = 0; f < 2 * D; ++f) {
      // A black cell's lower face is the upper face of the red cell beyond it, and the other way round.
      face[f] = colour == 0 ? all.red[f].data() + start : all.red[f ^ 1].data() + neighbour[f];
    }
  }
};

/// One multigrid level.
template <int D>
struct Level {
  ColourLayout<D> layout;
  Seams<D> seams;
  std::array<std::vector<double>, D> width;  ///< of the cells along each axis (a last odd cell stays single)
  FaceCoefficients<float, D> coefficients;
  ColourArray<float>
      dirichlet_coefficient;  ///< coefficients towards cells left out, where p = 0; empty where there are none
  ColourArray<float> inverse_diagonal;
  ColourArray<float> x;
  ColourArray<float> rhs;
  std::vector<std::array<int, 2>> live;  ///< of each row: the first cell that takes part, and the end of such cells
  int sweeps = 2;

  /// The cells of one colour among these, as places in the colour's row; `first`: the row's first cell of the colour.
  [[nodiscard]] std::array<int, 2> span(int row, int first) const {
    const auto [lo, hi] = live[static_cast<std::size_t>(row)];
    return {(lo - first + 1) / 2, (hi - first + 1) / 2};
  }

  /// Between the centres of cells face - 1 and face, across the seam where the face is at one.
  [[nodiscard]] double distance(int axis, int face) const {
    const auto& w = width[static_cast<std::size_t>(axis)];
    const auto f = static_cast<std::size_t>(face);
    const double below = turns_below(seams.turn, axis) ? w.front() : w.back();
    return 0.5 * ((f > 0 ? w[f - 1] : below) + (f < w.size() ? w[f] : w.front()));
  }
  [[nodiscard]] long cells() const { return product(layout.n); }
  /// Cells of one colour are neighbours at a seam.
  [[nodiscard]] bool has_odd_seam() const {
    for (int d = 0; d < D; ++d)
      if (seams.periodic[static_cast<std::size_t>(d)] && layout.n[d] % 2 != 0) return true;
    return seams.turn == Turn::quarter || (seams.turn == Turn::half && layout.n[1] % 2 != 0);
  }
  /// Cells of one colour are neighbours at seams of every level.
  [[nodiscard]] bool ties_colours() const { return seams.turn == Turn::quarter; }
  /// x of one colour beyond seams.
  void close_seams(int colour) {
    if (seams.any()) wavy::close_seams<float, D>(layout, seams, colour, x);
  }
};

/// A row of one colour; null where the array is empty.
template <class T>
const T* row_of(const ColourArray<T>& array, int colour, std::ptrdiff_t start) {
  const auto& values = array.colour[static_cast<std::size_t>(colour)];
  return values.empty() ? nullptr : values.data() + start;
}

template <int D, class Fn>
void for_rows_of(const ColourLayout<D>& layout, Fn&& fn) {
  const int rows = layout.row_count();
  const bool parallel = static_cast<long>(rows) * layout.n[0] >= parallel_from;
#pragma omp parallel for schedule(static) if (parallel)
  for (int r = 0; r < rows; ++r) {
    const auto [j, k] = layout.row(r);
    fn(r, j, k);
  }
}

/// The same for rows with cells that take part.
template <int D, class Fn>
void for_live_rows(const Level<D>& level, Fn&& fn) {
  for_rows_of<D>(level.layout, [&](int r, int j, int k) {
    if (const auto [lo, hi] = level.live[static_cast<std::size_t>(r)]; lo < hi) fn(r, j, k);
  });
}

/// Also finds out which cells of the rows take part.
template <int D>
void set_inverse_diagonal(Level<D>& level) {
  const auto& layout = level.layout;
  level.live.resize(static_cast<std::size_t>(layout.row_count()));
  for_rows_of<D>(layout, [&](int r, int j, int k) {
    const std::ptrdiff_t start = layout.start(j, k);
    std::array<int, 2> live{layout.n[0], 0};
    for (int colour = 0; colour < 2; ++colour) {
      const int first = layout.parity(colour, j, k);
      const RowCoefficients<float, D> c(level.coefficients, layout, colour, start, first);
      float* inverse = level.inverse_diagonal.colour[static_cast<std::size_t>(colour)].data() + start;
      const float* dirichlet_coefficient = row_of(level.dirichlet_coefficient, colour, start);
      const int count = layout.count(first);
      for (int m = 0; m < count; ++m) {
        float sum = 0;
        for (int f = 0; f < 2 * D; ++f) sum += c.face[f][m];
        if (dirichlet_coefficient != nullptr) sum += dirichlet_coefficient[m];
        inverse[m] = sum > 0 ? 1.0F / sum : 0.0F;  // a cell closed on all sides keeps its value
      }
      int lo = 0;
      int hi = count;
      while (lo < hi && inverse[lo] <= 0) ++lo;
      while (hi > lo && inverse[hi - 1] <= 0) --hi;
      if (lo < hi) live = {std::min(live[0], 2 * lo + first), std::max(live[1], 2 * hi + first - 1)};
    }
    level.live[static_cast<std::size_t>(r)] = live;
  });
}

/// Half a red-black Gauss-Seidel sweep of  sum c (x_neighbour - x) = rhs. With `from_zero` the other colour is zero.
template <int D>
void relax(Level<D>& level, int colour, bool from_zero) {
  const auto& layout = level.layout;
  auto& others = level.x.colour[static_cast<std::size_t>(1 - colour)];
  if (!from_zero)
    level.close_seams(1 - colour);
  else if (level.has_odd_seam())
    std::fill(others.begin(), others.end(), 0.0F);  // their own sweep reads them across the seam
  const float* other = others.data();
  for_live_rows<D>(level, [&](int row, int j, int k) {
    const int first = layout.parity(colour, j, k);
    const auto [begin, end] = level.span(row, first);
    const std::ptrdiff_t start = layout.start(j, k) + begin;
    const int count = end - begin;
    float* x = level.x.colour[static_cast<std::size_t>(colour)].data() + start;
    const float* rhs = level.rhs.colour[static_cast<std::size_t>(colour)].data() + start;
    const float* inverse = level.inverse_diagonal.colour[static_cast<std::size_t>(colour)].data() + start;
    if (from_zero) {
      for (int m = 0; m < count; ++m) x[m] = -rhs[m] * inverse[m];
      return;
    }
    const RowCoefficients<float, D> c(level.coefficients, layout, colour, start, first);
    const auto at = neighbour_offsets<D>(layout, start, first);
    const float* c0 = c.face[0];
    const float* c1 = c.face[1];
    const float* c2 = c.face[2];
    const float* c3 = c.face[3];
    const float* x0 = other + at[0];
    const float* x1 = other + at[1];
    const float* x2 = other + at[2];
    const float* x3 = other + at[3];
    if constexpr (D == 2) {
#pragma omp simd
      for (int m = 0; m < count; ++m)
        x[m] = (c0[m] * x0[m] + c1[m] * x1[m] + c2[m] * x2[m] + c3[m] * x3[m] - rhs[m]) * inverse[m];
    } else {
      const float* c4 = c.face[4];
      const float* c5 = c.face[5];
      const float* x4 = other + at[4];
      const float* x5 = other + at[5];
#pragma omp simd
      for (int m = 0; m < count; ++m)
        x[m] =
            (c0[m] * x0[m] + c1[m] * x1[m] + c2[m] * x2[m] + c3[m] * x3[m] + c4[m] * x4[m] + c5[m] * x5[m] - rhs[m]) *
            inverse[m];
    }
  });
}

/// Place of coarse cell (i, j, k) in the coarse arrays.
template <int D>
struct CoarseRow {
  std::array<std::ptrdiff_t, 2> at{};  ///< per parity of i: offset of i / 2 = 0
  std::array<int, 2> colour{};         ///< per parity of i

  CoarseRow(const ColourLayout<D>& layout, int j, int k) {
    for (int parity = 0; parity < 2; ++parity) {
      colour[static_cast<std::size_t>(parity)] = (parity + j + k) & 1;
      at[static_cast<std::size_t>(parity)] = layout.start(j, k);
    }
  }
};

/// Halves of each axis: a fine index belongs to coarse index / ratio.
template <int D>
Index<D> ratios(const ColourLayout<D>& fine, const ColourLayout<D>& coarse) {
  Index<D> ratio;
  for (int d = 0; d < D; ++d) ratio[d] = fine.n[d] == coarse.n[d] ? 1 : 2;
  return ratio;
}

/// fn(fine row, its j, its k) for the fine rows under coarse row (J, K).
template <int D, class Fn>
void for_fine_rows(const ColourLayout<D>& fine, const Index<D>& ratio, int J, int K, Fn&& fn) {
  const int j1 = std::min((J + 1) * ratio[1], fine.n[1]);
  if constexpr (D == 2) {
    for (int j = J * ratio[1]; j < j1; ++j) fn(j, j, 0);
  } else {
    const int k1 = std::min((K + 1) * ratio[2], fine.n[2]);
    for (int k = K * ratio[2]; k < k1; ++k)
      for (int j = J * ratio[1]; j < j1; ++j) fn(k * fine.n[1] + j, j, k);
  }
}

/// Coarse rhs = sum of the residuals of the red cells below; the black ones were swept last and have none, but for
/// those that a quarter of a turn has beside each other.
template <int D>
void restrict_residual(Level<D>& fine, Level<D>& coarse) {
  const int colours = fine.ties_colours() ? 2 : 1;
  for (int colour = 0; colour < colours; ++colour) fine.close_seams(1 - colour);
  const auto& lf = fine.layout;
  const auto& lc = coarse.layout;
  const Index<D> ratio = ratios<D>(lf, lc);
  for_live_rows<D>(coarse, [&](int, int J, int K) {
    const CoarseRow<D> row(lc, J, K);
    std::array<float*, 2> target{};
    for (std::size_t p = 0; p < 2; ++p) {
      target[p] = coarse.rhs.colour[static_cast<std::size_t>(row.colour[p])].data() + row.at[p];
      std::fill_n(target[p], lc.count(static_cast<int>(p)), 0.0F);
    }
    thread_local std::vector<float> residual;
    residual.resize(static_cast<std::size_t>(lf.length));
    const auto add = [&](int colour, int fine_row, int j, int k) {
      const std::ptrdiff_t start = lf.start(j, k);
      const int first = lf.parity(colour, j, k);
      const auto span = fine.span(fine_row, first);
      const int begin = span[0];
      const int end = span[1];
      const RowCoefficients<float, D> c(fine.coefficients, lf, colour, start, first);
      const auto at = neighbour_offsets<D>(lf, start, first);
      const float* other = fine.x.colour[static_cast<std::size_t>(1 - colour)].data();
      const float* x = fine.x.colour[static_cast<std::size_t>(colour)].data() + start;
      const float* rhs = fine.rhs.colour[static_cast<std::size_t>(colour)].data() + start;
      float* r = residual.data();
#pragma omp simd
      for (int m = begin; m < end; ++m) {
        float sum = rhs[m];
        for (int f = 0; f < 2 * D; ++f) sum -= c.face[f][m] * (other[at[f] + m] - x[m]);
        r[m] = sum;
      }
      if (const float* dirichlet_coefficient = row_of(fine.dirichlet_coefficient, colour, start))
        for (int m = begin; m < end; ++m) r[m] += dirichlet_coefficient[m] * x[m];
      if (ratio[0] == 2) {  // cell m of a colour in the row lies in coarse cell m
        for (int m = begin; m < end; ++m) target[static_cast<std::size_t>(m & 1)][m >> 1] += r[m];
      } else {
        for (int m = begin; m < end; ++m) {
          const int i = 2 * m + first;
          target[static_cast<std::size_t>(i & 1)][i >> 1] += r[m];
        }
      }
    };
    for_fine_rows<D>(lf, ratio, J, K, [&](int fine_row, int j, int k) {
      for (int colour = 0; colour < colours; ++colour) add(colour, fine_row, j, k);
    });
  });
}

/// Adds the coarse solution to the red cells; the sweep that follows begins with the black ones, which see only red,
/// but for those that a quarter of a turn has beside each other.
template <int D>
void prolong(const Level<D>& coarse, Level<D>& fine) {
  const auto& lf = fine.layout;
  const auto& lc = coarse.layout;
  const Index<D> ratio = ratios<D>(lf, lc);
  for_live_rows<D>(coarse, [&](int, int J, int K) {
    const CoarseRow<D> row(lc, J, K);
    std::array<const float*, 2> source{};
    for (std::size_t p = 0; p < 2; ++p)
      source[p] = coarse.x.colour[static_cast<std::size_t>(row.colour[p])].data() + row.at[p];
    for_fine_rows<D>(lf, ratio, J, K, [&](int fine_row, int j, int k) {
      for (int colour = 0; colour < (fine.ties_colours() ? 2 : 1); ++colour) {
        const int first = lf.parity(colour, j, k);
        const auto [begin, end] = fine.span(fine_row, first);
        float* x = fine.x.colour[static_cast<std::size_t>(colour)].data() + lf.start(j, k);
        for (int m = begin; m < end; ++m) {
          const int i = ratio[0] == 2 ? m : 2 * m + first;
          x[m] += source[static_cast<std::size_t>(i & 1)][i >> 1];
        }
      }
    });
  });
}

/// fn(cell, face, place of the red cell beyond) for every black cell's face on the grid's boundary.
template <int D, class Fn>
void for_black_on_boundary(const ColourLayout<D>& layout, Fn&& fn) {
  const int layers = D == 3 ? layout.n[D - 1] : 1;
  for (int k = 0; k < layers; ++k)
    for (int j = 0; j < layout.n[1]; ++j) {
      const bool rim = j == 0 || j == layout.n[1] - 1 || (D == 3 && (k == 0 || k == layers - 1));
      const int first = layout.parity(1, j, k);
      const auto visit = [&](int i) {
        Index<D> cell{};
        cell[0] = i;
        cell[1] = j;
        if constexpr (D == 3) cell[2] = k;
        for (int f = 0; f < 2 * D; ++f) {
          const int axis = f / 2;
          if (cell[axis] != (f % 2 == 0 ? 0 : layout.n[axis] - 1)) continue;
          Index<D> red = cell;
          red[axis] += f % 2 == 0 ? -1 : 1;
          const int K = D == 3 ? red[D - 1] : 0;
          fn(cell, f, static_cast<std::size_t>(layout.start(red[1], K) + (red[0] >> 1)));
        }
      };
      if (rim) {
        for (int i = first; i < layout.n[0]; i += 2) visit(i);
      } else {  // of inner rows only the ends
        if (first == 0) visit(0);
        if ((layout.n[0] - 1 - first) % 2 == 0) visit(layout.n[0] - 1);
      }
    }
}

/// Coarse face coefficient: mean of the fine ones over the coarse area and distance, which on faces of equal cells is
/// the sum of the 2^(D-1) fine coefficients times the fine over the coarse distance.
template <int D>
void coarsen_coefficients(const Level<D>& fine, Level<D>& coarse, bool open_boundary) {
  const auto& lf = fine.layout;
  const auto& lc = coarse.layout;
  const Index<D> ratio = ratios<D>(lf, lc);
  // Coefficient of the face between cell - 1 and cell across `axis`, on the fine level.
  const auto fine_face = [&](int axis, const Index<D>& cell) -> double {
    int sum = 0;
    for (int d = 0; d < D; ++d) sum += cell[d];
    Index<D> red = cell;
    int f = 2 * axis;
    if (sum % 2 != 0) {
      --red[axis];
      ++f;
    }
    int k = 0;
    if constexpr (D == 3) k = red[2];
    return fine.coefficients
        .red[static_cast<std::size_t>(f)][static_cast<std::size_t>(lf.start(red[1], k) + (red[0] >> 1))];
  };
  // The coefficient of a face of a coarse cell.
  const auto coarse_face = [&](const Index<D>& cell, int f) {
    const int axis = f / 2;
    const int face = cell[axis] + f % 2;  // coarse face index
    const bool boundary = (face == 0 || face == lc.n[axis]) && !coarse.seams.at(axis, face == 0 ? 0 : 1);
    if (boundary && !open_boundary) return 0.0;
    Index<D> lo;
    Index<D> hi;
    for (int d = 0; d < D; ++d) {
      lo[d] = cell[d] * ratio[d];
      hi[d] = std::min(lo[d] + ratio[d], lf.n[d]);
    }
    lo[axis] = std::min(face * ratio[axis], lf.n[axis]);
    hi[axis] = lo[axis] + 1;
    double sum = 0;
    Index<D> at = lo;
    const int k1 = D == 3 ? hi[D - 1] : 1;
    for (int k = D == 3 ? lo[D - 1] : 0; k < k1; ++k) {
      if constexpr (D == 3) at[2] = k;
      for (at[1] = lo[1]; at[1] < hi[1]; ++at[1])
        for (at[0] = lo[0]; at[0] < hi[0]; ++at[0]) sum += fine_face(axis, at);
    }
    const auto& wf = fine.width[static_cast<std::size_t>(axis)];
    const auto& wc = coarse.width[static_cast<std::size_t>(axis)];
    if (boundary) return sum * (face == 0 ? wf.front() / wc.front() : wf.back() / wc.back());
    return sum * fine.distance(axis, lo[axis]) / coarse.distance(axis, face);
  };
  for_rows_of<D>(lc, [&](int, int J, int K) {
    const std::ptrdiff_t start = lc.start(J, K);
    const int first = lc.parity(0, J, K);
    std::array<int, 2> live{lf.n[0], 0};
    for_fine_rows<D>(lf, ratio, J, K, [&](int fine_row, int, int) {
      const auto [lo, hi] = fine.live[static_cast<std::size_t>(fine_row)];
      live = {std::min(live[0], lo), std::max(live[1], hi)};
    });
    // Beyond what takes part on the finer level all is closed.
    for (auto& face : coarse.coefficients.red) std::fill_n(face.data() + start, lc.count(first), 0.0F);
    for (int m = 0; m < lc.count(first); ++m) {
      if (const int fine_i = (2 * m + first) * ratio[0]; fine_i + ratio[0] <= live[0] || fine_i >= live[1]) continue;
      Index<D> cell{};
      cell[0] = 2 * m + first;
      cell[1] = J;
      if constexpr (D == 3) cell[2] = K;
      for (int f = 0; f < 2 * D; ++f)
        coarse.coefficients.red[static_cast<std::size_t>(f)][static_cast<std::size_t>(start + m)] =
            static_cast<float>(coarse_face(cell, f));
    }
  });
  if (open_boundary || coarse.seams.any())
    for_black_on_boundary<D>(lc, [&](const Index<D>& cell, int f, std::size_t beyond) {
      coarse.coefficients.red[static_cast<std::size_t>(f ^ 1)][beyond] = static_cast<float>(coarse_face(cell, f));
    });
  set_inverse_diagonal(coarse);
}

/// Pulls towards p = 0 add up over the fine cells below, over twice the distance as other coefficients.
template <int D>
void coarsen_pull(const Level<D>& fine, Level<D>& coarse) {
  const auto& lf = fine.layout;
  const auto& lc = coarse.layout;
  coarse.dirichlet_coefficient.resize(lc.size);
  const Index<D> ratio = ratios<D>(lf, lc);
  constexpr float nearer = 0.5F;
  for_rows_of<D>(lc, [&](int, int J, int K) {
    const CoarseRow<D> row(lc, J, K);
    for_fine_rows<D>(lf, ratio, J, K, [&](int, int j, int k) {
      for (int colour = 0; colour < 2; ++colour) {
        const int first = lf.parity(colour, j, k);
        const float* source = row_of(fine.dirichlet_coefficient, colour, lf.start(j, k));
        for (int m = 0; m < lf.count(first); ++m) {
          const int i = (2 * m + first) / ratio[0];
          const auto parity = static_cast<std::size_t>(i & 1);
          coarse.dirichlet_coefficient.colour[static_cast<std::size_t>(row.colour[parity])]
                                             [static_cast<std::size_t>(row.at[parity] + (i >> 1))] +=
              nearer * source[m];
        }
      }
    });
  });
}

}  // namespace wavy::multigrid
