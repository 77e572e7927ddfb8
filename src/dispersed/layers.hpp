// Layers: where one phase lies over another with a surface between them, not mixed with it.
#pragma once

#include <type_traits>
#include <vector>

#include "dispersed/model.hpp"
#include "mesh/sight.hpp"

namespace wavy::dispersed {

/// Finds the cells beside the surfaces of layers, and where in them the surfaces stand.
///
/// A cell is beside a surface where a fraction changes by more than half over four cells in a row, of which it is one
/// of the middle two. There the place at which gravity acts on the change of density is that of a plane across G which
/// leaves the right volume below it: all places along a level surface are then the same to round-off, and a liquid at
/// rest stays at rest however it lies to the grid. Cells behind a wall, however thin, have no say.
template <int D>
class Layers {
 public:
  Layers(const Grid<D>& grid, const OpenSpace<D>& space, const Sight<D>& sight, std::size_t phases);

  /// Reads a(3).
  void update(const Grid<D>& grid, const State<D>& state, const std::type_identity_t<Vec<D>>& G);
  /// 1 in cells beside a surface (one layer of the halo too), else 0.
  [[nodiscard]] const Cells<D>& beside() const { return beside_; }
  [[nodiscard]] bool any() const { return any_; }
  /// G.x at which the change of density between two cells acts, of the k-th phase and all denser ones against the rest:
  /// of the surface if one of the cells holds it, else of the middle of the face.
  [[nodiscard]] double place(std::size_t k, int block, std::ptrdiff_t low, std::ptrdiff_t high, double middle) const {
    const double* weight = weight_[k].block(block);
    const double sum = weight[low] + weight[high];
    if (sum < least_weight) return middle;
    const double* place = place_[k].block(block);
    return (weight[low] * place[low] + weight[high] * place[high]) / sum;
  }

  /// Share of a face of a cell up to which each phase and all denser ones stand, the surfaces being level: 0, then
  /// phase by phase, 1 at the end. `middle`: of the face [m].
  void stand_on_face(const Grid<D>& grid, const State<D>& state, int block, std::ptrdiff_t cell, int axis,
                     const Vec<D>& middle, std::array<double, most_phases + 1>& up_to) const;

 private:
  static constexpr int reach = 2;  ///< cells from which walls know of a surface
  static constexpr double least_weight = 1e-14;
  /// Wholly open.
  [[nodiscard]] bool is_clear(int block, std::ptrdiff_t at) const {
    constexpr double hair = 1e-12;
    return open_share(space_, block, at) > 1 - hair;
  }
  [[nodiscard]] bool changes_at(const Layout<D>& layout, int block, std::ptrdiff_t at, int axis, const double* a) const;
  void find_places(const Grid<D>& grid, const State<D>& state, const Vec<D>& G);
  void mark_walls(const Grid<D>& grid);
  void carry_to_walls(const Grid<D>& grid, const State<D>& state);

  const OpenSpace<D>& space_;
  const Sight<D>& sight_;
  Vec<D> G_{};
  Cells<D> beside_;
  std::vector<Cells<D>> place_;   // [m2/s2]
  std::vector<Cells<D>> weight_;  // c (1 - c), c the share of these phases; 0 where no surface is
  bool any_ = false;
};

}  // namespace wavy::dispersed
