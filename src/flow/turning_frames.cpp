#include "flow/turning_frames.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

#include "flow/turning_solids.hpp"

namespace wavy {
namespace {

/// Radii of what turns, by the grid's layers along the axis (2-D: one): of the zones, as far as walls let them reach.
template <int D>
std::vector<double> frame_radii(const Grid<D>& grid, const OpenSpace<D>& space, const Vec<D>& about,
                                const std::vector<FrameZone<D>>& zones) {
  const int layers = D == 3 ? grid.cells()[D - 1] : 1;
  double widest = 1e300;  // within the grid
  for (std::size_t d = 0; d < 2; ++d) {
    widest = std::min(widest, grid.upper()[d] - about[d]);
    if (!turns_below(grid.turn(), static_cast<int>(d))) widest = std::min(widest, about[d] - grid.lower()[d]);
  }
  std::vector<double> radii(static_cast<std::size_t>(layers), 0.0);
  for (int layer = 0; layer < layers; ++layer) {
    const double height = D == 3 ? grid.lower()[D - 1] + (layer + 0.5) * grid.spacing()[D - 1] : 0.0;
    for (const auto& zone : zones)
      if (D == 2 || (height > zone.lower && height < zone.upper))
        radii[static_cast<std::size_t>(layer)] =
            std::max(radii[static_cast<std::size_t>(layer)], std::min(zone.radius, widest));
  }
  if (space.is_uncut()) return radii;
  for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
    if (space.is_uncut(b)) return;
    bool whole = space.volume().block(b)[at] == 1;
    for (std::size_t d = 0; d < D; ++d)
      for (const std::ptrdiff_t face : {at, at + grid.layout().step[d]})
        whole = whole && space.area()[d].block(b)[face] == 1;
    if (whole) return;
    const Vec<D> middle = cell_middle<D>(grid, b, at);
    double square = 0;  // of the distance of its nearest point
    for (std::size_t d = 0; d < 2; ++d)
      square += std::pow(std::max(0.0, std::abs(middle[d] - about[d]) - 0.5 * grid.spacing()[d]), 2);
    const int layer = D == 3 ? grid.geometry(b).start[D - 1] + axis_index<D>(grid.layout(), at, D - 1) : 0;
    double& radius = radii[static_cast<std::size_t>(layer)];
    radius = std::min(radius, std::sqrt(square));
  });
  return radii;
}

}  // namespace

template <int D>
TurningFrames<D>::TurningFrames(const Grid<D>& grid, const OpenSpace<D>& space, const TurningSettings<D>& settings) {
  const Layout<D>& layout = grid.layout();
  for (std::size_t s = 0; s < settings.shafts.size(); ++s) {
    std::vector<FrameZone<D>> zones;
    for (const auto& zone : settings.frames)
      if (zone.shaft == s) zones.push_back(zone);
    if (zones.empty()) continue;
    const Vec<D> about = settings.shafts[s](0).motion.about;
    const std::vector<double> radii = frame_radii<D>(grid, space, about, zones);
    Shaft& shaft = shafts_.emplace_back();
    shaft.speed = [pose = settings.shafts[s]](double t) { return pose(t).motion.turning[2]; };
    shaft.blocks.resize(static_cast<std::size_t>(grid.blocks()));
    for_blocks(grid, [&](int b) {
      const BlockGeometry<D>& geometry = grid.geometry(b);
      Block& block = shaft.blocks[static_cast<std::size_t>(b)];
      const Vec<D>& h = geometry.spacing;
      Index<D> end = layout.cells;
      for (std::size_t d = 0; d < 2; ++d) ++end[d];
      for_rows<D>(layout, Index<D>{}, end, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          std::array<int, 2> index{};
          for (int d = 0; d < 2; ++d) index[static_cast<std::size_t>(d)] = axis_index<D>(layout, at, d);
          const int layer = D == 3 ? geometry.start[D - 1] + axis_index<D>(layout, at, D - 1) : 0;
          const double radius = radii[static_cast<std::size_t>(layer)];
          if (radius <= 0) continue;
          // Places by the index in the whole grid: blocks agree on their common faces.
          const auto arm = [&](std::size_t d, double beyond) {
            return grid.lower()[d] + (geometry.start[d] + index[d] + beyond) * h[d] - about[d];
          };
          const auto stream = [&](int i, int j) {
            const double x = arm(0, i);
            const double y = arm(1, j);
            return 0.5 * std::min(x * x + y * y, radius * radius);
          };
          const double corner = stream(0, 0);
          const double along_x = -(stream(0, 1) - corner) / h[1];  // through the low face across x
          const double along_y = (stream(1, 0) - corner) / h[0];
          const bool inside_x = index[0] < layout.cells[0];
          const bool inside_y = index[1] < layout.cells[1];
          if (inside_y && along_x != 0) block.faces[0].push_back({at, along_x});
          if (inside_x && along_y != 0) block.faces[1].push_back({at, along_y});
          if (!inside_x || !inside_y) continue;
          const Vec<2> mean{0.5 * (along_x - (stream(1, 1) - stream(1, 0)) / h[1]),
                            0.5 * (along_y + (stream(1, 1) - stream(0, 1)) / h[0])};
          const double x = arm(0, 0.5);
          const double y = arm(1, 0.5);
          const double square = x * x + y * y;
          // On the axis itself the frame's flow says nothing.
          const double share = square > 0.01 * h[0] * h[1] ? (mean[1] * x - mean[0] * y) / square : 1.0;
          if (share > 0) block.cells.push_back({at, share});
        }
      });
    });
  }
  if (none()) return;
  for (std::size_t d = 0; d < 2; ++d) gain_[d] = Cells<D>(grid);
  set_time(0);
}

