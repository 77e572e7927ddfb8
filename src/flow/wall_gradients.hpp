// How velocities change in cells beside walls that cut the grid, where differences along its axes know too little.
#pragma once

#include <vector>

#include "flow/wall_elements.hpp"
#include "flow/wall_velocity.hpp"
#include "mesh/grid.hpp"
#include "mesh/open_space.hpp"
#include "mesh/sight.hpp"

namespace wavy {

/// The gradient that fits best (least squares) what is known round each cell with a wall, and round each group of
/// cells, which has one gradient: the velocities in the cells in sight, each at the middle of its room, and, if asked
/// for, those of the walls that hold it, at their places.
template <int D>
class WallGradients {
 public:
  /// What is known beside a piece.
  struct Neighbour {
    CellPlace place;
    Vec<D> way{};       // from the piece's middle to its own [m]
    double square = 0;  // of the way [cells^2]
  };
  struct KnownWall {
    const WallElement<D>* element = nullptr;
    Vec<D> way{};
    double square = 0;
  };
  /// By Gauss: the factors stand below the diagonal. All 0 where nothing is known.
  using Matrix = std::array<Vec<D>, D>;
  /// What goes together: a cell, or a group.
  struct Piece {
    std::vector<CellPlace> cells;
    std::vector<Neighbour> neighbours;
    std::vector<KnownWall> walls;
    std::array<Matrix, 2> eliminations{};  // of the least squares, without and with walls
  };
  /// Of one component of the velocity in a piece.
  struct Fit {
    double mean = 0;       // of its cells, by their room [m/s]
    double least = 1e300;  // of the cells round it [m/s]
    double most = -1e300;
    Vec<D> gradient{};  // [1/s]
  };

  /// All must outlive it. Behind sides of the grid that hold the fluid nothing is known.
  WallGradients(const Grid<D>& grid, const OpenSpace<D>& space, const WallKinds<D>& kinds, const WallVelocity<D>& walls,
                const WallElements<D>& elements);

  [[nodiscard]] const std::vector<Piece>& pieces() const { return pieces_; }
  /// Whether a cell belongs to a piece; halo of one layer.
  [[nodiscard]] bool tells(int block, std::ptrdiff_t at) const { return told_.block(block)[at] != 0; }
  /// Of what each cell belongs to, from its own [cells]; halo of one layer, filled.
  [[nodiscard]] const CellVectors<D>& middle() const { return middle_; }
  /// Of component c, by its values u. Reads u(1), filled.
  [[nodiscard]] Fit fit(const Piece& piece, std::size_t c, const Cells<D>& u, bool with_walls) const;

  /// Keeps `of(number of a piece, component)` in its cells, a gradient [1/s], until the next call; halo of one layer,
  /// whose sides are mirrors by `sides(component)`.
  template <class Of, class Sides>
  void keep(const Grid<D>& grid, Of&& of, Sides&& sides);
  /// What is kept, [component][direction].
  [[nodiscard]] const std::array<CellVectors<D>, D>& kept() const { return kept_; }

 private:
  void find_known(const Grid<D>& grid, const WallKinds<D>& kinds);
  void find_pieces(const Grid<D>& grid);
  void prepare(const Grid<D>& grid, Piece& piece) const;
  void find_walls(const Grid<D>& grid, const WallElements<D>& elements);

  const OpenSpace<D>& space_;
  const WallVelocity<D>& walls_;
  Sight<D> sight_;
  Field<unsigned char, D> known_;  // 1 where there is fluid; halo filled
  Field<unsigned char, D> told_;
  CellVectors<D> middle_;
  std::vector<Piece> pieces_;
  std::array<CellVectors<D>, D> kept_;
};

template <int D>
template <class Of, class Sides>
void WallGradients<D>::keep(const Grid<D>& grid, Of&& of, Sides&& sides) {
  const auto count = static_cast<std::ptrdiff_t>(pieces_.size());
#pragma omp parallel for schedule(static)
  for (std::ptrdiff_t piece = 0; piece < count; ++piece) {
    const auto number = static_cast<std::size_t>(piece);
    for (std::size_t c = 0; c < D; ++c) {
      const Vec<D> gradient = of(number, c);
      for (const auto& [b, at] : pieces_[number].cells)
        for (std::size_t d = 0; d < D; ++d) kept_[c][d].block(b)[at] = gradient[d];
    }
  }
  for (std::size_t c = 0; c < D; ++c)
    for (std::size_t d = 0; d < D; ++d) {
      HaloRules<D> rules = sides(c);
      rules.turns = (c < 2) != (d < 2);
      fill_halo(grid, kept_[c][d], 1, rules, space_.open_spans());
    }
}

}  // namespace wavy
