// Fills laid over each other: who holds what of a cell in the end.
#pragma once

#include <vector>

#include "run/setup.hpp"

namespace wavy {

/// Fills as they are laid one over the other in the cells of a grid.
template <int D>
class Laying {
 public:
  /// What a phase carries along, and how much of it a fill brings that does not say [kg/m3].
  struct Carried {
    std::size_t phase = 0;
    double start = 0;
  };
  /// `fills`: shapes and phases, later ones over earlier ones, in what is full of the phase `base` of so many;
  /// `tracers`: as many as the fills know. Grid and space must outlive this.
  Laying(const Grid<D>& grid, const OpenSpace<D>& space, std::vector<Fill<D>> fills, std::size_t phases,
         std::size_t base, std::vector<Carried> tracers = {});

  struct Held {
    std::vector<double> shares;    ///< of the open part that each phase fills
    std::vector<double> replaced;  ///< by fill: share of the open part that it took of other phases' earlier fills
    std::vector<double> amounts;   ///< by tracer, over the open volume [kg/m3]
  };
  /// What is held of one cell, by its place in its block and its index in the whole grid. Exact for levels and boxes
  /// in any number, for one more shape of another kind, and where shapes lie within each other; where edges of round
  /// shapes cross in a cell, to a thousandth of it.
  [[nodiscard]] Held in(int block, std::ptrdiff_t at, const Index<D>& cell) const;

 private:
  /// What each fill brings to a cell.
  struct OfFill {
    std::vector<double> shares;          ///< of the cell, by phase
    std::vector<double> concentrations;  ///< by tracer, in its phase
  };
  using Brought = std::vector<OfFill>;
  [[nodiscard]] Held nothing() const;
  [[nodiscard]] Brought brought_to(int block, std::ptrdiff_t at, const Index<D>& cell) const;
  void add_piece(const Brought& brought, const std::vector<double>& covered, double share, Held& held) const;
  void split(const Brought& brought, const Vec<D>& lower, const Vec<D>& upper, double share, int depth,
             Held& held) const;
  void split_at_edges(const Brought& brought, const Vec<D>& lower, const Vec<D>& upper, double share, Held& held) const;

  const Grid<D>& grid_;
  const OpenSpace<D>& space_;
  std::vector<Fill<D>> fills_;
  std::size_t phases_, base_;
  std::vector<Carried> tracers_;
  Brought brought_;  // by fills that are the same everywhere
};

}  // namespace wavy
