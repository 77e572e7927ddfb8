#include "sharp/face_viscosity.hpp"

#include <algorithm>
#include <vector>

#include "sharp/heights.hpp"
#include "sharp/parts.hpp"
#include "sharp/reconstruction.hpp"

namespace wavy::sharp {
namespace {

constexpr double explicit_at_interface = 0.9;

/// The interface in a cell as the stress on its faces sees it.
template <int D>
struct Section {
  std::ptrdiff_t at = 0;
  Vec<D> normal{};                            ///< physical, of length 1
  std::array<std::array<double, 2>, D> half;  ///< [axis][lower, upper]: liquid's share of that half of the cell
};

template <int D>
Section<D> section_of(const double* F, std::ptrdiff_t at, const Layout<D>& layout, const Vec<D>& h) {
  Section<D> result;
  result.at = at;
  const Vec<D> out = direction_out<D>(F + at, layout.step);
  double square = 0;
  for (std::size_t d = 0; d < D; ++d) {
    result.normal[d] = out[d] / h[d];
    square += result.normal[d] * result.normal[d];
  }
  if (square <= 0) {
    for (auto& axis : result.half) axis = {F[at], F[at]};
    return result;
  }
  for (double& c : result.normal) c /= std::sqrt(square);
  const Plane<D> plane = plane_through<D>(out, F[at]);
  for (std::size_t d = 0; d < D; ++d) {
    const double lower = slab_share<D>(plane, static_cast<int>(d), 0, 0.5);
    result.half[d] = {2 * lower, 2 * (F[at] - lower)};
  }
  return result;
}

/// How much the stress tau_cd acts across the interface: 1 where it is the shear along an interface of this normal, 0
/// where it is a stress within it or upon it. In 2-D the square of the cosine of twice the angle (shear) or of its
/// sine.
template <int D>
double share_across(const Vec<D>& normal, std::size_t c, std::size_t d) {
  const double a = normal[c] * normal[c];
  const double b = normal[d] * normal[d];
  return std::clamp(c == d ? 4 * a * (1 - a) : a + b - 4 * a * b, 0.0, 1.0);
}

/// The faces of one block.
template <int D>
class BlockViscosity {
 public:
  BlockViscosity(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings,
                 const Cells<D>& extended_fraction, const CellVectors<D>& velocity, double dt, int block,
                 std::array<CellVectors<D>, D>& faces)
      : space_(space),
        settings_(settings),
        layout_(grid.layout()),
        h_(grid.geometry(block).spacing),
        dt_(dt),
        b_(block),
        F_(extended_fraction.block(block)),
        faces_(faces),
        constant_{settings.liquid.viscosity, settings.gas.viscosity},
        by_rate_(depends_on_rate(settings)) {
    for (std::size_t c = 0; c < D; ++c) u_[c] = velocity[c].block(block);
    if (space.is_uncut(block)) return;
    const auto& conductances = settings.solid_walls == Wall::slip ? space.area() : space.face_conductance();
    for (std::size_t d = 0; d < D; ++d) conductance_[d] = conductances[d].block(block);
  }

  /// As set_face_viscosities.
  double operator()() {
    constexpr int faces_of_cell = 2 * (D - 1) + 4;  // of a cell, those across the component's own axis counted twice
    const double bulk = set_bulk();
    set_beside_interface();
    return std::max(faces_of_cell * bulk / explicit_in_bulk, strongest_at_interface() / explicit_at_interface);
  }

 private:
  [[nodiscard]] double rate_at(int axis, std::ptrdiff_t at) const {
    if (!space_.axisymmetric()) return shear_rate<D>(u_, layout_, h_, axis, at);
    const double radius = space_.radius_in_cells(b_, layout_, at) * h_[0];
    return shear_rate<D>(u_, layout_, h_, axis, at, &radius);
  }

  /// Away from the interface, where all components see the same; returns the greatest mu dt / (rho h^2).
  double set_bulk() {
    double bulk = 0;
    // Local copies, so that the loops run in vectors.
    const double* F = F_;
    const BothViscosities constant = constant_;
    for (std::size_t d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout_.step[d];
      const double factor = dt_ / (h_[d] * h_[d]);
      const double* conductance = conductance_[d];
      double* first = faces_[d][0].block(b_);
      const int axis = static_cast<int>(d);
      for_open_rows<D>(space_, b_, layout_, Index<D>{}, faces_end<D>(layout_, axis), [&](std::ptrdiff_t o, int n) {
        if (by_rate_) {
          for (std::ptrdiff_t at = o; at < o + n; ++at) {
            const auto mu = viscosities_at(settings_, rate_at(axis, at));
            first[at] = factor * mu.side_by_side(0.5 * (F[at] + F[at - s]));
            bulk = std::max(bulk, first[at] / std::min(density(settings_, F[at]), density(settings_, F[at - s])));
          }
        } else {
#pragma omp simd
          for (int i = 0; i < n; ++i) first[o + i] = factor * constant.side_by_side(0.5 * (F[o + i] + F[o + i - s]));
        }
        if (conductance != nullptr) {
#pragma omp simd
          for (int i = 0; i < n; ++i) first[o + i] *= conductance[o + i];
        }
        for (std::size_t c = 1; c < D; ++c) std::copy_n(first + o, n, faces_[d][c].block(b_) + o);
      });
      if (!by_rate_)
        bulk = std::max(
            {bulk, factor * constant.liquid / settings_.liquid.density, factor * constant.gas / settings_.gas.density});
    }
    return bulk;
  }

