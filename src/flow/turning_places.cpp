// Which cells and faces solids that turn touch, and how.
#include "flow/turning_places.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

namespace wavy {
namespace {

constexpr double reach = 1;   // of what solids do, in cells
constexpr double edge = 0.5;  // half the width of their edge, likewise

/// Numbers in a list of what lies at places, by place.
class Numbers {
 public:
  template <class At>
  explicit Numbers(const std::vector<At>& list) {
    for (const At& one : list) numbers_.emplace(one.at, numbers_.size());
  }
  /// Of what lies there; something new at the list's end where there was nothing.
  template <class At>
  std::size_t of(std::ptrdiff_t at, std::vector<At>& list) {
    const auto [found, is_new] = numbers_.emplace(at, list.size());
    if (is_new) list.emplace_back().at = at;
    return found->second;
  }

 private:
  std::unordered_map<std::ptrdiff_t, std::size_t> numbers_;
};

}  // namespace

/// Parts near a block, and which cells of it, with one more layer behind its upper faces, they come near.
template <int D>
struct TurningSolids<D>::Near {
  const Grid<D>& grid;
  int block;
  const std::vector<Placed>& parts;
  double within;  // [m]
  std::vector<std::size_t> here{};
  CellRange<D> range{};

  Near(const Grid<D>& own_grid, int own_block, const std::vector<Placed>& own_parts, double by)
      : grid(own_grid), block(own_block), parts(own_parts), within(by) {
    const Layout<D>& layout = grid.layout();
    const BlockGeometry<D>& geometry = grid.geometry(block);
    range.lo = layout.cells;
    for (std::size_t p = 0; p < parts.size(); ++p) {
      CellRange<D> own;
      bool meets = true;
      for (std::size_t d = 0; d < D; ++d) {
        const double spacing = geometry.spacing[d];
        const double most = layout.cells[d];
        own.lo[d] = static_cast<int>(
            std::clamp(std::floor((parts[p].whole.lower[d] - within - geometry.lower[d]) / spacing), 0.0, most));
        own.hi[d] = static_cast<int>(
            std::clamp(std::ceil((parts[p].whole.upper[d] + within - geometry.lower[d]) / spacing), -1.0, most) + 1);
        meets = meets && own.lo[d] < own.hi[d];
      }
      if (!meets) continue;
      here.push_back(p);
      for (std::size_t d = 0; d < D; ++d) {
        range.lo[d] = std::min(range.lo[d], own.lo[d]);
        range.hi[d] = std::max(range.hi[d], own.hi[d]);
      }
    }
    if (here.empty()) range = {};
  }

