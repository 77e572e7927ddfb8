#include "mesh/sight.hpp"

namespace wavy {

template <int D>
Sight<D>::Sight(const Grid<D>& grid, const OpenSpace<D>& space) {
  if (space.is_uncut()) return;
  const Layout<D>& layout = grid.layout();
  std::array<Field<unsigned char, D>, D> parted;
  Index<D> lo;
  Index<D> hi = layout.cells;
  lo.fill(1 - pad);
  for (int& end : hi) end += pad;
  bool any = false;
  for (int d = 0; d < D; ++d) {
    parted[static_cast<std::size_t>(d)] = Field<unsigned char, D>(grid);
    for (int b = 0; b < grid.blocks(); ++b) {
      if (space.is_uncut(b)) continue;
      const double* volume = space.volume().block(b);
      const double* area = space.area()[d].block(b);
      unsigned char* own = parted[static_cast<std::size_t>(d)].block(b);
      for_rows<D>(layout, lo, hi, [&](std::ptrdiff_t o, int n) {
        for (std::ptrdiff_t at = o; at < o + n; ++at) {
          if (area[at] != 0 || volume[at] == 0 || volume[at - layout.step[d]] == 0) continue;
          own[at] = 1;
          any = true;
        }
      });
    }
  }
  if (any) parted_ = std::move(parted);
}

template <int D>
bool Sight<D>::reaches(const Layout<D>& layout, int block, std::ptrdiff_t from, const Index<D>& shift) const {
  if (everywhere() || shift == Index<D>{}) return true;
  for (int d = 0; d < D; ++d) {
    if (shift[d] == 0) continue;
    const bool upwards = shift[d] > 0;
    const std::ptrdiff_t s = layout.step[d];
    if (parts(block, d, upwards ? from + s : from)) continue;
    Index<D> rest = shift;
    rest[d] -= upwards ? 1 : -1;
    if (reaches(layout, block, upwards ? from + s : from - s, rest)) return true;
  }
  return false;
}

template class Sight<2>;
template class Sight<3>;

}  // namespace wavy
