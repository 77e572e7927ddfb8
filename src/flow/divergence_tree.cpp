#include "flow/divergence_tree.hpp"

#include <algorithm>
#include <cstddef>

namespace wavy {

template <int D>
DivergenceTree<D>::DivergenceTree(const Grid<D>& grid, const OpenSpace<D>& space, const Boundary<D>& boundary) {
  const Layout<D>& layout = grid.layout();
  const CellMap<D> map(grid);
  const auto open = [&](int block, std::ptrdiff_t at) { return open_share(space, block, at) > 0; };
  const auto area = [&](int block, int axis, std::ptrdiff_t face) {
    return space.is_uncut(block) ? 1.0 : space.area()[axis].block(block)[face];
  };
  std::vector<std::vector<char>> reached(static_cast<std::size_t>(grid.blocks()), std::vector<char>(layout.size, 0));
  const auto mark = [&](int block, std::ptrdiff_t at) -> char& {
    return reached[static_cast<std::size_t>(block)][static_cast<std::size_t>(at + layout.first)];
  };
  std::vector<Link> from_root;
  std::vector<Index<D>> cells;  // of the links
  const auto index_of = [&](int block, std::ptrdiff_t at) {
    Index<D> cell = grid.geometry(block).start;
    for (int d = 0; d < D; ++d) cell[d] += axis_index<D>(layout, at, d);
    return cell;
  };
  const auto take = [&](const Link& link) {
    if (mark(link.block, link.at) != 0) return;
    mark(link.block, link.at) = 1;
    from_root.push_back(link);
    cells.push_back(index_of(link.block, link.at));
  };
  if (boundary.holds_pressure())
    for (int axis = 0; axis < D; ++axis)
      for (const auto& face : boundary.faces(axis)) {
        const auto& opening = boundary.openings()[face.opening];
        if (opening.pressure && !opening.flow)
          take({face.block, face.inside, axis, opening.side == 1, -1, face.face, 0});
      }
  // Wide faces first: through a narrow one, little volume is much speed.
  for (const double least : {0.25, 0.0}) {
    std::size_t next = 0;
    do {
      for (; next < from_root.size(); ++next) {
        const Link parent = from_root[next];
        const Index<D> cell = cells[next];
        for (int d = 0; d < D; ++d)
          for (const bool above : {false, true}) {
            const auto beside = grid.beyond(cell, d, above ? 1 : 0);
            if (!beside) continue;
            const std::ptrdiff_t face = parent.at + (above ? layout.step[d] : 0);
            if (area(parent.block, d, face) <= least) continue;
            const CellPlace child = map(*beside);
            if (!open(child.block, child.at)) continue;
            const bool within =
                child.block == parent.block && child.at == parent.at + (above ? 1 : -1) * layout.step[d];
            const bool turned = !above && grid.turned_below(d, cell[d]);
            const bool upwards = !above && !turned;
            const int own_axis = turned && grid.turn() == Turn::quarter ? 1 - d : d;
            take({child.block, child.at, own_axis, upwards, within ? -1 : parent.block,
                  child.at + (upwards ? layout.step[d] : 0), d, face, turned});
          }
      }
      if (!from_root.empty()) break;
      // A closed vessel: its first open cell is the root.
      for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t at, const Index<D>&) {
        if (from_root.empty() && open(b, at)) take({b, at, -1, false, -1, 0, 0});
      });
    } while (!from_root.empty());
  }
  from_leaves_.assign(from_root.rbegin(), from_root.rend());
}

template <int D>
void DivergenceTree<D>::apply(const Grid<D>& grid, Faces<D>& face_u, const Cells<D>* source) const {
  const Layout<D>& layout = grid.layout();
  for (const Link& link : from_leaves_) {
    if (link.axis < 0) continue;
    const Vec<D>& h = grid.geometry(link.block).spacing;
    double left = source == nullptr ? 0.0 : -source->block(link.block)[link.at];
    for (int d = 0; d < D; ++d) {
      const double* face = face_u[d].block(link.block) + link.at;
      left += (face[layout.step[d]] - face[0]) / h[d];
    }
    const auto axis = static_cast<std::size_t>(link.axis);
    double& face = face_u[axis].block(link.block)[link.face];
    face += (link.upwards ? -left : left) * h[axis];
    if (link.twin >= 0)
      face_u[static_cast<std::size_t>(link.twin_axis)].block(link.twin)[link.twin_face] = link.turned ? -face : face;
  }
}

template class DivergenceTree<2>;
template class DivergenceTree<3>;

}  // namespace wavy
