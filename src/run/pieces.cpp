#include "run/pieces.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <numbers>
#include <numeric>
#include <utility>

#include "geometry/quarter_turn.hpp"

namespace wavy {
namespace {

/// Sets of numbers that are joined two by two.
class Union {
 public:
  explicit Union(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), std::size_t{0}); }
  std::size_t root(std::size_t n) {
    while (parent_[n] != n) n = parent_[n] = parent_[parent_[n]];
    return n;
  }
  /// The smaller number stands for both.
  void join(std::size_t a, std::size_t b) {
    a = root(a);
    b = root(b);
    parent_[std::max(a, b)] = std::min(a, b);
  }

 private:
  std::vector<std::size_t> parent_;
};

/// A cell that holds some of the phase.
template <int D>
struct Cell {
  Index<D> index{};
  int block = 0;
  std::ptrdiff_t at = 0;
  double share = 0;   ///< of its open part that the phase fills
  double volume = 0;  ///< of the phase [m3], of the whole vessel
};

/// The cells of a phase and which of them share open faces.
template <int D>
class PhaseCells {
 public:
  PhaseCells(const VesselModel<D>& model, const Setup<D>& setup, int phase) : model_(model) {
    const Grid<D>& grid = model.grid();
    std::size_t count = 1;
    for (int d = 0; d < D; ++d) count *= static_cast<std::size_t>(grid.cells()[d]);
    number_.assign(count, none);
    for_cells_in_order<D>(grid, [&](int b, std::ptrdiff_t o, const Index<D>& index) {
      const double F = model.sharp().state().F.block(b)[o];
      const double share = phase == 0 ? F : 1 - F;
      const double open = OpenVolumes<D>(model.space(), b)[o];
      if (!(share > 0) || open == 0) return;
      number_[linear(index)] = cells_.size();
      cells_.push_back({index, b, o, share, share * open * grid.cell_volume() * setup.thickness});
    });
  }

  [[nodiscard]] const std::vector<Cell<D>>& cells() const { return cells_; }

  /// fn(number) of the cell beyond the face on one side, where both hold some of the phase and the face is open.
  template <class Fn>
  void beyond(std::size_t n, int axis, int side, Fn&& fn) const {
    const Grid<D>& grid = model_.grid();
    const Cell<D>& cell = cells_[n];
    const auto next = grid.beyond(cell.index, axis, side);
    if (!next) return;
    const std::size_t other = number_[linear(*next)];
    if (other == none) return;
    const std::ptrdiff_t face =
        cell.at + (side == 0 ? 0 : grid.layout().step[static_cast<std::size_t>(axis)]);  // the low face of a cell
    if (!model_.space().is_uncut() && model_.space().area()[axis].block(cell.block)[face] == 0) return;
    fn(other);
  }
  /// The same for the cells above, along every axis, and for those beyond ends that are turned: called for all cells,
  /// it meets all neighbours.
  template <class Fn>
  void above(std::size_t n, Fn&& fn) const {
    for (int d = 0; d < D; ++d) {
      beyond(n, d, 1, fn);
      if (quarters_beyond(n, d, 0) != 0) beyond(n, d, 0, fn);
    }
  }
  /// By how many quarters of a turn what lies beyond a side is turned.
  [[nodiscard]] int quarters_beyond(std::size_t n, int axis, int side) const {
    if (side != 0 || !model_.grid().turned_below(axis, cells_[n].index[axis])) return 0;
    return model_.grid().turn() == Turn::half ? 2 : axis == 0 ? 1 : 3;
  }

 private:
  static constexpr std::size_t none = static_cast<std::size_t>(-1);
  [[nodiscard]] std::size_t linear(const Index<D>& index) const {
    std::size_t n = 0;
    for (int d = D - 1; d >= 0; --d)
      n = n * static_cast<std::size_t>(model_.grid().cells()[d]) + static_cast<std::size_t>(index[d]);
    return n;
  }

  VesselModel<D> model_;
  std::vector<Cell<D>> cells_;
  std::vector<std::size_t> number_;  // of each cell of the grid, in cells_
};

