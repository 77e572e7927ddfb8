// Transport of carried quantities (the components of a velocity, and whatever else a mass of fluid has with it) by
// given mass fluxes, along one axis, row by row: kernels for loops that stay in the nearest cache.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <utility>
#include <vector>

namespace wavy {

/// Slope of a limited linear profile (van Leer's monotonised central differences).
inline double limited_slope(double lower, double middle, double upper) {
  const double a = middle - lower;
  const double b = upper - middle;
  const double size = std::min(std::min(2 * std::abs(a), 2 * std::abs(b)), 0.5 * std::abs(a + b));
  return a * b > 0 ? std::copysign(size, a) : 0.0;
}

/// Quantities in the cells of a block, per mass.
template <std::size_t N>
struct Carried {
  std::array<double*, N> value{};        ///< now; halo of two cells along the axis
  std::array<const double*, N> start{};  ///< at the start of the step: of what a direction's dilation adds
  std::array<const double*, N> gain{};   ///< what they gain in half a step; halo of one cell
};

/// What a row of cells and its faces towards the row before hold, at x = 0.
template <std::size_t N>
struct TransportRow {
  double* mass = nullptr;           ///< that passes the faces, over the volume of a whole cell
  double* weight = nullptr;         ///< of the slope upwind in what passes
  std::array<double*, N> passes{};  ///< of each quantity times mass
  std::array<double*, N> slope{};   ///< of each quantity in the cells

  /// The same for x + shift.
  [[nodiscard]] TransportRow at(int shift) const {
    TransportRow other{mass + shift, weight + shift, passes, slope};
    for (std::size_t c = 0; c < N; ++c) {
      other.passes[c] += shift;
      other.slope[c] += shift;
    }
    return other;
  }
};

/// Two rows, and masses of the cells of one, as work arrays.
template <std::size_t N>
class TransportRows {
 public:
  /// For rows of `length` cells, `before` of them before x = 0.
  TransportRows(std::size_t length, std::size_t before) : values_(length * (3 + 2 * (2 + 2 * N))) {
    double* next = values_.data() + before;
    const auto take = [&](double*& array) { array = std::exchange(next, next + length); };
    for (auto* array : {&held, &dilated, &after}) take(*array);
    for (auto& row : rows) {
      take(row.mass);
      take(row.weight);
      for (auto& array : row.passes) take(array);
      for (auto& array : row.slope) take(array);
    }
  }
  std::array<TransportRow<N>, 2> rows;
  double* held = nullptr;     ///< mass before
  double* dilated = nullptr;  ///< mass that the direction's dilation adds
  double* after = nullptr;    ///< 1 / mass after

 private:
  std::vector<double> values_;
};

// In all that follows [lo, hi) are cells of the row that begins at the offset o, s the step along the axis.

/// Slopes in the cells. `smooth` (only if `is_cut`): 1 where a cell has any, else 0.
template <bool is_cut, std::size_t N>
void find_slopes(const Carried<N>& carried, const TransportRow<N>& row, const unsigned char* smooth, std::ptrdiff_t o,
                 std::ptrdiff_t s, int lo, int hi) {
  for (std::size_t c = 0; c < N; ++c) {
    const double* v = carried.value[c] + o;
    double* slope = row.slope[c];
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      slope[i] = limited_slope(v[i - s], v[i], v[i + s]);
      if constexpr (is_cut) slope[i] *= smooth[o + i];
    }
  }
}

/// (S7): what passes the faces towards the row before: by row.mass, with the mean of the upwind cell's linear profile
/// over what leaves it, half a step later (the predictor of Colella, J. Comput. Phys. 87 (1990) 171, without its
/// transverse part). C: positive where the flow comes from the row before.
template <std::size_t N>
void carry_through_faces(const Carried<N>& carried, const TransportRow<N>& before, const TransportRow<N>& row,
                         const double* C, std::ptrdiff_t o, std::ptrdiff_t s, int lo, int hi) {
  const double* mass = row.mass;
  const double* weight = row.weight;
  for (std::size_t c = 0; c < N; ++c) {
    const double* v = carried.value[c] + o;
    const double* gain = carried.gain[c] + o;
    const double* slope_low = before.slope[c];
    const double* slope_high = row.slope[c];
    double* passes = row.passes[c];
#pragma omp simd
    for (int i = lo; i < hi; ++i) {
      // Without branches, so that the loop runs in vectors.
      const double from_low = 0.5 + std::copysign(0.5, C[o + i]);
      const double from_high = 1 - from_low;
      const double value = from_low * (v[i - s] + gain[i - s]) + from_high * (v[i] + gain[i]);
      const double slope = from_low * slope_low[i] + from_high * slope_high[i];
      passes[i] = mass[i] * value + weight[i] * slope;
    }
  }
}

/// (S8): the cells' quantities after: what they held, less what leaves, plus what the dilation adds, by the mass after.
template <std::size_t N>
void take_up(const Carried<N>& carried, const TransportRow<N>& row, const TransportRow<N>& next,
             const TransportRows<N>& masses, std::ptrdiff_t o, int lo, int hi) {
  const double* held = masses.held;
  const double* dilated = masses.dilated;
  const double* after = masses.after;
  for (std::size_t c = 0; c < N; ++c) {
    double* v = carried.value[c] + o;
    const double* v0 = carried.start[c] + o;
    const double* gain = carried.gain[c] + o;
    const double* in = row.passes[c];
    const double* out = next.passes[c];
#pragma omp simd
    for (int i = lo; i < hi; ++i)
      v[i] = (held[i] * v[i] - (out[i] - in[i]) + dilated[i] * (v0[i] + gain[i])) * after[i];
  }
}

}  // namespace wavy
