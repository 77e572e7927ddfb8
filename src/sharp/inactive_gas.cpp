#include "sharp/inactive_gas.hpp"

#include "sharp/parts.hpp"

namespace wavy::sharp {

template <int D>
InactiveGas<D>::InactiveGas(const Grid<D>& grid, const Boundary<D>& boundary)
    : inactive_(grid), at_flows_(boundary.cells(true)), at_pressures_(boundary.cells(false)) {}

template <int D>
void InactiveGas<D>::mark(const Grid<D>& grid, const Cells<D>& extended_fraction) {
  constexpr int reach = 2;
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* F = extended_fraction.block(b);
    double* far = inactive_.block(b);
    thread_local std::vector<char> near;
    thread_local std::vector<char> wider;
    near.assign(layout.size, 0);
    wider.assign(layout.size, 0);
    auto [lo, hi] = with_layers(layout, reach);
    for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) near[static_cast<std::size_t>(layout.first + o + i)] = F[o + i] > pure ? 1 : 0;
    });
    for (int d = 0; d < D; ++d) {
      lo[d] = 0;
      hi[d] = layout.cells[d];
      const std::ptrdiff_t s = layout.step[d];
      for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
        const char* from = near.data() + layout.first + o;
        char* to = wider.data() + layout.first + o;
        for (int i = 0; i < n; ++i)
          to[i] = static_cast<char>(from[i - 2 * s] | from[i - s] | from[i] | from[i + s] | from[i + 2 * s]);
      });
      std::swap(near, wider);
    }
    for_rows<D>(layout, [&](std::ptrdiff_t o, int n) {
      for (int i = 0; i < n; ++i) far[o + i] = near[static_cast<std::size_t>(layout.first + o + i)] != 0 ? 0.0 : 1.0;
    });
  });
  for (const auto& [block, at] : at_flows_) inactive_.block(block)[at] = 0;
  fill_halo(grid, inactive_, 3, all_walls<D>(Mirror::even));
}

template <int D>
void InactiveGas<D>::still(const Grid<D>& grid, Faces<D>& acceleration, Faces<D>& inverse_density,
                           State<D>& state) const {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* far = inactive_.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      double* inverse = inverse_density[d].block(b);
      double* a = acceleration[d].block(b);
      double* face = state.face_u[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at)
          if (far[at] != 0 && far[at - s] != 0) inverse[at] = a[at] = face[at] = 0;
      });
    }
  });
  clear(grid, state.p);
  for (auto& component : state.u) clear(grid, component);
}

template <int D>
void InactiveGas<D>::clear(const Grid<D>& grid, Cells<D>& field) const {
  for_blocks(grid, [&](int b) {
    const double* far = inactive_.block(b);
    double* value = field.block(b);
    for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) value[o + i] = far[o + i] != 0 ? 0.0 : value[o + i];
    });
  });
}

template class InactiveGas<2>;
template class InactiveGas<3>;

}  // namespace wavy::sharp
