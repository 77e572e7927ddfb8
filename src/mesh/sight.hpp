// What cells see of each other past walls that fill no cell: thinner than one, or lying in two cut ones.
#pragma once

#include "mesh/open_space.hpp"

namespace wavy {

/// Knows the faces that are closed between two open cells. Stencils must not look across them: the fluids on their two
/// sides have nothing to do with each other.
template <int D>
class Sight {
 public:
  Sight(const Grid<D>& grid, const OpenSpace<D>& space);

  /// Every cell sees its neighbours.
  [[nodiscard]] bool everywhere() const { return parted_[0].data().empty(); }
  /// Whether the low face of a cell parts it from the one below; halo of `pad` cells.
  [[nodiscard]] bool parts(int block, int axis, std::ptrdiff_t at) const {
    return !everywhere() && parted_[static_cast<std::size_t>(axis)].block(block)[at] != 0;
  }
  /// Whether the cell at `shift` from one, at most `pad` away along each axis, is seen from it: there is a way along
  /// the axes through faces that part nothing, of which every step leads nearer.
  [[nodiscard]] bool reaches(const Layout<D>& layout, int block, std::ptrdiff_t from, const Index<D>& shift) const;

 private:
  std::array<Field<unsigned char, D>, D> parted_;
};

}  // namespace wavy
