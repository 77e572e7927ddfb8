#include "flow/projection.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <utility>

namespace wavy {

template <int D>
void predict_faces(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary, const Cells<D>& weight,
                   const CellVectors<D>& u, const Faces<D>& acceleration, double dt, Faces<D>& face_u) {
  for_blocks(grid, [&](int b) {
    const double* m = weight.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = grid.layout().step[d];
      const double* v = u[d].block(b);
      const double* a = acceleration[d].block(b);
      const double* area = space.is_uncut(b) ? nullptr : space.area()[d].block(b);
      double* face = face_u[d].block(b);
      for_open_rows<D>(space, b, grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d),
                       [&](std::ptrdiff_t o, int n) {
#pragma omp simd
                         for (int i = 0; i < n; ++i) {
                           const std::ptrdiff_t at = o + i;
                           const double mean = (m[at - s] * v[at - s] + m[at] * v[at]) / (m[at - s] + m[at]);
                           face[at] = (area == nullptr ? mean : area[at] * mean) + dt * a[at];
                         }
                       });
      boundary.close(grid, b, d, face);
    }
  });
}

template <int D>
void add_uniform(const Grid<D>& grid, const OpenSpace<D>& space, const Vec<D>& added, Faces<D>& acceleration) {
  for_blocks(grid, [&](int b) {
    for (int d = 0; d < D; ++d) {
      if (added[d] == 0) continue;
      double* a = acceleration[d].block(b);
      const double* area = space.is_uncut(b) ? nullptr : space.area()[d].block(b);
      for_open_rows<D>(space, b, grid.layout(), Index<D>{}, faces_end<D>(grid.layout(), d),
                       [&](std::ptrdiff_t o, int n) {
                         for (std::ptrdiff_t at = o; at < o + n; ++at)
                           a[at] += added[d] * (area == nullptr ? 1.0 : area[at]);
                       });
    }
  });
}

template <int D>
Vec<D> take_periodic(const Grid<D>& grid, Vec<D>& force) {
  Vec<D> taken{};
  for (std::size_t d = 0; d < D; ++d)
    if (grid.periodic()[d]) taken[d] = std::exchange(force[d], 0.0);
  return taken;
}

template <int D>
CellVectors<D> mean_weights(const Grid<D>& grid, const OpenSpace<D>& space) {
  CellVectors<D> weights;
  for (int d = 0; d < D; ++d) {
    weights[d] = Cells<D>(grid, 0.5);
    const std::ptrdiff_t s = grid.layout().step[d];
    if (space.is_uncut()) continue;
    for_blocks(grid, [&](int b) {
      const double* share = space.share().block(b);
      const double* open = space.face_share()[d].block(b);
      for_rows<D>(grid.layout(), [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const double open_volume = std::max(open[at] + open[at + s], 2 * share[at]);
          weights[d].block(b)[at] = open_volume > 0 ? 1 / open_volume : 0.0;
        }
      });
    });
  }
  return weights;
}

template <int D>
Projection<D>::Projection(const Grid<D>& grid, const OpenSpace<D>& space, Boundary<D>& boundary)
    : space_(space), boundary_(boundary), solver_(grid), rhs_(grid), last_pressure_(grid) {
  if (!space.is_uncut()) mean_weight_ = mean_weights(grid, space);
  if (boundary.through_walls()) source_ = Cells<D>(grid);
}

template <int D>
void Projection<D>::set_given(const Grid<D>& grid, double time, const CellVectors<D>& u, Faces<D>& face_u) {
  if (boundary_.closed()) return;
  boundary_.set_faces(grid, time, u, face_u);
  if (boundary_.through_walls()) boundary_.set_sources(time, source_);
}

template <int D>
void Projection<D>::set_sources(double time, bool flows) {
  if (!boundary_.through_walls()) return;
  if (flows)
    boundary_.set_sources(time, source_);
  else
    std::fill(source_.data().begin(), source_.data().end(), 0.0);
}

template <int D>
void Projection<D>::find_divergence(const Grid<D>& grid, const Faces<D>& face_u, double dt) {
  assert(dt > 0);
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    double* out = rhs_.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double* face = face_u[d].block(b);
      const double factor = 1 / (grid.geometry(b).spacing[d] * dt);
      for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) out[o + i] = (d == 0 ? 0.0 : out[o + i]) + factor * (face[o + i + s] - face[o + i]);
      });
    }
    if (!boundary_.through_walls()) return;
    const double* in = source_.block(b);
    for_open_rows<D>(space_, b, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) out[o + i] -= in[o + i] / dt;
    });
  });
}

template <int D>
void Projection<D>::guess(const Grid<D>& grid, Cells<D>& p, double ahead) {
  for_blocks(grid, [&](int b) {
    double* value = p.block(b);
    double* last = last_pressure_.block(b);
    for_open_rows<D>(space_, b, grid.layout(), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) {
        const double now = value[o + i];
        value[o + i] += ahead * (now - last[o + i]);
        last[o + i] = now;
      }
    });
  });
}