  void set_face(std::size_t d, std::ptrdiff_t at, double share, const Vec<D>& normal) {
    const double factor = dt_ / (h_[d] * h_[d]) * (conductance_[d] == nullptr ? 1.0 : conductance_[d][at]);
    const BothViscosities mu = by_rate_ ? viscosities_at(settings_, rate_at(static_cast<int>(d), at)) : constant_;
    const double series = mu.in_series(share);
    const double parallel = mu.side_by_side(share);
    for (std::size_t c = 0; c < D; ++c) {
      const double across = share_across<D>(normal, c, d);
      faces_[d][c].block(b_)[at] = factor * (across * series + (1 - across) * parallel);
    }
    for (const std::ptrdiff_t cell : {at, at - layout_.step[d]}) {
      const int place = axis_index<D>(layout_, cell, static_cast<int>(d));
      if (place >= 0 && place < layout_.cells[d]) beside_.push_back(cell);
    }
  }

  /// The sections of the block's cells and of those beside it; `of`: number of the section in a cell, else -1.
  void find_sections(std::vector<Section<D>>& sections, int* of) const {
    sections.clear();
    const double* F = F_;
    const CellRange<D> range = with_layers(layout_, 1);
    for_open_rows<D>(space_, b_, layout_, range.lo, range.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at) {
        if (!is_mixed(F[at])) continue;
        of[at] = static_cast<int>(sections.size());
        sections.push_back(section_of<D>(F, at, layout_, h_));
      }
    });
  }

  void set_beside_interface() {
    thread_local std::vector<Section<D>> sections;
    thread_local std::vector<int> number;
    number.resize(layout_.size, -1);
    int* of = number.data() + layout_.first;
    find_sections(sections, of);
    beside_.clear();
    const double* F = F_;
    for (std::size_t d = 0; d < D; ++d) {
      const std::ptrdiff_t s = layout_.step[d];
      const auto set = [&](std::ptrdiff_t at) {
        Vec<D> normal{};
        double share = 0;
        const auto add = [&](std::ptrdiff_t cell, std::size_t half) {
          if (of[cell] < 0) {
            share += 0.5 * F[cell];
            return;
          }
          const auto& section = sections[static_cast<std::size_t>(of[cell])];
          share += 0.5 * section.half[d][half];
          for (std::size_t e = 0; e < D; ++e) normal[e] += section.normal[e];
        };
        add(at - s, 1);
        add(at, 0);
        const double length = std::sqrt(dot<D>(normal, normal));
        if (length > 0)
          for (double& c : normal) c /= length;
        else
          normal[d] = 1;  // the face itself is the interface
        set_face(d, at, share, normal);
      };
      for_open_rows<D>(space_, b_, layout_, Index<D>{}, faces_end<D>(layout_, static_cast<int>(d)),
                       [&](std::ptrdiff_t o, int n) {
                         for (std::ptrdiff_t at = o; at < o + n; ++at)
                           if (of[at] >= 0 || of[at - s] >= 0 || std::abs(F[at] - F[at - s]) >= 0.5) set(at);
                       });
    }
    for (const auto& section : sections) of[section.at] = -1;
  }

  /// Light cells there feel the other phase's viscosity.
  [[nodiscard]] double strongest_at_interface() const {
    double interface = 0;
    const OpenVolumes<D> open_volumes(space_, b_);
    for (const std::ptrdiff_t at : beside_) {
      const double weight = space_.is_uncut(b_) ? 1.0 : space_.weight(b_, layout_, at);
      const double mass = std::max(open_volumes[at], OpenSpace<D>::small * weight) * density(settings_, F_[at]);
      for (std::size_t c = 0; c < D; ++c) {
        double sum = 0;
        for (std::size_t d = 0; d < D; ++d) {
          const double* face = faces_[d][c].block(b_) + at;
          sum += (d == c ? 2 : 1) * (face[0] + face[layout_.step[d]]);
        }
        interface = std::max(interface, sum / mass);
      }
    }
    return interface;
  }

  static std::vector<std::ptrdiff_t>& of_thread() {
    thread_local std::vector<std::ptrdiff_t> list;
    return list;
  }

  const OpenSpace<D>& space_;
  const Settings<D>& settings_;
  const Layout<D>& layout_;
  const Vec<D>& h_;
  double dt_;
  int b_;
  const double* F_;
  std::array<CellVectors<D>, D>& faces_;
  std::array<const double*, D> u_{};
  std::array<const double*, D> conductance_{};  // null where nothing cuts the block
  BothViscosities constant_;
  bool by_rate_;
  std::vector<std::ptrdiff_t>& beside_ = of_thread();  // cells with a face beside the interface
};

}  // namespace

template <int D>
double set_face_viscosities(const Grid<D>& grid, const OpenSpace<D>& space, const Settings<D>& settings,
                            const Cells<D>& extended_fraction, const CellVectors<D>& velocity, double dt,
                            std::array<CellVectors<D>, D>& faces) {
  return max_blocks(grid, [&](int b) {
    return BlockViscosity<D>(grid, space, settings, extended_fraction, velocity, dt, b, faces)();
  });
}

template double set_face_viscosities<2>(const Grid<2>&, const OpenSpace<2>&, const Settings<2>&, const Cells<2>&,
                                        const CellVectors<2>&, double, std::array<CellVectors<2>, 2>&);
template double set_face_viscosities<3>(const Grid<3>&, const OpenSpace<3>&, const Settings<3>&, const Cells<3>&,
                                        const CellVectors<3>&, double, std::array<CellVectors<3>, 3>&);

}  // namespace wavy::sharp
