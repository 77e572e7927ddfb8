// The interface as stencils see it, where solids cut the cells.
//
// Heights and normals need shares of whole cells. In a cut cell F is the liquid's share of the open part alone, and in
// the solid there is none; the interface's plane is therefore carried on from the open cells through the cut ones into
// the solid: straight on, or, where surface tension acts, at the contact angle. Round an axis of revolution F is a
// share of a ring's volume; stencils see the share of the ring's section.
#pragma once

#include <vector>

#include "mesh/open_space.hpp"
#include "sharp/model.hpp"
#include "sharp/sheets.hpp"

namespace wavy::sharp {

template <int D>
class ExtendedInterface {
 public:
  /// `space` must outlive this.
  ExtendedInterface(const Grid<D>& grid, const OpenSpace<D>& space);

  /// To be called when F has changed: fills `width` layers of its halo (all where a contact angle rules, or solids cut
  /// cells), and what goes on in walls, as far from the open cells. Without solids F itself is what stencils see.
  void update(const Grid<D>& grid, const Settings<D>& settings, State<D>& state, int width);
  /// Beside solids: nothing has moved since the last update with the greatest width.
  [[nodiscard]] bool is_current() const { return is_current_; }
  /// To be called when the interface is about to move.
  void invalidate() { is_current_ = false; }

  /// Share of every whole cell, halo filled as said.
  [[nodiscard]] const Cells<D>& extended_fraction(const State<D>& state) const {
    return space_->is_uncut() ? state.F : extended_fraction_;
  }

  /// The walls thinner than a cell, which end what stencils see of the shares.
  [[nodiscard]] const Sheets<D>& sheets() const { return sheets_; }

  /// The interface and the wall in a mixed cell: of those at walls, and round an axis of revolution of all.
  struct Contact {
    std::ptrdiff_t at = 0;
    Index<D> cell{};  ///< in the whole grid
    Plane<D> plane;   ///< of the interface; the liquid's volume below it and below `open` is that of F
    Plane<D> open;    ///< of the wall; its normal is 0 where the cell is open as a whole
    bool at_wall = true;
  };
  /// Also of the cells across the block's sides; null where there is none of these.
  [[nodiscard]] const Contact* contact(int block, std::ptrdiff_t at) const;

 private:
  void find_contacts(const Grid<D>& grid, const Settings<D>& settings, const State<D>& state, const Cells<D>& clean);
  void show_sections(const Grid<D>& grid);
  void find_next(const Grid<D>& grid);
  void carry_into_walls(const Grid<D>& grid, int width);

  const OpenSpace<D>* space_;
  Sheets<D> sheets_;
  bool is_current_ = false;
  Cells<D> extended_fraction_;
  std::vector<std::vector<Contact>> contacts_;  // per block, by offset
  std::vector<std::vector<Contact>> next_;      // of the neighbours' cells across the sides of each block, by offset
};

}  // namespace wavy::sharp