template <int D>
void Projection<D>::add_pressure(const Grid<D>& grid, const Cells<D>& p, const Faces<D>& inverse_density,
                                 Faces<D>& acceleration) const {
  const Layout<D>& layout = grid.layout();
  for_blocks(grid, [&](int b) {
    const double* value = p.block(b);
    for (int d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout.step[d];
      const double* inverse = inverse_density[d].block(b);
      double* a = acceleration[d].block(b);
      const double factor = 1 / grid.geometry(b).spacing[d];
      for_open_rows<D>(space_, b, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) a[o + i] -= inverse[o + i] * factor * (value[o + i] - value[o + i - s]);
      });
      boundary_.close(grid, b, d, a);
    }
  });
}

template <int D>
void Projection<D>::correct_faces(const Grid<D>& grid, int block, const Cells<D>& p, const Faces<D>& inverse_density,
                                  double dt, Faces<D>& face_u) const {
  const Layout<D>& layout = grid.layout();
  const double* value = p.block(block);
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    const double* inverse = inverse_density[d].block(block);
    double* face = face_u[d].block(block);
    const double factor = dt / grid.geometry(block).spacing[d];
    for_open_rows<D>(space_, block, layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
#pragma omp simd
      for (int i = 0; i < n; ++i) face[o + i] -= inverse[o + i] * factor * (value[o + i] - value[o + i - s]);
    });
    boundary_.close(grid, block, d, face);
  }
}

template <int D>
void Projection<D>::accelerate_cells(const Grid<D>& grid, int block, const Faces<D>& acceleration, double dt,
                                     CellVectors<D>& own, CellVectors<D>& u) const {
  const Layout<D>& layout = grid.layout();
  for (int d = 0; d < D; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    const double* a = acceleration[d].block(block);
    double* mean = own[d].block(block);
    double* v = u[d].block(block);
    if (space_.is_uncut(block)) {
      for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
#pragma omp simd
        for (int i = 0; i < n; ++i) {
          mean[o + i] = 0.5 * (a[o + i] + a[o + i + s]);
          v[o + i] += dt * mean[o + i];
        }
      });
      continue;
    }
    const double* weight = mean_weight_[d].block(block);
    const double* open = space_.face_share()[d].block(block);
    const double* area = space_.area()[d].block(block);
    const bool weighted = space_.axisymmetric();
    for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
      if (weighted) {  // accelerations without the weight of the area
        const auto through = [&](std::ptrdiff_t f) { return a[f] * (open[f] / (area[f] > 0 ? area[f] : 1.0)); };
        for (std::ptrdiff_t at = o; at < o + n; ++at) mean[at] = weight[at] * (through(at) + through(at + s));
      } else {
#pragma omp simd
        for (int i = 0; i < n; ++i) mean[o + i] = weight[o + i] * (a[o + i] + a[o + i + s]);
      }
#pragma omp simd
      for (int i = 0; i < n; ++i) v[o + i] += dt * mean[o + i];
    });
  }
}

template <int D>
double Projection<D>::greatest_divergence(const Grid<D>& grid, int block, const Faces<D>& face_u, double dt,
                                          const Cells<D>* left_out) const {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.geometry(block).spacing;
  double greatest = 0;
  const double* in = boundary_.through_walls() ? source_.block(block) : nullptr;
  const double* out = left_out == nullptr ? nullptr : left_out->block(block);
  for_open_rows<D>(space_, block, layout, [&](std::ptrdiff_t o, int n) {
    for (int i = 0; i < n; ++i) {
      if (out != nullptr && out[o + i] != 0) continue;
      double sum = in == nullptr ? 0.0 : -in[o + i];
      for (int d = 0; d < D; ++d) {
        const double* face = face_u[d].block(block) + o + i;
        sum += (face[layout.step[d]] - face[0]) / h[d];
      }
      greatest = std::max(greatest, std::abs(sum) * dt);
    }
  });
  return greatest;
}

template void predict_faces<2>(const Grid<2>&, const OpenSpace<2>&, const Boundary<2>&, const Cells<2>&,
                               const CellVectors<2>&, const Faces<2>&, double, Faces<2>&);
template void add_uniform<2>(const Grid<2>&, const OpenSpace<2>&, const Vec<2>&, Faces<2>&);
template Vec<2> take_periodic<2>(const Grid<2>&, Vec<2>&);
template CellVectors<2> mean_weights<2>(const Grid<2>&, const OpenSpace<2>&);
template class Projection<2>;
template void predict_faces<3>(const Grid<3>&, const OpenSpace<3>&, const Boundary<3>&, const Cells<3>&,
                               const CellVectors<3>&, const Faces<3>&, double, Faces<3>&);
template void add_uniform<3>(const Grid<3>&, const OpenSpace<3>&, const Vec<3>&, Faces<3>&);
template Vec<3> take_periodic<3>(const Grid<3>&, Vec<3>&);
template CellVectors<3> mean_weights<3>(const Grid<3>&, const OpenSpace<3>&);
template class Projection<3>;

}  // namespace wavy