template <int D>
void TurningFrames<D>::set_time(double time) {
  for (auto& shaft : shafts_) shaft.now = shaft.speed(time);
}

template <int D>
void TurningFrames<D>::keep(const Grid<D>& grid, const CellVectors<D>& u) {
  for (auto& shaft : shafts_)
    for_blocks(grid, [&](int b) {
      Block& block = shaft.blocks[static_cast<std::size_t>(b)];
      for (Cell& cell : block.cells)
        for (std::size_t d = 0; d < 2; ++d) cell.before[d] = u[d].block(b)[cell.at];
    });
}

template <int D>
Faces<D> TurningFrames<D>::seen(const Grid<D>& grid, Faces<D> face_u) const {
  for (const auto& shaft : shafts_)
    for_blocks(grid, [&](int b) {
      for (std::size_t d = 0; d < 2; ++d)
        for (const Face& face : shaft.blocks[static_cast<std::size_t>(b)].faces[d])
          face_u[d].block(b)[face.at] -= shaft.now * face.flow;
    });
  return face_u;
}

template <int D>
void TurningFrames<D>::find_gain(const Grid<D>& grid, const CellVectors<D>& u, const CellVectors<D>& last, double dt) {
  if (none()) return;
  for (auto& component : gain_) std::fill(component.data().begin(), component.data().end(), 0.0);
  for (const auto& shaft : shafts_)
    for_blocks(grid, [&](int b) {
      for (const Cell& cell : shaft.blocks[static_cast<std::size_t>(b)].cells) {
        Vec<2> middle;
        for (std::size_t d = 0; d < 2; ++d)
          middle[d] = 0.5 * (cell.before[d] + u[d].block(b)[cell.at] + dt * last[d].block(b)[cell.at]);
        const double turning = cell.share * shaft.now;
        gain_[0].block(b)[cell.at] += turning * middle[1];
        gain_[1].block(b)[cell.at] -= turning * middle[0];
      }
    });
  fill_halo(grid, gain_, 1, even_vector<D>());
}

template <int D>
void TurningFrames<D>::add_gain(const Grid<D>& grid, const Cells<D>* left_out, Faces<D>& acceleration) const {
  if (none()) return;
  const Layout<D>& layout = grid.layout();
  for (int d = 0; d < 2; ++d) {
    const std::ptrdiff_t s = layout.step[d];
    for_blocks(grid, [&](int b) {
      const double* a = gain(d, b);
      const double* nothing = left_out == nullptr ? nullptr : left_out->block(b);
      double* face = acceleration[d].block(b);
      for_rows<D>(layout, Index<D>{}, faces_end<D>(layout, d), [&](std::ptrdiff_t o, int n) {
        if (nothing == nullptr) {
#pragma omp simd
          for (std::ptrdiff_t at = o; at < o + n; ++at) face[at] += 0.5 * (a[at] + a[at - s]);
          return;
        }
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          const double low = 1 - nothing[at - s];
          const double high = 1 - nothing[at];
          if (low + high > 0) face[at] += (low * a[at - s] + high * a[at]) / (low + high);
        }
      });
    });
  }
}

template <int D>
FaceGain TurningFrames<D>::on_faces() const {
  if (none()) return {};
  return [this](int axis, int block, std::ptrdiff_t at) {
    const double* a = gain(axis, block);
    return a == nullptr ? 0.0 : 0.5 * (a[at] + a[at - gain_[0].layout().step[static_cast<std::size_t>(axis)]]);
  };
}

template class TurningFrames<2>;
template class TurningFrames<3>;

}  // namespace wavy