  struct Found {
    double distance = std::numeric_limits<double>::infinity();  ///< [m]
    std::size_t part = 0;
  };
  /// The nearest part, if there is one within reach; by its sheets too, or by its solid alone.
  [[nodiscard]] Found at(const Vec<D>& place, bool sheets = false) const {
    Found found;
    for (const std::size_t p : here) {
      const Solid<D>& solid = sheets ? parts[p].whole : parts[p].solid;
      if (square_to_box<D>(place, solid.lower, solid.upper) > within * within) continue;
      const double own = solid.distance(place);
      if (own < found.distance) found = {own, p};
    }
    return found;
  }
  /// Places by the index in the whole grid: blocks agree on their common faces to the last bit. `side`: 0 of a face,
  /// 1/2 of a middle.
  [[nodiscard]] double coordinate(const Index<D>& cell, std::size_t d, double side) const {
    const BlockGeometry<D>& geometry = grid.geometry(block);
    return grid.lower()[d] + (geometry.start[d] + cell[d] + side) * geometry.spacing[d];
  }
  [[nodiscard]] Vec<D> middle(const Index<D>& cell) const {
    Vec<D> place;
    for (std::size_t d = 0; d < D; ++d) place[d] = coordinate(cell, d, 0.5);
    return place;
  }
  /// fn(cell) returns how many cells of the row behind it may be left out.
  template <class Fn>
  void each(Fn&& fn) const {
    const auto row = [&](Index<D> cell) {
      for (cell[0] = range.lo[0]; cell[0] < range.hi[0]; ++cell[0]) cell[0] += fn(cell);
    };
    for (int j = range.lo[1]; j < range.hi[1]; ++j) {
      if constexpr (D == 2)
        row({0, j});
      else
        for (int k = range.lo[2]; k < range.hi[2]; ++k) row({0, j, k});
    }
  }
};

template <int D>
void TurningSolids<D>::find_in_block(const Grid<D>& grid, int block) {
  auto& cells = cells_[static_cast<std::size_t>(block)];
  auto& faces = faces_[static_cast<std::size_t>(block)];
  cells.clear();
  for (auto& own : faces) own.clear();
  const Layout<D>& layout = grid.layout();
  const double h = mean_spacing(grid.geometry(block));
  const bool cut = !space_.is_uncut(block);
  // Distances far away may be too great by a factor of two.
  constexpr double safe = 2;
  const Near near(grid, block, placed_, safe * (reach + 1) * h);
  near.each([&](const Index<D>& cell) {
    const Vec<D> middle = near.middle(cell);
    const auto own = near.at(middle);
    const double distance = own.distance / h;
    if (distance > safe * (reach + 1))
      return std::isinf(distance) ? 1 : static_cast<int>(distance / safe - (reach + 1));  // no nearer on the way
    const std::ptrdiff_t at = layout.offset(cell);
    int outside = 0;  // axes along which it is the layer behind the block
    for (int d = 0; d < D; ++d) outside += cell[d] == layout.cells[d] ? 1 : 0;
    const bool inside = outside == 0 && (!cut || space_.volume().block(block)[at] > 0);
    Cell found;
    found.closed = true;
    for (std::size_t d = 0; d < D; ++d) {
      Vec<D> place = middle;
      place[d] = near.coordinate(cell, d, 1);
      const double above = near.at(place).distance / h;
      place[d] = near.coordinate(cell, d, 0);
      const auto low = near.at(place);
      const double below = low.distance / h;
      const bool counts = outside == 0 || (outside == 1 && cell[d] == layout.cells[d]);
      const double solid = std::clamp(edge - below, 0.0, 1.0);
      if (counts && solid > 0 && (!cut || space_.area()[d].block(block)[at] > 0))
        faces[d].push_back({at, 1 - solid, placed_[low.part].now.at(place)[d], 0, 1, low.part});
      found.normal[d] = std::clamp(above - below, -1.0, 1.0);
      found.closed = found.closed && below <= -edge && above <= -edge;
    }
    if (!inside || distance >= reach) return 0;
    found.at = at;
    found.part = own.part;
    found.distance = distance * h;
    found.solid = std::clamp(edge - distance, 0.0, 1.0);
    found.velocity = placed_[own.part].now.at(middle);
    found.before = placed_[own.part].before.at(middle);
    found.pace = length<D>(found.velocity) / h;
    cells.push_back(found);
    return 0;
  });
}

namespace {

/// Direction away from a body, of length 1; 0 where there is none.
template <int D>
Vec<D> direction_from(const Solid<D>& solid, const Vec<D>& place, double hair) {
  Vec<D> result;
  for (std::size_t d = 0; d < D; ++d) {
    Vec<D> above = place;
    Vec<D> below = place;
    above[d] += hair;
    below[d] -= hair;
    result[d] = solid.distance(above) - solid.distance(below);
  }
  const double steep = length<D>(result);
  for (double& c : result) c = steep > 0 ? c / steep : 0.0;
  return result;
}

/// A way through a thin body: how often it goes in (if it begins within, there too; not where it ends within), and the
/// last place before.
template <int D>
struct Crossing {
  int times = 0;
  Vec<D> before{};
};
template <int D>
Crossing<D> cross_sheet(const Solid<D>& sheet, const Vec<D>& from, const Vec<D>& to, double least) {
  const Vec<D> way = minus<D>(to, from);
  const double extent = length<D>(way);
  bool inside = false;
  Crossing<D> result{.before = from};
  for (double gone = 0;;) {
    const Vec<D> place = along<D>(from, gone / extent, way);
    const double distance = sheet.distance(place);
    if (distance <= 0 && !inside) ++result.times;
    if (distance > 0 && result.times == 0) result.before = place;
    inside = distance <= 0;
    if (gone >= extent) {
      result.times -= inside ? 1 : 0;
      return result;
    }
    gone = std::min(extent, gone + std::max(least, 0.9 * std::abs(distance)));
  }
}

}  // namespace

/// The faces between cells whose middles a sheet parts; at its edges by the share of the ways beside the straight one,
/// shifted along the sheet, that lead through it.
template <int D>
void TurningSolids<D>::find_sheets(const Grid<D>& grid, int block) {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.geometry(block).spacing;
  const double size = grid.smallest_spacing();
  constexpr int ways = D == 3 ? 8 : 16;  // along each axis of a face
  constexpr int count = D == 3 ? ways * ways : ways;
  constexpr double least = 0.005;  // of a cell
  const Near near(grid, block, placed_, 2 * length<D>(h));
  near.each([&](const Index<D>& cell) {
    const Vec<D> middle = near.middle(cell);
    if (near.at(middle, true).distance > 2 * length<D>(h)) return 0;
    const std::ptrdiff_t at = layout.offset(cell);
    int outside = 0;  // axes along which it is the layer behind the block
    for (int d = 0; d < D; ++d) outside += cell[d] == layout.cells[d] ? 1 : 0;
    for (std::size_t d = 0; d < D; ++d) {
      if (outside > 1 || (outside == 1 && cell[d] != layout.cells[d])) continue;
      Vec<D> below = middle;
      below[d] = near.coordinate(cell, d, -0.5);
      for (const std::size_t p : near.here) {
        const auto& sheet = placed_[p].sheet;
        if (!sheet || std::min(sheet->distance(middle), sheet->distance(below)) > length<D>(h)) continue;
        const auto shift = [&](int n) {
          Vec<D> result{};
          for (std::size_t e = 0; e < D; ++e) {
            if (e == d) continue;
            result[e] = ((n % ways + 0.5) / ways - 0.5) * h[e];
            n /= ways;
          }
          return result;
        };
        // Which way the sheet lies, where one of these meets it.
        Vec<D> across{};
        for (int n = -1; n < count && across == Vec<D>{}; ++n) {
          const Vec<D> aside = n < 0 ? Vec<D>{} : shift(n);
          const auto met = cross_sheet<D>(*sheet, along<D>(below, 1, aside), along<D>(middle, 1, aside), least * size);
          if (met.times > 0) across = direction_from<D>(*sheet, met.before, least * size);
        }
        int parted = 0;
        for (int n = 0; n < count && across != Vec<D>{}; ++n) {
          const Vec<D> aside = shift(n);
          const Vec<D> by = along<D>(aside, -dot<D>(aside, across), across);
          parted += cross_sheet<D>(*sheet, along<D>(below, 1, by), along<D>(middle, 1, by), least * size).times % 2;
        }
        if (parted > 0)
          sheets_[static_cast<std::size_t>(block)][d].push_back({at, 1 - static_cast<double>(parted) / count, p});
      }
    }
    return 0;
  });
}

/// What sheets close, among the faces and cells that solids touch.
template <int D>
void TurningSolids<D>::add_sheets(const Grid<D>& grid, int block) {
  const auto& sheets = sheets_[static_cast<std::size_t>(block)];
  if (std::ranges::all_of(sheets, [](const auto& own) { return own.empty(); })) return;
  const Layout<D>& layout = grid.layout();
  auto& cells = cells_[static_cast<std::size_t>(block)];
  const Vec<D>& h = grid.geometry(block).spacing;
  const std::size_t in_solids = cells.size();
  Numbers numbers(cells);
  // The cell above a closed face, or below it.
  const auto touch = [&](std::ptrdiff_t at, const Sheet& sheet, std::size_t axis, bool above) {
    if (!space_.is_uncut(block) && space_.volume().block(block)[at] == 0) return;
    for (std::size_t d = 0; d < D; ++d)
      if (const int i = axis_index<D>(layout, at, static_cast<int>(d)); i < 0 || i >= layout.cells[d]) return;
    const double share = 1 - sheet.open;
    const std::size_t number = numbers.of(at, cells);
    Cell& cell = cells[number];
    cell.parted[axis][above ? 0 : 1] += share;
    if (number < in_solids) return;
    const Vec<D> middle = cell_middle<D>(grid, block, at);
    cell.part = sheet.part;
    cell.distance = 0.5 * h[axis];
    cell.velocity = placed_[sheet.part].now.at(middle);
    cell.before = placed_[sheet.part].before.at(middle);
    cell.normal[axis] = std::clamp(cell.normal[axis] + (above ? share : -share), -1.0, 1.0);
  };
  for (std::size_t d = 0; d < D; ++d) {
    auto& faces = faces_[static_cast<std::size_t>(block)][d];
    Numbers known(faces);
    for (const Sheet& sheet : sheets[d]) {
      if (!space_.is_uncut(block) && space_.area()[d].block(block)[sheet.at] == 0) continue;
      Vec<D> place = cell_middle<D>(grid, block, sheet.at);
      place[d] -= 0.5 * h[d];
      Face& face = faces[known.of(sheet.at, faces)];
      face.seen = std::min(face.seen, sheet.open);
      if (sheet.open < face.open) {
        face.open = sheet.open;
        face.flow = placed_[sheet.part].now.at(place)[d];
        face.part = sheet.part;
      }
      touch(sheet.at, sheet, d, true);
      touch(sheet.at - layout.step[d], sheet, d, false);
    }
  }
}

template <int D>
std::vector<std::pair<std::ptrdiff_t, double>> TurningSolids<D>::distances(const Grid<D>& grid, int block,
                                                                           double within) const {
  std::vector<std::pair<std::ptrdiff_t, double>> result;
  const Near near(grid, block, placed_, within);
  near.each([&](const Index<D>& cell) {
    for (int d = 0; d < D; ++d)
      if (cell[d] == grid.layout().cells[d]) return 0;
    const double distance = near.at(near.middle(cell), true).distance;
    if (distance < within) result.emplace_back(grid.layout().offset(cell), distance);
    return 0;
  });
  return result;
}

template void TurningSolids<2>::find_in_block(const Grid<2>&, int);
template void TurningSolids<3>::find_in_block(const Grid<3>&, int);
template void TurningSolids<2>::find_sheets(const Grid<2>&, int);
template void TurningSolids<3>::find_sheets(const Grid<3>&, int);
template void TurningSolids<2>::add_sheets(const Grid<2>&, int);
template void TurningSolids<3>::add_sheets(const Grid<3>&, int);
template std::vector<std::pair<std::ptrdiff_t, double>> TurningSolids<2>::distances(const Grid<2>&, int, double) const;
template std::vector<std::pair<std::ptrdiff_t, double>> TurningSolids<3>::distances(const Grid<3>&, int, double) const;

}  // namespace wavy