/// The piece of every cell, by the number of its first cell.
template <int D>
std::vector<std::size_t> pieces_of(const PhaseCells<D>& phase) {
  constexpr auto none = static_cast<std::size_t>(-1);
  const auto& cells = phase.cells();
  Union sets(cells.size());
  const auto is_core = [&](std::size_t n) { return cells[n].share >= 0.5; };
  for (std::size_t n = 0; n < cells.size(); ++n)
    phase.above(n, [&](std::size_t other) {
      if (is_core(n) && is_core(other)) sets.join(n, other);
    });
  std::vector<std::size_t> piece(cells.size(), none);
  std::vector<std::size_t> front;
  for (std::size_t n = 0; n < cells.size(); ++n)
    if (is_core(n)) {
      piece[n] = sets.root(n);
      front.push_back(n);
    }
  // Outwards in layers, each cell with that neighbour of the last layer which is the fullest.
  while (!front.empty()) {
    std::vector<std::pair<std::size_t, std::size_t>> reached;  // a cell and its neighbour
    for (const std::size_t n : front)
      for (int d = 0; d < D; ++d)
        for (const int side : {0, 1})
          phase.beyond(n, d, side, [&](std::size_t other) {
            if (piece[other] == none) reached.emplace_back(other, n);
          });
    std::ranges::sort(reached, [&](const auto& a, const auto& b) {
      return std::pair{a.first, -cells[a.second].share} < std::pair{b.first, -cells[b.second].share};
    });
    front.clear();
    for (const auto& [cell, from] : reached)
      if (piece[cell] == none) {
        piece[cell] = piece[from];
        front.push_back(cell);
      }
  }
  // What is left touches nothing but its like.
  for (std::size_t n = 0; n < cells.size(); ++n)
    if (piece[n] == none)
      phase.above(n, [&](std::size_t other) {
        if (piece[other] == none) sets.join(n, other);
      });
  for (std::size_t n = 0; n < cells.size(); ++n)
    if (piece[n] == none) piece[n] = sets.root(n);
  return piece;
}

/// Where the cells of a piece stand in a vessel of which a part is computed and the rest the same turned, when the
/// piece's first cell stands in that part; and which of the images of a piece are one.
struct TurnedCells {
  std::vector<int> quarters;   // by cell: of a turn
  std::vector<int> own_image;  // by number of the piece: it is the same again after so many quarters
};
template <int D>
TurnedCells turned_cells(const PhaseCells<D>& phase, const std::vector<std::size_t>& piece) {
  constexpr int whole = 4;
  TurnedCells result{std::vector<int>(piece.size()), std::vector<int>(piece.size(), whole)};
  std::vector<bool> known(piece.size());
  std::vector<std::size_t> ahead;
  for (std::size_t first = 0; first < piece.size(); ++first) {
    if (known[first]) continue;
    known[first] = true;
    ahead.assign(1, first);
    while (!ahead.empty()) {
      const std::size_t n = ahead.back();
      ahead.pop_back();
      for (int d = 0; d < D; ++d)
        for (const int side : {0, 1})
          phase.beyond(n, d, side, [&](std::size_t other) {
            if (piece[other] != piece[n]) return;
            const int there = (result.quarters[n] + phase.quarters_beyond(n, d, side)) % whole;
            if (known[other]) {
              int& again = result.own_image[piece[n]];
              again = std::gcd(again, result.quarters[other] - there);
              return;
            }
            known[other] = true;
            result.quarters[other] = there;
            ahead.push_back(other);
          });
    }
  }
  return result;
}

/// What is summed up of a piece.
template <int D>
struct Sums {
  double volume = 0;
  Vec<D> place{};
  std::array<std::array<double, 2>, D> turn{};  // cosine and sine of the place along a periodic axis
  Vec<D> velocity{};
  std::array<bool, 2> on_mirror{};
};

/// How many images a vessel has of what touches no mirror.
template <int D>
int images(const Setup<D>& setup) {
  return static_cast<int>(std::lround(1 / share_of_vessel(setup)));
}

}  // namespace

