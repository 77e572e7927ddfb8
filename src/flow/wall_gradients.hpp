// How velocities change in cells beside walls that cut the grid, where differences along its axes know too little.
#pragma once

#include <cmath>
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
  [[nodiscard]] bool tells(int block, std::ptrdiff_t at) const { return piece_of_.block(block)[at] != 0; }
  /// The number of that piece.
  [[nodiscard]] std::size_t piece_of(int block, std::ptrdiff_t at) const {
    return static_cast<std::size_t>(piece_of_.block(block)[at] - 1);
  }
  /// Of what each cell belongs to, from its own [cells]; halo of one layer, filled.
  [[nodiscard]] const CellVectors<D>& middle() const { return middle_; }
  /// Of all components. Reads u(1), filled.
  [[nodiscard]] std::array<Fit, D> fit(const Piece& piece, const CellVectors<D>& u, bool with_walls) const;

 private:
  void find_known(const Grid<D>& grid, const WallKinds<D>& kinds);
  void find_pieces(const Grid<D>& grid);
  void prepare(const Grid<D>& grid, Piece& piece) const;
  void find_walls(const Grid<D>& grid, const WallElements<D>& elements);

  const OpenSpace<D>& space_;
  const WallVelocity<D>& walls_;
  Sight<D> sight_;
  Field<unsigned char, D> known_;  // 1 where there is fluid; halo filled
  Field<int, D> piece_of_;         // 1 more than its number; 0: none
  CellVectors<D> middle_;
  std::vector<Piece> pieces_;
};

/// The gradients of all pieces, and of their images behind sides of the grid.
template <int D>
class KeptGradients {
 public:
  using Matrix = std::array<Vec<D>, D>;  // [component][direction] [1/s]

  /// `sides(component)`: the rules by which its halo is filled.
  template <class Sides>
  KeptGradients(const Grid<D>& grid, const WallGradients<D>& gradients, Sides&& sides);

  /// Keeps `of(number of a piece)`, a Matrix, for all of them.
  template <class Of>
  void keep(Of&& of);
  /// Where a cell that belongs to a piece finds its own; halo of one layer.
  [[nodiscard]] std::size_t place(int block, std::ptrdiff_t at) const {
    return static_cast<std::size_t>(place_.block(block)[at]);
  }
  [[nodiscard]] const Matrix& operator[](std::size_t place) const { return kept_[place]; }

 private:
  /// Which component of a vector stands for another, with which sign.
  struct Part {
    std::size_t component = 0;
    double sign = 1;
  };
  struct Image {
    std::size_t piece = 0;
    std::array<Part, D> values;
    std::array<Part, D> ways;
  };
  std::size_t pieces_ = 0;
  std::vector<Matrix> kept_;  // of pieces, then of images
  std::vector<Image> images_;
  Field<int, D> place_;
};

template <int D>
template <class Sides>
KeptGradients<D>::KeptGradients(const Grid<D>& grid, const WallGradients<D>& gradients, Sides&& sides)
    : pieces_(gradients.pieces().size()), kept_(pieces_), place_(grid) {
  std::vector<CellPlace> told;
  const CellRange<D> near = with_layers(grid.layout(), 1);
  for (int b = 0; b < grid.blocks(); ++b)
    for_rows<D>(grid.layout(), near.lo, near.hi, [&](std::ptrdiff_t o, int n) {
      for (std::ptrdiff_t at = o; at < o + n; ++at)
        if (gradients.tells(b, at)) told.push_back({b, at});
    });
  // Numbers of components, from 1 on, as their vectors are seen at sides and ends that are turned.
  VectorRules<D> rules;
  CellVectors<D> values;
  CellVectors<D> ways;
  for (std::size_t c = 0; c < D; ++c) {
    rules[c] = sides(c);
    values[c] = ways[c] = Cells<D>(grid, 1.0 + static_cast<double>(c));
  }
  fill_halo(grid, values, 1, rules);
  fill_halo(grid, ways, 1, even_vector<D>());
  const auto part_of = [](double number) {
    return Part{static_cast<std::size_t>(std::abs(number)) - 1, number < 0 ? -1.0 : 1.0};
  };
  std::vector<Image> seen(told.size());
  for (std::size_t k = 0; k < told.size(); ++k)
    for (std::size_t c = 0; c < D; ++c) {
      seen[k].values[c] = part_of(values[c].block(told[k].block)[told[k].at]);
      seen[k].ways[c] = part_of(ways[c].block(told[k].block)[told[k].at]);
    }
  const auto is_itself = [](const std::array<Part, D>& parts) {
    for (std::size_t c = 0; c < D; ++c)
      if (parts[c].component != c || parts[c].sign < 0) return false;
    return true;
  };
  for (std::size_t k = 0; k < told.size(); ++k) {
    const auto& [b, at] = told[k];
    seen[k].piece = gradients.piece_of(b, at);
    const bool itself = is_itself(seen[k].values) && is_itself(seen[k].ways);
    place_.block(b)[at] = static_cast<int>(itself ? seen[k].piece : pieces_ + images_.size());
    if (!itself) images_.push_back(seen[k]);
  }
  kept_.resize(pieces_ + images_.size());
}

template <int D>
template <class Of>
void KeptGradients<D>::keep(Of&& of) {
  const auto count = static_cast<std::ptrdiff_t>(pieces_);
#pragma omp parallel for schedule(static)
  for (std::ptrdiff_t piece = 0; piece < count; ++piece)
    kept_[static_cast<std::size_t>(piece)] = of(static_cast<std::size_t>(piece));
  for (std::size_t k = 0; k < images_.size(); ++k)
    for (std::size_t c = 0; c < D; ++c)
      for (std::size_t d = 0; d < D; ++d) {
        const Part& value = images_[k].values[c];
        const Part& way = images_[k].ways[d];
        kept_[pieces_ + k][c][d] = value.sign * way.sign * kept_[images_[k].piece][value.component][way.component];
      }
}

}  // namespace wavy
