#include "flow/wall_gradients.hpp"

#include <algorithm>
#include <cmath>

namespace wavy {
namespace {

/// A way this short is none: it leads to a cell of the same group [cells^2].
constexpr double nowhere = 1e-6;

template <int D>
double in_cells(const Vec<D>& way, const Vec<D>& h) {
  double square = 0;
  for (std::size_t d = 0; d < D; ++d) square += std::pow(way[d] / h[d], 2);
  return square;
}

/// Without pivots: the matrix is symmetric and positive.
template <int D>
void eliminate(std::array<Vec<D>, D>& normal) {
  double trace = 0;
  for (std::size_t d = 0; d < D; ++d) trace += normal[d][d];
  if (!(trace > 0)) return;
  for (std::size_t d = 0; d < D; ++d) normal[d][d] += 1e-3 * trace;  // where all neighbours lie in a row
  for (std::size_t k = 0; k < D; ++k)
    for (std::size_t r = k + 1; r < D; ++r) {
      const double factor = normal[r][k] / normal[k][k];
      for (std::size_t e = k; e < D; ++e) normal[r][e] -= factor * normal[k][e];
      normal[r][k] = factor;
    }
}

}  // namespace

template <int D>
WallGradients<D>::WallGradients(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds,
                                const WallVelocity<D>& walls, const WallElements<D>& elements)
    : space_(space), walls_(walls), sight_(grid, space), known_(grid), piece_of_(grid) {
  for (auto& component : middle_) component = Cells<D>(grid);
  find_known(grid, kinds);
  find_pieces(grid);
  find_walls(grid, elements);
  for (Piece& piece : pieces_) prepare(grid, piece);
}

template <int D>
void WallGradients<D>::find_known(const Grid<D>& grid, const WallKinds<D>& kinds) {
  HaloRules<D> rules = all_walls<D>(Mirror::even);
  for (std::size_t d = 0; d < D; ++d)
    for (std::size_t side = 0; side < 2; ++side)
      if (kinds[d][side] == Wall::no_slip) rules.walls[d][side] = Mirror::odd;
  Cells<D> open = space_.volume();
  fill_halo(grid, open, 1, rules);
  for (std::size_t i = 0; i < open.data().size(); ++i) known_.data()[i] = open.data()[i] > 0 ? 1 : 0;
}

/// All cells with walls, and groups, with their middles.
template <int D>
void WallGradients<D>::find_pieces(const Grid<D>& grid) {
  Cells<D> number(grid);
  const auto tell = [&](const CellPlace& place, const Vec<D>& middle) {
    number.block(place.block)[place.at] = static_cast<double>(pieces_.size());
    for (int d = 0; d < D; ++d) middle_[d].block(place.block)[place.at] = middle[d];
  };
  const auto middle_of = [&](const WallCell<D>& wall) {
    Vec<D> result = wall.middle;
    for (double& c : result) c -= 0.5;
    return result;
  };
  for (const auto& group : space_.groups()) {
    // A group's middle stands with those of its cells that have a wall.
    const WallCell<D>* known = nullptr;
    Vec<D> from{};
    for (const auto& place : group)
      if (const auto* wall = space_.wall_in(place.block, place.at); wall != nullptr && known == nullptr) {
        known = wall;
        from = cell_middle<D>(grid, place.block, place.at);
      }
    if (known == nullptr) continue;
    pieces_.emplace_back().cells = group;
    for (const auto& place : group) {
      const Vec<D> own = cell_middle<D>(grid, place.block, place.at);
      Vec<D> middle = middle_of(*known);
      for (int d = 0; d < D; ++d) {
        double apart = from[d] - own[d];
        const double whole = grid.upper()[d] - grid.lower()[d];
        if (grid.periodic()[static_cast<std::size_t>(d)]) apart -= whole * std::round(apart / whole);
        middle[d] += apart / grid.spacing()[d];
      }
      tell(place, middle);
    }
  }
  for (int b = 0; b < grid.blocks(); ++b) {
    if (space_.is_uncut(b)) continue;
    for (const auto& wall : space_.wall_cells(b)) {
      if (space_.grouped().block(b)[wall.at] != 0) continue;
      pieces_.emplace_back().cells = {{b, wall.at}};
      tell({b, wall.at}, middle_of(wall));
    }
  }
  fill_halo(grid, number, 1, all_walls<D>(Mirror::even));
  fill_halo(grid, middle_, 1, even_vector<D>());
  for (std::size_t i = 0; i < number.data().size(); ++i) piece_of_.data()[i] = static_cast<int>(number.data()[i]);
}

/// Those that hold the fluid of each piece.
template <int D>
void WallGradients<D>::find_walls(const Grid<D>& grid, const WallElements<D>& elements) {
  for (const auto& own : elements)
    for (const auto& element : own) {
      if (!tells(element.block, element.at) || !holds(element)) continue;
      KnownWall wall{.element = &element};
      for (int d = 0; d < D; ++d)
        wall.way[d] =
            element.place[d] - element.middle[d] - middle_[d].block(element.block)[element.at] * grid.spacing()[d];
      wall.square = in_cells<D>(wall.way, grid.spacing());
      if (wall.square > nowhere) pieces_[piece_of(element.block, element.at)].walls.push_back(wall);
    }
}

/// What does not change from step to step.
template <int D>
void WallGradients<D>::prepare(const Grid<D>& grid, Piece& piece) const {
  const Layout<D>& layout = grid.layout();
  const Vec<D>& h = grid.spacing();
  Matrix& without = piece.eliminations[0];
  Matrix& with = piece.eliminations[1];
  const auto add = [](const auto& one, Matrix& normal) {
    for (std::size_t d = 0; d < D; ++d)
      for (std::size_t e = 0; e < D; ++e) normal[d][e] += one.way[d] * one.way[e] / one.square;
  };
  for (const CellPlace& place : piece.cells)
    for_shifts<D>(1, [&](const Index<D>& shift, int) {
      const std::ptrdiff_t there = place.at + layout.offset(shift);
      if (known_.block(place.block)[there] == 0 || !sight_.reaches(layout, place.block, place.at, shift)) return;
      Neighbour one{.place = {place.block, there}};
      for (int d = 0; d < D; ++d) {
        const double* middle = middle_[d].block(place.block);
        one.way[d] = (shift[d] + middle[there] - middle[place.at]) * h[d];
      }
      one.square = in_cells<D>(one.way, h);
      piece.neighbours.push_back(one);
      if (one.square > nowhere) add(one, without);
    });
  with = without;
  for (const KnownWall& wall : piece.walls) add(wall, with);
  eliminate<D>(without);
  eliminate<D>(with);
}

template <int D>
std::array<typename WallGradients<D>::Fit, D> WallGradients<D>::fit(const Piece& piece, const CellVectors<D>& u,
                                                                    bool with_walls) const {
  std::array<Fit, D> found;
  double room = 0;
  for (const auto& [b, at] : piece.cells) {
    const double own = space_.volume().block(b)[at];
    room += own;
    for (std::size_t c = 0; c < D; ++c) found[c].mean += own * u[c].block(b)[at];
  }
  for (Fit& of : found) of.mean /= room;
  const Matrix& normal = piece.eliminations[with_walls ? 1 : 0];
  if (normal[0][0] == 0) return found;
  const auto add = [&](const auto& one, const Vec<D>& values) {
    for (std::size_t c = 0; c < D; ++c)
      for (std::size_t d = 0; d < D; ++d) found[c].gradient[d] += one.way[d] * (values[c] - found[c].mean) / one.square;
  };
  for (const Neighbour& one : piece.neighbours) {
    if (one.square <= nowhere) continue;
    Vec<D> values;
    for (std::size_t c = 0; c < D; ++c) {
      values[c] = u[c].block(one.place.block)[one.place.at];
      found[c].least = std::min(found[c].least, values[c]);
      found[c].most = std::max(found[c].most, values[c]);
    }
    add(one, values);
  }
  if (with_walls)
    for (const KnownWall& wall : piece.walls) add(wall, walls_.at_place(*wall.element));
  for (auto& [mean, least, most, gradient] : found) {
    for (std::size_t k = 0; k < D; ++k)
      for (std::size_t r = k + 1; r < D; ++r) gradient[r] -= normal[r][k] * gradient[k];
    for (std::size_t k = D; k-- > 0;) {
      for (std::size_t e = k + 1; e < D; ++e) gradient[k] -= normal[k][e] * gradient[e];
      gradient[k] /= normal[k][k];
    }
  }
  return found;
}

template class WallGradients<2>;
template class WallGradients<3>;

}  // namespace wavy