template <int D>
std::vector<FluidPiece<D>> fluid_pieces(const VesselModel<D>& model, const Setup<D>& setup, int phase) {
  const Grid<D>& grid = model.grid();
  const PhaseCells<D> all(model, setup, phase);
  const std::vector<std::size_t> piece = pieces_of(all);
  const bool sector = setup.symmetry == Symmetry::sector;
  const bool turns = grid.turn() != Turn::none;
  const bool by_mirrors = images(setup) > 1 && !turns;
  const TurnedCells images_of = turns ? turned_cells(all, piece) : TurnedCells{};
  const Vec<2> axis = grid.turning_axis();
  std::vector<Sums<D>> sums(piece.size());
  for (std::size_t n = 0; n < piece.size(); ++n) {
    const Cell<D>& cell = all.cells()[n];
    Sums<D>& sum = sums[piece[n]];
    Vec<D> place = cell_middle<D>(grid, cell.block, cell.at);
    const int quarters = turns ? images_of.quarters[n] : 0;
    Vec<D> velocity;
    for (std::size_t d = 0; d < D; ++d) velocity[d] = model.sharp().state().u[d].block(cell.block)[cell.at];
    if (quarters != 0) {
      for (std::size_t d = 0; d < 2; ++d) place[d] -= axis[d];
      for (int k = 0; k < quarters; ++k) {
        velocity = quarter_turned(velocity);
        place = quarter_turned(place);
      }
      for (std::size_t d = 0; d < 2; ++d) place[d] += axis[d];
    }
    sum.volume += cell.volume;
    for (int d = 0; d < D; ++d) {
      const double angle = 2 * std::numbers::pi * (place[d] - grid.lower()[d]) / (grid.upper()[d] - grid.lower()[d]);
      sum.place[d] += cell.volume * place[d];
      sum.turn[static_cast<std::size_t>(d)][0] += cell.volume * std::cos(angle);
      sum.turn[static_cast<std::size_t>(d)][1] += cell.volume * std::sin(angle);
      sum.velocity[d] += cell.volume * velocity[d];
    }
    if (!by_mirrors || cell.share < 0.5) continue;
    if (sector) {
      if (cell.index[1] == 0) sum.on_mirror[0] = true;
      if (beyond_sector<D>(setup, place) > -grid.spacing()[0]) sum.on_mirror[1] = true;
    } else {
      for (int d = 0; d < 2 && d < D; ++d)
        if (mirrored(setup, d) && cell.index[d] == 0) sum.on_mirror[static_cast<std::size_t>(d)] = true;
    }
  }
  std::vector<FluidPiece<D>> result;
  for (std::size_t n = 0; n < sums.size(); ++n) {
    const Sums<D>& sum = sums[n];
    if (!(sum.volume > 0)) continue;
    const int own_image = turns ? images_of.own_image[n] : 4;
    const bool round_axis = own_image < 4;
    FluidPiece<D> one;
    const bool on_both = sum.on_mirror[0] && sum.on_mirror[1];
    one.copies = images(setup);
    if (sector && on_both)
      one.copies = 1;  // it meets all its images round the axis
    else if (round_axis)
      one.copies = one.copies * own_image / 4;
    else
      for (const bool on : sum.on_mirror)
        if (on) one.copies = std::max(1, one.copies / 2);
    one.volume = sum.volume / one.copies;
    for (int d = 0; d < D; ++d) {
      const auto& [cosine, sine] = sum.turn[static_cast<std::size_t>(d)];
      const double length = grid.upper()[d] - grid.lower()[d];
      double turned = std::atan2(sine, cosine) / (2 * std::numbers::pi);
      if (turned < 0) turned += 1;
      one.middle[d] = grid.periodic()[d] ? grid.lower()[d] + turned * length : sum.place[d] / sum.volume;
      one.velocity[d] = sum.velocity[d] / sum.volume;
      // The whole of it lies round the axis.
      if (round_axis && d < 2) {
        one.middle[d] = axis[d];
        one.velocity[d] = 0;
      }
      // The whole of it lies across the mirror, as much on either side.
      if (!sector && d < 2 && sum.on_mirror[static_cast<std::size_t>(d)]) {
        one.middle[d] = grid.lower()[d];
        one.velocity[d] = 0;
      }
    }
    result.push_back(one);
  }
  std::ranges::stable_sort(result, std::ranges::greater{}, &FluidPiece<D>::volume);
  return result;
}

template std::vector<FluidPiece<2>> fluid_pieces<2>(const VesselModel<2>&, const Setup<2>&, int);
template std::vector<FluidPiece<3>> fluid_pieces<3>(const VesselModel<3>&, const Setup<3>&, int);

}  // namespace wavy
